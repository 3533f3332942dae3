"""Whom a log of tries may blame: every suspect with what it was worth before the first try, and where it would show.

The prior weights are relative and written out in docs/tries.md. They say what the trade says: a new module, a bad
contact and a slot are blamed most often, old modules that worked for years seldom.
"""

from __future__ import annotations

import itertools
import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from enum import StrEnum

from after_check.domain.cards import Card, EccSupport
from after_check.domain.facts import value_of
from after_check.domain.modules import Form
from after_check.domain.quantities import size_text
from after_check.domain.tries import Arrangement, SuspectKind, TryLog, TryModule

_WORKED_BEFORE = 0.1
_MADE_FOR_BOTH = 0.3
"""A machine with soldered memory and a slot was made to have both: how much less likely too many modules are, where sizes are not known."""
_MOST_PAIRS = 66
"""All pairs of twelve modules."""


class Mode(StrEnum):
    """How a fault shows: no start, a filled slot that is not seen, errors in a soak, or trouble under load and heat."""

    START = "start"
    SEEN = "seen"
    SOAK = "soak"
    HEAT = "heat"


MODULE_PRIOR, OLD_MODULE_PRIOR, SLOT_PRIOR, SEAT_PRIOR = 1.0, 0.06, 0.3, 0.25
SOLDERED_PRIOR, MARGINAL_PRIOR, LATER_SEAT_PRIOR = 0.3, 0.15, 0.04
CHANNEL_PRIOR, ORDER_PRIOR, ORDER_OF_SHEET_PRIOR, NOTHING_PRIOR = 0.06, 0.06, 0.3, 0.3
MIX_PRIOR, LIKE_MIX_PRIOR, MACHINE_PRIOR, OUTSIDE_PRIOR = 0.06, 0.02, 0.3, 0.1
TOTAL_PRIOR, TOTAL_BEYOND_CARD_PRIOR = 0.1, 1.0
KIND_PRIOR, KIND_AGAINST_CARD_PRIOR, PROFILE_PRIOR = 0.1, 2.0, 0.4
KIND_UNLIKE_BEFORE_PRIOR = 0.8
"""All new modules have ECC or are registered and what the machine had was not so, or the other way round: that is looked at first."""

MODES: dict[SuspectKind, dict[Mode, float]] = {
    SuspectKind.MODULE: {Mode.START: 0.35, Mode.SEEN: 0.35, Mode.SOAK: 0.3},
    SuspectKind.SLOT: {Mode.START: 0.2, Mode.SEEN: 0.6, Mode.SOAK: 0.2},
    SuspectKind.CONTACT: {Mode.START: 0.35, Mode.SEEN: 0.5, Mode.SOAK: 0.15},
    SuspectKind.MIX: {Mode.START: 0.45, Mode.SEEN: 0.2, Mode.SOAK: 0.35},
    SuspectKind.TOTAL: {Mode.START: 0.6, Mode.SEEN: 0.4},
    SuspectKind.KIND: {Mode.START: 0.7, Mode.SEEN: 0.3},
    SuspectKind.PROFILE: {Mode.START: 0.5, Mode.SOAK: 0.5},
    SuspectKind.MACHINE: {Mode.START: 0.6, Mode.SEEN: 0.2, Mode.SOAK: 0.2},
    SuspectKind.OUTSIDE: {Mode.HEAT: 1.0},
    SuspectKind.MARGINAL: {Mode.START: 0.4, Mode.SOAK: 0.6},
    SuspectKind.ORDER: {Mode.START: 0.8, Mode.SEEN: 0.2},
    SuspectKind.CHANNEL: {Mode.START: 0.35, Mode.SEEN: 0.35, Mode.SOAK: 0.3},
    SuspectKind.NOTHING: {Mode.START: 0.4, Mode.SEEN: 0.25, Mode.SOAK: 0.35},
}
"""How often a fault of each kind shows in each way."""


