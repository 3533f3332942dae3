"""The demand of a job: watch the customer's work, or rehearse a load, and hold its peak against the old total."""

from __future__ import annotations

from dataclasses import replace
from typing import ClassVar

from rich.text import Text
from textual import work
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.reactive import reactive

from after_check.benchmark.demand import DemandUnknownError, DemandWatch
from after_check.casework.same_machine import why_not
from after_check.casework.snapshot import JobSnapshot
from after_check.domain.demand import DemandRecord
from after_check.domain.facts import value_of
from after_check.domain.quantities import GIB, parse_size
from after_check.domain.standing import Quantity
from after_check.files.errors import SourceError
from after_check.sources.linux import identity_here
from after_check.sources.trust import Access, PasswordNeededError, TrustNeededError
from after_check.tui.charts.demand import DemandSnapshot, demand_lines
from after_check.tui.dialogs.ask import AskDialog, Asked
from after_check.tui.dialogs.choose import trust_dialog
from after_check.tui.job_screen import JobView
from after_check.tui.long_work import LongWork
from after_check.tui.this_machine import OnThisMachine
from after_check.tui.widgets.drawn import Drawn
from after_check.tui.widgets.job_sheet_panes import JobHeader
from after_check.tui.widgets.keys_line import KeysLine
from after_check.tui.worker_messages import DemandMoved


