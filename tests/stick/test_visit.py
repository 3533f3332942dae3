"""What the stick does on a machine, run for real on a few MiB of this one: the job, the test, power that is lost."""

from __future__ import annotations

import shutil
from dataclasses import replace
from datetime import UTC, datetime

import pytest

from after_check.domain.benchmark import BenchmarkRecord, BenchmarkState
from after_check.domain.identity import CameBy, MachineIdentity
from after_check.domain.jobs import JobFacts, Moment
from after_check.domain.soak import SoakRecord, SoakState, WrongWord
from after_check.files.tree import Tree
from after_check.local.settings import Settings
from after_check.shop.exchange import job_file
from after_check.shop.shop import Shop
from after_check.sources.linux import read_folder
from after_check.stick.contents import StickFolder
from after_check.stick.load import collect_stick, load_stick
from after_check.stick.run import MachineVisit, VisitedMachine, VisitPhase, united
from tests.conftest import SAMPLES

MIB = 1 << 20
BEGUN = datetime(2026, 11, 2, 9, tzinfo=UTC)


@pytest.fixture
def place(tmp_path):
    """A stick, and the files of the machine of job 0417 with memory to test."""
    (tmp_path / "stick/after-check").mkdir(parents=True)
    shutil.copytree(SAMPLES / "0417/arrival", tmp_path / "machine")
    meminfo = next((tmp_path / "machine").rglob("meminfo"))
    meminfo.write_text(meminfo.read_text() + f"MemAvailable: {200 * 1024} kB\n")
    return tmp_path


def visit(place, name="visit", machine=None, wait=0.0, answer=None):
    """One visit of the stick to the machine; returns the visit after it."""
    files = Tree(place / "machine")
    shop = Shop.open(place / f"{name}.db")
    made = machine or VisitedMachine(files, lambda: None, lambda: read_folder(place / "machine"), memory_bytes=16 * MIB)
    visit = MachineVisit(StickFolder(place / "stick"), shop, Settings(), made, wait_seconds=wait)
    if answer is not None:
        visit.answer(answer)
    visit.run()
    shop.close()
    return visit


def test_a_machine_that_no_job_knows_gets_a_new_one(place, shop):
    state = visit(place).state
    assert (state.phase, state.problems) == (VisitPhase.DONE, ())
    assert state.job.facts.machine == read_folder(place / "machine").reading.machine.model.value
    record = state.job.soaks[-1].record
    assert (record.state, record.errors, record.machine.way) == (SoakState.FINISHED, 0, CameBy.STICK)
    assert record.fully_swept_bytes == 16 * MIB
    # It comes home as a job with its reading, its evidence and its test.
    ((number, became),) = collect_stick(shop, StickFolder(place / "stick")).jobs
    assert became == "new"
    home = shop.jobs.job(number)
    assert [kept.record.fully_swept_bytes for kept in home.soaks] == [16 * MIB]
    assert {part.name for part in shop.jobs.evidence(home.readings[0].id)} >= {"sys/firmware/dmi/tables/DMI"}


def test_the_job_is_recognised_by_the_machine(place, shop):
    taken = read_folder(place / "machine")
    shop.jobs.add(JobFacts("0510", "Another", "Larkfield S1", "", ""))
    shop.jobs.add(JobFacts("0511", "This one", "Larkfield T1", "", ""), ((Moment.ARRIVAL, taken),))
    load_stick(shop, StickFolder(place / "stick"), (), True, Settings())
    state = visit(place, wait=60).state
    assert state.job.facts.number == "0511"
    assert [kept.moment for kept in state.job.readings] == [Moment.ARRIVAL, Moment.FITTED]


@pytest.mark.parametrize(("answer", "number"), [("0510", "0510"), (None, "0511"), ("", "0511")])
def test_an_answer_says_which_job_it_is_and_no_answer_makes_a_new_one(place, shop, answer, number):
    shop.jobs.add(JobFacts("0510", "Maybe", "a laptop", "", "2x8G"))
    load_stick(shop, StickFolder(place / "stick"), (), True, Settings())
    assert visit(place, answer=answer).state.job.facts.number == number


