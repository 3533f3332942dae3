"""Records of soaks as JSON, as a file, and as the result that judgement takes."""

from __future__ import annotations

import functools
import json
import os
import platform
from dataclasses import replace
from pathlib import Path
from typing import Any

from pydantic import TypeAdapter, ValidationError

from after_check.domain.readings import SoakResult
from after_check.domain.soak import SoakRecord, SoakState
from after_check.sources.whole_files import write_whole

FORMAT = "after-check soak"
VERSION = 1
HOT_MODULE_CELSIUS = 85.0
"""The upper end of the normal range of DRAM's case temperature (JESD79-4 and JESD79-5)."""
_LARGEST_FILE_BYTES = 16 << 20


@functools.cache
def _adapter() -> TypeAdapter[SoakRecord]:
    return TypeAdapter(SoakRecord)


def record_document(record: SoakRecord) -> dict[str, Any]:
    """Return a record as data for a JSON document."""
    return {"format": FORMAT, "version": VERSION, **_adapter().dump_python(record, mode="json")}


def record_to_json(record: SoakRecord) -> str:
    """Return a record as JSON text for a store."""
    return _adapter().dump_json(record, exclude_defaults=True).decode()


def record_from_json(text: str | bytes) -> SoakRecord:
    """Return the record of `record_to_json` or of a file. Raises ValueError."""
    data = json.loads(text)
    if isinstance(data, dict):
        if data.get("version", VERSION) != VERSION or data.get("format", FORMAT) != FORMAT:
            raise ValueError("this is no record of a soak that this program reads")
        data = {key: value for key, value in data.items() if key not in ("format", "version")}
    try:
        return _adapter().validate_json(json.dumps(data))
    except ValidationError as error:
        first = error.errors()[0]
        raise ValueError(f"{'.'.join(str(part) for part in first['loc'])}: {first['msg']}") from None


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


def this_process() -> str:
    """Return the computer and the number of this process, by which others tell whether it still lives."""
    return f"{platform.node()} {os.getpid()}"


def has_died(process: str) -> bool:
    """Whether a process is known to be gone; False where it ran on another computer, or nobody can tell."""
    node, _, number = process.rpartition(" ")
    if node != platform.node() or not number.isdigit() or os.name != "posix":
        return False
    try:
        os.kill(int(number), 0)
    except ProcessLookupError:
        return True
    except (OSError, OverflowError):
        return False
    return False


def covered_percent(record: SoakRecord) -> int | None:
    """Return the share of the installed memory that every finished step covered, in per cent; None where neither is known."""
    installed = record.covered.installed_bytes
    # Rounded down, less what a division may lose: 98.9 is not 99, and 99 is not 98.
    return min(100, int(100 * record.fully_swept_bytes / installed + 1e-6)) if installed else None


def was_hot(record: SoakRecord) -> bool:
    """Whether the processor slowed itself down for heat, or a module went beyond its normal range."""
    return any((one.throttled or 0) > 0 or (one.module_celsius or 0.0) > HOT_MODULE_CELSIUS for one in record.surroundings)


def result_of(record: SoakRecord) -> SoakResult | None:
    """Return what judgement takes of a soak: None where it found nothing and finished nothing, which is no result."""
    if not record.errors and not record.steps_done:
        return None
    return SoakResult(
        errors=record.errors,
        minutes=int(record.seconds // 60),
        covered_percent=covered_percent(record),
        by=f"{record.plan} soak",
        suspects=record.suspects,
        hot=was_hot(record),
        own_word=bool(record.own_word_of),
    )
