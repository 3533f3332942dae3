"""The board as a vector drawing: its slots by channel, and what is in them."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Sequence

from reportlab.graphics.shapes import Circle, Drawing, Line, Polygon, Rect, String
from reportlab.lib.colors import Color

from after_check.benchmark.measurement_names import series_words
from after_check.casework.rate_words import ceiling_words, one_a_cause
from after_check.casework.shown_boards import ShownBoard
from after_check.casework.verdict_words import status_words
from after_check.domain.benchmark import BenchmarkRecord, Series, Stair
from after_check.domain.boards import Slot, Soldered, place_of, soldered_apart
from after_check.domain.facts import value_of
from after_check.domain.findings import Ceiling, CeilingKind, Track
from after_check.domain.modules import Module
from after_check.domain.quantities import number_text, size_text
from after_check.domain.standing import TrackStatus
from after_check.handback.page import CUSTOMER_WORDS
from after_check.handback.palette import BOLD, FAINT, INK, KEPT, PAPER_TINT, PROMISED, REGULAR, RULE, SHORT, WHITE, printable
from after_check.judgement.scales import Marks, marks_of

_ROW = 17.0
_TITLE = 18.0
_NAME_WIDTH = 46.0
_MOST_ROWS = 16


def board_drawing(board: ShownBoard | None, title: str, width: float) -> Drawing:
    """Return the drawing of one board, each module with its letter, `width` points wide."""
    rows: list[Slot | Soldered | Module] = []
    letters: list[str] = []
    if board is not None:
        soldered, slots, loose = soldered_apart(board.reading.drawn_slots, board.reading.loose)
        rows = [*slots, *soldered, *loose]
        letters = [*(board.letters.get(slot.name, "") for slot in slots), *("" for _ in soldered), *board.loose_letters[: len(loose)]]
    shown = rows[:_MOST_ROWS]
    height = _TITLE + _ROW * max(1, len(shown)) + (12 if len(rows) > len(shown) else 0)
    drawing = Drawing(width, height)
    drawing.add(String(0, height - 10, title, fontName=BOLD, fontSize=9, fillColor=INK))
    drawing.add(Line(0, height - 14, width, height - 14, strokeColor=RULE, strokeWidth=0.6))
    y = height - _TITLE - _ROW
    if not rows:
        drawing.add(String(0, y + 5, "not read", fontName=REGULAR, fontSize=9, fillColor=FAINT))
    for row, letter in itertools.zip_longest(shown, letters[: len(shown)], fillvalue=""):
        if not isinstance(row, str):
            _row(drawing, row, letter, width, y)
            y -= _ROW
    if len(rows) > len(shown):
        drawing.add(String(0, 1, f"and {len(rows) - len(shown)} more", fontName=REGULAR, fontSize=8, fillColor=FAINT))
    return drawing


def _row(drawing: Drawing, row: Slot | Soldered | Module, letter: str, width: float, y: float) -> None:
    module = row.module if isinstance(row, Slot) else row.device if isinstance(row, Soldered) else row
    name = row.name if isinstance(row, Slot) else "soldered" if isinstance(row, Soldered) else "no slot named"
    count = row.count if isinstance(row, Soldered) else 1
    drawing.add(String(0, y + 4, _fitted(_short(name), 10), fontName=REGULAR, fontSize=8, fillColor=FAINT))
    x, body = _NAME_WIDTH, width - _NAME_WIDTH
    if module is not None:
        words = f"{letter}  {_module_text(module)}".strip() if count == 1 else f"{count} x {_module_text(module)}"
        drawing.add(Rect(x, y, body, _ROW - 3, rx=1.5, ry=1.5, fillColor=KEPT, strokeColor=KEPT, strokeWidth=0.8))
        drawing.add(String(x + 6, y + 4, _fitted(words, int((body - 10) / 4.3)), fontName=BOLD, fontSize=8, fillColor=WHITE))
        return
    drawing.add(Rect(x, y, body, _ROW - 3, rx=1.5, ry=1.5, fillColor=PAPER_TINT, strokeColor=RULE, strokeWidth=0.8, strokeDashArray=[2, 2]))
    word = row.words if isinstance(row, Slot) else "not known"
    drawing.add(String(x + 6, y + 4, printable(word), fontName=REGULAR, fontSize=8, fillColor=FAINT))


def _short(name: str) -> str:
    """Return a slot's name as short as it stays telling: channel and number for the long styles."""
    place = place_of(name)
    return f"{place.channel}{place.position}" if place is not None and len(name) > 10 else name


