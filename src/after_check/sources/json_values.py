"""Reading values out of other programs' JSON without trusting any of it."""

from __future__ import annotations

import json
from typing import Any

from after_check.domain.facts import Fact, Source, T
from after_check.domain.quantities import LARGEST_SIZE_BYTES
from after_check.domain.text import clean
from after_check.sources.errors import SourceError


def load_json(data: bytes, where: str) -> Any:
    """Return the JSON in a file of UTF-8 or, as some shells write, UTF-16. Raises SourceError."""
    encoding = "utf-16" if data[:2] in (b"\xff\xfe", b"\xfe\xff") else "utf-8-sig"
    try:
        return json.loads(data.decode(encoding))
    except UnicodeDecodeError as error:
        raise SourceError(
            f"is no text in {encoding.removesuffix('-sig').upper()} (byte {error.start})", where, "save it as UTF-8"
        ) from None
    except (ValueError, RecursionError) as error:
        raise SourceError(f"this is no JSON ({clean(str(error), 80)})", where, "write the file again") from None


def text(value: Any) -> str | None:
    """Return a text, cleaned; None for anything else or nothing."""
    return clean(value) or None if isinstance(value, str) else None


def whole_number(value: Any, most: int = LARGEST_SIZE_BYTES) -> int | None:
    """Return a number written either way (8 or "8"), from 1 to `most`."""
    if isinstance(value, bool):
        return None
    if isinstance(value, str) and value.strip().isascii() and value.strip().isdigit() and len(value) < 20:
        value = int(value)
    if isinstance(value, float) and value.is_integer():
        value = int(value)
    return value if isinstance(value, int) and 0 < value <= most else None


def dicts(value: Any) -> list[dict[str, Any]]:
    """Return the objects of a list, or the one object as a list."""
    if isinstance(value, dict):
        return [value]
    return [one for one in value if isinstance(one, dict)] if isinstance(value, list) else []


def system_fact(value: T | None, where: str) -> Fact[T] | None:
    """Return a fact that the operating system told."""
    return None if value is None else Fact(value, Source.SYSTEM, where)
