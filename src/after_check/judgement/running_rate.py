"""The rate that really runs: clock or data rate told apart, roundings taken out, and what each module can do."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from after_check.domain.facts import Source, value_of
from after_check.domain.modules import Generation, Module, Profile, Timings
from after_check.domain.readings import ProfileState, RateUnit, Reading
from after_check.standards.rates import (
    COMMON_PROFILE_RATES_MTS,
    STANDARD_RATES_MTS,
    generations_of_rate,
    is_standard_rate,
    lowest_standard_rate_mts,
    same_rate,
    snap_rate,
)


@dataclass(frozen=True, slots=True)
class SettledRate:
    """The running data rate in MT/s; `doubt` says how it was settled where what was shown could mean two rates."""

    mts: int
    source: Source
    shown: str
    doubt: str = ""


def common_generation(reading: Reading) -> Generation | None:
    """Return the generation of all modules, or None where they differ or none is known."""
    generations = {value_of(module.generation) for module in reading.modules} - {None}
    return generations.pop() if len(generations) == 1 else None


def stated_rates_mts(module: Module) -> tuple[int, ...]:
    """Return every rate that a module states of itself: profiles, standard, as sold."""
    rates = [profile.rate_mts for profile in value_of(module.profiles) or ()]
    rates += [rate for rate in (value_of(module.standard_mts), value_of(module.rated_mts)) if rate is not None]
    return tuple(rates)


@dataclass(frozen=True, slots=True)
class ElsewhereSaid:
    """What else is known of the rate of a machine's memory: rates that were promised or documented in MT/s, and its generation."""

    rates_mts: tuple[int, ...] = ()
    generation: Generation | None = None


@dataclass(frozen=True, slots=True)
class RunningRate:
    """The rate that runs, where it can be told; else what has to be asked, or what contradicts it."""

    settled: SettledRate | None = None
    asked: str = ""
    contradiction: str = ""


def settle_running_rate(reading: Reading, elsewhere: ElsewhereSaid = ElsewhereSaid()) -> RunningRate:
    """Return the data rate that runs: the rate that was shown, else the slowest that the firmware gives a module."""
    generation = common_generation(reading) or (elsewhere.generation if not any(module.generation for module in reading.modules) else None)
    stated = tuple(sorted({rate for module in reading.modules for rate in stated_rates_mts(module)}))
    if reading.running_rate is not None:
        shown = reading.running_rate.value
        found = _settle(shown.number, shown.unit, reading.running_rate.source, generation, (stated, elsewhere.rates_mts))
    else:
        running = [module.running_mts for module in reading.modules if module.running_mts is not None]
        if not running:
            return RunningRate()
        slowest = min(running, key=lambda fact: fact.value)
        found = _settle(slowest.value, RateUnit.MTS, slowest.source, generation, (stated, ()))
    if found.settled is None or generation is None:
        return found
    fastest = max((*STANDARD_RATES_MTS.get(generation, ()), *COMMON_PROFILE_RATES_MTS.get(generation, ()), *stated), default=None)
    if fastest is not None and found.settled.mts > fastest * 1.01:
        return RunningRate(contradiction=f"{found.settled.mts} MT/s is shown, and no {generation} module runs faster than {fastest} MT/s")
    if stated and value_of(reading.profile) is ProfileState.OFF and found.settled.mts > max(stated) * 1.02:
        told = f"{found.settled.mts} MT/s is shown, the modules are for {max(stated)} MT/s at most, and no profile is on"
        return RunningRate(contradiction=told)
    return found


def _settle(
    number: float, unit: RateUnit, source: Source, generation: Generation | None, known: tuple[tuple[int, ...], tuple[int, ...]]
) -> RunningRate:
    """Tell the clock from the rate, by what the modules state and by what else is known of the machine (`known`).

    Pages write MHz for MT/s: a figure that is a stated or promised rate is that rate, one that is half of it is the clock.
    """
    stated, elsewhere = known
    shown = f"{number:g} {unit.value}".strip()
    rates = (*stated, *elsewhere)
    is_rate, is_half = (any(same_rate(number * times, rate) for rate in rates) for times in (1, 2))

    def settled(is_clock: bool, doubt: str = "") -> RunningRate:
        mts = snap_rate(number * 2 if is_clock else number, generation, stated)
        return RunningRate(SettledRate(mts, source, shown, doubt))

    if unit is RateUnit.MHZ:
        if is_rate and not is_half:
            return settled(False, f"shown as {shown}: a rate that is known of these modules, so it is taken as the data rate")
        if is_half and not is_rate:
            return settled(True)
        return _of_megahertz(number, shown, generation, stated, settled)
    if generation is not None:
        too_slow_for_rate = number < lowest_standard_rate_mts(generation) * 0.99
        double_is_stated = any(same_rate(number * 2, rate) for rate in stated)
        if too_slow_for_rate and (double_is_stated or (not stated and is_standard_rate(number * 2, generation))):
            return settled(
                True, f"shown as {shown}: below every data rate of {generation}, so it is taken as the clock of {number * 2:g} MT/s"
            )
        if double_is_stated and not any(same_rate(number, rate) for rate in stated):
            words = f"shown as {shown}: half of a rate that the modules state; it is taken as the data rate, but may be the clock"
            return settled(False, words)
    return settled(False)


