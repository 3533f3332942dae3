"""Rules about modules that do not go together, or not with this machine."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

from after_check.domain.cards import EccSupport
from after_check.domain.codes import Code, Severity
from after_check.domain.facts import Source, value_of
from after_check.domain.findings import Evidence, Finding
from after_check.domain.modules import Form, Generation, Module
from after_check.domain.quantities import first_word_ns, number_text
from after_check.judgement.case import Case
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
        said = _said(groups)
        takes = f"{case.card.name} takes {wanted}" if wanted and case.card else ""
        title = (
            f"Generations that do not go together: {said}{f'; {takes}' if takes else ''}"
            if len(groups) > 1
            else f"{takes}; fitted are {said}"
        )
        yield _finding(
            Code.MIX_GENERATION,
            Severity.FIX,
            title,
            "Memory generations differ in notch, voltage and signals; a board takes exactly one.",
            "Check the reading of these modules; fit modules of the machine's generation only.",
            0.95,
            "Modules of different generations were found; the machine takes only one kind."
            if len(groups) > 1
            else "The fitted memory is of another generation than the machine takes.",
            groups,
        )


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
        yield _finding(
            Code.MIX_FORM,
            Severity.FIX,
            f"Forms that do not go together: {_said(groups)}"
            if len(families) > 1
            else f"Not a form that {case.card.name if case.card else 'it'} takes: {_said(groups)}",
            "The forms differ in length and contacts; a board has slots of one form.",
            "Check the reading of these modules, and fit the form that the board takes.",
            0.9,
            "Modules of different shapes were found; the machine takes only one.",
            groups,
        )


def buffered(case: Case) -> Iterator[Finding]:
    """mix.buffered: registered and unregistered modules together, or the kind that this machine does not take."""
    groups = {one: slots for one, slots in _groups(case, lambda module: value_of(module.form)).items() if one is not Form.SOLDERED}
    kinds = {group if group in _REGISTERED else Form.UDIMM for group in groups}
    allowed = case.card.forms if case.card else ()
    takes_registered = any(form in _REGISTERED for form in allowed)
    wrong = bool(allowed) and any((group in _REGISTERED) != takes_registered for group in groups)
    if len(kinds) > 1 or wrong:
        yield _finding(
            Code.MIX_BUFFERED,
            Severity.FIX,
            _buffered_title(case, groups, len(kinds) > 1),
            "Registered modules put a register between controller and devices; a machine starts with one kind or the other.",
            "Fit modules that are all registered or all unregistered, as the machine asks for.",
            0.95,
            "Two kinds of modules were fitted that do not work together."
            if len(kinds) > 1
            else "The fitted modules are of a kind that this machine does not take.",
            groups,
        )


def _buffered_title(case: Case, groups: dict[Form, list[str]], together: bool) -> str:
    kinds = {group in _REGISTERED for group in groups}
    if together and len(kinds) > 1:
        return f"Registered and unregistered modules do not go together: {_said(groups)}"
    if together:
        return f"Two kinds of registered modules do not go together: {_said(groups)}"
    takes = "registered" if any(form in _REGISTERED for form in (case.card.forms if case.card else ())) else "unregistered"
    return f"{case.card.name if case.card else 'The machine'} takes {takes} modules; fitted are {_said(groups)}"


def ecc(case: Case) -> Iterator[Finding]:
    """mix.ecc: modules with and without error correction, or without where the machine needs it."""
    groups = _groups(case, lambda module: value_of(module.ecc))
    named = {("with ECC" if one else "without ECC"): slots for one, slots in groups.items()}
    support = case.card.ecc if case.card else None
    if support is EccSupport.REQUIRED and False in groups:
        yield _finding(
            Code.MIX_ECC,
            Severity.FIX,
            f"This machine needs modules with error correction: {', '.join(named['without ECC']) or 'some'} without",
            f"{case.card.name if case.card else 'The machine'} starts only with modules that carry error correction bits.",
            "Fit modules with ECC.",
            0.95,
            "The machine needs memory with error correction, and some of it has none.",
            named,
        )
    elif len(groups) > 1:
        yield _finding(
            Code.MIX_ECC,
            Severity.TELL,
            f"Modules with and without error correction: {_said(named)}",
            "Together they run without error correction, where they start at all.",
            "Use one kind; with ECC throughout where the machine makes use of it.",
            0.85,
            "Some modules can correct errors and some cannot, so errors are not corrected.",
            named,
        )
    elif support is EccSupport.UNSUPPORTED and True in groups:
        yield _finding(
            Code.MIX_ECC,
            Severity.NOTE,
            "Modules with error correction in a machine that makes no use of it",
            "The machine ignores the additional bits; the modules work as others do.",
            "Nothing to do.",
            0.8,
            "The modules could correct errors; this machine does not make use of it.",
            named,
        )


def voltage(case: Case) -> Iterator[Finding]:
    """mix.voltage: DDR3 modules for 1.5 V and for 1.35 V together."""
    if {value_of(module.generation) for module in case.now.reading.modules} != {Generation.DDR3}:
        return
    groups = _groups(case, lambda module: value_of(module.voltage_mv))
    if len(groups) > 1:
        named = {f"{number_text(one / 1000, 2)} V": slots for one, slots in groups.items()}
        yield _finding(
            Code.MIX_VOLTAGE,
            Severity.TELL,
            f"Modules for different voltages: {_said(named)}",
            "All run at the highest of these voltages; a machine that gives only 1.35 V does not start with 1.5 V modules.",
            "Where the machine is a low-voltage one, use low-voltage modules only.",
            0.85,
            "The modules ask for different voltages; they run at the higher one.",
            named,
        )


def ranks(case: Case) -> Iterator[Finding]:
    """mix.ranks: different numbers of ranks; it matters only where a machine's rate depends on it."""
    groups = _groups(case, lambda module: value_of(module.ranks))
    if len(groups) > 1:
        named = {f"{one} rank{'s' if one > 1 else ''}": slots for one, slots in groups.items()}
        yield _finding(
            Code.MIX_RANKS,
            Severity.NOTE,
            f"Different ranks: {_said(named)}",
            "It works; where the rate depends on ranks, the module with most of them sets it.",
            "Nothing to do.",
            0.9,
            "The modules are built differently inside, which does not matter here.",
            named,
        )


