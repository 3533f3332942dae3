"""A log of tries as JSON text for a store. Logs from before kept what is known of a module in its words alone."""

from __future__ import annotations

from dataclasses import replace
from typing import Any, TypeVar

from after_check.domain.tries import Try, TryLog, TryModule
from after_check.files.codec import Codec
from after_check.files.strict_json import parse_json
from after_check.language.short_form.edit import module_from_words

_NAMES = {"benchmark_gbs": "gauge_gbs"}
_LOGS = Codec(TryLog, names=_NAMES)
_TRIES = Codec(Try, names=_NAMES)
_MODULES = Codec(TryModule)
Part = TypeVar("Part")


def log_to_json(log: TryLog) -> str:
    """Return a log as JSON text."""
    return _LOGS.to_json(log)


def log_from_json(text: str) -> TryLog:
    """Return the log of `log_to_json`. Raises ValueError."""
    log = _LOGS.from_json(text)
    return replace(log, modules=tuple(known(module) for module in log.modules))


def salvaged(text: str) -> tuple[TryLog, int]:
    """Return what can be read of a damaged log, each try and each module for itself, and how many tries were left out.

    Raises ValueError for a text that is no JSON document.
    """
    data = parse_json(text)
    if not isinstance(data, dict):
        raise ValueError("is no log of tries")
    modules, _ = _whole_ones(_MODULES, data.pop("modules", ()))
    tries, lost = _whole_ones(_TRIES, data.pop("tries", ()))
    log = TryLog()
    for key, value in data.items():  # What else it says, as far as it can be read.
        try:
            log = replace(log, **{key: getattr(_LOGS.from_data({key: value}), key)})
        except (ValueError, TypeError, AttributeError):
            continue
    return replace(log, modules=tuple(known(module) for module in modules), tries=tries), lost


def _whole_ones(codec: Codec[Part], items: Any) -> tuple[tuple[Part, ...], int]:
    if not isinstance(items, list):
        return (), 1
    found: list[Part] = []
    for item in items:
        try:
            found.append(codec.from_data(item))
        except (ValueError, TypeError):
            continue
    return tuple(found), len(items) - len(found)


def begun_to_json(attempt: Try, modules: tuple[TryModule, ...]) -> str:
    """Return a try that is not kept yet as JSON text, with the modules on the bench: some may have been added while it was written."""
    return log_to_json(TryLog(modules, tries=(attempt,)))


def begun_from_json(text: str) -> tuple[Try, tuple[TryModule, ...]]:
    """Return the try of `begun_to_json` and its modules; none where the text is of an age that kept the try alone. Raises ValueError."""
    try:
        log = log_from_json(text)
    except ValueError:
        return _TRIES.from_json(text), ()
    if len(log.tries) != 1:
        raise ValueError("is no try that was begun")
    return log.tries[0], log.modules


def known(module: TryModule) -> TryModule:
    """Return a module with what its words say, where nothing else was kept of it."""
    return replace(module, module=module_from_words(module.words)[0]) if module.words and module.module is None else module
