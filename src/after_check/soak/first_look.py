"""The first look at memory: what is taken is written and read at once, while the rest of it is still being taken.

Taking all the memory of a large machine lasts half a minute. A module that is plainly broken shows in the first second
of it. The steps of the plan come after and begin again.
"""

from __future__ import annotations

import threading
from collections.abc import Callable

from after_check.host.pages import PageMap
from after_check.host.slices import Slice
from after_check.soak.backgrounds import OWN_ADDRESS
from after_check.soak.march import parse_march
from after_check.soak.plans import Step, Work
from after_check.soak.work import Signals, SoakStoppedError, Worker

_LONGEST_COMPILING_SECONDS = 60.0
FIRST_LOOK = Step(Work.MARCH, parse_march("{⇕(w0); ⇕(r0)}", "first look"), OWN_ADDRESS)


class FirstLook:
    """Looks at slices as they are taken, from as many threads as take them; each has a worker with a tally of its own."""

    def __init__(self, signals: Signals, clock: Callable[[], float], begun: Callable[[], None]) -> None:
        self.workers: list[Worker] = []
        # Its own loop is compiled first; two threads that compile wait for each other.
        self.may_begin = threading.Event()
        self._signals, self._clock, self._begun = signals, clock, begun
        self._pages = PageMap()
        self._own = threading.local()
        self._wrong: list[int] = []

    def look(self, piece: Slice) -> None:
        """Write and read a slice; where the soak is to stop, it is left as it is."""
        worker = getattr(self._own, "worker", None)
        if worker is None:
            worker = self._own.worker = Worker((), self._signals, self._clock, self._pages, 0)
            self.workers.append(worker)
        self.may_begin.wait(_LONGEST_COMPILING_SECONDS)
        self._begun()
        errors = worker.tally.errors
        try:
            worker.look_first(FIRST_LOOK, piece)
        except SoakStoppedError:
            return
        if worker.tally.errors > errors:
            self._wrong.append(piece.address)

    def wrong_of(self, slices: list[Slice]) -> set[int]:
        """Return the numbers of the slices in which something was wrong."""
        return {number for number, piece in enumerate(slices) if piece.address in self._wrong}

    def close(self) -> None:
        """Let go of what was opened."""
        self._pages.close()
