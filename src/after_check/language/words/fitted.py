"""Modules and slots off the phrases of now: how many of which size, in which slots, which are empty, what is soldered."""

from __future__ import annotations

from collections.abc import Sequence

from after_check.domain.modules import Form
from after_check.domain.quantities import size_text
from after_check.language.words.clauses import Clause
from after_check.language.words.figures import is_module_size
from after_check.language.words.state import MOST_MODULES, Amount, Draft, State, count_of, label_facts, size_of
from after_check.language.words.tokens import Token
from after_check.language.words.understood import Item, Scope

_CONTENT = ("group", "one", "some", "each", "size", "bare", "soldered", "in_slot", "counted", "amount")
_EMPTYING = ("empty", "filled")


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
        waiting = _clause(state, clause, items, waiting)
        waiting_in = clause
    if waiting and waiting_in is not None:
        _attach(state, waiting, waiting_in)


def _attach(state: State, names: list[str], clause: Clause) -> None:
    """Put what was told just before into slots that stand alone behind it: `1 x 8 GB, DDR4-2400, slot 1`."""
    told = [
        draft
        for draft in state.drafts
        if not draft.slot and not draft.is_soldered and draft.clause >= 0 and state.clauses[draft.clause].sentence == clause.sentence
    ]
    if len(told) == 1 and told[0].count == len(names):
        state.drafts.remove(told[0])
        state.drafts += [Draft(1, told[0].size_bytes, dict(told[0].facts), name, told[0].clause, told[0].line) for name in names]


def _names(state: State, item: Item) -> list[str]:
    parts = item.parts
    if "l" in parts and not any(token.means("slot", "slots") for token in state.tokens):
        sizes = [int(one) for one in str(parts["l"].value).split(",")]
        if all(is_module_size(one << 30) for one in sizes):  # "fitted (8,8,16)"
            item.used = True
            state.drafts += [Draft(1, one << 30, clause=item.clause) for one in sizes]
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
        first, last = int(parts["n"].value), int(parts["m"].value)
        return [str(number) for number in range(first, last + 1)] if first < last <= 32 else []
    return [_name(state, item, token, "a" if token.means("slot_name") else "n") for token in names]


def _name(state: State, item: Item, token: Token, role: str) -> str:
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


def _clause(state: State, clause: Clause, items: Sequence[Item], waiting: list[str]) -> list[str]:
    """Read one clause; return the slots that it names and says nothing of."""
    if not any(item.says in ("slot", "slot_list") for item in items) and not waiting:
        for item in items:
            _loose(state, clause, item)
        return []
    refs = list(waiting)
    empty_first: Item | None = None
    held: list[list[Draft]] = []
    placed = False
    behind: list[str] = []
    for number, item in enumerate(items):
        if item.says == "attr" and "g" in item.parts and item.parts["g"].means("label") and item.parts["g"].value.size_bytes is not None:
            made = _labelled(state, clause, item)
            if refs and not placed:
                _place(state, clause, made, refs, item)
                refs, placed = [], True
            else:
                held.append(made)
            continue
        if (
            item.says == "empty"
            and not refs
            and (following := items[number + 1] if number + 1 < len(items) else None) is not None
            and following.says in ("slot", "slot_list")
            and following.first - item.last <= 3
            and (
                any(state.tokens[at].means("in") for at in range(item.first, following.first))
                or state.tokens[item.last].text.endswith(" in")
            )
        ):
            empty_first = item  # "nothing in slot 1"
            continue
        if item.says in ("slot", "slot_list"):
            names = _names(state, item)
            if empty_first is not None:
                state.empty_slots += names
                empty_first.used = item.used = True
                empty_first = None
                continue
            if held and not refs:
                behind += names
                item.used = True
                following = items[number + 1] if number + 1 < len(items) else None
                if following is None or following.says not in ("slot", "slot_list") or _begins_anew(items, number + 1):
                    _place(state, clause, held.pop(0), behind, item)
                    held, behind, placed = [], [], True
                continue
            if placed and refs:
                refs = []
            placed = False
            refs += names
            item.used = True
            if _dash_behind(state, clause, item):
                state.empty_slots += refs
                refs = []
        elif item.says == "same_in_other" and not refs:
            _same(state, item)
            placed = False
        elif (item.says == "empty" and refs) or (item.says == "nothing" and refs):
            state.empty_slots += refs
            refs, placed, item.used = [], False, True
        elif item.says == "filled" and refs:
            state.filled_slots += refs
            refs, placed, item.used = [], False, True
        elif (
            item.says in ("group", "one", "some", "each", "size", "bare", "counted", "in_slot")
            or (item.says == "amount" and (item.parts["role"] in ("seen", "memory", "equals") or state.tokens[item.first].means("now")))
            or item.says == "sum"
        ):
            if not refs and not any(other.says in ("slot", "slot_list") for other in items[number + 1 :]):
                if item.says != "amount":
                    _loose(state, clause, item)
                continue
            made = _drafts(state, clause, item, bool(refs))
            if made is None:
                continue
            if refs and not placed:
                _place(state, clause, made, refs, item)
                refs, placed = [], True
            elif made:
                held.append(made)
        elif item.says == "attr" and refs and not placed and _described(item):
            made = [Draft(1, None, {}, clause=item.clause, line=clause.line)]
            _place(state, clause, made * 1, refs[-1:], item)
            refs, placed = refs[:-1], True
        else:
            _loose(state, clause, item)
    for made in held:
        for draft in made:
            state.drafts.append(draft)
    if refs and not placed:
        if any(state.tokens[at].means("unseen") for at in range(clause.first, clause.end)):
            state.unseen_slots += refs
            return []
        return refs
    return []


