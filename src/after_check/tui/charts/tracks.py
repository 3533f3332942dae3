"""Tracks in cells: ○ on arrival, ◇ promised, ● now; ◈ where now is as promised, ◉ where nothing changed."""

from __future__ import annotations

from typing import TYPE_CHECKING

from rich.text import Text

from after_check.casework.verdict_words import QUANTITY_WORDS, STATUS_WORDS, status_words
from after_check.domain.bench import MiniTrack
from after_check.domain.quantities import number_text
from after_check.domain.standing import Quantity, TrackStatus
from after_check.judgement.scales import marks_of
from after_check.tui.charts.cells import fitted
from after_check.tui.theme import Ink

if TYPE_CHECKING:
    from after_check.domain.findings import Track

MINI_WORDS = {"capacity": "capacity", "rate": "speed", "channels": "channels", "profile": "profile"}
MINI_CELLS = 8

_NAME_CELLS = 11
_SHORTEST_SCALE = 8
_STATUS_CELLS = 14


def legend() -> Text:
    """Return the line that tells the marks."""
    line = Text(no_wrap=True)
    line.append("○ ", Ink.TEXT)
    line.append("on arrival   ", Ink.MUTED)
    line.append("◇ ", Ink.PROMISED)
    line.append("promised   ", Ink.MUTED)
    line.append("● ", Ink.TEXT)
    line.append("now   ", Ink.MUTED)
    line.append("◈ ", Ink.KEPT)
    line.append("as promised   ", Ink.MUTED)
    line.append("◉ ", Ink.MUTED)
    line.append("as before", Ink.MUTED)
    return line


def track_line(track: Track, cells: int, name: str = "", name_cells: int = _NAME_CELLS) -> Text:
    """Return a track as a line of `cells` cells, under the quantity's own name or another."""
    value_cells = 21 if cells >= 55 + name_cells else 19 if cells >= 64 else 16
    scale_cells = cells - name_cells - value_cells - _STATUS_CELLS - 2
    if scale_cells < _SHORTEST_SCALE:
        value_cells = cells - name_cells - _STATUS_CELLS + 1
    line = Text(no_wrap=True)
    line.append(fitted(name or QUANTITY_WORDS[track.quantity], name_cells), Ink.TEXT)
    if scale_cells >= _SHORTEST_SCALE:
        line.append_text(_scale(track, scale_cells))
        line.append("  ")
    line.append_text(_value(track, value_cells))
    line.append_text(_status(track))
    return line


def basis_line(track: Track, cells: int) -> Text:
    """Return where the value of now comes from, as a line beneath the track."""
    return Text(" " * _NAME_CELLS + fitted(f"from: {track.basis or 'not known'}", cells - _NAME_CELLS - 1), Ink.MUTED, no_wrap=True)


def mini_track(track: MiniTrack | None) -> Text:
    """Return a track in miniature: its length is now against promised, its end says how it stands."""
    text = Text(no_wrap=True)
    body = MINI_CELLS - 2
    if track is None or track.status is None:
        text.append(fitted("  –", MINI_CELLS), Ink.LINE)
        return text
    if track.status is TrackStatus.UNKNOWN or track.now is None:
        text.append("·" * (body - 1), Ink.MUTED)
        text.append("?  ", f"bold {Ink.PROMISED}")
        return text
    if track.status is TrackStatus.SHORT:
        share = _share(track.now, track.promised)
        done = max(1, min(body - 2, round(share * (body - 1))))
        text.append("━" * (done - 1) + "●", Ink.SHORT)
        text.append("╌" * (body - 1 - done), Ink.SHORT)
        text.append("◇  ", Ink.PROMISED)
        return text
    mark = "◈" if track.status is TrackStatus.KEPT else "●"
    text.append("━" * (body - 1) + mark, Ink.KEPT)
    text.append("+ " if track.status is TrackStatus.OVER else "  ", Ink.KEPT)
    return text


def _share(now: float | str | None, promised: float | str | None) -> float:
    if isinstance(now, int | float) and isinstance(promised, int | float) and promised:
        return max(0.0, min(1.0, now / promised))
    return 0.3


