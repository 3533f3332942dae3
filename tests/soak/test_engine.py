"""Whole soaks on real memory, small ones: covered, stopped, taken up again, and with errors put into the memory."""

from __future__ import annotations

import threading
import time
from dataclasses import replace

import numpy as np
import pytest

from after_check.domain.soak import Block, SoakState
from after_check.files.tree import Tree
from after_check.host.held_memory import AvailableMemory
from after_check.host.slices import Locker, take_slice
from after_check.soak import soak_run as engine
from after_check.soak.backgrounds import CHECKERBOARD, SOLID
from after_check.soak.first_look import FirstLook
from after_check.soak.march import parse_march
from after_check.soak.plans import Plan, Step, Work, custom
from after_check.soak.progress import SoakClock
from after_check.soak.soak_run import MachineUnderTest, Soak, Wishes, cache_bytes
from after_check.soak.work import Signals
from after_check.sources.open_source import take_notation

MIB = 1 << 20
SMALL = Wishes(memory_bytes=32 * MIB, threads=2)
QUICK = custom((parse_march("{⇕(w0); ⇑(r0,w1); ⇓(r1)}"),), (SOLID, CHECKERBOARD))
WAITS = custom((parse_march("{⇕(w0); Del 20s; ⇕(r0)}"),), (SOLID,))


def in_thread(soak):
    thread = threading.Thread(target=soak.run)
    thread.start()
    return thread


def until(condition, seconds=30):
    deadline = time.monotonic() + seconds
    while not condition():
        assert time.monotonic() < deadline, "it did not come to that"
        time.sleep(0.02)


def test_a_clean_soak_covers_what_it_was_asked_to():
    kept = []
    record = Soak(QUICK, SMALL, keep=kept.append).run()
    assert record.state is SoakState.FINISHED
    assert (record.errors, record.steps_done, record.passes_done) == (0, 2, 1)
    assert record.covered.held_bytes == record.fully_swept_bytes == 32 * MIB
    # Two backgrounds, four operations a word; and once after each a look at what it left.
    # Two steps of four operations, what each left read once more, and the first look: a write and a read.
    assert record.bytes_done == (2 * (4 + 1) + 2) * 32 * MIB
    assert record.share == 1.0
    assert kept[-1] == record
    assert record.surroundings


def test_moves_and_rows_leave_sound_memory_clean():
    plan = Plan("other", "", (Step(Work.MOVES, background=CHECKERBOARD), Step(Work.ROWS, background=CHECKERBOARD)))
    record = Soak(plan, Wishes(memory_bytes=16 * MIB, threads=1)).run()
    assert (record.state, record.errors, record.steps_done) == (SoakState.FINISHED, 0, 2)


def test_words_that_change_by_themselves_are_found_with_address_bits_and_lane():
    reading = take_notation("A2=8G DDR4-3200; B2=8G DDR4-3200").reading
    soak = Soak(replace_pause(WAITS, 2.0), SMALL, machine=MachineUnderTest(reading=reading))
    thread = in_thread(soak)
    until(lambda: soak.held is not None and all(piece.words.size for piece in soak.held.slices) and len(soak.workers) == 2)
    until(lambda: all(len(worker.tally.begun) == len(worker.slices) for worker in soak.workers))
    time.sleep(0.5)  # All is written, and the pause has begun.
    pieces = soak.held.slices
    places = [(pieces[0], 17, 3), (pieces[0], 17, 60), (pieces[-1], 4000, 37)]
    addresses = {piece.address + 8 * index for piece, index, _ in places}
    for piece, index, bit in places:
        piece.words[index] ^= np.uint64(1 << bit)
    thread.join(60)
    record = soak.record
    assert record.errors == 2, "two words are wrong"
    assert {error.virtual_byte for error in record.kept} == addresses
    assert {error.bits for error in record.kept} == {1 << 3 | 1 << 60, 1 << 37}
    assert [lane for lane, counts in enumerate(record.lanes) if sum(counts)] == [3, 37, 60]
    assert all(error.was_stored for error in record.kept)
    assert record.blocks.count(Block.WRONG) == 2
    assert record.suspects == ("A2", "B2")


def replace_pause(plan, seconds):
    step = plan.steps[0]
    elements = tuple(replace(element, pause_seconds=seconds) if element.is_pause else element for element in step.program.elements)
    return replace(plan, steps=(replace(step, program=replace(step.program, elements=elements)),))


