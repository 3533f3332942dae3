"""Bits, heat and counters as evidence, worked out by hand from the numbers of docs/tries.md."""

from __future__ import annotations

import pytest

from after_check.domain.tries import Arrangement, SoakSaid, Try, TryLog
from after_check.tries.blame import blame
from after_check.tries.error_places import bits_of, corrected_in, counted, told_in
from after_check.tries.weigh import weigh
from tests.helpers.logs import A, B, tried

SLOTS = ("A2", "B2")


def said(*words, fitted=("A2", "B2")):
    return Try(Arrangement(tuple((slot, letter) for slot, letter in zip(SLOTS, "ab", strict=True) if slot in fitted)), errors_at=words)


@pytest.mark.parametrize(
    ("words", "bits"),
    [
        (("0x1a2b3c40 bit 5",), {"bit 5"}),
        (("bits 5, 37 and 38",), {"bit 5", "bit 37", "bit 38"}),
        (("Bit 05", "device 3"), {"bit 5", "device 3"}),
        (("bits 8-10",), {"bit 8", "bit 9", "bit 10"}),
        (("DQ17",), {"bit 17"}),
        (("at 0x40", "a bit of everything", "64-bit words"), set()),
    ],
)
def test_what_is_read_as_a_bit(words, bits):
    assert bits_of(said(*words)) == bits


@pytest.mark.parametrize(
    ("words", "slots"),
    [
        (("A2: 14 corrected",), ("A2",)),
        (("corrected 3 in b2", "A2: 0 corrected"), ("B2",)),
        (("CE count 3 on A2", "CE count 0 on B2"), ("A2",)),
        (("A2 bit 5",), ()),
        (("C9: 14 corrected",), ()),
    ],
)
def test_what_is_read_as_a_counter(words, slots):
    assert corrected_in(said(*words)) == slots


@pytest.mark.parametrize(
    ("note", "places", "celsius"),
    [
        ("errors at bit 17, the module was 91 °C", ("errors at bit 17",), 91.0),
        ("bits 5, 37 and 38; device 3", ("bits 5, 37 and 38", "device 3"), None),
        ("A2: 14 corrected. 84,5 degrees after an hour", ("A2: 14 corrected",), 84.5),
        ("71C then 88c", (), 88.0),
        ("cpu at 92 °C, module 64 °C", (), 64.0),
        ("cpu at 92 °C", (), None),
        ("a bit loose, runs at 2400, 16 GB, CL16, rev 2 C, 9000 °C, DDR4-2400C17", (), None),
        ("nothing corrected", (), None),
    ],
)
def test_what_a_note_says_of_bits_and_heat(note, places, celsius):
    assert told_in(note) == (places, celsius)


def ratio(one, other, first, second):
    """By how much the weight of the first beside the second changed from one log to another, in soak mode at full strength."""

    def of(log):
        found = weigh(log)
        names = [
            f"{found.culprits[number].kind.value} {found.culprits[number].name}" if number >= 0 else ""
            for number in found.hypotheses.culprit
        ]
        at = {
            name: index
            for index, name in enumerate(names)
            if found.hypotheses.strength[index] > 0.9 and found.hypotheses.modes[index] != "start"
        }
        return found.weight[at[first]] / found.weight[at[second]]

    return of(other) / of(one)


def log(*words, **more):
    first, second = words or ((), ())
    return TryLog(
        (A, B),
        SLOTS,
        (
            tried({"A2": "a"}, "yes", ("A2",), "errors", profile="1", errors_at=first, **more),
            tried({"B2": "a"}, "yes", ("B2",), "errors", profile="1", errors_at=second),
        ),
    )


def test_the_same_bit_again_speaks_for_a_place():
    # 0.8 beside 0.25 for one that is the same, 0.2 beside 0.75 for one that is another.
    same, other = log(("bit 5",), ("bits 5, 9",)), log(("bit 5",), ("bit 9",))
    assert ratio(log(), same, "module a", "profile profile 1") == pytest.approx(0.8 / 0.25)
    assert ratio(log(), other, "module a", "profile profile 1") == pytest.approx(0.2 / 0.75)
    assert ratio(log(), log(("bit 5",), ()), "module a", "profile profile 1") == pytest.approx(1.0)


def test_heat_speaks_for_heat():
    def outside(found):
        return float(sum(weight for culprit, weight in zip(found.culprits, found.by_culprit(), strict=True) if culprit.kind == "outside"))

    plain, hot, cool = (outside(weigh(log(celsius=value))) for value in (None, 93.0, 52.0))
    assert cool < plain < hot
    # Odds: 0.7 beside 0.1 where it was hot, 0.3 beside 0.9 where it was not.
    assert hot / (1 - hot) == pytest.approx(7 * plain / (1 - plain), rel=1e-6)
    assert cool / (1 - cool) == pytest.approx(plain / (1 - plain) / 3, rel=1e-6)


def test_errors_that_were_corrected_are_errors_of_their_slot():
    clean = tried({"A2": "a", "B2": "b"}, "yes", ("A2", "B2"), "clean", errors_at=("B2: 210 corrected",))
    crossed = tried({"A2": "b", "B2": "a"}, "yes", ("A2", "B2"), "clean", errors_at=("A2: 95 corrected",))
    found = counted(TryLog((A, B), SLOTS, (clean, crossed)))
    assert [(one.soak, one.errors_in) for one in found.tries] == [(SoakSaid.ERRORS, ("B2",)), (SoakSaid.ERRORS, ("A2",))]
    said = blame(TryLog((A, B), SLOTS, (clean, crossed)))
    assert (said.first.kind.value, said.first.name) == ("module", "b")
    assert counted(TryLog((A, B), SLOTS, (crossed, clean))).tries == found.tries[::-1]
