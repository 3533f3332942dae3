"""Promises that speak of what is there: add, keep, swap, fill, twice, the same again. What goes is taken off, what comes is added."""

from __future__ import annotations

from dataclasses import dataclass, field

from after_check.domain.facts import value_of
from after_check.domain.modules import Module
from after_check.domain.quantities import size_text
from after_check.domain.readings import Reading
from after_check.language.words.clauses import Clause
from after_check.language.words.state import Described, State, count_of, size_of
from after_check.language.words.token import Token
from after_check.language.words.understood import Phrase, Scope

_AMOUNTS = ("group", "one", "one_more", "some", "size", "bare", "each", "counted", "soldered", "in_slot")
_SWAPPED_FOR = ("for", "with", "by", "to", "arrow", "instead")


@dataclass(slots=True)
class Changes:
    """What a promise changes: what goes (number and size; a size of None is any), what is done, and with how many."""

    goes: list[tuple[int, int | None]] = field(default_factory=list)
    adds: list[Clause] = field(default_factory=list)
    keeps: bool = False
    keeps_named: bool = False
    swaps: bool = False
    same: bool = False
    another: bool = False
    second: bool = False
    all_go: bool = False
    smallest: bool = False
    twice: int = 0
    fills: Phrase | None = None
    in_free_slot: bool = False


def read_changes(state: State, before: Reading | None) -> Changes:
    """Read what a promise changes, and take what goes out of what is promised."""
    changes = Changes()
    phrased = {at for clause in state.clauses for item in clause.items for at in range(item.first, item.last + 1)}
    for clause in state.clauses:
        raised = any(
            state.tokens[at].means("upgrade", "put_in") or state.tokens[at].text in ("bring", "get", "take")
            for at in range(clause.first, clause.end)
        )
        for item in clause.items:
            if item.says == "aside" and item.parts["why"] == "limit" and raised and "s" in item.parts:  # "bring it up to 16 GB"
                item.says, item.parts, item.scope = "amount", {"role": "total", "s": item.parts["s"]}, Scope.NOW
    for clause in state.clauses:
        words = [(at, state.tokens[at]) for at in range(clause.first, clause.end) if at not in phrased]
        amounts = [item for item in clause.items if item.says in _AMOUNTS]
        if clause.scope is Scope.TRIED and not _has(words, "replace"):
            changes.goes += [_number_and_size(state, item) for item in amounts]
            continue
        if _has(words, "replace") or (_has(words, "instead") and len(amounts) == 2) or (clause.joint == "arrow" and changes.goes):
            _swap(state, clause, words, amounts, changes)
        elif _has(words, "twice", "triple") and not amounts and not any(item.says in ("amount", "from_to") for item in clause.items):
            changes.twice = 3 if _has(words, "triple") else 2
        _added(state, clause, words, amounts, changes)
    for clause in state.clauses:
        for item in clause.items:
            if item.says == "from_to" and item.scope is Scope.NOW:
                changes.twice = 0
            if (
                item.scope is Scope.PAST
                and item.says in ("group", "one")
                and any(other.says == "group" and other.scope is Scope.NOW for one in state.clauses for other in one.items)
            ):
                changes.goes.append(_number_and_size(state, item))
    return changes


def _has(words: list[tuple[int, Token]], *kinds: str) -> bool:
    return any(token.means(*kinds) for _, token in words)


def _number_and_size(state: State, item: Phrase) -> tuple[int, int | None]:
    parts = item.parts
    number = count_of(parts["n"]) if "n" in parts else count_of(parts["one"]) if "one" in parts else None
    size = size_of(parts["s"]) if "s" in parts else None
    if number is None and (item.says == "some" or ("s" in parts and parts["s"].means("plural"))):
        number = 0  # All of that size.
    if number is None and any(state.tokens[at].means("both") for at in range(max(0, item.first - 2), item.first)):
        number = 2
    return (1 if number is None else number), size


