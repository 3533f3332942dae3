"""Slots off the phrases of now: which module sits in which, which are empty, which nobody looked at."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from after_check.domain.quantities import size_text
from after_check.language.words.clauses import Clause
from after_check.language.words.counted import add_sum, form_of, is_a_size, is_sized_label, labelled, read_loose, read_same
from after_check.language.words.figures import is_module_size
from after_check.language.words.state import MOST_MODULES, Described, State, count_of, size_of
from after_check.language.words.token import Token
from after_check.language.words.understood import Phrase, Scope

_SLOTS = ("slot", "slot_list")
_CONTENT = ("group", "one", "some", "each", "size", "bare", "soldered", "in_slot", "counted", "amount", "sum")
_PLACED = ("group", "one", "some", "each", "size", "bare", "counted", "in_slot", "sum")
_NEAR = 3


def read_fitted(state: State) -> None:
    """Read modules and slots off every clause, with slots that are named before a break and described behind it."""
    waiting: list[str] = []
    waiting_in: Clause | None = None
    for clause in state.clauses:
        if waiting_in is not None and clause.joint in ("semicolon", "full_stop") and waiting:
            _attach(state, waiting, waiting_in)
            waiting = []
        if waiting_in is not None and (
            clause.line != waiting_in.line or (clause.sentence != waiting_in.sentence and clause.joint != "semicolon")
        ):
            _attach(state, waiting, waiting_in)
            waiting = []
        items = [item for item in clause.items if item.scope is Scope.NOW]
        waiting = _ClauseReader(state, clause, items, list(waiting)).read()
        waiting_in = clause
    if waiting and waiting_in is not None:
        _attach(state, waiting, waiting_in)


@dataclass(slots=True)
class _ClauseReader:
    """Reads one clause. `refs` are slots that were named and of which nothing was said yet, `held` modules that wait for their slot."""

    state: State
    clause: Clause
    items: Sequence[Phrase]
    refs: list[str]
    held: list[list[Described]] = field(default_factory=list)
    behind: list[str] = field(default_factory=list)
    placed: bool = False
    empty_first: Phrase | None = None

    def read(self) -> list[str]:
        """Read the clause; return the slots that it names and says nothing of."""
        if not any(item.says in _SLOTS for item in self.items) and not self.refs:
            for item in self.items:
                if item.says == "same_in_other":
                    read_same(self.state, item, _first_name(self.state, item))
                else:
                    read_loose(self.state, self.clause, item)
            return []
        for number, item in enumerate(self.items):
            self._item(number, item)
        self.state.drafts += [draft for made in self.held for draft in made]
        if not self.refs or self.placed:
            return []
        if any(self.state.tokens[at].means("unseen") for at in range(self.clause.first, self.clause.end)):
            self.state.unseen_slots += self.refs
            return []
        return self.refs

    def _item(self, number: int, item: Phrase) -> None:
        if is_sized_label(item):
            self._put(labelled(self.state, self.clause, item), item)
        elif item.says == "empty" and not self.refs and self._is_before_its_slot(number, item):
            self.empty_first = item  # "nothing in slot 1"
        elif item.says in _SLOTS:
            self._slot(number, item)
        elif item.says == "same_in_other" and not self.refs:
            read_same(self.state, item, _first_name(self.state, item))
            self.placed = False
        elif item.says in ("empty", "nothing", "filled") and self.refs:
            into = self.state.filled_slots if item.says == "filled" else self.state.empty_slots
            into += self.refs
            self.refs, self.placed, item.used = [], False, True
        elif self._is_content(item):
            self._content(number, item)
        elif item.says == "attr" and self.refs and not self.placed and _described(item):
            _place(self.state, self.clause, [Described(1, None, {}, clause=item.clause, line=self.clause.line)], self.refs[-1:], item)
            self.refs, self.placed = self.refs[:-1], True
        else:
            read_loose(self.state, self.clause, item)

    def _is_content(self, item: Phrase) -> bool:
        if item.says == "amount":
            return item.parts["role"] in ("seen", "memory", "equals") or self.state.tokens[item.first].means("now")
        return item.says in _PLACED

    def _put(self, made: list[Described], item: Phrase) -> None:
        """Put modules into the slots that were named before them, or hold them until one is named."""
        if self.refs and not self.placed:
            _place(self.state, self.clause, made, self.refs, item)
            self.refs, self.placed = [], True
        elif made:
            self.held.append(made)

    def _content(self, number: int, item: Phrase) -> None:
        if not self.refs and not any(other.says in _SLOTS for other in self.items[number + 1 :]):
            if item.says != "amount":
                read_loose(self.state, self.clause, item)
            return
        made = _drafts(self.state, self.clause, item, bool(self.refs))
        if made is not None:
            self._put(made, item)

    def _is_before_its_slot(self, number: int, item: Phrase) -> bool:
        following = self.items[number + 1] if number + 1 < len(self.items) else None
        if following is None or following.says not in _SLOTS or following.first - item.last > _NEAR:
            return False
        tokens = self.state.tokens
        return tokens[item.last].text.endswith(" in") or any(tokens[at].means("in") for at in range(item.first, following.first))

    def _slot(self, number: int, item: Phrase) -> None:
        names = _names(self.state, item)
        item.used = True
        if self.empty_first is not None:
            self.state.empty_slots += names
            self.empty_first.used, self.empty_first = True, None
            return
        if self.held and not self.refs:
            self.behind += names
            following = self.items[number + 1] if number + 1 < len(self.items) else None
            if following is None or following.says not in _SLOTS or _begins_anew(self.items, number + 1):
                _place(self.state, self.clause, self.held.pop(0), self.behind, item)
                self.held, self.behind, self.placed = [], [], True
            return
        if self.placed:
            self.refs = []
        self.placed = False
        self.refs += names
        if _dash_behind(self.state, self.clause, item):
            self.state.empty_slots += self.refs
            self.refs = []


def _first_name(state: State, item: Phrase) -> str:
    """Return the name of the slot that a phrase names; empty where it names none."""
    return next((_name(state, item, item.parts[role], role if role in "ao" else "n") for role in ("a", "n", "o") if role in item.parts), "")


def _attach(state: State, names: list[str], clause: Clause) -> None:
    """Put what was told just before into slots that stand alone behind it: `1 x 8 GB, DDR4-2400, slot 1`."""
    told = [
        draft
        for draft in state.drafts
        if not draft.slot and not draft.is_soldered and draft.clause >= 0 and state.clauses[draft.clause].sentence == clause.sentence
    ]
    if len(told) == 1 and told[0].count == len(names):
        state.drafts.remove(told[0])
        state.drafts += [Described(1, told[0].size_bytes, dict(told[0].facts), name, told[0].clause, told[0].line) for name in names]


def _names(state: State, item: Phrase) -> list[str]:
    parts = item.parts
    if "l" in parts and not any(token.means("slot", "slots") for token in state.tokens):
        sizes = [int(one) for one in str(parts["l"].value).split(",")]
        if all(is_module_size(one << 30) for one in sizes):  # "fitted (8,8,16)"
            item.used = True
            state.drafts += [Described(1, one << 30, clause=item.clause) for one in sizes]
        return []
    if "l" in parts:
        return str(parts["l"].value).split(",") if any(token.means("slot", "slots") for token in state.tokens) else []
    if item.says == "slot":
        for role in ("a", "n", "o", "p", "c"):
            if role in parts:
                return [_name(state, item, parts[role], role)]
        return []
    if "r" in parts:
        first, _, last = str(parts["r"].value).partition("-")
        return [str(number) for number in range(int(first), int(last) + 1)] if int(first) < int(last) <= 32 else []
    if "b" in parts and any(state.tokens[at].means("to") for at in range(item.first, item.last)):
        one, other = str(parts["a"].value), str(parts["b"].value)
        if one[:-1] == other[:-1] and one[-1:].isdigit() and other[-1:].isdigit() and int(one[-1]) < int(other[-1]):
            return [f"{one[:-1]}{number}" for number in range(int(one[-1]), int(other[-1]) + 1)]
    names = [parts[role] for role in ("a", "n", "b", "m", "k", "j") if role in parts]
    if (
        "n" in parts
        and "m" in parts
        and "k" not in parts
        and any(state.tokens[at].means("to", "dash") for at in range(item.first, item.last))
    ):
        lowest, highest = int(parts["n"].value), int(parts["m"].value)
        return [str(number) for number in range(lowest, highest + 1)] if lowest < highest <= 32 else []
    return [_name(state, item, token, "a" if token.means("slot_name") else "n") for token in names]


def _name(state: State, item: Phrase, token: Token, role: str) -> str:
    if role == "a":
        name = str(token.value)
        return name[5:] if name[:5].upper() in ("DIMM_", "DIMM ") and len(name) == 7 and name[5].isalpha() else name
    if role == "o":
        return str(token.number("ordinal"))
    if role == "p":
        words = state.text[item.start : item.end]
        return " ".join(words.split())
    if role == "c":
        return str(token.value)
    value = token.value if isinstance(token.value, (int, float)) else count_of(token)
    bank = state.tokens[item.first]
    return (
        f"BANK {int(value or 0)}"
        if bank.means("bank") and bank.text == "bank" and state.text[bank.start].isupper()
        else str(int(value or 0))
    )


def _begins_anew(items: Sequence[Phrase], number: int) -> bool:
    """Return whether a slot begins something of its own: what is said of it is behind it."""
    following = items[number + 1] if number + 1 < len(items) else None
    return following is not None and following.says in ("empty", "filled", *_CONTENT)


def _dash_behind(state: State, clause: Clause, item: Phrase) -> bool:
    """Return whether a dash stands for nothing: `A3: -`."""
    behind = [token for token in state.tokens[item.last + 1 : clause.end] if not token.means("colon", "equals")]
    if not behind or not behind[0].means("dash"):
        return False
    if len(behind) == 1:
        return True
    return (
        behind[1].means("slot_name", "slot")
        and (len(behind) < 3 or not behind[2].means("size", "each"))
        and not state.tokens[item.last + 2 if item.last + 2 < len(state.tokens) else item.last].means("colon")
        and not any(token.means("each") for token in behind)
    )


def _described(item: Phrase) -> bool:
    """Return whether a word says that there is a module: a label, a kind, ranks."""
    token = item.parts.get("g")
    return token is not None and token.means("label", "generation", "class", "ranks")


def _drafts(state: State, clause: Clause, item: Phrase, beside_slot: bool) -> list[Described] | None:
    """Return what an amount is as modules; None where it is none."""
    parts = item.parts
    if item.says == "sum":
        before = len(state.drafts)
        add_sum(state, clause, item)
        made, state.drafts = state.drafts[before:], state.drafts[:before]
        return made
    if item.says == "counted":
        number = count_of(parts["n"]) or 0
        if not 0 < number <= MOST_MODULES:
            return None
        item.used = True
        if is_a_size(parts):
            return [Described(1, size_of(parts["n"]), form_of(parts), clause=item.clause, line=clause.line)]
        return [Described(number, None, form_of(parts), clause=item.clause, line=clause.line)]
    size = size_of(parts["s"]) if "s" in parts else None
    if size is None:
        return None
    if size == 0 and beside_slot:
        return [Described(0, 0, clause=item.clause, line=clause.line)]
    if item.says == "group":
        number = count_of(parts["n"]) or 0 if "n" in parts else 1
        if not 0 < number <= MOST_MODULES:
            state.ask("modules", f"Are there really {number} modules?", (), item)
            return None
        item.used = True
        return [Described(number, size, clause=item.clause, line=clause.line)]
    item.used = True
    if item.says == "one" and "one" in parts and (several := count_of(parts["one"]) or 1) > 1:
        return [Described(several, size, clause=item.clause, line=clause.line)]
    return [Described(1, size, clause=item.clause, line=clause.line, counted=item.says in ("one", "in_slot") or beside_slot)]


def _place(state: State, clause: Clause, made: list[Described], names: list[str], item: Phrase) -> None:
    """Put modules into slots: as many as there are, one of each size, or ask."""
    if len(made) == 1 and made[0].size_bytes == 0 and made[0].count == 0:
        state.empty_slots += names
        return
    if len(made) == len(names) > 1 and all(draft.count == 1 for draft in made):
        for draft, name in zip(made, names, strict=True):
            draft.slot = name
        state.drafts += made
        return
    count = sum(draft.count for draft in made)
    each = item.says in ("each", "some") or (
        len(names) > 1 and any(state.tokens[at].means("seen") for at in range(clause.first, clause.end))
    )
    each = each or any(state.tokens[at].means("each", "both", "all") for at in range(clause.first, clause.end))
    if len(names) == 1 and count == 1:
        made[0].slot = names[0]
        state.drafts += made
    elif count == len(names) or (count == 1 and (each or made[0].size_bytes is None)):
        for name in names:
            state.drafts.append(Described(1, made[0].size_bytes, dict(made[0].facts), name, made[0].clause, made[0].line))
    elif len(names) == 1 and count > 1:
        state.drafts += made  # "2x16 in the slot": nobody puts two into one.
    else:
        size = made[0].size_bytes or 0
        state.ask(
            "modules",
            f"{size_text(size)} in each of the {len(names)} slots, or altogether?",
            (f"{size_text(size)} each", f"total {size_text(size)}"),
            item,
        )
