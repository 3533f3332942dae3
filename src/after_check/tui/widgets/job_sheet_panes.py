"""The regions of the job sheet: header, answers, board, promise tracks, chain, findings, reason."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import ClassVar

from rich.text import Text
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import VerticalScroll
from textual.reactive import reactive
from textual.widgets import Static
from textual.widgets.option_list import Option

from after_check.casework.answers import answers_of
from after_check.casework.chain import Chain, chain_of
from after_check.casework.next_step import next_step_of
from after_check.casework.snapshot import JobSnapshot
from after_check.casework.verdict_words import SEVERITY_MARKS, SEVERITY_WORDS, outcome_words
from after_check.domain.codes import Severity
from after_check.domain.findings import Finding
from after_check.domain.standing import JobOutcome, Verdict
from after_check.texts import say, words_of
from after_check.tui.charts.answer_line import answers_in_short, answers_line
from after_check.tui.charts.board import board_lines, snapshot_of
from after_check.tui.charts.cells import day_of, joined, right_aligned, wrapped
from after_check.tui.charts.chain import chain_lines
from after_check.tui.charts.promise import promise_words
from after_check.tui.charts.reason import ceiling_lines, reason_lines
from after_check.tui.charts.sources import source_lines
from after_check.tui.charts.tracks import basis_line, legend, track_line
from after_check.tui.theme import Ink, outcome_colour
from after_check.tui.widgets.drawn import Drawn
from after_check.tui.widgets.listed import Listed

_LOW_ROWS = 13


class JobPane(Drawn):
    """A region that draws a part of the job's snapshot."""

    snapshot: reactive[JobSnapshot | None] = reactive(None, always_update=True)


class JobHeader(JobPane):
    """Who and what, the promise, how it stands, and the five answers."""

    counts: ClassVar[bool] = False
    """Whether what is to fix is counted, as where the five answers have a line of their own."""

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw the header."""
        if self.snapshot is None:
            return [Text(" opening the job ...", Ink.MUTED)]
        facts = self.snapshot.job.facts
        outcome = self.snapshot.outcome
        chip = Text(no_wrap=True)
        chip.append(f"  {outcome_words(outcome)}  ", f"bold {Ink.ON_COLOUR} on {outcome_colour(outcome)}")
        chip.append(" ")
        who = Text(" ", no_wrap=True)
        who.append(f"{facts.number}  ", Ink.MUTED)
        who.append(facts.title or "(no name)", f"bold {Ink.TEXT}")
        for part in (facts.machine, facts.customer):
            if part:
                who.append("  ·  ", Ink.LINE)
                who.append(part, Ink.MUTED)
        who.truncate(max(10, cells - chip.cell_len - 2), overflow="ellipsis")
        counts = Text(_counts(self.snapshot), Ink.TEXT) if self.counts else answers_in_short(answers_of(self.snapshot), cells)
        promised = Text(" ", no_wrap=True)
        words = promise_words(self.snapshot.promise)
        promised.append("promised  " if words else "nothing promised yet: press e", Ink.MUTED)
        promised.append(words, Ink.PROMISED)
        promised.truncate(max(10, cells - counts.cell_len - 3), overflow="ellipsis")
        counts.append(" ")
        return [right_aligned(who, chip, cells), right_aligned(promised, counts, cells)]


def _counts(snapshot: JobSnapshot) -> str:
    judgement = snapshot.judgement
    to_fix, to_tell = judgement.count(Severity.FIX), judgement.count(Severity.TELL)
    if snapshot.outcome is JobOutcome.AS_IT_CAME:
        return snapshot.job.hand_back.as_it_came
    if snapshot.outcome is JobOutcome.AS_AGREED:
        return "the customer takes it as it is"
    if judgement.verdict is Verdict.CANT_TELL:
        return say(judgement.why)
    following = sum(len(judgement.following(root)) for root in judgement.roots if root.severity is Severity.FIX)
    parts = [f"{to_fix} to fix"] if to_fix else []
    parts += [f"{following} {'follows' if following == 1 else 'follow'} from {'it' if to_fix == 1 else 'them'}"] if following else []
    parts += [f"{to_tell} to tell"] if to_tell else []
    return ", ".join(parts) or say(judgement.why)


class JobSheetHeader(JobHeader):
    """The same over the five answers."""

    counts = True


class AnswersLine(JobPane):
    """The five answers, with what says so for the first that is open."""

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw the answers, and the next step."""
        if self.snapshot is None:
            return [Text("")]
        return [answers_line(answers_of(self.snapshot), cells, next_step_of(self.snapshot).words)]


