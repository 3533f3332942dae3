"""One or the other: `2400 or 2666`, `16 or 32`, what is only supposed. Neither is taken; both are asked about."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

from after_check.language.words.clauses import Clause
from after_check.language.words.state import Amount, State
from after_check.language.words.token import Token
from after_check.language.words.understood import Phrase, Scope

_ABOUT = {
    **dict.fromkeys(("group", "one", "some", "counted", "each", "bare", "size", "in_slot", "soldered", "sum"), "modules"),
    "from_to": "total_bytes",
    **dict.fromkeys(("rate", "rated"), "rated_mts"),
    **{"runs": "running_rate", "clock": "running_rate", "amount": "total_bytes", "usable_of": "usable_bytes"},
    **dict.fromkeys(("channels", "mode", "one_channel", "two_channels", "four_channels"), "channels"),
    **dict.fromkeys(("profile", "profile_number", "profile_none"), "profile"),
    "slot_either": "modules",
    **{"slots_used": "slots_used", "slots_count": "slot_count", "attr": "modules.generation"},
}
_WORDS = {
    "modules": "modules",
    "rated_mts": "rate",
    "running_rate": "rate",
    "total_bytes": "total",
    "channels": "channels",
    "profile": "profile",
    "usable_bytes": "usable size",
}


def either_or(tokens: Sequence[Token], items: Sequence[Phrase]) -> list[tuple[Phrase, Phrase]]:
    """Return pairs of phrases of one kind that are joined by an "or"."""
    found = []
    for before, behind in pairwise(items):
        between = [tokens[at] for at in range(before.last + 1, behind.first)]
        joined = any(
            (token.means("or") and not token.means("of", "at", "noise")) or token.text in ("or", "oder", "ou", "oppure", "lub")
            for token in between
        )
        if joined and len(between) <= 3 and _ABOUT.get(before.says, "") and _is_alike(before, behind):
            found.append((before, behind))
    return found


def _is_alike(one: Phrase, other: Phrase) -> bool:
    return (
        _ABOUT.get(one.says) == _ABOUT.get(other.says)
        or {_ABOUT.get(one.says), _ABOUT.get(other.says)} <= {"modules", "total_bytes"}
        or {_ABOUT.get(one.says), _ABOUT.get(other.says)} <= {"rated_mts", "running_rate"}
    )


def ask_between(state: State) -> None:
    """Ask about what is said with an "or", and about what is only supposed, where nothing surer is said of it."""
    items = [item for clause in state.clauses for item in clause.items]
    for before, behind in either_or(state.tokens, items):
        if before.scope is not Scope.SUPPOSED or behind.scope is not Scope.SUPPOSED:
            continue
        about = _about(before)
        words = [_words(state, item) for item in (before, behind)]
        if about == "modules" and (before.says in ("size", "bare") or behind.says in ("size", "bare")):
            about = "modules"
        state.ask(about, f"Which is it: {' or '.join(words)}?", tuple(words), before, behind)
    for item in items:
        if item.scope is Scope.SUPPOSED and (about := _about(item)) and not _is_known(state, about) and not state.promise:
            state.ask(about, f"Is it so: {state.text[item.start : item.end].strip()}?", (state.text[item.start : item.end].strip(),), item)


def _words(state: State, item: Phrase) -> str:
    token = item.parts["t"] if item.says == "from_to" else None
    return state.text[token.start : token.end] if token is not None else state.text[item.start : item.end].strip()


def _about(item: Phrase) -> str:
    return (
        "usable_bytes"
        if item.says == "amount" and item.parts["role"] == "usable"
        else "graphics_bytes"
        if item.says == "amount" and item.parts["role"] == "graphics"
        else _ABOUT.get(item.says, "")
    )


def _is_known(state: State, about: str) -> bool:
    amounts: list[Amount] = state.amounts
    if about == "modules":
        return bool(state.drafts or amounts)
    if about in ("rated_mts", "running_rate"):
        return bool(state.rates or "rated_mts" in state.said)
    if about == "modules.generation":
        return "generation" in state.said
    if about == "total_bytes":
        return bool(amounts or state.drafts)
    return about in state.facts


def suppose_alternatives(tokens: Sequence[Token], clauses: Sequence[Clause]) -> None:
    """Mark what is joined by an "or" as supposed: neither is certain, nor is what is said of one slot or the other."""
    for clause in clauses:
        if any(item.says == "slot_either" and item.scope is Scope.NOW for item in clause.items):
            for item in clause.items:
                item.scope = Scope.SUPPOSED if item.scope is Scope.NOW else item.scope
    items = [item for clause in clauses for item in clause.items]
    for before, behind in either_or(tokens, items):
        if before.scope is Scope.NOW and behind.scope is Scope.NOW:
            before.scope = behind.scope = Scope.SUPPOSED
            for item in (before, behind):
                if "g" in item.parts and item.says == "rated":
                    item.parts["kind_stands"] = True
