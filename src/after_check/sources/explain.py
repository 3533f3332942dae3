"""What a label, a module class, a rate, a week or a line of notation says, in sentences."""

from __future__ import annotations

import re
from dataclasses import replace

from after_check.domain.facts import value_of
from after_check.domain.modules import Generation, Module
from after_check.domain.quantities import clock_mhz, first_word_ns, number_text, peak_bandwidth_gbs, size_text
from after_check.language.short_form import parse, write
from after_check.language.short_form.problems import Problem, quoted
from after_check.language.typed_text import said
from after_check.language.words.figures import Meaning, is_usual_rate, meaning_in_mhz
from after_check.sources.open_source import NotationError
from after_check.standards.labels import Label, misprint_in, parse_label
from after_check.standards.rates import (
    HIGHEST_RATE_MTS,
    class_to_rate_mts,
    generations_of_rate,
    module_class_mbs,
    pc_number_to_rate_mts,
    snap_rate,
)
from after_check.standards.weeks import parse_week, week_dates

_RATE = re.compile(r"(?P<number>\d{2,5}(?:\.\d{1,3})?)\s*(?P<unit>MHz|MT/?s)?\Z", re.IGNORECASE | re.ASCII)
_NAMED_RATE = re.compile(r"(?P<generation>(?:LP)?DDR[2345]?X?)\s*-?\s*(?P<rate>\d{3,5})\Z", re.IGNORECASE | re.ASCII)
_CLASS = re.compile(r"PC(?P<digit>[2345]?)(?P<low>[LU]?)\s*-\s*(?P<number>\d{3,5})\Z", re.IGNORECASE | re.ASCII)


def explain(text: str) -> list[str]:
    """Return what a text says, a sentence a line. Raises NotationError where nothing of it is understood."""
    text = text.strip().strip('"')
    for reader in (_week, _class, _named_rate, _label, _rate):
        lines = reader(text)
        if lines is not None:
            return lines
    return _notation(text)


def _week(text: str) -> list[str] | None:
    week = parse_week(text)
    if week is None:
        return None
    monday, sunday = week_dates(week)
    return [f"Week {week.week} of {week.year} is Monday {_date(monday)} to Sunday {_date(sunday)} (ISO 8601)."]


def _date(day: object) -> str:
    return f"{day:%-d %B %Y}"


def _class(text: str) -> list[str] | None:
    match = _CLASS.match(text)
    if match is None:
        return None
    generation = Generation("DDR" + match["digit"])
    number = int(match["number"])
    rate_mts = pc_number_to_rate_mts(number, generation)
    if rate_mts is None:
        return [f"{text} is no module class that {generation} has."]
    lines = [f"{text} is {generation}-{rate_mts}: {rate_mts} MT/s."]
    if class_to_rate_mts(number, generation) is not None and number > rate_mts:
        lines.append(f"The number is the peak of one module in MB/s: {rate_mts} x 8 bytes = {rate_mts * 8}, rounded down.")
    if match["low"]:
        lines.append(f"{match['low'].upper()} stands for {'1.35' if match['low'].upper() == 'L' else '1.25'} V.")
    return lines + _rate_lines(rate_mts)


def _named_rate(text: str) -> list[str] | None:
    match = _NAMED_RATE.match(text)
    if match is None:
        return None
    try:
        generation = Generation(match["generation"].upper())
    except ValueError:
        return None
    rate_mts = snap_rate(int(match["rate"]), generation)
    if not 100 <= rate_mts <= HIGHEST_RATE_MTS:
        return [f"{match['rate']} is no data rate."]
    lines = [f"{generation}-{rate_mts} runs at {rate_mts} MT/s."]
    if not generation.startswith("LP"):
        lines.append(f"As a module class: PC{generation[3:]}-{module_class_mbs(rate_mts)}.")
    if generation not in generations_of_rate(rate_mts):
        lines.append(f"It is no standard rate of {generation}: it needs a memory profile.")
    return lines + _rate_lines(rate_mts)


def _rate(text: str) -> list[str] | None:
    match = _RATE.match(text)
    if match is None:
        return None
    number, unit = float(match["number"]), (match["unit"] or "").upper()
    if not 50 <= number <= HIGHEST_RATE_MTS:
        return [f"{match['number']} is no data rate."]
    if unit == "MHZ":
        return _megahertz(number)
    rate_mts = snap_rate(number)
    standard = generations_of_rate(rate_mts)
    of_what = f"a standard rate of {', '.join(standard)}" if standard else "no standard rate of any generation"
    return [f"{rate_mts} MT/s is {of_what}.", *_rate_lines(rate_mts)]


