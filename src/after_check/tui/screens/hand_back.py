"""The hand-back of a job: the sheet as it will be, what is missing for it, agreements, signing, writing it out."""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path
from typing import ClassVar

from textual import on, work
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Horizontal
from textual.widgets import OptionList

from after_check.casework.next_step import ToDo, fixing
from after_check.casework.outcome import to_settle, unknown_words
from after_check.casework.verdict_words import outcome_words
from after_check.domain.handback import ON_THE_STICKER, ONLY_DESCRIBES, HandBack, Override, settled_code
from after_check.domain.jobs import Job
from after_check.domain.outside_text import clean
from after_check.files.whole_files import write_whole
from after_check.handback.content import SheetContent, content_of
from after_check.handback.missing import Missing, Remedy
from after_check.language.typed_text import exact_promise
from after_check.local.settings import load_settings
from after_check.shop.errors import ShopError
from after_check.sources.open_source import take_promise
from after_check.tui.dialogs.ask import AskDialog, Asked
from after_check.tui.dialogs.choose import ChooseDialog
from after_check.tui.job_screen import JobView
from after_check.tui.views import View
from after_check.tui.widgets.hand_back_panes import MissingList, PaperPane, enter_words
from after_check.tui.widgets.job_sheet_panes import JobHeader
from after_check.tui.widgets.keys_line import KeysLine
from after_check.tui.work.sheets import place_for, remember_place

_OLD_MODULES = "given back to you"
_WORDS = {
    "old_modules": ("YOUR OLD MODULES", "What became of the old modules, as the customer is to read it.", _OLD_MODULES),
    "warranty": ("WARRANTY", "For how long, and from whom; the serial numbers are in the record.", ""),
    "note": ("A NOTE", "A sentence for the customer.", ""),
    "later": ("TO CONSIDER LATER", "Takes the place of what is worked out from the machine data sheet.", ""),
}


_LOOKED_AFTER = {Remedy.READ: View.READ, Remedy.SOAK: View.SOAK, Remedy.BENCHMARK: View.BENCHMARK}
"""What the job sheet does for what is missing."""
_FIXED_IN = {ToDo.READ: View.READ, ToDo.TRY: View.TRIES}
"""Where a fault is fixed: by a setting and another reading, or by trying."""


