"""Rules about what the machine's maker documents: above it, things may work and are unsupported."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any

from after_check.domain.codes import Code, Severity
from after_check.domain.facts import Source, value_of
from after_check.domain.findings import Finding, finding, shown
from after_check.domain.readings import StartOutcome
from after_check.judgement.case import Case
from after_check.judgement.ceilings import platform_rate_mts
from after_check.standards.rates import same_rate


def total(case: Case) -> Iterator[Finding]:
    """limit.total: more than the documented total. It works, and is unsupported."""
    limit = case.card.total_bytes if case.card else None
    fitted = case.now.capacity.fitted_bytes or case.now.capacity.total_bytes
    if limit is not None and fitted is not None and fitted > limit and (case.seen or _does_not_start(case)):
        yield _tell(Code.LIMIT_TOTAL, case, fitted_bytes=fitted, limit_bytes=limit)


def module(case: Case) -> Iterator[Finding]:
    """limit.module: modules larger than the documented largest; one finding for all of one size."""
    limit = case.card.module_bytes if case.card else None
    above: dict[int, list[str]] = {}
    for slot, one in case.now.reading.filled():
        size = value_of(one.size_bytes)
        if limit is not None and size is not None and size > limit:
            above.setdefault(size, []).append(slot)
    for size, slots in above.items():
        yield _tell(Code.LIMIT_MODULE, case, slots, fitted_bytes=size, limit_bytes=limit)


def unlisted(case: Case) -> Iterator[Finding]:
    """limit.unlisted: modules that are not on the maker's list of supported ones; one finding for all of one part."""
    listed = {part.replace(" ", "").casefold() for part in (case.card.supported_parts if case.card else ())}
    others: dict[str, list[str]] = {}
    for slot, one in case.now.reading.filled():
        part = value_of(one.part)
        if listed and part and part.replace(" ", "").casefold() not in listed:
            others.setdefault(part, []).append(slot)
    for part, slots in others.items():
        yield _tell(Code.LIMIT_UNLISTED, case, slots, part=part)


def rate(case: Case) -> Iterator[Finding]:
    """limit.rate: a profile runs the memory faster than the machine's maker documents for this load."""
    platform_mts, now_mts = platform_rate_mts(case.now, case.card), case.now.rate_mts
    if platform_mts is None or now_mts is None or now_mts <= platform_mts or same_rate(now_mts, platform_mts):
        return
    yield _tell(Code.LIMIT_RATE, case, rate_mts=now_mts, limit_mts=platform_mts)


def _tell(code: Code, case: Case, slots: Sequence[str] = (), **values: Any) -> Finding:
    """Return the finding: told where the machine runs, and what is to be tried first where it does not start."""
    name = case.card.name if case.card else ""
    capacity = case.now.capacity
    failed = _does_not_start(case)
    seen = case.seen and not capacity.uncounted_bytes and not capacity.gap_is_large and capacity.now_bytes is not None
    works = "failed" if failed else "yes" if seen else "no"
    limit = {key: value for key, value in values.items() if key.startswith("limit")}
    kind = "data-sheet-rate" if "limit_mts" in limit else "data-sheet" if limit else "listed-parts"
    evidence = shown(kind, Source.TYPED, machine=name, **limit)
    named = tuple(slot for slot in slots if slot)
    severity = Severity.FIX if failed and code is not Code.LIMIT_RATE else Severity.TELL
    told = {"named": named, "modules": len(slots), **values} if slots else values
    return finding(code, 0.7 if failed else 0.9, (evidence,), named, severity, machine=name, works=works, **told)


def _does_not_start(case: Case) -> bool:
    return case.start is not None and case.start.value is StartOutcome.NO
