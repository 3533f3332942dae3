"""The reading notation: every word of it, what is not understood, and writing it back."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from after_check.domain.boards import Filling, Slot
from after_check.domain.facts import Fact, Source
from after_check.domain.modules import Form, Generation, ManufactureWeek, Module, Profile, Timings
from after_check.domain.readings import (
    BenchmarkOutcome,
    Notice,
    NoticeKind,
    ProfileState,
    RateUnit,
    Reading,
    Redundancy,
    ShownRate,
    SoakResult,
    StartOutcome,
    Via,
)
from after_check.language.short_form import parse, parse_promise, write
from after_check.language.short_form.items import LONGEST_LINE
from after_check.language.short_form.problems import pointed_out

GIB, MIB = 1 << 30, 1 << 20


def understood(line: str) -> Reading:
    parsed = parse(line)
    assert parsed.problems == ()
    return parsed.reading


def module_of(words: str) -> Module:
    (module,) = understood(f"A1={words}").modules
    return module


def test_the_first_example_of_the_design():
    line = 'A1=-; A2=16G DDR4-2933 CL21 2Rx8; B1=-; B2="16GB 2Rx8 PC4-2933Y-UB1-11"; run 2933; dual; profile off; total 32768MB'
    reading = understood(line)
    assert [slot.name for slot in reading.slots] == ["A1", "A2", "B1", "B2"]
    assert reading.empty_slots == ("A1", "B1")
    first, second = reading.modules
    assert (first.size_bytes, first.timings, first.ranks) == (typed(16 * GIB), typed(Timings(21)), typed(2))
    assert second.size_bytes == Fact(16 * GIB, Source.LABEL)
    assert second.standard_mts == Fact(2933, Source.LABEL)
    assert reading.running_rate == typed(ShownRate(2933.0, RateUnit.NONE))
    assert reading.channels == typed(2)
    assert reading.profile == typed(ProfileState.OFF)
    assert reading.total_bytes == typed(32 * GIB)


def typed(value):
    return Fact(value, Source.TYPED)


def test_modules_without_slots_and_facts():
    reading = understood("2x16G DDR4-2933; run 1467MHz; single; usable 31.8G; graphics 512M; via firmware; bits 32; ecc-errors 3; pending")
    assert len(reading.loose) == 2
    assert reading.running_rate == typed(ShownRate(1467.0, RateUnit.MHZ))
    assert reading.channels == typed(1)
    assert reading.usable_bytes == typed(round(31.8 * GIB))
    assert reading.graphics_bytes == typed(512 * MIB)
    assert reading.via is Via.FIRMWARE
    assert reading.system_bits == typed(32)
    assert reading.ecc_errors == typed(3)
    assert reading.restart_pending == typed(True)


@pytest.mark.parametrize(
    ("words", "field", "value"),
    [
        ("16G", "size_bytes", 16 * GIB),
        ("16 GiB", "size_bytes", 16 * GIB),
        ("512M", "size_bytes", 512 * MIB),
        ("16384MB", "size_bytes", 16 * GIB),
        ("DDR4-2934", "rated_mts", 2933),
        ("PC4-23400", "rated_mts", 2933),
        ("PC4-2667", "rated_mts", 2666),
        ("PC3L-12800", "voltage_mv", 1350),
        ("DDR5", "generation", Generation.DDR5),
        ("LPDDR4X-4266", "generation", Generation.LPDDR4X),
        ("LPDDR5-6400", "rated_mts", 6400),
        ("CL21", "timings", Timings(21)),
        ("21-21-21-47", "timings", Timings(21, 21, 21, 47)),
        ("16-18-18", "timings", Timings(16, 18, 18)),
        ("2Rx8", "device_width_bits", 8),
        ("1.35V", "voltage_mv", 1350),
        ("1.2 V", "voltage_mv", 1200),
        ("ecc", "ecc", True),
        ("noecc", "ecc", False),
        ("so-dimm", "form", Form.SODIMM),
        ("rdimm", "form", Form.RDIMM),
        ("soldered", "form", Form.SOLDERED),
        ("maker Quillmark", "maker", "Quillmark"),
        ('maker "Tarn Hollow"', "maker", "Tarn Hollow"),
        ("part QM-16", "part", "QM-16"),
        ("serial 00A1F3", "serial", "00A1F3"),
        ("date 2021-W11", "made", ManufactureWeek(2021, 11)),
        ("std 2400", "standard_mts", 2400),
        ("noprof", "profiles", ()),
        ("prof1 3600@CL18/1.35V", "profiles", (Profile(1, 3600, Timings(18), 1350),)),
        ("prof1 6000@30/1.35V", "profiles", (Profile(1, 6000, Timings(30), 1350),)),
        ("prof2 3200@16-18-18-38", "profiles", (Profile(2, 3200, Timings(16, 18, 18, 38)),)),
        ("prof 1 6400 / 1.4V", "profiles", (Profile(1, 6400, None, 1400),)),
    ],
)
def test_module_words(words, field, value):
    fact = getattr(module_of(words), field)
    assert fact is not None
    assert fact.value == value


@pytest.mark.parametrize(
    ("words", "result"),
    [
        ("soak clean", SoakResult(0)),
        ("soak clean 4 passes", SoakResult(0, passes=4)),
        ("soak clean 1 pass 95% 2h", SoakResult(0, 120, 95, 1)),
        ("soak errors 12 4 passes by stick", SoakResult(12, passes=4, by="stick")),
        ("soak errors 4 passes", SoakResult(1, passes=4)),
        ("soak clean 2h 4 passes", SoakResult(0, 120, passes=4)),
    ],
)
def test_the_result_of_a_memory_test(words, result):
    assert understood(f"2x8G; {words}").soak.value == result


@pytest.mark.parametrize(
    ("a", "b"),
    [
        ("a2=16g ddr4-2933 cl21 2rX8", "A2 = 16 G  DDR4 - 2933 CL 21 2R x 8"),
        ("RUN 1467mhz; DUAL; Profile OFF", "run1467 MHz;dual;profile off"),
        ("2X16G", "2 x 16 GiB"),
        ("quad", "channels 4"),
    ],
)
def test_case_and_blanks_do_not_matter(a, b):
    assert understood(a) == understood(b)


@pytest.mark.parametrize(
    ("line", "start", "part", "hint"),
    [
        ("A1=16G; duel", 8, "'duel' is not understood", "dual"),
        ("A1=16G DDR4-2933 run 2400", 17, "no word for a module", "put ;"),
        ("A1=16G sodim", 7, "'sodim' is not understood", "sodimm"),
        ("A1=8G; a1=8G", 7, "given twice", "keep one"),
        ("run 2400; run 2933", 10, "given twice: 2400 and 2933", "keep one"),
        ("A1=16G 8G", 7, "size is given twice: 16 GiB and 8 GiB", "keep one"),
        ("A1=", 0, "nothing is behind", "- for an empty slot"),
        ("profile maybe", 0, "not understood", "off, 1, 2"),
        ("A1=8G date 2021-W53", 6, "2021 has no week 53", "ISO week"),
        ('A1="what is this"', 3, "no JEDEC label", "PC4"),
        ('A1=8G maker "Quill', 12, "quote is not closed", '"'),
        ("100x8G", 0, "100 modules are not possible", "64"),
        ("run 99999", 0, "no data rate", ""),
        ("A1=8G prof1 3600 noprof", 17, "contradict", ""),
        ("soak clean 60min 2h", 0, "2 h is a second figure for the time", ""),
        ("soak clean 400 passes 5 passes", 0, "5 passes is a second figure for the passes", ""),
        ("dual 2400", 5, "left over", ";"),
    ],
)
def test_what_is_not_understood_is_pointed_at(line, start, part, hint):
    problems = [problem for problem in parse(line).problems if part in problem.message]
    assert problems, parse(line).problems
    assert problems[0].start == start
    assert hint in problems[0].suggestion
    shown, marks = pointed_out(line, problems[0]).split("\n")
    assert shown[marks.index("^")] == line[start]


def test_what_is_understood_beside_a_problem_is_kept():
    parsed = parse("A1=16G sodim DDR4-2933; duel; run 2933")
    assert len(parsed.problems) == 2
    assert parsed.reading.modules[0].rated_mts == typed(2933)
    assert parsed.reading.running_rate is not None


def test_a_line_of_a_hundred_kilobytes_gets_a_clear_message():
    (problem,) = parse("A1=16G; " * 12_500).problems
    assert "100,000 characters" in problem.message
    assert f"{LONGEST_LINE:,}" in problem.message


@pytest.mark.parametrize("line", ["DDR2", "2xDDR4", "A1=module; 2xmodule; CL 9", "1xsoldered"])
def test_modules_whose_size_is_not_known(line):
    reading = understood(line)
    assert reading.modules
    assert all(module.size_bytes is None for module in reading.modules)
    assert understood(write(reading)) == reading


def test_quotes_protect_semicolons_and_control_characters_are_dropped():
    (module,) = understood('A1=8G part "a;b" maker "\x1b[31mRed\x07"').modules
    assert module.part == typed("a;b")
    assert module.maker == typed("[31mRed")


_names = st.text(st.characters(min_codepoint=32, max_codepoint=0x2FF, exclude_categories=("Cc", "Cf")), min_size=1, max_size=12).filter(
    lambda text: text == " ".join(text.split()) and text
)
_rates = st.sampled_from([1600, 2133, 2400, 2666, 2933, 3200, 3466, 3600, 4800, 6400])
_timings = st.one_of(
    st.builds(Timings, st.integers(5, 60)),
    st.builds(Timings, st.integers(5, 60), st.integers(5, 60), st.integers(5, 60)),
    st.builds(Timings, st.integers(5, 60), st.integers(5, 60), st.integers(5, 60), st.integers(10, 120)),
)
_sizes = st.one_of(st.sampled_from([512 * MIB, GIB, 8 * GIB, 24 * GIB, round(31.8 * GIB)]), st.integers(1, 1 << 45))
_profiles = st.lists(
    st.builds(Profile, st.integers(1, 3), _rates, st.none() | _timings, st.none() | st.sampled_from([1100, 1200, 1350, 1435])),
    max_size=3,
    unique_by=lambda profile: profile.number,
).map(lambda found: tuple(sorted(found, key=lambda profile: profile.number)))


def _maybe(values):
    return st.none() | values.map(typed)


@st.composite
def _modules(draw):
    generation = draw(st.sampled_from(list(Generation)))
    ranked = draw(st.booleans())
    return Module(
        size_bytes=draw(_sizes.map(typed)),
        generation=typed(generation),
        rated_mts=draw(st.none() | st.sampled_from([400, 1600, 3200, 4800]).map(typed)),
        timings=draw(_maybe(_timings)),
        ranks=draw(st.integers(1, 9).map(typed)) if ranked else None,
        device_width_bits=draw(st.sampled_from([4, 8, 16, 32]).map(typed)) if ranked else None,
        voltage_mv=draw(_maybe(st.sampled_from([1100, 1200, 1350, 1500]))),
        ecc=draw(_maybe(st.booleans())),
        form=draw(_maybe(st.sampled_from(list(Form)))),
        maker=draw(_maybe(_names)),
        part=draw(_maybe(_names)),
        serial=draw(_maybe(_names)),
        made=draw(_maybe(st.builds(ManufactureWeek, st.integers(1990, 2099), st.integers(1, 52)))),
        standard_mts=draw(_maybe(_rates)),
        profiles=draw(_maybe(_profiles)),
    )


@st.composite
def _readings(draw):
    slot_names = draw(st.lists(st.one_of(st.sampled_from(["A1", "A2", "B1", "B2"]), _names), max_size=4, unique_by=str.casefold))
    slots = []
    for name in slot_names:
        filling = draw(st.sampled_from((Filling.FILLED, Filling.EMPTY, Filling.UNKNOWN)))  # Persistent memory is in no typed line.
        slots.append(Slot(name, filling, draw(_modules()) if filling is Filling.FILLED else None))
    shown = st.builds(ShownRate, st.integers(50, 20000).map(float), st.sampled_from(list(RateUnit)))
    return Reading(
        slots=tuple(slots),
        loose=tuple(draw(st.lists(_modules(), max_size=2))),
        running_rate=draw(_maybe(shown)),
        channels=draw(_maybe(st.integers(1, 16))),
        profile=draw(_maybe(st.sampled_from(list(ProfileState)))),
        total_bytes=draw(_maybe(_sizes)),
        usable_bytes=draw(_maybe(_sizes)),
        graphics_bytes=draw(_maybe(_sizes)),
        timings=draw(_maybe(_timings)),
        voltage_mv=draw(_maybe(st.integers(500, 9999))),
        ecc_on=draw(_maybe(st.booleans())),
        ecc_errors=draw(_maybe(st.integers(0, 10**9))),
        virtual=draw(_maybe(st.just(True))),
        settings_reset=draw(_maybe(st.just(True))),
        restart_pending=draw(_maybe(st.just(True))),
        soak=draw(
            _maybe(
                st.builds(
                    SoakResult,
                    st.integers(0, 10**6),
                    st.none() | st.integers(1, 99999),
                    st.none() | st.integers(0, 100),
                    st.none() | st.integers(0, 999),
                )
            )
        ),
        start=draw(_maybe(st.sampled_from(list(StartOutcome)))),
        benchmark=draw(_maybe(st.sampled_from(list(BenchmarkOutcome)))),
        off_under_load=draw(_maybe(st.just(True))),
        rate_cap_mts=draw(_maybe(st.integers(100, 20000))),
        system_limit_bytes=draw(_maybe(_sizes)),
        redundancy=draw(_maybe(st.sampled_from(list(Redundancy)))),
        notices=tuple(Notice(NoticeKind.REMARK, text, "typed") for text in draw(st.lists(_names, max_size=2))),
        via=draw(st.none() | st.sampled_from(list(Via))),
        system_bits=draw(_maybe(st.sampled_from([32, 64]))),
    )


@given(_readings())
def test_writing_and_reading_gives_the_same(reading):
    line = write(reading)
    parsed = parse(line)
    assert parsed.problems == (), line
    # Short slot names are written in capitals, as people say them.
    expected = [
        slot.name.upper() if len(slot.name) in (2, 3) and slot.name.isascii() and slot.name.isalnum() else slot.name
        for slot in reading.slots
    ]
    assert [slot.name.casefold() for slot in parsed.reading.slots] == [name.casefold() for name in expected]
    assert [(slot.filling, slot.module) for slot in parsed.reading.slots] == [(slot.filling, slot.module) for slot in reading.slots]
    assert parsed.reading.loose == reading.loose
    for name in ("running_rate", "channels", "profile", "total_bytes", "usable_bytes", "graphics_bytes", "timings", "voltage_mv", "ecc_on"):
        assert getattr(parsed.reading, name) == getattr(reading, name), line
    for name in (
        "ecc_errors",
        "virtual",
        "settings_reset",
        "restart_pending",
        "via",
        "system_bits",
        "soak",
        "start",
        "benchmark",
        "off_under_load",
        "rate_cap_mts",
        "system_limit_bytes",
        "redundancy",
    ):
        assert getattr(parsed.reading, name) == getattr(reading, name), line


@given(st.text(max_size=200) | st.text(alphabet='AB12=;"-x GDdRrun.@/', max_size=120))
def test_any_text_is_parsed_and_what_is_understood_is_stable(line):
    parsed = parse(line)
    for problem in parsed.problems:
        assert 0 <= problem.start <= problem.end <= max(len(line), 1)
        assert problem.message
    if not parsed.problems:
        assert parse(write(parsed.reading)).reading == parsed.reading


@pytest.mark.parametrize(
    ("line", "total_gib", "rate_mts", "channels", "profile"),
    [
        ("2x16G DDR4-3466; dual; profile 1", 32, 3466, 2, ProfileState.ONE),
        ("2x24G DDR5-6400; dual; profile 1", 48, 6400, 2, ProfileState.ONE),
        ("A2=8G DDR4-2933 prof1 2933 std 2666; B2=8G DDR4-2933 prof1 2933 std 2666; profile off", 16, 2666, None, ProfileState.OFF),
        ("total 64G; run 1600MHz", 64, 3200, None, None),
        ("8G DDR4-3200; 8G DDR4-2666", 16, 2666, None, None),
        ("dual", None, None, 2, None),
    ],
)
def test_promises(line, total_gib, rate_mts, channels, profile):
    promise, parsed = parse_promise(line)
    assert parsed.problems == ()
    assert promise.total_bytes == (total_gib * GIB if total_gib else None)
    assert (promise.rate_mts, promise.channels, promise.profile) == (rate_mts, channels, profile)


@pytest.mark.parametrize(
    ("line", "part"),
    [
        ("2x16G; total 16G", "add up to 32 GiB"),
        ("1x16G DDR4-3200; dual", "2 channels are promised with 1 module"),
        ("2x16G DDR4-3200 noprof; profile 1", "does not hold it"),
        ("2x16G prof1 3600; run 3200; profile 1", "runs at 3600"),
        ("2x16G; usable 31G", "cannot be promised"),
        ("2x16G; virtual", "cannot be promised"),
    ],
)
def test_a_promise_that_contradicts_itself(line, part):
    problems = parse_promise(line)[1].problems
    assert any(part in problem.message for problem in problems), problems


PIECES = (
    *("A1=", "B2 =", "2x", "x", "16", "16G", "24576MB", "31.8G", "0", "9999999999", "-", "?", ";", ",", " ", '"', "@", "/", "."),
    *("LP", "DDR", "DDR4", "DDR9", "LPDDR", "LPDDR3X", "LPDDR5X", "PC", "PC4", "PC4L-", "PC-2100", "X", "L", "-2933", "2400", "MHz"),
    *("CL", "CL18", "16-18-18", "-38", "2R", "2Rx8", "1.35V", "prof1 ", "profile ", "std ", "date ", "2021-W11", "W99", "maker "),
    *("run ", "total ", "usable ", "channels ", "dual", "soak ", "via ", "bits ", "32", "ecc", "noprof", "\u017f", "\u212a", "٣", "é"),
)


@given(st.lists(st.sampled_from(PIECES), max_size=12).map("".join))
def test_no_exception_leaves_the_parser_whatever_its_own_words_are_put_together_to(line):
    for read in (parse, lambda text: parse_promise(text)[1]):
        for end in range(len(line) + 1):
            parsed = read(line[:end])
            for problem in parsed.problems:
                assert 0 <= problem.start <= problem.end <= len(line), str(problem)


@pytest.mark.parametrize(("line", "part"), [("LPDDR", "LPDDR"), ("2x8G lpddr-3200", "lpddr"), ("A1=16G DDR4X", "DDR4X")])
def test_a_kind_of_memory_that_there_is_not_is_pointed_at(line, part):
    (problem,) = parse(line).problems
    assert line[problem.start : problem.end] == part
    assert "no kind of memory" in problem.message
    assert "LPDDR5X" in problem.suggestion
