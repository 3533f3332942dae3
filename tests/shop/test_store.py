"""The embedded store: keeping, changing, and everything that can go wrong beneath it."""

from __future__ import annotations

import os
import sqlite3
import threading
from dataclasses import replace
from datetime import UTC, datetime

import pytest
from alembic import command
from alembic.autogenerate import compare_metadata
from alembic.config import Config
from alembic.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import create_engine

from after_check.casework.judging import judge_job
from after_check.domain.bench import WaitsFor
from after_check.domain.benchmark import BenchmarkRecord, BenchmarkState, Kind, Measurement, Series
from after_check.domain.jobs import JobFacts, Moment
from after_check.domain.standing import JobOutcome, Verdict
from after_check.shop import database, demo, revision, tables
from after_check.shop.errors import (
    AlreadyExistsError,
    BusyError,
    ChangedElsewhereError,
    DamagedError,
    DiskFullError,
    MadeByNewerVersionError,
    NotFoundError,
    ReadOnlyError,
    ShopError,
)
from after_check.shop.shop import Shop
from after_check.sources.open_source import take_notation
from tests.helpers.jobs import AFTER, BEFORE, FACTS, keep


def test_a_job_comes_back_as_it_was_after_closing(shop, shop_path):
    kept = keep(shop)
    shop.close()
    job = Shop.open(shop_path).jobs.job("0501")
    assert job == kept
    assert job.facts == FACTS
    assert job.arrival is not None
    assert job.arrival.reading.modules == take_notation(BEFORE).reading.modules
    assert judge_job(job).verdict is Verdict.READY


def test_evidence_is_kept_byte_for_byte_and_once(shop, shop_path):
    job = keep(shop)
    again = shop.jobs.add_reading("0501", Moment.FITTED, take_notation(AFTER))
    assert shop.jobs.evidence(job.readings[1].id)[0].data == AFTER.encode()
    assert shop.jobs.evidence(again.readings[2].id)[0].sha256 == job.readings[1].reading.evidence[0].sha256
    with sqlite3.connect(shop_path) as connection:
        assert connection.execute("SELECT count(*) FROM evidence").fetchone() == (2,)


def test_the_bench_line_follows_every_change(shop):
    shop.jobs.add(FACTS, ((Moment.ARRIVAL, take_notation(BEFORE)),))
    (line,) = shop.jobs.lines()
    assert (line.outcome, line.why) == (JobOutcome.CANT_TELL, "the machine was not read after fitting")
    shop.jobs.add_reading("0501", Moment.FITTED, take_notation(BEFORE))
    (line,) = shop.jobs.lines()
    assert line.outcome is JobOutcome.NOT_READY
    assert line.worst_title == "2 modules in A2 and B2 are not as promised: size 8 GiB, promised 16 GiB"  # Those from arrival.
    shop.jobs.add_reading("0501", Moment.FITTED, take_notation(AFTER))
    (line,) = shop.jobs.lines()
    assert (line.outcome, line.waits_for) == (JobOutcome.NOT_TESTED, WaitsFor.YOU)
    assert "c0ffee" in shop.jobs.entries()[0].search


def test_who_writes_at_the_same_time_waits_for_the_other(shop, shop_path):
    """Drafts of one window are kept while readings of another are: nobody is told to try again."""
    keep(shop)
    refused = []

    def type_drafts():
        other = Shop.open(shop_path)
        for number in range(20):
            try:
                other.drafts.keep("reading 0501", f"2x{number}G")
            except ShopError as error:
                refused.append(error)

    typing = threading.Thread(target=type_drafts)
    typing.start()
    for number in range(1, 9):
        shop.jobs.add_reading("0501", Moment.FITTED, take_notation(f"2x8G DDR4-3200; in use {number}G"))
    typing.join()
    assert refused == []
    assert shop.drafts.text("reading 0501") == "2x19G"
    assert len(shop.jobs.job("0501").readings) == 10