@dataclass(frozen=True)
class Culprit:
    """One thing that may be to blame. `where` gives the slots at which it would show in an arrangement; none: it is not at work."""

    kind: SuspectKind
    name: str
    prior: float
    where: Callable[[Arrangement], tuple[str, ...]]


def culprits_of(log: TryLog, card: Card | None = None) -> tuple[Culprit, ...]:
    """Return every suspect of a log, each once, in an order that does not depend on the order of the tries."""
    fitted = sorted({letter for attempt in log.tries for letter in attempt.arrangement.slot_of} | {module.letter for module in log.modules})
    modules = [log.by_letter.get(letter, TryModule(letter)) for letter in fitted]
    parts = (_modules(modules), _slots(log), _channels(log, card), _seats(log), _mixes(log), _totals(log, card))
    return tuple(itertools.chain(*parts, _kinds(modules, card), _marginal(log, modules), _orders(log, card), _others(log)))


def _modules(modules: list[TryModule]) -> Iterator[Culprit]:
    for module in modules:
        prior = OLD_MODULE_PRIOR if module.old or module.known_good else SOLDERED_PRIOR if module.soldered else MODULE_PRIOR
        yield Culprit(SuspectKind.MODULE, module.letter, prior, _with_modules({module.letter}))


def _slots(log: TryLog) -> Iterator[Culprit]:
    used = {slot for attempt in log.tries for slot, _ in attempt.arrangement.fitted}
    # Soldered memory has no slot that could be told from it.
    for slot in sorted({*log.slots, *used} - log.soldered.keys()):
        yield Culprit(SuspectKind.SLOT, slot, SLOT_PRIOR, lambda arrangement, slot=slot: (slot,) if slot in arrangement.module_in else ())  # type: ignore[misc]


def channels_of(log: TryLog, card: Card | None) -> dict[str, str]:
    """Return the channel of each slot, from the data sheet or by the letter that slots of one channel share; none where neither tells."""
    used = {slot for attempt in log.tries for slot, _ in attempt.arrangement.fitted}
    slots = sorted({*log.slots, *used})
    known = {slot: channel for slot in slots if card is not None and (channel := card.channel_of(slot))}
    if not known:
        known = {slot: slot[0] for slot in slots if re.fullmatch(r"[A-H]\d", slot)}
    names = set(known.values())
    return known if len(names) > 1 and len(known) > len(names) else {}


def _channels(log: TryLog, card: Card | None) -> Iterator[Culprit]:
    """A channel or its controller: all its slots at once. With one slot a channel nothing tells it from the slot."""
    known = channels_of(log, card)
    for name in sorted(set(known.values())):

        def where(arrangement: Arrangement, name: str = name) -> tuple[str, ...]:
            return tuple(slot for slot, _ in arrangement.fitted if known.get(slot) == name)

        yield Culprit(SuspectKind.CHANNEL, name, CHANNEL_PRIOR, where)


def _orders(log: TryLog, card: Card | None) -> Iterator[Culprit]:
    """Boards that start only where a certain slot is filled: the first one of the data sheet, or of the board as far as it is known."""
    sheet = log.order or (tuple(slot.name for slot in card.slots) if card is not None else ())
    used = {slot for attempt in log.tries for slot, _ in attempt.arrangement.fitted}
    slots = tuple(dict.fromkeys((*log.slots, *sorted(used))))
    if len(slots) < 2:
        return
    for number, slot in enumerate(slots):
        prior = ORDER_OF_SHEET_PRIOR if sheet and slot == sheet[0] else ORDER_PRIOR / (1 if number == 0 else len(slots))
        if all(slot in attempt.arrangement.module_in for attempt in log.tries):
            continue  # Never left empty: it was at work in no try.

        def where(arrangement: Arrangement, slot: str = slot) -> tuple[str, ...]:
            return () if slot in arrangement.module_in else _filled(arrangement)

        yield Culprit(SuspectKind.ORDER, slot, prior, where)


