"""The reason of a finding in cells: the ceilings as bars, then why, what next, and what it rests on."""

from __future__ import annotations

from rich.text import Text

from after_check.domain.findings import Ceiling, Finding
from after_check.tui.drawing.text import fitted, wrapped
from after_check.tui.palette import Palette

_NAME_CELLS = 24
_VALUE_CELLS = 6


def ceiling_lines(ceilings: tuple[Ceiling, ...], running_mts: int | None, cells: int, palette: Palette) -> list[Text]:
    """Return the ceilings as bars on one scale, the binding one marked, and the rate that runs beneath them."""
    rates = [ceiling.rate_mts for ceiling in ceilings] + ([running_mts] if running_mts else [])
    if not rates:
        return []
    longest = max(rates)
    bar_cells = max(6, cells - _NAME_CELLS - _VALUE_CELLS - 8)
    lines = []
    for ceiling in ceilings:
        colour = palette.short if ceiling.binding else palette.promised if ceiling.name == "promised" else palette.muted
        lines.append(_bar(ceiling.name, ceiling.rate_mts, longest, bar_cells, colour, palette, "◂ binds" if ceiling.binding else ""))
    if running_mts:
        lines.append(_bar("running", running_mts, longest, bar_cells, palette.kept, palette, ""))
    return lines


def _bar(name: str, rate_mts: int, longest: int, cells: int, colour: str, palette: Palette, mark: str) -> Text:
    text = Text(no_wrap=True)
    text.append(fitted(name, _NAME_CELLS), palette.text)
    text.append("▆" * max(1, round(rate_mts / longest * cells)), colour)
    text.append(f" {rate_mts}", palette.text)
    if mark:
        text.append(f" {mark}", f"bold {colour}")
    return text


def reason_lines(finding: Finding, cells: int, palette: Palette) -> list[Text]:
    """Return why, next, what the customer is told, and the evidence with its sources."""
    lines = [Text(line, palette.text) for line in wrapped(finding.reason, cells)]
    lines.append(Text(""))
    lines += _labelled("Next", finding.next, cells, palette, f"bold {palette.promised}", palette.text)
    lines.append(Text(""))
    lines += _labelled("Tell", finding.customer, cells, palette, palette.muted, palette.muted)
    if finding.evidence:
        said = "; ".join(f"{one.text} ({one.source.value})" for one in finding.evidence)
        lines += _labelled("From", f"{said} · {finding.sure:.0%} sure · {finding.code}", cells, palette, palette.muted, palette.muted)
    return lines


def _labelled(label: str, text: str, cells: int, palette: Palette, label_style: str, style: str) -> list[Text]:
    lines: list[Text] = []
    for index, part in enumerate(wrapped(text, cells - 6)):
        line = Text(no_wrap=True)
        line.append(fitted(label if index == 0 else "", 6), label_style)
        line.append(part, style)
        lines.append(line)
    return lines
