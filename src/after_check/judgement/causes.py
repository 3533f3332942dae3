"""Which finding follows from which, and in what order findings are shown.

A cause explains its consequences: with it they go away. Root causes are counted; their consequences are shown beneath.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from after_check.domain.codes import Code, Severity
from after_check.domain.findings import Cause, Finding

_ORDER = {Severity.FIX: 0, Severity.TELL: 1, Severity.NOTE: 2}

_RATES = (
    *(Code.RATE_PROFILE_OFF, Code.RATE_PROFILE_LOWER, Code.RATE_LOCKED, Code.RATE_CAPPED, Code.RATE_SLOWEST_MODULE),
    *(Code.RATE_LOAD, Code.RATE_PENDING_RESTART, Code.RATE_UNEXPLAINED, Code.RATE_PROMISE_OUT_OF_REACH, Code.RATE_SLOWER),
)
_WIDTHS = (Code.MODULE_MISSING, Code.CHANNELS_WRONG_SLOTS, Code.CHANNELS_SINGLE, Code.CHANNELS_FEWER)

_CAUSES: dict[Code, tuple[Code, ...]] = {
    Code.PROFILE_OFF: (Code.PROFILE_HIDDEN, Code.FIRMWARE_RESET, Code.RATE_PENDING_RESTART),
    Code.RATE_PROFILE_OFF: (Code.PROFILE_HIDDEN, Code.PROFILE_OFF, Code.FIRMWARE_RESET),
    Code.RATE_PROFILE_LOWER: (Code.PROFILE_OFF,),
    Code.RATE_LOCKED: (Code.PROFILE_LOCKED,),
    Code.RATE_SLOWEST_MODULE: (Code.PROFILE_HIDDEN, Code.MODULE_DIFFERS, Code.MODULE_UNEXPECTED),
    Code.RATE_PROMISE_OUT_OF_REACH: (Code.MODULE_DIFFERS,),
    Code.RATE_LOAD: (Code.CHANNELS_WRONG_SLOTS, Code.MODULE_UNEXPECTED),
    Code.RATE_UNEXPLAINED: (Code.PROFILE_OFF, Code.FIRMWARE_RESET, Code.CHANNELS_WRONG_SLOTS),
    Code.TIMINGS_LOOSE: (Code.PROFILE_OFF, Code.FIRMWARE_RESET),
    Code.TIMINGS_SLOWER: (Code.TIMINGS_LOOSE, Code.PROFILE_OFF, *_RATES),
    Code.CAPACITY_SHORT: (Code.MODULE_MISSING, Code.MODULE_SHORT, Code.MODULE_DIFFERS),
    Code.CAPACITY_OVER: (Code.MODULE_UNEXPECTED, Code.PROMISE_DIFFERS),
    Code.PROMISE_DIFFERS: (Code.FIRMWARE_RESET,),
    Code.CHANNELS_WRONG_SLOTS: (Code.MODULE_MISSING,),
    Code.SLOTS_ELSEWHERE: (Code.CHANNELS_WRONG_SLOTS,),
    Code.MODULE_UNEXPECTED: (Code.MODULE_DIFFERS, Code.SLOTS_ELSEWHERE, Code.CHANNELS_WRONG_SLOTS),
    Code.CHANNELS_SINGLE: (Code.MODULE_MISSING, Code.CHANNELS_NODE_EMPTY),
    Code.CHANNELS_FEWER: (Code.MODULE_MISSING, Code.CHANNELS_WRONG_SLOTS, Code.CHANNELS_SINGLE),
    Code.CHANNELS_PARTIAL: (
        *(Code.MODULE_SHORT, Code.MODULE_MISSING, Code.MODULE_DIFFERS, Code.CHANNELS_WRONG_SLOTS, Code.MODULE_UNEXPECTED),
    ),
    Code.MODULE_MISSING: (Code.CAUSE_FOUND,),
    Code.MODULE_SHORT: (Code.CAUSE_FOUND,),
    Code.SOAK_ERRORS: (Code.CAUSE_FOUND, Code.ECC_UNCORRECTED),
    Code.START_NONE: (
        *(Code.CAUSE_FOUND, Code.MIX_GENERATION, Code.MIX_BUFFERED, Code.MIX_FORM, Code.MIX_ECC),
        *(Code.LIMIT_MODULE, Code.LIMIT_TOTAL, Code.LIMIT_UNLISTED),
    ),
    Code.LIMIT_TOTAL: (Code.LIMIT_MODULE,),
    Code.MIX_GENERATION: (Code.MODULE_DIFFERS,),
    Code.MIX_FORM: (Code.MODULE_DIFFERS, Code.MIX_GENERATION),
    Code.MIX_BUFFERED: (Code.MODULE_DIFFERS,),
    Code.MIX_ECC: (Code.MODULE_DIFFERS,),
    Code.ECC_OFF: (Code.MIX_ECC, Code.MODULE_DIFFERS, Code.FIRMWARE_RESET),
    Code.BENCHMARK_SHORT: (*_WIDTHS, *_RATES),
    Code.BENCHMARK_WORSE: (*_WIDTHS, *_RATES),
    Code.CAUSE_OPEN: (Code.MODULE_MISSING, Code.MODULE_SHORT, Code.SOAK_ERRORS, Code.START_NONE),
    Code.LIMIT_RATE: (),
}
"""For each finding the ones that explain it, the nearest first."""

_BLOCKING = (Code.SOURCE_DISAGREE, Code.CHANNELS_UNPROVEN, Code.SOURCE_STICKERS, Code.SOURCE_OTHER_MACHINE, Code.SOAK_NOT_ENOUGH)
"""Told findings that keep a verdict from being given: they come before others that are told."""

_GRAVE = ("start", "soak", "cause", "module", "mix", "capacity", "ecc")


def arranged(findings: Iterable[Finding]) -> tuple[Finding, ...]:
    """Return findings with their causes: each root, worst and most certain first, with what follows from it behind it."""
    every = list(findings)
    linked = [replace(finding, because_of=_cause(finding, every)) for finding in every]
    arranged: list[Finding] = []
    for root in sorted((finding for finding in linked if finding.because_of is None), key=_rank):
        _append(arranged, root, linked)
    return tuple(arranged)


def _append(arranged: list[Finding], finding: Finding, linked: list[Finding]) -> None:
    arranged.append(finding)
    for other in linked:
        if other.because_of == Cause(finding.code, finding.slots) and other not in arranged:
            _append(arranged, other, linked)


def _rank(finding: Finding) -> tuple[int, bool, bool, float]:
    """What is not there or cannot be trusted comes before what is only slow."""
    blocks = finding.code in _BLOCKING and finding.severity is not Severity.NOTE
    return _ORDER[finding.severity], not blocks, finding.code.group not in _GRAVE, -finding.sure


def _cause(finding: Finding, every: list[Finding]) -> Cause | None:
    """Return the nearest cause that is there and weighs as much; one of the same slots before others."""
    for code in _CAUSES.get(finding.code, ()):
        found = [other for other in every if other.code is code and _ORDER[other.severity] <= _ORDER[finding.severity]]
        if found:
            cause = next((other for other in found if set(other.slots) & set(finding.slots)), found[0])
            return Cause(cause.code, cause.slots)
    return None
