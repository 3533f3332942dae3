"""DDR4. Document: JESD21-C section 4.1.2.12 (annex L), "Serial Presence Detect (SPD) for DDR4 SDRAM Modules"."""

from __future__ import annotations

from after_check.domain.modules import Form, Generation
from after_check.standards.spd.image import ECC_EXTENSIONS, Image, SpdModule, crc16
from after_check.standards.spd.organisation import capacity_bytes, standard_rate
from after_check.standards.spd.profiles import ddr4_profiles

_FORMS = {
    **{0x1: Form.RDIMM, 0x2: Form.UDIMM, 0x3: Form.SODIMM, 0x4: Form.LRDIMM, 0x5: Form.RDIMM, 0x6: Form.UDIMM},
    **{0x8: Form.SODIMM, 0x9: Form.SODIMM, 0xC: Form.SODIMM, 0xD: Form.SODIMM},
}
_DENSITIES_MBIT = {0: 256, 1: 512, 2: 1024, 3: 2048, 4: 4096, 5: 8192, 6: 16384, 7: 32768, 8: 12288, 9: 24576}
_SMALLER = {256: 256, 512: 256, 1024: 512, 2048: 1024, 4096: 2048, 8192: 4096, 12288: 8192, 16384: 8192, 24576: 16384, 32768: 16384}
"""The next smaller standard density, for modules whose second rank has smaller devices."""
_MEDIUM_PS = 125
_SINGLE_LOAD_STACK = 2


def decode_ddr4(image: Image) -> SpdModule:
    """Decode a DDR4 image of 512 bytes."""
    sound = image.sound(126)
    if image.word(254) is not None and any(image.data[128:256]) and crc16(image.data[128:254]) != image.word(254):
        image.problems.append("the CRC over bytes 128 to 253 (module section) is wrong")
    if image.bits(17, 3, 0) not in (0, None):
        image.problems.append("byte 17 names time bases that the document does not have; 125 ps and 1 ps were taken")
    width_code, bus_code, rank_code = image.bits(12, 2, 0), image.bits(13, 2, 0), image.bits(12, 5, 3)
    device_bits = 4 << width_code if width_code is not None and width_code <= 3 else None
    bus_bits = 8 << bus_code if bus_code is not None and bus_code <= 3 else None
    ranks = None if rank_code is None else rank_code + 1
    differ = bool(image.bits(12, 6, 6))
    dies = _stacked_dies(image, 6)
    tck_ps = _time(image, 18, 125)
    extension = image.bits(13, 4, 3)
    return SpdModule(
        generation=Generation.DDR4,
        form=_FORMS.get(form) if (form := image.bits(3, 3, 0)) is not None else None,
        size_bytes=_size_bytes(image, bus_bits, device_bits, ranks, differ),
        ranks=ranks,
        ranks_differ=differ,
        dies=dies,
        device_width_bits=device_bits,
        data_width_bits=bus_bits,
        ecc=ECC_EXTENSIONS.get(extension) if extension is not None else None,
        tck_ps=tck_ps,
        standard_mts=standard_rate(tck_ps, Generation.DDR4),
        cas_latencies=cas_latencies(image, 20),
        taa_ps=_time(image, 24, 123),
        trcd_ps=_time(image, 25, 122),
        trp_ps=_time(image, 26, 121),
        tras_ps=_long(image, 27, 3, 0, 28),
        trc_ps=_long(image, 27, 7, 4, 29, 120),
        voltage_mv=1200 if image.bits(11, 0, 0) else None,
        maker=image.maker(320, "module's maker"),
        device_maker=image.maker(350, "devices' maker"),
        part=image.text(329, 20),
        serial=image.serial(325),
        made=image.week(323, 324),
        profiles=ddr4_profiles(image),
        profiles_read=len(image.data) > 386,
        base_sound=sound,
    )


def cas_latencies(image: Image, at: int) -> tuple[int, ...]:
    """Return the supported latencies of bytes 20 to 23: bit 0 is CL7, or CL23 where bit 31 is set."""
    part = image.data[at : at + 4]
    if len(part) < 4:
        return ()
    mask = int.from_bytes(part, "little")
    base = 23 if mask >> 31 else 7
    return tuple(base + bit for bit in range(30) if mask >> bit & 1)


def _size_bytes(image: Image, bus_bits: int | None, device_bits: int | None, ranks: int | None, differ: bool) -> int | None:
    density = _DENSITIES_MBIT.get(code) if (code := image.bits(4, 3, 0)) is not None else None
    if density is None or ranks is None:
        return None
    if not differ:
        return capacity_bytes(density, bus_bits, device_bits, ranks * _stacked_dies(image, 6))
    second: int | None = density
    for _ in range(image.bits(10, 3, 2) or 0):
        second = _SMALLER.get(second or 0)
    even, odd = (ranks + 1) // 2, ranks // 2
    first_part = capacity_bytes(density, bus_bits, device_bits, even * _stacked_dies(image, 6))
    second_part = capacity_bytes(second, bus_bits, device_bits, odd * _stacked_dies(image, 10)) if odd else 0
    return None if first_part is None or second_part is None else first_part + second_part


def _stacked_dies(image: Image, at: int) -> int:
    """Return the dies of a single-load stack (3DS), each a logical rank of its own; 1 for all other packages."""
    return (image.bits(at, 6, 4) or 0) + 1 if image.bits(at, 1, 0) == _SINGLE_LOAD_STACK else 1


def _time(image: Image, at: int, fine_at: int) -> int | None:
    units = image.byte(at)
    found = units * _MEDIUM_PS + image.signed(fine_at) if units else 0
    return found if found > 0 else None


def _long(image: Image, high_at: int, high: int, low: int, at: int, fine_at: int | None = None) -> int | None:
    upper, lower = image.bits(high_at, high, low), image.byte(at)
    if upper is None or lower is None or not (upper or lower):
        return None
    return (upper << 8 | lower) * _MEDIUM_PS + (image.signed(fine_at) if fine_at is not None else 0)
