"""Several starts in one try: each is weighed as a try of its own, and a note says how many there were in a technician's words."""

from __future__ import annotations

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from after_check.cli.entry import main
from after_check.domain.tries import Started, TryLog, TryModule
from after_check.files.errors import SourceError
from after_check.tries.blame import blame
from after_check.tries.file import parse_tries
from after_check.tries.next_try import next_try
from after_check.tries.starts import one_by_one, starts_told
from after_check.tries.try_words import facts_of, outcome_words
from after_check.tries.weigh import weigh
from tests.helpers.logs import A, B, tried

BOTH = {"A2": "a", "B2": "b"}


def weights(*tries):
    found = weigh(TryLog((A, B), ("A2", "B2"), tries))
    return dict(zip([(culprit.kind, culprit.name) for culprit in found.culprits], found.by_culprit(), strict=True))


def test_starts_of_a_try_weigh_as_much_as_tries_with_nothing_touched():
    first = tried(BOTH, "no", reseated=())
    at_once = weights(first, tried({"A2": "a"}, "no", reseated=(), starts=5, starts_failed=2))
    one = tried({"A2": "a"}, "no", reseated=())
    good = tried({"A2": "a"}, "yes", reseated=())
    apart = weights(first, one, one, good, good, good)
    assert at_once == pytest.approx(apart)


def test_what_fails_one_start_in_three_is_cleared_by_five_starts_by_hand():
    """Module a hinders 0.35 of starts: it lets one through with 0.65 (of what else lets it through), and five with 0.65^5 = 0.116."""

    def of_degree(log, shows):
        modelled = weigh(log)
        return sum(
            float(modelled.weight[at])
            for at, number in enumerate(modelled.hypotheses.culprit)
            if number >= 0
            and modelled.culprits[number].name == "a"
            and modelled.culprits[number].kind.value == "module"
            and modelled.hypotheses.modes[at] == "start"
            and modelled.hypotheses.strength[at] == shows
        )

    def log(starts):
        return TryLog((A, B), ("A2", "B2"), (tried(BOTH, "no", reseated=()), tried({"A2": "a"}, "yes", starts=starts, reseated=())))

    once, often = log(None), log(5)
    ratio = (of_degree(often, 0.35) / of_degree(often, 0.12)) / (of_degree(once, 0.35) / of_degree(once, 0.12))
    assert ratio == pytest.approx((0.65 / 0.88) ** 4)


def test_how_many_failed_has_to_be_said():
    first = tried(BOTH, "no")
    assert weights(first, tried({"A2": "a"}, "no", starts=5)) == pytest.approx(weights(first, tried({"A2": "a"}, "no")))


def test_a_start_that_failed_among_good_ones_is_a_try_that_failed():
    one = tried(BOTH, "yes", ("A2", "B2"), starts=5, starts_failed=1)
    assert one.failed
    assert not one.worked
    said = blame(TryLog((A, B), ("A2", "B2"), (one,)))
    assert said.suspects
    assert said.contradictions == ("try 1: 1 of 5 starts failed with nothing touched: something comes and goes",)


@given(st.integers(1, 60), st.data())
def test_there_are_as_many_starts_as_were_made(count, data):
    failed = data.draw(st.integers(0, count))
    how = data.draw(st.sampled_from(["yes", "cycles"] if not failed else ["yes", "no"]))
    seen = data.draw(st.sampled_from([None, ("A2", "B2")])) if how != "no" else None
    attempt = tried(BOTH, how, seen, starts=count, starts_failed=failed)
    starts, belongs = one_by_one((tried(BOTH, "no"), attempt))
    assert belongs == (0, *([1] * count))
    assert sum(start.failed for start in starts[1:]) == failed
    assert all(start.worked for start in starts[1:] if not start.failed)
    assert sum(start.started is Started.CYCLES for start in starts) == (how == "cycles")


def test_of_very_many_starts_the_share_that_failed_is_kept():
    starts, _ = one_by_one((tried(BOTH, "no", starts=1000, starts_failed=200), tried(BOTH, "no", starts=1000, starts_failed=1)))
    assert (len(starts), sum(start.failed for start in starts)) == (200, 20 + 1)


def test_the_memory_test_is_of_the_last_start():
    starts, _ = one_by_one((tried(BOTH, "yes", ("A2", "B2"), "clean", starts=3, starts_failed=1),))
    assert [start.soak is not None for start in starts] == [False, False, True]
    assert [start.failed for start in starts] == [True, False, False]


