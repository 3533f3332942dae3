"""How a promised quantity stands, and how a job does: what the bench shows of each."""

from __future__ import annotations

from enum import StrEnum


class Quantity(StrEnum):
    """The quantities that have a track, in the order in which they are shown."""

    CAPACITY = "capacity"
    RATE = "rate"
    CHANNELS = "channels"
    PROFILE = "profile"
    PEAK = "peak"
    FIRST_WORD = "first_word"
    READ = "read"
    WRITE = "write"
    COPY = "copy"
    LATENCY = "latency"


class Verdict(StrEnum):
    """Where a job stands."""

    READY = "ready"
    NOT_READY = "not ready"
    CANT_TELL = "can't tell yet"


class TrackStatus(StrEnum):
    """How a quantity stands against its promise."""

    KEPT = "kept"
    SHORT = "short"
    OVER = "over"
    UNKNOWN = "unknown"


class JobOutcome(StrEnum):
    """How a job stands, and how it goes back."""

    READY = "ready"
    NOT_TESTED = "as promised, not tested"
    PARTLY_TESTED = "as promised, not fully tested"
    NOT_READY = "not ready"
    CANT_TELL = "can't tell yet"
    AS_AGREED = "handed back as agreed"
    AS_IT_CAME = "handed back as it came"

    @property
    def may_go(self) -> bool:
        """Whether the machine may go back like this."""
        return self not in (JobOutcome.NOT_READY, JobOutcome.CANT_TELL)
