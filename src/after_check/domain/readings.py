"""A reading: what a machine reported about its memory at one moment."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from datetime import datetime
from enum import StrEnum

from after_check.domain.boards import Filling, Slot, board_order
from after_check.domain.facts import Fact, value_of
from after_check.domain.identity import MachineIdentity
from after_check.domain.modules import Module, Timings
from after_check.domain.soak import Symptom, WrongDevices


class RateUnit(StrEnum):
    """The unit that a running rate was shown in; NONE where only a number was shown."""

    MTS = "MT/s"
    MHZ = "MHz"
    NONE = ""


@dataclass(frozen=True, slots=True)
class ShownRate:
    """A running rate as it was shown. Clock or data rate is settled by judgement, not here."""

    number: float
    unit: RateUnit


class ProfileState(StrEnum):
    """What is known of the memory profile setting."""

    OFF = "off"
    ONE = "1"
    TWO = "2"
    THREE = "3"
    LOCKED = "locked"
    ON = "on"
    AUTO = "auto"

    @property
    def number(self) -> int | None:
        """The number of the profile, where one is named."""
        return int(self.value) if self.value.isdigit() else None


class Via(StrEnum):
    """What a typed reading was read off."""

    FIRMWARE = "firmware"
    SYSTEM = "system"
    LABEL = "label"
    OTHER = "other"


@dataclass(frozen=True, slots=True)
class SoakResult:
    """What a memory test said: errors found, minutes it ran, share of the memory covered in per cent (None: not said).

    `passes` counts whole passes of all that the test does. `by` names the test or who ran it, `suspects` the slots
    that errors point at, `hot` whether it ran into heat, and `own_word` whether it is only the machine's own word.
    `symptoms` are the likely kinds of the errors, the most frequent first, and `wrong_devices` the devices of a
    rank that they lie in.
    """

    errors: int
    minutes: int | None = None
    covered_percent: int | None = None
    passes: int | None = None
    by: str = ""
    suspects: tuple[str, ...] = ()
    hot: bool = False
    own_word: bool = False
    symptoms: tuple[Symptom, ...] = ()
    wrong_devices: WrongDevices | None = None


class StartOutcome(StrEnum):
    """How a machine started after the change."""

    YES = "yes"
    NOT_TRIED = "not tried"
    NO = "no"
    SLOW = "slow"
    CYCLES = "cycles"


class BenchmarkOutcome(StrEnum):
    """What a comparison of benchmarks before and after said."""

    BETTER = "better"
    SAME = "same"
    WORSE = "worse"
    NOT_COMPARABLE = "incomparable"


class Redundancy(StrEnum):
    """Memory that is fitted and held back on purpose: a copy of the rest, or ranks in reserve."""

    MIRRORED = "mirrored"
    SPARE = "spare"


class NoticeKind(StrEnum):
    """Why a part of a reading is missing or odd."""

    RIGHTS = "rights"
    ABSENT = "absent"
    DAMAGED = "damaged"
    VIRTUAL = "virtual"
    REMARK = "remark"


@dataclass(frozen=True, slots=True)
class Notice:
    """Something that the taking of a reading met: what, where, and what would help."""

    kind: NoticeKind
    what: str
    where: str = ""
    help: str = ""


@dataclass(frozen=True, slots=True)
class MappedRange:
    """Addresses that the firmware maps to a slot, or to the whole array where `slot` is empty (both ends included)."""

    first_byte: int
    last_byte: int
    slot: str = ""
    interleave_position: int | None = None
    ways: int | None = None


@dataclass(frozen=True, slots=True)
class FirmwareChannel:
    """A memory channel as the firmware lists it, with the names of its slots."""

    name: str
    slots: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class SpdEntry:
    """A module as its own SPD describes it, by the name of the device it was read from; its slot is not in it."""

    device: str
    module: Module


@dataclass(frozen=True, slots=True)
class Temperature:
    """A module's sensor and what it shows, in degrees Celsius."""

    sensor: str
    celsius: Fact[float]