def _scale(track: Track, cells: int) -> Text:
    marks = marks_of(track)
    if marks is None:
        return _words(track, cells)
    symbols = ["·"] * cells
    styles: list[str] = [Ink.LINE] * cells

    def at(position: float) -> int:
        return min(cells - 1, round(position * (cells - 1)))

    def run(low: float, high: float, symbol: str, style: str) -> None:
        for cell in range(at(low), at(high) + 1):
            symbols[cell], styles[cell] = symbol, style

    # Green is what is kept, or more than promised: what nobody promised is neither good nor bad.
    colour = Ink.KEPT if track.status in (TrackStatus.KEPT, TrackStatus.OVER) else Ink.TEXT
    if marks.before is not None and marks.now is not None:
        run(min(marks.before, marks.now), max(marks.before, marks.now), "━", colour)
    if marks.gap is not None and track.status is TrackStatus.SHORT:
        run(*marks.gap, "╌", Ink.SHORT)
    if marks.before is not None:
        symbols[at(marks.before)], styles[at(marks.before)] = "○", Ink.TEXT
    if marks.promised is not None:
        symbols[at(marks.promised)], styles[at(marks.promised)] = "◇", Ink.PROMISED
    if marks.now is not None:
        cell = at(marks.now)
        same_as_promised = marks.promised is not None and at(marks.promised) == cell
        same_as_before = marks.before is not None and at(marks.before) == cell
        symbols[cell] = "◈" if same_as_promised else "◉" if same_as_before else "●"
        styles[cell] = Ink.SHORT if track.status is TrackStatus.SHORT else colour
    text = Text(no_wrap=True)
    for symbol, style in zip(symbols, styles, strict=True):
        text.append(symbol, style)
    return text


def _words(track: Track, cells: int) -> Text:
    """A track without numbers: what it was, what was promised."""
    text = Text(no_wrap=True)
    text.append(f"○ {_said(track.before)}", Ink.MUTED)
    if track.promised is not None:
        text.append("   ◇ ", Ink.PROMISED)
        text.append(_said(track.promised), Ink.MUTED)
        if text.cell_len + len(" promised") <= cells:
            text.append(" promised", Ink.MUTED)
    text.truncate(cells, pad=True)
    return text


def _value(track: Track, cells: int) -> Text:
    text = Text(no_wrap=True)
    text.append(_said(track.now), f"bold {Ink.TEXT}")
    both = isinstance(track.now, int | float | None) and isinstance(track.promised, int | float)
    if both and track.promised is not None:
        text.append(f" of {_said(track.promised)}", Ink.MUTED)
    unit = "" if track.quantity is Quantity.CHANNELS else track.unit
    text.append(f" {unit}", Ink.MUTED)
    text.truncate(cells, pad=True)
    return text


def _status(track: Track) -> Text:
    text = Text(no_wrap=True)
    if track.status is None:
        text.append("not promised" if track.promised is None else "worked out", Ink.MUTED)
    elif track.status is TrackStatus.KEPT:
        text.append(STATUS_WORDS[track.status], Ink.KEPT)
    elif track.status is TrackStatus.UNKNOWN:
        text.append(STATUS_WORDS[track.status], f"bold {Ink.PROMISED}")
    else:
        text.append(status_words(track), f"bold {Ink.SHORT if track.status is TrackStatus.SHORT else Ink.KEPT}")
    return text


def change_line(track: Track, cells: int) -> Text:
    """Return a track without a promise: from one reading to another, with the change at its end."""
    line = track_line(track, cells)
    line.truncate(max(0, line.cell_len - len("not promised")))
    line.append(*_change(track))
    return line


def _change(track: Track) -> tuple[str, str]:
    if track.before is None or track.now is None:
        return "? one unknown", Ink.MUTED
    if not (isinstance(track.before, int | float) and isinstance(track.now, int | float)):
        return ("as before", Ink.MUTED) if track.before == track.now else ("changed", f"bold {Ink.TEXT}")
    change = round(track.now - track.before, 1)
    if not change:
        return "as before", Ink.MUTED
    better = (change > 0) != track.lower_is_better
    return f"{'+' if change > 0 else '−'}{number_text(abs(change))}", f"bold {Ink.KEPT if better else Ink.SHORT}"


def _said(value: float | str | None) -> str:
    if value is None:
        return "?"
    return value if isinstance(value, str) else number_text(value)
