"""What is known so far of a text, and the small questions that every step asks of its tokens."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from typing import Any

from after_check.domain.fact_table import FactKind, rows
from after_check.domain.modules import Form
from after_check.domain.readings import Reading, ShownRate
from after_check.language.plain_words.columns import told_in_columns
from after_check.language.plain_words.figures import as_size_bytes
from after_check.language.plain_words.terms import vocabulary
from after_check.language.plain_words.tokens import Token, tokens
from after_check.standards.rates import same_rate


@dataclass(frozen=True, slots=True)
class Ask:
    """Something that may mean two things: the field it is about, the question, and the answers to choose from.

    `in_place_of` is the stretch of the text that an answer may take the place of, so that one key answers it.
    """

    about: str
    question: str
    choices: tuple[str, ...] = ()
    in_place_of: tuple[int, int] | None = None


@dataclass(slots=True)
class Described:
    """So many modules of one kind, as far as they are described; in a slot, where one is named."""

    count: int = 1
    size_bytes: int | None = None
    facts: dict[str, Any] = field(default_factory=dict)
    slot: str = ""
    clause: int = 0
    kept: bool = False
    """Whether the module is there already: what is said of the new ones is not said of it."""


ATTRIBUTE_WORDS: tuple[tuple[str, str, object], ...] = (
    ("no_ecc", "ecc", False),
    ("ecc", "ecc", True),
    ("udimm", "form", Form.UDIMM),
    ("sodimm", "form", Form.SODIMM),
    ("rdimm", "form", Form.RDIMM),
    ("lrdimm", "form", Form.LRDIMM),
    ("camm", "form", Form.CAMM),
)
ROLES = ("borrowed", "usable", "reserved", "graphics", "in_use", "available", "aside", "total")
ROLE_FIELDS = {row.name.removesuffix("_bytes"): row.name for row in rows() if row.kind is FactKind.SIZE}
"""Which fact an amount is, by what is said of it."""


def is_configured(token: Token) -> bool:
    """Return whether a word says that a rate is the configured one."""
    return token.kind == "word" and str(token.value).startswith("configured")


class SaidFacts(dict[str, Any]):
    """Facts of a machine by their field; `twice` has what was said of one field more than once, and not alike."""

    def __init__(self) -> None:
        super().__init__()
        self.twice: dict[str, list[Any]] = {}

    def __setitem__(self, name: str, value: Any) -> None:
        before = self.get(name)
        if before is not None and not _is_alike(before, value):
            self.twice.setdefault(name, [before]).append(value)
        elif isinstance(before, ShownRate) and isinstance(value, ShownRate) and before.number > value.number:
            return  # The clock, said behind its rate.
        super().__setitem__(name, value)


def _is_alike(before: Any, value: Any) -> bool:
    """Return whether two values say the same; a clock and its rate do."""
    if not isinstance(before, ShownRate) or not isinstance(value, ShownRate):
        return bool(before == value)
    slower, faster = sorted((before.number, value.number))
    return same_rate(slower, faster) or same_rate(2 * slower, faster)


class State:
    """Facts, modules and questions of one text, as they are found."""

    def __init__(self, text: str, promise: bool, before: Reading | None, added: bool = False) -> None:
        self.text, self.promise, self.before, self.added = text, promise, before, added
        self.tokens = tokens(text)
        told_in_columns(self.tokens)
        self.drafts: list[Described] = []
        self.loose_sizes: list[tuple[int, Token]] = []
        self.common: dict[str, Any] = {}
        self.facts = SaidFacts()
        self.empty_slots: list[str] = []
        self.used_slots: int | None = None
        self.slot_count: int | None = None
        self.filled_slots: list[str] = []
        self.free_slots = 0
        self.slot_tokens: list[Token] = []
        self.clause_number = 0
        self.spoken: dict[str, list[tuple[int, object]]] = {}
        self.says_configured = any(map(is_configured, self.tokens))
        self.asks: list[Ask] = []
        self.verbs: set[str] = set()
        self.each_bytes: int | None = None
        self.is_shown = False
        """Whether the total is what the machine shows, whatever is fitted."""
        self.said_fitted: tuple[int, Token, Token] | None = None
        self.drafts_so_far = 0
        self.alike: list[tuple[Described, Described]] = []

    def _number(self, token: Token) -> int | None:
        """Return a whole number, in figures or in words."""
        if token.used:
            return None
        if token.kind == "number" and float(token.value).is_integer() and token.value <= 64:
            return int(token.value)
        return vocabulary()[1]["numbers"].get(token.value) if token.means("numbers") else None

    @staticmethod
    def _bare(token: Token) -> float:
        """Return the value of a bare number that nothing was made of; 0 for any other token."""
        return float(token.value) if token.kind == "number" and not token.used else 0.0

    def _mode(self, token: Token) -> int | None:
        return vocabulary()[1]["modes"].get(token.value) if token.means("modes") and not token.used else None

    def _size_of(self, token: Token, bare: bool) -> int | None:
        if token.used:
            return None
        if token.kind == "size":
            return int(token.value)
        if token.kind == "plural":
            return as_size_bytes(token.value)
        return as_size_bytes(token.value) if bare and token.kind == "number" else None

    def _skip(self, free: list[Token], at: int, kinds: tuple[str, ...]) -> int:
        while at < len(free) and any(free[at].means(kind) for kind in kinds):
            at += 1
        return at

    def _any(self, clause: Sequence[Token], kind: str) -> bool:
        return any(token.means(kind) for token in clause)

    def _use(self, *some: Token) -> None:
        for token in some:
            token.used = True

    def _is_doubted(self, first: Token | None, last: Token) -> bool:
        """Return whether a question mark stands directly behind words: `dual channel?`."""
        end = max(last.end, first.end if first is not None else 0)
        return self.text[end : end + 1] == "?"

    def _speaks_of_slots(self, clause: list[Token], first: Token) -> bool:
        """Return whether a clause is about slots, and not only about one of them: `slot 2 is dead, sees 8 of 16`."""
        named = [slot for slot, behind in pairwise(clause) if slot.means("slot") and behind.kind == "number" and behind is not first]
        return self._any(clause, "used") or any(token.means("slot") and token not in named for token in clause)

    def _common(self, name: str, value: object) -> None:
        """Note what holds for the modules, and in which clause it was said: two values are of different modules, or are asked about."""
        self.spoken.setdefault(name, []).append((self.clause_number, value))
        self.common.setdefault(name, value)

    def _parts(self) -> Iterator[tuple[list[Token], bool]]:
        """Yield what stands between commas, line ends and brackets, and whether it stands in brackets."""
        part: list[Token] = []
        aside = False
        for token in self.tokens:
            bracket = token.kind == "sign" and token.value in "()"
            if token.kind != "end" and not bracket:
                part.append(token)
                continue
            if part:
                yield part, aside
            part, aside = [], bracket and token.value == "("
        if part:
            yield part, aside
