"""A result that the shop does not take is not lost: tried again, written beside, joined later."""

from __future__ import annotations

import sqlite3
from dataclasses import replace

import pytest

from after_check.domain.jobs import JobFacts, Moment
from after_check.domain.soak import SoakState
from after_check.local.paths import results_folder
from after_check.shop import unsaved_results as results_beside
from after_check.shop.shop import Shop
from after_check.shop.unsaved_results import UnsavedResultError, bring_results, keep_at_last
from after_check.soak.soak_json import read_record
from after_check.sources.open_source import take_notation
from tests.conftest import SAMPLES

RECORD = replace(read_record(SAMPLES / "0426" / "soak.json"), state=SoakState.FINISHED)


@pytest.fixture
def kept(shop):
    shop.jobs.add(JobFacts("0501", "Tide desk", "", "", "2x16G"), ((Moment.FITTED, take_notation("2x16G")),))
    return shop


def locked(path):
    """Hold a store as another program does that writes into it."""
    holder = sqlite3.connect(path, isolation_level=None)
    holder.execute("BEGIN EXCLUSIVE")
    return holder


def test_a_store_that_is_locked_for_a_while_gets_the_result(kept, shop_path):
    holder, waits = locked(shop_path), []

    def sleep(seconds):
        waits.append(seconds)
        holder.rollback() if holder.in_transaction else None

    assert keep_at_last(kept, "0501", RECORD, None, sleep) > 0
    assert waits == [0.5]
    assert kept.jobs.job("0501").soak.record.state is SoakState.FINISHED
    assert not results_folder().exists()


def test_a_store_that_stays_locked_gets_it_when_the_bench_looks_next(kept, shop_path, tmp_path, monkeypatch):
    monkeypatch.setattr(results_beside, "WAITS_SECONDS", ())
    holder = locked(shop_path)
    with pytest.raises(UnsavedResultError, match="The result is kept in"):
        keep_at_last(kept, "0501", RECORD, None, lambda seconds: None)
    (path,) = results_folder().iterdir()
    assert path.stat().st_mode & 0o777 == 0o600
    assert bring_results(kept) == (), "still locked: it stays where it is"
    assert path.exists()
    holder.rollback()
    other = Shop.open(tmp_path / "other.db")
    assert bring_results(other) == (), "it belongs to another shop"
    assert bring_results(kept) == ("the memory test of job 0501 that was kept beside the shop is in it now",)
    assert not path.exists()
    assert kept.jobs.job("0501").soak.record == RECORD
    assert bring_results(kept) == ()
