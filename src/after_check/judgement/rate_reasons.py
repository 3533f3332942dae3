"""Why the rate is below what it should be: exactly one reason, found by asking the likely ones in turn."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import Any

from after_check.domain.codes import Code
from after_check.domain.facts import Source, value_of
from after_check.domain.findings import Ceiling, CeilingKind, Explanation, shown
from after_check.domain.messages import Message, Value, message
from after_check.domain.modules import Generation, Module
from after_check.domain.readings import ProfileState
from after_check.judgement.case import Case, ReadingView
from after_check.judgement.ceilings import ceilings_of, limit_mts, modules_per_channel, platform_rate_mts
from after_check.judgement.running_rate import (
    best_held_mts,
    best_rate_mts,
    common_generation,
    highest_standard_mts,
    profile_of,
    standard_rate_mts,
)
from after_check.standards.rates import STANDARD_RATES_MTS, is_standard_rate, same_rate

NamedModule = tuple[str, Module]


def target_rate_mts(case: Case) -> int | None:
    """Return the promised rate, or the best rate that every module states where none was promised."""
    if case.promise.rate_mts is not None:
        return case.promise.rate_mts
    best = [best_rate_mts(module) for module in case.now.reading.modules]
    known = [rate for rate in best if rate is not None]
    return min(known) if known and len(known) == len(best) else None


class RateQuestion:
    """The facts that the reasons weigh, gathered once."""

    def __init__(self, case: Case, running_mts: int, target_mts: int) -> None:
        self.case = case
        self.running_mts = running_mts
        self.target_mts = target_mts
        self.modules: tuple[NamedModule, ...] = tuple(case.now.reading.filled())
        self.state = case.now.profile
        self.ceilings = ceilings_of(case.now, case.promise, case.card)

    def answer(
        self, code: Code, binding: tuple[CeilingKind, ...], sure: float, slots: tuple[str, ...] = (), **values: Value
    ) -> Explanation:
        """Return an explanation with the ceilings, of which the first of the `binding` kinds that is there binds."""
        bound = next((ceiling for kind in binding for ceiling in self.ceilings if ceiling.kind is kind and _may_bind(ceiling)), None)
        ceilings = tuple(replace(ceiling, binding=ceiling is bound) for ceiling in self.ceilings)
        evidence = [shown("runs", _rate_source(self.case.now), rate_mts=self.running_mts)]
        if self.case.promise.rate_mts is not None:
            evidence.append(shown("promised-rate", Source.TYPED, rate_mts=self.target_mts))
        if self.state is not None and self.case.now.profile_source is not None:
            evidence.append(shown("profile", self.case.now.profile_source, state=self.state.value))
        promised = self.case.promise.rate_mts is not None
        values = {"why": "rate", **values}
        return Explanation(code, self.target_mts, self.running_mts, promised, tuple(values.items()), sure, ceilings, tuple(evidence), slots)

    def reaches_target(self, module: Module) -> bool | None:
        """Whether the module states the target rate in any way; None where it states nothing."""
        best = best_held_mts(module)
        if best is None:
            return None
        if best >= self.target_mts or same_rate(best, self.target_mts):
            return True
        # Profiles that were not read are not "none": only what it is sold as, or a list that is there, says where it ends.
        sold_as = module.rated_mts is not None and module.rated_mts.source is Source.TYPED
        return False if module.profiles is not None or sold_as else None

    def lowest_standard_mts(self) -> int | None:
        """Return the slowest standard rate of the modules, in MT/s; None where one of them does not state it."""
        standards = [standard_rate_mts(module) for _, module in self.modules]
        known = [rate for rate in standards if rate is not None]
        return min(known) if known and len(known) == len(standards) else None


def _may_bind(ceiling: Ceiling) -> bool:
    """Return whether a ceiling can explain what runs: a profile that is not in use cannot."""
    return ceiling.kind is not CeilingKind.PROFILE or ceiling.in_use


def profile_reaching(module: Module, target_mts: int) -> int | None:
    """Return the number of the first profile of the module that reaches the target."""
    for profile in value_of(module.profiles) or ():
        if profile.rate_mts >= target_mts or same_rate(profile.rate_mts, target_mts):
            return profile.number
    return None


def runs_at_a_standard_rate(question: RateQuestion) -> bool:
    """Return whether what runs is a standard rate of the modules' one generation."""
    generations = {value_of(module.generation) for _, module in question.modules} - {None}
    return len(generations) == 1 and any(
        generation is not None and is_standard_rate(question.running_mts, generation) for generation in generations
    )


