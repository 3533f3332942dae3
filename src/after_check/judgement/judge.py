"""From readings and a promise to tracks, findings and a verdict."""

from __future__ import annotations

from dataclasses import replace

from after_check.domain.case_files import CaseFile
from after_check.domain.codes import Severity
from after_check.domain.facts import value_of
from after_check.domain.findings import PROMISED_QUANTITIES, Judgement
from after_check.domain.messages import Message, message
from after_check.domain.readings import Reading
from after_check.domain.standing import Quantity, TrackStatus, Verdict
from after_check.judgement.case import Case, make_case
from after_check.judgement.causes import arranged
from after_check.judgement.ceilings import ceilings_of
from after_check.judgement.expected import expected_rate
from after_check.judgement.rate_reasons import explain_rate
from after_check.judgement.rules import RULES
from after_check.judgement.rules.promised import not_known, promised_beside
from after_check.judgement.rules.regressions import two_machines
from after_check.judgement.rules.source import virtual
from after_check.judgement.rules.tests import soak_wanting
from after_check.judgement.tracks import tracks_of

_HOW = {
    **dict.fromkeys(("capacity", "rate", "channels", "profile", "timings", "error correction", "kept back"), "page"),
    **dict.fromkeys(("read", "write", "copy", "latency"), "benchmark"),
    **dict.fromkeys(("generation", "form", "ranks", "device width", "maker", "part", "serial"), "sticker"),
}
"""Where what is not known is usually to be seen, by its name."""
_NOT_READ, _VIRTUAL = message("why-not-read"), message("why-virtual")


def judge(file: CaseFile) -> Judgement:
    """Judge a case file: the reading now against the promise, with all that was tested, measured and tried beside it."""
    if file.now is not None and value_of(file.now.virtual):
        return _of_a_virtual_machine(file, file.now)
    case = make_case(file)
    case = replace(case, explanation=explain_rate(case))
    tracks = tracks_of(case)
    ceilings = case.explanation.ceilings if case.explanation is not None else ceilings_of(case.now, case.promise, case.card)
    if file.now is None and file.tried is None:
        return Judgement(Verdict.CANT_TELL, _NOT_READ, tracks, (), ceilings)
    findings = arranged(finding for rule in RULES for finding in rule(case))
    rate = next((track for track in tracks if track.quantity is Quantity.RATE), None)
    kept = rate is not None and rate.status in (TrackStatus.KEPT, TrackStatus.OVER)
    judgement = Judgement(
        verdict=Verdict.CANT_TELL,
        why=_NOT_READ,
        tracks=tracks,
        findings=findings,
        ceilings=ceilings,
        channel_parts=case.now.channels.parts,
        expected=None if kept else expected_rate(case.now, case.card),
        not_known=_not_known_beside(case),
    )
    verdict, why = _verdict(case, judgement)
    return replace(judgement, verdict=verdict, why=why)


def _of_a_virtual_machine(file: CaseFile, now: Reading) -> Judgement:
    """Its tables are made up: nothing is held against them, and one finding says so."""
    case = make_case(replace(file, now=Reading(virtual=now.virtual, origin=now.origin)))
    return Judgement(Verdict.CANT_TELL, _VIRTUAL, tracks_of(case), tuple(virtual(case)), ())


def _verdict(case: Case, judgement: Judgement) -> tuple[Verdict, Message]:
    """Not ready with anything to fix; ready only when every promised quantity is proven and kept; else it can't be told."""
    to_fix = [root for root in judgement.roots if root.severity is Severity.FIX]
    if to_fix:
        follow = sum(len(judgement.following(root)) for root in to_fix)
        return Verdict.NOT_READY, message("why-to-fix", fix=len(to_fix), follow=follow)
    if case.damaged:
        return Verdict.CANT_TELL, message("why-damaged", parts="; ".join(case.damaged))
    if not case.seen:
        return Verdict.CANT_TELL, message("why-said-nothing")
    if two_machines(case) is not None:
        return Verdict.CANT_TELL, message("why-two-machines")
    promised = [track for track in judgement.tracks if track.quantity in PROMISED_QUANTITIES and track.status is not None]
    if not promised and not _promised_settings(case):
        return Verdict.CANT_TELL, message("why-no-promise")
    open_names = [track.quantity.value for track in promised if track.status not in (TrackStatus.KEPT, TrackStatus.OVER)]
    open_names += [*judgement.not_known, *(name for name, is_kept in _promised_settings(case) if not is_kept)]
    open_names = list(dict.fromkeys(open_names))  # Timings may be promised of the modules and of what runs.
    if open_names:
        where = {_HOW.get(name) for name in open_names}
        return Verdict.CANT_TELL, message("why-not-known", names=", ".join(open_names), how=where.pop() if len(where) == 1 else None)
    wanting = soak_wanting(case)
    if wanting is not None:
        return Verdict.CANT_TELL, Message("why-test-wanting", wanting.values)
    return Verdict.READY, message("why-kept")


def _not_known_beside(case: Case) -> tuple[str, ...]:
    """Return what was promised, has no track, and is not known; what is known to be otherwise has a finding."""
    unread = [row.words for row, _, now in promised_beside(case) if now is None]
    wanted, runs = case.promise.timings, case.now.timings
    unread += ["timings"] if wanted is not None and case.promise.timings_run and (runs is None or not runs.tells(wanted)) else []
    of_modules = [name for name in not_known(case) if name not in case.settled]
    return tuple(dict.fromkeys([*of_modules, *unread]))


def _promised_settings(case: Case) -> list[tuple[str, bool]]:
    """Return what was promised beside the quantities that have a track, and whether it is known to be so."""
    found = [(row.words, now == wanted) for row, wanted, now in promised_beside(case)]
    wanted, runs = case.promise.timings, case.now.timings
    if wanted is not None and case.promise.timings_run:
        # Each figure for itself: CL alone says nothing of the other three.
        found.append(("timings", runs is not None and runs.tells(wanted) and not runs.longer_than(wanted)))
    return found
