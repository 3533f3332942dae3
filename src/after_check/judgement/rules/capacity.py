"""Rules about the amount of memory."""

from __future__ import annotations

from collections.abc import Iterator

from after_check.domain.codes import Code, Severity
from after_check.domain.facts import Source, value_of
from after_check.domain.findings import Evidence, Finding
from after_check.domain.quantities import GIB, size_notation, size_text
from after_check.domain.readings import Redundancy
from after_check.domain.standing import TrackStatus
from after_check.judgement.capacity import limit_just_above
from after_check.judgement.case import Case, ReadingView
from after_check.judgement.tracks import capacity_status

_HELD_BACK = {
    Redundancy.MIRRORED: "every byte is kept twice (mirrored), so half of what is fitted can be used",
    Redundancy.SPARE: "ranks are kept in reserve for the case that others fail",
}


def short(case: Case) -> Iterator[Finding]:
    """capacity.short: less than promised, than fitted, or than on arrival."""
    capacity = case.now.capacity
    promised, now = case.promise.total_bytes, capacity.now_bytes
    if capacity.capped_by_system:
        return  # capacity.system_limit names the reason.
    if promised is not None and now is not None and capacity_status(case) is TrackStatus.SHORT:
        yield _finding(case, now, promised, "promised")
    elif case.now.reading.redundancy and (capacity.gap_is_large or capacity.uncounted_bytes):
        return  # capacity.redundant names the reason.
    elif capacity.gap_is_large and capacity.usable_bytes is not None and capacity.total_bytes is not None:
        yield _finding(case, capacity.usable_bytes, capacity.total_bytes, "fitted")
    elif capacity.uncounted_bytes and capacity.fitted_bytes is not None and now is not None and not case.now.reading.redundancy:
        yield _finding(case, now, capacity.fitted_bytes, "fitted")
    elif promised is None and case.before is not None and case.before.capacity.now_bytes and now is not None:
        before = case.before.capacity.now_bytes
        if now < before and before - now >= GIB / 2:
            yield _finding(case, now, before, "there on arrival")


def _finding(case: Case, now: int, wanted: int, wanted_word: str) -> Finding:
    capacity = case.now.capacity
    evidence = [Evidence(f"now {size_text(now)}", capacity.source or Source.WORKED_OUT)]
    evidence.append(Evidence(f"{wanted_word} {size_text(wanted)}", Source.TYPED if wanted_word == "promised" else Source.WORKED_OUT))
    redundancy = value_of(case.now.reading.redundancy)
    limit = limit_just_above(capacity.usable_bytes) if capacity.usable_bytes is not None else None
    if redundancy is not None:
        reason = f"A setting of the firmware keeps memory back: {_HELD_BACK[redundancy]}."
        step = "Ask whether the customer wants it so; else turn the setting off, save, start, and read again."
    elif capacity.gap_is_large and _looks_like_32_bits(case):
        reason = (
            f"The system uses {size_text(capacity.usable_bytes or 0)} of {size_text(capacity.total_bytes or 0)}: "
            "that is what a 32-bit system reaches, however much is fitted. Whether it is one was not read."
        )
        step = "See whether the system is a 32-bit one and type bits 32 or bits 64; if it is not, reseat the modules and read again."
    elif capacity.gap_is_large and limit and capacity.total_bytes is not None and capacity.usable_bytes is not None:
        reason = (
            f"{_counted_by(case)} {size_text(capacity.total_bytes)} and the system uses just under {size_text(limit)}, "
            "as under a limit of the system's edition or of its start options."
        )
        step = f"Look up what this edition of the system may use, and its start options; type limit {size_notation(limit)} if that is it."
    elif capacity.gap_is_large and capacity.usable_bytes is not None and capacity.total_bytes is not None:
        reason = (
            f"{_counted_by(case)} {size_text(capacity.total_bytes)} and the system can use {size_text(capacity.usable_bytes)}: "
            "the difference is as much as half a module, more than graphics or the firmware keep for themselves."
        )
        step = "Look for a memory limit in the system's start options and the firmware setup, then reseat the modules and read again."
    elif capacity.uncounted_bytes:
        fitted, uncounted = size_text(now + capacity.uncounted_bytes), size_text(capacity.uncounted_bytes)
        reason = f"The listed modules add up to {fitted}; {uncounted} of it are not counted."
        step = "Reseat the modules, start, and read again; then try each one alone."
    else:
        reason = f"{size_text(wanted - now)} of {size_text(wanted)} are not seen."
        step = "Reseat the modules, look at the slots that show empty or too little, and read again."
    return Finding(
        code=Code.CAPACITY_SHORT,
        severity=Severity.FIX,
        title=f"{size_text(now)} of {size_text(wanted)} {wanted_word}",
        reason=reason,
        next=step,
        sure=0.6 if capacity.gap_is_large and _looks_like_32_bits(case) else 0.95 if capacity.total_bytes is not None else 0.8,
        customer=f"The machine shows {size_text(now)} of memory; {size_text(wanted)} "
        + ("was promised." if wanted_word == "promised" else "should be there."),
        evidence=tuple(evidence),
    )


