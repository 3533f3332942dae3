"""The total: what amounts are that no word explains, and whether sums, totals and what is usable agree. What does not is asked."""

from __future__ import annotations

from dataclasses import dataclass

from after_check.domain.modules import Generation
from after_check.domain.quantities import GIB, MIB, size_text
from after_check.language.words.figures import is_module_size, is_size_of
from after_check.language.words.state import Amount, Described, State
from after_check.language.words.token import Token
from after_check.language.words.understood import Scope
from after_check.standards.labels import can_be_built

_LARGEST_TOTAL, _SMALLEST_TOTAL, _ROUND_TOTAL = 8192 * GIB, GIB // 8, 2048 * GIB
_NEARLY = 0.02
_CHANGING = ("twice", "all", "both", "each", "empty", "filled", "other", "rest", "same", "plural", "broken", "pieces", "modules")
_OF_MODULES = ("sodimm", "udimm", "rdimm", "lrdimm", "ranks", "timings", "bin", "class")


@dataclass(slots=True)
class _Known:
    """Totals that were said, what the modules hold together, what the system can use, and amounts that nobody explains."""

    totals: list[int]
    whole: int | None
    usable: int | None
    loose: list[Amount]


def settle_total(state: State) -> None:
    """Settle the total, or ask."""
    _dedicated(state)
    known = _gathered(state)
    if _asked_of_loose(state, known):
        return
    if _take_loose(state, known):
        _agree(state, known)


def _gathered(state: State) -> _Known:
    """Return what was said of the total, the surest words first."""
    whole, usable = _whole(state), state.facts.get("usable_bytes")
    loose = [amount for amount in state.amounts if amount.role == ""]
    bare = [amount for amount in state.amounts if amount.role == "bare"]
    if not loose and len(bare) == 1 and _is_one_module(state, bare[0]):
        loose = bare
    loose = [amount for amount in loose if not _is_named_otherwise(state, amount)]
    totals = list(dict.fromkeys(amount.size_bytes for amount in state.amounts if amount.role == "total"))
    weak = [amount for amount in state.amounts if amount.role in ("memory", "seen")]
    if totals and not state.promise:
        weak = [amount for amount in weak if amount.role == "seen" or amount.size_bytes != usable]
    totals = list(dict.fromkeys((*totals, *(amount.size_bytes for amount in weak))))
    for amount in state.amounts:
        if amount.role != "system":
            continue
        more = any(total > amount.size_bytes for total in totals) or (whole or 0) > amount.size_bytes
        if usable is None and (amount.size_bytes % GIB or more):
            state.facts["usable_bytes"] = usable = amount.size_bytes
        elif amount.size_bytes not in totals:
            totals.append(amount.size_bytes)
    return _Known(totals, whole, usable, loose)


def _asked_of_loose(state: State, known: _Known) -> bool:
    """Ask about an amount that may be that of each module, or that is beside figures that nobody understands."""
    if known.totals or not known.loose or state.promise:
        return False
    if left := left_over(state):
        words = " ".join(dict.fromkeys(token.text for token in left[:3]))
        sizes = " and ".join(size_text(amount.size_bytes) for amount in known.loose)
        state.ask("modules", f"What are the {sizes}: {words} was not understood.", (), *[amount.item for amount in known.loose])
        state.counts_stand = True
        return True
    if len(known.loose) == 1 and _may_be_each(state, known.loose[0]):
        count, size = sum(draft.count for draft in state.drafts), known.loose[0].size_bytes
        known.loose[0].item.used = True
        state.counts_stand = True
        choices = (f"{count}x{size_text(size)}", f"total {size_text(size)}")
        state.ask("modules", f"{size_text(size)} in each of the {count} modules, or altogether?", choices, known.loose[0].item)
        return True
    return False


def _take_loose(state: State, known: _Known) -> bool:
    """Take amounts that no word explains as the total, as one module, or as modules of the total; return whether a total is left."""
    loose, whole = known.loose, known.whole
    one = len(loose) == 1
    if not known.totals and loose and not (one and _is_one_module(state, loose[0])):
        sizes = (amount.size_bytes for amount in loose if known.usable is None or amount.size_bytes >= known.usable or whole)
        known.totals = list(dict.fromkeys(sizes))
        soldered = bool(state.drafts) and all(draft.is_soldered for draft in state.drafts)
        is_more = soldered and whole is not None and loose[0].size_bytes > whole
        if whole is not None and one and loose[0].size_bytes != whole and not state.asked and not is_more:
            known.totals = []
            _ask_sum(state, whole, loose[0].size_bytes)
        for amount in loose:
            amount.item.used = amount.item.used or amount.size_bytes in known.totals
    elif one and known.totals and loose[0].size_bytes in (*known.totals, whole):
        loose[0].item.used = True
    elif one and not known.totals:
        _one_module(state, loose[0])
        return False
    elif len(loose) > 1 and known.totals and not state.drafts and sum(amount.size_bytes for amount in loose) in known.totals:
        for amount in loose:
            amount.item.used = True
            state.drafts.append(Described(1, amount.size_bytes, clause=amount.item.clause))
        known.whole = known.totals[0]
    return True


