"""Which ceilings a machine has, and which of them binds."""

from __future__ import annotations

import pytest

from after_check.cli.judge import ceiling_name
from after_check.domain.case_files import CaseFile
from after_check.judgement.judge import judge
from after_check.sources.card_file import parse_card
from after_check.sources.open_source import take_notation, take_promise
from after_check.texts import words_of

CARD = parse_card('[card]\nname = "T1"\n[[memory.rate]]\nper_channel = 1\nrate = 3200\n[[memory.rate]]\nper_channel = 2\nrate = 2933\n')
RANKED = parse_card(
    '[card]\nname = "R"\n[[memory.rate]]\nper_channel = 1\nrate = 3200\nranks = 1\n'
    "[[memory.rate]]\nper_channel = 1\nrate = 2933\nranks = 2\n"
)


def ceilings(after, promise="", card=None):
    judgement = judge(CaseFile(take_notation(after).reading, None, take_promise(promise) if promise else None, card))
    return {ceiling_name(ceiling): (ceiling.rate_mts, ceiling.binding) for ceiling in judgement.ceilings}


def test_profiles_and_standard_rates_of_the_modules():
    found = ceilings("2x8G DDR4-3600 prof1 3200 prof2 3600 std 2400; run 2400; profile off", "2x8G; run 3600")
    assert found == {
        "promised": (3600, False),
        "modules, profile 1": (3200, False),
        "modules, profile 2": (3600, False),
        "modules, standard": (2400, True),
    }


def test_the_lowest_of_the_modules_counts():
    found = ceilings("8G DDR4-3600 prof1 3600 std 2666; 8G DDR4-3600 prof1 3400 std 2400; run 3400; profile 1")
    assert found["modules, profile 1"] == (3400, False)
    assert found["modules, standard"] == (2400, False)


def test_the_platform_by_modules_in_a_channel():
    one = ceilings("A2=8G DDR4-3200 noprof; B2=8G DDR4-3200 noprof; run 3200", card=CARD)
    assert one["platform, 1 a channel"] == (3200, False)
    two = ceilings("A1=8G DDR4-3200 noprof; A2=8G DDR4-3200 noprof; B2=8G DDR4-3200 noprof; run 2933", card=CARD)
    assert two["platform, 2 a channel"] == (2933, True)


@pytest.mark.parametrize(("ranks", "rate"), [(1, 3200), (2, 2933)])
def test_the_platform_by_ranks(ranks, rate):
    found = ceilings(f"A2=8G DDR4-3200 {ranks}Rx8 noprof; B2=8G DDR4-3200 {ranks}Rx8 noprof; run {rate}", card=RANKED)
    assert found["platform, 1 a channel"][0] == rate


def test_ranks_that_lower_the_rate_are_load():
    judgement = judge(
        CaseFile(
            take_notation("A2=8G DDR4-3200 2Rx8 noprof; B2=8G DDR4-3200 2Rx8 noprof; run 2933").reading,
            None,
            take_promise("2x8G; run 3200"),
            RANKED,
        )
    )
    assert "rate.load" in {finding.code for finding in judgement.findings}


def test_nothing_binds_where_the_rate_is_kept():
    found = ceilings("2x8G DDR4-3200 noprof; run 3200", "2x8G; run 3200")
    assert not any(binding for _, binding in found.values())


def test_nothing_is_known():
    assert ceilings("2x8G") == {}
    assert ceilings("run 2400", "run 3200") == {"promised": (3200, False)}


def test_the_standard_rate_that_nobody_stated_is_the_one_that_runs():
    found = ceilings("2x24G DDR5-6400; run 4800; profile off", "2x24G DDR5-6400; profile 1")
    assert found["modules, standard (as it runs)"] == (4800, True)


@pytest.mark.parametrize(
    ("after", "promise", "candidates"),
    [
        ("2x8G DDR4-3600 prof1 3600 std 2400; run 3000; profile 1", "2x8G; run 3600", "training fell back"),
        ("4x8G DDR4-3600 prof1 3600 std 2400; run 3000; profile 1", "4x8G; run 3600", "number of modules"),
        (  # below what any DDR5 module is sold with
            "A1=16G DDR5-6000; A2=16G DDR5-6000; B1=16G DDR5-6000; B2=16G DDR5-6000; run 3600; profile on; dual",
            "4x16G DDR5-6000",
            "Most likely first: the number of modules in a channel",
        ),
        ("run 2400; total 16G", "total 16G; run 3200", "none of the modules could be read"),
        ("2x8G DDR4-3600; run 3000", "2x8G; run 3600", "its setting was not read"),
    ],
)
def test_an_unexplained_rate_lists_its_candidates(after, promise, candidates):
    judgement = judge(CaseFile(take_notation(after).reading, None, take_promise(promise)))
    (found,) = [finding for finding in judgement.findings if finding.code == "rate.unexplained"]
    assert candidates in words_of(found).reason
    assert found.sure < 0.5


TWO_ONLY = parse_card('[card]\nname = "T2"\n[[memory.rate]]\nper_channel = 2\nrate = 2933\n')


def test_a_rate_below_what_the_sheet_tells_is_not_explained_by_it():
    """The sheet tells 2933 for two in a channel: their number does not explain 2133, so the sheet or something else is wrong."""
    after = "A1=16G DDR4-3200; A2=16G DDR4-3200; B1=16G DDR4-3200; B2=16G DDR4-3200; run 1866; dual"
    judgement = judge(CaseFile(take_notation(after).reading, None, take_promise("4x16G; run 3200"), TWO_ONLY))
    reasons = [words_of(finding).reason for finding in judgement.findings if finding.code == "rate.unexplained"]
    assert len(reasons) == 1
    assert "the number of modules in a channel" not in reasons[0]
    assert "it tells 2933 MT/s for 2 modules in a channel" in reasons[0]


def test_a_rate_known_for_two_in_a_channel_is_no_limit_for_one():
    """It is reached at the least: nothing is said of a machine that runs faster, and nothing capped below what runs."""
    after = "A2=16G DDR4-3200; B2=16G DDR4-3200; run 3200; dual"
    assert "platform, 1 a channel" not in ceilings(after, "2x16G; run 3200", TWO_ONLY)
    judgement = judge(CaseFile(take_notation(after).reading, None, take_promise("2x16G; run 3200"), TWO_ONLY))
    assert "limit.rate" not in [finding.code for finding in judgement.findings]
    # Where the memory stops at just that rate, the machine is the likeliest limit.
    assert ceilings("A2=16G DDR4-3200; B2=16G DDR4-3200; run 2933; dual", "2x16G; run 3200", TWO_ONLY)["platform, 1 a channel"] == (
        2933,
        True,
    )
