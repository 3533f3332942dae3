"""The command `gauge`: measure this machine's memory, and compare with an earlier gauge."""

from __future__ import annotations

import json
import signal
import sys
import threading
from pathlib import Path
from types import FrameType

from after_check.domain.gauge import Comparison, GaugeRecord, GaugeState
from after_check.gauge.compare import compare, overall
from after_check.gauge.record import gauge_document, gauge_from_json
from after_check.sources.errors import SourceError

EXIT_DONE, EXIT_NOT_DONE = 0, 2
_LARGEST_FILE_BYTES = 4 << 20


def gauge_command(
    short: bool, out: Path | None, before: Path | None, as_json: bool, go_on: Path | None = None, svg: Path | None = None
) -> int:
    """Measure and print; returns 0 when everything was measured, 2 when it was stopped or could not be."""
    from after_check.gauge.engine import Gauge

    earlier = _read(before) if before is not None else None
    stopped = _read(go_on) if go_on is not None else None
    gauge = Gauge(short=short, earlier=stopped)

    def interrupt(number: int, frame: FrameType | None) -> None:
        gauge.stop()

    handlers = {one: signal.signal(one, interrupt) for one in (signal.SIGINT, signal.SIGTERM)}
    runner = threading.Thread(target=gauge.run, name="gauge")
    runner.start()
    shows = sys.stderr.isatty()
    while runner.is_alive():
        runner.join(0.5 if shows else 10.0)
        if runner.is_alive():
            record = gauge.record
            print(f"{record.share:4.0%}  {record.doing:<44}", end="\r" if shows else "\n", file=sys.stderr, flush=True)
    for one, handler in handlers.items():
        signal.signal(one, handler)
    record = gauge.record
    comparisons = compare(earlier, record) if earlier is not None else ()
    if out is not None:
        out.write_text(json.dumps(gauge_document(record), indent=1), encoding="utf-8")
    if svg is not None:
        from after_check.handback.export import gauge_drawings, write_drawings

        write_drawings(gauge_drawings(earlier, record), svg, "Gauge")
    if as_json:
        print(json.dumps(_document(record, comparisons), indent=1))
    else:
        print("\n".join(_lines(record, comparisons)))
    return EXIT_DONE if record.state is GaugeState.FINISHED else EXIT_NOT_DONE


def _read(path: Path) -> GaugeRecord:
    try:
        with path.open("rb") as file:
            return gauge_from_json(file.read(_LARGEST_FILE_BYTES))
    except OSError as error:
        raise SourceError(f"cannot be read ({error.strerror})", str(path)) from None
    except ValueError as problem:
        raise SourceError(f"is no gauge ({problem})", str(path), "make one with: after-check gauge --out F") from None


def _document(record: GaugeRecord, comparisons: tuple[Comparison, ...]) -> dict[str, object]:
    document = gauge_document(record)
    if comparisons:
        change = overall(comparisons)
        document["overall"] = change.value if change is not None else None
        document["comparisons"] = [
            {
                "name": one.name,
                "unit": one.unit,
                "before": one.before,
                "now": one.now,
                "change": one.change.value,
                "share": one.share,
                "interval": [one.low, one.high] if one.low is not None else None,
                "single": one.single,
                "why": one.why,
            }
            for one in comparisons
        ]
    return document


def _lines(record: GaugeRecord, comparisons: tuple[Comparison, ...]) -> list[str]:
    lines = [f"{record.state.value} in {record.seconds:.0f} s; threads {record.conditions.threads}, load {record.conditions.load}"]
    for series in record.series:
        low, high = min(series.samples), max(series.samples)
        lines.append(f"  {series.name:<36} {series.median:8.2f} {series.unit:<5} ({low:.2f} to {high:.2f}, {len(series.samples)} runs)")
    for one in comparisons:
        interval = f" ({one.low:+.1%} to {one.high:+.1%})" if one.low is not None and one.high is not None else ""
        lines.append(f"  {one.name:<36} {one.share:+.1%}{interval}  {one.change.value}" + (f": {one.why}" if one.why else ""))
    change = overall(comparisons)
    return lines + ([f"all together: {change.value}"] if change is not None else []) + list(record.remarks)