class DemandPane(Drawn):
    """Verdict and chart."""

    snapshot: reactive[DemandSnapshot] = reactive(DemandSnapshot())

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw them."""
        return demand_lines(self.snapshot, cells, rows)


class DemandScreen(LongWork, OnThisMachine[None], JobView[None]):
    """Watches memory and says what that proves."""

    WHILE_IDLE = frozenset({"watch", "rehearse", "elsewhere"})
    INSTEAD = (("a", "watch it over SSH while the customer's work runs on it"),)

    CSS_PATH = "demand.tcss"
    HELP_TITLE = "Memory in use"
    HELP_LINES = (
        "What programs on this computer hold over time, against the total before the upgrade (○) and now (●).",
        "More than the old total at any moment proves that the work would not have fit before.",
    )
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("u", "watch", "watch", tooltip="watch while the customer's work runs"),
        Binding("l", "rehearse", "trial load", tooltip="hold a load that grows to a stated size"),
        Binding("a", "elsewhere", "another machine", tooltip="watch a machine over SSH while the customer's work runs on it"),
        Binding("x", "stop", "stop", tooltip="stop; what was seen is kept"),
        Binding("escape,d", "back", "back", tooltip="back to the job sheet"),
    ]

    def __init__(self, snapshot: JobSnapshot) -> None:
        super().__init__(snapshot)
        self._watch: DemandWatch | None = None
        self._record = snapshot.job.demands[-1] if snapshot.job.demands else None

    def compose(self) -> ComposeResult:
        """Lay out the view."""
        yield JobHeader(id="demand-header")
        yield DemandPane(id="demand-pane")
        yield KeysLine()

    def draw(self) -> None:
        """Give the chart what was seen, and what it is held against."""
        capacity = self.snapshot.judgement.track(Quantity.CAPACITY)
        before = capacity.before if capacity is not None else None
        old_bytes = round(before * GIB) if isinstance(before, int | float) else None
        no_proof = why_not(self.job, self._record) if self._record is not None else ""
        self.query_one(DemandPane).snapshot = DemandSnapshot(
            self._record, old_bytes, self._watch is not None, self._graphics_bytes(), no_proof
        )

    def _graphics_bytes(self) -> tuple[int | None, int | None]:
        """Return what graphics holds back on arrival and now."""
        arrival, now = self.job.arrival, self.job.now
        before, after = (value_of(kept.reading.graphics_bytes) if kept is not None else None for kept in (arrival, now))
        return before, after

    @property
    def is_under_way(self) -> bool:
        """Whether it watches."""
        return self._watch is not None

    def stop_work(self) -> None:
        """Stop watching."""
        if self._watch is not None:
            self._watch.stop()
            self.notify("stopping; what was seen is kept", timeout=3)

    def leave(self) -> None:
        """Go back to the job sheet."""
        self.dismiss()

    def action_watch(self) -> None:
        """Watch, on the job's machine."""
        self.on_the_jobs_machine(self.job, lambda machine: self._begin(DemandWatch(machine=machine)))

    def instead(self, key: str) -> None:
        """Watch another machine."""
        self.action_elsewhere()

    def action_elsewhere(self) -> None:
        """Ask for an address and watch the machine behind it."""

        def asked(text: str | None) -> None:
            if text:
                self.follow_elsewhere(text if text.startswith("ssh://") else f"ssh://{text}", Access())

        question = "Its address, as ssh://USER@HOST:PORT; its memory is looked at once a second, and nothing is changed."
        self.app.push_screen(AskDialog(Asked("WATCH ANOTHER MACHINE", question, placeholder="ssh://user@host")), asked)

    @work(exclusive=True, group="elsewhere", thread=True)
    def follow_elsewhere(self, text: str, access: Access) -> None:
        """Connect in a thread and watch; what the machine asks for is asked of the person."""
        from after_check.sources.ssh import parse_ssh_address
        from after_check.sources.ssh_files import SshFiles

        try:
            with SshFiles(parse_ssh_address(text), access) as files:
                # The address was typed for this job; what the machine tells of itself speaks against it, or not.
                watch = DemandWatch(files=files, tell=self._seen, machine=replace(identity_here(files), is_the_jobs=True))
                self.app.call_from_thread(self._watching, watch)
                self._ran(watch)
        except TrustNeededError as needed:
            self.app.call_from_thread(self._ask_trust, text, access, needed)
        except PasswordNeededError as needed:
            self.app.call_from_thread(self._ask_password, text, access, str(needed))
        except SourceError as problem:
            self.app.call_from_thread(self.notify, str(problem), severity="error", timeout=10)

    def _watching(self, watch: DemandWatch) -> None:
        self._watch, self._record = watch, watch.record
        self.show()

    def _ask_trust(self, text: str, access: Access, needed: TrustNeededError) -> None:
        def decided(accepted: bool | None) -> None:
            if accepted:
                self.follow_elsewhere(text, replace(access, accepted_fingerprint=needed.fingerprint))

        self.app.push_screen(trust_dialog(str(needed)), decided)

    def _ask_password(self, text: str, access: Access, reason: str) -> None:
        def given(password: str | None) -> None:
            if password:
                self.follow_elsewhere(text, replace(access, password=password))

        self.app.push_screen(AskDialog(Asked("PASSWORD", reason, password=True)), given)

    def action_rehearse(self) -> None:
        """Ask for a size and rehearse it."""

        def amount(text: str) -> int:
            size_bytes = parse_size(text)
            if not size_bytes:
                raise ValueError(f"{text!r} is no amount of memory: write 20G")
            return size_bytes

        def asked(text: str | None) -> None:
            if text:
                size_bytes = amount(text)
                self.on_the_jobs_machine(self.job, lambda machine: self._begin(DemandWatch(rehearse_bytes=size_bytes, machine=machine)))

        question = "It grows until it has this size, swapping begins, or little is left; then it goes away."
        self.app.push_screen(AskDialog(Asked("HOW LARGE A LOAD?", question, placeholder="20G", check=amount)), asked)

    def _begin(self, watch: DemandWatch) -> None:
        self._watch = watch
        self._record = None
        self.show()
        self.follow(watch)

    @work(exclusive=True, group="watch", thread=True)
    def follow(self, watch: DemandWatch) -> None:
        """Run the watch in a thread and tell what it sees."""
        watch.tell = self._seen
        self._ran(watch)

    def _ran(self, watch: DemandWatch) -> None:
        """Run a watch to its end; called in a thread."""
        try:
            self.post_message(DemandMoved(watch.run(), ended=True))
        except DemandUnknownError as problem:
            self.post_message(DemandMoved(watch.record, ended=True, problem=str(problem)))

    def _seen(self, record: DemandRecord) -> None:
        """Post what the watch sees; called from its thread."""
        self.post_message(DemandMoved(record, ended=False))

    def on_demand_moved(self, message: DemandMoved) -> None:
        """Show it; keep it when it ended."""
        if self._watch is None:
            return
        self._record = message.record
        if message.problem:
            self.notify(message.problem, severity="error", timeout=10)
        if message.ended:
            self._watch = None
            if message.record.samples:
                self._keep(message.record)
        self.show()

    def _keep(self, record: DemandRecord) -> None:
        number = self.number
        self.change(lambda: self.shop.jobs.keep_demand(number, record))