def maker(case: Case) -> Iterator[Finding]:
    """mix.maker: modules of different makers; it matters only when something else is wrong."""
    groups = _groups(case, lambda module: (value_of(module.maker) or "").casefold() or None)
    if len(groups) > 1:
        names = {value_of(module.maker) or "": slot for slot, module in case.now.reading.filled()}
        yield _finding(
            Code.MIX_MAKER,
            Severity.NOTE,
            f"Different makers: {', '.join(sorted(name for name in names if name))}",
            "Modules of different makers run together as a rule; training takes the slowest of each timing.",
            "Nothing to do while everything else is right.",
            0.9,
            "The modules come from different makers, which is not a problem.",
            groups,
        )


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
    yield _finding(
        Code.TIMINGS_MIXED,
        Severity.NOTE if difference < _NOTICED_NS else Severity.TELL,
        f"Timings differ by {number_text(difference, 1)} ns: all wait for the slowest",
        f"{', '.join(latencies[slowest])} asks for {number_text(slowest, 1)} ns to the first word, {', '.join(latencies[fastest])} for "
        f"{number_text(fastest, 1)} ns; all run at the longer one.",
        "Nothing to do." if difference < _NOTICED_NS else "Modules with the shorter timing throughout would answer sooner.",
        0.85,
        _wait_sentence("The slower modules make all of them wait", difference),
        {f"{number_text(one, 1)} ns": slots for one, slots in latencies.items()},
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
    yield _finding(
        Code.TIMINGS_SLOWER,
        Severity.NOTE if now - before < _NOTICED_NS else Severity.TELL,
        f"First word after {number_text(now, 1)} ns, {number_text(before, 1)} ns on arrival",
        "The modules' timings at the rate that runs are longer in ns than those before.",
        "Nothing to do where rate and size matter more; else set the modules' profile, or fit modules with shorter timings.",
        0.9,
        _wait_sentence("The new memory waits", now - before),
        {},
    )


def _wait_sentence(what: str, difference_ns: float) -> str:
    end = "Nobody will notice." if difference_ns < _NOTICED_NS else "Some programs may feel it."
    return f"{what} {number_text(difference_ns, 1)} ns longer for the first word. {end}"


def _groups(case: Case, key: Callable[[Module], Any]) -> dict[Any, list[str]]:
    """Return slots by a property of their modules; modules that do not tell it are left out."""
    groups: dict[Any, list[str]] = {}
    for slot, module in case.now.reading.filled():
        value = key(module)
        if value is not None:
            groups.setdefault(value, []).append(slot)
    return groups


def _said(groups: dict[Any, list[str]]) -> str:
    parts = []
    for name, slots in groups.items():
        named = [slot for slot in slots if slot]
        parts.append(f"{name} in {', '.join(named)}" if named else f"{len(slots)} x {name}")
    return "; ".join(parts)


def _finding(
    code: Code, severity: Severity, title: str, reason: str, step: str, sure: float, customer: str, groups: dict[Any, list[str]]
) -> Finding:
    evidence = tuple(
        Evidence(f"{name}: {', '.join(slot or 'one module' for slot in slots)}", Source.WORKED_OUT) for name, slots in groups.items()
    )
    slots = tuple(slot for some in groups.values() for slot in some if slot) if severity is Severity.FIX else ()
    return Finding(code, severity, title, reason, step, sure, customer, evidence, slots)
