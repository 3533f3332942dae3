"""Gauges as JSON, several of them as one, and what judgement takes of them."""

from __future__ import annotations

import functools
import json
from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Any

from pydantic import TypeAdapter, ValidationError

from after_check.domain.demand import DemandRecord
from after_check.domain.gauge import Change, GaugeRecord, GaugeState, Series, Unit
from after_check.domain.quantities import parse_size
from after_check.domain.readings import GaugeOutcome
from after_check.gauge.compare import compare, overall

FORMAT = "after-check gauge"
VERSION = 1

OUTCOMES = {
    Change.BETTER: GaugeOutcome.BETTER,
    Change.WORSE: GaugeOutcome.WORSE,
    Change.SAME: GaugeOutcome.SAME,
    Change.NOT_COMPARABLE: GaugeOutcome.NOT_COMPARABLE,
}


@functools.cache
def _adapter() -> TypeAdapter[GaugeRecord]:
    return TypeAdapter(GaugeRecord)


def gauge_document(record: GaugeRecord) -> dict[str, Any]:
    """Return a gauge as data for a JSON document, with the median of each series beside its samples."""
    document = _adapter().dump_python(record, mode="json")
    for series, given in zip(document["series"], record.series, strict=True):
        series["median"] = given.median
    return {"format": FORMAT, "version": VERSION, **document}


def gauge_to_json(record: GaugeRecord) -> str:
    """Return a gauge as JSON text for a store."""
    return _adapter().dump_json(record, exclude_defaults=True).decode()


def gauge_from_json(text: str | bytes) -> GaugeRecord:
    """Return the gauge of `gauge_to_json` or `gauge_document`. Raises ValueError."""
    data = json.loads(text)
    if not isinstance(data, dict) or data.get("format", FORMAT) != FORMAT or data.get("version", VERSION) != VERSION:
        raise ValueError("this is no gauge that this program reads")
    kept = {key: value for key, value in data.items() if key not in ("format", "version")}
    try:
        return _adapter().validate_python({**kept, "series": [_without_median(one) for one in kept.get("series", ())]})
    except (ValidationError, TypeError) as error:
        first = error.errors()[0] if isinstance(error, ValidationError) else {"loc": ("series",), "msg": "no list of series"}
        raise ValueError(f"{'.'.join(str(part) for part in first['loc'])}: {first['msg']}") from None


def _without_median(series: Any) -> Any:
    return {key: value for key, value in series.items() if key != "median"} if isinstance(series, dict) else series


def merged(records: Iterable[GaugeRecord]) -> GaugeRecord | None:
    """Return several gauges of one moment as one: of each quantity the latest, with the conditions of the latest measured."""
    series: dict[str, Series] = {}
    whole: GaugeRecord | None = None
    for record in sorted(records, key=lambda one: one.begun_at):
        if record.state in (GaugeState.RUNNING, GaugeState.FAILED) and not record.series:
            continue
        series.update({one.name.casefold(): one for one in record.series})
        measured = any(not one.typed for one in record.series)
        if whole is None or measured:
            whole = record
    return replace(whole, series=tuple(series.values())) if whole is not None else None


def outcome_of(before: GaugeRecord | None, now: GaugeRecord | None) -> GaugeOutcome | None:
    """Return what before and now say together; None where there is nothing to compare."""
    if before is None or now is None:
        return None
    change = overall(compare(before, now))
    return OUTCOMES[change] if change is not None else None


def promised_figures(record: GaugeRecord) -> dict[str, float]:
    """Return what a promise may name, by the field of a reading: the fastest flow of each kind in GB/s, the wait of memory in ns.

    The latency is that of the largest working set on large pages; flows are the medians of the fastest number of threads.
    """
    found: dict[str, float] = {}
    for word, field in (("read", "read_gbs"), ("write", "write_gbs"), ("copy", "copy_gbs")):
        medians = [one.median for one in record.series if one.name.split(" · ")[0] == word and one.unit == Unit.GBS and not one.typed]
        if medians:
            found[field] = max(medians)
    stairs = stairs_of(record)
    if stairs:
        found["latency_ns"] = max(stairs, key=lambda step: step.size_bytes).series.median
    return found


@dataclass(frozen=True, slots=True)
class Step:
    """One step of the latency staircase: a working set in bytes and the samples in ns."""

    size_bytes: int
    series: Series


def stairs_of(record: GaugeRecord | None) -> tuple[Step, ...]:
    """Return the latency staircase of a gauge, smallest working set first; what was measured under load is not in it."""
    found: list[Step] = []
    for one in record.series if record is not None else ():
        words = one.name.split(" · ")
        size_bytes = parse_size(words[1]) if len(words) == 2 and words[0] == "latency" and not one.typed else None
        if size_bytes and one.median > 0:
            found.append(Step(size_bytes, one))
    return tuple(sorted(found, key=lambda step: step.size_bytes))


@functools.cache
def _demand_adapter() -> TypeAdapter[DemandRecord]:
    return TypeAdapter(DemandRecord)


def demand_to_json(record: DemandRecord) -> str:
    """Return a watch as JSON text for a store."""
    return _demand_adapter().dump_json(record, exclude_defaults=True).decode()


def demand_from_json(text: str) -> DemandRecord:
    """Return the watch of `demand_to_json`. Raises ValueError."""
    return _demand_adapter().validate_json(text)
