"""Weights after small logs, worked out by hand from the rules of docs/tries.md."""

from __future__ import annotations

import itertools
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from after_check.domain.facts import typed
from after_check.domain.modules import Module
from after_check.domain.tries import SuspectKind, TryLog, TryModule
from after_check.tries.blame import blame, supports
from after_check.tries.next_try import next_try
from after_check.tries.weigh import weigh
from tests.helpers.logs import THREE, A, B, tried


def weights(log, card=None):
    weighed = weigh(log, card)
    return {f"{one.kind.value} {one.name}": float(weight) for one, weight in zip(weighed.culprits, weighed.by_culprit(), strict=True)}


DEGREES = ((0.97, 0.62), (0.68, 0.14), (0.35, 0.14), (0.12, 0.1))


def no(shows):
    """A fault that hinders the start, or no reason at all (0.01), gives "no start" and not a start after power cycles (0.85)."""
    return (1 - (1 - shows) * 0.99) * 0.85


def test_one_module_that_does_not_start_worked_out_by_hand():
    """Module a in A2, no start.

    A fault comes in four degrees; a kind, a total and an order are refused each time. A module that is not seen and is the
    only one hinders the start as well, with 0.85 of what it would hide.
    """
    degrees = sum(share * no(shows) for shows, share in DEGREES)
    unseen = sum(share * no(0.85 * shows) for shows, share in DEGREES)
    rest = no(0)
    by_hand = {
        "module a": 1.0 * (0.35 * degrees + 0.35 * unseen + 0.3 * rest),
        "slot A2": 0.3 * (0.2 * degrees + 0.6 * unseen + 0.2 * rest),
        # A seat that was bad in one of one tries has the chance 1 instead of 0.6, for each way in which it could show one.
        "seat a in A2": 0.25 * (0.35 * no(0.6) / 0.6 + 0.5 * no(0.85 * 0.6) + 0.15 * rest),
        "total 1 modules or more": 0.1 * (0.6 * no(0.97) + 0.4 * no(0.85 * 0.97)),
        "nothing came once": 0.3 * (0.4 * no(0.12) + 0.6 * rest),
        "machine machine": 0.3 * (0.6 * degrees + 0.4 * rest),
        "outside heat, power or another part": 0.1 * sum(share * (1 - 0.9 * 0.99) * 0.85 for _, share in DEGREES),
    }
    # That nothing is wrong at all says the same of the machine as what came once.
    by_hand["nothing came once"] += 0.3 * rest
    whole = sum(by_hand.values())
    found = weights(TryLog((A,), ("A2",), (tried({"A2": "a"}, "no"),)))
    assert set(found) == set(by_hand)
    for name, value in by_hand.items():
        assert found[name] == pytest.approx(value / whole, rel=1e-9), name


def test_errors_that_move_with_the_module_blame_it_by_hand():
    """Errors at B2 with b in it, then at A2 with b in it: of all places only module b was at both.

    Under "b shows in a soak, steadily": each try has 1 - 0.03 * 0.995, and of the places the test named the one with 0.95.
    Under slot B2 the second try has its errors at a place that is not its own, which is named with 0.04.
    """
    tries = (
        tried({"A2": "a", "B2": "b"}, "yes", ("A2", "B2"), "errors", ("B2",)),
        tried({"A2": "b", "B2": "a"}, "yes", ("A2", "B2"), "errors", ("A2",)),
    )
    found = weights(TryLog((A, B), ("A2", "B2"), tries))
    assert found["module b"] > 0.9
    place_right, place_wrong = 0.95, 0.04
    # Slot B2 is filled in both tries: its errors are expected in both, their place only in the first.
    ratio = (1.0 * 0.3 * place_right**2) / (0.3 * 0.2 * place_right * place_wrong)
    modelled = weigh(TryLog((A, B), ("A2", "B2"), tries))
    steady = {
        (modelled.culprits[number].kind, modelled.culprits[number].name): float(modelled.weight[at])
        for at, number in enumerate(modelled.hypotheses.culprit)
        if number >= 0 and modelled.hypotheses.modes[at] == "soak" and modelled.hypotheses.strength[at] == 0.97
    }
    assert steady[SuspectKind.MODULE, "b"] / steady[SuspectKind.SLOT, "B2"] == pytest.approx(ratio, rel=1e-9)


