"""Rules about the readings themselves: what they could not see, and where they contradict themselves."""

from __future__ import annotations

from collections.abc import Iterator

from after_check.domain.codes import Code, Severity
from after_check.domain.facts import Source
from after_check.domain.findings import Finding, finding, shown
from after_check.domain.readings import Notice, NoticeKind, StartOutcome
from after_check.judgement.case import Case
from after_check.judgement.reconcile import contradictions


def virtual(case: Case) -> Iterator[Finding]:
    """source.virtual: the tables are a hypervisor's invention; nothing is judged from them."""
    fact = case.now.reading.virtual
    if fact is None or not fact.value:
        return
    where = shown("virtual", fact.source, where=fact.where or "virtual")
    yield finding(Code.SOURCE_VIRTUAL, 0.98, (where,))


def stickers(case: Case) -> Iterator[Finding]:
    """source.stickers: nothing was said by the started machine, so nothing is proven."""
    if case.seen or not case.now.reading.modules or (case.start is not None and case.start.value is StartOutcome.NO):
        return
    yield finding(Code.SOURCE_STICKERS, 1.0, (shown("stickers", Source.WORKED_OUT),))


def rights(case: Case) -> Iterator[Finding]:
    """source.rights: something could not be read without more rights."""
    notices = _notices(case, NoticeKind.RIGHTS)
    if notices:
        yield _from_notices(Code.SOURCE_RIGHTS, notices)


def damaged(case: Case) -> Iterator[Finding]:
    """source.damaged: something that was read is broken."""
    notices = _notices(case, NoticeKind.DAMAGED)
    if notices:
        yield _from_notices(Code.SOURCE_DAMAGED, notices)


def _notices(case: Case, kind: NoticeKind) -> list[Notice]:
    return [notice for notice in case.now.reading.notices if notice.kind is kind]


def _from_notices(code: Code, notices: list[Notice]) -> Finding:
    first = notices[0]
    evidence = tuple(shown("notice", Source.SYSTEM, where=notice.where, what=notice.what) for notice in notices[:8])
    return finding(code, 1.0, evidence, what=first.what, where=first.where, help=first.help or None, further=len(notices) - 1)


def disagree(case: Case) -> Iterator[Finding]:
    """source.disagree: two values for one thing that cannot both be true."""
    blocks = not_ready_without(case)
    of_sources = [str(contradiction) for contradiction in contradictions(case.now.reading)]
    for contradiction in (case.now.capacity.contradiction, case.now.channels.contradiction, case.now.rate_contradiction, *of_sources):
        if contradiction:
            yield finding(
                Code.SOURCE_DISAGREE,
                0.9,
                (shown("contradiction", Source.WORKED_OUT, contradiction=contradiction),),
                severity=Severity.TELL if blocks else Severity.NOTE,
                contradiction=contradiction,
            )


def not_ready_without(case: Case) -> bool:
    """Return whether a promised amount or channel mode cannot be told because the reading contradicts itself."""
    amount = case.promise.total_bytes is not None and case.now.capacity.now_bytes is None
    mode = case.promise.channels is not None and case.now.channels.count is None
    rate = case.promise.rate_mts is not None and case.now.rate is None
    return (
        (amount and bool(case.now.capacity.contradiction))
        or (mode and bool(case.now.channels.contradiction))
        or (rate and bool(case.now.rate_contradiction))
    )


def unit(case: Case) -> Iterator[Finding]:
    """source.unit: clock or data rate, subchannels or channels: how an ambiguous figure was taken."""
    doubts = [
        case.now.rate.doubt if case.now.rate is not None else case.now.rate_asked,
        case.now.channels.subchannels,
        case.now.capacity.doubt,
    ]
    for doubt in doubts:
        if doubt:
            yield finding(Code.SOURCE_UNIT, 0.85, (shown("doubt", Source.WORKED_OUT, doubt=doubt),), doubt=doubt)
