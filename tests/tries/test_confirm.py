"""What has to be seen before a slot or a module is named: replacing a board or a module costs money."""

from __future__ import annotations

from after_check.domain.tries import SuspectKind, TryLog, TryModule
from after_check.tries.blame import blame
from after_check.tries.next_try import next_try
from after_check.tries.suspects import culprits_of
from tests.helpers.logs import A, B, tried

SLOTS = ("A2", "B2")
OLD = TryModule("p", old=True)
CROSSED = (
    tried({"A2": "a", "B2": "b"}, "yes", ("A2",)),
    tried({"A2": "b", "B2": "a"}, "yes", ("A2",)),
    tried({"B2": "a"}, "no"),
)
"""Two new modules, crossed, and one alone, so it is not too much in total: the slot B2 sees neither."""


def test_a_slot_is_seen_to_be_the_one_with_the_slot_empty_before_the_board_is_blamed():
    said = blame(TryLog((A, B), SLOTS, CROSSED))
    assert (said.first.kind, said.first.name) == (SuspectKind.SLOT, "B2")
    assert said.first.weight > 0.9
    assert not said.settled
    proposal = next_try(TryLog((A, B), SLOTS, CROSSED))
    assert "B2" not in proposal.arrangement.module_in
    assert proposal.why.startswith("To be sure")
    without = tried(dict(proposal.arrangement.fitted), "yes", ("A2",))
    assert blame(TryLog((A, B), SLOTS, (*CROSSED, without))).settled


def test_where_it_fails_with_the_slot_empty_too_the_slot_is_not_named():
    without = tried({"A2": "a"}, "no")
    said = blame(TryLog((A, B), SLOTS, (*CROSSED, without)))
    assert not said.settled


def test_a_module_that_always_worked_and_fails_in_the_slot_is_enough():
    old_one = tried({"A2": "a", "B2": "p"}, "yes", ("A2",))
    said = blame(TryLog((A, B, OLD), SLOTS, (*CROSSED, old_one)))
    assert said.settled
    assert said.first.name == "B2"


def test_four_slots_keep_both_modules_that_the_slot_did_not_see():
    slots = ("A1", "B1", "A2", "B2")
    modules = tuple(TryModule(letter) for letter in "abcd")
    seen = ("A1", "B1", "A2")
    log = (
        tried({"A1": "a", "B1": "b", "A2": "c", "B2": "d"}, "yes", seen),
        tried({"A1": "a", "B1": "b", "A2": "d", "B2": "c"}, "yes", seen),
        tried({"A1": "a", "A2": "d", "B2": "c"}, "yes", ("A1", "A2")),
    )
    proposal = next_try(TryLog(modules, slots, log))
    assert "B2" not in proposal.arrangement.module_in
    assert {"c", "d"} <= set(proposal.arrangement.slot_of)  # Without one of them, two that do not go together would work as well.


def test_a_module_that_works_alone_and_never_beside_another_is_not_named_after_one_try():
    """It always failed beside b and worked without it: that is what two together do, and not a module that always fails."""
    both = {"A2": "a", "B2": "b"}
    log = (tried(both, "no"), tried(both, "no"), tried({"A2": "b"}, "yes", ("A2",)), tried({"A2": "a"}, "yes", ("A2",)))
    said = blame(TryLog((A, B), SLOTS, log))
    assert not (said.settled and said.first.kind is SuspectKind.MODULE)


def test_many_modules_are_seldom_too_many_where_one_is_soldered():
    """By hand: a machine with soldered memory and a slot was made for both, so a count weighs 0.3 of what it weighs elsewhere."""

    def total(soldered):
        modules = (TryModule("z", soldered=soldered), A)
        found = culprits_of(TryLog(modules, ("S0", "A1"), (tried({"S0": "z", "A1": "a"}, "no"), tried({"S0": "z"}))), None)
        return next(one.prior for one in found if one.kind is SuspectKind.TOTAL and one.name.startswith("2"))

    assert total(False) == 0.1
    assert total(True) == 0.1 * 0.3


def repeated():
    """A laptop with soldered memory and one slot: with the new module it does not start, without it does, twice over."""
    with_it, without = tried({"S0": "z", "A1": "a"}, "no"), tried({"S0": "z"}, "yes", ("S0",))
    return TryLog((TryModule("z", soldered=True), A), ("S0", "A1"), (with_it, without, with_it, without))


def test_a_try_that_was_made_before_says_which_and_that_a_borrowed_module_would_tell_more():
    proposal = next_try(repeated())
    assert proposal.arrangement.module_in == {"S0": "z", "A1": "a"}
    assert "as in try 3, to see whether it ends the same way again" in proposal.why
    assert proposal.or_borrow_for == "A1"
    log = repeated()
    first = next_try(TryLog(log.modules, log.slots, log.tries[:2]))
    assert first.or_borrow_for == ""  # Once more is worth it: it tells a contact from a module.
