"""Rules about the amount of memory."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from after_check.domain.codes import Code, Severity
from after_check.domain.facts import Source, value_of
from after_check.domain.findings import Finding, finding, shown
from after_check.domain.modules import Form, Module
from after_check.domain.quantities import GIB, size_notation
from after_check.domain.standing import TrackStatus
from after_check.judgement.capacity import limit_just_above
from after_check.judgement.case import Case, ReadingView
from after_check.judgement.rules.promised import all_is_counted
from after_check.judgement.tracks import capacity_status


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
            yield _finding(case, now, before, "arrival")


def _finding(case: Case, now: int, wanted: int, against: str) -> Finding:
    capacity = case.now.capacity
    why, said = _why_short(case, now, wanted)
    source = Source.TYPED if against == "promised" else Source.WORKED_OUT
    return finding(
        Code.CAPACITY_SHORT,
        0.6 if why == "bits-32" else 0.95 if capacity.total_bytes is not None else 0.8,
        (
            shown("now", capacity.source or Source.WORKED_OUT, size_bytes=now),
            shown("wanted", source, size_bytes=wanted, against=against),
        ),
        why=why,
        against=against,
        now_bytes=now,
        wanted_bytes=wanted,
        **said,
    )


def _why_short(case: Case, now: int, wanted: int) -> tuple[str, dict[str, Any]]:
    """Return which reason explains that less is there, and what its words name."""
    capacity = case.now.capacity
    redundancy = value_of(case.now.reading.redundancy)
    if redundancy is not None:
        return redundancy.value, {}
    total, usable = capacity.total_bytes, capacity.usable_bytes
    if capacity.gap_is_large and total is not None and usable is not None:
        # Where the firmware was not read, the modules are what is added up.
        by = "firmware" if case.now.reading.total_bytes is not None else "modules"
        said = {"total_bytes": total, "usable_bytes": usable, "counted_by": by}
        if _looks_like_32_bits(case):
            return "bits-32", said
        limit = limit_just_above(usable)
        return ("limit", {**said, "limit_bytes": limit, "limit_typed": size_notation(limit)}) if limit else ("gap", said)
    if capacity.uncounted_bytes:
        halved = capacity.uncounted_bytes == now and any(_may_be_mirrored(module) for module in case.now.reading.modules)
        return "halved" if halved else "uncounted", {
            "listed_bytes": now + capacity.uncounted_bytes,
            "uncounted_bytes": capacity.uncounted_bytes,
        }
    sizeless = [slot for slot, module in case.now.reading.filled() if module.size_bytes is None]
    if len(sizeless) == 1 and sizeless[0]:
        return "sizeless", {"unseen_bytes": wanted - now, "slot": sizeless[0]}
    return "unseen", {"unseen_bytes": wanted - now}


_SERVER_FORMS: tuple[Form | None, ...] = (Form.RDIMM, Form.LRDIMM)


def _may_be_mirrored(module: Module) -> bool:
    """Machines that keep a copy or a reserve of their memory take modules with error correction."""
    return value_of(module.ecc) is True or value_of(module.form) in _SERVER_FORMS


def _looks_like_32_bits(case: Case) -> bool:
    capacity, usable = case.now.capacity, case.now.capacity.usable_bytes
    whole = (capacity.total_bytes or 0) >= 4 * GIB
    return case.now.reading.system_bits is None and whole and usable is not None and 2.5 * GIB <= usable < 4 * GIB


def over(case: Case) -> Iterator[Finding]:
    """capacity.over: more than promised; the technician should know why."""
    promised, now = case.promise.total_bytes, case.now.capacity.now_bytes
    if promised is None or now is None or capacity_status(case) is not TrackStatus.OVER:
        return
    evidence = (shown("now", case.now.capacity.source or Source.WORKED_OUT, size_bytes=now),)
    yield finding(
        Code.CAPACITY_OVER, 0.9, evidence, now_bytes=now, promised_bytes=promised, more_bytes=now - promised, kept_back=all_is_counted(case)
    )


def system_limit(case: Case) -> Iterator[Finding]:
    """capacity.system_limit: a 32-bit system, or a limit of the system, cannot use what is fitted."""
    capacity, limit = case.now.capacity, case.now.reading.system_limit_bytes
    if not capacity.capped_by_system or capacity.usable_bytes is None or capacity.total_bytes is None:
        return
    limited = limit is not None and limit.value < capacity.total_bytes
    why = shown("limit", limit.source, size_bytes=limit.value) if limit is not None and limited else shown("bits-32", Source.SYSTEM)
    yield finding(
        Code.CAPACITY_SYSTEM_LIMIT,
        0.95,
        (why, shown("usable", capacity.source or Source.SYSTEM, size_bytes=capacity.usable_bytes)),
        severity=Severity.TELL if case.limited_as_before else Severity.FIX,
        usable_bytes=capacity.usable_bytes,
        total_bytes=capacity.total_bytes,
        limit_bytes=limit.value if limit is not None and limited else None,
        as_before=case.limited_as_before,
    )


def redundant(case: Case) -> Iterator[Finding]:
    """capacity.redundant: memory that a setting keeps back as a copy or a reserve, and that was not promised."""
    capacity, fact = case.now.capacity, case.now.reading.redundancy
    if fact is None or capacity.fitted_bytes is None or capacity.now_bytes is None or capacity_status(case) is TrackStatus.SHORT:
        return
    held_back = capacity.fitted_bytes - capacity.now_bytes
    if held_back <= 0 or case.promise.redundancy is fact.value:
        return
    evidence = (shown("redundancy", fact.source, how=fact.value.value),)
    sizes: dict[str, Any] = {"held_back_bytes": held_back, "fitted_bytes": capacity.fitted_bytes}
    yield finding(Code.CAPACITY_REDUNDANT, 0.9, evidence, how=fact.value.value, **sizes)


def reserved(case: Case) -> Iterator[Finding]:
    """capacity.reserved: what graphics, firmware and system keep for themselves."""
    capacity = case.now.capacity
    graphics = value_of(case.now.reading.graphics_bytes)
    if capacity.total_bytes is None or capacity.usable_bytes is None or capacity.gap_is_large or capacity.capped_by_system:
        return
    gap = capacity.total_bytes - capacity.usable_bytes
    if gap <= 0:
        return
    earlier = case.before.capacity.usable_bytes if case.before is not None else None
    less = max(0, (earlier or 0) - capacity.usable_bytes)
    named_before = case.before.capacity.kept_back_bytes if case.before is not None else None
    grew = named_before is not None and capacity.kept_back_bytes - named_before >= GIB / 2
    notable = capacity.gap_is_notable or less >= GIB / 2 or grew
    yield finding(
        Code.CAPACITY_RESERVED,
        0.7 if notable else 0.9,
        (shown("usable", Source.SYSTEM, size_bytes=capacity.usable_bytes),),
        severity=Severity.TELL if notable else Severity.NOTE,
        gap_bytes=gap,
        gap_about=_about(case, gap),
        # A share that is larger than all that is kept back is none of it: it is borrowed, and that is another finding.
        graphics_bytes=graphics if graphics is not None and graphics <= gap else None,
        less_bytes=less if less >= GIB / 2 else None,
        usable_bytes=capacity.usable_bytes,
        total_bytes=capacity.total_bytes,
        notable=notable,
    )


def _about(case: Case, gap_bytes: int) -> str | None:
    """Return the gap as exactly as it is known: of "11.9 GB" only the tenths of a GiB are."""
    usable = case.now.reading.usable_bytes
    if usable is None or usable.source is not Source.TYPED or usable.value % GIB == 0:
        return None
    tenths = 10 * usable.value / GIB
    return f"{gap_bytes / GIB:.1f} GiB" if abs(tenths - round(tenths)) < 1e-6 and gap_bytes >= GIB / 20 else None


def borrowed(case: Case) -> Iterator[Finding]:
    """capacity.borrowed: what graphics may borrow of the usable memory; it grows with the total, and nothing is set aside."""
    now = _borrowed(case.now)
    if now is None:
        return
    before = _borrowed(case.before) if case.before is not None else None
    evidence = (shown("borrows", Source.TYPED, size_bytes=now),)
    yield finding(Code.CAPACITY_BORROWED, 0.9, evidence, now_bytes=now, before_bytes=before if before != now else None)


def _borrowed(seen: ReadingView) -> int | None:
    """Return what graphics may borrow: as it was said, or a share that is larger than all that is kept back."""
    said, share = value_of(seen.reading.borrowed_bytes), value_of(seen.reading.graphics_bytes)
    if said is not None:
        return said
    total, usable = seen.capacity.total_bytes, seen.capacity.usable_bytes
    return share if share is not None and total is not None and usable is not None and share > total - usable else None
