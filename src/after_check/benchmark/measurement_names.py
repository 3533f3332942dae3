"""What is measured, in the words of screens and paper."""

from __future__ import annotations

from after_check.domain.benchmark import Comparison, Doing, Kind, Measurement, Series
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
