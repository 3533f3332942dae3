"""The sheet: one page, real text, the customer's words; drawings as vectors."""

from __future__ import annotations

import csv
import io
import re
import xml.etree.ElementTree as ElementTree
from dataclasses import replace
from datetime import timedelta

import pypdf
import pytest

from after_check.casework.same_machine import known_by
from after_check.domain.handback import HandBack, Override
from after_check.domain.identity import MachineIdentity
from after_check.domain.jobs import JobFacts, Moment
from after_check.domain.soak import SoakRecord, SoakState
from after_check.files.whole_files import write_whole
from after_check.handback.content import Look, content_of, look_of
from after_check.handback.csv_tables import as_cell, export_csv
from after_check.handback.export import export_pdf, export_svg
from after_check.handback.missing import missing
from after_check.handback.palette import printable
from after_check.handback.sheet import sheet_pdf
from after_check.judgement.version import judged_by
from after_check.local.settings import load_settings
from after_check.sources.open_source import take_notation

JARGON = re.compile(r"\b(XMP|SPD|CRC|JEDEC|rank|dual channel|tCK|MT/s profile)\b", re.IGNORECASE)


def text_of(pdf: bytes) -> str:
    """The customer's page as text."""
    return " ".join(pypdf.PdfReader(io.BytesIO(pdf)).pages[0].extract_text().split())


def record_of(pdf: bytes) -> str:
    """The record behind it as text."""
    return " ".join(" ".join(page.extract_text().split()) for page in pypdf.PdfReader(io.BytesIO(pdf)).pages[1:])


def test_the_sheet_of_a_job_that_is_not_ready(demo_shop):
    content = content_of(demo_shop.jobs.job("0417"))
    pdf = sheet_pdf(content)
    text = text_of(pdf)
    for part in ("Sonogram desk", "job 0417", "Skarrow Head Bird Observatory", "Not ready yet", "48 GiB of memory in 2 modules"):
        assert part in text
    assert "6400 million transfers a second" in text
    assert "4800 of 6400 MT/s" in text
    assert "Still to fix" in text
    assert "No memory test was run" in text
    assert not JARGON.search(text)
    reader = pypdf.PdfReader(io.BytesIO(pdf))
    assert reader.metadata is not None
    assert reader.metadata.title == "Job 0417: Sonogram desk"
    assert reader.outline


def test_the_sheet_of_a_ready_job_tells_what_the_customer_should_know(demo_shop):
    text = text_of(sheet_pdf(content_of(demo_shop.jobs.job("0420"))))
    assert "As promised, not tested: what was promised is there; the memory was not tested." in " ".join(text.split())
    assert "8 GiB on two channels, 12 GiB on one channel" in text
    assert "Still to fix" not in text


def test_a_job_without_any_reading_has_a_sheet_that_says_so(shop):
    text = text_of(sheet_pdf(content_of(shop.jobs.add(JobFacts("0001", "Empty")))))
    assert "Not checked yet" in text
    assert "not read" in text


def test_outside_text_is_no_markup_and_many_slots_stay_on_one_page(shop):
    slots = "; ".join(f"{letter}{number}=8G part <b>{letter}&{number}" for letter in "ABCDEFGH" for number in (1, 2))
    facts = JobFacts("0002", "<b>Bold</b> & [red]", "\u0645\u062d\u0637\u0629 Łódź", "x" * 190, "16x8G; channels 8")
    text = text_of(sheet_pdf(content_of(shop.jobs.add(facts, ((Moment.FITTED, take_notation(slots)),)))))
    assert "<b>Bold</b> & [red]" in text
    assert "Łódź" in text
    assert len(pypdf.PdfReader(io.BytesIO(sheet_pdf(content_of(shop.jobs.job("0002")), with_record=False))).pages) == 1


def test_letters_that_the_type_lacks_lose_their_marks_and_not_themselves():
    assert printable("naïve €5 – ő Łódź Ωμέγα Мир") == "naïve €5 – ő Łódź Ωμέγα Мир"
    assert printable("漢") == "?"


