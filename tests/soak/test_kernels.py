"""The compiled kernels: backgrounds, errors with their address and bits, and agreement with the plain interpreter."""

from __future__ import annotations

import mmap
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from after_check.soak import kernels
from after_check.soak.backgrounds import (
    CHECKERBOARD,
    COLUMNS,
    CONSTANT,
    OWN_ADDRESS,
    SOLID,
    STRIPES,
    background_named,
    random,
    stripe,
    walking,
)
from after_check.soak.coverage import interpret
from after_check.soak.faults import Model, faults_of
from after_check.soak.march import PROGRAMS, Order

WRITE_0, WRITE_1, READ_0, READ_1 = 0, 1, 2, 3
WORDS = 4 * kernels.BLOCK_WORDS * kernels.GROUP_BLOCKS


def sweep(words, operations, background=SOLID, down=False, log=None, lanes=None):
    return kernels.sweep(
        words,
        0,
        words.size,
        down,
        np.array(operations, dtype=np.int64),
        background.kind,
        kernels.word(background.first),
        kernels.word(background.second),
        kernels.empty_log(16) if log is None else log,
        kernels.empty_lanes() if lanes is None else lanes,
    )


BACKGROUNDS = (SOLID, CHECKERBOARD, COLUMNS, OWN_ADDRESS, *STRIPES, walking(0), walking(63), random(0), random(2**64 - 1))


@pytest.mark.parametrize("background", BACKGROUNDS, ids=lambda item: item.name)
def test_the_kernels_write_and_verify_the_backgrounds_words(background):
    words = np.zeros(WORDS, dtype=np.uint64)
    assert sweep(words, [WRITE_0], background) == 0
    assert [int(word) for word in words] == [background.word(index) for index in range(WORDS)]
    assert sweep(words, [READ_0, WRITE_1], background) == 0
    assert [int(word) for word in words[:70]] == [background.word(index) ^ (2**64 - 1) for index in range(70)]
    assert sweep(words, [READ_1], background, down=True) == 0
    assert sweep(words, [READ_1, WRITE_0, READ_0, READ_0, WRITE_1, READ_1], background, down=True) == 0
    assert sweep(words, [READ_0], background) == WORDS


def test_known_words():
    # By hand: bit i mod 2; a pair of bits; one bit at (i + k) mod 64; 8 i.
    assert COLUMNS.word(0) == COLUMNS.word(1) == 0xAAAAAAAAAAAAAAAA
    assert (CHECKERBOARD.word(0), CHECKERBOARD.word(1)) == (0xAAAAAAAAAAAAAAAA, 0x5555555555555555)
    assert stripe(2) == 0xCCCCCCCCCCCCCCCC
    assert stripe(32) == 0xFFFFFFFF00000000
    assert (walking(3).word(0), walking(63).word(1)) == (8, 1)
    assert OWN_ADDRESS.word(5) == 40
    # Random data, from published numbers of SplitMix64: those of seed 1234567 are 6457827717110365317, 3203168211198807973,
    # 9817491932198370423, 4593380528125082431 and 16408922859458223821. Two steps further on, the first two places count down
    # to the second and the first of them, and the first two blocks up to the fourth and the fifth.
    seed = 1234567 + 3 * 0x9E3779B97F4A7C15
    places, blocks = (3203168211198807973, 6457827717110365317), (4593380528125082431, 16408922859458223821)
    for block, place in ((0, 0), (0, 1), (1, 0), (1, 1)):
        both = (blocks[block] + places[place]) % 2**64
        assert random(seed).word(64 * block + place) == both ^ (both >> 29)


def test_random_data_has_no_bit_that_is_seldom_or_goes_with_another():
    """4,096 words: the share of ones, and how often two bits or two neighbours agree, is within five deviations of a half."""
    bits = np.array([[random(0xA11).word(index) >> bit & 1 for bit in range(64)] for index in range(4096)])
    most = 5 * 0.5 / 4096**0.5
    assert abs(bits.mean(axis=0) - 0.5).max() < most
    agree = (bits.T @ bits + (1 - bits).T @ (1 - bits)) / len(bits)
    np.fill_diagonal(agree, 0.5)
    assert abs(agree - 0.5).max() < most
    assert abs((bits[1:] == bits[:-1]).mean() - 0.5) < most


def test_of_four_random_words_in_a_square_no_bit_follows_from_the_other_three():
    """The words of two places in two blocks: were the numbers only added bit by bit, the four bits would always be even together."""
    words = [[random(0xA11).word(64 * block + place) for place in (3, 40)] for block in range(200)]
    even, odd = 0, 0
    for above, below in pairwise(words):
        together = above[0] ^ above[1] ^ below[0] ^ below[1]
        odd |= together
        even |= ~together
    assert odd == 2**64 - 1
    assert even & odd == 2**64 - 1


@pytest.mark.parametrize("down", [False, True])
@pytest.mark.parametrize("background", [SOLID, OWN_ADDRESS, random(7)], ids=lambda item: item.name)
def test_what_is_written_past_the_caches_is_there(background, down):
    """Memory as a soak takes it lies on pages, so that whole elements are stored past the caches."""
    words = np.frombuffer(mmap.mmap(-1, WORDS * 8), dtype=np.uint64)
    assert words.ctypes.data % kernels.PAST_BYTES == 0
    sweep(words, [WRITE_0], background)
    assert sweep(words, [READ_0, WRITE_1, READ_1, WRITE_0, READ_0, WRITE_1], background, down) == 0
    assert [int(word) for word in words] == [background.word(index) ^ (2**64 - 1) for index in range(WORDS)]
    words[77] ^= np.uint64(1 << 5)
    assert sweep(words, [READ_1, WRITE_0, READ_0], background, down) == 1


