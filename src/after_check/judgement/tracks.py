"""The tracks: every quantity on arrival, as promised and now."""

from __future__ import annotations

import functools
from collections.abc import Callable

from after_check.domain.facts import Fact, value_of
from after_check.domain.findings import ChannelPart, Track
from after_check.domain.modules import Timings
from after_check.domain.quantities import GIB, first_word_ns, peak_bandwidth_gbs
from after_check.domain.readings import ProfileState, Redundancy
from after_check.domain.standing import Quantity, TrackStatus
from after_check.judgement.capacity import kept_by_usable
from after_check.judgement.case import Case, ReadingView
from after_check.judgement.channels import channel_parts
from after_check.judgement.running_rate import profile_of
from after_check.standards.rates import same_rate


def tracks_of(case: Case) -> tuple[Track, ...]:
    """Return the tracks of a case, in the order in which they are shown; one with nothing on it is left out."""
    built = [build(case) for build in _TRACKS]
    return tuple(track for track in built if not (track.before is None and track.promised is None and track.now is None))


def capacity_status(case: Case) -> TrackStatus | None:
    """Return how the amount of memory stands against the promise."""
    return _capacity(case).status


def _capacity(case: Case) -> Track:
    promised, now = case.promise.total_bytes, case.now.capacity.now_bytes
    status = _status(promised, now, higher_is_over=True)
    if promised is not None and now is not None and now < promised and case.now.capacity.total_bytes is None:
        smallest = min((size for module in case.promise.modules if (size := value_of(module.size_bytes))), default=None)
        if kept_by_usable(now, promised, smallest):
            status = TrackStatus.KEPT
    held_in_reserve = case.promise.redundancy is Redundancy.SPARE is value_of(case.now.reading.redundancy)
    fitted = case.now.capacity.fitted_bytes
    if held_in_reserve and promised is not None and now is not None and promised / 2 <= now < promised <= (fitted or 0):
        status = TrackStatus.KEPT  # All modules are there, and what is not counted is the reserve that was promised.
    if case.limited_as_before and promised is not None and (case.now.capacity.total_bytes or 0) >= promised:
        status = TrackStatus.KEPT  # The system used no more of it on arrival either, and nobody promised another system.
    before = case.before.capacity.now_bytes if case.before else None
    return Track(Quantity.CAPACITY, _gib(before), _gib(promised), _gib(now), "GiB", status, _basis_of_capacity(case.now))


def _rate(case: Case) -> Track:
    promised, now = case.promise.rate_mts, case.now.rate_mts
    status = _status(promised, now, higher_is_over=True)
    if promised is not None and now is not None and same_rate(promised, now):
        status = TrackStatus.KEPT
    basis = "" if case.now.rate is None else f"{case.now.rate.source.value}, {case.now.rate.doubt or 'shown as ' + case.now.rate.shown}"
    return Track(Quantity.RATE, case.before.rate_mts if case.before else None, promised, now, "MT/s", status, basis)


def _channels(case: Case) -> Track:
    promised, now = case.promise.channels, case.now.channels.count
    status = _status(promised, now, higher_is_over=True)
    source = f"{case.now.channels.source.value}" if case.now.channels.source else ""
    basis = ", ".join(part for part in (source, case.now.channels.basis.removeprefix("worked out ")) if part)
    before = case.before.channels.count if case.before else None
    return Track(Quantity.CHANNELS, before, promised, now, "channels", status, basis)


def _profile(case: Case) -> Track:
    promised, now = case.promise.profile, case.now.profile
    before = case.before.profile if case.before else None
    basis = ", ".join(part for part in (case.now.profile_source.value if case.now.profile_source else "", case.now.profile_basis) if part)
    return Track(Quantity.PROFILE, _word(before), _word(promised), _word(now), "", profile_status(case), basis)


def profile_status(case: Case) -> TrackStatus | None:
    """Return how the profile setting stands against the promise."""
    promised, now = case.promise.profile, case.now.profile
    if promised is None or promised is ProfileState.LOCKED:
        return None
    if now is None:
        return TrackStatus.UNKNOWN
    if promised is ProfileState.OFF and now is ProfileState.AUTO:
        return TrackStatus.UNKNOWN
    if promised is ProfileState.OFF:
        return TrackStatus.KEPT if now in (ProfileState.OFF, ProfileState.LOCKED) else TrackStatus.SHORT
    if now in (ProfileState.OFF, ProfileState.LOCKED):
        return TrackStatus.SHORT
    if now is ProfileState.AUTO or (now is ProfileState.ON and promised is not ProfileState.ON):
        # Neither names a number; only the rate can show that it is the promised one.
        rate, target = case.now.rate_mts, case.promise.rate_mts
        reached = rate is not None and target is not None and (rate >= target or same_rate(rate, target))
        return TrackStatus.KEPT if reached and rate is not None and not _several_profiles_at(case, rate) else TrackStatus.UNKNOWN
    return TrackStatus.KEPT if promised is ProfileState.ON or now is promised else TrackStatus.SHORT


def _several_profiles_at(case: Case, rate_mts: int) -> bool:
    """Return whether a module holds two profiles with the rate that runs, so that the rate does not tell which one is on."""
    modules = (*case.now.reading.modules, *case.promise.modules)
    held = [[one for one in value_of(module.profiles) or () if same_rate(one.rate_mts, rate_mts)] for module in modules]
    return any(len(profiles) > 1 for profiles in held)


