"""A reading off a photo of a sticker or of a firmware page: its text by Tesseract, the optical reader, then as anything that is typed.

What is recognised is no proof: every line of it is beside what was understood, for whoever looks at the picture.
"""

from __future__ import annotations

import io
import shutil
import subprocess
import tempfile
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

import numpy as np
from PIL import Image, ImageChops, ImageFilter, ImageOps

from after_check.domain.outside_text import clean
from after_check.domain.readings import Notice, NoticeKind
from after_check.files.errors import SourceError
from after_check.language.typed_text import Said, said
from after_check.sources.evidence import PHOTO, RawEvidence, Taken, with_evidence

READER = "tesseract"
_MOST_PIXELS = 40_000_000
"""A picture of three colours takes 120 MB then, and as much again while it is made grey."""
_LONGEST_PHOTO_SIDE = 30_000
_LONGEST_SIDE = 2400
"""Pixels: letters of a firmware page are then about as high as the reader was taught with."""
_DARK = 110
_MOST_TURNED_DEGREES = 8
_READER_SECONDS = 60
_MOST_LINES = 80


def text_of_photo(data: bytes, where: str) -> str:
    """Return the lines of text in a picture. Raises SourceError where it is no picture, or the optical reader is not there."""
    reader = shutil.which(READER)
    if reader is None:
        help = "install it (Debian: apt install tesseract-ocr), or type what the picture shows"
        raise SourceError("is a photo, and the optical reader (Tesseract) is not installed", where, help)
    with tempfile.TemporaryDirectory() as folder:
        prepared = Path(folder) / "photo.png"
        _prepared(data, where).save(prepared)
        try:
            # One block of text, in lines; the languages of the trade share their figures and most of their words.
            done = subprocess.run(
                [reader, str(prepared), "stdout", "--psm", "6", "-l", "eng"], capture_output=True, timeout=_READER_SECONDS, check=False
            )
        except subprocess.TimeoutExpired:
            raise SourceError("could not be read in a minute", where, "take the photo nearer, with less around it") from None
    if done.returncode:
        raise SourceError("the optical reader failed", where, clean(done.stderr.decode("utf-8", "replace"), 200) or "try another photo")
    lines = [clean(line, 200) for line in done.stdout.decode("utf-8", "replace").splitlines()]
    return "\n".join([line for line in lines if line][:_MOST_LINES])


def take_photo(data: bytes, where: str) -> Taken:
    """Take what is certain of a photo as a reading; its lines are told, and the picture is kept. Raises SourceError."""
    text = text_of_photo(data, where)
    found = said(text)
    if not found.notation:
        help = "take it straight on, near, and evenly lit; or type what it shows"
        raise SourceError("nothing of the machine's memory was recognised in this photo", where, help)
    reading = replace(
        found.reading,
        notices=(*found.reading.notices, *_notices(found)),
        origin=f"photo {where}",
        taken_at=datetime.now(UTC).replace(microsecond=0),
    )
    return with_evidence(reading, (RawEvidence(PHOTO, data), RawEvidence(f"{PHOTO}, recognised", text.encode())))


def _notices(found: Said) -> tuple[Notice, ...]:
    """Say each recognised line with what it was understood as, what is asked, and that a person has to look."""
    told = [Notice(NoticeKind.REMARK, "read off a photo", "photo", "compare it with the picture before it counts")]
    for line in found.text.splitlines():
        understood = said(line).notation
        told.append(Notice(NoticeKind.REMARK, f"recognised: {line}", f"understood: {understood}" if understood else "nothing understood"))
    told += [Notice(NoticeKind.REMARK, ask.question, "photo", "type the answer") for ask in found.asks]
    return tuple(told)


def _prepared(data: bytes, where: str) -> Image.Image:
    """Return a picture as the optical reader likes it: upright, evenly lit, dark letters on light, of a usual size."""
    try:
        opened = Image.open(io.BytesIO(data))
        if max(opened.size) > _LONGEST_PHOTO_SIDE:
            raise SourceError(f"has {opened.width} × {opened.height} pixels: that is the form of no photo", where, "cut out what matters")
        opened.draft("L", (_LONGEST_SIDE, _LONGEST_SIDE))  # A JPEG is opened smaller at once, and in grey.
        if opened.width * opened.height > _MOST_PIXELS:
            raise SourceError(f"has {opened.width} × {opened.height} pixels, more than any photo", where, "make it smaller")
        picture = ImageOps.exif_transpose(opened).convert("L")
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError) as error:
        raise SourceError(f"is no picture, or a damaged one ({clean(str(error), 80)})", where, "copy it again") from None
    scale = _LONGEST_SIDE / max(picture.size)
    size = (max(1, round(picture.width * scale)), max(1, round(picture.height * scale)))
    picture = picture.resize(size, Image.Resampling.LANCZOS)
    if float(np.asarray(picture).mean()) < _DARK:
        picture = ImageOps.invert(picture)
    # What changes slowly is light, and what changes quickly is letters.
    light = picture.filter(ImageFilter.GaussianBlur(_LONGEST_SIDE / 40))
    picture = ImageOps.autocontrast(ImageChops.invert(ImageChops.subtract(light, picture)), cutoff=1)
    return _upright(picture)


def _upright(picture: Image.Image) -> Image.Image:
    """Turn a picture so that its lines lie level: then rows with letters and rows without differ the most."""
    small = picture.resize((max(1, picture.width // 4), max(1, picture.height // 4)))

    def levelness(degrees: float) -> float:
        rows = np.asarray(small.rotate(degrees, fillcolor=255), dtype=np.float64).sum(axis=1)
        return float(np.square(np.diff(rows)).sum())

    best = max(np.arange(-_MOST_TURNED_DEGREES, _MOST_TURNED_DEGREES + 0.1, 0.5), key=lambda degrees: levelness(float(degrees)))
    return picture.rotate(float(best), fillcolor=255, expand=True) if abs(best) >= 0.5 else picture
