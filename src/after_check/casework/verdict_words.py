"""The words and marks for what judgement says, the same on screens, in commands and on paper.

Judgement itself speaks in kinds and codes; a word here may change without anything else noticing.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from after_check.domain.codes import Severity
from after_check.domain.standing import JobOutcome, Quantity, TrackStatus, Verdict

if TYPE_CHECKING:
    from after_check.domain.findings import Track

VERDICT_MARKS = {Verdict.READY: "✓", Verdict.NOT_READY: "✗", Verdict.CANT_TELL: "?"}
VERDICT_WORDS = {Verdict.READY: "READY", Verdict.NOT_READY: "NOT READY", Verdict.CANT_TELL: "NOT CHECKED YET"}

OUTCOME_MARKS = {
    JobOutcome.READY: "✓",
    JobOutcome.NOT_TESTED: "?",
    JobOutcome.PARTLY_TESTED: "?",
    JobOutcome.NOT_READY: "✗",
    JobOutcome.CANT_TELL: "?",
    JobOutcome.AS_AGREED: "≈",
    JobOutcome.AS_IT_CAME: "=",
}
OUTCOME_WORDS = {
    JobOutcome.READY: VERDICT_WORDS[Verdict.READY],
    JobOutcome.NOT_TESTED: "AS PROMISED, NOT TESTED",
    JobOutcome.PARTLY_TESTED: "AS PROMISED, NOT FULLY TESTED",
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
SEVERITY_MARKS = {Severity.FIX: "▲", Severity.TELL: "■", Severity.NOTE: "·"}
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


def outcome_words(outcome: JobOutcome) -> str:
    """Return how a job stands with its mark: `≈ AS AGREED`."""
    return f"{OUTCOME_MARKS[outcome]} {OUTCOME_WORDS[outcome]}"


def status_words(track: Track) -> str:
    """Return how a value stands against its promise, with its mark: `✗ too little`, `✗ too long`; empty where nothing was promised."""
    if track.status in (TrackStatus.SHORT, TrackStatus.OVER):
        if isinstance(track.now, str) and track.status is TrackStatus.SHORT:
            return "✗ different"
        if track.lower_is_better:
            return "✗ too long" if track.status is TrackStatus.SHORT else "✓ shorter"
    return STATUS_WORDS[track.status] if track.status is not None else ""
