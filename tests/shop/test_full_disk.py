"""A disk that is full, for every action that writes: told as such, nothing half written, and done once there is room.

SQLite's own page limit takes the place of the disk: it fails with the same error, at the same place.
"""

from __future__ import annotations

from contextlib import suppress
from datetime import UTC, datetime

import pytest

from after_check.domain.benchmark import BenchmarkRecord, BenchmarkState
from after_check.domain.cards import Card
from after_check.domain.demand import DemandRecord
from after_check.domain.handback import HandBack
from after_check.domain.jobs import JobFacts, Moment
from after_check.domain.soak import SoakRecord, SoakState
from after_check.domain.tries import TryLog
from after_check.shop.checking import check_shop
from after_check.shop.errors import DiskFullError
from after_check.shop.exchange import backup, move, restore
from after_check.shop.shop import Shop
from after_check.sources.open_source import take_notation
from tests.helpers.jobs import keep
from tests.helpers.logs import THREE, A, B

LONG = "a word " * 4000
AT = datetime(2026, 11, 2, 9, tzinfo=UTC)
LONG_READING = take_notation("; ".join(f"A{index}=8G part {'x' * 150}" for index in range(40)))


def facts(number):
    return JobFacts(number, "Tide desk", "Larkfield T1", LONG)


ACTIONS = {
    "a new job": lambda shop, number: shop.jobs.add(facts(f"{600 + number:04}")),
    "a reading": lambda shop, number: shop.jobs.add_reading("0501", Moment.FITTED, LONG_READING),
    "tries": lambda shop, number: shop.jobs.keep_tries(
        "0501",
        TryLog((A, B), ("A2", "B2"), THREE, conclusion=LONG),
        shop.jobs.job("0501").tries.version if shop.jobs.job("0501").tries else 0,
    ),
    "a soak": lambda shop, number: shop.jobs.keep_soak("0501", SoakRecord("short", SoakState.FINISHED, AT, remarks=(LONG,))),
    "a benchmark": lambda shop, number: shop.jobs.keep_benchmark(
        "0501", Moment.FITTED, BenchmarkRecord(AT, BenchmarkState.FINISHED, remarks=(LONG,))
    ),
    "a watch": lambda shop, number: shop.jobs.keep_demand("0501", DemandRecord(AT, 1 << 34, remarks=(LONG,))),
    "the sheet": lambda shop, number: shop.signing.keep_hand_back(shop.jobs.job("0501"), HandBack(note=LONG)),
    "a promise": lambda shop, number: shop.signing.change_promise(shop.jobs.job("0501"), "2x16G DDR4-3200", LONG),
    "a data sheet": lambda shop, number: shop.cards.keep(Card("Larkfield T1", signs=(LONG,))),
}


def full(shop):
    """Let the store grow no further, and fill what is free in it."""
    with shop.database.writing() as connection:
        connection.exec_driver_sql("CREATE TABLE filler (text TEXT)")
        pages = connection.exec_driver_sql("PRAGMA page_count").scalar()
        connection.exec_driver_sql(f"PRAGMA max_page_count = {pages}")
    for size in (4000, 400, 40):
        with suppress(DiskFullError):
            for _ in range(4000):
                with shop.database.writing() as connection:
                    connection.exec_driver_sql(f"INSERT INTO filler VALUES ('{'x' * size}')")


def room(shop):
    with shop.database.writing() as connection:
        connection.exec_driver_sql("PRAGMA max_page_count = 1000000")


def content(shop):
    """What is kept of every job and data sheet, without when it was looked at."""
    return [shop.jobs.job(number) for number in shop.jobs.numbers()], shop.cards.all()


@pytest.mark.parametrize("name", ACTIONS)
def test_an_action_on_a_full_disk_is_refused_whole_and_done_when_there_is_room(shop, name):
    keep(shop)
    full(shop)
    # What is small may fit into what is free in a page that was begun; sooner or later it does not.
    for number in range(400):
        before = content(shop)
        try:
            ACTIONS[name](shop, number)
        except DiskFullError:
            break
    else:
        pytest.fail("it was never full")
    assert content(shop) == before
    assert check_shop(shop).problems == ()
    room(shop)
    ACTIONS[name](shop, number)
    assert check_shop(shop).problems == ()
    assert content(shop) != before


def test_what_is_brought_in_on_a_full_disk_is_whole_or_not_there(shop, tmp_path):
    keep(shop)
    shop.jobs.add_reading("0501", Moment.FITTED, LONG_READING)
    backup(shop, tmp_path / "all.zip")
    ways = {"restored": lambda other: restore(other, tmp_path / "all.zip"), "moved": lambda other: move(shop, other)}
    for name, way in ways.items():
        other = Shop.open(tmp_path / f"{name}.db")
        full(other)
        with pytest.raises(DiskFullError):
            way(other)
        assert other.jobs.numbers() == []
        room(other)
        way(other)
        assert other.jobs.job("0501").readings[-1].reading == shop.jobs.job("0501").readings[-1].reading
        assert check_shop(other).problems == ()
        other.close()