def _rate_source(now: ReadingView) -> Source:
    return now.rate.source if now.rate is not None else Source.WORKED_OUT


def named(modules: list[NamedModule]) -> tuple[str, ...]:
    """Return the slots of modules where all of them have one; else none, and their number has to do."""
    names = tuple(name for name, _ in modules if name)
    return names if len(names) == len(modules) else ()


_STANDARD = (CeilingKind.STANDARD, CeilingKind.AS_RUNNING)
_MODULES = (CeilingKind.SLOWEST, CeilingKind.AS_SOLD, *_STANDARD, CeilingKind.PROFILE)
"""The kinds of ceilings by which a reason binds, the first that is there."""
_LOWEST_SOLD_MTS = {Generation.DDR4: 2133, Generation.DDR5: 4800}
"""Standards begin lower (1600, 3200); modules of these rates were never common."""


def explain_rate(case: Case) -> Explanation | None:
    """Return why the running rate is below its target; None where it is not, or where either is unknown."""
    running_mts = case.now.rate_mts
    target_mts = target_rate_mts(case)
    if running_mts is None or target_mts is None or running_mts >= target_mts or same_rate(running_mts, target_mts):
        return None
    question = RateQuestion(case, running_mts, target_mts)
    for reason in (_pending, _capped, _slowest, _platform, _out_of_reach, _locked, _profile_off, _lower_profile, _load):
        found = reason(question)
        if found is not None:
            return _with_others_at_this_rate(question, found)
    return _unexplained(question)


def _with_others_at_this_rate(question: RateQuestion, found: Explanation) -> Explanation:
    """Name what else stops at the very same rate: each has to be lifted before the rate goes up."""
    return replace(found, more=tuple(_also(question, found.code)))


def _also(question: RateQuestion, said: Code) -> Iterator[Message]:
    case, running_mts = question.case, question.running_mts
    platform_mts, card = platform_rate_mts(case.now, case.card), case.card
    highest = card.highest_rate_mts if card is not None else None
    by_platform = (Code.RATE_LOAD, Code.RATE_PLATFORM, Code.RATE_PROMISE_OUT_OF_REACH)
    if said not in by_platform and platform_mts is not None and same_rate(platform_mts, running_mts) and card is not None:
        fewer = highest is not None and highest > running_mts and not same_rate(highest, running_mts)
        yield message("also-platform", machine=card.name, platform_mts=platform_mts, fewer=fewer)
    standard_mts, without = question.lowest_standard_mts(), question.state in (ProfileState.OFF, ProfileState.LOCKED)
    if said in (Code.RATE_LOAD, Code.RATE_CAPPED) and without and standard_mts is not None and same_rate(standard_mts, running_mts):
        yield message("also-standard", standard_mts=standard_mts)
    cap = case.now.reading.rate_cap_mts
    if said is not Code.RATE_CAPPED and cap is not None and same_rate(cap.value, running_mts):
        yield message("also-capped", cap_mts=cap.value)


def _pending(question: RateQuestion) -> Explanation | None:
    pending = question.case.now.reading.restart_pending
    return question.answer(Code.RATE_PENDING_RESTART, (), 0.9) if pending is not None and pending.value else None