def test_two_people_on_one_job_do_not_overwrite_each_other(shop, shop_path):
    mine = keep(shop)
    other = Shop.open(shop_path)
    other.jobs.change_facts(other.jobs.job("0501"), JobFacts("0501", "Tide desk", "Larkfield T1", "Tide-gauge office", "2x16G DDR4-3200"))
    with pytest.raises(ChangedElsewhereError, match="changed somewhere else"):
        shop.jobs.change_facts(mine, JobFacts("0501", "Mine"))
    assert shop.jobs.job("0501").facts.promise == "2x16G DDR4-3200"


def test_numbers(shop):
    assert shop.jobs.next_number() == "0001"
    keep(shop)
    assert shop.jobs.next_number() == "0502"
    with pytest.raises(AlreadyExistsError, match="0501 already"):
        keep(shop)
    with pytest.raises(NotFoundError, match="no job 9999"):
        shop.jobs.job("9999")
    with pytest.raises(ShopError, match="needs a number"):
        shop.jobs.add(JobFacts("\x1b\x07"))


def test_a_job_whose_reading_cannot_be_kept_is_not_kept_either(shop, monkeypatch):
    taken = take_notation(AFTER)

    class Breaks:
        reading = taken.reading

        @property
        def evidence(self):
            raise RuntimeError("in the middle")

    with pytest.raises(RuntimeError):
        shop.jobs.add(FACTS, ((Moment.ARRIVAL, Breaks()),))
    assert shop.jobs.lines() == []


def test_drafts(shop):
    shop.drafts.keep("new job", "half a li")
    shop.drafts.keep("new job", "half a line")
    assert shop.drafts.text("new job") == "half a line"
    shop.drafts.keep("new job", "")
    assert shop.drafts.text("new job") == ""


def test_a_draft_that_an_older_program_kept_in_the_store_is_found_and_forgotten(shop, shop_path):
    shop.close()
    with sqlite3.connect(shop_path) as connection:
        connection.execute("INSERT INTO drafts (place, text) VALUES ('new job', 'half a line')")
    again = Shop.open(shop_path)
    assert again.drafts.text("new job") == "half a line"
    again.drafts.keep("new job", "a whole line")
    assert again.drafts.text("new job") == "a whole line"
    again.drafts.keep("new job", "")
    assert Shop.open(shop_path).drafts.text("new job") == ""
    again.close()


def test_the_demo_is_filled_once_and_keeps_changes(shop):
    demo.fill(shop)
    lines = {line.number: line for line in shop.jobs.lines()}
    assert {"0417", "0418", "0419", "0420"} <= set(lines)
    # What is true of each is written in the scenario.
    assert (lines["0417"].outcome, lines["0418"].outcome) == (JobOutcome.NOT_READY, JobOutcome.READY)
    assert "settings were cleared" in lines["0417"].worst_title
    assert "D1" in lines["0419"].worst_title
    assert "8 GiB on two channels, 12 GiB on one" in lines["0420"].worst_title
    shop.jobs.add_reading("0417", Moment.FITTED, take_notation("2x24G DDR5-6400; run 6400; dual; profile 1"))
    demo.fill(shop)
    assert len(shop.jobs.job("0417").readings) == 3