def _module_text(module: Module) -> str:
    generation, rated_mts = value_of(module.generation), value_of(module.rated_mts)
    parts = [
        size_text(module.size_bytes.value) if module.size_bytes else "size not known",
        f"{generation}-{rated_mts}" if generation and rated_mts else str(generation or ""),
        value_of(module.maker) or "",
        value_of(module.part) or "",
    ]
    return "  ".join(part for part in parts if part)


def _fitted(text: str, most: int) -> str:
    text = printable(text)
    return text if len(text) <= most else text[: max(1, most - 3)] + "..."


_HEAD, _ROW_OF_CEILINGS = 18.0, 16.0
_NAME_WIDTH_OF_CEILINGS = 150.0
_VALUE_WIDTH = 120.0


def ceilings_drawing(ceilings: tuple[Ceiling, ...], width: float, title: str = "What limits the speed, in MT/s") -> Drawing:
    """Return the drawing of the ceilings, the promise and what runs among them, `width` points wide; rates in MT/s."""
    head = _HEAD if title else 0.0
    ceilings = one_a_cause(ceilings)
    drawing = Drawing(width, head + _ROW_OF_CEILINGS * max(1, len(ceilings)))
    top = drawing.height
    drawing.add(String(0, top - 10, title, fontName=BOLD, fontSize=9, fillColor=INK))
    if not ceilings:
        drawing.add(String(0, top - head - 10, "not known", fontName=REGULAR, fontSize=8.5, fillColor=FAINT))
        return drawing
    most = max(ceiling.rate_mts for ceiling in ceilings)
    room = width - _NAME_WIDTH_OF_CEILINGS - _VALUE_WIDTH
    for index, one in enumerate(ceilings):
        y = top - head - _ROW_OF_CEILINGS * (index + 1) + 4
        length = one.rate_mts / most * room
        drawing.add(String(0, y + 2, printable(ceiling_words(one)), fontName=BOLD if one.binding else REGULAR, fontSize=8.5, fillColor=INK))
        fill = SHORT if one.binding else PROMISED if one.kind is CeilingKind.PROMISE else PAPER_TINT
        drawing.add(Rect(_NAME_WIDTH_OF_CEILINGS, y, length, 9, fillColor=fill, strokeColor=RULE, strokeWidth=0.5))
        x = _NAME_WIDTH_OF_CEILINGS + length
        if one.binding:
            drawing.add(Polygon([x + 4, y + 4.5, x + 10, y + 9, x + 10, y], fillColor=SHORT, strokeColor=SHORT))
        words = f"{one.rate_mts}" + ("  this is the limit" if one.binding else "")
        drawing.add(String(x + 13, y + 1, words, fontName=BOLD if one.binding else REGULAR, fontSize=8.5, fillColor=INK))
    return drawing


_UNIT_WORDS = {"MT/s": "MT/s", "channels": "", "GiB": "GiB", "GB/s": "GB/s", "ns": "ns", "": ""}

_ROW_OF_TRACKS = 19.0
_NAME_WIDTH_OF_TRACKS = 118.0
_VALUE_WIDTH = 172.0


def tracks_drawing(tracks: tuple[Track, ...], width: float) -> Drawing:
    """Return the drawing of the tracks, `width` points wide."""
    height = _ROW_OF_TRACKS * (len(tracks) + 1)
    drawing = Drawing(width, height)
    _legend(drawing, height - 11)
    left, right = _NAME_WIDTH_OF_TRACKS, width - _VALUE_WIDTH
    for index, track in enumerate(tracks):
        y = height - _ROW_OF_TRACKS * (index + 2) + 5
        drawing.add(String(0, y, CUSTOMER_WORDS[track.quantity], fontName=REGULAR, fontSize=9, fillColor=INK))
        marks = marks_of(track)
        if marks is not None:
            _scale(drawing, marks, track, left, right, y + 3)
        else:
            said = f"{_said(track.before)} on arrival,  {_said(track.promised)} promised"
            drawing.add(String(left, y, said, fontName=REGULAR, fontSize=8, fillColor=FAINT))
        _value(drawing, track, right + 10, width, y)
    return drawing


