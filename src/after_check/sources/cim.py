"""CIM classes of the memory as JSON, as another operating system's shell writes them.

The classes and their properties follow the DMTF's CIM schema (CIM_PhysicalMemory, CIM_ComputerSystem) with the
extensions that the system documents; codes of form and type are those of DSP0134 section 7.18.
"""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime
from typing import Any

from after_check.domain.boards import Filling, Slot
from after_check.domain.modules import Form, Generation, Module
from after_check.domain.quantities import KIB, counted
from after_check.domain.readings import Machine, Notice, NoticeKind, Reading
from after_check.files.errors import SourceError
from after_check.files.firmware_text import distinct
from after_check.files.json_values import dicts, load_json, system_fact, text, whole_number
from after_check.sources.evidence import RawEvidence, Taken, with_evidence
from after_check.standards.rates import HIGHEST_RATE_MTS, snap_rate
from after_check.standards.smbios.memory import GENERATIONS

MODULES = "Win32_PhysicalMemory"
ARRAYS = "Win32_PhysicalMemoryArray"
COMPUTER = "Win32_ComputerSystem"
SYSTEM = "Win32_OperatingSystem"

_FORMS = {8: Form.UDIMM, 12: Form.SODIMM, **dict.fromkeys(range(14, 24), Form.SOLDERED)}
"""Codes of CIM_Chip's form factor; from 14 on they are packages that are soldered."""
_CIM_GENERATIONS = {
    20: Generation.DDR,
    21: Generation.DDR2,
    22: Generation.DDR2,
    24: Generation.DDR3,
    26: Generation.DDR4,
    34: Generation.DDR5,
}
"""Codes of CIM_PhysicalMemory's memory type; the firmware's own (`SMBIOSMemoryType`) are others."""
_MOST_MODULES = 256


def is_cim(document: Any) -> bool:
    """Return whether a JSON document holds memory classes: by class name, or a bare list of modules."""
    if isinstance(document, dict) and any(name in document for name in (MODULES, ARRAYS, COMPUTER, SYSTEM)):
        return True
    first = dicts(document)[:1]
    return bool(first) and "Capacity" in first[0] and ("DeviceLocator" in first[0] or "BankLabel" in first[0])


def take_cim(data: bytes, where: str) -> Taken:
    """Take a reading from a file of CIM classes. Raises SourceError."""
    return with_evidence(reading_from_cim(load_json(data, where), where), (RawEvidence("cim.json", data),))


def reading_from_cim(document: Any, where: str) -> Reading:
    """Return what the classes say. Raises SourceError where none of them is there."""
    if not is_cim(document):
        raise SourceError("no memory classes are in this JSON", where, f"it needs {MODULES}, as docs/file-formats.md shows")
    by_class = isinstance(document, dict) and any(name in document for name in (MODULES, ARRAYS, COMPUTER, SYSTEM))
    whole = document if by_class else {MODULES: document}
    modules = dicts(whole.get(MODULES))[:_MOST_MODULES]
    arrays = [array for array in dicts(whole.get(ARRAYS)) if array.get("Use") in (3, "3", None)]
    computer = next(iter(dicts(whole.get(COMPUTER))), {})
    system = next(iter(dicts(whole.get(SYSTEM))), {})
    visible = whole_number(system.get("TotalVisibleMemorySize"))
    usable = visible * KIB if visible else whole_number(computer.get("TotalPhysicalMemory"))
    # One array to a processor: their slots and limits add up.
    limit = sum(whole_number(array.get("MaxCapacityEx")) or whole_number(array.get("MaxCapacity")) or 0 for array in arrays)
    slots = sum(whole_number(array.get("MemoryDevices"), 1024) or 0 for array in arrays)
    bits = {"6": 64, "3": 32}.get((text(system.get("OSArchitecture")) or " ")[0])
    model = text(computer.get("Model"))
    virtual = _is_virtual(computer, modules)
    notices = (Notice(NoticeKind.VIRTUAL, "this is a virtual machine; its memory is the hypervisor's invention", where),) if virtual else ()
    if 0 < slots < len(modules):
        fewer = f"the system announces {counted(slots, 'memory device')} and lists {len(modules)}; the list is taken"
        notices, slots = (*notices, Notice(NoticeKind.REMARK, fewer, where)), len(modules)
    return Reading(
        slots=_slots(modules),
        slot_count=system_fact(slots or None, ARRAYS),
        usable_bytes=system_fact(usable, SYSTEM if visible else COMPUTER),
        array_limit_bytes=system_fact(limit * KIB if limit else None, ARRAYS),
        system_bits=system_fact(bits, SYSTEM),
        virtual=system_fact(True if virtual else None, COMPUTER),
        machine=Machine(
            maker=system_fact(text(computer.get("Manufacturer")), COMPUTER),
            model=system_fact(model, COMPUTER),
        ),
        notices=notices,
        origin=where,
        taken_at=datetime.now(UTC).replace(microsecond=0),
    )


