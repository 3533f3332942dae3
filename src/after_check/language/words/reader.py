"""From a text to what it says: tokens, phrases, clauses with their scope, facts, and what is left over. Docs: docs/words.md."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import Any

from after_check.domain.boards import Filling, Slot, board_order
from after_check.domain.facts import Fact, Source
from after_check.domain.modules import Form, Module
from after_check.domain.readings import Reading
from after_check.language.words.alternatives import ask_between, suppose_alternatives
from after_check.language.words.amounts import add_up, read_amounts, settle_amounts
from after_check.language.words.beside_labels import settle_labels
from after_check.language.words.chart import covered, says_nothing
from after_check.language.words.clauses import clauses_of
from after_check.language.words.counted import ask_about_broken, settle_both
from after_check.language.words.described import ask_about_mixed, read_described, spread
from after_check.language.words.fitted import read_fitted
from after_check.language.words.layout import laid_out
from after_check.language.words.pace import read_settings, settle_rates
from after_check.language.words.promised import asks_for_amount, read_changes, settle_changes
from after_check.language.words.results import read_results
from after_check.language.words.slot_counts import settle_slots
from after_check.language.words.state import Described, State, most
from after_check.language.words.table_rows import read_rows
from after_check.language.words.token import Token
from after_check.language.words.tokens import tokens
from after_check.language.words.totals import left_over
from after_check.language.words.understood import LeftAside, Scope, Understood
from after_check.standards.rates import same_rate

LONGEST_TEXT = 20_000
"""Characters that are looked at; a page that was pasted has fewer. What is behind them is not understood."""
MOST_PHRASES = 800
"""So much is said of no machine; what is behind that is not understood either."""
_MANY = 10


def understand(text: str, promise: bool = False, before: Reading | None = None, added: bool = False) -> Understood:
    """Return what a text says; of a promise, held against the reading on arrival where its words need that.

    What is `added` to a reading names a part of the modules: an amount beside them is that of the whole.
    """
    looked_at = text[:LONGEST_TEXT]
    records, prose = laid_out(looked_at)
    found = tokens(prose)
    items = covered(found)
    if len(items) > MOST_PHRASES:
        cut = found[items[MOST_PHRASES].first].start
        part = understand(text[:cut], promise, before, added)
        return replace(part, not_understood=(*part.not_understood, (cut, len(text))))
    clauses = clauses_of(found, items, promise)
    suppose_alternatives(found, clauses)
    state = State(looked_at, found, clauses, promise, added)
    changes = read_changes(state, before) if promise else None
    read_results(state)
    read_rows(state, records)
    read_fitted(state)
    read_described(state)
    read_amounts(state)
    settle_slots(state)
    add_up(state)
    settle_rates(state)
    settle_labels(state)
    spread(state)
    ask_about_mixed(state)
    settle_both(state)
    ask_about_broken(state)
    _ask_what_stays(state)
    if changes is not None:
        settle_changes(state, changes, before)
    read_settings(state)
    ask_between(state)
    settle_amounts(state)
    if promise:
        asks_for_amount(state)
    _ask_what_a_rate_is_of(state)
    if not records and _is_about_something_else(state):
        return Understood(Reading(), (), ((0, len(text)),))
    aside = tuple(LeftAside(item.start, item.end, item.scope) for clause in clauses for item in clause.items if item.scope is not Scope.NOW)
    aside += tuple(
        LeftAside(found[clause.first].start, found[clause.end - 1].end, clause.scope)
        for clause in clauses
        if clause.scope is not Scope.NOW
        and not clause.items
        and any(found[at].means("memory_test", "no_errors", "errors") for at in range(clause.first, clause.end))
    )
    left = list(_not_understood(state))
    if len(text) > LONGEST_TEXT:
        left.append((LONGEST_TEXT, len(text)))
    return Understood(_reading(state), tuple(state.asks), tuple(left), aside)


def _ask_what_a_rate_is_of(state: State) -> None:
    """A rate that nothing says what it is of: neither what runs, nor modules that are sold as it."""
    rate_mts = state.common.get("rated_mts")
    if (
        rate_mts is None
        or "generation" in state.asked
        or state.promise
        or state.drafts
        or "running_rate" in state.facts
        or _describes(state)
    ):
        return
    state.ask("running_rate", f"Is {rate_mts} what runs, or what modules are sold as?", (f"run {rate_mts}",))


def _ask_what_stays(state: State) -> None:
    """`swapped the 4gb stick for a 16`: where one of several may have gone, nobody says what else is in it."""
    if state.promise:
        return
    for clause in state.clauses:
        swapped = any(state.tokens[at].means("replace") for at in range(clause.first, clause.end))
        gone = [item for item in clause.items if item.scope is Scope.TRIED]
        coming = [item for item in clause.items if item.scope is Scope.NOW and item.says in ("group", "one", "size", "bare")]
        if (
            swapped
            and coming
            and len(gone) == 1
            and gone[0].says in ("one", "size", "bare")
            and not any((state.tokens[at].means("to") and not state.tokens[at].means("article")) for at in range(clause.first, clause.end))
        ):
            state.ask("modules", "One went out, and one came in: which modules are in it now?")
            state.drafts, state.amounts = [], [amount for amount in state.amounts if amount.role == "total"]


def _is_about_something_else(state: State) -> bool:
    """Return whether next to nothing of a text is known: a figure in a page about other things is no fact of a machine."""
    strange = sum("word" in token.kinds or "code" in token.kinds for token in state.tokens)
    known = sum(item.last - item.first + 1 for clause in state.clauses for item in clause.items)
    return strange >= _MANY and strange > 3 * known


def _reading(state: State) -> Reading:
    slots: list[Slot] = []
    loose: list[Module] = []
    if not state.drafts and _describes(state) and not (left_over(state) and not state.promise):
        state.drafts.append(Described(1, None))
    if not state.drafts and not state.promise:
        for name in ("voltage_mv", *(("timings",) if "running_rate" in state.facts else ())):
            if name in state.common:
                state.facts.setdefault(name, state.common[name])  # Of no module: what the memory runs at.
    blocked = "modules" in state.asked and not state.counts_stand and not any(draft.slot for draft in state.drafts)
    for draft in [] if blocked and not state.promise else state.drafts:
        module = _module(state, draft)
        if draft.slot and draft.slot not in {slot.name for slot in slots}:
            slots.append(Slot(draft.slot, Filling.FILLED, module))
        else:
            loose += [module] * min(draft.count, most())
    filled = {slot.name for slot in slots}
    both = filled & set(state.empty_slots)
    if both:
        name = sorted(both)[0]
        state.ask("slots", f"Is slot {name} empty, or filled?")
        slots = [slot for slot in slots if slot.name not in both]
    slots += [Slot(name, Filling.EMPTY) for name in dict.fromkeys(state.empty_slots) if name not in filled]
    slots.sort(key=board_order)
    facts: dict[str, Any] = {name: Fact(value, Source.TYPED) for name, value in state.facts.items() if not name.startswith("_")}
    count = (
        Fact(state.slots.total, Source.TYPED)
        if state.slots.total is not None and not state.promise and "slot_count" not in state.asked
        else None
    )
    return replace(Reading(slots=tuple(slots), loose=tuple(loose), slot_count=count), **facts)


def _describes(state: State) -> bool:
    """Return whether a kind or a name of modules was said, and no number of them."""
    # A rate alone says nothing of modules, unless it is another one than what runs; of a promise it is what they are to be sold as.
    running, rated = state.facts.get("running_rate"), state.common.get("rated_mts")
    is_another = running is not None and rated is not None and not any(same_rate(times * running.number, rated) for times in (1, 2))
    if state.promise:
        return bool(state.common) and not state.asked & {"modules"}  # Whatever was promised of modules is held against them.
    settled = {"voltage_mv", "timings", "serial", *(() if is_another else ("rated_mts",))}
    return bool(state.common.keys() - settled) and not state.asked & {"modules"}


def _module(state: State, draft: Described) -> Module:
    common = {} if draft.kept else dict(state.common)
    facts: dict[str, Any] = {**common, **draft.facts}
    if draft.is_soldered:
        facts["form"] = Form.SOLDERED
    if draft.size_bytes is not None:
        facts["size_bytes"] = draft.size_bytes
    return Module(**{name: Fact(value, Source.TYPED) for name, value in facts.items()})


def _not_understood(state: State) -> Iterator[tuple[int, int]]:
    """Yield the stretches of which nothing was made; words that say nothing of memory are passed over."""
    covered_at = {
        at
        for clause in state.clauses
        for item in clause.items
        if item.used or item.scope is not Scope.NOW
        for at in range(item.first, item.last + 1)
    }
    aside = {at for clause in state.clauses if clause.scope is not Scope.NOW for at in range(clause.first, clause.end)}
    for clause in state.clauses:  # the "not" before what is said not to be
        for item in clause.items:
            if item.scope in (Scope.NEGATED, Scope.TRIED, Scope.PAST):
                aside |= {
                    at
                    for at in range(clause.first, clause.end)
                    if state.tokens[at].means("not", "instead", "unseen", "replace", "starts", "no_start")
                }
    open_at: tuple[int, int] | None = None
    for at, token in enumerate(state.tokens):
        if at in covered_at or at in aside or _says_nothing(token, state.promise):
            if open_at is not None and not _is_sign(token):
                yield open_at
                open_at = None
            continue
        open_at = (open_at[0], token.end) if open_at is not None else (token.start, token.end)
    if open_at is not None:
        yield open_at


def _is_sign(token: Token) -> bool:
    return not any(map(str.isalnum, token.text))


_OF_PROMISES = ("twice", "triple", "replace", "smallest", "fill", "another", "put_in", "in_place", "there", "rest", "other")
"""Words of what a promise changes, which were read where it is made."""


def _says_nothing(token: Token, promise: bool) -> bool:
    if token.text in ("one", "ones"):
        return True
    if promise and token.means(*_OF_PROMISES) and not token.means("size", "frequency"):
        return True
    return _is_sign(token) or (token.means(*says_nothing()) and not token.means("number", "size", "frequency"))
