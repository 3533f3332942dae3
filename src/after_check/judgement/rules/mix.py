"""Rules about modules that do not go together, or not with this machine."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace
from typing import Any

from after_check.domain.cards import EccSupport
from after_check.domain.codes import Code, Severity
from after_check.domain.facts import Source, value_of
from after_check.domain.findings import Finding, finding, shown
from after_check.domain.messages import Message, Value, message
from after_check.domain.modules import Form, Generation, Module
from after_check.domain.quantities import first_word_ns
from after_check.judgement.case import Case
from after_check.judgement.rules.regressions import ecc as ecc_lost
from after_check.judgement.timings import module_times

_REGISTERED = (Form.RDIMM, Form.LRDIMM)
_NOTICED_NS = 3.0
"""First words that differ by less than this are nothing that a person can notice in daily work."""


def generation(case: Case) -> Iterator[Finding]:
    """mix.generation: modules of different generations, or of another one than the machine takes."""
    groups = _groups(case, lambda module: value_of(module.generation))
    wanted = case.card.generation if case.card else None
    wrong = {name: slots for name, slots in groups.items() if wanted is not None and name is not wanted}
    if len(groups) > 1 or wrong:
        why = "several" if len(groups) > 1 else "wrong"
        yield _finding(Code.MIX_GENERATION, 0.95, groups, why=why, machine=_machine(case), takes=wanted.value if wanted else None)


def form(case: Case) -> Iterator[Finding]:
    """mix.form: forms that no single board takes, or that this machine does not take."""
    groups = {one: slots for one, slots in _groups(case, lambda module: value_of(module.form)).items() if one is not Form.SOLDERED}
    families = {group if group in (Form.SODIMM, Form.CAMM) else Form.UDIMM for group in groups}
    allowed = case.card.forms if case.card else ()
    wrong = [
        group
        for group in groups
        if allowed and group not in allowed and not (group in _REGISTERED) ^ any(a in _REGISTERED for a in allowed)
    ]
    if len(families) > 1 or wrong:
        yield _finding(Code.MIX_FORM, 0.9, groups, why="several" if len(families) > 1 else "wrong", machine=_machine(case))


def buffered(case: Case) -> Iterator[Finding]:
    """mix.buffered: registered and unregistered modules together, or the kind that this machine does not take."""
    groups = {one: slots for one, slots in _groups(case, lambda module: value_of(module.form)).items() if one is not Form.SOLDERED}
    kinds = {group if group in _REGISTERED else Form.UDIMM for group in groups}
    allowed = case.card.forms if case.card else ()
    takes_registered = any(form in _REGISTERED for form in allowed)
    wrong = bool(allowed) and any((group in _REGISTERED) != takes_registered for group in groups)
    if len(kinds) > 1 or wrong:
        both = len({group in _REGISTERED for group in groups}) > 1
        takes = "takes-registered" if takes_registered else "takes-unregistered"
        why = takes if len(kinds) == 1 else "both" if both else "kinds"
        yield _finding(Code.MIX_BUFFERED, 0.95, groups, why=why, machine=_machine(case))


def _machine(case: Case) -> str:
    return case.card.name if case.card is not None else "The machine"


def ecc(case: Case) -> Iterator[Finding]:
    """mix.ecc: modules with and without error correction, or without where the machine needs it."""
    groups = _groups(case, lambda module: value_of(module.ecc))
    named = {message("with-ecc" if one else "without-ecc"): slots for one, slots in groups.items()}
    support = case.card.ecc if case.card else None
    if support is EccSupport.REQUIRED and False in groups:
        without = tuple(slot for slot in groups[False] if slot)
        yield _finding(Code.MIX_ECC, 0.95, named, Severity.FIX, why="needed", machine=_machine(case), named=without)
    elif len(groups) > 1:
        lost = any(found.severity is Severity.FIX for found in ecc_lost(case))  # Then this is what it was lost by.
        yield _finding(Code.MIX_ECC, 0.85, named, Severity.FIX if lost else Severity.TELL, why="mixed", machine=_machine(case), named=())
    elif support is EccSupport.UNSUPPORTED and True in groups:
        yield _finding(Code.MIX_ECC, 0.8, named, Severity.NOTE, why="unused", machine=_machine(case), named=())


def voltage(case: Case) -> Iterator[Finding]:
    """mix.voltage: DDR3 modules for 1.5 V and for 1.35 V together."""
    if {value_of(module.generation) for module in case.now.reading.modules} != {Generation.DDR3}:
        return
    groups = _groups(case, lambda module: value_of(module.voltage_mv))
    if len(groups) > 1:
        yield _finding(Code.MIX_VOLTAGE, 0.85, {message("volts", volts_mv=one): slots for one, slots in groups.items()})


def ranks(case: Case) -> Iterator[Finding]:
    """mix.ranks: different numbers of ranks; it matters only where a machine's rate depends on it."""
    groups = _groups(case, lambda module: value_of(module.ranks))
    if len(groups) > 1:
        yield _finding(Code.MIX_RANKS, 0.9, {message("ranks", ranks=one): slots for one, slots in groups.items()})