def _legend(drawing: Drawing, y: float) -> None:
    x = _NAME_WIDTH_OF_TRACKS
    for mark, word in ((_hollow, "on arrival"), (_diamond, "promised"), (_filled, "now")):
        mark(drawing, x + 4, y + 3, INK)
        drawing.add(String(x + 12, y, word, fontName=REGULAR, fontSize=8, fillColor=FAINT))
        x += 70


def _scale(drawing: Drawing, marks: Marks, track: Track, left: float, right: float, y: float) -> None:
    def at(position: float) -> float:
        return left + position * (right - left)

    drawing.add(Line(left, y, right, y, strokeColor=RULE, strokeWidth=0.8, strokeDashArray=[1, 3]))
    if marks.before is not None and marks.now is not None:
        drawing.add(Line(at(marks.before), y, at(marks.now), y, strokeColor=KEPT, strokeWidth=1.8))
    if marks.gap is not None and track.status is TrackStatus.SHORT:
        low, high = marks.gap
        drawing.add(Line(at(low), y, at(high), y, strokeColor=SHORT, strokeWidth=1.4, strokeDashArray=[3, 2]))
    if marks.before is not None:
        _hollow(drawing, at(marks.before), y, INK)
    if marks.promised is not None:
        _diamond(drawing, at(marks.promised), y, PROMISED)
    if marks.now is not None:
        _filled(drawing, at(marks.now), y, SHORT if track.status is TrackStatus.SHORT else KEPT)


def _value(drawing: Drawing, track: Track, x: float, right: float, y: float) -> None:
    unit = _UNIT_WORDS.get(track.unit, track.unit)
    both_numbers = isinstance(track.promised, int | float) and isinstance(track.now, int | float)
    of = f" of {_said(track.promised)}" if both_numbers and track.promised != track.now else ""
    drawing.add(String(x, y, f"{_said(track.now)}{of} {unit}".strip(), fontName=BOLD, fontSize=9, fillColor=INK))
    if track.status is not None:
        colour: Color = SHORT if track.status is TrackStatus.SHORT else FAINT if track.status is TrackStatus.UNKNOWN else KEPT
        drawing.add(String(right, y, printable(status_words(track)), fontName=BOLD, fontSize=8.5, fillColor=colour, textAnchor="end"))


def _said(value: float | str | None) -> str:
    if value is None:
        return "not known"
    return printable(value) if isinstance(value, str) else number_text(value)


def _hollow(drawing: Drawing, x: float, y: float, colour: Color) -> None:
    drawing.add(Circle(x, y, 3.4, fillColor=WHITE, strokeColor=colour, strokeWidth=1.1))


def _filled(drawing: Drawing, x: float, y: float, colour: Color) -> None:
    drawing.add(Circle(x, y, 3.0, fillColor=colour, strokeColor=colour, strokeWidth=1))


def _diamond(drawing: Drawing, x: float, y: float, colour: Color) -> None:
    r = 5.2
    drawing.add(Polygon([x, y + r, x + r, y, x, y - r, x - r, y], fillColor=WHITE, strokeColor=colour, strokeWidth=1.2))


_ROW_OF_BENCHMARK = 17.0
_NAME_WIDTH_OF_BENCHMARK = 132.0
_VALUE_WIDTH = 74.0
_TITLE_OF_BENCHMARK = 30.0
_STAIRS_HEIGHT = 190.0
_BEYOND = 2.5
"""A channel's ceiling is drawn on the scale when it is not further above the fastest bandwidth than this."""


