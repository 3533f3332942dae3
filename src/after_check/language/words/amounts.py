"""Amounts off the phrases of now, and what they are together: sums, an amount in each, counts that are said twice."""

from __future__ import annotations

from after_check.domain.modules import Form
from after_check.domain.quantities import GIB, counted, size_text
from after_check.language.words.figures import is_module_size
from after_check.language.words.slot_counts import read_slots
from after_check.language.words.state import Amount, Described, State, size_of
from after_check.language.words.totals import check_sizes, settle_total
from after_check.language.words.understood import Phrase, Scope

_FIELDS = {
    "usable": "usable_bytes",
    "available": "available_bytes",
    "in_use": "in_use_bytes",
    "reserved": "reserved_bytes",
    "graphics": "graphics_bytes",
    "borrowed": "borrowed_bytes",
}
_FARTHEST = 10
"""Tokens: what is further apart is not joined."""
_OF_SLOTS = ("slots_used", "slots_count", "slots_filled", "slots_free", "slots_broken", "other_empty", "the_slot_empty")


def read_amounts(state: State) -> None:
    """Read amounts and numbers of slots off every clause."""
    for clause in state.clauses:
        for item in clause.items:
            if item.scope is not Scope.NOW:
                continue
            if (item.says in _OF_SLOTS and not item.used) or (item.says == "slot" and "t" in item.parts):
                read_slots(state, item)
            elif not item.used:
                _read(state, item)


def _read(state: State, item: Phrase) -> None:
    if item.says == "amount":
        size = size_of(item.parts["s"])
        if size is not None:
            item.used = True
            state.amounts.append(Amount(size, str(item.parts["role"]), item))
    elif item.says in ("usable_of", "used_of", "graphics_of"):
        part, whole = size_of(item.parts["a"]), size_of(item.parts["b"])
        if part is not None and whole is not None:
            _part_of(state, item, part, whole)


