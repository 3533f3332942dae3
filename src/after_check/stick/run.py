"""What the stick does on the customer's machine, from start to verdict, without a person if need be.

It reads the machine, finds the job it belongs to, tests all memory outside the system's window and what is free
within, starts once more in another window for the rest, judges, and writes everything down after every step. It runs
in a thread; what it knows is read from `state`, frozen.
"""

from __future__ import annotations

import subprocess
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from enum import StrEnum
from typing import Any

from after_check.casework.same_machine import agreement_with
from after_check.casework.snapshot import JobSnapshot, take_snapshot
from after_check.domain.benchmark import BenchmarkRecord
from after_check.domain.identity import Agreement, CameBy, MachineIdentity, agreement
from after_check.domain.jobs import Job, JobFacts, Moment
from after_check.domain.ranges import Ranges, merged, size_of
from after_check.domain.soak import SoakRecord, SoakState
from after_check.files.errors import SourceError
from after_check.files.tree import Files
from after_check.local.log import logger
from after_check.local.settings import Settings
from after_check.shop.errors import ShopError
from after_check.shop.exchange import bring_in, job_file
from after_check.shop.shop import Shop
from after_check.soak.plan_asked import plan_asked
from after_check.soak.soak_json import interrupted
from after_check.soak.soak_run import MachineUnderTest, Soak, Wishes
from after_check.sources.linux import identity_here, read_this_machine
from after_check.stick.contents import StickError, StickFolder
from after_check.stick.memory_windows import larger_window, second_window, untested

_RUN, _WINDOW = "run", "window"
_EXPORT_SECONDS = 20.0
WAIT_SECONDS = 30.0
"""How long a question is before the stick goes on without an answer."""
_FINISHED = (SoakState.FINISHED, SoakState.STOPPED, SoakState.FAILED)


class VisitPhase(StrEnum):
    """What the stick is doing."""

    BEGIN = "begin"
    READ = "read"
    ASK = "ask"
    TEST = "test"
    START_AGAIN = "start again"
    MEASURE = "measure"
    DONE = "done"
    FAILED = "failed"


@dataclass(frozen=True, slots=True)
class JobChoice:
    """A job that the machine may belong to; an empty number is a new one."""

    number: str
    words: str


@dataclass(frozen=True, slots=True)
class VisitState:
    """How it stands: the phase, the job as far as it is known, the test, what is asked, and what went wrong."""

    phase: VisitPhase = VisitPhase.BEGIN
    words: str = "starting"
    job: Job | None = None
    soak: SoakRecord | None = None
    second: bool = False
    choices: tuple[JobChoice, ...] = ()
    answer_until: float = 0.0
    verdict: JobSnapshot | None = None
    problems: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class VisitedMachine:
    """What the visit needs of the machine that it runs on, so that it can be tried on another one.

    `measure` is there where the start menu asked for a benchmark; `make_room` lets the system pack what it does not need
    before the memory is taken.
    """

    files: Files
    start_again: Callable[[], object] = lambda: subprocess.run(["systemctl", "reboot"], check=False)
    read: Callable[[], Any] = read_this_machine
    reserve_bytes: int | None = None
    memory_bytes: int | None = None
    measure: Callable[[MachineIdentity], BenchmarkRecord] | None = None
    make_room: Callable[[], object] = lambda: None


