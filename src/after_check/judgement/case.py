"""What the rules look at: both readings worked out once, the promise, and the explanation of the rate."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

from after_check.domain.cards import Card, ProfileChoice
from after_check.domain.case_files import CaseFile, Figures, Needs
from after_check.domain.facts import Fact, Source, value_of
from after_check.domain.findings import Explanation
from after_check.domain.modules import Timings
from after_check.domain.promises import Promise
from after_check.domain.quantities import GIB
from after_check.domain.readings import BenchmarkOutcome, ProfileState, Reading, SoakResult, StartOutcome
from after_check.domain.tries import Blame, NextTry
from after_check.judgement.capacity import Capacity, look_at_capacity
from after_check.judgement.channels import Channels, look_at_channels
from after_check.judgement.machine_said import said_by_the_machine
from after_check.judgement.reconcile import reconciled
from after_check.judgement.running_rate import ElsewhereSaid, SettledRate, running_timings, settle_running_rate, stated_rates_mts
from after_check.judgement.standing_test import standing
from after_check.standards.rates import same_rate


@dataclass(frozen=True, slots=True)
class ReadingView:
    """One reading and what follows from it. Where the rate can't be told, `rate_asked` or `rate_contradiction` says why."""

    reading: Reading
    capacity: Capacity
    rate: SettledRate | None
    channels: Channels
    profile: ProfileState | None
    profile_source: Source | None
    profile_basis: str
    timings: Timings | None
    rate_asked: str = ""
    rate_contradiction: str = ""

    @property
    def rate_mts(self) -> int | None:
        """The running data rate in MT/s."""
        return self.rate.mts if self.rate is not None else None


@dataclass(frozen=True, slots=True)
class Case:
    """Everything that a rule may look at: the readings worked out, the promise, and every result that counts.

    `explanation` says why the rate is low, where it is; it is worked out once, when everything else is there. `seen` is
    whether the started machine said anything of what is fitted now.
    """

    before: ReadingView | None
    now: ReadingView
    promise: Promise
    card: Card | None = None
    soak: Fact[SoakResult] | None = None
    benchmark: Fact[BenchmarkOutcome] | None = None
    figures_now: Figures = field(default_factory=Figures)
    figures_before: Figures = field(default_factory=Figures)
    demand: Fact[int] | None = None
    start: Fact[StartOutcome] | None = None
    off_under_load: Fact[bool] | None = None
    tried: Blame | None = None
    next_try: NextTry | None = None
    explanation: Explanation | None = None
    seen: bool = True
    needs: Needs = field(default_factory=Needs)
    damaged: tuple[str, ...] = ()
    settled: frozenset[str] = frozenset()

    @property
    def limited_as_before(self) -> bool:
        """Whether the system used as little of the same amount on arrival: what is not used was not used before."""
        if self.before is None or not (self.before.capacity.capped_by_system and self.now.capacity.capped_by_system):
            return False
        before, now = self.before.capacity, self.now.capacity
        return (before.total_bytes or 0) >= (now.total_bytes or 0) and (before.usable_bytes or 0) <= (now.usable_bytes or 0) + GIB // 4


def _unseen(fitted: ReadingView) -> ReadingView:
    """Return what is left where the started machine said nothing: the modules, and no amount, rate or channels of its own."""
    nothing = replace(fitted.capacity, total_bytes=None, usable_bytes=None, now_bytes=None, source=None, basis="", uncounted_bytes=0)
    return replace(
        fitted, capacity=nothing, rate=None, channels=Channels(None, None, None, None, ""), profile=None, profile_source=None, timings=None
    )


def view(
    reading: Reading,
    card: Card | None = None,
    bandwidth_gbs: Fact[float] | None = None,
    kept_before: tuple[int, int] = (0, 0),
    elsewhere: ElsewhereSaid = ElsewhereSaid(),  # noqa: B008 - frozen
) -> ReadingView:
    """Reconcile a reading's sources and work out what follows from it, from its model, and from a measured bandwidth.

    `kept_before` is what this machine kept back of its memory on arrival, without a name and by name, in bytes.
    """
    reading = reconciled(reading)
    running = settle_running_rate(reading, _with_card(elsewhere, card))
    rate = running.settled
    state, source, basis = _profile(reading, rate.mts if rate else None)
    if state is None and card is not None and card.profile is ProfileChoice.LOCKED:
        state, source, basis = ProfileState.LOCKED, Source.WORKED_OUT, f"{card.name} offers no choice of profile"
    return ReadingView(
        reading=reading,
        capacity=look_at_capacity(reading, *kept_before),
        rate=rate,
        channels=look_at_channels(reading, card, rate.mts if rate else None, bandwidth_gbs),
        profile=state,
        profile_source=source,
        profile_basis=basis,
        timings=running_timings(reading, rate.mts if rate else None, state),
        rate_asked=running.asked,
        rate_contradiction=running.contradiction,
    )


