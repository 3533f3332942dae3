"""The tracks as a vector drawing: ○ on arrival, ◇ promised, ● now, each quantity on its own scale."""

from __future__ import annotations

from reportlab.graphics.shapes import Circle, Drawing, Line, Polygon, String
from reportlab.lib.colors import Color

from after_check.casework.verdict_words import status_words
from after_check.domain.findings import Track
from after_check.domain.quantities import number_text
from after_check.domain.standing import TrackStatus
from after_check.handback.palette import BOLD, FAINT, INK, KEPT, PROMISED, REGULAR, RULE, SHORT, WHITE, printable
from after_check.handback.wording import CUSTOMER_WORDS
from after_check.judgement.scales import Marks, marks_of

_UNIT_WORDS = {"MT/s": "MT/s", "channels": "", "GiB": "GiB", "GB/s": "GB/s", "ns": "ns", "": ""}

_ROW = 19.0
_NAME_WIDTH = 118.0
_VALUE_WIDTH = 172.0


def tracks_drawing(tracks: tuple[Track, ...], width: float) -> Drawing:
    """Return the drawing of the tracks, `width` points wide."""
    height = _ROW * (len(tracks) + 1)
    drawing = Drawing(width, height)
    _legend(drawing, height - 11)
    left, right = _NAME_WIDTH, width - _VALUE_WIDTH
    for index, track in enumerate(tracks):
        y = height - _ROW * (index + 2) + 5
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
    x = _NAME_WIDTH
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
