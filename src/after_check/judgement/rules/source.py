"""Rules about the readings themselves: what they could not see, and where they contradict themselves."""

from __future__ import annotations

from collections.abc import Iterator

from after_check.domain.codes import Code, Severity
from after_check.domain.facts import Source
from after_check.domain.findings import Evidence, Finding
from after_check.domain.readings import Notice, NoticeKind, StartOutcome
from after_check.judgement.case import Case
from after_check.judgement.reconcile import contradictions


def virtual(case: Case) -> Iterator[Finding]:
    """source.virtual: the tables are a hypervisor's invention; nothing is judged from them."""
    fact = case.now.reading.virtual
    if fact is None or not fact.value:
        return
    yield Finding(
        code=Code.SOURCE_VIRTUAL,
        severity=Severity.TELL,
        title="This is a virtual machine",
        reason="Its memory tables are made up by the hypervisor, or empty; they say nothing about the modules.",
        next="Take the reading on the machine itself, not inside a virtual one.",
        sure=0.98,
        customer="The reading comes from a virtual machine and says nothing about the real memory.",
        evidence=(Evidence(fact.where or "virtual", fact.source),),
    )


def stickers(case: Case) -> Iterator[Finding]:
    """source.stickers: nothing was said by the started machine, so nothing is proven."""
    if case.seen or not case.now.reading.modules or (case.start is not None and case.start.value is StartOutcome.NO):
        return
    yield Finding(
        code=Code.SOURCE_STICKERS,
        severity=Severity.TELL,
        title="Known from stickers only: the machine itself said nothing yet",
        reason="A sticker says what a module is. What the machine sees of it, and how fast it runs it, only the started machine says.",
        next="Start the machine and take the reading there, or type what its firmware page shows: total, rate, channels.",
        sure=1.0,
        customer="The fitted memory was noted from its stickers; the machine was not read yet.",
        evidence=(Evidence("no total, rate or channels of the machine", Source.WORKED_OUT),),
    )


def rights(case: Case) -> Iterator[Finding]:
    """source.rights: something could not be read without more rights."""
    notices = _notices(case, NoticeKind.RIGHTS)
    if notices:
        yield _from_notices(Code.SOURCE_RIGHTS, "Not everything may be read with the present rights", notices)


def damaged(case: Case) -> Iterator[Finding]:
    """source.damaged: something that was read is broken."""
    notices = _notices(case, NoticeKind.DAMAGED)
    if notices:
        yield _from_notices(Code.SOURCE_DAMAGED, "A part of the reading is damaged", notices)


def _notices(case: Case, kind: NoticeKind) -> list[Notice]:
    return [notice for notice in case.now.reading.notices if notice.kind is kind]


def _from_notices(code: Code, title: str, notices: list[Notice]) -> Finding:
    first = notices[0]
    more = f" And {len(notices) - 1} more." if len(notices) > 1 else ""
    return Finding(
        code=code,
        severity=Severity.NOTE,
        title=title,
        reason=f"{first.what[0].upper()}{first.what[1:]} ({first.where}).{more}",
        next=f"{first.help[0].upper()}{first.help[1:]}." if first.help else "Read again.",
        sure=1.0,
        customer="Some of the machine's own data could not be read.",
        evidence=tuple(Evidence(f"{notice.where}: {notice.what}", Source.SYSTEM) for notice in notices[:8]),
    )


def disagree(case: Case) -> Iterator[Finding]:
    """source.disagree: two values for one thing that cannot both be true."""
    blocks = not_ready_without(case)
    of_sources = [str(contradiction) for contradiction in contradictions(case.now.reading)]
    for contradiction in (case.now.capacity.contradiction, case.now.channels.contradiction, *of_sources):
        if contradiction:
            yield Finding(
                code=Code.SOURCE_DISAGREE,
                severity=Severity.TELL if blocks else Severity.NOTE,
                title=f"{contradiction[0].upper()}{contradiction[1:]}",
                reason="Both cannot be true, so neither is counted on.",
                next="Look again at both places, and type or take the reading again.",
                sure=0.9,
                customer="Two of the machine's own statements contradict each other.",
                evidence=(Evidence(contradiction, Source.WORKED_OUT),),
            )


def not_ready_without(case: Case) -> bool:
    """Return whether a promised amount or channel mode cannot be told because the reading contradicts itself."""
    amount = case.promise.total_bytes is not None and case.now.capacity.now_bytes is None
    mode = case.promise.channels is not None and case.now.channels.count is None
    return (amount and bool(case.now.capacity.contradiction)) or (mode and bool(case.now.channels.contradiction))


def unit(case: Case) -> Iterator[Finding]:
    """source.unit: clock or data rate, subchannels or channels: how an ambiguous figure was taken."""
    doubts = [case.now.rate.doubt if case.now.rate is not None else "", case.now.channels.subchannels, case.now.capacity.doubt]
    for doubt in doubts:
        if doubt:
            yield Finding(
                code=Code.SOURCE_UNIT,
                severity=Severity.NOTE,
                title=doubt[0].upper() + doubt[1:],
                reason="Pages show the clock or the rate, channels or subchannels, GB or GiB, often without saying which.",
                next="Check it against a second place if it matters.",
                sure=0.85,
                customer="One figure was shown in another unit than usual and was converted.",
                evidence=(Evidence(doubt, Source.WORKED_OUT),),
            )
