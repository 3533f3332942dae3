"""The soak that runs in this program, if any: it outlives the screen that started it."""

from __future__ import annotations

import threading
from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Protocol

from after_check.domain.soak import SoakRecord

if TYPE_CHECKING:
    from after_check.shop.shop import Shop

_TELL_SECONDS = 0.5


class RunningSoak(Protocol):
    """A soak on this computer or elsewhere."""

    @property
    def record(self) -> SoakRecord:
        """The soak at this moment."""

    def run(self) -> SoakRecord:
        """Run it to its end."""

    def pause(self) -> None:
        """Pause it."""

    def go_on(self) -> None:
        """Go on."""

    def stop(self) -> None:
        """Stop it."""


@dataclass
class Keeper:
    """Writes a soak's record into the shop, always in the same place."""

    shop: Shop
    job: str
    soak_id: int | None = None

    def __call__(self, record: SoakRecord) -> None:
        """Write it. Raises ShopError, which the soak notes and survives. The result of one that is over is tried again."""
        if record.state.is_over:
            from after_check.shop.unsaved_results import keep_at_last

            self.soak_id = keep_at_last(self.shop, self.job, record, self.soak_id)
            return
        self.soak_id = self.shop.jobs.keep_soak(self.job, record, self.soak_id)


class SoakRunner:
    """Runs one soak in a thread, and tells what becomes of it every half second."""

    def __init__(self, job: str, soak: RunningSoak, tell: Callable[[str, SoakRecord], None]) -> None:
        self.job = job
        self.soak = soak
        self._tell = tell
        self._thread = threading.Thread(target=soak.run, name="soak", daemon=True)
        self._teller = threading.Thread(target=self._tell_on, name="soak teller", daemon=True)

    def start(self) -> None:
        """Start the threads."""
        self._thread.start()
        self._teller.start()

    @property
    def is_running(self) -> bool:
        """Whether it still goes on."""
        return self._thread.is_alive()

    def stop_and_wait(self, seconds: float = 10.0) -> None:
        """Stop it and wait until it is kept."""
        self.soak.stop()
        self._thread.join(seconds)

    def _tell_on(self) -> None:
        while self._thread.is_alive():
            self._thread.join(_TELL_SECONDS)
            self._tell(self.job, self.soak.record)
