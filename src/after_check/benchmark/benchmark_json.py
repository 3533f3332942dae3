"""Benchmarks as JSON, several of them as one, and what judgement takes of them."""

from __future__ import annotations

import functools
import json
from collections.abc import Iterable
from dataclasses import replace
from typing import Any

from after_check.benchmark.before_and_now import compare, overall
from after_check.benchmark.measurement_names import doing_words
from after_check.benchmark.plan import LARGEST_WORKING_SET_BYTES, staircase
from after_check.domain.benchmark import BenchmarkRecord, BenchmarkState, Change, Kind, Measurement, Series
from after_check.domain.demand import DemandRecord
from after_check.domain.quantities import parse_size, size_text
from after_check.domain.readings import BenchmarkOutcome
from after_check.files.codec import Codec
from after_check.files.strict_json import parse_json

FORMAT = "after-check gauge"
VERSION = 1

OUTCOMES = {
    Change.BETTER: BenchmarkOutcome.BETTER,
    Change.WORSE: BenchmarkOutcome.WORSE,
    Change.SAME: BenchmarkOutcome.SAME,
    Change.NOT_COMPARABLE: BenchmarkOutcome.NOT_COMPARABLE,
}


_RECORDS = Codec(BenchmarkRecord)
_DEMANDS = Codec(DemandRecord)
_SEPARATOR, _USUAL_PAGES, _UNDER_LOAD = " · ", "small pages", "under load"
"""How a quantity is spelled in the `name` of a series in files. It stays as it is, whatever the screens call it."""


def benchmark_document(record: BenchmarkRecord) -> dict[str, Any]:
    """Return a benchmark as data for a JSON document, with the median of each series beside its samples."""
    document = _RECORDS.to_data(record, with_defaults=True)
    for data, series in zip(document["series"], record.series, strict=True):
        data.update(name=name_in_files(series), median=series.median)
    return {"format": FORMAT, "version": VERSION, **document, "doing": doing_words(record.doing)}


def benchmark_to_json(record: BenchmarkRecord) -> str:
    """Return a benchmark as JSON text for a store."""
    document = _RECORDS.to_data(replace(record, doing=None))
    for data, series in zip(document.get("series", ()), record.series, strict=True):
        data["name"] = name_in_files(series)
    return json.dumps(document, ensure_ascii=False)


def benchmark_from_json(text: str | bytes) -> BenchmarkRecord:
    """Return the benchmark of `benchmark_to_json` or `benchmark_document`, of any version. Raises ValueError."""
    data = parse_json(text)
    if not isinstance(data, dict) or data.get("format", FORMAT) != FORMAT or data.get("version", VERSION) != VERSION:
        raise ValueError("this is no benchmark that this program reads")
    series = data.get("series", [])
    if not isinstance(series, list):
        raise ValueError("series: no list of series")
    # What it was at when it was written is nothing that a benchmark of before is at.
    kept = {key: value for key, value in data.items() if key not in ("format", "version", "doing")}
    record = _RECORDS.from_data({**kept, "series": [_without_median(part) for part in series]})
    return replace(record, series=tuple(_with_measurement(part) for part in record.series))


def _without_median(series: Any) -> Any:
    return {key: value for key, value in series.items() if key != "median"} if isinstance(series, dict) else series


def name_in_files(series: Series) -> str:
    """Return the name of a series in files: `read · 2 threads`, `latency · 64 KiB`, or that of a score."""
    measured = series.measured
    if measured is None:
        return series.name
    if measured.kind is not Kind.LATENCY:
        return f"{measured.kind.value}{_SEPARATOR}{measured.threads} thread{'s' if measured.threads > 1 else ''}"
    parts = [measured.kind.value, size_text(measured.working_set_bytes or 0)]
    parts += [_USUAL_PAGES] if measured.usual_pages else []
    parts += [_UNDER_LOAD] if measured.under_load else []
    return _SEPARATOR.join(parts)


def _with_measurement(series: Series) -> Series:
    """Return a series with what it is of; files that are older than this key have it in the name alone."""
    if series.measured is not None:
        return replace(series, name="")
    measured = None if series.typed else _measurement_in(series.name)
    return replace(series, measured=measured, name="") if measured is not None else series


def _measurement_in(name: str) -> Measurement | None:
    """Return what the name of a series in an old file says, or None where this program never wrote such a name."""
    word, *rest = name.split(_SEPARATOR)
    if word not in set(Kind) or not rest:
        return None
    kind = Kind(word)
    if kind is not Kind.LATENCY:
        threads = rest[0].split(" ")[0]
        return Measurement(kind, int(threads)) if threads.isascii() and threads.isdigit() else None
    size_bytes = _working_sets().get(rest[0]) or parse_size(rest[0])
    return Measurement(kind, 1, size_bytes, _USUAL_PAGES in rest, _UNDER_LOAD in rest) if size_bytes else None


@functools.cache
def _working_sets() -> dict[str, int]:
    """Return the working sets of the plans by how old files spell them: rounded, so that the text alone does not tell them."""
    return {size_text(size): size for size in staircase(LARGEST_WORKING_SET_BYTES, steps_an_octave=2)}


def merged(records: Iterable[BenchmarkRecord]) -> BenchmarkRecord | None:
    """Return several benchmarks of one moment as one: of each quantity the latest, with the conditions of the latest measured."""
    series: dict[Measurement | str, Series] = {}
    whole: BenchmarkRecord | None = None
    for record in sorted(records, key=lambda record: record.begun_at):
        if record.state in (BenchmarkState.RUNNING, BenchmarkState.FAILED) and not record.series:
            continue
        series.update({part.key: part for part in record.series})
        measured = any(not part.typed for part in record.series)
        if whole is None or measured:
            whole = record
    return replace(whole, series=tuple(series.values())) if whole is not None else None


def outcome_of(before: BenchmarkRecord | None, now: BenchmarkRecord | None) -> BenchmarkOutcome | None:
    """Return what before and now say together; None where there is nothing to compare."""
    if before is None or now is None:
        return None
    change = overall(compare(before, now))
    return OUTCOMES[change] if change is not None else None


def promised_figures(record: BenchmarkRecord) -> dict[str, float]:
    """Return what a promise may name, by the field of a reading: the largest bandwidth of each kind in GB/s, the wait of memory in ns.

    The latency is that of the largest working set on large pages; bandwidths are the medians of the fastest number of threads.
    """
    found: dict[str, float] = {}
    for kind, field in ((Kind.READ, "read_gbs"), (Kind.WRITE, "write_gbs"), (Kind.COPY, "copy_gbs")):
        medians = [series.median for series in record.bandwidths if series.measured is not None and series.measured.kind is kind]
        if medians:
            found[field] = max(medians)
    if record.stairs:
        found["latency_ns"] = record.stairs[-1].series.median
    return found


def demand_to_json(record: DemandRecord) -> str:
    """Return a watch as JSON text for a store."""
    return _DEMANDS.to_json(record)


def demand_from_json(text: str | bytes) -> DemandRecord:
    """Return the watch of `demand_to_json`. Raises ValueError."""
    return _DEMANDS.from_json(text)
