"""How much memory is available, and holding it: in slices, locked, on large pages, given back before the system suffers.

Linux: /proc/meminfo (proc(5)), control groups (the kernel's cgroup-v2 and cgroup-v1 memory documents), mlock(2),
madvise(2). Elsewhere the memory is taken without being locked, and that is said.
"""

from __future__ import annotations

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

from after_check.domain.errors import AfterCheckError
from after_check.domain.quantities import GIB, KIB, MIB, size_text
from after_check.domain.ranges import Ranges, both, first_of, size_of
from after_check.domain.soak import Covered
from after_check.files.tree import Files, UnreadableError
from after_check.host.nodes import NumaNode, Turns, memory_nodes
from after_check.host.physical import outside_window, take_physical
from after_check.host.processors import core_numbers, stay_on
from after_check.host.slices import Locker, Slice, take_slice
from after_check.sources.firmware_map import firmware_ram, starts_in_a_window

_HUGE_BYTES = 2 * MIB
_LEAST_BYTES = 16 * MIB
_FIELD = 240
"""Slices to aim at: as many as the field of blocks shows."""
_LARGEST_SLICE_BYTES = 128 * MIB
_RESERVE_SHARE = 0.04
_LEAST_RESERVE_BYTES, _MOST_RESERVE_BYTES = 48 * MIB, 2 * GIB


class NotEnoughMemoryError(AfterCheckError):
    """There is not enough memory to test anything; the message says how much there is and what would help."""


@dataclass(frozen=True, slots=True)
class AvailableMemory:
    """What is available: `available_bytes` by the system and by the limits of this program's control group."""

    available_bytes: int
    installed_bytes: int | None
    group_limit_bytes: int | None = None


def available_memory(files: Files) -> AvailableMemory:
    """Read how much memory is free to take. Raises NotEnoughMemoryError where the system does not say."""
    try:
        text = files.read("proc/meminfo", 64 * KIB).decode("ascii", "replace")
    except UnreadableError as problem:
        raise NotEnoughMemoryError(f"how much memory is free cannot be read ({problem}); state an amount with --memory") from None
    sizes = {}
    for line in text.splitlines():
        words = line.replace(":", " ").split()
        if len(words) >= 2 and words[1].isdigit():
            sizes[words[0]] = int(words[1]) * KIB
    available = sizes.get("MemAvailable", sizes.get("MemFree"))
    if available is None:
        raise NotEnoughMemoryError("/proc/meminfo does not say how much memory is free; state an amount with --memory")
    limit, used = _group(files)
    if limit is not None:
        available = min(available, max(0, limit - used))
    installed = size_of(firmware_ram(files)) if starts_in_a_window(files) else 0
    return AvailableMemory(available, installed or sizes.get("MemTotal"), limit)


def _group(files: Files) -> tuple[int | None, int]:
    """Return limit and use of this program's control group, of version 2 or 1; no limit where none is below the total."""
    try:
        lines = files.read("proc/self/cgroup", 64 * KIB).decode("utf-8", "replace").splitlines()
    except UnreadableError:
        lines = []
    new, old = "/", "/"
    for line in lines:
        number, _, rest = line.partition(":")
        controllers, _, path = rest.partition(":")
        if number == "0" and not controllers:
            new = path
        elif "memory" in controllers.split(","):
            old = path
    tightest: tuple[int | None, int] = (None, 0)
    places = [(f"{folder}/memory.max", f"{folder}/memory.current") for folder in _folders("sys/fs/cgroup", new)]
    # A group of version 1 may be limited far below the root of its hierarchy.
    older = _folders("sys/fs/cgroup/memory", old)
    places += [(f"{folder}/memory.limit_in_bytes", f"{folder}/memory.usage_in_bytes") for folder in older]
    for limit_name, used_name in places:
        limit, used = _number(files, limit_name), _number(files, used_name)
        if limit is None or limit >= 1 << 60:
            continue
        if tightest[0] is None or limit - (used or 0) < tightest[0] - tightest[1]:
            tightest = (limit, used or 0)
    return tightest


def _folders(root: str, path: str) -> list[str]:
    """Return the folders of a control group and of those above it, up to the root."""
    parts = [part for part in path.split("/") if part and part != ".."]
    return ["/".join([root, *parts[:count]]) for count in range(len(parts), -1, -1)]


def _number(files: Files, name: str) -> int | None:
    try:
        text = files.read(name, 64).decode("ascii", "replace").strip()
    except UnreadableError:
        return None
    return int(text) if text.isdigit() else None


def usual_reserve_bytes(available_bytes: int) -> int:
    """Return what is left to the system unless another reserve is stated."""
    return min(_MOST_RESERVE_BYTES, max(_LEAST_RESERVE_BYTES, round(available_bytes * _RESERVE_SHARE)))


class Held:
    """The memory under test, as slices."""

    def __init__(self, slices: list[Slice], covered: Covered) -> None:
        self.slices = slices
        self.covered = covered

    @property
    def held_bytes(self) -> int:
        """Bytes that are still under test."""
        return sum(piece.size_bytes for piece in self.slices if not piece.given_back)

    def give_back(self) -> None:
        """Hand everything back."""
        for piece in self.slices:
            if not piece.given_back:
                piece.give_back()


