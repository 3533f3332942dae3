"""What the threads of a soak count, put together: the memory under test as blocks, and which bits were wrong."""

from __future__ import annotations

from collections.abc import Sequence

from after_check.domain.soak import Block
from after_check.host.slices import Slice
from after_check.soak.work import Tally


def blocks_of(slices: Sequence[Slice], tallies: Sequence[Tally]) -> tuple[Block, ...]:
    """Return what each slice shows, by what the threads have begun, swept and found."""
    begun = set().union(*(set(tally.begun) for tally in tallies))
    swept = set().union(*(set(tally.swept) for tally in tallies))
    wrong = set().union(*(set(tally.wrong) for tally in tallies))

    def block(number: int, piece: Slice) -> Block:
        if piece.given_back:
            return Block.GIVEN_BACK
        if number in wrong:
            return Block.WRONG
        if number in swept:
            return Block.CLEAN
        return Block.UNDER_WAY if number in begun else Block.WAITING

    return tuple(block(number, piece) for number, piece in enumerate(slices))


def lane_counts(before: Sequence[tuple[int, int]], tallies: Sequence[Tally]) -> tuple[tuple[int, int], ...]:
    """Return how often each of 64 bits was found 0 for 1 and 1 for 0, what was counted before included."""
    lanes = [list(pair) for pair in before] or [[0, 0] for _ in range(64)]
    for tally in tallies:
        for lane in range(64):
            lanes[lane][0] += int(tally.lanes[lane, 0])
            lanes[lane][1] += int(tally.lanes[lane, 1])
    return tuple((low, high) for low, high in lanes)