def steady_ratio(log, one, other, mode):
    """How the weights of two suspects stand to each other, each steady and showing in one way."""
    modelled = weigh(log)
    found = {
        (modelled.culprits[number].kind.value, modelled.culprits[number].name): float(modelled.weight[at])
        for at, number in enumerate(modelled.hypotheses.culprit)
        if number >= 0 and modelled.hypotheses.modes[at] == mode and modelled.hypotheses.strength[at] == 0.97
    }
    return found[one] / found[other]


def test_a_longer_soak_tells_more_by_hand():
    """A clean memory test of 40 minutes is four passes: a fault that shows in 0.35 of them is missed with 0.65 to the fourth."""

    def clean(minutes):
        log = TryLog((A, B), ("A2", "B2"), (tried({"A2": "a"}, "yes", ("A2",), "clean", soak_minutes=minutes), tried({"A2": "b"}, "no")))
        modelled = weigh(log)
        return {
            float(modelled.hypotheses.strength[at]): float(modelled.weight[at])
            for at, number in enumerate(modelled.hypotheses.culprit)
            if number >= 0 and modelled.culprits[number].name == "a" and modelled.hypotheses.modes[at] == "soak"
        }

    short, long = clean(10.0), clean(40.0)
    for shows in (0.35, 0.12):
        # Against one that hardly shows, so that the whole falls out.
        ratio = (long[shows] / long[0.12]) / (short[shows] / short[0.12])
        by_hand = ((1 - shows) ** 4 / (1 - 0.12) ** 4) / ((1 - shows) / (1 - 0.12))
        assert ratio == pytest.approx(by_hand, rel=1e-9)


def test_a_module_that_fails_only_with_the_profile_by_hand():
    """Errors with the profile, none without: a fault that the profile is needed for stays, the module alone would have shown."""
    tries = (
        tried({"A2": "a"}, "yes", ("A2",), "errors", profile="1"),
        tried({"A2": "a"}, "yes", ("A2",), "clean", profile="off"),
    )
    log = TryLog((A,), ("A2",), tries)
    # Priors 0.15 and 1.0, showing in a soak 0.6 and 0.3; the module would have errors again with 1 - 0.03 * 0.995.
    by_hand = (0.15 * 0.6 * 0.995) / (1.0 * 0.3 * (1 - (1 - 0.03 * 0.995)))
    assert steady_ratio(log, ("marginal", "a"), ("module", "a"), "soak") == pytest.approx(by_hand, rel=1e-9)


def test_a_start_that_was_cut_short_says_little_by_hand():
    """Of 300 s only 100 were waited for: half of the good starts look like none."""

    def ratio(seconds):
        tries = (tried({"A2": "a"}, "no", seconds=seconds), tried({"A2": "b"}, "yes", ("A2",)))
        return steady_ratio(TryLog((A, B), ("A2", "B2"), tries), ("module", "a"), ("module", "b"), "start")

    hinders, rest = 1 - 0.03 * 0.99, 0.01
    seldom, good = (1 - hinders), (1 - rest)

    def by_hand(cut):
        first = (hinders + (1 - hinders) * cut) / (rest + (1 - rest) * cut)
        return first * (good / seldom)

    assert ratio(400) == pytest.approx(by_hand(0.0), rel=1e-9)
    assert ratio(100) == pytest.approx(by_hand(0.5), rel=1e-9)


def test_soldered_memory_stays_in_every_proposal():
    modules = (TryModule("z", soldered=True), A, TryModule("p", old=True))
    log = TryLog(modules, ("S0", "A1"), (tried({"S0": "z", "A1": "a"}, "yes", ("S0", "A1"), "errors"),))
    for _ in range(5):
        proposal = next_try(log)
        if proposal is None:
            break
        assert proposal.arrangement.module_in["S0"] == "z"
        soak = "errors" if "a" in proposal.arrangement.slot_of else "clean"
        log = TryLog(modules, log.slots, (*log.tries, tried(proposal.arrangement.module_in, "yes", proposal.arrangement.module_in, soak)))
    assert (blame(log).first.kind, blame(log).first.name) == (SuspectKind.MODULE, "a")


def test_a_contact_is_mended_only_where_somebody_touched_it():
    """Bad, then well: without a hand on it a contact would be bad still; seated again it is put right with 0.7."""

    def seat(reseated):
        tries = (
            tried({"A2": "a"}, "yes", (), reseated=()),
            tried({"A2": "a"}, "yes", ("A2",), reseated=reseated),
        )
        return weights(TryLog((A, B), ("A2", "B2"), tries))["seat a in A2"]

    assert seat(("a",)) > 3 * seat(())