def _marginal(log: TryLog, modules: list[TryModule]) -> Iterator[Culprit]:
    """Modules that fail with the profile only; suspects where a profile was on in any try."""
    if not any(attempt.arrangement.profile_is_on for attempt in log.tries):
        return
    for module in modules:
        if module.old or module.soldered:
            continue

        def where(arrangement: Arrangement, letter: str = module.letter) -> tuple[str, ...]:
            return tuple(slot for slot, other in arrangement.fitted if other == letter) if arrangement.profile_is_on else ()

        yield Culprit(SuspectKind.MARGINAL, module.letter, MARGINAL_PRIOR, where)


def _seats(log: TryLog) -> Iterator[Culprit]:
    """Contacts: a module in a slot that it was tried in."""
    fixed = log.soldered.items()
    is_followed = any(attempt.reseated is not None for attempt in log.tries)
    pairs = {pair for attempt in log.tries for pair in attempt.arrangement.fitted if pair not in fixed}
    for slot, letter in sorted(pairs, key=lambda pair: (pair[1], pair[0])):

        def where(arrangement: Arrangement, slot: str = slot, letter: str = letter) -> tuple[str, ...]:
            return (slot,) if arrangement.module_in.get(slot) == letter else ()

        # Whoever looks for a fault seats modules with care: a contact is poor from the first rather than from a later try.
        later = is_followed and (slot, letter) not in log.tries[0].arrangement.fitted
        yield Culprit(SuspectKind.CONTACT, f"{letter} in {slot}", LATER_SEAT_PRIOR if later else SEAT_PRIOR, where)


def _mixes(log: TryLog) -> Iterator[Culprit]:
    """Pairs of modules that were tried together; alike ones seldom disagree."""
    pairs = {pair for attempt in log.tries for pair in itertools.combinations(sorted(attempt.arrangement.slot_of), 2)}
    if len(pairs) > _MOST_PAIRS:  # Of many modules only those that differ are worth the weighing.
        pairs = {(one, other) for one, other in pairs if not _are_alike(log.by_letter.get(one), log.by_letter.get(other))}
    for first, second in sorted(pairs)[:_MOST_PAIRS]:
        prior = LIKE_MIX_PRIOR if _are_alike(log.by_letter.get(first), log.by_letter.get(second)) else MIX_PRIOR
        both = {first, second}

        def where(arrangement: Arrangement, both: set[str] = both) -> tuple[str, ...]:
            slots = tuple(slot for slot, letter in arrangement.fitted if letter in both)
            return slots if len(slots) == len(both) else ()

        yield Culprit(SuspectKind.MIX, f"{first} + {second}", prior, where)


def _are_alike(first: TryModule | None, second: TryModule | None) -> bool:
    if first is None or second is None or first.old != second.old:
        return False
    one, other = first.module, second.module
    if one is None or other is None:
        return False
    part, other_part = value_of(one.part), value_of(other.part)
    return part is not None and part == other_part


def _totals(log: TryLog, card: Card | None) -> Iterator[Culprit]:
    """Too much in total, from each amount on that was tried; in modules where their sizes are not known."""
    sized = all(module.size_bytes for module in log.modules) and bool(log.modules)

    def amount(arrangement: Arrangement) -> int:
        return sum((log.by_letter[letter].size_bytes or 0) if sized and letter in log.by_letter else 1 for _, letter in arrangement.fitted)

    before = amount(Arrangement(tuple((module.letter, module.letter) for module in log.modules if module.old or module.soldered)))
    amounts = sorted({amount(attempt.arrangement) for attempt in log.tries if attempt.arrangement.fitted})
    limit = card.total_bytes if card is not None else None
    beyond = [value for value in amounts if sized and limit is not None and value > limit]
    for value in amounts[1:] if len(amounts) > 1 and not beyond else (beyond or amounts):
        prior = TOTAL_BEYOND_CARD_PRIOR if value in beyond else TOTAL_PRIOR / max(1, len(amounts) - 1)
        if value <= before:
            prior *= _WORKED_BEFORE  # As much as the machine had all the time.
        elif log.soldered and not sized:
            prior *= _MADE_FOR_BOTH
        name = f"{size_text(value)} or more" if sized else f"{value} modules or more"

        def where(arrangement: Arrangement, value: int = value) -> tuple[str, ...]:
            # The last slots filled are those that are too much.
            return tuple(slot for slot, _ in arrangement.fitted)[-1:] if amount(arrangement) >= value else ()

        yield Culprit(SuspectKind.TOTAL, name, prior, where)


