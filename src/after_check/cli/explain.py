"""The command `explain`."""

from __future__ import annotations

import contextlib
import json
import sys
from collections.abc import Iterator
from typing import Any

from after_check.cli.report_lines import reading_lines
from after_check.domain.readings import Reading
from after_check.language.typed_text import Said, said
from after_check.sources.explain import explain
from after_check.sources.open_source import NotationError, take
from after_check.sources.saved import READINGS

_READ_STANDARD_INPUT = "-"


def explain_command(text: str, as_json: bool, promise: bool = False, before: str | None = None) -> int:
    """Explain a text and return 0; `-` reads it from standard input."""
    reading = take(before).reading if before is not None else None
    if text == _READ_STANDARD_INPUT:
        found = said(sys.stdin.read(), promise, reading)
        print(json.dumps(_document(found), indent=1) if as_json else "\n".join(_lines(found)))
        return 0
    lines = _sentences(text, promise, reading)
    print(json.dumps({"text": text, "says": lines}, indent=1) if as_json else "\n".join(lines))
    return 0


def _sentences(text: str, promise: bool, before: Reading | None) -> list[str]:
    """Return what a text says, as a promise where it is one. Raises NotationError where nothing of it is understood."""
    if not promise:
        with contextlib.suppress(NotationError):
            return explain(text)
    found = said(text, promise, before)
    return list(_lines(found)) if found.notation or found.asks or found.left_aside else explain(text)


def _document(found: Said) -> dict[str, Any]:
    return {
        "reading": READINGS.to_data(found.reading),
        "asks": [{"about": ask.about, "question": ask.question, "choices": list(ask.choices)} for ask in found.asks],
        "not_understood": [{"text": found.text[start:end], "from": start, "to": end} for start, end in found.not_understood],
        "left_aside": [
            {"text": found.text[one.start : one.end], "from": one.start, "to": one.end, "because": one.because.value}
            for one in found.left_aside
        ],
        "notation": found.notation,
    }


def _lines(found: Said) -> Iterator[str]:
    yield from reading_lines(found.reading)
    for ask in found.asks:
        yield f"? {ask.question}"
    for one in found.left_aside:
        yield f"– left aside, {one.because.value}: {found.text[one.start : one.end]}"
    for start, end in found.not_understood:
        yield f"! not understood: {found.text[start:end]}"
    if found.notation:
        yield f"in the short form: {found.notation}"