def test_power_that_is_lost_goes_on_at_the_step_that_was_not_finished(place, monkeypatch):
    class Cut(BaseException):
        pass

    class Failing(MachineVisit):
        steps = 0

        def _export(self, job):
            super()._export(job)
            if job.soaks and job.soaks[-1].record.steps_done >= 2:
                raise Cut

    files = Tree(place / "machine")
    machine = VisitedMachine(files, lambda: None, lambda: read_folder(place / "machine"), memory_bytes=16 * MIB)
    shop = Shop.open(place / "first.db")
    cut = Failing(StickFolder(place / "stick"), shop, Settings(), machine, wait_seconds=0)
    with pytest.raises(Cut):
        cut.run()
    shop.close()
    before = cut.state.soak
    state = visit(place, "second").state
    (kept,) = state.job.soaks
    assert kept.record.begun_at == before.begun_at
    assert kept.record.state is SoakState.FINISHED
    assert len(state.job.readings) == 1  # Read once, not at every start.
    assert StickFolder(place / "stick").running("run") is None


@pytest.mark.parametrize(("answer", "goes_on"), [("0512", True), (None, False), ("", False)])
def test_an_equal_machine_without_numbers_of_its_own_goes_on_only_where_it_was_answered(place, shop, answer, goes_on, monkeypatch):
    """A stick that was pulled out in mid-test and put into a machine of the same make: nothing tells them apart."""
    nameless = MachineIdentity(board="Larkfield T2 board", model="Larkfield T2", uuid="03000200-0400-0500-0006-000700080009", serial="TBD")
    monkeypatch.setattr("after_check.stick.run.identity_here", lambda files: nameless)
    job = shop.jobs.add(JobFacts("0512", "First desk", "Larkfield T2", "", ""))
    load_stick(shop, StickFolder(place / "stick"), (), True, Settings())
    folder = StickFolder(place / "stick")
    mark = "|".join((nameless.uuid, nameless.serial, nameless.board, nameless.model, ""))
    folder.put_running("run", {"uid": job.uid, "machine": mark, "second": False, "at": "2026-11-02T09:00:00+00:00"})
    state = visit(place, answer=answer).state
    assert (state.job.facts.number == "0512") is goes_on


def test_it_measures_where_that_was_chosen(place):
    files = Tree(place / "machine")
    asked = []

    def measure(here):
        asked.append(here.way)
        return BenchmarkRecord(BEGUN, state=BenchmarkState.FINISHED, machine=here)

    machine = VisitedMachine(files, lambda: None, lambda: read_folder(place / "machine"), memory_bytes=16 * MIB, measure=measure)
    state = visit(place, machine=machine).state
    assert asked == [CameBy.STICK]
    assert [kept.record.state for kept in state.job.benchmarks] == [BenchmarkState.FINISHED]


def test_a_stick_that_takes_nothing_is_said_and_the_test_goes_on(place, monkeypatch):
    def refuses(self, *_):
        raise self._problem(OSError(28, "No space left on device"))

    monkeypatch.setattr(StickFolder, "put_job", refuses)
    state = visit(place).state
    assert state.phase is VisitPhase.DONE
    assert any("the stick is full" in words for words in state.problems)
    assert state.verdict is not None


def test_a_job_file_changed_by_hand_is_told_and_the_rest_goes_on(place, shop):
    shop.jobs.add(JobFacts("0510", "Maybe", "a laptop", "", ""))
    stick = StickFolder(place / "stick")
    data = job_file(shop, "0510")
    stick.put_job("x", data.replace(b"job.json", b"jib.json"))
    state = visit(place).state
    assert state.phase is VisitPhase.DONE
    assert any("no job file" in words for words in state.problems)


def test_two_starts_are_one_test():
    first = SoakRecord(
        "short", SoakState.FINISHED, BEGUN, 100.0, ("a",), 1, 1, fully_swept_bytes=90, swept_ranges=((10, 100),), errors=0,
        lanes=((1, 0),) * 64, machine=MachineIdentity(uuid="x"),
    )  # fmt: skip
    error = WrongWord(1.0, "a", 0, 5, 1, 0, 0, 0)
    second = replace(first, seconds=20.0, fully_swept_bytes=9, swept_ranges=((1, 10),), errors=1, kept=(error,), lanes=((0, 2),) * 64)
    whole = united(first, second)
    assert (whole.seconds, whole.errors, whole.fully_swept_bytes, whole.swept_ranges) == (120.0, 1, 99, ((1, 100),))
    assert whole.lanes[0] == (1, 2)
    assert whole.kept == (error,)
    # A second start that did nothing yet leaves the first one as it was.
    assert united(first, replace(second, steps_done=0)).fully_swept_bytes == 90
