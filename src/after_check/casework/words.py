"""The words and marks for what judgement says, the same on screens, in commands and on paper.

Judgement itself speaks in kinds and codes; a word here may change without anything else noticing.
"""

from __future__ import annotations

from after_check.domain.codes import Severity
from after_check.domain.findings import Ceiling, CeilingKind, ChannelPart, ExpectedRate, Quantity, Track, TrackStatus, Verdict
from after_check.domain.handback import JobOutcome
from after_check.domain.quantities import counted, size_text

VERDICT_MARKS = {Verdict.READY: "✓", Verdict.NOT_READY: "✗", Verdict.CANT_TELL: "?"}
VERDICT_WORDS = {Verdict.READY: "READY", Verdict.NOT_READY: "NOT READY", Verdict.CANT_TELL: "NOT CHECKED YET"}

OUTCOME_MARKS = {
    JobOutcome.READY: "✓",
    JobOutcome.NOT_READY: "✗",
    JobOutcome.CANT_TELL: "?",
    JobOutcome.AS_AGREED: "✓",
    JobOutcome.AS_IT_CAME: "=",
}
OUTCOME_WORDS = {
    JobOutcome.READY: VERDICT_WORDS[Verdict.READY],
    JobOutcome.NOT_READY: VERDICT_WORDS[Verdict.NOT_READY],
    JobOutcome.CANT_TELL: VERDICT_WORDS[Verdict.CANT_TELL],
    JobOutcome.AS_AGREED: "AS AGREED",
    JobOutcome.AS_IT_CAME: "AS IT CAME",
}

STATUS_WORDS = {
    TrackStatus.KEPT: "✓ as promised",
    TrackStatus.SHORT: "✗ too little",
    TrackStatus.OVER: "+ more",
    TrackStatus.UNKNOWN: "? not known",
}
SEVERITY_MARKS = {Severity.FIX: "▲", Severity.TELL: "●", Severity.NOTE: "·"}
SEVERITY_WORDS = {Severity.FIX: "fix", Severity.TELL: "tell", Severity.NOTE: "note"}

QUANTITY_WORDS = {
    Quantity.CAPACITY: "Capacity",
    Quantity.RATE: "Speed",
    Quantity.CHANNELS: "Channels",
    Quantity.PROFILE: "Profile",
    Quantity.PEAK: "Bandwidth",
    Quantity.FIRST_WORD: "Latency",
    Quantity.READ: "Read",
    Quantity.WRITE: "Write",
    Quantity.COPY: "Copy",
    Quantity.LATENCY: "Measured",
}
"""What a technician calls a quantity, short enough for the name of a track."""


def verdict_words(verdict: Verdict) -> str:
    """Return a verdict with its mark: `✗ NOT READY`."""
    return f"{VERDICT_MARKS[verdict]} {VERDICT_WORDS[verdict]}"


def outcome_words(outcome: JobOutcome) -> str:
    """Return how a job stands with its mark: `✓ AS AGREED`."""
    return f"{OUTCOME_MARKS[outcome]} {OUTCOME_WORDS[outcome]}"


def status_words(track: Track) -> str:
    """Return how a value stands against its promise, with its mark: `✗ too little`, `✗ too long`; empty where nothing was promised."""
    if track.status in (TrackStatus.SHORT, TrackStatus.OVER):
        if isinstance(track.now, str) and track.status is TrackStatus.SHORT:
            return "✗ different"
        if track.lower_is_better:
            return "✗ too long" if track.status is TrackStatus.SHORT else "✓ shorter"
    return STATUS_WORDS[track.status] if track.status is not None else ""


def ceiling_words(ceiling: Ceiling) -> str:
    """Return what caps a data rate in a few words."""
    match ceiling.kind:
        case CeilingKind.PROMISE:
            return "promised"
        case CeilingKind.PROFILE:
            return f"modules, profile {ceiling.number}"
        case CeilingKind.PLATFORM:
            return f"machine, {ceiling.per_channel} a channel"
        case CeilingKind.FIRMWARE:
            return "firmware limit"
        case CeilingKind.STANDARD:
            return "modules, standard"
        case CeilingKind.AS_RUNNING:
            return "modules, standard (as it runs)"
        case CeilingKind.SLOWEST:
            return "slowest module"
        case CeilingKind.AS_SOLD:
            return "modules, as sold"


def expected_words(expected: ExpectedRate) -> str:
    """Return a rate or an interval in words: `4,800 MT/s`, `4,800 to 6,400 MT/s`."""
    if expected.low_mts is None:
        return f"{expected.high_mts:,} MT/s at most"
    if expected.low_mts == expected.high_mts:
        return f"{expected.high_mts:,} MT/s"
    return f"{expected.low_mts:,} to {expected.high_mts:,} MT/s"


def expected_range_words(expected_mts: tuple[int | None, int | None], parts: tuple[ChannelPart, ...]) -> tuple[str, ...]:
    """Return what can be expected of a plan, in sentences: its speed, and how it is spread over channels."""
    low, high = expected_mts
    said = []
    if high is not None:
        said.append(f"{high} MT/s" if low in (None, high) else f"{high} MT/s at most, {low} MT/s at the least")
    said += [f"{size_text(part.size_bytes)} on {counted(part.ways, 'channel')}" for part in parts]
    return tuple(said)
