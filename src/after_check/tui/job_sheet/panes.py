"""The regions of the job sheet: header, steps, board, promise tracks, findings, reason."""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar, cast

from rich.text import Text
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import VerticalScroll
from textual.widgets import OptionList, Static
from textual.widgets.option_list import Option

from after_check.domain.findings import Finding, Severity, Verdict
from after_check.tui.drawing.board import board_lines, snapshot_of
from after_check.tui.drawing.reason import ceiling_lines, reason_lines
from after_check.tui.drawing.sources import source_lines
from after_check.tui.drawing.text import joined, right_aligned, wrapped
from after_check.tui.drawing.tracks import basis_line, legend, track_line
from after_check.tui.drawn import Drawn
from after_check.tui.job_sheet.snapshot import JobSnapshot, StepState, promise_words
from after_check.tui.palette import Palette

if TYPE_CHECKING:
    from after_check.tui.app import AfterCheckApp

_VERDICT_WORDS = {Verdict.READY: "✓ READY", Verdict.NOT_READY: "✗ NOT READY", Verdict.CANT_TELL: "? CAN'T TELL YET"}
_MARKS = {Severity.FIX: "▲", Severity.TELL: "●", Severity.NOTE: "·"}
_LOW_ROWS = 13
_GROUPS = {Severity.FIX: "fix", Severity.TELL: "tell", Severity.NOTE: "note"}


class JobPane(Drawn):
    """A region that draws a part of the job's snapshot."""

    snapshot: JobSnapshot | None = None


class JobHeader(JobPane):
    """Who and what, the promise, and the verdict: the one thing that the eye lands on."""

    def lines(self, cells: int, rows: int, palette: Palette) -> list[Text]:
        """Draw the header."""
        if self.snapshot is None:
            return [Text(" opening the job ...", palette.muted)]
        facts, judgement = self.snapshot.job.facts, self.snapshot.judgement
        colour = {Verdict.READY: palette.kept, Verdict.NOT_READY: palette.short, Verdict.CANT_TELL: palette.promised}[judgement.verdict]
        chip = Text(no_wrap=True)
        chip.append(f"  {_VERDICT_WORDS[judgement.verdict]}  ", f"bold {palette.on_colour} on {colour}")
        chip.append(" ")
        who = Text(" ", no_wrap=True)
        who.append(f"{facts.number}  ", palette.muted)
        who.append(facts.title or "(no name)", f"bold {palette.text}")
        for part in (facts.machine, facts.customer):
            if part:
                who.append("  ·  ", palette.line)
                who.append(part, palette.muted)
        who.truncate(max(10, cells - chip.cell_len - 2), overflow="ellipsis")
        counts = Text(_counts(self.snapshot), palette.text)
        promised = Text(" ", no_wrap=True)
        words = promise_words(self.snapshot.promise)
        promised.append("promised  " if words else "nothing promised yet: press e", palette.muted)
        promised.append(words, palette.promised)
        promised.truncate(max(10, cells - counts.cell_len - 3), overflow="ellipsis")
        counts.append(" ")
        return [right_aligned(who, chip, cells), right_aligned(promised, counts, cells)]


def _counts(snapshot: JobSnapshot) -> str:
    judgement = snapshot.judgement
    to_fix, to_tell = judgement.count(Severity.FIX), judgement.count(Severity.TELL)
    if judgement.verdict is Verdict.CANT_TELL:
        return judgement.why
    parts = [f"{to_fix} to fix"] if to_fix else []
    parts += [f"{to_tell} to tell"] if to_tell else []
    return ", ".join(parts) or judgement.why


class StepsLine(JobPane):
    """Where the job stands."""

    def lines(self, cells: int, rows: int, palette: Palette) -> list[Text]:
        """Draw the steps."""
        text = Text(" ", no_wrap=True)
        arrow = " ──▶ " if cells >= 90 else " ▶ "
        for index, (name, state) in enumerate(self.snapshot.steps if self.snapshot else ()):
            if index:
                text.append(arrow, palette.line)
            style = {
                StepState.DONE: palette.muted,
                StepState.HERE: f"bold {palette.kept}",
                StepState.OPEN: palette.muted,
            }[state]
            mark = {StepState.DONE: " ✓", StepState.HERE: " ●", StepState.OPEN: " –"}[state]
            text.append(f"{name}{mark}", style)
        return [text]


class BoardPane(JobPane):
    """The drawn board: now, on arrival or as promised."""

    pointed_at: frozenset[str] = frozenset()
    shown = 0

    def lines(self, cells: int, rows: int, palette: Palette) -> list[Text]:
        """Draw the board that is chosen."""
        boards = self.snapshot.board_readings() if self.snapshot else ()
        title = Text("BOARD", f"bold {palette.muted}")
        if not boards or self.snapshot is None:
            return [
                title,
                Text(""),
                *(Text(line, palette.muted) for line in wrapped("nothing was read yet: press r to take a reading", cells)),
            ]
        name, reading = boards[self.shown % len(boards)]
        title.append(f"  {name}", f"bold {palette.text}")
        if len(boards) > 1:
            others = " · ".join(other for index, (other, _) in enumerate(boards) if index != self.shown % len(boards))
            title.append(f"   o: {others}", palette.muted)
        is_now = name == "now"
        parts = self.snapshot.judgement.channel_parts if is_now else ()
        drawn = board_lines(snapshot_of(reading, parts, self.pointed_at if is_now else frozenset()), cells, rows - 2, palette)
        return [title, Text(""), *drawn][: max(rows, 3)]


