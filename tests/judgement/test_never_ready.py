"""Never ready without proof: everything that can be promised, taken away and turned against, enumerated from the table of facts."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cache
from itertools import combinations

import pytest

from after_check.domain.boards import Filling
from after_check.domain.case_files import CaseFile
from after_check.domain.fact_table import FACTS, with_facts
from after_check.domain.standing import Verdict
from after_check.judgement.judge import judge
from after_check.sources.open_source import take_notation, take_promise

MODULE = "16G DDR4-3200 16-18-18-38 2Rx8 ecc udimm maker Ostrel part OS-16 serial {} std 2666 prof1 3200@16-18-18-38 prof2 3000@15-17-17-36"
BOARD = f"A2={MODULE.format('AA11')}; B2={MODULE.format('BB22')}"
SEEN = (
    "run 3200; dual; profile 1; total 32G; usable 31.8G; 16-18-18-38; ecc on; "
    "read 42 GB/s; write 40 GB/s; copy 38 GB/s; latency 80 ns; start yes"
)
WHOLE = f"{BOARD}; {SEEN}"


@dataclass(frozen=True)
class Promised:
    """One thing that can be promised: its line, every fact that bears on it, and readings that turn one of them against it."""

    line: str
    bears: tuple[str, ...]
    against: tuple[str, ...]
    also_seen: str = ""


def instead(old: str, new: str) -> str:
    assert old in WHOLE
    return WHOLE.replace(old, new)


ITEMS = {
    "total_bytes": Promised(
        "32G", ("total_bytes", "usable_bytes", "sizes"), (instead("total 32G", "total 16G"), instead("usable 31.8G", "usable 15G"))
    ),
    "running_rate": Promised(
        "2x16G; run 3200",
        ("running_rate",),
        (*(instead("run 3200", f"run {rate}") for rate in ("2666", "2400", "6400", "1600")), instead("run 3200", "run 1333MHz")),
    ),
    "channels": Promised("2x16G; dual", ("channels", "names", "read_gbs", "write_gbs", "copy_gbs"), (instead("dual", "single"),)),
    "profile": Promised(
        "2x16G; profile 1",
        ("profile", "running_rate"),
        tuple(instead("profile 1", f"profile {state}") for state in ("off", "2", "locked")),
    ),
    "timings": Promised(
        "2x16G; run 3200; 16-18-18-38",
        ("timings", "own timings"),
        tuple(
            instead("ns; start", "ns; start").replace("; 16-18-18-38; ecc", f"; {longer}; ecc")
            for longer in ("17-18-18-38", "16-19-18-38", "16-18-19-38", "16-18-18-40", "CL16", "16-18-18")
        ),
    ),
    "ecc_on": Promised("2x16G; ecc on", ("ecc_on",), (instead("ecc on", "ecc off"),)),
    "redundancy": Promised(
        "A2=16G; B2=16G; mirrored",
        ("redundancy", "total_bytes", "usable_bytes"),
        (instead("total 32G; usable 31.8G", "total 16G; spare"),),
        "mirrored",
    ),
    "read_gbs": Promised("2x16G; read at least 41 GB/s", ("read_gbs",), (instead("read 42", "read 39"),)),
    "write_gbs": Promised("2x16G; write at least 39 GB/s", ("write_gbs",), (instead("write 40", "write 30"),)),
    "copy_gbs": Promised("2x16G; copy at least 37 GB/s", ("copy_gbs",), (instead("copy 38", "copy 30"),)),
    "latency_ns": Promised("2x16G; latency at most 85 ns", ("latency_ns",), (instead("latency 80", "latency 95"),)),
    "modules": Promised(
        "A2=16G DDR4-3200; B2=16G DDR4-3200", ("modules",), (instead("B2=16G", "B2=8G"), f"A2={MODULE.format('AA11')}; B2=-; {SEEN}")
    ),
    "places": Promised("A2=16G; B2=16G", ("modules",), (WHOLE.replace("B2=16G", "B1=16G").replace("; run", "; B2=-; run"),)),
    "maker": Promised("2x16G maker Ostrel", ("maker",), (instead("maker Ostrel", "maker Quillmark"),)),
    "part": Promised("2x16G part OS-16", ("part",), (instead("part OS-16", "part QM-999999"),)),
    "ranks": Promised("2x16G 2Rx8", ("ranks",), (instead("2Rx8", "1Rx8"),)),
    "ecc of modules": Promised("2x16G ecc", ("ecc",), (instead("2Rx8 ecc", "2Rx8 noecc"),)),
}
"""Everything that a promise may say. A row of the table that can be promised and is not here fails the test below."""


promise_of = cache(take_promise)
"""The same few lines are held against thousands of readings."""


def judged(reading, line):
    return judge(CaseFile(reading, promise=promise_of(line)))


@cache
def reading_of(item):
    line = WHOLE if not item.also_seen else WHOLE.replace("total 32G; usable 31.8G", "total 16G") + f"; {item.also_seen}"
    return take_notation(line).reading


def without(reading, names):
    """The reading without these facts: fields of it, or of all its modules."""
    slots = []
    for slot in reading.slots:
        module = slot.module
        for field, name in (("size_bytes", "sizes"), ("maker", "maker"), ("part", "part"), ("ranks", "ranks"), ("ecc", "ecc")):
            if name in names:
                module = replace(module, **{field: None})
        if "own timings" in names:
            module = replace(module, timings=None, profiles=None)
        slots.append(replace(slot, module=module))
    reading = replace(reading, slots=tuple(slots))
    if "names" in names:  # Without the names of slots nothing tells which channel a module is on.
        reading = replace(reading, slots=(), loose=tuple(slot.module for slot in reading.slots))
    if "modules" in names:
        reading = replace(reading, slots=tuple(replace(slot, filling=Filling.UNKNOWN, module=None) for slot in reading.slots), loose=())
        reading = with_facts(reading, {"total_bytes": None, "usable_bytes": None})
    return with_facts(reading, {row.name: None for row in FACTS if row.name in names})


def test_everything_that_can_be_promised_is_here():
    assert {row.name for row in FACTS if not row.not_promised} <= ITEMS.keys()


@pytest.mark.parametrize("name", ITEMS)
def test_the_whole_machine_is_ready(name):
    judgement = judged(reading_of(ITEMS[name]), ITEMS[name].line)
    assert judgement.verdict is Verdict.READY, (judgement.why, [finding.code for finding in judgement.findings])


@pytest.mark.parametrize("name", ITEMS)
def test_with_its_proof_taken_away_it_is_not_ready(name):
    item = ITEMS[name]
    others = [row.name for row in FACTS if row.name not in item.bears]
    for count in range(3):  # The proof alone, and with every one and every two of the other facts.
        for more in combinations(others, count):
            taken = judged(without(reading_of(item), {*item.bears, *more}), item.line)
            assert taken.verdict is not Verdict.READY, more


@pytest.mark.parametrize(("name", "line"), [(name, line) for name, item in ITEMS.items() for line in item.against])
def test_with_one_fact_turned_against_it_is_not_ready(name, line):
    reading = take_notation(line).reading
    assert judged(reading, ITEMS[name].line).verdict is not Verdict.READY
    # Nor with any one other fact left out, that might have spoken against it.
    for row in FACTS:
        if row.name not in ITEMS[name].bears:
            assert judged(with_facts(reading, {row.name: None}), ITEMS[name].line).verdict is not Verdict.READY, row.name
