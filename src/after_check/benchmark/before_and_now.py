"""Before and now: are they comparable, and is anything better, worse or the same?"""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from after_check.benchmark.statistics import shift
from after_check.domain.benchmark import BenchmarkRecord, Change, Comparison, Conditions, Series

ONE_RUN_EACH = "one run each: proves nothing"
_LEAST_SHARE = 0.02
"""A difference of less than two per cent is not called one, however sure it is: nobody will notice."""
_MOST_LOAD = 0.5
_MOST_STOLEN = 0.02
_HOTTER_CELSIUS = 15.0


def why_not_comparable(before: Conditions, now: Conditions) -> tuple[str, ...]:
    """Return what differs in a way that makes a comparison prove nothing; empty where nothing is known to."""
    found: list[str] = []
    for name, one, other in (
        ("version of the plan", before.plan, now.plan),
        ("threads", before.threads, now.threads),
        ("size of the buffers", before.buffer_bytes, now.buffer_bytes),
        ("power source", before.power, now.power),
        ("speed setting of the processor", before.governor, now.governor),
        ("system", before.system, now.system),
        ("version of this program", before.versions, now.versions),
    ):
        if one and other and one != other:
            found.append(f"{name}: {one} before, {other} now")
    for word, conditions in (("before", before), ("now", now)):
        if conditions.stolen is not None and conditions.stolen > _MOST_STOLEN:
            found.append(f"a hypervisor took {conditions.stolen:.0%} of the processor away {word}")
        if conditions.load is not None and conditions.load > _MOST_LOAD:
            found.append(f"other programs were at work {word} (load {conditions.load:.1f})")
        if conditions.throttled:
            found.append(f"the processor slowed itself down for heat {word}")
    hot, cold = before.processor_celsius, now.processor_celsius
    if hot is not None and cold is not None and abs(hot - cold) > _HOTTER_CELSIUS:
        found.append(f"temperature: {hot:.0f} °C before, {cold:.0f} °C now")
    return tuple(found)


def compare_series(before: Series, now: Series, obstacles: Iterable[str] = ()) -> Comparison:
    """Compare one quantity; `obstacles` are reasons why nothing can be concluded from measured values."""
    reasons = tuple(obstacles)
    one, other = before.median, now.median
    share = (other - one) / one if one else 0.0

    def said(change: Change, low: float | None = None, high: float | None = None, why: str = "", single: bool = False) -> Comparison:
        return Comparison(now, one, other, change, share, low, high, single, why)

    if before.unit != now.unit or before.lower_is_better != now.lower_is_better or not one:
        return said(Change.NOT_COMPARABLE, why=f"measured in {before.unit or 'no unit'} before and in {now.unit or 'no unit'} now")
    if reasons and not now.typed:
        return said(Change.NOT_COMPARABLE, why="; ".join(reasons))
    found = shift(before.samples, now.samples)
    if found is None:
        return said(Change.NOT_COMPARABLE, why=ONE_RUN_EACH if now.typed else "too few runs for an interval", single=True)
    low, high = found.low / one, found.high / one
    if found.is_a_difference and abs(found.estimate / one) >= _LEAST_SHARE and _beyond_the_spread(before, now):
        return said(Change.BETTER if (found.estimate > 0) != now.lower_is_better else Change.WORSE, low, high)
    return said(Change.SAME, low, high)


def _beyond_the_spread(before: Series, now: Series) -> bool:
    """Return whether the difference is more than the spread of the runs: not where the middle of each lies within the runs of the other."""
    then_within = min(now.samples) <= before.median <= max(now.samples)
    now_within = min(before.samples) <= now.median <= max(before.samples)
    return not (then_within and now_within)


def compare(before: BenchmarkRecord, now: BenchmarkRecord) -> tuple[Comparison, ...]:
    """Compare every quantity that both have, in the order of the later one."""
    obstacles = why_not_comparable(before.conditions, now.conditions)
    found: list[Comparison] = []
    for series in now.series:
        earlier = before.of(series.key)
        if earlier is None:
            continue
        if earlier.did_not_run is not series.did_not_run:
            now_runs = earlier.did_not_run
            why = "it did not run before, and runs now" if now_runs else "it ran before, and does not now"
            change = Change.BETTER if now_runs else Change.WORSE
            found.append(Comparison(series, earlier.median, series.median, change, 0.0, why=why, ran=(not now_runs, now_runs)))
        elif series.samples and earlier.samples:
            found.append(compare_series(earlier, series, obstacles))
    return tuple(found)


def overall(comparisons: Sequence[Comparison]) -> Change | None:
    """Return what all comparisons together say: better or worse where clearly more of them are the one than the other.

    Of twenty quantities that did not change, one is beyond its interval by chance; so of several at least two, and a
    fifth of all, have to agree. Single typed scores decide nothing. Work that did not run before and runs now, or the
    other way round, weighs more than any score. None where there is nothing to say.
    """
    ran = [comparison.change for comparison in comparisons if not all(comparison.ran)]
    if ran:
        return Change.WORSE if Change.WORSE in ran else Change.BETTER
    changes = [comparison.change for comparison in comparisons if not comparison.single and comparison.change is not Change.NOT_COMPARABLE]
    if not changes:
        return Change.NOT_COMPARABLE if any(not comparison.single for comparison in comparisons) else None
    ahead = changes.count(Change.BETTER) - changes.count(Change.WORSE)
    needed = 1 if len(changes) == 1 else max(2, len(changes) / 5)
    if abs(ahead) < needed:
        return Change.SAME
    return Change.BETTER if ahead > 0 else Change.WORSE
