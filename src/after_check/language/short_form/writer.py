"""Writing a reading in the notation, so that reading it gives the same values again."""

from __future__ import annotations

import re
from collections.abc import Callable
from itertools import groupby

from after_check.domain.boards import Filling, Slot, short_name
from after_check.domain.fact_table import FactKind, known_facts
from after_check.domain.facts import Fact, Source, T
from after_check.domain.modules import Module, Profile
from after_check.domain.quantities import size_notation
from after_check.domain.readings import NoticeKind, Reading
from after_check.language.short_form.fact_words import forms, plain_or_quoted, write_soak, write_volts
from after_check.language.short_form.items import quote

_PLAIN_SLOT = re.compile(r"[^\s\";=]+(?: [^\s\";=]+)*\Z")


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
        _unless_label(module.voltage_mv, write_volts),
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
    return f"{word} {plain_or_quoted(fact.value)}" if fact else ""


def _slot(slot: Slot) -> str:
    plain = _PLAIN_SLOT.match(slot.name) and short_name(slot.name) == slot.name
    name = slot.name if plain else quote(slot.name)
    if slot.module is not None:
        return f"{name}={write_module(slot.module)}"
    return f"{name}={'-' if slot.filling is Filling.EMPTY else '?'}"


def _profile(profile: Profile) -> str:
    timings = f"@{profile.timings}" if profile.timings else ""
    volts = f"/{write_volts(profile.voltage_mv)}" if profile.voltage_mv else ""
    return f"prof{profile.number} {profile.rate_mts}{timings}{volts}"


def _facts(reading: Reading) -> list[str]:
    facts = [write_soak(result) for result in reading.earlier_soaks]
    ways = forms()
    known = [(row, fact) for row, fact in known_facts(reading) if row.name in ways]
    # A flag is written where it is set: the line has no word for one that is not.
    known = [(row, fact) for row, fact in known if row.kind is not FactKind.FLAG or fact.value]
    facts += [ways[row.name][0].write(fact.value) for row, fact in known]
    version = reading.machine.firmware_version
    if version is not None and version.source is Source.TYPED:
        facts.append(f"firmware {plain_or_quoted(version.value)}")
    if len(reading.nodes) > 1:
        facts.append(f"nodes {'+'.join(size_notation(node.total_bytes) for node in reading.nodes)}")
    if any(notice.kind is NoticeKind.RIGHTS and notice.where == "typed" for notice in reading.notices):
        facts.append("no-rights")
    facts += [f"note {quote(note.what)}" for note in reading.notices if note.kind is NoticeKind.REMARK and note.where == "typed"]
    if reading.via is not None:
        facts.append(f"via {reading.via.value}")
    return [fact for fact in facts if fact]
