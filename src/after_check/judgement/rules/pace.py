"""Rules about timings, voltage and waiting changes, beside the rate itself."""

from __future__ import annotations

from collections.abc import Iterator

from after_check.domain.codes import Code, Severity
from after_check.domain.facts import value_of
from after_check.domain.findings import Finding, finding, shown
from after_check.domain.modules import Generation, Timings
from after_check.domain.readings import ProfileState
from after_check.judgement.case import Case
from after_check.judgement.running_rate import common_generation, profile_of
from after_check.standards.rates import same_rate

_STANDARD_MILLIVOLTS = {Generation.DDR2: 1800, Generation.DDR3: 1500, Generation.DDR4: 1200, Generation.DDR5: 1100}
"""Supply of the devices: JESD79-2, JESD79-3, JESD79-4, JESD79-5."""
_WITHIN = 1.04
"""Firmware pages show a few per cent more than was set."""


def timings_loose(case: Case) -> Iterator[Finding]:
    """timings.loose: the rate is as it should be, and the timings are longer than promised or than the profile's own."""
    shown_fact, rate_mts = case.now.reading.timings, case.now.rate_mts
    if shown_fact is None or rate_mts is None:
        return
    at_this_rate = case.promise.rate_mts is None or same_rate(case.promise.rate_mts, rate_mts)
    promised = case.promise.timings if at_this_rate else None
    wanted = promised or _profile_timings(case, rate_mts)
    if wanted is None or not shown_fact.value.longer_than(wanted):
        return
    yield finding(
        Code.TIMINGS_LOOSE,
        0.85,
        (shown("timings", shown_fact.source, timings=str(shown_fact.value)),),
        severity=Severity.FIX if promised else Severity.TELL,
        runs=str(shown_fact.value),
        wanted=str(wanted),
        against="promised" if promised else "profile",
    )


def _profile_timings(case: Case, rate_mts: int) -> Timings | None:
    found = [profile_of(module, case.now.profile) for module in case.now.reading.modules]
    timings = [profile.timings for profile in found if profile is not None and profile.timings and same_rate(profile.rate_mts, rate_mts)]
    return max(timings, key=lambda timing: timing.cl) if timings and len(timings) == len(found) else None


def voltage_high(case: Case) -> Iterator[Finding]:
    """voltage.high: more voltage than the standard, or the profile that is on, asks for."""
    fact, generation = case.now.reading.voltage_mv, common_generation(case.now.reading)
    if fact is None or generation not in _STANDARD_MILLIVOLTS:
        return
    asked = [_STANDARD_MILLIVOLTS[generation]]
    for module in case.now.reading.modules:
        profile = profile_of(module, case.now.profile) if case.now.profile is not ProfileState.OFF else None
        asked += [volts for volts in (value_of(module.voltage_mv), profile.voltage_mv if profile else None) if volts]
    unknown_profile = case.now.profile not in (None, ProfileState.OFF) and len(asked) == 1
    if unknown_profile or fact.value <= max(asked) * _WITHIN:
        return
    yield finding(Code.VOLTAGE_HIGH, 0.85, (shown("voltage", fact.source, voltage_mv=fact.value),), runs_mv=fact.value, asked_mv=max(asked))


def pending(case: Case) -> Iterator[Finding]:
    """rate.pending_restart: a setting waits for a restart although the rate is right, so what was read is not final."""
    fact = case.now.reading.restart_pending
    if fact is None or not fact.value or case.explanation is not None:
        return
    evidence = (shown("pending", fact.source),)
    yield finding(Code.RATE_PENDING_RESTART, 0.9, evidence, severity=Severity.TELL, why="settled")
