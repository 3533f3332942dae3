"""How much of each kind of fault was looked for. Shares are the literature's, or sums done by hand."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime
from itertools import combinations, pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from after_check.domain.soak import LookedFor, SoakRecord, SoakState
from after_check.soak.backgrounds import CHECKERBOARD, COLUMNS, OWN_ADDRESS, SOLID, STRIPES, random, walking
from after_check.soak.march import RETENTION, parse_march
from after_check.soak.plan_asked import Chooser, NotUnderstoodError, minutes_asked, ordered, plan_again, plan_within, there_asked
from after_check.soak.plans import FULL, SHORT, Step, Work, march, step_named, step_seconds
from after_check.soak.shares import Shares, by_steps

RETAIN = Step(Work.MARCH, RETENTION, SOLID)
# Pairs of different bits of a word, of which 31 each have the same and 32 the other parity.
DIFFERENT = 32 / 63


@pytest.mark.parametrize(
    ("steps", "kind", "share"),
    [
        ([march("MATS+", SOLID)], LookedFor.STUCK, 1.0),
        ([march("MATS+", SOLID)], LookedFor.CHANGE, 1 / 2),  # The last write of it is never read.
        ([march("MATS+", CHECKERBOARD)], LookedFor.CHANGE, 1 / 2),
        ([march("MATS+", SOLID)], LookedFor.ADDRESS, 1.0),
        ([march("MATS+", OWN_ADDRESS)], LookedFor.ADDRESS, 1.0),
        ([march("March X", SOLID)], LookedFor.CHANGE, 1.0),
        ([march("March C-", SOLID)], LookedFor.COUPLED, 1.0),
        ([march("March C-", COLUMNS)], LookedFor.COUPLED, 1.0),
        ([march("March C-", SOLID)], LookedFor.READ, 2 / 3),  # RDF and IRF, but no DRDF: nothing is read twice.
        ([march("March SS", SOLID)], LookedFor.READ, 1.0),
        ([march("March C-", SOLID)], LookedFor.WRITTEN, 0.0),
        ([march("March SS", SOLID)], LookedFor.WRITTEN, 1.0),
        ([march("March SS", SOLID)], LookedFor.TIME, 0.0),
        ([RETAIN], LookedFor.TIME, 1.0),
        ([march("March C-", SOLID)], LookedFor.PAIRS, 1 / 2),  # All pairs equal, none different.
        ([march("March C-", COLUMNS)], LookedFor.PAIRS, (DIFFERENT + (1 - DIFFERENT)) / 2),
        ([march("March C-", SOLID), march("March C-", COLUMNS)], LookedFor.PAIRS, (1 + DIFFERENT) / 2),
        ([march("March C-", background) for background in (SOLID, COLUMNS, *STRIPES)], LookedFor.PAIRS, 1.0),
        ([march("March C-", random(1))], LookedFor.PAIRS, 1 / 2),  # Each pair is equal or different in a word, by chance.
        ([march("MATS", SOLID)], LookedFor.PAIRS, 1 / 2),
        ([march("March C-", walking(0))], LookedFor.PAIRS, 1 / 2),  # Whatever it holds, a pair is one of both.
        ([step for step in FULL.steps if step.work is not Work.MARCH], LookedFor.STUCK, 0.0),
    ],
)
def test_by_hand(steps, kind, share):
    assert Shares(steps).of(kind) == pytest.approx(share, abs=1e-9)


def test_half_of_the_values_are_half_of_the_cells():
    # {⇕(w0); ⇕(r0)} finds a cell that is stuck at 1, and not one that is stuck at 0: one of two, whatever the background.
    program = parse_march("{⇕(w0); ⇕(r0)}")
    assert Shares([Step(Work.MARCH, program, SOLID)]).of(LookedFor.STUCK) == 1 / 2
    assert Shares([Step(Work.MARCH, program, CHECKERBOARD)]).of(LookedFor.STUCK) == 1 / 2
    # On solid data again the same one is found; on a checkerboard the other one as well in half of the cells.
    both = [Step(Work.MARCH, program, SOLID), Step(Work.MARCH, program, CHECKERBOARD)]
    assert Shares(both).of(LookedFor.STUCK) == 3 / 4
    # Random data: each cell holds either value by chance, again each time.
    chance = [Step(Work.MARCH, program, random(seed)) for seed in (1, 2)]
    assert Shares(chance).of(LookedFor.STUCK) == 3 / 4


STEPS = [march(name, background) for name in ("MATS+", "March X", "March C-") for background in (SOLID, CHECKERBOARD, random(5))] + [RETAIN]


@settings(max_examples=20)
@given(st.lists(st.sampled_from(STEPS), max_size=4, unique=True), st.randoms(use_true_random=False))
def test_steps_only_add_and_their_order_does_not_matter(steps, chance):
    shares = [(0.0,) * len(LookedFor), *by_steps(steps)]
    assert all(now >= before - 1e-9 for one, other in pairwise(shares) for before, now in zip(one, other, strict=True))
    mixed = list(steps)
    chance.shuffle(mixed)
    assert Shares(mixed).all == pytest.approx(Shares(steps).all, abs=1e-3)


def seconds_of(step):
    return float(step.sweeps)


def mean(steps):
    shares = Shares(steps)
    return sum(shares.of(kind) for kind in LookedFor) / len(LookedFor)


def test_no_step_of_the_order_would_have_been_worth_more_before():
    steps = STEPS[:6]
    chosen = ordered(steps, seconds_of)
    assert sorted(step.name for step in chosen) == sorted(step.name for step in steps)
    for at in range(len(chosen) - 1):
        worth = [(mean([*chosen[:at], step]) - mean(chosen[:at])) / seconds_of(step) for step in chosen[at:]]
        assert worth[0] >= max(worth) - 1e-6


def test_the_short_plan_is_in_that_order():
    # On eight gigabytes, at rates as they were measured on two cores.
    assert ordered(SHORT.steps, lambda step: step_seconds(step, 8 << 30, 18e9, 9e9)) == SHORT.steps


CHOOSER = Chooser()


@given(st.floats(-20, 400), st.integers(0, 5))
def test_what_is_chosen_fits(left, already):
    plan = plan_within(8)
    done = CHOOSER.fitted(plan, 0, 1000, seconds_of).steps[:already]
    chosen = CHOOSER.fitted(replace(plan, steps=done), already, left, seconds_of).steps
    assert chosen[:already] == done
    new = chosen[already:]
    assert len(set(chosen)) == len(chosen)
    assert chosen  # The first step is there also where the time was over before it began, on a busy machine.
    assert sum(map(seconds_of, new)) <= max(left, 0) or (not done and len(new) == 1)


def test_with_time_enough_the_full_plan_and_more():
    chosen = Chooser().fitted(plan_within(600), 0, 2000, seconds_of).steps
    assert set(FULL.steps) < set(chosen)
    assert {step.background.kind for step in chosen[len(FULL.steps) :]} == {random(1).kind}
    assert all(step_named(step.name) == step for step in chosen)


def test_every_pair_of_a_plan_has_another_name():
    assert all(one.name != other.name for one, other in combinations(FULL.steps, 2))
    assert step_named("March Q · solid") is step_named("MATS · tartan") is step_named("") is None


def test_what_was_interrupted_is_taken_up_with_its_steps_as_they_were():
    steps = tuple(step.name for step in Chooser().fitted(plan_within(1), 0, 60, seconds_of).steps)
    record = SoakRecord("1-minute", SoakState.INTERRUPTED, datetime(2026, 11, 2, tzinfo=UTC), steps=steps, steps_done=2)
    again = plan_again(record)
    assert again.within_seconds == 60
    assert tuple(step.name for step in again.steps) == steps
    # A plan whose steps stood in another order when it was begun goes on in that order.
    older = replace(record, plan="short", steps=("MATS+ · own address", "March X · random a11", "block moves"))
    assert tuple(step.name for step in plan_again(older).steps) == older.steps
    assert plan_again(replace(record, plan="custom")) is None
    assert plan_again(replace(record, steps=("typed · solid",))) is None


@pytest.mark.parametrize(("text", "seconds"), [("8", 480), ("8 min", 480), (" 1,5 ", 90), ("2 h", 7200), ("24h", 86400), ("８", 480)])
def test_a_time_is_typed_as_people_type_it(text, seconds):
    assert minutes_asked(text).within_seconds == seconds


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("ssh://root@h", ("ssh://root@h", ("--plan", "short"), "short")),
        (" ssh://root@h  Overnight ", ("ssh://root@h", ("--plan", "overnight"), "overnight")),
        ("ssh://root@h\tfull ", ("ssh://root@h", ("--plan", "full"), "full")),
        ("ssh://root@h 2 h", ("ssh://root@h", ("--within", "120"), "120-minute")),
        ("ssh://root@h 1,5 min", ("ssh://root@h", ("--within", "1.5"), "1.5-minute")),
        ("http://192.0.2.7:8680", ("http://192.0.2.7:8680", ("--plan", "short"), "short")),
    ],
)
def test_an_address_and_which_test_there(text, said):
    assert there_asked(text) == said


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("ssh://root@h --plan full", "'--plan full' is no test: short, full, overnight"),
        ("ssh://root@h 99 h", "'99 h' is no test"),
        ("http://192.0.2.7:8680 full", "an appliance runs its own test"),
    ],
)
def test_what_is_no_test_there_is_told(text, words):
    with pytest.raises(NotUnderstoodError, match=words):
        there_asked(text)


@pytest.mark.parametrize("text", ["", "soon", "0", "-3", "8 s", "25 h", "1e9", "nan"])
def test_what_is_no_time_is_told(text):
    with pytest.raises(NotUnderstoodError, match="no time for a test"):
        minutes_asked(text)