def _is_virtual(computer: dict[str, Any], modules: list[dict[str, Any]]) -> bool:
    """Return whether the machine is a virtual one: it says so, or runs under a hypervisor and its modules are nobody's.

    A hypervisor alone proves nothing, as systems run under one of their own; modules without maker, part and rate do.
    """
    said = " ".join(str(computer.get(name, "")) for name in ("Model", "Manufacturer", "SystemFamily")).casefold()
    if "virtual" in said or " vm" in f" {said} ".replace("-", " "):
        return True
    nameless = all(not any(text(module.get(name)) for name in ("PartNumber", "SerialNumber")) for module in modules)
    rateless = all(whole_number(module.get("Speed"), HIGHEST_RATE_MTS) is None for module in modules)
    return bool(modules) and nameless and rateless and computer.get("HypervisorPresent") is True


def _slots(modules: list[dict[str, Any]]) -> tuple[Slot, ...]:
    banks = [text(module.get("BankLabel")) or "" for module in modules]
    names = [
        text(module.get("DeviceLocator")) or bank or f"slot {index + 1}"
        for index, (module, bank) in enumerate(zip(modules, banks, strict=True))
    ]
    names = distinct(names, banks)
    return tuple(Slot(name, Filling.FILLED, _module(module), bank=bank) for name, bank, module in zip(names, banks, modules, strict=True))


def _generation(one: dict[str, Any]) -> Generation | None:
    """Return the generation by the firmware's own code, else by the class's older one, whose numbers are others (CIM_Chip)."""
    found = GENERATIONS.get(whole_number(one.get("SMBIOSMemoryType"), 255) or 0)
    return found or _CIM_GENERATIONS.get(whole_number(one.get("MemoryType"), 255) or 0)


def _form(one: dict[str, Any], generation: Generation | None) -> Form | None:
    form = _FORMS.get(whole_number(one.get("FormFactor"), 255) or 0)
    return Form.SOLDERED if generation is not None and generation.value.startswith("LP") and form is not Form.SODIMM else form


def _module(one: dict[str, Any]) -> Module:
    generation = _generation(one)
    data, total = whole_number(one.get("DataWidth"), 4096), whole_number(one.get("TotalWidth"), 4096)
    rated = whole_number(one.get("Speed"), HIGHEST_RATE_MTS)
    running = whole_number(one.get("ConfiguredClockSpeed"), HIGHEST_RATE_MTS)
    module = Module(
        size_bytes=system_fact(whole_number(one.get("Capacity")), MODULES),
        generation=system_fact(generation, MODULES),
        form=system_fact(_form(one, generation), MODULES),
        rated_mts=system_fact(snap_rate(rated, generation) if rated and rated >= 50 else None, MODULES),
        running_mts=system_fact(snap_rate(running, generation) if running and running >= 50 else None, MODULES),
        data_width_bits=system_fact(data, MODULES),
        ecc=system_fact(total > data if total and data and total >= data else None, MODULES),
        voltage_mv=system_fact(whole_number(one.get("ConfiguredVoltage"), 10_000), MODULES),
        maker=system_fact(text(one.get("Manufacturer")), MODULES),
        part=system_fact(text(one.get("PartNumber")), MODULES),
        serial=system_fact(text(one.get("SerialNumber")), MODULES),
    )
    if module.form is not None and module.form.value is Form.UDIMM and module.ecc is not None and module.ecc.value:
        # The code says DIMM only; with error correction it may be registered as well as not.
        return replace(module, form=None)
    return module