class ChainLine(JobPane):
    """The chain of the chosen finding: its cause, what follows, and the act that breaks it."""

    finding: reactive[Finding | None] = reactive(None)

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw the chain; nothing where nothing is to be done."""
        chain = self._chain()
        return chain_lines(chain, cells, rows) if chain is not None else [Text("")]

    def fit(self) -> None:
        """Take the lines that this chain needs: one, or where there is room for it two."""
        chain = self._chain()
        self.set_class(chain is None, "-empty")
        most = 1 if self.screen.has_class("-low") else 2
        self.styles.height = len(chain_lines(chain, max(1, self.content_size.width), most)) if chain is not None else 1

    def on_resize(self) -> None:
        """Take the lines for another width."""
        self.fit()

    def _chain(self) -> Chain | None:
        return chain_of(self.snapshot.judgement, self.finding) if self.snapshot is not None and self.finding is not None else None


class BoardPane(JobPane):
    """The drawn board: now, on arrival or as promised."""

    pointed_at: frozenset[str] = frozenset()
    shown = 0

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw the board that is chosen."""
        boards = self.snapshot.boards() if self.snapshot else ()
        title = Text("BOARD", f"bold {Ink.MUTED}")
        if not boards or self.snapshot is None:
            return [
                title,
                Text(""),
                *(Text(line, Ink.MUTED) for line in wrapped("nothing was read yet: press r to take a reading", cells)),
            ]
        board = boards[self.shown % len(boards)]
        title.append(f"  {board.name}", f"bold {Ink.TEXT}")
        if board.before_try is not None and board.read_at is not None:
            title.append(f"  as read {day_of(board.read_at)}, before try {board.before_try}", Ink.PROMISED)
        elif len(boards) > 1:
            others = " · ".join(other.name for index, other in enumerate(boards) if index != self.shown % len(boards))
            title.append(f"   o: {others}", Ink.MUTED)
        parts = self.snapshot.judgement.channel_parts if board.is_now else ()
        drawn = board_lines(snapshot_of(board, parts, self.pointed_at if board.is_now else frozenset()), cells, rows - 2)
        return [title, Text(""), *drawn][: max(rows, 3)]


class TracksPane(JobPane):
    """The promise tracks: every quantity on arrival, as promised and now, on its own scale."""

    with_sources = False

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw the tracks, with air or with their sources where there is room."""
        title = Text("PROMISE  ", f"bold {Ink.MUTED}")
        title.append_text(legend())
        tracks = self.snapshot.judgement.tracks if self.snapshot else ()
        if not tracks:
            return [title, Text(""), Text("nothing to hold against each other yet", Ink.MUTED)]
        drawn: list[Text] = [title]
        airy = rows >= 2 + 2 * len(tracks)
        if airy:
            drawn.append(Text(""))
        for track in tracks:
            drawn.append(track_line(track, cells))
            if self.with_sources:
                drawn.append(basis_line(track, cells))
            elif airy:
                drawn.append(Text(""))
        return drawn[:rows]


class FindingsTitle(JobPane):
    """The heading above the findings."""

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw the heading."""
        some = self.snapshot is not None and bool(self.snapshot.judgement.findings)
        return [Text("FINDINGS" if some else "NO FINDINGS", f"bold {Ink.MUTED}")]


class FindingsList(Listed):
    """The causes, worst first, each with what follows from it beneath; the chosen one is explained beside the list."""

    BINDINGS: ClassVar[list[BindingType]] = [Binding("j", "cursor_down", show=False)]

    def __init__(self, id: str) -> None:
        super().__init__(id=id)
        self._findings: tuple[Finding, ...] = ()
        self._drawn: tuple[tuple[Finding, ...], int] | None = None

    def on_resize(self) -> None:
        """Set the rows again for the list's own width, whoever changed it."""
        self._draw()

    def action_select(self) -> None:
        """Enter is the sheet's: what is to be done next, whichever finding is chosen."""
        self.call_later(self.run_action, "screen.next")

    def show(self, findings: tuple[Finding, ...]) -> None:
        """Show findings, keeping the chosen one where it is still there."""
        self._findings = findings
        self._draw()

    def _draw(self) -> None:
        # The stable gutter of the style sheet keeps the width the same with and without a scroll bar.
        cells = max(20, self.scrollable_content_region.width - 2)
        if self._drawn == (self._findings, cells):
            return
        self._drawn = (self._findings, cells)
        chosen = self.highlighted or 0
        self.clear_options()
        self.add_options(
            [
                Option(_consequence_text(finding, cells) if finding.because_of else _finding_text(finding, cells))
                for finding in self._findings
            ]
        )
        if self._findings:
            self.highlighted = min(chosen, len(self._findings) - 1)


