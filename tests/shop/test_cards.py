"""Cards in a shop: matched by the machine, replaced, and their judgement kept up to date."""

from __future__ import annotations

import pytest

from after_check.casework.judging import judge_job
from after_check.domain.jobs import JobFacts, Moment
from after_check.domain.standing import Verdict
from after_check.shop.shop import Shop
from after_check.sources.card_file import parse_card
from after_check.sources.open_source import take, take_notation
from tests.conftest import SAMPLES
from tests.helpers.demo import put_demo

PROMISE = "2x16G DDR4-3200; run 3200"
FITTED = "DIMM 0=16G DDR4-3200 noprof; DIMM 1=16G DDR4-3200 noprof; run 2400"


def card(name="Larkfield S9", rate=2400, total="32 GiB"):
    return parse_card(
        f'[card]\nname = "{name}"\n[memory]\ntotal = "{total}"\n'
        '[[memory.slot]]\nname = "DIMM 0"\nchannel = "A"\n[[memory.slot]]\nname = "DIMM 1"\nchannel = "B"\n'
        f"[[memory.rate]]\nper_channel = 1\nrate = {rate}\n"
    )


def keep(shop, machine="Larkfield S9"):
    return shop.jobs.add(JobFacts("1", "kiosk", machine, "", PROMISE), ((Moment.FITTED, take_notation(FITTED)),))


def reasons(shop):
    return [finding.code for finding in judge_job(shop.jobs.job("1")).findings if finding.code.startswith("rate.")]


def test_a_card_is_found_by_the_name_that_a_person_wrote(shop):
    shop.cards.keep(card())
    keep(shop, machine="larkfield s9")
    assert shop.jobs.job("1").card == card()
    assert reasons(shop) == ["rate.promise_out_of_reach"]


def test_a_card_is_found_by_the_model_that_the_machine_told(shop):
    shop.cards.keep(card(name="Larkfield S1"))
    shop.jobs.add(JobFacts("1", "kiosk"), ((Moment.FITTED, take(str(SAMPLES / "0420" / "fitted"))),))
    assert shop.jobs.job("1").card is not None
    assert shop.jobs.job("1").card.name == "Larkfield S1"


def test_without_a_card_the_platform_explains_nothing(shop):
    keep(shop)
    assert shop.jobs.job("1").card is None
    assert reasons(shop) == ["rate.unexplained"]


def test_a_changed_card_judges_its_jobs_anew(shop):
    keep(shop)
    (before,) = shop.jobs.lines()
    assert "no single reason" in before.worst_title
    shop.cards.keep(card())
    (now,) = shop.jobs.lines()
    assert "out of reach" in now.worst_title
    shop.cards.keep(card(rate=3200))
    (again,) = shop.jobs.lines()
    assert again.worst_title == before.worst_title
    assert [card.name for card in shop.cards.all()] == ["Larkfield S9"]


def test_cards_survive_closing(shop, shop_path):
    shop.cards.keep(card())
    shop.close()
    assert Shop.open(shop_path).cards.all() == (card(),)


def test_a_machine_without_a_name_has_no_card(shop):
    shop.cards.keep(card())
    keep(shop, machine="")
    assert shop.jobs.job("1").card is None


@pytest.fixture(scope="module")
def filled(tmp_path_factory):
    """The demo shop, to be looked at only."""
    shop = Shop.open(put_demo(tmp_path_factory.mktemp("filled") / "shop.db"))
    yield shop
    shop.close()


@pytest.mark.parametrize(
    ("number", "verdict", "code"),
    [
        # What the scenario says is true of each job.
        ("0417", Verdict.NOT_READY, "rate.profile_off"),
        ("0418", Verdict.READY, "capacity.reserved"),
        ("0419", Verdict.NOT_READY, "module.missing"),
        ("0420", Verdict.READY, "channels.partial"),
        ("0421", Verdict.NOT_READY, "rate.slowest_module"),
        ("0421", Verdict.NOT_READY, "profile.hidden"),
        ("0422", Verdict.READY, "limit.total"),
        ("0423", Verdict.NOT_READY, "rate.locked"),
        ("0424", Verdict.NOT_READY, "capacity.system_limit"),
        ("0425", Verdict.NOT_READY, "soak.errors"),
        ("0426", Verdict.READY, "source.unit"),
        ("0427", Verdict.NOT_READY, "cause.outside"),
        ("0428", Verdict.NOT_READY, "cause.found"),
        ("0429", Verdict.NOT_READY, "cause.found"),
    ],
)
def test_the_demo_jobs_are_judged_as_the_scenario_says(filled, number, verdict, code):
    judgement = judge_job(filled.jobs.job(number))
    assert judgement.verdict is verdict
    assert code in {finding.code for finding in judgement.findings}
