"""The bench of a shop: groups alone, the archive, search over everything."""

from __future__ import annotations

import threading

import pytest
from hypothesis import given
from hypothesis import strategies as st

from after_check.domain.bench import NOT_READ_YET, BenchEntry, WaitsFor, grouped
from after_check.domain.jobs import JobFacts
from after_check.shop.shop import Shop
from after_check.tui.app import AfterCheckApp
from after_check.tui.charts.bench import BenchSnapshot, OneAfterAnother, Row, Rows, counts_text, rows_of, snapshot_of
from after_check.tui.widgets.bench_list import BenchList
from tests.helpers.demo import filled_demo, put_demo
from tests.helpers.pilot import notices, running, shown, until

ENTRIES = [
    BenchEntry("1", WaitsFor.YOU, "1 desk quillmark c0ffee", "{}"),
    BenchEntry("2", WaitsFor.CUSTOMER, "2 kiosk ostrel", "{}"),
    BenchEntry("3", WaitsFor.SOAK, "3 laptop quillmark", "{}"),
    BenchEntry("4", WaitsFor.ARCHIVE, "4 old desk brackwater", "{}"),
]


def numbers(*arguments, **named):
    return [entry.number for entry in snapshot_of(grouped(ENTRIES), *arguments, **named).jobs]


@pytest.mark.parametrize(
    ("search", "only", "archive", "found"),
    [
        ("", None, False, ["1", "3", "2"]),
        ("", WaitsFor.CUSTOMER, False, ["2"]),
        ("", WaitsFor.SOAK, False, ["3"]),
        ("", None, True, ["4"]),
        ("quillmark", None, False, ["1", "3"]),
        ("QUILLMARK desk", None, False, ["1"]),
        ("desk", None, False, ["1"]),
        ("desk", None, True, ["4"]),
        ("brackwater", None, False, ["4"]),  # Only the archive has it: better found there than not at all.
        ("nothing", None, False, []),
    ],
)
def test_what_is_shown(search, only, archive, found):
    assert numbers(search, only, archive) == found


@given(st.lists(st.integers(0, 5), min_size=2, max_size=5), st.integers(-35, 35), st.slices(30))
def test_groups_one_after_another_are_as_one(sizes, at, part):
    groups = [[BenchEntry(f"{number}-{index}", WaitsFor.YOU, "", "") for index in range(size)] for number, size in enumerate(sizes)]
    whole = [entry for group in groups for entry in group]
    joined = OneAfterAnother(groups)
    assert (len(joined), list(joined), bool(joined)) == (len(whole), whole, bool(whole))
    assert joined[part] == tuple(whole[part])
    if -len(whole) <= at < len(whole):
        assert joined[at] is whole[at]
    else:
        with pytest.raises(IndexError):
            joined[at]


@given(st.lists(st.sampled_from(["d", "de", "desk", " ", "quill", "1", "x", "DESK"]), max_size=6))
def test_a_search_letter_by_letter_finds_what_the_whole_one_finds(pieces):
    groups = grouped(ENTRIES)
    before = None
    typed = ""
    for letter in "".join(pieces):
        typed += letter
        before = snapshot_of(groups, typed, None, False, before)
        assert before == snapshot_of(groups, typed)
        assert all(before.finds(entry) for entry in before.jobs)


def test_every_group_has_a_heading_and_every_job_two_rows():
    snapshot = snapshot_of(grouped(ENTRIES), "")
    rows = rows_of(snapshot, 8)
    assert [row.group for row in rows if row.group] == [WaitsFor.YOU, WaitsFor.SOAK, WaitsFor.CUSTOMER]
    assert sum(row.job is not None for row in rows) == 6
    assert snapshot.waiting[WaitsFor.ARCHIVE] == 1


async def test_groups_and_archive_with_the_keys(shop_path):
    shop = Shop.open(put_demo(shop_path))
    shop.jobs.archive("0420")
    shop.close()

    async with running(shop_path) as (app, pilot):
        await until(pilot, lambda: "waits for you" in shown(app))
        assert "Visitor kiosk" not in shown(app)
        await pilot.press("g")
        await until(pilot, lambda: "waits for the customer" not in shown(app) and "Sonogram desk" in shown(app))
        await pilot.press("g")
        await until(pilot, lambda: "no job in this group" in shown(app))
        await pilot.press("g")
        await until(pilot, lambda: "Ringing-hut laptop" in shown(app) and "Sonogram desk" not in shown(app))
        await pilot.press("g")
        await until(pilot, lambda: "Sonogram desk" in shown(app))
        await pilot.press("z")
        await until(pilot, lambda: "in the archive" in shown(app) and "Visitor kiosk" in shown(app))
        assert "Sonogram desk" not in shown(app)
        await pilot.press("z")
        await until(pilot, lambda: "Sonogram desk" in shown(app))
        await pilot.press("slash", *"kiosk")
        await until(pilot, lambda: "Visitor kiosk" in shown(app))


