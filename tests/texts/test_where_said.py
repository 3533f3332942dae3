"""Where a piece was said, and that nothing is stated twice from one stretch of text."""

from __future__ import annotations

import re
from dataclasses import fields

import pytest
from benchmarks.entries import entries

from after_check.domain.facts import Fact
from after_check.domain.quantities import GIB, MIB
from after_check.domain.readings import ShownRate
from after_check.language.typed_text import said
from after_check.language.where_said import LONGEST_LOOKED_INTO, figures_in, where_said
from after_check.language.words.tokens import tokens

# Each is (text, piece, the stretches that it must come from), read by a person.
CASES = (
    ("2x16gb ddr4 3200, dual, xmp off, 31.8 usable", "2 × 16 GiB", ["2x16gb"]),
    ("2x16gb ddr4 3200, dual, xmp off, 31.8 usable", "dual channel", ["dual"]),
    ("2x16gb ddr4 3200, dual, xmp off, 31.8 usable", "usable 31.8 GiB", ["31.8"]),
    ("zwei riegel mit 8 gb, läuft auf 2400", "2 × 8 GiB", ["zwei", "8 gb"]),
    ("zwei riegel mit 8 gb, läuft auf 2400", "runs at 2400 MT/s", ["2400"]),
    ("was on 2133 when it came, runs 3200 now, 4x8", "runs at 3200 MT/s", ["3200"]),
    ("3.6 GHz cpu, 2x8 GB", "2 × 8 GiB", ["2x8 GB"]),
    ("A1=16G; A2=-", "A2: empty", ["A2"]),
)
TWO_OF_ONE = {
    frozenset({"modules", "slot_count"}),  # "4/4 slots": so many there are, and so many are filled
    frozenset({"modules", "total_bytes"}),  # "8 GB, one of two slots used": the one module is the whole
}


@pytest.mark.parametrize(("text", "piece", "stretches"), CASES)
def test_a_piece_is_said_where_its_figure_stands(text, piece, stretches):
    found = where_said(text, lambda words: said(words).reading)
    assert [text[start:end] for start, end in found[piece]] == stretches


def test_a_long_text_is_not_looked_into():
    assert where_said("2x8 " * LONGEST_LOOKED_INTO, lambda words: said(words).reading) == {}


def quantities(reading):
    """What a reading states, by quantity, and the figures that may say it."""
    found = {"modules": [*reading.slots, *reading.loose]} if reading.modules else {}
    found |= {field.name: fact.value for field in fields(reading) if isinstance(fact := getattr(reading, field.name), Fact)}
    return found


def figures_of(value):
    if isinstance(value, list):
        return set(map(float, re.findall(r"\d+(?:\.\d+)?", str(value)))) | {len(value)} | amounts(value)
    if isinstance(value, ShownRate):
        return {float(value.number)}
    if isinstance(value, (int, float)) and not isinstance(value, bool):
        return {float(value), value / MIB, round(value / GIB, 2)}
    return set()


def amounts(slots):
    sizes = [module.size_bytes.value for one in slots if (module := getattr(one, "module", one)) is not None and module.size_bytes]
    return {size / unit for size in sizes for unit in (MIB, GIB)}


@pytest.mark.parametrize("promise", [False, True])
def test_no_figure_of_a_text_states_two_things(promise):
    """Every word is left out in turn: of what is then another, or not known, one quantity at most had that very figure from it alone."""
    for entry in [one for one in entries() if bool(one.get("promise")) == promise][::4]:
        text = entry["text"]
        whole = quantities(said(text, promise).reading)
        sayers = {name: [] for name in whole}
        for token in tokens(text):
            if not (figures := figures_in(token)):
                continue
            rest = quantities(said(text[: token.start] + " " * (token.end - token.start) + text[token.end :], promise).reading)
            for name, value in whole.items():
                if rest.get(name) != value and figures & figures_of(value):
                    sayers[name].append(token.start)
        for start in {start for starts in sayers.values() for start in starts}:
            stated = frozenset(name for name, starts in sayers.items() if starts == [start])
            assert len(stated) <= 1 or stated in TWO_OF_ONE, (text, text[start:], stated)
