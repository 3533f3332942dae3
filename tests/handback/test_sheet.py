"""The sheet: one page, real text, the customer's words; drawings as vectors."""

from __future__ import annotations

import io
import re
import xml.etree.ElementTree as ElementTree

import pypdf
import pytest

from after_check.domain.jobs import JobFacts, Moment
from after_check.handback.export import content_of, export_pdf, export_svg
from after_check.handback.files import write_whole
from after_check.handback.palette import printable
from after_check.handback.sheet import sheet_pdf
from after_check.shop import demo
from after_check.sources.take import take_notation

JARGON = re.compile(r"\b(XMP|SPD|CRC|JEDEC|rank|dual channel|tCK|MT/s profile)\b", re.IGNORECASE)


def text_of(pdf: bytes) -> str:
    reader = pypdf.PdfReader(io.BytesIO(pdf))
    assert len(reader.pages) == 1
    return " ".join(reader.pages[0].extract_text().split())


@pytest.fixture
def demo_shop(shop):
    demo.fill(shop)
    return shop


def test_the_sheet_of_a_job_that_is_not_ready(demo_shop):
    content = content_of(demo_shop.job("0417"))
    pdf = sheet_pdf(content)
    text = text_of(pdf)
    for part in ("Sonogram desk", "job 0417", "Skarrow Head Bird Observatory", "Not ready yet", "48 GiB of memory in 2 modules"):
        assert part in text
    assert "6400 million transfers a second" in text
    assert "4800 of 6400 MT/s" in text
    assert "Still to be mended" in text
    assert "No memory test was run" in text
    assert not JARGON.search(text)
    reader = pypdf.PdfReader(io.BytesIO(pdf))
    assert reader.metadata is not None
    assert reader.metadata.title == "Job 0417: Sonogram desk"
    assert reader.outline


def test_the_sheet_of_a_ready_job_tells_what_the_customer_should_know(demo_shop):
    text = text_of(sheet_pdf(content_of(demo_shop.job("0420"))))
    assert "Ready: what was promised is there." in text
    assert "8 GiB on two channels, 12 GiB on one channel" in text
    assert "Still to be mended" not in text


def test_a_job_without_any_reading_has_a_sheet_that_says_so(shop):
    text = text_of(sheet_pdf(content_of(shop.add_job(JobFacts("0001", "Empty")))))
    assert "Not decided yet" in text
    assert "not read" in text


def test_outside_text_is_no_markup_and_many_slots_stay_on_one_page(shop):
    slots = "; ".join(f"{letter}{number}=8G part <b>{letter}&{number}" for letter in "ABCDEFGH" for number in (1, 2))
    facts = JobFacts("0002", "<b>Bold</b> & [red]", "\u0645\u062d\u0637\u0629 Łódź", "x" * 190, "16x8G; channels 8")
    text = text_of(sheet_pdf(content_of(shop.add_job(facts, ((Moment.FITTED, take_notation(slots)),)))))
    assert "<b>Bold</b> & [red]" in text
    assert "Lódz" in text or "Lodz" in text or "?ódz" in text


def test_letters_that_the_type_lacks_lose_their_marks_and_not_themselves():
    assert printable("naïve €5 – ő") == "naïve €5 – o"
    assert printable("漢") == "?"


def test_drawings_are_vectors_with_text(demo_shop, tmp_path):
    written = export_svg(demo_shop.job("0417"), tmp_path / "drawings")
    assert sorted(path.name for path in written) == [
        *("board-arrival.pdf", "board-arrival.svg", "board-now.pdf", "board-now.svg", "tracks.pdf", "tracks.svg"),
    ]
    root = ElementTree.fromstring((tmp_path / "drawings" / "tracks.svg").read_text())
    texts = " ".join("".join(node.itertext()) for node in root.iter() if node.tag.endswith("text"))
    assert "Amount of memory" in texts
    assert "4800 of 6400 MT/s" in texts
    assert not list(root.iter("{http://www.w3.org/2000/svg}image"))
    assert (tmp_path / "drawings" / "tracks.pdf").read_bytes().startswith(b"%PDF")


def test_a_sheet_replaces_an_old_one_whole_or_not_at_all(demo_shop, tmp_path):
    path = tmp_path / "sheet.pdf"
    path.write_bytes(b"old")
    export_pdf(demo_shop.job("0417"), path)
    assert path.read_bytes().startswith(b"%PDF")
    with pytest.raises(FileNotFoundError):
        write_whole(tmp_path / "missing" / "sheet.pdf", b"new")
    assert [entry.name for entry in tmp_path.iterdir() if entry.name.startswith(".")] == []