class TracksPane(JobPane):
    """The promise tracks: every quantity on arrival, as promised and now, on its own scale."""

    with_sources = False

    def lines(self, cells: int, rows: int, palette: Palette) -> list[Text]:
        """Draw the tracks, with air or with their sources where there is room."""
        title = Text("PROMISE  ", f"bold {palette.muted}")
        title.append_text(legend(palette))
        tracks = self.snapshot.judgement.tracks if self.snapshot else ()
        if not tracks:
            return [title, Text(""), Text("nothing to hold against each other yet", palette.muted)]
        drawn: list[Text] = [title]
        airy = rows >= 2 + 2 * len(tracks)
        if airy:
            drawn.append(Text(""))
        for track in tracks:
            drawn.append(track_line(track, cells, palette))
            if self.with_sources:
                drawn.append(basis_line(track, cells, palette))
            elif airy:
                drawn.append(Text(""))
        return drawn[:rows]


class FindingsTitle(JobPane):
    """The heading above the findings."""

    def lines(self, cells: int, rows: int, palette: Palette) -> list[Text]:
        """Draw the heading."""
        some = self.snapshot is not None and bool(self.snapshot.judgement.findings)
        return [Text("FINDINGS" if some else "NO FINDINGS", f"bold {palette.muted}")]


class FindingsList(OptionList):
    """The findings, worst first; the chosen one is explained beside the list."""

    BINDINGS: ClassVar[list[BindingType]] = [Binding("j", "cursor_down", show=False)]

    def show(self, findings: tuple[Finding, ...], palette: Palette) -> None:
        """Show findings, keeping the chosen one where it is still there."""
        chosen = self.highlighted or 0
        self.clear_options()
        cells = max(20, self.size.width - 4)
        self.add_options([Option(_finding_text(finding, cells, palette)) for finding in findings])
        if findings:
            self.highlighted = min(chosen, len(findings) - 1)


def _finding_text(finding: Finding, cells: int, palette: Palette) -> Text:
    colour = {Severity.FIX: palette.short, Severity.TELL: palette.promised, Severity.NOTE: palette.muted}[finding.severity]
    head, _, rest = finding.title.partition(": ")
    text = Text(no_wrap=True)
    text.append(f"{_MARKS[finding.severity]} {_GROUPS[finding.severity]:<5}", f"bold {colour}")
    style = palette.text if finding.severity is Severity.NOTE else f"bold {palette.text}"
    text.append("\n       ".join(wrapped(head, cells - 7)[:2]), style)
    beneath = wrapped(rest or finding.reason, cells - 7)
    text.append(f"\n       {beneath[0]}{' …' if len(beneath) > 1 else ''}" if beneath else "", palette.muted)
    return text


class ReasonPane(VerticalScroll):
    """The reason of the chosen finding, and what to do next."""

    def compose(self) -> ComposeResult:
        """Lay out the pane."""
        yield Static(id="reason-text")

    def show_sources(self, snapshot: JobSnapshot, board: int) -> None:
        """Show where every value of a board's reading comes from, and what was said instead."""
        palette = cast("AfterCheckApp", self.app).palette
        boards = snapshot.board_readings()
        if not boards:
            return
        name, reading = boards[board % len(boards)]
        lines = [Text(f"WHERE EACH VALUE COMES FROM  {name}", f"bold {palette.muted}"), Text("")]
        lines += source_lines(reading, max(24, self.size.width - 3), palette)
        self.query_one("#reason-text", Static).update(joined(lines))
        self.scroll_home(animate=False)

    def show(self, snapshot: JobSnapshot, finding: Finding | None) -> None:
        """Explain a finding, or say what to do when there is none."""
        palette = cast("AfterCheckApp", self.app).palette
        cells = max(24, self.size.width - 3)
        lines = [Text("WHY, AND WHAT NEXT", f"bold {palette.muted}"), Text("")]
        if finding is not None and snapshot.judgement.verdict is Verdict.READY:
            lines[1:1] = [Text(line, f"bold {palette.kept}") for line in wrapped(_without_findings(snapshot), cells)]
        if finding is None:
            lines += [Text(line, palette.text) for line in wrapped(_without_findings(snapshot), cells)]
        else:
            bars = (
                ceiling_lines(snapshot.judgement.ceilings, snapshot.running_mts, cells, palette) if finding.code.startswith("rate.") else []
            )
            words = reason_lines(finding, cells, palette)
            # On a low screen the next step must be in sight without scrolling, so the bars come last.
            parts = [words, bars] if self.size.height < _LOW_ROWS else [bars, words]
            lines = lines[:1] if self.size.height < _LOW_ROWS else lines
            lines += [line for part in parts if part for line in [*part, Text("")]]
        self.query_one("#reason-text", Static).update(joined(lines))
        self.scroll_home(animate=False)


def _without_findings(snapshot: JobSnapshot) -> str:
    if snapshot.job.arrival is None:
        return "Take the reading on arrival first: press r, then enter for this machine, or type a path or what the screen shows."
    if snapshot.promise is None:
        return "Nothing was promised yet: press e and type the promise, for instance 2x16G DDR4-3200; dual."
    if snapshot.job.now is None:
        return "Fit the memory, start the machine, then press r and take the reading after fitting."
    if snapshot.judgement.verdict is Verdict.READY:
        return "Every promised quantity is kept. Press h for the sheet that goes with the machine."
    return f"There is nothing to mend, and still it can't be told: {snapshot.judgement.why}."