def _kinds(modules: list[TryModule], card: Card | None) -> Iterator[Culprit]:
    """What some modules are and others are not, or what the card refuses."""
    found: dict[str, set[str]] = {}
    against: set[str] = set()
    for module in modules:
        for name, refused in _attributes(module, card):
            found.setdefault(name, set()).add(module.letter)
            if refused:
                against.add(name)
    for name, letters in sorted(found.items()):
        if name in against or len(letters) < len(modules):
            prior = KIND_AGAINST_CARD_PRIOR if name in against else _kind_prior(name, letters, modules)
            yield Culprit(SuspectKind.KIND, name, prior, _with_modules(letters))


def _kind_prior(name: str, letters: set[str], modules: list[TryModule]) -> float:
    before = {module.letter for module in modules if module.old or module.soldered}
    new = {module.letter for module in modules if module.is_new}
    told = name in ("with ECC", "without ECC", "registered")
    return KIND_UNLIKE_BEFORE_PRIOR if told and before and letters == new else KIND_PRIOR


def _attributes(module: TryModule, card: Card | None) -> Iterator[tuple[str, bool]]:
    """Yield what a module is, in words, and whether the card refuses it."""
    read = module.module
    if read is None:
        return
    ecc = value_of(read.ecc)
    if ecc is not None:
        needed = card is not None and card.ecc is EccSupport.REQUIRED
        yield ("with ECC", card is not None and card.ecc is EccSupport.UNSUPPORTED) if ecc else ("without ECC", needed)
    form = value_of(read.form)
    if form is not None:
        refused = card is not None and bool(card.forms) and form not in card.forms
        yield ("registered", refused) if form in (Form.RDIMM, Form.LRDIMM) else (f"of form {form.value}", refused)
    generation = value_of(read.generation)
    if generation is not None:
        yield f"of {generation.value}", card is not None and card.generation is not None and generation is not card.generation
    size = value_of(read.size_bytes)
    if size is not None:
        yield f"of {size_text(size)}", card is not None and card.module_bytes is not None and size > card.module_bytes
    part = value_of(read.part)
    if part and card is not None and card.supported_parts and part not in card.supported_parts:
        yield "not on the machine's list", False


def _others(log: TryLog) -> Iterator[Culprit]:
    for profile in sorted({attempt.arrangement.profile for attempt in log.tries if attempt.arrangement.profile_is_on}):

        def where(arrangement: Arrangement, profile: str = profile) -> tuple[str, ...]:
            return _filled(arrangement) if arrangement.profile == profile else ()

        yield Culprit(SuspectKind.PROFILE, f"profile {profile}", PROFILE_PRIOR, where)
    yield Culprit(SuspectKind.NOTHING, "came once", NOTHING_PRIOR, _filled)
    yield Culprit(SuspectKind.MACHINE, "machine", MACHINE_PRIOR, _filled)
    yield Culprit(SuspectKind.OUTSIDE, "heat, power or another part", OUTSIDE_PRIOR, _filled)


def _filled(arrangement: Arrangement) -> tuple[str, ...]:
    return tuple(slot for slot, _ in arrangement.fitted)


def _with_modules(letters: set[str]) -> Callable[[Arrangement], tuple[str, ...]]:
    return lambda arrangement: tuple(slot for slot, letter in arrangement.fitted if letter in letters)
