"""The card of a job's machine model: made from a reading, corrected on its drawing or as text."""

from __future__ import annotations

import asyncio
from typing import ClassVar

from textual import on, work
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Horizontal
from textual.widgets import Footer, Label, TextArea

from after_check.domain.cards import Card
from after_check.domain.jobs import Job
from after_check.domain.readings import Reading
from after_check.judgement.reconcile import reconciled
from after_check.shop.errors import ShopError
from after_check.sources.card_file import card_from_reading, parse_card, write_card
from after_check.sources.errors import SourceError
from after_check.tui.base import ShopScreen
from after_check.tui.charts.card_edit import renamed
from after_check.tui.dialogs.ask import AskDialog
from after_check.tui.widgets.card_board import CardDrawing


class CardScreen(ShopScreen[bool]):
    """Shows and changes the card; returns whether one was kept."""

    CSS_PATH = "card.tcss"
    HELP_TITLE = "The machine data sheet"
    HELP_LINES = (
        "What is known of this machine's model, for all jobs with it: slots in the order of filling, channels, limits.",
        "On the drawing: arrows choose a slot and its channel, - and + its place in the order, enter renames, a adds, d removes.",
        "Left the same as text, with all limits; docs/file-formats.md describes the keys. A data sheet overrules guesses.",
    )
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("ctrl+s", "keep", "keep", tooltip="keep the data sheet for this shop", priority=True),
        Binding("tab", "app.focus_next", "drawing or text", show=True, tooltip="correct on the drawing, or in the text", priority=True),
        Binding("escape", "back", "back", tooltip="back without keeping", priority=True),
    ]

    def __init__(self, job: Job) -> None:
        super().__init__()
        self._job = job

    def compose(self) -> ComposeResult:
        """Lay out text and drawing."""
        yield Label("", id="card-title")
        with Horizontal(id="card-body"):
            yield TextArea(write_card(self._first_card()), id="card-text", soft_wrap=False)
            yield CardDrawing(id="card-drawing")
        yield Footer(show_command_palette=False)

    def _first_card(self) -> Card:
        """Return the card that there is, or one made from what the machine told."""
        if self._job.card is not None:
            return self._job.card
        kept = self._job.now or self._job.arrival
        return card_from_reading(reconciled(kept.reading) if kept else Reading(), self._job.facts.machine or "(model)")

    def on_mount(self) -> None:
        """Say what this is."""
        made = "" if self._job.card is not None else ", made from the reading; correct it"
        self.query_one("#card-title", Label).update(f"THE DATA SHEET OF {self._job.facts.machine.upper() or 'THIS MODEL'}{made}")
        self.query_one(CardDrawing).focus()
        self._draw()

    @on(TextArea.Changed, "#card-text")
    def changed(self) -> None:
        """Draw what is typed."""
        self._draw()

    @on(CardDrawing.Corrected)
    def corrected(self, message: CardDrawing.Corrected) -> None:
        """Write the corrected card into the text, which draws it."""
        self.query_one("#card-text", TextArea).text = write_card(message.card)

    @on(CardDrawing.NameWanted)
    def name_wanted(self, message: CardDrawing.NameWanted) -> None:
        """Ask for another name of a slot."""

        def named(name: str | None) -> None:
            card = self.query_one(CardDrawing).card
            if not name or card is None:
                return
            try:
                self.query_one("#card-text", TextArea).text = write_card(renamed(card, message.index, name))
            except ValueError as error:
                self.notify(str(error), severity="warning", timeout=4)

        self.app.push_screen(AskDialog("THE NAME OF THIS SLOT", value=message.name), named)

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
        """Keep the card, unless something is wrong with it."""
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
        except ShopError as error:
            self.notify(str(error), severity="error", timeout=10)
            return
        self.dismiss(True)

    def action_back(self) -> None:
        """Go back."""
        self.dismiss(False)
