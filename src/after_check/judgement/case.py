"""What the rules look at: both readings worked out once, the promise, and the explanation of the rate."""

from __future__ import annotations

from dataclasses import dataclass

from after_check.domain.cards import Card, ProfileChoice
from after_check.domain.facts import Source, value_of
from after_check.domain.modules import Timings
from after_check.domain.promises import Promise
from after_check.domain.readings import ProfileState, Reading
from after_check.domain.tries import Blame
from after_check.judgement.capacity import Capacity, look_at_capacity
from after_check.judgement.channels import Channels, look_at_channels
from after_check.judgement.rates import SettledRate, running_timings, settle_running_rate
from after_check.judgement.reconcile import reconciled
from after_check.standards.rates import same_rate


@dataclass(frozen=True, slots=True)
class View:
    """One reading and what follows from it alone."""

    reading: Reading
    capacity: Capacity
    rate: SettledRate | None
    channels: Channels
    profile: ProfileState | None
    profile_source: Source | None
    profile_basis: str
    timings: Timings | None

    @property
    def rate_mts(self) -> int | None:
        """The running data rate in MT/s."""
        return self.rate.mts if self.rate is not None else None


@dataclass(frozen=True, slots=True)
class Case:
    """Everything that a rule may look at."""

    before: View | None
    now: View
    promise: Promise
    card: Card | None = None
    tried: Blame | None = None


def view(reading: Reading, card: Card | None = None) -> View:
    """Reconcile a reading's sources and work out what follows from it, and from what is known of its model."""
    reading = reconciled(reading)
    rate = settle_running_rate(reading)
    state, source, basis = _profile(reading, rate.mts if rate else None)
    if state is None and card is not None and card.profile is ProfileChoice.LOCKED:
        state, source, basis = ProfileState.LOCKED, Source.WORKED_OUT, f"{card.name} offers no choice of profile"
    return View(
        reading=reading,
        capacity=look_at_capacity(reading),
        rate=rate,
        channels=look_at_channels(reading, card, rate.mts if rate else None),
        profile=state,
        profile_source=source,
        profile_basis=basis,
        timings=running_timings(reading, rate.mts if rate else None, state),
    )


def make_case(
    now: Reading, before: Reading | None = None, promise: Promise | None = None, card: Card | None = None, tried: Blame | None = None
) -> Case:
    """Return the case of a machine: the reading now, and what there is besides."""
    return Case(view(before, card) if before is not None else None, view(now, card), promise or Promise(), card, tried)


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
        if not matching or standard_mts is None or standard_mts >= rate_mts or same_rate(standard_mts, rate_mts):
            return None, None, ""
        numbers.add(matching[0])
    if len(numbers) == 1:
        return ProfileState(str(numbers.pop())), Source.WORKED_OUT, "only this profile explains the rate that runs"
    return None, None, ""
