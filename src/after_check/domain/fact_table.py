"""The facts of a reading, one row each: what it is, how it is written, when it holds, whether it can be promised.

Short form, promise, proof, reconciliation, comparison, corrections, lines of text, the record and the list of sources go
through this table. A row whose name is no field of `Reading` or `Promise` is kept among their further facts (`more`), so
that a new fact is one row here and nothing else.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, fields, replace
from enum import Enum, StrEnum
from typing import Any

from after_check.domain.facts import Fact
from after_check.domain.promises import Promise
from after_check.domain.quantities import number_text, size_text
from after_check.domain.readings import BenchmarkOutcome, ProfileState, Reading, Redundancy, ShownRate


class FactKind(Enum):
    """What a fact's value is, and its unit: how it is written follows from it."""

    SIZE = "a size in bytes"
    COUNT = "a whole number"
    RATE = "a data rate in MT/s"
    VOLTAGE = "millivolts"
    BANDWIDTH = "decimal GB/s"
    TIME = "ns"
    SHARE = "per cent"
    FLAG = "said or not said"
    SWITCH = "on or off"
    CHOICE = "one of several words"
    OWN = "a form of its own"


class Part(StrEnum):
    """What a fact is about, in the order in which differences are listed."""

    MODULES = "modules"
    AMOUNT = "amount"
    PACE = "pace"
    SETTINGS = "settings"
    MACHINE = "machine"
    RESULTS = "results"


@dataclass(frozen=True, slots=True, eq=False)  # A row is itself and equals no other: the table is asked for in every line that is read.
class FactRow:
    """One fact of a reading.

    `name` is its key in files, and its field where the reading has one. `words` name it on screens and on paper.

    How it is written: `short` are the forms of the short form, the first being the one that is written; `{}` stands for the
    value. `choices` are the words of a choice, of which `make` makes the value, in a `unit`. `low` to `high` are the values that make
    sense, `unfit` says so of others, `hint` is shown where something is missing behind its word.


    What it means: a fact that is `of_moment` holds for the modules that were fitted then; any other stays with the machine.
    `by_the_machine`: only a machine that started says it. `promised` is the field of a promise that it fills; one that is no
    promise's says what cannot be promised (`not_promised`).

    Where it is shown: `compared` is what it is called where readings are compared, under its `part`; `yes` and `no` are the
    words of a flag there. `listed` facts stand in the lines of a reading, `on_record` ones in the sheet's record.
    """

    name: str
    kind: FactKind
    words: str
    short: tuple[str, ...] = ()
    choices: tuple[str, ...] = ()
    make: Callable[[str], Any] = str
    unit: str = ""
    low: float = 0
    high: float = float("inf")
    unfit: str = "{} makes no sense"
    hint: str = ""
    of_moment: bool = True
    by_the_machine: bool = True
    promised: str = ""
    not_promised: str = ""
    part: Part = Part.SETTINGS
    compared: str = ""
    yes: str = "yes"
    no: str = "no"
    listed: bool = False
    on_record: bool = False

    def of(self, reading: Reading) -> Fact[Any] | None:
        """Return the fact in a reading, where it is known."""
        if self.name in _READING_FIELDS:
            found: Fact[Any] | None = getattr(reading, self.name)
            return found
        return reading.more.get(self.name)

    def put(self, reading: Reading, fact: Fact[Any] | None) -> Reading:
        """Return the reading with the fact, or without it."""
        if self.name in _READING_FIELDS:
            changes: dict[str, Any] = {self.name: fact}
            return replace(reading, **changes)
        return replace(reading, more=_changed(reading.more, self.name, fact))

    def promised_in(self, promise: Promise) -> Any:
        """Return the promised value; None where it was not promised, or cannot be."""
        if self.promised in _PROMISE_FIELDS:
            return getattr(promise, self.promised)
        return promise.more.get(self.promised) if self.promised else None

    def promise(self, promise: Promise, value: Any) -> Promise:
        """Return the promise with this fact promised."""
        if self.promised in _PROMISE_FIELDS:
            changes: dict[str, Any] = {self.promised: value}
            return replace(promise, **changes)
        return replace(promise, more=_changed(promise.more, self.promised, value))

    def said(self, value: Any) -> str:
        """Return a value in words, with its unit."""
        return _SAID[self.kind](self, value)


_READING_FIELDS = frozenset(field.name for field in fields(Reading))
_PROMISE_FIELDS = frozenset(field.name for field in fields(Promise))


def _changed(more: Mapping[str, Any], name: str, value: Any) -> dict[str, Any]:
    kept = {key: other for key, other in more.items() if key != name}
    return kept if value is None else {**kept, name: value}


def _own(row: FactRow, value: Any) -> str:
    if isinstance(value, ShownRate):
        return f"{value.number:g} {value.unit.value}".strip()
    return value.value if isinstance(value, ProfileState) else f"{value}"


