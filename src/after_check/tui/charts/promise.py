"""A promise in a line."""

from __future__ import annotations

from after_check.domain.facts import value_of
from after_check.domain.modules import Module
from after_check.domain.promises import Promise
from after_check.domain.quantities import size_text
from after_check.domain.readings import ProfileState


def promise_words(promise: Promise | None) -> str:
    """Return a promise in a line: `2 × 24 GiB DDR5-6400, two channels, profile 1`."""
    if promise is None:
        return ""
    groups: dict[str, int] = {}
    for module in promise.modules:
        groups[_module_words(module)] = groups.get(_module_words(module), 0) + 1
    parts = [" + ".join(f"{count} × {words}" for words, count in groups.items())] if groups else []
    if not groups and promise.total_bytes:
        of = _module_words(promise.each).removeprefix("?").strip() if promise.each is not None else ""
        parts.append(f"{size_text(promise.total_bytes)} {of}".strip())
    sold = {value_of(module.rated_mts) for module in promise.modules}
    if promise.rate_mts and sold != {promise.rate_mts}:
        parts.append(f"at {promise.rate_mts}")
    if promise.channels:
        parts.append({1: "one channel", 2: "two channels"}.get(promise.channels, f"{promise.channels} channels"))
    if promise.profile is not None:
        parts.append("no profile" if promise.profile is ProfileState.OFF else f"profile {promise.profile.value}")
    return ", ".join(parts)


def _module_words(module: Module) -> str:
    generation, rated_mts = value_of(module.generation), value_of(module.rated_mts)
    size = size_text(module.size_bytes.value) if module.size_bytes else "?"
    return f"{size} {generation}-{rated_mts}" if generation and rated_mts else f"{size} {generation or ''}".strip()
