"""From readings and a promise to tracks, findings and a verdict."""

from __future__ import annotations

from after_check.domain.cards import Card
from after_check.domain.findings import PROMISED_QUANTITIES, Finding, Judgement, Severity, Track, TrackStatus, Verdict
from after_check.domain.promises import Promise
from after_check.domain.readings import Reading
from after_check.domain.tries import Blame
from after_check.judgement.case import Case, make_case
from after_check.judgement.ceilings import ceilings_of
from after_check.judgement.expected import expected_rate
from after_check.judgement.rate_reasons import explain_rate
from after_check.judgement.rules import RULES
from after_check.judgement.tracks import tracks_of

_ORDER = {Severity.FIX: 0, Severity.TELL: 1, Severity.NOTE: 2}


def judge(
    now: Reading, before: Reading | None = None, promise: Promise | None = None, card: Card | None = None, tried: Blame | None = None
) -> Judgement:
    """Judge the reading now against the promise, with the reading on arrival, the model's card and what the tries say beside it."""
    case = make_case(now, before, promise, card, tried)
    tracks = tracks_of(case)
    findings = sorted((finding for rule in RULES for finding in rule(case)), key=lambda finding: _ORDER[finding.severity])
    explanation = explain_rate(case)
    verdict, why = _verdict(case, tracks, findings)
    return Judgement(
        verdict=verdict,
        why=why,
        tracks=tracks,
        findings=tuple(findings),
        ceilings=explanation.ceilings if explanation else ceilings_of(case),
        channel_parts=case.now.channels.parts,
        expected=expected_rate(case.now, case.card),
    )


def _verdict(case: Case, tracks: tuple[Track, ...], findings: list[Finding]) -> tuple[Verdict, str]:
    """Not ready with anything to fix; ready only when every promised quantity is known and kept; else it can't be told."""
    virtual = case.now.reading.virtual
    if virtual is not None and virtual.value:
        return Verdict.CANT_TELL, "a virtual machine says nothing about its modules"
    to_fix = sum(finding.severity is Severity.FIX for finding in findings)
    if to_fix:
        return Verdict.NOT_READY, f"{to_fix} to fix"
    promised = [track for track in tracks if track.quantity in PROMISED_QUANTITIES and track.status is not None]
    if not promised:
        return Verdict.CANT_TELL, "nothing was promised that could be held against the reading"
    open_names = [track.quantity.value for track in promised if track.status not in (TrackStatus.KEPT, TrackStatus.OVER)]
    if open_names:
        return Verdict.CANT_TELL, f"not known: {', '.join(open_names)}"
    return Verdict.READY, "every promised quantity is kept"
