"""Tracks in cells: ○ on arrival, ◇ promised, ● now; ◈ where now is as promised, ◉ where nothing changed."""

from __future__ import annotations

from rich.text import Text

from after_check.domain.bench import MiniTrack
from after_check.domain.findings import Quantity, Track, TrackStatus
from after_check.domain.quantities import number_text
from after_check.judgement.scales import marks_of
from after_check.tui.drawing.text import fitted
from after_check.tui.palette import Palette

MINI_WORDS = {"capacity": "amount", "rate": "rate", "channels": "channels", "profile": "profile"}
MINI_CELLS = 8

_NAME_CELLS = 11
_SHORTEST_SCALE = 8
_STATUS_CELLS = 12


def legend(palette: Palette) -> Text:
    """Return the line that tells the marks."""
    line = Text(no_wrap=True)
    line.append("○ ", palette.text)
    line.append("on arrival   ", palette.muted)
    line.append("◇ ", palette.promised)
    line.append("promised   ", palette.muted)
    line.append("● ", palette.kept)
    line.append("now   ", palette.muted)
    line.append("◈ ", palette.kept)
    line.append("as promised   ", palette.muted)
    line.append("◉ ", palette.muted)
    line.append("as before", palette.muted)
    return line


def track_line(track: Track, cells: int, palette: Palette, name: str = "", name_cells: int = _NAME_CELLS) -> Text:
    """Return a track as a line of `cells` cells, under the quantity's own name or another."""
    value_cells = 21 if cells >= 55 + name_cells else 19 if cells >= 64 else 16
    scale_cells = cells - name_cells - value_cells - _STATUS_CELLS - 2
    if scale_cells < _SHORTEST_SCALE:
        value_cells = cells - name_cells - _STATUS_CELLS + 1
    line = Text(no_wrap=True)
    line.append(fitted(name or track.quantity.words, name_cells), palette.text)
    if scale_cells >= _SHORTEST_SCALE:
        line.append_text(_scale(track, scale_cells, palette))
        line.append("  ")
    line.append_text(_value(track, value_cells, palette))
    line.append_text(_status(track, palette))
    return line


def basis_line(track: Track, cells: int, palette: Palette) -> Text:
    """Return where the value of now comes from, as a line beneath the track."""
    return Text(" " * _NAME_CELLS + fitted(f"from: {track.basis or 'not known'}", cells - _NAME_CELLS - 1), palette.muted, no_wrap=True)


def mini_track(track: MiniTrack | None, palette: Palette) -> Text:
    """Return a track in miniature: its length is now against promised, its end says how it stands."""
    text = Text(no_wrap=True)
    body = MINI_CELLS - 2
    if track is None or track.status is None:
        text.append(fitted("  –", MINI_CELLS), palette.line)
        return text
    if track.status is TrackStatus.UNKNOWN or track.now is None:
        text.append("·" * (body - 1), palette.muted)
        text.append("?  ", f"bold {palette.promised}")
        return text
    if track.status is TrackStatus.SHORT:
        share = _share(track.now, track.promised)
        done = max(1, min(body - 2, round(share * (body - 1))))
        text.append("━" * (done - 1) + "●", palette.short)
        text.append("╌" * (body - 1 - done), palette.short)
        text.append("◇  ", palette.promised)
        return text
    mark = "◈" if track.status is TrackStatus.KEPT else "●"
    text.append("━" * (body - 1) + mark, palette.kept)
    text.append("+ " if track.status is TrackStatus.OVER else "  ", palette.kept)
    return text


def _share(now: float | str | None, promised: float | str | None) -> float:
    if isinstance(now, int | float) and isinstance(promised, int | float) and promised:
        return max(0.0, min(1.0, now / promised))
    return 0.3


