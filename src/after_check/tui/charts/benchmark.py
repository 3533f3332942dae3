"""A benchmark in cells: bandwidth against what one, two … channels carry, latency as a staircase, before and now, and the verdict."""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass

from rich.text import Text

from after_check.benchmark.before_and_now import compare, overall
from after_check.benchmark.measurement_names import (
    conclusion_words,
    doing_words,
    figure_words,
    flow_words,
    in_one_sentence,
    plain_number,
    series_words,
)
from after_check.domain.benchmark import BenchmarkRecord, BenchmarkState, Change, Comparison, Kind, Series
from after_check.domain.quantities import counted
from after_check.tui.charts.cells import day_and_time, fitted, right_aligned, wrapped
from after_check.tui.theme import Ink

_WORDS = {
    Change.BETTER: "✓ BETTER",
    Change.WORSE: "✗ WORSE",
    Change.SAME: "= NO DIFFERENCE THAT CAN BE MEASURED",
    Change.NOT_COMPARABLE: "? NOT COMPARABLE",
}
_TICKS_NS = (1, 2, 5, 10, 20, 50, 100, 200, 500, 1000)
_MARKS = {Change.BETTER: "✓ better", Change.WORSE: "✗ worse", Change.SAME: "= the same", Change.NOT_COMPARABLE: "? unlike"}


@dataclass(frozen=True, slots=True)
class BenchmarkSnapshot:
    """Benchmarks on arrival and now, the one that runs, and the bandwidth that one channel carries at the running rate in GB/s."""

    before: BenchmarkRecord | None = None
    now: BenchmarkRecord | None = None
    running: BenchmarkRecord | None = None
    one_channel_gbs: float | None = None
    channels: int | None = None
    left_out: int = 0
    """How many were measured on another computer."""

    @property
    def comparisons(self) -> tuple[Comparison, ...]:
        """Before against now, quantity by quantity."""
        return compare(self.before, self.now) if self.before is not None and self.now is not None else ()

    @property
    def shown(self) -> BenchmarkRecord | None:
        """The benchmark whose values are drawn as now: the one that runs, else the later one."""
        return self.running or self.now


def head_lines(snapshot: BenchmarkSnapshot, cells: int) -> list[Text]:
    """Return the verdict, or how far a running benchmark is."""
    running = snapshot.running
    left, chip = Text(" ", no_wrap=True), Text(no_wrap=True)
    if running is not None:
        left.append(f"{running.share:.0%}", f"bold {Ink.PROMISED}")
        left.append(f"   {doing_words(running.doing)}", Ink.TEXT)
        if running.share > 0.02:
            left.append(f"   about {_clock(running.seconds * (1 - running.share) / running.share)} left", Ink.MUTED)
        chip.append("  ◐ MEASURING  ", f"bold {Ink.ON_COLOUR} on {Ink.PROMISED}")
        chip.append(" ")
        return [right_aligned(left, chip, cells), Text("")]
    change = overall(snapshot.comparisons)
    left.append(_state_words(snapshot), Ink.TEXT)
    if change is not None:
        colour = {Change.BETTER: Ink.KEPT, Change.WORSE: Ink.SHORT}.get(change, Ink.PROMISED)
        chip.append(f"  {_WORDS[change]}  ", f"bold {Ink.ON_COLOUR} on {colour}")
        chip.append(" ")
    style = f"bold {Ink.TEXT}" if change in (Change.BETTER, Change.WORSE, Change.SAME) else Ink.MUTED
    sentence = [Text(f" {part}", style) for part in wrapped(_sentence(snapshot, change), cells - 2)]
    return [right_aligned(left, chip, cells), *sentence]


def _state_words(snapshot: BenchmarkSnapshot) -> str:
    said = [f"{word} {day_and_time(one.begun_at)}" for word, one in (("○ on arrival", snapshot.before), ("● now", snapshot.now)) if one]
    stopped = [
        word for word, one in (("on arrival", snapshot.before), ("now", snapshot.now)) if one and one.state is BenchmarkState.STOPPED
    ]
    return "   ".join(said) + (f"   ({' and '.join(stopped)}: stopped early)" if stopped else "")


def _sentence(snapshot: BenchmarkSnapshot, change: Change | None) -> str:
    conclusion = conclusion_words(snapshot.comparisons)
    if conclusion:
        return conclusion
    if change is None and snapshot.before is not None and snapshot.now is not None:
        return "Nothing that was measured or typed now was also measured or typed on arrival, so nothing can be compared."
    if change is None:
        missing = "on arrival" if snapshot.before is None else "now"
        left_out = f" {counted(snapshot.left_out, 'benchmark')} of another computer left out." if snapshot.left_out else ""
        return f"Nothing was measured {missing}, so nothing can be compared.{left_out}"
    if change is Change.NOT_COMPARABLE:
        return next((f"Conditions differ: {comparison.why}." for comparison in snapshot.comparisons if comparison.why), "")
    sentence = in_one_sentence(snapshot.comparisons)
    if sentence:
        return sentence
    counts = {change: sum(found.change is change and not found.single for found in snapshot.comparisons) for change in Change}
    return f"{counts[Change.BETTER]} better, {counts[Change.WORSE]} worse, {counts[Change.SAME]} without a difference beyond their spread."