def test_a_second_thread_that_corrupts_the_memory_is_noticed():
    soak = Soak(replace(QUICK, repeats=True), Wishes(memory_bytes=16 * MIB, threads=1))
    thread = in_thread(soak)
    until(lambda: soak.held is not None and soak.record.steps_done > 0)
    words = soak.held.slices[3].words
    # The word is made wrong again and again; a sweep writes it right, and a later read may find it wrong.
    until(lambda: words.__setitem__(99, np.uint64(0xBAD)) or soak.record.errors > 0)
    soak.stop()
    thread.join(30)
    record = soak.record
    assert record.state is SoakState.STOPPED
    assert record.errors >= 1
    assert {error.found for error in record.kept} == {0xBAD}


def test_pause_go_on_and_stop():
    soak = Soak(replace(QUICK, repeats=True), SMALL)
    thread = in_thread(soak)
    until(lambda: soak.record.steps_done > 0)
    soak.pause()
    until(lambda: soak.record.state is SoakState.PAUSED)
    time.sleep(0.5)
    before = soak.record
    time.sleep(0.6)
    assert soak.record.bytes_done == before.bytes_done
    assert soak.record.seconds == pytest.approx(before.seconds, abs=0.1)
    soak.go_on()
    until(lambda: soak.record.bytes_done > before.bytes_done)
    soak.stop()
    thread.join(30)
    assert soak.record.state is SoakState.STOPPED


def test_an_interrupted_soak_goes_on_where_it_was():
    first = Soak(QUICK, SMALL)
    done = first.run()
    interrupted = replace(done, state=SoakState.INTERRUPTED, steps_done=1, passes_done=0, errors=7, bytes_done=1000, seconds=100.0)
    record = Soak(QUICK, SMALL, interrupted).run()
    assert record.steps_done == 2
    assert record.errors == 7, "errors of before are not forgotten"
    assert record.bytes_done == 1000 + (4 + 1 + 2) * 32 * MIB, "only the first look and the second step were run"
    assert record.seconds > 100
    assert record.begun_at == done.begun_at


def test_it_ends_when_its_time_is_up():
    record = Soak(replace(QUICK, repeats=True), replace(SMALL, seconds=1.5)).run()
    assert record.state is SoakState.STOPPED
    assert record.steps_done >= 2
    assert 1.4 < record.seconds < 20


def test_a_record_that_cannot_be_written_stops_nothing():
    def full(record):
        raise OSError(28, "No space left on device")

    record = Soak(QUICK, SMALL, keep=full).run()
    assert record.state is SoakState.FINISHED
    assert any("No space left on device" in words for words in record.remarks)


def test_no_room_is_a_failure_and_no_pass():
    record = Soak(QUICK, Wishes(reserve_bytes=1 << 60)).run()
    assert record.state is SoakState.FAILED
    assert record.fully_swept_bytes == 0
    assert any("close programs" in words for words in record.remarks)


def test_one_that_is_stopped_before_it_has_any_memory_is_stopped_and_did_not_fail():
    one = Soak(QUICK, SMALL)
    one.stop()
    record = one.run()
    assert record.state is SoakState.STOPPED
    assert record.fully_swept_bytes == 0


def test_memory_is_given_back_when_the_system_runs_short(monkeypatch):
    monkeypatch.setattr(engine, "SURROUNDINGS_SECONDS", 0.3)
    soak = Soak(replace(QUICK, repeats=True), replace(SMALL, reserve_bytes=64 * MIB))
    thread = in_thread(soak)
    until(lambda: soak.record.steps_done > 0)
    monkeypatch.setattr(engine, "available_memory", lambda files: AvailableMemory(24 * MIB, None))
    until(lambda: soak.record.blocks.count(Block.GIVEN_BACK) >= 4)
    monkeypatch.undo()
    until(lambda: soak.record.covered.held_bytes < 32 * MIB)
    soak.stop()
    thread.join(30)
    record = soak.record
    assert record.fully_swept_bytes < 32 * MIB, "no pass is claimed for what was given back"
    assert any("given back" in words for words in record.remarks)


def test_time_left_is_told_and_shrinks_to_nothing():
    seen = []
    soak = Soak(custom((parse_march("{⇕(w0); ⇑(r0,w1); Del 2s; ⇓(r1)}"),), (SOLID,)), Wishes(memory_bytes=256 * MIB, threads=2))
    thread = in_thread(soak)
    while thread.is_alive():
        seen.append(soak.record.seconds_left)
        time.sleep(0.1)
    assert soak.record.seconds_left is None
    assert any(left is not None for left in seen)


