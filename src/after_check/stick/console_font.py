"""The letters of the console: a font of 256 characters with every sign that the screens draw, as the kernel's console takes it.

The format is PSF 2 (the kbd project's `psf.h`): a header of 32 bytes, one bit for each point of each character, then
which character of Unicode each one is.
"""

from __future__ import annotations

import struct
from pathlib import Path

from PIL import Image, ImageDraw, ImageFont

SIZES = ((8, 16), (10, 20), (12, 24), (16, 32))
"""Width and height of a character in points."""
_MAGIC, _HEADER_BYTES, _HAS_UNICODE_TABLE, _END = 0x864AB572, 32, 1, 0xFF
_MOST = 256
"""A font of more characters takes a bit away from the colours."""
_LEVEL = 110
_OF_THE_TOOLKIT = "⏎"
"""What is drawn for keys by their names."""
_BARS = {"█": (0, 8), "▇": (0, 7), "▆": (0, 6), "▅": (0, 5), "▄": (0, 4), "▃": (0, 3), "▂": (0, 2), "▁": (0, 1)}


def signs_of(folder: Path) -> str:
    """Return the characters that a program's files draw, ASCII and the western letters before all others."""
    found = {chr(code) for code in (*range(0x20, 0x7F), *range(0xA0, 0x100))}
    others = set(_OF_THE_TOOLKIT)
    for file in sorted(folder.rglob("*.py")):
        if "language" in file.relative_to(folder).parts:
            continue  # Signs that people type are read there, none is drawn.
        others |= {sign for sign in file.read_text(encoding="utf-8") if ord(sign) > 0xFF}
    return "".join((*sorted(found), *sorted(others)))


def console_font(signs: str, font_file: Path, width: int, height: int) -> bytes:
    """Return a console font. Raises ValueError where there are more signs than it holds, OSError for a damaged font file."""
    if len(signs) > _MOST:
        raise ValueError(f"{len(signs)} signs are more than the {_MOST} that a console font holds")
    font = ImageFont.truetype(str(font_file), _points(font_file, width, height))
    ascent, descent = font.getmetrics()
    top = (height - ascent - descent) // 2
    ordered = in_places(signs)
    glyphs = b"".join(_glyph(sign, font, width, height, top) for sign in ordered)
    table = b"".join(sign.encode() + bytes([_END]) for sign in ordered)
    row_bytes = (width + 7) // 8
    header = struct.pack("<8I", _MAGIC, 0, _HEADER_BYTES, _HAS_UNICODE_TABLE, _MOST, row_bytes * height, height, width)
    return header + glyphs + table


def in_places(signs: str) -> list[str]:
    """Return a character for each place of the font: ASCII at its own number, as the kernel writes blanks by theirs."""
    places = [""] * _MOST
    others = iter([sign for sign in signs if not 0x20 <= ord(sign) < 0x7F])
    for place in range(_MOST):
        places[place] = chr(place) if 0x20 <= place < 0x7F else next(others, "")
    return places


def _points(font_file: Path, width: int, height: int) -> int:
    """Return the largest size whose letters fit."""
    for size in range(height, 6, -1):
        font = ImageFont.truetype(str(font_file), size)
        if font.getlength("M") <= width + 0.3 and sum(font.getmetrics()) <= height + 2:
            return size
    return 7


def _glyph(sign: str, font: ImageFont.FreeTypeFont, width: int, height: int, top: int) -> bytes:
    image = Image.new("L", (width, height))
    draw = ImageDraw.Draw(image)
    if not sign:
        return bytes((width + 7) // 8 * height)
    if sign in _BARS:  # Bars and lines have to meet those of the next cell, whatever the font leaves between.
        filled = height * _BARS[sign][1] // 8
        draw.rectangle((0, height - filled, width, height), fill=255)
    elif sign in "─━":
        draw.rectangle((0, height // 2 - (sign == "━"), width, height // 2), fill=255)
    elif sign in "│┊":
        draw.rectangle((width // 2, 0, width // 2, height), fill=255)
    else:
        draw.text((round((width - font.getlength(sign)) / 2), top), sign, fill=255, font=font)
    points, data = image.tobytes(), bytearray()
    for y in range(height):
        bits = 0
        for x in range(width):
            bits = bits << 1 | (points[y * width + x] >= _LEVEL)
        data += (bits << (-width % 8)).to_bytes((width + 7) // 8, "big")
    return bytes(data)
