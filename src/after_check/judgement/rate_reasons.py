"""Why the rate is below what it should be: exactly one reason, found by asking the likely ones in turn."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from after_check.domain.facts import Source, value_of
from after_check.domain.findings import Ceiling, CeilingKind, Code, Evidence, Explanation
from after_check.domain.modules import Module
from after_check.domain.readings import ProfileState
from after_check.judgement.case import Case, View
from after_check.judgement.ceilings import ceilings_of, limit_mts, modules_per_channel, platform_rate_mts
from after_check.judgement.rates import best_rate_mts, common_generation, highest_standard_mts, profile_of, standard_rate_mts
from after_check.standards.rates import STANDARD_RATES_MTS, is_standard_rate, same_rate

NamedModule = tuple[str, Module]


_STANDARD = (CeilingKind.STANDARD, CeilingKind.AS_RUNNING)
_MODULES = (CeilingKind.SLOWEST, CeilingKind.AS_SOLD, *_STANDARD, CeilingKind.PROFILE)
"""The kinds of ceilings by which a reason binds, the first that is there."""


def explain_rate(case: Case) -> Explanation | None:
    """Return why the running rate is below its target; None where it is not, or where either is unknown."""
    running_mts = case.now.rate_mts
    target_mts = target_rate_mts(case)
    if running_mts is None or target_mts is None or running_mts >= target_mts or same_rate(running_mts, target_mts):
        return None
    question = _Question(case, running_mts, target_mts)
    for reason in (_pending, _capped, _slowest, _platform, _out_of_reach, _locked, _profile_off, _lower_profile):
        found = reason(question)
        if found is not None:
            return _with_others_at_this_rate(question, found)
    return _unexplained(question)


def _with_others_at_this_rate(question: _Question, found: Explanation) -> Explanation:
    """Name what else stops at the very same rate: each has to be lifted before the rate goes up."""
    others = [words for words in _also(question, found.code) if words]
    if not others:
        return found
    reason, step = (" ".join(part) for part in zip(*others, strict=True))
    return replace(found, reason=f"{found.reason} {reason}", next=f"{found.next} {step}")


def _also(question: _Question, said: Code) -> Iterator[tuple[str, str]]:
    case, running_mts = question.case, question.running_mts
    platform_mts, card = platform_rate_mts(case.now, case.card), case.card
    highest = card.highest_rate_mts if card is not None else None
    by_platform = (Code.RATE_LOAD, Code.RATE_PLATFORM, Code.RATE_PROMISE_OUT_OF_REACH)
    if said not in by_platform and platform_mts is not None and same_rate(platform_mts, running_mts) and card is not None:
        fewer = highest is not None and highest > running_mts and not same_rate(highest, running_mts)
        yield (
            f"{card.name} stops at {platform_mts} MT/s with this load, too.",
            "Both have to be lifted: fit fewer modules to a channel as well." if fewer else "The machine itself goes no faster.",
        )
    standard_mts, without = question.lowest_standard_mts(), question.state in (ProfileState.OFF, ProfileState.LOCKED)
    if said in (Code.RATE_LOAD, Code.RATE_CAPPED) and without and standard_mts is not None and same_rate(standard_mts, running_mts):
        yield (
            f"Without a profile the modules run no faster than {standard_mts} MT/s, either.",
            "Both have to be lifted: turn the profile on as well.",
        )
    cap = case.now.reading.rate_cap_mts
    if said is not Code.RATE_CAPPED and cap is not None and same_rate(cap.value, running_mts):
        yield f"The firmware setup limits the rate to {cap.value} MT/s, too.", "Set that to automatic as well."


def target_rate_mts(case: Case) -> int | None:
    """Return the promised rate, or the best rate that every module states where none was promised."""
    if case.promise.rate_mts is not None:
        return case.promise.rate_mts
    best = [best_rate_mts(module) for module in case.now.reading.modules]
    known = [rate for rate in best if rate is not None]
    return min(known) if known and len(known) == len(best) else None


class _Question:
    """The facts that the reasons weigh, gathered once."""

    def __init__(self, case: Case, running_mts: int, target_mts: int) -> None:
        self.case = case
        self.running_mts = running_mts
        self.target_mts = target_mts
        self.modules: tuple[NamedModule, ...] = tuple(case.now.reading.filled())
        self.state = case.now.profile
        self.ceilings = ceilings_of(case.now, case.promise, case.card)

    def answer(
        self,
        code: Code,
        binding: tuple[CeilingKind, ...],
        reason: str,
        step: str,
        sure: float,
        slots: tuple[str, ...] = (),
    ) -> Explanation:
        bound = next((ceiling for kind in binding for ceiling in self.ceilings if ceiling.kind is kind and _may_bind(ceiling)), None)
        ceilings = tuple(replace(ceiling, binding=ceiling is bound) for ceiling in self.ceilings)
        evidence = [Evidence(f"runs at {self.running_mts} MT/s", _rate_source(self.case.now))]
        if self.case.promise.rate_mts is not None:
            evidence.append(Evidence(f"promised {self.target_mts} MT/s", Source.TYPED))
        if self.state is not None and self.case.now.profile_source is not None:
            evidence.append(Evidence(f"profile {self.state.value}", self.case.now.profile_source))
        promised = self.case.promise.rate_mts is not None
        return Explanation(code, self.target_mts, self.running_mts, promised, reason, step, sure, ceilings, tuple(evidence), slots)

    def reaches_target(self, module: Module) -> bool | None:
        """Whether the module states the target rate in any way; None where it states nothing."""
        best = best_rate_mts(module)
        if best is None:
            return None
        if best >= self.target_mts or same_rate(best, self.target_mts):
            return True
        # Profiles that were not read are not "none": only what it is sold as, or a list that is there, says where it ends.
        sold_as = module.rated_mts is not None and module.rated_mts.source is Source.TYPED
        return False if module.profiles is not None or sold_as else None

    def lowest_standard_mts(self) -> int | None:
        standards = [standard_rate_mts(module) for _, module in self.modules]
        known = [rate for rate in standards if rate is not None]
        return min(known) if known and len(known) == len(standards) else None


def _may_bind(ceiling: Ceiling) -> bool:
    """Return whether a ceiling can explain what runs: a profile that is not in use cannot."""
    return ceiling.kind is not CeilingKind.PROFILE or ceiling.in_use


def _pending(question: _Question) -> Explanation | None:
    pending = question.case.now.reading.restart_pending
    if pending is None or not pending.value:
        return None
    return question.answer(
        Code.RATE_PENDING_RESTART,
        (),
        "A changed setting waits for a restart; the rate shown is the one from before it.",
        "Restart the machine and read again.",
        0.9,
    )


def _capped(question: _Question) -> Explanation | None:
    """A limit that somebody set in the firmware setup is the rate that runs."""
    cap = question.case.now.reading.rate_cap_mts
    if cap is None or not same_rate(cap.value, question.running_mts):
        return None
    return question.answer(
        Code.RATE_CAPPED,
        (CeilingKind.FIRMWARE,),
        f"The firmware setup limits the memory to {cap.value} MT/s, whatever the modules can do.",
        "Set the memory rate in the firmware setup to automatic, save, start, and read again.",
        0.95,
    )


def _slowest(question: _Question) -> Explanation | None:
    """Some modules reach the target and some do not, and the slowest of those explains the rate that runs."""
    slow = [(name, module) for name, module in question.modules if question.reaches_target(module) is False]
    if not slow or len(slow) == len(question.modules):
        return _slowest_standard(question) if not slow else None
    slow_mts = min(limit_mts(module, question.state) for _, module in slow)
    if not same_rate(slow_mts, question.running_mts):
        return None
    slots = tuple(name for name, module in slow if same_rate(limit_mts(module, question.state), slow_mts))
    reached_mts = [best_rate_mts(module) or 0 for _, module in question.modules if question.reaches_target(module)]
    others = f"; the others would reach {min(reached_mts)}" if reached_mts else ""
    return question.answer(
        Code.RATE_SLOWEST_MODULE,
        _MODULES,
        f"{_named(slow)} {'goes' if len(slow) == 1 else 'go'} no faster than {slow_mts} MT/s, and all modules run "
        f"at the pace of the slowest{others}.",
        f"Replace {_those(slow)} with modules that reach {question.target_mts} MT/s, take "
        f"{'it' if len(slow) == 1 else 'them'} out, or agree on {slow_mts} MT/s with the customer.",
        0.95,
        slots,
    )


def _slowest_standard(question: _Question) -> Explanation | None:
    """Every module states the target, but one needs a profile for it that another one does not hold."""
    if question.state is ProfileState.LOCKED:
        return None
    holders = [module for module in question.modules if value_of(module[1].profiles)]
    without = [module for module in question.modules if value_of(module[1].profiles) == ()]
    if not holders or not without:
        return None
    lowest = min(holders, key=lambda one: highest_standard_mts(one[1]) or question.target_mts)
    holder_mts = standard_rate_mts(lowest[1])
    if holder_mts is None or not same_rate(holder_mts, question.running_mts):
        return None
    return question.answer(
        Code.RATE_SLOWEST_MODULE,
        _MODULES,
        f"Without its profile {_named([lowest])} runs at {holder_mts} MT/s, and {_named(without)} "
        f"{'has' if len(without) == 1 else 'have'} no profile, so the profile cannot be chosen for all.",
        f"Use modules that all hold the same profile, or that all reach {question.target_mts} MT/s as a standard rate.",
        0.8,
        (lowest[0],) if lowest[0] else (),
    )


def _platform(question: _Question) -> Explanation | None:
    """The card's rate for this load is the one that runs, and it is below the target."""
    card, now = question.case.card, question.case.now
    platform_mts = platform_rate_mts(now, card)
    highest = card.highest_rate_mts if card is not None else None
    if card is None or platform_mts is None or highest is None or not same_rate(platform_mts, question.running_mts):
        return None
    count = modules_per_channel(now)
    if highest >= question.target_mts or same_rate(highest, question.target_mts):
        return question.answer(
            Code.RATE_LOAD,
            (CeilingKind.PLATFORM,),
            f"With {count} modules in a channel {card.name} runs at {platform_mts} MT/s; with less load it reaches {highest}.",
            f"Fit fewer and larger modules, one in a channel, or agree on {platform_mts} MT/s with the customer.",
            0.9,
        )
    promised = question.case.promise.rate_mts is not None
    return question.answer(
        Code.RATE_PROMISE_OUT_OF_REACH if promised else Code.RATE_PLATFORM,
        (CeilingKind.PLATFORM,),
        f"{card.name} itself stops at {platform_mts} MT/s, whatever modules are fitted.",
        f"Agree on {platform_mts} MT/s with the customer." if promised else "Nothing to do; faster modules bring nothing here.",
        0.9,
    )


