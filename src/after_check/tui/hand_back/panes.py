"""The regions of the hand-back: what it lacks and what was agreed, and the sheet as it will be."""

from __future__ import annotations

from typing import ClassVar

from rich.text import Text
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import VerticalScroll
from textual.widgets import OptionList, Static
from textual.widgets.option_list import Option

from after_check.domain.findings import Severity
from after_check.domain.jobs import Job
from after_check.handback.content import SheetContent
from after_check.handback.missing import Missing, Remedy, missing
from after_check.handback.page import customer_page_of
from after_check.tui.drawing.paper import paper_lines
from after_check.tui.drawing.text import joined, wrapped
from after_check.tui.palette import Palette, paper_of

_REMEDY_WORDS = {
    Remedy.AGREE: "enter: agreed with the customer",
    Remedy.READ: "enter: read the machine",
    Remedy.SOAK: "enter: test the memory",
    Remedy.GAUGE: "enter: measure",
    Remedy.OLD_MODULES: "enter: write it down",
}


class MissingList(OptionList):
    """What is missing, what the customer is told, what was agreed to, and who signed; one item of the first two is chosen."""

    BINDINGS: ClassVar[list[BindingType]] = [Binding("j", "cursor_down", show=False), Binding("k", "cursor_up", show=False)]

    def __init__(self, id: str) -> None:
        super().__init__(id=id)
        self._items: dict[int, Missing] = {}

    @property
    def chosen(self) -> Missing | None:
        """The item that the cursor is on."""
        return self._items.get(self.highlighted) if self.highlighted is not None else None

    def show(self, content: SheetContent, palette: Palette) -> None:
        """Show what a job's hand-back lacks; the cursor stays where it was, as far as that is still there."""
        at = self.highlighted
        cells = max(16, self.size.width - 2)
        self.clear_options()
        self._items = {}
        job = content.job
        self._words(_signed(job, cells, palette))
        open_ones = missing(content)
        told = [Missing(one.title, Remedy.AGREE, finding=one) for one in content.open_findings(Severity.TELL)]
        self._words([Text("BEFORE IT GOES BACK", f"bold {palette.muted}")])
        if not open_ones:
            self._words([Text("✓ nothing is missing", f"bold {palette.kept}")])
        for one in open_ones:
            self._item(one, ("▲", palette.short) if one.blocks else ("○", palette.promised), cells, palette, job.frozen)
        if told:
            self._words([Text("THE CUSTOMER IS TOLD", f"bold {palette.muted}")])
        for one in told:
            self._item(one, ("●", palette.promised), cells, palette, job.frozen)
        self._words(_agreed(job, cells, palette))
        if self._items:
            self.highlighted = at if at in self._items else min(self._items)

    def _item(self, one: Missing, mark: tuple[str, str], cells: int, palette: Palette, frozen: bool) -> None:
        text = Text(no_wrap=True)
        text.append(f"{mark[0]} ", f"bold {mark[1]}")
        text.append("\n  ".join(wrapped(one.words, cells - 2)), palette.text)
        if not frozen:
            text.append("\n  " + "\n  ".join(wrapped(_REMEDY_WORDS[one.remedy], cells - 2)), palette.muted)
        self._items[self.option_count] = one
        self.add_option(Option(text))

    def _words(self, lines: list[Text]) -> None:
        """Add lines that are only read."""
        if lines:
            self.add_option(Option(joined(lines), disabled=True))


def _signed(job: Job, cells: int, palette: Palette) -> list[Text]:
    if not job.frozen or not job.revisions:
        return []
    last = job.revisions[-1]
    lines = [
        last.signed_by or "nobody named",
        f"revision {last.number}, {last.signed_at:%d %b %Y %H:%M}",
        *wrapped("Nothing changes until r begins a new one.", cells),
    ]
    return [Text(" ◆ SIGNED ", f"bold {palette.on_colour} on {palette.kept}"), *(Text(one, palette.text) for one in lines)]


def _agreed(job: Job, cells: int, palette: Palette) -> list[Text]:
    lines: list[Text] = []
    if job.hand_back.overrides:
        lines.append(Text("AGREED", f"bold {palette.muted}"))
    for agreed in job.hand_back.overrides:
        words = f"{agreed.code}: {agreed.reason}" + (f"; before: {agreed.before}" if agreed.before else "")
        lines += [Text(part, palette.text) for part in wrapped(words, cells)]
    for revision in job.revisions[:-1] if job.frozen else job.revisions:
        lines.append(Text(f"revision {revision.number} signed {revision.signed_at:%d %b %Y} {revision.signed_by}", palette.muted))
    return lines


class PaperPane(VerticalScroll):
    """The sheet as it will be, on paper of its own colour."""

    def compose(self) -> ComposeResult:
        """Lay out the sheet."""
        yield Static(id="hand-back-sheet")

    def show(self, content: SheetContent, head: str) -> None:
        """Draw the customer's page for the present width."""
        palette = paper_of(self.app.theme)
        sheet = self.query_one("#hand-back-sheet", Static)
        sheet.styles.background = palette.background
        sheet.styles.color = palette.text
        cells = max(20, self.size.width - 8)
        sheet.update(joined(paper_lines(customer_page_of(content), content, head, cells, palette)))
