"""The view for hands that hold a module: one move, two answers; it writes the try, and proposes the next one."""

from __future__ import annotations

import asyncio
import time
from dataclasses import replace
from typing import ClassVar

from rich.text import Text
from textual import work
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.reactive import reactive

from after_check.casework.hands import StartsSeen, plan_of, put_back, written
from after_check.casework.job_tries import log_of
from after_check.casework.next_step import ToDo, next_step_of
from after_check.casework.snapshot import JobSnapshot
from after_check.domain.jobs import Job
from after_check.domain.tries import SoakSaid, Try, TryLog
from after_check.judgement.rules.blame import act_message
from after_check.texts import say
from after_check.tries.blame import blame
from after_check.tries.next_try import next_try
from after_check.tries.watch import start_times
from after_check.tui.charts.hands import HandsSnapshot, hands_lines
from after_check.tui.job_screen import JobView
from after_check.tui.views import View
from after_check.tui.widgets.drawn import Drawn
from after_check.tui.widgets.job_sheet_panes import JobHeader
from after_check.tui.widgets.keys_line import KeysLine

_TICK_SECONDS = 0.5


class HandsFace(Drawn):
    """The move or the question, in large letters."""

    hands: reactive[HandsSnapshot] = reactive(HandsSnapshot(waiting=True))

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw it."""
        return hands_lines(self.hands, cells, rows)


class HandsScreen(JobView[Job | View]):
    """One move at a time, then the start; closes with the job, or with the view that comes next."""

    CSS_PATH = "hands.tcss"
    HELP_TITLE = "With the module in your hand"
    HELP_LINES = (
        "One move at a time, in large letters; enter when it is done. Then the start: space as you switch it on, enter or n for what came.",
        "The answer is written down as a try, and the next arrangement follows. Nothing is left to try: what stays where, and what to do.",
    )
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("enter", "yes", "done / yes", tooltip="the move is done; it starts; the test found no errors"),
        Binding("n", "no", "it does not", tooltip="it does not start; the test found errors"),
        Binding("space", "power", "power on", tooltip="the clock of this start begins"),
        Binding("left", "before", "move before", tooltip="the move before"),
        Binding("escape", "back", "back", tooltip="back to where you were"),
        Binding("f6", "back", show=False),
    ]

    def __init__(self, snapshot: JobSnapshot) -> None:
        super().__init__(snapshot)
        self._hands = HandsSnapshot(waiting=True)
        self._began: float | None = None
        self._worked_out: JobSnapshot | None = None

    def compose(self) -> ComposeResult:
        """Lay out the view."""
        yield JobHeader(id="hands-header")
        yield HandsFace(id="hands-face")
        yield KeysLine()

    def on_mount(self) -> None:
        """Work out the first move, and let the clock be seen."""
        self.set_interval(_TICK_SECONDS, self._tick)

    def draw(self) -> None:
        """Work out what comes next for the job as it is now; another theme is no other job, and the hands are where they were."""
        if self.snapshot is self._worked_out:
            return
        self._worked_out = self.snapshot
        self._give(HandsSnapshot(waiting=True))
        self.work_out(self.snapshot)

    @work(exclusive=True, group="hands")
    async def work_out(self, snapshot: JobSnapshot) -> None:
        """Weigh the tries off the screen's thread, and begin with the first move of the next one."""
        self._began = None
        self._give(await asyncio.to_thread(_next_of, snapshot))
        self.refresh_bindings()

    def _give(self, hands: HandsSnapshot) -> None:
        self._hands = hands
        self.query_one(HandsFace).hands = hands
        self.refresh_bindings()

    def _tick(self) -> None:
        if self._began is not None:
            self._give(replace(self._hands, seconds=time.monotonic() - self._began))

    @property
    def next_step(self) -> str:
        """What enter says, in a few words."""
        hands = self._hands
        if hands.plan is None:
            return "" if hands.waiting else "to the tries"
        return "done" if hands.move is not None else "no errors" if hands.testing else "it starts"

    def check_action(self, action: str, parameters: tuple[object, ...]) -> bool | None:
        """Offer what makes sense now."""
        hands = self._hands
        asks = hands.plan is not None and hands.move is None and not hands.waiting
        if action == "no":
            return asks
        if action == "power":
            return asks and not hands.testing
        if action == "before":
            return hands.plan is not None and 0 < hands.at <= len(hands.plan.moves) and not hands.counted.starts
        if action == "hands":
            return False  # It is here.
        return not hands.waiting if action == "yes" else True

    def action_yes(self) -> None:
        """The move is done; it starts; no errors."""
        hands = self._hands
        if hands.plan is None:
            self.dismiss(View.TRIES)
        elif hands.move is not None:
            self._give(replace(hands, at=hands.at + 1))
        else:
            self._answered(True)

    def action_no(self) -> None:
        """It does not start; errors."""
        self._answered(False)

    def action_before(self) -> None:
        """Back to the move before."""
        self._began = None
        self._give(replace(self._hands, at=self._hands.at - 1, seconds=None))

    def action_power(self) -> None:
        """Start the clock."""
        self._began = time.monotonic()
        self._tick()

    def _answered(self, good: bool) -> None:
        hands, plan = self._hands, self._hands.plan
        if plan is None:
            return
        if hands.testing:
            self._keep(written(plan, hands.counted, None, SoakSaid.CLEAN if good else SoakSaid.ERRORS))
            return
        seconds, self._began = (time.monotonic() - self._began if self._began is not None else None), None
        counted = hands.counted.then(good)
        if good and counted.starts < plan.starts:
            self._give(replace(hands, counted=counted, seconds=None))
        elif good and plan.soak_minutes:
            self._give(replace(hands, counted=counted, seconds=None, testing=True))
        elif good and plan.is_fitting:
            self.dismiss(View.READ)  # Nothing has to be looked for: what the machine shows is read.
        else:
            self._keep(written(plan, counted, seconds, None))

    def _keep(self, tried: Try) -> None:
        """Write the try down; what comes next is worked out of the job with it."""
        hands = self._hands
        kept = self.job.tries
        log = kept.log if kept is not None else hands.log
        added: TryLog = replace(log, tries=(*log.tries, tried))
        self._give(replace(hands, waiting=True))
        self.change(
            lambda: self.shop.jobs.keep_tries(self.number, added, kept.version if kept is not None else 0),
            not_kept=lambda: self._give(replace(hands, waiting=False)),
        )

    def action_back(self) -> None:
        """Back to where this was opened, with the job as it is now."""
        self.dismiss(self.job)