def _out_of_reach(question: _Question) -> Explanation | None:
    """No module states the promised rate in any way, and they run as fast as they say."""
    if not question.modules or any(question.reaches_target(module) is not False for _, module in question.modules):
        return None
    best = min(best_rate_mts(module) or 0 for _, module in question.modules)
    if not same_rate(best, question.running_mts):
        return None
    return question.answer(
        Code.RATE_PROMISE_OUT_OF_REACH,
        _MODULES,
        f"The fitted modules state {best} MT/s at most, and that is what they run at.",
        f"Fit modules that reach {question.target_mts} MT/s, or change the promise with the customer.",
        0.9,
    )


def _locked(question: _Question) -> Explanation | None:
    if question.state is not ProfileState.LOCKED:
        return None
    return question.answer(
        Code.RATE_LOCKED,
        _STANDARD,
        "The firmware of this machine offers no choice of profile, so the modules run at a standard rate.",
        f"Fit modules whose standard rate is {question.target_mts} MT/s, ask the processor's maker for a tool that sets the "
        "profile, or change the promise with the customer.",
        0.95,
    )


def _profile_off(question: _Question) -> Explanation | None:
    """The profile that holds the target is not applied, and the rate that runs is the one without it."""
    if question.state not in (ProfileState.OFF, ProfileState.AUTO, None):
        return None
    if question.modules and all(value_of(module.profiles) == () for _, module in question.modules):
        return None
    profiles = [_profile_reaching(module, question.target_mts) for _, module in question.modules]
    held = bool(profiles) and all(profile is not None for profile in profiles)
    if not held and question.state is ProfileState.OFF and _only_by_profile(question):
        return _beyond_standard(question)
    promised_by_profile = question.case.promise.profile not in (None, ProfileState.OFF, ProfileState.LOCKED)
    if not held and not (promised_by_profile and question.state is ProfileState.OFF):
        return None
    standard_mts = question.lowest_standard_mts()
    if standard_mts is not None and not same_rate(standard_mts, question.running_mts):
        return None
    if standard_mts is None and not _runs_at_a_standard_rate(question):
        return None
    sure = 0.97 if standard_mts is not None else 0.85
    number = next((profile for profile in profiles if profile is not None), 1)
    if question.state is not ProfileState.OFF:
        sure -= 0.25
        doubt = "whether one is on was not read" if question.state is None else "the choice is left to the firmware"
        reason = f"{question.running_mts} MT/s is the rate without a profile; {doubt}."
    elif standard_mts is not None:
        reason = f"The memory profile is not applied: {standard_mts} MT/s is the fastest standard rate of the modules."
    else:
        reason = f"The memory profile is not applied; {question.running_mts} MT/s is a standard rate."
    if held:
        reason += f" Profile {number} rates them {question.target_mts}{_volts(question, number)}."
    return question.answer(
        Code.RATE_PROFILE_OFF,
        _STANDARD,
        reason,
        f"Turn {_profile_words(question, number)} on in the firmware setup, save, start, and read again.",
        round(sure, 2),
    )


