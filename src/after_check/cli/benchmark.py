"""The command `benchmark`: measure this machine's memory, and compare with an earlier benchmark."""

from __future__ import annotations

import json
from pathlib import Path

from after_check.benchmark.before_and_now import compare, overall
from after_check.benchmark.benchmark_json import benchmark_document, benchmark_from_json, name_in_files
from after_check.benchmark.measurement_names import doing_words, series_words
from after_check.cli.long_work import run_to_the_end
from after_check.domain.benchmark import BenchmarkRecord, BenchmarkState, Comparison
from after_check.files.errors import SourceError
from after_check.files.plain_files import read_plain
from after_check.files.whole_files import check_place, write_whole
from after_check.sources.linux import identity_here

EXIT_DONE, EXIT_NOT_DONE = 0, 2
_LARGEST_FILE_BYTES = 4 << 20


def benchmark_command(
    short: bool, out: Path | None, before: Path | None, as_json: bool, go_on: Path | None = None, svg: Path | None = None
) -> int:
    """Measure and print; returns 0 when everything was measured, 2 when it was stopped or could not be."""
    from after_check.benchmark.measuring import Benchmark

    if before is not None:
        _read(before)  # Before anything is measured: what cannot be read is said at once.
    stopped = _read(go_on) if go_on is not None else None
    if out is not None:
        check_place(out)

    def keep(record: BenchmarkRecord) -> None:
        if out is not None:
            write_whole(out, json.dumps(benchmark_document(record), indent=1).encode())

    benchmark = Benchmark(short=short, earlier=stopped, machine=identity_here(), keep=keep)

    run_to_the_end(benchmark, lambda: f"{benchmark.record.share:4.0%}  {doing_words(benchmark.record.doing):<44}")
    return tell_benchmark(benchmark.record, out, before, as_json, svg)


def tell_benchmark(record: BenchmarkRecord, out: Path | None, before: Path | None, as_json: bool, svg: Path | None) -> int:
    """Write down and print what was measured, compared with an earlier benchmark if one is named."""
    earlier = _read(before) if before is not None else None
    comparisons = compare(earlier, record) if earlier is not None else ()
    if out is not None:
        write_whole(out, json.dumps(benchmark_document(record), indent=1).encode())
    if svg is not None:
        from after_check.handback.export import benchmark_drawings, write_drawings

        write_drawings(benchmark_drawings(earlier, record), svg, "Benchmark")
    if as_json:
        print(json.dumps(_document(record, comparisons), indent=1))
    else:
        print("\n".join(_lines(record, comparisons)))
    return EXIT_DONE if record.state is BenchmarkState.FINISHED else EXIT_NOT_DONE


def _read(path: Path) -> BenchmarkRecord:
    try:
        return benchmark_from_json(read_plain(path, _LARGEST_FILE_BYTES, "benchmark"))
    except ValueError as problem:
        raise SourceError(f"is no benchmark ({problem})", str(path), "make one with: after-check benchmark --out F") from None


def _document(record: BenchmarkRecord, comparisons: tuple[Comparison, ...]) -> dict[str, object]:
    document = benchmark_document(record)
    if comparisons:
        change = overall(comparisons)
        document["overall"] = change.value if change is not None else None
        document["comparisons"] = [
            {
                "name": name_in_files(comparison.series),
                "unit": comparison.series.unit,
                "before": comparison.before,
                "now": comparison.now,
                "change": comparison.change.value,
                "share": comparison.share,
                "interval": [comparison.low, comparison.high] if comparison.low is not None else None,
                "single": comparison.single,
                "why": comparison.why,
            }
            for comparison in comparisons
        ]
    return document


def _lines(record: BenchmarkRecord, comparisons: tuple[Comparison, ...]) -> list[str]:
    lines = [f"{record.state.value} in {record.seconds:.0f} s; threads {record.conditions.threads}, load {record.conditions.load}"]
    for series in record.series:
        low, high = min(series.samples), max(series.samples)
        lines.append(
            f"  {series_words(series):<36} {series.median:8.2f} {series.unit:<5} ({low:.2f} to {high:.2f}, {len(series.samples)} runs)"
        )
    for comparison in comparisons:
        interval = (
            f" ({comparison.low:+.1%} to {comparison.high:+.1%})" if comparison.low is not None and comparison.high is not None else ""
        )
        lines.append(
            f"  {series_words(comparison.series):<36} {comparison.share:+.1%}{interval}  {comparison.change.value}"
            + (f": {comparison.why}" if comparison.why else "")
        )
    change = overall(comparisons)
    return lines + ([f"all together: {change.value}"] if change is not None else []) + list(record.remarks)
