"""What hands do next, in letters that are read from two metres: one move, or one question, and its two answers."""

from __future__ import annotations

from dataclasses import dataclass, field

from rich.text import Text

from after_check.casework.hands import HandAct, HandMove, HandPlan, StartsSeen
from after_check.domain.tries import TryLog
from after_check.tries.watch import StartTimes, advise, clock
from after_check.tui.charts.cells import shortened, wrapped
from after_check.tui.charts.numerals import large, large_words
from after_check.tui.charts.tries import module_words
from after_check.tui.theme import Ink


@dataclass(frozen=True, slots=True)
class HandsSnapshot:
    """Where the hands are: `at` is the number of the move, beyond the last one the start is asked for, `testing` the test after it.

    `says` is what came of the tries where nothing is left to be tried, with the act and what stays where.
    """

    log: TryLog = field(default_factory=TryLog)
    plan: HandPlan | None = None
    at: int = 0
    testing: bool = False
    counted: StartsSeen = field(default_factory=StartsSeen)
    seconds: float | None = None
    times: StartTimes | None = None
    says: str = ""
    act: str = ""
    stays: tuple[tuple[str, str], ...] = ()
    waiting: bool = False

    @property
    def move(self) -> HandMove | None:
        """The move to be made now; None where the start is asked for."""
        return self.plan.moves[self.at] if self.plan is not None and self.at < len(self.plan.moves) else None


def hands_lines(hands: HandsSnapshot, cells: int, rows: int) -> list[Text]:
    """Return the view for so many cells and rows."""
    cells -= 2
    if hands.waiting:
        return _padded([Text("working out the next try ...", Ink.MUTED)])
    if hands.plan is None:
        return _padded(_at_the_end(hands, cells, rows))[:rows]
    move = hands.move
    return _padded(_move_lines(hands, move, cells, rows) if move is not None else _question(hands, hands.plan, cells, rows))[:rows]


def _padded(lines: list[Text]) -> list[Text]:
    return [Text(""), *(Text.assemble(" ", line) for line in lines)]


def _move_lines(hands: HandsSnapshot, move: HandMove, cells: int, rows: int) -> list[Text]:
    moves = hands.plan.moves if hands.plan is not None else ()
    lines = [Text(f"MOVE {hands.at + 1} OF {len(moves)}, with the power off", f"bold {Ink.MUTED}"), Text("")]
    lines += _act_and_slot(move.act.value.upper(), move.slot.upper(), cells, rows - 9)
    lines.append(Text(""))
    if move.letter:
        lines.append(_module(hands.log, move, cells))
    lines.append(Text(""))
    lines += _answers(("enter", "done"), *((("←", "the move before"),) if hands.at else ()))
    coming = moves[hands.at + 1 :]
    then = ", then ".join(f"{one.act.value} {one.slot}" for one in coming[:3]) or "the start"
    lines.append(Text(shortened(f"after it: {then}", cells), Ink.MUTED))
    kept = hands.plan.kept if hands.plan is not None else ()
    if kept:
        lines.append(Text(shortened(f"keep: {', '.join(f'{slot} {letter}' for slot, letter in kept)}", cells), Ink.MUTED))
    return lines


def _module(log: TryLog, move: HandMove, cells: int) -> Text:
    text = Text(no_wrap=True)
    text.append("▐███", Ink.MODULE)
    text.append(f" {move.letter} ", f"bold {Ink.ON_COLOUR} on {Ink.MODULE}")
    text.append("███▌", Ink.MODULE)
    text.append(f"  {shortened(module_words(log, move.letter), max(8, cells - 14))}", Ink.TEXT)
    return text


def _question(hands: HandsSnapshot, plan: HandPlan, cells: int, rows: int) -> list[Text]:
    if hands.testing:
        lines = [Text(f"TEST THE MEMORY FOR {plan.soak_minutes:.0f} MINUTES", f"bold {Ink.MUTED}"), Text("")]
        return [*lines, *_large("CLEAN", cells, rows - 8), Text(""), *_answers(("enter", "no errors"), ("n", "errors"))]
    whole = f", {hands.counted.starts} of {plan.starts} so far" if plan.starts > 1 else ""
    lines = [Text(f"SWITCH IT ON{whole}", f"bold {Ink.MUTED}"), Text("")]
    if hands.seconds is None or hands.times is None:
        lines += [*_large("STARTS", cells, rows - 9), Text("")]
        lines.append(Text(shortened("space in the moment in which you switch it on: a clock runs", cells), Ink.PROMISED))
    else:
        advice = advise(hands.times, hands.seconds)
        lines += [*_large(clock(hands.seconds), cells, rows - 10), Text("")]
        lines += [Text(part, f"bold {Ink.TEXT}") for part in wrapped(advice.words, cells)]
    return [*lines, Text(""), *_answers(("enter", "it starts"), ("n", "it does not"))]


def _at_the_end(hands: HandsSnapshot, cells: int, rows: int) -> list[Text]:
    """Return what the tries came to: the act, and what goes back where."""
    lines = [Text(part, f"bold {Ink.TEXT}") for part in wrapped(hands.says, cells)]
    if hands.act:
        lines += [Text(""), *(Text(part, f"bold {Ink.PROMISED}") for part in wrapped(f"▸ {hands.act}", cells))]
    if hands.stays:
        lines += [Text(""), Text("STAYS FITTED", f"bold {Ink.MUTED}")]
        for slot, letter in hands.stays[: max(0, rows - len(lines) - 3)]:
            line = Text(f"{slot}  ", f"bold {Ink.TEXT}", no_wrap=True)
            line.append_text(_module(hands.log, HandMove(HandAct.PUT_IN, slot, letter), cells - len(slot) - 2))
            lines.append(line)
    return [*lines, Text(""), *_answers(("enter", "to the tries"), ("esc", "back"))]


def _large(words: str, cells: int, rows: int) -> list[Text]:
    """Return words in blocks where there is room, else in bold."""
    drawn = large_words(words, cells, rows) or large(words, cells, rows)
    return [Text(line, Ink.TEXT, no_wrap=True) for line in drawn] or [Text(words, f"bold {Ink.TEXT}")]


def _act_and_slot(act: str, slot: str, cells: int, rows: int) -> list[Text]:
    """Return what is done above where, the place the larger of the two; in bold where blocks have no room."""
    above = large(act, cells, rows, 2)
    beneath = large(slot, cells, rows - len(above) - 1, 3)
    if above and beneath:
        return [Text(line, Ink.TEXT, no_wrap=True) for line in (*above, "", *beneath)]
    return _large(f"{act} {slot}", cells, rows)


def _answers(*answers: tuple[str, str]) -> list[Text]:
    line = Text(no_wrap=True)
    for key, words in answers:
        line.append(f" {key} ", f"bold {Ink.ON_COLOUR} on {Ink.PROMISED}")
        line.append(f" {words}     ", f"bold {Ink.TEXT}")
    return [line, Text("")]
