"""An error has one place: bits that are flipped while a step runs are found where they were flipped, and nowhere else."""

from __future__ import annotations

import random
import threading
import time

import numpy as np
import pytest

from after_check.host.pages import PageMap
from after_check.host.slices import Locker, take_slice
from after_check.soak import kernels
from after_check.soak.backgrounds import CHECKERBOARD, OWN_ADDRESS
from after_check.soak.backgrounds import random as random_background
from after_check.soak.march import parse_march
from after_check.soak.plans import Step, Work
from after_check.soak.work import MOVE_WORDS, Signals, Worker

MIB = 1 << 20
RUNS, MOST_RUNS = 100, 5000
STEPS = (
    Step(Work.MOVES, background=random_background(0x5EED)),
    Step(Work.MOVES, background=CHECKERBOARD),
    Step(Work.ROWS, background=CHECKERBOARD),
    Step(Work.MARCH, parse_march("{⇕(w0); ⇑(r0,w1); ⇓(r1,w0); ⇕(r0)}"), random_background(0xA11)),
    Step(Work.MARCH, parse_march("{⇕(w0); ⇑(r0,r0,w0,r0,w1); ⇓(r1,w0,r0); ⇕(r0)}"), OWN_ADDRESS),
)


class Flips(threading.Thread):
    """Flips bits of words of a slice at random moments, one word once, and notes which."""

    def __init__(self, words, seed):
        super().__init__(daemon=True)
        self.words, self.chance, self.touched, self.over = words, random.Random(seed), set(), threading.Event()

    def run(self):
        while not self.over.is_set():
            index = self.chance.randrange(self.words.size)
            if index not in self.touched:
                self.touched.add(index)
                self.words[index] ^= np.uint64(1 << self.chance.randrange(64))
            time.sleep(self.chance.random() / 2000)


@pytest.fixture(scope="module")
def piece():
    taken = take_slice(2 * MIB, Locker())
    yield taken
    taken.give_back()


@pytest.mark.parametrize("step", STEPS, ids=lambda step: step.name)
def test_no_address_is_named_that_was_not_touched(piece, step):
    found = 0
    for run in range(MOST_RUNS):  # A hundred in all, and more where nothing came while somebody looked: a step takes a millisecond.
        if found and run >= RUNS // len(STEPS):
            break
        worker = Worker([(0, piece)], Signals(), time.monotonic, PageMap(), 0)
        flips = Flips(piece.words, run)
        flips.start()
        worker.run(step)
        worker.look_back()
        flips.over.set()
        flips.join()
        named = {(error.virtual_byte - piece.address) // 8 for error in worker.tally.kept}
        assert named <= flips.touched, named - flips.touched
        found += len(named)
    assert found


@pytest.mark.parametrize("pieces", MOVE_WORDS)
def test_a_wrong_word_is_counted_once_and_goes_nowhere(pieces):
    background = random_background(7)
    given = (background.kind, kernels.word(background.first), kernels.word(background.second))
    source, target = np.zeros(64 * 100, dtype=np.uint64), np.zeros(64 * 100, dtype=np.uint64)
    log, lanes = kernels.empty_log(8), kernels.empty_lanes()
    kernels.sweep(source, 0, source.size, False, np.array([0], dtype=np.int64), *given, log, lanes)
    right = source.copy()
    for index in (0, 999, 1000, 4097, source.size - 1):
        source[index] ^= np.uint64(1 << 5)
    assert kernels.move_checked(source, target, pieces, *given, log, lanes) == 5
    assert sorted(int(row[0]) for row in log[:5]) == [0, 999, 1000, 4097, source.size - 1]
    assert (target == right).all()
    assert (source == right).all()
    assert kernels.move_checked(source, target, pieces, *given, log, lanes) == 0
