"""What does not fit a form, in plain words: where it is, what it has to be, and which name was meant.

The library that checks forms tells its errors by a type (pydantic, "Validation errors"); its own sentences speak of the
types of a programming language.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from after_check.domain.outside_text import clean, nearest

_HAS_TO_BE = {
    "dict_type": "a table, { … }",
    "model_type": "a table, { … }",
    "model_attributes_type": "a table, { … }",
    "dataclass_type": "a table, { … }",
    "list_type": "a list, [ … ]",
    "tuple_type": "a list, [ … ]",
    "string_type": "text, in quotes",
    "bool_type": "true or false",
    "bool_parsing": "true or false",
    "int_type": "a whole number",
    "int_parsing": "a whole number",
    "int_from_float": "a whole number",
    "float_type": "a number",
    "float_parsing": "a number",
    "finite_number": "a number that is not endless",
}
_BOUNDS = {
    "greater_than_equal": ("ge", "{} or more"),
    "greater_than": ("gt", "more than {}"),
    "less_than_equal": ("le", "{} at the most"),
    "less_than": ("lt", "less than {}"),
    "literal_error": ("expected", "{}"),
    "enum": ("expected", "{}"),
}
_LENGTHS = {
    "too_long": ("max_length", "has more entries than {}"),
    "too_short": ("min_length", "has fewer entries than {}"),
    "string_too_long": ("max_length", "has more than {} characters"),
    "string_too_short": ("min_length", "has fewer than {} characters"),
}


def in_words(error: Mapping[str, Any], names: Iterable[str] = ()) -> str:
    """Return what an error says, `try.1.start: has to be 'yes', 'no' or 'cycles'`; `names` are those that are known where it is."""
    return f"{_place(error['loc'])}: {_what(error, tuple(names))}"


def _place(parts: tuple[int | str, ...]) -> str:
    """Return where something is, entries of a list counted from 1: `try.1.start`."""
    return ".".join(str(part + 1) if isinstance(part, int) else clean(str(part), 40) for part in parts) or "the file"


def _what(error: Mapping[str, Any], names: tuple[str, ...]) -> str:
    kind, context = str(error["type"]), error.get("ctx", {})
    if kind == "missing":
        return "is missing"
    if kind in ("extra_forbidden", "unexpected_keyword_argument"):
        near = nearest(str(error["loc"][-1]), names)
        return "is not known here" + (f" ({near})" if near else "")
    if kind in _HAS_TO_BE:
        return f"has to be {_HAS_TO_BE[kind]}"
    if kind in _BOUNDS and _BOUNDS[kind][0] in context:
        key, words = _BOUNDS[kind]
        bound = context[key]
        return f"has to be {words.format(f'{bound:g}' if isinstance(bound, float) else clean(str(bound), 100))}"
    if kind in _LENGTHS and _LENGTHS[kind][0] in context:
        key, words = _LENGTHS[kind]
        return words.format(context[key])
    return clean(str(error["msg"]).removeprefix("Value error, "), 160)
