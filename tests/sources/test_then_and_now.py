"""What a text tells of before, and what of now: readings are of what is there now, promises of what is to be."""

from __future__ import annotations

import pytest

from after_check.domain.readings import Reading
from after_check.language.typed_text import exact_promise, said
from after_check.sources.open_source import take_notation


@pytest.mark.parametrize(
    ("text", "exact"),
    [
        ("was 2x4 now 2x8", "2x8G"),
        ("2x4GB -> 2x8GB", "2x8G"),
        ("2x4 ddr3, 2x8 ddr3 after", "2x4G DDR3; 2x8G DDR3"),  # Nothing says that the first ones are gone.
        ("upgraded from 2x4GB DDR3-1333 to 2x8GB DDR3-1600, runs at 1333", "2x8G DDR3-1600; run 1333"),
        ("went from 1x8 to 2x8 ddr4", "2x8G DDR4"),
        ("changed 4gb stick to 8gb stick", "1x8G"),
        ("2 x 16 gig ddr5 5600 went in, was 8", "2x16G DDR5-5600"),
        ("he had 6gb, 4+2, now 4+8 = 12", "1x4G; 1x8G; total 12G"),
        ("took out 2x4, put in 2x16", "2x16G"),
        ("replaced the 4gb stick, 2x8 now", "2x8G"),
        ("replaced with 2x16 ddr4 3200", "2x16G DDR4-3200"),
        ("replaced the 4gb stick with 2x8", ""),
        ("now 32gb (2x16), before 16gb (2x8)", "2x16G; total 32G"),
        ("2x16 (was 2x8)", "2x16G"),
        ("old: 2x4 ddr3, new: 2x8 ddr3", "2x8G DDR3"),
        ("old 2x4 kept, 2x8 added", "2x4G; 2x8G"),
        ("old 2x4 plus new 2x8", "2x4G; 2x8G"),
        ("before: 1x4, after: 1x4 + 1x8", "1x4G; 1x8G"),
        ("vorher 2x4 jetzt 2x8 ddr4", "2x8G DDR4"),
        ("antes 4gb ahora 8gb", "total 8G"),
        ("4gb raus 8gb rein", "total 8G"),
        ("4gb out 2x8 in", "2x8G"),
        ("2 sticks pulled out, 1x8 left", "1x8G"),
        # Amounts of the whole are no modules.
        ("had 8, now 16", "total 16G"),
        ("8gb before, 16gb after", "total 16G"),
        ("upgraded from 8 to 16", "total 16G"),
        ("8->32, dual channel", "dual; total 32G"),
        # Slots too.
        ("slot 1 was empty, now 8gb in slot 1 and 16gb in slot 2", "1=8G; 2=16G"),
        ("slot 2 was empty, 1x8", "1x8G"),
        # What tells of nothing before stays.
        ("b1 empty a1 16g a2 16g => single channel", "A1=16G; A2=16G; B1=-; single"),
        ("total was 16gb, 2x8", "2x8G"),
        ("it was 2x8 ddr4", ""),
        ("replaced the fan, 2x8 ddr4", "2x8G DDR4"),
        ("2x8 fitted, was reseated once", "2x8G"),
    ],
)
def test_what_was_there_before_is_no_part_of_what_is(text, exact):
    notation = said(text).notation
    assert sorted(notation.split("; ")) == sorted(exact.split("; "))


@pytest.mark.parametrize(
    "text",
    ["swapped the 4gb stick for a 16", "replaced the 4gb stick with 2x8"],
)
def test_what_stays_where_one_goes_in_for_another_is_asked(text):
    found = said(text)
    assert [ask.about for ask in found.asks] == ["modules"]
    assert found.reading == Reading()


@pytest.mark.parametrize(
    ("text", "exact"),
    [
        ("has 8 + 4, wants 2x16 3200", "2x16G 3200"),
        ("customer had 8+4 and wants 2x8 ddr4 3200", "2x8G DDR4-3200"),
        ("wants 2x16 (has 8+4)", "2x16G"),
        ("now 12gb, should be 32gb", "total 32G"),
        ("currently 12, wants 24", "total 24G"),
        ("8gb now, 24 wanted", "total 24G"),
        ("8+4 -> 2x8", "2x8G"),
        ("from 8+4 to 2x8", "2x8G"),
        ("take out the 4, put in a 16", "1x8G; 1x16G"),
        ("take out the 4gb and put a 16 in", "1x8G; 1x16G"),
        ("has to be 32gb", "total 32G"),
        ("new: 2x16 ddr4 3200", "2x16G DDR4-3200"),
    ],
)
def test_a_promise_tells_what_is_there_from_what_is_to_be(text, exact):
    two_sizes = take_notation("A1=8G DDR4-2666; B1=4G DDR4-2666").reading
    assert exact_promise(text, two_sizes) == (exact or text)
