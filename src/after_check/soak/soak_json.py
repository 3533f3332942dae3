"""Records of soaks as JSON, as a file, and as the result that judgement takes."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path
from typing import Any

from after_check.domain.messages import Message
from after_check.domain.readings import SoakResult
from after_check.domain.soak import SoakRecord, SoakState, WrongDevices
from after_check.files.codec import Codec
from after_check.files.strict_json import parse_json
from after_check.files.whole_files import write_whole
from after_check.texts import say

FORMAT = "after-check soak"
VERSION = 1
HOT_MODULE_CELSIUS = 85.0
"""The upper end of the normal range of DRAM's case temperature (JESD79-4 and JESD79-5)."""
_LARGEST_FILE_BYTES = 16 << 20


_RECORDS = Codec(SoakRecord)


def record_document(record: SoakRecord) -> dict[str, Any]:
    """Return a record as data for a JSON document."""
    data = _RECORDS.to_data(record, with_defaults=True)
    # What a person reads in the document, and programs that know no bits and numbers.
    for part, symptom in zip(data["symptoms"], record.symptoms, strict=True):
        part["why"] = say(Message("symptom", tuple(symptom.values.items())))
    data["devices"] = record.devices or (say(record.wrong_devices.message) if record.wrong_devices is not None else "")
    return {"format": FORMAT, "version": VERSION, **data}


def record_to_json(record: SoakRecord) -> str:
    """Return a record as JSON text for a store."""
    return _RECORDS.to_json(record)


def record_from_json(text: str | bytes) -> SoakRecord:
    """Return the record of `record_to_json` or of a file. Raises ValueError."""
    data = parse_json(text)
    if isinstance(data, dict):
        if data.get("version", VERSION) != VERSION or data.get("format", FORMAT) != FORMAT:
            raise ValueError("this is no record of a soak that this program reads")
        data = {key: value for key, value in data.items() if key not in ("format", "version")}
    return _RECORDS.from_data(data)


def write_record(record: SoakRecord, path: Path) -> None:
    """Write a record to a file, whole or not at all. Raises OSError."""
    path.parent.mkdir(parents=True, exist_ok=True)
    write_whole(path, json.dumps(record_document(record)).encode())


def read_record(path: Path) -> SoakRecord:
    """Read a record from a file. Raises OSError, or ValueError for one that is damaged."""
    with path.open("rb") as file:
        data = file.read(_LARGEST_FILE_BYTES + 1)
    if len(data) > _LARGEST_FILE_BYTES:
        raise ValueError("the file is larger than any record")
    return record_from_json(data)


def interrupted(record: SoakRecord) -> SoakRecord:
    """Return a record that says it runs and does not: its program was killed."""
    return record if record.state.is_over else replace(record, state=SoakState.INTERRUPTED, seconds_left=None)


def covered_percent(record: SoakRecord) -> int | None:
    """Return the share of the installed memory that every finished step covered, in per cent; None where neither is known."""
    installed = record.covered.installed_bytes
    # Rounded down, less what a division may lose: 98.9 is not 99, and 99 is not 98.
    return min(100, int(100 * record.fully_swept_bytes / installed + 1e-6)) if installed else None


def was_hot(record: SoakRecord) -> bool:
    """Whether the processor slowed itself down for heat, or a module went beyond its normal range."""
    return any((moment.throttled or 0) > 0 or (moment.module_celsius or 0.0) > HOT_MODULE_CELSIUS for moment in record.surroundings)


def result_of(record: SoakRecord) -> SoakResult | None:
    """Return what judgement takes of a soak: None where it found nothing and finished nothing, which is no result."""
    if not record.errors and not record.steps_done:
        return None
    return SoakResult(
        errors=record.errors,
        minutes=int(record.seconds // 60),
        covered_percent=covered_percent(record),
        passes=None if record.own_word_of else record.passes_done,
        by=f"{record.plan} soak",
        suspects=record.suspects,
        hot=was_hot(record),
        own_word=bool(record.own_word_of),
        symptoms=record.symptoms,
        wrong_devices=record.wrong_devices or (WrongDevices(told=record.devices) if record.devices else None),
    )
