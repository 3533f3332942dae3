"""Watching how much memory the work on this computer takes, and rehearsing a load of a stated size.

Linux: /proc/meminfo and /proc/vmstat (proc(5)), /proc/pressure/memory (the kernel's accounting/psi).
"""

from __future__ import annotations

import contextlib
import mmap
import re
import threading
import time
from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

import numpy as np

from after_check.domain.demand import DemandRecord, DemandSample
from after_check.domain.errors import AfterCheckError
from after_check.domain.identity import MachineIdentity
from after_check.domain.quantities import KIB, MIB, size_text
from after_check.files.tree import Files, Tree, UnreadableError

SAMPLE_SECONDS = 1.0
MOST_SAMPLES = 3600
_STEP_BYTES = 64 * MIB
_LEAST_LEFT = 0.04
"""A rehearsed load stops growing when less than this share of the memory is left: the machine must not suffer."""


class NoMemoryError(AfterCheckError):
    """The system gave no more memory for a rehearsed load."""


class DemandUnknownError(AfterCheckError):
    """The system does not say how much memory is in use."""


def sample(files: Files, at_seconds: float, first: DemandSample | None = None) -> tuple[DemandSample, int]:
    """Return memory as it is now and the total in bytes; counters count from `first`. Raises DemandUnknownError."""
    try:
        sizes = dict(re.findall(r"^(\w+):\s+(\d{1,15}) kB", files.read("proc/meminfo", 64 * KIB).decode("ascii", "replace"), re.MULTILINE))
    except UnreadableError as problem:
        raise DemandUnknownError(f"how much memory is in use cannot be read ({problem})") from None
    total, available = int(sizes.get("MemTotal", 0)) * KIB, int(sizes.get("MemAvailable", 0)) * KIB
    if not total or "MemAvailable" not in sizes:
        raise DemandUnknownError("/proc/meminfo does not say how much memory is in use")
    swapped = max(0, int(sizes.get("SwapTotal", 0)) - int(sizes.get("SwapFree", 0))) * KIB
    counters = _counters(files)
    found = DemandSample(
        at_seconds=round(at_seconds, 1),
        used_bytes=total - available + swapped,
        cached_bytes=int(sizes.get("Cached", 0)) * KIB,
        swapped_bytes=swapped,
        swapped_out_pages=counters.get("pswpout", 0),
        hard_faults=counters.get("pgmajfault", 0),
        pressure_percent=_pressure(files),
    )
    if first is not None:
        found = replace(
            found,
            swapped_out_pages=max(0, found.swapped_out_pages - first.swapped_out_pages),
            hard_faults=max(0, found.hard_faults - first.hard_faults),
        )
    return found, total


def _counters(files: Files) -> dict[str, int]:
    try:
        text = files.read("proc/vmstat", 256 * KIB).decode("ascii", "replace")
    except UnreadableError:
        return {}
    return {name: int(value) for name, value in re.findall(r"^(pswpout|pgmajfault) (\d{1,19})$", text, re.MULTILINE)}


def _pressure(files: Files) -> float | None:
    try:
        match = re.search(r"^some avg10=(\d{1,3}(?:\.\d+)?)", files.read("proc/pressure/memory", 512).decode("ascii", "replace"))
    except UnreadableError:
        return None
    return float(match[1]) if match else None


