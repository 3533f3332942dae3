"""The card of a job's machine model: made from a reading, corrected as text, drawn beside it."""

from __future__ import annotations

import asyncio
from typing import ClassVar

from rich.text import Text
from textual import on, work
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Horizontal
from textual.widgets import Footer, Label, TextArea

from after_check.domain.cards import Card
from after_check.domain.jobs import Job
from after_check.domain.quantities import size_text
from after_check.domain.readings import Reading
from after_check.judgement.reconcile import reconciled
from after_check.shop.errors import ShopError
from after_check.sources.card_file import card_from_reading, parse_card, write_card
from after_check.sources.errors import SourceError
from after_check.tui.base import ShopScreen
from after_check.tui.drawing.text import fitted, wrapped
from after_check.tui.drawn import Drawn
from after_check.tui.palette import Palette


class CardDrawing(Drawn):
    """The model's board in the order in which its slots are filled, and its limits; or what is wrong with the card."""

    card: Card | None = None
    problem = ""

    def lines(self, cells: int, rows: int, palette: Palette) -> list[Text]:
        """Draw the card."""
        if self.card is None:
            return [Text(line, palette.short) for line in wrapped(f"▲ {self.problem}", cells)]
        card = self.card
        lines = [Text(card.name, f"bold {palette.text}"), Text("")]
        for index, slot in enumerate(card.slots):
            line = Text(no_wrap=True)
            line.append(f" {index + 1}. ", palette.promised)
            line.append(fitted(slot.name, 18), f"bold {palette.text}")
            line.append(f"channel {slot.channel}", palette.muted)
            lines.append(line)
        if card.slots:
            lines += [Text(" filled in this order", palette.muted), Text("")]
        for word, said in _limits(card):
            line = Text(no_wrap=True)
            line.append(f" {fitted(word, 18)}", palette.muted)
            line.append(said, palette.text)
            lines.append(line)
        return lines[:rows]


def _limits(card: Card) -> list[tuple[str, str]]:
    found = [
        ("takes", " ".join(part for part in (str(card.generation or ""), ", ".join(card.forms)) if part)),
        ("ECC", card.ecc.value if card.ecc else ""),
        ("largest total", size_text(card.total_bytes) if card.total_bytes else ""),
        ("largest module", size_text(card.module_bytes) if card.module_bytes else ""),
        ("profile", card.profile.value if card.profile else ""),
        *((f"{rate.per_channel} a channel", f"{rate.rate_mts} MT/s") for rate in card.rates),
        ("starts in", f"{card.usual_start_seconds} s" if card.usual_start_seconds else ""),
        ("at the longest", f"{card.longest_start_seconds} s" if card.longest_start_seconds else ""),
    ]
    return [(word, said) for word, said in found if said]


class CardScreen(ShopScreen[bool]):
    """Shows and changes the card; returns whether one was kept."""

    CSS_PATH = "card.tcss"
    HELP_TITLE = "The card of a model"
    HELP_LINES = (
        "What is known of this machine's model, for all jobs with it: slots in the order of filling, channels, limits.",
        "A card overrules what slot names and guesses tell. docs/file-formats.md describes the keys.",
    )
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("ctrl+s", "keep", "keep", tooltip="keep the card for this shop", priority=True),
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
        self.query_one("#card-title", Label).update(f"THE CARD OF {self._job.facts.machine.upper() or 'THIS MODEL'}{made}")
        self._draw()

    @on(TextArea.Changed, "#card-text")
    def changed(self) -> None:
        """Draw what is typed."""
        self._draw()

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
            await asyncio.to_thread(self.shop.keep_card, card)
        except ShopError as error:
            self.notify(str(error), severity="error", timeout=10)
            return
        self.dismiss(True)

    def action_back(self) -> None:
        """Go back."""
        self.dismiss(False)
