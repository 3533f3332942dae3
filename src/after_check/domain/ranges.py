"""Ranges of physical memory: pairs of first byte and the byte behind the last, sorted and apart."""

from __future__ import annotations

from collections.abc import Iterable

Ranges = tuple[tuple[int, int], ...]
"""Pairs of first byte and the byte behind the last."""


def merged(ranges: Iterable[tuple[int, int]]) -> Ranges:
    """Return ranges sorted, with those that touch or overlap made one; empty ones are left out."""
    found: list[tuple[int, int]] = []
    for first, end in sorted(ranges):
        if end <= first:
            continue
        if found and first <= found[-1][1]:
            found[-1] = (found[-1][0], max(found[-1][1], end))
        else:
            found.append((first, end))
    return tuple(found)


def without(ranges: Iterable[tuple[int, int]], others: Iterable[tuple[int, int]]) -> Ranges:
    """Return what is in `ranges` and in none of `others`."""
    taken = merged(others)
    found: list[tuple[int, int]] = []
    for first, end in merged(ranges):
        for other_first, other_end in taken:
            if other_end <= first or other_first >= end:
                continue
            found.append((first, min(other_first, end)))
            first = other_end
            if first >= end:
                break
        found.append((first, end))
    return merged(found)


def first_of(ranges: Iterable[tuple[int, int]], size_bytes: int | None) -> Ranges:
    """Return the beginning of ranges, so many bytes of them; all where no size is given."""
    left = size_bytes
    found: list[tuple[int, int]] = []
    for first, end in merged(ranges):
        if left is not None:
            end = min(end, first + left)
            left -= end - first
        found.append((first, end))
    return merged(found)


def both(ranges: Iterable[tuple[int, int]], others: Iterable[tuple[int, int]]) -> Ranges:
    """Return what is in `ranges` and in `others`."""
    ranges, others = merged(ranges), merged(others)
    return without(ranges, without(ranges, others))


def size_of(ranges: Iterable[tuple[int, int]]) -> int:
    """Return the bytes in ranges that are apart."""
    return sum(max(0, end - first) for first, end in ranges)