def test_stripes_show_every_pair_of_bits_equal_and_different():
    for number in range(64):
        for other in range(number):
            seen = {(back.word(0) >> number & 1) == (back.word(0) >> other & 1) for back in (SOLID, COLUMNS, *STRIPES)}
            assert seen == {True, False}


@pytest.mark.parametrize(
    "name", ["solid", "checkerboard", "column stripes", "own address", "stripes of 8", "walking bit 17", "random 5eed"]
)
def test_backgrounds_are_known_by_name(name):
    assert background_named(name).name == name


@pytest.mark.parametrize("name", ["", "stripes of 3", "walking bit 64", "random xyz"])
def test_other_names_are_none(name):
    assert background_named(name) is None


@given(st.integers(0, WORDS - 1), st.integers(0, 63), st.sampled_from(BACKGROUNDS), st.booleans(), st.booleans())
def test_one_wrong_bit_is_found_with_its_place(index, bit, background, down, grouped):
    words = np.zeros(WORDS, dtype=np.uint64)
    sweep(words, [WRITE_0], background)
    words[index] ^= np.uint64(1 << bit)
    log, lanes = kernels.empty_log(4), kernels.empty_lanes()
    operations = [READ_0, WRITE_1, READ_1] if grouped else [READ_0, WRITE_1]
    assert sweep(words, operations, background, down, log, lanes) == 1
    expected = background.word(index)
    wrong = expected ^ (1 << bit)
    assert [int(value) for value in log[0]] == [index, wrong, expected, wrong, wrong]
    assert lanes[bit, wrong >> bit & 1] == 1
    assert lanes.sum() == 1
    assert sweep(words, [READ_1], background) == 0


def test_more_errors_than_the_log_holds_are_counted():
    words = np.zeros(WORDS, dtype=np.uint64)
    log, lanes = kernels.empty_log(4), kernels.empty_lanes()
    assert sweep(words, [READ_1], SOLID, log=log, lanes=lanes) == WORDS
    assert [int(row[0]) for row in log] == [0, 1, 2, 3]
    assert lanes[:, 0].tolist() == [WORDS] * 64


class SimulatedWords:
    """Words whose lowest bit is a cell of a simulated memory; the kernels' own code runs on it, uncompiled."""

    def __init__(self, memory):
        self.memory = memory
        self.rest = [0] * len(memory.cells)

    def __getitem__(self, index):
        return np.uint64(self.rest[int(index)] | self.memory.read(int(index)))

    def __setitem__(self, index, value):
        self.rest[int(index)] = int(value) & ~1
        self.memory.write(int(index), int(value) & 1)


@pytest.fixture(scope="module")
def plain_kernels():
    """The source of the kernels, run by the interpreter with blocks of one word."""
    patch = pytest.MonkeyPatch()
    patch.setattr(kernels, "BLOCK_WORDS", 1)
    patch.setattr(kernels, "WHOLE_BLOCK", np.uint64(1))
    patch.setattr(kernels, "GROUP_BLOCKS", 1)
    patch.setattr(kernels, "flush_words", lambda *_: None)
    patch.setattr(kernels, "note_errors", lambda *_: 1)
    patch.setattr(kernels, "fence", lambda: None)
    patch.setattr(kernels, "may_store_past", lambda words: False)
    # Nothing may be compiled while the sizes are patched: the compiler keeps what it made on disk, for other runs too.
    for name in ("differs", "fill", "head_of", "word_of", "background_word", "place_numbers"):
        patch.setattr(kernels, name, getattr(kernels, name).py_func)
    compiled = kernels.streamed_kernel(CONSTANT), kernels.grouped_kernel(CONSTANT)
    yield tuple(kernel.py_func for kernel in compiled)
    patch.undo()


FAULTS = [fault for model in Model if model is not Model.DRF for fault in faults_of(model, 3)]


@settings(max_examples=400)
@given(st.sampled_from(FAULTS), st.sampled_from(sorted(PROGRAMS)), st.tuples(*[st.integers(0, 1)] * 3), st.booleans())
def test_kernels_and_interpreter_say_the_same_of_the_same_memory(plain_kernels, fault, name, first, downwards):
    streamed, grouped = plain_kernels
    words, zero = SimulatedWords(fault.memory(first)), np.uint64(0)
    errors = 0
    for element in PROGRAMS[name].elements:
        operations = np.array([2 * operation.is_read + operation.value for operation in element.operations])
        kernel = streamed if kernels.is_streamed(operations) else grouped
        down = element.order is Order.DOWN or (element.order is Order.EITHER and downwards)
        with np.errstate(over="ignore"):
            errors += kernel(words, 0, 3, down, operations, zero, zero, None, None)
    expected = interpret(PROGRAMS[name], fault.memory(first), Order.DOWN if downwards else Order.UP)
    assert (errors > 0) == (expected is not None)
