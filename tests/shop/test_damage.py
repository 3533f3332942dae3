"""Any value of any row may be damaged: the store opens, every job can be looked at, and the check says what is wrong."""

from __future__ import annotations

import json
import shutil
import sqlite3
from dataclasses import replace

import pytest

from after_check.casework.snapshot import take_snapshot
from after_check.domain.standing import JobOutcome, Verdict
from after_check.shop.checking import check_shop
from after_check.shop.exchange import backup
from after_check.shop.shop import Shop
from after_check.texts import say
from tests.helpers.demo import put_demo
from tests.helpers.pilot import go, notices, open_job, running, shown, until

NONSENSE = ("'{'", "x'ff00'")
COLUMNS = [
    *((table, "moment") for table in ("readings", "benchmarks")),
    *(("readings", column) for column in ("taken_at", "reading")),
    *(("soaks", column) for column in ("begun_at", "changed_at", "record")),
    *(("benchmarks", column) for column in ("begun_at", "record")),
    *(
        ("jobs", column)
        for column in ("title", "machine", "customer", "promise", "created_at", "changed_at", "line", "search", "waits_for")
    ),
    ("tries", "log"),
    ("cards", "toml"),
]
NOTHING_LOST = {
    *(("soaks", "begun_at"), ("soaks", "changed_at"), ("benchmarks", "begun_at"), ("jobs", "search")),
    *(("jobs", "title"), ("jobs", "waits_for")),
}
"""Copies of what a record says, what is worked out again, or free text that cannot be told from another text."""
NUMBERS = ("0418", "0426", "0429")


@pytest.fixture(scope="module")
def whole(tmp_path_factory):
    path = put_demo(tmp_path_factory.mktemp("whole") / "shop.db")
    with sqlite3.connect(path) as connection:  # Three jobs have a row of every kind.
        connection.execute("PRAGMA foreign_keys = ON")
        connection.execute(f"DELETE FROM jobs WHERE number NOT IN {NUMBERS}")
    return path


def damaged(whole, tmp_path, table, column, value, where="(SELECT max(rowid) FROM {})"):
    path = tmp_path / "shop.db"
    shutil.copyfile(whole, path)
    with sqlite3.connect(path) as connection:
        connection.execute(f"UPDATE {table} SET {column} = {value} WHERE rowid = {where.format(table)}")
    return path


@pytest.mark.parametrize(("table", "column"), COLUMNS)
def test_one_damaged_value_ends_nothing(whole, tmp_path, table, column):
    for value in NONSENSE:
        shop = Shop.open(damaged(whole, tmp_path, table, column, value))
        assert len(shop.jobs.entries()) == len(shop.jobs.lines()) == len(NUMBERS)
        shop.cards.all()
        for number in NUMBERS:
            take_snapshot(shop.jobs.job(number))
        if (table, column) not in NOTHING_LOST and (column not in ("machine", "customer", "promise") or value.startswith("x")):
            assert not check_shop(shop).is_sound, f"{table}.{column} = {value}"
        shop.close()


def test_a_reading_is_decoded_again_from_what_it_was_read_from(whole, tmp_path):
    before = take_snapshot(Shop.open(whole).jobs.job("0429")).judgement
    shop = Shop.open(damaged(whole, tmp_path, "readings", "reading", "'{'"))
    job = shop.jobs.job("0429")
    assert job.damaged == ("a reading is damaged and was decoded again from what it was read from",)
    assert [finding.code for finding in take_snapshot(job).judgement.findings] == [finding.code for finding in before.findings]


def test_a_job_with_damage_is_never_ready(whole, tmp_path):
    """Job 0426 is ready; its latest reading is damaged with its evidence, and what is left would be ready as well."""
    path = damaged(whole, tmp_path, "soaks", "record", "'{'")
    shop = Shop.open(path)
    snapshot = take_snapshot(shop.jobs.job("0426"))
    assert snapshot.outcome is JobOutcome.CANT_TELL
    assert snapshot.judgement.verdict is Verdict.CANT_TELL
    assert "a memory test is damaged" in say(snapshot.judgement.why)
    saved = backup(shop, tmp_path / "saved.zip")
    assert saved.new == len(NUMBERS)
    assert any("0426" in problem and "damaged" in problem for problem in saved.problems)


def test_a_value_changed_beneath_its_evidence_is_found(whole, tmp_path):
    path = tmp_path / "shop.db"
    shutil.copyfile(whole, path)
    with sqlite3.connect(path) as connection:
        (text,) = connection.execute("SELECT reading FROM readings ORDER BY id DESC LIMIT 1").fetchone()
        assert "17179869184" in text
        connection.execute(
            "UPDATE readings SET reading = ? WHERE id = (SELECT max(id) FROM readings)", (text.replace("17179869184", "34359738368"),)
        )
    problems = check_shop(Shop.open(path)).problems
    assert [problem for problem in problems if "is not what its evidence says" in problem]
    assert check_shop(Shop.open(whole)).is_sound


def test_a_damaged_line_is_said_and_worked_out_again(whole, tmp_path):
    path = damaged(whole, tmp_path, "jobs", "line", "'NaN'", "(SELECT id FROM jobs WHERE number = '0418')")

    async def test():
        async with running(path) as (app, pilot):
            await until(pilot, lambda: "Ringing-hut laptop" in shown(app))

    assert any("0418" in problem and "line" in problem for problem in check_shop(Shop.open(path)).problems)
    go(test)
    assert check_shop(Shop.open(path)).is_sound


async def test_a_damaged_job_is_shown_with_what_is_wrong(whole, tmp_path):
    path = damaged(whole, tmp_path, "soaks", "record", "'{'")

    async with running(path) as (app, pilot):
        await open_job(app, pilot, "0426")
        await until(pilot, lambda: any("A part of this job is damaged" in words for words in notices(app)))
        assert "Spectrum laptop" in shown(app)


@pytest.mark.parametrize(
    ("change", "left", "lost"),
    [
        (lambda log: log["tries"].__setitem__(1, "scribble"), lambda tries: (tries[0], *tries[2:]), 1),
        (lambda log: log["tries"][0].__setitem__("started", "perhaps"), lambda tries: tries[1:], 1),
        (lambda log: log.__setitem__("slots", 7), lambda tries: tries, 0),
        (lambda log: log.__setitem__("tries", "gone"), lambda tries: (), 1),
    ],
)
def test_of_a_damaged_log_of_tries_what_is_whole_is_kept(whole, tmp_path, change, left, lost):
    """One try is damaged: the others and the modules are there, a new one goes behind them, and the job says what is missing."""
    before = Shop.open(whole).jobs.job("0429").tries.log
    path = tmp_path / "shop.db"
    shutil.copyfile(whole, path)
    with sqlite3.connect(path) as connection:
        where = "job_id = (SELECT id FROM jobs WHERE number = '0429')"
        log = json.loads(connection.execute(f"SELECT log FROM tries WHERE {where}").fetchone()[0])
        change(log)
        connection.execute(f"UPDATE tries SET log = ? WHERE {where}", (json.dumps(log),))
    shop = Shop.open(path)
    job = shop.jobs.job("0429")
    assert job.tries.log.tries == left(before.tries)
    assert job.tries.log.modules == before.modules
    assert any(f"{lost} could not" in words for words in job.damaged)
    assert not check_shop(shop).is_sound
    shop.jobs.keep_tries("0429", replace(job.tries.log, tries=(*job.tries.log.tries, before.tries[0])), job.tries.version)
    assert len(shop.jobs.job("0429").tries.log.tries) == len(left(before.tries)) + 1