def _capped(question: RateQuestion) -> Explanation | None:
    """A limit that somebody set in the firmware setup is the rate that runs."""
    cap = question.case.now.reading.rate_cap_mts
    if cap is None or not same_rate(cap.value, question.running_mts):
        return None
    return question.answer(Code.RATE_CAPPED, (CeilingKind.FIRMWARE,), 0.95, cap_mts=cap.value)


def _slowest(question: RateQuestion) -> Explanation | None:
    """Some modules reach the target and some do not, and the slowest of those explains the rate that runs."""
    slow = [(name, module) for name, module in question.modules if question.reaches_target(module) is False]
    if not slow or len(slow) == len(question.modules):
        return _slowest_standard(question) if not slow else None
    slow_mts = min(limit_mts(module, question.state) for _, module in slow)
    if not same_rate(slow_mts, question.running_mts):
        return None
    slots = tuple(name for name, module in slow if same_rate(limit_mts(module, question.state), slow_mts))
    reached_mts = [best_rate_mts(module) or 0 for _, module in question.modules if question.reaches_target(module)]
    return question.answer(
        Code.RATE_SLOWEST_MODULE,
        _MODULES,
        0.95,
        slots,
        why="slow",
        modules=len(slow),
        named=named(slow),
        slow_mts=slow_mts,
        others_mts=min(reached_mts) if reached_mts else None,
    )


def _slowest_standard(question: RateQuestion) -> Explanation | None:
    """Every module states the target, but one needs a profile for it that another one does not hold."""
    if question.state is ProfileState.LOCKED:
        return None
    holders = [module for module in question.modules if value_of(module[1].profiles)]
    without = [module for module in question.modules if value_of(module[1].profiles) == ()]
    if not holders or not without:
        return None
    lowest = min(holders, key=lambda holder: highest_standard_mts(holder[1]) or question.target_mts)
    holder_mts = standard_rate_mts(lowest[1])
    if holder_mts is None or not same_rate(holder_mts, question.running_mts):
        return None
    return question.answer(
        Code.RATE_SLOWEST_MODULE,
        _MODULES,
        0.8,
        (lowest[0],) if lowest[0] else (),
        why="without-profile",
        modules=1,
        named=named([lowest]),
        slow_mts=holder_mts,
        without=named(without),
        without_modules=len(without),
    )


def _platform(question: RateQuestion) -> Explanation | None:
    """The card's rate for this load is the one that runs, and it is below the target."""
    card, now = question.case.card, question.case.now
    platform_mts = platform_rate_mts(now, card)
    highest = card.highest_rate_mts if card is not None else None
    if card is None or platform_mts is None or highest is None or not same_rate(platform_mts, question.running_mts):
        return None
    said: dict[str, Any] = {"machine": card.name, "platform_mts": platform_mts}
    if highest >= question.target_mts or same_rate(highest, question.target_mts):
        load: dict[str, Any] = {"why": "documented", "per_channel": modules_per_channel(now), "highest_mts": highest}
        return question.answer(Code.RATE_LOAD, (CeilingKind.PLATFORM,), 0.9, **load, **said)
    promised = question.case.promise.rate_mts is not None
    code = Code.RATE_PROMISE_OUT_OF_REACH if promised else Code.RATE_PLATFORM
    return question.answer(code, (CeilingKind.PLATFORM,), 0.9, why="platform", **said)


def _out_of_reach(question: RateQuestion) -> Explanation | None:
    """No module states the promised rate in any way, and they run as fast as they say."""
    if not question.modules or any(question.reaches_target(module) is not False for _, module in question.modules):
        return None
    best = min(best_held_mts(module) or 0 for _, module in question.modules)
    if not same_rate(best, question.running_mts):
        return None
    return question.answer(Code.RATE_PROMISE_OUT_OF_REACH, _MODULES, 0.9, why="modules", best_mts=best)


def _locked(question: RateQuestion) -> Explanation | None:
    return question.answer(Code.RATE_LOCKED, _STANDARD, 0.95) if question.state is ProfileState.LOCKED else None


