"""Writing the sheet and the drawings from the job sheet."""

from __future__ import annotations

import asyncio
from pathlib import Path
from typing import ClassVar

from rich.text import Text
from textual import on, work
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Vertical
from textual.widgets import Input, Static

from after_check.domain.findings import Severity, Verdict
from after_check.domain.text import safe_name
from after_check.tui.base import ShopDialog
from after_check.tui.job_sheet.snapshot import JobSnapshot


class HandBackDialog(ShopDialog[None]):
    """Says what is still missing for the hand-back, and writes the sheet where it is told."""

    BINDINGS: ClassVar[list[BindingType]] = [Binding("escape", "dismiss", "back")]

    def __init__(self, snapshot: JobSnapshot) -> None:
        super().__init__()
        self._snapshot = snapshot

    def compose(self) -> ComposeResult:
        """Lay out the dialog."""
        with Vertical(classes="dialog"):
            yield Static(self._missing())
            yield Input(value=str(Path.cwd() / f"job-{safe_name(self._snapshot.job.facts.number)}.pdf"), id="sheet-path")
            yield Static(id="sheet-said")

    def _missing(self) -> Text:
        palette = self.palette
        judgement = self._snapshot.judgement
        text = Text()
        text.append("THE SHEET FOR THE CUSTOMER\n\n", f"bold {palette.muted}")
        if judgement.verdict is Verdict.READY:
            text.append("✓ Every promised quantity is kept.\n", palette.kept)
        elif judgement.verdict is Verdict.NOT_READY:
            text.append(f"✗ Not ready: {judgement.count(Severity.FIX)} to fix. The sheet will say so.\n", palette.short)
        else:
            text.append(f"? Can't tell yet: {judgement.why}. The sheet will say so.\n", palette.promised)
        text.append("– No memory test was run, and no speed was measured; the sheet says that too.\n\n", palette.muted)
        text.append("Write the PDF to (the drawings go into a folder beside it):", palette.text)
        return text

    @on(Input.Submitted, "#sheet-path")
    def path_given(self, event: Input.Submitted) -> None:
        """Write to the path that was typed."""
        if event.value.strip():
            self.write_sheet(Path(event.value.strip()).expanduser())

    @work(exclusive=True)
    async def write_sheet(self, path: Path) -> None:
        """Write the sheet and the drawings."""
        said = self.query_one("#sheet-said", Static)
        palette = self.palette
        said.update(Text("\nwriting ...", palette.muted))
        try:
            folder = await asyncio.to_thread(_write, self._snapshot, path)
        except OSError as error:
            said.update(Text(f"\n{error.strerror or error}: {path}\nNothing was written; name another place.", palette.short))
            return
        self.app.notify(f"written: {path.name}, and the drawings in {folder.name}", title="the sheet", timeout=8)
        self.dismiss()


def _write(snapshot: JobSnapshot, path: Path) -> Path:
    # Reportlab takes a third of a second to import, and only whoever prints needs it.
    from after_check.handback.export import export_pdf, export_svg

    export_pdf(snapshot.job, path)
    folder = path.with_name(f"{path.stem}-drawings")
    export_svg(snapshot.job, folder)
    return folder
