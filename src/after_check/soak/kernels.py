"""The compiled loops of the memory tests. They hold no interpreter lock; each thread runs them on a region of its own.

Memory is an array of 64-bit words. A block of 64 words (eight cache lines) takes the part that a cell has in the
literature: an element's operations are done to a block before the next one. The first value of a word is worked out
from its index by a background; the second is its inverse.

Where an element only reads once and writes once, as most do, the region is larger than the caches and each block
comes from memory by order alone. Where it does more to a block, the block's group is thrown out of the caches after
every operation, so that the next one finds it in memory again; what is written goes past the caches where it can.
`docs/memory-tests.md` has the measurements.
"""

from __future__ import annotations

import functools
from typing import Any

import numba
import numpy as np
from numpy.typing import NDArray

from after_check.host.instructions import CAN_STORE_PAST, LINE_BYTES, barrier, copy_past, fence, fetch_line, flush_line
from after_check.host.slices import Words
from after_check.host.splitmix import STEP, mixed
from after_check.soak.backgrounds import ADDRESS, CONSTANT, RANDOM, WALKING

_njit: Any = numba.njit

BLOCK_WORDS = 64
LINE_WORDS = LINE_BYTES // 8
PAST_BYTES = 32
"""What one store past the caches takes, and where it may begin."""
GROUP_BLOCKS = 8
"""Blocks that are flushed together: a fence costs less, and the order within 4 KiB is by operation, not by block."""

AHEAD_BLOCKS = 8
"""How far ahead of a sweep lines are asked for: as far as the time that one of them takes to come."""

LOG_COLUMNS = 5
"""Index of the word, found, expected, read again at once, read again after it was thrown out of the caches."""

_ZERO = np.uint64(0)
_ONE = np.uint64(1)
WHOLE_BLOCK = np.uint64(BLOCK_WORDS)
_BLOCK_BITS = np.uint64(BLOCK_WORDS.bit_length() - 1)


@_njit(nogil=True, inline="always", cache=True)
def block_number(seed: np.uint64, block: np.uint64) -> np.uint64:
    """Return the random number of a block: those of a seed, counted upwards."""
    number: np.uint64 = mixed(seed + (block + _ONE) * STEP)
    return number


@_njit(nogil=True, inline="always", cache=True)
def place_number(seed: np.uint64, place: np.uint64) -> np.uint64:
    """Return the random number of a word's place in its block: those of a seed, counted downwards."""
    number: np.uint64 = mixed(seed - (place + _ONE) * STEP)
    return number


@_njit(nogil=True, inline="always", cache=True)
def scattered(block: np.uint64, place: np.uint64) -> np.uint64:
    """Return the random word of a block and a place in it.

    A random number for each word would take longer than the memory. Any two or three bits of memory are as independent
    as the two numbers are; the sum's carries and the upper bits over the lower ones part those of four words in a square.
    """
    both = block + place
    return both ^ (both >> np.uint64(29))


@_njit(nogil=True, cache=True)
def place_numbers(kind: int, seed: np.uint64) -> Words:
    """Return the numbers of a block's places, once for all blocks; where the background is not random, they are not looked at."""
    places = np.zeros(BLOCK_WORDS, dtype=np.uint64)
    if kind == RANDOM:
        for place in range(WHOLE_BLOCK):
            places[place] = place_number(seed, place)
    return places


@_njit(nogil=True, inline="always", cache=True)
def background_word(kind: int, first: np.uint64, second: np.uint64, index: np.uint64) -> np.uint64:
    """Return the word of a background at an index.

    CONSTANT: `first`, with `second` flipped in every other word. WALKING: one bit that moves on from word to word,
    from bit `first`. ADDRESS: the word's own offset in bytes from `first`. RANDOM: from seed `first`, as `scattered` says.
    """
    if kind == CONSTANT:
        return first ^ (second & (_ZERO - (index & _ONE)))
    if kind == WALKING:
        return _ONE << ((index + first) & np.uint64(63))
    if kind == ADDRESS:
        return first + (index << np.uint64(3))
    number: np.uint64 = scattered(block_number(first, index >> _BLOCK_BITS), place_number(first, index & (WHOLE_BLOCK - _ONE)))
    return number


