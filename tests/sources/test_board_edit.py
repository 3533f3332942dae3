"""Correcting a board on its drawing."""

from __future__ import annotations

from after_check.language.short_form import parse, write
from after_check.language.short_form.edit import emptied, module_from_words, moved, put, with_slots_for_loose

LINE = "A1=-; A2=16G DDR4-3200 serial 1; B1=8G DDR4-2400; run 2400; dual"


def test_move_empty_and_put():
    reading = parse(LINE).reading
    assert write(moved(reading, "A2", "A1")).startswith("A1=16G DDR4-3200 serial 1; A2=-; B1=8G")
    assert write(moved(reading, "A2", "B1")).startswith("A1=-; A2=8G DDR4-2400; B1=16G DDR4-3200 serial 1")
    assert write(emptied(reading, "B1")) == "A1=-; A2=16G DDR4-3200 serial 1; B1=-; run 2400; dual"
    assert write(put(reading, "A1", reading.modules[1])).startswith("A1=8G DDR4-2400; A2=16G")


def test_everything_else_of_the_line_stays():
    reading = parse(LINE + "; profile off; total 24G; bits 64").reading
    assert moved(moved(reading, "A1", "B1"), "B1", "A1") == reading


def test_modules_without_slots_get_some():
    reading = with_slots_for_loose(parse("2x8G DDR4-2400; run 2400").reading, ("A1", "A2", "B1", "B2"))
    assert write(reading) == "A1=8G DDR4-2400; A2=8G DDR4-2400; B1=-; B2=-; run 2400"
    assert reading.loose == ()


def test_words_of_one_module():
    module, problems = module_from_words("16G DDR4-3200 CL22")
    assert problems == ()
    assert module is not None
    assert module.timings is not None
    assert module_from_words("-") == (None, ())
    _, (problem,) = module_from_words("16G DDDR4")
    assert problem.start == 4
