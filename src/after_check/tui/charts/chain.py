"""A chain in cells: the cause in its colour, what follows from it without one, the chosen link in bold, and the act at the end."""

from __future__ import annotations

from rich.text import Text

from after_check.casework.chain import Chain
from after_check.casework.verdict_words import SEVERITY_MARKS
from after_check.domain.codes import Severity
from after_check.tui.charts.cells import shortened
from after_check.tui.theme import Ink

ARROW = " ─▶ "
_LEAST_ACT = 16


def chain_lines(chain: Chain, cells: int, rows: int) -> list[Text]:
    """Return the chain in one line, or in two with the act beneath; where only one line is there, the act gives way last."""
    links = _links(chain, cells)
    act = f"▸ {chain.act}"
    if links.cell_len + 3 + len(act) <= cells:
        return [_with_act(links, act, cells)]
    if rows > 1:
        return [links, Text(f"  {shortened(act, cells - 2)}", f"bold {Ink.PROMISED}", no_wrap=True)]
    short = shortened(act, max(_LEAST_ACT, cells - links.cell_len - 3))
    links.truncate(cells - len(short) - 3, overflow="ellipsis")
    return [_with_act(links, short, cells)]


def _links(chain: Chain, cells: int) -> Text:
    text = Text(no_wrap=True)
    colour = Ink.SHORT if chain.severity is Severity.FIX else Ink.PROMISED
    text.append(f"{SEVERITY_MARKS[chain.severity]} ", f"bold {colour}")
    for at, link in enumerate(chain.links):
        if at:
            text.append(ARROW, Ink.MUTED)
        style = f"bold {colour}" if at == 0 else f"bold {Ink.TEXT}" if at == chain.chosen else Ink.TEXT
        text.append(link, style)
    text.truncate(cells, overflow="ellipsis")
    return text


def _with_act(links: Text, act: str, cells: int) -> Text:
    line = links.copy()
    line.append(" " * max(3, cells - links.cell_len - len(act)))
    line.append(act, f"bold {Ink.PROMISED}")
    return line
