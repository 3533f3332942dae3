"""What screens with a line for one's own words have in common: answers, notes, chips and the drawing that is corrected by hand."""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType

from textual import on

from after_check.domain.cards import Card
from after_check.domain.modules import Module
from after_check.domain.readings import Reading
from after_check.language.short_form import write
from after_check.language.short_form.edit import emptied, put
from after_check.language.typed_text import with_note
from after_check.sources.evidence import RawEvidence, Taken, with_evidence
from after_check.tui.base import DraftScreen, Result
from after_check.tui.dialogs.module import ModuleDialog, SlotAnswer
from after_check.tui.widgets.entry import Chips, EntryLine
from after_check.tui.widgets.notation_board import NotationBoard, answered


class EntryScreen(DraftScreen[Result]):
    """Subclasses say which line the drawing is of, and what is known of the machine."""

    _offers_an_answer = False
    _filled: tuple[str, str] | None = None
    _own_words: Mapping[str, tuple[str, ...]] = MappingProxyType({})
    _written: Mapping[str, str] = MappingProxyType({})

    @property
    def drawn_line(self) -> EntryLine:
        """The line that the drawing and the chips are of."""
        raise NotImplementedError

    @property
    def known_card(self) -> Card | None:
        """The data sheet of the machine, where there is one."""
        raise NotImplementedError

    @property
    def known_modules(self) -> tuple[Module, ...]:
        """Modules of this machine that are known from elsewhere: what is beside them is likely the same."""
        raise NotImplementedError

    def put(self, text: str) -> None:
        """Write another text into the line, with the cursor behind it; what was typed there is remembered."""
        self.remember_words(text)
        self.drawn_line.value = text
        self.drawn_line.cursor_position = len(text)

    def remember_words(self, instead: str) -> None:
        """Remember a person's own words before the program writes others in their place: they are evidence."""
        words, of = self.drawn_line.value.strip().lstrip("+ "), self.drawn_line.id or ""
        own = self._own_words.get(of, ())
        if words and words != self._written.get(of) and words not in own:
            self._own_words = {**self._own_words, of: (*own, words)}
        self._written = {**self._written, of: instead.strip()}

    def with_own_words(self, taken: Taken, line: EntryLine) -> Taken:
        """Return what was taken from a line with the words as they were typed before anything was changed by key."""
        own = self._own_words.get(line.id or "", ())
        words = [RawEvidence(f"typed {number}", text.encode("utf-8", "replace")) for number, text in enumerate(own, 1)]
        return with_evidence(taken.reading, (*taken.evidence, *words)) if words else taken

    def offer_answers(self) -> None:
        """Offer the keys for answers where they have come or gone: to offer keys again takes far longer than a key should."""
        offers = answered(self.query_one(NotationBoard).parsed, 0) is not None
        if offers != self._offers_an_answer:
            self._offers_an_answer = offers
            self.refresh_bindings()

    def words_wanted(self, slot: str, words: str) -> None:
        """Let what is in a slot be typed; here, in the line itself."""
        self.set_focus(self.drawn_line)

    def action_board(self) -> None:
        """Go to the drawing, and back to its line; slots that were only filled in are taken back where nothing was done with them."""
        board = self.query_one(NotationBoard)
        if board.has_focus and self._filled is not None and self.drawn_line.value == self._filled[1]:
            self.put(self._filled[0])
        if board.has_focus:
            self._filled = None
        self.set_focus(self.drawn_line if board.has_focus else board)

    def action_answer(self, index: int) -> None:
        """Put an answer into the line that asks."""
        text = answered(self.query_one(NotationBoard).parsed, index)
        if text is not None:
            self.put(text)
            self.set_focus(self.drawn_line)

    def action_note(self) -> None:
        """Keep what is not understood as a note."""
        parsed = self.query_one(NotationBoard).parsed
        text = with_note(parsed) if parsed is not None else None
        if text is not None:
            self.put(text)

    def check_action(self, action: str, parameters: tuple[object, ...]) -> bool | None:
        """Offer an answer where something is asked."""
        board = next(iter(self.query(NotationBoard)), None)
        if action == "answer":
            return board is not None and answered(board.parsed, 0) is not None
        return super().check_action(action, parameters)

    @on(Chips.Changed)
    def piece_changed(self, message: Chips.Changed) -> None:
        """Write a changed piece into the line."""
        self.put(message.text)

    @on(NotationBoard.Corrected)
    def corrected(self, message: NotationBoard.Corrected) -> None:
        """Write the corrected drawing back into its line."""
        before = self.drawn_line.value
        self.put(message.line)
        if message.filled:
            self._filled = (before, self.drawn_line.value)

    @on(NotationBoard.WordsWanted)
    def slot_chosen(self, message: NotationBoard.WordsWanted) -> None:
        """Ask what is in a slot, one key each for size, kind and rate."""
        parsed = self.query_one(NotationBoard).parsed
        reading = parsed.reading if parsed is not None else Reading()
        here = next((slot.module for slot in reading.slots if slot.name == message.slot), None)

        def given(answer: SlotAnswer | None) -> None:
            if answer is not None and answer.in_words:
                self.words_wanted(message.slot, message.words)
            elif answer is not None:
                changed = put(reading, message.slot, answer.module) if answer.module is not None else emptied(reading, message.slot)
                self.put(write(changed))

        beside = (*reading.modules, *self.known_modules)
        self.app.push_screen(ModuleDialog(message.slot, here, beside, self.known_card), given)