def _peak(case: Case) -> Track:
    promised = _promised_peak_gbs(case)
    now = view_peak_gbs(case.now)
    before = view_peak_gbs(case.before) if case.before else None
    status = _status(promised, now, higher_is_over=True)
    if promised is not None and now is not None and same_rate(promised, now):
        status = TrackStatus.KEPT
    basis = "worked out from rate and channels"
    return Track(Quantity.PEAK, _rounded(before), _rounded(promised), _rounded(now), "GB/s", _not_claimed(status), basis)


def _first_word(case: Case) -> Track:
    promised = _latency_ns(_promised_timings(case), case.promise.rate_mts)
    now = _latency_ns(case.now.timings, case.now.rate_mts)
    before = _latency_ns(case.before.timings, case.before.rate_mts) if case.before else None
    status = _status(promised, now, higher_is_over=False)
    if promised is not None and now is not None and abs(now - promised) < 0.1:
        status = TrackStatus.KEPT
    if case.promise.profile is not None or not any(module.timings for module in case.promise.modules):
        status = _not_claimed(status)
    basis = "worked out from CAS latency and rate"
    return Track(Quantity.FIRST_WORD, _rounded(before), _rounded(promised), _rounded(now), "ns", status, basis, lower_is_better=True)


def _not_claimed(status: TrackStatus | None) -> TrackStatus | None:
    """Return how a figure stands that is worked out on both sides: nobody promised it, so nothing keeps a promise."""
    return None if status in (TrackStatus.KEPT, TrackStatus.OVER) else status


_FIELDS = {
    Quantity.READ: ("read_gbs", "GB/s"),
    Quantity.WRITE: ("write_gbs", "GB/s"),
    Quantity.COPY: ("copy_gbs", "GB/s"),
    Quantity.LATENCY: ("latency_ns", "ns"),
}


def measured_track(case: Case, quantity: Quantity) -> Track:
    """Return the track of a quantity that only a benchmark knows; it is empty where it was not promised."""
    field, unit = _FIELDS[quantity]
    lower = unit == "ns"
    promised: float | None = getattr(case.promise, field)
    if promised is None:
        return Track(quantity, None, None, None, unit, None)
    now: Fact[float] | None = getattr(case.figures_now, field)
    before: Fact[float] | None = getattr(case.figures_before, field)
    value = value_of(now)
    kept = value is not None and (value <= promised if lower else value >= promised)
    status = TrackStatus.UNKNOWN if value is None else TrackStatus.KEPT if kept else TrackStatus.SHORT
    basis = f"{now.source.value}, {now.where}".rstrip(", ") if now is not None else ""
    return Track(quantity, _rounded(value_of(before)), promised, _rounded(value), unit, status, basis, lower_is_better=lower)


_TRACKS: tuple[Callable[[Case], Track], ...] = (
    *(_capacity, _rate, _channels, _profile, _peak, _first_word),
    *(functools.partial(measured_track, quantity=quantity) for quantity in _FIELDS),
)


def _status(promised: float | None, now: float | None, higher_is_over: bool) -> TrackStatus | None:
    if promised is None:
        return None
    if now is None:
        return TrackStatus.UNKNOWN
    if now == promised:
        return TrackStatus.KEPT
    return TrackStatus.OVER if (now > promised) is higher_is_over else TrackStatus.SHORT


def _peak_gbs(rate_mts: int | None, channels: int | None) -> float | None:
    return peak_bandwidth_gbs(rate_mts, channels) if rate_mts and channels else None


def view_peak_gbs(view: ReadingView) -> float | None:
    """Return the highest possible bandwidth in GB/s; of unequal channels that of each part, weighted by its bytes."""
    return _weighted_gbs(view.rate_mts, view.channels.count, view.channels.parts)


def _promised_peak_gbs(case: Case) -> float | None:
    """Return the bandwidth that was promised; of modules that differ, one to a channel, the weighted one."""
    promise = case.promise
    sizes = [size for module in promise.modules if (size := value_of(module.size_bytes)) is not None]
    one_each = (promise.channels or 0) > 1 and len(sizes) == len(promise.modules) == promise.channels
    return _weighted_gbs(promise.rate_mts, promise.channels, channel_parts(sizes) if one_each else ())


def _weighted_gbs(rate_mts: int | None, channels: int | None, parts: tuple[ChannelPart, ...]) -> float | None:
    if not rate_mts or len(parts) < 2 or channels is None:
        return _peak_gbs(rate_mts, channels)
    whole = sum(part.size_bytes for part in parts)
    return sum(part.size_bytes * peak_bandwidth_gbs(rate_mts, part.ways) for part in parts) / whole


def _promised_timings(case: Case) -> Timings | None:
    if case.promise.profile is not None and case.promise.modules:
        profiles = [profile_of(module, case.promise.profile) for module in case.promise.modules]
        timings = {profile.timings for profile in profiles if profile is not None}
        if len(timings) == 1 and None not in timings:
            return timings.pop()
    return case.promise.timings


def _latency_ns(timings: Timings | None, rate_mts: int | None) -> float | None:
    return first_word_ns(timings.cl, rate_mts) if timings and rate_mts else None


def _basis_of_capacity(view: ReadingView) -> str:
    return f"{view.capacity.source.value}, {view.capacity.basis}" if view.capacity.source else ""


def _gib(size_bytes: int | None) -> float | None:
    return None if size_bytes is None else round(size_bytes / GIB, 3)


def _rounded(value: float | None) -> float | None:
    return None if value is None else round(value, 2)


def _word(state: ProfileState | None) -> str | None:
    return None if state is None else state.value
