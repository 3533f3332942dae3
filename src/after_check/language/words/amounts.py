"""What the clauses mean together: totals, sums, counts, slots used and free; what does not agree is asked about."""

from __future__ import annotations

from after_check.domain.modules import Form, Generation
from after_check.domain.quantities import GIB, MIB, counted, size_text
from after_check.language.words.figures import is_module_size, is_size_of
from after_check.language.words.state import MOST_MODULES, Amount, Draft, State, count_of, size_of
from after_check.language.words.tokens import Token
from after_check.language.words.understood import Item, Scope
from after_check.standards.labels import can_be_built

_MOST_SLOTS = 96
_LARGEST_TOTAL, _SMALLEST_TOTAL = 8192 * GIB, GIB // 8
_FIELDS = {
    "usable": "usable_bytes",
    "available": "available_bytes",
    "in_use": "in_use_bytes",
    "reserved": "reserved_bytes",
    "graphics": "graphics_bytes",
    "borrowed": "borrowed_bytes",
}
_NEARLY = 0.02


def read_amounts(state: State) -> None:
    """Read amounts and numbers of slots off every clause, and settle what they are of."""
    for clause in state.clauses:
        for item in clause.items:
            if item.scope is Scope.NOW and (not item.used or ("t" in item.parts and item.says == "slot")):
                _read(state, item)


