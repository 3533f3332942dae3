"""What is known so far of a text: modules and slots as drafts, facts, amounts and rates that wait for the rest, questions."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from after_check.domain.modules import Form, Generation
from after_check.domain.quantities import GIB, MIB
from after_check.language.words.clauses import Clause
from after_check.language.words.token import Token
from after_check.language.words.understood import Ask, Phrase
from after_check.standards.labels import Label, misprint_in, other_readings

MOST_MODULES = 64
_BYTES = 128 * MIB
"""A bare number from here on counts bytes."""


@dataclass(slots=True)
class Described:
    """So many modules of one kind, as far as they are described; in a slot, where one is named."""

    count: int = 1
    size_bytes: int | None = None
    facts: dict[str, Any] = field(default_factory=dict)
    slot: str = ""
    clause: int = -1
    line: int = -1
    counted: bool = True
    """Whether somebody said how many there are."""
    label: Label | None = None
    """The label that describes it, and where that is."""
    label_item: Phrase | None = None
    kept: bool = False
    """Whether the module was there before: what is said of new ones is not said of it."""

    @property
    def is_soldered(self) -> bool:
        """Whether it cannot be taken out."""
        return self.facts.get("form") is Form.SOLDERED


@dataclass(slots=True)
class Amount:
    """An amount and what it is of (`role`; empty where nothing says so)."""

    size_bytes: int
    role: str
    item: Phrase


@dataclass(slots=True)
class Rate:
    """A rate as it was shown, and whether it is what runs, what modules are sold as, or the clock (`role`; empty: not said)."""

    number: float
    unit: str
    role: str
    item: Phrase
    generation: Generation | None = None
    joined: bool = False
    """Whether it is written as one word with its kind (`DDR4-1600`), which no clock is."""


@dataclass(slots=True)
class Slots:
    """How many slots there are, are used and are free, where somebody said so."""

    total: int | None = None
    used: int | None = None
    free: int | None = None
    all_used: bool = False
    other_empty: bool = False


@dataclass(slots=True)
class State:
    """Everything that was understood of a text so far."""

    text: str
    tokens: list[Token]
    clauses: list[Clause]
    promise: bool
    added: bool = False
    """Whether the text is added to a reading: its modules are not all, and a total is that of the whole."""
    drafts: list[Described] = field(default_factory=list)
    empty_slots: list[str] = field(default_factory=list)
    filled_slots: list[str] = field(default_factory=list)
    unseen_slots: list[str] = field(default_factory=list)
    facts: dict[str, Any] = field(default_factory=dict)
    common: dict[str, Any] = field(default_factory=dict)
    amounts: list[Amount] = field(default_factory=list)
    rates: list[Rate] = field(default_factory=list)
    each: list[tuple[int, Phrase]] = field(default_factory=list)
    slots: Slots = field(default_factory=Slots)
    asks: list[Ask] = field(default_factory=list)
    counts_stand: bool = False
    """Whether a question about modules is about their size only, so that how many there are stands."""
    said: dict[str, list[tuple[int, Any, Phrase]]] = field(default_factory=dict)
    """Words about modules by their field: the clause that they stand in, and the value."""
    looked_for: dict[tuple[int, int, tuple[str, ...]], tuple[int, ...]] = field(default_factory=dict)

    def places(self, clause: Clause, *kinds: str) -> tuple[int, ...]:
        """Return where in a clause words of some kinds stand; looked for once, however many phrases of a long clause ask."""
        key = (clause.first, clause.end, kinds)
        if key not in self.looked_for:
            self.looked_for[key] = tuple(at for at in range(clause.first, clause.end) if self.tokens[at].means(*kinds))
        return self.looked_for[key]

    def ask(self, about: str, question: str, choices: tuple[str, ...] = (), *items: Phrase) -> None:
        """Ask about a field once; an answer may take the place of the phrases that it is about."""
        if any(ask.about == about for ask in self.asks):
            return
        place = (min(item.start for item in items), max(item.end for item in items)) if items and choices else None
        self.asks.append(Ask(about, question, choices, place))

    @property
    def generation(self) -> Generation | None:
        """The generation that the text speaks of, where it is one."""
        found = {value for _, value, _ in self.said.get("generation", ())}
        return found.pop() if len(found) == 1 else None

    @property
    def asked(self) -> set[str]:
        """The fields that are asked about."""
        return {ask.about for ask in self.asks}


def size_of(token: Token) -> int | None:
    """Return the bytes that a token says: an amount with its unit, or a bare number that modules have in GiB or MiB."""
    if token.means("size"):
        return int(token.value)
    if (plural := token.number("plural")) is not None:
        return plural * GIB
    if token.means("mib"):
        return int(token.value) * MIB
    if token.means("number") and float(token.value) >= _BYTES:
        return int(token.value)
    if token.means("gib", "gib_small", "gib_part", "number"):
        return round(float(token.value) * GIB)
    return None


def count_of(token: Token) -> int | None:
    """Return the number that a token counts."""
    if token.means("count_times", "count", "number_word") and isinstance(token.value, (int, float)):
        return int(token.value)
    return next((found for kind in ("count_word", "number_word", "mode", "ordinal") if (found := token.number(kind)) is not None), None)


def most() -> int:
    """Return how many modules of one kind are written at most."""
    return MOST_MODULES


def ask_about_misprint(state: State, item: Phrase, label: Label) -> None:
    """Ask where a label's number is no rate and no class, or its letters are of no speed bin of its rate."""
    text = state.text[item.parts["g"].start : item.parts["g"].end] if "g" in item.parts else state.text[item.start : item.end]
    if label.misprint:
        meant = misprint_in(text)
        choices = (meant[1],) if meant is not None and meant[1] else ()
        state.ask("rated_mts", f"{label.misprint} is no rate and no class of modules: what does the label say?", choices, item)
    elif label.is_odd_bin:
        question = f"{label.bin_letters} is no speed bin of {label.generation}-{label.rate_mts}: what does the label say?"
        state.ask("rated_mts", question, other_readings(text, label)[:3], item)


def label_facts(label: Label) -> dict[str, Any]:
    """Return what a label says, by the fields of a module."""
    values = (
        *(
            ("generation", label.generation),
            ("rated_mts", label.rate_mts),
            ("ranks", label.ranks),
            ("device_width_bits", label.device_width_bits),
        ),
        *(
            ("form", label.form),
            ("ecc", label.ecc),
            ("timings", label.timings),
            ("voltage_mv", label.voltage_mv),
            ("standard_mts", label.rate_mts),
        ),
    )
    doubtful = ("rated_mts", "timings", "standard_mts") if label.misprint or label.is_odd_bin else ()
    return {name: value for name, value in values if value is not None and name not in doubtful}