_SAID: dict[FactKind, Callable[[FactRow, Any], str]] = {
    FactKind.SIZE: lambda row, value: size_text(value),
    FactKind.COUNT: lambda row, value: f"{value}",
    FactKind.RATE: lambda row, value: f"{value} MT/s",
    FactKind.VOLTAGE: lambda row, value: f"{value / 1000:g} V",
    FactKind.BANDWIDTH: lambda row, value: f"{number_text(value)} GB/s",
    FactKind.TIME: lambda row, value: f"{number_text(value)} ns",
    FactKind.SHARE: lambda row, value: f"{number_text(value)} %",
    FactKind.FLAG: lambda row, value: row.yes if value else row.no,
    FactKind.SWITCH: lambda row, value: "on" if value else "off",
    FactKind.CHOICE: lambda row, value: f"{getattr(value, 'value', value)}{row.unit}",
    FactKind.OWN: _own,
}

_A_TEST = "the result of a test"

FACTS: tuple[FactRow, ...] = (
    FactRow("running_rate", FactKind.OWN, "running rate", hint="for instance run 2933 or run 1467MHz", part=Part.PACE, listed=True),
    FactRow("channels", FactKind.OWN, "channels shown", hint="for instance channels 2", promised="channels", part=Part.PACE, listed=True),
    FactRow(
        "profile",
        FactKind.OWN,
        "profile",
        hint="off, 1, 2, 3, on, auto, or locked (no choice)",
        promised="profile",
        listed=True,
    ),
    FactRow(
        "total_bytes",
        FactKind.SIZE,
        "total",
        ("total {}",),
        hint="for instance total 32768MB",
        part=Part.AMOUNT,
        compared="counted by the firmware",
        listed=True,
    ),
    FactRow(
        "usable_bytes",
        FactKind.SIZE,
        "usable",
        ("usable {}",),
        hint="for instance usable 31.8G",
        not_promised="what the system can use",
        part=Part.AMOUNT,
        compared="usable",
        listed=True,
        on_record=True,
    ),
    FactRow(
        "graphics_bytes",
        FactKind.SIZE,
        "graphics",
        ("graphics {}",),
        hint="for instance graphics 512M",
        not_promised="the share of graphics",
        part=Part.AMOUNT,
        compared="share of graphics",
        listed=True,
        on_record=True,
    ),
    FactRow(
        "borrowed_bytes",
        FactKind.SIZE,
        "graphics may borrow",
        ("graphics may borrow {}",),
        not_promised="what graphics may borrow",
        part=Part.AMOUNT,
        compared="graphics may borrow",
        listed=True,
        on_record=True,
    ),
    FactRow(
        "reserved_bytes",
        FactKind.SIZE,
        "reserved",
        ("reserved {}",),
        hint="for instance reserved 256M",
        not_promised="what the firmware keeps back",
        part=Part.AMOUNT,
    ),
    FactRow(
        "in_use_bytes",
        FactKind.SIZE,
        "in use",
        ("in use {}",),
        hint="for instance in use 7.2G",
        not_promised="what is in use",
        part=Part.AMOUNT,
    ),
    FactRow(
        "available_bytes",
        FactKind.SIZE,
        "available",
        ("available {}",),
        hint="for instance available 8.4G",
        not_promised="what is available",
        part=Part.AMOUNT,
    ),
    FactRow(
        "array_limit_bytes",
        FactKind.SIZE,
        "firmware's limit",
        of_moment=False,
        by_the_machine=False,
        not_promised="a limit",
        part=Part.AMOUNT,
    ),
    FactRow(
        "slot_count",
        FactKind.COUNT,
        "slots",
        ("slots {}", "slot {}"),
        low=1,
        high=96,
        unfit="{} slots are not possible; 1 to 96 are",
        hint="for instance slots 4",
        of_moment=False,
        by_the_machine=False,
        not_promised="a number of slots",
        part=Part.MACHINE,
    ),
    FactRow(
        "rate_cap_mts",
        FactKind.RATE,
        "limit in the firmware setup",
        ("cap {}",),
        low=50,
        high=20_000,
        unfit="{} is no data rate; rates are between 100 and 20000 MT/s",
        hint="a limit set in the firmware setup, for instance cap 2666",
        of_moment=False,
        not_promised="a limit in the firmware setup",
        compared="limit in the firmware setup",
    ),
    FactRow(
        "system_limit_bytes",
        FactKind.SIZE,
        "limit",
        ("limit {}",),
        hint="the most that the system's edition or start options allow, for instance limit 16G",
        of_moment=False,
        not_promised="a limit of the system",
        part=Part.AMOUNT,
        compared="limit of the system",
    ),
    FactRow(
        "redundancy",
        FactKind.CHOICE,
        "kept back",
        ("{}",),
        choices=("mirrored", "spare"),
        make=Redundancy,
        promised="redundancy",
        part=Part.AMOUNT,
        compared="kept back",
    ),
    FactRow("timings", FactKind.OWN, "timings", promised="timings", part=Part.PACE, listed=True),
    FactRow("voltage_mv", FactKind.VOLTAGE, "voltage", not_promised="a running voltage", part=Part.PACE, compared="voltage"),
    FactRow(
        "ecc_on",
        FactKind.SWITCH,
        "error correction",
        ("ecc {}",),
        hint="ecc on or ecc off",
        promised="ecc_on",
        compared="error correction",
    ),
    FactRow(
        "ecc_errors",
        FactKind.COUNT,
        "corrected errors",
        ("ecc-errors {}",),
        hint="for instance ecc-errors 3",
        not_promised="a number of errors",
        part=Part.MACHINE,
        compared="corrected errors",
    ),
    FactRow(
        "uncorrected_errors",
        FactKind.COUNT,
        "uncorrected errors",
        ("uncorrected {}", "uncorrected-errors {}", "uncorrected errors {}"),
        hint="for instance uncorrected 3",
        not_promised="a number of errors",
        part=Part.MACHINE,
    ),
    FactRow(
        "soak",
        FactKind.OWN,
        "memory test",
        hint='for instance soak clean 30min 95%, soak errors 12, or soak clean 8h by "boot stick"',
        not_promised=_A_TEST,
        part=Part.RESULTS,
    ),
    FactRow(
        "start",
        FactKind.OWN,
        "start",
        hint="start yes, no, slow or cycles; not started where nobody tried yet",
        by_the_machine=False,
        not_promised="how the machine starts",
        part=Part.RESULTS,
    ),
    *(
        FactRow(
            f"{does}_gbs",
            FactKind.BANDWIDTH,
            f"{does} bandwidth",
            (f"{does} {{}}", f"{does} at least {{}}"),
            low=0.1,
            high=10_000,
            unfit="{} GB/s is no bandwidth of a machine's memory",
            hint=f"for instance {does} 30 GB/s" + ("; in a promise: copy at least 30 GB/s" if does == "copy" else ""),
            promised=f"{does}_gbs",
            part=Part.RESULTS,
        )
        for does in ("read", "write", "copy")
    ),
    FactRow(
        "latency_ns",
        FactKind.TIME,
        "latency",
        ("latency {}", "latency at most {}"),
        low=1,
        high=10_000,
        unfit="{} ns is no latency of a machine's memory",
        hint="for instance latency 90 ns; in a promise: latency at most 90 ns",
        promised="latency_ns",
        part=Part.RESULTS,
    ),
    FactRow(
        "benchmark",
        FactKind.CHOICE,
        "benchmark",
        ("benchmark {}", "gauge {}"),
        choices=("better", "same", "worse", "incomparable"),
        make=BenchmarkOutcome,
        hint="benchmark better, same, worse or incomparable",
        not_promised="the result of a benchmark",
        part=Part.RESULTS,
    ),
    FactRow(
        "off_under_load",
        FactKind.FLAG,
        "switches off under load",
        ("off-under-load",),
        not_promised="that a machine switches off",
        part=Part.RESULTS,
    ),
    FactRow("virtual", FactKind.FLAG, "virtual machine", ("virtual",), of_moment=False, not_promised="a virtual machine", listed=True),
    FactRow(
        "settings_reset",
        FactKind.FLAG,
        "settings cleared",
        ("reset",),
        not_promised="a reset",
        compared="firmware settings",
        yes="cleared",
        no="as they were",
        listed=True,
    ),
    FactRow("memory_changed", FactKind.FLAG, "memory changed", ("memory-changed",), not_promised="a notice of the firmware"),
    FactRow(
        "restart_pending",
        FactKind.FLAG,
        "restart pending",
        ("pending",),
        not_promised="a pending restart",
        compared="restart",
        yes="still to come",
        no="none waiting",
        listed=True,
    ),
    FactRow(
        "system_bits",
        FactKind.CHOICE,
        "system",
        ("bits {}",),
        choices=("32", "64"),
        make=int,
        unit=" bits",
        hint="bits 32 or bits 64",
        of_moment=False,
        not_promised="the system's bits",
        part=Part.MACHINE,
        compared="system",
    ),
    FactRow("pressure_percent", FactKind.SHARE, "pressure", by_the_machine=False, not_promised="pressure", part=Part.MACHINE),
)
"""Every fact of a reading, in the order in which a line of the short form has them."""


def rows() -> tuple[FactRow, ...]:
    """Return the rows of the table."""
    return FACTS


def row_of(name: str) -> FactRow | None:
    """Return the row of a fact by its name."""
    return next((row for row in FACTS if row.name == name), None)


def known_facts(reading: Reading) -> Iterator[tuple[FactRow, Fact[Any]]]:
    """Yield the facts that a reading has, in the order of the table."""
    for row in FACTS:
        fact = row.of(reading)
        if fact is not None:
            yield row, fact


def with_facts(reading: Reading, changes: Mapping[str, Fact[Any] | None]) -> Reading:
    """Return a reading with facts by their names; None takes one away."""
    own: dict[str, Any] = {name: fact for name, fact in changes.items() if name in _READING_FIELDS}
    more = dict(reading.more)
    for name, fact in changes.items():
        if name not in _READING_FIELDS:
            more = _changed(more, name, fact)
    return replace(reading, more=more, **own)


def promised_facts(promise: Promise) -> Iterator[tuple[FactRow, Any]]:
    """Yield what a promise says beside its modules: the rows of facts and the promised values."""
    for row in FACTS:
        value = row.promised_in(promise)
        if value is not None:
            yield row, value
