"""The customer's page in cells: the same sentences and drawings, in the same order, as on paper."""

from __future__ import annotations

from rich.text import Text

from after_check.casework.shown_boards import ShownBoard
from after_check.casework.verdict_words import OUTCOME_MARKS
from after_check.domain.findings import Track
from after_check.domain.standing import Quantity
from after_check.handback.content import SheetContent
from after_check.handback.page import CUSTOMER_WORDS, MARKS, CustomerPage, Figure, Section, Sentence, Tone
from after_check.tui.charts.board import closest_lines, snapshot_of
from after_check.tui.charts.cells import beside, fitted, wrapped
from after_check.tui.charts.tracks import track_line
from after_check.tui.theme import Ink, outcome_colour

_TWO_COLUMNS = 58
_NAME_CELLS = 19
_SHORT_NAME_CELLS = 15
_GAP = 3


def paper_lines(page: CustomerPage, content: SheetContent, head: str, cells: int) -> list[Text]:
    """Return the page in lines of at most `cells` cells; `head` is the shop's name at its top."""
    colour = outcome_colour(page.outcome)
    lines = [Text(fitted(head, cells), f"bold {Ink.TEXT}"), Text("─" * cells, Ink.LINE)]
    lines += [Text(part, f"bold {Ink.TEXT}") for part in wrapped(page.title, cells)]
    lines += [Text(part, Ink.MUTED) for part in wrapped(page.subtitle, cells)]
    verdict = wrapped(f"{OUTCOME_MARKS[page.outcome]} {page.outcome_words}", cells - 2)
    lines += [Text(""), *(Text(fitted(f" {part}", cells), f"bold {Ink.ON_COLOUR} on {colour}") for part in verdict)]
    lines += [Text(part, Ink.MUTED) for part in wrapped(page.answers, cells)]
    lines += [Text(part, f"bold {Ink.TEXT}") for part in wrapped(page.story, cells)]
    for section in page.sections:
        lines += [Text(""), Text(fitted(section.heading, cells), f"bold {Ink.TEXT}")]
        lines += _figure(section, content, cells)
        for sentence in section.sentences:
            lines += _sentence(sentence, cells)
    lines += [Text(""), Text(""), _signatures(page, cells)] if page.outcome.may_go else []
    lines += [Text(part, Ink.MUTED) for part in wrapped(page.provenance, cells)]
    return lines


def _sentence(sentence: Sentence, cells: int) -> list[Text]:
    mark = MARKS.get(sentence.tone, "")
    style = Ink.MUTED if sentence.tone is Tone.SMALL else Ink.TEXT
    before = f" {mark} " if mark else ""
    lines: list[Text] = []
    for part in wrapped(sentence.text, cells - len(before)):
        shown = before if not lines else " " * len(before)
        lines.append(Text.assemble((shown, f"bold {Ink.SHORT}" if sentence.tone is Tone.ALARM else style), (part, style)))
    return lines


def _figure(section: Section, content: SheetContent, cells: int) -> list[Text]:
    if section.figure is Figure.TRACKS:
        return _tracks(content.judgement.tracks, cells)
    if section.figure is Figure.BOARDS:
        return _boards(content, cells)
    return []


def _tracks(tracks: tuple[Track, ...], cells: int) -> list[Text]:
    roomy = cells >= _TWO_COLUMNS
    name_cells = _NAME_CELLS if roomy else _SHORT_NAME_CELLS
    legend = [Text(" " * name_cells + "○ on arrival  ◇ promised  ● now", Ink.MUTED)] if roomy else []
    return [*legend, *(track_line(track, cells, _name(track.quantity, name_cells), name_cells) for track in tracks)]


def _name(quantity: Quantity, cells: int) -> str:
    """Return the customer's word for a quantity, cut before a word that only explains where the line has no room for it."""
    words = CUSTOMER_WORDS[quantity]
    for explains in (" to ", " for ", " of ", " setting"):
        words = words if len(words) < cells else words.split(explains)[0]
    return words if len(words) < cells else words.removeprefix("Memory ").capitalize()


def _boards(content: SheetContent, cells: int) -> list[Text]:
    two = cells >= _TWO_COLUMNS
    column = (cells - _GAP) // 2 if two else cells
    before, now = (_board(name, one, column) for name, one in (("on arrival", content.board_before), ("now", content.board_now)))
    if not two:
        return [*before, *now]
    return beside(before, now, column, _GAP)


def _board(name: str, board: ShownBoard | None, cells: int) -> list[Text]:
    title = Text(name, Ink.MUTED)
    if board is None:
        return [title, Text("not read", Ink.MUTED)]
    return [title, *closest_lines(snapshot_of(board), cells)]


def _signatures(page: CustomerPage, cells: int) -> Text:
    column = (cells - _GAP) // 2
    line = Text(fitted(page.handed_back_by, column), f"{Ink.MUTED} overline")
    line.append(" " * _GAP)
    line.append(fitted("Received by, on", column), f"{Ink.MUTED} overline")
    return line
