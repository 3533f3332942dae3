"""From tokens to a reading: clause by clause what is certain, then what the clauses mean together.

Nothing is guessed: what may mean two things is asked about, and what nobody understands is pointed at. Docs: docs/words.md.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Any

from after_check.domain.boards import Filling, Slot
from after_check.domain.facts import Fact, Source, value_of
from after_check.domain.modules import Form, Module
from after_check.domain.quantities import GIB, size_text
from after_check.domain.readings import Reading
from after_check.sources.words.figures import is_module_size
from after_check.sources.words.modules import ModuleSteps
from after_check.sources.words.state import Ask, Draft
from after_check.sources.words.tokens import Token
from after_check.standards.rates import same_rate


@dataclass(frozen=True, slots=True)
class Understood:
    """What a text says: certain facts as a reading, what is to be asked, and stretches that nobody understands."""

    reading: Reading
    asks: tuple[Ask, ...] = ()
    not_understood: tuple[tuple[int, int], ...] = ()


_LONGEST_CLAUSE = 80
"""Tokens; nobody says more between two commas, and the time that a text takes stays in proportion to its length."""
_LARGEST_TOTAL, _SMALLEST_TOTAL = 1024 * GIB, GIB // 4
_MOST_MODULES = 64
_MANY = 8
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
    )
)
"""Words that say nothing where nothing was made of them; any other word that was left over would have changed what was said."""


def understand(text: str, promise: bool = False, before: Reading | None = None) -> Understood:
    """Return what a text says; of a promise, held against the reading on arrival where its words need that."""
    return _Reader(text, promise, before).read()


def _board_order(slot: Slot) -> tuple[bool, str, int, str]:
    """Slots of a channel stand together on the drawing, whatever was named first."""
    place = slot.place
    return (place is None, place.channel if place is not None else "", place.position if place is not None else 0, slot.name)


class _Reader(ModuleSteps):
    """Reads one text."""

    def read(self) -> Understood:
        self._generation_first()
        for number, clause in enumerate(self._clauses(), start=1):
            self.clause_number, known = number, len(self.drafts)
            self._clause(clause)
            for draft in self.drafts[known:]:
                draft.clause = number
        self._settle_spoken()
        if self.promise:
            self._promised_changes()
        elif "replace" in self.verbs and self.drafts:
            self.drafts = []
            self.asks.append(Ask("modules", "This says what goes in for what: which modules are fitted now?"))
        self._settle_sizes()
        self._fill_slots()
        self._settle_rates()
        if self._is_about_something_else():
            return Understood(Reading(), (), ((0, len(self.text)),))
        return Understood(self._reading(), tuple(self.asks), tuple(self._not_understood()))

    def _settle_rates(self) -> None:
        """A figure in MHz is no question any more where the modules are sold as it, or as its double."""
        shown, rated = self.facts.get("running_rate"), self.common.get("rated_mts")
        if shown is not None and rated is not None and any(same_rate(shown.number * times, rated) for times in (1, 2)):
            self.asks = [ask for ask in self.asks if ask.about != "running_rate"]

    def _is_about_something_else(self) -> bool:
        """Return whether next to nothing of a text is known: a figure in a page about other things is no fact of a machine."""
        strange = sum(not token.used and not token.kinds and token.kind in ("word", "odd", "number") for token in self.tokens)
        known = sum(token.used and token.kind not in ("end", "sign") for token in self.tokens)
        return strange >= _MANY and strange > 3 * known

    # ---- clauses

    def _clauses(self) -> Iterator[list[Token]]:
        clause: list[Token] = []
        for token in self.tokens:
            if token.kind == "end" or (token.kind == "sign" and token.value in "()"):
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
        """Yield a clause, parted at its slots where it goes from slot to slot: `A1 8 A2 8 B1 empty`."""
        said = [token for token in clause if token.kind != "sign"]
        named = [token for token in said if token.kind == "slot_name"]
        goes_on = not (named and named[-1] is said[-1]) and not any(
            token.kind == "slot_name" and (behind.kind == "slot_name" or behind.means("and")) for token, behind in pairwise(said)
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
        found = {token.facts["generation"] for token in self.tokens if "generation" in token.facts}
        found |= {token.value.generation for token in self.tokens if token.kind == "label"}
        if len(found) == 1:
            self.common["generation"] = found.pop()

    def _clause(self, clause: list[Token]) -> None:
        if self.promise:
            self._replacement(clause)
            self._upgrade(clause)
        self.verbs |= {kind for token in clause for kind in ("add", "keep", "replace", "same", "twice") if token.means(kind)}
        for step in (
            self._labels,
            self._names,
            self._slot_summary,
            self._ranks,
            self._channels,
            self._profile,
            self._start,
            self._some_of,
            self._roles,
            self._rates,
            self._attributes,
        ):
            step(clause)
        slots = self._slot_names(clause)
        drafts = self._modules(clause)
        if len(slots) == 1 and not drafts:
            drafts = self._lone_size(clause) or self._behind_slot(clause)
        elif len(slots) > 1 and not drafts and (lone := next((token for token in clause if token.kind == "size" and not token.used), None)):
            each = size_text(lone.value)
            self.asks.append(Ask("modules", f"{each} in each of the {len(slots)} slots, or altogether?", (f"{each} each", f"total {each}")))
            self._use(lone)
        self._place(clause, slots, drafts)

    # ---- what the clauses mean together

    def _promised_changes(self) -> None:
        """`add`, `keep`, `replace`, `the same again`, `twice`: the end state, from the reading on arrival where one is there."""
        modules = self.before.modules if self.before is not None else ()
        here = [(size, token) for size, token in self.loose_sizes if token.facts.get("module")]
        others = [entry for entry in self.loose_sizes if entry not in here]
        if "twice" in self.verbs and modules:
            whole = sum(value_of(module.size_bytes) or 0 for module in modules)
            self.facts["total_bytes"] = 2 * whole
            return
        if "twice" in self.verbs and not self.drafts and not self.loose_sizes:
            self.asks.append(Ask("total_bytes", "Twice of what? The reading on arrival is not there: how much is it in the end?"))
            return
        if "same" in self.verbs and not self.drafts and not here:
            self._same_again(modules)
            return
        if "keep" in self.verbs:
            self.drafts += [draft for size, _ in here if (draft := self._draft(1, size)) is not None]
            self.loose_sizes = others
        elif "add" in self.verbs:
            added = [*self.drafts, *(draft for size, _ in here if (draft := self._draft(1, size)) is not None)]
            self.loose_sizes = others
            if modules:
                self.drafts = [*(self._of_module(module) for module in modules), *added]
            else:
                self.drafts = []
                self.asks.append(Ask("modules", "Added to what? The reading on arrival is not there: what is fitted in the end?"))

    def _same_again(self, modules: tuple[Module, ...]) -> None:
        """`the same again`, `two more like it`: which one is meant is only known where all that is there has one size."""
        sizes = {value_of(module.size_bytes) for module in modules}
        size = sizes.pop() if len(sizes) == 1 else None
        if size is None:
            said = "different ones are there" if modules else "the reading on arrival is not there"
            self.asks.append(Ask("modules", f"The same as which module? {said[0].upper()}{said[1:]}: what is fitted in the end?"))
            return
        counting = [token for token in self.tokens if not token.used and token.means("numbers") and not token.means("noise")]
        count = next((number for token in counting if (number := self._number(token)) is not None), 1)
        self._use(*counting)
        self.drafts += [*(self._of_module(module) for module in modules), Draft(count, size)]

    def _upgrade(self, clause: list[Token]) -> None:
        """`upgrade to 32`, `from 8 to 16 GB`, `16 -> 32`: the last amount is the promised total; the one before it is what there is."""
        for at, token in enumerate(clause[:-1]):
            if not token.means("upgrade") or token.used or clause[at + 1].used:
                continue
            size = self._size_of(clause[at + 1], True)
            before = clause[at - 1] if at else None
            bare = before is not None and before.kind in ("number", "size") and self._size_of(before, True) is not None
            if size is None or not (bare or clause[at + 1].kind == "number") or self._any(clause, "module"):
                continue
            self.facts["total_bytes"] = size
            self._use(clause[at + 1], *([before] if bare and before is not None else []))
            self._use(*(other for other in clause if other.value == "from"))

    def _replacement(self, clause: list[Token]) -> None:
        """`replace the 4 with a 16`, `2x16 instead of 2x4`: what goes is taken from the arrival, what comes is added."""
        word = next((token for token in clause if token.means("replace")), None)
        if word is None:
            return
        amounts = list(self._amounts(clause))
        modules = list(self.before.modules) if self.before is not None else []
        if len(amounts) == 2:
            behind = [amount for amount in amounts if amount[2].start > word.start]
            gone = behind[0] if word.means("in_place_of") and behind else amounts[0]
            new = next(amount for amount in amounts if amount is not gone)
        elif len(amounts) == 1:
            new = amounts[0]
            gone = self._gone_without_size(clause, modules)
        else:
            return
        if not is_module_size(new[1]):
            return
        self._use(word, *(token for amount in amounts for token in amount[3:]), *(token for token in clause if token.means("smallest")))
        self._use(*(token for token in clause if token.means("all")))
        for _ in range(gone[0]):
            module = next((module for module in modules if value_of(module.size_bytes) == gone[1]), None)
            if module is None and self.before is not None:
                self.asks.append(Ask("modules", f"On arrival there were not {gone[0]} modules of {size_text(gone[1])}: which ones go?"))
                return
            if module is not None:
                modules.remove(module)
        self.drafts += [self._of_module(module) for module in modules]
        self.drafts.append(Draft(new[0], new[1]))

    def _gone_without_size(self, clause: list[Token], modules: list[Module]) -> tuple[int, int]:
        """Return count and size of what goes where no size is said: the smaller one, else all of it."""
        sizes = [size for module in modules if (size := value_of(module.size_bytes)) is not None]
        if sizes and self._any(clause, "smallest"):
            self._use(*(behind for word, behind in pairwise(clause) if word.means("smallest") and behind.means("numbers")))
            return 1, min(sizes)
        modules.clear()
        return 0, 0

    def _amounts(self, clause: list[Token]) -> Iterator[tuple[Any, ...]]:
        """Yield count, size, the token of the size, and all tokens of each amount of a clause."""
        for at, token in enumerate(clause):
            size = self._size_of(token, True)
            before = clause[at - 1] if at else None
            if size is None or (before is not None and (before.means("slot") or before.means("ordinals"))):
                continue
            count = None
            if before is not None and not before.means("noise") and not before.means("all"):
                count = before.value if before.kind == "count" else self._number(before) if before.kind == "word" else None
            yield (count or 1, size, token, token, *([before] if count is not None else []))

    def _of_module(self, module: Module) -> Draft:
        return Draft(1, value_of(module.size_bytes), {}, kept=True)

    def _settle_sizes(self) -> None:
        """Say what sizes are that no word explains: the sum of the modules, the total, or one module."""
        for draft in self.drafts:
            if draft.size_bytes is None and self.each_bytes is not None and is_module_size(self.each_bytes):
                draft.size_bytes = self.each_bytes
        if not self.drafts and self.each_bytes is not None and self.used_slots:
            self.drafts.append(Draft(self.used_slots, self.each_bytes))
        self._settle_counts()
        sizes = [draft.size_bytes for draft in self.drafts]
        whole = sum((draft.size_bytes or 0) * draft.count for draft in self.drafts) if sizes and None not in sizes else None
        left = [size for size, _ in self.loose_sizes]
        total = self.facts.get("total_bytes")
        if whole is not None:
            for size in left:
                if size == whole:
                    self.facts.setdefault("total_bytes", size)
                elif total is None:
                    self._ask_sum(whole, size)
            if total is not None and not self._is_most_of(total, whole) and not self._names_only_some():
                self.facts.pop("total_bytes")
                self._ask_sum(whole, total)
            return
        if len(left) == 1 and self.drafts and not any(sizes) and total is None:
            if sum(draft.count for draft in self.drafts) == 1 and is_module_size(left[0]):
                self.drafts[0].size_bytes = left[0]
            else:
                self.facts["total_bytes"] = left[0]
        elif len(left) == 1 and not self.drafts and total is None:
            self._lone_amount(left[0], self.loose_sizes[0][1])
        elif left and (len(left) > 1 or total is not None):
            known = [size for size in left if size != total]
            if known:
                self.asks.append(
                    Ask("modules", f"What are {', '.join(size_text(size) for size in known)}: modules, or a total?", ("modules", "total"))
                )

    def _settle_spoken(self) -> None:
        """Give two values of one thing to the modules beside which they were said, or ask: `8 GB 2400 + 8 GB 2666`."""
        for name, said in self.spoken.items():
            values = list(dict.fromkeys(value for _, value in said))
            if len(values) < 2:
                continue
            self.common.pop(name, None)
            whose = list(self._whose(said))
            if all(drafts for drafts, _ in whose):
                for drafts, value in whose:
                    for draft in drafts:
                        draft.facts.setdefault(name, value)
            else:
                self.asks.append(Ask(name, f"Which is it: {' or '.join(str(value) for value in values)}?", tuple(map(str, values))))

    def _whose(self, said: list[tuple[int, object]]) -> Iterator[tuple[list[Draft], object]]:
        """Yield values with the modules of their clause: one for all of these, or as many as there are, in their order."""
        for clause in dict.fromkeys(number for number, _ in said):
            drafts = [draft for draft in self.drafts if draft.clause == clause]
            values = [value for number, value in said if number == clause]
            if len(set(values)) == 1:
                yield drafts, values[0]
            elif len(values) == len(drafts):
                yield from (([draft], value) for draft, value in zip(drafts, values, strict=True))
            else:
                yield [], values[0]

    def _settle_counts(self) -> None:
        """`two sticks, 2x8`: the same modules are said twice; where the counts differ, nobody knows which is right."""
        bare = [draft for draft in self.drafts if draft.size_bytes is None and not draft.slot and not draft.facts]
        sized = [draft for draft in self.drafts if draft.size_bytes is not None]
        if not bare or not sized:
            return
        said, counted = sum(draft.count for draft in bare), sum(draft.count for draft in sized)
        self.drafts = sized
        if said != counted:
            self.drafts = []
            self.asks.append(Ask("modules", f"{said} modules are said, and {counted} are described: how many are there?"))

    def _lone_amount(self, size: int, token: Token) -> None:
        """Say what the only amount of a text is: the total where several modules or a system are spoken of, else one module."""
        several = (self.facts.get("channels") or 1) > 1 or (self.used_slots or 1) > 1 or self.promise or "replace" in self.verbs
        several = several or any(name in self.facts for name in ("usable_bytes", "in_use_bytes", "reserved_bytes", "graphics_bytes"))
        shown = "g" in self.text[token.start : token.end].casefold()
        if size > GIB and size % GIB and shown and size <= _LARGEST_TOTAL:
            self.facts["total_bytes"] = size  # What a system shows of whole modules: 15.8 GB.
        elif not _SMALLEST_TOTAL <= size <= _LARGEST_TOTAL or (size % GIB and size > GIB and not several):
            self.asks.append(Ask("total_bytes", f"Is it really {size_text(size)}?"))
        elif several:
            self.facts["total_bytes"] = size
        elif is_module_size(size) and any(self._is_open_count(other) for other in self.tokens):
            self.asks.append(Ask("modules", f"How many modules of {size_text(size)} are there?"))
        elif is_module_size(size):
            self.drafts.append(Draft(1, size))
        elif size % (2 * GIB) == 0:
            self.facts["total_bytes"] = size  # No module has it, and two of them may.
        else:
            self.asks.append(Ask("modules", f"No module has {size_text(size)}: what is the size of each?"))

    def _is_most_of(self, total: int, whole: int) -> bool:
        """Return whether a total is the sum of the modules, or that less what the machine keeps for itself: 15.8 of 16 GB."""
        return total == whole or (total % GIB != 0 and whole - whole // 8 <= total < whole)

    def _is_open_count(self, token: Token) -> bool:
        """Return whether a token may be the count of a size beside it, and was not understood so."""
        if token.used:
            return False
        if token.kind in ("count", "count_after"):
            return True
        number = self._number(token)
        return number is not None and number > 1 and not (token.kind == "word" and token.means("noise"))

    def _names_only_some(self) -> bool:
        return (
            bool(self.drafts)
            and all(draft.slot for draft in self.drafts)
            and self.slot_count is not None
            and self.slot_count > len(self.drafts)
        )

    def _ask_sum(self, whole: int, said: int) -> None:
        self.asks.append(
            Ask(
                "total_bytes",
                f"The modules add up to {size_text(whole)}, and {size_text(said)} is said: which one is wrong?",
                (f"total {size_text(whole)}", f"total {size_text(said)}, other modules"),
            )
        )

    def _fill_slots(self) -> None:
        """Where slots are used and nobody says by what, there are that many modules of which nothing is known."""
        fitted = sum(draft.count for draft in self.drafts)
        if fitted > _MOST_MODULES:
            self.drafts = []
            self.asks.append(Ask("modules", f"{fitted} modules are not possible: how many are there?"))
            return
        if not self.drafts and self.used_slots is not None and self.used_slots <= 64:
            self.drafts.append(Draft(self.used_slots))
        elif not self.drafts and self._describes_modules() and not any(ask.about == "modules" for ask in self.asks):
            self.drafts.append(Draft(1))
        elif self.used_slots is not None and self.used_slots != fitted and len(self.drafts) == 1 and self.drafts[0].count == 1:
            size = self.drafts[0].size_bytes
            self.drafts = [Draft(self.used_slots)]
            if size is not None:
                self.facts.setdefault("total_bytes", size)
        named = self.empty_slots or any(draft.slot for draft in self.drafts)
        if self.slot_count is None and self.free_slots and self.drafts and not named:
            fitted = sum(draft.count for draft in self.drafts if draft.facts.get("form") is not Form.SOLDERED)
            self.slot_count = fitted + self.free_slots

    def _describes_modules(self) -> bool:
        return any(
            name in self.common for name in ("generation", "rated_mts", "form", "ranks", "timings", "ecc", "part", "serial", "voltage_mv")
        )

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
        slots.sort(key=_board_order)
        facts: dict[str, Any] = {name: Fact(value, Source.TYPED) for name, value in self.facts.items()}
        count = Fact(self.slot_count, Source.TYPED) if self.slot_count is not None and self.slot_count <= 96 else None
        return replace(Reading(slots=tuple(slots), loose=tuple(loose), slot_count=count), **facts)

    def _module(self, draft: Draft) -> Module:
        facts: dict[str, Any] = {**({} if draft.kept else self.common), **draft.facts}
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
