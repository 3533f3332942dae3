"""Looking at a shop changes nothing, and what it keeps is its owner's alone."""

from __future__ import annotations

import stat
import threading

import pytest

from after_check.domain.cards import Card
from after_check.domain.jobs import JobFacts, Moment
from after_check.judgement import version
from after_check.shop.errors import AlreadyExistsError
from after_check.shop.shop import Shop
from after_check.sources.open_source import take_notation
from tests.helpers.commands import run_here
from tests.helpers.jobs import keep


def test_no_query_writes(shop, shop_path):
    keep(shop)
    with shop.database.writing() as connection:
        connection.exec_driver_sql("UPDATE jobs SET judged_by = 0")  # Judged by older rules: still nobody's business to write.
    before = shop_path.read_bytes()
    (entry,) = shop.jobs.entries()
    shop.jobs.lines()
    job = shop.jobs.job(entry.number)
    shop.jobs.evidence(job.readings[0].id)
    shop.jobs.numbers()
    shop.jobs.next_number()
    shop.cards.all()
    shop.cards.makers()
    shop.drafts.text("new job")
    shop.database.problems()
    assert shop_path.read_bytes() == before


def test_what_older_rules_judged_is_judged_again_a_few_at_a_time(demo_shop, monkeypatch):
    shop = demo_shop
    with shop.database.writing() as connection:
        connection.exec_driver_sql(f"UPDATE jobs SET judged_by = {version.JUDGEMENT_VERSION - 1}, line = '{{}}'")
    monkeypatch.setattr("after_check.shop.jobs._JUDGED_AT_ONCE", 2)
    transactions = []
    original = shop.database.writing

    def counted():
        transactions.append(1)
        return original()

    monkeypatch.setattr(shop.database, "writing", counted)
    assert shop.jobs.judge_outdated() == 13
    assert len(transactions) == 7  # Thirteen jobs, two at a time.
    assert len(shop.jobs.lines()) == 13
    assert shop.jobs.judge_outdated() == 0


def test_a_card_judges_only_the_jobs_of_its_model(shop):
    for number, machine in (("1", "Larkfield T1"), ("2", "Dunlin 14")):
        shop.jobs.add(JobFacts(number, promise="2x8G; run 3200", machine=machine), ((Moment.FITTED, take_notation("2x8G; run 2400")),))
    shop.cards.keep(Card("larkfield t1", module_bytes=4 << 30))
    found = {line.number: line.worst_title for line in shop.jobs.lines()}
    assert shop.jobs.job("1").card is not None
    assert shop.jobs.job("2").card is None
    assert "module.short" not in found.values()
    assert shop.jobs.judge_those_of(shop.cards.all()[0]) == 1


def test_a_store_and_its_folder_are_private(tmp_path):
    Shop.open(tmp_path / "new" / "shop.db").close()
    modes = [stat.S_IMODE(path.stat().st_mode) for path in (tmp_path / "new", tmp_path / "new" / "shop.db")]
    assert modes == [0o700, 0o600]


def test_two_benches_that_take_one_number_at_once_get_a_word_about_the_number(shop_path):
    benches = [Shop.open(shop_path) for _ in range(4)]
    said = []

    def take(bench):
        try:
            said.append(bench.jobs.add(JobFacts("0500", "Full-tower")).facts.number)
        except AlreadyExistsError as error:
            said.append(error.what)

    threads = [threading.Thread(target=take, args=(bench,)) for bench in benches]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(20)
    assert sorted(said) == ["0500", *["there is a job 0500 already"] * 3]
    assert benches[0].jobs.numbers() == ["0500"]
    for bench in benches:
        bench.close()


@pytest.mark.parametrize(
    "command",
    [
        ("handback", "0417", "--pdf", "sheet.pdf"),
        ("shop", "check"),
        ("shop", "backup", "all.zip"),
        ("shop", "hand-out", "0417", "job.json"),
        ("stick", "load", "0417", "--stick", "stick"),
    ],
    ids=lambda command: " ".join(command[:2]),
)
def test_a_command_that_only_looks_makes_no_shop(tmp_path, command):
    (tmp_path / "stick" / "after-check").mkdir(parents=True)
    place = tmp_path / "folder" / "not there.db"
    done = run_here(*command, "--shop", str(place))
    assert done.returncode != 0
    assert "there is no shop at" in done.stderr
    assert not place.parent.exists()


@pytest.mark.parametrize("text", ["half a line", "a ' quote; -- and \x00 a zero".replace("\x00", "")])
def test_drafts_are_replaced_and_forgotten(shop, text):
    shop.drafts.keep("new job", "first")
    shop.drafts.keep("new job", text)
    assert shop.drafts.text("new job") == text
    shop.drafts.keep("new job", "")
    assert shop.drafts.text("new job") == ""
