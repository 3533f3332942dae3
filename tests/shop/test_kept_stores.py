"""Stores and documents that were made by earlier versions, kept as they were: this program reads them.

`stores/0008.sql` is the demo of the last version before the tables of benchmarks were renamed, as SQL text; beside it
stand what its bench showed, and a job file of the same version.
"""

from __future__ import annotations

import json
import sqlite3
from pathlib import Path

import pytest

from after_check.benchmark.record import benchmark_from_json
from after_check.domain.benchmark import Kind
from after_check.domain.jobs import Moment
from after_check.shop.checking import check_shop
from after_check.shop.exchange import bring_in, handed_out
from after_check.shop.shop import Shop
from tests.conftest import SAMPLES

STORES = Path(__file__).parent / "stores"


@pytest.fixture
def kept(tmp_path):
    path = tmp_path / "kept.db"
    with sqlite3.connect(path) as connection:
        connection.executescript((STORES / "0008.sql").read_text(encoding="utf-8"))
    return path


def test_a_store_of_0008_is_brought_up_to_date_and_says_what_it_said(kept):
    shop = Shop.open(kept)
    said = {line.number: [line.verdict.value, line.why, line.worst_title] for line in shop.jobs.lines()}
    assert said == json.loads((STORES / "0008.json").read_text(encoding="utf-8"))
    shop.jobs.judge_outdated()
    assert {line.number: line.verdict.value for line in shop.jobs.lines()} == {number: words[0] for number, words in said.items()}
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
