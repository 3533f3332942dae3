"""The card of a job's machine model: filled from readings, by key on its drawing, or as text."""

from __future__ import annotations

import asyncio
import contextlib
from typing import ClassVar

from textual import on, work
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Horizontal
from textual.widgets import Label, TextArea

from after_check.domain.cards import Card
from after_check.domain.jobs import Job
from after_check.domain.quantities import counted
from after_check.domain.readings import Reading
from after_check.files.errors import SourceError
from after_check.judgement.reconcile import reconciled
from after_check.shop.errors import ShopError
from after_check.sources.card_file import card_from_reading, parse_card, write_card
from after_check.tui.base import DraftScreen, after_typing
from after_check.tui.charts.card_edit import renamed
from after_check.tui.charts.card_limits import gaps, gaps_filled
from after_check.tui.dialogs.ask import AskDialog, Asked
from after_check.tui.widgets.card_board import CardDrawing
from after_check.tui.widgets.keys_line import KeysLine


class CardScreen(DraftScreen[bool]):
    """Shows and changes the card; returns whether one was kept."""

    CSS_PATH = "card.tcss"
    HELP_TITLE = "The machine data sheet"
    HELP_LINES = (
        "What is known of this machine's model, for all jobs with it: slots in the order of filling, channels, limits.",
        "On a slot: left and right choose its channel, - and + its place in the order, enter renames, a adds, d removes.",
        "On a line beneath: a digit takes what is there, enter types it, d takes it away. A gap says what it would be good for.",
        "r fills the gaps from what this machine told, and from the last machine of this model. A data sheet overrules guesses.",
        "tab shows the same as text; docs/file-formats.md describes its keys.",
    )
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("ctrl+s", "keep", "keep", tooltip="keep the data sheet for this shop", priority=True),
        Binding("r", "fill", "fill from readings", tooltip="fill the gaps from what this machine and the last of its model told"),
        Binding("tab", "text", "as text", tooltip="show the sheet as text, or hide it", priority=True),
        Binding("escape", "back", "back", tooltip="back; what was typed is there again when you come back", priority=True),
    ]

    def __init__(self, job: Job) -> None:
        super().__init__()
        self._job = job
        self.draft_place = f"data sheet {job.facts.machine}"
        self._first = write_card(self._first_card())
        self._came_with = self._first

    def compose(self) -> ComposeResult:
        """Lay out text and drawing."""
        yield Label("", id="card-title", markup=False)
        with Horizontal(id="card-body"):
            yield CardDrawing(id="card-drawing")
            yield TextArea(self._first, id="card-text", soft_wrap=False)
        yield KeysLine()

    def _first_card(self) -> Card:
        """Return the card that there is, or one made from what the machine told."""
        if self._job.card is not None:
            return self._job.card
        kept = self._job.now or self._job.arrival
        return card_from_reading(reconciled(kept.reading) if kept else Reading(), self._job.facts.machine or "(model)")

    def draft_text(self) -> str:
        """Return the sheet as it stands, where it is another than the one that it began with."""
        text = self.query_one("#card-text", TextArea).text
        return text if text != self._first else ""

    async def on_mount(self) -> None:
        """Say what this is, and bring back what was begun and not kept."""
        made = "" if self._job.card is not None else ", made from the reading; correct it"
        self.query_one("#card-title", Label).update(f"THE DATA SHEET OF {self._job.facts.machine.upper() or 'THIS MODEL'}{made}")
        self.query_one(TextArea).display = False  # The same, for whoever prefers it.
        self.query_one(CardDrawing).focus()
        self._draw()
        draft = ""
        with contextlib.suppress(ShopError):
            draft = await self.left_unfinished()
        text = self.query_one("#card-text", TextArea)
        if draft and text.text == self._first:
            self._came_with = text.text = draft
            self.notify("a data sheet that was begun and not kept is back; ctrl+s keeps it", timeout=6)

    def action_text(self) -> None:
        """Show the text and go to it, or hide it."""
        text = self.query_one(TextArea)
        text.display = not text.display
        self.set_focus(text if text.display else self.query_one(CardDrawing))

    @work(exclusive=True)
    async def action_fill(self) -> None:
        """Fill the gaps from what this machine told, and from the last other machine of this model."""
        card = self.query_one(CardDrawing).card
        if card is None:
            return
        try:
            others = await asyncio.to_thread(self.shop.jobs.others_of_model, self._job)
        except ShopError as error:
            self.notify(str(error), severity="warning", timeout=6)
            return
        filled = card
        for job in (self._job, *others):
            for kept in reversed(job.readings):
                filled = gaps_filled(filled, card_from_reading(reconciled(kept.reading), card.name))
        self.query_one("#card-text", TextArea).text = write_card(filled)
        told = gaps(card) - gaps(filled)
        self.notify(
            f"{told} more known, from the readings of {counted(1 + len(others), 'job')}" if told else "the readings tell no more", timeout=5
        )

    @on(TextArea.Changed, "#card-text")
    def changed(self) -> None:
        """Draw what is typed, and keep the draft."""
        self._draw()
        self.keep_draft()

    @on(CardDrawing.Corrected)
    def corrected(self, message: CardDrawing.Corrected) -> None:
        """Write the corrected card into the text, which draws it."""
        self.query_one("#card-text", TextArea).text = write_card(message.card)

    @on(CardDrawing.NameWanted)
    def name_wanted(self, message: CardDrawing.NameWanted) -> None:
        """Ask for another name of a slot."""

        def named(name: str | None) -> None:
            card = self.query_one(CardDrawing).card
            if name and card is not None:
                self.query_one("#card-text", TextArea).text = write_card(renamed(card, message.index, name))

        def fits(name: str) -> None:
            if (card := self.query_one(CardDrawing).card) is not None:
                renamed(card, message.index, name)

        self.app.push_screen(AskDialog(Asked("THE NAME OF THIS SLOT", value=message.name, check=fits)), named)

    @on(CardDrawing.ValueWanted)
    def value_wanted(self, message: CardDrawing.ValueWanted) -> None:
        """Ask what a line says."""
        line = message.line

        def said(text: str | None) -> None:
            card = self.query_one(CardDrawing).card
            if text and card is not None:
                self.query_one("#card-text", TextArea).text = write_card(line.typed(card, text))

        def understood(text: str) -> None:
            if (card := self.query_one(CardDrawing).card) is not None:
                line.typed(card, text)

        card = self.query_one(CardDrawing).card
        now = line.said(card) if card is not None else ""
        asked = AskDialog(Asked(line.words.upper(), line.good_for, f"for instance {line.example}", value=now, check=understood))
        self.app.push_screen(asked, said)

    def _draw(self) -> Card | None:
        drawing = self.query_one(CardDrawing)
        try:
            drawing.card = parse_card(self.query_one("#card-text", TextArea).text)
            drawing.problem = ""
        except SourceError as error:
            drawing.card, drawing.problem = None, str(error)
        drawing.refresh()
        return drawing.card

    def action_keep(self) -> None:
        """Keep the card once all that was typed has arrived."""
        after_typing(self, self._keep_if_sound)

    def _keep_if_sound(self) -> None:
        card = self._draw()
        if card is None:
            self.notify(self.query_one(CardDrawing).problem, severity="warning", timeout=6)
            return
        self.keep(card)

    @work(exclusive=True)
    async def keep(self, card: Card) -> None:
        """Write the card."""
        try:
            await asyncio.to_thread(self.shop.cards.keep, card)
            await self.forget_draft()
        except ShopError as error:
            self.notify(str(error), severity="error", timeout=10)
            return
        self.dismiss(True)

    def action_back(self) -> None:
        """Go back; what was changed stays as a draft, until it is kept or left once more unchanged."""
        self.workers.cancel_group(self, "draft")
        text = self.query_one("#card-text", TextArea).text
        self.keep_now("" if text == self._came_with else text)
        self.dismiss(False)