def _swap(state: State, clause: Clause, words: list[tuple[int, Token]], amounts: list[Phrase], changes: Changes) -> None:
    """`swap 1x8 for 1x32`, `replace both by 2x16`, `16gb instead of the 4gb`: one side goes, the other one comes."""
    changes.swaps = True
    verb = next((at for at, token in words if token.means("replace", "instead")), clause.first)
    instead = next((at for at, token in words if token.means("instead")), None)
    swapped_for = next((at for at, token in words if token.means(*_SWAPPED_FOR) and not token.means("instead") and at > verb), None)
    changes.smallest = _has(words, "smallest")
    if instead is not None and len(amounts) == 2:
        going = [item for item in amounts if item.first > instead]
        going = going[:1] if len(going) == 2 else going
    elif swapped_for is not None:
        going = [item for item in amounts if item.last < swapped_for]
    elif len(amounts) == 2:
        going = amounts[:1]
    else:
        going = []
    coming = [item for item in amounts if item not in going]
    number = 1
    for item in going:
        item.scope = Scope.PAST
        count, size = _number_and_size(state, item)
        changes.goes.append((count, size))
        number = count
    both = next((token for _, token in words if token.number("count_word") == 2 or token.means("both")), None)
    if both is not None and going:
        number = 2
        changes.goes[-1] = (2, changes.goes[-1][1])
    if not going:
        changes.all_go = not changes.smallest
        number = 2 if both is not None else 1
        if changes.smallest:
            changes.goes.append((1, -1))
    for item in coming:
        plural = item.says == "some" or ("s" in item.parts and item.parts["s"].means("plural"))
        counted = "n" in item.parts or "one" in item.parts
        if not counted and item.says in ("some", "size", "bare", "one"):
            item.says = "one"
            item.parts["_count"] = number if (number > 1 or not plural) else 0
            if plural and number == 1 and going:
                item.parts["_count"] = 0
            elif going and (number > 1):
                item.parts["_count"] = number


def _added(state: State, clause: Clause, words: list[tuple[int, Token]], amounts: list[Phrase], changes: Changes) -> None:
    now = [item for item in amounts if item.scope is Scope.NOW]
    more = [
        item for item in now if item.says == "one_more" or any(state.tokens[at].means("add") for at in range(item.first, item.last + 1))
    ]
    words = [*words, *((at, state.tokens[at]) for item in more for at in range(item.first, item.last + 1))]
    for item in more:
        item.says = "one" if item.says == "one_more" else item.says
    first = state.tokens[clause.first]
    adds = (_has(words, "add", "another") and bool(now or not amounts)) or (clause.first == 0 and first.means("plus"))
    second = _has(words, "a_second")
    if _has(words, "keep", "still"):
        changes.keeps = True
        changes.keeps_named = changes.keeps_named or (bool(now) and not adds)
        _as_modules(now)
    if _has(words, "same") and not adds:
        changes.same = True
    if (adds or second) and not now and not _has(words, "add", "same"):
        adds = second = False  # "room for another"
    behind = first.means("then") and len(now) == 1 and bool(changes.adds)
    if behind and now[0].says in ("size", "bare", "one"):
        now[0].says, now[0].parts = "amount", {"role": "total", "s": now[0].parts["s"]}
        return
    if adds or second:
        changes.adds.append(clause)
        changes.another = changes.another or _has(words, "another")
        changes.second = changes.second or second
        changes.same = changes.same or _has(words, "same")
        _as_modules(now)
    _into_slots(state, clause, words, now, changes)


def _as_modules(items: list[Phrase]) -> None:
    """Take amounts as modules: what is added or stays is one."""
    for item in items:
        if item.says in ("size", "bare"):
            item.says = "one"


