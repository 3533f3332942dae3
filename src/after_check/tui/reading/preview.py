"""What the verdict would be if the typed line were the reading."""

from __future__ import annotations

from rich.text import Text

from after_check.domain.findings import Judgement, Verdict
from after_check.domain.jobs import Job
from after_check.domain.readings import Reading
from after_check.judgement.judge import judge
from after_check.shop.summary import promise_of
from after_check.tui.drawing.text import wrapped
from after_check.tui.drawing.tracks import track_line
from after_check.tui.drawn import Drawn
from after_check.tui.palette import Palette

_WORDS = {Verdict.READY: "✓ would be ready", Verdict.NOT_READY: "✗ would not be ready", Verdict.CANT_TELL: "? could not be told"}


class VerdictPreview(Drawn):
    """The tracks and the worst finding for what is typed so far."""

    judgement: Judgement | None = None

    def show(self, job: Job, reading: Reading | None) -> None:
        """Judge what is typed, or show nothing."""
        before = job.arrival.reading if job.arrival else None
        self.judgement = None if reading is None else judge(reading, before, promise_of(job), job.card)
        self.refresh()

    def lines(self, cells: int, rows: int, palette: Palette) -> list[Text]:
        """Draw the verdict, the tracks and the first finding."""
        if self.judgement is None:
            return [Text("AGAINST THE PROMISE", f"bold {palette.muted}"), Text(""), Text("as soon as something is typed", palette.muted)]
        verdict = self.judgement.verdict
        colour = {Verdict.READY: palette.kept, Verdict.NOT_READY: palette.short, Verdict.CANT_TELL: palette.promised}[verdict]
        title = Text("AGAINST THE PROMISE  ", f"bold {palette.muted}")
        title.append(_WORDS[verdict], f"bold {colour}")
        lines = [title, Text("")]
        for track in self.judgement.tracks:
            lines += [track_line(track, cells, palette), Text("")]
        for finding in self.judgement.findings[:2]:
            lines += [Text(line, palette.text) for line in wrapped(finding.title, cells)]
            lines += [Text(line, palette.muted) for line in wrapped(finding.next, cells)] + [Text("")]
        return lines[:rows]
