"""Clauses, and of what each is said: now, before, to be, a limit, another machine or part, a reference, denied, asked, supposed, corrected.

A clause is what is between breaks: ends of sentences and lines, commas, brackets, and words that turn a sentence (`but`, `now`).
Its scope is told by words of its own; what only goes on with a clause (`it had 8 GB, one stick`) shares the scope of that one.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field, replace

from after_check.language.words.token import Token
from after_check.language.words.understood import Phrase, Scope

_ENDS = ("full_stop", "semicolon", "line", "question_mark", "bar")
_BREAKS = (*_ENDS, "comma", "open", "close", "tab", "arrow")
_TURNS = ("but", "then", "now", "past", "gone", "wrong", "elsewhere", "future", "question", "doubt", "then_tried", "old", "new")
"""Words before which a clause may begin, where another one was under way."""
_AMOUNTS = frozenset(
    (
        "group",
        "counted",
        "one",
        "some",
        "each",
        "size",
        "bare",
        "attr",
        "rated",
        "rate",
        "soldered",
        "in_slot",
        "ranks",
        "slot",
        "latency",
        "sum",
    )
)
"""What may go on with a clause, as it says no state of its own."""
_SIZED = frozenset(
    (
        "group",
        "one",
        "some",
        "each",
        "size",
        "bare",
        "amount",
        "rate",
        "runs",
        "rated",
        "soldered",
        "in_slot",
        "usable_of",
        "used_of",
        "clock",
        "sum",
        "from_to",
    )
)
_STRONG_PAST = frozenset(
    ("before", "previously", "originally", "on arrival", "formerly", "vorher", "avant", "antes", "prima", "voorheen", "bisher")
)
_ASIDE = {
    **{"device": Scope.DEVICE, "other_memory": Scope.MEMORY, "limit": Scope.LIMIT},
    **{"supposed": Scope.SUPPOSED, "tried": Scope.TRIED},
}
"""Of what a phrase is that is left aside by its words alone; what is not here is a number of something else."""
_OF_LIMIT = (_SIZED - {"soldered", "from_to", "sum", "used_of"}) | {"attr", "counted"}
_OF_DEVICE = frozenset(
    ("size", "bare", "rate", "runs", "clock", "amount", "group", "one", "usable_of", "used_of", "some", "counted", "from_to", "sum")
)
_NEAR = 3
_OUT = ("gone", "gone_behind", "replace", "then_tried", "elsewhere")
"""Kinds of words for what may have left the machine."""


@dataclass(slots=True)
class Clause:
    """A stretch between two breaks: its tokens (first to end), the sentence it is in, what is before it, and its phrases."""

    first: int
    end: int
    sentence: int
    line: int
    joint: str
    items: list[Phrase] = field(default_factory=list)
    scope: Scope = Scope.NOW
    has_cue: bool = False
    in_brackets: bool = False


def clauses_of(tokens: Sequence[Token], items: Sequence[Phrase], promise: bool) -> list[Clause]:
    """Return the clauses with their phrases, each phrase with its scope."""
    found = list(_cut(tokens, items))
    by_first = {item.first: item for item in items}
    for number, clause in enumerate(found):
        clause.items = [by_first[at] for at in range(clause.first, clause.end) if at in by_first]
        for item in clause.items:
            item.clause = number
    _Scopes(tokens, found, promise).settle()
    return found


def _cut(tokens: Sequence[Token], items: Sequence[Phrase]) -> Iterator[Clause]:
    inside = {at for item in items for at in range(item.first + 1, item.last + 1)} | {item.first for item in items if item.says == "aside"}
    first, sentence, line, joint, depth = 0, 0, 0, "", 0
    has_items = False
    starts = {item.first for item in items}
    places = {item.first for item in items if item.says in ("slot", "slot_list")}
    ends = {item.last for item in items}
    ends_unsaid = _ends_unsaid(tokens, starts)
    for at, token in enumerate(tokens):
        if at in starts and at not in places:
            has_items = True
        turns = (
            at > first
            and at not in inside
            and not (token.means("gone", "gone_behind") and at - 1 in ends)
            and token.means(*_TURNS)
            and (has_items or token.means("but", "then", "now", "wrong"))
            and not (at not in starts and not token.means("but", "then") and ends_unsaid[at + 1])
            and not tokens[at - 1].means("then_tried")  # "tried also A1"
        )
        turns = turns or (
            at > first
            and at not in inside
            and token.means("and")
            and not token.means("is")
            and has_items
            and _turns_behind(tokens, at, starts)
        )
        if at not in inside and token.means(*_BREAKS) and at not in starts:
            if at > first:
                yield Clause(first, at, sentence, line, joint, in_brackets=depth > 0)
            has_items = False
            joint = "question" if token.means("question_mark") else next(kind for kind in _BREAKS if token.means(kind))
            depth += token.means("open") - token.means("close") if token.means("open", "close") else 0
            depth = 0 if token.means("line", "full_stop") else max(depth, 0)
            sentence += token.means(*_ENDS)
            line += token.means("line")
            first = at + 1
        elif turns:
            yield Clause(first, at, sentence, line, joint, in_brackets=depth > 0)
            first, joint, has_items = at, "turn", at in starts
        elif at > first and token.means("gone", "gone_behind") and at - 1 in ends and at + 1 in starts and at not in inside:
            yield Clause(first, at + 1, sentence, line, joint, in_brackets=depth > 0)  # "4gb out 2x8 in"
            first, joint, has_items = at + 1, "turn", False
    if first < len(tokens):
        yield Clause(first, len(tokens), sentence, line, joint, in_brackets=depth > 0)


def _ends_unsaid(tokens: Sequence[Token], starts: set[int]) -> list[bool]:
    """Return for each place whether nothing is said from it to the next break: behind `8 GB before`, `2133 was the old rate`."""
    found = [True] * (len(tokens) + 1)
    for place in reversed(range(len(tokens))):
        found[place] = place not in starts and (tokens[place].means(*_BREAKS) or found[place + 1])
    return found


def _turns_behind(tokens: Sequence[Token], at: int, starts: set[int]) -> bool:
    """Return whether what is joined by "and" says something of its own: a verb or a word of time is close behind it."""
    for place in range(at + 1, min(at + 4, len(tokens))):
        if tokens[place].means(*_BREAKS):
            return False
        if tokens[place].means("is", "runs", "past", "now", "future", "gone", "seen", "elsewhere", "installed", "verbs", "then_tried"):
            return True
    return False


class _Scopes:
    """Settles of what each clause, and each phrase in it, is said."""

    def __init__(self, tokens: Sequence[Token], clauses: list[Clause], promise: bool) -> None:
        self.tokens, self.clauses, self.promise = tokens, clauses, promise
        self.phrased = {at for clause in clauses for item in clause.items for at in range(item.first, item.last + 1)}

    def settle(self) -> None:
        """Give every phrase its scope."""
        before: Clause | None = None
        for clause in self.clauses:
            scope = self._own(clause)
            if scope is None and before is not None and self._goes_on(clause, before):
                scope = before.scope
                clause.has_cue = before.has_cue and bool(clause.items)
            clause.scope = scope or Scope.NOW
            self._give(clause)
            before = clause
        self._told_back()
        self._replaced()
        self._added_to()
        self._unseen()
        self._conditions()
        self._questions()
        self._arrows()
        self._from_to()
        self._negated()
        self._corrected()

    def _items(self) -> Iterator[Phrase]:
        return (item for clause in self.clauses for item in clause.items)

    def _cues(self, clause: Clause) -> list[Token]:
        return [self.tokens[at] for at in range(clause.first, clause.end) if at not in self.phrased]

    def _own(self, clause: Clause) -> Scope | None:
        """Return the scope that a clause tells by its own words; None where it tells none."""
        words = [token for token in self._cues(clause) if not token.means("number")]
        clause.has_cue = True
        scope = self._of_promise(clause, words) if self.promise else None
        if scope is None:
            scope = next((scope for is_so, scope in _CUES if is_so(self, clause, words)), None)
        if scope is None and not _has(words, "still", "installed", "new", "seen", "runs", "memory", "put_in"):
            clause.has_cue = False
            return None
        if _has(words, "wrong") and scope is None:
            clause.has_cue = False
        return scope or Scope.NOW

    def _of_promise(self, clause: Clause, words: list[Token]) -> Scope | None:
        """Return what a promise's own words tell: what is there beside what is to be, and what is to be done."""
        there = _has(words, "past", "holds") or any(self.tokens[at].means("now") for at in range(clause.first, clause.end))
        if there and not _has(words, "future", "upgrade") and self._promised_elsewhere(clause):
            return Scope.PAST
        return Scope.NOW if _has(words, "keep", "put_in", "add", "another") else None

    def is_gone(self, clause: Clause, words: list[Token]) -> bool:
        """Return whether a clause tells that something went out."""
        if _has(words, "gone"):
            return not _has(words, "keep")
        sized = any(item.says in ("group", "one", "size", "some") for item in clause.items)
        return _has(words, "then_tried") or (_has(words, "gone_behind") and sized)

    def is_in(self, clause: Clause, words: list[Token]) -> bool:
        """Return whether a clause ends with a word for what is in, where another thing is out: `16 GB in`."""
        last = clause.end - 1
        if self.tokens[clause.first].means("in_behind") and last > clause.first and self.tokens[clause.first + 1].means("colon"):
            return True  # "out: 2x2gb, in: 2x8gb"
        return self.tokens[last].means("in_behind") and last not in self.phrased and bool(clause.items)

    def is_somebodys(self, clause: Clause, words: list[Token]) -> bool:
        """Return whether a clause tells of somebody's machine; at the head of a text that is this one, unless another is told of."""
        if not _has(words, "somebodys"):
            return False
        behind = [token for token in self.tokens[clause.end :] if token.means("this_one")]
        return clause is not self.clauses[0] or bool(behind)

    def is_past(self, clause: Clause, words: list[Token]) -> bool:
        """Return whether a clause tells of before; `was upgraded` tells of now."""
        done = _has(words, "was") and _has(words, "upgrade", "replace", "put_in", "installed")
        lately = all(token.means("lately") for token in words if token.means("past"))
        if lately and _has(words, "upgrade", "replace", "put_in", "installed", "add"):
            return False  # "fitted 2x32 yesterday"
        return _has(words, "past") and not (done and not any(token.means("past") and not token.means("was") for token in words))

    def is_old(self, clause: Clause, words: list[Token]) -> bool:
        """Return whether a clause calls something old that is not said to stay."""
        stays = _has(words, "still", "keep", "plus", "and", "another", "same", "add")
        sized = any(item.says in ("group", "one", "size", "some", "counted", "bare", "amount") for item in clause.items)
        return _has(words, "old") and sized and not stays and not self.promise

    def told_elsewhere(self, clause: Clause) -> bool:
        """Return whether modules or amounts are told in another clause."""
        return any(
            other is not clause and any(item.says in ("group", "one", "amount", "counted") for item in other.items)
            for other in self.clauses
        )

    def _promised_elsewhere(self, clause: Clause) -> bool:
        """Return whether another clause tells what is to be, so that this one tells what is there."""
        return any(
            other is not clause and other.items and any(self.tokens[at].means("future", "upgrade") for at in range(other.first, other.end))
            for other in self.clauses
        )

    def _goes_on(self, clause: Clause, before: Clause) -> bool:
        """Return whether a clause only goes on with the one before it."""
        if before.sentence != clause.sentence or before.scope is Scope.NOW or self.tokens[clause.first].means("then", "but"):
            return False
        if not before.items:
            return (
                before.scope in (Scope.ELSEWHERE, Scope.PAST, Scope.TRIED, Scope.FUTURE)
                and clause.joint in ("turn", "comma", "tab", "open")
                and before.end - before.first <= 6
            )
        if clause.in_brackets and not before.in_brackets:
            return True
        if before.scope in (Scope.SUPPOSED, Scope.NEGATED) or (before.scope is Scope.TRIED and clause.joint == "turn"):
            return False
        if any(item.says == "group" for item in clause.items) and before.scope is Scope.PAST and clause.joint == "comma":
            return False
        return (
            clause.joint in ("comma", "turn", "open")
            and before.has_cue
            and bool(clause.items)
            and all(item.says in _AMOUNTS for item in clause.items)
        )

    def _give(self, clause: Clause) -> None:
        cues = [(at, self.tokens[at]) for at in range(clause.first, clause.end) if at not in self.phrased]
        limit = min((at for at, token in cues if token.means("limit")), default=None)
        limits = [item.first for item in clause.items if item.says == "aside" and item.parts["why"] == "limit"]
        limit = min([*limits, *([limit] if limit is not None else [])], default=None)
        priced = any(token.means("price") for _, token in cues) and any(token.means("for") for _, token in cues)
        devices = [at for at, token in cues if token.means("device")]
        memory = any(
            self.tokens[at].means("memory", "module", "modules", "generation", "slot", "slots") for at in range(clause.first, clause.end)
        )
        references = [at for at, token in cues if token.means("reference")]
        for item in clause.items:
            item.scope = clause.scope
            if (
                not self.promise
                and item.scope is Scope.NOW
                and any(
                    self.tokens[at].means("future") and not self.tokens[at].means("now", "is") for at in range(item.first, item.last + 1)
                )
            ):
                item.scope = Scope.FUTURE
            if (
                item.says == "aside"
                and item.last == item.first + 1
                and self.tokens[item.first].means("code")
                and "mhz" in self.tokens[item.last].text
            ):
                item.says, item.parts = "rate", {"r": self.tokens[item.last]}  # a part number, and no processor
            if item.says == "aside":
                item.scope = _ASIDE.get(str(item.parts["why"]), Scope.REFERENCE)
                continue
            if priced and item.says in ("group", "one", "size"):
                item.scope = Scope.REFERENCE
            elif (
                limit is not None
                and item.says in _OF_LIMIT
                and (limit < item.first or item.says in ("size", "bare", "rate", "group", "attr", "rated"))
            ):
                item.scope = Scope.LIMIT
            elif (devices and not memory and item.says in _OF_DEVICE) or (
                devices
                and item.says in ("size", "bare", "rate")
                and any(abs(at - item.first) <= 2 or abs(at - item.last) <= 2 for at in devices)
            ):
                item.scope = Scope.DEVICE
            elif item.says in ("rate", "bare", "slot") and any(
                at < item.first and item.first - at <= _NEAR and self._only_figures(at, item.first) for at in references
            ):
                item.scope = Scope.REFERENCE

    def _only_figures(self, first: int, end: int) -> bool:
        return all(
            self.tokens[at].means("number", "mts", "colon", "dash", "slash", "hash", "reference", "noise", "equals", "code", "zero")
            and not self.tokens[at].means("count_word")
            for at in range(first + 1, end)
        )

    def _told_back(self) -> None:
        """`he bought 2x16, but they are still in the box`: what is said of "they" is said of what was told before."""
        for number, clause in enumerate(self.clauses):
            if number == 0 or clause.items or clause.scope not in (Scope.TRIED, Scope.ELSEWHERE, Scope.FUTURE):
                continue
            first = [self.tokens[at] for at in range(clause.first, min(clause.first + 4, clause.end))]
            before = self.clauses[number - 1]
            if not _has(first, "pronoun") or before.sentence < clause.sentence - 1 or self.promise:
                continue
            for item in before.items:
                if item.scope is Scope.NOW and item.says in _SIZED | {"counted", "attr"}:
                    item.scope = clause.scope

    def _replaced(self) -> None:
        """`swapped the 4gb stick for a 16`: what is before the "for" went out."""
        if self.promise:
            return
        for clause in self.clauses:
            verb = next((at for at in range(clause.first, clause.end) if self.tokens[at].means("replace") and at not in self.phrased), None)
            if verb is None:
                continue
            swapped_at = next(
                (at for at in range(verb + 1, clause.end) if self.tokens[at].means("for", "with", "by", "to") and at not in self.phrased),
                clause.end,
            )
            first = next((item for item in clause.items if item.first > verb), None)
            if first is not None and self.tokens[first.first - 1].means("for", "with", "by", "to"):
                for before in self.clauses:  # "swapped to 2x16": what was told before it went out
                    if before.sentence == clause.sentence and before.end <= clause.first:
                        for item in before.items:
                            if item.scope is Scope.NOW and _same_kind(item, first):
                                item.scope = Scope.TRIED
                continue
            for item in clause.items:
                if verb < item.first < swapped_at and item.says in _SIZED | {"counted"}:
                    item.scope = Scope.TRIED
            whole = any(item.says in ("group", "sum") and item.scope is Scope.NOW and item.first >= clause.end for item in self._items())
            for item in clause.items if whole else ():
                item.scope = Scope.TOLD_AGAIN if item.scope is Scope.NOW and item.says in _SIZED else item.scope

    def _added_to(self) -> None:
        """`had one 8gb stick, added a 16`: what was there before still is, where nothing is told to have gone out."""
        if self.promise or _has(self.tokens, *_OUT):
            return
        adds = [
            number
            for number, clause in enumerate(self.clauses)
            if clause.scope is Scope.NOW and _has(self.tokens[clause.first : clause.end], "add", "another")
        ]
        if (
            len(adds) != 1
            or not self.clauses[adds[0]].items
            or any(item.says in _SIZED for clause in self.clauses[adds[0] + 1 :] for item in clause.items)
        ):
            return
        for clause in self.clauses[: adds[0]]:
            for item in clause.items:
                if item.scope is Scope.PAST and item.says in _SIZED:
                    item.scope = Scope.NOW

    def _unseen(self) -> None:
        """`8 GB missing`, `slot 2: 8 GB not detected`: what is not seen is no fact of what is there."""
        for clause in self.clauses:
            at = next(
                (
                    at
                    for at in range(clause.first, clause.end)
                    if self.tokens[at].means("unseen") and not self.tokens[at].means("broken") and at not in self.phrased
                ),
                None,
            )
            if at is None:
                continue
            for item in clause.items:
                if item.says in ("size", "bare", "one", "group", "some", "amount", "each", "counted") and item.scope is Scope.NOW:
                    item.scope = Scope.NEGATED

    def _conditions(self) -> None:
        """`starts only with one stick`: what a machine starts with was tried, and is not all that is there."""
        for clause in self.clauses:
            starts = next((at for at in range(clause.first, clause.end) if self.tokens[at].means("starts", "no_start")), None)
            if starts is None:
                continue
            for item in clause.items:
                if item.says in ("counted", "one") and any(
                    self.tokens[at].means("with") for at in range(max(clause.first, item.first - 3), item.first)
                ):
                    item.scope = Scope.TRIED

    def _questions(self) -> None:
        """What ends with a question mark, or begins as a question, says nothing."""
        for number, clause in enumerate(self.clauses):
            behind = self.clauses[number + 1] if number + 1 < len(self.clauses) else None
            asked = clause.end < len(self.tokens) and self.tokens[clause.end].means("question_mark") and clause.items
            starts = next((self.tokens[at] for at in range(clause.first, clause.end)), None)
            if asked or (
                starts is not None
                and starts.means("question")
                and clause.first not in self.phrased
                and (behind is None or behind.sentence != clause.sentence or clause.joint != "")
            ):
                for item in clause.items:
                    item.scope = Scope.ASKED
            elif any(
                self.tokens[at].means("question") and len(self.tokens[at].text) > 4 and at not in self.phrased
                for at in range(clause.first, clause.end)
            ):
                for item in clause.items:
                    if any(self.tokens[at].means("question") and at < item.first for at in range(clause.first, clause.end)):
                        item.scope = Scope.ASKED

    def _arrows(self) -> None:
        """`2x4 -> 2x8`: what is before the arrow was, where the same is said behind it."""
        for number, clause in enumerate(self.clauses):
            if clause.joint != "arrow" or number == 0:
                continue
            behind = [item for item in clause.items if item.says in _SIZED]
            seen = any(self.tokens[at].means("seen") for at in range(clause.first, clause.end))
            for before in self.clauses[:number]:
                if before.line == clause.line and behind and not seen:
                    for item in before.items:
                        if item.says in _SIZED:
                            item.scope = Scope.PAST

    def _from_to(self) -> None:
        """`from 8 to 16 GB`: the first one was."""
        for clause in self.clauses:
            start = next((at for at in range(clause.first, clause.end) if self.tokens[at].means("from") and at not in self.phrased), None)
            if start is None:
                continue
            end = next(
                (at for at in range(start + 1, clause.end) if self.tokens[at].means("to", "upgrade") and at not in self.phrased), None
            )
            if end is not None:
                for item in clause.items:
                    if start < item.first < end:
                        item.scope = Scope.PAST

    def _negated(self) -> None:
        """What is right behind a "not" is not so; two things of one kind, one of them behind "not", are the other one."""
        for clause in self.clauses:
            for at in range(clause.first, clause.end):
                if at in self.phrased or not self.tokens[at].means("not", "instead"):
                    continue
                following = next((item for item in clause.items if item.first > at), None)
                if following is None or following.first - at > _NEAR or following.says in ("profile", "channels_no"):
                    continue
                between = range(at + 1, following.first)
                if all(self.tokens[place].means("noise", "verbs", "memory", "at", "is", "of", "in", "with") for place in between):
                    following.scope = Scope.NEGATED if following.scope is Scope.NOW else following.scope

    def _corrected(self) -> None:
        """`2x4, sorry, 2x8`: what was said before the word is taken back where the same is said behind it."""
        for number, clause in enumerate(self.clauses):
            if not any(self.tokens[at].means("wrong") and at not in self.phrased for at in range(clause.first, clause.end)):
                continue
            behind = [item for other in self.clauses[number:] if other.sentence <= clause.sentence + 1 for item in other.items]
            for before in self.clauses[:number][::-1]:
                if before.sentence < clause.sentence - 1:
                    break
                for item in before.items:
                    if any(_same_kind(item, other) for other in behind if other is not item and other.first > item.last):
                        item.scope = Scope.CORRECTED