class MachineVisit:
    """One visit to a machine; `tell` is called whenever something changed."""

    def __init__(
        self,
        folder: StickFolder,
        shop: Shop,
        settings: Settings,
        machine: VisitedMachine,
        tell: Callable[[VisitState], object] = lambda state: None,
        wait_seconds: float = WAIT_SECONDS,
    ) -> None:
        self._folder, self._shop, self._settings, self._machine, self._tell = folder, shop, settings, machine, tell
        self._wait_seconds = wait_seconds
        self._state = VisitState()
        self._lock = threading.Lock()
        self._answered = threading.Event()
        self._answer: str | None = None
        self._soak: Soak | None = None
        self._soak_id: int | None = None
        self._exported_at = 0.0
        self._exported_steps = -1

    @property
    def state(self) -> VisitState:
        """How it stands, frozen."""
        with self._lock:
            return self._state

    def answer(self, number: str) -> None:
        """Answer which job the machine belongs to; empty: a new one."""
        self._answer = number
        self._answered.set()

    def stop(self) -> None:
        """Stop the test; what was found is kept and judged."""
        self._answered.set()
        if self._soak is not None:
            self._soak.stop()

    def run(self) -> None:
        """Do everything; what goes wrong is in the state, not raised."""
        try:
            self._run()
        except (ShopError, SourceError, OSError) as problem:
            self._problem(str(problem))
            self._change(phase=VisitPhase.FAILED, words=str(problem))
        except Exception as problem:
            logger().exception("the visit ended", exc_info=problem)
            self._change(phase=VisitPhase.FAILED, words=f"a failure that nobody thought of ({type(problem).__name__})")

    def _run(self) -> None:
        self._change(phase=VisitPhase.READ, words="reading the machine")
        self._bring_in()
        taken = self._machine.read()
        # The installation is the stick's own, whatever machine it is in.
        here = replace(identity_here(self._machine.files), way=CameBy.STICK, installation="")
        if self._to_a_larger_window():
            return
        begun = self._begun(here)
        if begun is not None:
            number = begun["number"]
        else:
            number = self._job_of(here, taken.reading.machine.model)
            self._shop.jobs.add_reading(number, Moment.FITTED, taken)
        job = self._shop.jobs.job(number)
        self._change(job=job)
        self._export(job)
        first = self._first_of(job, begun)
        record = self._test(job, here, first, begun)
        if record.state is SoakState.FINISHED and not record.errors and begun is None and self._to_start_again(job, record, here):
            return
        for name in (_RUN, _WINDOW):
            self._folder.forget_running(name)
        self._start_as_usual()
        if self._machine.measure is not None and not record.errors:
            self._change(phase=VisitPhase.MEASURE, words="measuring the speed")
            self._shop.jobs.keep_benchmark(number, Moment.FITTED, self._machine.measure(here))
        self._judge(number)

    def _bring_in(self) -> None:
        found, problems = self._folder.jobs()
        for words in problems:
            self._problem(words)
        for one in found:
            try:
                bring_in(self._shop, one.path)
            except SourceError as problem:
                self._problem(str(problem))

    def _begun(self, here: MachineIdentity) -> dict[str, Any] | None:
        """Return what was begun on this machine before it started again, or lost its power."""
        running = self._folder.running(_RUN)
        if running is None or running.get("machine") != _mark(here):
            return None
        uid = running.get("uid")
        job = next((job for number in self._shop.jobs.numbers() if (job := self._shop.jobs.job(number)).uid == uid), None)
        if job is None:
            return None
        # A machine that shows no number of its own looks as all that are equal to it; only a start that the stick itself asked for is
        # surely on the same one.
        sure = bool(running.get("second")) or agreement(here, (here,))[0] is Agreement.SAME
        if not sure and not self._is_answered(job):
            return None
        return {**running, "number": job.facts.number}

    def _is_answered(self, job: Job) -> bool:
        """Ask whether this is the machine on which a test was begun; nobody's answer is no."""
        choice = JobChoice(job.facts.number, f"go on with the test of {job.facts.title}, {job.facts.machine}".strip(" ,"))
        until = time.monotonic() + self._wait_seconds
        words = "a test was begun on a machine like this one: is it this machine?"
        self._change(phase=VisitPhase.ASK, words=words, choices=(choice, JobChoice("", "another machine")), answer_until=until)
        self._answered.wait(self._wait_seconds)
        self._change(choices=(), phase=VisitPhase.READ)
        answer, self._answer = self._answer, None
        if answer != job.facts.number:
            self._answered.clear()  # Which job it is instead is another question.
        return answer == job.facts.number

    def _job_of(self, here: MachineIdentity, model: Any) -> str:
        """Return the job that the machine belongs to: recognised, or asked for; nobody's answer makes a new one."""
        jobs = [self._shop.jobs.job(number) for number in self._shop.jobs.numbers()]
        agreed = [(job, agreement_with(job, here)[0]) for job in jobs if not job.frozen]
        same = [job for job, found in agreed if found is Agreement.SAME]
        if len(same) == 1:
            return same[0].facts.number
        may_be = same or [job for job, found in agreed if found is Agreement.OPEN]
        if may_be:
            choices = [JobChoice(job.facts.number, f"{job.facts.title}, {job.facts.machine}".strip(" ,")) for job in may_be]
            until = time.monotonic() + self._wait_seconds
            self._change(
                phase=VisitPhase.ASK, words="which job is this?", choices=(*choices, JobChoice("", "a new job")), answer_until=until
            )
            self._answered.wait(self._wait_seconds)
            self._change(choices=(), phase=VisitPhase.READ)
            if self._answer:
                return self._answer
        name = str(model.value) if model is not None else here.words
        facts = JobFacts(self._shop.jobs.next_number(), name, name, "", "")
        return self._shop.jobs.add(facts).facts.number

    def _first_of(self, job: Job, begun: dict[str, Any] | None) -> SoakRecord | None:
        """Return the test that this one goes on with: of the first start, or one that lost its power."""
        if begun is None or not job.soaks:
            return None
        self._soak_id = job.soaks[-1].id
        return job.soaks[-1].record

    def _test(self, job: Job, here: MachineIdentity, first: SoakRecord | None, begun: dict[str, Any] | None) -> SoakRecord:
        second = bool(begun and begun.get("second")) and first is not None
        self._change(phase=VisitPhase.TEST, words="testing the memory", second=second)
        plan = plan_asked(self._settings.stick_plan, (), (), repeats=False)
        number, reading = job.facts.number, job.now.reading if job.now is not None else None
        if begun is None:
            self._write_down(job, here, second=False)
        wishes = Wishes(memory_bytes=self._machine.memory_bytes, reserve_bytes=self._machine.reserve_bytes)
        before: SoakRecord | None = None
        if second and first is not None:
            before = first
            wishes = replace(wishes, only=untested(self._machine.files, first.swept_ranges))
            if not wishes.only:
                return first
        earlier = interrupted(first) if first is not None and not second and first.state not in _FINISHED else None

        def keep(record: SoakRecord) -> None:
            whole = united(before, record) if before is not None else record
            self._soak_id = self._shop.jobs.keep_soak(number, whole, self._soak_id)
            self._change(soak=whole)
            moved = record.steps_done != self._exported_steps or record.state.is_over
            if moved or time.monotonic() - self._exported_at > _EXPORT_SECONDS:
                self._exported_steps = record.steps_done
                self._export(self._shop.jobs.job(number))

        soak = Soak(plan, wishes, earlier, keep, MachineUnderTest(self._machine.files, reading, identity=here))
        self._soak = soak
        self._change(words="making room for the test")
        self._machine.make_room()
        self._change(words="testing the memory")
        watcher = threading.Thread(target=self._follow, args=(soak, before), daemon=True)
        watcher.start()
        record = soak.run()
        watcher.join()
        whole = united(before, record) if before is not None else record
        self._change(soak=whole)
        return whole

    def _follow(self, soak: Soak, before: SoakRecord | None) -> None:
        while not soak.record.state.is_over:
            self._change(soak=united(before, soak.record) if before is not None else soak.record)
            time.sleep(0.5)

    def _to_start_again(self, job: Job, record: SoakRecord, here: MachineIdentity) -> bool:
        """Start once more in another window where memory is left that a second start reaches; returns whether it does."""
        if self._machine.memory_bytes is not None:
            return False
        window = second_window(self._machine.files, record.swept_ranges)
        if not window:
            return False
        self._change(phase=VisitPhase.START_AGAIN, words="starting once more, to test the part that the system used")
        try:
            self._write_down(job, here, second=True)
            self._folder.put_start(next="second", second=window)
        except StickError as problem:
            self._problem(str(problem))
            return False
        self._shop.close()
        self._machine.start_again()
        return True

    def _to_a_larger_window(self) -> bool:
        """Start again in a larger window where there is so much memory that the tables for it need one; tried once."""
        window = larger_window(self._machine.files) if self._folder.running(_WINDOW) is None else ""
        if not window:
            return False
        self._change(phase=VisitPhase.START_AGAIN, words="starting once more with more room, as this machine has so much memory")
        try:
            self._folder.put_running(_WINDOW, {"window": window})
            self._folder.put_start(next="first", first=window)
        except StickError as problem:
            self._problem(str(problem))
            return False
        self._machine.start_again()
        return True

    def _write_down(self, job: Job, here: MachineIdentity, second: bool) -> None:
        at = datetime.now(UTC).isoformat(timespec="seconds")
        self._folder.put_running(_RUN, {"uid": job.uid, "machine": _mark(here), "second": second, "at": at})

    def _start_as_usual(self) -> None:
        try:
            self._folder.put_start()
        except StickError as problem:
            self._problem(str(problem))

    def _judge(self, number: str) -> None:
        job = self._shop.jobs.job(number)
        self._export(job)
        self._change(phase=VisitPhase.DONE, words="done", job=job, verdict=take_snapshot(job))

    def _export(self, job: Job) -> None:
        """Write the job onto the stick; a stick that takes nothing is said, and the test goes on."""
        self._exported_at = time.monotonic()
        try:
            self._folder.put_job(job.uid, job_file(self._shop, job.facts.number))
        except StickError as problem:
            self._problem(str(problem))

    def _problem(self, words: str) -> None:
        if words not in self.state.problems:
            self._change(problems=(*self.state.problems, words))

    def _change(self, **changes: Any) -> None:
        with self._lock:
            self._state = replace(self._state, **changes)
            state = self._state
        self._tell(state)


