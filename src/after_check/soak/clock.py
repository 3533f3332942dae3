"""How long a soak has tested: time in which words were checked, and no time in which its program stood still."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable

_LONGEST_GAP_SECONDS = 2.0
"""Whoever looks after a soak looks several times a second; a longer gap is counted as far as the processor worked in it."""


class SoakClock:
    """Seconds of testing. Begins with the first word that is checked; a pause does not count, nor does a stopped process."""

    def __init__(
        self,
        before_seconds: float = 0.0,
        wall: Callable[[], float] = time.monotonic,
        work: Callable[[], float] = time.process_time,
    ) -> None:
        self._wall, self._work = wall, work
        self._seconds = before_seconds
        self._before_seconds = before_seconds
        self._last: float | None = None
        self._last_work = 0.0
        self._lock = threading.Lock()

    def begin(self) -> None:
        """A word is checked now; the first one counts."""
        with self._lock:
            if self._last is None:
                self._last, self._last_work = self._wall(), self._work()

    def look(self, paused: bool = False) -> float:
        """Return the seconds until now, those of an interrupted run before included."""
        with self._lock:
            if self._last is None:
                return self._seconds
            now, work = self._wall(), self._work()
            if not paused:
                self._seconds += min(now - self._last, _LONGEST_GAP_SECONDS + work - self._last_work)
            self._last, self._last_work = now, work
            return self._seconds

    @property
    def of_this_run(self) -> float:
        """Seconds of this run alone, as they were last looked at."""
        return self._seconds - self._before_seconds
