"""How many slots there are, are used and are free; slots that are said to be filled hold modules."""

from __future__ import annotations

from after_check.domain.quantities import size_text
from after_check.language.words.figures import is_module_size
from after_check.language.words.state import Described, State, count_of
from after_check.language.words.token import Token
from after_check.language.words.understood import Phrase

_MOST_SLOTS = 96


def read_slots(state: State, item: Phrase) -> None:
    """Read a phrase that counts slots."""
    if item.says == "slot":
        state.slots.total = count_of(item.parts["t"])
    elif item.says == "slots_broken":
        item.used = True
        state.slots.total = count_of(item.parts["t"]) if "t" in item.parts else state.slots.total
    elif item.says == "other_empty":
        item.used = True
        state.slots.other_empty = True
        if item.parts["r"].means("other") and not item.parts["r"].means("rest") and len(_known_slots(state)) <= 1:
            state.slots.free = 1
    elif item.says == "the_slot_empty":
        item.used = True
        state.slots.free = 1
    else:
        _counted(state, item)


def _counted(state: State, item: Phrase) -> None:
    parts, slots = item.parts, state.slots
    named = any(state.tokens[at].means("slot", "slots") for at in range(item.first, item.last + 1))
    if "f" in parts and parts["f"].text in ("a", "an") and not named:
        return  # "an empty box"
    if item.says == "slots_count" and parts["t"].means("article"):
        return  # "a socket where I put a 16" does not say how many there are
    total, used, free = (count_of(parts[role]) if role in parts else None for role in ("t", "u", "f"))
    item.used = True
    if "full" in parts:
        slots.all_used = True
        total = total or _both(state, item, parts["full"])
    if total is not None and total > _MOST_SLOTS:
        return
    if item.says == "slots_used" and used is not None and total is not None and used > total:
        used, total = total, used
    if item.says == "slots_count" and total == 1 and item.first and state.tokens[item.first - 1].means("in"):
        return
    if total is not None:
        if slots.total is not None and slots.total != total:
            state.ask("slot_count", f"Are there {slots.total} slots or {total}?", (f"{slots.total} slots", f"{total} slots"))
        slots.total = total
    limited = any(state.tokens[at].means("limit") for at in range(state.clauses[item.clause].first, item.first))
    if used is not None and item.says == "slots_filled" and limited:
        slots.total = used  # "takes up to 64 GB in 4 slots"
    elif used is not None:
        slots.used = used
    slots.free = free if free is not None else slots.free


def _both(state: State, item: Phrase, word: Token) -> int | None:
    two = word.means("count_word") and word.number("count_word") == 2
    return 2 if two or any(state.tokens[at].means("both") for at in range(item.first, item.last + 1)) else None


def _known_slots(state: State) -> list[str]:
    return [draft.slot for draft in state.drafts if draft.slot] + state.empty_slots


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
                state.drafts.append(Described(1, amount.size_bytes, slot=name, clause=amount.item.clause))
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
                state.drafts.append(Described(1, None, slot=name))
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
    state.drafts += [Described(1, draft.size_bytes, dict(draft.facts), slot, draft.clause, draft.line) for slot in names]
    return True
