"""Rules about what the machine's maker documents: above it, things may work and are unsupported."""

from __future__ import annotations

from collections.abc import Iterator

from after_check.domain.codes import Code, Severity
from after_check.domain.facts import Source, value_of
from after_check.domain.findings import Evidence, Finding
from after_check.domain.quantities import size_text
from after_check.judgement.case import Case
from after_check.judgement.ceilings import platform_rate_mts
from after_check.standards.rates import same_rate


def total(case: Case) -> Iterator[Finding]:
    """limit.total: more than the documented total. It works, and is unsupported."""
    limit = case.card.total_bytes if case.card else None
    fitted = case.now.capacity.fitted_bytes or case.now.capacity.total_bytes
    if limit is not None and fitted is not None and fitted > limit and case.seen:
        yield _tell(Code.LIMIT_TOTAL, f"{size_text(fitted)} fitted, {size_text(limit)} documented as the most", case, "", size_text(limit))


def module(case: Case) -> Iterator[Finding]:
    """limit.module: a module larger than the documented largest."""
    limit = case.card.module_bytes if case.card else None
    for slot, one in case.now.reading.filled():
        size = value_of(one.size_bytes)
        if limit is not None and size is not None and size > limit:
            title = f"The module{f' in {slot}' if slot else ''} has {size_text(size)}, {size_text(limit)} documented as the largest"
            yield _tell(Code.LIMIT_MODULE, title, case, slot, size_text(limit))


def unlisted(case: Case) -> Iterator[Finding]:
    """limit.unlisted: a module that is not on the maker's list of supported ones."""
    listed = {part.replace(" ", "").casefold() for part in (case.card.supported_parts if case.card else ())}
    for slot, one in case.now.reading.filled():
        part = value_of(one.part)
        if listed and part and part.replace(" ", "").casefold() not in listed:
            yield _tell(
                Code.LIMIT_UNLISTED,
                f"{part}{f' in {slot}' if slot else ''} is not on the list of supported modules",
                case,
                slot,
                "listed parts",
            )


def rate(case: Case) -> Iterator[Finding]:
    """limit.rate: a profile runs the memory faster than the machine's maker documents for this load."""
    platform_mts, now_mts = platform_rate_mts(case.now, case.card), case.now.rate_mts
    if platform_mts is None or now_mts is None or now_mts <= platform_mts or same_rate(now_mts, platform_mts):
        return
    yield _tell(Code.LIMIT_RATE, f"Runs at {now_mts} MT/s, {platform_mts} documented for this load", case, "", f"{platform_mts} MT/s")


_CUSTOMER = {
    Code.LIMIT_TOTAL: "More memory is fitted than the machine's maker supports.",
    Code.LIMIT_MODULE: "A larger module is fitted than the machine's maker supports.",
    Code.LIMIT_UNLISTED: "A module is fitted that is not on the list of the machine's maker.",
    Code.LIMIT_RATE: "The memory runs faster than the machine's maker documents.",
}


def _tell(code: Code, title: str, case: Case, slot: str, limit: str) -> Finding:
    name = case.card.name if case.card else "the machine"
    capacity = case.now.capacity
    works = case.seen and not capacity.uncounted_bytes and not capacity.gap_is_large and capacity.now_bytes is not None
    seen = "It is seen and runs, so it works; its maker does not support it." if works else "Whether it works all the same is not proven."
    return Finding(
        code=code,
        severity=Severity.TELL,
        title=title,
        reason=f"The documents of {name} do not promise this. {seen}",
        next="Tell the customer that it works and is unsupported; run a long memory test before the machine goes back."
        if works
        else "See first that all of it is counted; then tell the customer that its maker does not support it.",
        sure=0.9,
        customer=_CUSTOMER[code] + (" It works, and is unsupported by the maker." if works else ""),
        evidence=(Evidence(f"machine data sheet of {name}: {limit}", Source.TYPED),),
        slots=(slot,) if slot else (),
    )
