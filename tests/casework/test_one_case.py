"""One function makes a case of a job: what is typed is judged as it will be once it is kept."""

from __future__ import annotations

import pytest
from textual.widgets import Input

from after_check.casework import judging
from after_check.casework.judging import case_file_of, judge_job, with_reading
from after_check.casework.snapshot import take_snapshot
from after_check.domain.case_files import Needs
from after_check.domain.jobs import Moment
from after_check.domain.standing import Verdict
from after_check.handback.content import content_of
from after_check.handback.sheet import sheet_pdf
from after_check.language.short_form import write
from after_check.shop.demo import demo_numbers
from after_check.shop.shop import Shop
from after_check.sources.open_source import take_notation
from after_check.tui.screens.job_sheet import JobSheetScreen
from after_check.tui.screens.reading import ReadingScreen
from after_check.tui.widgets.verdict_preview import VerdictPreview
from tests.helpers.demo import put_demo
from tests.helpers.jobs import keep
from tests.helpers.pilot import open_job, running, until


@pytest.fixture(scope="module")
def demo(tmp_path_factory):
    shop = Shop.open(put_demo(tmp_path_factory.mktemp("demo") / "demo.db"), needs=Needs())
    yield shop
    shop.close()


@pytest.mark.parametrize("number", sorted(demo_numbers()))
def test_a_typed_reading_is_judged_as_it_will_be_kept(demo, number):
    before = demo.jobs.job(number)
    if before.frozen or before.now is None:
        pytest.skip("nothing can be added to it")
    taken = take_notation(write(before.now.reading))
    preview = judge_job(with_reading(before, taken.reading, before.changed_at))
    kept = judge_job(demo.jobs.add_reading(number, Moment.FITTED, taken))
    assert preview.verdict is kept.verdict
    assert [finding.code for finding in preview.findings] == [finding.code for finding in kept.findings]


@pytest.mark.parametrize("number", ["0425", "0428", "0429"])
async def test_the_preview_knows_tests_and_tries(shop_path, number):
    async with running(shop_path) as (app, pilot):
        line = write(app.shop.jobs.job(number).now.reading)
        await open_job(app, pilot, number)
        await pilot.press("r")
        await until(pilot, lambda: isinstance(app.screen, ReadingScreen))
        app.screen.query_one(Input).value = line
        preview = app.screen.query_one(VerdictPreview)
        await until(pilot, lambda: preview.judgement is not None)
        shown = preview.judgement.verdict
        await pilot.press("enter")
        await until(pilot, lambda: isinstance(app.screen, JobSheetScreen) and len(app.screen.snapshot.job.readings) > 1)
        assert shown is app.screen.snapshot.judgement.verdict
        assert shown is Verdict.NOT_READY


def test_a_job_is_judged_once_for_line_screen_and_sheet(shop, monkeypatch):
    seen = []

    def counted(file, really=judging.judge):
        seen.append(file)
        return really(file)

    monkeypatch.setattr(judging, "judge", counted)
    job = keep(shop)
    take_snapshot(job)
    sheet_pdf(content_of(job))
    assert len(seen) == 1
    take_snapshot(shop.jobs.job("0501"))
    assert len(seen) == 2


def test_what_the_shop_asks_for_is_read_when_it_is_opened(shop_path, monkeypatch):
    shop = Shop.open(shop_path, needs=Needs(soak_minutes=60))
    monkeypatch.setattr("after_check.casework.needs.load_settings", lambda: pytest.fail("settings are not read while judging"))
    job = keep(shop)
    assert job.needs == Needs(soak_minutes=60)
    assert case_file_of(job).needs == Needs(soak_minutes=60)
    shop.close()