def _into_slots(state: State, clause: Clause, words: list[tuple[int, Token]], now: list[Phrase], changes: Changes) -> None:
    """Read what goes into the free slot, and what fills all slots."""
    told = [state.tokens[at] for at in range(clause.first, clause.end)]
    fills = _has(words, "fill")
    if now and not fills and any(token.means("empty") for token in told) and any(token.means("slot") for token in told):
        changes.in_free_slot = True
        _as_modules(now)
        for item in now:
            item.says = "one" if item.says == "in_slot" else item.says
    if fills or any(item.says == "slots_used" and "full" in item.parts for item in clause.items):
        changes.fills = now[0] if now else changes.fills


def _fill_named_slots(state: State) -> None:
    """`both slots 16 GB`: as many modules as there are slots."""
    for clause in state.clauses:
        slots = next((item for item in clause.items if item.says in ("all_slots", "slots_count") and item.scope is Scope.NOW), None)
        amount = next(
            (
                one
                for one in state.amounts
                if slots is not None and one.role == "" and one.item.clause == slots.clause and 0 < one.item.first - slots.last <= 2
            ),
            None,
        )
        if amount is not None and state.slots.total is not None and not state.drafts:
            state.amounts.remove(amount)
            amount.item.used = True
            state.drafts.append(Described(state.slots.total, amount.size_bytes, clause=amount.item.clause))


def settle_changes(state: State, changes: Changes, before: Reading | None) -> None:
    """Make the end state: what was there less what goes, and what comes."""
    _fill_named_slots(state)
    kept = _kept(changes, before)
    has_total = any(amount.role in ("total", "memory") for amount in state.amounts)
    if changes.fills is not None and (size := size_of(changes.fills.parts["s"]) if "s" in changes.fills.parts else None):
        number = (
            state.slots.total
            or (2 if any(token.means("both") for token in state.tokens) else None)
            or (len(before.slots) if before is not None else None)
        )
        state.amounts = [amount for amount in state.amounts if amount.item is not changes.fills]
        state.each = [each for each in state.each if each[1] is not changes.fills]
        state.drafts = [draft for draft in state.drafts if draft.clause != changes.fills.clause]
        if number:
            state.drafts.append(Described(number, size, clause=changes.fills.clause))
        else:
            state.ask(
                "modules", f"In how many slots do {size_text(size)} go?", (f"2x{size_text(size)}", f"4x{size_text(size)}"), changes.fills
            )
        return
    if state.each and before is not None and not state.slots.used and any(token.means("slot", "each") for token in state.tokens):
        state.slots.total = state.slots.total or len(before.slots) or None
    if changes.twice:
        _twice(state, changes, before)
    elif changes.adds or changes.in_free_slot:
        _add(state, changes, kept, before, has_total)
    elif changes.swaps:
        _come(state, changes, before)
        if before is not None:
            if not _goes_are_there(changes, before):
                count, size = changes.goes[0]
                state.ask("modules", f"{count}x{size_text(size or 0)} go, and are not there: which modules go?")
                state.drafts = []
                return
            state.drafts = [*kept, *state.drafts]
    elif (
        changes.goes
        and before is not None
        and any(draft.size_bytes for draft in state.drafts)
        and _goes_are_there(changes, before)
        and not any(amount.role == "total" for amount in state.amounts)
    ):
        if not changes.keeps and any(clause.scope is Scope.TRIED for clause in state.clauses):
            state.drafts = [*kept, *state.drafts]
    elif changes.keeps and before is not None and not changes.keeps_named:
        state.drafts = [*_all(before), *state.drafts]
    elif changes.same and not state.drafts and not state.amounts and state.promise and before is not None:
        _same_again(state, before)


def _all(before: Reading) -> list[Described]:
    return [_of(module) for module in before.modules]


def _of(module: Module) -> Described:
    return Described(1, value_of(module.size_bytes), kept=True)


