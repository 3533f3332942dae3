"""What the stick shows on the customer's machine: what it is doing, and in letters for the whole room what came of it."""

from __future__ import annotations

import time
from typing import TYPE_CHECKING, ClassVar

from rich.text import Text
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.reactive import reactive

from after_check.casework.answers import answers_of
from after_check.casework.next_step import next_step_of
from after_check.casework.outcome import open_unknown, unknown_words
from after_check.casework.verdict_words import OUTCOME_MARKS, OUTCOME_WORDS
from after_check.domain.codes import Severity
from after_check.domain.quantities import counted, size_text
from after_check.domain.soak import SoakRecord
from after_check.stick.run import VisitPhase, VisitState
from after_check.texts import words_of
from after_check.tries.watch import clock
from after_check.tui.base import ShopScreen
from after_check.tui.charts.answer_line import answers_line
from after_check.tui.charts.cells import wrapped
from after_check.tui.charts.numerals import large_words
from after_check.tui.charts.soak import field_lines, looked_lines
from after_check.tui.theme import Ink, outcome_colour
from after_check.tui.widgets.drawn import Drawn
from after_check.tui.widgets.keys_line import KeysLine

if TYPE_CHECKING:
    from after_check.stick.run import MachineVisit

_TICK_SECONDS = 0.5
_ROWS_FOR_FIELD = 30
"""With fewer the letters that are read from across the room would get too small."""
_STEPS = (
    (VisitPhase.READ, "read the machine"),
    (VisitPhase.TEST, "test its memory"),
    (VisitPhase.START_AGAIN, "test the rest after another start"),
)
_ORDER = (
    VisitPhase.BEGIN,
    VisitPhase.READ,
    VisitPhase.ASK,
    VisitPhase.TEST,
    VisitPhase.START_AGAIN,
    VisitPhase.MEASURE,
    VisitPhase.DONE,
    VisitPhase.FAILED,
)