def _with_card(elsewhere: ElsewhereSaid, card: Card | None) -> ElsewhereSaid:
    generation = elsewhere.generation or (card.generation if card is not None else None)
    return ElsewhereSaid(elsewhere.rates_mts, generation)


def _promised(promise: Promise) -> ElsewhereSaid:
    """Return what a promise tells of the rate that runs: the promised one, and those of the promised modules."""
    described = (*promise.modules, *((promise.each,) if promise.each is not None else ()))
    rates = {rate for module in described for rate in stated_rates_mts(module)}
    rates |= {promise.rate_mts} if promise.rate_mts is not None else set()
    generations = {value_of(module.generation) for module in described} - {None}
    return ElsewhereSaid(tuple(sorted(rates)), generations.pop() if len(generations) == 1 else None)


def make_case(file: CaseFile) -> Case:
    """Work a case file out: of two results the measured one counts, of a test the one that the file names before a typed one."""
    before = file.before
    now = _with_the_system_as_on_arrival(file.now or Reading(), before)
    start = now.start or file.start
    seen = said_by_the_machine(now, start)
    seen_before = view(before, file.card, file.figures_before.bandwidth_gbs) if before is not None else None
    kept_before = (seen_before.capacity.gap_bytes, seen_before.capacity.kept_back_bytes) if seen_before is not None else (0, 0)
    fitted = view(now, file.card, file.figures_now.bandwidth_gbs, kept_before, _promised(file.promise or Promise()))
    return Case(
        before=seen_before,
        now=fitted if seen else _unseen(fitted),
        promise=file.promise or Promise(),
        card=file.card,
        soak=file.soak or _typed_soak(now),
        benchmark=now.benchmark or file.benchmark,
        figures_now=_figures(file.figures_now, now),
        figures_before=_figures(file.figures_before, before) if before is not None else file.figures_before,
        demand=file.demand,
        start=start,
        off_under_load=now.off_under_load or file.off_under_load,
        tried=file.tried,
        next_try=file.next_try,
        seen=seen,
        needs=file.needs,
        damaged=file.damaged,
        settled=file.settled,
    )


def _with_the_system_as_on_arrival(now: Reading, before: Reading | None) -> Reading:
    """Return the reading now with what an upgrade of the memory does not change of the installed system: its width and its limit."""
    if before is None:
        return now
    bits, limit = now.system_bits or before.system_bits, now.system_limit_bytes or before.system_limit_bytes
    if bits is now.system_bits and limit is now.system_limit_bytes:
        return now
    return replace(
        now,
        system_bits=bits if bits is None or now.system_bits else replace(bits, where="on arrival"),
        system_limit_bytes=limit if limit is None or now.system_limit_bytes else replace(limit, where="on arrival"),
    )


def _typed_soak(now: Reading) -> Fact[SoakResult] | None:
    """Return the typed result that stands: who types errors and a clean run behind them has done something in between."""
    if now.soak is None:
        return None
    result = standing((*now.earlier_soaks, now.soak.value), lambda one: one, lambda failed, later: True)
    return replace(now.soak, value=result) if result is not None else None


def _figures(measured: Figures, typed: Reading) -> Figures:
    """Return what was measured, and what was typed where nothing was."""
    return Figures(
        read_gbs=measured.read_gbs or typed.read_gbs,
        write_gbs=measured.write_gbs or typed.write_gbs,
        copy_gbs=measured.copy_gbs or typed.copy_gbs,
        latency_ns=measured.latency_ns or typed.latency_ns,
        bandwidth_gbs=measured.bandwidth_gbs,
    )


def _profile(reading: Reading, rate_mts: int | None) -> tuple[ProfileState | None, Source | None, str]:
    """Return the profile setting: as read, else worked out where only a profile explains the rate that runs."""
    if reading.profile is not None:
        return reading.profile.value, reading.profile.source, ""
    if rate_mts is None or not reading.modules:
        return None, None, ""
    numbers: set[int] = set()
    for module in reading.modules:
        matching = [profile.number for profile in value_of(module.profiles) or () if same_rate(profile.rate_mts, rate_mts)]
        standard_mts = value_of(module.standard_mts)
        # Two profiles of one rate: what runs proves neither.
        if len(matching) != 1 or standard_mts is None or standard_mts >= rate_mts or same_rate(standard_mts, rate_mts):
            return None, None, ""
        numbers.add(matching[0])
    if len(numbers) == 1:
        return ProfileState(str(numbers.pop())), Source.WORKED_OUT, "only this profile explains the rate that runs"
    return None, None, ""
