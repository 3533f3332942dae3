"""Readings and judgements as lines of text."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from after_check.casework.outcome import outcome_of
from after_check.casework.rate_words import ceiling_words, expected_words
from after_check.casework.verdict_words import QUANTITY_WORDS, SEVERITY_MARKS, SEVERITY_WORDS, outcome_words
from after_check.domain.boards import Slot
from after_check.domain.fact_table import FactKind, known_facts
from after_check.domain.facts import Fact, value_of
from after_check.domain.findings import Judgement, Track
from after_check.domain.handback import HandBack
from after_check.domain.modules import Module, Timings
from after_check.domain.quantities import number_text, size_text
from after_check.domain.readings import Reading
from after_check.texts import say, words_of


def reading_lines(reading: Reading) -> Iterator[str]:
    """Yield a reading as lines, each value with its source."""
    machine = reading.machine
    for word, fact in (("machine", machine.model), ("firmware", machine.firmware_version), ("processor", machine.processor)):
        if fact is not None:
            yield f"{word:<10} {fact.value}  [{fact.source.value}]"
    for slot in reading.drawn_slots:
        yield f"{slot.name:<10} {_slot(slot)}"
    for module in reading.loose:
        yield f"{'module':<10} {_module(module)}"
    for entry in reading.spd:
        yield f"{'module':<10} {_module(entry.module)}"
        yield from _own_data(entry.module)
    yield from _fact_lines(reading)
    for notice in reading.notices:
        yield f"! {notice.what} ({notice.where})" if notice.where else f"! {notice.what}"
        if notice.help:
            yield f"  {notice.help}"


def _own_data(module: Module) -> Iterator[str]:
    """Yield what a module's own data says beyond its name: organisation, timings in clocks and ns, profiles, identity."""
    standard_mts, timings = value_of(module.standard_mts), value_of(module.timings)
    if standard_mts:
        yield _detail("standard", f"{standard_mts} MT/s" + (f" at {timings}, {_ns(timings, standard_mts)}" if timings else ""))
    for profile in value_of(module.profiles) or ():
        volts = f", {profile.voltage_mv / 1000:.2f} V" if profile.voltage_mv else ""
        at = f" at {profile.timings}, {_ns(profile.timings, profile.rate_mts)}" if profile.timings else ""
        yield _detail(f"profile {profile.number}", f"{profile.rate_mts} MT/s{at}{volts}")
    if value_of(module.profiles) == ():
        yield _detail("profiles", "none")
    organisation = [f"{module.ranks.value} ranks" if module.ranks and module.ranks.value > 1 else "1 rank" if module.ranks else ""]
    organisation += [f"devices of {module.device_width_bits.value} bits" if module.device_width_bits else ""]
    organisation += [f"{module.voltage_mv.value / 1000:.2f} V" if module.voltage_mv else ""]
    if any(organisation):
        yield _detail("built of", ", ".join(part for part in organisation if part))
    for word, fact in (("maker", module.maker or module.maker_id), ("part", module.part), ("serial", module.serial), ("made", module.made)):
        if fact is not None:
            yield _detail(word, str(fact.value))


def _ns(timings: Timings, rate_mts: int) -> str:
    parts = [timings.cl, timings.trcd, timings.trp, timings.tras]
    return " / ".join(number_text(clocks * 2000 / rate_mts, 2) for clocks in parts if clocks is not None) + " ns"


def _detail(word: str, text: str) -> str:
    return f"  {word:<10} {text}"


def _fact_lines(reading: Reading) -> Iterator[str]:
    for row, fact in known_facts(reading):
        if row.listed and fact.value is not False:
            yield _line(row.words, "yes" if row.kind is FactKind.FLAG else row.said(fact.value), fact)


def _line(word: str, text: str, fact: Fact[Any]) -> str:
    return f"{word:<10} {text}  [{fact.source.value}]"


def _slot(slot: Slot) -> str:
    return _module(slot.module) if slot.module is not None else slot.words


def _module(module: Module) -> str:
    generation, rated_mts = value_of(module.generation), value_of(module.rated_mts)
    parts = [
        size_text(module.size_bytes.value) if module.size_bytes else "size not known",
        f"{generation}-{rated_mts}" if generation and rated_mts else str(generation or ""),
        f"runs {module.running_mts.value}" if module.running_mts else "",
        module.form.value.value if module.form else "",
        f"{module.ranks.value} rank{'s' if module.ranks.value > 1 else ''}" if module.ranks else "",
        "ECC" if value_of(module.ecc) else "",
        *(fact.value for fact in (module.maker, module.part, module.serial) if fact),
    ]
    sources = sorted({fact.source.value for fact in (module.size_bytes, module.rated_mts) if fact})
    return f"{', '.join(part for part in parts if part)}  [{', '.join(sources) or 'not known'}]"


def judgement_lines(judgement: Judgement) -> Iterator[str]:
    """Yield a judgement as lines: verdict, tracks, findings with reason and next step, ceilings."""
    yield f"{outcome_words(outcome_of(judgement, HandBack()))}: {say(judgement.why)}"
    yield ""
    for track in judgement.tracks:
        yield track_line(track)
    for finding in judgement.roots:
        yield ""
        group = f"{SEVERITY_MARKS[finding.severity]} {SEVERITY_WORDS[finding.severity]:<4}"
        words = words_of(finding)
        yield f"{group}  {words.title}  ({finding.code}, {finding.sure:.0%} sure)"
        yield f"        {words.reason}"
        yield f"        Next: {words.next}"
        if words.disproof:
            yield f"        Not so if: {words.disproof}"
        for consequence in judgement.following(finding):
            yield f"        Follows from it: {words_of(consequence).title}  ({consequence.code})"
    binding = [ceiling for ceiling in judgement.ceilings if ceiling.binding]
    if binding:
        yield ""
        yield "Limits    " + ",  ".join(
            f"{ceiling_words(ceiling)} {ceiling.rate_mts}{' << this is the limit' if ceiling.binding else ''}"
            for ceiling in judgement.ceilings
        )
    if judgement.expected is not None:
        opened = f", not known: {'; '.join(judgement.expected.open)}" if judgement.expected.open else ""
        yield f"Expected  {expected_words(judgement.expected)}{opened}"


def track_line(track: Track) -> str:
    """Return a track as a line: ○ on arrival, ◇ promised, ● now."""
    marks = [f"○ {shown(track.before)}", f"◇ {shown(track.promised)}", f"● {shown(track.now)}"]
    status = track.status.value if track.status else ""
    return f"{QUANTITY_WORDS[track.quantity]:<11} {marks[0]:<10} {marks[1]:<10} {marks[2]:<10} {track.unit:<9} {status}".rstrip()


def shown(value: float | str | None) -> str:
    """Return a value of a track; what is not known is a dash."""
    if value is None:
        return "–"
    return value if isinstance(value, str) else number_text(value)