def _only_by_profile(question: _Question) -> bool:
    """Return whether the target is beyond every standard rate of the modules' generation, and what runs is a standard one."""
    generation = common_generation(question.case.now.reading)
    fastest = max(STANDARD_RATES_MTS.get(generation, ()), default=None) if generation is not None else None
    return fastest is not None and question.target_mts > fastest * 1.006 and _runs_at_a_standard_rate(question)


def _beyond_standard(question: _Question) -> Explanation:
    return question.answer(
        Code.RATE_PROFILE_OFF,
        _STANDARD,
        f"No standard has a rate of {question.target_mts} MT/s: modules reach it by a profile only, and the profile is off.",
        "Turn the profile on in the firmware setup, save, start, and read again.",
        0.85,
    )


def _profile_words(question: _Question, number: int) -> str:
    """Return which profile to turn on; its number may differ from module to module."""
    numbers = {name: _profile_reaching(module, question.target_mts) for name, module in question.modules}
    if len(set(numbers.values())) < 2:
        return f"profile {number}"
    each = ", ".join(f"number {other} in {name or 'one module'}" for name, other in numbers.items())
    return f"the profile of {question.target_mts} MT/s ({each})"


def _lower_profile(question: _Question) -> Explanation | None:
    """A profile is on, and another one that every module holds is the faster one."""
    if question.state is None or not question.modules:
        return None
    in_use = [profile_of(module, question.state) for _, module in question.modules]
    rates = [profile.rate_mts for profile in in_use if profile is not None]
    if len(rates) < len(in_use) or not same_rate(min(rates), question.running_mts):
        return None
    better = [_profile_reaching(module, question.target_mts) for _, module in question.modules]
    number = better[0]
    if number is None or any(other is None for other in better):
        return None
    which = _profile_words(question, number)
    return question.answer(
        Code.RATE_PROFILE_LOWER,
        (CeilingKind.PROFILE,),
        f"Profile {question.state.value} is on, which rates the modules {min(rates)} MT/s; {which} rates them {question.target_mts}."
        if which == f"profile {number}"
        else f"Profile {question.state.value} is on, and by it one of the modules runs at {min(rates)} MT/s only.",
        f"Choose {which} in the firmware setup, save, start, and read again.",
        0.95,
    )


