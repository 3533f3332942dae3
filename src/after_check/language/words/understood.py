"""What a text says, as it was understood: certain facts, questions, what was left aside and why, what nobody understands."""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import Enum
from typing import Any

from after_check.domain.readings import Reading


class Scope(Enum):
    """Of what something is said. Only what is of now (of a promise: what is to be) and of this machine becomes a fact."""

    NOW = "of now"
    PAST = "it was so before"
    FUTURE = "it is to be so, or is hoped for"
    LIMIT = "it is the most that is possible"
    ELSEWHERE = "it is of another machine"
    TRIED = "it was tried, or taken out again"
    DEVICE = "it is of another part of the computer"
    MEMORY = "it is no size of the memory"
    REFERENCE = "it is a number of something else"
    NEGATED = "it is said not to be so"
    ASKED = "it is asked, not said"
    SUPPOSED = "it is supposed, not seen"
    TOLD_AGAIN = "it is counted in what is told of the whole"
    CORRECTED = "it was corrected"


@dataclass(frozen=True, slots=True)
class Ask:
    """Something that may mean two things: the field it is about, the question, and the answers to choose from.

    `in_place_of` is the stretch of the text that an answer may take the place of, so that one key answers it.
    """

    about: str
    question: str
    choices: tuple[str, ...] = ()
    in_place_of: tuple[int, int] | None = None


@dataclass(frozen=True, slots=True)
class LeftAside:
    """A stretch that was heard and is no fact of a reading, and why."""

    start: int
    end: int
    because: Scope


@dataclass(frozen=True, slots=True)
class Understood:
    """What a text says: certain facts as a reading, what is to be asked, what was left aside, stretches that nobody understands."""

    reading: Reading
    asks: tuple[Ask, ...] = ()
    not_understood: tuple[tuple[int, int], ...] = ()
    left_aside: tuple[LeftAside, ...] = ()


@dataclass(slots=True)
class Phrase:
    """One phrase of the text: what it says, what it is made of, where it is, and of what it is said."""

    says: str
    parts: dict[str, Any]
    start: int
    end: int
    first: int
    last: int
    scope: Scope = Scope.NOW
    clause: int = 0
    used: bool = field(default=False)
