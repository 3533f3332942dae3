"""What is being read of a batch just now: who reads, since when, how long it may still take, and how to stop it."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable

from textual.message import Message

from after_check.domain.cards import Card
from after_check.sources.many import AccessOf
from after_check.tui.work.batch import Reader
from after_check.tui.worker_messages import MachineJudged


class InHand:
    """The readers of the batch that is shown. One for all machines, and others for those that are let in meanwhile."""

    def __init__(self) -> None:
        self._stop = threading.Event()
        self._readers: set[Reader] = set()
        self._begun = 0.0
        self._left_seconds: float | None = None

    @property
    def is_on(self) -> bool:
        """Whether anything is being read."""
        return bool(self._readers)

    @property
    def left_seconds(self) -> float | None:
        """How long it may still take, from how long it took so far."""
        return self._left_seconds if self._readers else None

    def begin(self, promise: str, access_of: AccessOf, cards: Callable[[], tuple[Card, ...]], post: Callable[[Message], object]) -> Reader:
        """Return a reader to begin with."""
        if self._stop.is_set():
            self._stop = threading.Event()
        reader = Reader(promise, access_of, cards, self._stop, post)
        self._readers.add(reader)
        self._begun = time.monotonic()
        self._left_seconds = None
        return reader

    def moved(self, message: MachineJudged) -> None:
        """Take note of a machine that was read."""
        spent = time.monotonic() - self._begun
        self._left_seconds = spent / max(1, message.done) * (message.whole - message.done)

    def ended(self, reader: object) -> None:
        """Take note of a reader that is through."""
        self._readers = {other for other in self._readers if other is not reader}

    def stop(self) -> None:
        """Stop all; what comes later is not listened to."""
        self._stop.set()
        self._readers.clear()
