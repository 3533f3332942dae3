"""Memory in use over time in cells, with the old and the new total as lines across it."""

from __future__ import annotations

from dataclasses import dataclass

from rich.text import Text

from after_check.benchmark.demand import verdict_words
from after_check.domain.demand import DemandRecord
from after_check.domain.quantities import size_text
from after_check.tui.charts.cells import wrapped
from after_check.tui.theme import Ink

_BARS = " ▁▂▃▄▅▆▇█"


@dataclass(frozen=True, slots=True)
class DemandSnapshot:
    """A watch, the total before the upgrade in bytes where it is known, and what graphics holds back on arrival and now."""

    record: DemandRecord | None = None
    old_bytes: int | None = None
    runs: bool = False
    graphics_bytes: tuple[int | None, int | None] = (None, None)
    why_not: str = ""
    """Why the watch does not count for the job, where it does not."""


def demand_lines(snapshot: DemandSnapshot, cells: int, rows: int) -> list[Text]:
    """Return verdict and chart."""
    record = snapshot.record
    if record is None or not record.samples:
        hint = (
            "Nothing was watched yet. Press u, then let the customer's own work run on this computer: what it takes at its peak "
            "is held against what the machine had before. Or press l for a trial load of a stated size."
        )
        return [Text(part, Ink.MUTED) for part in wrapped(hint, cells)]
    lines = _said(snapshot, record, cells)
    return [*lines, Text(""), *_chart(record, snapshot.old_bytes, cells, max(4, rows - len(lines) - 3))][:rows]


def _said(snapshot: DemandSnapshot, record: DemandRecord, cells: int) -> list[Text]:
    last = record.samples[-1]
    head = Text(no_wrap=True)
    if snapshot.runs:
        head.append("◐ watching  ", f"bold {Ink.PROMISED}")
        head.append(f"{int(last.at_seconds // 60)}:{int(last.at_seconds % 60):02d}   in use {size_text(last.used_bytes)}", Ink.TEXT)
    lines = [head] if snapshot.runs else []
    if snapshot.why_not:
        lines += [
            Text(part, f"bold {Ink.SHORT}") for part in wrapped(f"▲ It does not count for this job. It is of {snapshot.why_not}.", cells)
        ]
    beyond = snapshot.old_bytes is not None and record.peak_bytes > snapshot.old_bytes
    for number, sentence in enumerate(verdict_words(record, snapshot.old_bytes)):
        style = f"bold {Ink.KEPT if beyond else Ink.TEXT}" if number == 1 else Ink.TEXT
        lines += [Text(part, style) for part in wrapped(sentence, cells)]
    details = [
        f"pressure {last.pressure_percent:.1f} %" if last.pressure_percent is not None else "",
        f"caches {size_text(last.cached_bytes)}",
    ]
    if record.rehearsed_bytes is not None:
        details.append(f"a trial load of {size_text(record.rehearsed_bytes)}, not the customer's work")
    details.append(_graphics_words(*snapshot.graphics_bytes))
    lines.append(Text(" · ".join(part for part in details if part), Ink.MUTED))
    return lines + [Text(part, Ink.PROMISED) for words in record.remarks for part in wrapped(f"– {words}", cells)]


def _graphics_words(before_bytes: int | None, now_bytes: int | None) -> str:
    if before_bytes is None and now_bytes is None:
        return ""
    before, now = (size_text(amount) if amount is not None else "not known" for amount in (before_bytes, now_bytes))
    return f"graphics holds back {now}" if before == now else f"graphics held back {before} on arrival, {now} now"


def _chart(record: DemandRecord, old_bytes: int | None, cells: int, rows: int) -> list[Text]:
    label = 11
    room = max(10, cells - label - 1)
    top = max(record.total_bytes, record.peak_bytes) or 1
    columns = _columns(record, room)
    lines: list[Text] = []
    old_row = rows - 1 - int(min(old_bytes, top) / top * rows - 1e-9) if old_bytes else None
    for row in range(rows):
        low, high = top * (rows - 1 - row) / rows, top * (rows - row) / rows
        name = f"● {size_text(top)}" if row == 0 else f"○ {size_text(old_bytes)}" if row == old_row and old_bytes else ""
        line = Text(f"{name:<{label}}", Ink.TEXT if name.startswith("○") else Ink.PROMISED, no_wrap=True)
        for used in columns:
            filled = 0 if used <= low else 8 if used >= high else max(1, int((used - low) / (high - low) * 8))
            beyond = old_bytes is not None and used > old_bytes
            if filled:
                line.append(_BARS[filled], Ink.PROMISED if beyond else Ink.TEXT)
            else:
                line.append("╌" if row == old_row else " ", Ink.LINE)
        lines.append(line)
    seconds = record.samples[-1].at_seconds
    lines.append(Text(" " * label + f"0{'':{max(1, room - 12)}}{int(seconds // 60)}:{int(seconds % 60):02d}", Ink.MUTED))
    return lines


def _columns(record: DemandRecord, room: int) -> list[int]:
    """Return the most in use for each column of the chart."""
    used = [sample.used_bytes for sample in record.samples]
    if len(used) <= room:
        wide = max(1, room // len(used))
        return [value for value in used for _ in range(wide)]
    return [max(used[at * len(used) // room : max(at * len(used) // room + 1, (at + 1) * len(used) // room)]) for at in range(room)]
