"""The chart: of all phrases that a row of tokens may be, those are taken that cover it best. The phrases are `phrases.toml`.

A dynamic programme over places: the best cover up to a token is the best one before it with the token passed over, or the best one
before a phrase that ends with it. The time is in proportion to the length of the text, as no phrase is longer than a few tokens.
"""

from __future__ import annotations

import tomllib
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from functools import cache
from importlib.resources import files
from itertools import product
from typing import Any

from after_check.language.words.token import Token
from after_check.language.words.understood import Phrase

_SEPARATORS = ("colon", "equals", "dash", "bracket")
_LIGHT = frozenset(("bracket", "colon", "equals", "dash", "noise", "of", "is", "at", "in", "with", "comma", "verbs"))
"""Kinds that say little: a phrase is not the better for having more of them."""


@dataclass(slots=True)
class _Node:
    """A place in the tree of forms: what may follow, and the phrases that end here with the kind and the role of each token."""

    following: dict[str, _Node] = field(default_factory=dict)
    ends: list[_Form] = field(default_factory=list)


@dataclass(frozen=True, slots=True)
class _Form:
    says: str
    more: float
    roles: tuple[tuple[int, str], ...]
    constants: tuple[tuple[str, str], ...]
    row: int = field(default=0, compare=False)
    """Of two that cover as well, the one that is first in the file is taken."""


@cache
def _document() -> dict[str, Any]:
    return tomllib.loads((files("after_check.language.words") / "phrases.toml").read_text(encoding="utf-8"))


@cache
def says_nothing() -> tuple[str, ...]:
    """Return the kinds of words that say nothing where no phrase was made of them."""
    return tuple(_document()["says_nothing"].split())


@cache
def _forms() -> _Node:
    root = _Node()
    row = 0
    for phrase in _document()["phrase"]:
        constants = tuple((key, value) for key, value in phrase.items() if key not in ("says", "more", "forms"))
        for form in phrase["forms"]:
            row += 1
            for elements in _spelt_out(form):
                _add(root, elements, phrase["says"], float(phrase.get("more", 0)), constants, row)
    return root


def _spelt_out(form: str) -> Iterator[list[str]]:
    """Yield the rows of elements that a form stands for: with and without what may be left out."""
    choices: list[list[str | None]] = []
    for element in form.split():
        optional = element.endswith("?")
        choices.append([element.removesuffix("?"), None] if optional else [element])
    for some in product(*choices):
        elements = [element for element in some if element is not None]
        if elements:
            yield elements


def _add(root: _Node, elements: list[str], says: str, more: float, constants: tuple[tuple[str, str], ...], row: int) -> None:
    nodes = [root]
    roles: list[tuple[int, str]] = []
    for at, element in enumerate(elements):
        kinds, _, role = element.partition(":")
        if role:
            roles.append((at, role))
        names = [name for kind in kinds.split("|") for name in (_SEPARATORS if kind == "sep" else (kind,))]
        # Alternatives share what follows only where they lead to the same place; the tree stays a tree.
        nodes = [node.following.setdefault(name, _Node()) for node in nodes for name in names]
    form = _Form(says, more, tuple(roles), constants, row)
    for node in nodes:
        if form not in node.ends:
            node.ends.append(form)


@dataclass(frozen=True, slots=True)
class _Step:
    score: float
    back: int
    form: _Form | None = None


def covered(tokens: Sequence[Token]) -> list[Phrase]:
    """Return the phrases that cover the tokens best, in their order."""
    root = _forms()
    best: list[_Step] = [_Step(0.0, 0)]
    waiting: list[list[_Step]] = [[] for _ in range(len(tokens) + 1)]
    for at in range(len(tokens) + 1):
        if at:
            step = _Step(best[at - 1].score - _loss(tokens[at - 1]), at - 1)
            for other in waiting[at]:
                if other.score > step.score or (other.score == step.score and _row(other) < _row(step)):
                    step = other
            best.append(step)
        if at < len(tokens):
            for end, weight, form in _begun(root, tokens, at):
                waiting[end].append(_Step(best[at].score + weight, at, form))
    found: list[Phrase] = []
    at = len(tokens)
    while at:
        step = best[at]
        if step.form is not None:
            found.append(_item(step.form, tokens, step.back, at))
        at = step.back
    return found[::-1]


def _row(step: _Step) -> int:
    return step.form.row if step.form is not None else -1


def _loss(token: Token) -> float:
    """Return what it costs to pass over a token: figures cost more than words."""
    return 1.5 if token.means("size", "frequency") else 0.6 if token.means("number", "plural", "count_times") else 0.0


def _begun(root: _Node, tokens: Sequence[Token], at: int) -> Iterator[tuple[int, float, _Form]]:
    """Yield the phrases that begin at a token: where each ends, its weight and its form."""
    open_nodes: list[tuple[_Node, int, float]] = [(root, at, 0.0)]
    while open_nodes:
        node, place, weight = open_nodes.pop()
        for form in node.ends:
            yield place, weight + form.more - 1, form
        if place == len(tokens) or not node.following:
            continue
        token = tokens[place]
        for kind in token.kinds:
            following = node.following.get(kind)
            if following is not None:
                open_nodes.append((following, place + 1, weight + (0.5 if kind in _LIGHT else 2.0)))


def _item(form: _Form, tokens: Sequence[Token], first: int, end: int) -> Phrase:
    parts: dict[str, Any] = dict(form.constants)
    for at, role in form.roles:
        parts[role] = tokens[first + at]
    return Phrase(form.says, parts, tokens[first].start, tokens[end - 1].end, first, end - 1)
