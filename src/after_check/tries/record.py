"""A log of tries as JSON text for a store. What is known of a module is kept in its words, and read from them again."""

from __future__ import annotations

from dataclasses import replace

from after_check.domain.tries import Try, TryLog, TryModule
from after_check.sources.codec import Codec
from after_check.sources.notation.edit import module_from_words

_NAMES = {"benchmark_gbs": "gauge_gbs"}
_LOGS = Codec(TryLog, names=_NAMES)
_TRIES = Codec(Try, names=_NAMES)


def log_to_json(log: TryLog) -> str:
    """Return a log as JSON text."""
    plain = replace(log, modules=tuple(replace(module, module=None) for module in log.modules))
    return _LOGS.to_json(plain)


def log_from_json(text: str) -> TryLog:
    """Return the log of `log_to_json`. Raises ValueError."""
    log = _LOGS.from_json(text)
    return replace(log, modules=tuple(known(module) for module in log.modules))


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
    """Return a module with what its words say."""
    return replace(module, module=module_from_words(module.words)[0]) if module.words else module
