"""Writing a reading in the notation, so that reading it gives the same values again."""

from __future__ import annotations

import re
from collections.abc import Callable
from itertools import groupby

from after_check.domain.boards import Filling, Slot, short_name
from after_check.domain.facts import Fact, Source, T
from after_check.domain.modules import Module, Profile
from after_check.domain.quantities import size_notation
from after_check.domain.readings import RateUnit, Reading
from after_check.sources.notation.items import quote

_PLAIN_NAME = re.compile(r"[^\s\";=]+\Z")
_PLAIN_SLOT = re.compile(r"[^\s\";=]+(?: [^\s\";=]+)*\Z")
_CHANNELS = {1: "single", 2: "dual", 3: "triple", 4: "quad"}


def write(reading: Reading) -> str:
    """Return the line of notation for a reading. Sources, the machine and raw evidence have no place in it."""
    items = [_slot(slot) for slot in reading.slots]
    for words, group in groupby(write_module(module) for module in reading.loose):
        items.append(f"{len(list(group))}x{words}")
    return "; ".join(items + _facts(reading))


def write_module(module: Module) -> str:
    """Return the words for one module; what its label says already is left to the label."""
    words = [
        _unless_label(module.size_bytes, size_notation),
        quote(module.label.value) if module.label else "",
        _sold_as(module),
        _unless_label(module.timings, str),
        _organisation(module),
        _unless_label(module.voltage_mv, _volts),
        _unless_label(module.ecc, lambda ecc: "ecc" if ecc else "noecc"),
        _unless_label(module.form, lambda form: form.value.lower()),
        _named("maker", module.maker),
        _named("part", module.part),
        _named("serial", module.serial),
        f"date {module.made.value}" if module.made else "",
        _unless_label(module.standard_mts, lambda rate_mts: f"std {rate_mts}"),
    ]
    if module.profiles is not None:
        words += [_profile(profile) for profile in module.profiles.value] or ["noprof"]
    return " ".join(word for word in words if word) or "module"


def _unless_label(fact: Fact[T] | None, words: Callable[[T], str]) -> str:
    return "" if fact is None or fact.source is Source.LABEL else words(fact.value)


def _sold_as(module: Module) -> str:
    generation = _unless_label(module.generation, str)
    rate = _unless_label(module.rated_mts, str)
    return f"{generation}-{rate}" if generation and rate else generation


def _organisation(module: Module) -> str:
    width = _unless_label(module.device_width_bits, str)
    return _unless_label(module.ranks, lambda ranks: f"{ranks}Rx{width}") if width else ""


def _named(word: str, fact: Fact[str] | None) -> str:
    return f"{word} {fact.value if _PLAIN_NAME.match(fact.value) else quote(fact.value)}" if fact else ""


def _slot(slot: Slot) -> str:
    plain = _PLAIN_SLOT.match(slot.name) and short_name(slot.name) == slot.name
    name = slot.name if plain else quote(slot.name)
    if slot.module is not None:
        return f"{name}={write_module(slot.module)}"
    return f"{name}={'-' if slot.filling is Filling.EMPTY else '?'}"


def _profile(profile: Profile) -> str:
    timings = f"@{profile.timings}" if profile.timings else ""
    volts = f"/{_volts(profile.voltage_mv)}" if profile.voltage_mv else ""
    return f"prof{profile.number} {profile.rate_mts}{timings}{volts}"


def _facts(reading: Reading) -> list[str]:
    facts: list[str] = []
    if reading.running_rate is not None:
        rate = reading.running_rate.value
        facts.append(f"run {rate.number:g}{'' if rate.unit is RateUnit.NONE else rate.unit.value}")
    if reading.channels is not None:
        facts.append(_CHANNELS.get(reading.channels.value) or f"channels {reading.channels.value}")
    if reading.profile is not None:
        facts.append(f"profile {reading.profile.value.value}")
    for name, fact in (("total", reading.total_bytes), ("usable", reading.usable_bytes), ("graphics", reading.graphics_bytes)):
        if fact is not None:
            facts.append(f"{name} {size_notation(fact.value)}")
    if reading.timings is not None:
        facts.append(str(reading.timings.value))
    if reading.voltage_mv is not None:
        facts.append(_volts(reading.voltage_mv.value))
    if reading.ecc_on is not None:
        facts.append(f"ecc {'on' if reading.ecc_on.value else 'off'}")
    if reading.ecc_errors is not None:
        facts.append(f"ecc-errors {reading.ecc_errors.value}")
    for word, flag in (("virtual", reading.virtual), ("reset", reading.settings_reset), ("pending", reading.restart_pending)):
        if flag is not None and flag.value:
            facts.append(word)
    if reading.via is not None:
        facts.append(f"via {reading.via.value}")
    if reading.system_bits is not None:
        facts.append(f"bits {reading.system_bits.value}")
    return facts


def _volts(millivolts: int) -> str:
    return f"{millivolts / 1000:g}V"