class OnMachinePane(Drawn):
    """The whole of it: the machine, the steps, the large words, what is behind them."""

    state: reactive[VisitState] = reactive(VisitState())

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw it."""
        state = self.state
        lines = [self._head(cells), Text("")]
        lines += self._steps()
        lines.append(Text(""))
        below = [*self._answers(cells), *self._below(cells)]
        field = self._field(cells) if rows >= _ROWS_FOR_FIELD else []
        room = max(0, rows - len(lines) - len(below) - len(field) - 3)
        words, ink, mark = _large_words(state)
        drawn = large_words(words, cells - 4, room, most=4)
        if drawn:
            lines += [Text(f"  {part}", ink, no_wrap=True) for part in drawn]
        if mark or not drawn:
            lines += [Text(""), Text.assemble(("  ", ""), (f"  {mark} {words}  ".replace("   ", "  "), f"bold {Ink.ON_COLOUR} on {ink}"))]
        lines += [Text(""), *below, *field]
        return lines[:rows]

    def _field(self, cells: int) -> list[Text]:
        """The memory under test as a map, while it is tested; what a clean test has looked for, when it is done."""
        state = self.state
        if state.phase is VisitPhase.DONE and state.soak is not None and not state.soak.errors:
            return [Text.assemble("  ", line) for line in looked_lines(state.soak, cells - 4, _ROWS_FOR_FIELD)]
        if state.phase is not VisitPhase.TEST or state.soak is None or not state.soak.blocks:
            return []
        return [Text(""), *(Text.assemble("  ", line) for line in field_lines(state.soak, cells - 4, 8))]

    def _head(self, cells: int) -> Text:
        job = self.state.job
        head = Text("  ", no_wrap=True)
        head.append("AFTER CHECK", f"bold {Ink.PROMISED}")
        head.append("  from the stick, on this machine", Ink.MUTED)
        if job is not None:
            head.append(f"   job {job.facts.number}  ", Ink.MUTED)
            head.append(job.facts.title, f"bold {Ink.TEXT}")
        head.truncate(cells, overflow="ellipsis")
        return head

    def _steps(self) -> list[Text]:
        state = self.state
        at = _ORDER.index(state.phase)
        lines = []
        for phase, words in _STEPS:
            done = at > _ORDER.index(phase) or (phase is VisitPhase.TEST and state.second)
            here = state.phase is phase or (phase is VisitPhase.READ and state.phase in (VisitPhase.BEGIN, VisitPhase.ASK))
            if phase is VisitPhase.START_AGAIN:
                here, done = (
                    state.phase is phase or (state.second and state.phase is VisitPhase.TEST),
                    state.phase is VisitPhase.DONE and state.second,
                )
            if phase is VisitPhase.TEST:
                here = here and not state.second
            mark, ink = ("▮", Ink.TEXT) if done else ("◐", Ink.PROMISED) if here else ("▯", Ink.MUTED)
            lines.append(Text.assemble((f"  {mark} ", f"bold {ink}"), (words, f"bold {Ink.TEXT}" if here else Ink.MUTED)))
        return lines

    def _answers(self, cells: int) -> list[Text]:
        """The five answers and the one next step, as in every view of the job, once there is a verdict."""
        state = self.state
        if state.phase is not VisitPhase.DONE or state.verdict is None:
            return []
        return [Text.assemble(" ", answers_line(answers_of(state.verdict), cells - 2, next_step_of(state.verdict).words)), Text("")]

    def _below(self, cells: int) -> list[Text]:
        state = self.state
        said: list[tuple[str, str]] = []
        if state.phase is VisitPhase.ASK:
            left = max(0, round(state.answer_until - time.monotonic()))
            said.append((f"Which job is this machine? Without an answer within {left} s it becomes a new one.", f"bold {Ink.TEXT}"))
            for number, choice in enumerate(state.choices, 1):
                said.append((f"{number}  {choice.number or 'new'}  {choice.words if choice.number else ''}", Ink.TEXT))
        elif state.phase is VisitPhase.FAILED:
            said.append((state.words, f"bold {Ink.TEXT}"))
        elif state.phase is VisitPhase.DONE and state.verdict is not None:
            said += [(line, f"bold {Ink.TEXT}") for line in _why(state)]
        else:
            said.append((state.words, Ink.TEXT))
        if state.soak is not None:
            said += [(line, Ink.MUTED) for line in soak_lines(state.soak)]
        said += [(f"! {words}", Ink.PROMISED) for words in state.problems]
        return [Text(f"  {part}", ink) for words, ink in said for part in wrapped(words, cells - 4)]


def _large_words(state: VisitState) -> tuple[str, str, str]:
    """Return the words to be read from across the room, their colour, and the shape that says the same."""
    soak = state.soak
    if state.phase is VisitPhase.DONE and state.verdict is not None:
        outcome = state.verdict.outcome
        return OUTCOME_WORDS[outcome], outcome_colour(outcome), OUTCOME_MARKS[outcome]
    if state.phase is VisitPhase.FAILED:
        return "STOPPED", Ink.SHORT, "✗"
    if soak is not None and soak.errors:
        return "ERRORS", Ink.SHORT, "✗"
    if state.phase is VisitPhase.TEST and soak is not None:
        return f"{int(soak.share * 100)}%", Ink.PROMISED, ""
    words = {VisitPhase.ASK: "WHICH JOB", VisitPhase.START_AGAIN: "ONCE MORE", VisitPhase.MEASURE: "SPEED"}
    return words.get(state.phase, "WAIT"), Ink.PROMISED, ""


def _why(state: VisitState) -> list[str]:
    """Return what is behind the verdict: the first causes, what is not known, else that nothing stands against it."""
    assert state.verdict is not None
    judgement, job = state.verdict.judgement, state.verdict.job
    said = [words_of(finding).title for finding in judgement.roots if finding.severity is not Severity.NOTE][:3]
    unknown = [unknown_words(name) for name in open_unknown(judgement, job.hand_back)]
    said += [f"Promised and not known: {', '.join(unknown)}."] if unknown else []
    if state.verdict.promise is None:
        said.append("Nothing was promised that it could be held against.")
    return said or ["Nothing that was read or tested stands against it."]


def soak_lines(record: SoakRecord) -> list[str]:
    """Return how a memory test stands, in two lines."""
    installed = record.covered.installed_bytes
    swept = record.fully_swept_bytes or record.covered.held_bytes
    share = f", {int(1000 * min(1.0, swept / installed)) / 10:g} % of what is installed" if installed else ""
    word = "tested" if record.fully_swept_bytes else "under test"
    lines = [f"{counted(record.errors, 'error') if record.errors else 'no errors'}; {size_text(swept)} {word}{share}"]
    if not record.state.is_over:
        left = f", {clock(record.seconds_left)} left" if record.seconds_left is not None else ""
        lines.append(f"{record.step}; {record.rate_bytes_per_s / 1e9:.1f} GB/s{left}")
    lines += [f"  at {error.physical_byte:#x}, bits {error.bits:016x}" for error in record.kept[:3] if error.physical_byte is not None]
    if record.suspects:
        lines.append(f"points at {' or '.join(record.suspects)}")
    return lines


class OnMachineScreen(ShopScreen[str]):
    """Follows the visit."""

    CSS_PATH = "on_machine.tcss"
    AUTO_FOCUS = ""
    HELP_TITLE = "From the stick"
    HELP_LINES = (
        "The stick reads the machine, tests its memory, starts once more for the part that the system used, and judges.",
        "It needs nobody. What it finds is on the stick after every step: after-check stick collect brings it to the bench.",
        "Nothing on the machine's own disks is looked into or changed.",
    )
    BINDINGS: ClassVar[list[BindingType]] = [
        *(Binding(str(number), f"choose({number})", show=False) for number in range(1, 10)),
        Binding("enter", "choose(1)", "the first one"),
        Binding("s", "stop", "stop the test", tooltip="stop; what was found is kept"),
        Binding("b", "bench", "everything", tooltip="the whole program, with this job"),
        Binding("o", "off", "switch off", tooltip="switch the machine off"),
        Binding("r", "again", "start again", tooltip="start the machine again"),
    ]

    def __init__(self, visit: MachineVisit) -> None:
        super().__init__()
        self._visit = visit
        self._told = False

    def compose(self) -> ComposeResult:
        """Lay it out."""
        yield OnMachinePane(id="on-machine")
        yield KeysLine()

    def on_mount(self) -> None:
        """Look at the visit twice a second."""
        self.set_interval(_TICK_SECONDS, self.look)
        self.look()

    def look(self) -> None:
        """Show how it stands; tell the end by beeps."""
        before = self.query_one(OnMachinePane).state
        state = self._visit.state
        self.query_one(OnMachinePane).state = state
        if state.phase is VisitPhase.ASK:
            self.query_one(OnMachinePane).refresh()
        if before.phase is not state.phase:
            self.refresh_bindings()
        if state.phase in (VisitPhase.DONE, VisitPhase.FAILED) and not self._told:
            self._told = True
            good = state.verdict is not None and state.verdict.outcome.may_go
            for number in range(2 if good else 5):
                self.set_timer(0.1 + number * (0.35 if good else 0.7), self.app.bell)

    def check_action(self, action: str, parameters: tuple[object, ...]) -> bool | None:
        """Offer what makes sense now."""
        phase = self._visit.state.phase
        over = phase in (VisitPhase.DONE, VisitPhase.FAILED)
        if action == "choose":
            return phase is VisitPhase.ASK
        if action == "stop":
            return phase is VisitPhase.TEST
        return over if action in ("bench", "off", "again") else True

    def action_choose(self, number: int) -> None:
        """Answer which job it is."""
        choices = self._visit.state.choices
        if 1 <= number <= len(choices):
            self._visit.answer(choices[number - 1].number)

    def action_stop(self) -> None:
        """Stop the test."""
        self._visit.stop()

    def action_bench(self) -> None:
        """Go to the whole program."""
        self.dismiss("bench")

    def action_off(self) -> None:
        """Switch the machine off."""
        self.dismiss("off")

    def action_again(self) -> None:
        """Start the machine again."""
        self.dismiss("again")