@dataclass(frozen=True, slots=True)
class ErrorCounter:
    """Errors that the machine counted for a module or a controller; None is a counter that was not there.

    It counts since the start, or since it was last cleared; `over_life`: since the module was made.
    """

    label: str
    corrected: int | None
    uncorrected: int | None
    over_life: bool = False

    @property
    def name(self) -> str:
        """What is counted for, and since when where that is not the start."""
        return f"{self.label}, over its life" if self.over_life else self.label


def corrected_errors(counters: Iterable[ErrorCounter]) -> int | None:
    """Return how many corrected errors were counted; of a module that counts twice the larger figure, as the one holds the other."""
    return _counted((one, one.corrected) for one in counters)


def uncorrected_errors(counters: Iterable[ErrorCounter]) -> int | None:
    """Return how many uncorrected errors were counted, as `corrected_errors` does."""
    return _counted((one, one.uncorrected) for one in counters)


def _counted(counters: Iterable[tuple[ErrorCounter, int | None]]) -> int | None:
    sums: dict[str, list[int]] = {}
    for counter, errors in counters:
        if errors is not None:
            sums.setdefault(counter.label, [0, 0])[counter.over_life] += errors
    return sum(max(both) for both in sums.values()) if sums else None


@dataclass(frozen=True, slots=True)
class MemoryNode:
    """A memory node (NUMA) and its total in bytes."""

    number: int
    total_bytes: int


@dataclass(frozen=True, slots=True)
class Machine:
    """What is known of the machine itself. `installation` is a hash that names the installed system (machine-id(5))."""

    maker: Fact[str] | None = None
    model: Fact[str] | None = None
    serial: Fact[str] | None = None
    uuid: Fact[str] | None = None
    installation: Fact[str] | None = None
    board: Fact[str] | None = None
    firmware_version: Fact[str] | None = None
    firmware_date: Fact[str] | None = None
    processor: Fact[str] | None = None


@dataclass(frozen=True, slots=True)
class EvidenceRef:
    """Raw bytes that a reading was decoded from, by name and SHA-256."""

    name: str
    sha256: str
    size_bytes: int


