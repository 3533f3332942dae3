"""What the resources of a managed machine say of its memory. Documents: DMTF DSP2046 (Memory, MemoryMetrics, ComputerSystem)."""

from __future__ import annotations

from typing import Any

from after_check.domain.boards import Filling, Slot
from after_check.domain.facts import Fact, Source, T
from after_check.domain.modules import Form, Generation, Module
from after_check.domain.quantities import MIB
from after_check.domain.readings import ErrorCounter, Redundancy
from after_check.files.json_values import text, whole_number
from after_check.standards.rates import HIGHEST_RATE_MTS, lowest_standard_rate_mts, same_rate, snap_rate

_FORMS = {
    **{"RDIMM": Form.RDIMM, "UDIMM": Form.UDIMM, "SO_DIMM": Form.SODIMM, "LRDIMM": Form.LRDIMM, "Mini_RDIMM": Form.RDIMM},
    **{"Mini_UDIMM": Form.UDIMM, "SO_RDIMM_72b": Form.SODIMM, "SO_UDIMM_72b": Form.SODIMM, "Die": Form.SOLDERED},
}


def redundancy_of(summary: Any, members: list[dict[str, Any]]) -> Redundancy | None:
    """ComputerSystem MemorySummary.MemoryMirroring, and Memory IsRankSpareEnabled (DMTF DSP0268)."""
    mirroring = text(summary.get("MemoryMirroring")) if isinstance(summary, dict) else None
    if mirroring in ("System", "DIMM", "Hybrid"):
        return Redundancy.MIRRORED
    return Redundancy.SPARE if any(member.get("IsRankSpareEnabled") is True for member in members) else None


def name_of(member: dict[str, Any], index: int) -> str:
    """Return the name of a slot: what the board calls it, else the resource's own."""
    return text(member.get("DeviceLocator")) or text(member.get("Name")) or text(member.get("Id")) or f"slot {index + 1}"


def bank_of(member: dict[str, Any]) -> str:
    """Return where a slot is, to tell apart slots of one name; empty where nothing says it."""
    location = member.get("MemoryLocation")
    if isinstance(location, dict) and isinstance(location.get("Channel"), int) and isinstance(location.get("Socket"), int):
        return f"P{location['Socket']} channel {location['Channel']}"
    return ""


def is_persistent(member: dict[str, Any]) -> bool:
    """Return whether nothing of a module is working memory (Memory.NonVolatileSizeMiB, VolatileSizeMiB; DMTF DSP2046)."""
    kept = whole_number(member.get("NonVolatileSizeMiB"), 1 << 30)
    return kept is not None and whole_number(member.get("VolatileSizeMiB"), 1 << 30) is None


def working_bytes(chunks: list[dict[str, Any]]) -> int | None:
    """Return the sum of ranges that are working memory (MemoryChunks.AddressRangeType, MemoryChunkSizeMiB; DMTF DSP2046), or None."""
    sizes = [
        whole_number(chunk.get("MemoryChunkSizeMiB"), 1 << 30)
        for chunk in chunks
        if chunk.get("AddressRangeType") in ("Volatile", "Mirrored", None)
    ]
    known = [size for size in sizes if size is not None]
    return sum(known) * MIB if known and len(known) == len(sizes) else None


def slot_of(member: dict[str, Any], name: str) -> Slot:
    """Return a slot and what is in it."""
    status = member.get("Status") if isinstance(member.get("Status"), dict) else {}
    state = text(status.get("State")) if isinstance(status, dict) else None
    bank = bank_of(member)
    size_mib = whole_number(member.get("CapacityMiB"), 1 << 30)
    if whole_number(member.get("NonVolatileSizeMiB"), 1 << 30) is not None:
        size_mib = whole_number(member.get("VolatileSizeMiB"), 1 << 30)  # What keeps its content is no working memory.
    if state == "Absent":
        return Slot(name, Filling.EMPTY, bank=bank)
    if size_mib is None and not text(member.get("PartNumber")):
        return Slot(name, Filling.UNKNOWN, bank=bank)
    return Slot(name, Filling.FILLED, module_of(member, size_mib, name), bank=bank)


def rates_of(running: int | None, speeds: list[int], generation: Generation | None) -> tuple[int | None, int | None]:
    """Return the running and the rated data rate in MT/s. Both fields are called MHz, and services write clocks or rates.

    A figure below every rate of the generation is a clock; and so is one of which only the double is among the speeds.
    """
    lowest = lowest_standard_rate_mts(generation) if generation is not None else 0
    speeds = [speed * 2 if speed < lowest * 0.99 else speed for speed in speeds]
    if running is not None and not any(same_rate(running, speed) for speed in speeds):
        doubled = any(same_rate(running * 2, speed) for speed in speeds)
        running = running * 2 if doubled or (running < lowest * 0.99 and not speeds) else running
    return running, max(speeds, default=None)


def module_of(member: dict[str, Any], size_mib: int | None, where: str) -> Module:
    """Return what a memory resource says of its module."""
    kind = (text(member.get("MemoryDeviceType")) or "").upper().replace("_SDRAM", "")
    generation = Generation(kind) if kind in Generation.__members__ else None
    running = whole_number(member.get("OperatingSpeedMhz"), HIGHEST_RATE_MTS)
    allowed = member.get("AllowedSpeedsMHz")
    speeds = [speed for name in allowed if (speed := whole_number(name, HIGHEST_RATE_MTS))] if isinstance(allowed, list) else []
    running, rated = rates_of(running if running and running >= 50 else None, [speed for speed in speeds if speed >= 50], generation)
    correction = text(member.get("ErrorCorrection"))
    return Module(
        size_bytes=fact_of(size_mib * MIB if size_mib else None, where),
        generation=fact_of(generation, where),
        form=fact_of(_FORMS.get(text(member.get("BaseModuleType")) or ""), where),
        rated_mts=fact_of(snap_rate(rated, generation) if rated else None, where),
        running_mts=fact_of(snap_rate(running, generation) if running else None, where),
        ranks=fact_of(whole_number(member.get("RankCount"), 16), where),
        data_width_bits=fact_of(whole_number(member.get("DataWidthBits"), 4096), where),
        ecc=fact_of(None if correction is None else correction != "NoECC", where),
        maker=fact_of(text(member.get("Manufacturer")), where),
        part=fact_of(text(member.get("PartNumber")), where),
        serial=fact_of(text(member.get("SerialNumber")), where),
    )


def counter_of(metrics: dict[str, Any], label: str) -> ErrorCounter:
    """Return the errors that a module's metrics count."""
    current = metrics.get("CurrentPeriod") if isinstance(metrics.get("CurrentPeriod"), dict) else {}
    values = current if isinstance(current, dict) else {}
    return ErrorCounter(
        label,
        whole_number(values.get("CorrectableECCErrorCount"), 1 << 40) or 0,
        whole_number(values.get("UncorrectableECCErrorCount"), 1 << 40) or 0,
    )


def link_of(resource: dict[str, Any], name: str) -> str:
    """Return the path that a resource links to; empty where there is none."""
    target = resource.get(name)
    path = target.get("@odata.id") if isinstance(target, dict) else None
    return path if isinstance(path, str) else ""


def fact_of(value: T | None, where: str) -> Fact[T] | None:
    """Return a value with where it was read, or None."""
    return None if value is None else Fact(value, Source.FIRMWARE, f"Redfish, {where}")
