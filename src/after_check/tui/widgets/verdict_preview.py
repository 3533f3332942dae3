"""What the verdict would be if the typed line were the reading."""

from __future__ import annotations

from datetime import UTC, datetime

from rich.text import Text

from after_check.casework.judging import judge_job, with_reading
from after_check.casework.outcome import outcome_of
from after_check.domain.findings import Judgement
from after_check.domain.handback import HandBack
from after_check.domain.jobs import Job
from after_check.domain.readings import Reading
from after_check.domain.standing import JobOutcome
from after_check.texts import say, words_of
from after_check.tui.charts.cells import wrapped
from after_check.tui.charts.tracks import track_line
from after_check.tui.theme import Ink, outcome_colour
from after_check.tui.widgets.drawn import Drawn

_ROOMY_ROWS = 6
"""With fewer rows only the verdict and the worst finding are shown."""
_WORDS = {
    JobOutcome.READY: "✓ would be ready",
    JobOutcome.NOT_READY: "✗ would not be ready",
    JobOutcome.CANT_TELL: "? could not be told",
    JobOutcome.NOT_TESTED: "? would be as promised, not tested",
    JobOutcome.PARTLY_TESTED: "? would be as promised, not fully tested",
}


class VerdictPreview(Drawn):
    """The tracks and the worst finding for what is typed so far."""

    judgement: Judgement | None = None

    def show(self, job: Job, reading: Reading | None) -> None:
        """Judge what is typed, or show nothing."""
        self.judgement = None if reading is None else judge_job(with_reading(job, reading, datetime.now(UTC)), propose=False)
        self.refresh()

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw the verdict, the tracks and the first finding."""
        if self.judgement is None:
            return [Text("AGAINST THE PROMISE", f"bold {Ink.MUTED}"), Text(""), Text("as soon as something is typed", Ink.MUTED)]
        outcome = outcome_of(self.judgement, HandBack())
        title = Text("AGAINST THE PROMISE  ", f"bold {Ink.MUTED}")
        title.append(_WORDS[outcome], f"bold {outcome_colour(outcome)}")
        if rows < _ROOMY_ROWS:
            root = next(iter(self.judgement.roots), None)
            return [title, Text(words_of(root).title if root is not None else say(self.judgement.why), Ink.TEXT)][:rows]
        lines = [title, Text("")]
        for track in self.judgement.tracks:
            lines += [track_line(track, cells), Text("")]
        for finding in self.judgement.roots[:2]:
            lines += [Text(line, Ink.TEXT) for line in wrapped(words_of(finding).title, cells)]
            lines += [Text(line, Ink.MUTED) for line in wrapped(words_of(finding).next, cells)] + [Text("")]
        return lines[:rows]
