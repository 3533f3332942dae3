"""Findings, tracks, ceilings and the verdict: what judgement says."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from after_check.domain.facts import Source


class Severity(StrEnum):
    """What a finding asks for: fix blocks the hand-back, tell is for the customer, note is for the record."""

    FIX = "fix"
    TELL = "tell"
    NOTE = "note"


@dataclass(frozen=True, slots=True)
class Evidence:
    """One thing that a finding rests on, and its source."""

    text: str
    source: Source


@dataclass(frozen=True, slots=True)
class Finding:
    """Something to fix, to tell the customer, or to note.

    `sure` is from 0 to 1. `customer` is the sentence that the customer's sheet carries; it uses no jargon.
    """

    code: str
    severity: Severity
    title: str
    reason: str
    next: str
    sure: float
    customer: str
    evidence: tuple[Evidence, ...] = ()
    slots: tuple[str, ...] = ()


class TrackStatus(StrEnum):
    """How a quantity stands against its promise."""

    KEPT = "kept"
    SHORT = "short"
    OVER = "over"
    UNKNOWN = "unknown"


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

    @property
    def words(self) -> str:
        """The quantity as a technician calls it."""
        return _QUANTITY_WORDS[self]


_QUANTITY_WORDS = {
    Quantity.CAPACITY: "Capacity",
    Quantity.RATE: "Data rate",
    Quantity.CHANNELS: "Channels",
    Quantity.PROFILE: "Profile",
    Quantity.PEAK: "Peak flow",
    Quantity.FIRST_WORD: "First word",
    Quantity.READ: "Read flow",
    Quantity.WRITE: "Write flow",
    Quantity.COPY: "Copy flow",
    Quantity.LATENCY: "Latency",
}


MEASURED_QUANTITIES = (Quantity.READ, Quantity.WRITE, Quantity.COPY, Quantity.LATENCY)
"""The quantities that only a gauge knows; they have a track where they were promised."""

PROMISED_QUANTITIES = (Quantity.CAPACITY, Quantity.RATE, Quantity.CHANNELS, Quantity.PROFILE, *MEASURED_QUANTITIES)
"""The quantities that a promise states; peak and first word follow from them."""


@dataclass(frozen=True, slots=True)
class Track:
    """One quantity on arrival, as promised and now; `status` is None where nothing was promised.

    Numbers are in `unit`; the profile is a word. `basis` says where the value of now comes from.
    """

    quantity: Quantity
    before: float | str | None
    promised: float | str | None
    now: float | str | None
    unit: str
    status: TrackStatus | None
    basis: str = ""
    lower_is_better: bool = False


@dataclass(frozen=True, slots=True)
class Ceiling:
    """Something that caps the data rate, in MT/s; the binding one explains the rate that runs."""

    name: str
    rate_mts: int
    binding: bool = False


@dataclass(frozen=True, slots=True)
class ExpectedRate:
    """The data rate to be expected in MT/s, and what is not known and keeps it open; a `low_mts` of None is not known."""

    low_mts: int | None
    high_mts: int
    open: tuple[str, ...] = ()

    @property
    def words(self) -> str:
        """The rate or the interval in words: `4800 MT/s`, `4800 to 6400 MT/s`."""
        if self.low_mts is None:
            return f"{self.high_mts} MT/s at most"
        return f"{self.high_mts} MT/s" if self.low_mts == self.high_mts else f"{self.low_mts} to {self.high_mts} MT/s"


class Verdict(StrEnum):
    """Where a job stands."""

    READY = "ready"
    NOT_READY = "not ready"
    CANT_TELL = "can't tell yet"


@dataclass(frozen=True, slots=True)
class ChannelPart:
    """A stretch of memory that `ways` channels share."""

    ways: int
    size_bytes: int


@dataclass(frozen=True, slots=True)
class Judgement:
    """Everything that judgement says about one machine."""

    verdict: Verdict
    why: str
    tracks: tuple[Track, ...]
    findings: tuple[Finding, ...]
    ceilings: tuple[Ceiling, ...]
    channel_parts: tuple[ChannelPart, ...] = ()
    expected: ExpectedRate | None = None

    def track(self, quantity: Quantity) -> Track | None:
        """Return the track of a quantity, where it has one."""
        return next((track for track in self.tracks if track.quantity is quantity), None)

    def count(self, severity: Severity) -> int:
        """Return how many findings have this severity."""
        return sum(finding.severity is severity for finding in self.findings)
