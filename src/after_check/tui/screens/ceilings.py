"""What caps the data rate of a job's machine, and what would lift each cap."""

from __future__ import annotations

from typing import ClassVar

from rich.text import Text
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import VerticalScroll
from textual.widgets import Static

from after_check.casework.rate_words import ceiling_words, expected_words, one_a_cause
from after_check.domain.findings import Ceiling, CeilingKind, ExpectedRate
from after_check.texts import words_of
from after_check.tui.charts.cells import joined, wrapped
from after_check.tui.charts.reason import ceiling_lines, reason_lines
from after_check.tui.job_screen import SnapshotScreen
from after_check.tui.theme import Ink
from after_check.tui.widgets.job_sheet_panes import JobHeader
from after_check.tui.widgets.keys_line import KeysLine

_LIFTS = {
    CeilingKind.PROMISE: "The promise itself: more is not asked for.",
    CeilingKind.PROFILE: "Modules with a faster profile.",
    CeilingKind.STANDARD: "The profile, where the modules hold one; else modules with a faster standard rate.",
    CeilingKind.AS_RUNNING: "The profile, where the modules hold one; else modules with a faster standard rate.",
    CeilingKind.AS_SOLD: "Faster modules.",
    CeilingKind.FIRMWARE: "The memory rate in the firmware setup, set to automatic.",
    CeilingKind.SLOWEST: "Taking the slowest module out, or replacing it.",
    CeilingKind.PLATFORM: "Fewer modules in a channel, where the data sheet gives a faster rate for that; else nothing on this machine.",
}
"""What would lift each kind of ceiling."""


class CeilingsScreen(SnapshotScreen[None]):
    """Every cap as a bar, the lowest that explains the rate marked, and what would lift each."""

    drawn_for_width = True

    CSS_PATH = "ceilings.tcss"
    HELP_TITLE = "What limits the speed"
    HELP_LINES = ("Each bar is something that limits the speed; the marked one (◂) is the limit now. Beneath: what would lift each.",)
    BINDINGS: ClassVar[list[BindingType]] = [Binding("escape,c", "dismiss", "back", tooltip="back to the job sheet")]

    def compose(self) -> ComposeResult:
        """Lay out the view."""
        yield JobHeader(id="ceilings-header")
        with VerticalScroll(id="ceilings-body"):
            yield Static(id="ceilings-text", markup=False)
        yield KeysLine()

    def draw(self) -> None:
        """Draw the view."""
        judgement = self.snapshot.judgement
        cells = max(40, self.query_one("#ceilings-body").size.width - 4)
        lines = [Text("WHAT LIMITS THE SPEED  in MT/s", f"bold {Ink.MUTED}"), Text("")]
        ceilings = one_a_cause(judgement.ceilings)
        bars = ceiling_lines(ceilings, self.snapshot.running_mts, cells)
        for bar in bars:
            lines += [bar, Text("")]
        if not bars:
            lines.append(Text("No rate is known of the modules or of the machine.", Ink.MUTED))
        lines += _expected_lines(judgement.expected, cells)
        rate = next((finding for finding in judgement.findings if finding.code.group == "rate"), None)
        if rate is not None:
            lines += [Text(words_of(rate).title, f"bold {Ink.TEXT}"), *reason_lines(rate, cells), Text("")]
        elif bars and self.snapshot.running_mts is None:
            lines += [Text("No speed was read, so nothing is held against these bars yet.", Ink.TEXT), Text("")]
        elif bars:
            lines += [Text("The speed is what it should be; the lowest of these bars is why it is no higher.", Ink.TEXT), Text("")]
        lines += [Text("WHAT WOULD LIFT EACH", f"bold {Ink.MUTED}"), Text("")]
        for ceiling in ceilings:
            lines += _lift(ceiling, cells)
        if self.snapshot.job.card is None:
            model = self.snapshot.job.facts.machine or "(no name)"
            unknown = f"Nothing is known of the model {model}: with a machine data sheet, its own rates stand here too."
            lines += [Text(""), *(Text(line, Ink.MUTED) for line in wrapped(unknown, cells))]
        self.query_one("#ceilings-text", Static).update(joined(lines))


def _expected_lines(expected: ExpectedRate | None, cells: int) -> list[Text]:
    """Say what rate was to be expected, and what is not known and keeps it open."""
    if expected is None:
        return []
    said = f"To be expected here: {expected_words(expected)}."
    if expected.open:
        said += f" Not known: {'; '.join(expected.open)}."
    return [*(Text(line, Ink.TEXT) for line in wrapped(said, cells)), Text("")]


def _lift(ceiling: Ceiling, cells: int) -> list[Text]:
    lines: list[Text] = []
    for index, part in enumerate(wrapped(_LIFTS[ceiling.kind], cells - 32)):
        line = Text(no_wrap=True)
        head = f"{ceiling_words(ceiling)} {ceiling.rate_mts}" if index == 0 else ""
        line.append(f"{head:<31} ", f"bold {Ink.SHORT}" if ceiling.binding else Ink.TEXT)
        line.append(part, Ink.MUTED)
        lines.append(line)
    return lines
