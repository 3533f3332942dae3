"""A soak while it runs: threads that work through a plan's steps, and a frozen record of it at any moment.

The engine runs in the thread that calls `run`, which is never a screen's own. What it knows is read from `record`;
it is handed to `keep` every few seconds, so that a killed program finds its soak again.
"""

from __future__ import annotations

import threading
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor, wait
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from pathlib import Path

from after_check.domain.identity import MachineIdentity
from after_check.domain.quantities import size_text
from after_check.domain.ranges import Ranges, both
from after_check.domain.readings import Reading
from after_check.domain.soak import Covered, SoakRecord, SoakState, Surroundings, WrongWord
from after_check.files.tree import Files, Tree
from after_check.host.held_memory import Held, NotEnoughMemoryError, WantedMemory, available_memory, hold
from after_check.host.instructions import CAN_FLUSH
from after_check.host.nodes import memory_nodes, shared_out
from after_check.host.pages import PageMap
from after_check.host.physical import ranges_of
from after_check.host.processes import this_process
from after_check.host.processors import cache_bytes, core_numbers, stay_on, usable_cores
from after_check.host.sensors import Watch
from after_check.soak.first_look import FirstLook
from after_check.soak.plan_asked import Chooser
from after_check.soak.plans import Plan, Step, step_of_pass, step_seconds
from after_check.soak.prepare import SMALL_BYTES, Compiling
from after_check.soak.progress import SoakClock, blocks_of, lane_counts, measured_rates, seconds_left
from after_check.soak.shares import Shares
from after_check.soak.symptoms import pointed
from after_check.soak.work import Signals, SoakStoppedError, Tally, Worker

LOOK_SECONDS = 0.25
KEEP_SECONDS = 3.0
SURROUNDINGS_SECONDS = 5.0
MOST_KEPT = 2000
_MOST_SURROUNDINGS = 720
_USUAL_RATES = 6e9, 2.5e9
"""Bytes a second that are taken where nothing was measured yet."""
_OVERRUN = (2.0, 1.05)
"""How long a plan for a given time may take, in that time: with its first step, without which nothing is tested, and with a later one."""

_NO_MEMORY_LEFT = "the system had no memory left for the test's own books"
_NOT_WRITTEN = "the record could not be written where it belongs"


@dataclass(frozen=True, slots=True)
class Wishes:
    """What a soak is asked for; None is the usual. `seconds` ends it after that time, between or within steps.

    `only` are physical ranges, where others were tested before.
    """

    memory_bytes: int | None = None
    reserve_bytes: int | None = None
    threads: int | None = None
    seconds: float | None = None
    only: Ranges = ()


@dataclass(frozen=True, slots=True)
class MachineUnderTest:
    """The machine under test: its files, what is known of it, and what tells it from others.

    `find_reading` is asked, in the soak's own thread, for the reading that tells where addresses and slots are.
    """

    files: Files | None = None
    reading: Reading | None = None
    find_reading: Callable[[Reading | None], Reading | None] = lambda kept: kept
    identity: MachineIdentity | None = None