def _begins_anew(items: Sequence[Item], number: int) -> bool:
    """Return whether a slot begins something of its own: what is said of it stands behind it."""
    following = items[number + 1] if number + 1 < len(items) else None
    return following is not None and following.says in ("empty", "filled", *_CONTENT)


def _dash_behind(state: State, clause: Clause, item: Item) -> bool:
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


def _labelled(state: State, clause: Clause, item: Item) -> list[Draft]:
    """Return the module of a whole label, as many as were counted before it."""
    label = item.parts["g"].value
    item.parts["_done"] = item.used = True
    count = 1
    if item.first and (token := state.tokens[item.first - 1]).means("count_times", "times"):
        number = int(token.value) if token.means("count_times") else count_of(state.tokens[item.first - 2]) if item.first > 1 else None
        count = number if number is not None and 0 < number <= 16 else 1
    return [Draft(count, label.size_bytes, label_facts(label), clause=item.clause, line=clause.line)]


def _described(item: Item) -> bool:
    """Return whether a word says that there is a module: a label, a kind, ranks."""
    token = item.parts.get("g")
    return token is not None and token.means("label", "generation", "class", "ranks")


def _drafts(state: State, clause: Clause, item: Item, beside_slot: bool) -> list[Draft] | None:
    """Return what an amount is as modules; None where it is none."""
    parts = item.parts
    if item.says == "sum":
        before = len(state.drafts)
        _sum(state, clause, item)
        made, state.drafts = state.drafts[before:], state.drafts[:before]
        return made
    if item.says == "counted":
        number = count_of(parts["n"]) or 0
        if not 0 < number <= MOST_MODULES:
            return None
        item.used = True
        if _is_a_size(parts):
            return [Draft(1, size_of(parts["n"]), _form(parts), clause=item.clause, line=clause.line)]
        return [Draft(number, None, _form(parts), clause=item.clause, line=clause.line)]
    size = size_of(parts["s"]) if "s" in parts else None
    if size is None:
        return None
    if size == 0 and beside_slot:
        return [Draft(0, 0, clause=item.clause, line=clause.line)]
    if item.says == "group":
        number = count_of(parts["n"]) or 0 if "n" in parts else 1
        if not 0 < number <= MOST_MODULES:
            state.ask("modules", f"Are there really {number} modules?", (), item)
            return None
        item.used = True
        return [Draft(number, size, clause=item.clause, line=clause.line)]
    item.used = True
    if item.says == "one" and "one" in parts and (several := count_of(parts["one"]) or 1) > 1:
        return [Draft(several, size, clause=item.clause, line=clause.line)]
    return [Draft(1, size, clause=item.clause, line=clause.line, counted=item.says in ("one", "in_slot") or beside_slot)]


