"""Which finding follows from which, in what order findings are shown, and what would show that one is wrong.

A cause explains its consequences: with it they go away. Root causes are counted; their consequences are shown beneath.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from after_check.domain.codes import Code, Severity
from after_check.domain.findings import Cause, Finding

_ORDER = {Severity.FIX: 0, Severity.TELL: 1, Severity.NOTE: 2}
_SURE_ENOUGH = 0.9
"""From here on a finding need not say how it would be disproved."""

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
    Code.RATE_LOAD: (Code.MODULE_UNEXPECTED,),
    Code.RATE_UNEXPLAINED: (Code.PROFILE_OFF, Code.FIRMWARE_RESET),
    Code.TIMINGS_LOOSE: (Code.PROFILE_OFF, Code.FIRMWARE_RESET),
    Code.TIMINGS_SLOWER: (Code.TIMINGS_LOOSE, Code.PROFILE_OFF, *_RATES),
    Code.CAPACITY_SHORT: (Code.MODULE_MISSING, Code.MODULE_SHORT, Code.MODULE_DIFFERS),
    Code.CAPACITY_OVER: (Code.MODULE_UNEXPECTED,),
    Code.CHANNELS_SINGLE: (Code.MODULE_MISSING, Code.CHANNELS_NODE_EMPTY),
    Code.CHANNELS_FEWER: (Code.MODULE_MISSING, Code.CHANNELS_WRONG_SLOTS, Code.CHANNELS_SINGLE),
    Code.CHANNELS_PARTIAL: (Code.MODULE_SHORT, Code.MODULE_MISSING, Code.MODULE_UNEXPECTED),
    Code.MODULE_MISSING: (Code.CAUSE_FOUND,),
    Code.MODULE_SHORT: (Code.CAUSE_FOUND,),
    Code.SOAK_ERRORS: (Code.CAUSE_FOUND, Code.ECC_UNCORRECTED),
    Code.START_NONE: (Code.CAUSE_FOUND, Code.MIX_GENERATION, Code.MIX_BUFFERED, Code.MIX_FORM, Code.MIX_ECC),
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

_BLOCKING = (Code.SOURCE_DISAGREE, Code.SOURCE_STICKERS, Code.SOURCE_OTHER_MACHINE, Code.SOAK_NOT_ENOUGH)
"""Told findings that keep a verdict from being given: they come before others that are told."""

_GRAVE = ("start", "soak", "cause", "module", "mix", "capacity", "ecc")

_DISPROOF: dict[Code, str] = {
    Code.CAPACITY_OVER: "Count the modules: as many as promised, with more on them, is another kind of module.",
    Code.CAPACITY_RESERVED: "Set the share of graphics to its smallest in the firmware setup: the amount comes back if it was that.",
    Code.CAPACITY_SHORT: "The firmware page shows the full amount: then it is the system that does not use it.",
    Code.CAUSE_FOUND: "The suspect works in another machine, or the fault comes without it.",
    Code.CAUSE_OPEN: "The arrangement that failed works, tested as it was when it failed, and does so twice more.",
    Code.CAUSE_OUTSIDE: "The machine still fails when it is cool and its load is low, or a test finds errors then.",
    Code.CHANNELS_NODE_EMPTY: "The firmware page shows modules at every processor.",
    Code.CHANNELS_PARTIAL: "A measured bandwidth is as high as two equal channels carry.",
    Code.CHANNELS_SINGLE: "The firmware page shows more channels, or a measured bandwidth is more than these carry.",
    Code.ECC_ON_DIE: "The modules' labels or part numbers say ECC.",
    Code.FIRMWARE_CHANGED_NOTICE: "The notice does not come again at two more starts.",
    Code.BENCHMARK_NOT_COMPARABLE: "Both runs were made with equal threads, load and heat.",
    Code.BENCHMARK_SAME: "More runs under equal conditions lie apart from each other.",
    Code.BENCHMARK_SHORT: "Runs with nothing else at work reach the promised figure.",
    Code.BENCHMARK_WORSE: "Runs with nothing else at work are as fast as before.",
    Code.MIX_ECC: "The modules' labels say that all of them have error correction, or none.",
    Code.MIX_VOLTAGE: "The labels of all modules show one voltage.",
    Code.MODULE_MISSING: "The module shows in another slot, or another module shows in this one.",
    Code.MODULE_SHORT: "Its sticker shows the smaller size, so that it is whole.",
    Code.PROFILE_HIDDEN: "The firmware setup offers a profile with these modules in.",
    Code.PROFILE_OFF: "The firmware setup shows the profile as on.",
    Code.RATE_LOAD: "With fewer modules in a channel the rate stays as it is.",
    Code.RATE_PROFILE_OFF: "The firmware setup shows the profile as on, and the rate is still low.",
    Code.RATE_SLOWEST_MODULE: "Without the slowest module the rate stays as it is.",
    Code.RATE_UNEXPLAINED: "Any of these reasons, put right, leaves the rate as it is.",
    Code.SLOTS_ORDER: "The machine's manual gives another order than the data sheet.",
    Code.SOURCE_OTHER_MACHINE: "The machine's board was changed, or one of the readings was typed wrong.",
    Code.SOURCE_UNIT: "A second place shows the other figure.",
    Code.TIMINGS_LOOSE: "The firmware page shows the profile's timings.",
    Code.TIMINGS_MIXED: "The firmware page shows the shorter timings as running.",
    Code.VOLTAGE_HIGH: "The firmware page and the sensor show the voltage that the modules ask for.",
}
"""What would show that a finding is wrong."""


def arranged(findings: Iterable[Finding]) -> tuple[Finding, ...]:
    """Return findings with their causes: each root, worst and most certain first, with what follows from it behind it."""
    every = list(findings)
    linked = [replace(finding, because_of=_cause(finding, every), disproof=_disproof(finding)) for finding in every]
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
    return _ORDER[finding.severity], finding.code not in _BLOCKING, finding.code.group not in _GRAVE, -finding.sure


def _cause(finding: Finding, every: list[Finding]) -> Cause | None:
    """Return the nearest cause that is there and weighs as much; one of the same slots before others."""
    for code in _CAUSES.get(finding.code, ()):
        found = [other for other in every if other.code is code and _ORDER[other.severity] <= _ORDER[finding.severity]]
        if found:
            cause = next((other for other in found if set(other.slots) & set(finding.slots)), found[0])
            return Cause(cause.code, cause.slots)
    return None


def _disproof(finding: Finding) -> str:
    return _DISPROOF.get(finding.code, "") if finding.sure < _SURE_ENOUGH else ""
