"""Frozen data as JSON and back, by its types: one codec for every kind of document that the program keeps.

Fields that were renamed since files were first written keep their old name in files, so that files of any age are read
by any version: `names` holds the name in files of each such field.
"""

from __future__ import annotations

import functools
import json
from collections.abc import Mapping
from typing import TYPE_CHECKING, Any, Generic, TypeVar

from after_check.domain.errors import AfterCheckError
from after_check.domain.outside_text import stripped_data
from after_check.files.form_errors import in_words
from after_check.files.strict_json import may_hold_wild_figures, parse_json
from after_check.files.times import check_times

if TYPE_CHECKING:
    from pydantic import TypeAdapter

T = TypeVar("T")


class NotThisFormError(AfterCheckError, ValueError):
    """A document does not have the form of its type; the message says where and why."""


class Codec(Generic[T]):
    """Turns values of one frozen type into JSON and back."""

    def __init__(self, kind: type[T], names: Mapping[str, str] | None = None) -> None:
        self._kind = kind
        self._in_files = dict(names or {})
        self._in_code = {in_file: field for field, in_file in self._in_files.items()}

    @functools.cached_property
    def _adapter(self) -> TypeAdapter[T]:
        # Made at the first use: its checks take a moment to build, and its library to import.
        from pydantic import TypeAdapter

        return TypeAdapter(self._kind)

    def schema(self) -> dict[str, Any]:
        """Return the JSON schema of the type, with the names that stand in files."""
        renamed: dict[str, Any] = _renamed(self._adapter.json_schema(), self._in_files)
        return renamed

    def to_data(self, value: T, with_defaults: bool = False) -> dict[str, Any]:
        """Return a value as data for a JSON document."""
        data: dict[str, Any] = _renamed(self._adapter.dump_python(value, mode="json", exclude_defaults=not with_defaults), self._in_files)
        return data

    def to_json(self, value: T) -> str:
        """Return a value as JSON text without what is as usual."""
        if not self._in_files:
            return self._adapter.dump_json(value, exclude_defaults=True).decode()
        return json.dumps(self.to_data(value), ensure_ascii=False, separators=(",", ":"))

    def from_json(self, text: str | bytes) -> T:
        """Return the value of `to_json`. Raises NotThisFormError (a ValueError) that says what is wrong and where in it."""
        if not self._in_files:
            return self._checked(text)
        return self.from_data(parse_json(text))

    def from_data(self, data: Any) -> T:
        """Return the value of `to_data`. Raises NotThisFormError (a ValueError) that says what is wrong and where in it."""
        return self._checked(json.dumps(_renamed(data, self._in_code)))

    def _checked(self, text: str | bytes) -> T:
        from pydantic import ValidationError

        raw = text.encode("utf-8", "replace") if isinstance(text, str) else text
        # Controls stand in JSON as \\u…, or are no ASCII; most documents have neither, nor wild figures, and are passed at once.
        if b"\\u" in raw or b"\x7f" in raw or not raw.isascii() or may_hold_wild_figures(raw):
            try:
                raw = json.dumps(stripped_data(parse_json(raw))).encode()
            except (ValueError, RecursionError) as error:
                raise NotThisFormError("it is nested too deeply" if isinstance(error, RecursionError) else str(error)) from None
        try:
            value = self._adapter.validate_json(raw)
        except ValidationError as error:
            first = error.errors()[0]
            raise NotThisFormError(in_words(first)) from None
        try:
            check_times(value)
        except ValueError as error:
            raise NotThisFormError(str(error)) from None
        return value


def _renamed(node: Any, names: Mapping[str, str]) -> Any:
    """Return JSON data with the names of fields changed, however deep they stand."""
    if not names:
        return node
    if isinstance(node, dict):
        return {names.get(key, key): _renamed(value, names) for key, value in node.items()}
    return [_renamed(value, names) for value in node] if isinstance(node, list) else node