@dataclass(frozen=True, slots=True)
class WantedMemory:
    """How much to take (None: all that is there), what to leave to the system (None: the usual part), and where alone to take it.

    `only` are the physical ranges to take, where others were tested before.
    """

    size_bytes: int | None = None
    reserve_bytes: int | None = None
    only: Ranges = ()


def hold(
    files: Files,
    wish: WantedMemory = WantedMemory(),
    tell: Callable[[int, int], None] = lambda held, wanted: None,
    stopped: Callable[[], bool] = lambda: False,
    looked_at: Callable[[Slice], None] = lambda piece: None,
) -> Held:
    """Take as much memory as is there less the reserve, or as much as is wanted; slice by slice, looking again each time.

    `tell` is given the bytes held so far and the bytes wanted; `looked_at` each slice as soon as it is there, in the thread
    that took it. Memory outside the system's window is taken first. Raises NotEnoughMemoryError.
    """
    wanted_bytes, reserve_bytes, only = wish.size_bytes, wish.reserve_bytes, wish.only
    memory = available_memory(files)
    reserve = usual_reserve_bytes(memory.available_bytes) if reserve_bytes is None else reserve_bytes
    out: list[str] = []
    beyond = both(outside_window(files), only) if only else outside_window(files)
    slices = take_physical(first_of(beyond, wanted_bytes), out) if beyond else []
    held = sum(piece.size_bytes for piece in slices)
    most = held + (0 if only else max(0, memory.available_bytes - reserve))
    wanted = most if wanted_bytes is None else min(wanted_bytes, most)
    if wanted < _LEAST_BYTES:
        raise NotEnoughMemoryError(
            f"{size_text(memory.available_bytes)} is available and {size_text(reserve)} are reserved; "
            f"{size_text(_LEAST_BYTES)} are the least that can be tested: close programs, or state a smaller --reserve"
        )
    slice_bytes = min(_LARGEST_SLICE_BYTES, max(_HUGE_BYTES, (wanted - held) // _FIELD // _HUGE_BYTES * _HUGE_BYTES))
    locker = Locker()
    turns = Turns(memory_nodes(files, core_numbers()))
    threads = min(8, os.cpu_count() or 1)
    pool = ThreadPoolExecutor(threads, "hold")  # New pages come one by one and slowly: several threads fetch them sooner.
    for _ in pool.map(looked_at, slices):
        tell(held, wanted)
    while wanted - held >= _HUGE_BYTES and not stopped():
        if slices and available_memory(files).available_bytes < reserve // 2 + slice_bytes:
            out.append(f"taking more than {size_text(held)} would have left the system without its reserve")
            break
        left = (wanted - held) // _HUGE_BYTES * _HUGE_BYTES
        sizes = [min(slice_bytes, left - at) for at in range(0, left, slice_bytes)][:threads]
        futures = [pool.submit(_taken, size, locker, looked_at, turns.next(size)) for size in sizes]
        problems = [future.exception() for future in futures]
        for future, problem in zip(futures, problems, strict=True):
            if problem is None:
                slices.append(future.result())
                held += slices[-1].size_bytes
        tell(held, wanted)
        failed = next((problem for problem in problems if problem is not None), None)
        if failed is not None:
            if not isinstance(failed, OSError):
                raise failed
            out.append(f"the system gave no more than {size_text(held)} ({failed.strerror})")
            break
    pool.shutdown()
    if not slices:
        raise NotEnoughMemoryError(
            "stopped before any memory was taken" if stopped() else "the system gave no memory at all: " + "; ".join(out)
        )
    return Held(slices, _covered(memory, reserve, wanted_bytes, slices, locker, out))


def _taken(size_bytes: int, locker: Locker, looked_at: Callable[[Slice], None], node: NumaNode | None) -> Slice:
    if node is not None:
        stay_on(node.cores)
    piece = take_slice(size_bytes, locker)
    piece.node = node.number if node is not None else None
    looked_at(piece)
    return piece


def _covered(
    memory: AvailableMemory, reserve: int, wanted_bytes: int | None, slices: list[Slice], locker: Locker, out: list[str]
) -> Covered:
    held = sum(piece.size_bytes for piece in slices)
    beyond_bytes = sum(piece.size_bytes for piece in slices if piece.physical_byte is not None)
    if locker.problem:
        out.insert(0, locker.problem)
    if memory.installed_bytes:
        taken = memory.installed_bytes - memory.available_bytes - beyond_bytes
        out.append(f"{size_text(max(0, taken))} are held by the system and by other programs, and cannot be tested from here")
    if memory.group_limit_bytes is not None:
        out.append(f"this program may use {size_text(memory.group_limit_bytes)} in all (a limit of its control group)")
    if wanted_bytes is not None and wanted_bytes < memory.available_bytes:
        out.append(f"{size_text(wanted_bytes)} were asked for")
    return Covered(
        held_bytes=held,
        available_bytes=memory.available_bytes + beyond_bytes,
        installed_bytes=memory.installed_bytes,
        reserve_bytes=reserve,
        locked=all(piece.locked for piece in slices),
        large_pages=_large_pages(),
        out_of_reach=tuple(out),
    )


def _large_pages() -> bool:
    try:
        with open("/sys/kernel/mm/transparent_hugepage/enabled", encoding="ascii") as file:
            return "[never]" not in file.read()
    except OSError:
        return False
