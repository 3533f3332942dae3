"""A benchmark as vector drawings: bandwidth against the channels' limits, latency as a staircase, before and now with their spread."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Sequence

from reportlab.graphics.shapes import Circle, Drawing, Line, Rect, String
from reportlab.lib.colors import Color

from after_check.benchmark.measurement_names import series_words
from after_check.domain.benchmark import BenchmarkRecord, Series, Stair
from after_check.handback.palette import BOLD, FAINT, INK, KEPT, PAPER_TINT, PROMISED, REGULAR, RULE, printable

_ROW = 17.0
_NAME_WIDTH = 132.0
_VALUE_WIDTH = 74.0
_TITLE = 30.0
_STAIRS_HEIGHT = 190.0
_BEYOND = 2.5
"""A channel's ceiling is drawn on the scale when it is not further above the fastest bandwidth than this."""


def bandwidth_drawing(
    before: BenchmarkRecord | None, now: BenchmarkRecord | None, one_channel_gbs: float | None, channels: int, width: float
) -> Drawing:
    """Return the measured bandwidths in GB/s, `width` points wide, with what one, two … channels carry at the running rate as lines."""
    series = _bandwidths(now) or _bandwidths(before)
    drawing = Drawing(width, _TITLE + _ROW * max(1, len(series)) + 16)
    top = drawing.height
    drawing.add(String(0, top - 10, "Measured bandwidth in GB/s", fontName=BOLD, fontSize=9, fillColor=INK))
    if not series:
        drawing.add(String(0, top - _TITLE - 8, "not measured", fontName=REGULAR, fontSize=9, fillColor=FAINT))
        return drawing
    _legend(drawing, _NAME_WIDTH, top - 10)
    left, right = _NAME_WIDTH, width - _VALUE_WIDTH
    most = max(value for record in (before, now) for bandwidth in _bandwidths(record) for value in bandwidth.samples)
    limits = [one_channel_gbs * count for count in range(1, channels + 1)] if one_channel_gbs else []
    most = max([most, *(limit for limit in limits if limit <= most * _BEYOND)]) * 1.06

    def at(value: float) -> float:
        return left + min(1.0, value / most) * (right - left)

    bottom = 14.0
    for count, limit in enumerate(limits, 1):
        if limit <= most:
            drawing.add(Line(at(limit), bottom, at(limit), top - _TITLE + 2, strokeColor=PROMISED, strokeWidth=0.9, strokeDashArray=[3, 2]))
            words = f"{count} channel{'s' if count > 1 else ''}: {limit:.1f}"
            drawing.add(String(at(limit), 3, words, fontName=REGULAR, fontSize=7.5, fillColor=PROMISED, textAnchor="middle"))
    for index, one in enumerate(series):
        y = top - _TITLE - _ROW * (index + 1) + 6
        drawing.add(String(0, y - 3, printable(series_words(one)), fontName=REGULAR, fontSize=8.5, fillColor=INK))
        drawing.add(Line(left, y, right, y, strokeColor=RULE, strokeWidth=0.6, strokeDashArray=[1, 3]))
        earlier = before.of(one.key) if before is not None and now is not None else None
        if earlier is not None and earlier.samples:
            _span(drawing, at, earlier, y + 3.2, FAINT)
            _hollow(drawing, at(earlier.median), y + 3.2)
        _span(drawing, at, one, y - 1, KEPT)
        _filled(drawing, at(one.median), y - 1)
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
    _legend(drawing, width - 160, top - 10)
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
    _stairs(drawing, both[0], across, up, FAINT, _hollow if both[1] else _filled)
    _stairs(drawing, both[1], across, up, KEPT, _filled)
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


def _legend(drawing: Drawing, x: float, y: float) -> None:
    _hollow(drawing, x + 4, y + 3)
    drawing.add(String(x + 12, y, "on arrival", fontName=REGULAR, fontSize=8, fillColor=FAINT))
    _filled(drawing, x + 74, y + 3)
    drawing.add(String(x + 82, y, "now", fontName=REGULAR, fontSize=8, fillColor=FAINT))
    drawing.add(String(x + 112, y, "bars: spread", fontName=REGULAR, fontSize=8, fillColor=FAINT))


def _hollow(drawing: Drawing, x: float, y: float) -> None:
    drawing.add(Circle(x, y, 2.8, fillColor=PAPER_TINT, strokeColor=INK, strokeWidth=0.9))


def _filled(drawing: Drawing, x: float, y: float) -> None:
    drawing.add(Circle(x, y, 2.6, fillColor=KEPT, strokeColor=KEPT, strokeWidth=0.8))
