"""Reading values out of other programs' JSON without trusting any of it."""

from __future__ import annotations

from typing import Any

from after_check.domain.facts import Fact, Source, T
from after_check.domain.outside_text import clean
from after_check.domain.quantities import LARGEST_SIZE_BYTES
from after_check.files.errors import SourceError
from after_check.files.firmware_text import said
from after_check.files.strict_json import parse_json


def load_json(data: bytes, where: str) -> Any:
    """Return the JSON in a file of UTF-8 or, as some shells write, UTF-16. Raises SourceError."""
    encoding = encoding_of(data)
    try:
        return parse_json(data.decode(encoding))
    except UnicodeDecodeError as error:
        raise SourceError(
            f"is no text in {encoding.removesuffix('-sig').upper()} (byte {error.start})", where, "save it as UTF-8"
        ) from None
    except (ValueError, RecursionError) as error:
        raise SourceError(f"this is no JSON ({clean(str(error), 80)})", where, "write the file again") from None


def encoding_of(data: bytes) -> str:
    """Return how a file's text is written: UTF-16 of either order, with a mark at its beginning or without, or UTF-8."""
    if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
        return "utf-16"
    beginning = data[:64]
    if len(beginning) >= 4 and beginning.count(0) >= len(beginning) // 3:
        return "utf-16-le" if beginning[1::2].count(0) > beginning[::2].count(0) else "utf-16-be"
    return "utf-8-sig"


def text(value: Any) -> str | None:
    """Return a text, cleaned; None for anything else, for nothing, and for what stands where nothing is known."""
    return said(clean(value)) or None if isinstance(value, str) else None


def whole_number(value: Any, most: int = LARGEST_SIZE_BYTES, least: int = 1) -> int | None:
    """Return a number written either way (8 or "8"), from `least` to `most`."""
    if isinstance(value, bool):
        return None
    if isinstance(value, str) and value.strip().isascii() and value.strip().isdigit() and len(value) < 20:
        value = int(value)
    if isinstance(value, float) and value.is_integer():
        value = int(value)
    return value if isinstance(value, int) and least <= value <= most else None


def dicts(value: Any) -> list[dict[str, Any]]:
    """Return the objects of a list, the one object as a list, or those that some shells wrap: `{"value": [...], "Count": 2}`."""
    if isinstance(value, dict) and isinstance(value.get("value"), list) and set(value) <= {"value", "Count"}:
        value = value["value"]
    if isinstance(value, dict):
        return [value]
    return [item for item in value if isinstance(item, dict)] if isinstance(value, list) else []


def system_fact(value: T | None, where: str) -> Fact[T] | None:
    """Return a fact that the operating system told."""
    return None if value is None else Fact(value, Source.SYSTEM, where)