def bandwidth_drawing(
    before: BenchmarkRecord | None, now: BenchmarkRecord | None, one_channel_gbs: float | None, channels: int, width: float
) -> Drawing:
    """Return the measured bandwidths in GB/s, `width` points wide, with what one, two … channels carry at the running rate as lines."""
    series = _bandwidths(now) or _bandwidths(before)
    drawing = Drawing(width, _TITLE_OF_BENCHMARK + _ROW_OF_BENCHMARK * max(1, len(series)) + 16)
    top = drawing.height
    drawing.add(String(0, top - 10, "Measured bandwidth in GB/s", fontName=BOLD, fontSize=9, fillColor=INK))
    if not series:
        drawing.add(String(0, top - _TITLE_OF_BENCHMARK - 8, "not measured", fontName=REGULAR, fontSize=9, fillColor=FAINT))
        return drawing
    _benchmark_legend(drawing, _NAME_WIDTH_OF_BENCHMARK, top - 10)
    left, right = _NAME_WIDTH_OF_BENCHMARK, width - _VALUE_WIDTH
    most = max(value for record in (before, now) for bandwidth in _bandwidths(record) for value in bandwidth.samples)
    limits = [one_channel_gbs * count for count in range(1, channels + 1)] if one_channel_gbs else []
    most = max([most, *(limit for limit in limits if limit <= most * _BEYOND)]) * 1.06

    def at(value: float) -> float:
        return left + min(1.0, value / most) * (right - left)

    bottom = 14.0
    for count, limit in enumerate(limits, 1):
        if limit <= most:
            drawing.add(
                Line(
                    at(limit),
                    bottom,
                    at(limit),
                    top - _TITLE_OF_BENCHMARK + 2,
                    strokeColor=PROMISED,
                    strokeWidth=0.9,
                    strokeDashArray=[3, 2],
                )
            )
            words = f"{count} channel{'s' if count > 1 else ''}: {limit:.1f}"
            drawing.add(String(at(limit), 3, words, fontName=REGULAR, fontSize=7.5, fillColor=PROMISED, textAnchor="middle"))
    for index, one in enumerate(series):
        y = top - _TITLE_OF_BENCHMARK - _ROW_OF_BENCHMARK * (index + 1) + 6
        drawing.add(String(0, y - 3, printable(series_words(one)), fontName=REGULAR, fontSize=8.5, fillColor=INK))
        drawing.add(Line(left, y, right, y, strokeColor=RULE, strokeWidth=0.6, strokeDashArray=[1, 3]))
        earlier = before.of(one.key) if before is not None and now is not None else None
        if earlier is not None and earlier.samples:
            _span(drawing, at, earlier, y + 3.2, FAINT)
            _benchmark_hollow(drawing, at(earlier.median), y + 3.2)
        _span(drawing, at, one, y - 1, KEPT)
        _benchmark_filled(drawing, at(one.median), y - 1)
        said = f"{earlier.median:.1f} > {one.median:.1f}" if earlier is not None and earlier.samples else f"{one.median:.1f}"
        drawing.add(String(width, y - 3, said, fontName=BOLD, fontSize=8.5, fillColor=INK, textAnchor="end"))
    return drawing


