"""Telling the generation of an SPD image and decoding it. Byte 2 names the generation in all documents."""

from __future__ import annotations

from dataclasses import replace

from after_check.domain.modules import Form, Generation
from after_check.standards.spd.ddr2 import decode_ddr2
from after_check.standards.spd.ddr3 import decode_ddr3
from after_check.standards.spd.ddr4 import decode_ddr4
from after_check.standards.spd.ddr5 import decode_ddr5
from after_check.standards.spd.image import Image, SpdModule, crc16

KEY_BYTE = 2

_DECODERS = {
    0x08: (decode_ddr2, 128),
    0x0B: (decode_ddr3, 256),
    0x0C: (decode_ddr4, 512),
    0x0E: (decode_ddr4, 512),
    0x12: (decode_ddr5, 1024),
    0x14: (decode_ddr5, 1024),
}
"""Key byte: decoder, and the length of a whole image in bytes."""

_SOLDERED = {
    0x0F: Generation.LPDDR3,
    0x10: Generation.LPDDR4,
    0x11: Generation.LPDDR4X,
    0x13: Generation.LPDDR5,
    0x15: Generation.LPDDR5X,
}
_MOST_BYTES = 4096


def decode(data: bytes) -> SpdModule | None:
    """Decode an image of any length and content; None where byte 2 names no generation that is known.

    What is wrong with the image is in `problems`; what can still be told is there.
    """
    image = Image(data[:_MOST_BYTES])
    key = image.byte(KEY_BYTE)
    if key in _DECODERS:
        decoder, whole = _DECODERS[key]
        if len(data) < whole:
            image.problems.append(f"the image has {len(data)} of {whole} bytes")
        module = decoder(image)
    elif key in _SOLDERED:
        module = _decode_soldered(image, _SOLDERED[key])
    else:
        return None
    return replace(module, problems=tuple(image.problems))


def _decode_soldered(image: Image, generation: Generation) -> SpdModule:
    """LPDDR is soldered; its images keep the identity where DDR4's or, from LPDDR5 on, DDR5's do."""
    new = generation in (Generation.LPDDR5, Generation.LPDDR5X)
    if new:
        sound = image.word(510) is not None and crc16(image.data[:510]) == image.word(510)
    else:
        sound = image.word(126) is not None and crc16(image.data[:126]) == image.word(126)
    if not sound:
        image.problems.append("the CRC of the base section is wrong")
    return SpdModule(
        generation=generation,
        form=Form.SOLDERED,
        maker=image.maker(512 if new else 320, "maker"),
        part=image.text(521, 30) if new else image.text(329, 20),
        serial=image.serial(517 if new else 325),
        made=image.week(515, 516) if new else image.week(323, 324),
        base_sound=sound,
    )


def looks_like_spd(data: bytes) -> bool:
    """Return whether a file is an SPD image: a known key byte, a usual length, and a check sum or text that fits."""
    if len(data) not in (128, 256, 512, 1024, 2048):
        return False
    module = decode(data)
    return module is not None and (module.base_sound or bool(module.part) or module.size_bytes is not None)