def _scale(track: Track, cells: int, palette: Palette) -> Text:
    marks = marks_of(track)
    if marks is None:
        return _words(track, cells, palette)
    symbols = ["·"] * cells
    styles = [palette.line] * cells

    def at(position: float) -> int:
        return min(cells - 1, round(position * (cells - 1)))

    def run(low: float, high: float, symbol: str, style: str) -> None:
        for cell in range(at(low), at(high) + 1):
            symbols[cell], styles[cell] = symbol, style

    if marks.before is not None and marks.now is not None:
        run(min(marks.before, marks.now), max(marks.before, marks.now), "━", palette.kept)
    if marks.gap is not None and track.status is TrackStatus.SHORT:
        run(*marks.gap, "╌", palette.short)
    if marks.before is not None:
        symbols[at(marks.before)], styles[at(marks.before)] = "○", palette.text
    if marks.promised is not None:
        symbols[at(marks.promised)], styles[at(marks.promised)] = "◇", palette.promised
    if marks.now is not None:
        cell = at(marks.now)
        same_as_promised = marks.promised is not None and at(marks.promised) == cell
        same_as_before = marks.before is not None and at(marks.before) == cell
        symbols[cell] = "◈" if same_as_promised else "◉" if same_as_before else "●"
        styles[cell] = palette.short if track.status is TrackStatus.SHORT else palette.kept
    text = Text(no_wrap=True)
    for symbol, style in zip(symbols, styles, strict=True):
        text.append(symbol, style)
    return text


def _words(track: Track, cells: int, palette: Palette) -> Text:
    """A track without numbers: what it was, what was promised."""
    text = Text(no_wrap=True)
    text.append(f"○ {_said(track.before)}", palette.muted)
    if track.promised is not None:
        text.append("   ◇ ", palette.promised)
        text.append(_said(track.promised), palette.muted)
        if text.cell_len + len(" promised") <= cells:
            text.append(" promised", palette.muted)
    text.truncate(cells, pad=True)
    return text


def _value(track: Track, cells: int, palette: Palette) -> Text:
    text = Text(no_wrap=True)
    text.append(_said(track.now), f"bold {palette.text}")
    both = isinstance(track.now, int | float | None) and isinstance(track.promised, int | float)
    if both and track.promised is not None:
        text.append(f" of {_said(track.promised)}", palette.muted)
    unit = "" if track.quantity is Quantity.CHANNELS else track.unit
    text.append(f" {unit}", palette.muted)
    text.truncate(cells, pad=True)
    return text


def _status(track: Track, palette: Palette) -> Text:
    text = Text(no_wrap=True)
    if track.status is None:
        text.append("not promised" if track.promised is None else "", palette.muted)
    elif track.status is TrackStatus.KEPT:
        text.append("✓ kept", palette.kept)
    elif track.status is TrackStatus.UNKNOWN:
        text.append("? unknown", f"bold {palette.promised}")
    else:
        text.append(_difference(track), f"bold {palette.short if track.status is TrackStatus.SHORT else palette.kept}")
    return text


def change_line(track: Track, cells: int, palette: Palette) -> Text:
    """Return a track without a promise: from one reading to another, with the change at its end."""
    line = track_line(track, cells, palette)
    line.truncate(max(0, line.cell_len - len("not promised")))
    line.append(*_change(track, palette))
    return line


def _change(track: Track, palette: Palette) -> tuple[str, str]:
    if track.before is None or track.now is None:
        return "? one unknown", palette.muted
    if not (isinstance(track.before, int | float) and isinstance(track.now, int | float)):
        return ("as before", palette.muted) if track.before == track.now else ("changed", f"bold {palette.text}")
    change = round(track.now - track.before, 1)
    if not change:
        return "as before", palette.muted
    better = (change > 0) != track.lower_is_better
    return f"{'+' if change > 0 else '−'}{number_text(abs(change))}", f"bold {palette.kept if better else palette.short}"


def _difference(track: Track) -> str:
    if not (isinstance(track.now, int | float) and isinstance(track.promised, int | float)):
        return "✗ short" if track.status is TrackStatus.SHORT else "+ over"
    difference = number_text(abs(track.now - track.promised))
    if track.lower_is_better:
        return f"✗ {difference} late" if track.status is TrackStatus.SHORT else f"✓ {difference} less"
    return f"✗ {difference} short" if track.status is TrackStatus.SHORT else f"+ {difference} over"


def _said(value: float | str | None) -> str:
    if value is None:
        return "?"
    return value if isinstance(value, str) else number_text(value)
