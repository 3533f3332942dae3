"""The benchmark of a job: measure on arrival and after fitting, type scores, see whether it helped."""

from __future__ import annotations

import asyncio
import threading
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING, ClassVar

from rich.text import Text
from textual import work
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Horizontal
from textual.reactive import reactive

from after_check.casework.judging import benchmarks_of
from after_check.casework.same_machine import counts
from after_check.casework.snapshot import JobSnapshot
from after_check.domain.benchmark import BenchmarkRecord, BenchmarkState, Series
from after_check.domain.identity import MachineIdentity
from after_check.domain.jobs import Moment
from after_check.domain.outside_text import safe_name
from after_check.domain.quantities import peak_bandwidth_gbs
from after_check.tui.charts.benchmark import BenchmarkSnapshot, bandwidth_lines, comparison_lines, head_lines, stair_lines
from after_check.tui.dialogs.ask import AskDialog, Asked
from after_check.tui.dialogs.scores import ScoresDialog
from after_check.tui.job_screen import JobView
from after_check.tui.long_work import LongWork
from after_check.tui.this_machine import OnThisMachine
from after_check.tui.widgets.drawn import Drawn
from after_check.tui.widgets.job_sheet_panes import JobHeader
from after_check.tui.widgets.keys_line import KeysLine
from after_check.tui.worker_messages import BenchmarkMoved

if TYPE_CHECKING:
    from after_check.benchmark.measuring import Benchmark

_TELL_SECONDS = 0.3


class BenchmarkPane(Drawn):
    """A region that draws a part of the benchmarks."""

    snapshot: reactive[BenchmarkSnapshot] = reactive(BenchmarkSnapshot())


class BenchmarkHead(BenchmarkPane):
    """The verdict, or how far it is."""

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw it."""
        return head_lines(self.snapshot, cells)


class BandwidthPane(BenchmarkPane):
    """Flow against the channels' ceilings."""

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw it."""
        return bandwidth_lines(self.snapshot, cells, rows)[:rows]


class StairsPane(BenchmarkPane):
    """Latency by working set."""

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw it."""
        return stair_lines(self.snapshot, cells, rows)[:rows]


