"""What the clauses of a text mean together: whose a figure is, what an amount is of, how many modules there are."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from after_check.domain.modules import Form, Generation
from after_check.domain.quantities import GIB, counted, size_text
from after_check.domain.readings import ShownRate, SoakResult
from after_check.language.plain_words.figures import as_size_bytes, is_module_size, is_usual_rate
from after_check.language.plain_words.places import PlaceSteps
from after_check.language.plain_words.state import Ask, Described
from after_check.language.plain_words.tokens import Token
from after_check.standards.labels import can_be_built
from after_check.standards.rates import same_rate

_LARGEST_TOTAL, _SMALLEST_TOTAL = 1024 * GIB, GIB // 4
_MOST_MODULES = 64
_LEAST_RATE_MTS = 800
_NEAR = 4
"""Tokens between a size and the word for the slot that it is in."""


_OF_ONE_MODULE = ("maker", "part", "serial", "ecc")
"""What is not true of one module because it was said of its neighbour; a kind or a rate is meant of all."""


class SettlingSteps(PlaceSteps):
    """Settles what single clauses leave open, or asks."""

    def _settle_rates(self) -> None:
        """A figure in MHz is no question any more where the modules are sold as it, or as its double."""
        self._settle_left_rates()
        shown, rated = self.facts.get("running_rate"), self.common.get("rated_mts")
        if shown is not None and rated is not None and any(same_rate(shown.number * times, rated) for times in (1, 2)):
            self.asks = [ask for ask in self.asks if ask.about != "running_rate"]

    def _settle_left_rates(self) -> None:
        """`one is 2400, the other 2666`: beside a rate of which nothing was made, the one that was understood is not that of all."""
        rated = self.common.get("rated_mts")
        rates = [round(token.value) for token in self.tokens if self._bare(token) >= _LEAST_RATE_MTS and is_usual_rate(token.value, None)]
        others = [rate for rate in rates if rated is not None and not same_rate(rate, rated)]
        if others and not any(ask.about == "rated_mts" for ask in self.asks):
            self.common.pop("rated_mts")
            said = [str(rate) for rate in dict.fromkeys((rated, *others))]
            self.asks.append(Ask("rated_mts", f"Which is it: {' or '.join(said)}?", tuple(said)))

    def _settle_sizes(self) -> None:
        """Say what sizes are that no word explains: the sum of the modules, the total, or one module."""
        for draft in self.drafts:
            if draft.size_bytes is None and self.each_bytes is not None and is_module_size(self.each_bytes):
                draft.size_bytes = self.each_bytes
        if not self.drafts and self.each_bytes is not None and self.used_slots:
            self.drafts.append(Described(self.used_slots, self.each_bytes))
        elif not self.drafts and self.each_bytes is not None and self.slot_count is not None and not self.loose_sizes:
            self._ask_how_many(self.each_bytes, (self.slot_count, 2, 1))  # "4 slots, 8gb each"
        self._settle_listed()
        self._settle_counts()
        self._settle_in_the_slot()
        self._settle_filled()
        self._settle_what_is_fitted()
        sizes = [draft.size_bytes for draft in self.drafts]
        whole = sum((draft.size_bytes or 0) * draft.count for draft in self.drafts) if sizes and None not in sizes else None
        left = [size for size, _ in self.loose_sizes]
        total = self.facts.get("total_bytes")
        if whole is not None:
            self._settle_beside_a_sum(whole, total)
            return
        if len(left) == 1 and self.drafts and not any(sizes) and total is None:
            if sum(draft.count for draft in self.drafts) == 1 and is_module_size(left[0]):
                self.drafts[0].size_bytes = left[0]
            else:
                self.facts["total_bytes"] = left[0]
        elif len(left) == 1 and not self.drafts and total is None:
            self._lone_amount(left[0], self.loose_sizes[0][1])
        elif left and (len(left) > 1 or total is not None):
            known = [(size, token) for size, token in self.loose_sizes if size != total]
            if known:
                self._ask_what_they_are(known)

    def _settle_beside_a_sum(self, whole: int, total: int | None) -> None:
        """An amount beside modules is their sum, or it is asked which one is wrong."""
        for size, token in self.loose_sizes:
            rest = size - whole
            if total is None and all(draft.facts.get("form") is Form.SOLDERED for draft in self.drafts) and is_module_size(rest):
                beside = f"{size_text(whole)} of {size_text(size)} is soldered: what is the other {size_text(rest)}?"
                answers = tuple(f"total {size_text(size)}, {part}" for part in (f"1x{size_text(rest)}", f"2x{size_text(rest // 2)}"))
                self.asks.append(Ask("modules", beside, answers, (token.start, token.end)))
                continue
            if size != whole and total is None:
                self._ask_sum(whole, size, token)
            elif size == whole and sum(draft.count for draft in self.drafts) > 1:  # One module that is said twice may be another one.
                self.facts.setdefault("total_bytes", size)
        is_of_more = self.added and total is not None and total >= whole
        if total is not None and not (is_of_more or self.is_shown or self._is_most_of(total, whole) or self._names_only_some()):
            self.facts.pop("total_bytes")
            self._ask_sum(whole, total)

    def _settle_spoken(self) -> None:
        """Give two values of one thing to the modules beside which they were said, or ask: `8 GB 2400 + 8 GB 2666`."""
        for name, said in self.spoken.items():
            values = list(dict.fromkeys(value for _, value in said))
            if name in _OF_ONE_MODULE and self._is_of_some(said):
                self.common.pop(name, None)
                for number, value in said:
                    for draft in self.drafts:
                        if draft.clause == number:
                            draft.facts.setdefault(name, value)
                continue
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

    def _settle_alike(self) -> None:
        """Give a module that is like another one what was said of that."""
        for draft, like in self.alike:
            draft.facts = {**like.facts, **draft.facts}

    def _settle_listed(self) -> None:
        """`three sticks: 8, 8, 4`: as many bare numbers as there are modules of which nothing else is known."""
        bare = [token for token in self.tokens if as_size_bytes(self._bare(token)) is not None]
        if len(self.drafts) != 1 or self.drafts[0].size_bytes is not None or len(bare) != self.drafts[0].count or self.loose_sizes:
            return
        between = self.tokens[self.tokens.index(bare[0]) : self.tokens.index(bare[-1])]
        sizes = [as_size_bytes(self._bare(token)) or 0 for token in bare]
        if len(bare) > 1 and all(map(is_module_size, sizes)) and all(token in bare or token.kind in ("end", "sign") for token in between):
            self.drafts = [replace(self.drafts[0], count=1, size_bytes=size) for size in sizes]
            self._use(*bare)

    def _is_of_some(self, said: list[tuple[int, object]]) -> bool:
        """Return whether words stand beside modules, each time, while other modules stand without them."""
        clauses = {number for number, _ in said}
        beside = {draft.clause for draft in self.drafts}
        return clauses <= beside and bool(beside - clauses or len({value for _, value in said}) > 1)

    def _ask_what_cannot_be_built(self) -> None:
        """Ask about a size that no module of so many ranks and such devices has: one of them was misread."""
        for draft in self.drafts:
            generation, ranks, width = (
                draft.facts.get(name, self.common.get(name)) for name in ("generation", "ranks", "device_width_bits")
            )
            if not (isinstance(generation, Generation) and isinstance(ranks, int) and isinstance(width, int)):
                continue
            if draft.size_bytes is None or can_be_built(generation, draft.size_bytes, ranks, width):
                continue
            words = f"No {generation} module of {size_text(draft.size_bytes)} is built as {ranks}Rx{width}: what does the label say?"
            draft.size_bytes = None
            self.asks.append(Ask("modules", words))

    def _settle_said_twice(self) -> None:
        """Ask where two values of one thing were said of the machine: neither is taken."""
        for name, values in self.facts.twice.items():
            said = list(dict.fromkeys(_in_words(name, value) for value in values))
            self.facts.pop(name, None)
            if len(said) > 1:
                self.asks.append(Ask(name, f"Which is it: {' or '.join(said)}?", tuple(said)))

    def _whose(self, said: list[tuple[int, object]]) -> Iterator[tuple[list[Described], object]]:
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

    def _is_of_others(self, draft: Described, name: str) -> bool:
        """Return whether a word is not of what is soldered: it was said in other clauses only, `4gb soldered, 8gb 2666 in the slot`."""
        said = [number for number, _ in self.spoken.get(name, ())]
        return draft.facts.get("form") is Form.SOLDERED and len(self.drafts) > 1 and bool(said) and draft.clause not in said

    def _settle_in_the_slot(self) -> None:
        """`4gb soldered, 8gb in the slot`: beside what is soldered, an amount in the slot is a module."""
        if not any(draft.facts.get("form") is Form.SOLDERED for draft in self.drafts):
            return
        slots = [token for token in self.tokens if token.means("slot")]
        for size, token in list(self.loose_sizes):
            at = self.tokens.index(token)
            beside = self.tokens[max(0, at - _NEAR) : at + _NEAR + 1]
            if is_module_size(size) and any(slot in beside for slot in slots):
                self.loose_sizes.remove((size, token))
                self.drafts.append(Described(1, size))

    def _settle_what_is_fitted(self) -> None:
        """Ask which modules an amount is that is fitted, and of which another one is shown; where they are told, it is their sum."""
        if self.said_fitted is None:
            return
        size, amount, word = self.said_fitted
        whole = sum((draft.size_bytes or 0) * draft.count for draft in self.drafts)
        if not whole and is_module_size(size // 2):
            answers = tuple(f"{count}x{size_text(size // count)}" for count in (2, 1, 4) if is_module_size(size // count))
            place = (min(amount.start, word.start), max(amount.end, word.end))
            self.asks.append(Ask("modules", f"{size_text(size)} are fitted: which modules are these?", answers, place))
        elif whole != size:
            amount.used = False

    def _settle_filled(self) -> None:
        """`slot 2 populated, 16gb`: what was said of slots that are filled, or that it is not known what sits in them."""
        loose = [draft for draft in self.drafts if not draft.slot and draft.facts.get("form") is not Form.SOLDERED]
        if len(self.filled_slots) == sum(draft.count for draft in loose):
            self.drafts = [draft for draft in self.drafts if draft not in loose]
            described = [replace(draft, count=1) for draft in loose for _ in range(draft.count)]
        elif len(self.filled_slots) == len(self.loose_sizes) == 1 and not loose and is_module_size(self.loose_sizes[0][0]):
            described = [Described(1, self.loose_sizes.pop()[0])]
        elif not loose:
            described = [Described(1) for _ in self.filled_slots]
        else:
            return
        self.drafts += [replace(draft, slot=slot) for draft, slot in zip(described, self.filled_slots, strict=True)]

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
            counts = [other for other in self.tokens if self._is_open_count(other)]
            place = (min(token.start, counts[0].start), max(token.end, counts[-1].end))
            self._ask_how_many(size, (1, 2, 4), place)
        elif is_module_size(size):
            self.drafts.append(Described(1, size))
        elif size % (2 * GIB) == 0:
            self.facts["total_bytes"] = size  # No module has it, and two of them may.
        else:
            answers, place = (f"total {size_text(size)}",), (token.start, token.end)
            self.asks.append(Ask("modules", f"No module has {size_text(size)}: what is the size of each?", answers, place))

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

    def _ask_what_they_are(self, known: list[tuple[int, Token]]) -> None:
        """Ask about amounts beside a total; a single one is answered by key."""
        size, token = known[0]
        question = f"What are {', '.join(size_text(size) for size, _ in known)}: modules, or a total?"
        if len(known) > 1 or not is_module_size(size):
            self.asks.append(Ask("modules", question, ("modules", "total")))
        else:
            self.asks.append(Ask("modules", question, (f"1x{size_text(size)}", f"total {size_text(size)}"), (token.start, token.end)))

    def _ask_sum(self, whole: int, said: int, token: Token | None = None) -> None:
        question = f"The modules add up to {size_text(whole)}, and {size_text(said)} is said: which one is wrong?"
        if token is None:
            self.asks.append(Ask("total_bytes", question, (f"total {size_text(whole)}", f"total {size_text(said)}, other modules")))
        else:
            self.asks.append(Ask("total_bytes", question, (f"total {size_text(whole)}",), (token.start, token.end)))

    def _fill_slots(self) -> None:
        """Where slots are used and nobody says by what, there are that many modules of which nothing is known."""
        fitted = sum(draft.count for draft in self.drafts)
        if fitted > _MOST_MODULES:
            self.drafts = []
            self.asks.append(Ask("modules", f"{fitted} modules are not possible: how many are there?"))
            return
        if not self.drafts and self.used_slots is not None and self.used_slots <= 64:
            self.drafts.append(Described(self.used_slots))
        elif not self.drafts and self._describes_modules() and not any(ask.about == "modules" for ask in self.asks):
            self.drafts.append(Described(1))
        elif self.used_slots is not None and self.used_slots != fitted and len(self.drafts) == 1 and self.drafts[0].count == 1:
            size = self.drafts[0].size_bytes
            self.drafts = [Described(self.used_slots)]
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


def _in_words(name: str, value: object) -> str:
    """Return a fact as people say it."""
    if isinstance(value, ShownRate):
        return f"runs at {value.number:g} {value.unit.value or 'MT/s'}"
    if isinstance(value, SoakResult):
        return f"a memory test with {counted(value.errors, 'error')}" if value.errors else "a clean memory test"
    if isinstance(value, int) and name.endswith("_bytes"):
        return f"{name.removesuffix('_bytes').replace('_', ' ')} {size_text(value)}"
    if isinstance(value, int) and name == "channels":
        return counted(value, "channel")
    return f"{name.replace('_', ' ')} {value}"