def _form(parts: dict[str, Token]) -> dict[str, object]:
    token = parts.get("form")
    return {"form": next(form for kind, form in FORMS.items() if token.means(kind))} if token is not None else {}


def _is_a_size(parts: dict[str, Token]) -> bool:
    """Return whether a number before one form is its size: `4 soldered + 16 SODIMM`, and no number of SODIMMs."""
    form = parts.get("form")
    return form is not None and not form.text.endswith("s") and parts["n"].means("gib")


FORMS = {"udimm": Form.UDIMM, "sodimm": Form.SODIMM, "rdimm": Form.RDIMM, "lrdimm": Form.LRDIMM, "camm": Form.CAMM}


def _place(state: State, clause: Clause, made: list[Draft], names: list[str], item: Item) -> None:
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
            state.drafts.append(Draft(1, made[0].size_bytes, dict(made[0].facts), name, made[0].clause, made[0].line))
    elif len(names) == 1 and count > 1:
        state.drafts += made  # "2x16 in the slot": nobody puts two into one.
        state.filled_slots += []
    else:
        size = made[0].size_bytes or 0
        state.ask(
            "modules",
            f"{size_text(size)} in each of the {len(names)} slots, or altogether?",
            (f"{size_text(size)} each", f"total {size_text(size)}"),
            item,
        )


def _loose(state: State, clause: Clause, item: Item) -> None:
    """Read a phrase that has no slot."""
    parts = item.parts
    if item.says == "attr" and "g" in parts and parts["g"].means("label") and parts["g"].value.size_bytes is not None:
        state.drafts += _labelled(state, clause, item)
        return
    if item.says == "part_of":
        item.used = True
        words = state.text[item.start : item.end].strip()
        state.ask("modules", f"{words}: how many modules are there?", (), item)
        return
    if item.says in ("one", "size", "bare", "some") and (_says_each(state, clause, item) or _fills(state, clause, item)):
        item.used = True
        state.each.append((size_of(parts["s"]) or 0, item))
        return
    if item.says == "group" or item.says == "one":
        size = size_of(parts["s"])
        number = 1
        if item.says == "group" and "n" in parts:
            number = count_of(parts["n"]) or 0
        elif "_count" in parts:
            number = max(1, int(parts["_count"]))
        elif item.says == "one" and "one" in parts:
            number = max(1, count_of(parts["one"]) or 1)
        if "k" in parts:
            number *= count_of(parts["k"]) or 1
        if item.says == "group" and "n" in parts and _is_turned_by_blank(state, item):
            number, size = int(parts["s"].value), (count_of(parts["n"]) or 0) << 30
        if size is None:
            return
        item.used = True
        behind = state.tokens[item.last + 1] if item.last + 1 < len(state.tokens) else None
        if behind is not None and behind.means("per") and not state.promise:
            state.ask("modules", f"{number}x{size_text(size)} per channel or slot: how many modules are there?", (), item)
            return
        if item.says == "group" and _is_of_each(state, clause, item):
            state.ask("modules", f"{number}x{size_text(size)} in each: how many modules are there?", (), item)
            return
        if not 0 < number <= MOST_MODULES:
            state.ask("modules", f"Are there really {number} modules?", (), item)
        elif item.says == "group" and _turned(state, parts):
            answers = (f"{size >> 30}x{number} GB", f"{number}x{size >> 30} GB")
            state.ask("modules", f"{number} modules of {size_text(size)}, or {size >> 30} of {number} GiB?", answers, item)
        else:
            state.drafts.append(Draft(number, size, clause=item.clause, line=clause.line))
    elif item.says == "sum":
        _sum(state, clause, item)
    elif item.says == "from_to":
        item.used = True
        state.amounts.append(Amount(size_of(parts["t"]) or 0, "total", item))
    elif item.says == "same_in_other":
        _same(state, item)
    elif item.says == "counted_in":
        item.used = True
        number = count_of(parts["n"]) or 1
        state.slots.total, state.slots.used = count_of(parts["t"]), number
        state.drafts.append(Draft(number, None, clause=item.clause, line=clause.line))
    elif item.says == "total_in":
        item.used = True
        state.amounts.append(Amount(size_of(parts["s"]) or 0, "total", item))
        state.drafts.append(Draft(count_of(parts["n"]) or 1, None, clause=item.clause, line=clause.line))
    elif item.says == "kits_of":
        item.used = True
        number, size = count_of(parts["n"]) or 1, size_of(parts["s"]) or 0
        state.ask(
            "modules",
            f"{number} kits of {size_text(size)}: which modules are these?",
            (f"{2 * number}x{size_text(size // 2)}", f"{number}x{size_text(size)}"),
            item,
        )
    elif item.says == "all_slots":
        item.used = True
        _all_slots(state, clause, item)
    elif item.says == "some" or (item.says == "one_more" and not state.promise):
        item.used = True
        state.amounts.append(Amount(size_of(parts["s"]) or 0, "some", item))
    elif item.says == "each":
        item.used = True
        if "t" in parts and (slots := count_of(parts["t"])) is not None:
            state.slots.total = state.slots.used = slots
        state.each.append((size_of(parts["s"]) or 0, item))
    elif item.says == "counted":
        number = count_of(parts["n"]) or 0
        behind = [state.tokens[at] for at in range(item.last + 1, min(item.last + 3, len(state.tokens)))]
        before = next((other for other in clause.items[::-1] if other.last < item.first), None)
        if behind and (behind[0].means("per") or behind[0].means("broken") or (behind[0].means("is") and behind[-1].means("broken"))):
            item.used = True  # "two per channel", "one stick is dead": they count no modules.
        elif state.tokens[item.first].means("times") and (
            before is None or (before.says in ("rate", "runs", "clock") and not any(other.says in ("size", "bare", "one") for other in clause.items))
        ):
            item.used = True  # "1333 MHz x2"
        elif _is_a_size(parts):
            item.used = True
            state.drafts.append(Draft(1, size_of(parts["n"]), _form(parts), clause=item.clause, line=clause.line))
        elif 0 < number <= MOST_MODULES:
            item.used = True
            state.drafts.append(Draft(number, None, _form(parts), clause=item.clause, line=clause.line))
    elif item.says == "soldered":
        item.used = True
        if "s" in parts:
            state.drafts.append(Draft(1, size_of(parts["s"]), {"form": Form.SOLDERED}, clause=item.clause, line=clause.line))
        else:
            _soldered(state, item)
    elif item.says == "in_slot":
        item.used = True
        state.drafts.append(Draft(1, size_of(parts["s"]), clause=item.clause, line=clause.line))
    elif item.says in ("size", "bare"):
        size = size_of(parts["s"])
        if size is not None:
            state.amounts.append(Amount(size, "" if item.says == "size" else "bare", item))