def _unexplained(question: _Question) -> Explanation:
    candidates = "; ".join(_candidates(question))
    return question.answer(
        Code.RATE_UNEXPLAINED,
        (),
        f"{question.running_mts} MT/s is none of the rates that the modules state for these settings. Most likely first: {candidates}.",
        "Look at the profile and rate settings in the firmware setup, type what is there, and read again.",
        0.4,
    )


def _candidates(question: _Question) -> list[str]:
    found: list[str] = []
    has_none = bool(question.modules) and all(value_of(module.profiles) == () for _, module in question.modules)
    before_mts = question.case.before.rate_mts if question.case.before is not None else None
    ran_before = before_mts is not None and (before_mts > question.running_mts and not same_rate(before_mts, question.running_mts))
    if question.state is ProfileState.OFF and _only_by_profile(question):
        found.append("the profile is off, and no standard rate is as fast as this")
    elif question.state in (None, ProfileState.AUTO) and not has_none:
        found.append("the profile is off (its setting was not read)")
    elif question.state is not None and (question.state.number is not None or question.state is ProfileState.ON):
        found.append("the profile is on but training fell back to a lower rate")
    if len(question.modules) > 2:
        found.append("the number of modules in a channel lowers the rate")
    if not ran_before:
        found.append("the processor or the board stops at this rate")
    found.append("a rate was set by hand in the firmware setup")
    if not question.modules:
        found.append("a slow module, as none of the modules could be read")
    return found


def _profile_reaching(module: Module, target_mts: int) -> int | None:
    """Return the number of the first profile of the module that reaches the target."""
    for profile in value_of(module.profiles) or ():
        if profile.rate_mts >= target_mts or same_rate(profile.rate_mts, target_mts):
            return profile.number
    return None


def _runs_at_a_standard_rate(question: _Question) -> bool:
    generations = {value_of(module.generation) for _, module in question.modules} - {None}
    return len(generations) == 1 and any(
        generation is not None and is_standard_rate(question.running_mts, generation) for generation in generations
    )


def _volts(question: _Question, number: int) -> str:
    volts = {
        profile.voltage_mv
        for _, module in question.modules
        for profile in value_of(module.profiles) or ()
        if profile.number == number and profile.voltage_mv
    }
    return f" at {volts.pop() / 1000:.2f} V" if len(volts) == 1 else ""


def _rate_source(now: View) -> Source:
    return now.rate.source if now.rate is not None else Source.WORKED_OUT


def _named(modules: list[NamedModule]) -> str:
    names = [name for name, _ in modules if name]
    if len(names) == len(modules):
        return f"The module in {names[0]}" if len(names) == 1 else f"The modules in {', '.join(names[:-1])} and {names[-1]}"
    return "One module" if len(modules) == 1 else f"{len(modules)} modules"


def _those(modules: list[NamedModule]) -> str:
    text = _named(modules)
    return text[0].lower() + text[1:]
