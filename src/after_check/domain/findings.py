"""Findings, tracks, ceilings and the verdict: what judgement says."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from after_check.domain.codes import SEVERITIES, Code, Severity
from after_check.domain.facts import Source
from after_check.domain.messages import Message, Value, Values, message
from after_check.domain.standing import Quantity, TrackStatus, Verdict


@dataclass(frozen=True, slots=True)
class Evidence:
    """One thing that a finding rests on, and its source."""

    says: Message
    source: Source


@dataclass(frozen=True, slots=True)
class Cause:
    """The finding that another one follows from, by its code and the slots that it names."""

    code: Code
    slots: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Finding:
    """Something to fix, to tell the customer, or to note: a code and values. Its words are made where it is shown (`texts/`).

    `sure` is from 0 to 1. `more` adds to its reason and to what is to be done. `because_of` is the cause that it follows
    from, and would go away with.
    """

    code: Code
    severity: Severity
    sure: float
    values: Values = ()
    evidence: tuple[Evidence, ...] = ()
    slots: tuple[str, ...] = ()
    more: tuple[Message, ...] = ()
    because_of: Cause | None = None

    def __post_init__(self) -> None:
        if self.severity not in SEVERITIES[self.code]:
            raise ValueError(f"{self.code.value} is never to {self.severity.value}")


def finding(
    code: Code,
    sure: float,
    evidence: tuple[Evidence, ...] = (),
    slots: tuple[str, ...] = (),
    severity: Severity | None = None,
    **values: Value,
) -> Finding:
    """Return a finding with its values by name; its severity where the code has more than one."""
    return Finding(code, SEVERITIES[code][0] if severity is None else severity, sure, tuple(values.items()), evidence, slots)


def shown(key: str, source: Source, **values: Value) -> Evidence:
    """Return a piece of evidence with its values by name; `evidence-` is before the key."""
    return Evidence(message(f"evidence-{key}", **values), source)


MEASURED_QUANTITIES = (Quantity.READ, Quantity.WRITE, Quantity.COPY, Quantity.LATENCY)
"""The quantities that only a benchmark knows; they have a track where they were promised."""

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


class CeilingKind(StrEnum):
    """What caps a data rate."""

    PROMISE = "promise"
    PROFILE = "profile"
    PLATFORM = "platform"
    FIRMWARE = "firmware"
    STANDARD = "standard"
    AS_RUNNING = "as running"
    SLOWEST = "slowest"
    AS_SOLD = "as sold"


@dataclass(frozen=True, slots=True)
class Ceiling:
    """Something that caps the data rate, in MT/s; the binding one explains the rate that runs.

    `number` is that of a profile, which is `in_use` or not; `per_channel` how many modules share a channel where
    the platform's own rate depends on it. `AS_RUNNING` is a standard rate that no module states and that runs.
    """

    kind: CeilingKind
    rate_mts: int
    binding: bool = False
    number: int | None = None
    in_use: bool = False
    per_channel: int | None = None


@dataclass(frozen=True, slots=True)
class Explanation:
    """Why the rate is below what it should be: exactly one reason, and the ceilings with at most one binding.

    `target_mts` is the promised rate, or the best that the modules state where nothing was promised. `more` is what else
    stops at the same rate.
    """

    code: Code
    target_mts: int
    running_mts: int
    promised: bool
    values: Values
    sure: float
    ceilings: tuple[Ceiling, ...]
    evidence: tuple[Evidence, ...] = ()
    slots: tuple[str, ...] = ()
    more: tuple[Message, ...] = ()


@dataclass(frozen=True, slots=True)
class ExpectedRate:
    """The data rate to be expected in MT/s, and what is not known and keeps it open; a `low_mts` of None is not known."""

    low_mts: int | None
    high_mts: int
    open: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class ChannelPart:
    """A stretch of memory that `ways` channels share."""

    ways: int
    size_bytes: int


@dataclass(frozen=True, slots=True)
class Judgement:
    """Everything that judgement says about one machine."""

    verdict: Verdict
    why: Message
    tracks: tuple[Track, ...]
    findings: tuple[Finding, ...]
    ceilings: tuple[Ceiling, ...]
    channel_parts: tuple[ChannelPart, ...] = ()
    expected: ExpectedRate | None = None
    not_known: tuple[str, ...] = ()
    """What was promised beside the quantities that have a track and nobody read: ranks, timings, mirroring."""

    def track(self, quantity: Quantity) -> Track | None:
        """Return the track of a quantity, where it has one."""
        return next((track for track in self.tracks if track.quantity is quantity), None)

    @property
    def roots(self) -> tuple[Finding, ...]:
        """The findings that follow from no other one, worst and most certain first."""
        return tuple(finding for finding in self.findings if finding.because_of is None)

    def cause_of(self, finding: Finding) -> Finding | None:
        """Return the finding that a finding follows from; None for a root."""
        return next((one for one in self.findings if Cause(one.code, one.slots) == finding.because_of), None)

    def following(self, root: Finding) -> tuple[Finding, ...]:
        """Return the findings that follow from a root, directly or through others."""
        found: list[Finding] = []
        causes = {Cause(root.code, root.slots)}
        left = [finding for finding in self.findings if finding.because_of is not None]
        while more := [finding for finding in left if finding.because_of in causes]:
            found += more
            causes = {Cause(finding.code, finding.slots) for finding in more}
            left = [finding for finding in left if finding not in more]
        return tuple(found)

    def count(self, severity: Severity) -> int:
        """Return how many root causes have this severity: three findings with one cause are one thing to fix."""
        return sum(finding.severity is severity for finding in self.roots)
