"""What caps the data rate: the promise, the modules' profiles and standard rates, the slowest module."""

from __future__ import annotations

from after_check.domain.cards import Card
from after_check.domain.facts import value_of
from after_check.domain.findings import Ceiling, CeilingKind
from after_check.domain.modules import Module
from after_check.domain.promises import Promise
from after_check.domain.readings import ProfileState
from after_check.judgement.case import ReadingView
from after_check.judgement.running_rate import best_rate_mts, profile_of, standard_rate_mts
from after_check.standards.rates import is_standard_rate, same_rate


def modules_per_channel(now: ReadingView) -> int:
    """Return the largest number of modules that share a channel, as far as the channels are known; at least 1."""
    return max((len(slots) for _, slots in now.channels.by_channel), default=1)


def platform_rate_mts(now: ReadingView, card: Card | None) -> int | None:
    """Return the card's rate for the fitted load: modules in a channel, and their ranks where the card tells them apart.

    What is documented for more modules in a channel is reached with fewer at the least: it is no limit, unless the
    memory runs at just that.
    """
    if card is None:
        return None
    ranks = max((rank for module in now.reading.modules if (rank := value_of(module.ranks))), default=None)
    count = modules_per_channel(now)
    known_mts, least_mts = card.rate_for(count, ranks), card.at_least_for(count, ranks)
    stops_there = least_mts is not None and now.rate_mts is not None and same_rate(least_mts, now.rate_mts)
    return least_mts if known_mts is None and stops_there else known_mts


def ceilings_of(now: ReadingView, promise: Promise, card: Card | None = None) -> tuple[Ceiling, ...]:
    """Return what caps the rate of a reading under a promise, without saying which one binds."""
    modules = now.reading.modules
    found: list[Ceiling] = []
    if promise.rate_mts is not None:
        found.append(Ceiling(CeilingKind.PROMISE, promise.rate_mts))
    numbers = {profile.number for module in modules for profile in value_of(module.profiles) or ()}
    for number in sorted(numbers):
        rates = [profile.rate_mts for module in modules for profile in value_of(module.profiles) or () if profile.number == number]
        in_use = now.profile is not None and now.profile.number == number
        found.append(Ceiling(CeilingKind.PROFILE, min(rates), number=number, in_use=in_use))
    platform_mts = platform_rate_mts(now, card)
    if platform_mts is not None:
        found.append(Ceiling(CeilingKind.PLATFORM, platform_mts, per_channel=modules_per_channel(now)))
    if now.reading.rate_cap_mts is not None:
        found.append(Ceiling(CeilingKind.FIRMWARE, now.reading.rate_cap_mts.value))
    standards = [rate for module in modules if (rate := standard_rate_mts(module)) is not None]
    if standards:
        found.append(Ceiling(CeilingKind.STANDARD, min(standards)))
    elif modules and now.rate is not None and (rated := [rate for module in modules if (rate := value_of(module.rated_mts))]):
        generation = value_of(modules[0].generation)
        if now.rate.mts < min(rated) and generation is not None and is_standard_rate(now.rate.mts, generation):
            found.append(Ceiling(CeilingKind.AS_RUNNING, now.rate.mts))
    best = [rate for module in modules if (rate := best_rate_mts(module)) is not None]
    if best and (min(best) < max(best) or not (standards or numbers)):
        limits = [limit_mts(module, now.profile) for module in modules if best_rate_mts(module) is not None]
        found.append(Ceiling(CeilingKind.SLOWEST if min(best) < max(best) else CeilingKind.AS_SOLD, min(limits)))
    return tuple(found)


def limit_mts(module: Module, state: ProfileState | None) -> int:
    """Return the fastest rate of the module under a profile setting, as far as it states any."""
    profile = profile_of(module, state)
    if profile is not None:
        return profile.rate_mts
    standard_mts = standard_rate_mts(module)
    if state in (ProfileState.OFF, ProfileState.LOCKED) and standard_mts is not None:
        return standard_mts
    if not value_of(module.profiles) and standard_mts is not None:
        return standard_mts
    return best_rate_mts(module) or 0
