"""What all views of long work have in common: a memory test, a benchmark, memory in use, a reading."""

from __future__ import annotations

from typing import ClassVar


class LongWork:
    """Mixed into a screen with work that takes a while: it can be stopped, and what may be started waits until it is over.

    What ends or keeps going by itself is the screen's: it says whether something runs, and how to stop it and to leave.
    """

    WHILE_IDLE: ClassVar[frozenset[str]] = frozenset()
    """The actions that are offered while nothing runs."""
    WHILE_RUNNING: ClassVar[frozenset[str]] = frozenset({"stop"})
    """The actions that are offered while something does."""
    STOPS_FIRST: ClassVar[bool] = True
    """Whether a step back while it runs stops the work and stays; else the view is left, and `leave` sees to the work."""

    @property
    def is_under_way(self) -> bool:
        """Whether the work of this view is under way."""
        raise NotImplementedError

    def stop_work(self) -> None:
        """Stop it soon, and say what becomes of what it has."""
        raise NotImplementedError

    def leave(self) -> None:
        """Go back to where the view was opened."""
        raise NotImplementedError

    def check_action(self, action: str, parameters: tuple[object, ...]) -> bool | None:
        """Offer what makes sense now."""
        if action in self.WHILE_RUNNING:
            return self.is_under_way
        return not self.is_under_way if action in self.WHILE_IDLE else True

    def action_stop(self) -> None:
        """Stop what runs."""
        if self.is_under_way:
            self.stop_work()

    def action_back(self) -> None:
        """Go back, or stop the work first."""
        if self.is_under_way and self.STOPS_FIRST:
            self.stop_work()
        else:
            self.leave()
