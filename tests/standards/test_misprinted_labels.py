"""Labels whose number or letters cannot be: no rate is made of them. Classes and rates of JESD21-C and JESD400; bins of JESD79-4."""

import pytest

from after_check.domain.modules import Form, Generation
from after_check.language.typed_text import said
from after_check.sources.explain import explain
from after_check.sources.open_source import take_notation
from after_check.standards.labels import misprint_in, other_readings, parse_label
from after_check.standards.rates import pc_number_to_rate_mts

GIB = 1 << 30


@pytest.mark.parametrize(
    ("text", "number", "meant"),
    [
        ("8GB 1Rx8 PC5-56008-SA0-1010", "56008", "8GB 1Rx8 PC5-5600B-SA0-1010"),  # 8 for B
        ("16GB 2Rx8 PC4-24001-UB1-11", "24001", "16GB 2Rx8 PC4-2400-UB1-11"),  # 1 for a letter that was I, and no bin is called so
        ("16GB 1Rx8 PC5-48008-UC0-1010", "48008", "16GB 1Rx8 PC5-4800B-UC0-1010"),
        ("PC4-99999", "99999", ""),
        ("8GB 1Rx8 PC4-2134-UB1-11", "2134", ""),  # 2133.33 is printed 2133
    ],
)
def test_a_number_that_is_no_rate_and_no_class_gives_no_rate(text, number, meant):
    assert parse_label(text) is None
    assert misprint_in(text) == (number, meant)


@pytest.mark.parametrize(
    ("text", "generation", "rate_mts", "form"),
    [
        ("4GB 2Rx8 PC3-1060OS-9-10-F1", Generation.DDR3, 1333, Form.SODIMM),
        ("8GB 1Rx8 PC4-240OT-UA1-11", Generation.DDR4, 2400, Form.UDIMM),
        ("2GB 2Rx8 PC2-64OOS-666-12-E0", Generation.DDR2, 800, Form.SODIMM),
    ],
)
def test_a_letter_that_was_read_for_a_nought_is_one(text, generation, rate_mts, form):
    label = parse_label(text)
    assert (label.generation, label.rate_mts, label.form) == (generation, rate_mts, form)
    assert misprint_in(text) is None


@pytest.mark.parametrize(
    ("number", "generation", "rate_mts"),
    [
        *((number, Generation.DDR3, 1333) for number in (10600, 10660, 10666, 10667)),
        *((number, Generation.DDR4, 2933) for number in (23400, 23460, 23466, 2933)),
        *((number, Generation.DDR4, None) for number in (24001, 21001, 25601, 2932, 10600)),
        *((number, Generation.DDR5, None) for number in (56008, 44801, 5601)),
        *((number, Generation.DDR5, rate) for number, rate in ((38400, 4800), (41600, 5200), (44800, 5600), (51200, 6400))),
        (2700, Generation.DDR, 333),
        (4200, Generation.DDR2, 533),
        (5300, Generation.DDR2, 667),
        (8500, Generation.DDR3, 1066),
    ],
)
def test_a_class_is_one_that_exists(number, generation, rate_mts):
    assert pc_number_to_rate_mts(number, generation) == rate_mts


def test_letters_of_no_bin_of_the_rate_are_said():
    label = parse_label("16GB 2Rx8 PC4-3200V-UB1-11")
    assert label.is_odd_bin
    assert label.timings is None
    assert other_readings("16GB 2Rx8 PC4-3200V-UB1-11", label)[:2] == ("16GB 2Rx8 PC4-2666V-UB1-11", "16GB 2Rx8 PC4-2933V-UB1-11")
    assert any("no speed bin of DDR4-3200" in line for line in explain("16GB 2Rx8 PC4-3200V-UB1-11"))
    notices = take_notation("16GB 2Rx8 PC4-3200V-UB1-11").reading.notices
    assert any("no speed bin of DDR4-3200" in notice.what for notice in notices)
    for letters in ("W", "AA", "AC"):
        assert not parse_label(f"16GB 2Rx8 PC4-3200{letters}-UB1-11").is_odd_bin
    assert not parse_label("4GB 2Rx8 PC3-12800S-11-10-F1").is_odd_bin


@pytest.mark.parametrize(
    ("text", "modules", "about", "choice"),
    [
        ("laptop, 8GB 1Rx8 PC5-56008-SA0-1010", 1, "rated_mts", "8gb 1rx8 pc5-5600b-sa0-1010"),
        ("two 8GB 1Rx8 PC5-56008-SA0-1010 in it", 2, "rated_mts", "8gb 1rx8 pc5-5600b-sa0-1010"),
        ("laptop has 16GB 2Rx8 PC4-3200V-SE1-11", 1, "rated_mts", "16gb 2rx8 pc4-2666v-se1-11"),
    ],
)
def test_a_misprint_is_asked_about_and_the_rest_of_the_label_stands(text, modules, about, choice):
    found = said(text)
    assert [ask.about for ask in found.asks] == [about]
    assert found.asks[0].choices[0].casefold() == choice
    assert len(found.reading.modules) == modules
    module = found.reading.modules[0]
    assert module.size_bytes.value == (16 if "16GB" in text else 8) * GIB
    assert module.form.value is Form.SODIMM
    assert module.rated_mts is None
    assert module.timings is None


LABEL = "16GB 2Rx8 PC4-3200AA-UB1-11"


@pytest.mark.parametrize(
    ("word", "about"),
    [
        ("CL16", "timings"),
        ("16-18-18-36", "timings"),
        ("ECC", "ecc"),
        ("1.35V", "voltage_mv"),
        ("DDR3", "generation"),
        ("sodimm", "form"),
        ("single rank", "ranks"),
        ("sold as 2666", "rated_mts"),
    ],
)
@pytest.mark.parametrize("line", ["{label} {word}", "{label}, {word}", "a stick says {label} and {word}"])
def test_a_word_that_contradicts_the_label_beside_it_is_asked_about(word, about, line):
    found = said(line.format(label=LABEL, word=word))
    assert [ask.about for ask in found.asks] == [about]
    assert getattr(found.reading.modules[0], about) is None
    assert len(found.asks[0].choices) == 2


@pytest.mark.parametrize("word", ["CL22", "22-22-22", "non-ecc", "1.2V", "DDR4", "udimm", "dual rank", "3200"])
def test_a_word_that_says_the_same_as_the_label_is_no_question(word):
    found = said(f"a stick, {LABEL}, {word}")
    assert not found.asks
    assert found.reading.modules[0].rated_mts.value == 3200


@pytest.mark.parametrize(
    "text", ["4GB 2Rx8 PC3U-12800S-11-10-F1", "laptop with 4GB 2Rx8 PC3U-12800S-11-10-F1", "4G PC3U-12800", "4gb pc3u-12800"]
)
def test_the_lowest_voltage_of_ddr3_is_read_at_every_door(text):
    assert take_notation(text).reading.modules[0].voltage_mv.value == 1250
