"""What is measured, in the words of screens and paper."""

from __future__ import annotations

from statistics import median

from after_check.domain.benchmark import Change, Comparison, Doing, Kind, Measurement, Series
from after_check.domain.quantities import size_text


def series_words(series: Series, narrow: bool = False) -> str:
    """Return what a series is of: `read · 2 threads`, `latency · 64 KiB`, or the name of a score. `narrow` shortens it."""
    return measurement_words(series.measured, narrow) if series.measured is not None else series.name


def measurement_words(measured: Measurement, narrow: bool = False) -> str:
    """Return a quantity in words."""
    if measured.kind is not Kind.LATENCY:
        threads = "thr." if narrow else f"thread{'s' if measured.threads > 1 else ''}"
        return f"{measured.kind.value} · {measured.threads} {threads}"
    parts = [measured.kind.value, size_text(measured.working_set_bytes or 0)]
    parts += ["small pages"] if measured.usual_pages else []
    words = " · ".join(parts)
    return words + (" loaded" if narrow else " · under load") if measured.under_load else words


def flow_words(measured: Measurement) -> str:
    """Return a flow by whose it is: `read, one program`, `read, all 8 threads`."""
    return f"{measured.kind.value}, {'one program' if measured.threads == 1 else f'all {measured.threads} threads'}"


def in_one_sentence(comparisons: tuple[Comparison, ...]) -> str:
    """Return what measured differences come to: for the whole machine, for one program, for the wait for a word. Empty without any."""
    groups: dict[str, list[Comparison]] = {"the whole machine": [], "one program": [], "the wait for a word": []}
    for found in comparisons:
        measured = found.series.measured
        if measured is None or found.single or found.change is Change.NOT_COMPARABLE:
            continue
        flow = "one program" if measured.threads == 1 else "the whole machine"
        groups[flow if measured.kind.is_bandwidth else "the wait for a word"].append(found)
    said = [f"{name} {_changed(found)}" for name, found in groups.items() if found]
    whole = "; ".join(said)
    return f"{whole[0].upper()}{whole[1:]}." if said else ""


def _changed(found: list[Comparison]) -> str:
    """Return the middle of some differences in words; of those that are none, that it is the same."""
    real = [one.share for one in found if one.change in (Change.BETTER, Change.WORSE)]
    if 2 * len(real) <= len(found):
        return "the same" if not real else "about the same"
    share = median(real)
    if found[0].series.lower_is_better:
        return f"{abs(share):.0%} {'shorter' if share < 0 else 'longer'}"
    times = 1 + share
    for low, high, words in ((1.75, 1.95, "nearly twice as fast"), (1.95, 2.05, "twice as fast"), (2.05, 99, f"{times:.1f} times as fast")):
        if low <= times < high:
            return words
    return f"{abs(share):.0%} {'faster' if share > 0 else 'slower'}"


def doing_words(doing: Doing | None) -> str:
    """Return what a running benchmark is at; empty for one that is over."""
    if doing is None:
        return ""
    if doing.measured is None:
        return "taking the buffers"
    return f"{measurement_words(doing.measured)}, {f'round {doing.round} of {doing.rounds}' if doing.round else 'warming up'}"


def figure_words(series: Series, value: float | None = None) -> str:
    """Return a value of a series as people write it: `48,200 points`, `61.2 s`, `did not run`."""
    if series.did_not_run:
        return "did not run"
    return f"{plain_number(series.median if value is None else value)} {series.unit}".rstrip()


def plain_number(value: float) -> str:
    """Return a number without powers of ten: thousands separated by commas, at most four figures behind them."""
    if abs(value) >= 1000 or value == int(value):
        return f"{value:,.0f}"
    return f"{value:.3f}".rstrip("0").rstrip(".") if abs(value) < 10 else f"{value:.1f}"


def conclusion_words(comparisons: tuple[Comparison, ...]) -> str:
    """Return in a sentence what can be concluded from scores alone; empty where measurements say more."""
    for comparison in comparisons:
        if not all(comparison.ran):
            return f"{comparison.series.name}: {comparison.why}. That says more than any score."
    if comparisons and all(comparison.single for comparison in comparisons):
        return "One run each: proves nothing. Three runs before and three now can be compared."
    return ""
