"""The hand-back of a job: the sheet as it will be, what is missing for it, agreements, signing, writing it out."""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, ClassVar

from rich.text import Text
from textual import work
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Horizontal, VerticalScroll
from textual.widgets import Footer, Static

from after_check.domain.findings import Severity
from after_check.domain.handback import HandBack, Override
from after_check.domain.jobs import Job
from after_check.domain.text import safe_name
from after_check.shop.errors import ShopError
from after_check.shop.settings import load_settings
from after_check.sources.take import NotationError, take_promise
from after_check.tui.ask import AskDialog
from after_check.tui.base import ShopScreen
from after_check.tui.drawing.text import joined, wrapped
from after_check.tui.drawn import Drawn
from after_check.tui.job_sheet.panes import JobHeader
from after_check.tui.job_sheet.snapshot import JobSnapshot, take_snapshot
from after_check.tui.palette import Palette

if TYPE_CHECKING:
    from after_check.handback.outline import Missing, Section

_OLD_MODULES = "given back to you"
_WORDS = {
    "old_modules": ("YOUR OLD MODULES", "What became of the old modules, as the customer is to read it.", _OLD_MODULES),
    "warranty": ("WARRANTY", "For how long, and from whom; the serial numbers are in the record.", ""),
    "note": ("A NOTE", "A sentence for the customer.", ""),
    "later": ("TO CONSIDER LATER", "Takes the place of what is worked out from the card.", ""),
}


class MissingPane(Drawn):
    """What is missing, what was agreed to, and who signed."""

    missing: tuple[Missing, ...] = ()
    job: Job | None = None

    def lines(self, cells: int, rows: int, palette: Palette) -> list[Text]:
        """Draw it."""
        job = self.job
        if job is None:
            return []
        lines: list[Text] = []
        if job.frozen and job.revisions:
            last = job.revisions[-1]
            lines += [Text(" ◆ SIGNED ", f"bold {palette.on_colour} on {palette.kept}"), Text("")]
            words = f"Revision {last.number}, {last.signed_at:%d %b %Y %H:%M}, {last.signed_by or 'nobody named'}."
            words += " Nothing changes until r begins a new one."
            lines += [Text(part, palette.text) for part in wrapped(words, cells)]
            lines.append(Text(""))
        blocks = [one for one in self.missing if one.blocks]
        lines.append(Text("BEFORE IT GOES BACK", f"bold {palette.muted}"))
        if not self.missing:
            lines.append(Text(" ✓ nothing is missing", f"bold {palette.kept}"))
        for one in (*blocks, *(one for one in self.missing if not one.blocks)):
            mark, style = ("▲ ", palette.short) if one.blocks else ("○ ", palette.promised)
            for index, part in enumerate(wrapped(one.words, cells - 4)):
                lines.append(Text.assemble((f" {mark}" if index == 0 else "   ", style), (part, palette.text)))
        if job.hand_back.overrides:
            lines += [Text(""), Text("AGREED", f"bold {palette.muted}")]
            for agreed in job.hand_back.overrides:
                words = f"{agreed.code}: {agreed.reason}" + (f"; before: {agreed.before}" if agreed.before else "")
                lines += [Text(f" {part}", palette.text) for part in wrapped(words, cells - 2)]
        for revision in job.revisions[:-1] if job.frozen else job.revisions:
            lines.append(Text(f" revision {revision.number} signed {revision.signed_at:%d %b %Y} {revision.signed_by}", palette.muted))
        return lines[:rows]