def _part_of(state: State, item: Phrase, part: int, whole: int) -> None:
    """Read `15.8 of 16 GB`: what is usable, in use or taken of the whole, as far as words or figures tell which."""
    told = [state.tokens[at] for at in range(item.first, item.last + 1)]
    item.used = True
    nearly_all = part * 8 > whole * 7
    if item.says == "graphics_of":
        state.amounts += [Amount(part, "graphics", item), Amount(whole, "total", item)]
    elif item.says == "usable_of" and (any(token.means("usable") for token in told) or part * 10 >= whole * 9):
        state.amounts += [Amount(part, "usable", item), Amount(whole, "total", item)]
    elif item.says == "used_of" and any(token.means("in_use") for token in told):
        state.amounts.append(Amount(whole, "usable" if whole % GIB else "total", item))
    elif item.says == "used_of" and whole % (GIB // 2):
        state.amounts.append(Amount(whole, "usable", item))
    elif item.says == "used_of" and whole > part and nearly_all:
        state.amounts += [Amount(part, "usable", item), Amount(whole, "total", item)]
    elif whole > part:
        choices = (f"total {size_text(part)}", f"total {size_text(whole)}")
        state.ask("total_bytes", f"{size_text(part)} of {size_text(whole)}: what is the total?", choices, item)
    else:
        item.used = False


def settle_amounts(state: State) -> None:
    """Say what amounts are that no word explains: sums, totals, one module each; ask where they do not agree."""
    _soldered(state)
    _only(state)
    _beside_slots(state)
    _alike(state)
    _each(state)
    _counts(state)
    _sizes_of_counted(state)
    for amount in state.amounts:
        if amount.role in _FIELDS:
            field = _FIELDS[amount.role]
            if field in state.facts and state.facts[field] != amount.size_bytes:
                state.ask(field, f"Which is it: {size_text(state.facts[field])} or {size_text(amount.size_bytes)}?")
            state.facts[field] = amount.size_bytes
    for field in _FIELDS.values():
        if field in state.asked:
            state.facts.pop(field, None)
    settle_total(state)
    check_sizes(state)


def add_up(state: State) -> None:
    """Make modules of amounts that are joined, before rates are shared out among them."""
    _equals(state)
    _lines(state)
    _sums(state)


def _equals(state: State) -> None:
    """An amount behind an equals sign is a sum where modules stand before it, and an amount of its own elsewhere."""
    for amount in state.amounts:
        if amount.role == "equals":
            before = [
                item
                for clause in state.clauses
                for item in clause.items
                if item.last < amount.item.first and item.clause >= amount.item.clause - 1
            ]
            summed = (
                bool(before)
                and before[-1].says in ("group", "sum", "size", "bare", "one", "counted", "amount")
                and before[-1].last == amount.item.first - 1
            )
            amount.role = "total" if summed else ""


def _lines(state: State) -> None:
    """Several lines that each tell a size and a form or a kind are a module each."""
    by_line: dict[int, Amount] = {}
    for amount in state.amounts:
        clause = state.clauses[amount.item.clause]
        if amount.role in ("", "memory") and state.places(clause, "sodimm", "udimm", "rdimm", "lrdimm", "dimm"):
            by_line.setdefault(clause.line, amount)
    if len(by_line) > 1 and all(is_module_size(amount.size_bytes) for amount in by_line.values()):
        for amount in by_line.values():
            state.amounts.remove(amount)
            amount.item.used = True
            state.drafts.append(Described(1, amount.size_bytes, clause=amount.item.clause, line=state.clauses[amount.item.clause].line))
        for amount in state.amounts:
            if amount.role == "memory":
                amount.role = "total"


def _soldered(state: State) -> None:
    """`memory is soldered, 16 GB`: where nothing else is told of modules, the whole is soldered."""
    told = [value for _, value, _ in state.said.get("form", ())]
    amounts = [amount for amount in state.amounts if amount.role in ("", "memory", "total", "bare")]
    if Form.SOLDERED in told and not state.drafts and len(amounts) == 1 and state.slots.used is None:
        state.amounts.remove(amounts[0])
        amounts[0].item.used = True
        state.drafts.append(Described(1, amounts[0].size_bytes, {"form": Form.SOLDERED}, clause=amounts[0].item.clause))


def _only(state: State) -> None:
    """`the invoice says 2x16, I only find 1x16`: a group behind an "only" contradicts another one."""
    groups = [
        (item, clause)
        for clause in state.clauses
        for item in clause.items
        if item.says in ("group", "one") and item.scope is Scope.NOW and item.used
    ]
    behind = [
        item
        for item, clause in groups
        if any(state.tokens[at].means("only") and not state.tokens[at].means("noise") for at in range(clause.first, item.first))
    ]
    if behind and len(groups) > 1 and groups[0][0] not in behind and not state.promise:
        sizes = {size_of(item.parts["s"]) for item, _ in groups}
        if len(sizes) == 1:
            words = state.text[behind[-1].start : behind[-1].end].strip()
            state.ask("modules", f"How many modules are there: only {words}?", (words,), behind[-1])
            state.drafts = [draft for draft in state.drafts if draft.slot or draft.is_soldered]


def _alike(state: State) -> None:
    """`both modules are the same: 16 GB`: an amount beside a count of equal ones is that of each."""
    bare = [draft for draft in state.drafts if draft.size_bytes is None and not draft.slot and draft.count > 1]
    loose = [amount for amount in state.amounts if amount.role in ("", "bare", "memory")]
    pieces = any(token.means("pieces") for token in state.tokens)
    same = any(token.means("same", "each") and len(token.text) > 2 for token in state.tokens)
    if (
        len(bare) == 1
        and len(loose) == 1
        and is_module_size(loose[0].size_bytes)
        and (same or pieces)
        and not any(amount.role == "total" for amount in state.amounts)
    ):
        state.amounts.remove(loose[0])
        loose[0].item.used = True
        bare[0].size_bytes = loose[0].size_bytes
    single = [
        draft for draft in state.drafts if draft.size_bytes is not None and draft.count == 1 and not draft.slot and not draft.is_soldered
    ]
    if len(bare) == 1 and len(single) == 1 and len(state.drafts) == 2 and (same or pieces):
        bare[0].size_bytes = single[0].size_bytes
        bare[0].facts = {**single[0].facts, **bare[0].facts}
        bare[0].clause = single[0].clause
        state.drafts.remove(single[0])


def _sums(state: State) -> None:
    """`8 + 16`, `8gb and 4gb`, `16 GB and 8 GB makes 32`, `8 / 8 / - / -`: amounts that are joined are modules."""
    bare = [amount for amount in state.amounts if amount.role in ("", "bare", "memory")]
    runs: list[list[Amount]] = []
    for amount in sorted(bare, key=lambda one: one.item.first):
        joint = _joint(state, runs[-1][-1].item, amount.item) if runs else ""
        if joint == "plus" or (
            joint == "and" and amount.role != "memory" and (len(runs[-1]) > 1 or _are_units_alike(runs[-1][-1], amount))
        ):
            runs[-1].append(amount)
        else:
            runs.append([amount])
    for run in runs:
        first = run[0]
        joined = [draft for draft in state.drafts if not draft.slot and _draft_joined(state, draft, first.item, run[-1].item)]
        if len(run) > 1 or joined:
            sizes = [amount.size_bytes for amount in run]
            equal = run[0] if _joint_is(state, run[0].item, run[-1].item, "equals") else None
            for amount in run:
                if amount is equal:
                    continue
                state.amounts.remove(amount)
                amount.item.used = True
                state.drafts.append(Described(1, amount.size_bytes, clause=amount.item.clause))
            del sizes


def _are_units_alike(one: Amount, other: Amount) -> bool:
    return (one.role == "bare") == (other.role == "bare") and is_module_size(one.size_bytes) and is_module_size(other.size_bytes)


def _joint(state: State, before: Phrase, behind: Phrase) -> str:
    """Return what joins two phrases: a plus, a stroke, an "and"; empty where more is between them."""
    if behind.first - before.last > _FARTHEST:
        return ""
    between = [state.tokens[at] for at in range(before.last + 1, behind.first)]
    marks = [
        token
        for token in between
        if not token.means(
            "noise", "generation", "rated_generation", "sodimm", "module", "timings", "mts", "frequency", "new", "old", "open", "close"
        )
        or token.means("and", "plus")
    ]
    if len(marks) == 1 and marks[0].means("plus"):
        return "plus"
    if len(marks) == 1 and marks[0].means("slash") and len(between) == 1 and behind.says in ("size", "bare"):
        return "plus"
    if len(marks) == 1 and marks[0].means("and", "add") and not (marks[0].means("in") and behind.says in ("group", "counted")):
        return "and"
    return ""


def _joint_is(state: State, before: Phrase, behind: Phrase, kind: str) -> bool:
    return any(state.tokens[at].means(kind) for at in range(before.last + 1, behind.first))


def _draft_joined(state: State, draft: Described, first: Phrase, last: Phrase) -> bool:
    """Return whether modules stand right beside amounts, joined with a plus: `8 onboard + 16`."""
    for clause in state.clauses:
        for item in clause.items:
            if item.clause == draft.clause and item.says in ("group", "one", "soldered", "in_slot", "some"):
                if item.first > last.last and _joint(state, last, item) in ("plus", "and"):
                    return True
                if item.last < first.first and _joint(state, item, first) in ("plus", "and"):
                    return True
    return False


def _each(state: State) -> None:
    """An amount in each: of as many as were counted, of the slots that are filled, else it is asked how many."""
    if not state.each:
        return
    size, item = state.each[0]
    bare = [draft for draft in state.drafts if draft.size_bytes is None and not draft.is_soldered]
    if len({each for each, _ in state.each}) > 1:
        return
    if bare:
        for draft in bare:
            draft.size_bytes = size
        return
    sized = [draft for draft in state.drafts if draft.size_bytes == size]
    if sized:
        return
    in_slots = any(state.tokens[at].means("slot") for at in range(max(item.first, 0), item.last + 1))
    number = state.slots.used or (
        state.slots.total if state.slots.all_used or in_slots or "slot" in state.text[item.start : item.end].lower() else None
    )
    before = [other for clause in state.clauses for other in clause.items if other.last < item.first]
    if (
        number is None
        and before
        and before[-1].says == "slots_count"
        and state.slots.total is not None
        and state.tokens[item.first].means("each")
    ):
        number = state.slots.used = state.slots.total  # "four banks, each 4 GB"
    if number and not state.drafts:
        state.drafts.append(Described(number, size, clause=item.clause))
    elif not state.drafts and state.slots.total is not None and state.promise:
        state.drafts.append(Described(state.slots.total, size, clause=item.clause))
    else:
        numbers = [number for number in (state.slots.total, 2, 4, 1) if number]
        choices = tuple(f"{number}x{size_text(size)}" for number in dict.fromkeys(numbers))
        state.ask("modules", f"{size_text(size)} each: how many modules are there?", choices, item)


def _counts(state: State) -> None:
    """`two sticks, 2x8`: the same modules are said twice; where the counts differ, nobody knows which is right."""
    bare = [draft for draft in state.drafts if draft.size_bytes is None and not draft.slot and not draft.is_soldered]
    sized = [draft for draft in state.drafts if draft.size_bytes is not None and not draft.is_soldered]
    if bare and sized and not any(amount.role == "some" for amount in state.amounts):
        said, described = sum(draft.count for draft in bare), sum(draft.count for draft in sized)
        if said == described or (len(bare) > 1 and bare[0].count == described):
            for draft in bare:
                state.drafts.remove(draft)
                for other in sized:
                    other.facts = {**draft.facts, **other.facts}
        elif len(bare) == 1 and said > described and len(sized) == 1 and sized[0].count == 1 and not sized[0].slot and not sized[0].counted:
            sized[0].count = said
            state.drafts.remove(bare[0])
        else:
            state.drafts = [draft for draft in state.drafts if draft.is_soldered]
            state.ask("modules", f"{counted(said, 'module is', 'modules are')} said, and {described} described: how many are there?")
    for draft in bare[1:]:  # "2 sticks, both modules": one count, said again.
        if draft in state.drafts and bare[0] in state.drafts and draft.count == bare[0].count:
            bare[0].facts |= draft.facts
            state.drafts.remove(draft)
    in_slots = sum(draft.count for draft in state.drafts if not draft.is_soldered)
    slots = state.slots
    if slots.used is not None and in_slots and slots.used != in_slots and all(draft.counted for draft in state.drafts):
        named = [draft for draft in state.drafts if draft.slot]
        if not named or len(named) == in_slots:
            state.ask(
                "slots_used",
                f"{counted(slots.used, 'slot is', 'slots are')} used, and {counted(in_slots, 'module', 'modules')} described: how many?",
            )
            if not named:
                state.drafts = [draft for draft in state.drafts if draft.is_soldered]
    if slots.total is not None and in_slots > slots.total:
        state.ask("slot_count", f"{in_slots} modules do not fit into {counted(slots.total, 'slot')}: how many slots are there?")


def _sizes_of_counted(state: State) -> None:
    """`8gb sticks` beside a count, `two sticks: 8 and 4`, `just the 1 stick, 32`; slots that are used hold modules."""
    some = [amount for amount in state.amounts if amount.role == "some"]
    bare = [draft for draft in state.drafts if draft.size_bytes is None and not draft.slot and not draft.is_soldered]
    for amount in some:
        state.amounts.remove(amount)
        if len(bare) == 1:
            bare[0].size_bytes = amount.size_bytes
        elif not bare and not state.drafts and state.slots.used:
            state.drafts.append(Described(state.slots.used, amount.size_bytes, clause=amount.item.clause))
        elif not any(draft.size_bytes == amount.size_bytes for draft in state.drafts):
            choices = tuple(f"{number}x{size_text(amount.size_bytes)}" for number in (2, 4, 1))
            state.ask("modules", f"How many modules of {size_text(amount.size_bytes)} are there?", choices, amount.item)
    bare = [draft for draft in state.drafts if draft.size_bytes is None and not draft.is_soldered]
    loose = [amount for amount in state.amounts if amount.role in ("", "bare") and is_module_size(amount.size_bytes)]
    if (
        len(bare) == 1
        and bare[0].count > 1
        and len(loose) == 1
        and loose[0].item.clause == bare[0].clause
        and _by_pieces(state, loose[0].item)
    ):
        state.amounts.remove(loose[0])
        loose[0].item.used = True
        bare[0].size_bytes = loose[0].size_bytes
    if len(bare) == 1 and bare[0].count == len(loose) > 1 and not bare[0].slot:
        state.drafts.remove(bare[0])
        for amount in loose:
            state.amounts.remove(amount)
            amount.item.used = True
            state.drafts.append(Described(1, amount.size_bytes, dict(bare[0].facts), clause=amount.item.clause))
    elif len(bare) == 1 and bare[0].count == 1 and len(loose) == 1:
        state.amounts.remove(loose[0])
        loose[0].item.used = True
        bare[0].size_bytes = loose[0].size_bytes
    elif not state.drafts and len(loose) > 1 and all(amount.role == "" for amount in loose) and state.slots.used == len(loose):
        for amount in loose:
            state.amounts.remove(amount)
            amount.item.used = True
            state.drafts.append(Described(1, amount.size_bytes, clause=amount.item.clause))
    if not state.drafts and state.slots.used and not state.asked & {"modules", "slots_used"}:
        total = [amount for amount in state.amounts if amount.role in ("total", "", "memory", "seen", "bare")]
        size = total[0].size_bytes if state.slots.used == 1 and len(total) == 1 and is_module_size(total[0].size_bytes) else None
        if size is not None and total[0].role in ("", "bare"):
            total[0].item.used = True
            state.amounts.remove(total[0])
        state.drafts.append(Described(state.slots.used, size, counted=True))


def _by_pieces(state: State, item: Phrase) -> bool:
    """Return whether a number of pieces is before an amount, as on invoices: `2 pcs. DDR5 16 GB`."""
    clause = state.clauses[item.clause]
    if any(other.says == "counted" and other.first and state.tokens[other.first - 1].means("in") for other in clause.items):
        return False
    times = any(other.says == "counted" and state.tokens[other.first].means("times") for other in clause.items)
    return times or any(state.tokens[at].means("pieces") for at in range(clause.first, item.first))


def _beside_slots(state: State) -> None:
    """Ask where an amount is beside slots: `4 slots 8gb` is in each, or altogether."""
    loose = [amount for amount in state.amounts if amount.role == ""]
    if len(loose) != 1 or state.drafts or any(amount.role in ("total", "memory") for amount in state.amounts):
        return
    slots = _slots_beside(state, loose[0])
    if slots is None or state.slots.used == 1:
        return
    size = loose[0].size_bytes
    loose[0].item.used = True
    state.amounts.remove(loose[0])
    numbers = tuple(dict.fromkeys(number for number in (slots, 2, 4, 1) if number))
    each = [f"{number}x{size_text(size)}" for number in numbers]
    choices = (each[0], f"total {size_text(size)}", *each[1:])
    state.ask("modules", f"{size_text(size)}: in each slot, or altogether?", choices, loose[0].item)


def _slots_beside(state: State, amount: Amount) -> int | None:
    """Return how many slots stand right beside an amount (0: all, of an unknown number), `4 slots 8gb`; None where none do."""
    if state.promise or not is_module_size(amount.size_bytes):
        return None
    for item in state.clauses[amount.item.clause].items:
        near = 0 <= amount.item.first - item.last <= 2 or 0 <= item.first - amount.item.last <= 2
        if near and item.says in ("all_slots", "slots_count", "slots_filled"):
            return state.slots.total or state.slots.used or 0
    return None
