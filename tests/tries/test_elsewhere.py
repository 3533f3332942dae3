"""A module in another machine: what words say of it, and what it changes, by hand from the numbers of docs/tries.md."""

from __future__ import annotations

from dataclasses import replace

import pytest

from after_check.domain.tries import Elsewhere, SuspectKind, TryLog, TryModule, noted_by_both
from after_check.tries.blame import blame, says_with
from after_check.tries.elsewhere import elsewhere_factor, said_elsewhere, with_elsewhere
from after_check.tries.model import hypotheses_of
from after_check.tries.next_try import next_try
from after_check.tries.suspects import Mode, culprits_of
from after_check.tries.try_words import elsewhere_words
from tests.helpers.logs import A, B, tried


@pytest.mark.parametrize(
    ("words", "failed", "minutes"),
    [
        ("fails", True, None),
        ("does not start", True, None),
        ("doesn't boot", True, None),
        ("not seen", True, None),
        ("black screen", True, None),
        ("the same trouble", True, None),
        ("errors", True, 10.0),
        ("starts but errors after 25 min", True, 25.0),
        ("dead there too", True, None),
        ("starts", False, None),
        ("boots fine", False, None),
        ("works", False, None),
        ("ok", False, None),
        ("clean", False, 10.0),
        ("clean 40 min", False, 40.0),
        ("no errors overnight", False, 480.0),
        ("3 passes clean", False, 30.0),
        ("tested 1.5 h, no errors", False, 90.0),
        ("no trouble in 2 hours", False, 120.0),
        ("did not fail", False, 10.0),
    ],
)
def test_what_words_say(words, failed, minutes):
    assert said_elsewhere(words) == Elsewhere(failed, minutes)


@pytest.mark.parametrize("words", ["blue", "40 min", "no errors, then it crashed"])
def test_words_that_do_not_say_it_are_asked_again(words):
    with pytest.raises(ValueError, match=words.split()[0]):
        said_elsewhere(words)


def test_a_line_about_several_modules():
    log = TryLog((A, B, TryModule("z", soldered=True)))
    noted = {module.letter: module.elsewhere for module in with_elsewhere(log, "module B fails; a: clean 40 min").modules}
    assert noted == {"a": (Elsewhere(False, 40.0),), "b": (Elsewhere(True),), "z": ()}
    log = with_elsewhere(with_elsewhere(log, "a starts, b errors after 5 min"), "a fails")
    assert [elsewhere_words(module) for module in log.modules] == [
        "fails in another machine 1 of 2 times",
        "fails in another machine",
        "",
    ]
    assert [module.elsewhere for module in with_elsewhere(log, "a -; b not tried").modules] == [(), (), ()]


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("c fails", "this log: for instance a fails; b clean 40 min"),
        ("fails", "does not begin with a module"),
        ("z fails", "soldered"),
        ("a maybe", "does not say"),
    ],
)
def test_a_line_that_is_not_understood_says_why(line, said):
    with pytest.raises(ValueError, match=said):
        with_elsewhere(TryLog((A, B, TryModule("z", soldered=True))), line)


def factor(noted, kind, name, mode, strength):
    """What notes about module a make one hypothesis likelier by."""
    log = TryLog((replace(A, elsewhere=noted), B), ("A2", "B2"), (tried({"A2": "a", "B2": "b"}, "no"),))
    hypotheses = hypotheses_of(culprits_of(log))
    factors = elsewhere_factor(hypotheses, log.modules)
    (found,) = (
        factors[at]
        for at, number in enumerate(hypotheses.culprit)
        if number >= 0
        and (hypotheses.culprits[number].kind, hypotheses.culprits[number].name) == (kind, name)
        and (hypotheses.modes[at], float(hypotheses.strength[at])) == (mode, strength)
    )
    return found


