"""Data backgrounds: what the "0" of a march program is in words of 64 bits.

With solid data alone, faults between bits of a word stay hidden, as all bits change together. The set of
log2(64) + 1 = 7 stripes shows every pair of bits both equal and different (A. J. van de Goor and I. B. S. Tlili,
"March Tests for Word-Oriented Memories", DATE 1998).
"""

from __future__ import annotations

from dataclasses import dataclass

CONSTANT = 0
"""One word, with `second` flipped in every other word."""
WALKING = 1
"""One bit that moves on from word to word."""
ADDRESS = 2
"""The word's own offset in bytes."""
RANDOM = 3
"""A number from a seed (Weyl's sequence through a xorshift)."""


_ALL = 0xFFFFFFFFFFFFFFFF
_STEP = 0x9E3779B97F4A7C15


def _mixed(state: int) -> int:
    """SplitMix64's mixing (Steele, Lea and Flood, "Fast splittable pseudorandom number generators", 2014)."""
    state &= _ALL
    state = ((state ^ (state >> 30)) * 0xBF58476D1CE4E5B9) & _ALL
    state = ((state ^ (state >> 27)) * 0x94D049BB133111EB) & _ALL
    return state ^ (state >> 31)


@dataclass(frozen=True, slots=True)
class Background:
    """A background by name; `kind`, `first` and `second` are what the kernels take."""

    name: str
    kind: int
    first: int = 0
    second: int = 0

    def word(self, index: int) -> int:
        """Return the word at an index: the plain reference of the kernels' arithmetic."""
        if self.kind == CONSTANT:
            return self.first ^ (self.second if index % 2 else 0)
        if self.kind == WALKING:
            return 1 << ((index + self.first) % 64)
        if self.kind == ADDRESS:
            return (self.first + 8 * index) & _ALL
        block, place = divmod(index, 64)
        both = (_mixed(self.first + (block + 1) * _STEP) + _mixed(self.first - (place + 1) * _STEP)) & _ALL
        return both ^ (both >> 29)


def stripe(width_bits: int) -> int:
    """Return a word of stripes: `width_bits` zeros, as many ones, and so on, from the lowest bit."""
    return sum(1 << bit for bit in range(64) if bit // width_bits % 2)


SOLID = Background("solid", CONSTANT, 0)
CHECKERBOARD = Background("checkerboard", CONSTANT, stripe(1), _ALL)
COLUMNS = Background("column stripes", CONSTANT, stripe(1))
OWN_ADDRESS = Background("own address", ADDRESS)
STRIPES = tuple(Background(f"stripes of {width}", CONSTANT, stripe(width)) for width in (2, 4, 8, 16, 32))
"""With SOLID and COLUMNS, every pair of bits of a word is seen equal and different."""


def walking(step: int) -> Background:
    """Return the background of one bit that walks; with the steps 0 to 63 it is at every bit of every word."""
    return Background(f"walking bit {step}", WALKING, step)


def random(seed: int) -> Background:
    """Return random data of a seed; its inverse is the "1"."""
    return Background(f"random {seed:x}", RANDOM, seed & _ALL)


def background_named(name: str) -> Background | None:
    """Return a background by its name: solid, checkerboard, column stripes, own address, stripes of N, walking bit N, random SEED."""
    key = " ".join(name.casefold().split())
    for known in (SOLID, CHECKERBOARD, COLUMNS, OWN_ADDRESS, *STRIPES):
        if known.name == key:
            return known
    words = key.split()
    if key.startswith("walking") and words[-1].isdigit() and int(words[-1]) < 64:
        return walking(int(words[-1]))
    if key.startswith("random"):
        try:
            return random(int(words[-1], 16)) if len(words) > 1 else random(0)
        except ValueError:
            return None
    return None
