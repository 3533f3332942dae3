"""What caps the data rate of a job's machine, and what would lift each cap."""

from __future__ import annotations

from typing import ClassVar

from rich.text import Text
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import VerticalScroll
from textual.widgets import Footer, Static

from after_check.domain.findings import Ceiling, ExpectedRate
from after_check.tui.drawing.reason import ceiling_lines, reason_lines
from after_check.tui.drawing.text import joined, wrapped
from after_check.tui.job_sheet.panes import JobHeader
from after_check.tui.job_sheet.view import SnapshotScreen
from after_check.tui.palette import Palette

_LIFTS = (
    ("promised", "The promise itself: more is not asked for."),
    ("modules, profile", "Modules with a faster profile."),
    ("modules, standard", "The profile, where the modules hold one; else modules with a faster standard rate."),
    ("modules, as sold", "Faster modules."),
    ("firmware limit", "The memory rate in the firmware setup, set to automatic."),
    ("slowest module", "Taking the slowest module out, or replacing it."),
    ("platform", "Fewer modules in a channel, where the card gives a faster rate for that; else nothing on this machine."),
)


class CeilingsScreen(SnapshotScreen):
    """Every cap as a bar, the lowest that explains the rate marked, and what would lift each."""

    CSS_PATH = "ceilings.tcss"
    HELP_TITLE = "The ceilings"
    HELP_LINES = ("Each bar is something that caps the data rate; the lowest one binds (◂). Beneath: what would lift each.",)
    BINDINGS: ClassVar[list[BindingType]] = [Binding("escape,c", "dismiss", "back", tooltip="back to the job sheet")]

    def compose(self) -> ComposeResult:
        """Lay out the view."""
        yield JobHeader(id="ceilings-header")
        with VerticalScroll(id="ceilings-body"):
            yield Static(id="ceilings-text")
        yield Footer(show_command_palette=False)

    def draw(self) -> None:
        """Draw the view."""
        palette, judgement = self.palette, self.snapshot.judgement
        cells = max(40, self.query_one("#ceilings-body").size.width - 4)
        lines = [Text("WHAT CAPS THE DATA RATE", f"bold {palette.muted}"), Text("")]
        bars = ceiling_lines(judgement.ceilings, self.snapshot.running_mts, cells, palette)
        for bar in bars:
            lines += [bar, Text("")]
        if not bars:
            lines.append(Text("No rate is known of the modules or of the machine.", palette.muted))
        lines += _expected_lines(judgement.expected, cells, palette)
        rate = next((finding for finding in judgement.findings if finding.code.startswith("rate.")), None)
        if rate is not None:
            lines += [Text(rate.title, f"bold {palette.text}"), *reason_lines(rate, cells, palette), Text("")]
        elif bars:
            lines += [Text("The rate is what it should be; the lowest of these bars is why it is no higher.", palette.text), Text("")]
        lines += [Text("WHAT WOULD LIFT EACH", f"bold {palette.muted}"), Text("")]
        for ceiling in judgement.ceilings:
            lines += _lift(ceiling, cells, palette)
        if self.snapshot.job.card is None:
            model = self.snapshot.job.facts.machine or "(no name)"
            unknown = f"Nothing is known of the model {model}: with a card, its own rates stand here too."
            lines += [Text(""), *(Text(line, palette.muted) for line in wrapped(unknown, cells))]
        self.query_one("#ceilings-text", Static).update(joined(lines))


def _expected_lines(expected: ExpectedRate | None, cells: int, palette: Palette) -> list[Text]:
    """Say what rate was to be expected, and what is not known and keeps it open."""
    if expected is None:
        return []
    said = f"To be expected here: {expected.words}."
    if expected.open:
        said += f" Not known: {'; '.join(expected.open)}."
    return [*(Text(line, palette.text) for line in wrapped(said, cells)), Text("")]


def _lift(ceiling: Ceiling, cells: int, palette: Palette) -> list[Text]:
    said = next((words for start, words in _LIFTS if ceiling.name.startswith(start)), "")
    lines: list[Text] = []
    for index, part in enumerate(wrapped(said, cells - 32)):
        line = Text(no_wrap=True)
        head = f"{ceiling.name} {ceiling.rate_mts}" if index == 0 else ""
        line.append(f"{head:<31} ", f"bold {palette.short}" if ceiling.binding else palette.text)
        line.append(part, palette.muted)
        lines.append(line)
    return lines