def schema(path):
    """Every table of a file with its columns, keys and indices, as SQLite tells them."""
    with sqlite3.connect(path) as connection:
        names = [name for (name,) in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite%'")]
        return {
            name: (
                connection.execute(f"PRAGMA table_info({name})").fetchall(),
                sorted(map(str, connection.execute(f"PRAGMA foreign_key_list({name})"))),
                sorted(
                    (index[1:5], connection.execute(f"PRAGMA index_info('{index[1]}')").fetchall())
                    for index in connection.execute(f"PRAGMA index_list({name})")
                ),
            )
            for name in names
        }


def matches_the_code(connection):
    context = MigrationContext.configure(connection, opts={"compare_type": True})
    assert compare_metadata(context, tables.metadata) == []
    assert context.get_current_revision() == revision.REVISION


def migrate(connection):
    """Make the tables as a store of long ago got them: by every migration."""
    config = Config()
    config.set_main_option("script_location", str(database.MIGRATIONS))
    config.attributes["connection"] = connection
    command.upgrade(config, "head")


def test_the_tables_of_a_new_store_are_those_of_the_code(shop):
    with shop.database.reading() as connection:
        matches_the_code(connection)


def test_migrations_lead_to_the_tables_of_a_new_store(shop, shop_path, tmp_path):
    assert ScriptDirectory(str(database.MIGRATIONS)).get_heads() == [revision.REVISION]
    migrated = tmp_path / "migrated.db"
    engine = create_engine(f"sqlite:///{migrated}")
    with engine.begin() as connection:
        migrate(connection)
        matches_the_code(connection)
    engine.dispose()
    assert schema(shop_path) == schema(migrated)


def test_a_store_from_a_newer_program_is_left_alone(shop, shop_path):
    keep(shop)
    shop.close()
    with sqlite3.connect(shop_path) as connection:
        connection.execute("UPDATE alembic_version SET version_num = '9999'")
    before = shop_path.read_bytes()
    with pytest.raises(MadeByNewerVersionError, match="newer After Check"):
        Shop.open(shop_path)
    assert shop_path.read_bytes() == before


def test_another_programs_database_and_no_database_are_refused(tmp_path):
    foreign = tmp_path / "foreign.db"
    with sqlite3.connect(foreign) as connection:
        connection.execute("CREATE TABLE customers (id INTEGER)")
    with pytest.raises(DamagedError, match="not After Check's"):
        Shop.open(foreign)
    text = tmp_path / "text.db"
    text.write_text("this is a letter, not a store" * 100)
    with pytest.raises(DamagedError, match="no store of jobs"):
        Shop.open(text)
    with pytest.raises(ShopError, match="is a folder"):
        Shop.open(tmp_path)


def test_a_store_that_another_process_holds(shop, shop_path, monkeypatch):
    keep(shop)
    holder = sqlite3.connect(shop_path, isolation_level=None)
    holder.execute("BEGIN EXCLUSIVE")
    monkeypatch.setattr(database, "WAIT_FOR_LOCK_SECONDS", 0)
    with pytest.raises(BusyError, match="another process"):
        shop.jobs.add(replace(FACTS, number="0502"))
    # One who types does not wait for it.
    shop.drafts.keep("new job", "x")
    assert shop.drafts.text("new job") == "x"
    holder.execute("ROLLBACK")
    shop.jobs.add(replace(FACTS, number="0502"))


def test_a_full_disk(shop, shop_path):
    """SQLite's own page limit takes the place of the disk: it fails with the same error, at the same place."""
    keep(shop)
    with shop.database.writing() as connection:
        pages = connection.exec_driver_sql("PRAGMA page_count").scalar()
        connection.exec_driver_sql(f"PRAGMA max_page_count = {pages}")
    taken = take_notation("; ".join(f"A{index}=8G part {'x' * 150}" for index in range(40)))

    def fill():
        for _ in range(50):
            shop.jobs.add_reading("0501", Moment.FITTED, taken)

    with pytest.raises(DiskFullError, match="disk is full"):
        fill()
    assert shop.jobs.job("0501").facts == FACTS


@pytest.mark.skipif(os.geteuid() == 0, reason="root may write everywhere; the next test does it without rights")
def test_a_read_only_store_as_an_ordinary_user(shop, shop_path):
    shop_path.chmod(0o444)
    shop_path.parent.chmod(0o555)
    with pytest.raises(ReadOnlyError):
        shop.jobs.add(replace(FACTS, number="0502"))


def test_a_read_only_store_as_root(tmp_path):
    """Root may write to files without the right to; what SQLite reports is provoked through its own switch."""
    shop = Shop.open(tmp_path / "shop.db")
    keep(shop)
    with shop.database.writing() as connection:
        connection.exec_driver_sql("PRAGMA query_only = ON")
    with pytest.raises(ReadOnlyError, match="read-only"):
        shop.jobs.add(replace(FACTS, number="0502"))
    assert shop.jobs.job("0501").facts == FACTS


def test_makers_names_are_learned_from_pairs_and_a_technician_has_the_last_word(shop):
    from after_check.domain.facts import Fact, Source
    from after_check.domain.modules import MakerId, Module
    from after_check.domain.readings import Reading, SpdEntry
    from after_check.sources.evidence import Taken

    code = MakerId(10, 0x21)
    own = Module(maker_id=Fact(code, Source.SPD), serial=Fact("A1", Source.SPD), size_bytes=Fact(1 << 33, Source.SPD))
    both = replace(own, maker=Fact("Quillmark", Source.FIRMWARE))
    shop.jobs.add(JobFacts("1", "nameless"), ((Moment.ARRIVAL, Taken(Reading(spd=(SpdEntry("0-0050", own),)))),))
    assert shop.cards.makers() == {}
    shop.jobs.add(JobFacts("2", "named"), ((Moment.ARRIVAL, Taken(Reading(spd=(SpdEntry("0-0050", both),)))),))
    assert shop.cards.makers() == {code: "Quillmark"}
    maker = shop.jobs.job("1").readings[0].reading.spd[0].module.maker
    assert (maker.value, maker.source) == ("Quillmark", Source.WORKED_OUT)
    shop.cards.name_maker(code, "Quillmark of Skarrow")
    shop.jobs.add(JobFacts("3", "again"), ((Moment.ARRIVAL, Taken(Reading(spd=(SpdEntry("0-0050", both),)))),))
    assert shop.cards.makers() == {code: "Quillmark of Skarrow"}


def test_a_store_of_the_first_version_is_brought_up_to_date(shop, shop_path):
    keep(shop)
    shop.close()
    with sqlite3.connect(shop_path) as connection:
        connection.execute("DROP TABLE makers")
        connection.execute("DROP TABLE cards")
        connection.execute("DROP TABLE soaks")
        connection.execute("DROP TABLE benchmarks")
        connection.execute("DROP TABLE demands")
        connection.execute("DROP TABLE tries")
        connection.execute("DROP TABLE hand_backs")
        connection.execute("DROP TABLE revisions")
        connection.execute("DROP INDEX ix_jobs_uid")
        for name in ("moved", "waits_for", "judged_by"):
            connection.execute(f"DROP INDEX ix_jobs_{name}")
        for column in ("uid", "frozen", "archived", "moved", "lineages"):
            connection.execute(f"ALTER TABLE jobs DROP COLUMN {column}")
        connection.execute("UPDATE alembic_version SET version_num = '0001'")
    again = Shop.open(shop_path)
    assert again.cards.makers() == {}
    assert again.jobs.job("0501").facts == FACTS


def test_a_benchmark_that_goes_on_is_one_row_and_scores_of_one_second_are_two(shop):
    job = shop.jobs.add(JobFacts("0501", "Tide desk"))
    number = job.facts.number
    at = datetime(2026, 11, 30, 10, tzinfo=UTC)
    read = Measurement(Kind.READ)
    for count in (1, 2, 3):
        series = Series(tuple(20.0 for _ in range(count)), "GB/s", read)
        shop.jobs.keep_benchmark(number, Moment.FITTED, BenchmarkRecord(at, BenchmarkState.STOPPED, series=(series,)))
    shop.jobs.keep_benchmark(number, Moment.FITTED, BenchmarkRecord(at, BenchmarkState.FINISHED, series=(series,)))
    assert [len(kept.record.series[0].samples) for kept in shop.jobs.job(number).benchmarks] == [3]
    for name in ("Export", "Import"):
        scores = BenchmarkRecord(at, BenchmarkState.FINISHED, series=(Series((60.0,), "fps", name=name, typed=True),))
        shop.jobs.keep_benchmark(number, Moment.FITTED, scores)
    assert len(shop.jobs.job(number).benchmarks) == 3
