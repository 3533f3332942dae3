"""What is asked where the memory runs below its rate: the facts that the reasons of `rate_reasons.py` weigh, gathered once."""

from __future__ import annotations

from dataclasses import replace

from after_check.domain.codes import Code
from after_check.domain.facts import Source, value_of
from after_check.domain.findings import Ceiling, CeilingKind, Explanation, shown
from after_check.domain.messages import Value
from after_check.domain.modules import Module
from after_check.judgement.case import Case, ReadingView
from after_check.judgement.ceilings import ceilings_of
from after_check.judgement.rates import best_rate_mts, standard_rate_mts
from after_check.standards.rates import is_standard_rate, same_rate

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
        best = best_rate_mts(module)
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
