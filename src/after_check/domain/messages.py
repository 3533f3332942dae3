"""A message: what is to be said, as a key and named values. Its words stand in `texts/`, one file a language."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Union

Value = Union[int, float, str, "Message", tuple[str, ...], tuple["Message", ...], None]
"""What a message may name. The end of a value's name is its unit: `_bytes`, `_mts` (MT/s), `_ns`, `_gbs` (decimal GB/s), `_mv`."""
Values = tuple[tuple[str, Value], ...]


@dataclass(frozen=True, slots=True)
class Message:
    """Something to be said: the key of its words, and the values that they name."""

    key: str
    values: Values = ()


def message(key: str, **values: Value) -> Message:
    """Return a message with its values by name."""
    return Message(key, tuple(values.items()))
