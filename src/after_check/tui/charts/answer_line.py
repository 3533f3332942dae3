"""The five answers in one line: each with its mark, and the reason of the first that is open."""

from __future__ import annotations

from rich.text import Text

from after_check.casework.answers import JobAnswer, JobAnswerKind
from after_check.tui.charts.cells import right_aligned, shortened
from after_check.tui.theme import Ink

_COLOURS = {
    JobAnswerKind.YES: Ink.KEPT,
    JobAnswerKind.NO: Ink.SHORT,
    JobAnswerKind.UNKNOWN: Ink.PROMISED,
    JobAnswerKind.NOT_ASKED: Ink.MUTED,
    JobAnswerKind.WAIVED: Ink.PROMISED,
}
_LEAST_REASON = 8


def answer_colour(mark: str) -> str:
    """Return the colour of an answer's mark."""
    return next((_COLOURS[kind] for kind in JobAnswerKind if kind.mark == mark), Ink.MUTED)


_ROOM_FOR_WORDS = 110


def answers_in_short(answers: tuple[JobAnswer, ...], cells: int) -> Text:
    """Return the answers for the head of a view: each with its name where there is room, else the marks alone."""
    text = Text(no_wrap=True)
    for one in answers:
        if cells >= _ROOM_FOR_WORDS:
            text.append(f"{'  ' if text.cell_len else ''}{one.question.value} ", Ink.MUTED)
        text.append(one.kind.mark, f"bold {_COLOURS[one.kind]}")
    return text


def answers_line(answers: tuple[JobAnswer, ...], cells: int, next_step: str = "") -> Text:
    """Return the line for so many cells; what says so is beside the first `no`, else beside the first that is not known.

    At its right end the next step, where it has room beside them.
    """
    told = next((one for kind in (JobAnswerKind.NO, JobAnswerKind.UNKNOWN) for one in answers if one.kind is kind and one.why), None)
    bare = sum(len(one.question.value) + 2 for one in answers) + 3 * (len(answers) - 1) + 1
    step = Text(f"▸ {next_step} ", f"bold {Ink.PROMISED}", no_wrap=True) if next_step else Text("")
    if step.cell_len > cells - bare - 2:
        step = Text("")
    room = cells - bare - step.cell_len - 3
    text = Text(" ", no_wrap=True)
    for number, one in enumerate(answers):
        if number:
            text.append(" │ ", Ink.LINE)
        text.append(one.question.value, Ink.TEXT if one.kind is not JobAnswerKind.NOT_ASKED else Ink.MUTED)
        text.append(f" {one.kind.mark}", f"bold {_COLOURS[one.kind]}")
        if one is told and room >= _LEAST_REASON:
            style = f"bold {_COLOURS[one.kind]}" if one.kind is JobAnswerKind.NO else Ink.TEXT
            text.append(f" {shortened(one.why, room)}", style)
    return right_aligned(text, step, cells) if step else text
