"""A log of tries as JSON text for a store. What is known of a module is kept in its words, and read from them again."""

from __future__ import annotations

import functools
from dataclasses import replace

from pydantic import TypeAdapter

from after_check.domain.tries import TryLog, TryModule
from after_check.sources.notation.edit import module_from_words


@functools.cache
def _adapter() -> TypeAdapter[TryLog]:
    return TypeAdapter(TryLog)


def log_to_json(log: TryLog) -> str:
    """Return a log as JSON text."""
    plain = replace(log, modules=tuple(replace(module, module=None) for module in log.modules))
    return _adapter().dump_json(plain, exclude_defaults=True).decode()


def log_from_json(text: str) -> TryLog:
    """Return the log of `log_to_json`. Raises ValueError."""
    log = _adapter().validate_json(text)
    return replace(log, modules=tuple(known(module) for module in log.modules))


def known(module: TryModule) -> TryModule:
    """Return a module with what its words say."""
    return replace(module, module=module_from_words(module.words)[0]) if module.words else module
