"""A soak: a run of memory tests, what it covered and what it found."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from enum import IntEnum, StrEnum

from after_check.domain.identity import MachineIdentity
from after_check.domain.messages import Message, Value, message
from after_check.domain.ranges import Ranges


class SoakState(StrEnum):
    """How far a soak is. A run that was killed is found as INTERRUPTED and can be taken up again."""

    RUNNING = "running"
    PAUSED = "paused"
    STOPPED = "stopped"
    FINISHED = "finished"
    INTERRUPTED = "interrupted"
    FAILED = "failed"

    @property
    def is_over(self) -> bool:
        """Whether nothing more comes of it by itself."""
        return self not in (SoakState.RUNNING, SoakState.PAUSED)


class During(StrEnum):
    """What a soak was doing when a wrong word was found."""

    SWEEP = "sweep"
    PAUSES = "sweep with pauses"
    MOVES = "block moves"
    ROWS = "repeated rows"


class FaultKind(StrEnum):
    """What a group of errors looks like. A likely kind, not a proof."""

    STUCK = "stuck bit"
    LANE = "data line or device"
    ADDRESSING = "addressing"
    RETENTION = "loses its value in time"
    DISTURBED = "disturbed by its neighbours"
    READ = "read error, the stored value was right"
    SCATTERED = "scattered single bits"


class LookedFor(StrEnum):
    """Kinds of faults that a test looks for, in words; how much of each is worked out in `soak/shares.py`."""

    STUCK = "stuck bits"
    CHANGE = "bits that do not change"
    ADDRESS = "wrong addresses"
    COUPLED = "cells that change others"
    PAIRS = "bits of a word tied together"
    READ = "cells upset by a read"
    WRITTEN = "cells upset by a write"
    TIME = "values lost in time"
    HIDDEN = "faults that hide each other"


class Block(IntEnum):
    """What a block of the memory under test shows."""

    WAITING = 0
    UNDER_WAY = 1
    CLEAN = 2
    WRONG = 3
    GIVEN_BACK = 4


@dataclass(frozen=True, slots=True)
class WrongWord:
    """One wrong word. `at_once` is what it read a moment later, `from_memory` after it was thrown out of the caches.

    Addresses are in bytes; `physical_byte` is None without the right to know it.
    """

    at_seconds: float
    step: str
    virtual_byte: int
    physical_byte: int | None
    expected: int
    found: int
    at_once: int
    from_memory: int
    during: During = During.SWEEP

    @property
    def bits(self) -> int:
        """The flipped bits."""
        return self.expected ^ self.found

    @property
    def was_stored(self) -> bool:
        """Whether the wrong value was in the memory, and not only read wrongly."""
        return self.from_memory != self.expected


@dataclass(frozen=True, slots=True)
class Symptom:
    """A likely kind of fault with how many of the kept errors look like it, at which bits and at how many addresses.

    `why` is what records said of it in words before they kept bits and addresses.
    """

    kind: FaultKind
    errors: int
    why: str = ""
    bits: tuple[int, ...] = ()
    addresses: int = 0

    @property
    def values(self) -> dict[str, Value]:
        """What its words name (`symptom` in the texts)."""
        told = self.why if self.why and not self.addresses else None
        bits = tuple(str(bit) for bit in self.bits)
        return {"kind": self.kind.name.lower(), "told": told, "bits": bits, "addresses": self.addresses}


@dataclass(frozen=True, slots=True)
class WrongDevices:
    """The devices of a rank that errors lie in, by their numbers from 1, and how many bits wide each is.

    `told` is what records said in words before they kept the numbers.
    """

    numbers: tuple[int, ...] = ()
    width_bits: int = 0
    told: str = ""

    @property
    def message(self) -> Message:
        """The devices, to be said."""
        numbers = tuple(str(number) for number in self.numbers)
        return message("devices", devices=numbers, width=str(self.width_bits), told=self.told or None)


@dataclass(frozen=True, slots=True)
class Surroundings:
    """What was measured beside the test at a moment: degrees Celsius, error counters, throttling; None is not known."""

    at_seconds: float
    module_celsius: float | None = None
    processor_celsius: float | None = None
    corrected: int | None = None
    uncorrected: int | None = None
    throttled: int | None = None
    rate_bytes_per_s: float | None = None


@dataclass(frozen=True, slots=True)
class Covered:
    """How much memory was under test, in bytes, and what was out of reach and why.

    `available_bytes` is what was available when the soak began, `installed_bytes` what the system counts.
    """

    held_bytes: int = 0
    available_bytes: int = 0
    installed_bytes: int | None = None
    reserve_bytes: int = 0
    locked: bool = False
    large_pages: bool = False
    out_of_reach: tuple[str, ...] = ()

    @property
    def of_installed(self) -> float | None:
        """The covered share of what is installed, from 0 to 1."""
        return min(1.0, self.held_bytes / self.installed_bytes) if self.installed_bytes else None


@dataclass(frozen=True, slots=True)
class SoakRecord:
    """Everything that is kept of a soak. `steps_done` counts whole steps over all passes; a step begins again after a kill.

    `fully_swept_bytes` is the least memory that every finished step covered: 0 where no step was finished;
    `swept_ranges` are its physical ranges in bytes, where they may be known. `lanes` has
    (0 found for 1, 1 found for 0) for each of 64 bits. `own_word_of` names the machine or program that tested itself
    and said so; then nothing here was measured by this program. `wrong_devices` are the
    devices of a rank that carry the wrong bits, where the modules' width is known (`devices` in
    words, in records from before). `process` is the computer and the number of the process
    that runs it. `looked` is the share of each kind of fault that the steps done would have shown, in the order of `LookedFor`.
    """

    plan: str
    state: SoakState
    begun_at: datetime
    seconds: float = 0.0
    steps: tuple[str, ...] = ()
    steps_done: int = 0
    passes_done: int = 0
    step_share: float = 0.0
    bytes_done: int = 0
    rate_bytes_per_s: float = 0.0
    seconds_left: float | None = None
    covered: Covered = Covered()
    fully_swept_bytes: int = 0
    swept_ranges: Ranges = ()
    errors: int = 0
    kept: tuple[WrongWord, ...] = ()
    lanes: tuple[tuple[int, int], ...] = ()
    blocks: tuple[int, ...] = ()
    symptoms: tuple[Symptom, ...] = ()
    suspects: tuple[str, ...] = ()
    devices: str = ""
    wrong_devices: WrongDevices | None = None
    surroundings: tuple[Surroundings, ...] = ()
    remarks: tuple[str, ...] = ()
    own_word_of: str = ""
    process: str = ""
    machine: MachineIdentity | None = None
    looked: tuple[float, ...] = ()

    @property
    def share(self) -> float:
        """How much of the present pass is done, from 0 to 1, every step counted alike."""
        if self.state is SoakState.FINISHED:
            return 1.0
        count = len(self.steps)
        return min(1.0, (self.steps_done % count + self.step_share) / count) if count else 0.0

    @property
    def step(self) -> str:
        """The step that runs, or the last one."""
        return self.steps[self.steps_done % len(self.steps)] if self.steps else ""
