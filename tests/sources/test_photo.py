"""Readings off photos, by the real optical reader: what the pages say was written by hand, and drawn."""

from __future__ import annotations

import io
import shutil

import pytest
from PIL import Image

from after_check.files.errors import SourceError
from after_check.language.short_form import write
from after_check.sources.open_source import take
from after_check.sources.photo import take_photo
from tests.helpers.commands import run_here
from tests.helpers.needs import needs
from tests.helpers.photos import FIRMWARE_PAGE, NOTHING, STICKER, SYSTEM_PAGE, WEAR, photo

GIB = 1 << 30

reader = needs(shutil.which("tesseract") is not None, "tesseract")


@reader
@pytest.mark.parametrize("wear", WEAR)
def test_a_firmware_page(wear):
    reading = take_photo(photo(FIRMWARE_PAGE, **WEAR[wear]), "page.jpg").reading
    assert [(slot.name, slot.module.size_bytes.value // GIB, slot.module.rated_mts.value) for slot in reading.slots] == [
        ("A2", 16, 3200),
        ("B2", 16, 3200),
    ]
    assert (reading.total_bytes.value, reading.channels.value, reading.profile.value) == (32 * GIB, 2, "off")


@reader
@pytest.mark.parametrize("wear", WEAR)
def test_a_sticker_and_what_a_system_shows(wear):
    module = take_photo(photo(STICKER, **WEAR[wear]), "sticker.jpg").reading.modules[0]
    found = (module.size_bytes.value, module.generation.value, module.rated_mts.value, module.ranks.value, module.form.value)
    assert found == (16 * GIB, "DDR4", 3200, 2, "SODIMM")
    shown = take_photo(photo(SYSTEM_PAGE, **WEAR[wear]), "system.jpg").reading
    assert (shown.total_bytes.value, round(shown.usable_bytes.value / GIB, 1), shown.slot_count.value) == (16 * GIB, 15.8, 4)


@reader
def test_each_line_is_told_with_what_was_understood_and_the_picture_is_kept(tmp_path):
    path = tmp_path / "page.jpg"
    path.write_bytes(photo(SYSTEM_PAGE))
    taken = take(str(path))
    assert [part.name for part in taken.evidence] == ["photo", "photo, recognised"]
    assert taken.evidence[0].data == path.read_bytes()
    told = [notice.what for notice in taken.reading.notices]
    assert told[0] == "read off a photo"
    assert "recognised: Slots used: 2 of 4" in told
    done = run_here("read", str(path))
    assert done.returncode == 0
    assert "recognised: Slots used: 2 of 4" in done.stdout
    # What is in a photo is no proof that anybody looked: nothing else is made of it.
    assert "total 16G" in write(taken.reading)


@reader
def test_a_photo_without_memory_and_a_damaged_one_are_sentences():
    with pytest.raises(SourceError, match="nothing of the machine's memory was recognised"):
        take_photo(photo(NOTHING), "door.jpg")
    with pytest.raises(SourceError, match="damaged"):
        take_photo(photo(STICKER)[:900], "cut.jpg")
    stream = io.BytesIO()
    Image.new("1", (20_000, 20_000)).save(stream, "PNG")
    with pytest.raises(SourceError, match=r"20000 × 20000 pixels|damaged"):
        take_photo(stream.getvalue(), "wall.png")


def test_without_the_optical_reader_it_says_what_to_install(monkeypatch):
    monkeypatch.setenv("PATH", "/nowhere")
    with pytest.raises(SourceError, match="optical reader") as caught:
        take_photo(photo(STICKER), "sticker.jpg")
    assert "tesseract-ocr" in caught.value.help