@dataclass(frozen=True, slots=True)
class Reading:
    """What one machine reported at one moment. A field that is None is not known.

    `slots` are the slots with names; `loose` are modules whose slots are not known. `total_bytes` is what the
    firmware counts, `usable_bytes` what the system can use, `channels` a channel mode that was shown (not one
    worked out from slot names), `array_limit_bytes` the largest total that the firmware states. `graphics_bytes` and
    `reserved_bytes` are what graphics and the firmware keep back, `borrowed_bytes` what graphics may borrow of what the system
    can use (it grows with the total, and nothing is set aside for it), `in_use_bytes` and `available_bytes` what the system
    says is in use and available. `rate_cap_mts` is a limit that somebody set in the firmware setup, `system_limit_bytes`
    the most that the system's edition or its start options allow, `memory_changed` the firmware's notice that the amount
    of memory changed. `soak`, `benchmark`, `read_gbs`, `write_gbs`, `copy_gbs`, `latency_ns` and `off_under_load` are
    results that a person typed with the reading, `earlier_soaks` those of tests before the last one; what this program
    tested and measured is kept beside it (`CaseFile`). `more` are facts by their name that have a row in the table of facts
    (`fact_table.py`) and no field here. `persistent` are slots with persistent memory: they are drawn, and nothing is judged by them.
    """

    slots: tuple[Slot, ...] = ()
    loose: tuple[Module, ...] = ()
    slot_count: Fact[int] | None = None
    running_rate: Fact[ShownRate] | None = None
    channels: Fact[int] | None = None
    profile: Fact[ProfileState] | None = None
    total_bytes: Fact[int] | None = None
    usable_bytes: Fact[int] | None = None
    graphics_bytes: Fact[int] | None = None
    borrowed_bytes: Fact[int] | None = None
    reserved_bytes: Fact[int] | None = None
    in_use_bytes: Fact[int] | None = None
    available_bytes: Fact[int] | None = None
    array_limit_bytes: Fact[int] | None = None
    rate_cap_mts: Fact[int] | None = None
    system_limit_bytes: Fact[int] | None = None
    redundancy: Fact[Redundancy] | None = None
    timings: Fact[Timings] | None = None
    voltage_mv: Fact[int] | None = None
    ecc_on: Fact[bool] | None = None
    ecc_errors: Fact[int] | None = None
    uncorrected_errors: Fact[int] | None = None
    system_bits: Fact[int] | None = None
    virtual: Fact[bool] | None = None
    settings_reset: Fact[bool] | None = None
    memory_changed: Fact[bool] | None = None
    restart_pending: Fact[bool] | None = None
    soak: Fact[SoakResult] | None = None
    earlier_soaks: tuple[SoakResult, ...] = ()
    start: Fact[StartOutcome] | None = None
    benchmark: Fact[BenchmarkOutcome] | None = None
    read_gbs: Fact[float] | None = None
    write_gbs: Fact[float] | None = None
    copy_gbs: Fact[float] | None = None
    latency_ns: Fact[float] | None = None
    off_under_load: Fact[bool] | None = None
    via: Via | None = None
    machine: Machine = Machine()
    spd: tuple[SpdEntry, ...] = ()
    temperatures: tuple[Temperature, ...] = ()
    error_counters: tuple[ErrorCounter, ...] = ()
    nodes: tuple[MemoryNode, ...] = ()
    pressure_percent: Fact[float] | None = None
    more: Mapping[str, Fact[bool | int | float | str]] = field(default_factory=dict)
    log_lines: tuple[str, ...] = ()
    mapped: tuple[MappedRange, ...] = ()
    firmware_channels: tuple[FirmwareChannel, ...] = ()
    persistent: tuple[Slot, ...] = ()
    notices: tuple[Notice, ...] = ()
    evidence: tuple[EvidenceRef, ...] = ()
    taken_at: datetime | None = None
    origin: str = ""

    def filled(self) -> Iterator[tuple[str, Module]]:
        """Yield slot name and module of every module; the slot name is empty for loose modules."""
        for slot in self.slots:
            if slot.module is not None:
                yield slot.name, slot.module
        for module in self.loose:
            yield "", module

    @property
    def modules(self) -> tuple[Module, ...]:
        """All modules of the reading."""
        return tuple(module for _, module in self.filled())

    @property
    def identity(self) -> MachineIdentity:
        """What tells the machine of this reading from others."""
        machine = self.machine
        sizes = [value_of(module.size_bytes) for module in self.modules]
        known = [size for size in sizes if size is not None]
        return MachineIdentity(
            uuid=value_of(machine.uuid) or "",
            serial=value_of(machine.serial) or "",
            board=value_of(machine.board) or "",
            model=value_of(machine.model) or "",
            installation=value_of(machine.installation) or "",
            module_serials=tuple(serial for module in self.modules if (serial := value_of(module.serial))),
            installed_bytes=value_of(self.total_bytes) or (sum(known) if known and len(known) == len(sizes) else None),
            usable_bytes=value_of(self.usable_bytes),
        )

    @property
    def drawn_slots(self) -> tuple[Slot, ...]:
        """The slots as they are drawn: those with persistent memory stand among the others."""
        return tuple(sorted((*self.slots, *self.persistent), key=board_order)) if self.persistent else self.slots

    @property
    def empty_slots(self) -> tuple[str, ...]:
        """Names of the slots that are known to be empty."""
        return tuple(slot.name for slot in self.slots if slot.filling is Filling.EMPTY)