def staircase_drawing(before: BenchmarkRecord | None, now: BenchmarkRecord | None, width: float) -> Drawing:
    """Return latency in ns by working set, both by powers of two, with the spread of the samples as bands."""
    drawing = Drawing(width, _STAIRS_HEIGHT)
    top = drawing.height
    drawing.add(String(0, top - 10, "Wait for a word in ns, by how much memory is worked with", fontName=BOLD, fontSize=9, fillColor=INK))
    both = tuple(record.stairs if record is not None else () for record in (before, now))
    steps = [*both[0], *both[1]]
    if not steps:
        drawing.add(String(0, top - 30, "not measured", fontName=REGULAR, fontSize=9, fillColor=FAINT))
        return drawing
    _benchmark_legend(drawing, width - 160, top - 10)
    left, right, bottom, ceiling = 34.0, width - 18, 20.0, _STAIRS_HEIGHT - 24
    smallest, largest = (math.log2(pick(step.size_bytes for step in steps)) for pick in (min, max))
    samples = [value for step in steps for value in step.series.samples if value > 0]
    low, high = math.floor(math.log2(min(samples))), math.ceil(math.log2(max(samples)))

    def across(size_bytes: float) -> float:
        return left + (math.log2(size_bytes) - smallest) / max(largest - smallest, 1e-9) * (right - left)

    def up(nanoseconds: float) -> float:
        share: float = (math.log2(nanoseconds) - low) / max(high - low, 1)
        return bottom + share * (ceiling - bottom)

    for power in range(low, high + 1):
        y = up(2.0**power)
        drawing.add(Line(left, y, right, y, strokeColor=RULE, strokeWidth=0.5))
        drawing.add(String(left - 5, y - 3, f"{2.0**power:g}", fontName=REGULAR, fontSize=7.5, fillColor=FAINT, textAnchor="end"))
    for power in range(math.ceil(smallest), math.floor(largest) + 1, 2):
        words = f"{2 ** (power - 20)} MiB" if power >= 20 else f"{2 ** (power - 10)} KiB"
        drawing.add(String(across(2.0**power), 7, words, fontName=REGULAR, fontSize=7.5, fillColor=FAINT, textAnchor="middle"))
    _stairs(drawing, both[0], across, up, FAINT, _benchmark_hollow if both[1] else _benchmark_filled)
    _stairs(drawing, both[1], across, up, KEPT, _benchmark_filled)
    return drawing


def _bandwidths(record: BenchmarkRecord | None) -> list[Series]:
    return [series for series in (record.bandwidths if record is not None else ()) if series.samples]


def _stairs(
    drawing: Drawing,
    steps: Sequence[Stair],
    across: Callable[[float], float],
    up: Callable[[float], float],
    colour: Color,
    mark: Callable[[Drawing, float, float], None],
) -> None:
    for step in steps:
        x, (low, high) = across(step.size_bytes), _middle_half(step.series)
        drawing.add(Rect(x - 2.5, up(low), 5, max(0.5, up(high) - up(low)), fillColor=PAPER_TINT, strokeColor=colour, strokeWidth=0.5))
    for one, following in itertools.pairwise(steps):
        y, x = up(one.series.median), across(following.size_bytes)
        drawing.add(Line(across(one.size_bytes), y, x, y, strokeColor=colour, strokeWidth=1.2))
        drawing.add(Line(x, y, x, up(following.series.median), strokeColor=colour, strokeWidth=1.2))
    for step in steps:
        mark(drawing, across(step.size_bytes), up(step.series.median))


def _middle_half(series: Series) -> tuple[float, float]:
    """Return the bounds of the middle half of the samples (nearest ranks)."""
    ordered = sorted(value for value in series.samples if value > 0)
    return ordered[len(ordered) // 4], ordered[(3 * len(ordered)) // 4 if len(ordered) > 1 else 0]


def _span(drawing: Drawing, at: Callable[[float], float], series: Series, y: float, colour: Color) -> None:
    low, high = at(min(series.samples)), at(max(series.samples))
    drawing.add(Line(low, y, high, y, strokeColor=colour, strokeWidth=1.4))
    for x in (low, high):
        drawing.add(Line(x, y - 2, x, y + 2, strokeColor=colour, strokeWidth=0.9))


def _benchmark_legend(drawing: Drawing, x: float, y: float) -> None:
    _benchmark_hollow(drawing, x + 4, y + 3)
    drawing.add(String(x + 12, y, "on arrival", fontName=REGULAR, fontSize=8, fillColor=FAINT))
    _benchmark_filled(drawing, x + 74, y + 3)
    drawing.add(String(x + 82, y, "now", fontName=REGULAR, fontSize=8, fillColor=FAINT))
    drawing.add(String(x + 112, y, "bars: spread", fontName=REGULAR, fontSize=8, fillColor=FAINT))


def _benchmark_hollow(drawing: Drawing, x: float, y: float) -> None:
    drawing.add(Circle(x, y, 2.8, fillColor=PAPER_TINT, strokeColor=INK, strokeWidth=0.9))


def _benchmark_filled(drawing: Drawing, x: float, y: float) -> None:
    drawing.add(Circle(x, y, 2.6, fillColor=KEPT, strokeColor=KEPT, strokeWidth=0.8))
