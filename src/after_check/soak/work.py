"""One thread's part of a step: its slices, swept element by element, with what was wrong in them."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from after_check.domain.errors import AfterCheckError
from after_check.domain.soak import WrongWord
from after_check.host.pages import PageMap
from after_check.host.slices import Slice, Words
from after_check.soak import kernels
from after_check.soak.march import Element, Order
from after_check.soak.plans import USUAL_PAUSE_SECONDS, Step, Work

MOST_KEPT_A_STEP = 200
_LOG_ERRORS = 64
_ROW_READS = 300_000
"""About as many as fit between two refreshes of a row (64 ms): what a busy program may do by itself."""
_ROW_PAIRS = 2
_ROW_APART_BYTES = 256 << 10
MOVE_WORDS = (1 << 16, 4096, 1000)
_NOT_NUMBERED = -1


class SoakStoppedError(AfterCheckError):
    """The soak is to stop."""


@dataclass
class Signals:
    """What a person asks of a running soak."""

    stop: threading.Event = field(default_factory=threading.Event)
    paused: threading.Event = field(default_factory=threading.Event)

    def check(self) -> None:
        """Wait while paused. Raises SoakStoppedError."""
        while self.paused.is_set() and not self.stop.is_set():
            time.sleep(0.05)
        if self.stop.is_set():
            raise SoakStoppedError


@dataclass
class Tally:
    """What one thread has done and found; the engine reads it while the thread goes on."""

    streamed_bytes: int = 0
    grouped_bytes: int = 0
    streamed_seconds: float = 0.0
    grouped_seconds: float = 0.0
    errors: int = 0
    kept: list[WrongWord] = field(default_factory=list)
    lanes: NDArray[np.int64] = field(default_factory=kernels.empty_lanes)
    begun: set[int] = field(default_factory=set)
    wrong: set[int] = field(default_factory=set)
    swept: set[int] = field(default_factory=set)

    @property
    def bytes_done(self) -> int:
        """Bytes that were read or written."""
        return self.streamed_bytes + self.grouped_bytes


@dataclass(frozen=True, slots=True)
class _Left:
    """What a step left in a slice: its background with a value, whole or as two halves that each begin it again."""

    step: Step
    value: int
    in_halves: bool = False


class _Way(NamedTuple):
    """How many words of a slice are swept, from its beginning, and whether downwards."""

    words: int
    down: bool = False


class Worker:
    """Runs steps on some of the slices. `turn_bytes` is how much at the end of a sweep may still be in a cache,
    `core` the core that it stays on.
    """

    def __init__(
        self,
        numbered: Sequence[tuple[int, Slice]],
        signals: Signals,
        clock: Callable[[], float],
        pages: PageMap,
        turn_bytes: int,
        core: int | None = None,
    ) -> None:
        self.slices = numbered
        self.core = core
        self._signals = signals
        self._clock = clock
        self._pages = pages
        self._turn_bytes = turn_bytes
        self._log = kernels.empty_log(_LOG_ERRORS)
        self.tally = Tally()
        self._left: dict[int, _Left] = {}
        self._wrong_in_step: set[int] = set()

    def run(self, step: Step) -> None:
        """Do a step. Raises SoakStoppedError.

        What the step before left in a slice is read before it is written over: a bit that flips between a step's last
        look and the next step's first write would else be lost.
        """
        self.tally.begun.clear()
        self.tally.swept.clear()
        self._kept_before = len(self.tally.kept)
        if step.work is Work.MOVES:
            self._moves(step)
        elif step.work is Work.ROWS:
            self._rows(step)
        elif step.program is not None:
            value = 0
            for number, element in enumerate(step.program.elements):
                if element.is_pause:
                    self._wait(USUAL_PAUSE_SECONDS if element.pause_seconds is None else element.pause_seconds)
                else:
                    self._element(step, element, number == len(step.program.elements) - 1)
                    value = element.operations[-1].value
            for number, piece in self.slices:
                if not piece.given_back:
                    self._left[number] = _Left(step, value)

    def look_first(self, step: Step, piece: Slice) -> None:
        """Write a slice that was just taken, and read it. Raises SoakStoppedError."""
        self._kept_before = len(self.tally.kept)
        for operation in (0, 2):
            self._signals.check()
            self._sweep(step, _NOT_NUMBERED, piece, _Way(piece.words.size), np.array([operation], dtype=np.int64))

    def look_back(self) -> None:
        """Read what the last step left in every slice. Raises SoakStoppedError."""
        for number, piece in self._in_order(False):
            self._look_back(number, piece)

    def _look_back(self, number: int, piece: Slice) -> None:
        """Read what a step left in a slice, once. Words that were found wrong stay wrong and are not to be counted twice."""
        left = self._left.pop(number, None)
        was_wrong = number in self._wrong_in_step
        self._wrong_in_step.discard(number)
        if left is None or was_wrong:
            return
        read = np.array([2 + left.value], dtype=np.int64)
        if not left.in_halves:
            self._sweep(left.step, number, piece, _Way(piece.words.size), read)
            return
        half = _half(piece)
        for offset, words in ((0, piece.words[:half]), (half, piece.words[half : 2 * half])):
            self._part(left.step, number, piece, words, offset, read)

    def _element(self, step: Step, element: Element, is_last: bool) -> None:
        """Sweep all slices in the element's order, then throw out what the caches still hold of the sweep's end."""
        operations = np.array([2 * operation.is_read + operation.value for operation in element.operations], dtype=np.int64)
        down = element.order is Order.DOWN
        at_the_end: list[Slice] = []
        for number, piece in self._in_order(down):
            self._look_back(number, piece)
            self._sweep(step, number, piece, _Way(piece.words.size, down), operations)
            at_the_end.append(piece)
            if is_last:
                self.tally.swept.add(number)
        left = self._turn_bytes
        for piece in reversed(at_the_end):
            if left <= 0:
                break
            if not piece.given_back:
                count = min(piece.words.size, left // 8)
                first = 0 if down else piece.words.size - count
                kernels.flush_words(piece.words, np.uint64(first), np.uint64(first + count))
                left -= count * 8

    def _in_order(self, down: bool) -> Iterator[tuple[int, Slice]]:
        for number, piece in reversed(self.slices) if down else self.slices:
            self._signals.check()
            if piece.wanted_back and not piece.given_back:
                piece.give_back()
            if not piece.given_back:
                self.tally.begun.add(number)
                yield number, piece

    def _sweep(self, step: Step, number: int, piece: Slice, way: _Way, operations: NDArray[np.int64]) -> None:
        background = step.background
        begun = time.perf_counter()
        wrong = kernels.sweep(
            piece.words,
            0,
            way.words,
            way.down,
            operations,
            background.kind,
            kernels.word(background.first),
            kernels.word(background.second),
            self._log,
            self.tally.lanes,
        )
        spent = time.perf_counter() - begun
        done = way.words * 8 * len(operations)
        if kernels.is_streamed(operations):
            self.tally.streamed_bytes += done
            self.tally.streamed_seconds += spent
        else:
            self.tally.grouped_bytes += done
            self.tally.grouped_seconds += spent
        if wrong:
            self._found(step, number, piece, wrong)

    def _found(self, step: Step, number: int, piece: Slice, wrong: int) -> None:
        address, physical_byte = piece.address, piece.physical_byte
        self.tally.errors += wrong
        self.tally.wrong.add(number)
        self._wrong_in_step.add(number)
        for row in self._log[: min(wrong, _LOG_ERRORS)]:
            if len(self.tally.kept) - self._kept_before >= MOST_KEPT_A_STEP:
                break
            index, found, expected, at_once, from_memory = (int(value) for value in row)
            virtual = address + index * 8
            physical = physical_byte + index * 8 if physical_byte is not None else self._pages.physical_byte(virtual)
            at = round(self._clock(), 3)
            self.tally.kept.append(WrongWord(at, step.name, virtual, physical, expected, found, at_once, from_memory, step.during))

    def _wait(self, seconds: float) -> None:
        until = time.monotonic() + seconds
        while time.monotonic() < until:
            self._signals.check()
            time.sleep(min(0.1, max(0.0, until - time.monotonic())))

    def _moves(self, step: Step) -> None:
        """Copy one half of each slice to the other and back, in pieces of several sizes, and verify it each time."""
        write, read = np.array([0], dtype=np.int64), np.array([2], dtype=np.int64)
        for number, piece in self._in_order(False):
            self._look_back(number, piece)
            half = _half(piece)
            near, far = piece.words[:half], piece.words[half : 2 * half]
            self._part(step, number, piece, near, 0, write)
            for turn, words in enumerate(MOVE_WORDS):
                self._signals.check()
                if turn:
                    self._part(step, number, piece, far, half, read)
                self._move(step, number, piece, (0, half), words)
                kernels.flush_words(piece.words, np.uint64(0), np.uint64(piece.words.size))
                self._part(step, number, piece, far, half, read)
                # Both halves are looked at before they are written over: what flipped meanwhile would else be lost.
                self._part(step, number, piece, near, 0, read)
                near[:] = 0
                self._move(step, number, piece, (half, 0), words)
                kernels.flush_words(piece.words, np.uint64(0), np.uint64(piece.words.size))
                self._part(step, number, piece, near, 0, read)
            self._left[number] = _Left(step, 0, in_halves=True)
            self.tally.swept.add(number)

    def _move(self, step: Step, number: int, piece: Slice, way: tuple[int, int], piece_words: int) -> None:
        """Copy one half of a slice, from and to these words of it; what is wrong before it is copied is an error where it is."""
        (source, target), half, background = way, _half(piece), step.background
        wrong = kernels.move_checked(
            piece.words[source : source + half],
            piece.words[target : target + half],
            piece_words,
            background.kind,
            kernels.word(background.first),
            kernels.word(background.second),
            self._log,
            self.tally.lanes,
        )
        if wrong:
            self._found(step, number, _part_of(piece, piece.words[source : source + half], source), wrong)

    def _part(self, step: Step, number: int, piece: Slice, words: Words, offset: int, operations: NDArray[np.int64]) -> None:
        """Sweep a part of a slice with a background that begins at the part."""
        self._sweep(step, number, _part_of(piece, words, offset), _Way(words.size // kernels.BLOCK_WORDS * kernels.BLOCK_WORDS), operations)

    def _rows(self, step: Step) -> None:
        """Read pairs of far apart words again and again, then look whether anything near them changed."""
        write, read = np.array([0], dtype=np.int64), np.array([2], dtype=np.int64)
        for number, piece in self._in_order(False):
            self._look_back(number, piece)
            self._sweep(step, number, piece, _Way(piece.words.size), write)
            kernels.flush_words(piece.words, np.uint64(0), np.uint64(piece.words.size))
            apart = _ROW_APART_BYTES // 8
            for pair in range(_ROW_PAIRS):
                self._signals.check()
                first_word = piece.words.size * (pair + 1) // (_ROW_PAIRS + 2)
                if first_word + apart < piece.words.size:
                    kernels.read_alternately(piece.words, np.uint64(first_word), np.uint64(first_word + apart), _ROW_READS)
            self._sweep(step, number, piece, _Way(piece.words.size), read)
            self._left[number] = _Left(step, 0)
            self.tally.swept.add(number)


def _half(piece: Slice) -> int:
    """Return how many words half of a slice has, in whole blocks: a background begins again in each half, and is of whole blocks."""
    return piece.words.size // 2 // kernels.BLOCK_WORDS * kernels.BLOCK_WORDS


def _part_of(piece: Slice, words: Words, offset: int) -> Slice:
    """Return a part of a slice as a slice of its own: its words, which begin so many words behind the slice's."""
    physical_byte = piece.physical_byte + offset * 8 if piece.physical_byte is not None else None
    return Slice(words, piece.mapping, piece.address + offset * 8, piece.locked, physical_byte=physical_byte)