def _profile_off(question: RateQuestion) -> Explanation | None:
    """The profile that holds the target is not applied, and the rate that runs is the one without it."""
    if question.state not in (ProfileState.OFF, ProfileState.AUTO, None):
        return None
    if question.modules and all(value_of(module.profiles) == () for _, module in question.modules):
        return None
    profiles = [profile_reaching(module, question.target_mts) for _, module in question.modules]
    held = bool(profiles) and all(profile is not None for profile in profiles)
    if not held and _sold_by_a_profile(question):
        return question.answer(Code.RATE_PROFILE_OFF, _STANDARD, 0.9 if question.state is ProfileState.OFF else 0.7, **_as_sold(question))
    if not held and question.state is ProfileState.OFF and _only_by_profile(question):
        return _beyond_standard(question)
    promised_by_profile = question.case.promise.profile not in (None, ProfileState.OFF, ProfileState.LOCKED)
    if not held and not (promised_by_profile and question.state is ProfileState.OFF):
        return None
    standard_mts = question.lowest_standard_mts()
    if standard_mts is not None and not same_rate(standard_mts, question.running_mts):
        return None
    if standard_mts is None and not runs_at_a_standard_rate(question):
        return None
    sure = 0.97 if standard_mts is not None else 0.85
    number = next((profile for profile in profiles if profile is not None), 1)
    if question.state is not ProfileState.OFF:
        sure -= 0.25
        why = "not-read" if question.state is None else "automatic"
    else:
        why = "standard" if standard_mts is not None else "a-standard"
    return question.answer(
        Code.RATE_PROFILE_OFF,
        _STANDARD,
        round(sure, 2),
        why=why,
        standard_mts=standard_mts,
        held=held,
        number=str(number),
        volts=_volts(question, number),
        each=_each_profile(question),
    )


def _sold_by_a_profile(question: RateQuestion) -> bool:
    """Return whether every module is sold as reaching the target, states a slower standard rate, and runs at that one."""
    standard_mts = question.lowest_standard_mts()
    if standard_mts is None or not same_rate(standard_mts, question.running_mts):
        return False
    rated = [value_of(module.rated_mts) for _, module in question.modules if not value_of(module.profiles)]
    return len(rated) == len(question.modules) and all(mts is not None and mts >= question.target_mts * 0.994 for mts in rated)


def _as_sold(question: RateQuestion) -> dict[str, Any]:
    unread = question.state is not ProfileState.OFF
    return {"why": "sold-not-read" if unread else "sold", "standard_mts": question.lowest_standard_mts()}


def _only_by_profile(question: RateQuestion) -> bool:
    """Return whether the target is beyond every standard rate of the modules' generation, and what runs is a standard one."""
    generation = common_generation(question.case.now.reading)
    fastest = max(STANDARD_RATES_MTS.get(generation, ()), default=None) if generation is not None else None
    return fastest is not None and question.target_mts > fastest * 1.006 and runs_at_a_standard_rate(question)


def _beyond_standard(question: RateQuestion) -> Explanation:
    return question.answer(Code.RATE_PROFILE_OFF, _STANDARD, 0.85, why="beyond")


def _each_profile(question: RateQuestion) -> tuple[Message, ...] | None:
    """Return the number of the profile in each module, where it differs from module to module."""
    numbers = {name: profile_reaching(module, question.target_mts) for name, module in question.modules}
    if len(set(numbers.values())) < 2:
        return None
    return tuple(message("profile-in", number=str(number), slot=name or None) for name, number in numbers.items())