def test_a_cause_that_was_put_right_is_at_work_no_longer():
    hot = tried({"A2": "a"}, "yes", ("A2",), off_under_load=True)
    well = tried({"A2": "a"}, "yes", ("A2",), "clean", off_under_load=False)
    before = weights(TryLog((A,), ("A2",), (hot, hot, well)))["outside heat, power or another part"]
    repaired = tried({"A2": "a"}, "yes", ("A2",), "clean", off_under_load=False, put_right="fan plugged in again")
    assert weights(TryLog((A,), ("A2",), (hot, hot, repaired)))["outside heat, power or another part"] > before
    assert before > 0.3


def test_modules_without_facts_are_asked_about_before_the_machine_is_blamed():
    modules = (TryModule("a", module=Module()), TryModule("b", module=Module()), TryModule("p", old=True, module=Module()))
    tries = [tried({slot: letter}, "no") for letter in "ab" for slot in ("A2", "B2")]
    said = blame(TryLog(modules, ("A2", "B2"), tuple(tries)))
    assert said.first.kind is SuspectKind.MACHINE
    assert said.asks == ("Do modules a, b have ECC?",)
    assert not said.settled


def test_what_a_technician_concludes_is_held_against_the_log():
    said = blame(TryLog((A, B), ("A2", "B2"), THREE))
    assert supports(said, "it was module b") is True
    assert supports(said, "the mainboard is broken") is not True
    assert supports(said, "the cat sat on it") is None


def test_the_order_of_tries_does_not_matter():
    first = weights(TryLog((A, B), ("A2", "B2"), THREE))
    for order in itertools.permutations(THREE):
        other = weights(TryLog((A, B), ("A2", "B2"), order))
        assert other == pytest.approx(first, rel=1e-9)
    assert first["module b"] > 0.9


_LETTERS = ("a", "b", "c")
_SLOTS = ("A1", "A2", "B1")


@st.composite
def logs(draw):
    tries = []
    for _ in range(draw(st.integers(0, 5))):
        letters = draw(st.permutations(_LETTERS))[: draw(st.integers(0, 3))]
        slots = draw(st.permutations(_SLOTS))[: len(letters)]
        fitted = dict(zip(slots, letters, strict=True))
        start = draw(st.sampled_from(["yes", "no", "cycles", None]))
        seen = draw(st.one_of(st.none(), st.lists(st.sampled_from(_SLOTS), unique=True)))
        soak = draw(st.sampled_from([None, "clean", "errors"]))
        where = draw(st.lists(st.sampled_from(_SLOTS), unique=True)) if soak == "errors" else ()
        off, profile = draw(st.sampled_from([None, True, False])), draw(st.sampled_from(["", "off", "1"]))
        tries.append(tried(fitted, start, seen, soak, where, profile, off_under_load=off))
    return TryLog(tuple(TryModule(letter, old=letter == "c") for letter in _LETTERS), _SLOTS, tuple(tries))


@settings(max_examples=30, deadline=None)
@given(logs())
def test_any_log_gives_weights_and_a_possible_proposal(log):
    said = blame(log)
    assert all(0 <= suspect.weight <= 1.0001 for suspect in said.suspects)
    assert [suspect.weight for suspect in said.suspects] == sorted((suspect.weight for suspect in said.suspects), reverse=True)
    proposal = next_try(log)
    if proposal is not None:
        fitted = proposal.arrangement.fitted
        assert len({slot for slot, _ in fitted}) == len(fitted) == len({letter for _, letter in fitted})
        assert {slot for slot, _ in fitted} <= set(_SLOTS)
        assert {letter for _, letter in fitted} <= set(_LETTERS)
        assert not said.settled
        assert proposal.cost_minutes > 0


def test_nothing_failed_blames_nobody():
    assert blame(TryLog()).suspects == ()
    log = TryLog((A,), ("A2",), (tried({"A2": "a"}, "yes", ("A2",), "clean"),))
    said = blame(log)
    assert (said.suspects, said.settled) == ((), False)
    assert "nothing to blame" in said.says


@pytest.mark.parametrize(("starts", "asked"), [(1, True), (15, True), (20, False)])
def test_what_did_not_fail_yet_is_started_and_tested_again_as_it_is_and_not_for_ever(starts, asked):
    log = TryLog((A,), ("A2",), (replace(tried({"A2": "a"}, "yes", ("A2",)), starts=starts),))
    proposal = next_try(log)
    assert (proposal is not None) is asked
    if proposal is not None:
        assert (proposal.arrangement, proposal.starts, proposal.soak_minutes, proposal.moves) == (log.last.arrangement, 5, 40.0, 0)
    failed = replace(log, tries=(tried({"A2": "a"}, "no"),))
    assert "Nothing failed" not in (next_try(failed).why if next_try(failed) else "")


