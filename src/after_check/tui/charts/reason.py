"""The reason of a finding in cells: the ceilings as bars, then why, what next, and what it rests on."""

from __future__ import annotations

from rich.text import Text

from after_check.casework.rate_words import ceiling_words, one_a_cause
from after_check.domain.findings import Ceiling, CeilingKind, Finding, Judgement
from after_check.texts import say, words_of
from after_check.tui.charts.cells import fitted, wrapped
from after_check.tui.theme import Ink

_NAME_CELLS = 24
_VALUE_CELLS = 6
_MARK_CELLS = 20


def ceiling_lines(ceilings: tuple[Ceiling, ...], running_mts: int | None, cells: int) -> list[Text]:
    """Return the ceilings as bars on one scale, the binding one marked, and the rate that runs beneath them."""
    ceilings = one_a_cause(ceilings)
    rates = [ceiling.rate_mts for ceiling in ceilings] + ([running_mts] if running_mts else [])
    if not rates:
        return []
    longest = max(rates)
    bar_cells = max(6, cells - _NAME_CELLS - _VALUE_CELLS - _MARK_CELLS)
    lines = []
    for ceiling in ceilings:
        colour = Ink.SHORT if ceiling.binding else Ink.PROMISED if ceiling.kind is CeilingKind.PROMISE else Ink.MUTED
        lines.append(
            _bar(ceiling_words(ceiling), ceiling.rate_mts, longest, bar_cells, colour, "◂ this is the limit" if ceiling.binding else "")
        )
    if running_mts:
        lines.append(_bar("running", running_mts, longest, bar_cells, Ink.TEXT, ""))
    return lines


def _bar(name: str, rate_mts: int, longest: int, cells: int, colour: str, mark: str) -> Text:
    text = Text(no_wrap=True)
    text.append(fitted(name, _NAME_CELLS), Ink.TEXT)
    text.append("▆" * max(1, round(rate_mts / longest * cells)), colour)
    text.append(f" {rate_mts}", Ink.TEXT)
    if mark:
        text.append(f" {mark}", f"bold {colour}")
    return text


def reason_lines(finding: Finding, cells: int, judgement: Judgement | None = None) -> list[Text]:
    """Return why, what it follows from, next, what the customer is told, and the evidence with its sources."""
    words = words_of(finding)
    lines = [Text(line, Ink.TEXT) for line in wrapped(words.reason, cells)]
    cause = judgement.cause_of(finding) if judgement is not None else None
    if cause is not None:
        lines.append(Text(""))
        lines += _labelled(
            "Cause", f"{words_of(cause).title}. See to that first; this goes with it.", cells, f"bold {Ink.PROMISED}", Ink.TEXT
        )
    lines.append(Text(""))
    lines += _labelled("Next", words.next, cells, f"bold {Ink.PROMISED}", Ink.TEXT)
    lines.append(Text(""))
    if words.disproof:
        lines += _labelled("Doubt", f"It is not so if: {words.disproof[0].lower()}{words.disproof[1:]}", cells, Ink.MUTED, Ink.TEXT)
    lines += _labelled("Tell", words.customer, cells, Ink.MUTED, Ink.MUTED)
    if finding.evidence:
        said = "; ".join(f"{say(part.says)} ({part.source.value})" for part in finding.evidence)
        lines += _labelled("From", f"{said} · {finding.sure:.0%} sure · {finding.code}", cells, Ink.MUTED, Ink.MUTED)
    return lines


def _labelled(label: str, text: str, cells: int, label_style: str, style: str) -> list[Text]:
    lines: list[Text] = []
    for index, part in enumerate(wrapped(text, cells - 6)):
        line = Text(no_wrap=True)
        line.append(fitted(label if index == 0 else "", 6), label_style)
        line.append(part, style)
        lines.append(line)
    return lines
