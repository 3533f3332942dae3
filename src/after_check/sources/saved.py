"""Saved readings: one JSON document each, with the raw evidence. `docs/reading.schema.json` is its schema."""

from __future__ import annotations

import base64
import binascii
from pathlib import Path
from typing import Any

from after_check.domain.errors import AfterCheckError
from after_check.domain.outside_text import clean
from after_check.domain.quantities import LARGEST_SIZE_BYTES
from after_check.domain.readings import Reading
from after_check.files.codec import Codec, NotThisFormError
from after_check.files.errors import SourceError
from after_check.files.plain_files import read_plain
from after_check.files.strict_json import parse_json
from after_check.sources.evidence import RawEvidence, Taken, with_evidence
from after_check.standards.rates import HIGHEST_RATE_MTS

FORMAT = "after-check reading"
VERSION = 1
LARGEST_DOCUMENT_BYTES = 64 << 20
_LONGEST_STRING = 500
_LARGEST_BY_SUFFIX = {"_bytes": LARGEST_SIZE_BYTES, "_byte": LARGEST_SIZE_BYTES, "_mts": HIGHEST_RATE_MTS, "_mv": 100_000, "_bits": 4096}


READINGS = Codec(Reading, names={"benchmark": "gauge"})
"""The codec of a reading, alone and within other documents."""


def schema() -> dict[str, Any]:
    """Return the JSON schema of a saved reading."""
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "A reading saved by After Check",
        "type": "object",
        "required": ["format", "version", "reading"],
        "properties": {
            "format": {"const": FORMAT},
            "version": {"const": VERSION},
            "reading": {"$ref": "#/$defs/Reading"},
            "raw": {
                "type": "array",
                "items": {
                    "type": "object",
                    "required": ["name", "base64"],
                    "properties": {"name": {"type": "string"}, "base64": {"type": "string", "contentEncoding": "base64"}},
                },
            },
        },
        "$defs": _definitions(),
    }


def _definitions() -> dict[str, Any]:
    generated = READINGS.schema()
    definitions: dict[str, Any] = generated.pop("$defs")
    return {**definitions, "Reading": generated}


def reading_to_json(reading: Reading) -> str:
    """Return a reading alone as JSON text, without raw evidence."""
    return READINGS.to_json(reading)


def reading_from_json(text: str | bytes) -> Reading:
    """Return the reading of `reading_to_json`. Raises ValueError."""
    return READINGS.from_json(text)


def dump(taken: Taken, with_raw: bool = True) -> dict[str, Any]:
    """Return a saved reading as data for a JSON document."""
    document: dict[str, Any] = {
        "format": FORMAT,
        "version": VERSION,
        "reading": READINGS.to_data(taken.reading),
    }
    if with_raw and taken.evidence:
        document["raw"] = [{"name": part.name, "base64": base64.b64encode(part.data).decode()} for part in taken.evidence]
    return document


def load(data: bytes, where: str) -> Taken:
    """Return the reading of a JSON document. Raises SourceError that says what is wrong and where in it."""
    if len(data) > LARGEST_DOCUMENT_BYTES:
        raise SourceError(f"the document has {len(data):,} bytes; {LARGEST_DOCUMENT_BYTES:,} are the most", where)
    try:
        document = parse_json(data)
    except (ValueError, RecursionError) as error:
        raise SourceError(
            f"this is no JSON ({_first_line(error)})", where, "save the reading again with: after-check read --out F"
        ) from None
    if not isinstance(document, dict) or document.get("format") != FORMAT:
        raise SourceError("this JSON is no saved reading", where, f'a saved reading has "format": "{FORMAT}" at its top')
    if document.get("version") != VERSION:
        raise SourceError(
            f"the reading was saved in format version {clean(str(document.get('version')), 20)}; this program reads version {VERSION}",
            where,
            "bring After Check up to date",
        )
    return _validated(document, where)


def load_file(path: Path) -> Taken:
    """Return the reading in a file."""
    return load(read_plain(path, LARGEST_DOCUMENT_BYTES, "reading"), str(path))


def _validated(document: dict[str, Any], where: str) -> Taken:
    try:
        body = _cleaned(document.get("reading"))
        _check_ranges(body, "reading")
        reading = READINGS.from_data(body)
        raw = tuple(
            RawEvidence(clean(str(entry["name"])), base64.b64decode(entry["base64"], validate=True)) for entry in document.get("raw", ())
        )
    except _OutOfRangeError as error:
        raise SourceError(str(error), where) from None
    except NotThisFormError as error:
        raise SourceError(f"reading.{clean(str(error))}", where, "the schema is in docs/reading.schema.json") from None
    except (KeyError, TypeError, binascii.Error, ValueError, RecursionError) as error:
        raise SourceError(f"the document is damaged ({type(error).__name__})", where, "save the reading again") from None
    stated = {part.name: part.sha256 for part in reading.evidence}
    for entry in raw:
        if stated.get(entry.name, entry.sha256) != entry.sha256:
            raise SourceError(f"the raw evidence {entry.name} is not what the reading was decoded from", where, "take the reading again")
    return with_evidence(reading, raw) if raw else Taken(reading)


class _OutOfRangeError(AfterCheckError, ValueError):
    pass


def _cleaned(node: Any, depth: int = 0) -> Any:
    """Return JSON data with every text cleaned: a saved reading may come from anywhere."""
    if depth > 40:
        raise _OutOfRangeError("the document is nested too deeply")
    if isinstance(node, dict):
        return {clean(str(key)): _cleaned(value, depth + 1) for key, value in node.items()}
    if isinstance(node, list):
        return [_cleaned(value, depth + 1) for value in node]
    return clean(node, _LONGEST_STRING) if isinstance(node, str) else node


def _check_ranges(node: Any, path: str) -> None:
    """Refuse numbers that no memory has, by the unit in their names; the sums of judgement rely on it."""
    if isinstance(node, list):
        for index, value in enumerate(node):
            _check_ranges(value, f"{path}[{index}]")
        return
    if not isinstance(node, dict):
        return
    for key, value in node.items():
        number = value.get("value") if isinstance(value, dict) else value
        if isinstance(number, int | float) and not isinstance(number, bool):
            largest = next((most for suffix, most in _LARGEST_BY_SUFFIX.items() if key.endswith(suffix)), 1 << 62)
            smallest = 1 if key.endswith("_mts") else 0
            if not smallest <= number <= largest:
                raise _OutOfRangeError(f"{path}.{key} is {number}, which cannot be")
        _check_ranges(value, f"{path}.{key}")


def _first_line(error: Exception) -> str:
    return clean(str(error).splitlines()[0] if str(error) else type(error).__name__, 100)