def test_drawings_are_vectors_with_text(demo_shop, tmp_path):
    written = export_svg(demo_shop.jobs.job("0417"), tmp_path / "drawings")
    assert sorted(path.name for path in written) == [
        *("board-arrival.pdf", "board-arrival.svg", "board-now.pdf", "board-now.svg"),
        *("ceilings.pdf", "ceilings.svg", "tracks.pdf", "tracks.svg"),
    ]
    root = ElementTree.fromstring((tmp_path / "drawings" / "tracks.svg").read_text())
    texts = " ".join("".join(node.itertext()) for node in root.iter() if node.tag.endswith("text"))
    assert "Memory size" in texts
    assert "4800 of 6400 MT/s" in texts
    assert not list(root.iter("{http://www.w3.org/2000/svg}image"))
    assert (tmp_path / "drawings" / "tracks.pdf").read_bytes().startswith(b"%PDF")


def test_a_sheet_replaces_an_old_one_whole_or_not_at_all(demo_shop, tmp_path):
    path = tmp_path / "sheet.pdf"
    path.write_bytes(b"old " + demo_shop.jobs.job("0417").uid.encode())
    export_pdf(demo_shop.jobs.job("0417"), path)
    assert path.read_bytes().startswith(b"%PDF")
    with pytest.raises(FileNotFoundError):
        write_whole(tmp_path / "missing" / "sheet.pdf", b"new")
    assert [entry.name for entry in tmp_path.iterdir() if entry.name.startswith(".")] == []


def test_the_record_has_what_the_page_leaves_out(demo_shop):
    pdf = sheet_pdf(content_of(demo_shop.jobs.job("0425")))
    record = record_of(pdf)
    for part in ("0B00B2", "soak.errors", "It is module b", "the errors moved with module b", "29.6 GiB", "SHA-256"):
        assert part in record
    digest = demo_shop.jobs.job("0425").readings[0].reading.evidence[0].sha256
    assert digest in record.replace(" ", "")
    titles = [one.title for part in pypdf.PdfReader(io.BytesIO(pdf)).outline for one in (part if isinstance(part, list) else [part])]
    assert titles[0] == "Job 0425: Radio desk"
    assert {"Modules", "What was tried", "Findings"} <= set(titles)


def test_paper_colour_and_the_shops_own_name(demo_shop, tmp_path):
    settings = tmp_path / "settings.toml"
    settings.write_text(
        'shop_name = "Skarrow Bench"\nshop_words = "Harbour 3, Skarrow"\nshop_mark = "mark.png"\npaper = "Letter"\ncolour = false\n'
    )
    look = look_of(load_settings(settings))
    pdf = sheet_pdf(content_of(demo_shop.jobs.job("0418")), look)  # The mark is not there: the sheet is set without it.
    reader = pypdf.PdfReader(io.BytesIO(pdf))
    assert (float(reader.pages[0].mediabox.width), float(reader.pages[0].mediabox.height)) == (612.0, 792.0)
    assert "Skarrow Bench" in text_of(pdf)
    for page in reader.pages:
        for red, green, blue in re.findall(rb"([\d.]+) ([\d.]+) ([\d.]+) (?:rg|RG)", page.get_contents().get_data()):
            assert red == green == blue
    coloured = sheet_pdf(content_of(demo_shop.jobs.job("0418")), Look())
    found = re.findall(rb"([\d.]+) ([\d.]+) ([\d.]+) rg", pypdf.PdfReader(io.BytesIO(coloured)).pages[0].get_contents().get_data())
    assert any(red != green for red, green, _ in found)


def test_what_is_agreed_and_what_to_consider_are_told(demo_shop):
    job = demo_shop.jobs.job("0423")
    accepted = demo_shop.signing.keep_hand_back(
        job, HandBack("kept at the shop", overrides=(Override("rate.locked", "agreed on the phone"),))
    )
    changed = demo_shop.signing.change_promise(accepted, "2x16G DDR4-3733; dual; run 2400", "this machine is locked")
    text = text_of(sheet_pdf(content_of(changed)))
    assert "Changed in agreement with you: this machine is locked" in text
    assert "Before: 32 GiB of memory in 2 modules" in text
    assert "kept at the shop" in text
    # One module of 8 GiB in a machine with a free slot: a second, matching one opens the second path.
    single = demo_shop.jobs.add(
        JobFacts("0900", "Single", "Larkfield S1", "", "1x8G DDR4-2400"),
        ((Moment.FITTED, take_notation("DIMM 0=8G DDR4-2400 sodimm; DIMM 1=-; run 2400")),),
    )
    assert "A second, matching module of 8 GiB" in text_of(sheet_pdf(content_of(single)))
    locked = demo_shop.jobs.job("0427")
    assert any("no speed" in gap.words for gap in missing(content_of(locked)))