def _counted_by(case: Case) -> str:
    """Return who says how much there is in all: where nobody read the firmware, the modules are what is added up."""
    return "The firmware counts" if case.now.reading.total_bytes is not None else "The modules add up to"


def _looks_like_32_bits(case: Case) -> bool:
    capacity, usable = case.now.capacity, case.now.capacity.usable_bytes
    whole = (capacity.total_bytes or 0) >= 4 * GIB
    return case.now.reading.system_bits is None and whole and usable is not None and 2.5 * GIB <= usable < 4 * GIB


def over(case: Case) -> Iterator[Finding]:
    """capacity.over: more than promised; welcome, but somebody should know why."""
    promised, now = case.promise.total_bytes, case.now.capacity.now_bytes
    if promised is None or now is None or capacity_status(case) is not TrackStatus.OVER:
        return
    yield Finding(
        code=Code.CAPACITY_OVER,
        severity=Severity.TELL,
        title=f"{size_text(now)}, {size_text(now - promised)} more than promised",
        reason="More memory is seen than was promised: another module was left in, or the promise is out of date.",
        next="Check that the fitted modules belong to this job, or change the promise.",
        sure=0.9,
        customer=f"The machine has {size_text(now)} of memory, more than the {size_text(promised)} agreed on.",
        evidence=(Evidence(f"now {size_text(now)}", case.now.capacity.source or Source.WORKED_OUT),),
    )


def system_limit(case: Case) -> Iterator[Finding]:
    """capacity.system_limit: a 32-bit system cannot use what is fitted."""
    capacity = case.now.capacity
    if not capacity.capped_by_system or capacity.usable_bytes is None or capacity.total_bytes is None:
        return
    usable, total = size_text(capacity.usable_bytes), size_text(capacity.total_bytes)
    limit = case.now.reading.system_limit_bytes
    if limit is not None and limit.value < capacity.total_bytes:
        words = size_text(limit.value)
        why = Evidence(f"limit {words}", limit.source)
        reason = f"The system's edition, or an option it starts with, allows {words}; what is fitted beyond it is not used."
        step = f"Take the limit out of the start options, install an edition that may use {total}, or agree on {words} with the customer."
        customer = f"{total} is fitted, but the installed system is limited to {words}."
    else:
        why = Evidence("32-bit system", Source.SYSTEM)
        reason = "The operating system is a 32-bit one, which reaches less than 4 GiB however much is fitted."
        step = "Install a 64-bit system, or agree with the customer that the machine keeps using what it can."
        customer = f"{total} is fitted, but the installed system can only use {usable} of it; a 64-bit system would use all of it."
    yield Finding(
        code=Code.CAPACITY_SYSTEM_LIMIT,
        severity=Severity.TELL if case.limited_as_before else Severity.FIX,
        title=f"The system can use {usable} of {total}" + (", as on arrival" if case.limited_as_before else ""),
        reason=reason,
        next=step,
        sure=0.95,
        customer=customer,
        evidence=(why, Evidence(f"usable {usable}", capacity.source or Source.SYSTEM)),
    )


