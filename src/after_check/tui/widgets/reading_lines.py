"""The lines of a reading: what is typed or named, what the system shows beside it, the words of a slot, a password."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from rich.text import Text
from textual import on
from textual.app import ComposeResult
from textual.containers import Vertical
from textual.message import Message
from textual.suggester import SuggestFromList
from textual.widgets import Input, Label, Static

from after_check.judgement.reconcile import with_system
from after_check.language.short_form.parser import Parsed
from after_check.language.short_form.problems import Problem
from after_check.language.typed_text import read_line
from after_check.sources.evidence import RawEvidence, Taken, with_evidence
from after_check.sources.open_source import NETWORK, take_notation
from after_check.tui.theme import Ink
from after_check.tui.widgets.entry import Chips, EntryLine
from after_check.tui.widgets.typed_line import TypedLine

READING_HINT = (
    "Leave the line empty and press enter to read this machine.\n"
    "Or type the path of a copied /sys and /proc folder, of a firmware table, of a saved reading, or of a photo.\n"
    "Or type an address: ssh://USER@HOST or redfish+https://USER@HOST.\n"
    "For another machine, after-check collector --for sh prints a script; type its file here.\n"
    "A line that begins with + is added to the last reading: + profile off; reset\n"
    "ctrl+l brings the last reading back as a line to change.\n"
    "f5 notes the first start: the notice that memory changed, cleared settings, how it started."
)


class ReadingLines(Vertical):
    """Holds the lines; the second one, for the system, is there where somebody asked for it."""

    class Typed(Message):
        """What is typed changed."""

    def __init__(self, places: tuple[str, ...], id: str) -> None:
        super().__init__(id=id)
        self._places = places

    def compose(self) -> ComposeResult:
        """Lay them out, one beneath the other."""
        yield Label("", id="reading-title", markup=False)
        suggester = SuggestFromList(self._places)
        yield EntryLine(id="reading-line", placeholder="empty: this machine · a path · or your own words", suggester=suggester)
        yield Chips("reading-line", id="reading-chips")
        yield EntryLine(id="reading-system", placeholder="what the system shows: 16 GB (15.8 usable), 2400 MHz")
        yield Static(id="reading-said", markup=False)
        yield TypedLine(id="reading-words", placeholder="the words of this slot's module; - empties it")
        yield TypedLine(id="reading-password", password=True, placeholder="password; enter tries it, esc gives up")

    def on_mount(self) -> None:
        """Show the first line only."""
        for further in ("#reading-password", "#reading-words", "#reading-system"):
            self.query_one(further).display = False

    @property
    def line(self) -> EntryLine:
        """The line that a reading begins with."""
        return self.query_one("#reading-line", EntryLine)

    @property
    def text(self) -> str:
        """What is typed in it."""
        return self.line.value

    @property
    def is_network(self) -> bool:
        """Whether an address is typed."""
        return self.text.strip().startswith(NETWORK)

    @property
    def is_path(self) -> bool:
        """Whether a file or a folder is named."""
        return is_path(self.text.strip())

    @property
    def system(self) -> str:
        """What was typed of what the system shows; empty where that line is closed."""
        line = self.query_one("#reading-system", Input)
        return line.value.strip() if line.display else ""

    @property
    def draft(self) -> str:
        """What is kept of both lines while they are typed: no address, which may hold a password."""
        if self.is_network:
            return ""
        return f"{self.text}\n{self.system}" if self.system else self.text

    def bring_back(self, draft: str) -> bool:
        """Put a kept draft back, unless something is typed already; return whether it was."""
        if not draft or self.text:
            return False
        line, _, system = draft.partition("\n")
        self.put(line)
        if system:
            self.open_system(system)
        return True

    def put(self, text: str) -> None:
        """Write another text into the line, with the cursor behind it; a + that stood before it stays."""
        self.line.value = text
        self.line.cursor_position = len(text)

    def put_reading(self, text: str) -> None:
        """Write a changed reading into the line; where it is added to the last one, it still is."""
        self.put(("+ " if self.text.lstrip().startswith("+") else "") + text)

    def read(self) -> Parsed:
        """Return what is typed in both lines as one reading; what is wrong with the second one is said as such."""
        parsed = read_line(without_plus(self.text), added=self.text.lstrip().startswith("+"))
        if not self.system:
            return parsed
        shown = read_line(self.system)
        told = tuple(Problem(0, 0, f"what the system shows: {problem.message}", problem.suggestion, True) for problem in shown.problems)
        return replace(parsed, reading=with_system(parsed.reading, shown.reading), problems=(*parsed.problems, *told))

    def taken(self, source: str) -> Taken:
        """Return the reading of both lines with each as evidence, as it was typed. Raises SourceError."""
        typed = take_notation(without_plus(source), added=source.lstrip().startswith("+"))
        if not self.system:
            return typed
        shown = take_notation(self.system)
        both = (*typed.evidence, *(RawEvidence(f"{part.name}, system", part.data) for part in shown.evidence))
        return with_evidence(with_system(typed.reading, shown.reading), both)

    def toggle_system(self) -> None:
        """Open the line for what the system shows; from within it, close it."""
        line = self.query_one("#reading-system", Input)
        if line.display and line.has_focus:
            line.display = False
            self.screen.set_focus(self.line)
            self.post_message(self.Typed())
        else:
            self.open_system(line.value)

    def open_system(self, text: str) -> None:
        """Show the line for what the system shows."""
        line = self.query_one("#reading-system", Input)
        line.display, line.value = True, text
        self.screen.set_focus(line)  # At once: the next key is already its own.

    def say(self, words: str, failed: bool = False) -> None:
        """Say something beneath the lines."""
        self.query_one("#reading-said", Static).update(Text(words, Ink.SHORT if failed else Ink.MUTED))

    @on(Input.Changed, "#reading-line,#reading-system")
    def changed(self) -> None:
        """Tell the screen."""
        self.post_message(self.Typed())


def without_plus(line: str) -> str:
    """Return a typed line without the + that adds it to the last reading."""
    return line.lstrip().removeprefix("+")


def is_path(line: str) -> bool:
    """Return whether a line names something on this computer; the short form has no slash before its first item."""
    if "=" in line or ";" in line or "\0" in line or len(line) > 4000 or line.startswith(NETWORK):
        return False
    try:
        return Path(line).expanduser().exists()
    except (OSError, RuntimeError):
        return False


def holds_password(address: str) -> bool:
    """Return whether an address has a password in it, which nothing remembers."""
    return ":" in address.partition("://")[2].partition("/")[0].rpartition("@")[0]