def bandwidth_lines(snapshot: BenchmarkSnapshot, cells: int, rows: int) -> list[Text]:
    """Return the bandwidths on one scale, with what one, two … channels carry marked."""
    lines = [Text("BANDWIDTH IN GB/s", f"bold {Ink.MUTED}")]
    shown = snapshot.shown
    series = list(shown.bandwidths) if shown else []
    if not series:
        return [*lines, *_outline(cells)]
    most = max(part.median for part in series)
    before = snapshot.before
    if before is not None:
        most = max([most, *(bandwidth.median for bandwidth in before.bandwidths)])
    lines[0].append("   ═ spread of the runs", Ink.MUTED)
    limit = snapshot.one_channel_gbs
    marks = [limit * count for count in range(1, (snapshot.channels or 2) + 1)] if limit else []
    most = max([most, *(mark for mark in marks if mark <= most * 2.5)])
    name_cells, value_cells = 34, 8
    room = max(10, cells - name_cells - value_cells - 2)
    if marks and marks[0] > most:
        lines[0].append(f"   ┊ one channel carries {marks[0]:.1f}, beyond this scale", Ink.PROMISED)
    elif marks:
        lines.append(_ceiling_names(marks, most, room, name_cells))
    fit = max(1, rows - len(lines))
    if len(series) > fit:  # All threads together say more of the memory than one does.
        series.sort(key=lambda drawn: drawn.measured is None or drawn.measured.threads == 1)
    for drawn in series[:fit]:
        earlier = before.of(drawn.key) if before is not None else None
        lines.append(_bandwidth_line(drawn, earlier, marks, most, room, name_cells))
    return lines


def _outline(cells: int) -> list[Text]:
    """Return in outline what will stand here: a line for each flow that is measured."""
    kinds = [kind for kind in Kind if kind.is_bandwidth]
    names = [f"{kind.value}, {whose}" for whose in ("one program", "all threads") for kind in kinds]
    return [Text(f" {fitted(name, 33)}{'·' * max(0, cells - 44)}  not yet", Ink.LINE, no_wrap=True) for name in names]


def _ceiling_names(marks: list[float], most: float, room: int, name_cells: int) -> Text:
    symbols = [" "] * (room + 14)
    for count, mark in enumerate(marks, 1):
        at = round(mark / most * (room - 1))
        if at < room:
            for offset, letter in enumerate(f"┊ {count} ch {mark:.1f}"):
                if at + offset < len(symbols):
                    symbols[at + offset] = letter
    return Text(" " * name_cells + "".join(symbols).rstrip(), Ink.PROMISED, no_wrap=True)


def _bandwidth_line(one: Series, earlier: Series | None, marks: list[float], most: float, room: int, name_cells: int) -> Text:
    symbols, styles = ["·"] * room, [Ink.LINE] * room

    def at(value: float) -> int:
        return max(0, min(room - 1, round(value / most * (room - 1))))

    for cell in range(at(one.median)):
        symbols[cell], styles[cell] = "━", Ink.TEXT
    for cell in range(at(min(one.samples)), at(max(one.samples)) + 1):
        symbols[cell], styles[cell] = "═", Ink.TEXT
    for mark in marks:
        if mark <= most:
            symbols[at(mark)], styles[at(mark)] = "┊", Ink.PROMISED
    if earlier is not None:
        symbols[at(earlier.median)], styles[at(earlier.median)] = "○", Ink.TEXT
    symbols[at(one.median)], styles[at(one.median)] = "●", Ink.TEXT
    name = flow_words(one.measured) if one.measured is not None else series_words(one)
    line = Text(f" {fitted(name, name_cells - 1)}", Ink.TEXT, no_wrap=True)
    for symbol, style in zip(symbols, styles, strict=True):
        line.append(symbol, style)
    line.append(f"{one.median:7.1f}", f"bold {Ink.TEXT}")
    return line