class DemandWatch:
    """Watches until it is stopped or its time is up; `rehearse_bytes` makes it hold a growing load meanwhile."""

    def __init__(
        self,
        seconds: float | None = None,
        rehearse_bytes: int | None = None,
        files: Files | None = None,
        tell: Callable[[DemandRecord], None] = lambda record: None,
        every_seconds: float = SAMPLE_SECONDS,
        machine: MachineIdentity | None = None,
    ) -> None:
        self._seconds = seconds
        self._rehearse = rehearse_bytes
        self._files: Files = files or Tree(Path("/"))
        self.tell = tell
        self._every = every_seconds
        self._stop = threading.Event()
        self.record = DemandRecord(datetime.now(UTC).replace(microsecond=0), 0, machine=machine)

    def stop(self) -> None:
        """Stop soon."""
        self._stop.set()

    def run(self) -> DemandRecord:
        """Watch; return the record. Raises DemandUnknownError when the system says nothing from the beginning."""
        began = time.monotonic()
        first, total = sample(self._files, 0.0)
        self.record = replace(self.record, total_bytes=total, samples=(sample(self._files, 0.0, first)[0],))
        load = _Load(self._rehearse) if self._rehearse is not None else None
        try:
            while not self._stop.is_set():
                at = time.monotonic() - began
                if self._seconds is not None and at >= self._seconds:
                    break
                if load is not None:
                    self._grow(load, total)
                    if load.is_done:
                        break
                else:
                    self._stop.wait(self._every)
                self._take(time.monotonic() - began, first)
        finally:
            if load is not None:
                load.give_back()
        return self.record

    def _take(self, at_seconds: float, first: DemandSample) -> None:
        try:
            found, _ = sample(self._files, at_seconds, first)
        except DemandUnknownError as problem:
            self._remark(str(problem))
            return
        samples = (*self.record.samples, found)
        if len(samples) > MOST_SAMPLES:
            samples = _thinned(samples)
        self.record = replace(self.record, samples=samples)
        self.tell(self.record)

    def _grow(self, load: _Load, total: int) -> None:
        """Let the load grow by a step, unless the machine would suffer: swapping began, or little is left."""
        last = self.record.samples[-1]
        left = total - last.used_bytes
        if last.swapped_out_pages:
            load.stop_growing()
            self._remark(f"swapping began at a load of {size_text(load.held_bytes)}")
        elif left - _STEP_BYTES < total * _LEAST_LEFT:
            load.stop_growing()
            self._remark(f"stopped at a load of {size_text(load.held_bytes)}: little more is left, and the machine must not suffer")
        else:
            try:
                load.grow()
            except NoMemoryError as problem:
                self._remark(str(problem))
                load.stop_growing()
        self.record = replace(self.record, rehearsed_bytes=load.held_bytes)

    def _remark(self, words: str) -> None:
        if words not in self.record.remarks:
            self.record = replace(self.record, remarks=(*self.record.remarks, words))


class _Load:
    """A working set that grows to a stated size, every page of it written."""

    def __init__(self, wanted_bytes: int) -> None:
        self._wanted = wanted_bytes
        self._pieces: list[mmap.mmap] = []
        self.is_done = wanted_bytes <= 0

    @property
    def held_bytes(self) -> int:
        return sum(len(piece) for piece in self._pieces)

    def grow(self) -> None:
        size = min(_STEP_BYTES, self._wanted - self.held_bytes)
        try:
            piece = mmap.mmap(-1, size)
        except OSError as error:
            raise NoMemoryError(f"the system gave no more than {size_text(self.held_bytes)} ({error.strerror})") from None
        np.frombuffer(piece, dtype=np.uint8)[:: mmap.PAGESIZE] = 1
        self._pieces.append(piece)
        self.is_done = self.held_bytes >= self._wanted

    def stop_growing(self) -> None:
        self.is_done = True

    def give_back(self) -> None:
        for piece in self._pieces:
            with contextlib.suppress(BufferError):
                piece.close()
        self._pieces.clear()


def _thinned(samples: tuple[DemandSample, ...]) -> tuple[DemandSample, ...]:
    """Halve the samples; of each pair the one with more in use stays, so that no peak is lost."""
    pairs = (samples[at : at + 2] for at in range(0, len(samples), 2))
    return tuple(max(pair, key=lambda sample: sample.used_bytes) for pair in pairs)


def verdict_words(record: DemandRecord, old_total_bytes: int | None) -> tuple[str, ...]:
    """Return what the watch proves, in sentences; the total before the upgrade in bytes, where it is known."""
    said = [f"At its peak the work held {size_text(record.peak_bytes)} of {size_text(record.total_bytes)}."]
    if old_total_bytes:
        above = record.seconds_above(old_total_bytes)
        if record.peak_bytes > old_total_bytes:
            said.append(f"It would not have fit in {size_text(old_total_bytes)}: for {above:.0f} s it held more than that.")
        else:
            said.append(f"It would have fit in {size_text(old_total_bytes)}; this watch does not show that more was needed.")
    if record.swapped_out:
        said.append("Memory was swapped out meanwhile: even what is fitted now was not enough for a time.")
    return tuple(said)
