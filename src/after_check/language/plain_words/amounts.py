"""The steps that read amounts off a clause: the total, what of it is usable, in use, reserved, and what only shows a part."""

from __future__ import annotations

import itertools
from collections.abc import Sequence

from after_check.domain.quantities import GIB, size_text
from after_check.language.plain_words.figures import as_size_bytes
from after_check.language.plain_words.results import ResultSteps
from after_check.language.plain_words.state import ROLE_FIELDS, ROLES, Ask
from after_check.language.plain_words.tokens import Token

_MOST_GIB = 4096
_LEAST_WHOLE_GIB = 16
"""A bare number that is a whole, of which a part is seen; of a smaller one it may be modules that are counted."""
_LEAST_SUM_GIB = 6
"""A bare number that may be a total; a smaller one may count modules."""


_MOST_SHOWN_GIB = 512
"""A bare number that may be shown as an amount: a larger one may be a rate."""
_NOT_OF_ALL = (
    *("slot", "module", "channel", "rank", "limit", "hoped", "errors_said", "graphics", "reserved", "in_use", "aside", "soldered"),
    *("storage", "usable"),
)
"""Words beside which an amount that is shown is not that of the machine."""
_MAY_FOLLOW = ("inside", "firmware_shows", "system_shows", "total", "now", "and", "run", "fitted")
_MAY_LEAD = ("run", "and", "fitted", "total", "firmware_shows", "system_shows")


def _says_something(token: Token) -> bool:
    """Return whether a word is none of those that may stand anywhere: `only 16 is shown`."""
    return not token.means("noise") or any(token.means(kind) for kind in ("sees", *_MAY_FOLLOW))


