"""What was understood of a line, piece by piece: what each piece means, and what it might be instead, for whoever corrects it."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, replace
from itertools import groupby
from typing import Any

from after_check.domain.boards import Filling, Slot
from after_check.domain.cards import Card
from after_check.domain.fact_table import FactKind, known_facts, rows
from after_check.domain.facts import Fact, Source, value_of
from after_check.domain.modules import Form, Generation, Module
from after_check.domain.quantities import GIB, counted, size_text
from after_check.domain.readings import ProfileState, RateUnit, Reading, ShownRate
from after_check.language.words.figures import is_size_of, usual_rates
from after_check.standards.rates import STANDARD_RATES_MTS, same_rate

MOST_CHOICES = 9
"""One key each."""
_LIKELY_SIZES_GIB = (8, 16, 32, 4, 64, 24, 48, 2, 1)
_LIKELY_KINDS = (Generation.DDR4, Generation.DDR5, Generation.DDR3, Generation.LPDDR5, Generation.LPDDR4X, Generation.DDR2)


def likely_sizes(others: Iterable[Module], card: Card | None, generation: Generation | None = None) -> tuple[int, ...]:
    """Return sizes in bytes, the likeliest first: those beside it, their doubles, the usual ones; none that the machine does not take."""
    beside = [size for module in others if (size := value_of(module.size_bytes))]
    found = [*beside, *(2 * size for size in beside), *(gib * GIB for gib in _LIKELY_SIZES_GIB)]
    most = card.module_bytes if card is not None and card.module_bytes else None
    generation = generation or (card.generation if card is not None else None)
    fitting = [size for size in dict.fromkeys(found) if is_size_of(size, generation) and (most is None or size <= most)]
    return tuple(fitting)[:MOST_CHOICES]


def likely_kinds(others: Iterable[Module], card: Card | None) -> tuple[Generation, ...]:
    """Return generations, the likeliest first: what the machine takes and what is beside it come before all others."""
    beside = [kind for module in others if (kind := value_of(module.generation))]
    known = [card.generation] if card is not None and card.generation is not None else []
    return tuple(dict.fromkeys((*known, *beside, *_LIKELY_KINDS)))[:MOST_CHOICES]


def likely_rates(generation: Generation, others: Iterable[Module], card: Card | None) -> tuple[int, ...]:
    """Return what such modules are sold as, in MT/s: as those beside it, as fast as the machine goes, then the standard rates."""
    beside = [rate for module in others if value_of(module.generation) in (generation, None) and (rate := value_of(module.rated_mts))]
    fastest = [card.highest_rate_mts] if card is not None and card.highest_rate_mts else []
    known = usual_rates(generation)
    found = (*beside, *(rate for rate in fastest if rate in known), *reversed(STANDARD_RATES_MTS[generation]))
    return tuple(dict.fromkeys(found))[:MOST_CHOICES]


_SIZES_GIB = (1, 2, 4, 8, 12, 16, 24, 32, 48, 64, 96, 128)
_COUNTS = (1, 2, 4)
_WITH_PROFILES = (Generation.DDR4, Generation.DDR5)
_KINDS = (Generation.DDR3, Generation.DDR4, Generation.DDR5)
_FORMS = (Form.UDIMM, Form.SODIMM, Form.RDIMM, Form.SOLDERED)
_PROFILES = (ProfileState.OFF, ProfileState("1"), ProfileState("2"), ProfileState.AUTO, ProfileState.LOCKED)
_CHANNELS = {1: "single channel", 2: "dual channel", 3: "triple channel", 4: "quad channel"}
_ASKED_FOR = ("running_rate", "channels", "profile", "soak")
"""Facts with pieces of their own; the result of a test is no piece of a board."""


@dataclass(frozen=True, slots=True)
class Choice:
    """What a piece might be instead, in words, and the reading with it."""

    words: str
    reading: Reading


@dataclass(frozen=True, slots=True)
class Piece:
    """One thing that was understood: what it means, and at most nine things that it might be instead."""

    words: str
    choices: tuple[Choice, ...] = ()


def pieces_of(reading: Reading) -> tuple[Piece, ...]:
    """Return what a reading says, piece by piece, in the order in which people say it."""
    found = [*_slots(reading), *_loose(reading), *_facts(reading)]
    return tuple(Piece(piece.words, piece.choices[:MOST_CHOICES]) for piece in found)


def usually_next(reading: Reading, promise: bool = False) -> tuple[str, ...]:
    """Return what is usually said next of a machine, as short questions; what was said is not asked."""
    modules = reading.modules
    if not modules and reading.total_bytes is None:
        return ("which modules?", "total?")
    may_have_profile = any(module.generation and module.generation.value in _WITH_PROFILES for module in modules)
    open_ones = [
        ("kind, like DDR4?", bool(modules) and any(module.generation is None for module in modules)),
        ("sold as, like 3200?", promise and bool(modules) and any(module.rated_mts is None for module in modules)),
        ("runs at?", not promise and reading.running_rate is None),
        ("channels?", reading.channels is None and len(modules) != 1),
        ("profile?", reading.profile is None and may_have_profile),
        ("usable?", not promise and reading.usable_bytes is None),
    ]
    return tuple(words for words, is_open in open_ones if is_open)[:4]


def _slots(reading: Reading) -> Iterator[Piece]:
    for index, slot in enumerate(reading.slots):
        words = f"{slot.name}: {module_words(slot.module)}" if slot.module is not None else f"{slot.name}: {_filling_words(slot)}"
        make = _slot_maker(reading, index)
        choices = [Choice(size_text(size), make(_sized(slot.module, size))) for size in _sizes_near(slot.module)]
        if slot.filling is not Filling.EMPTY:
            choices.append(Choice("empty", make(None)))
        yield Piece(words, tuple(choices))


def _slot_maker(reading: Reading, index: int) -> Callable[[Module | None], Reading]:
    def make(module: Module | None) -> Reading:
        slots = list(reading.slots)
        slots[index] = Slot(slots[index].name, Filling.FILLED if module is not None else Filling.EMPTY, module, slots[index].bank)
        return replace(reading, slots=tuple(slots))

    return make


def _loose(reading: Reading) -> Iterator[Piece]:
    at = 0
    for module, group in groupby(reading.loose):
        count = len(list(group))
        yield from _group(reading, at, count, module)
        at += count


def _group(reading: Reading, at: int, count: int, module: Module) -> Iterator[Piece]:
    """Yield the pieces of so many equal modules without a slot: count and size, kind, and each further word."""

    def made(other: Module, number: int = count) -> Reading:
        loose = (*reading.loose[:at], *[other] * number, *reading.loose[at + count :])
        return replace(reading, loose=loose)

    size = value_of(module.size_bytes)
    words = f"{count} × {size_text(size)}" if size is not None else counted(count, "module")
    choices = [Choice(f"{number} ×", made(module, number)) for number in _COUNTS if number != count]
    choices += [Choice(size_text(other), made(_sized(module, other))) for other in _sizes_near(module)]
    yield Piece(words, tuple(choices))
    generation, rated_mts = value_of(module.generation), value_of(module.rated_mts)
    if generation is not None:
        kinds = [Choice(str(kind), made(replace(module, generation=_typed(kind), rated_mts=None))) for kind in _KINDS if kind != generation]
        rates = [
            Choice(f"{generation}-{rate}", made(replace(module, rated_mts=_typed(rate)))) for rate in _rates_near(rated_mts, generation)
        ]
        yield Piece(f"{generation}-{rated_mts}" if rated_mts else str(generation), (*rates, *kinds))
    elif rated_mts is not None:
        yield Piece(
            f"sold as {rated_mts}", tuple(Choice(f"{kind}-{rated_mts}", made(replace(module, generation=_typed(kind)))) for kind in _KINDS)
        )
    if module.form is not None:
        forms = [Choice(form.value, made(replace(module, form=_typed(form)))) for form in _FORMS if form is not module.form.value]
        yield Piece(module.form.value.value, (*forms, Choice("leave it out", made(replace(module, form=None)))))
    if module.ecc is not None:
        other = not module.ecc.value
        yield Piece(_ecc_words(module.ecc.value), (Choice(_ecc_words(other), made(replace(module, ecc=_typed(other)))),))


def _facts(reading: Reading) -> Iterator[Piece]:
    def with_value(name: str, value: object) -> Reading:
        changes: dict[str, Any] = {name: None if value is None else _typed(value)}
        return replace(reading, **changes)

    if reading.running_rate is not None:
        shown = reading.running_rate.value
        choices = [Choice(f"{rate} MT/s", with_value("running_rate", ShownRate(rate, RateUnit.MTS))) for rate in _running_rates(reading)]
        choices.append(Choice("leave it out", with_value("running_rate", None)))
        yield Piece(f"runs at {shown.number:g} {shown.unit.value or 'MT/s'}", tuple(choices))
    if reading.channels is not None:
        channels = [Choice(words, with_value("channels", count)) for count, words in _CHANNELS.items() if count != reading.channels.value]
        said = _CHANNELS.get(reading.channels.value, counted(reading.channels.value, "channel"))
        yield Piece(said, (*channels, Choice("leave it out", with_value("channels", None))))
    if reading.profile is not None:
        states = [Choice(_profile_words(state), with_value("profile", state)) for state in _PROFILES if state is not reading.profile.value]
        yield Piece(_profile_words(reading.profile.value), (*states, Choice("leave it out", with_value("profile", None))))
    sizes = [row for row in rows() if row.kind is FactKind.SIZE and row.short]
    for row, fact in known_facts(reading):
        without = Choice("leave it out", row.put(reading, None))
        if row in sizes:
            others = [Choice(other.words, other.put(row.put(reading, None), fact)) for other in sizes if other is not row]
            yield Piece(f"{row.words} {row.said(fact.value)}", (*others[:5], without))
        elif row.kind is FactKind.FLAG and fact.value:
            yield Piece(row.words, (without,))
        elif row.name not in _ASKED_FOR and row.kind is not FactKind.FLAG:
            yield Piece(f"{row.words} {row.said(fact.value)}", (without,))


def _typed(value: Any) -> Fact[Any]:
    return Fact(value, Source.TYPED)


def _sized(module: Module | None, size_bytes: int) -> Module:
    return replace(module or Module(), size_bytes=_typed(size_bytes))


def _sizes_near(module: Module | None) -> list[int]:
    """Return the sizes next to that of a module, the nearest first; usual ones where it is not known."""
    size = value_of(module.size_bytes) if module is not None else None
    generation = value_of(module.generation) if module is not None else None
    sizes = [gib * GIB for gib in _SIZES_GIB if is_size_of(gib * GIB, generation)]
    if size is None:
        return [gib * GIB for gib in (4, 8, 16, 32)]
    return sorted((other for other in sizes if other != size), key=lambda other: max(other, size) / min(other, size))[:5]


def _rates_near(rated_mts: int | None, generation: Generation) -> list[int]:
    rates = [rate for rate in STANDARD_RATES_MTS[generation] if rated_mts is None or not same_rate(rate, rated_mts)]
    return sorted(sorted(rates, key=lambda rate: abs(rate - (rated_mts or max(rates))))[:6])


def _running_rates(reading: Reading) -> list[int]:
    """Return what the memory may run at instead: half and double of what was shown, and what the modules are sold as."""
    number = reading.running_rate.value.number if reading.running_rate is not None else 0
    sold_as = [rate for module in reading.modules if (rate := value_of(module.rated_mts))]
    generations = {value_of(module.generation) for module in reading.modules} - {None}
    usual = usual_rates(generations.pop()) if len(generations) == 1 else ()
    near = sorted(usual, key=lambda rate: abs(rate - number))[:4]
    found = [round(number * 2), round(number / 2), *sold_as, *near]
    return [rate for rate in dict.fromkeys(found) if 100 <= rate <= 20_000 and not same_rate(rate, number)][:6]


def module_words(module: Module, unknown: str = "filled") -> str:
    """Return a module in a few words: its size (or a word for one that is not known), kind and rate."""
    size, generation, rated_mts = value_of(module.size_bytes), value_of(module.generation), value_of(module.rated_mts)
    kind = f"{generation}-{rated_mts}" if generation and rated_mts else str(generation or rated_mts or "")
    return " ".join(part for part in (size_text(size) if size is not None else unknown, kind) if part)


def _filling_words(slot: Slot) -> str:
    return "empty" if slot.filling is Filling.EMPTY else "not looked at"


def _profile_words(state: ProfileState) -> str:
    named = {ProfileState.OFF: "profile off", ProfileState.AUTO: "profile automatic", ProfileState.LOCKED: "no choice of profile"}
    return named.get(state, f"profile {state.value}")


def _ecc_words(ecc: bool) -> str:
    return "with ECC" if ecc else "without ECC"