class Soak:
    """One soak. `earlier` is the record of one that was interrupted: it goes on at the step that was not finished."""

    def __init__(
        self,
        plan: Plan,
        wishes: Wishes = Wishes(),
        earlier: SoakRecord | None = None,
        keep: Callable[[SoakRecord], None] = lambda record: None,
        machine: MachineUnderTest = MachineUnderTest(),
    ) -> None:
        self.plan = plan
        self._wishes = wishes
        self._reading = machine.reading
        self._find_reading = machine.find_reading
        self._keep = keep
        self._files: Files = machine.files or Tree(Path("/"))
        self.signals = Signals()
        self._earlier = earlier
        begun_at = earlier.begun_at if earlier else datetime.now(UTC).replace(microsecond=0)
        self._record = SoakRecord(plan.name, SoakState.RUNNING, begun_at, steps=tuple(step.name for step in plan.steps))
        if earlier is not None:
            self._record = replace(earlier, state=SoakState.RUNNING, seconds_left=None, blocks=())
        self._record = replace(self._record, process=this_process(), machine=machine.identity or self._record.machine)
        # What is under test and who tests it, for whoever watches: the pictures of the coverage, and stand-ins that spoil a word.
        self.held: Held | None = None
        self.workers: list[Worker] = []
        self._surroundings: list[Surroundings] = list(self._record.surroundings)
        self._remarks: list[str] = list(self._record.remarks)
        self._lock = threading.Lock()
        self._time = SoakClock(earlier.seconds if earlier else 0.0)
        self._taken_after_seconds = 0.0
        self._first = FirstLook(self.signals, self._seconds, self._time.begin)
        self._step_bytes = 0
        self._ended, self._looks_first = False, True
        self._kept_at, self._kept_state = 0.0, SoakState.RUNNING
        self._moments: list[tuple[float, int]] = []
        self._time_is_up = False
        self._chooser, self._shares = Chooser(), Shares() if earlier is None else None

    @property
    def record(self) -> SoakRecord:
        """The soak at this moment, frozen."""
        with self._lock:
            return self._record

    def pause(self) -> None:
        """Pause until `go_on`."""
        self.signals.paused.set()

    def go_on(self) -> None:
        """Go on after a pause."""
        self.signals.paused.clear()

    def stop(self) -> None:
        """Stop soon; `run` then returns."""
        self.signals.stop.set()

    def run(self) -> SoakRecord:
        """Take the memory and do the plan; return the record. What goes wrong is in the record, not raised."""
        compiling = Compiling(self.plan, self._first)
        try:
            # Where the system has little memory of its own, as on the stick, each loop is compiled when it is needed.
            self._looks_first = available_memory(self._files).available_bytes >= SMALL_BYTES
            if self._looks_first:
                compiling.start()
            self._reading = self._find_reading(self._reading)
            self._hold()
        except NotEnoughMemoryError as problem:
            stopped = self.signals.stop.is_set()
            return self._end(SoakState.STOPPED if stopped else SoakState.FAILED, str(problem))
        except MemoryError:
            return self._end(SoakState.FAILED, _NO_MEMORY_LEFT)
        finally:
            self._first.close()
            compiling.wait(self._relieve)  # The time that is asked for is time in which memory is tested.
        watch = Watch(self._files)
        pages = PageMap()
        try:
            state = self._run_steps(watch, pages)
        except MemoryError:
            state = self._note(SoakState.FAILED, _NO_MEMORY_LEFT)
        finally:
            pages.close()
            self._refresh(watch.risen())
            if self.held is not None:
                self.held.give_back()
        return self._end(state)

    def _hold(self) -> None:
        def tell(held: int, wanted: int) -> None:
            self._refresh()
            self._change(covered=Covered(held_bytes=held, available_bytes=wanted))

        wishes, stopped = self._wishes, self.signals.stop.is_set
        look = self._first.look if self._looks_first else lambda piece: None
        self.held = hold(self._files, WantedMemory(wishes.memory_bytes, wishes.reserve_bytes, wishes.only), tell, stopped, look)
        self._change(covered=self.held.covered)
        if not CAN_FLUSH:
            self._remark("this processor lets no program empty its caches: some reads may have come from a cache")

    def _run_steps(self, watch: Watch, pages: PageMap) -> SoakState:
        assert self.held is not None
        threads = max(1, min(self._wishes.threads or usable_cores(), len(self.held.slices)))
        turn = cache_bytes(self._files) * 2 // threads
        cores = core_numbers()
        parts = shared_out(self.held.slices, threads, memory_nodes(self._files, cores), cores)
        self.workers = [Worker(part.numbered, self.signals, self._seconds, pages, turn, part.core) for part in parts]
        self.workers[0].tally.wrong |= self._first.wrong_of(self.held.slices)
        self._time.begin()
        self._seconds()
        self._taken_after_seconds = self._time.of_this_run
        with ThreadPoolExecutor(len(parts), "soak") as pool:
            step = self.plan.steps[0]
            while True:
                done = self._record.steps_done
                self._choose(done)
                if done >= len(self.plan.steps) * (self._record.passes_done + 1):
                    self._change(passes_done=self._record.passes_done + 1)
                    if not self.plan.repeats:
                        # What the last step left is looked at too, before the memory is given back.
                        return SoakState.FINISHED if self._run_all(pool, watch, step, Worker.look_back) else SoakState.STOPPED
                step = step_of_pass(self.plan.steps[done % len(self.plan.steps)], self._record.passes_done)
                if not self._run_step(step, pool, watch, pages):
                    if not (self._time_is_up and done):
                        return SoakState.STOPPED
                    # What did not come to its end in the time is left out; what was done is a whole, shorter plan.
                    self._change(steps=self._record.steps[:done], passes_done=1)
                    return SoakState.FINISHED

    def _choose(self, done: int) -> None:
        """Choose the steps that still fit, where the plan is to end within a time."""
        if self.plan.within_seconds is None or self.held is None:
            return
        rates, held_bytes = measured_rates(self._tallies) or _USUAL_RATES, self.held.held_bytes
        left = self.plan.within_seconds - self._seconds()
        self.plan = self._chooser.fitted(self.plan, done, left, lambda step: step_seconds(step, held_bytes, *rates))
        self._change(steps=tuple(step.name for step in self.plan.steps))

    def _swept_ranges(self, pages: PageMap) -> Ranges:
        """Return the physical ranges that every finished step covered. Pages of a run that was interrupted lay elsewhere."""
        now = ranges_of(self.held.slices, pages) if self.held is not None else ()
        before = self._record.swept_ranges
        return both(before, now) if before and self._record.steps_done else now

    def _run_step(self, step: Step, pool: ThreadPoolExecutor, watch: Watch, pages: PageMap) -> bool:
        """Do a step with all threads; return whether it was finished."""
        self._step_bytes = sum(tally.bytes_done for tally in self._tallies)
        if not self._run_all(pool, watch, step, lambda worker: worker.run(step)):
            return False
        swept = sum(piece.size_bytes for piece in self.held.slices if not piece.given_back) if self.held else 0
        before = self._record.fully_swept_bytes
        self._change(
            steps_done=self._record.steps_done + 1,
            step_share=0.0,
            fully_swept_bytes=min(before, swept) if before else swept,
            swept_ranges=self._swept_ranges(pages),
            looked=self._looked(step),
        )
        self._save()
        return True

    def _looked(self, step: Step) -> tuple[float, ...]:
        """Return how much of each kind of fault was looked for, with a step that was just done."""
        if self._shares is None:  # What an interrupted run did before counts too.
            self._shares = Shares(self.plan.steps[: self._record.steps_done])
        self._shares.add(step)
        return self._shares.all

    def _run_all(self, pool: ThreadPoolExecutor, watch: Watch, step: Step, do: Callable[[Worker], None]) -> bool:
        """Let all workers do something, and look after them meanwhile; return whether all came to the end."""
        futures: list[Future[None]] = [pool.submit(_pinned, worker, do) for worker in self.workers]
        while True:
            done, left = wait(futures, timeout=LOOK_SECONDS)
            self._look(step, watch)
            if not left:
                break
        for future in done:
            problem = future.exception()
            if isinstance(problem, SoakStoppedError):
                return False
            if problem is not None:
                raise problem
        return True

    def _look(self, step: Step, watch: Watch) -> None:
        """Refresh the record, look at the surroundings, give memory back where the system needs it."""
        self._refresh()
        slept = watch.slept_seconds()
        if slept:
            self._remark(f"the machine was asleep for {slept:.0f} s; the memory kept its content by itself meanwhile")
        seconds = self._seconds()
        if not self._surroundings or seconds - self._surroundings[-1].at_seconds >= SURROUNDINGS_SECONDS:
            self._surroundings.append(watch.look(seconds, self._record.rate_bytes_per_s or None))
            if len(self._surroundings) > _MOST_SURROUNDINGS:
                self._surroundings = self._surroundings[::2]
            self._change(surroundings=tuple(self._surroundings))
            self._relieve()
        # Whoever follows from afar is told of a pause as well, during which the test's own time stands still.
        if seconds - self._kept_at >= KEEP_SECONDS or self.record.state is not self._kept_state:
            self._save()
        if self._wishes.seconds is not None and self._limited_seconds() >= self._wishes.seconds:
            self.stop()
        late = self.plan.within_seconds is not None and seconds > self.plan.within_seconds * _OVERRUN[self._record.steps_done > 0]
        # When all steps are done, the last look at what they left is still taken.
        if late and self._record.steps_done < len(self.plan.steps) and not self.signals.stop.is_set():
            self._time_is_up = True
            self.stop()

    def _relieve(self) -> None:
        """Give slices back while the system has less than half of its reserve."""
        if self.held is None:
            return
        try:
            available = available_memory(self._files).available_bytes
        except NotEnoughMemoryError:
            return
        missing = self.held.covered.reserve_bytes // 2 - available
        given = 0
        for piece in reversed(self.held.slices):
            if given >= missing:
                break
            if not piece.given_back and not piece.wanted_back and piece.physical_byte is None:
                piece.wanted_back = True
                given += piece.size_bytes
        if given:
            self._remark(f"the system ran short of memory: {size_text(given)} were given back and are no longer tested")

    def _refresh(self, risen: tuple[str, ...] = ()) -> None:
        tallies = self._tallies
        done = sum(tally.bytes_done for tally in tallies)
        seconds = self._seconds()
        earlier = self._earlier
        self._moments = [*self._moments[-12:], (seconds, done)]
        first_done, span = self._moments[0][1], seconds - self._moments[0][0]
        rate = (done - first_done) / span if span > 0.2 else self._record.rate_bytes_per_s or (done / seconds if seconds > 0 else 0.0)
        kept = [*(earlier.kept if earlier else ()), *(error for tally in tallies for error in tally.kept)][:MOST_KEPT]
        held = self.held
        self._change(
            seconds=round(seconds, 2),
            bytes_done=(earlier.bytes_done if earlier else 0) + done,
            rate_bytes_per_s=rate,
            errors=(earlier.errors if earlier else 0) + sum(tally.errors for tally in tallies),
            kept=tuple(kept),
            lanes=lane_counts(earlier.lanes if earlier else (), tallies),
            blocks=blocks_of(held.slices, [worker.tally for worker in self.workers]) if held else (),
            step_share=self._step_share(done),
            seconds_left=self._seconds_left(done),
            **self._pointed(kept, risen),
            covered=replace(held.covered, held_bytes=held.held_bytes) if held and held.held_bytes else self._record.covered,
        )

    def _pointed(self, kept: list[WrongWord], risen: tuple[str, ...]) -> dict[str, object]:
        """Return what the errors look like and point at; worked out only when there are new ones, as there may be many."""
        if len(kept) == len(self._record.kept) and not risen:
            return {}
        return pointed(kept, self._reading, risen, self._record.suspects)

    def _step_share(self, done: int) -> float:
        held = self.held.held_bytes if self.held else 0
        step = self.plan.steps[self._record.steps_done % len(self.plan.steps)]
        whole = step.sweeps * held
        return min(1.0, (done - self._step_bytes) / whole) if whole else 0.0

    def _seconds_left(self, done: int) -> float | None:
        """Return the time that is left, of the plan or of the time that was asked for."""
        limit = self._wishes.seconds
        by_limit = max(0.0, limit - self._limited_seconds()) if limit is not None else None
        left = None
        if self.held is not None and not self.plan.repeats:
            tallies = [worker.tally for worker in self.workers]
            left = seconds_left(self.plan, self._record.steps_done, self._step_share(done), self.held.held_bytes, tallies)
        return by_limit if left is None else min(left, by_limit) if by_limit is not None else left

    def _seconds(self) -> float:
        """Return the seconds of testing, those of an interrupted run before included."""
        return self._time.look(self.signals.paused.is_set())

    def _limited_seconds(self) -> float:
        """Return the seconds that count for a time that was asked for: those of this run, once all the memory was taken."""
        self._seconds()
        return self._time.of_this_run - self._taken_after_seconds

    @property
    def _tallies(self) -> list[Tally]:
        return [worker.tally for worker in (*self._first.workers, *self.workers)]

    def _remark(self, words: str) -> None:
        if words not in self._remarks:
            self._remarks.append(words)
            self._change(remarks=tuple(self._remarks))

    def _note(self, state: SoakState, words: str) -> SoakState:
        self._remark(words)
        return state

    def _change(self, **changes: object) -> None:
        with self._lock:
            state = SoakState.PAUSED if self.signals.paused.is_set() else SoakState.RUNNING
            if self._record.state.is_over and self._ended:
                state = self._record.state  # What is noted after the end changes nothing of how it ended.
            self._record = replace(self._record, **{"state": state, **changes})  # type: ignore[arg-type]

    def _save(self) -> None:
        self._kept_at, self._kept_state = self._seconds(), self.record.state
        try:
            self._keep(self.record)
        except Exception as problem:  # Whatever keeps the record from being written, the test itself goes on.
            if self.record.state.is_over:
                self._remarks = [words for words in self._remarks if not words.startswith(_NOT_WRITTEN)]
            self._remark(f"{_NOT_WRITTEN}: {problem}")

    def _end(self, state: SoakState, problem: str = "") -> SoakRecord:
        if problem:
            self._remark(problem)
        self._change(state=state, seconds=round(self._seconds(), 2), seconds_left=None)
        self._ended = True
        self._save()
        return self.record


def _pinned(worker: Worker, do: Callable[[Worker], None]) -> None:
    """Let a worker do something on a processor core of its own, where the system lets it choose."""
    if worker.core is not None:
        stay_on({worker.core})
    do(worker)