def _consequence_text(finding: Finding, cells: int) -> Text:
    """Return what follows from the finding above it, in one line: it goes away with its cause."""
    text = Text(no_wrap=True)
    text.append("     ╰ ", Ink.MUTED)
    text.append(words_of(finding).title.partition(": ")[0], Ink.MUTED)
    text.truncate(cells, overflow="ellipsis")
    return text


def _finding_text(finding: Finding, cells: int) -> Text:
    colour = {Severity.FIX: Ink.SHORT, Severity.TELL: Ink.PROMISED, Severity.NOTE: Ink.MUTED}[finding.severity]
    text = Text(no_wrap=True)
    text.append(f"{SEVERITY_MARKS[finding.severity]} {SEVERITY_WORDS[finding.severity]:<5}", f"bold {colour}")
    style = Ink.TEXT if finding.severity is Severity.NOTE else f"bold {Ink.TEXT}"
    text.append("\n       ".join(wrapped(words_of(finding).title, cells - 7)[:3]), style)
    return text


class ReasonPane(VerticalScroll):
    """The reason of the chosen finding, and what to do next."""

    def __init__(self, id: str) -> None:
        super().__init__(id=id)
        self._lines: Callable[[int, bool], list[Text]] = lambda _cells, _low: []

    def compose(self) -> ComposeResult:
        """Lay out the pane."""
        yield Static(id="reason-text", markup=False)

    def on_resize(self) -> None:
        """Set the text again for the pane's own width, whoever changed it."""
        self._set()

    def show_sources(self, snapshot: JobSnapshot, board: int) -> None:
        """Show where every value of a board's reading comes from, and what was said instead."""
        boards = snapshot.boards()
        if not boards:
            return
        shown = boards[board % len(boards)]
        title = [Text(f"WHERE EACH VALUE COMES FROM  {shown.name}", f"bold {Ink.MUTED}"), Text("")]
        self._lines = lambda cells, _low: [*title, *source_lines(shown.reading, cells)]
        self._set()
        self.scroll_home(animate=False)

    def show(self, snapshot: JobSnapshot, finding: Finding | None) -> None:
        """Explain a finding, or say what to do when there is none."""
        self._lines = partial(_explained, snapshot, finding)
        self._set()
        self.scroll_home(animate=False)

    def _set(self) -> None:
        lines = self._lines(max(24, self.size.width - 3), self.size.height < _LOW_ROWS)
        self.query_one("#reason-text", Static).update(joined(lines))


def _explained(snapshot: JobSnapshot, finding: Finding | None, cells: int, low: bool) -> list[Text]:
    lines = [Text("WHY, AND WHAT NEXT", f"bold {Ink.MUTED}"), Text("")]
    if finding is None:
        return [*lines, *(Text(line, Ink.TEXT) for line in wrapped(_without_findings(snapshot), cells))]
    if snapshot.judgement.verdict is Verdict.READY:
        lines[1:1] = [Text(line, f"bold {Ink.KEPT}") for line in wrapped(_without_findings(snapshot), cells)]
    bars = ceiling_lines(snapshot.judgement.ceilings, snapshot.running_mts, cells) if finding.code.startswith("rate.") else []
    words = reason_lines(finding, cells, snapshot.judgement)
    # On a low screen the next step must be in sight without scrolling, so the bars come last.
    parts = [words, bars] if low else [bars, words]
    return [*(lines[:1] if low else lines), *(line for part in parts if part for line in [*part, Text("")])]


def _without_findings(snapshot: JobSnapshot) -> str:
    if snapshot.job.arrival is None:
        return "Take the reading on arrival first: press r, then enter for this machine, or type a path or what the screen shows."
    if snapshot.promise is None:
        return "Nothing was promised yet: press e and type the promise, for instance 2x16G DDR4-3200; dual."
    if snapshot.job.now is None:
        return "Fit the memory, start the machine, then press r and take the reading after fitting."
    if snapshot.judgement.verdict is Verdict.READY:
        return f"Every promised quantity is kept. Enter: {next_step_of(snapshot).words}."
    return f"There is nothing to fix, and still it can't be told: {say(snapshot.judgement.why)}. Enter: {next_step_of(snapshot).words}."