def redundant(case: Case) -> Iterator[Finding]:
    """capacity.redundant: memory that a setting keeps back as a copy or a reserve, and that was not promised."""
    capacity, fact = case.now.capacity, case.now.reading.redundancy
    if fact is None or capacity.fitted_bytes is None or capacity.now_bytes is None or capacity_status(case) is TrackStatus.SHORT:
        return
    held_back = capacity.fitted_bytes - capacity.now_bytes
    if held_back <= 0 or case.promise.redundancy is fact.value:
        return
    yield Finding(
        code=Code.CAPACITY_REDUNDANT,
        severity=Severity.TELL,
        title=f"{size_text(held_back)} of {size_text(capacity.fitted_bytes)} kept back: {fact.value.value}",
        reason=f"{_HELD_BACK[fact.value][0].upper()}{_HELD_BACK[fact.value][1:]}.",
        next="Nothing to fix if the customer wants it so; the setting is in the firmware setup.",
        sure=0.9,
        customer=f"Of {size_text(capacity.fitted_bytes)} fitted, {size_text(held_back)} is kept back for safety by a setting.",
        evidence=(Evidence(f"{fact.value.value} memory", fact.source),),
    )


def reserved(case: Case) -> Iterator[Finding]:
    """capacity.reserved: what graphics, firmware and system keep for themselves."""
    capacity = case.now.capacity
    graphics = case.now.reading.graphics_bytes
    if capacity.total_bytes is None or capacity.usable_bytes is None or capacity.gap_is_large or capacity.capped_by_system:
        return
    gap = capacity.total_bytes - capacity.usable_bytes
    if gap <= 0:
        return
    earlier = case.before.capacity.usable_bytes if case.before is not None else None
    less = max(0, (earlier or 0) - capacity.usable_bytes)
    notable = capacity.gap_is_notable or less >= GIB / 2
    # A share that is larger than all that is kept back is none of it: it is borrowed, and that is another finding.
    inside = graphics is not None and graphics.value <= gap
    share = f", of which graphics take {size_text(graphics.value)}" if graphics is not None and inside else ""
    share += f"; on arrival the system could use {size_text(less)} more" if less >= GIB / 2 else ""
    yield Finding(
        code=Code.CAPACITY_RESERVED,
        severity=Severity.TELL if notable else Severity.NOTE,
        title=f"{size_text(gap)} kept by firmware and system{share}",
        reason=f"The system can use {size_text(capacity.usable_bytes)} of {size_text(capacity.total_bytes)}; the rest is reserved"
        + (", more than is usual." if notable else ", which is normal."),
        next="Look at the share of graphics in the firmware setup." if notable else "Nothing to do.",
        sure=0.7 if notable else 0.9,
        customer=f"The system shows {size_text(capacity.usable_bytes)}, as {size_text(gap)} is kept for graphics and the machine itself.",
        evidence=(Evidence(f"usable {size_text(capacity.usable_bytes)}", Source.SYSTEM),),
    )


def borrowed(case: Case) -> Iterator[Finding]:
    """capacity.borrowed: what graphics may borrow of the usable memory; it grows with the total, and nothing is set aside."""
    now_bytes = _borrowed(case.now)
    if now_bytes is None:
        return
    before_bytes = _borrowed(case.before) if case.before is not None else None
    before = f", {size_text(before_bytes)} on arrival" if before_bytes is not None and before_bytes != now_bytes else ""
    yield Finding(
        code=Code.CAPACITY_BORROWED,
        severity=Severity.NOTE,
        title=f"Graphics may borrow up to {size_text(now_bytes)}{before}",
        reason="Graphics without memory of their own use a part of the system's while they need it. Nothing is set aside for that.",
        next="Nothing to do.",
        sure=0.9,
        customer=f"Graphics may use up to {size_text(now_bytes)} of the memory while a program needs it{before}.",
        evidence=(Evidence(f"graphics may borrow {size_text(now_bytes)}", Source.TYPED),),
    )


def _borrowed(seen: ReadingView) -> int | None:
    """Return what graphics may borrow: as it was said, or a share that is larger than all that is kept back."""
    said, share = value_of(seen.reading.borrowed_bytes), value_of(seen.reading.graphics_bytes)
    if said is not None:
        return said
    total, usable = seen.capacity.total_bytes, seen.capacity.usable_bytes
    return share if share is not None and total is not None and usable is not None and share > total - usable else None