def _agree(state: State, known: _Known) -> None:
    """Hold the total against everything else that was said of it."""
    if len(known.totals) > 1 and not _one_of_several(state, known):
        return
    totals = [size for size in known.totals if size]
    if not totals or _asked_of_scale(state, known, totals[0]) or _asked_of_modules(state, known, totals[0]):
        return
    total, usable = totals[0], known.usable
    if usable is not None and usable > total * 1.001:
        state.facts.pop("usable_bytes", None)
        state.ask("usable_bytes", f"{size_text(usable)} usable of {size_text(total)}: which is right?")
        return
    single = sum(draft.count for draft in state.drafts) == 1 and known.whole is None and not state.drafts[0].slot
    if single and is_module_size(total) and not state.promise:
        state.drafts[0].size_bytes = total
        if not any(amount.role in ("total", "memory", "seen") for amount in state.amounts):
            return
    state.facts["total_bytes"] = total


def _one_of_several(state: State, known: _Known) -> bool:
    """Settle which of several totals is meant: what is shown of what is fitted, what is usable of the whole; else ask."""
    most = max(known.totals)
    rest = [size for size in known.totals if size != most]
    seen = any(amount.role == "seen" for amount in state.amounts)
    roles = {amount.role for amount in state.amounts if amount.size_bytes in known.totals}
    if known.whole in known.totals and len(known.totals) == 2 and seen and not state.promise and known.whole == most:
        known.totals = rest
        return True
    if (less := _seen_less(state, known.totals)) is not None:
        fitted, state.facts["total_bytes"] = less
        if not state.drafts:
            numbers = tuple(number for number in (2, 1, 4) if is_module_size(fitted // number))
            choices = tuple(f"{number}x{size_text(fitted // number)}" for number in numbers)
            state.ask("modules", f"{size_text(fitted)} are fitted: which modules are these?", choices)
        return False
    if len(roles) > 1 and all(size >= most * (1 - 2 * _NEARLY) for size in rest):
        known.totals = [most]
        if known.usable is None and not state.promise:
            state.facts["usable_bytes"] = known.usable = min(rest)
        return True
    words = " or ".join(size_text(size) for size in known.totals)
    state.ask("total_bytes", f"Is the total {words}?", tuple(f"total {size_text(size)}" for size in known.totals))
    return False


def _asked_of_scale(state: State, known: _Known, total: int) -> bool:
    """Ask about a total that no machine has: MB written for GB, or the other way round."""
    round_one = total >= _ROUND_TOTAL and total & (total - 1) == 0 and known.whole != total
    if _SMALLEST_TOTAL <= total <= _LARGEST_TOTAL and not round_one:
        return False
    guess = total * 1024 if total < _SMALLEST_TOTAL else total // 1024
    sure = known.usable is not None and total < known.usable <= guess
    words = f"Is the total {size_text(guess)}?" if sure else f"Is the total really {size_text(total)}, and not {size_text(guess)}?"
    state.ask("total_bytes", words, (f"total {size_text(guess)}",))
    return True


def _asked_of_modules(state: State, known: _Known, total: int) -> bool:
    """Hold the total against the modules; return whether it is settled or asked with them."""
    whole = known.whole
    if whole is None or whole == total or any(draft.kept for draft in state.drafts):
        return False
    seen = any(amount.role == "seen" for amount in state.amounts)
    if whole < total and all(draft.is_soldered for draft in state.drafts):
        rest = total - whole
        of_total = next((amount.item for amount in state.amounts if amount.size_bytes == total), None)
        if is_module_size(rest) and of_total is not None:
            parts = (f"1x{size_text(rest)}", f"2x{size_text(rest // 2)}")
            words = f"{size_text(whole)} of {size_text(total)} is soldered: what is the other {size_text(rest)}?"
            state.ask("modules", words, tuple(f"total {size_text(total)}, {part}" for part in parts), of_total)
        state.facts["total_bytes"] = total
    elif (state.added and total > whole) or seen or (whole * 0.9 <= total < whole and not state.promise):
        state.facts["total_bytes"] = total
    else:
        _ask_sum(state, whole, total)
        if not any(draft.slot for draft in state.drafts):
            state.drafts = []
    return True


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


def _is_named_otherwise(state: State, amount: Amount) -> bool:
    """Return whether a name that nobody knows is before an amount: `Bank0/1: 1024MB` is no total."""
    before = [state.tokens[at] for at in range(max(0, amount.item.first - 3), amount.item.first)]
    if len(before) < 2 or not before[-1].means("colon", "equals"):
        return False
    name = before[-2]
    return name.means("code", "number") or (name.means("word") and len(name.kinds) == 1)


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
    unseen = [
        clause for clause in state.clauses if any(state.tokens[at].means("unseen", "broken") for at in range(clause.first, clause.end))
    ]
    return any(
        token.means("module", "for_laptops") and not token.means("modules")
        for at, token in enumerate(state.tokens)
        if not any(clause.first <= at < clause.end for clause in unseen)  # "second stick not detected" counts no module
    )


def _one_module(state: State, amount: Amount) -> None:
    amount.item.used = True
    state.amounts.remove(amount)
    state.drafts.append(Described(1, amount.size_bytes, clause=amount.item.clause, counted=False))


def left_over(state: State) -> list[Token]:
    """Return figures and words of counts that nothing was made of: with them, an amount that is alone is no certain total."""
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


def check_sizes(state: State) -> None:
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