class HandBackScreen(ShopScreen[None]):
    """Shows the sheet and finishes the job."""

    CSS_PATH = "hand_back.tcss"
    HELP_TITLE = "The hand-back"
    HELP_LINES = (
        "Right the sheet as the customer will read it, left what is missing for it: ▲ blocks, ○ should be there.",
        "What the customer accepts is written down with a reason (a); a changed promise keeps the old one (p).",
        "Signing (s) freezes the job; r begins a new revision. e writes the PDF, the drawings and the tables.",
    )
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("e", "export", "write it", tooltip="the sheet as PDF, the drawings, the tables as CSV"),
        Binding("o", "words('old_modules')", "old modules", tooltip="what became of the old modules"),
        Binding("y", "words('warranty')", "warranty"),
        Binding("n", "words('note')", "note", tooltip="a note for the customer"),
        Binding("l", "words('later')", "later", tooltip="what to consider later"),
        Binding("a", "accept", "accept", tooltip="a finding that the customer accepts, with the reason"),
        Binding("p", "promise", "promise", tooltip="change the promise in agreement with the customer"),
        Binding("s", "sign", "sign", tooltip="sign: the job is frozen as it is"),
        Binding("r", "revise", "new revision", tooltip="let a signed job be changed again"),
        Binding("f", "job_file", "job file", tooltip="the whole job as one file, for another bench"),
        Binding("z", "archive", "archive", tooltip="put the job into the archive, or take it out"),
        Binding("escape,h", "back", "back", tooltip="back to the job sheet"),
    ]

    def __init__(self, snapshot: JobSnapshot) -> None:
        super().__init__()
        self._job = snapshot

    def compose(self) -> ComposeResult:
        """Lay out the view."""
        yield JobHeader(id="hand-back-header")
        with Horizontal(id="hand-back-body"):
            yield MissingPane(id="hand-back-missing")
            with VerticalScroll(id="hand-back-paper"):
                yield Static(id="hand-back-sheet")
        yield Footer(show_command_palette=False)

    def on_mount(self) -> None:
        """Show it, and follow the theme."""
        self.app.theme_changed_signal.subscribe(self, lambda _: self.load())
        self.load()

    def on_resize(self) -> None:
        """Set the words anew for another width."""
        self.load()

    @work(exclusive=True, group="load")
    async def load(self) -> None:
        """Work the sheet out; its imports take a moment."""
        missing, outline = await asyncio.to_thread(_worked_out, self._job.job)
        header, pane = self.query_one(JobHeader), self.query_one(MissingPane)
        header.snapshot, pane.job, pane.missing = self._job, self._job.job, missing
        header.refresh()
        pane.refresh()
        cells = max(20, self.query_one("#hand-back-paper").size.width - 4)
        self.query_one("#hand-back-sheet", Static).update(joined(_sheet_lines(outline, self._job, cells, self.palette)))
        self.refresh_bindings()

    def check_action(self, action: str, parameters: tuple[object, ...]) -> bool | None:
        """Offer what makes sense for a signed or an open job."""
        frozen = self._job.job.frozen
        if action in ("words", "accept", "promise", "sign"):
            return not frozen
        return frozen if action == "revise" else True

    def action_words(self, field: str) -> None:
        """Ask for a text of the sheet."""
        title, question, usual = _WORDS[field]
        standing = getattr(self._job.job.hand_back, field) or usual

        def given(text: str | None) -> None:
            if text is not None:
                self._keep(replace(self._job.job.hand_back, **{field: text}))  # type: ignore[arg-type]  # one text field by its name

        self.app.push_screen(AskDialog(title, question, value=standing), given)

    def action_accept(self) -> None:
        """Write down that the customer accepts the worst finding that is open."""
        added = self._job.job.hand_back
        order = (Severity.FIX, Severity.TELL)
        open_ones = [
            one
            for severity in order
            for one in self._job.judgement.findings
            if one.severity is severity and added.accepted(one.code) is None
        ]
        if not open_ones:
            self.notify("there is no finding to accept", timeout=4)
            return
        finding = open_ones[0]

        def given(reason: str | None) -> None:
            if reason:
                agreed = Override(finding.code, reason, load_settings().signed_by)
                self._keep(replace(self._job.job.hand_back, overrides=(*added.overrides, agreed)))

        question = "Why the customer takes the machine with it. The verdict stays as it is, and the sheet says both."
        self.app.push_screen(AskDialog(f"ACCEPTED: {finding.title}", question, placeholder="agreed on the phone: ..."), given)

    def action_promise(self) -> None:
        """Change the promise: first the new one, then the reason."""

        def promised(line: str | None) -> None:
            if not line:
                return
            try:
                take_promise(line)
            except NotationError as problem:
                self.notify(str(problem), severity="error", timeout=10)
                return
            self.app.push_screen(
                AskDialog("WHY?", "The reason, as it stands on the sheet beside both promises."), lambda why: reasoned(line, why)
            )

        def reasoned(line: str, reason: str | None) -> None:
            if reason:
                job = self._job.job
                self._change(lambda: self.shop.change_promise(job, line, reason, load_settings().signed_by))

        dialog = AskDialog(
            "THE PROMISE, CHANGED", "In the notation; the old promise stays on the sheet.", value=self._job.job.facts.promise
        )
        self.app.push_screen(dialog, promised)

    def action_sign(self) -> None:
        """Ask who signs."""

        def given(name: str | None) -> None:
            if name:
                job = self._job.job
                self._change(lambda: self.shop.sign(job, name))

        question = "Your name. The job is frozen as it is now; a later change makes a new revision."
        self.app.push_screen(AskDialog("SIGN THE HAND-BACK", question, value=load_settings().signed_by), given)

    def action_revise(self) -> None:
        """Begin a new revision."""
        number = self._job.job.facts.number
        self._change(lambda: self.shop.begin_revision(number))

    def action_archive(self) -> None:
        """Put the job into the archive, or take it out."""
        job = self._job.job
        self._change(lambda: self.shop.archive(job.facts.number, not job.archived))
        self.notify("taken out of the archive" if job.archived else "in the archive: z on the bench shows it", timeout=5)

    def _keep(self, added: HandBack) -> None:
        job = self._job.job
        self._change(lambda: self.shop.keep_hand_back(job, added))

    def _change(self, change: Callable[[], Job]) -> None:
        self.change(change)

    @work(exclusive=True, group="change")
    async def change(self, change: Callable[[], Job]) -> None:
        """Change the job and show it; what cannot be kept is said, and nothing is lost on the screen."""
        try:
            job = await asyncio.to_thread(change)
        except ShopError as error:
            self.notify(str(error), severity="error", timeout=10)
            return
        self._job = take_snapshot(job)
        self.load()

    def action_export(self) -> None:
        """Ask where to, and write."""
        where = str(Path.cwd() / f"job-{safe_name(self._job.job.facts.number)}.pdf")

        def given(text: str | None) -> None:
            if text:
                self.write_out(Path(text).expanduser())

        self.app.push_screen(AskDialog("WRITE THE SHEET TO", "Drawings and tables go into a folder beside it.", value=where), given)

    def action_job_file(self) -> None:
        """Ask where to, and write the job file."""
        where = str(Path.cwd() / f"job-{safe_name(self._job.job.facts.number)}.zip")

        def given(text: str | None) -> None:
            if text:
                self.write_job_file(Path(text).expanduser())

        self.app.push_screen(
            AskDialog("WRITE THE JOB FILE TO", "The whole job with its evidence; bring it in with: shop bring-in", value=where), given
        )

    @work(exclusive=True, group="write")
    async def write_out(self, path: Path) -> None:
        """Write sheet, drawings and tables."""
        self.notify("writing ...", timeout=2)
        try:
            folder = await asyncio.to_thread(_write, self._job.job, path)
        except OSError as error:
            self.notify(f"{error.strerror or error}: {path}. Nothing was written; name another place.", severity="error", timeout=10)
            return
        self.notify(f"written: {path.name}, and drawings and tables in {folder.name}", title="the sheet", timeout=8)

    @work(exclusive=True, group="write")
    async def write_job_file(self, path: Path) -> None:
        """Write the job file."""

        def write() -> None:
            from after_check.handback.files import write_whole
            from after_check.shop.job_files import job_file

            write_whole(path, job_file(self.shop, self._job.job.facts.number))

        try:
            await asyncio.to_thread(write)
        except (OSError, ShopError) as error:
            self.notify(str(error), severity="error", timeout=10)
            return
        self.notify(f"written: {path.name}", timeout=6)

    def action_back(self) -> None:
        """Go back."""
        self.dismiss()