def _kept(changes: Changes, before: Reading | None) -> list[Described]:
    if before is None or changes.all_go:
        return []
    left = [value_of(module.size_bytes) for module in before.modules]
    for count, size in changes.goes:
        if size == -1:
            known = [one for one in left if one is not None]
            if known:
                left.remove(min(known))
            continue
        for _ in range(count or left.count(size)):
            if size is None:
                left = []
            elif size in left:
                left.remove(size)
    return [Described(1, size, kept=True) for size in left]


def _goes_are_there(changes: Changes, before: Reading) -> bool:
    left = [value_of(module.size_bytes) for module in before.modules]
    for count, size in changes.goes:
        for _ in range(count or left.count(size)):
            if size == -1 or size is None:
                continue
            if size not in left:
                return False
            left.remove(size)
    return True


def _come(state: State, changes: Changes, before: Reading | None) -> None:
    """Count what comes in where only its size is said: as many as go."""
    for clause in state.clauses:
        for item in clause.items:
            if "_count" not in item.parts or item.scope is not Scope.NOW:
                continue
            number = int(item.parts["_count"])
            if number == 0:
                there = [value_of(module.size_bytes) for module in before.modules] if before is not None else []
                number = sum(there.count(size) if size is not None else len(there) for _, size in changes.goes) or (
                    len(there) if changes.all_go else 0
                )
            for draft in state.drafts:
                if draft.clause == item.clause and draft.size_bytes == size_of(item.parts["s"]):
                    if number == 0:
                        state.drafts.remove(draft)
                        state.ask("modules", f"How many modules of {size_text(draft.size_bytes or 0)} are to go in?", (), item)
                    else:
                        draft.count = number
                    break


def _add(state: State, changes: Changes, kept: list[Described], before: Reading | None, has_total: bool) -> None:
    new = [draft for draft in state.drafts if draft.size_bytes is not None]
    if has_total and before is None and len(new) <= 1 and not changes.keeps_named:
        state.drafts = [draft for draft in state.drafts if draft.count > 1 and draft.size_bytes is not None and not changes.adds]
        return
    if changes.keeps_named:
        return
    if before is not None:
        if not new and changes.same:
            _same_again(state, before)
            return
        state.drafts = [*kept, *new]
        return
    if len(new) == 1 and new[0].count == 1 and changes.same:
        new[0].count = 2
        state.drafts = new
        return
    if new or changes.adds:
        state.drafts = []
        state.amounts = [amount for amount in state.amounts if amount.role == "total"]
        state.ask("modules", "Added to what is there: what is there already?")


def _twice(state: State, changes: Changes, before: Reading | None) -> None:
    whole = sum(value_of(module.size_bytes) or 0 for module in before.modules) if before is not None else 0
    total = (value_of(before.total_bytes) if before is not None else None) or whole
    if any(amount.role == "total" for amount in state.amounts):
        return
    if total:
        state.facts["total_bytes"] = total * changes.twice
    else:
        state.ask("total_bytes", "Of how much: what is there already?")


def _same_again(state: State, before: Reading) -> None:
    sizes = {value_of(module.size_bytes) for module in before.modules}
    if len(sizes) == 1 and len(before.modules) == 1:
        state.drafts = [*_all(before), *_all(before)]
    elif len(sizes) > 1:
        state.ask(
            "modules", "Which module is meant: " + " or ".join(size_text(size or 0) for size in sorted(size or 0 for size in sizes)) + "?"
        )
    elif sizes:
        size = next(iter(sizes))
        state.drafts = [*_all(before), Described(1, size)]


def asks_for_amount(state: State) -> None:
    """Ask where a promise tells no amount that can be kept: `as much as the board takes`, `16 or 32`."""
    words = any(token.means("limit", "fill") or token.text in ("as much", "much") for token in state.tokens)
    nothing = not state.drafts and "total_bytes" not in state.facts and not state.asks
    if nothing and words and not state.facts:
        state.ask("total_bytes", "How much memory is promised?")
