"""Promises that speak of what is there: one more of the same, a larger one in place of the small one, twice what it has."""

from __future__ import annotations

from itertools import pairwise
from typing import Any

from after_check.domain.facts import value_of
from after_check.domain.modules import Module
from after_check.domain.quantities import size_text
from after_check.language.plain_words.figures import is_module_size
from after_check.language.plain_words.settling import SettlingSteps
from after_check.language.plain_words.state import Ask, Described
from after_check.language.plain_words.then_and_now import ThenAndNow
from after_check.language.plain_words.tokens import Token

_MOST_MORE = 8
_UNCOUNTED = 4
"""What an amount without a number consists of (`_amounts`)."""


class PromiseSteps(SettlingSteps, ThenAndNow):
    """Works out the end state from the reading on arrival, where one is there; asks where its words need one."""

    def _promised_changes(self) -> None:
        """`add`, `keep`, `replace`, `the same again`, `twice`: the end state, from the reading on arrival where one is there."""
        modules = self.before.modules if self.before is not None else ()
        here = [(size, token) for size, token in self.loose_sizes if token.facts.get("module")]
        others = [entry for entry in self.loose_sizes if entry not in here]
        if self.taken_out and modules and self.drafts:
            self._put_in_for_what_goes(list(modules))
            return
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
        if "keep" in self.verbs and not self._keeps_what_is_there():
            self.drafts += [draft for size, _ in here if (draft := self._draft(1, size)) is not None]
            self.loose_sizes = others
        elif "add" in self.verbs or ("keep" in self.verbs and (here or self.drafts)):
            count = self._how_many_more() if len(here) == 1 and not self.drafts else 1
            added = [*self.drafts, *(draft for size, _ in here if (draft := self._draft(count, size)) is not None)]
            self.loose_sizes = others
            if modules:
                self.drafts = [*(self._of_module(module) for module in modules), *added]
            else:
                self.drafts = []
                self.asks.append(Ask("modules", "Added to what? The reading on arrival is not there: what is fitted in the end?"))

    def _keeps_what_is_there(self) -> bool:
        """Return whether it is not said which modules are kept: `keep it`, `keep what is in there`."""
        figures = ("size", "size_times", "count", "count_after", "plural", "number")
        for part, _ in self._parts():
            at = next((at for at, token in enumerate(part) if token.means("keep")), None)
            if at is None:
                continue
            adding = [place for place, token in enumerate(part) if token.means("add")]
            start = max((place for place in adding if place < at), default=-1)
            end = min((place for place in adding if place > at), default=len(part))
            if any(token.kind in figures for token in part[start + 1 : end]):
                return False
        return True

    def _put_in_for_what_goes(self, modules: list[Module]) -> None:
        """`take out 2x4, put in 2x16`: what is neither taken out stays."""
        for count, size in self.taken_out:
            for _ in range(count):
                module = next((module for module in modules if value_of(module.size_bytes) == size), None)
                if module is None:
                    self._ask_which_go(count, size)
                    return
                modules.remove(module)
        self.drafts = [*(self._of_module(module) for module in modules), *self.drafts]

    def _one_more(self, clause: list[Token]) -> None:
        """`a second 8gb stick`, `an 8gb in the free slot`: one more; `the second slot` is a place."""
        free = [token for token in clause if token.means("empty") or token.means("slot")]
        if len(free) == 2 and free[0].means("empty") and self._has_amount(clause):
            self.verbs.add("add")
            self._use(*free)
            for token in clause:
                if token.kind == "size":
                    token.facts["module"] = True
        for token, behind in pairwise(clause):
            if token.means("ordinals") and not behind.means("slot") and (behind.kind == "size" or behind.means("module")):
                self.verbs.add("add")
                self._use(token)

    def _how_many_more(self) -> int:
        """`two more of the 8 GB ones`: the number in front of the word; one, where there is none."""
        for number, word in pairwise(self.tokens):
            count = self._number(number) if word.means("add") else None
            if count is not None and 1 < count <= _MOST_MORE:
                self._use(number)
                return count
        return 1

    def _ask_which_go(self, count: int, size_bytes: int) -> None:
        said = f"was no module of {size_text(size_bytes)}" if count == 1 else f"were not {count} modules of {size_text(size_bytes)}"
        self.asks.append(Ask("modules", f"On arrival there {said}: which ones go?"))

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
        self.drafts += [*(self._of_module(module) for module in modules), Described(count, size)]

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
        gone = self._all_of_them(gone, clause, modules)
        if new[2].kind == "plural" and len(new) == _UNCOUNTED:  # "the 8s for 16s": as many as go.
            there = gone[0] if gone[1] else len(self.before.modules if self.before is not None else ())
            if not there:
                self.asks.append(Ask("modules", f"How many modules of {size_text(new[1])} are to go in?"))
                return
            new = (there, *new[1:])
        if not is_module_size(new[1]):
            return
        self._use(word, *(token for amount in amounts for token in amount[3:]), *(token for token in clause if token.means("smallest")))
        self._use(*(token for token in clause if token.means("all")))
        for _ in range(gone[0]):
            module = next((module for module in modules if value_of(module.size_bytes) == gone[1]), None)
            if module is None and self.before is not None:
                self._ask_which_go(gone[0], gone[1])
                return
            if module is not None:
                modules.remove(module)
        self.drafts += [self._of_module(module) for module in modules]
        self.drafts.append(Described(new[0], new[1]))

    @staticmethod
    def _all_of_them(gone: tuple[Any, ...], clause: list[Token], modules: list[Module]) -> tuple[Any, ...]:
        """`the 8 GB modules`: all that have the size, where no number is said."""
        if len(gone) != _UNCOUNTED:
            return gone
        at = clause.index(gone[2])
        behind = clause[at + 1] if at + 1 < len(clause) else None
        many = gone[2].kind == "plural" or (behind is not None and behind.means("module") and str(behind.value).endswith("s"))
        there = sum(value_of(module.size_bytes) == gone[1] for module in modules)
        return (there, *gone[1:]) if many and there else gone

    def _gone_without_size(self, clause: list[Token], modules: list[Module]) -> tuple[int, int]:
        """Return count and size of what goes where no size is said: the smaller one, else all of it."""
        sizes = [size for module in modules if (size := value_of(module.size_bytes)) is not None]
        if sizes and self._any(clause, "smallest"):
            self._use(*(behind for word, behind in pairwise(clause) if word.means("smallest") and behind.means("numbers")))
            return 1, min(sizes)
        modules.clear()
        return 0, 0

    def _of_module(self, module: Module) -> Described:
        return Described(1, value_of(module.size_bytes), {}, kept=True)
