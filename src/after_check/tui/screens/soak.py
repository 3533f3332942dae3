"""The soak of a job: choose a plan, watch it, pause, stop, take it up again."""

from __future__ import annotations

import asyncio
from pathlib import Path
from typing import ClassVar

from textual import work
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Horizontal, Vertical

from after_check.casework.adding import last_reading, taken_with_last
from after_check.casework.same_machine import why_not
from after_check.casework.snapshot import JobSnapshot
from after_check.domain.case_files import ENOUGH_PERCENT
from after_check.domain.identity import Agreement, MachineIdentity, agreement
from after_check.domain.jobs import Job, KeptSoak, Moment
from after_check.domain.quantities import MIB, size_text
from after_check.domain.soak import SoakRecord, SoakState
from after_check.domain.standing import Quantity
from after_check.files.tree import Tree
from after_check.local.settings import load_settings
from after_check.remote.remote_run import Beginning
from after_check.soak.locating import reading_for_slots
from after_check.soak.plan_asked import minutes_asked, plan_again, plan_asked, there_asked
from after_check.soak.plans import PLANS, Plan
from after_check.soak.soak_run import MachineUnderTest
from after_check.sources.open_source import take_result
from after_check.sources.trust import Access
from after_check.tui.charts.soak import SoakSnapshot
from after_check.tui.dialogs.ask import AskDialog, Asked
from after_check.tui.job_screen import JobView
from after_check.tui.long_work import LongWork
from after_check.tui.remote_screen import OnThere
from after_check.tui.this_machine import OnThisMachine
from after_check.tui.widgets.job_sheet_panes import JobHeader
from after_check.tui.widgets.keys_line import KeysLine
from after_check.tui.widgets.plan_choice import PlanChoice
from after_check.tui.widgets.soak_panes import ErrorsPane, FieldPane, RatePane, SoakHead, SoakPane, StepsPane
from after_check.tui.work.soaks import Keeper, RunningSoak, SoakRunner
from after_check.tui.worker_messages import SoakMoved

_SHOWN_PLANS = tuple(PLANS.values())

_USUAL_SHARE_OF_PEAK = 1 / 3
"""What the sweeps of a soak reach of the memory's peak, about, before one has run."""