def _mark(here: MachineIdentity) -> str:
    """Return what tells the machine at its next start; the installation is the stick's own and another one each time."""
    return "|".join((here.uuid, here.serial, here.board, here.model, *here.module_serials, str(here.installed_bytes or "")))


def united(first: SoakRecord, second: SoakRecord) -> SoakRecord:
    """Return a test that was done in two starts as one: what both covered, what both found, how long both took."""
    ranges: Ranges = merged((*first.swept_ranges, *second.swept_ranges))
    swept = size_of(ranges) if second.steps_done else first.fully_swept_bytes
    words = "tested in two starts, so that the part that the system used the first time was tested as well"
    lanes = (
        tuple((a[0] + b[0], a[1] + b[1]) for a, b in zip(first.lanes, second.lanes, strict=True)) if first.lanes and second.lanes else ()
    )
    return replace(
        second,
        begun_at=first.begun_at,
        seconds=first.seconds + second.seconds,
        passes_done=min(first.passes_done, second.passes_done),
        bytes_done=first.bytes_done + second.bytes_done,
        fully_swept_bytes=max(first.fully_swept_bytes, swept),
        swept_ranges=ranges if second.steps_done else first.swept_ranges,
        errors=first.errors + second.errors,
        kept=(*first.kept, *second.kept),
        lanes=lanes or first.lanes or second.lanes,
        symptoms=second.symptoms or first.symptoms,
        suspects=second.suspects or first.suspects,
        surroundings=(*first.surroundings, *second.surroundings),
        remarks=tuple(dict.fromkeys((*first.remarks, *second.remarks, words))),
        covered=replace(
            second.covered,
            held_bytes=max(first.covered.held_bytes, swept),
            available_bytes=max(first.covered.available_bytes, second.covered.available_bytes),
            out_of_reach=(),
        ),
    )
