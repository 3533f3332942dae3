"""From tokens to a reading: clause by clause what is certain, then what the clauses mean together.

Nothing is guessed: what may mean two things is asked about, and what nobody understands is pointed at. Docs: docs/words.md.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Any

from after_check.domain.boards import Filling, Slot, board_order
from after_check.domain.facts import Fact, Source
from after_check.domain.modules import Form, Module
from after_check.domain.quantities import size_text
from after_check.domain.readings import Reading
from after_check.language.plain_words.figures import is_module_size
from after_check.language.plain_words.promised import PromiseSteps
from after_check.language.plain_words.state import ATTRIBUTE_WORDS, Ask, Described
from after_check.language.plain_words.tokens import Token


@dataclass(frozen=True, slots=True)
class Understood:
    """What a text says: certain facts as a reading, what is to be asked, and stretches that nobody understands."""

    reading: Reading
    asks: tuple[Ask, ...] = ()
    not_understood: tuple[tuple[int, int], ...] = ()


_LONGEST_CLAUSE = 80
"""Tokens; nobody says more between two commas, and the time that a text takes stays in proportion to its length."""
_MANY = 8
_MOST_SLOTS = 32
_SMALL_WORDS = frozenset(
    (
        "noise",
        "and",
        "of",
        "each",
        "times",
        "module",
        "slot",
        "channel",
        "profile",
        "run",
        "total",
        "other",
        "on",
        "upgrade",
        "add",
        "keep",
        "same",
        "twice",
        "replace",
        "put_in",
        "all",
        "only",
    )
)
"""Words that say nothing where nothing was made of them; any other word that was left over would have changed what was said."""


_PARTS = ("usable", "reserved", "graphics", "in_use", "available", "aside", "slot")
_DIGIT = re.compile(r"\d")
_FACTS = ("size", "size_times", "count", "generation", "pc", "rate", "number", "ranks", "label")
_DENIED = ("used", "empty", "soldered", *(kind for kind, _, _ in ATTRIBUTE_WORDS))
"""What may be said not to be, beside figures."""


def understand(text: str, promise: bool = False, before: Reading | None = None, added: bool = False) -> Understood:
    """Return what a text says; of a promise, held against the reading on arrival where its words need that.

    What is `added` to a reading names a part of the modules: an amount beside them is that of the whole.
    """
    return _Reader(text, promise, before, added).read()


def _names_a_slot(token: Token, behind: Token | None) -> bool:
    """Return whether a slot begins here: `A1`, or `slot 1`."""
    if token.kind == "slot_name" or (token.means("positions") and behind is not None and behind.means("slot")):
        return True
    return token.means("slot") and behind is not None and behind.kind == "number" and behind.value <= _MOST_SLOTS


def _are_slots(some: list[Token]) -> bool:
    return bool(some) and all(token.kind == "slot_name" for token in some)


class _Reader(PromiseSteps):
    """Reads one text."""

    def read(self) -> Understood:
        asked = (not self.promise and self._ask_what_is_fitted()) or self._leave_out_what_was()
        self._leave_out_what_is_not()
        self._leave_out_other_parts()
        self._ask_between_two()
        self._generation_first()
        self._listed_in_bytes()
        if not self.promise:
            self._shown_by_each()
            self._seen()
        for number, clause in enumerate(self._clauses(), start=1):
            self.clause_number, known = number, len(self.drafts)
            self._clause(clause)
            for draft in self.drafts[known:]:
                draft.clause = number
        self._settle_spoken()
        self._settle_alike()
        self._settle_said_twice()
        if self.promise:
            self._promised_changes()
        elif asked:
            self.drafts, self.loose_sizes = [], []
        self._settle_sizes()
        self._ask_what_cannot_be_built()
        self._fill_slots()
        self._settle_rates()
        if self._is_about_something_else():
            return Understood(Reading(), (), ((0, len(self.text)),))
        return Understood(self._reading(), tuple(self.asks), tuple(self._not_understood()))

    def _leave_out_what_is_not(self) -> None:
        """Take no notice of what stands behind a "not" (`not registered`, `not 8gb`): it is pointed at."""
        for at, (no, token) in enumerate(pairwise(self.tokens)):
            before = self.tokens[at - 1] if at else None
            instead = no.means("rather_than") and before is not None and before.kind == token.kind in ("number", "rate")
            said = token.kind in _FACTS or any(token.means(kind) for kind in _DENIED)
            if no.means("negations") and said and not token.means("profile") and not token.means("noise") and not instead:
                token.kind, token.kinds, token.facts = "odd", frozenset(), {}

    def _leave_out_other_parts(self) -> None:
        """Take no notice of what is of disks and processors: `512GB SSD`, `disk 1 TB`, `cpu 3.2 GHz`."""
        pairs = list(pairwise([token for token in self.tokens if token.kind != "sign"]))
        for first, second in pairs:
            if first.kind == "size" and second.means("storage"):
                self._use(first, second)
        for part, _ in self._parts():
            if part[0].means("processor") and not self._any(part, "module"):  # "CPU: Brackwater B7 3.2 GHz"
                for token in part:
                    if token.kind == "rate":
                        token.kind, token.facts = "odd", {}
        for first, second in pairs:
            if first.means("storage") and not first.used and second.kind == "size":
                self._use(first, second)
            strange = first.kind in ("word", "odd") and not first.kinds and bool(_DIGIT.search(str(first.value)))
            named = strange or first.means("processor")
            if second.kind == "rate" and named:
                second.kind, second.facts = "odd", {}

    def _listed_in_bytes(self) -> None:
        """`capacity 8589934592 8589934592`: several sizes in bytes are a list of modules, as no total is told twice so."""
        sizes = [token for token in self.tokens if token.facts.get("in_bytes")]
        of_parts = any(self._any(self.tokens, kind) for kind in _PARTS)
        if len(sizes) > 1 and all(is_module_size(token.value) for token in sizes) and not of_parts:
            self.drafts += [Described(1, token.value) for token in sizes]
            self._use(*sizes)

    def _is_about_something_else(self) -> bool:
        """Return whether next to nothing of a text is known: a figure in a page about other things is no fact of a machine."""
        strange = sum(not token.used and not token.kinds and token.kind in ("word", "odd", "number") for token in self.tokens)
        known = sum(token.used and token.kind not in ("end", "sign") for token in self.tokens)
        return strange >= _MANY and strange > 3 * known

    def _clauses(self) -> Iterator[list[Token]]:
        clause: list[Token] = []
        for at, token in enumerate(self.tokens):
            if token.kind == "end" and token.value == "," and _are_slots(clause) and _are_slots(self.tokens[at + 1 : at + 2]):
                token.used = True  # "A2, B2: 8gb"
            elif token.kind == "end" or (token.kind == "sign" and token.value in "()"):
                token.used = True
                yield from self._by_slot(clause)
                clause = []
            else:
                clause.append(token)
                if len(clause) == _LONGEST_CLAUSE:
                    yield from self._by_slot(clause)
                    clause = []
        yield from self._by_slot(clause)

    def _by_slot(self, clause: list[Token]) -> Iterator[list[Token]]:
        """Yield a clause, parted behind what is empty (`slot 2 free 8gb in slot 1`), and at its slots."""
        begun = 0
        for at, (slot, token) in enumerate(pairwise(clause)):
            numbered = slot.kind == "number" and at > begun and clause[at - 1].means("slot")
            if token.means("empty") and (slot.kind == "slot_name" or slot.means("slot") or numbered) and at + 2 < len(clause):
                yield from self._from_slot_to_slot(clause[begun : at + 2])
                begun = at + 2
        yield from self._from_slot_to_slot(clause[begun:])

    def _from_slot_to_slot(self, clause: list[Token]) -> Iterator[list[Token]]:
        """Yield a clause, parted at its slots where it goes from slot to slot: `A1 8 A2 8 B1 empty`."""
        said = [token for token in clause if token.kind != "sign" or token is clause[-1]]
        named = [token for token, behind in pairwise([*said, None]) if token is not None and _names_a_slot(token, behind)]
        if len(named) > 2:  # "A1 8 A2 - B1 8 B2 -"; with two of them it is from one to the other.
            said = [token for token in clause if token.kind != "sign" or token is clause[-1] or token.value in "-–"]
        goes_on = not (named and named[-1] is said[-1]) and not any(
            token.kind == "slot_name" and (behind.kind == "slot_name" or behind.means("and")) for token, behind in pairwise(said)
        )
        goes_on = (
            goes_on
            and not any(  # "slot 1 and slot 2 8 GB each" is one clause.
                number.kind == "number" and joint.means("and") and slot.means("slot")
                for number, joint, slot in zip(said, said[1:], said[2:], strict=False)
            )
        )
        if len(named) < 2 or said[0] is not named[0] or not goes_on:
            if clause:
                yield clause
            return
        starts = [clause.index(token) for token in named]
        for start, end in zip(starts, [*starts[1:], len(clause)], strict=True):
            yield clause[start if start != starts[0] else 0 : end]

    def _generation_first(self) -> None:
        """Take note of the generation before anything else: what a figure in MHz is depends on it."""
        said = [token for token in self.tokens if not token.used]
        found = {token.facts["generation"] for token in said if "generation" in token.facts}
        found |= {token.value.generation for token in said if token.kind == "label"}
        if len(found) == 1:
            self.common["generation"] = found.pop()

    def _clause(self, clause: list[Token]) -> None:
        if self.promise:
            if len(clause) > 1 and clause[0] is self.tokens[0] and clause[0].kind == "sign" and clause[0].value == "+":
                self.verbs.add("add")  # "+16 GB"
                if clause[1].kind in ("size", "number"):
                    clause[1].facts["module"] = True
            self._replacement(clause)
            self._upgrade(clause)
            self._one_more(clause)
        elif self._is_unseen(clause):
            return
        self.verbs |= {kind for token in clause for kind in ("add", "keep", "replace", "same", "twice") if token.means(kind)}
        for step in (
            self._labels,
            self._names,
            self._memory_test,
            self._slot_summary,
            self._ranks,
            self._channels,
            self._profile,
            self._signs,
            self._start,
            self._starts,
            self._counted_errors,
            self._in_each_slot,
            self._some_of,
            self._roles,
            self._rates,
            self._error_correction,
            self._attributes,
        ):
            step(clause)
        self._nothing_in_slots(clause)
        self._numbers_in_slots(clause)
        slots = self._slot_names(clause)
        drafts = self._modules(clause)
        sizes = [token for token in clause if token.kind == "size" and not token.used]
        if len(slots) == 1 and not drafts:
            drafts = self._lone_size(clause) or self._behind_slot(clause)
        elif len(slots) == len(sizes) > 1 and not drafts:  # "8 GB in slot 1 and 16 GB in slot 2"
            drafts = [draft for size in sizes if (draft := self._draft(1, size.value)) is not None]
            self._use(*sizes)
            for draft, slot in zip(drafts, slots if len(drafts) == len(slots) else (), strict=False):
                draft.slot = slot
            slots = [] if len(drafts) == len(slots) else slots
        elif len(slots) > 1 and not drafts and (lone := next((token for token in clause if token.kind == "size" and not token.used), None)):
            each = size_text(lone.value)
            answers = (f"{each} each", f"total {each}")
            place = (lone.start, lone.end)
            self.asks.append(Ask("modules", f"{each} in each of the {len(slots)} slots, or altogether?", answers, place))
            self._use(lone)
        self._place(clause, slots, self._in_all_of_them(clause, slots, self._kits(clause, drafts)))

    def _is_unseen(self, clause: list[Token]) -> bool:
        """Return whether a clause says of something that it is not seen, hoped for or a limit: no fact, so it is pointed at."""
        if self._any(clause, "limit") or self._any(clause, "hoped"):
            return True
        counted = any(token.kind in ("count", "count_after", "size_times", "label") for token in clause)
        return self._any(clause, "unseen") and not self._any(clause, "empty") and not counted

    def _reading(self) -> Reading:
        slots: list[Slot] = []
        loose: list[Module] = []
        for draft in self.drafts:
            module = self._module(draft)
            if draft.slot and draft.slot not in {slot.name for slot in slots}:
                slots.append(Slot(draft.slot, Filling.FILLED, module))
            else:
                loose += [module] * min(draft.count, 64)
        slots += [Slot(name, Filling.EMPTY) for name in dict.fromkeys(self.empty_slots) if name not in {slot.name for slot in slots}]
        slots.sort(key=board_order)
        facts: dict[str, Any] = {name: Fact(value, Source.TYPED) for name, value in self.facts.items()}
        count = Fact(self.slot_count, Source.TYPED) if self.slot_count is not None and self.slot_count <= 96 else None
        return replace(Reading(slots=tuple(slots), loose=tuple(loose), slot_count=count), **facts)

    def _module(self, draft: Described) -> Module:
        common = {} if draft.kept else {name: value for name, value in self.common.items() if not self._is_of_others(draft, name)}
        facts: dict[str, Any] = {**common, **draft.facts}
        if draft.facts.get("form") is Form.SOLDERED:
            facts["form"] = Form.SOLDERED
        if draft.size_bytes is not None:
            facts["size_bytes"] = draft.size_bytes
        return Module(**{name: Fact(value, Source.TYPED) for name, value in facts.items()})

    def _not_understood(self) -> Iterator[tuple[int, int]]:
        """Yield the stretches of which nothing was made; words that say nothing of memory are passed over."""
        open_at: tuple[int, int] | None = None
        for token in self.tokens:
            known = token.used or token.kind in ("end", "sign") or bool(token.kinds & _SMALL_WORDS)
            if known:
                if open_at is not None and (token.used or not token.kinds):
                    yield open_at
                    open_at = None
                continue
            open_at = (open_at[0], token.end) if open_at is not None else (token.start, token.end)
        if open_at is not None:
            yield open_at
