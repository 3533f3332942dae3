"""The rate to be expected from what is known: one rate, or an interval where something is not known."""

from __future__ import annotations

from dataclasses import dataclass

from after_check.domain.cards import Card
from after_check.domain.facts import value_of
from after_check.domain.findings import ExpectedRate
from after_check.domain.modules import Module
from after_check.domain.readings import ProfileState
from after_check.judgement.case import ReadingView
from after_check.judgement.ceilings import platform_rate_mts
from after_check.judgement.running_rate import profile_of, standard_rate_mts
from after_check.standards.rates import lowest_standard_rate_mts


def _once(opened: list[str]) -> tuple[str, ...]:
    """Return what is open, the same thing of several modules said once."""
    said: dict[str, list[str]] = {}
    for words in opened:
        what, module, where = words.partition(" of the module in ")
        said.setdefault(what, []).extend([where] if module else [])
    return tuple(
        f"{what} of the modules in {', '.join(slots)}" if len(slots) > 1 else f"{what} of the module in {slots[0]}" if slots else what
        for what, slots in said.items()
    )


@dataclass(frozen=True, slots=True)
class _Interval:
    """What one module runs at on its own under a setting; a `high_mts` of None is not known. `open` says what is missing."""

    low_mts: int | None
    high_mts: int | None
    open: str = ""


def expected_rate(now: ReadingView, card: Card | None = None) -> ExpectedRate | None:
    """Return the lowest of what the modules, a firmware limit and the platform allow; None where no module states a rate.

    Low and high are the same where the profile setting and every module's rates are known. A platform of which no
    card tells is among what is open, and does not widen the interval: it can only lower the rate.
    """
    intervals = [_interval(name, module, now.profile) for name, module in now.reading.filled()]
    highs = [interval.high_mts for interval in intervals if interval.high_mts is not None]
    if not highs:
        return None
    limits = [*highs]
    opened = [interval.open for interval in intervals if interval.open]
    if now.reading.rate_cap_mts is not None:
        limits.append(now.reading.rate_cap_mts.value)
    platform_mts = platform_rate_mts(now, card)
    if platform_mts is not None:
        limits.append(platform_mts)
    else:
        opened.append("the platform's own limit (no card tells it)")
    high = min(limits)
    lows = [interval.low_mts for interval in intervals if interval.low_mts is not None]
    low = min([*lows, high]) if len(lows) == len(intervals) else None
    return ExpectedRate(low, high, _once(opened))


def _interval(name: str, module: Module, state: ProfileState | None) -> _Interval:
    where = f"the module in {name}" if name else "a module"
    generation, profiles = value_of(module.generation), value_of(module.profiles)
    lowest_mts = lowest_standard_rate_mts(generation) if generation is not None else None
    standard_mts, rated_mts = standard_rate_mts(module), value_of(module.rated_mts)
    floor_mts = standard_mts if standard_mts is not None else lowest_mts
    in_use = profile_of(module, state)
    if in_use is not None:
        return _Interval(in_use.rate_mts, in_use.rate_mts)
    if profiles == () or (state in (ProfileState.OFF, ProfileState.LOCKED) and standard_mts is not None):
        return _Interval(floor_mts, standard_mts, "" if standard_mts is not None else f"the standard rate of {where}")
    stated = [profile.rate_mts for profile in profiles or ()] if state not in (ProfileState.OFF, ProfileState.LOCKED) else []
    stated += [rate for rate in (standard_mts, rated_mts) if rate is not None]
    if not stated:
        return _Interval(lowest_mts, None, f"the rates of {where}")
    high = max(stated)
    if floor_mts == high:
        return _Interval(high, high)
    missing = (
        "the profile setting" if state is None and profiles else f"the standard rate of {where}" if profiles else f"the profiles of {where}"
    )
    return _Interval(floor_mts, high, missing)
