"""The regions of the hand-back: what it lacks and what was agreed, and the sheet as it will be."""

from __future__ import annotations

from typing import ClassVar

from rich.text import Text
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import VerticalScroll
from textual.widgets import Static
from textual.widgets.option_list import Option

from after_check.casework.next_step import fixing
from after_check.casework.verdict_words import outcome_words
from after_check.domain.codes import Severity
from after_check.domain.jobs import Job
from after_check.handback.content import SheetContent
from after_check.handback.missing import Missing, Remedy, missing
from after_check.handback.page import customer_page_of, settled_words
from after_check.texts import words_of
from after_check.tui.charts.cells import joined, wrapped
from after_check.tui.charts.paper import paper_lines
from after_check.tui.theme import Ink, on_paper
from after_check.tui.widgets.listed import Listed

REMEDY_WORDS = {
    Remedy.AGREE: "agreed with the customer",
    Remedy.READ: "read the machine",
    Remedy.SETTLE: "does the sticker say so?",
    Remedy.SOAK: "test the memory",
    Remedy.BENCHMARK: "measure",
    Remedy.OLD_MODULES: "write it down",
    Remedy.SIGN: "sign",
    Remedy.WRITE: "write the sheet",
}
"""What enter does about a thing, but for faults: these say it themselves."""
_FIRST = (Remedy.SOAK, Remedy.OLD_MODULES, Remedy.SIGN, Remedy.WRITE)
"""Where the cursor begins when nothing blocks: speed and serial numbers are good to have, and nobody is led there."""


def enter_words(item: Missing) -> str:
    """Return what enter does about a thing, in a few words."""
    if item.remedy is Remedy.FIX and item.finding is not None:
        return fixing(item.finding).words
    return REMEDY_WORDS[item.remedy]


class MissingList(Listed):
    """What is missing, what the customer is told, what was agreed to, and who signed; one item of the first two is chosen."""

    BINDINGS: ClassVar[list[BindingType]] = [Binding("j", "cursor_down", show=False), Binding("k", "cursor_up", show=False)]

    def __init__(self, id: str) -> None:
        super().__init__(id=id)
        self._items: dict[int, Missing] = {}
        self.open_ones: tuple[Missing, ...] = ()
        self._content: SheetContent | None = None
        self._drawn_cells = 0
        self._chosen_last: Missing | None = None

    @property
    def chosen(self) -> Missing | None:
        """The item that the cursor is on."""
        return self._items.get(self.highlighted) if self.highlighted is not None else None

    def show(self, content: SheetContent) -> None:
        """Show what a job's hand-back lacks; the cursor stays where it was, as far as that is still there."""
        at = self.highlighted
        self._content, self._drawn_cells = content, self.size.width
        cells = max(16, self.size.width - 2)
        self.clear_options()
        self._items = {}
        job = content.job
        self._words(_signed(job, cells))
        open_ones = self.open_ones = missing(content)
        told = [Missing(words_of(finding).title, Remedy.AGREE, finding=finding) for finding in content.open_findings(Severity.TELL)]
        self._words([Text("BEFORE IT GOES BACK", f"bold {Ink.MUTED}")])
        if not open_ones:
            self._words([Text("✓ nothing is missing", f"bold {Ink.KEPT}")])
        for item in open_ones:
            self._item(item, ("▲", Ink.SHORT) if item.blocks else ("▯", Ink.PROMISED), cells, job.frozen)
        if told:
            self._words([Text("THE CUSTOMER IS TOLD", f"bold {Ink.MUTED}")])
        for item in told:
            self._item(item, ("■", Ink.PROMISED), cells, job.frozen)
        self._words([Text("THE SHEET", f"bold {Ink.MUTED}")])
        outcome = content.snapshot.outcome
        if not job.frozen:
            self._item(Missing(f"sign it: {outcome_words(outcome)}", Remedy.SIGN), ("▸", Ink.PROMISED), cells, False)
        self._item(Missing("PDF, drawings and tables", Remedy.WRITE), ("▸", Ink.PROMISED), cells, False)
        self._words(_agreed(job, cells))
        stands = self._chosen_last is not None and at is not None and self._items.get(at) == self._chosen_last
        self.highlighted = at if stands else self._begin_at(job.frozen)
        self._chosen_last = self.chosen

    def _begin_at(self, frozen: bool) -> int:
        """Return where the cursor begins: at what blocks, else at the first thing that everybody writes down."""
        if frozen:
            return next(at for at, item in self._items.items() if item.remedy is Remedy.WRITE)
        blocking = [at for at, item in self._items.items() if item.blocks]
        wanted = [at for remedy in _FIRST for at, item in self._items.items() if item.remedy is remedy]
        return [*blocking, *wanted, *self._items][0]

    def on_resize(self) -> None:
        """Set the words again for another width."""
        if self._content is not None and self.size.width != self._drawn_cells:
            self.show(self._content)

    def _item(self, item: Missing, mark: tuple[str, str], cells: int, frozen: bool) -> None:
        text = Text(no_wrap=True)
        text.append(f"{mark[0]} ", f"bold {mark[1]}")
        text.append("\n  ".join(wrapped(item.words, cells - 2)), Ink.TEXT)
        if not frozen:
            text.append("\n  " + "\n  ".join(wrapped(_hint(item), cells - 2)), Ink.MUTED)
        self._items[self.option_count] = item
        self.add_option(Option(text))

    def _words(self, lines: list[Text]) -> None:
        """Add lines that are only read."""
        if lines:
            self.add_option(Option(joined(lines), disabled=True))