class AmountSteps(ResultSteps):
    """Reads amounts off clauses."""

    def _roles(self, clause: list[Token]) -> None:
        """Sizes that a word calls total, usable and so on: the two that stand nearest to each other first."""
        self._bare_total(clause)
        self._bare_usable(clause)
        self._in_turn(clause)
        while True:
            pairs = [
                (word, role, size)
                for word in clause
                if not word.used and (role := next((role for role in ROLES if word.means(role)), None)) is not None
                for size in clause
                if size.kind == "size" and not size.used and not (role == "total" and self._counted(clause, size))
                if not (role == "available" and word.means("empty") and self._is_about_slots(clause))
            ]
            if not pairs:
                return
            word, role, size = min(pairs, key=lambda pair: self._distance(pairs, *pair))
            self._amount(word, role, size)

    def _is_about_slots(self, clause: list[Token]) -> bool:
        return any(token.kind in ("slot_name", "slot_range") or token.means("slot") or token.means("module") for token in clause)

    def _in_turn(self, clause: list[Token]) -> None:
        """`Installed 16,384 MB Available 9,812 MB`: words and sizes take turns, so each word is of the size that stands in its turn."""
        turns = [token for token in clause if not token.used and (token.kind == "size" or any(token.means(role) for role in ROLES))]
        words, sizes = turns[::2], turns[1::2]
        if len(turns) < 4 or len(words) != len(sizes):
            return
        if words[0].kind == "size":
            words, sizes = sizes, words
        if any(token.kind == "size" for token in words) or any(token.kind != "size" for token in sizes):
            return
        for word, size in zip(words, sizes, strict=True):
            self._amount(word, next(role for role in ROLES if word.means(role)), size)

    def _amount(self, word: Token, role: str, size: Token) -> None:
        if role in ROLE_FIELDS:  # Else an amount that no reading holds: compressed, cached.
            self.facts[ROLE_FIELDS[role]] = size.value
        self._use(word, size)

    def _distance(self, pairs: list[tuple[Token, str, Token]], word: Token, role: str, size: Token) -> tuple[int, bool, int]:
        """Characters between a word and a size; a word between two sizes waits, and is then of the one that it can be of.

        What is usable, reserved or in use is a part of the whole, so the smaller of the two.
        """

        def apart(size: Token) -> int:
            return min(abs(word.start - size.end), abs(size.start - word.end))

        near = [other for candidate, _, other in pairs if candidate is word and apart(other) == apart(size)]
        return apart(size), len(near) > 1, -size.value if role == "total" else size.value

    def _bare_usable(self, clause: list[Token]) -> None:
        """`12.9 usable`, `usable: 15.4`: a number without a unit directly beside the word."""
        said = [token for token in clause if token.kind != "sign"]
        for before, behind in itertools.pairwise(said):
            token, word = (before, behind) if behind.means("usable") else (behind, before)
            if token.kind != "number" or token.used or word.used or not word.means("usable") or not 0 < token.value < _MOST_GIB:
                continue
            following = said[said.index(token) + 1 :][:1] if token is behind else []
            if any(other.kind in ("number", "size") or other.means("slot") or other.means("of") or not other.kinds for other in following):
                continue  # What stands behind the number is what it counts.
            self.facts["usable_bytes"] = round(token.value * GIB)
            self._use(token, word)

    def _some_of(self, clause: list[Token]) -> None:
        """`8 of 16 GB`: in use, where that is said; else nobody knows which of the two the machine shows."""
        free = [token for token in clause if not token.used and (token.means("of") or not token.means("noise"))]
        sees = [token for token in clause if token.means("sees") and not self.promise]
        for at in range(len(free) - 2):
            part, of, whole = free[at : at + 3]
            part_bytes, whole_bytes = self._shown_amount(part), self._shown_amount(whole)
            bare = whole.kind != "size" and not (sees and whole.kind == "number" and whole.value >= _LEAST_WHOLE_GIB)
            if not of.means("of") or bare or part_bytes is None or whole_bytes is None or part_bytes >= whole_bytes:
                continue
            if self._any(clause, "module") or self._any(clause, "aside") or (whole.kind != "size" and self._any(clause[-1:], "slot")):
                continue
            if self._any(clause, "in_use") or self._any(clause, "usable"):
                role = "in_use" if self._any(clause, "in_use") else "usable"
                self.facts[ROLE_FIELDS[role]], self.facts["total_bytes"] = part_bytes, whole_bytes
                self._use(*(token for token in clause if token.means(role)))
            else:
                self._use(*sees)
                said = size_text(part_bytes), size_text(whole_bytes)
                answers = tuple(f"total {size}" for size in said)
                question = f"{said[0]} of {said[1]}: which of them does the machine show?"
                self.asks.append(Ask("total_bytes", question, answers, (part.start, whole.end)))
            self._use(part, of, whole)
            return

    def _shown_amount(self, token: Token) -> int | None:
        """Return an amount as screens show it: a bare 16, or 15.9; None for anything else."""
        size = self._size_of(token, True)
        if size is None and 0 < self._bare(token) < _MOST_GIB and self._bare(token) % 1:
            return round(self._bare(token) * GIB)
        return size

    def _shown_by_each(self) -> None:
        """`bios sees 32, windows 31.9`: the total, and what of it the system has; `windows shows 15.9` is a total."""
        found: dict[str, tuple[int, bool, list[Token]]] = {}
        for part, _ in self._parts():
            clause = [token for token in part if token.kind != "sign"]
            if any(self._any(clause, kind) for kind in ("slot", "module", "add", "keep", "graphics", "reserved", "in_use")):
                continue
            for at, who in enumerate(clause):
                side = next((side for side in ("firmware_shows", "system_shows") if who.means(side)), "")
                shown = self._shown_beside(clause, at) if side and side not in found else None
                if shown is not None:
                    found[side] = (shown[0], shown[1], [who, *shown[2]])
        firmware, system = found.get("firmware_shows"), found.get("system_shows")
        if firmware is not None and system is not None and firmware[0] // 2 <= system[0] <= firmware[0]:
            self.facts["total_bytes"] = firmware[0]
            self.is_shown = True
            if system[0] != firmware[0]:
                self.facts["usable_bytes"] = system[0]
            self._use(*firmware[2], *system[2])
        elif (firmware is None) != (system is None):
            size, told, said = (firmware or system) or (0, False, [])
            if told:
                self.facts["total_bytes"] = size
                self.is_shown = True
                self._use(*said)

    def _seen(self) -> None:
        """`2x16 fitted, shows 16`, `installed 32, only 16 shown`: what the machine shows is its total, whatever is fitted."""
        parts = [[token for token in part if token.kind != "sign" and _says_something(token)] for part, _ in self._parts()]
        if "total_bytes" not in self.facts:
            for clause in parts:
                if any(word.kind == "slot_name" or any(word.means(kind) for kind in _NOT_OF_ALL) for word in clause):
                    continue
                for at, token in enumerate(clause):
                    beside = self._seen_beside(clause, at)
                    if beside is not None:
                        self.facts["total_bytes"] = self._shown_amount(token)
                        self.is_shown = True
                        self._use(token, beside)
        if self.is_shown:
            self._set_apart_what_is_fitted(parts)

    def _seen_beside(self, clause: list[Token], at: int) -> Token | None:
        """Return the word beside an amount that says that it is shown."""
        token, before, behind = clause[at], clause[at - 1] if at else None, clause[at + 1] if at + 1 < len(clause) else None
        bare = token.kind == "number" and _LEAST_SUM_GIB <= self._bare(token) <= _MOST_SHOWN_GIB
        if token.used or not (token.kind == "size" or bare) or self._shown_amount(token) is None or token.facts.get("stick"):
            return None
        if before is not None and before.means("sees"):
            return before if behind is None or any(behind.means(kind) for kind in _MAY_FOLLOW) else None
        if behind is None or not behind.means("sees") or (before is not None and not any(before.means(kind) for kind in _MAY_LEAD)):
            return None
        rest = clause[at + 2 : at + 3]
        return behind if not rest or any(rest[0].means(kind) for kind in _MAY_FOLLOW) else None

    def _set_apart_what_is_fitted(self, parts: list[list[Token]]) -> None:
        """Take `installed 32` for no total where another amount is shown: it is what is fitted, in modules that are not told."""
        for clause in parts:
            for at, (first, second) in enumerate(itertools.pairwise(clause)):
                word, amount = (first, second) if first.means("fitted") else (second, first)
                if amount is first and at and clause[at - 1].kind == "count":
                    continue  # "2x16 fitted"
                size = self._size_of(amount, True)
                if word.means("fitted") and not word.used and size is not None and size >= _LEAST_SUM_GIB * GIB:
                    self.said_fitted = size, amount, word
                    self._use(word, amount)
                    return

    def _shown_beside(self, clause: list[Token], at: int) -> tuple[int, bool, list[Token]] | None:
        """Return the amount that stands beside who shows it, whether a word says that it is shown, and their tokens."""
        rest = self._skip(clause, at + 1, ("sees", "says", "all", "noise"))
        words = [token for token in clause[at + 1 : rest] if token.means("sees") or token.means("says")]
        figure, behind = (clause[rest], clause[rest + 1 : rest + 2]) if rest < len(clause) else (None, [])
        if figure is None or self._shown_amount(figure) is None:
            inside = at > 1 and clause[at - 1].means("inside")
            figure, behind, words = (clause[at - 2] if inside else None), [], clause[at - 1 : at]
        size = self._shown_amount(figure) if figure is not None else None
        counts = any(token.means("of") or token.kind in ("number", "size", "count", "count_after") or not token.kinds for token in behind)
        if figure is None or size is None or counts or figure.facts.get("stick"):
            return None
        usable = [token for token in behind if token.means("usable")]
        return size, bool(words), [figure, *words, *usable]

    def _bare_total(self, clause: list[Token]) -> None:
        """`… makes 16`: a bare number behind a word for the sum."""
        for at, token in enumerate(clause[:-1]):
            following = clause[at + 1]
            if token.kind == "number" and following.means("total") and self._is_sum_before(clause, at):
                self.facts["total_bytes"] = int(token.value) * GIB
                self._use(token, following)
                continue
            before = clause[at - 1] if at else None
            counts = (
                before is None or before.kind == "slot_name" or any(before.means(kind) for kind in ("slot", "channel", "rank", "module"))
            )
            is_sum = token.means("total") or (token.kind == "sign" and token.value == "=" and not counts)
            size = as_size_bytes(following.value) if following.kind == "number" and not following.used else None
            sums = before is not None and before.kind in ("size", "number", "plural", "count_after")
            if token.kind == "sign" and sums and following.kind == "size" and not following.used:
                size = following.value  # "16x16gb = 256gb rdimm": the form is that of the modules.
            if size is None and following.kind == "number" and not following.used and following.value % 1 and following.value < _MOST_GIB:
                size = round(following.value * GIB)
            if is_sum and size is not None and "total_bytes" not in self.facts:
                self.facts["total_bytes"] = size
                self._use(token, following)

    def _counted(self, clause: list[Token], size: Token) -> bool:
        at = clause.index(size)
        before, after = clause[at - 1] if at else None, clause[at + 1] if at + 1 < len(clause) else None
        return (before is not None and before.kind == "count") or (after is not None and after.kind == "count_after")

    def _is_sum_before(self, clause: Sequence[Token], at: int) -> bool:
        """Return whether a bare number stands before a word for the sum, and neither is of anything else: `24 total`."""
        token, behind = clause[at], clause[at + 2] if at + 2 < len(clause) else None
        free = behind is None or not (behind.kind in ("number", "size", "count") or behind.means("slot") or behind.means("module"))
        lone = not token.used and not (at and (clause[at - 1].kind in ("count", "sign") or clause[at - 1].means("of")))
        return free and lone and token.value % 2 == 0 and _LEAST_SUM_GIB <= token.value <= _MOST_GIB
