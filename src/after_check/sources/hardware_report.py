"""The JSON hardware report of other desktop systems: one object with a list for each kind of hardware."""

from __future__ import annotations

import re
from datetime import UTC, datetime
from typing import Any

from after_check.domain.boards import Filling, Slot
from after_check.domain.modules import Form, Generation, Module
from after_check.domain.quantities import parse_size
from after_check.domain.readings import Machine, Reading
from after_check.files.errors import SourceError
from after_check.files.json_values import dicts, load_json, system_fact, text
from after_check.sources.evidence import RawEvidence, Taken, with_evidence
from after_check.standards.rates import HIGHEST_RATE_MTS, snap_rate

MEMORY = "SPMemoryDataType"
HARDWARE = "SPHardwareDataType"
_MOST_MODULES = 256
_HEXADECIMAL = re.compile(r"0x([0-9A-Fa-f]{4,80})\Z")


def is_hardware_report(document: Any) -> bool:
    """Return whether a JSON document is such a report with a memory part."""
    return isinstance(document, dict) and MEMORY in document


def take_hardware_report(data: bytes, where: str) -> Taken:
    """Take a reading from a report in a file. Raises SourceError."""
    return with_evidence(reading_from_report(load_json(data, where), where), (RawEvidence("hardware-report.json", data),))


def reading_from_report(document: Any, where: str) -> Reading:
    """Return what the report says. Raises SourceError where it has no memory part."""
    if not is_hardware_report(document):
        raise SourceError("no memory part is in this JSON", where, f"it needs {MEMORY}, as docs/file-formats.md shows")
    banks = [item for part in dicts(document[MEMORY]) for item in dicts(part.get("_items"))][:_MOST_MODULES]
    hardware = next(iter(dicts(document.get(HARDWARE))), {})
    slots = tuple(_slot(bank, index) for index, bank in enumerate(banks))
    loose = () if banks else tuple(_soldered(part) for part in dicts(document[MEMORY])[:_MOST_MODULES] if text(part.get(MEMORY)))
    total = parse_size(text(hardware.get("physical_memory")) or "")
    states = [state for part in dicts(document[MEMORY]) if (state := text(part.get("global_ecc_state")))]
    ecc_on = {"enabled": True, "ecc_enabled": True, "disabled": False, "ecc_disabled": False}.get(states[0].casefold()) if states else None
    return Reading(
        slots=slots,
        loose=loose,
        total_bytes=system_fact(total or None, HARDWARE),
        ecc_on=system_fact(ecc_on, MEMORY),
        machine=Machine(
            model=system_fact(text(hardware.get("machine_model")) or text(hardware.get("machine_name")), HARDWARE),
            serial=system_fact(text(hardware.get("serial_number")), HARDWARE),
        ),
        origin=where,
        taken_at=datetime.now(UTC).replace(microsecond=0),
    )


def _slot(bank: dict[str, Any], index: int) -> Slot:
    name = text(bank.get("_name")) or f"slot {index + 1}"
    if "empty" in (str(bank.get("dimm_size", "")).casefold(), str(bank.get("dimm_status", "")).casefold()):
        return Slot(name, Filling.EMPTY)
    return Slot(name, Filling.FILLED, _module(bank))


def _module(bank: dict[str, Any]) -> Module:
    generation = _generation(text(bank.get("dimm_type")))
    speed = re.match(r"(\d{2,5})\s*(?:MHz|MT/s)\Z", text(bank.get("dimm_speed")) or "")
    rate = int(speed[1]) if speed and 50 <= int(speed[1]) <= HIGHEST_RATE_MTS else None
    return Module(
        size_bytes=system_fact(parse_size(text(bank.get("dimm_size")) or "") or None, MEMORY),
        generation=system_fact(generation, MEMORY),
        # The report writes MHz beside what is a data rate; what is too low for one is settled by judgement.
        running_mts=system_fact(snap_rate(rate, generation) if rate else None, MEMORY),
        form=system_fact(Form.SODIMM if "SO-DIMM" in (text(bank.get("dimm_type")) or "").upper() else None, MEMORY),
        ecc=system_fact(_ecc(text(bank.get("dimm_type"))), MEMORY),
        maker=system_fact(_readable(bank.get("dimm_manufacturer")), MEMORY),
        part=system_fact(_readable(bank.get("dimm_part_number")), MEMORY),
        serial=system_fact(text(bank.get("dimm_serial_number")), MEMORY),
    )


def _soldered(part: dict[str, Any]) -> Module:
    generation = _generation(text(part.get("dimm_type")))
    return Module(
        size_bytes=system_fact(parse_size(text(part.get(MEMORY)) or "") or None, MEMORY),
        generation=system_fact(generation, MEMORY),
        form=system_fact(Form.SOLDERED, MEMORY),
        maker=system_fact(_readable(part.get("dimm_manufacturer")), MEMORY),
    )


def _generation(name: str | None) -> Generation | None:
    word = (name or "").upper().split()[:1]
    try:
        return Generation(word[0]) if word else None
    except ValueError:
        return None


def _ecc(kind: str | None) -> bool | None:
    """Return whether a kind such as `DDR3 ECC` names error correction; one that does not leaves it open."""
    return True if kind is not None and "ECC" in kind.upper().split() else None


def _readable(value: Any) -> str | None:
    """Return a text; the report writes part numbers as the hexadecimal of their letters."""
    said = text(value)
    match = _HEXADECIMAL.match(said or "")
    if match is None or len(match[1]) % 2 or len(match[1]) < 8:
        return said
    letters = bytes.fromhex(match[1]).rstrip(b"\0 ")
    return letters.decode("ascii").strip() or None if letters.isascii() and letters.decode("ascii").isprintable() else said