def _of_megahertz(
    number: float, shown: str, generation: Generation | None, stated: tuple[int, ...], settled: Callable[..., RunningRate]
) -> RunningRate:
    """Settle a figure in MHz that is neither a known rate nor its half: by what memory there is, else it has to be asked."""
    double = f"{number * 2:g}"
    if generation is not None and number * 2 > _highest_plausible_mts(generation, stated):
        return settled(
            False, f"shown as {shown}: as a clock it would be {double} MT/s, beyond these modules, so it is taken as the data rate"
        )
    if generation is not None:
        may_be_rate = is_standard_rate(number, generation) or number in COMMON_PROFILE_RATES_MTS.get(generation, ())
        too_slow = number < lowest_standard_rate_mts(generation) * 0.99
        return _asked(shown, double) if may_be_rate and not too_slow and not stated else settled(True)
    may_be_rate, may_be_clock = bool(generations_of_rate(number)), bool(generations_of_rate(number * 2))
    if may_be_rate and may_be_clock:
        return _asked(shown, double)
    if may_be_rate:
        return settled(False, f"shown as {shown}: no memory has the double of it as its rate, so it is taken as the data rate")
    return settled(True)


def _asked(shown: str, double: str) -> RunningRate:
    return RunningRate(asked=f"shown as {shown}: this may be the data rate, or the clock of {double} MT/s")


def _highest_plausible_mts(generation: Generation, stated: tuple[int, ...]) -> float:
    highest = max(stated) if stated else max(STANDARD_RATES_MTS[generation] + COMMON_PROFILE_RATES_MTS.get(generation, ()))
    return highest * 1.01


def standard_rate_mts(module: Module) -> int | None:
    """Return the module's fastest standard rate, where it is known or follows: as sold, and no profile is as slow as that."""
    standard_mts, rated_mts, profiles = value_of(module.standard_mts), value_of(module.rated_mts), value_of(module.profiles)
    if standard_mts is not None or rated_mts is None or profiles is None:
        return standard_mts
    return None if any(profile.rate_mts <= rated_mts or same_rate(profile.rate_mts, rated_mts) for profile in profiles) else rated_mts


def highest_standard_mts(module: Module) -> int | None:
    """Return an upper bound of the module's standard rate."""
    known = standard_rate_mts(module)
    return known if known is not None else value_of(module.rated_mts)


def best_rate_mts(module: Module) -> int | None:
    """Return the fastest rate that the module states in any way, or None where it states none."""
    return max(stated_rates_mts(module), default=None)


def best_held_mts(module: Module) -> int | None:
    """Return the fastest rate that the module can be set to, as far as it tells: what it is sold as counts only until that is read."""
    standard_mts = value_of(module.standard_mts)
    return standard_mts if standard_mts is not None and value_of(module.profiles) == () else best_rate_mts(module)


def profile_of(module: Module, state: ProfileState | None) -> Profile | None:
    """Return the profile of the module that a setting names; `on` names the first one."""
    profiles = value_of(module.profiles) or ()
    if state is ProfileState.ON and profiles:
        return profiles[0]
    number = state.number if state is not None else None
    return next((profile for profile in profiles if profile.number == number), None)


def running_timings(reading: Reading, rate_mts: int | None, state: ProfileState | None) -> Timings | None:
    """Return the timings that run: as shown, else those that all modules state for exactly the running rate."""
    if reading.timings is not None:
        return reading.timings.value
    if rate_mts is None or not reading.modules:
        return None
    stated = {_timings_at(module, rate_mts, state) for module in reading.modules}
    return stated.pop() if len(stated) == 1 else None


def _timings_at(module: Module, rate_mts: int, state: ProfileState | None) -> Timings | None:
    profile = profile_of(module, state)
    if profile is not None and same_rate(profile.rate_mts, rate_mts):
        return profile.timings
    rated_mts = value_of(module.rated_mts)
    if rated_mts is not None and same_rate(rated_mts, rate_mts):
        return value_of(module.timings)
    return None
