"""Long work at the command line: it runs in a thread, tells on standard error how it goes, and ctrl+c stops it well.

SIGUSR1 pauses work that can be paused, SIGUSR2 lets it go on: so it is told from afar.
"""

from __future__ import annotations

import signal
import sys
import threading
from collections.abc import Callable
from types import FrameType
from typing import Any, Protocol

_SECONDS_ON_SCREEN = 0.5
_SECONDS_IN_A_LOG = 10.0


class Stoppable(Protocol):
    """Work that can be run to its end, and told from another thread to stop early."""

    def run(self) -> Any:
        """Do the work."""
        ...

    def stop(self) -> None:
        """End it soon, and keep what is done."""
        ...


def _asking(ask: Callable[[], object]) -> Callable[[int, FrameType | None], None]:
    def asked(number: int, frame: FrameType | None) -> None:
        ask()

    return asked


def run_to_the_end(work: Stoppable, progress: Callable[[], str]) -> None:
    """Run work to its end or until it is stopped; raises whatever it raised."""
    failures: list[BaseException] = []

    def interrupt(number: int, frame: FrameType | None) -> None:
        work.stop()

    def run() -> None:
        try:
            work.run()
        except BaseException as failure:
            failures.append(failure)

    before = {number: signal.signal(number, interrupt) for number in (signal.SIGINT, signal.SIGTERM)}
    for name, ask in (("SIGUSR1", getattr(work, "pause", None)), ("SIGUSR2", getattr(work, "go_on", None))):
        number = getattr(signal, name, None)
        if number is not None and ask is not None:
            before[number] = signal.signal(number, _asking(ask))
    runner = threading.Thread(target=run, name="long work")
    runner.start()
    on_screen = sys.stderr.isatty()
    while runner.is_alive():
        runner.join(_SECONDS_ON_SCREEN if on_screen else _SECONDS_IN_A_LOG)
        words = progress()
        if runner.is_alive() and words:
            print(words, end="\r" if on_screen else "\n", file=sys.stderr, flush=True)
    if on_screen:
        print(file=sys.stderr)
    for number, handler in before.items():
        signal.signal(number, handler)
    if failures:
        raise failures[0]