class SoakScreen(LongWork, OnThere, OnThisMachine[None], JobView[None]):
    """Starts and shows the soaks of one job, and takes the result of a memory test that was run elsewhere."""

    WHILE_RUNNING = frozenset({"pause", "stop"})
    WHILE_IDLE = frozenset({"take_up", "new", "plan", "minutes", "program", "elsewhere", "result"})
    STOPS_FIRST = False
    INSTEAD = (
        ("r", "type the result of a memory test that ran on it"),
        ("a", "an appliance tests itself, or this test runs on it over SSH"),
    )

    CSS_PATH = "soak.tcss"
    HELP_TITLE = "The memory test (soak)"
    HELP_LINES = (
        "A memory test of this computer, of a machine over SSH, or of an appliance that tests itself.",
        "It counts for the job only if that is the job's machine. For another one, r takes the result of a test that ran there.",
        "Leaving this view does not stop it: the bench shows how far it is. Killed, it can be taken up again.",
    )
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("enter", "next", "next step", show=False, tooltip="what the last line names"),
        Binding("1", "plan(0)", "short", tooltip="a memory test while the customer waits"),
        Binding("2", "plan(1)", "full", tooltip="every program that adds something"),
        Binding("3", "plan(2)", "overnight", tooltip="the full plan until it is stopped"),
        Binding("m", "minutes", "minutes", tooltip="say how long you have: what finds most in that time"),
        Binding("r", "result", "type a result", tooltip="the result of a memory test that ran on the customer's machine"),
        Binding("p", "program", "program", tooltip="a march program of your own"),
        Binding("a", "elsewhere", "elsewhere", tooltip="on an appliance, or on a machine over SSH"),
        Binding("t", "take_up", "take up", tooltip="take the interrupted memory test up again"),
        Binding("space", "pause", "pause", tooltip="pause, and go on"),
        Binding("x", "stop", "stop", tooltip="stop the memory test; what it found is kept"),
        Binding("n", "new", "new test", tooltip="choose another memory test"),
        Binding("escape,s", "back", "back", tooltip="back to the job sheet; a running memory test goes on"),
    ]

    def __init__(self, snapshot: JobSnapshot) -> None:
        super().__init__(snapshot)
        self._choosing = not snapshot.job.soaks
        self._result_words = ""
        self._not_this_one = False

    @property
    def _kept(self) -> KeptSoak | None:
        return self.job.soak

    @property
    def _runner(self) -> SoakRunner | None:
        """The running soak, if it is this job's."""
        runner = self.shop_app.soak_runner
        return runner if runner is not None and runner.is_running and runner.job == self.number else None

    def compose(self) -> ComposeResult:
        """Lay out choice and view; one of them is shown."""
        yield JobHeader(id="soak-header")
        yield PlanChoice(id="soak-choice")
        with Vertical(id="soak-view"):
            yield SoakHead(id="soak-head")
            with Horizontal(id="soak-upper"):
                yield FieldPane(id="soak-field")
                yield StepsPane(id="soak-steps")
            with Horizontal(id="soak-lower"):
                yield RatePane(id="soak-rate")
                yield ErrorsPane(id="soak-errors")
        yield KeysLine()

    def on_mount(self) -> None:
        """Show what runs, what there was, or what can be started."""
        super().on_mount()
        self.available_memory()
        self.look_at_this_machine()

    @work(exclusive=True, group="look")
    async def look_at_this_machine(self) -> None:
        """Say before anything is chosen where this is not the job's machine."""
        agreed, why = await asyncio.to_thread(self.find_agreement, self.job)
        choice = self.query_one(PlanChoice)
        self._not_this_one = agreed is Agreement.DIFFERENT
        choice.not_this_one = f"This computer is not the machine of this job: {why}." if self._not_this_one else ""
        choice.refresh()
        self.refresh_bindings()

    @work(exclusive=True, group="memory")
    async def available_memory(self) -> None:
        """Say how much could be covered."""
        from after_check.host.held_memory import NotEnoughMemoryError, available_memory, usual_reserve_bytes

        choice = self.query_one(PlanChoice)
        try:
            memory = await asyncio.to_thread(available_memory, Tree(Path("/")))
        except NotEnoughMemoryError as problem:
            choice.memory_words = str(problem)
        else:
            usable = max(0, memory.available_bytes - usual_reserve_bytes(memory.available_bytes))
            whole = f" of {size_text(memory.installed_bytes)}" if memory.installed_bytes else ""
            choice.memory_words = f"{size_text(usable)}{whole} can be tested on this computer now."
            choice.usable_bytes = min(usable, load_settings().soak_memory_bytes or usable)
        choice.refresh()

    def _record(self) -> SoakRecord | None:
        if self._runner is not None:
            return self._runner.soak.record
        return self._kept.record if self._kept is not None else None

    def draw(self) -> None:
        """Show the soak that runs or ran, or the choice of plans."""
        record = None if self._choosing and self._runner is None else self._record()
        choice, shown = self.query_one(PlanChoice), self.query_one("#soak-view")
        choice.display, shown.display = record is None, record is not None
        resumable = self._resumable()
        choice.resumable = f"the {resumable.plan} memory test again, interrupted at {resumable.share:.0%}" if resumable is not None else ""
        peak = self.snapshot.judgement.track(Quantity.PEAK)
        limit = float(peak.now) if peak is not None and isinstance(peak.now, int | float) else None
        last = self._kept.record.rate_bytes_per_s if self._kept is not None else 0.0
        choice.rate_bytes_per_s = last or (limit or 0.0) * 1e9 * _USUAL_SHARE_OF_PEAK
        how = "at the rate of the last one" if last else "at a third of what this memory carries"
        choice.rate_words = f"Times {how}, {choice.rate_bytes_per_s / 1e9:.1f} GB/s." if choice.rate_bytes_per_s else ""
        choice.refresh()
        if record is not None:
            snapshot = SoakSnapshot(
                record, limit, self._runner is not None, why_not(self.job, record), self.job.needs.soak_percent or ENOUGH_PERCENT
            )
            for pane in self.query(SoakPane):
                pane.snapshot = snapshot

    def soak_moved(self, message: SoakMoved) -> None:
        """Follow a soak; when it ends, fetch the job with what came of it."""
        if message.job != self.number:
            return
        if message.record.state.is_over:
            self.load()
        else:
            self.show()

    def _resumable(self) -> SoakRecord | None:
        record = self._kept.record if self._kept is not None else None
        return record if record is not None and record.state is SoakState.INTERRUPTED and plan_again(record) else None

    def check_action(self, action: str, parameters: tuple[object, ...]) -> bool | None:
        """Offer what makes sense now."""
        if action == "take_up" and self._resumable() is None:
            return False
        if action in ("new", "plan", "minutes", "program", "elsewhere", "result") and self._choosing is (action == "new"):
            return False
        return super().check_action(action, parameters)

    @property
    def is_under_way(self) -> bool:
        """Whether a soak of this job runs."""
        return self._runner is not None

    def stop_work(self) -> None:
        """Stop it."""
        if self._runner is not None:
            self._runner.soak.stop()
            self.notify("stopping; what it found is kept", timeout=3)

    def leave(self) -> None:
        """Go back to the job sheet."""
        self.dismiss()

    @property
    def next_step(self) -> str:
        """What enter does, in a few words."""
        if self._runner is not None:
            return "back, the test goes on"
        if not self._choosing or self.snapshot.soak is not None:
            return "back to the job sheet"
        return "type a result" if self._not_this_one else "test it in short"

    def action_next(self) -> None:
        """Test, type a result where this is another computer, or go back where one was run."""
        if self._runner is not None or not self._choosing or self.snapshot.soak is not None:
            self.dismiss()
        elif self._not_this_one:
            self.action_result()
        else:
            self.action_plan(0)

    def action_new(self) -> None:
        """Show what can be started."""
        self._choosing = True
        self.show()

    def action_plan(self, number: int) -> None:
        """Start a plan."""
        self.on_the_jobs_machine(self.job, lambda machine: self._start(_SHOWN_PLANS[number], machine))

    def instead(self, key: str) -> None:
        """Do for another machine what can be done for it."""
        (self.action_result if key == "r" else self.action_elsewhere)()

    def action_result(self) -> None:
        """Ask for the result of a memory test that ran on the customer's machine."""

        question = "How it ended, how long it ran, how many whole passes, how much of the memory, and which test it was."
        remark = "clean 2 h 4 passes by stick     12 errors after 20 min     overnight, no errors"
        dialog = AskDialog(Asked("A MEMORY TEST THAT RAN ON IT", question, remark, value=self._result_words, check=take_result))
        self.app.push_screen(dialog, self._take_result)

    def _take_result(self, text: str | None) -> None:
        """Keep a typed result with the last reading; where it cannot be kept, the line is there again."""
        if not text:
            return
        self._result_words = text
        typed = take_result(text)
        job, moment = self.job, Moment.FITTED
        last = last_reading(job, moment)
        if job.now is None:
            self.notify(
                "read the machine after fitting first: a result belongs to the modules that were read", severity="warning", timeout=8
            )
            return

        def keep() -> Job:
            kept = self.shop.jobs.evidence(last.id) if last is not None else ()
            return self.shop.jobs.add_reading(job.facts.number, moment, taken_with_last(job, moment, typed, kept))

        def kept() -> None:
            self._result_words = ""
            self.notify("the result is kept with the last reading", timeout=5)

        self.change(keep, kept, self.action_result)

    def action_program(self) -> None:
        """Ask for a program and start it."""

        def asked(text: str | None) -> None:
            if not text:
                return
            plan = plan_asked("custom", (text,))
            self.on_the_jobs_machine(self.job, lambda machine: self._start(plan, machine))

        dialog = AskDialog(
            Asked(
                "WHICH PROGRAM?",
                "A name (March SS), or one in the notation of the literature; ^, v and any do for the arrows.",
                placeholder="{any(w0); ^(r0,w1); v(r1,w0)}",
                check=lambda text: plan_asked("custom", (text,)),
            )
        )
        self.app.push_screen(dialog, asked)

    def action_minutes(self) -> None:
        """Ask for a time, and start what finds most in it."""

        def asked(text: str | None) -> None:
            if text:
                plan = minutes_asked(text)
                self.on_the_jobs_machine(self.job, lambda machine: self._start(plan, machine))

        dialog = AskDialog(
            Asked(
                "HOW MANY MINUTES HAVE YOU?",
                "What finds most in a second comes first, and nothing is begun that would not be done in time.",
                placeholder="8",
                check=minutes_asked,
            )
        )
        self.app.push_screen(dialog, asked)

    def action_elsewhere(self) -> None:
        """Ask for an address: of an appliance, which starts its own test, or of a machine with a login, which gets this one."""

        def asked(text: str | None) -> None:
            address, options, plan = there_asked(text or "")
            if address.startswith("ssh://"):
                self._test_there(address, options, plan)
            elif address:
                from after_check.soak.appliance import ApplianceSoak, NoServiceError

                try:
                    self._begin(ApplianceSoak(address, keep=Keeper(self.shop, self.number)))
                except NoServiceError as problem:
                    self.notify(str(problem), severity="error", timeout=10)

        dialog = AskDialog(
            Asked(
                "TEST WHICH MACHINE?",
                "An appliance, by the address of its service: it restarts into its own test and is away meanwhile. "
                "Or a machine with Linux, by its login: After Check runs on it, and is followed here; behind the address, which test: "
                "short, full, overnight or minutes.",
                "http://192.0.2.7:8680     ssh://root@192.0.2.9 overnight",
                check=there_asked,
            )
        )
        self.app.push_screen(dialog, asked)

    def _test_there(self, address: str, options: tuple[str, ...], plan: str) -> None:
        """Test the memory of a machine over SSH, once it is known how to get into it."""

        def reached(access: Access, may_bring: bool) -> None:
            from after_check.remote.remote_soak import RemoteSoak

            wanted = self.shop_app.soak_wishes
            memory = ("--memory", f"{wanted.memory_bytes // MIB}M") if wanted is not None and wanted.memory_bytes else ()
            keep = Keeper(self.shop, self.number)
            self._begin(RemoteSoak(address, (*options, *memory), keep, Beginning(access, may_bring), plan))

        self.reach(address, reached)

    def action_take_up(self) -> None:
        """Go on with the interrupted soak."""
        record, kept = self._resumable(), self._kept
        plan = plan_again(record) if record is not None else None
        if record is None or kept is None or plan is None:
            return
        begun_on = record.machine
        if begun_on is None:  # From before machines were told apart.
            self.on_the_jobs_machine(self.job, lambda machine: self._start(plan, machine, record, kept.id))
            return
        agreed, why = agreement(self.machine_here or self.shop_app.identity(), (begun_on,))
        if agreed is Agreement.DIFFERENT:
            self.notify(f"this is not the computer that it was begun on: {why}", severity="warning", timeout=8)
        else:
            self._start(plan, begun_on, record, kept.id)

    def _start(self, plan: Plan, machine: MachineIdentity | None, earlier: SoakRecord | None = None, soak_id: int | None = None) -> None:
        from after_check.soak.soak_run import Soak, Wishes

        now = self.job.now
        keeper = Keeper(self.shop, self.number, soak_id)
        wishes = self.shop_app.soak_wishes or Wishes(memory_bytes=load_settings().soak_memory_bytes)
        reading = now.reading if now is not None else None
        self._begin(Soak(plan, wishes, earlier, keeper, MachineUnderTest(None, reading, reading_for_slots, machine)))

    def _begin(self, soak: RunningSoak) -> None:
        running = self.shop_app.soak_runner
        if running is not None and running.is_running:
            self.notify(f"a memory test of job {running.job} runs already: one at a time", severity="warning", timeout=6)
            return
        self._choosing = False
        self.shop_app.start_soak(self.number, soak)
        self.show()

    def action_pause(self) -> None:
        """Pause or go on."""
        runner = self._runner
        if runner is None:
            return
        if runner.soak.record.state is SoakState.PAUSED:
            runner.soak.go_on()
        else:
            runner.soak.pause()