@_njit(nogil=True, cache=True)
def flush_words(words: Words, first: np.uint64, last: np.uint64) -> None:
    """Throw the words from first to last out of the caches, and wait until they are."""
    base = np.uint64(words.ctypes.data)
    for index in range(first, last, np.uint64(LINE_WORDS)):
        flush_line(np.uintp(base + (index << np.uint64(3))))
    fence()


@_njit(nogil=True, cache=True)
def note_errors(
    words: Words,
    first: np.uint64,
    last: np.uint64,
    kind: int,
    one: np.uint64,
    two: np.uint64,
    flip: np.uint64,
    log: NDArray[np.uint64],
    noted: int,
    lanes: NDArray[np.int64],
) -> int:
    """Count and log the wrong words from first to last; each is read again at once, and again from memory."""
    errors = 0
    for index in range(first, last):
        expected = flip ^ background_word(kind, one, two, index)
        found = words[index]
        bits = found ^ expected
        if bits == np.uint64(0):
            continue
        for bit in range(64):
            if (bits >> np.uint64(bit)) & _ONE:
                lanes[bit, np.int64((found >> np.uint64(bit)) & _ONE)] += 1
        if noted + errors < log.shape[0]:
            barrier()
            again = words[index]
            line = index & ~np.uint64(LINE_WORDS - 1)
            flush_words(words, line, line + np.uint64(LINE_WORDS))
            barrier()
            row = noted + errors
            log[row, 0] = index
            log[row, 1] = found
            log[row, 2] = expected
            log[row, 3] = again
            log[row, 4] = words[index]
        errors += 1
    return errors


@_njit(nogil=True, inline="always", cache=True)
def head_of(kind: int, one: np.uint64, begin: np.uint64) -> np.uint64:
    """Return what the words of a block have in common: for random data the block's number, once for all its words."""
    number: np.uint64 = block_number(one, begin >> _BLOCK_BITS) if kind == RANDOM else _ZERO
    return number


@_njit(nogil=True, inline="always", cache=True)
def word_of(kind: int, one: np.uint64, two: np.uint64, begin: np.uint64, head: np.uint64, places: Words, word: np.uint64) -> np.uint64:
    """Return a word of a block: `background_word` with what does not change in the block worked out before."""
    value: np.uint64 = scattered(head, places[word]) if kind == RANDOM else background_word(kind, one, two, begin + word)
    return value


@_njit(nogil=True, inline="always", cache=True)
def differs(words: Words, begin: np.uint64, kind: int, one: np.uint64, two: np.uint64, flip: np.uint64, places: Words) -> np.uint64:
    """Return the bits in which any word of a block differs from its background."""
    head = head_of(kind, one, begin)
    wrong = _ZERO
    for word in range(WHOLE_BLOCK):
        wrong |= words[begin + word] ^ flip ^ word_of(kind, one, two, begin, head, places, word)
    return wrong


@_njit(nogil=True, inline="always", cache=True)
def fill(target: Words, at: np.uint64, begin: np.uint64, kind: int, one: np.uint64, two: np.uint64, flip: np.uint64, places: Words) -> None:
    """Write the background of the block that begins at `begin` into a target, from `at` on."""
    head = head_of(kind, one, begin)
    for word in range(WHOLE_BLOCK):
        target[at + word] = flip ^ word_of(kind, one, two, begin, head, places, word)


@_njit(nogil=True, inline="always", cache=True)
def turn(words: Words, begin: np.uint64, change: np.uint64) -> None:
    """Flip bits of a block whose words were just found right: the same as to write its other value, worked out once less."""
    for word in range(WHOLE_BLOCK):
        words[begin + word] ^= change


@_njit(nogil=True, inline="always", cache=True)
def ask_for(words: Words, begin: np.uint64) -> None:
    """Ask memory for a block that will be read soon: what a processor guesses by itself runs dry while it works words out."""
    base = np.uint64(words.ctypes.data) + (begin << np.uint64(3))
    for at in range(np.uint64(0), np.uint64(BLOCK_WORDS * 8), np.uint64(LINE_BYTES)):
        fetch_line(np.uintp(base + at))


