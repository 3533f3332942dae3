"""Modules that no slot is named for: groups, sums, counts, what is soldered, what is in each; a function a kind of phrase."""

from __future__ import annotations

from collections.abc import Callable

from after_check.domain.modules import Form
from after_check.domain.quantities import size_text
from after_check.language.words.clauses import Clause
from after_check.language.words.figures import is_module_size
from after_check.language.words.state import MOST_MODULES, Amount, Described, State, ask_about_misprint, count_of, label_facts, size_of
from after_check.language.words.token import Token
from after_check.language.words.understood import Phrase, Scope

FORMS = {"udimm": Form.UDIMM, "sodimm": Form.SODIMM, "rdimm": Form.RDIMM, "lrdimm": Form.LRDIMM, "camm": Form.CAMM}


def read_loose(state: State, clause: Clause, item: Phrase) -> None:
    """Read a phrase that has no slot."""
    if is_sized_label(item):
        state.drafts += labelled(state, clause, item)
    elif item.says in ("one", "size", "bare", "some") and (_says_each(state, clause, item) or _fills(state, clause, item)):
        item.used = True
        state.each.append((size_of(item.parts["s"]) or 0, item))
    elif (reader := _READERS.get(item.says)) is not None:
        reader(state, clause, item)


def is_sized_label(item: Phrase) -> bool:
    """Return whether a phrase is a label that tells the size of its module."""
    token = item.parts.get("g")
    return item.says == "attr" and token is not None and token.means("label") and token.value.size_bytes is not None


def _draft(state: State, clause: Clause, item: Phrase, count: int, size_bytes: int | None, facts: dict[str, object] | None = None) -> None:
    item.used = True
    state.drafts.append(Described(count, size_bytes, facts or {}, clause=item.clause, line=clause.line))


def number_of(item: Phrase) -> int:
    """Return how many modules a phrase counts; one where it tells no number."""
    parts = item.parts
    if item.says == "group" and "n" in parts:
        return (count_of(parts["n"]) or 0) * ((count_of(parts["k"]) or 1) if "k" in parts else 1)
    if "_count" in parts:
        return max(1, int(parts["_count"]))
    return max(1, count_of(parts["one"]) or 1) if item.says == "one" and "one" in parts else 1


def _group(state: State, clause: Clause, item: Phrase) -> None:
    number, size = number_of(item), size_of(item.parts["s"])
    if item.says == "group" and "n" in item.parts and _is_turned_by_blank(state, item):
        number, size = int(item.parts["s"].value), (count_of(item.parts["n"]) or 0) << 30
    if size is None:
        return
    item.used = True
    behind = state.tokens[item.last + 1] if item.last + 1 < len(state.tokens) else None
    if behind is not None and behind.means("per") and not state.promise:
        state.ask("modules", f"{number}x{size_text(size)} per channel or slot: how many modules are there?", (), item)
    elif item.says == "group" and _is_of_each(state, clause, item):
        state.ask("modules", f"{number}x{size_text(size)} in each: how many modules are there?", (), item)
    elif not 0 < number <= MOST_MODULES:
        state.ask("modules", f"Are there really {number} modules?", (), item)
    elif item.says == "group" and _turned(item.parts):
        answers = (f"{size >> 30}x{number} GB", f"{number}x{size >> 30} GB")
        state.ask("modules", f"{number} modules of {size_text(size)}, or {size >> 30} of {number} GiB?", answers, item)
    else:
        _draft(state, clause, item, number, size)


def _counted(state: State, clause: Clause, item: Phrase) -> None:
    parts, number = item.parts, count_of(item.parts["n"]) or 0
    behind = [state.tokens[at] for at in range(item.last + 1, min(item.last + 3, len(state.tokens)))]
    if behind and (behind[0].means("per", "broken") or (behind[0].means("is") and behind[-1].means("broken"))):
        item.used = True  # "two per channel", "one stick is dead": they count no modules.
    elif state.tokens[item.first].means("times") and _is_behind_a_rate(clause, item):
        item.used = True  # "1333 MHz x2"
    elif is_a_size(parts):
        _draft(state, clause, item, 1, size_of(parts["n"]), form_of(parts))
    elif 0 < number <= MOST_MODULES:
        _draft(state, clause, item, number, None, form_of(parts))


def _is_behind_a_rate(clause: Clause, item: Phrase) -> bool:
    before = next((other for other in clause.items[::-1] if other.last < item.first), None)
    sized = any(other.says in ("size", "bare", "one") for other in clause.items)
    return before is None or (before.says in ("rate", "runs", "clock") and not sized)


def _part_of(state: State, clause: Clause, item: Phrase) -> None:
    item.used = True
    state.ask("modules", f"{state.text[item.start : item.end].strip()}: how many modules are there?", (), item)


def _from_to(state: State, clause: Clause, item: Phrase) -> None:
    item.used = True
    state.amounts.append(Amount(size_of(item.parts["t"]) or 0, "total", item))