def _read(state: State, item: Item) -> None:
    parts = item.parts
    if item.says == "amount":
        size = size_of(parts["s"])
        if size is not None:
            item.used = True
            state.amounts.append(Amount(size, str(parts["role"]), item))
    elif item.says in ("usable_of", "used_of"):
        first, second = size_of(parts["a"]), size_of(parts["b"])
        if first is None or second is None:
            return
        told = [state.tokens[at] for at in range(item.first, item.last + 1)]
        if item.says == "usable_of" and first * 10 < second * 9 and not any(token.means("usable") for token in told):
            item.used = True
            state.ask(
                "total_bytes",
                f"{size_text(first)} of {size_text(second)}: what is the total?",
                (f"total {size_text(first)}", f"total {size_text(second)}"),
                item,
            )
        elif item.says == "usable_of":
            item.used = True
            state.amounts += [Amount(first, "usable", item), Amount(second, "total", item)]
        elif any(state.tokens[at].means("in_use") for at in range(item.first, item.last + 1)):
            item.used = True
            state.amounts.append(Amount(second, "usable" if second % GIB else "of", item))
        elif second % (GIB // 2):
            item.used = True
            state.amounts.append(Amount(second, "usable", item))
        elif second > first and first * 8 > second * 7:
            item.used = True
            state.amounts += [Amount(first, "usable", item), Amount(second, "total", item)]
        elif second > first:
            item.used = True
            state.ask(
                "total_bytes",
                f"{size_text(first)} of {size_text(second)}: what is the total?",
                (f"total {size_text(first)}", f"total {size_text(second)}"),
                item,
            )
    elif item.says == "graphics_of":
        first, second = size_of(parts["a"]), size_of(parts["b"])
        if first is not None and second is not None:
            item.used = True
            state.amounts += [Amount(first, "graphics", item), Amount(second, "total", item)]
    elif item.says == "slots_broken":
        item.used = True
        if "t" in parts:
            state.slots.total = count_of(parts["t"])
    elif item.says == "slot" and "t" in parts:
        state.slots.total = count_of(parts["t"])
    elif item.says.startswith("slots_"):
        _slots(state, item)
    elif item.says == "other_empty":
        item.used = True
        state.slots.other_empty = True
        if parts["r"].means("other") and not parts["r"].means("rest") and len(_known_slots(state)) <= 1:
            state.slots.free = 1
    elif item.says == "the_slot_empty":
        item.used = True
        state.slots.free = 1


def _known_slots(state: State) -> list[str]:
    return [draft.slot for draft in state.drafts if draft.slot] + state.empty_slots


def _slots(state: State, item: Item) -> None:
    parts, slots = item.parts, state.slots
    if (
        "f" in parts
        and parts["f"].text in ("a", "an")
        and not any(state.tokens[at].means("slot", "slots") for at in range(item.first, item.last + 1))
    ):
        return  # "an empty box"
    total, used, free = (count_of(parts[role]) if role in parts else None for role in ("t", "u", "f"))
    item.used = True
    full = "full" in parts
    if full:
        word: Token = parts["full"]
        slots.all_used = True
        total = total or (2 if word.means("count_word") and word.number("count_word") == 2 else None)
        if total is None and any(state.tokens[at].means("both") for at in range(item.first, item.last + 1)):
            total = 2
    if total is not None and total > _MOST_SLOTS:
        return
    if item.says == "slots_used" and used is not None and total is not None and used > total:
        used, total = total, used
    if item.says == "slots_count" and total == 1 and any(state.tokens[at].means("in") for at in range(max(0, item.first - 1), item.first)):
        return
    if total is not None:
        if slots.total is not None and slots.total != total:
            state.ask("slot_count", f"Are there {slots.total} slots or {total}?", (f"{slots.total} slots", f"{total} slots"))
        slots.total = total
    if (
        used is not None
        and item.says == "slots_filled"
        and any(state.tokens[at].means("limit") for at in range(state.clauses[item.clause].first, item.first))
    ):
        slots.total = used
    elif used is not None:
        slots.used = used
    if free is not None:
        slots.free = free


def settle_slots(state: State) -> None:
    """Work out how many slots are used, from what is free and what was filled; make modules of slots that are said to be filled."""
    slots = state.slots
    named = {draft.slot for draft in state.drafts if draft.slot}
    for name in dict.fromkeys(state.filled_slots):
        if name not in named:
            loose = next(
                (
                    draft
                    for draft in state.drafts
                    if not draft.slot and not draft.is_soldered and draft.count == 1 and len(state.filled_slots) == 1
                ),
                None,
            )
            amount = (
                next((one for one in state.amounts if one.role in ("", "bare") and is_module_size(one.size_bytes)), None)
                if len(set(state.filled_slots)) == 1 and not state.drafts
                else None
            )
            if loose is not None:
                loose.slot = name
            elif amount is not None:
                state.amounts.remove(amount)
                amount.item.used = True
                state.drafts.append(Draft(1, amount.size_bytes, slot=name, clause=amount.item.clause))
            elif _spread_over(state, name):
                break
            elif len(set(state.filled_slots)) > 1 and (many := [one for one in state.amounts if one.role in ("", "bare", "some")]):
                size = many[0].size_bytes
                state.ask(
                    "modules",
                    f"{size_text(size)} in each of the slots, or altogether?",
                    (f"{size_text(size)} each", f"total {size_text(size)}"),
                    many[0].item,
                )
                state.amounts.remove(many[0])
                break
            else:
                state.drafts.append(Draft(1, None, slot=name))
    if (
        slots.other_empty
        and slots.free == 1
        and slots.total is None
        and len({draft.slot for draft in state.drafts if draft.slot}) == 1
        and len(state.drafts) == 1
    ):
        slots.total = 2
    if slots.all_used and slots.total is not None:
        slots.used = slots.total
    loose_count = sum(draft.count for draft in state.drafts if not draft.is_soldered)
    soldered_only = bool(state.drafts) and loose_count == 0
    if slots.free is not None and slots.total is None and slots.used is None and not named:
        if loose_count and all(draft.counted for draft in state.drafts):
            slots.total = loose_count + slots.free
        elif soldered_only:
            slots.total = slots.free
    elif slots.free is not None and slots.total is not None and slots.used is None:
        slots.used = max(0, slots.total - slots.free)


def _spread_over(state: State, name: str) -> bool:
    """Put one of several loose modules into a slot that is said to be filled, where they are as many as such slots."""
    names = list(dict.fromkeys(state.filled_slots))
    draft = next((one for one in state.drafts if not one.slot and not one.is_soldered and one.count == len(names) > 1), None)
    if draft is None:
        return False
    state.drafts.remove(draft)
    state.drafts += [Draft(1, draft.size_bytes, dict(draft.facts), slot, draft.clause, draft.line) for slot in names]
    return True


def add_up(state: State) -> None:
    """Make modules of amounts that are joined, before rates are shared out among them."""
    _equals(state)
    _lines(state)
    _sums(state)


def settle_amounts(state: State) -> None:
    """Say what amounts are that no word explains: sums, totals, one module each; ask where they do not agree."""
    _soldered(state)
    _only(state)
    _beside_slots(state)
    _alike(state)
    _each(state)
    _counts(state)
    _sizes_of_counted(state)
    _in_use_is_aside(state)
    for amount in state.amounts:
        if amount.role in _FIELDS:
            field = _FIELDS[amount.role]
            if field in state.facts and state.facts[field] != amount.size_bytes:
                state.ask(field, f"Which is it: {size_text(state.facts[field])} or {size_text(amount.size_bytes)}?")
            state.facts[field] = amount.size_bytes
    for field in _FIELDS.values():
        if field in state.asked:
            state.facts.pop(field, None)
    _dedicated(state)
    _total(state)
    _check_sizes(state)


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
        if amount.role in ("", "memory") and any(
            state.tokens[at].means("sodimm", "udimm", "rdimm", "lrdimm", "dimm") for at in range(clause.first, clause.end)
        ):
            by_line.setdefault(clause.line, amount)
    if len(by_line) > 1 and all(is_module_size(amount.size_bytes) for amount in by_line.values()):
        for amount in by_line.values():
            state.amounts.remove(amount)
            amount.item.used = True
            state.drafts.append(Draft(1, amount.size_bytes, clause=amount.item.clause, line=state.clauses[amount.item.clause].line))
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
        state.drafts.append(Draft(1, amounts[0].size_bytes, {"form": Form.SOLDERED}, clause=amounts[0].item.clause))


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
        if any(
            state.tokens[at].means("only") and state.tokens[at].text in ("only", "nur", "seulement", "solo", "slechts", "tylko")
            for at in range(clause.first, item.first)
        )
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
                state.drafts.append(Draft(1, amount.size_bytes, clause=amount.item.clause))
            del sizes


def _are_units_alike(one: Amount, other: Amount) -> bool:
    return (one.role == "bare") == (other.role == "bare") and is_module_size(one.size_bytes) and is_module_size(other.size_bytes)


def _joint(state: State, before: Item, behind: Item) -> str:
    """Return what joins two phrases: a plus, a stroke, an "and"; empty where more stands between them."""
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


def _joint_is(state: State, before: Item, behind: Item, kind: str) -> bool:
    return any(state.tokens[at].means(kind) for at in range(before.last + 1, behind.first))


def _draft_joined(state: State, draft: Draft, first: Item, last: Item) -> bool:
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
        state.drafts.append(Draft(number, size, clause=item.clause))
    elif not state.drafts and state.slots.total is not None and state.promise:
        state.drafts.append(Draft(state.slots.total, size, clause=item.clause))
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
                f"{counted(slots.used, 'slot is', 'slots are')} used, and {counted(in_slots, 'module is', 'modules are')} described: how many are there?",
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
            state.drafts.append(Draft(state.slots.used, amount.size_bytes, clause=amount.item.clause))
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
            state.drafts.append(Draft(1, amount.size_bytes, dict(bare[0].facts), clause=amount.item.clause))
    elif len(bare) == 1 and bare[0].count == 1 and len(loose) == 1:
        state.amounts.remove(loose[0])
        loose[0].item.used = True
        bare[0].size_bytes = loose[0].size_bytes
    elif not state.drafts and len(loose) > 1 and all(amount.role == "" for amount in loose) and state.slots.used == len(loose):
        for amount in loose:
            state.amounts.remove(amount)
            amount.item.used = True
            state.drafts.append(Draft(1, amount.size_bytes, clause=amount.item.clause))
    if not state.drafts and state.slots.used and not state.asked & {"modules", "slots_used"}:
        total = [amount for amount in state.amounts if amount.role in ("total", "", "memory", "seen", "bare")]
        size = total[0].size_bytes if state.slots.used == 1 and len(total) == 1 and is_module_size(total[0].size_bytes) else None
        if size is not None and total[0].role in ("", "bare"):
            total[0].item.used = True
            state.amounts.remove(total[0])
        state.drafts.append(Draft(state.slots.used, size, counted=True))


def _by_pieces(state: State, item: Item) -> bool:
    """Return whether a number of pieces stands before an amount, as on invoices: `2 pcs. DDR5 16 GB`."""
    clause = state.clauses[item.clause]
    if any(other.says == "counted" and other.first and state.tokens[other.first - 1].means("in") for other in clause.items):
        return False
    times = any(other.says == "counted" and state.tokens[other.first].means("times") for other in clause.items)
    return times or any(state.tokens[at].means("pieces") for at in range(clause.first, item.first))


def _in_use_is_aside(state: State) -> None:
    for amount in state.amounts:
        if amount.role == "of":
            amount.role = "total"


def _dedicated(state: State) -> None:
    """What is called dedicated may be a card's own memory: it is the graphics' share only where nothing else is."""
    for amount in state.amounts:
        if amount.role == "dedicated" and "graphics_bytes" not in state.facts:
            if amount.size_bytes <= 2 * GIB and "borrowed_bytes" in state.facts:
                state.facts["graphics_bytes"] = amount.size_bytes
            else:
                state.ask(
                    "graphics_bytes",
                    f"Is {size_text(amount.size_bytes)} taken from the memory, or a graphics card's own?",
                    (f"graphics {size_text(amount.size_bytes)}",),
                    amount.item,
                )


def _whole(state: State) -> int | None:
    """Return what the modules hold together, where the size of each is known."""
    sizes = [draft.size_bytes for draft in state.drafts]
    return sum((draft.size_bytes or 0) * draft.count for draft in state.drafts) if sizes and None not in sizes else None


def _total(state: State) -> None:
    whole = _whole(state)
    usable = state.facts.get("usable_bytes")
    totals = [amount for amount in state.amounts if amount.role == "total"]
    weak = [amount for amount in state.amounts if amount.role in ("memory", "seen")]
    system = [amount for amount in state.amounts if amount.role == "system"]
    loose = [amount for amount in state.amounts if amount.role == ""]
    if not loose and len(bare := [amount for amount in state.amounts if amount.role == "bare"]) == 1 and _is_one_module(state, bare[0]):
        loose = bare
    loose = [amount for amount in loose if not _is_named_otherwise(state, amount)]
    known = list(dict.fromkeys(amount.size_bytes for amount in totals))
    if state.promise or not known:
        known = list(dict.fromkeys((*known, *(amount.size_bytes for amount in weak))))
    else:
        known = list(
            dict.fromkeys((*known, *(amount.size_bytes for amount in weak if amount.role == "seen" or amount.size_bytes != usable)))
        )
    for amount in system:
        if usable is None and (
            amount.size_bytes % GIB or any(total > amount.size_bytes for total in known) or (whole or 0) > amount.size_bytes
        ):
            state.facts["usable_bytes"] = usable = amount.size_bytes
        elif amount.size_bytes not in known:
            known.append(amount.size_bytes)
    if not known and loose and not state.promise and (left := left_over(state)):
        words = " ".join(dict.fromkeys(token.text for token in left[:3]))
        sizes = " and ".join(size_text(amount.size_bytes) for amount in loose)
        state.ask("modules", f"What are the {sizes}: {words} was not understood.", (), *[amount.item for amount in loose])
        state.counts_stand = True
        return
    if not known and len(loose) == 1 and _may_be_each(state, loose[0]):
        count = sum(draft.count for draft in state.drafts)
        size = loose[0].size_bytes
        loose[0].item.used = True
        choices = (f"{count}x{size_text(size)}", f"total {size_text(size)}")
        state.counts_stand = True
        state.ask("modules", f"{size_text(size)} in each of the {count} modules, or altogether?", choices, loose[0].item)
        return
    if not known and loose and not (len(loose) == 1 and _is_one_module(state, loose[0])):
        for amount in loose:
            if usable is not None and amount.size_bytes < usable and not whole:
                continue
            known.append(amount.size_bytes)
        known = list(dict.fromkeys(known))
        all_soldered = bool(state.drafts) and all(draft.is_soldered for draft in state.drafts)
        if (
            whole is not None
            and len(loose) == 1
            and loose[0].size_bytes != whole
            and not state.asked
            and not (all_soldered and loose[0].size_bytes > whole)
        ):
            known = []
            _ask_sum(state, whole, loose[0].size_bytes)
        for amount in loose:
            amount.item.used = amount.item.used or amount.size_bytes in known
    elif len(loose) == 1 and known and loose[0].size_bytes in (*known, whole):
        loose[0].item.used = True
    elif len(loose) == 1 and not known:
        _one_module(state, loose[0])
        return
    elif loose and known and not state.drafts and sum(amount.size_bytes for amount in loose) in known and len(loose) > 1:
        for amount in loose:
            amount.item.used = True
            state.drafts.append(Draft(1, amount.size_bytes, clause=amount.item.clause))
        whole = known[0]
    _settle_total(state, known, whole, usable, totals)


_CHANGING = ("twice", "all", "both", "each", "empty", "filled", "other", "rest", "same", "plural", "broken", "pieces", "modules")


def left_over(state: State) -> list[Token]:
    """Return figures and words of counts that nothing was made of: with them, an amount that stands alone is no certain total."""
    covered = {at for clause in state.clauses for item in clause.items for at in range(item.first, item.last + 1)}
    aside = {at for clause in state.clauses if clause.scope is not Scope.NOW for at in range(clause.first, clause.end)}
    found = []
    for at, token in enumerate(state.tokens):
        if at in covered or at in aside or token.text in ("one", "ones", "all", "full", "set", "same", "fitted", "installed", "used"):
            continue
        behind = state.tokens[at + 1] if at + 1 < len(state.tokens) else None
        if (
            token.means("both", "each")
            and behind is not None
            and behind.means("mts", "frequency", "generation", "rated_generation", "timings", "bin")
        ):
            continue  # "both 3200"
        if (token.means("number") and not token.means("noise") and not token.means("count_word")) or token.means(*_CHANGING):
            found.append(token)
    return found


def _is_named_otherwise(state: State, amount: Amount) -> bool:
    """Return whether a name that nobody knows stands before an amount: `Bank0/1: 1024MB` is no total."""
    before = [state.tokens[at] for at in range(max(0, amount.item.first - 3), amount.item.first)]
    if len(before) < 2 or not before[-1].means("colon", "equals"):
        return False
    name = before[-2]
    return name.means("code", "number") or (name.means("word") and len(name.kinds) == 1)


def _beside_slots(state: State) -> None:
    """Ask where an amount stands beside slots: `4 slots 8gb` is in each, or altogether."""
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
    choices = (*(f"{number}x{size_text(size)}" for number in numbers), f"total {size_text(size)}")
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


_OF_MODULES = ("sodimm", "udimm", "rdimm", "lrdimm", "ranks", "timings", "bin", "class")


def _may_be_each(state: State, amount: Amount) -> bool:
    """Return whether an amount beside several modules may be that of each: the words for a module stand beside it, not beside a total."""
    several = sum(draft.count for draft in state.drafts if draft.size_bytes is None)
    clause = state.clauses[amount.item.clause]
    described = amount.item.first > 0 and any(state.tokens[at].means(*_OF_MODULES) for at in range(clause.first, clause.end))
    return several > 1 and not state.promise and is_module_size(amount.size_bytes) and (_counted_before(state, amount) or described)


def _counted_before(state: State, amount: Amount) -> bool:
    return any(
        item.last < amount.item.first and item.says in ("counted", "slots_used", "slots_filled", "slots_count")
        for clause in state.clauses
        for item in clause.items
    )


def _settle_total(state: State, known: list[int], whole: int | None, usable: int | None, totals: list[Amount]) -> None:
    if len(known) > 1:
        near = max(known)
        rest = [size for size in known if size != near]
        if (
            whole in known
            and all(size < near for size in rest)
            and not state.promise
            and len(known) == 2
            and any(amount.role == "seen" for amount in state.amounts)
        ):
            known = rest
        elif (seen_less := _seen_less(state, known)) is not None:
            fitted, shown = seen_less
            state.facts["total_bytes"] = shown
            if not state.drafts:
                numbers = tuple(number for number in (2, 1, 4) if is_module_size(fitted // number))
                state.ask(
                    "modules",
                    f"{size_text(fitted)} are fitted: which modules are these?",
                    tuple(f"{number}x{size_text(fitted // number)}" for number in numbers),
                )
            return
        elif len({amount.role for amount in state.amounts if amount.size_bytes in known}) > 1 and all(
            size >= near * (1 - 2 * _NEARLY) for size in rest
        ):
            known = [near]
            if usable is None and not state.promise:
                state.facts["usable_bytes"] = usable = min(rest)
        else:
            words = " or ".join(size_text(size) for size in known)
            state.ask("total_bytes", f"Is the total {words}?", tuple(f"total {size_text(size)}" for size in known))
            return
    known = [size for size in known if size]
    if not known:
        return
    total = known[0]
    if (
        total > _LARGEST_TOTAL
        or total < _SMALLEST_TOTAL
        or (total >= 2048 * GIB and (total & (total - 1)) == 0 and (whole is None or whole != total))
    ):
        guess = total * 1024 if total < _SMALLEST_TOTAL else total // 1024
        if usable is not None and total < usable and total * 1024 >= usable:
            state.ask("total_bytes", f"Is the total {size_text(guess)}?", (f"total {size_text(guess)}",))
        else:
            state.ask("total_bytes", f"Is the total really {size_text(total)}, and not {size_text(guess)}?", (f"total {size_text(guess)}",))
        return
    seen = any(amount.role == "seen" for amount in state.amounts)
    if whole is not None and whole != total and not any(draft.kept for draft in state.drafts):
        soldered = all(draft.is_soldered for draft in state.drafts)
        if whole < total and soldered:
            rest = total - whole
            of_total = next((amount.item for amount in state.amounts if amount.size_bytes == total), None)
            if is_module_size(rest) and of_total is not None:
                choices = tuple(f"total {size_text(total)}, {part}" for part in (f"1x{size_text(rest)}", f"2x{size_text(rest // 2)}"))
                state.ask(
                    "modules",
                    f"{size_text(whole)} of {size_text(total)} is soldered: what is the other {size_text(rest)}?",
                    choices,
                    of_total,
                )
            state.facts["total_bytes"] = total
        elif (state.added and total > whole) or seen or (total < whole and total >= whole * (1 - 0.1) and not state.promise):
            state.facts["total_bytes"] = total
        else:
            _ask_sum(state, whole, total)
            if not any(draft.slot for draft in state.drafts):
                state.drafts = []
        return
    if usable is not None and usable > total * 1.001:
        state.facts.pop("usable_bytes", None)
        state.ask("usable_bytes", f"{size_text(usable)} usable of {size_text(total)}: which is right?")
        return
    count = sum(draft.count for draft in state.drafts)
    if state.drafts and whole is None and count == 1 and is_module_size(total) and not state.drafts[0].slot and not state.promise:
        state.drafts[0].size_bytes = total
        if not totals and not any(amount.role in ("memory", "seen") for amount in state.amounts):
            return
    state.facts["total_bytes"] = total


def _seen_less(state: State, known: list[int]) -> tuple[int, int] | None:
    """Return what is fitted and what is shown of it, where less is shown: `installed 32, only 16 detected`."""
    seen = {amount.size_bytes for amount in state.amounts if amount.role == "seen"}
    more = next((amount.item for amount in state.amounts if amount.size_bytes == max(known)), None)
    if more is None or not any(state.tokens[at].means("installed", "put_in") for at in range(more.first, more.last + 1)):
        return None
    if len(known) == 2 and len(seen) == 1 and min(known) in seen and max(known) not in seen and not state.promise:
        return max(known), min(known)
    return None


def _ask_sum(state: State, whole: int, total: int) -> None:
    parts = " + ".join(f"{draft.count}x{size_text(draft.size_bytes or 0)}" for draft in state.drafts)
    of_total = next((amount.item for amount in state.amounts if amount.size_bytes == total), None)
    choices = (f"total {size_text(whole)}",) if of_total is not None else ()
    if of_total is not None:
        of_total.used = True
    state.ask(
        "total_bytes",
        f"{parts} makes {size_text(whole)}, and {size_text(total)} is said: which is right?",
        choices,
        *([of_total] if of_total is not None else []),
    )


def _is_one_module(state: State, amount: Amount) -> bool:
    """Return whether the only amount of a text is that of one module: its label, ranks, timings or form stand beside it."""
    if state.drafts or state.promise or not is_module_size(amount.size_bytes):
        return False
    if (
        state.slots.used not in (None, 1)
        or (state.facts.get("channels") or 1) > 1
        or {"usable_bytes", "graphics_bytes", "in_use_bytes", "available_bytes"} & state.facts.keys()
    ):
        return False
    beside = {name for name, said in state.said.items() for _ in said}
    if any(token.means("sodimm", "udimm", "rdimm", "lrdimm") and token.text.endswith("s") for token in state.tokens):
        return False
    return (
        bool(beside & {"form", "ranks", "timings", "part", "serial", "standard_mts"})
        or _says_one(state)
        or ("voltage_mv" in beside and "generation" in beside)
    )


def _says_one(state: State) -> bool:
    if any(token.means("sodimm", "udimm", "rdimm", "lrdimm") and token.text.endswith("s") for token in state.tokens):
        return False
    return any(token.means("module", "for_laptops") and not token.means("modules") for token in state.tokens)


def _one_module(state: State, amount: Amount) -> None:
    amount.item.used = True
    state.amounts.remove(amount)
    state.drafts.append(Draft(1, amount.size_bytes, clause=amount.item.clause, counted=False))


def _check_sizes(state: State) -> None:
    """Ask about sizes that no module has."""
    for draft in state.drafts:
        size = draft.size_bytes
        if size is None or draft.is_soldered:
            continue
        generation = draft.facts.get("generation", state.common.get("generation"))
        kind = generation if isinstance(generation, Generation) else None
        even = kind if kind in (Generation.DDR2, Generation.DDR3, Generation.DDR4) else None
        if not is_size_of(size, even):
            likely = min(
                (gib * GIB for gib in (1, 2, 4, 8, 16, 32, 64, 128)),
                key=lambda other: abs(other - (size * 1024 if size < 64 * MIB else size)),
            )
            state.counts_stand = True
            state.ask(
                "modules",
                f"No {kind or ''} module has {size_text(size)}: what does the label say?".replace("  ", " "),
                (f"{size_text(likely)}",),
            )
            draft.size_bytes = None
            state.facts.pop("total_bytes", None) if state.facts.get("total_bytes") == size * draft.count else None
            continue
        if size < 128 * MIB or (size < GIB and kind in (Generation.DDR4, Generation.DDR5)):
            state.counts_stand = True
            state.ask("modules", f"Is it really {size_text(size)}, and not {size_text(size * 1024)}?", (size_text(size * 1024),))
            draft.size_bytes = None
            continue
        ranks, width = (draft.facts.get(name, state.common.get(name)) for name in ("ranks", "device_width_bits"))
        if kind is not None and isinstance(ranks, int) and isinstance(width, int) and not can_be_built(kind, size, ranks, width):
            state.counts_stand = True
            state.ask("modules", f"No {kind} module of {size_text(size)} is built as {ranks}Rx{width}: what does the label say?")
            draft.size_bytes = None


def most_modules(count: int) -> int:
    """Return a number of modules within reason."""
    return min(count, MOST_MODULES)


__all__ = ["Form", "most_modules", "read_amounts", "settle_amounts", "settle_slots"]
