"""The lines of a machine data sheet beneath its slots: what each says, what it is good for, what it may be, and what was typed for it."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

from after_check.domain.cards import Card, EccSupport, PlatformRate, ProfileChoice
from after_check.domain.modules import Form, Generation
from after_check.domain.outside_text import clean
from after_check.domain.quantities import GIB, parse_size, size_text
from after_check.standards.rates import HIGHEST_RATE_MTS, STANDARD_RATES_MTS

KINDS = ("desktop", "laptop", "small", "all-in-one", "server", "appliance")
_GENERATIONS = (Generation.DDR5, Generation.DDR4, Generation.DDR3, Generation.DDR2, Generation.LPDDR5, Generation.LPDDR4X)
_FORMS = (Form.UDIMM, Form.SODIMM, Form.RDIMM, Form.SOLDERED)
_ECC = {EccSupport.UNSUPPORTED: "not supported", EccSupport.OPTIONAL: "with or without", EccSupport.REQUIRED: "required"}
_PROFILES = {ProfileChoice.CHOICE: "can be chosen", ProfileChoice.LOCKED: "locked by the firmware", ProfileChoice.NONE: "no such setting"}
_TOTALS_GIB = (8, 16, 32, 64, 128, 256, 4, 512, 1024)
_MODULES_GIB = (4, 8, 16, 32, 48, 64, 2, 128, 256)
_STARTS_S = (15, 30, 45, 60, 120)
_LONGEST_S = (60, 120, 300, 600, 900)
_SECONDS = {"": 1, "s": 1, "sec": 1, "m": 60, "min": 60, "h": 3600}
_MOST_CHOICES = 9


@dataclass(frozen=True, slots=True)
class LimitChoice:
    """What a line may say, and the data sheet with it."""

    words: str
    card: Card


@dataclass(frozen=True, slots=True)
class LimitLine:
    """One line of the sheet. `good_for` is what is missing where it is a gap; `typed` raises ValueError where it is not understood."""

    words: str
    good_for: str
    example: str
    said: Callable[[Card], str]
    choices: Callable[[Card], tuple[LimitChoice, ...]]
    typed: Callable[[Card, str], Card]
    emptied: Callable[[Card], Card]


def _chosen(name: str, known: dict[Any, str], words: str, good_for: str, empty: Any = None) -> LimitLine:
    """Return a line that is one of a few words; `empty` is what stands for a gap, and tells a list from a single value."""

    def put(card: Card, value: Any) -> Card:
        changes: dict[str, Any] = {name: (value,) if empty == () else value}
        return replace(card, **changes)

    def said(card: Card) -> str:
        value = getattr(card, name)
        return ", ".join(known.get(one, str(one)) for one in value) if empty == () else known.get(value, str(value)) if value else ""

    def typed(card: Card, text: str) -> Card:
        wanted = text.casefold().replace("-", "").strip()
        names = {spelled.casefold().replace("-", ""): value for value, shown in known.items() for spelled in (shown, str(value))}
        if wanted not in names:
            raise ValueError(f"{text!r} is not one of: {', '.join(known.values())}")
        return put(card, names[wanted])

    return LimitLine(
        words,
        good_for,
        next(iter(known.values())),
        said,
        lambda card: tuple(LimitChoice(shown, put(card, value)) for value, shown in known.items())[:_MOST_CHOICES],
        typed,
        lambda card: replace(card, **{name: empty}),
    )


def _size(name: str, words: str, good_for: str, usual_gib: tuple[int, ...]) -> LimitLine:
    def put(card: Card, size_bytes: int | None) -> Card:
        changes: dict[str, Any] = {name: size_bytes}
        return replace(card, **changes)

    def typed(card: Card, text: str) -> Card:
        size_bytes = int(text) * GIB if re.fullmatch(r"\s*\d{1,5}\s*", text, re.ASCII) else parse_size(text)
        if not size_bytes:
            raise ValueError(f"{text!r} is no size; for instance 64 GB")
        return put(card, size_bytes)

    return LimitLine(
        words,
        good_for,
        "64 GB",
        lambda card: size_text(getattr(card, name)) if getattr(card, name) else "",
        lambda card: tuple(LimitChoice(size_text(gib * GIB), put(card, gib * GIB)) for gib in usual_gib),
        typed,
        lambda card: put(card, None),
    )


def _rate(per_channel: int, words: str, good_for: str) -> LimitLine:
    def put(card: Card, rate_mts: int | None) -> Card:
        others = [rate for rate in card.rates if rate.per_channel != per_channel]
        rates = others if rate_mts is None else [*others, PlatformRate(per_channel, rate_mts)]
        return replace(card, rates=tuple(sorted(rates, key=lambda rate: (rate.per_channel, rate.ranks or 0))))

    def said(card: Card) -> str:
        found = [rate for rate in card.rates if rate.per_channel == per_channel]
        ranks = {1: " with single-rank modules", 2: " with dual-rank modules"}
        return ", ".join(f"{rate.rate_mts} MT/s{ranks.get(rate.ranks or 0, '')}" for rate in found)

    def choices(card: Card) -> tuple[LimitChoice, ...]:
        rates = STANDARD_RATES_MTS[card.generation or Generation.DDR4]
        first = max(0, (len(rates) - _MOST_CHOICES) // 2)  # The middle ones of many: neither the first nor those that few machines reach.
        return tuple(LimitChoice(str(rate), put(card, rate)) for rate in rates[first : first + _MOST_CHOICES])

    def typed(card: Card, text: str) -> Card:
        match = re.fullmatch(r"\s*(\d{3,5})\s*(?:mt/s|mhz)?\s*", text, re.ASCII | re.IGNORECASE)
        if match is None or not 100 <= int(match[1]) <= HIGHEST_RATE_MTS:
            raise ValueError(f"{text!r} is no speed in MT/s; for instance 3200")
        return put(card, int(match[1]))

    return LimitLine(words, good_for, "3200", said, choices, typed, lambda card: put(card, None))


def _time(name: str, words: str, good_for: str, usual_s: tuple[int, ...]) -> LimitLine:
    def put(card: Card, seconds: int | None) -> Card:
        changes: dict[str, Any] = {name: seconds}
        return replace(card, **changes)

    def typed(card: Card, text: str) -> Card:
        match = re.fullmatch(r"\s*(\d{1,5})\s*(s|sec|m|min|h|)\s*", text.casefold(), re.ASCII)
        if match is None or not int(match[1]):
            raise ValueError(f"{text!r} is no time; for instance 35 s or 6 min")
        return put(card, int(match[1]) * _SECONDS[match[2]])

    return LimitLine(
        words,
        good_for,
        "35 s",
        lambda card: _time_words(getattr(card, name)) if getattr(card, name) else "",
        lambda card: tuple(LimitChoice(_time_words(seconds), put(card, seconds)) for seconds in usual_s),
        typed,
        lambda card: put(card, None),
    )


def _signs() -> LimitLine:
    def typed(card: Card, text: str) -> Card:
        return replace(card, signs=tuple(words for part in text.split(",") if (words := clean(part, 80))))

    return LimitLine(
        "signs of a good start",
        "the start watch offers them, one key each",
        "one short beep, fans slow down",
        lambda card: ", ".join(card.signs),
        lambda card: (),
        typed,
        lambda card: replace(card, signs=()),
    )


def _time_words(seconds: int) -> str:
    return f"{seconds // 60} min" if seconds >= 60 and seconds % 60 == 0 else f"{seconds} s"


LIMITS: tuple[LimitLine, ...] = (
    _chosen("generation", {kind: str(kind) for kind in _GENERATIONS}, "kind of memory", "says which modules fit at all"),
    _chosen("forms", {form: form.value for form in _FORMS}, "form", "says which modules fit at all", ()),
    _size("total_bytes", "most in all", "warns when more is fitted than the maker supports", _TOTALS_GIB),
    _size("module_bytes", "largest module", "warns when one module is larger than the maker supports", _MODULES_GIB),
    _chosen("ecc", _ECC, "modules with ECC", "says before buying which modules will start"),
    _chosen("profile", _PROFILES, "memory profile", "says whether full speed is only a setting away"),
    _rate(1, "speed, 1 a channel", "says how fast the machine itself allows"),
    _rate(2, "speed, 2 a channel", "says what a second module in a channel costs"),
    _time("usual_start_seconds", "starts in", "the start watch knows what is late", _STARTS_S),
    _time("longest_start_seconds", "first start, at most", "nobody cuts the power too early", _LONGEST_S),
    _signs(),
    _chosen("kind", {kind: kind for kind in KINDS}, "kind of machine", "only for finding it again", ""),
)


def gaps_filled(card: Card, other: Card) -> Card:
    """Return the card with what another one knows where it has a gap itself."""
    names = ("kind", "generation", "forms", "ecc", "total_bytes", "module_bytes", "profile", "slots", "rates", "supported_parts")
    starts = ("usual_start_seconds", "longest_start_seconds", "signs")
    changes: dict[str, Any] = {name: getattr(other, name) for name in (*names, *starts) if not getattr(card, name)}
    return replace(card, **changes)


def gaps(card: Card) -> int:
    """Return how many lines say nothing."""
    return sum(not line.said(card) for line in LIMITS)