def stair_lines(snapshot: BenchmarkSnapshot, cells: int, rows: int) -> list[Text]:
    """Return latency by working set as a staircase: right the larger sets, up the longer waits, both by powers of two."""
    lines = [Text("LATENCY IN ns BY WORKING SET", f"bold {Ink.MUTED}")]
    lines[0].append("   ● now" + ("  ○ on arrival" if snapshot.before is not None else ""), Ink.MUTED)
    now, before = (
        [(stair.size_bytes, stair.series.median) for stair in (record.stairs if record is not None else ())]
        for record in (snapshot.shown, snapshot.before)
    )
    if not now and not before:
        said = "A curve will stand here: how long a word takes to come, from what the caches hold (left) to the memory itself (right)."
        return [*lines, *(Text(f" {part}", Ink.MUTED) for part in wrapped(said, cells - 2))]
    points = [*now, *before]
    label = 7
    high, wide = max(3, rows - 3), max(10, cells - label - 2)
    low_ns, high_ns = math.log2(min(ns for _, ns in points)), math.log2(max(ns for _, ns in points))
    small, large = math.log2(min(size for size, _ in points)), math.log2(max(size for size, _ in points))
    grid: list[list[tuple[str, str]]] = [[(" ", Ink.LINE)] * wide for _ in range(high)]

    def place(size: int, nanoseconds: float) -> tuple[int, int]:
        right = (math.log2(size) - small) / max(large - small, 1e-9)
        up = (math.log2(nanoseconds) - low_ns) / max(high_ns - low_ns, 1e-9)
        return round(right * (wide - 1)), high - 1 - round(up * (high - 1))

    for stairs, mark, ink in ((before, "○", Ink.MUTED), (now, "●", Ink.TEXT)):
        _draw_stairs([place(size, ns) for size, ns in stairs], grid, mark, ink)
    ticks = {place(round(2**small), tick)[1]: f"{tick:g}" for tick in reversed(_TICKS_NS) if low_ns <= math.log2(tick) <= high_ns}
    for row in range(high):
        line = Text(f"{ticks.get(row, ''):>{label - 1}} ", Ink.MUTED, no_wrap=True)
        for symbol, style in grid[row]:
            line.append(symbol, style)
        lines.append(line)
    first, last = _size_words(2**small), _size_words(2**large)
    lines.append(Text(" " * label + first + " " * max(1, wide - len(first) - len(last)) + last, Ink.MUTED))
    return lines


def _stairs(record: BenchmarkRecord | None) -> list[tuple[int, float]]:
    return [(stair.size_bytes, stair.series.median) for stair in record.stairs] if record is not None else []


def _draw_stairs(places: list[tuple[int, int]], grid: list[list[tuple[str, str]]], mark: str, style: str) -> None:
    for (left, row), (right, _) in itertools.pairwise(places):
        for cell in range(left + 1, right):
            if grid[row][cell][0] == " ":
                grid[row][cell] = ("━" if mark == "●" else "╌", style if mark == "●" else Ink.MUTED)
    for left, row in places:
        grid[row][left] = (mark, style)


def _size_words(size: float) -> str:
    return f"{size / (1 << 20):.0f} MiB" if size >= 1 << 20 else f"{size / 1024:.0f} KiB"


def comparison_lines(snapshot: BenchmarkSnapshot, cells: int, rows: int) -> list[Text]:
    """Return what changed, quantity by quantity: typed scores first as they are the customer's terms, what stayed the same last."""
    lines = [Text("BEFORE AND NOW", f"bold {Ink.MUTED}")]
    found = sorted(
        snapshot.comparisons,
        key=lambda comparison: (not comparison.series.typed, comparison.change is Change.SAME, comparison.series.stress),
    )
    if not found:
        scores = [part for record in (snapshot.now, snapshot.before) if record for part in record.series if part.typed]
        for score in scores[: rows - 1]:
            lines.append(Text(f" {fitted(score.name, 26)} {figure_words(score)}  typed", Ink.TEXT, no_wrap=True))
        said = "Benchmark before anything is fitted, and again after: then they can be compared. Scores of other programs are typed with t."
        return [*lines, *(Text(f" {part}", Ink.MUTED) for part in wrapped(said, cells - 2))]
    value_cells = min(26, 2 + max(len(_before_and_now(comparison)) for comparison in found))
    name_cells = max(12, cells - 25 - value_cells)
    for comparison in found[: rows - 1]:
        line = Text(
            f" {fitted(series_words(comparison.series, narrow=True), name_cells)} ",
            Ink.TEXT,
            no_wrap=True,
            overflow="ellipsis",
        )
        line.append(fitted(_before_and_now(comparison), value_cells), Ink.MUTED)
        style = {Change.BETTER: Ink.KEPT, Change.WORSE: Ink.SHORT, Change.SAME: Ink.MUTED}.get(comparison.change, Ink.PROMISED)
        line.append(f"{comparison.share:+7.1%} " if all(comparison.ran) else " " * 8, f"bold {Ink.TEXT}")
        line.append("? one run each" if comparison.single else _MARKS[comparison.change], f"bold {style}")
        line.truncate(cells)
        lines.append(line)
    return lines


def _before_and_now(comparison: Comparison) -> str:
    ran_before, runs_now = comparison.ran
    said = plain_number if comparison.series.measured is None else "{:.1f}".format
    before = said(comparison.before) if ran_before else "did not run"
    now = f"{said(comparison.now)} {comparison.series.unit}".rstrip() if runs_now else "does not run"
    return f"{before} → {now}"


def _clock(seconds: float) -> str:
    return f"{int(seconds // 60)}:{int(seconds % 60):02d}"