def test_the_largest_cache(tmp_path):
    for index, size in enumerate(("32K", "1024K", "33792K")):
        path = tmp_path / f"sys/devices/system/cpu/cpu0/cache/index{index}/size"
        path.parent.mkdir(parents=True)
        path.write_text(size + "\n")
    assert cache_bytes(Tree(tmp_path)) == 33 * MIB
    assert cache_bytes(Tree(tmp_path / "none")) == 64 * MIB


@pytest.mark.parametrize("after_step", [0, 1])
def test_a_bit_that_flips_between_two_steps_is_found(after_step):
    """The flip comes behind a step's last read: only who reads before writing over it, and once more at the end, sees it."""
    flipped = []

    def keep(record):
        if record.steps_done == after_step + 1 and not flipped:
            piece = soak.held.slices[3]
            piece.words[77] ^= np.uint64(1 << 9)
            flipped.append(piece)

    soak = Soak(QUICK, SMALL, keep=keep)
    record = soak.run()
    assert flipped
    assert record.errors == 1
    assert [error.bits for error in record.kept] == [1 << 9]
    assert record.kept[0].step == record.steps[after_step]


@pytest.mark.parametrize("work", [Work.MOVES, Work.ROWS])
def test_what_moves_and_rows_left_is_looked_at_as_well(work):
    flipped = []

    def keep(record):
        if record.steps_done == 1 and not flipped:
            for piece in soak.held.slices[:1]:
                for index in (5, piece.words.size // 2 + 5):
                    piece.words[index] ^= np.uint64(1)
                    flipped.append(index)

    plan = Plan("two", "", (Step(work, background=CHECKERBOARD), QUICK.steps[0]))
    soak = Soak(plan, SMALL, keep=keep)
    assert soak.run().errors == len(flipped) == 2


@pytest.mark.parametrize(
    ("looks", "seconds"),
    [
        # At each look: the time on the wall, the processor's time, whether it is paused. Nothing counts before the first word.
        ([(10.0, 1.0, False), (10.25, 1.2, False), (11.0, 2.0, False)], 1.0),
        # Stopped for a minute: no more than two seconds of it count.
        ([(0.0, 0.0, False), (60.0, 0.0, False)], 2.0),
        # A look that came late while the processor worked counts.
        ([(0.0, 0.0, False), (30.0, 29.0, False)], 30.0),
        # A pause does not.
        ([(0.0, 0.0, False), (1.0, 1.0, False), (9.0, 1.0, True), (10.0, 2.0, False)], 2.0),
    ],
)
def test_time_tested_is_time_in_which_words_were_checked(looks, seconds):
    at = {"wall": 0.0, "work": 0.0}
    tested = SoakClock(100.0, lambda: at["wall"], lambda: at["work"])
    assert tested.look() == 100.0
    for number, (wall, work, paused) in enumerate(looks):
        at.update(wall=wall, work=work)
        if number == 0:
            tested.begin()
        tested.look(paused)
    assert tested.look() == pytest.approx(100.0 + seconds)
    assert tested.of_this_run == pytest.approx(seconds)


def test_the_first_look_finds_what_is_wrong_while_memory_is_taken():
    piece, sound = take_slice(4 * MIB, Locker()), take_slice(4 * MIB, Locker())
    begun = []
    first = FirstLook(Signals(), lambda: 1.0, lambda: begun.append(1))
    first.may_begin.set()
    first.look(sound)
    over = threading.Event()

    def spoil():
        while not over.is_set():
            piece.words[77] = np.uint64(0xBAD)

    thread = threading.Thread(target=spoil)
    thread.start()
    try:
        for _ in range(200):
            first.look(piece)
            if first.workers[0].tally.errors:
                break
    finally:
        over.set()
        thread.join()
        first.close()
    (worker,) = first.workers
    assert worker.tally.errors > 0
    assert {error.virtual_byte for error in worker.tally.kept} == {piece.address + 77 * 8}
    assert worker.tally.kept[0].expected == 77 * 8
    assert worker.tally.kept[0].step == "first look · own address"
    assert first.wrong_of([sound, piece]) == {1}
    assert begun


def test_the_time_that_is_asked_for_begins_when_the_memory_is_there():
    taken = []

    def slowly(kept):
        time.sleep(1.5)
        return kept

    soak = Soak(replace(QUICK, repeats=True), replace(SMALL, seconds=1.0), keep=taken.append, machine=MachineUnderTest(find_reading=slowly))
    record = soak.run()
    assert record.state is SoakState.STOPPED
    assert record.seconds >= 1.0
    assert record.steps_done > 0
