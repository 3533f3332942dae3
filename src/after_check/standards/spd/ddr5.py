"""DDR5. Document: JESD400-5, "DDR5 Serial Presence Detect (SPD) Contents"."""

from __future__ import annotations

from after_check.domain.modules import Form, Generation
from after_check.standards.spd.image import Image, SpdModule
from after_check.standards.spd.organisation import capacity_bytes, standard_rate
from after_check.standards.spd.profiles import ddr5_profiles

_FORMS = {
    **{0x1: Form.RDIMM, 0x2: Form.UDIMM, 0x3: Form.SODIMM, 0x4: Form.LRDIMM, 0x5: Form.UDIMM, 0x6: Form.SODIMM},
    **{0x7: Form.RDIMM, 0x8: Form.CAMM, 0xB: Form.SOLDERED},
}
_DENSITIES_MBIT = {1: 4096, 2: 8192, 3: 12288, 4: 16384, 5: 24576, 6: 32768, 7: 49152, 8: 65536}
_DIES = {0: 1, 1: 2, 2: 2, 3: 4, 4: 8, 5: 16}
_STACKED = (2, 3, 4, 5)
_ECC_EXTENSIONS = {0: False, 1: True, 2: True}
"""Bits beside the data of a sub-channel: none, 4, 8; the fourth code is reserved."""


def decode_ddr5(image: Image) -> SpdModule:
    """Decode a DDR5 image of 1024 bytes; times stand in it in ps."""
    sound = image.sound(510)
    bus_code, rank_code, width_code = image.bits(235, 2, 0), image.bits(234, 5, 3), image.bits(6, 7, 5)
    bus_bits = 8 << bus_code if bus_code is not None and bus_code <= 3 else None
    device_bits = 4 << width_code if width_code is not None and width_code <= 3 else None
    subchannel_code = image.bits(235, 6, 5)
    subchannels = 1 << subchannel_code if subchannel_code is not None and subchannel_code <= 2 else None
    ranks = None if rank_code is None else rank_code + 1
    differ = bool(image.bits(234, 6, 6))
    extension = image.bits(235, 4, 3)
    tck_ps = image.word(20) or None
    profiles = ddr5_profiles(image)
    return SpdModule(
        generation=Generation.DDR5,
        form=_FORMS.get(form) if (form := image.bits(3, 3, 0)) is not None else None,
        size_bytes=_size_bytes(image, bus_bits, ranks, subchannels, differ),
        ranks=ranks,
        ranks_differ=differ,
        dies=_DIES.get(code, 1) if (code := image.bits(4, 7, 5)) in _STACKED and code is not None else 1,
        device_width_bits=device_bits,
        data_width_bits=bus_bits * subchannels if bus_bits and subchannels else None,
        ecc=_ECC_EXTENSIONS.get(extension) if extension is not None else None,
        subchannels=subchannels or 1,
        tck_ps=tck_ps,
        standard_mts=standard_rate(tck_ps, Generation.DDR5),
        cas_latencies=ddr5_cas_latencies(image, 24),
        taa_ps=image.word(30) or None,
        trcd_ps=image.word(32) or None,
        trp_ps=image.word(34) or None,
        tras_ps=image.word(36) or None,
        trc_ps=image.word(38) or None,
        voltage_mv=1100 if image.bits(16, 7, 4) == 0 else None,
        maker=image.maker(512, "module's maker"),
        device_maker=image.maker(552, "devices' maker"),
        part=image.text(521, 30),
        serial=image.serial(517),
        made=image.week(515, 516),
        profiles=profiles,
        profiles_read=len(image.data) > 836,
        base_sound=sound,
    )


def ddr5_cas_latencies(image: Image, at: int) -> tuple[int, ...]:
    """Return the supported latencies of five bytes: bit 0 is CL20, each further bit two more."""
    mask = int.from_bytes(image.data[at : at + 5], "little")
    return tuple(20 + 2 * bit for bit in range(40) if mask >> bit & 1)


def _size_bytes(image: Image, bus_bits: int | None, ranks: int | None, subchannels: int | None, differ: bool) -> int | None:
    """Sub-channels × bus width / I/O width × dies × density / 8 × package ranks; odd ranks by the second SDRAM where they differ."""
    if ranks is None or subchannels is None:
        return None
    first, second = _rank_bytes(image, 4, bus_bits), _rank_bytes(image, 8, bus_bits)
    if first is None:
        return None
    if not differ:
        return first * ranks * subchannels
    return None if second is None else (first * ((ranks + 1) // 2) + second * (ranks // 2)) * subchannels


def _rank_bytes(image: Image, at: int, bus_bits: int | None) -> int | None:
    density = _DENSITIES_MBIT.get(code) if (code := image.bits(at, 4, 0)) is not None else None
    dies = _DIES.get(die_code) if (die_code := image.bits(at, 7, 5)) is not None else None
    width_code = image.bits(at + 2, 7, 5)
    if density is None or dies is None or width_code is None or width_code > 3:
        return None
    return capacity_bytes(density, bus_bits, 4 << width_code, dies)