def test_the_same_arrangement_ending_differently_is_a_contradiction():
    log = TryLog((A, B), ("A2", "B2"), (tried({"A2": "a", "B2": "b"}, "no"), tried({"A2": "a", "B2": "b"}, "yes", ("A2", "B2"))))
    said = blame(log)
    assert any("tries 1 and 2 are the same arrangement and ended differently" in contradiction for contradiction in said.contradictions)
    assert said.first.kind is SuspectKind.CONTACT  # Seated again it works: a contact is likelier than any module.
    repaired = tried({"A2": "a", "B2": "b"}, "yes", ("A2", "B2"), put_right="cooler seated again")
    assert not blame(TryLog(log.modules, log.slots, (log.tries[0], repaired))).contradictions  # What was put right ends the doubt.
    often = blame(TryLog(log.modules, log.slots, (*log.tries, *([log.tries[1]] * 5))))
    assert often.settled
    assert "poor contact" in often.says


def test_a_slot_reported_filled_with_nothing_in_it_is_told():
    said = blame(TryLog((A,), ("A2", "B2"), (tried({"A2": "a"}, "yes", ("B2",)),)))
    assert any("B2 was reported filled, and nothing was fitted there" in contradiction for contradiction in said.contradictions)


def test_two_faults_where_one_does_not_explain_the_log():
    """Module a always gives errors, slot B2 never sees anything: neither alone explains it."""
    tries = (
        tried({"A2": "a", "B2": "b"}, "yes", ("A2",), "errors", ("A2",)),
        tried({"A2": "b", "B2": "a"}, "yes", ("A2",), "clean"),
        tried({"A2": "a"}, "yes", ("A2",), "errors", ("A2",)),
        tried({"B2": "b"}, "yes", ()),
        tried({"A1": "b"}, "yes", ("A1",), "clean"),
    )
    said = blame(TryLog((A, B), ("A1", "A2", "B2"), tries))
    assert said.two_faults
    assert {(suspect.kind.value, suspect.name) for suspect in said.suspects[:2]} == {("module", "a"), ("slot", "B2")}


def ecc(letter, has, old=False):
    return TryModule(letter, "", old, Module(ecc=typed(has)))


def test_a_kind_that_the_machine_refuses():
    modules = (ecc("a", True, True), ecc("b", False), ecc("c", False), ecc("d", True))
    tries = (
        tried({"A1": "b"}, "no"),
        tried({"A1": "c"}, "no"),
        tried({"A1": "a"}, "yes", ("A1",)),
        tried({"A1": "d"}, "yes", ("A1",)),
    )
    said = blame(TryLog(modules, ("A1", "B1"), tries))
    assert (said.first.kind, said.first.name) == (SuspectKind.KIND, "without ECC")


def test_the_old_modules_are_proposed_when_the_machine_is_in_doubt():
    modules = (*(TryModule(letter) for letter in "ab"), TryModule("p", old=True))
    tries = (tried({"A2": "a", "B2": "b"}, "no"), tried({"A2": "a"}, "no"), tried({"B2": "b"}, "no"), tried({"A2": "b"}, "no"))
    proposal = next_try(TryLog(modules, ("A2", "B2"), tries))
    assert set(proposal.arrangement.slot_of) == {"p"}
    assert "whether the machine itself is sound" in proposal.why


def test_a_proposal_crosses_modules_when_errors_have_a_place():
    said = next_try(TryLog((A, B), ("A2", "B2"), (tried({"A2": "a", "B2": "b"}, "yes", ("A2", "B2"), "errors", ("B2",)),)))
    assert said.arrangement.module_in == {"A2": "b", "B2": "a"}
    assert said.with_soak
    assert said.moves == 2
    ends = {outcome.what: outcome.then for outcome in said.outcomes}
    assert ends["a memory test finds errors in A2"] == "module b"


def test_eight_slots_and_eight_modules_are_weighed_at_once():
    slots = tuple(f"{letter}1" for letter in "ABCDEFGH")
    log = TryLog(tuple(TryModule(letter) for letter in "abcdefgh"), slots, (tried(dict(zip(slots, "abcdefgh", strict=True)), "no"),))
    proposal = next_try(log)
    assert 0 < len(proposal.arrangement.fitted) < 8  # The same eight once more would tell nothing.