def _megahertz(number: float) -> list[str]:
    """Say what a figure in MHz may be: people and screens write it for clocks and for rates alike."""
    as_rate_mts, as_clock_mts = snap_rate(number), snap_rate(number * 2)
    meaning = meaning_in_mhz(number, None)
    rate = f"the data rate, {as_rate_mts} MT/s{_of(as_rate_mts)}"
    clock = f"the clock of {as_clock_mts} MT/s{_of(as_clock_mts)}"
    if meaning is Meaning.EITHER:
        return [f"{number:g} MHz is two things: {rate}, as it is sold, or {clock}. The kind of the modules tells which."]
    if meaning is Meaning.RATE:
        lines = [f"{number:g} MHz is most likely {rate}: that is how it is sold. Its clock is {number_text(clock_mhz(as_rate_mts))} MHz."]
        lines += [f"Where a program shows clocks, it is {clock}."] if is_usual_rate(2 * number, None) else []
        return lines + _rate_lines(as_rate_mts)
    return [f"A memory clock of {number:g} MHz is a data rate of {as_clock_mts} MT/s: two transfers a clock.", *_rate_lines(as_clock_mts)]


def _of(rate_mts: int) -> str:
    generations = [generation for generation in generations_of_rate(rate_mts) if not generation.startswith("LP")]
    return f" ({', '.join(generations)})" if generations else ""


def _rate_lines(rate_mts: int) -> list[str]:
    return [
        f"Clock {number_text(clock_mhz(rate_mts))} MHz; one transfer clock takes {2000 / rate_mts:.3f} ns.",
        f"Peak {number_text(peak_bandwidth_gbs(rate_mts, 1))} GB/s on one channel, "
        f"{number_text(peak_bandwidth_gbs(rate_mts, 2))} GB/s on two.",
    ]


def _label(text: str) -> list[str] | None:
    label = parse_label(text)
    if label is None and (wrong := misprint_in(text)) is not None:
        number, meant = wrong
        likely = f"Most likely meant: {meant}." if meant else "No likely reading suggests itself."
        return [f"{number} in this label is no rate and no class of modules.", f"{likely} Look at the label again."]
    if label is None:
        return None
    parts = [
        size_text(label.size_bytes) if label.size_bytes else "",
        f"{label.generation}-{label.rate_mts}",
        label.form.value if label.form else "",
        {True: "with ECC", False: "without ECC", None: ""}[label.ecc],
    ]
    lines = [f"A module label: {' '.join(part for part in parts if part)}."]
    if label.ranks and label.device_width_bits:
        ranks = "one rank" if label.ranks == 1 else f"{label.ranks} ranks"
        lines.append(f"{ranks[0].upper()}{ranks[1:]} of devices {label.device_width_bits} bits wide.")
    lines += _timing_lines(label)
    if label.is_odd_bin:
        lines.append(f"{label.odd_bin_words}: look at the label again.")
    if label.voltage_mv:
        lines.append(f"{label.voltage_mv / 1000:.2f} V.")
    about = (("reference design", label.reference_design), ("SPD revision", label.spd_revision))
    if said := ", ".join(f"{what} {value}" for what, value in about if value):
        lines.append(f"{said[0].upper()}{said[1:]}.")
    return lines + _rate_lines(label.rate_mts)


def _timing_lines(label: Label) -> list[str]:
    if label.timings is None:
        return []
    latency = number_text(first_word_ns(label.timings.cl, label.rate_mts), 2)
    letters = f"Bin {label.bin_letters}: " if label.bin_letters else ""
    return [f"{letters}{label.timings}, the first word after {latency} ns."]


def _notation(text: str) -> list[str]:
    parsed = parse(text)
    if not parsed.problems and said(text).reading != parsed.reading:  # "total = 16GB" is no slot of that name.
        problem = Problem(0, len(text), f"{quoted(text)} is no short form")
        raise NotationError(replace(parsed, problems=(problem,)))
    if parsed.problems:
        raise NotationError(parsed, "A label, a module class (PC4-23400), a rate (1467MHz), a week (2021-W11) or notation is understood.")
    reading = parsed.reading
    lines = [f"Reads as: {write(reading)}"]
    for name, module in reading.filled():
        lines.append(f"{name or 'one module'}: {_module(module)}")
    total = sum(value_of(module.size_bytes) or 0 for module in reading.modules)
    if len(reading.modules) > 1:
        lines.append(f"Together {size_text(total)} in {len(reading.modules)} modules.")
    if reading.running_rate is not None:
        shown = reading.running_rate.value
        lines.append(f"Running rate shown as {shown.number:g} {shown.unit.value}".rstrip() + ".")
    return lines


def _module(module: Module) -> str:
    parts = [size_text(module.size_bytes.value) if module.size_bytes else "size not known"]
    if module.generation is not None:
        parts.append(f"{module.generation.value}-{module.rated_mts.value}" if module.rated_mts else module.generation.value)
    timings, rated_mts = value_of(module.timings), value_of(module.rated_mts)
    if timings is not None and rated_mts:
        parts.append(f"{timings}, first word after {number_text(first_word_ns(timings.cl, rated_mts), 2)} ns")
    return ", ".join(parts)
