"""How a job goes back: the verdict of its judgement, or as it was agreed with the customer, or as it came."""

from __future__ import annotations

from after_check.casework.verdict_words import QUANTITY_WORDS
from after_check.domain.codes import Code, Severity
from after_check.domain.findings import PROMISED_QUANTITIES, Finding, Judgement
from after_check.domain.handback import HandBack
from after_check.domain.promises import Promise
from after_check.domain.standing import JobOutcome, TrackStatus, Verdict

ON_STICKERS = frozenset(("ranks", "device width", "maker", "part", "serial", "form", "timings"))
"""What of modules stands on their stickers, and is often shown by no machine."""
_OF_VERDICT = {Verdict.READY: JobOutcome.READY, Verdict.NOT_READY: JobOutcome.NOT_READY, Verdict.CANT_TELL: JobOutcome.CANT_TELL}


_UNTESTED: dict[Code, JobOutcome] = {Code.SOAK_NONE: JobOutcome.NOT_TESTED, Code.SOAK_PARTIAL: JobOutcome.PARTLY_TESTED}


def untested_code(judgement: Judgement) -> Code | None:
    """Return which finding says that no memory test is on record, or none of all the memory.

    Whole passes of a test that does not say how much it covered are taken at the technician's word; the finding tells it.
    """
    for finding in judgement.findings:
        values = dict(finding.values)
        by_word = values.get("percent") is None and values.get("passes")
        if finding.code in _UNTESTED and not by_word:
            return finding.code
    return None


def unknown_code(name: str) -> str:
    """Return under which code it is agreed that something promised is not known: a quantity, or what has no track."""
    return f"unknown {name}"


def all_unknown(judgement: Judgement) -> tuple[str, ...]:
    """Return what was promised and is not known: quantities by their value, then what has no track."""
    unknown = [track.quantity for track in judgement.tracks if track.status is TrackStatus.UNKNOWN]
    return (*(quantity.value for quantity in unknown if quantity in PROMISED_QUANTITIES), *judgement.not_known)


def unknown_words(name: str) -> str:
    """Return what a technician calls something that is not known."""
    return next((words.lower() for quantity, words in QUANTITY_WORDS.items() if quantity.value == name), name)


def open_unknown(judgement: Judgement, added: HandBack) -> tuple[str, ...]:
    """Return what was promised and is not known, and of which nobody agreed that it need not be."""
    return tuple(name for name in all_unknown(judgement) if added.accepted(unknown_code(name)) is None)


def to_settle(judgement: Judgement, added: HandBack, promise: Promise | None) -> tuple[str, ...]:
    """Return what no machine shows and a look at the modules' stickers settles, once nothing else is open."""
    names = open_unknown(judgement, added)
    may = ON_STICKERS - ({"timings"} if promise is not None and promise.timings_run else set())
    return names if names and set(names) <= may else ()


def open_fixes(judgement: Judgement, added: HandBack) -> tuple[Finding, ...]:
    """Return the causes to fix that nobody accepted; what follows from one goes with it."""
    return tuple(root for root in judgement.roots if root.severity is Severity.FIX and added.accepted(root.code) is None)


def outcome_of(judgement: Judgement, added: HandBack) -> JobOutcome:
    """Return how a job goes back. It is as agreed only where all that stands against it was agreed to, and something was.

    A promise that is kept is no proof that the memory can be trusted: without a full memory test it is not called ready.
    """
    if added.as_it_came:
        return JobOutcome.AS_IT_CAME
    if judgement.verdict is Verdict.READY and (untested := untested_code(judgement)) is not None:
        return JobOutcome.AS_AGREED if added.accepted(untested) else _UNTESTED[untested]
    if judgement.verdict is Verdict.READY or not added.agreements:
        return _OF_VERDICT[judgement.verdict]
    nothing_known = judgement.verdict is Verdict.CANT_TELL and not all_unknown(judgement)
    if open_fixes(judgement, added) or open_unknown(judgement, added) or nothing_known:
        return _OF_VERDICT[judgement.verdict]
    return JobOutcome.AS_AGREED