def _all_slots(state: State, clause: Clause, item: Item) -> None:
    """`all four slots have 8 GB modules`: as many are filled as there are, where an amount is told of them."""
    both = any(state.tokens[at].means("both") and not state.tokens[at].means("all") for at in range(item.first, item.last + 1))
    total = count_of(item.parts["t"]) if "t" in item.parts else 2 if both else None
    if total is not None:
        state.slots.total = total
    empty = any(other.says in ("empty", "the_slot_empty", "slots_free") for other in clause.items)
    if not empty and any(other.says in ("some", "each", "group", "size", "bare", "one") for other in clause.items):
        state.slots.all_used = True
        for other in clause.items:
            if (
                other.says in ("size", "bare")
                and other.first > item.last
                and not state.promise
                and (total is not None and not state.text[item.start : item.end].lower().startswith("all"))
            ):
                other.says = "each"


def _says_each(state: State, clause: Clause, item: Item) -> bool:
    """Return whether the clause says that an amount is that of each: `32GB RDIMM each`, `each says 4 GB`."""
    counted = "one" in item.parts and item.parts["one"].number("count_word") == 1 and item.parts["one"].text not in ("a", "an")
    return not counted and any(
        state.tokens[at].means("each") and len(state.tokens[at].text) > 1 and not item.first <= at <= item.last
        for at in range(clause.first, clause.end)
        if not _in_other(clause, item, at)
    )


def _fills(state: State, clause: Clause, item: Item) -> bool:
    """Return whether slots are filled with it: `4 slots, 2 full with 8s`."""
    used = any(other.says in ("slots_used", "slots_filled") and other.last < item.first for other in clause.items)
    before = [other for other in clause.items if other.says in ("slots_used", "slots_filled") and other.last < item.first]
    if before and state.tokens[before[-1].last].text.endswith(" with") and item.first - before[-1].last <= 2:
        return True
    return used and any(state.tokens[at].means("with") for at in range(max(clause.first, item.first - 2), item.first))


