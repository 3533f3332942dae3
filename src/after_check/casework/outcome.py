"""How a job goes back: the verdict of its judgement, or as it was agreed with the customer, or as it came."""

from __future__ import annotations

from after_check.domain.codes import Severity
from after_check.domain.findings import PROMISED_QUANTITIES, Finding, Judgement
from after_check.domain.handback import HandBack
from after_check.domain.standing import JobOutcome, Quantity, TrackStatus, Verdict

_OF_VERDICT = {Verdict.READY: JobOutcome.READY, Verdict.NOT_READY: JobOutcome.NOT_READY, Verdict.CANT_TELL: JobOutcome.CANT_TELL}


def unknown_code(quantity: Quantity) -> str:
    """Return under which code it is agreed that a promised quantity is not known."""
    return f"unknown {quantity.value}"


def open_unknown(judgement: Judgement, added: HandBack) -> tuple[Quantity, ...]:
    """Return the promised quantities that are not known, and of which nobody agreed that they need not be."""
    unknown = (track.quantity for track in judgement.tracks if track.status is TrackStatus.UNKNOWN)
    return tuple(name for name in unknown if name in PROMISED_QUANTITIES and added.accepted(unknown_code(name)) is None)


def open_fixes(judgement: Judgement, added: HandBack) -> tuple[Finding, ...]:
    """Return the causes to fix that nobody accepted; what follows from one goes with it."""
    return tuple(root for root in judgement.roots if root.severity is Severity.FIX and added.accepted(root.code) is None)


def outcome_of(judgement: Judgement, added: HandBack) -> JobOutcome:
    """Return how a job goes back. It is as agreed only where all that stands against it was agreed to, and something was."""
    if added.as_it_came:
        return JobOutcome.AS_IT_CAME
    was_agreed = any(override.code != "promise" for override in added.overrides)
    if judgement.verdict is Verdict.READY or not was_agreed:
        return _OF_VERDICT[judgement.verdict]
    nothing_known = judgement.verdict is Verdict.CANT_TELL and not any(track.status is TrackStatus.UNKNOWN for track in judgement.tracks)
    if open_fixes(judgement, added) or open_unknown(judgement, added) or nothing_known:
        return _OF_VERDICT[judgement.verdict]
    return JobOutcome.AS_AGREED
