"""Stores and documents that were made by earlier versions, kept as they were: this program reads them.

`stores/0001.sql` to `0007.sql` are three jobs each of the demo that the last version with that schema made, as SQL text;
`stores/0008.sql` is the whole demo of the last version before the tables of benchmarks were renamed; beside it stand what
its bench showed, and a job file of the same version.
"""

from __future__ import annotations

import json
import sqlite3
from pathlib import Path

import pytest

from after_check.benchmark.benchmark_json import benchmark_from_json
from after_check.domain.benchmark import Kind
from after_check.domain.jobs import Moment
from after_check.domain.soak import SoakState
from after_check.shop.checking import check_shop
from after_check.shop.exchange import bring_in, handed_out
from after_check.shop.shop import Shop
from after_check.sources.open_source import take_notation
from tests.conftest import SAMPLES

STORES = Path(__file__).parent / "stores"


def store_of(version, path):
    with sqlite3.connect(path) as connection:
        connection.executescript((STORES / f"{version}.sql").read_text(encoding="utf-8"))
    return path


def rows(path, query):
    with sqlite3.connect(path) as connection:
        return connection.execute(query).fetchall()


@pytest.fixture
def kept(tmp_path):
    return store_of("0008", tmp_path / "kept.db")


@pytest.mark.parametrize("version", [f"000{number}" for number in range(1, 8)])
def test_a_store_of_any_version_keeps_all_it_had(version, tmp_path):
    path = store_of(version, tmp_path / "kept.db")
    facts = rows(path, "SELECT number, title, machine, customer, promise FROM jobs ORDER BY number")
    taken = rows(path, "SELECT jobs.number, count(*) FROM readings JOIN jobs ON jobs.id = job_id GROUP BY jobs.number ORDER BY 1")
    evidence = rows(path, "SELECT sha256, data FROM evidence ORDER BY sha256")
    assert (len(facts), len(taken)) == (3, 3)

    shop = Shop.open(path)
    assert check_shop(shop).is_sound
    shop.jobs.judge_outdated()
    jobs = [shop.jobs.job(number) for number, *_ in facts]
    assert [(job.facts.number, job.facts.title, job.facts.machine, job.facts.customer, job.facts.promise) for job in jobs] == facts
    assert [(job.facts.number, len(job.readings)) for job in jobs] == taken
    assert len({line.outcome for line in shop.jobs.lines()}) > 1
    changed = shop.jobs.add_reading("0418", Moment.FITTED, take_notation("2x16G DDR4-3200; run 3200; total 32G"))
    assert changed.now.reading.total_bytes.value == 32 << 30
    shop.close()
    assert set(evidence) <= set(rows(path, "SELECT sha256, data FROM evidence"))


def test_soaks_and_tries_of_0007_are_still_there(tmp_path):
    shop = Shop.open(store_of("0007", tmp_path / "kept.db"))
    (soak,) = shop.jobs.job("0425").soaks
    assert (soak.record.state, soak.record.errors > 0) == (SoakState.STOPPED, True)
    assert {module.letter for module in shop.jobs.job("0422").tries.log.modules} >= {"a", "b"}
    shop.close()


def test_a_store_of_0008_is_brought_up_to_date_and_says_what_it_said(kept):
    shop = Shop.open(kept)
    said = {line.number: [line.outcome.value, line.why, line.worst_title] for line in shop.jobs.lines()}
    assert said == json.loads((STORES / "0008.json").read_text(encoding="utf-8"))
    shop.jobs.judge_outdated()
    # Today a job without a memory test is not called ready.
    untested = dict.fromkeys(("0418", "0420"), "as promised, not tested")
    assert {line.number: line.outcome.value for line in shop.jobs.lines()} == {
        number: words[0] for number, words in said.items()
    } | untested
    assert check_shop(shop).is_sound
    assert shop.drafts.text("new job") == "half a name"
    shop.close()


def test_benchmarks_of_0008_keep_their_quantities(kept):
    shop = Shop.open(kept)
    before, now = shop.jobs.job("0426").benchmarks
    assert (before.moment, now.moment) == (Moment.ARRIVAL, Moment.FITTED)
    assert {series.measured.kind for series in now.record.series if not series.typed} == set(Kind)
    assert len(now.record.stairs) > 10
    assert [series.name for series in now.record.series if series.typed] == ["spectrum of a night"]
    shop.close()


def test_what_was_signed_in_0008_is_still_what_was_signed(kept):
    shop = Shop.open(kept)
    job = shop.jobs.job("0424")
    assert job.frozen
    (revision,) = job.revisions
    assert json.loads(shop.signing.document("0424", revision.number))["number"] == "0424"
    shop.close()


def test_a_job_file_of_0008_is_brought_in_and_leaves_with_the_same_names_of_fields(tmp_path):
    shop = Shop.open(tmp_path / "new.db")
    assert bring_in(shop, STORES / "job-0426.zip").number == "0426"
    document, _ = handed_out(shop, "0426")
    assert len(document["gauges"]) == 2
    names = [series["name"] for series in document["gauges"][1]["record"]["series"]]
    assert names[0] == "read · 1 thread"
    assert "latency · 16 KiB" in names
    shop.close()


def test_a_benchmark_of_the_samples_from_before_its_key_is_read():
    record = benchmark_from_json((SAMPLES / "0426" / "benchmark-now.json").read_bytes())
    assert all(series.measured is not None or series.typed for series in record.series)
    assert len(record.stairs) > 10
