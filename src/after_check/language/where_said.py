"""Where in a text a piece of what was understood was said: the stretches without which it would not be known.

Each word of the text is left out in turn and the rest is read again. So no reader has to carry marks through all its steps, and what
is told is true of the reader as it is: a word that changes nothing said nothing.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from itertools import pairwise

from after_check.domain.readings import Reading
from after_check.language.corrections import pieces_of
from after_check.language.words.token import Token
from after_check.language.words.tokens import tokens

Stretch = tuple[int, int]
LONGEST_LOOKED_INTO = 400
"""Characters of a text that is looked into: longer ones would take more than a moment."""
_NUMBERS = re.compile(r"\d+(?:\.\d+)?")


def where_said(text: str, read: Callable[[str], Reading]) -> dict[str, tuple[Stretch, ...]]:
    """Return for each piece, by its words, the stretches that it comes from, neighbours as one; nothing for a text that is long.

    `read` is the door through which the text goes. Where stretches say figures of the piece, those are told, and not the words
    around them that they need to be understood.
    """
    if len(text) > LONGEST_LOOKED_INTO:
        return {}
    whole = _pieces(read(text))
    needed: dict[str, list[Token]] = {words: [] for words in whole}
    for token in tokens(text):
        if any(map(str.isalnum, token.text)):  # Signs say nothing by themselves.
            for words in _lost_without(text, token, whole, read):
                needed[words].append(token)
    return {words: tuple(_joined(text, _saying(words, found))) for words, found in needed.items() if found}


def figures_in(token: Token) -> set[float]:
    """Return the figures that a word may say: "2x16" says two and sixteen, "quad" says four."""
    values = (token.value, *(token.values or {}).values())
    return {float(one) for one in values if isinstance(one, (int, float))} | _figures(token.text)


def _lost_without(text: str, token: Token, whole: Sequence[str], read: Callable[[str], Reading]) -> list[str]:
    left = set(_pieces(read(text[: token.start] + " " * (token.end - token.start) + text[token.end :])))
    return [words for words in whole if words not in left]


def _figures(text: str) -> set[float]:
    return {float(found) for found in _NUMBERS.findall(text)}


def _pieces(reading: Reading) -> tuple[str, ...]:
    return tuple(dict.fromkeys(piece.words for piece in pieces_of(reading)))


def _saying(words: str, needed: list[Token]) -> list[Token]:
    return [token for token in needed if figures_in(token) & _figures(words)] or needed


def _joined(text: str, said: list[Token]) -> Iterator[Stretch]:
    """Yield stretches with those joined that only blanks and signs part."""
    stretches = [(token.start, token.end) for token in said]
    begun = stretches[0][0]
    for (_, end), (start, _) in pairwise(stretches):
        if any(map(str.isalnum, text[end:start])):
            yield begun, end
            begun = start
    yield begun, stretches[-1][1]