class HandBackScreen(JobView[str]):
    """Shows the sheet and finishes the job; closes with the job sheet's action that fixes what is missing, if any."""

    CSS_PATH = "hand_back.tcss"
    HELP_TITLE = "The hand-back"
    HELP_LINES = (
        "Right the sheet as it will print, left what it lacks: ▲ blocks, ▯ should be there. Enter sees to the chosen one.",
        "What the customer accepts instead is written down in his words (a): then it goes back as agreed. c: it goes back as it came.",
        "A changed promise keeps the old one (p).",
        "Signing (s) freezes the job; r begins a new revision. e writes the PDF, the drawings and the tables.",
    )
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("enter", "see_to", "see to it", tooltip="see to the chosen thing: go and fix it, measure it, or write it down"),
        Binding("e", "export", "write it", tooltip="the sheet as PDF, the drawings, the tables as CSV"),
        Binding("a", "agree", "agreed", tooltip="the customer takes the machine with the chosen thing: write down what was agreed"),
        Binding("c", "as_it_came", "as it came", tooltip="the machine goes back as it came: write down why"),
        Binding("o", "words('old_modules')", "old modules", tooltip="what became of the old modules"),
        Binding("y", "words('warranty')", "warranty"),
        Binding("n", "words('note')", "note", tooltip="a note for the customer"),
        Binding("l", "words('later')", "later", tooltip="what to consider later"),
        Binding("p", "promise", "promise", tooltip="change the promise in agreement with the customer"),
        Binding("s", "sign", "sign", tooltip="sign: the job is frozen as it is"),
        Binding("r", "revise", "new revision", tooltip="let a signed job be changed again"),
        Binding("f", "job_file", "job file", tooltip="the whole job as one file, for another bench"),
        Binding("z", "archive", "archive", tooltip="put the job into the archive, or take it out"),
        Binding("escape,h", "back", "back", tooltip="back to the job sheet"),
    ]

    def compose(self) -> ComposeResult:
        """Lay out the view."""
        yield JobHeader(id="hand-back-header")
        with Horizontal(id="hand-back-body"):
            yield MissingList(id="hand-back-missing")
            yield PaperPane(id="hand-back-paper")
        yield KeysLine()

    def on_mount(self) -> None:
        """Look at the job as it is: the sheet that this was opened from may not show yet what was kept a moment ago."""
        self.load(also_unchanged=False)

    def draw(self) -> None:
        """Set the sheet."""
        self.set_sheet()

    @work(exclusive=True, group="sheet")
    async def set_sheet(self) -> None:
        """Work the sheet out off the screen's thread, and show it with what it lacks."""
        content, head = await asyncio.to_thread(_worked_out, self.job)
        self.query_one(MissingList).show(content)
        self.query_one(PaperPane).show(content, head)

    @on(OptionList.OptionSelected, "#hand-back-missing")
    def action_see_to(self) -> None:
        """See to the chosen thing."""
        chosen = self.query_one(MissingList).chosen
        if chosen is None:
            return
        if chosen.remedy is Remedy.SIGN:
            self.action_sign()
        elif chosen.remedy is Remedy.WRITE:
            self.action_export()
        elif self.job.frozen:
            return
        elif chosen.remedy is Remedy.OLD_MODULES:
            self.action_words("old_modules")
        elif chosen.remedy is Remedy.SETTLE:
            self._settle()
        elif chosen.remedy is Remedy.FIX and chosen.finding is not None:
            self.dismiss(_FIXED_IN[fixing(chosen.finding).doing])
        elif chosen.remedy in _LOOKED_AFTER:
            self.dismiss(_LOOKED_AFTER[chosen.remedy])
        else:
            self.action_agree()

    @property
    def next_step(self) -> str:
        """What enter does with the chosen thing, in a few words."""
        chosen = self.query_one(MissingList).chosen
        return enter_words(chosen) if chosen is not None and (not self.job.frozen or chosen.remedy is Remedy.WRITE) else ""

    @on(OptionList.OptionHighlighted, "#hand-back-missing")
    def chosen_changed(self) -> None:
        """Name in the last line what enter does now."""
        self.refresh_bindings()

    def check_action(self, action: str, parameters: tuple[object, ...]) -> bool | None:
        """Offer what makes sense for a signed or an open job."""
        frozen = self.job.frozen
        if action in ("words", "promise", "sign", "agree", "as_it_came"):
            return not frozen
        return frozen if action == "revise" else True

    def action_words(self, field: str) -> None:
        """Ask for a text of the sheet."""
        title, question, usual = _WORDS[field]
        standing = getattr(self.job.hand_back, field) or usual

        def changed(text: str) -> Job:
            return self._kept(replace(self.job.hand_back, **{field: text}))  # type: ignore[arg-type]  # one text field by its name

        self.ask_to_keep(Asked(title, question, value=standing, may_be_empty=True), changed)

    def action_agree(self) -> None:
        """Write down that the customer takes the machine with the chosen thing."""
        chosen = self.query_one(MissingList).chosen
        if chosen is not None and chosen.code:
            self._agree((chosen,), chosen.words.removeprefix("to fix: "))

    def _settle(self) -> None:
        """Ask once, of all that no machine shows and the modules' stickers tell, whether they do and whether it matters."""
        names = to_settle(self.snapshot.judgement, self.job.hand_back, self.snapshot.promise)
        told = ", ".join(unknown_words(name) for name in names)

        def settled(why: str) -> Job:
            added, by = self.job.hand_back, load_settings().signed_by
            new = tuple(Override(settled_code(name), why, by, datetime.now(UTC).replace(microsecond=0)) for name in names)
            return self._kept(replace(added, overrides=(*added.overrides, *new)))

        def chosen(key: str | None) -> None:
            if key in ("s", "d"):
                self.change(lambda: settled(ON_THE_STICKER if key == "s" else ONLY_DESCRIBES))
            elif key == "o":
                self.dismiss(View.READ)
            elif key == "a":
                self.action_agree()

        question = f"Promised: {self.job.facts.promise}\nThis machine does not show {told}. The modules' stickers do."
        answers = (
            ("s", "the stickers say so: it counts as kept, and the sheet says who looked"),
            ("d", "it only describes the modules: nothing depends on it"),
            ("o", "the stickers say otherwise: type what they say"),
            ("a", "the customer takes it without: write down what was agreed"),
        )
        self.app.push_screen(ChooseDialog("WHAT DO THE STICKERS SAY?", question, answers), chosen)

    def _agree(self, items: tuple[Missing, ...], title: str, then: Callable[[], None] = lambda: None) -> None:
        """Ask what was agreed about some things, keep it, and go on."""

        def agreed(reason: str) -> Job:
            added, by = self.job.hand_back, load_settings().signed_by
            new = [Override(item.code, clean(reason, 400), by) for item in items if added.accepted(item.code) is None]
            return self._kept(replace(added, overrides=(*added.overrides, *new)))

        question = "What was agreed, in the customer's words. What was found stays on the sheet, with this beside it."
        self.ask_to_keep(Asked(f"AGREED: {title}", question, placeholder="on the phone: the lower speed is fine"), agreed, then)

    def action_as_it_came(self) -> None:
        """Write down that the machine goes back as it came; an empty line takes it back."""
        self._as_it_came()

    def _as_it_came(self, then: Callable[[], None] = lambda: None) -> None:
        def came(reason: str) -> Job:
            return self._kept(replace(self.job.hand_back, as_it_came=clean(reason, 400)))

        question = "Why it goes back as it came, as the customer is to read it. An empty line takes this back."
        standing = self.job.hand_back.as_it_came
        asked = Asked("BACK AS IT CAME", question, value=standing, placeholder="the old modules are in again", may_be_empty=True)
        self.ask_to_keep(asked, came, lambda: then() if self.job.hand_back.as_it_came else None)

    def action_promise(self) -> None:
        """Change the promise: first the new one, then the reason."""

        def understood(line: str) -> str:
            take_promise(line)
            return exact_promise(line, self.job.arrival.reading if self.job.arrival is not None else None)

        def promised(line: str | None) -> None:
            if not line:
                return
            line = understood(line)
            self.ask_to_keep(
                Asked("WHY?", "The reason, as it stands on the sheet beside both promises."),
                lambda why: self.shop.signing.change_promise(self.job, line, why, load_settings().signed_by),
            )

        question = "In the short form; the old promise stays on the sheet."
        dialog = AskDialog(Asked("THE PROMISE, CHANGED", question, value=self.job.facts.promise, check=understood))
        self.app.push_screen(dialog, promised)

    def action_sign(self) -> None:
        """Ask who signs; where something stands against it, ask first how the machine goes back."""
        blocking = tuple(item for item in self.query_one(MissingList).open_ones if item.blocks)
        if not blocking:
            self._ask_who_signs()
            return

        def chosen(key: str | None) -> None:
            if key == "a":
                self._agree(tuple(item for item in blocking if item.code), "all that is open", self._ask_who_signs)
            elif key == "c":
                self._as_it_came(self._ask_who_signs)
            elif key == "s":
                self._ask_who_signs()

        words = "\n".join(f"▲ {item.words}" for item in blocking[:6])
        answers = [("a", "as agreed: the customer takes it like this; write down what was agreed")] if any(b.code for b in blocking) else []
        answers += [("c", "as it came: write down why"), ("s", f"sign all the same; the sheet says {outcome_words(self.snapshot.outcome)}")]
        self.app.push_screen(ChooseDialog("HOW DOES IT GO BACK?", f"This stands against it:\n{words}", tuple(answers)), chosen)

    def _ask_who_signs(self) -> None:
        def given(name: str | None) -> None:
            if name:
                job = self.job
                self.change(lambda: self.shop.signing.sign(job, name))

        question = (
            f"Your name. It goes back: {outcome_words(self.snapshot.outcome)}. The job is frozen; a later change makes a new revision."
        )
        self.app.push_screen(AskDialog(Asked("SIGN THE HAND-BACK", question, value=load_settings().signed_by)), given)

    def action_revise(self) -> None:
        """Begin a new revision."""
        number = self.number
        self.change(lambda: self.shop.signing.begin_revision(number))

    def action_archive(self) -> None:
        """Put the job into the archive, or take it out."""
        job = self.job
        self.change(lambda: self.shop.jobs.archive(job.facts.number, not job.archived))
        self.notify("taken out of the archive" if job.archived else "in the archive: z on the bench shows it", timeout=5)

    def _kept(self, added: HandBack) -> Job:
        return self.shop.signing.keep_hand_back(self.job, added)

    def _place(self, suffix: str) -> str:
        """Return where to write, for a person to change."""
        return str(place_for(self.shop, self.job.facts, f".{suffix}"))

    def action_export(self) -> None:
        """Ask where to, and write."""
        where = self._place("pdf")

        def given(text: str | None) -> None:
            if text:
                self.write_out(Path(text).expanduser())

        self.app.push_screen(AskDialog(Asked("WRITE THE SHEET TO", "Drawings and tables go into a folder beside it.", value=where)), given)

    def action_job_file(self) -> None:
        """Ask where to, and write the job file."""
        where = self._place("zip")

        def given(text: str | None) -> None:
            if text:
                self.write_job_file(Path(text).expanduser())

        self.app.push_screen(
            AskDialog(Asked("WRITE THE JOB FILE TO", "The whole job with its evidence; bring it in with: shop bring-in", value=where)),
            given,
        )

    @work(exclusive=True, group="write")
    async def write_out(self, path: Path) -> None:
        """Write sheet, drawings and tables."""
        self.notify("writing ...", timeout=2)
        try:
            folder = await asyncio.to_thread(_write, self.job, path)
        except OSError as error:
            self.notify(f"{error.strerror or error}: {path}. Nothing was written; name another place.", severity="error", timeout=10)
            return
        remember_place(self.shop, path)
        self.notify(f"written: {path.absolute()}, and drawings and tables in {folder.name}", title="the sheet", timeout=10)

    @work(exclusive=True, group="write")
    async def write_job_file(self, path: Path) -> None:
        """Write the job file."""

        def write() -> None:
            from after_check.handback.ownership import check_owner
            from after_check.shop.exchange import job_file

            check_owner(path, self.job.uid)
            write_whole(path, job_file(self.shop, self.number))

        try:
            await asyncio.to_thread(write)
        except OSError as error:
            self.notify(f"{error.strerror or error}: {path}. Nothing was written; name another place.", severity="error", timeout=10)
            return
        except ShopError as error:
            self.notify(str(error), severity="error", timeout=10)
            return
        remember_place(self.shop, path)
        self.notify(f"written: {path.absolute()}", timeout=8)

    def action_back(self) -> None:
        """Go back."""
        self.dismiss(None)


def _worked_out(job: Job) -> tuple[SheetContent, str]:
    """Return what the sheet shows, and the shop's name as it is at its head."""
    settings = load_settings()
    return content_of(job), settings.shop_name or "Hand-back sheet"


def _write(job: Job, path: Path) -> Path:
    from after_check.handback.content import look_of
    from after_check.handback.csv_tables import export_csv
    from after_check.handback.export import export_pdf, export_svg

    export_pdf(job, path, look_of(load_settings()))
    folder = path.with_name(f"{path.stem}-drawings")
    export_svg(job, folder)
    export_csv(job, folder)
    return folder
