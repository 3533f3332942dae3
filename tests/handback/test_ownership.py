"""A file of one job is never replaced by another's, whatever the name, the shop and the kind of file."""

from __future__ import annotations

import pytest

from after_check.domain.jobs import JobFacts, Moment
from after_check.files.whole_files import NotReplacedError
from after_check.handback.export import export_pdf, export_svg
from after_check.handback.ownership import check_owner, file_stem
from after_check.handback.slip import export_slip
from after_check.judgement.before_fitting import look_before_fitting
from after_check.shop.exchange import job_file
from after_check.shop.shop import Shop
from after_check.sources.open_source import take_notation
from after_check.tui.work.sheets import place_for, remember_place
from tests.helpers.commands import run


def shop_with_a_job(folder, name):
    """A new shop, whose first job has the number that every shop's first job has."""
    shop = Shop.open(folder / f"{name}.db")
    job = shop.jobs.add(JobFacts("0001", f"Desk of {name}", "Larkfield T2", name, "2x8G"))
    return shop, shop.jobs.add_reading(job.facts.number, Moment.FITTED, take_notation("2x8G DDR4-3200; run 3200"))


@pytest.fixture
def two(tmp_path):
    return shop_with_a_job(tmp_path, "one"), shop_with_a_job(tmp_path, "other")


WRITERS = {
    "sheet": lambda shop, job, path: export_pdf(job, path),
    "slip": lambda shop, job, path: export_slip(job, look_before_fitting(None, None, None), path),
}


@pytest.mark.parametrize("first", WRITERS)
@pytest.mark.parametrize("second", WRITERS)
def test_a_sheet_or_slip_of_another_job_is_not_replaced(two, tmp_path, first, second):
    path = tmp_path / "job-0001.pdf"
    WRITERS[first](*two[0], path)
    kept = path.read_bytes()
    with pytest.raises(NotReplacedError, match="not of this job"):
        WRITERS[second](*two[1], path)
    assert path.read_bytes() == kept
    WRITERS[second](*two[0], path)  # Its own job may write it again.


def test_a_file_of_something_else_is_not_replaced(two, tmp_path):
    path = tmp_path / "letter.pdf"
    path.write_bytes(b"%PDF-1.4 a letter")
    with pytest.raises(NotReplacedError):
        export_pdf(two[0][1], path)
    assert path.read_bytes() == b"%PDF-1.4 a letter"


def test_drawings_of_another_job_are_not_replaced(two, tmp_path):
    folder = tmp_path / "drawings"
    export_svg(two[0][1], folder)
    with pytest.raises(NotReplacedError):
        export_svg(two[1][1], folder)
    export_svg(two[0][1], folder)


def test_a_job_file_of_another_job_is_not_replaced(two, tmp_path):
    path = tmp_path / "job.zip"
    path.write_bytes(job_file(two[0][0], "0001"))
    check_owner(path, two[0][1].uid)
    with pytest.raises(NotReplacedError):
        check_owner(path, two[1][1].uid)


def test_the_command_does_not_replace_another_shops_sheet(two, tmp_path):
    path = tmp_path / "sheet.pdf"
    shops = [str(tmp_path / f"{name}.db") for name in ("one", "other")]
    for shop, _ in two:
        shop.close()
    assert run("handback", "0001", "--shop", shops[0], "--pdf", str(path)).returncode == 0
    kept = path.read_bytes()
    refused = run("handback", "0001", "--shop", shops[1], "--pdf", str(path))
    assert refused.returncode != 0
    assert "not of this job" in refused.stderr
    assert path.read_bytes() == kept


def test_each_shop_has_its_own_folder_and_a_name_says_job_machine_and_shop(two, tmp_path):
    (one, job), (other, _) = two
    remember_place(one, tmp_path / "sheets of one" / "x.pdf")
    assert place_for(one, job.facts, ".pdf").parent == tmp_path / "sheets of one"
    assert place_for(other, job.facts, ".pdf").parent != tmp_path / "sheets of one"
    assert file_stem(job.facts, "Skarrow Bench & Sons") == "job-0001-Larkfield-T2-Skarrow-Bench-Sons"
    assert file_stem(JobFacts("../1", "", "", ""), "") == "job-1"
    assert len(file_stem(JobFacts("0001", "", "x" * 500, ""), "y" * 500)) < 70