@pytest.mark.parametrize(
    ("note", "told"),
    [
        ("2 of 5 starts failed", (5, 2)),
        ("5 starts, 2 failed", (5, 2)),
        ("5 cold boots, all fine", (5, 0)),
        ("started 5 times, no failures", (5, 0)),
        ("booted 3x ok", (3, 0)),
        ("3 of 4 boots came up fine", (4, 1)),
        ("starts 3 times of 4, ok", (4, 1)),
        ("power cycled 4 times, black screen twice", (4, 2)),
        ("1 in 3 boots hangs", (3, 1)),
        ("ten restarts, one failed", (10, 1)),
        ("does not start 1 of 3 times", (3, 1)),
        ("started twice, fine", (2, 0)),
        ("started three times", (3, None)),
        ("two starts, second failed", (2, None)),
        ("started 5 times, 1 hang", (5, 1)),
        ("10 reboots no problem", (10, 0)),
        ("booted ten times, never failed", (10, 0)),
        ("3 boots fine then one black", (4, 1)),
        ("first start failed, then 4 good", (5, 1)),
        ("five starts: ok ok fail ok ok", (5, 1)),
        ("half of 6 starts failed", (6, 3)),
        ("half of the 5 starts failed", (5, None)),
        ("starts ok", (None, None)),
        ("started at 2400", (None, None)),
        ("started in 45 seconds", (None, None)),
        ("boots fine with 2 of 4 sticks", (None, None)),
        ("boots 16/32 GB fine", (None, None)),
        ("on 12/05 it started fine", (None, None)),
        ("2 of 4 slots seen", (None, None)),
        ("5 of 5 modules good", (None, None)),
    ],
)
def test_a_note_says_how_often_it_was_started(note, told):
    assert starts_told(note) == told


def test_a_proposal_asks_for_several_starts_where_something_may_come_and_go():
    log = TryLog((A, B), ("A2", "B2"), (tried(BOTH, "no"), tried({"A2": "a"}, "yes", ("A2",))))
    found = next_try(log)
    assert found.starts == 5
    assert "started up to 5 times" in found.why
    errors = TryLog((A, B), ("A2", "B2"), (tried(BOTH, "yes", ("A2", "B2"), "errors", ("B2",)),))
    assert next_try(errors).starts == 1  # A memory test tells more than starts.


def test_a_module_that_may_fail_only_with_the_profile_is_tried_without_it():
    slots = ("A1", "B1", "A2", "B2")
    everything = dict(zip(slots, "abcd", strict=True))
    tries = (
        tried(everything, "no", profile="1", reseated=()),
        tried({"A1": "a", "A2": "c"}, "yes", ("A1", "A2"), profile="1", settings_reset=True, reseated=()),
        tried({"A1": "a"}, "no", profile="1", reseated=()),
        tried({"A1": "b"}, "yes", ("A1",), profile="1", starts=5, reseated=()),
    )
    found = next_try(TryLog(tuple(TryModule(letter) for letter in "abcd"), slots, tries))
    assert (found.arrangement.slot_of, found.arrangement.profile) == ({"a": "A1"}, "off")


def test_words_say_how_often():
    assert outcome_words(tried(BOTH, "yes", ("A2", "B2"), starts=5)) == "started 5 times, all seen"
    assert outcome_words(tried(BOTH, "no", starts=5, starts_failed=2)) == "2 of 5 starts failed, no start"
    assert outcome_words(tried(BOTH, "yes", ("A2", "B2"), "clean", starts=3)) == "started 3 times, memory test clean"
    assert ("starts", "5, 2 failed") in facts_of(tried(BOTH, "no", starts=5, starts_failed=2))


FILE = b"""modules = ["a", "b"]
slots = ["A2", "B2"]
[[try]]
fitted = {A2 = "a", B2 = "b"}
start = "no"
[[try]]
fitted = {A2 = "a"}
start = "yes"
starts = 5
starts_failed = %d
"""


def test_a_file_says_how_often_and_the_proposal_asks_for_it(tmp_path, capsys):
    log, _ = parse_tries(FILE % 2)
    assert (log.tries[1].starts, log.tries[1].starts_failed) == (5, 2)
    path = tmp_path / "tries.toml"
    path.write_bytes(FILE % 0)
    assert main(["tries", str(path), "--json"]) == 0
    said = json.loads(capsys.readouterr().out)
    assert said["next"]["starts"] == next_try(parse_tries(FILE % 0)[0]).starts == 5  # What hinders the start may come and go.
    with pytest.raises(SourceError, match=r"try 2: starts_failed is 6, of 5 starts"):
        parse_tries(FILE % 6)
