"""Rules about what the machine's maker documents: above it, things may work and are unsupported."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from after_check.domain.codes import Code
from after_check.domain.facts import Source, value_of
from after_check.domain.findings import Finding, finding, shown
from after_check.judgement.case import Case
from after_check.judgement.ceilings import platform_rate_mts
from after_check.standards.rates import same_rate


def total(case: Case) -> Iterator[Finding]:
    """limit.total: more than the documented total. It works, and is unsupported."""
    limit = case.card.total_bytes if case.card else None
    fitted = case.now.capacity.fitted_bytes or case.now.capacity.total_bytes
    if limit is not None and fitted is not None and fitted > limit and case.seen:
        yield _tell(Code.LIMIT_TOTAL, case, fitted_bytes=fitted, limit_bytes=limit)


def module(case: Case) -> Iterator[Finding]:
    """limit.module: a module larger than the documented largest."""
    limit = case.card.module_bytes if case.card else None
    for slot, one in case.now.reading.filled():
        size = value_of(one.size_bytes)
        if limit is not None and size is not None and size > limit:
            yield _tell(Code.LIMIT_MODULE, case, slot=slot or None, fitted_bytes=size, limit_bytes=limit)


def unlisted(case: Case) -> Iterator[Finding]:
    """limit.unlisted: a module that is not on the maker's list of supported ones."""
    listed = {part.replace(" ", "").casefold() for part in (case.card.supported_parts if case.card else ())}
    for slot, one in case.now.reading.filled():
        part = value_of(one.part)
        if listed and part and part.replace(" ", "").casefold() not in listed:
            yield _tell(Code.LIMIT_UNLISTED, case, slot=slot or None, part=part)


def rate(case: Case) -> Iterator[Finding]:
    """limit.rate: a profile runs the memory faster than the machine's maker documents for this load."""
    platform_mts, now_mts = platform_rate_mts(case.now, case.card), case.now.rate_mts
    if platform_mts is None or now_mts is None or now_mts <= platform_mts or same_rate(now_mts, platform_mts):
        return
    yield _tell(Code.LIMIT_RATE, case, rate_mts=now_mts, limit_mts=platform_mts)


def _tell(code: Code, case: Case, slot: str | None = None, **values: Any) -> Finding:
    name = case.card.name if case.card else ""
    capacity = case.now.capacity
    works = case.seen and not capacity.uncounted_bytes and not capacity.gap_is_large and capacity.now_bytes is not None
    limit = {key: value for key, value in values.items() if key.startswith("limit")}
    kind = "data-sheet-rate" if "limit_mts" in limit else "data-sheet" if limit else "listed-parts"
    evidence = shown(kind, Source.TYPED, machine=name, **limit)
    return finding(code, 0.9, (evidence,), (slot,) if slot else (), machine=name, slot=slot, works=works, **values)
