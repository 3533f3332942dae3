"""Writing a reading in the notation, so that reading it gives the same values again."""

from __future__ import annotations

import re
from itertools import groupby

from after_check.domain.boards import Filling, Slot, short_name
from after_check.domain.facts import Source
from after_check.domain.modules import Form, Module, Profile
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
    """Return the words for one module; `DDR4` and the like come without a rate where none is known."""
    words: list[str] = []
    if module.size_bytes is not None and module.size_bytes.source is not Source.LABEL:
        words.append(size_notation(module.size_bytes.value))
    if module.label is not None:
        words.append(quote(module.label.value))
    generation = module.generation.value if module.generation and module.generation.source is not Source.LABEL else None
    rated_mts = module.rated_mts.value if module.rated_mts and module.rated_mts.source is not Source.LABEL else None
    if generation and rated_mts:
        words.append(f"{generation}-{rated_mts}")
    elif generation:
        words.append(generation)
    if module.timings is not None and module.timings.source is not Source.LABEL:
        words.append(str(module.timings.value))
    if module.ranks and module.device_width_bits and module.ranks.source is not Source.LABEL:
        words.append(f"{module.ranks.value}Rx{module.device_width_bits.value}")
    if module.voltage_mv is not None and module.voltage_mv.source is not Source.LABEL:
        words.append(f"{_volts(module.voltage_mv.value)}")
    if module.ecc is not None and module.ecc.source is not Source.LABEL:
        words.append("ecc" if module.ecc.value else "noecc")
    if module.form is not None and module.form.source is not Source.LABEL:
        words.append("soldered" if module.form.value is Form.SOLDERED else module.form.value.lower())
    for name, fact in (("maker", module.maker), ("part", module.part), ("serial", module.serial)):
        if fact is not None:
            words.append(f"{name} {fact.value if _PLAIN_NAME.match(fact.value) else quote(fact.value)}")
    if module.made is not None:
        words.append(f"date {module.made.value}")
    if module.standard_mts is not None and module.standard_mts.source is not Source.LABEL:
        words.append(f"std {module.standard_mts.value}")
    if module.profiles is not None:
        words += [_profile(profile) for profile in module.profiles.value] or ["noprof"]
    return " ".join(words) or '""'


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
