"""Photos of made-up stickers and pages, drawn and then worn: turned a little, blurred, unevenly lit, taken off a screen."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
from PIL import Image, ImageDraw, ImageFilter, ImageFont

FONT = Path(__file__).parents[2] / "src" / "after_check" / "handback" / "fonts" / "DejaVuSansCondensed.ttf"

STICKER = (("16GB 2Rx8 PC4-3200AA-SE1-11", "Brackwater  BW4S-16G32", "1.2V"), "black", "white")
FIRMWARE_PAGE = (
    (
        "Total memory: 32768 MB",
        "Memory speed: 3200 MHz",
        "Channel mode: Dual channel",
        "Slot A2: 16384 MB DDR4-3200",
        "Slot B2: 16384 MB DDR4-3200",
        "Profile: disabled",
    ),
    (230, 230, 230),
    (20, 30, 90),
)
SYSTEM_PAGE = (("Installed memory: 16.0 GB (15.8 GB usable)", "Speed: 2667 MHz", "Slots used: 2 of 4"), "black", (245, 245, 245))
NOTHING = (("Open daily from nine to five", "Closed on Mondays"), "black", "white")

WEAR = {
    "clean": {"turned": 0.0, "blur": 0.0, "dim": 0.0, "screen": False},
    "turned": {"turned": 3.0, "blur": 0.8, "dim": 0.3, "screen": False},
    "dim": {"turned": -4.0, "blur": 1.2, "dim": 0.6, "screen": False},
    "off a screen": {"turned": 1.5, "blur": 1.0, "dim": 0.4, "screen": True},
}


def photo(page, turned=0.0, blur=0.0, dim=0.0, screen=False) -> bytes:
    """A JPEG of a page of lines in one colour on another."""
    lines, ink, ground = page
    font = ImageFont.truetype(str(FONT), 34)
    picture = Image.new("RGB", (1100, 80 + 52 * len(lines)), ground)
    draw = ImageDraw.Draw(picture)
    for number, line in enumerate(lines):
        draw.text((50, 40 + 52 * number), line, fill=ink, font=font)
    picture = picture.rotate(turned, expand=True, fillcolor=picture.getpixel((2, 2)), resample=Image.Resampling.BICUBIC)
    shades = np.asarray(picture.filter(ImageFilter.GaussianBlur(blur)), dtype=float)
    height, width = shades.shape[:2]
    shades *= np.linspace(1 - dim, 1, width)[None, :, None] * np.linspace(1, 1 - dim / 2, height)[:, None, None]
    if screen:
        shades *= (0.9 + 0.1 * np.sin(np.arange(height) * 2 * np.pi / 3))[:, None, None]
    shades += np.random.default_rng(1).normal(0, 6, shades.shape)
    stream = io.BytesIO()
    Image.fromarray(np.clip(shades, 0, 255).astype("uint8")).save(stream, "JPEG", quality=80)
    return stream.getvalue()