@pytest.mark.parametrize(
    "text",
    [
        *("=1+1", "+cmd", "-2+3", "@SUM(A1)", "\t=1", "|x", "%x"),
        *(" =1+1", "\n=1", "\u00a0=1", "\u200b=1", "\ufeff=1", "\uff1d1+1", "\uff0b1", "\uff0d1", "\uff20x"),
    ],
)
def test_no_cell_is_a_formula(text):
    assert as_cell(text) == f"'{text}"
    assert (as_cell(-5), as_cell(2.5), as_cell(None), as_cell("A2=x")) == ("-5", "2.5", "", "A2=x")


def test_tables_are_read_back_as_they_were(demo_shop, tmp_path):
    shop_job = demo_shop.jobs.add(
        JobFacts("0901", "Formula"), ((Moment.FITTED, take_notation('A2=8G maker "=HYPERLINK(1)" serial "+1"; B2=-; run 2400')),)
    )
    written = export_csv(shop_job, tmp_path)
    assert {path.name for path in written} >= {"modules.csv", "promise.csv", "findings.csv"}
    rows = list(csv.reader((tmp_path / "modules.csv").read_text(encoding="utf-8-sig").splitlines()))
    assert rows[1][5] == "'=HYPERLINK(1)"
    assert rows[1][7] == "'+1"
    assert rows[1][2] == str(8 << 30)


def test_what_a_shop_asks_for_is_read_and_judges_again(tmp_path):
    path = tmp_path / "settings.toml"
    path.write_text("[ready]\nsoak_minutes = 60\nsoak_passes = 4\nsoak_percent = 90\n")
    settings = load_settings(path)
    assert (settings.ready, settings.problems) == ((60, 4, 90), ())
    path.write_text('[ready]\nsoak_minutes = "long"\nsoak_percent = 101\nwish = 1\n')
    assert [problem.partition(": ")[2] for problem in load_settings(path).problems] == [
        "[ready] takes soak_minutes, soak_passes and soak_percent",
        "soak_minutes is a whole number from 0 to 9999",
        "soak_percent is a whole number from 0 to 100",
    ]
    # One number for rules and needs: lines that were judged by others are worked out again.
    assert len({judged_by(), judged_by(60, 0, 0), judged_by(0, 60, 0), judged_by(0, 0, 60), judged_by(60, 60, 60)}) == 5
    assert judged_by(9_999, 9_999, 100) < 2**31


def test_settings_that_make_no_sense_are_named(tmp_path):
    file = tmp_path / "settings.toml"
    file.write_text('paper = "A9"\ncolour = "yes"\nsoak_memory = "lots"\nfont = "x"\nshop_name = 5\n')
    found = load_settings(file)
    assert (found.paper, found.colour, found.shop_name) == ("A4", True, "")
    said = " ".join(found.problems)
    for part in ("paper is 'A9'", "colour is true or false", "soak_memory is 'lots'", "font is no setting", "shop_name is no text"):
        assert part in said
    file.write_text("paper = [")
    assert "no TOML" in load_settings(file).problems[0]


def test_the_record_says_by_what_the_machine_of_a_test_was_known(demo_shop):
    number = "0417"
    job = demo_shop.jobs.job(number)
    here = job.now.reading.identity
    record = SoakRecord("short", SoakState.FINISHED, job.now.taken_at + timedelta(hours=1), 900.0, ("step",), 1, 1, machine=here)
    demo_shop.jobs.keep_soak(number, record)
    said = record_of(sheet_pdf(content_of(demo_shop.jobs.job(number))))
    by = known_by(demo_shop.jobs.job(number), record)
    assert ("is known: " in said) is bool(by)
    asked = replace(record, begun_at=record.begun_at + timedelta(hours=1), machine=MachineIdentity(is_the_jobs=True))
    demo_shop.jobs.keep_soak(number, asked)
    assert "ran on this machine is known: a person said so" in record_of(sheet_pdf(content_of(demo_shop.jobs.job(number))))
