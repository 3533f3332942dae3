"""The chain of a finding: one cause, what follows from it, and the act that breaks it."""

from __future__ import annotations

import pytest

from after_check.casework.chain import chain_of
from after_check.casework.snapshot import take_snapshot
from after_check.domain.codes import Severity
from after_check.texts import link_words
from after_check.tui.charts.chain import chain_lines
from tests.helpers.cases import CASES, judged

CHAINS = {
    # The scenario: settings cleared, so no profile; two channels of 8 bytes at 4800 and 6400 MT/s are 76.8 and 102.4 GB/s.
    "0417": (
        "settings cleared",
        "profile off",
        "4800 of 6400 MT/s",
        "76.8 of 102.4 GB/s at most",
        "Set them again in the firmware setup",
    ),
    # Seven channels of 8 bytes at 3200 MT/s are 179.2 GB/s, eight 204.8.
    "0419": (
        "slot D1",
        "D1 shows empty",
        "224 GiB of 256 GiB",
        "7 of 8 channels",
        "179.2 of 204.8 GB/s at most",
        "Look into slot D1 for dirt and bent contacts",
    ),
    # What holds the rate back is the cause: 2400 and 2933 MT/s on two channels are 38.4 and 46.9 GB/s.
    "0421": (
        "the slowest module sets the pace",
        "2400 of 2933 MT/s",
        "38.4 of 46.9 GB/s at most",
        "Replace the modules in A1 and B1 with modules that reach 2933 MT/s",
    ),
    "0425": ("module b", "214 errors", "Take module b out and have it replaced"),
}


@pytest.mark.parametrize("number", CHAINS)
def test_cause_consequences_and_act_of_the_demo_jobs(demo_shop, number):
    snapshot = take_snapshot(demo_shop.jobs.job(number))
    chain = chain_of(snapshot.judgement, snapshot.judgement.findings[0])
    assert (*chain.links, chain.act) == CHAINS[number]


def test_every_link_leads_to_the_same_chain(demo_shop):
    judgement = take_snapshot(demo_shop.jobs.job("0417")).judgement
    chains = [chain_of(judgement, found) for found in judgement.findings if found.severity is Severity.FIX or found.because_of]
    assert {chain.links for chain in chains} == {chains[0].links}
    assert [chain.chosen for chain in chains] == [0, 1, 2]


@pytest.mark.parametrize("name", CASES)
def test_whatever_is_to_fix_has_a_chain_with_an_act(name):
    judgement = judged(CASES[name])
    for found in judgement.findings:
        chain = chain_of(judgement, found)
        assert link_words(found)
        assert chain is not None or found.severity is not Severity.FIX
        if chain is not None:
            assert chain.act
            assert len(set(chain.links)) == len(chain.links)


@pytest.mark.parametrize("cells", [40, 78, 126, 198])
@pytest.mark.parametrize("rows", [1, 2])
def test_a_chain_fits_and_names_its_cause_and_its_act(demo_shop, cells, rows):
    for number, (cause, *_, act) in CHAINS.items():
        snapshot = take_snapshot(demo_shop.jobs.job(number))
        lines = chain_lines(chain_of(snapshot.judgement, snapshot.judgement.findings[0]), cells, rows)
        assert len(lines) <= rows
        assert all(line.cell_len <= cells for line in lines)
        drawn = " ".join(line.plain for line in lines)
        assert cause.split()[0] in drawn
        assert f"▸ {act.split()[0]}" in drawn