async def test_settings_that_are_not_understood_are_told_at_the_start(shop_path, tmp_path):
    folder = tmp_path / "config" / "after-check"
    folder.mkdir(parents=True)
    (folder / "settings.toml").write_text('colour = "perhaps"\n')

    async with running(shop_path) as (app, pilot):
        await until(pilot, lambda: any("colour is true or false" in notice for notice in notices(app)))


@given(st.lists(st.integers(1, 5), max_size=4), st.booleans())
def test_rows_are_headings_jobs_of_two_lines_and_air(counts, airy):
    """Drawn by hand: the same rows, one after the other, that are worked out one by one."""
    groups = list(WaitsFor)[: len(counts)]
    jobs = iter(BenchEntry(str(number), WaitsFor.YOU, "", "") for number in range(100))
    snapshot = BenchSnapshot(tuple((group, tuple(next(jobs) for _ in range(count))) for group, count in zip(groups, counts, strict=True)))
    drawn = []
    job = 0
    for group, count in zip(groups, counts, strict=True):
        if drawn and not airy:
            drawn.append(Row())
        drawn.append(Row(group=group, jobs=count))
        if airy:
            drawn.append(Row())
        for _ in range(count):
            drawn += [Row(job=job), Row(job=job, second=True)]
            if airy:
                drawn.append(Row())
            job += 1
    rows = Rows(snapshot, airy)
    assert list(rows) == drawn
    assert rows[1:4] == drawn[1:4]
    assert [rows.of_job(number) for number in range(job)] == [drawn.index(Row(job=number)) for number in range(job)]
    with pytest.raises(IndexError):
        rows[len(drawn)]


@pytest.fixture
def may_open(monkeypatch):
    """A shop that is opened only when this is set: what is seen before is the first look."""
    event, really_open = threading.Event(), AfterCheckApp.look_for_shop

    def slowly(app):
        assert event.wait(30)
        return really_open(app)

    monkeypatch.setattr(AfterCheckApp, "look_for_shop", slowly)
    return event


@pytest.mark.parametrize(("key", "screen"), [("enter", "JobSheetScreen"), ("n", "JobEditorScreen"), ("r", "BatchScreen")])
async def test_a_key_that_comes_before_the_shop_is_open_waits_for_it(shop_path, may_open, key, screen):
    """The first look shows the jobs at once; opening the shop takes its time, and the key is not lost."""

    shop_path.parent.mkdir(parents=True)
    shop_path.write_bytes(filled_demo())
    app = AfterCheckApp(shop_path)
    async with app.run_test(size=(128, 40)) as pilot:
        await until(pilot, lambda: "Sonogram desk" in shown(app))
        await pilot.press(key)
        assert type(app.screen).__name__ == "BenchScreen"
        may_open.set()
        await until(pilot, lambda: type(app.screen).__name__ == screen)


@given(letters=st.text("123 dekquilmo", max_size=12), jobs=st.lists(st.text("123 dekquilmo", max_size=20), max_size=12))
def test_a_search_letter_by_letter_finds_what_the_whole_search_finds(letters, jobs):
    """Also where it is empty, ends in a blank, or found nothing on the bench and looked into the archive."""
    turns = list(WaitsFor)
    groups = grouped(BenchEntry(str(at), turns[at % len(turns)], words, "") for at, words in enumerate(jobs))
    found = None
    for end in range(len(letters) + 1):
        found = snapshot_of(groups, letters[:end], before=found)
        assert found == snapshot_of(groups, letters[:end])


async def test_a_first_look_begins_at_the_top_and_what_it_did_not_read_comes_in_its_place(shop_path, may_open):
    shop = Shop.open(shop_path)
    for number in range(70):
        shop.jobs.add(JobFacts(f"{number:04d}", f"Desk number {number}"))
    shop.close()

    app = AfterCheckApp(shop_path)
    async with app.run_test(size=(128, 40)) as pilot:
        await until(pilot, lambda: "waits for you 70" in shown(app))
        jobs = app.screen.query_one(BenchList)
        assert jobs.chosen.number != NOT_READ_YET
        await pilot.press("end")
        await until(pilot, lambda: "…" in shown(app))
        await pilot.press("enter")
        may_open.set()
        await until(pilot, lambda: type(app.screen).__name__ == "JobSheetScreen" or jobs.chosen.number != NOT_READ_YET)
        await until(pilot, lambda: app.screen_stack and jobs.chosen.number == app.shop.jobs.entries()[-1].number)


def test_counts_follow_a_search_and_nothing_is_counted_in_an_empty_shop():
    groups = grouped(ENTRIES)
    every = snapshot_of(groups, "")
    you = len(dict(every.groups).get(WaitsFor.YOU, ()))
    assert f"{you} for you" in counts_text(every).plain
    nothing = snapshot_of(groups, "no such words at all")
    assert f"0 of {you} for you" in counts_text(nothing).plain
    assert counts_text(snapshot_of(grouped(()), "")).plain == ""