def _counted_in(state: State, clause: Clause, item: Phrase) -> None:
    number = count_of(item.parts["n"]) or 1
    state.slots.total, state.slots.used = count_of(item.parts["t"]), number
    _draft(state, clause, item, number, None)


def _total_in(state: State, clause: Clause, item: Phrase) -> None:
    state.amounts.append(Amount(size_of(item.parts["s"]) or 0, "total", item))
    _draft(state, clause, item, count_of(item.parts["n"]) or 1, None)


def _kits_of(state: State, clause: Clause, item: Phrase) -> None:
    item.used = True
    number, size = count_of(item.parts["n"]) or 1, size_of(item.parts["s"]) or 0
    answers = (f"{2 * number}x{size_text(size // 2)}", f"{number}x{size_text(size)}")
    state.ask("modules", f"{number} kits of {size_text(size)}: which modules are these?", answers, item)


def _some(state: State, clause: Clause, item: Phrase) -> None:
    if item.says == "some" or not state.promise:
        item.used = True
        state.amounts.append(Amount(size_of(item.parts["s"]) or 0, "some", item))


def _each(state: State, clause: Clause, item: Phrase) -> None:
    item.used = True
    if "t" in item.parts and (slots := count_of(item.parts["t"])) is not None:
        state.slots.total = state.slots.used = slots
    state.each.append((size_of(item.parts["s"]) or 0, item))


def _in_slot(state: State, clause: Clause, item: Phrase) -> None:
    _draft(state, clause, item, 1, size_of(item.parts["s"]))


def _size(state: State, clause: Clause, item: Phrase) -> None:
    size = size_of(item.parts["s"])
    if size is not None:
        state.amounts.append(Amount(size, "" if item.says == "size" else "bare", item))


def _all_slots(state: State, clause: Clause, item: Phrase) -> None:
    """`all four slots have 8 GB modules`: as many are filled as there are, where an amount is told of them."""
    both = any(state.tokens[at].means("both") and not state.tokens[at].means("all") for at in range(item.first, item.last + 1))
    item.used = True
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


def _says_each(state: State, clause: Clause, item: Phrase) -> bool:
    """Return whether the clause says that an amount is that of each: `32GB RDIMM each`, `each says 4 GB`."""
    counted = "one" in item.parts and item.parts["one"].number("count_word") == 1 and item.parts["one"].text not in ("a", "an")
    return not counted and any(
        len(state.tokens[at].text) > 1 and not item.first <= at <= item.last and not _in_other(clause, item, at)
        for at in state.places(clause, "each")
    )


def _fills(state: State, clause: Clause, item: Phrase) -> bool:
    """Return whether slots are filled with it: `4 slots, 2 full with 8s`."""
    used = any(other.says in ("slots_used", "slots_filled") and other.last < item.first for other in clause.items)
    before = [other for other in clause.items if other.says in ("slots_used", "slots_filled") and other.last < item.first]
    if before and state.tokens[before[-1].last].text.endswith(" with") and item.first - before[-1].last <= 2:
        return True
    return used and any(state.tokens[at].means("with") for at in range(max(clause.first, item.first - 2), item.first))


def _in_other(clause: Clause, item: Phrase, at: int) -> bool:
    return any(other.first <= at <= other.last for other in clause.items if other is not item)


def _is_of_each(state: State, clause: Clause, item: Phrase) -> bool:
    """Return whether so many modules are in each of several: `two processors, each with 4 x 16 GB`."""
    return any(state.tokens[at].means("each_one") for at in range(clause.first, item.first))


def _is_turned_by_blank(state: State, item: Phrase) -> bool:
    """Return whether the count is behind: `16 x1`."""
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


def _turned(parts: dict[str, Token]) -> bool:
    """Return whether count and size may be the other way round: `16x2`."""
    count, size = parts.get("n"), parts["s"]
    if count is None or not count.means("count_times") or not size.means("gib", "gib_small") or size.means("size"):
        return False
    number = int(count.value)
    return number > float(size.value) and float(size.value) <= 8 and number in (8, 12, 16, 24, 32, 48, 64) and is_module_size(number << 30)


def is_a_size(parts: dict[str, Token]) -> bool:
    """Return whether a number before one form is its size: `4 soldered + 16 SODIMM`, and no number of SODIMMs."""
    form = parts.get("form")
    return form is not None and not form.text.endswith("s") and parts["n"].means("gib")


def form_of(parts: dict[str, Token]) -> dict[str, object]:
    """Return the form that a count names: `2 SODIMMs`."""
    token = parts.get("form")
    return {"form": next(form for kind, form in FORMS.items() if token.means(kind))} if token is not None else {}


def add_sum(state: State, clause: Clause, item: Phrase) -> None:
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
    state.drafts += [Described(1, size, clause=item.clause, line=clause.line) for size in sizes]
    if dashes:
        state.slots.total = len(tokens) + dashes
    if "t" in parts and (total := size_of(parts["t"])) is not None:
        state.amounts.append(Amount(total, "total", item))


