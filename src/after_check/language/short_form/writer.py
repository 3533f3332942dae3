"""Writing a reading in the notation, so that reading it gives the same values again."""

from __future__ import annotations

import re
from collections.abc import Callable
from itertools import groupby
from typing import Any

from after_check.domain.boards import Filling, Slot, short_name
from after_check.domain.facts import Fact, Source, T
from after_check.domain.modules import Module, Profile
from after_check.domain.quantities import size_notation
from after_check.domain.readings import NoticeKind, RateUnit, Reading, ShownRate, SoakResult, StartOutcome
from after_check.language.short_form.items import quote

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
    return f"{generation}-{rate}" if generation and rate else generation or rate


def _organisation(module: Module) -> str:
    width = _unless_label(module.device_width_bits, str)
    return _unless_label(module.ranks, lambda ranks: f"{ranks}Rx{width}" if width else f"{ranks}R")


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


def _run(rate: ShownRate) -> str:
    return f"run {rate.number:g}{'' if rate.unit is RateUnit.NONE else rate.unit.value}"


_FACTS: tuple[tuple[str, Callable[[Any], str]], ...] = (
    ("running_rate", _run),
    ("channels", lambda count: _CHANNELS.get(count) or f"channels {count}"),
    ("profile", lambda state: f"profile {state.value}"),
    ("total_bytes", lambda size: f"total {size_notation(size)}"),
    ("usable_bytes", lambda size: f"usable {size_notation(size)}"),
    ("graphics_bytes", lambda size: f"graphics {size_notation(size)}"),
    ("borrowed_bytes", lambda size: f"graphics may borrow {size_notation(size)}"),
    ("reserved_bytes", lambda size: f"reserved {size_notation(size)}"),
    ("in_use_bytes", lambda size: f"in use {size_notation(size)}"),
    ("available_bytes", lambda size: f"available {size_notation(size)}"),
    ("slot_count", lambda count: f"slots {count}"),
    ("rate_cap_mts", lambda cap_mts: f"cap {cap_mts}"),
    ("system_limit_bytes", lambda size: f"limit {size_notation(size)}"),
    ("redundancy", lambda redundancy: redundancy.value),
    ("timings", str),
    ("voltage_mv", lambda voltage_mv: _volts(voltage_mv)),
    ("ecc_on", lambda on: f"ecc {'on' if on else 'off'}"),
    ("ecc_errors", lambda count: f"ecc-errors {count}"),
    ("uncorrected_errors", lambda count: f"uncorrected {count}"),
    ("soak", lambda result: _soak(result)),
    ("start", lambda outcome: "not-started" if outcome is StartOutcome.NOT_TRIED else f"start {outcome.value}"),
    ("read_gbs", lambda gbs: f"read {round(gbs, 3):g} GB/s"),
    ("write_gbs", lambda gbs: f"write {round(gbs, 3):g} GB/s"),
    ("copy_gbs", lambda gbs: f"copy {round(gbs, 3):g} GB/s"),
    ("latency_ns", lambda nanoseconds: f"latency {round(nanoseconds, 3):g} ns"),
    ("benchmark", lambda outcome: f"benchmark {outcome.value}"),
    ("off_under_load", lambda off: "off-under-load" if off else ""),
    ("virtual", lambda virtual: "virtual" if virtual else ""),
    ("settings_reset", lambda reset: "reset" if reset else ""),
    ("memory_changed", lambda changed: "memory-changed" if changed else ""),
    ("restart_pending", lambda pending: "pending" if pending else ""),
    ("system_bits", lambda bits: f"bits {bits}"),
)
"""Field of a reading, and how its value is written."""


def _facts(reading: Reading) -> list[str]:
    known = [(getattr(reading, name), words) for name, words in _FACTS]
    facts = [_soak(result) for result in reading.earlier_soaks]
    facts += [words(fact.value) for fact, words in known if fact is not None]
    version = reading.machine.firmware_version
    if version is not None and version.source is Source.TYPED:
        facts.append(f"firmware {version.value if _PLAIN_NAME.match(version.value) else quote(version.value)}")
    if len(reading.nodes) > 1:
        facts.append(f"nodes {'+'.join(size_notation(node.total_bytes) for node in reading.nodes)}")
    if any(notice.kind is NoticeKind.RIGHTS and notice.where == "typed" for notice in reading.notices):
        facts.append("no-rights")
    facts += [f"note {quote(note.what)}" for note in reading.notices if note.kind is NoticeKind.REMARK and note.where == "typed"]
    if reading.via is not None:
        facts.append(f"via {reading.via.value}")
    return [fact for fact in facts if fact]


def _soak(result: SoakResult) -> str:
    words = ["soak", f"errors {result.errors}" if result.errors else "clean"]
    words += [f"{result.minutes}min"] if result.minutes is not None else []
    words += [f"{result.passes} pass{'es' if result.passes != 1 else ''}"] if result.passes is not None else []
    words += [f"{result.covered_percent}%"] if result.covered_percent is not None else []
    words += [f"by {result.by if _PLAIN_NAME.match(result.by) else quote(result.by)}"] if result.by else []
    return " ".join(words)


def _volts(millivolts: int) -> str:
    return f"{millivolts / 1000:g}V"
