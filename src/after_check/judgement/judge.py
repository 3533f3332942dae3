"""From readings and a promise to tracks, findings and a verdict."""

from __future__ import annotations

from dataclasses import replace

from after_check.domain.case_files import CaseFile
from after_check.domain.findings import PROMISED_QUANTITIES, Finding, Judgement, Severity, Track, TrackStatus, Verdict
from after_check.judgement.case import Case, make_case
from after_check.judgement.ceilings import ceilings_of
from after_check.judgement.expected import expected_rate
from after_check.judgement.rate_reasons import explain_rate
from after_check.judgement.rules import RULES
from after_check.judgement.tracks import tracks_of

_ORDER = {Severity.FIX: 0, Severity.TELL: 1, Severity.NOTE: 2}


_NOT_READ = "the machine was not read after fitting"


def judge(file: CaseFile) -> Judgement:
    """Judge a case file: the reading now against the promise, with all that was tested, measured and tried beside it."""
    case = make_case(file)
    case = replace(case, explanation=explain_rate(case))
    tracks = tracks_of(case)
    ceilings = case.explanation.ceilings if case.explanation is not None else ceilings_of(case.now, case.promise, case.card)
    if file.now is None and file.tried is None:
        return Judgement(Verdict.CANT_TELL, _NOT_READ, tracks, (), ceilings)
    findings = sorted((finding for rule in RULES for finding in rule(case)), key=lambda finding: _ORDER[finding.severity])
    verdict, why = _verdict(case, tracks, findings)
    return Judgement(
        verdict=verdict,
        why=why,
        tracks=tracks,
        findings=tuple(findings),
        ceilings=ceilings,
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