def _soldered(state: State, clause: Clause, item: Phrase) -> None:
    """`8 GB soldered`; `32GB LPDDR5 on board`: what was said just before it in the clause is soldered."""
    if "s" in item.parts:
        _draft(state, clause, item, 1, size_of(item.parts["s"]), {"form": Form.SOLDERED})
        return
    item.used = True
    for draft in state.drafts[::-1]:
        if draft.clause == item.clause and not draft.slot and "form" not in draft.facts and draft.count == 1:
            draft.facts["form"] = Form.SOLDERED
            return
    for amount in state.amounts[::-1]:
        if amount.item.clause == item.clause and amount.role in ("", "memory", "bare"):
            state.amounts.remove(amount)
            state.drafts.append(Described(1, amount.size_bytes, {"form": Form.SOLDERED}, clause=item.clause))
            return
    state.said.setdefault("form", []).append((item.clause, Form.SOLDERED, item))


def count_before(state: State, item: Phrase) -> int:
    """Return how many are counted right before a label: `2x`, `2 x`, `two`, `2 pcs`; 1 where nothing counts."""
    counting = state.tokens[max(0, item.first - 2) : item.first]
    if counting and counting[-1].means("times", "pieces"):
        counting = counting[:-1]
    elif not (counting and counting[-1].means("count_times", "number_word")):
        return 1
    number = count_of(counting[-1]) if counting else None
    if number is None or not 0 < number <= 16:
        return 1
    item.first = state.tokens.index(counting[-1])  # The count is a part of what is said of the label.
    return number


def labelled(state: State, clause: Clause, item: Phrase) -> list[Described]:
    """Return the module of a whole label, as many as were counted before it."""
    label = item.parts["g"].value
    item.parts["_done"] = item.used = True
    count = count_before(state, item)
    facts = label_facts(label)
    ask_about_misprint(state, item, label)
    return [Described(count, label.size_bytes, facts, clause=item.clause, line=clause.line, label=label, label_item=item)]


def read_same(state: State, item: Phrase, name: str) -> None:
    """`same in the other slot`: one more of the module that was told before it."""
    told = [draft for draft in state.drafts if draft.size_bytes is not None or draft.facts]
    if not told:
        return
    item.used = True
    last = told[-1]
    if name or last.slot:
        if name:
            state.drafts.append(Described(1, last.size_bytes, dict(last.facts), name, last.clause, last.line))
            return
        state.drafts.append(Described(1, last.size_bytes, dict(last.facts), "", last.clause, last.line))
    else:
        last.count += 1
    if any(state.tokens[at].means("other") for at in range(item.first, item.last + 1)):
        state.slots.total = state.slots.used = last.count if not last.slot else 2


def settle_both(state: State) -> None:
    """`both say 4GB 1Rx8`: what is described once is there twice; where "both" is said apart from the only module, it is asked."""
    drafts = state.drafts
    if state.promise or len(drafts) != 1 or drafts[0].count != 1 or drafts[0].slot:
        return
    phrased = {at for clause in state.clauses for item in clause.items for at in range(item.first, item.last + 1)}
    for number, clause in enumerate(state.clauses):
        loose = [state.tokens[at] for at in range(clause.first, clause.end) if at not in phrased]
        if clause.scope is not Scope.NOW or not any(token.means("both") and not token.means("all") for token in loose):
            continue
        if drafts[0].clause == number:
            drafts[0].count = 2
        else:
            state.ask("modules", "Both are told of, and one is described: which modules are there?")
            state.drafts = []
        return


def ask_about_broken(state: State) -> None:
    """`four sticks of 4 GB, one is dead`: nobody says whether it is still in."""
    whole = sum(draft.count for draft in state.drafts if not draft.slot)
    if state.promise or len(state.drafts) != 1:
        return
    for clause in state.clauses:
        words = [state.tokens[at] for at in range(clause.first, clause.end)]
        if (
            clause.scope is not Scope.NOW
            or not any(word.means("broken") for word in words)
            or any(word.means("slot", "slots") for word in words)
        ):
            continue
        if any(item.says in ("group", "size", "bare", "sum", "some") for item in clause.items):
            continue
        counts = [number for word in words if word.means("count_word", "number_word") and (number := count_of(word)) is not None]
        if counts and 0 < counts[0] < whole:
            state.ask("modules", f"{counts[0]} of {whole} is told to be broken: which modules are in it now?")
            state.drafts = []
            return


_READERS: dict[str, Callable[[State, Clause, Phrase], None]] = {
    **dict.fromkeys(("group", "one"), _group),
    **dict.fromkeys(("some", "one_more"), _some),
    **dict.fromkeys(("size", "bare"), _size),
    **{"counted": _counted, "part_of": _part_of, "sum": add_sum, "from_to": _from_to, "counted_in": _counted_in, "total_in": _total_in},
    **{"kits_of": _kits_of, "all_slots": _all_slots, "each": _each, "soldered": _soldered, "in_slot": _in_slot},
}
