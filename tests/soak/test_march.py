"""The march notation, and the programs of the literature."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from after_check.soak.march import PROGRAMS, MarchError, Order, parse_march, program_named

# Operations a cell, as the literature names the tests: MATS is a 4n test, and so on.
LENGTHS = {
    "MATS": 4,
    "MATS+": 5,
    "MATS++": 6,
    "March X": 6,
    "March Y": 8,
    "March C-": 10,
    "March A": 15,
    "March B": 17,
    "March LR": 14,
    "March SS": 22,
}


def test_the_programs_have_the_lengths_of_the_literature():
    assert {name: program.length for name, program in PROGRAMS.items()} == LENGTHS


def test_march_c_minus_as_it_is_published():
    program = PROGRAMS["March C-"]
    assert str(program) == "{⇕(w0); ⇑(r0,w1); ⇑(r1,w0); ⇓(r0,w1); ⇓(r1,w0); ⇕(r0)}"
    assert [element.order for element in program.elements] == [
        *(Order.EITHER, Order.UP, Order.UP, Order.DOWN, Order.DOWN, Order.EITHER),
    ]


@pytest.mark.parametrize(
    "text",
    [
        "{⇕(w0); ⇑(r0,w1); ⇓(r1,w0)}",
        "{any(w0);^(r0,w1);v(r1,w0)}",
        "↕(W0) ; ↑( r0 , w1 ) ; ↓(r1,w0);",
        "EITHER(w0); up(r0,w1); Down(r1,w0)",
    ],
)
def test_ways_to_type_mats_plus(text):
    assert parse_march(text).elements == PROGRAMS["MATS+"].elements


def test_pauses():
    program = parse_march("{⇕(w1); Del; ⇕(r1,w0); Del 2.5s; ⇕(r0)}")
    assert [element.pause_seconds for element in program.elements if element.is_pause] == [None, 2.5]
    assert str(program) == "{⇕(w1); Del; ⇕(r1,w0); Del 2.5s; ⇕(r0)}"


@pytest.mark.parametrize(
    ("text", "message", "position"),
    [
        ("", "'' is no element", 0),
        ("{⇕(w0); x(r0)}", "'x(r0)' is no element", 8),
        ("{⇕(w0); ⇑(r0,w2)}", "'w2' is no operation", 13),
        ("{⇕(w0); ⇑(r0,)}", "'' is no operation", 13),
        ("{⇕(w0); ⇑()}", "'' is no operation", 10),
        ("{⇕(w0); ; ⇑(r0)}", "an element is empty", 7),
        ("{⇕(w0); ⇑(r0)", "the braces do not enclose", 0),
        ("{⇑(r0)}", "element 1 reads before anything was written", 1),
        ("{⇕(w0); ⇑(r1)}", "element 2: r1 expects 1, and 0 was written last", 1),
        ("{⇕(w0); ⇑(r0,w1,r0)}", "element 2: r0 expects 0, and 1 was written last", 1),
        ("{⇕(w0,w1)}", "the program never reads", 1),
        ("x" * 3000, "3000 characters are more", 0),
        ("{" + "; ".join(["⇕(w0)"] + ["⇕(r0)"] * 250) + "}", "251 operations a cell are too many", 1),
    ],
)
def test_what_is_no_program_is_pointed_at(text, message, position):
    with pytest.raises(MarchError) as found:
        parse_march(text)
    assert message in str(found.value)
    assert found.value.position == position


@pytest.mark.parametrize("name", ["March C-", "march c-", "C-", "marchc-", "c−"])
def test_programs_are_known_by_their_names(name):
    assert program_named(name) is PROGRAMS["March C-"]


def test_an_unknown_name_is_none():
    assert program_named("March Z9") is None


_operations = st.lists(st.tuples(st.booleans(), st.integers(0, 1)), min_size=1, max_size=6)


@given(st.lists(st.tuples(st.sampled_from("⇑⇓⇕"), _operations), min_size=1, max_size=8))
def test_a_program_reads_back_as_written_or_says_why_not(elements):
    written = [(order, ",".join(("r" if read else "w") + str(value) for read, value in operations)) for order, operations in elements]
    text = "{" + "; ".join(f"{order}({operations})" for order, operations in written) + "}"
    held, sound, reads = None, True, 0
    for _, operations in elements:
        for read, value in operations:
            sound = sound and (not read or held == value)
            reads += read
            held = held if read else value
    if sound and reads:
        assert str(parse_march(text)) == text
    else:
        with pytest.raises(MarchError):
            parse_march(text)