def _lower_profile(question: RateQuestion) -> Explanation | None:
    """A profile is on, and another one that every module holds is the faster one."""
    if question.state is None or not question.modules:
        return None
    in_use = [profile_of(module, question.state) for _, module in question.modules]
    rates = [profile.rate_mts for profile in in_use if profile is not None]
    if len(rates) < len(in_use) or not same_rate(min(rates), question.running_mts):
        return None
    better = [profile_reaching(module, question.target_mts) for _, module in question.modules]
    number = better[0]
    if number is None or any(other is None for other in better):
        return None
    return question.answer(
        Code.RATE_PROFILE_LOWER,
        (CeilingKind.PROFILE,),
        0.95,
        state=question.state.value,
        slow_mts=min(rates),
        number=str(number),
        each=_each_profile(question),
    )


def _load(question: RateQuestion) -> Explanation | None:
    """More modules share a channel than on arrival, where the memory ran faster: no sheet of the machine is needed to see why."""
    case, before = question.case, question.case.before
    if before is None or before.rate_mts is None or any(question.reaches_target(module) is False for _, module in question.modules):
        return None
    then, count = modules_per_channel(before), modules_per_channel(case.now)
    slower = question.running_mts < before.rate_mts and not same_rate(question.running_mts, before.rate_mts)
    if not slower or count <= then or not runs_at_a_standard_rate(question):
        return None
    return question.answer(Code.RATE_LOAD, (), 0.75, why="seen", earlier=then, per_channel=count, before_mts=before.rate_mts)


def _unexplained(question: RateQuestion) -> Explanation:
    candidates = tuple(message(f"may-be-{name}") for name in _candidates(question))
    documented_mts = _documented_above(question)
    if documented_mts is not None:
        candidates += (message("may-be-sheet", platform_mts=documented_mts, per_channel=modules_per_channel(question.case.now)),)
    return question.answer(Code.RATE_UNEXPLAINED, (), 0.4, candidates=candidates)


def _documented_above(question: RateQuestion) -> int | None:
    """Return what the data sheet says for as many modules in a channel, where less runs: then their number explains nothing."""
    documented_mts = platform_rate_mts(question.case.now, question.case.card)
    if documented_mts is None or same_rate(documented_mts, question.running_mts):
        return None
    return documented_mts if documented_mts > question.running_mts else None


def _candidates(question: RateQuestion) -> list[str]:
    found: list[str] = []
    has_none = bool(question.modules) and all(value_of(module.profiles) == () for _, module in question.modules)
    standard_mts = question.lowest_standard_mts() or _lowest_sold_mts(question)
    below_standard = standard_mts is not None and question.running_mts < standard_mts and not same_rate(question.running_mts, standard_mts)
    before_mts = question.case.before.rate_mts if question.case.before is not None else None
    ran_before = before_mts is not None and (before_mts > question.running_mts and not same_rate(before_mts, question.running_mts))
    if question.state is ProfileState.OFF and _only_by_profile(question):
        found.append("no-standard")
    elif question.state in (None, ProfileState.AUTO) and not has_none and not below_standard:
        found.append("profile-off")
    elif question.state is not None and (question.state.number is not None or question.state is ProfileState.ON):
        found.append("training")
    crowded = modules_per_channel(question.case.now) > 1
    documented = _documented_above(question) is not None
    if not documented and (crowded or (len(question.modules) > 2 and not question.case.now.channels.by_channel)):
        # Below what the modules do without any profile, their number is the usual reason.
        found.insert(0 if crowded and below_standard else len(found), "load")
    if not ran_before and not documented:
        found.append("platform")
    found.append("by-hand")
    if not question.modules:
        found.append("slow-module")
    return found


def _lowest_sold_mts(question: RateQuestion) -> int | None:
    """Return the slowest rate that modules of the kind fitted are sold with, whatever their profiles are."""
    generation = common_generation(question.case.now.reading)
    return _LOWEST_SOLD_MTS.get(generation) if generation is not None else None


def _volts(question: RateQuestion, number: int) -> str | None:
    volts = {
        profile.voltage_mv
        for _, module in question.modules
        for profile in value_of(module.profiles) or ()
        if profile.number == number and profile.voltage_mv
    }
    return f"{volts.pop() / 1000:.2f}" if len(volts) == 1 else None