@_njit(nogil=True, inline="always", cache=True)
def store_past(block: Words, words: Words, begin: np.uint64) -> None:
    """Copy a block to its place past the caches, so that the next read finds it in memory."""
    source, target = np.uint64(block.ctypes.data), np.uint64(words.ctypes.data) + (begin << np.uint64(3))
    for at in range(np.uint64(0), np.uint64(BLOCK_WORDS * 8), np.uint64(PAST_BYTES)):
        copy_past(np.uintp(target + at), np.uintp(source + at))


@_njit(nogil=True, inline="always", cache=True)
def may_store_past(words: Words) -> bool:
    """Whether words lie so that they can be stored past the caches."""
    return CAN_STORE_PAST and (np.uint64(words.ctypes.data) & np.uint64(PAST_BYTES - 1)) == _ZERO


@functools.cache
def streamed_kernel(kind: int) -> Any:
    """Return the kernel for elements of at most one read and then one write, for one kind of background.

    A kernel for each kind, as one for all of them is vectorised badly.
    """

    @_njit(nogil=True, cache=True)
    def streamed(
        words: Words,
        first: int,
        last: int,
        down: bool,
        operations: NDArray[np.int64],
        one: np.uint64,
        two: np.uint64,
        log: NDArray[np.uint64],
        lanes: NDArray[np.int64],
    ) -> int:
        reads = (operations[0] & 2) != 0
        writes = (operations[-1] & 2) == 0
        read_flip = _ZERO - np.uint64(operations[0] & 1)
        write_flip = _ZERO - np.uint64(operations[-1] & 1)
        blocks = (last - first) // BLOCK_WORDS
        places = place_numbers(kind, one)
        ahead = np.uint64(AHEAD_BLOCKS * BLOCK_WORDS)
        errors = 0
        for step in range(blocks):
            begin = np.uint64(first + (blocks - 1 - step if down else step) * BLOCK_WORDS)
            if step + AHEAD_BLOCKS < blocks:
                ask_for(words, begin - ahead if down else begin + ahead)
            right = not reads or differs(words, begin, kind, one, two, read_flip, places) == _ZERO
            if not right:
                errors += note_errors(words, begin, begin + WHOLE_BLOCK, kind, one, two, read_flip, log, errors, lanes)
            if writes and kind == RANDOM and reads and right:
                turn(words, begin, read_flip ^ write_flip)
            elif writes:
                fill(words, begin, begin, kind, one, two, write_flip, places)
        return errors

    return streamed


@functools.cache
def grouped_kernel(kind: int) -> Any:
    """Return the kernel for elements that do more to a block: its group leaves the caches after every operation."""
    repeats = kind in (CONSTANT, WALKING)  # All blocks hold the same: a pattern's period divides a block.

    @_njit(nogil=True, cache=True)
    def grouped(
        words: Words,
        first: int,
        last: int,
        down: bool,
        operations: NDArray[np.int64],
        one: np.uint64,
        two: np.uint64,
        log: NDArray[np.uint64],
        lanes: NDArray[np.int64],
    ) -> int:
        blocks = (last - first) // BLOCK_WORDS
        groups = (blocks + GROUP_BLOCKS - 1) // GROUP_BLOCKS
        places = place_numbers(kind, one)
        block = np.empty(BLOCK_WORDS, dtype=np.uint64)
        past = may_store_past(words)
        errors = 0
        for step in range(groups):
            lowest = (groups - 1 - step if down else step) * GROUP_BLOCKS
            count = min(GROUP_BLOCKS, blocks - lowest)
            group = np.uint64(first + lowest * BLOCK_WORDS)
            for number in range(operations.shape[0]):
                flip = _ZERO - np.uint64(operations[number] & 1)
                writes = (operations[number] & 2) == 0
                if writes and past and repeats:
                    fill(block, _ZERO, group, kind, one, two, flip, places)
                for at in range(count):
                    begin = group + np.uint64((count - 1 - at if down else at) * BLOCK_WORDS)
                    if writes and past:
                        if not repeats:
                            fill(block, _ZERO, begin, kind, one, two, flip, places)
                        store_past(block, words, begin)
                    elif writes:
                        fill(words, begin, begin, kind, one, two, flip, places)
                    elif differs(words, begin, kind, one, two, flip, places) != _ZERO:
                        errors += note_errors(words, begin, begin + WHOLE_BLOCK, kind, one, two, flip, log, errors, lanes)
                if writes and past:
                    fence()
                else:
                    flush_words(words, group, group + np.uint64(count * BLOCK_WORDS))
        return errors

    return grouped