_KINDS = (
    frozenset(("group", "one", "some", "size", "bare", "counted", "each")),
    frozenset(("rate", "runs", "rated", "clock")),
    frozenset(("channels", "mode", "one_channel", "two_channels", "four_channels")),
    frozenset(("profile", "profile_number", "profile_none")),
    frozenset(("amount",)),
)


_CUES: tuple[tuple[Callable[[_Scopes, Clause, list[Token]], bool], Scope], ...] = (
    (lambda scopes, clause, words: _has(words, "elsewhere") or scopes.is_somebodys(clause, words), Scope.ELSEWHERE),
    (lambda scopes, clause, words: _has(words, "wrong") and not _has(words, "now"), Scope.NOW),
    (lambda scopes, clause, words: scopes.is_gone(clause, words), Scope.TRIED),
    (lambda scopes, clause, words: _has(words, "doubt"), Scope.SUPPOSED),
    (lambda scopes, clause, words: not scopes.promise and (_has(words, "future") or _is_order(words)), Scope.FUTURE),
    (lambda scopes, clause, words: _has(words, "now") or scopes.is_in(clause, words), Scope.NOW),
    (lambda scopes, clause, words: scopes.promise and _has(words, "future", "upgrade"), Scope.NOW),
    (lambda scopes, clause, words: scopes.is_past(clause, words), Scope.PAST),
    (lambda scopes, clause, words: _has(words, "in_place"), Scope.NOW),
    (lambda scopes, clause, words: scopes.is_old(clause, words) and scopes.told_elsewhere(clause), Scope.PAST),
    (lambda scopes, clause, words: scopes.is_old(clause, words), Scope.SUPPOSED),
)
"""What the words of a clause tell, the strongest first."""


def _has(words: Sequence[Token], *kinds: str) -> bool:
    return any(token.means(*kinds) for token in words)


def _is_order(words: Sequence[Token]) -> bool:
    """Return whether a clause begins with what somebody is to do: "add 2x8", "please fit two eights"."""
    telling = next((token for token in words if not token.means("noise")), None)
    return telling is not None and telling.means("orders")


def _same_kind(item: Phrase, other: Phrase) -> bool:
    return any(item.says in kinds and other.says in kinds for kinds in _KINDS) and (
        item.says != "amount" or item.parts["role"] == other.parts["role"]
    )


def with_scope(items: Sequence[Phrase], scope: Scope) -> list[Phrase]:
    """Return the phrases of a scope."""
    return [item for item in items if item.scope is scope]


__all__ = ["Clause", "clauses_of", "replace", "with_scope"]