def maker(case: Case) -> Iterator[Finding]:
    """mix.maker: modules of different makers; it matters only when something else is wrong."""
    groups = _groups(case, lambda module: (value_of(module.maker) or "").casefold() or None)
    if len(groups) > 1:
        makers = sorted({name for module in case.now.reading.modules if (name := value_of(module.maker))})
        yield _finding(Code.MIX_MAKER, 0.9, groups, makers=", ".join(makers))


def timings_mixed(case: Case) -> Iterator[Finding]:
    """timings.mixed: modules that want different timings, compared in ns at the rate that runs."""
    latencies: dict[float, list[str]] = {}
    for slot, module in case.now.reading.filled():
        wanted = module_times(module)
        if wanted is not None:
            latencies.setdefault(round(wanted.first_word_ns, 2), []).append(slot or "one module")
    if len(latencies) < 2:
        return
    fastest, slowest = min(latencies), max(latencies)
    difference = slowest - fastest
    noticed = difference >= _NOTICED_NS
    yield _finding(
        Code.TIMINGS_MIXED,
        0.85,
        {message("nanoseconds", time_ns=one): slots for one, slots in latencies.items()},
        Severity.TELL if noticed else Severity.NOTE,
        difference_ns=difference,
        slow=", ".join(latencies[slowest]),
        slowest_ns=slowest,
        fast=", ".join(latencies[fastest]),
        fastest_ns=fastest,
        noticed=noticed,
    )


def timings_slower(case: Case) -> Iterator[Finding]:
    """timings.slower: the first word comes later than on arrival."""
    if case.before is None:
        return
    before, now = (
        first_word_ns(view.timings.cl, view.rate_mts) if view.timings and view.rate_mts else None for view in (case.before, case.now)
    )
    if before is None or now is None or now - before < 0.3:
        return
    noticed = now - before >= _NOTICED_NS
    severity = Severity.TELL if noticed else Severity.NOTE
    yield _finding(Code.TIMINGS_SLOWER, 0.9, {}, severity, now_ns=now, before_ns=before, difference_ns=now - before, noticed=noticed)


def _groups(case: Case, key: Callable[[Module], Any]) -> dict[Any, list[str]]:
    """Return slots by a property of their modules; modules that do not tell it are left out."""
    groups: dict[Any, list[str]] = {}
    for slot, module in case.now.reading.filled():
        value = key(module)
        if value is not None:
            groups.setdefault(value, []).append(slot)
    return groups


def _finding(code: Code, sure: float, groups: dict[Any, list[str]], severity: Severity | None = None, **values: Value) -> Finding:
    said: list[Message] = []
    evidence = []
    for name, slots in groups.items():
        group = name if isinstance(name, Message) else str(name)
        named = [slot for slot in slots if slot]
        said.append(message("group", group=group, slots=", ".join(named) or None, modules=len(slots)))
        members = ", ".join(slot or "one module" for slot in slots)
        evidence.append(shown("group", Source.WORKED_OUT, group=group, members=members))
    made = finding(code, sure, tuple(evidence), (), severity, groups=tuple(said), **values)
    named_slots = tuple(slot for some in groups.values() for slot in some if slot)
    return replace(made, slots=named_slots) if made.severity is Severity.FIX else made
