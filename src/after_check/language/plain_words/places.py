"""The steps that say where modules sit, and what of a clause is left: slots by name, number, order and position, amounts in each."""

from __future__ import annotations

import re
from collections.abc import Iterator
from itertools import pairwise

from after_check.domain.quantities import size_text
from after_check.language.plain_words.figures import as_size_bytes, is_module_size
from after_check.language.plain_words.modules import ModuleSteps
from after_check.language.plain_words.state import Ask, Described
from after_check.language.plain_words.terms import vocabulary
from after_check.language.plain_words.tokens import Token

_MOST_MODULES = 64
_MOST_OF_ALL = 3
_LEAST_BARE_GIB = 4
"""A bare number beside a slot that is a size; a smaller one may count."""
"""Words behind "in": `in all four slots`."""


class PlaceSteps(ModuleSteps):
    """Reads where modules sit off clauses."""

    def _in_each_slot(self, clause: list[Token]) -> None:
        """`8gb in each slot`, `8gb per slot`, `both slots with 16s`, `all slots 8gb`: how many slots there are has to be known."""
        slots = [token for token in clause if token.means("slot") and not token.used]
        amounts = [token for token in clause if token.kind in ("size", "plural") and not token.used]
        if len(slots) != 1 or len(amounts) != 1:
            return
        at = clause.index(slots[0])
        before = clause[max(0, at - 2) : at]
        counting = before[-1:] if before and self._spoken_count(before[-1]) > 1 and not before[-1].used else []  # "all 4 slots 8gb"
        if any(token.kind in ("count", "slot_name", "number") and token not in counting for token in clause):
            return
        number = next((value for token in before if (value := self._spoken_count(token)) > 1), 0)
        each = any(token.means("each") or token.means("per") for token in before) or (number and amounts[0].kind == "plural")
        size = self._size_of(amounts[0], True)
        all_of_them = self._any(before, "all") and not any(token.means("all") and self._spoken_count(token) > 1 for token in before)
        if size is None or not (each or all_of_them or (number and self._is_of_each(clause, at - 1))):
            return
        self._use(*before, slots[0], amounts[0])
        there = [number for token, slot in pairwise(self.tokens) if slot.means("slot") and (number := self._spoken_count(token)) > 1]
        here = self.slot_count or (there[0] if len(there) == 1 else len(self.before.slots) if self.before is not None else 0)
        count = number or here
        if each and count:
            draft = self._draft(count, size)
            self.drafts += [draft] if draft is not None else []
        else:
            of_each = size_text(size)
            place = (min(before[0].start, amounts[0].start), max(slots[0].end, amounts[0].end))
            answers = tuple(f"{many}x{of_each}" for many in ((count, 1) if count > 1 else (2, 4, 1)))
            self.asks.append(Ask("modules", f"{of_each} in each slot, or altogether? Which modules are these?", answers, place))

    def _nothing_in_slots(self, clause: list[Token]) -> None:
        """`DIMM 2: 0`, `A2 0 MB`: nothing, where a slot is named."""
        said = [token for token in clause if token.kind != "sign"]
        for before, token in pairwise(said):
            numbered = before.kind == "number" and said.index(before) > 0 and said[said.index(before) - 1].means("slot")
            if (before.kind == "slot_name" or numbered) and token.kind in ("number", "size") and not token.used and token.value == 0:
                token.kind, token.kinds = "word", frozenset({"empty"})

    def _in_all_of_them(self, clause: list[Token], slots: list[str], drafts: list[Described]) -> list[Described]:
        """`8gb sticks in both`, `8gb sticks in all four`: as many modules as that; of `in all` it is asked how many."""
        if self.promise or slots or len(drafts) != 1 or drafts[0].count != 1 or drafts[0].size_bytes is None:
            return drafts
        inside = [at for at, token in enumerate(clause) if token.means("inside") and not token.used]
        rest = clause[inside[-1] + 1 :] if inside else []
        if not 0 < len(rest) <= _MOST_OF_ALL or not all(self._is_of_all(token) for token in rest) or any(token.used for token in rest):
            return drafts
        number = max(self._spoken_count(token) for token in rest)
        self._use(*rest)
        if number > 1:
            drafts[0].count = number
            return drafts
        self._ask_how_many(drafts[0].size_bytes, (2, 4, 1), (clause[0].start, rest[-1].end))
        return []

    def _is_of_all(self, token: Token) -> bool:
        return token.means("all") or token.means("slot") or self._spoken_count(token) > 1

    def _ask_how_many(self, size_bytes: int, counts: tuple[int, ...], place: tuple[int, int] | None = None) -> None:
        answers = tuple(f"{many}x{size_text(size_bytes)}" for many in dict.fromkeys(counts))
        self.asks.append(Ask("modules", f"How many modules of {size_text(size_bytes)} are there?", answers, place))

    def _numbers_in_slots(self, clause: list[Token]) -> None:
        """`8 in A2 and 8 in B2`: a bare number is a size where it stands in a slot that has a name."""
        for before, number, inside, slot in zip([None, *clause], clause, clause[1:], clause[2:], strict=False):
            size = as_size_bytes(self._bare(number))
            named = inside.means("inside") and slot.kind == "slot_name" and not slot.used
            counted = before is not None and before.kind in ("count", "number", "size")
            if not named or counted or size is None or number.value < _LEAST_BARE_GIB:
                continue
            draft = self._draft(1, size)
            if draft is not None:
                draft.slot = str(slot.value)
                self.drafts.append(draft)
                self._use(number, inside, slot)

    @staticmethod
    def _is_dashes(clause: list[Token]) -> bool:
        """Return whether nothing but dashes is left of a clause: a row of a table without anything in it."""
        rest = [token for token in clause if not token.used and token.kind != "noise"]
        return bool(rest) and all(token.kind == "sign" and token.value in "-–" for token in rest)

    def _slot_names(self, clause: list[Token]) -> list[str]:
        """Return the slots that a clause names: `slot 2`, `A2`, `the second slot`, `the other one`."""
        _, values = vocabulary()
        names: list[str] = []
        free = [token for token in clause if not token.used]
        for at, token in enumerate(clause):
            if token.used:
                continue
            following = clause[at + 1] if at + 1 < len(clause) else None
            mark = following if following is not None and following.value == "#" and at + 2 < len(clause) else None
            following = clause[at + 2] if mark is not None else following
            if token.kind == "slot_range":
                names += token.value
                self._use(token)
            elif token.kind == "slot_name":
                names.append(str(token.value))
                self._use(token)
            elif token.means("slot") and following is not None and following.kind == "number" and following.value <= 64:
                names += self._slot_numbers(following)
                self._use(token, following, *([mark] if mark is not None else []))
                names += self._further_slots(clause, clause.index(following) + 1)
            elif token.means("ordinals") and following is not None and following.means("slot"):
                names.append(str(values["ordinals"].get(token.value, token.value)))
                self._use(token, following)
            elif token.means("positions") and following is not None and following.means("slot"):
                names.append(f"{token.value} {following.value}")
                self._use(token, following)
            elif token.kind == "number" and token.value % 1 and self._any(clause, "empty") and self._any(self.tokens, "slot"):
                names += self._slot_numbers(token)  # "slots 1,3 8gb; 2,4 empty"
                self._use(token)
            elif token.means("one_other") and self._any(clause, "empty"):
                names.append("other")
                self._use(token)
        if any(token.means("other") and not token.used for token in clause) and self._any(clause, "empty") and not names:
            # "the rest empty": how many these are is not said, and what is fitted is said elsewhere.
            self._use(*(token for token in clause if token.means("other") or token.means("empty")))
        self.slot_tokens = [token for token in free if token.used]
        return names

    def _slot_numbers(self, token: Token) -> list[str]:
        """Return the slots of a number: behind the word, `1,3` are two of them."""
        return re.findall(r"\d+", self.text[token.start : token.end])

    def _further_slots(self, clause: list[Token], at: int) -> Iterator[str]:
        """`slot 3 and 4`, `slot 3 and slot 4`: the numbers behind the first."""
        while at + 1 < len(clause):
            joint, *behind = clause[at : at + 3]
            number = behind[1] if len(behind) > 1 and behind[0].means("slot") else behind[0]
            if not (joint.means("and") or (joint.kind == "sign" and joint.value in "+&")) or number.kind != "number" or number.value > 64:
                return
            yield f"{int(number.value)}"
            said = clause[at : clause.index(number) + 1]
            self._use(*said)
            at += len(said)

    def _place(self, clause: list[Token], slots: list[str], drafts: list[Described]) -> None:
        empty = [token for token in clause if not token.used and token.means("empty")]
        figures = [token for token in clause if not token.used and token.kind in ("number", "size", "count", "count_after")]
        times = [token for token in figures if token.kind == "count_after"]
        if len(times) == len(drafts) == 1 and drafts[0].count == 1 and 1 <= times[0].value <= _MOST_MODULES and not slots:
            drafts[0].count = times[0].value
            self._use(*times)
        if slots and not drafts and ((empty and not figures) or self._is_dashes(clause)):
            self.empty_slots += slots
            self._use(*empty)
        elif len(slots) == len(drafts) == 1 and drafts[0].count == 1:
            drafts[0].slot = slots[0]
        elif len(slots) > 1 and not drafts and self.each_bytes is not None and self._any(clause, "each"):
            drafts = [Described(1, self.each_bytes, {}, slot) for slot in slots]
        elif len(slots) > 1 and len(drafts) == 1 and drafts[0].count in (1, len(slots)):
            drafts = [Described(1, drafts[0].size_bytes, dict(drafts[0].facts), slot) for slot in slots]
        elif len(slots) == len(drafts) > 1 and all(draft == drafts[0] and draft.count == 1 for draft in drafts):
            drafts = [Described(1, draft.size_bytes, dict(draft.facts), slot) for draft, slot in zip(drafts, slots, strict=True)]
        elif slots and not drafts and not figures and (filled := [token for token in clause if not token.used and token.means("used")]):
            self.filled_slots += slots  # By what, another clause may say.
            self._use(*filled)
        elif slots and not drafts and not figures and self.drafts and self.drafts[-1].slot and self._any(clause, "same"):
            like = self.drafts[-1]  # "8 GB in A1, same in B1"
            drafts = [Described(1, like.size_bytes, dict(like.facts), slot) for slot in slots]
            self.alike += [(draft, like) for draft in drafts]
        elif slots and not drafts and not figures and not empty and self._in_brackets(clause) and self.drafts:
            drafts = [Described(1, of.size_bytes, dict(of.facts), slot, of.clause) for of, slot in self._told_before(slots)]
        elif slots:
            for token in self.slot_tokens:
                token.used = False  # Named, and nobody knows with what: pointed at.
        self.drafts += drafts
        self._loose(clause)

    def _in_brackets(self, clause: list[Token]) -> bool:
        at = self.tokens.index(clause[0])
        return at > 0 and self.tokens[at - 1].kind == "sign" and self.tokens[at - 1].value == "("

    def _told_before(self, slots: list[str]) -> list[tuple[Described, str]]:
        """Return the modules in front of a bracket, and take them back, with a slot for each: `2x8GB (A2/B2)`."""
        last = self.drafts[-1]
        if last.slot or last.count != len(slots) or last.clause != self.clause_number - 1:
            for token in self.slot_tokens:
                token.used = False
            return []
        self.drafts.pop()
        return [(last, slot) for slot in slots]

    def _loose(self, clause: list[Token]) -> None:
        """Keep the amounts of a clause that are no modules yet: what they are is settled with the other clauses."""
        counting = any(self._any(clause, kind) for kind in ("add", "keep"))
        if not self.promise and self.drafts and (counting or self._any(clause, "still_there")):
            self._added(clause)
        for token in clause:
            if not token.used and token.kind == "size":
                self.loose_sizes.append((token.value, token))
                token.used = True
                if counting:
                    token.facts["module"] = True
            elif not token.used and counting and token not in self.slot_tokens and as_size_bytes(self._bare(token)) is not None:
                self.loose_sizes.append((as_size_bytes(self._bare(token)) or 0, token))
                token.used = True
                token.facts["module"] = True

    def _added(self, clause: list[Token]) -> None:
        """`2x4, another 8 added`: what is added to modules is a module."""
        for at, token in enumerate(clause):
            size = self._size_of(token, True)
            if size is not None and is_module_size(size) and not (at and clause[at - 1].means("slot")):
                self.drafts.append(Described(1, size))
                self._use(token)