def sweep(
    words: Words,
    first: int,
    last: int,
    down: bool,
    operations: NDArray[np.int64],
    kind: int,
    one: np.uint64,
    two: np.uint64,
    log: NDArray[np.uint64],
    lanes: NDArray[np.int64],
) -> int:
    """Run one element over the words from first to last (multiples of BLOCK_WORDS); return how many words were wrong.

    `operations` holds 2 for a read and 0 for a write, plus 1 where the value is the inverse of the background. `log`
    has LOG_COLUMNS columns and takes the first errors; `lanes` (64 × 2) counts each wrong bit by what was found.
    """
    kernel = streamed_kernel(kind) if is_streamed(operations) else grouped_kernel(kind)
    return int(kernel(words, first, last, down, operations, one, two, log, lanes))


def is_streamed(operations: NDArray[np.int64]) -> bool:
    """Whether an element needs no flush between its operations: one of them, or a read and then a write."""
    return len(operations) == 1 or (len(operations) == 2 and bool(operations[0] & 2) and not operations[1] & 2)


@_njit(nogil=True, cache=True)
def read_alternately(words: Words, one: np.uint64, other: np.uint64, times: int) -> np.uint64:
    """Read two words in turn, each time from memory: the access that disturbs the rows beside those of the words."""
    base = np.uint64(words.ctypes.data)
    seen = np.uint64(0)
    for _ in range(times):
        seen ^= words[one]
        seen ^= words[other]
        flush_line(np.uintp(base + (one << np.uint64(3))))
        flush_line(np.uintp(base + (other << np.uint64(3))))
        barrier()
    fence()
    return seen


@functools.cache
def moving_kernel(kind: int) -> Any:
    """Return the kernel that copies what one kind of background wrote, and looks at each word before it is copied."""

    @_njit(nogil=True, cache=True)
    def moved(
        source: Words,
        target: Words,
        piece_words: int,
        one: np.uint64,
        two: np.uint64,
        log: NDArray[np.uint64],
        lanes: NDArray[np.int64],
    ) -> int:
        places = place_numbers(kind, one)
        pieces = (source.size + piece_words - 1) // piece_words
        errors = 0
        for step in range(pieces):
            number = step // 2 if step % 2 == 0 else pieces - 1 - step // 2
            at, last = np.uint64(number * piece_words), np.uint64(min((number + 1) * piece_words, source.size))
            while at < last:
                begin = at & ~np.uint64(BLOCK_WORDS - 1)
                end = min(begin + WHOLE_BLOCK, last)
                head = head_of(kind, one, begin)
                wrong = _ZERO
                for index in range(at, end):
                    found = source[index]
                    wrong |= found ^ word_of(kind, one, two, begin, head, places, index - begin)
                    target[index] = found
                if wrong != _ZERO:
                    errors += note_errors(source, at, end, kind, one, two, _ZERO, log, errors, lanes)
                    # An error stays where it arose: neither half goes on with it.
                    for index in range(at, end):
                        right = word_of(kind, one, two, begin, head, places, index - begin)
                        source[index] = right
                        target[index] = right
                at = end
        return errors

    return moved


def move_checked(
    source: Words,
    target: Words,
    piece_words: int,
    kind: int,
    one: np.uint64,
    two: np.uint64,
    log: NDArray[np.uint64],
    lanes: NDArray[np.int64],
) -> int:
    """Copy what a background wrote, in pieces from both ends towards the middle, so that reads and writes jump.

    Each word is looked at before it is copied, and a wrong one is put right in both places: else one flipped bit would be found
    again at an address that nothing touched. Return how many words were wrong; `log` and `lanes` as for `sweep`.
    """
    return int(moving_kernel(kind)(source, target, piece_words, one, two, log, lanes))


def empty_log(errors: int) -> NDArray[np.uint64]:
    """Return a log for so many errors."""
    return np.zeros((errors, LOG_COLUMNS), dtype=np.uint64)


def empty_lanes() -> NDArray[np.int64]:
    """Return counters by bit, and by the value that was found."""
    return np.zeros((64, 2), dtype=np.int64)


def word(value: int) -> Any:
    """Return a number of 64 bits as the kernels take it."""
    return np.uint64(value & 0xFFFFFFFFFFFFFFFF)