def _hint(item: Missing) -> str:
    return f"enter: {enter_words(item)}" + ("; a: agreed with the customer" if item.remedy is Remedy.FIX else "")


def _signed(job: Job, cells: int) -> list[Text]:
    if not job.frozen or not job.revisions:
        return []
    last = job.revisions[-1]
    lines = [
        last.signed_by or "nobody named",
        f"revision {last.number}, {last.signed_at:%-d %b %Y %H:%M}",
        *wrapped("Nothing changes until r begins a new one.", cells),
    ]
    return [Text(" ◆ SIGNED ", f"bold {Ink.ON_COLOUR} on {Ink.KEPT}"), *(Text(line, Ink.TEXT) for line in lines)]


def _agreed(job: Job, cells: int) -> list[Text]:
    lines: list[Text] = []
    if job.hand_back.as_it_came:
        lines.append(Text("BACK AS IT CAME", f"bold {Ink.PROMISED}"))
        lines += [Text(part, Ink.TEXT) for part in wrapped(job.hand_back.as_it_came, cells)]
    settled = list(settled_words(job.hand_back))
    if settled:
        lines.append(Text("SETTLED", f"bold {Ink.MUTED}"))
        lines += [Text(part, Ink.TEXT) for words in settled for part in wrapped(words, cells)]
    agreements = [one for one in job.hand_back.overrides if not one.settles]
    if agreements:
        lines.append(Text("AGREED", f"bold {Ink.MUTED}"))
    for agreed in agreements:
        words = f"{agreed.code}: {agreed.reason}" + (f"; before: {agreed.before}" if agreed.before else "")
        lines += [Text(part, Ink.TEXT) for part in wrapped(words, cells)]
    for revision in job.revisions[:-1] if job.frozen else job.revisions:
        lines.append(Text(f"revision {revision.number} signed {revision.signed_at:%-d %b %Y} {revision.signed_by}", Ink.MUTED))
    return lines


class PaperPane(VerticalScroll):
    """The sheet as it will be, on paper of its own colour."""

    def __init__(self, id: str) -> None:
        super().__init__(id=id)
        self._sheet: tuple[SheetContent, str] | None = None
        self._drawn_cells = 0

    def compose(self) -> ComposeResult:
        """Lay out the sheet."""
        yield Static(id="hand-back-sheet", markup=False)

    def on_resize(self) -> None:
        """Draw the page again for another width: what makes a screen narrow comes later than its size."""
        if self._sheet is not None and self.size.width != self._drawn_cells:
            self.show(*self._sheet)

    def show(self, content: SheetContent, head: str) -> None:
        """Draw the customer's page for the present width."""
        self._sheet, self._drawn_cells = (content, head), self.size.width
        sheet = self.query_one("#hand-back-sheet", Static)
        cells = max(20, self.scrollable_content_region.width - sheet.gutter.width)
        sheet.update(on_paper(joined(paper_lines(customer_page_of(content), content, head, cells))))
