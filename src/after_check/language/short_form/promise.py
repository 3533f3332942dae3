"""A promise, written in the same notation as a reading."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import fields, replace

from after_check.domain.fact_table import known_facts
from after_check.domain.facts import value_of
from after_check.domain.modules import Form, Generation, Module, Timings
from after_check.domain.promises import Promise
from after_check.domain.quantities import counted, size_text
from after_check.domain.readings import ProfileState, RateUnit, Reading, Redundancy
from after_check.language.short_form.parser import Parsed, parse
from after_check.language.short_form.problems import Problem
from after_check.standards.rates import same_rate, snap_rate


def parse_promise(line: str) -> tuple[Promise, Parsed]:
    """Read a promise; what contradicts itself is among the problems of the parsed line."""
    parsed = parse(line)
    reading, each = _amount(parsed)
    problems = list(parsed.problems)
    whole = (0, len(line))
    unfit = [row.not_promised for row, _ in known_facts(reading) if row.not_promised]
    for words in [*unfit, *(["what it was read off"] if reading.via is not None else [])]:
        help = "leave it out; a promise is modules, rate, channels, profile, total"
        problems.append(Problem(*whole, f"{words} cannot be promised", help))
    if line.strip() and not problems:
        problems += [Problem(*whole, message, "change one of the two") for message in _contradictions(reading)]
    promise = Promise(
        slots=reading.slots,
        loose=reading.loose,
        total_bytes=_total_bytes(reading),
        rate_mts=_rate_mts(reading, each),
        each=each,
        notation=line.strip(),
    )
    for row, fact in known_facts(reading):
        promise = row.promise(promise, fact.value) if row.promised else promise
    promise = replace(promise, timings=_timings(reading, each), timings_run=reading.timings is not None)
    return promise, Parsed(line, parsed.reading, tuple(problems), parsed.uncounted if each is not None else ())


def _amount(parsed: Parsed) -> tuple[Reading, Module | None]:
    """Return what was promised with a size that stands for itself taken as the amount, in any number of modules.

    What is beside such a size (kind, rate, error correction) describes every module. A module is counted: 1x16G.
    """
    reading = parsed.reading
    if reading.total_bytes is not None and len(reading.loose) == 1 and not reading.slots and reading.loose[0].size_bytes is None:
        return replace(reading, loose=()), reading.loose[0]  # An amount, and what its modules are.
    if not parsed.uncounted or len(reading.loose) != len(parsed.uncounted) or reading.total_bytes is not None:
        return reading, None
    # "8G; DDR3; 1Rx8": one size, and beside it what the modules are.
    module = _joined(parsed.uncounted)
    if (
        module is None
        or module.size_bytes is None
        or module.label is not None
        or module.serial is not None
        or any(slot.module for slot in reading.slots)
    ):
        return reading, None
    if value_of(module.form) is Form.SOLDERED or value_of(module.form) is Form.CAMM:
        return reading, None
    return replace(reading, loose=(), total_bytes=module.size_bytes), replace(module, size_bytes=None)


def _joined(modules: Sequence[Module]) -> Module | None:
    """Return what several descriptions say together; None where two of them say the same kind of thing."""
    joined = Module()
    for module in modules:
        said = {name.name: value for name in fields(Module) if (value := getattr(module, name.name)) is not None}
        if any(getattr(joined, name) is not None for name in said):
            return None
        joined = replace(joined, **said)
    return joined


def _total_bytes(reading: Reading) -> int | None:
    if reading.total_bytes is not None:
        return reading.total_bytes.value
    sizes = [value_of(module.size_bytes) for module in reading.modules]
    known = [size for size in sizes if size is not None]
    whole = sum(known) if known and len(known) == len(sizes) else None
    return whole // 2 if whole is not None and value_of(reading.redundancy) is Redundancy.MIRRORED else whole


def _rate_mts(reading: Reading, each: Module | None = None) -> int | None:
    """The promised rate: as written, else what the modules reach with the promised profile, else as sold."""
    if reading.running_rate is not None:
        shown = reading.running_rate.value
        return snap_rate(shown.number * (2 if shown.unit is RateUnit.MHZ else 1))
    state = value_of(reading.profile)
    rates = [_module_rate_mts(module, state) for module in reading.modules or ((each,) if each is not None else ())]
    known = [rate for rate in rates if rate is not None]
    return min(known) if known and len(known) == len(rates) else None


def _module_rate_mts(module: Module, state: ProfileState | None) -> int | None:
    rated_mts = value_of(module.rated_mts)
    if state is ProfileState.OFF:
        return value_of(module.standard_mts) or (None if value_of(module.profiles) else rated_mts)
    if state is not None and state.number is not None:
        for profile in value_of(module.profiles) or ():
            if profile.number == state.number:
                return profile.rate_mts
    return rated_mts


def _timings(reading: Reading, each: Module | None = None) -> Timings | None:
    if reading.timings is not None:
        return reading.timings.value
    timings = {value_of(module.timings) for module in reading.modules or ((each,) if each is not None else ())}
    return timings.pop() if len(timings) == 1 else None


def _contradictions(reading: Reading) -> list[str]:
    found: list[str] = []
    sizes = [value_of(module.size_bytes) for module in reading.modules]
    if reading.total_bytes is not None and sizes and None not in sizes:
        fitted = sum(size for size in sizes if size is not None)
        if fitted != reading.total_bytes.value:
            found.append(f"the modules add up to {size_text(fitted)}, and the promised total is {size_text(reading.total_bytes.value)}")
    channels = value_of(reading.channels)
    # Soldered memory has as many channels as it has; a compression-attached module fills both (JESD318).
    soldered = any(module.form is not None and module.form.value in (Form.SOLDERED, Form.CAMM) for module in reading.modules)
    if channels and reading.modules and channels > len(reading.modules) and not soldered:
        why = ": one DDR5 module shows two subchannels and is one channel" if _all_ddr5(reading) else ": a module fills one channel"
        found.append(f"{channels} channels are promised with {counted(len(reading.modules), 'module')}{why}")
    found += _profile_contradictions(reading)
    return found


def _all_ddr5(reading: Reading) -> bool:
    return all(value_of(module.generation) is Generation.DDR5 for module in reading.modules)


def _profile_contradictions(reading: Reading) -> list[str]:
    state = value_of(reading.profile)
    if state is None or state.number is None or not reading.modules:
        return []
    found: list[str] = []
    held = [value_of(module.profiles) for module in reading.modules]
    if any(profiles is not None and all(profile.number != state.number for profile in profiles) for profiles in held):
        found.append(f"profile {state.number} is promised, and a promised module does not hold it")
        return found
    rates = [profile.rate_mts for profiles in held for profile in profiles or () if profile.number == state.number]
    run_mts = _rate_mts(reading) if reading.running_rate is not None else None
    if rates and run_mts is not None and not any(same_rate(run_mts, rate) for rate in rates):
        found.append(f"profile {state.number} runs at {min(rates)} MT/s, and {run_mts} MT/s is promised")
    return found