def _worked_out(job: Job) -> tuple[tuple[Missing, ...], tuple[Section, ...]]:
    from after_check.handback.content import content_of
    from after_check.handback.outline import missing, outline_of

    content = content_of(job)
    return missing(content), outline_of(content)


def _write(job: Job, path: Path) -> Path:
    from after_check.handback.content import look_of
    from after_check.handback.export import export_pdf, export_svg
    from after_check.handback.tables import export_csv

    export_pdf(job, path, look_of(load_settings()))
    folder = path.with_name(f"{path.stem}-drawings")
    export_svg(job, folder)
    export_csv(job, folder)
    return folder


def _sheet_lines(outline: tuple[Section, ...], snapshot: JobSnapshot, cells: int, palette: Palette) -> list[Text]:
    facts = snapshot.job.facts
    lines = [Text(facts.title or f"Job {facts.number}", f"bold {palette.text}")]
    lines.append(Text("  ·  ".join(part for part in (facts.machine, facts.customer, f"job {facts.number}") if part), palette.muted))
    for section in outline:
        lines.append(Text(""))
        if section.heading:
            lines.append(Text(section.heading, f"bold {palette.promised}"))
        for sentence in section.sentences:
            style = f"bold {palette.text}" if not section.heading else palette.text
            for index, part in enumerate(wrapped(sentence, cells - 3)):
                lines.append(Text(("" if not section.heading else " • " if index == 0 else "   ") + part, style))
    return lines
