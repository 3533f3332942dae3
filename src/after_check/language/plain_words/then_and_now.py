"""What a machine had before, told beside what it has now: `was 2x4, now 2x8`, `took out the 4, put in a 16`, `8 -> 32`.

A reading is of now. What is told of before is understood and left out; where it is not said which modules are fitted now,
that is asked.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from itertools import pairwise, takewhile
from typing import Any

from after_check.domain.outside_text import clean
from after_check.language.plain_words.state import ROLES, Ask, Described, State
from after_check.language.plain_words.tokens import Token

_WITH_AMOUNTS = ("size", "size_times", "count", "label", "plural")
_OF_BEFORE = ("then", "then_weak", "gone", "gone_behind", "old_one")
_OF_NOW = ("now", "later", "put_in", "new_one")
_HAS = ("now", "has", "in_there")
"""What a promise calls what is there."""
_GOAL = ("upgrade", "later", "put_in", "new_one")
_GONE = ("gone", "gone_behind")
_STILL_THERE = ("keep", "add", "still_there")
_LONGEST_PART = 80
"""Tokens; of a longer stretch without a comma nobody says then and now, and its pairs would take long to look through."""
_OF_SOMETHING_ELSE = ("slot", "rank", "channel", "test_errors", "test_passes", "profile")


@dataclass(slots=True)
class _Piece:
    """A part of a text, and of when it tells: `then`, `now`, or empty where nothing says so. What is `aside` (in brackets) goes with it."""

    tokens: list[Token]
    told: str = ""
    mark: Token | None = None
    amounts: list[Token] = field(default_factory=list)
    aside: bool = False


def _figures(some: Sequence[Token]) -> list[Token]:
    """Return the figures that a stretch begins with."""
    kinds = (*_WITH_AMOUNTS, "number", "count_after", "rate", "generation")
    return list(takewhile(lambda token: token.kind in kinds and not token.used, some))


class ThenAndNow(State):
    """Leaves out what is told of before: of a promise, what is there now as well."""

    _old_and_new = False
    taken_out: tuple[tuple[int, int], ...] = ()
    """Count and size of the modules that a promise takes out."""

    def _leave_out_what_was(self) -> bool:
        """Leave it out; returns whether it is asked which modules are fitted."""
        self._old_and_new = self._any(self.tokens, "old_one") and self._any(self.tokens, "new_one")
        pieces = list(self._pieces())
        self._goes_on(pieces)
        for piece in pieces:
            piece.amounts = [token for at, token in enumerate(piece.tokens) if self._is_amount(piece.tokens, at)]
        gone = [piece for piece in pieces if self._is_gone(piece, pieces)]
        stays = [piece for piece in pieces if piece.told == "then" and piece not in gone and self._is_lone(piece)]
        if stays and not self.promise and any(map(self._stays, pieces)):  # "was 8, added 8": one module of 8, or two of 4?
            self.asks.append(Ask("modules", "More was added to what was there: which modules are fitted now?"))
            self._use(*(token for piece in stays for token in piece.amounts))
            return True
        now = [piece for piece in pieces if piece.amounts and piece not in gone]
        out = [piece for piece in gone if piece.mark is not None and any(piece.mark.means(kind) for kind in _GONE)]
        if not gone or not (now or out):
            return False  # What there is now is not said, so this may be it.
        if self.promise:
            self.taken_out = tuple((amount[0], amount[1]) for piece in out for amount in self._amounts(piece.tokens))
        for piece in gone:
            self._use(*piece.tokens)
        self._use(*(piece.mark for piece in pieces if piece.mark is not None))
        if not now:
            fitted = "are fitted in the end" if self.promise else "are fitted now"
            self.asks.append(Ask("modules", f"This says what is taken out: which modules {fitted}?"))
        elif out:
            self._module_for_module(now)
        elif len(now) == 1 and now[0].told == "now" and all(self._is_lone(piece) for piece in (*gone, *now)):
            (amount,) = now[0].amounts
            self.facts["total_bytes"] = self._size_of(amount, True)  # "8 -> 32", "had 8, now 16": amounts of the whole.
            self._use(amount)
        return False

    def _is_gone(self, piece: _Piece, pieces: list[_Piece]) -> bool:
        """Return whether a piece tells of modules, or of an empty slot, that are so no longer; beside what is added they stay."""
        taken = piece.mark is not None and any(piece.mark.means(kind) for kind in _GONE)
        if piece.told != "then" or self._stays(piece) or (not (taken or self.promise) and any(map(self._stays, pieces))):
            return False
        was_empty = self._any(piece.tokens, "empty") and any(other.told == "now" and other.amounts for other in pieces)
        return bool(piece.amounts) or was_empty

    @staticmethod
    def _stays(piece: _Piece) -> bool:
        """Return whether a piece says of an amount that it is added, or kept."""
        return bool(piece.amounts) and any(token.means(kind) for token in piece.tokens for kind in _STILL_THERE)

    def _module_for_module(self, now: list[_Piece]) -> None:
        """`took out the 4, put in a 16`: a bare amount is a module too."""
        for piece in now:
            if self._is_lone(piece):
                self.drafts.append(Described(1, self._size_of(piece.amounts[0], True)))
                self._use(piece.amounts[0])

    def _ask_what_is_fitted(self) -> bool:
        """Ask where one goes in for another: which others stay is not said. Returns whether that is so."""
        for clause in (part for part, _ in self._parts() if len(part) <= _LONGEST_PART):
            amounts = [token for at, token in enumerate(clause) if self._is_amount(clause, at)]
            if len(amounts) > 1 and any(token.means("replace") for token in clause):
                self.asks.append(Ask("modules", "This says what goes in for what: which modules are fitted now?"))
                self._use(*clause)
                return True
        return False

    def _ask_between_two(self) -> None:
        """Ask where one amount or another is said: `16 or 32`, `2x8 or 2x16`."""
        for part, _ in self._parts():
            for at, token in enumerate(part):
                if not token.means("or"):
                    continue
                left, right = _figures(part[at - 1 :: -1] if at else [])[::-1], _figures(part[at + 1 :])
                sides = range(at - len(left), at), range(at + 1, at + 1 + len(right))
                if not all(any(self._is_amount(part, here) for here in side) for side in sides):
                    continue
                either = clean(self.text[left[0].start : left[-1].end], 40)
                other = clean(self.text[right[0].start : right[-1].end], 40)
                place = (left[0].start, right[-1].end)
                self.asks.append(Ask("modules", f"Which is it: {either} or {other}?", (either, other), place))
                self._use(token, *left, *right)

    def _pieces(self) -> Iterator[_Piece]:
        for part, aside in self._parts():
            if len(part) > _LONGEST_PART:
                yield _Piece(part)
                continue
            turned = self._turned(part)
            if turned is not None:
                yield from turned
                continue
            marks = [at for at, token in enumerate(part) if self._is_mark(part, at)]
            if not marks:
                yield _Piece(part, aside=aside)
            elif (turn := self._was_empty(part)) is not None:
                yield _Piece(part[:turn], "then")
                yield _Piece(part[turn + 1 :], "now", part[turn] if turn < len(part) else None)
            elif not self._stands_behind(part, marks):
                yield _Piece(part[: marks[0]])
                for start, end in pairwise([*marks, len(part)]):
                    yield _Piece(part[start + 1 : end], self._when(part, start), part[start])
            else:  # "8gb before": the word stands behind.
                for start, end in pairwise([-1, *marks]):
                    yield _Piece(part[start + 1 : end], self._when(part, end), part[end])
                yield _Piece(part[marks[-1] + 1 :], "now" if self._told_by(part[marks[-1]]) == "then" else "")

    def _stands_behind(self, part: Sequence[Token], marks: Sequence[int]) -> bool:
        """Return whether the words of a part stand behind their amounts: `8gb before`, `4gb out 8gb in`."""
        first, last = marks[0], marks[-1]
        leads = self._has_amount(part[:first])
        return leads and (part[first].means("gone_behind") or part[first].means("in_there") or not self._has_amount(part[last + 1 :]))

    def _was_empty(self, part: Sequence[Token]) -> int | None:
        """Return where a part that begins with `slot 1 was empty` turns to now, or ends; None for other parts."""
        turn = next((at for at, token in enumerate(part) if any(token.means(kind) for kind in _OF_NOW)), len(part))
        head = part[:turn]
        return turn if self._any(head, "then_weak") and self._any(head, "empty") else None

    def _turned(self, part: list[Token]) -> list[_Piece] | None:
        """Return the two sides of `2x4 -> 2x8` and `from 8 to 16`; None where neither is said of amounts."""
        for at, token in enumerate(part):
            left, right = part[:at], part[at + 1 :]
            if not token.means("upgrade") or token.used or not (self._has_amount(left) and self._has_amount(right)):
                continue
            origin = next((place for place, word in enumerate(left) if word.value in ("from", "von") or word.means("went")), None)
            if (token.kind != "arrow" and origin is None) or self._any(right[:1], "sees"):
                continue  # "2x8 -> shows only 8" is of one time.
            start = 0 if origin is None else origin + 1
            if not self._has_amount(left[start:]):
                continue
            words = [word for word in left if word.means("went") or word.value in ("from", "von")]
            self._use(*words)
            return [_Piece(left[:start]), _Piece(left[start:], "then", token), _Piece(right, "now", token)]
        return None

    def _is_mark(self, part: Sequence[Token], at: int) -> bool:
        """Return whether a word says of when its part tells; `total was 16` is what was found, `was` behind an amount is no mark."""
        token, before = part[at], part[at - 1] if at else None
        if token.used or not self._told_by(token):
            return not self.promise and token.means("replace") and sum(self._is_amount(part, place) for place in range(len(part))) == 1
        if token.means("old_one") or token.means("new_one"):
            return self._tells_old_from_new(part)
        if token.means("then_weak") or (self.promise and token.means("has")):
            about = before is not None and any(before.means(role) for role in ROLES)
            return not about and (self._has_amount(part[at + 1 :]) or self._any(part[at + 1 :], "empty"))
        return True

    def _when(self, part: Sequence[Token], at: int) -> str:
        token = part[at]
        if token.means("replace"):
            behind = next((other for other in part[at + 1 :] if other.means("for_it") or not other.means("noise")), None)
            return "now" if behind is not None and behind.means("for_it") else "then"
        return self._told_by(token)

    def _told_by(self, token: Token) -> str:
        """Return when a word says that its part tells of: `then`, `now`, or nothing. A promise is of the end."""
        before, now = ((*_OF_BEFORE, *_HAS), _GOAL) if self.promise else (_OF_BEFORE, _OF_NOW)
        if any(token.means(kind) for kind in before):
            return "then"
        return "now" if token.kind != "arrow" and any(token.means(kind) for kind in now) else ""

    @staticmethod
    def _goes_on(pieces: list[_Piece]) -> None:
        """`had 6, 4+2, now 4+8`: what stands between a word for before and one for now is told of before."""
        last_now = max((at for at, piece in enumerate(pieces) if piece.told == "now"), default=-1)
        told = ""
        for at, piece in enumerate(pieces):
            if piece.told:
                told = piece.told
            elif piece.aside or (told == "then" and at < last_now):
                piece.told = told

    def _tells_old_from_new(self, part: Sequence[Token]) -> bool:
        """Return whether old and new ones are told apart: `old: 2x4, new: 2x8`; what is added to an old one stands beside it."""
        joined = any(token.means("and") or (token.kind == "sign" and token.value in "+&") for token in part)
        return self._old_and_new and not joined

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

    def _is_lone(self, piece: _Piece) -> bool:
        """Return whether a piece has one amount and no modules: `8`, `16 GB`."""
        counted = any(token.kind in ("count", "count_after", "size_times", "label") or token.means("module") for token in piece.tokens)
        return len(piece.amounts) == 1 and not counted and not piece.amounts[0].facts.get("stick")

    def _has_amount(self, some: Sequence[Token]) -> bool:
        return any(self._is_amount(some, at) for at in range(len(some)))

    def _is_amount(self, some: Sequence[Token], at: int) -> bool:
        """Return whether a token is an amount of memory: `8 GB`, the 2 of `2x8`, a bare 16 that no other word takes."""
        token = some[at]
        if token.used:
            return False
        if token.kind in _WITH_AMOUNTS:
            return True
        if token.kind != "number" or self._size_of(token, True) is None:
            return False
        before, following = some[at - 1] if at else None, some[at + 1] if at + 1 < len(some) else None
        strange = following is not None and following.kind == "word" and not following.kinds
        taken = any(other is not None and any(other.means(kind) for kind in _OF_SOMETHING_ELSE) for other in (before, following))
        counted = before is not None and before.kind == "count"
        return not strange and not taken and not counted
