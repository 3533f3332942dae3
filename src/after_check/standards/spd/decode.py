"""Telling the generation of an SPD image and decoding it. Byte 2 names the generation in all documents."""

from __future__ import annotations

from dataclasses import replace

from after_check.domain.modules import Form, Generation
from after_check.standards.spd.ddr2 import decode_ddr2
from after_check.standards.spd.ddr3 import decode_ddr3
from after_check.standards.spd.ddr4 import decode_ddr4
from after_check.standards.spd.ddr5 import decode_ddr5
from after_check.standards.spd.image import Image, SpdModule
from after_check.standards.spd.organisation import MBIT_BYTES

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
_COMPRESSION_ATTACHED = 0x8
_LP_DENSITIES_MBIT = {2: 1024, 3: 2048, 4: 4096, 5: 8192, 6: 16384, 7: 32768, 8: 12288, 9: 24576, 10: 3072, 11: 6144, 12: 18432}
_MOST_BYTES = 4096
_SHORTEST_BYTES = 32
_LENGTHS = (128, 256, 512, 1024, 2048)


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
    """LPDDR is soldered, or sits on a compression-attached module; its images keep the identity where DDR4's or DDR5's do.

    Sizes after JESD21-C section 4.1.2.M-2 and JESD406-5: a die's density is shared by its channels.
    """
    new = generation in (Generation.LPDDR5, Generation.LPDDR5X)
    sound = image.sound(510 if new else 126)
    return SpdModule(
        generation=generation,
        form=Form.CAMM if new and image.bits(3, 3, 0) == _COMPRESSION_ATTACHED else Form.SOLDERED,
        size_bytes=_lp_size_bytes(image),
        maker=image.maker(512 if new else 320, "maker"),
        part=image.text(521, 30) if new else image.text(329, 20),
        serial=image.serial(517 if new else 325),
        made=image.week(515, 516) if new else image.week(323, 324),
        base_sound=sound,
    )


def _lp_size_bytes(image: Image) -> int | None:
    """Return density / channels of a die / 8 × bus width / die width × package ranks × channels; None by reserved codes."""
    density = _LP_DENSITIES_MBIT.get(code) if (code := image.bits(4, 3, 0)) is not None else None
    per_die_code, width_code, ranks_code = image.bits(6, 3, 2), image.bits(12, 2, 0), image.bits(12, 5, 3)
    bus_code, channels_code = image.bits(13, 2, 0), image.bits(13, 7, 5)
    if density is None or None in (per_die_code, width_code, ranks_code, bus_code, channels_code):
        return None
    if (per_die_code or 0) > 2 or (width_code or 0) > 3 or (bus_code or 0) > 3 or (channels_code or 0) > 3:
        return None
    per_channel = density * MBIT_BYTES // (1 << (per_die_code or 0))
    width, bus, channels = 4 << (width_code or 0), 8 << (bus_code or 0), 1 << (channels_code or 0)
    return per_channel * (bus // width) * ((ranks_code or 0) + 1) * channels if bus >= width else None


def unreadable_spd(data: bytes) -> str | None:
    """Return why a file that can only be a module's data says nothing; None where it is something else."""
    if len(data) > _MOST_BYTES or len(data) < _SHORTEST_BYTES or _is_text(data):
        return None
    usual = len(data) in _LENGTHS
    if usual and len(set(data)) == 1 and data[0] in (0, 0xFF):
        return f"a module's data (SPD) of which all {len(data):,} bytes are {data[0]:02X}: it was not read, or never written"
    if usual:
        return f"a module's data (SPD) by its {len(data):,} bytes; byte 2 ({data[KEY_BYTE]:02X}) names no kind of memory that is known"
    return None


def _is_text(data: bytes) -> bool:
    return all(byte >= 0x20 or byte in b"\t\r\n" for byte in data) and not all(byte == 0xFF for byte in data)


def looks_like_spd(data: bytes) -> bool:
    """Return whether a file is an SPD image, whole or cut: a known key byte, and a check sum, a size or a text that fits."""
    if len(data) not in _LENGTHS and (not _SHORTEST_BYTES <= len(data) <= _MOST_BYTES or _is_text(data) or data[:1] == b"_"):
        return False
    module = decode(data)
    if len(data) not in _LENGTHS:
        # A cut image has less to show for itself: its kind and what is in front of the cut.
        return module is not None and module.size_bytes is not None and module.tck_ps is not None
    # Of a cut image the sum, the part number and the size are gone; its kind with a rate that this kind has is still there.
    is_cut = module is not None and len(data) < _DECODERS.get(data[KEY_BYTE], (None, 0))[1] and module.standard_mts is not None
    return module is not None and (module.base_sound or bool(module.part) or module.size_bytes is not None or is_cut)