class ChangesPane(BenchmarkPane):
    """What changed."""

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw it."""
        return comparison_lines(self.snapshot, cells, rows)[:rows]


class BenchmarkScreen(LongWork, OnThisMachine[None], JobView[None]):
    """Measures and compares."""

    WHILE_IDLE = frozenset({"measure", "scores", "moment", "drawings"})
    INSTEAD = (("t", "type scores that programs on it gave"),)

    CSS_PATH = "benchmark.tcss"
    HELP_TITLE = "The benchmark"
    HELP_LINES = (
        "Measures this computer's memory: bandwidth on one thread and on all, and the wait for a word by working set.",
        "Measure before anything is fitted and again after, under the same conditions; only then does it prove anything.",
    )
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("u", "measure(False)", "measure", tooltip="measure everything (about a minute)"),
        Binding("i", "measure(True)", "in short", tooltip="measure with fewer working sets and runs"),
        Binding("t", "scores", "type scores", tooltip="scores that other programs gave, pasted or typed"),
        Binding("f", "moment", "on arrival / now", tooltip="whether what is measured or typed belongs to the arrival or to now"),
        Binding("p", "drawings", "charts", tooltip="write the charts, as SVG and as PDF"),
        Binding("x", "stop", "stop", tooltip="stop; what was measured is kept"),
        Binding("escape,g", "back", "back", tooltip="back to the job sheet"),
    ]

    def __init__(self, snapshot: JobSnapshot) -> None:
        super().__init__(snapshot)
        self._moment = Moment.FITTED if snapshot.job.now is not None else Moment.ARRIVAL
        self._benchmark: Benchmark | None = None
        self._under_way: BenchmarkRecord | None = None

    def compose(self) -> ComposeResult:
        """Lay out the view."""
        yield JobHeader(id="benchmark-header")
        yield BenchmarkHead(id="benchmark-head")
        yield BandwidthPane(id="benchmark-bandwidth")
        with Horizontal(id="benchmark-lower"):
            yield StairsPane(id="benchmark-stairs")
            yield ChangesPane(id="benchmark-changes")
        yield KeysLine()

    def draw(self) -> None:
        """Give the regions what was measured, and what is being measured."""
        before, now = benchmarks_of(self.job)
        left_out = sum(not counts(self.job, kept.record) for kept in self.job.benchmarks)
        snapshot = BenchmarkSnapshot(before, now, self._under_way, self._one_channel_gbs(), self._channels(), left_out)
        for pane in self.query(BenchmarkPane):
            pane.snapshot = snapshot

    def _one_channel_gbs(self) -> float | None:
        rate_mts = self.snapshot.running_mts
        return peak_bandwidth_gbs(rate_mts, 1) if rate_mts else None

    def _channels(self) -> int | None:
        parts = self.snapshot.judgement.channel_parts
        return max((part.ways for part in parts), default=None)

    @property
    def is_under_way(self) -> bool:
        """Whether it measures."""
        return self._under_way is not None

    def stop_work(self) -> None:
        """Stop measuring; nothing else may run beside it, so it does not go on without its view."""
        if self._benchmark is not None:
            self._benchmark.stop()
            self.notify("stopping; what was measured is kept", timeout=3)

    def leave(self) -> None:
        """Go back to the job sheet."""
        self.dismiss()

    def action_moment(self) -> None:
        """Change what the next benchmark belongs to."""
        self._moment = Moment.ARRIVAL if self._moment is Moment.FITTED else Moment.FITTED
        self.notify(f"what is measured or typed next belongs to: {_words(self._moment)}", timeout=3)

    def action_measure(self, short: bool) -> None:
        """Measure, on the job's machine."""
        self.on_the_jobs_machine(self.job, lambda machine: self._measure(short, machine))

    def instead(self, key: str) -> None:
        """Type scores of another machine."""
        self.action_scores()

    def _measure(self, short: bool, machine: MachineIdentity) -> None:
        from after_check.benchmark.measuring import Benchmark

        # The latest one of this moment that was stopped is taken up again, where it has the same plan.
        kept = [benchmark.record for benchmark in self.job.benchmarks if benchmark.moment is self._moment]
        stopped = kept[-1] if kept and kept[-1].state is BenchmarkState.STOPPED and kept[-1].machine == machine else None
        moment, number = self._moment, self.number
        self._benchmark = Benchmark(
            short=short,
            earlier=stopped,
            machine=machine,
            keep=lambda record: self.shop.jobs.keep_benchmark(number, moment, record),
        )
        self._under_way = self._benchmark.record
        self.show()
        self.measure(self._benchmark)

    @work(exclusive=True, group="benchmark", thread=True)
    def measure(self, benchmark: Benchmark) -> None:
        """Run the benchmark in a thread and tell how far it is."""
        runner = threading.Thread(target=benchmark.run, name="benchmark", daemon=True)
        runner.start()
        while runner.is_alive():
            runner.join(_TELL_SECONDS)
            self.post_message(BenchmarkMoved(benchmark.record))

    def on_benchmark_moved(self, message: BenchmarkMoved) -> None:
        """Show how far it is; keep it when it ended."""
        if message.record.state is BenchmarkState.RUNNING:
            self._under_way = message.record
            self.show()
        elif self._under_way is not None:
            self._under_way = None
            for remark in message.record.remarks:
                self.notify(remark, severity="warning", timeout=8)
            if message.record.series:
                self._keep(message.record)
            else:
                self.notify("stopped before anything was measured", timeout=5)
                self.show()

    def _keep(self, record: BenchmarkRecord, then: Callable[[], None] = lambda: None, not_kept: Callable[[], None] = lambda: None) -> None:
        moment, number = self._moment, self.number
        self.change(lambda: self.shop.jobs.keep_benchmark(number, moment, record), then, not_kept)

    def action_scores(self) -> None:
        """Type scores."""
        self._ask_scores()

    def _ask_scores(self, standing: str = "") -> None:
        place = f"scores {self.job.uid}"
        dialog = ScoresDialog(_words(self._moment), place, standing)

        def kept() -> None:
            self.shop_app.writes.submit(self.shop.drafts.keep, place, "")

        def typed(series: tuple[Series, ...] | None) -> None:
            if series:
                now = datetime.now(UTC).replace(microsecond=0)
                record = BenchmarkRecord(now, BenchmarkState.FINISHED, series=series, share=1.0)
                self._keep(record, kept, lambda: self._ask_scores(dialog.typed))

        self.app.push_screen(dialog, typed)

    def action_drawings(self) -> None:
        """Ask where to, and write the charts."""

        def asked(folder: str | None) -> None:
            if folder:
                self.write_drawings(Path(folder).expanduser())

        where = str(Path.cwd() / f"job-{safe_name(self.number)}-charts")
        self.app.push_screen(AskDialog(Asked("WRITE THE CHARTS", "Into this folder, each as SVG and as PDF:", value=where)), asked)

    @work(exclusive=True, group="drawings")
    async def write_drawings(self, folder: Path) -> None:
        """Write the charts into a folder."""

        def write() -> int:
            from after_check.handback.export import benchmark_drawings, write_drawings

            drawings = benchmark_drawings(*benchmarks_of(self.job), self._one_channel_gbs(), self._channels() or 2)
            return len(write_drawings(drawings, folder, f"Job {self.number}"))

        try:
            count = await asyncio.to_thread(write)
        except OSError as error:
            self.notify(f"{error.strerror or error}: {folder}", severity="error", timeout=10)
            return
        self.notify(f"{count} files written into {folder.name}", timeout=6)


def _words(moment: Moment) -> str:
    return "on arrival" if moment is Moment.ARRIVAL else "now"
