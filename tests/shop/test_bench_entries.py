"""What the bench shows is the same whether it is read whole or where it changed; a first look knows how many there are."""

from __future__ import annotations

import sqlite3
from datetime import UTC, datetime
from pathlib import Path
from tempfile import TemporaryDirectory

from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, invariant, rule

from after_check.domain.bench import NOT_READ_YET, WaitsFor
from after_check.domain.jobs import JobFacts, Moment
from after_check.domain.soak import SoakRecord, SoakState
from after_check.shop.shop import Shop
from after_check.shop.stored_lines import first_look
from after_check.sources.open_source import take_notation

READY = take_notation("A2=16G DDR4-3200; B2=16G DDR4-3200; run 3200; dual; total 32G")


class TwoBenches(RuleBasedStateMachine):
    """One bench changes jobs in any order; another one, that was open all the while, sees what a new one sees."""

    def __init__(self):
        super().__init__()
        self.folder = TemporaryDirectory()
        path = Path(self.folder.name) / "shop.db"
        self.path, self.one, self.other = path, Shop.open(path), Shop.open(path)
        self.numbers = []

    @rule()
    def add(self):
        number = f"{len(self.numbers) + 1:04d}"
        self.one.jobs.add(JobFacts(number, f"Desk {number}", promise="2x16G DDR4-3200; dual"))
        self.numbers.append(number)

    @rule(at=st.integers(0, 50))
    def read(self, at):
        if self.numbers:
            self.one.jobs.add_reading(self.numbers[at % len(self.numbers)], Moment.FITTED, READY)

    @rule(at=st.integers(0, 50))
    def archive(self, at):
        if self.numbers:
            number = self.numbers[at % len(self.numbers)]
            self.one.jobs.archive(number, not self.one.jobs.job(number).archived)

    @rule(at=st.integers(0, 50))
    def soak(self, at):
        if self.numbers:
            self.one.jobs.keep_soak(
                self.numbers[at % len(self.numbers)],
                SoakRecord("short", SoakState.FINISHED, datetime.now(UTC).replace(microsecond=0)),
                None,
            )

    @rule(at=st.integers(0, 50))
    def renumber(self, at):
        if self.numbers:
            index = at % len(self.numbers)
            job = self.one.jobs.job(self.numbers[index])
            self.numbers[index] = f"{job.facts.number}x"
            self.one.jobs.change_facts(job, JobFacts(self.numbers[index], "Another name"))

    @invariant()
    def the_same(self):
        fresh = Shop.open(self.path)
        assert self.other.jobs.bench() == fresh.jobs.bench() == first_look(self.path)
        fresh.close()

    def teardown(self):
        self.one.close()
        self.other.close()
        self.folder.cleanup()


TwoBenches.TestCase.settings = settings(max_examples=6, stateful_step_count=9, deadline=None)
TestTwoBenches = TwoBenches.TestCase


def test_a_first_look_reads_a_screenful_of_each_group_and_counts_the_rest(shop, shop_path):
    shop.jobs.add(JobFacts("0001", "Desk"))
    shop.close()
    with sqlite3.connect(shop_path) as connection:
        columns = [row[1] for row in connection.execute("PRAGMA table_info(jobs)") if row[1] not in ("id", "number", "uid", "latest")]
        names = ", ".join(columns)
        connection.execute(
            "WITH RECURSIVE n(i) AS (SELECT 2 UNION ALL SELECT i + 1 FROM n WHERE i < 500) "
            f"INSERT INTO jobs (number, uid, latest, {names}) "
            f"SELECT printf('%04d', i), printf('%036d', i), printf('2026-01-01T%04d', i), {names} "
            "FROM n, jobs WHERE jobs.number = '0001'"
        )
        # Groups of different sizes, the largest of which is not that of the job in the middle.
        connection.execute("UPDATE jobs SET waits_for = 'customer' WHERE id % 10 = 0")
        connection.execute("UPDATE jobs SET waits_for = 'archive' WHERE id = 7")
    looked = first_look(shop_path)
    assert {group: len(jobs) for group, jobs in looked.items()} == {
        **dict.fromkeys(WaitsFor, 0),
        **{WaitsFor.YOU: 449, WaitsFor.CUSTOMER: 50, WaitsFor.ARCHIVE: 1},
    }
    entries = looked[WaitsFor.YOU]
    read = [entry.number for entry in entries if entry.number != NOT_READ_YET]
    assert read == [entry.number for entry in Shop.open(shop_path).jobs.bench()[WaitsFor.YOU]][: len(read)]
    assert 40 <= len(read) < 100