@pytest.mark.parametrize(
    ("noted", "kind", "name", "mode", "strength", "by_hand"),
    [
        # It shows at 97 of 100 starts, and a sound one fails there with 3 in 100: (1 - 0.03 * 0.97) / 0.03.
        ((Elsewhere(True),), SuspectKind.MODULE, "a", Mode.START, 0.97, (1 - 0.03 * 0.97) / 0.03),
        # It starts: 0.03 * 0.97 / 0.97.
        ((Elsewhere(False),), SuspectKind.MODULE, "a", Mode.START, 0.97, 0.03),
        # A start says nothing of errors; four clean passes of one that shows in 35 of 100 do: 0.65 four times.
        ((Elsewhere(False),), SuspectKind.MODULE, "a", Mode.SOAK, 0.35, 1.0),
        ((Elsewhere(False, 40.0),), SuspectKind.MODULE, "a", Mode.SOAK, 0.35, 0.65**4),
        ((Elsewhere(False), Elsewhere(False)), SuspectKind.MODULE, "a", Mode.SEEN, 0.68, 0.32**2),
        # Nothing else is at work there.
        ((Elsewhere(True),), SuspectKind.MODULE, "b", Mode.START, 0.97, 1.0),
        ((Elsewhere(True),), SuspectKind.SLOT, "A2", Mode.START, 0.97, 1.0),
        ((Elsewhere(True),), SuspectKind.MACHINE, "machine", Mode.START, 0.97, 1.0),
    ],
)
def test_by_hand(noted, kind, name, mode, strength, by_hand):
    assert factor(noted, kind, name, mode, strength) == pytest.approx(by_hand)


def one_slot(*noted):
    """A laptop with one slot and one module, which does not start with it, twice over."""
    failed = tried({"A1": "a"}, "no")
    return TryLog((TryModule("a", elsewhere=noted),), ("A1",), (failed, failed))


def test_where_nothing_at_hand_tells_another_machine_is_asked_for():
    said, proposal = blame(one_slot()), next_try(one_slot())
    assert not said.settled
    assert (said.borrow_for, said.elsewhere_for) == ("A1", "a")
    asked = says_with(said, found_next=False) if proposal is None else proposal.or_elsewhere_for
    assert "a" in asked
    # It was in one: nobody asks for that again.
    assert blame(one_slot(Elsewhere(False))).elsewhere_for == ""


def test_trouble_there_too_names_the_module_and_none_clears_it():
    said = blame(one_slot(Elsewhere(True)))
    assert said.settled
    assert (said.first.kind, said.first.name) == (SuspectKind.MODULE, "a")
    cleared = blame(one_slot(Elsewhere(False, 40.0)))
    weights = {(suspect.kind, suspect.name): suspect.weight for suspect in cleared.suspects}
    assert weights.get((SuspectKind.MODULE, "a"), 0.0) < 0.1
    assert not cleared.settled


def test_a_module_that_failed_there_is_named_without_a_try_that_clears_it():
    """It failed alone and with the other one; without it nothing was tried yet, which would be asked for."""
    modules = (A, B)
    tries = (tried({"A2": "a", "B2": "b"}, "yes", seen=["A2"]), tried({"A2": "b", "B2": "a"}, "yes", seen=["B2"]))
    assert not blame(TryLog(modules, ("A2", "B2"), tries)).settled
    failed = blame(with_elsewhere(TryLog(modules, ("A2", "B2"), tries), "b not seen"))
    assert failed.settled
    assert failed.first.name == "b"


def test_a_slot_is_blamed_with_a_module_that_works_elsewhere():
    """Where a sound module fails in a slot nobody has to see the board work without it."""
    tries = (tried({"A2": "a", "B2": "b"}, "yes", seen=["A2"]), tried({"A2": "b", "B2": "a"}, "yes", seen=["A2"]))
    tries = (*tries, tried({"B2": "b"}, "no"))
    plain = TryLog((A, B), ("A2", "B2"), tries)
    assert not blame(plain).settled
    said = blame(with_elsewhere(plain, "a starts; b starts"))
    assert said.settled
    assert (said.first.kind, said.first.name) == (SuspectKind.SLOT, "B2")


def test_notes_of_two_benches_are_kept_once():
    fails, works = Elsewhere(True), Elsewhere(False, 40.0)
    assert noted_by_both((fails, works), (works,)) == noted_by_both((works,), (works, fails)) == (works, fails)
    assert noted_by_both((fails, fails), (fails,)) == (fails, fails)