def _next_of(snapshot: JobSnapshot) -> HandsSnapshot:
    """Return what hands do next with a job. Called off the screen's thread."""
    job, log, step = snapshot.job, log_of(snapshot.job), next_step_of(snapshot)
    if job.now is not None and not log.tries and step.doing is not ToDo.TRY:
        return HandsSnapshot(log, says=f"No module has to be moved. What is next: {step.words}.")
    said = blame(log, job.card) if log.tries else None
    plan = plan_of(job, log, next_try(log, job.card) if log.tries else None)
    if plan is not None:
        sizes = sum(log.by_letter[letter].size_bytes or 0 for _, letter in plan.begun.arrangement.fitted if letter in log.by_letter)
        generations = [one.generation.value for fitted in log.modules if (one := fitted.module) is not None and one.generation is not None]
        return HandsSnapshot(log, plan, times=start_times(job.card, generations[0] if generations else None, sizes), counted=StartsSeen())
    if said is not None and said.settled and said.first is not None:
        return HandsSnapshot(log, says=f"{said.says.split('. ')[0].rstrip('.')}.", act=say(act_message(said)), stays=put_back(log, said))
    nothing = "Nothing was promised for known slots: type the promise with its slots, or write a try down with t, n."
    return HandsSnapshot(log, says=said.says if said is not None else nothing)
