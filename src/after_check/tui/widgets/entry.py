"""A line for one's own words: examples where nothing is typed, and what was understood as chips that can be changed by key."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from rich.cells import cell_len
from rich.highlighter import Highlighter
from rich.text import Text
from textual import events
from textual.binding import Binding, BindingType
from textual.message import Message

from after_check.domain.readings import Reading
from after_check.language.corrections import Piece, pieces_of, usually_next
from after_check.language.short_form import write
from after_check.language.short_form.parser import Parsed
from after_check.language.typed_text import read_line, read_promise
from after_check.language.where_said import Stretch, where_said
from after_check.tui.charts.cells import fitted
from after_check.tui.theme import Ink
from after_check.tui.widgets.drawn import Drawn
from after_check.tui.widgets.typed_line import TypedLine

_LONGEST_SAID = 40
LINE_BREAK = " ⏎ "
"""What stands for the end of a line in a line of entry; the reader of words takes it for one."""


class _Marks(Highlighter):
    """Greys and strikes what was heard and is no fact of now, and underlines where the chosen chip was said."""

    def __init__(self) -> None:
        super().__init__()
        self.aside: tuple[tuple[int, int, str], ...] = ()
        self.said: tuple[Stretch, ...] = ()

    def highlight(self, text: Text) -> None:
        """Mark the stretches in the text of the line."""
        for start, end, _ in self.aside:
            text.stylize(Ink.MUTED, start, end)
            text.stylize("strike", start, end)  # Not by colour alone.
        for start, end in self.said:
            text.stylize(Ink.PROMISED, start, end)
            text.stylize("bold underline", start, end)


class EntryLine(TypedLine):
    """Tab takes an example over while nothing else is typed, and again the next; down goes to the chips; `?` shows the keys.

    What was heard and is no fact of now is grey; the pointer tells why.
    """

    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("tab", "take_example", "take the example", show=False),
        Binding("down", "to_chips", "change a piece", tooltip="walk to what was understood, and change it by key"),
    ]

    examples: tuple[str, ...] = ()

    def mark(self, parsed: Parsed | None) -> None:
        """Grey what was left aside of the line."""
        aside: tuple[tuple[int, int, str], ...] = ()
        if parsed is not None and self.value.endswith(parsed.line):
            offset = len(self.value) - len(parsed.line)  # behind a plus
            aside = tuple((start + offset, end + offset, because) for start, end, because in parsed.left_aside)
        marks = self._marks()
        if aside == marks.aside:
            return
        marks.aside = aside
        reasons = "\n".join(f"{self.value[start:end].strip()}: left aside, {because}" for start, end, because in aside)
        self.tooltip = Text(reasons) if reasons else None
        self.refresh()

    def mark_said(self, line: str, stretches: tuple[Stretch, ...]) -> None:
        """Underline where something was said in the part of the line that was read."""
        offset = len(self.value) - len(line) if self.value.endswith(line) else None
        said = tuple((start + offset, end + offset) for start, end in stretches) if offset is not None else ()
        if said != self._marks().said:
            self._marks().said = said
            self.refresh()

    def _marks(self) -> _Marks:
        if not isinstance(self.highlighter, _Marks):
            self.highlighter = _Marks()
        return self.highlighter

    def on_key(self, event: events.Key) -> None:
        """A question mark in an empty line is no text, as nothing that anybody says begins with it: it shows the keys."""
        if event.character == "?" and not self.value:
            event.stop()
            event.prevent_default()
            self.screen.app.simulate_key("f1")

    def on_paste(self, event: events.Paste) -> None:
        """Take all lines of what is pasted, with a sign between them: a table is one text."""
        lines = [line.replace("\t", " | ").strip() for line in event.text.splitlines() if line.strip()]
        if len(lines) > 1:
            event.stop()
            event.prevent_default()
            self.insert_text_at_cursor(LINE_BREAK.join(lines))

    def check_action(self, action: str, parameters: tuple[object, ...]) -> bool | None:
        """Let tab move on where no example is to be taken over."""
        if action == "take_example":
            return bool(self.examples) and (not self.value or self.value in self.examples)
        if action == "to_chips":
            return self.is_mounted and any(chips.is_of(self) for chips in self.screen.query(Chips))
        return super().check_action(action, parameters)

    def action_take_example(self) -> None:
        """Put the first example into the line, and behind it the next one; behind the last, the line is empty again."""
        at = self.examples.index(self.value) + 1 if self.value in self.examples else 0
        self.value = self.examples[at] if at < len(self.examples) else ""
        self.cursor_position = len(self.value)

    def action_to_chips(self) -> None:
        """Go to the chips of this line."""
        for chips in self.screen.query(Chips):
            if chips.walk_into(self):
                return


class Chips(Drawn):
    """What was understood of a line: a chip for each piece, and beneath them what is usually said next, or what to choose from."""

    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("left,h", "walk(-1)", "piece before", show=False),
        Binding("right,l", "walk(1)", "next piece", show=False),
        Binding("enter", "open", "change", tooltip="what this piece might be instead"),
        Binding("up,escape", "leave", "back to the line"),
        *(Binding(str(number), f"choose({number - 1})", show=False) for number in range(1, 10)),
    ]

    @dataclass
    class Changed(Message):
        """A piece was changed; `text` says the whole in the short form."""

        text: str

    def __init__(self, of: str, promise: bool = False, id: str | None = None) -> None:
        super().__init__(id=id)
        self._of = of
        self._promise = promise
        self.pieces: tuple[Piece, ...] = ()
        self._next: tuple[str, ...] = ()
        self._at = 0
        self._is_open = False
        self._starts: list[tuple[int, int]] = []
        self._line = ""
        self._where: dict[str, tuple[Stretch, ...]] | None = None

    def show(self, parsed: Parsed | None) -> None:
        """Show what was understood of a line, or nothing."""
        reading = parsed.reading if parsed is not None and parsed.line.strip() else Reading()
        were_there = bool(self.pieces)
        self._line, self._where = parsed.line if parsed is not None else "", None
        self.pieces = pieces_of(reading)
        self._next = usually_next(reading, self._promise) if self.pieces else ()
        self._at, self._is_open = min(self._at, max(0, len(self.pieces) - 1)), False
        self.refresh()
        if were_there != bool(self.pieces):  # Laying out and offering keys again takes far longer than drawing.
            self.display = bool(self.pieces)
            self.screen.refresh_bindings()

    def is_of(self, line: EntryLine) -> bool:
        """Return whether these are the chips of that line, and there are any."""
        return line.id == self._of and bool(self.pieces)

    def walk_into(self, line: EntryLine) -> bool:
        """Take the cursor, where these are the chips of that line and there are any."""
        if not self.is_of(line):
            return False
        self.can_focus = True  # Only now: tab goes from line to line.
        self.screen.set_focus(self)
        return True

    def on_blur(self) -> None:
        """Close what is open."""
        self.can_focus, self._is_open = False, False
        self._mark(())
        self.refresh()

    def on_focus(self) -> None:
        """Mark in the line where the chosen piece was said."""
        self._mark(self._said_at(self._at))

    def _mark(self, stretches: tuple[Stretch, ...]) -> None:
        """Underline stretches of the line that was read."""
        for line in self.screen.query(f"#{self._of}").results(EntryLine):
            line.mark_said(self._line, stretches)

    def _said_at(self, index: int) -> tuple[Stretch, ...]:
        """Return where in the line a piece was said. It is worked out when it is asked for: not at every key."""
        if self._where is None:
            self._where = where_said(self._line, _promise_of if self._promise else _reading_of)
        return self._where.get(self.pieces[index].words, ()) if index < len(self.pieces) else ()

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw the chips in a row, and the line beneath."""
        row, self._starts = Text(no_wrap=True), []
        first = self._first_that_fits(cells)
        if first:
            row.append("‹ ", Ink.MUTED)
        for index, piece in enumerate(self.pieces[first:], first):
            chosen = self.has_focus and index == self._at
            begin = row.cell_len
            style = f"bold {Ink.ON_COLOUR} on {Ink.PROMISED}" if chosen else f"{Ink.TEXT} on {Ink.CHOSEN}"
            row.append(f"▶{piece.words} " if chosen else f" {piece.words} ", style)
            self._starts.append((index, begin))
            row.append(" ")
            if row.cell_len > cells:
                break
        return [row, self._beneath()]

    def _first_that_fits(self, cells: int) -> int:
        """Return the first chip to draw so that the chosen one is in sight."""
        first = 0
        while first < self._at and sum(len(piece.words) + 3 for piece in self.pieces[first : self._at + 1]) > cells - 2:
            first += 1
        return first

    def _beneath(self) -> Text:
        line = Text(no_wrap=True)
        choices = self.pieces[self._at].choices if self.pieces and self.has_focus else ()
        if self._is_open and choices:
            for number, choice in enumerate(choices, 1):
                line.append(f"{number} ", f"bold {Ink.PROMISED}")
                line.append(f"{choice.words}   ", Ink.TEXT)
        elif self.has_focus:
            said = " … ".join(self._line[start:end].strip() for start, end in self._said_at(self._at))
            line.append(f"said: {fitted(said, min(cell_len(said), _LONGEST_SAID))}   " if said else "", Ink.TEXT)
            line.append("enter" if choices else "", f"bold {Ink.PROMISED}")
            line.append(" changes it   ← → another piece   esc the line" if choices else "← → another piece   esc the line", Ink.MUTED)
        elif self._next:
            line.append("usually said next: ", Ink.MUTED)
            line.append("  ".join(self._next), Ink.PROMISED)
        return line

    def action_walk(self, by: int) -> None:
        """Go to another chip."""
        self._at, self._is_open = (self._at + by) % max(1, len(self.pieces)), False
        self._mark(self._said_at(self._at))
        self.refresh()

    def action_open(self) -> None:
        """Show what the piece might be instead."""
        self._is_open = bool(self.pieces and self.pieces[self._at].choices)
        self.refresh()

    def action_choose(self, index: int) -> None:
        """Take one of them."""
        choices = self.pieces[self._at].choices if self.pieces else ()
        if self._is_open and index < len(choices):
            self.post_message(self.Changed(write(choices[index].reading)))

    def action_leave(self) -> None:
        """Close the choices, or go back to the line."""
        if self._is_open:
            self._is_open = False
            self.refresh()
        else:
            self.screen.set_focus(self.screen.query_one(f"#{self._of}", EntryLine))

    def _under(self, event: events.MouseEvent) -> int | None:
        """Return the number of the chip under the mouse."""
        under = [index for index, begin in self._starts if begin <= event.x]
        return under[-1] if event.y == 0 and under else None

    def on_click(self, event: events.Click) -> None:
        """A click goes to a chip and opens it."""
        under = self._under(event)
        if under is not None:
            self.can_focus = True
            self.screen.set_focus(self)
            self._at = under
            self._mark(self._said_at(under))
            self.action_open()

    def on_mouse_move(self, event: events.MouseMove) -> None:
        """Say of the chip under the mouse what it might be instead."""
        under = self._under(event)
        piece = self.pieces[under] if under is not None and under < len(self.pieces) else None
        self.tooltip = Text(meaning(piece)) if piece is not None else None


def _reading_of(text: str) -> Reading:
    return read_line(text).reading


def _promise_of(text: str) -> Reading:
    return read_promise(text)[1].reading


def meaning(piece: Piece) -> str:
    """Return what a piece was understood as, and what it might be instead."""
    instead = f"Instead: {', '.join(choice.words for choice in piece.choices)}." if piece.choices else "Change it in the line."
    return f"Understood: {piece.words}. {instead}"


def examples_words(line: EntryLine) -> str:
    """Return a line's examples as they stand on the empty page, with the key that takes them over."""
    if not line.examples:
        return ""
    return "People say here (tab takes it over, tab again the next):\n" + "\n".join(f"▸ {text}" for text in line.examples) + "\n\n"
