"""Leaving at once, whatever the store does.

Work with the store runs in threads. A thread that waits for a server that says nothing cannot be stopped, and Python
waits for every thread at its end: the terminal would be dead for as long. Here nobody waits longer than a moment. What
was typed is a draft until the store has answered, so nothing is lost with it.
"""

from __future__ import annotations

import logging
import os
import sys
import threading
import time
from concurrent.futures import ThreadPoolExecutor

LEAVE_SECONDS = 1.5
_MOST_THREADS = 12


class StoreThreads(ThreadPoolExecutor):
    """Threads for work that may hang; `shutdown` waits for them for a moment only."""

    def __init__(self, name: str, most: int = _MOST_THREADS) -> None:
        super().__init__(most, name, initializer=self._note)
        self._noted: list[threading.Thread] = []

    def _note(self) -> None:
        self._noted.append(threading.current_thread())

    def shutdown(self, wait: bool = True, *, cancel_futures: bool = False) -> None:
        """End; what has not begun yet is given up where it is not over in a moment."""
        super().shutdown(wait=False, cancel_futures=cancel_futures)
        until = time.monotonic() + LEAVE_SECONDS
        for thread in self._noted if wait else ():
            thread.join(max(0.0, until - time.monotonic()))


def leave(code: int) -> int:
    """Return the code for the end of the process; where a thread still hangs, end it here."""
    hanging = [thread for thread in threading.enumerate() if thread is not threading.main_thread() and not thread.daemon]
    if any(thread.is_alive() for thread in hanging):
        logging.shutdown()
        sys.stdout.flush()
        sys.stderr.flush()
        os._exit(code)
    return code