def _in_other(clause: Clause, item: Item, at: int) -> bool:
    return any(other.first <= at <= other.last for other in clause.items if other is not item)


def _is_of_each(state: State, clause: Clause, item: Item) -> bool:
    """Return whether so many modules are in each of several: `two processors, each with 4 x 16 GB`."""
    return any(
        state.tokens[at].text in ("each", "every", "je", "jeweils", "chaque", "cada", "ogni", "elke")
        for at in range(clause.first, item.first)
    )


def _is_turned_by_blank(state: State, item: Item) -> bool:
    """Return whether the count stands behind: `16 x1`."""
    times = next(
        (
            state.tokens[at]
            for at in range(item.first, item.last + 1)
            if state.tokens[at].means("times") and not state.tokens[at].means("count_times")
        ),
        None,
    )
    size = item.parts["s"]
    return (
        times is not None
        and times.text == "x"
        and size.means("gib_small")
        and times.end == size.start
        and item.parts["n"].end < times.start
        and item.parts["n"].means("gib")
    )


def _same(state: State, item: Item) -> None:
    """`same in the other slot`: one more of the module that was told before it."""
    told = [draft for draft in state.drafts if draft.size_bytes is not None or draft.facts]
    if not told:
        return
    item.used = True
    last = told[-1]
    name = next((_name(state, item, item.parts[role], role if role in "ao" else "n") for role in ("a", "n", "o") if role in item.parts), "")
    if name or last.slot:
        if name:
            state.drafts.append(Draft(1, last.size_bytes, dict(last.facts), name, last.clause, last.line))
            return
        state.drafts.append(Draft(1, last.size_bytes, dict(last.facts), "", last.clause, last.line))
    else:
        last.count += 1
    if any(state.tokens[at].means("other") for at in range(item.first, item.last + 1)):
        state.slots.total = state.slots.used = last.count if not last.slot else 2


def _sum(state: State, clause: Clause, item: Item) -> None:
    """Read modules that are added up, and what they make."""
    parts = item.parts
    dashes = sum(parts[role].means("dash") for role in "abcd" if role in parts)
    tokens = [parts[role] for role in "abcd" if role in parts and not parts[role].means("dash")]
    known = next((token for token in tokens if token.means("size")), parts.get("t") if "t" in parts and parts["t"].means("size") else None)
    sizes = [size_of(token) for token in tokens]
    if known is not None and "mb" in known.text and any(token.means("gib") and not token.means("size") for token in tokens):
        sizes = [None]
    if None in sizes:
        return
    item.used = True
    state.drafts += [Draft(1, size, clause=item.clause, line=clause.line) for size in sizes]
    if dashes:
        state.slots.total = len(tokens) + dashes
    if "t" in parts and (total := size_of(parts["t"])) is not None:
        state.amounts.append(Amount(total, "total", item))


def _soldered(state: State, item: Item) -> None:
    """`32GB LPDDR5 on board`: what was said just before it in the clause is soldered."""
    for draft in state.drafts[::-1]:
        if draft.clause == item.clause and not draft.slot and "form" not in draft.facts and draft.count == 1:
            draft.facts["form"] = Form.SOLDERED
            return
    for amount in state.amounts[::-1]:
        if amount.item.clause == item.clause and amount.role in ("", "memory", "bare"):
            state.amounts.remove(amount)
            state.drafts.append(Draft(1, amount.size_bytes, {"form": Form.SOLDERED}, clause=item.clause))
            return
    state.said.setdefault("form", []).append((item.clause, Form.SOLDERED, item))


def _turned(state: State, parts: dict[str, Token]) -> bool:
    """Return whether count and size may be the other way round: `16x2`."""
    count, size = parts.get("n"), parts["s"]
    if count is None or not count.means("count_times") or not size.means("gib", "gib_small") or size.means("size"):
        return False
    number = int(count.value)
    return number > float(size.value) and float(size.value) <= 8 and number in (8, 12, 16, 24, 32, 48, 64) and is_module_size(number << 30)
