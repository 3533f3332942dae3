"""Memory nodes of a large machine: which cores are near which memory, from whom it is taken, and who tests what.

Linux: sysfs-devices-node (the kernel's ABI documents) and numa(7). A page comes from the node of the core that touches it
first, so each piece is taken, and later tested, by threads on the cores of one node; over the wire between nodes a test
would measure the wire. Where there is one node, or the system tells of none, nothing changes.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from itertools import pairwise

from after_check.domain.quantities import KIB
from after_check.files.tree import Files, UnreadableError
from after_check.host.slices import Slice
from after_check.sources.machine_files import NODES

_MOST_NODES = 1024


@dataclass(frozen=True, slots=True)
class NumaNode:
    """A node: its number, those of its cores that may be used, and how many bytes of its memory are free or easily freed."""

    number: int
    cores: tuple[int, ...]
    free_bytes: int


@dataclass(frozen=True, slots=True)
class Share:
    """What one thread tests: slices with their numbers, and the core that it stays on."""

    core: int | None
    numbered: tuple[tuple[int, Slice], ...]


def memory_nodes(files: Files, usable: Collection[int]) -> tuple[NumaNode, ...]:
    """Return the nodes with cores that may be used; none where there are fewer than two."""
    found: list[NumaNode] = []
    for number in _numbers(_text(files, f"{NODES}/has_normal_memory") or _text(files, f"{NODES}/online"))[:_MOST_NODES]:
        cores = tuple(core for core in _numbers(_text(files, f"{NODES}/node{number}/cpulist")) if core in usable)
        if cores:
            found.append(NumaNode(number, cores, _free_bytes(_text(files, f"{NODES}/node{number}/meminfo"))))
    return tuple(found) if len(found) > 1 else ()


class Turns:
    """From which node the next piece is taken: the one that has most left."""

    def __init__(self, nodes: Sequence[NumaNode]) -> None:
        self._left = {node: node.free_bytes for node in nodes}

    def next(self, size_bytes: int) -> NumaNode | None:
        """Return the node for a piece of so many bytes; None where there are no nodes."""
        if not self._left:
            return None
        node = max(self._left, key=lambda one: (self._left[one], -one.number))
        self._left[node] -= size_bytes
        return node


def shared_out(slices: Sequence[Slice], threads: int, nodes: Sequence[NumaNode], cores: Sequence[int]) -> tuple[Share, ...]:
    """Share slices out to at most so many threads: neighbours to one thread, and each slice to a core of its own node.

    Each thread of a node gets as many slices as the others, or one less. `cores` are those that may be used.
    """
    numbered = tuple(enumerate(slices))
    by_node: dict[int | None, list[tuple[int, Slice]]] = {}
    known = {node.number: node for node in nodes}
    for number, piece in numbered:
        by_node.setdefault(piece.node if piece.node in known else None, []).append((number, piece))
    if len(by_node) < 2 or None in by_node:
        return _evenly(numbered, threads, cores)
    of_all = sum(len(known[number].cores) for number in by_node if number is not None)
    found: list[Share] = []
    for node in nodes:
        if node.number in by_node:
            found += _evenly(by_node[node.number], max(1, round(threads * len(node.cores) / of_all)), node.cores)
    return tuple(found)


def _evenly(numbered: Sequence[tuple[int, Slice]], threads: int, cores: Sequence[int]) -> tuple[Share, ...]:
    count = max(1, min(threads, len(numbered)))
    ends = [len(numbered) * at // count for at in range(count + 1)]
    return tuple(
        Share(cores[at % len(cores)] if cores else None, tuple(numbered[first:end])) for at, (first, end) in enumerate(pairwise(ends))
    )


def _text(files: Files, name: str) -> str:
    try:
        return files.read(name, 64 * KIB).decode("ascii", "replace")
    except UnreadableError:
        return ""


def _numbers(text: str) -> tuple[int, ...]:
    """Return the numbers of a list like `0-3,8,10-11` (the kernel's cpulist); what is none is left out."""
    found: list[int] = []
    for part in text.strip().split(","):
        first, _, last = part.partition("-")
        if first.isdigit() and (last or first).isdigit() and int(last or first) - int(first) < 1 << 16:
            found += range(int(first), int(last or first) + 1)
    return tuple(found)


def _free_bytes(text: str) -> int:
    """Return what is free on a node, with the files that it could forget (`Node 0 MemFree:   123 kB`)."""
    sizes = {}
    for line in text.splitlines():
        words = line.replace(":", " ").split()
        if len(words) >= 4 and words[3].isdigit():
            sizes[words[2]] = int(words[3]) * KIB
    return sizes.get("MemFree", 0) + sizes.get("Inactive(file)", 0)
