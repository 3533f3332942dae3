"""DDR3. Document: JESD21-C section 4.1.2.11 (annex K), "Serial Presence Detect for DDR3 SDRAM Modules"."""

from __future__ import annotations

from after_check.domain.modules import Form, Generation
from after_check.standards.spd.image import ECC_EXTENSIONS, Image, SpdModule
from after_check.standards.spd.organisation import capacity_bytes, standard_rate
from after_check.standards.spd.profiles import ddr3_profiles

_FORMS = {
    **{0x1: Form.RDIMM, 0x2: Form.UDIMM, 0x3: Form.SODIMM, 0x4: Form.SODIMM, 0x5: Form.RDIMM, 0x6: Form.UDIMM},
    **{0x8: Form.SODIMM, 0x9: Form.SODIMM, 0xA: Form.SODIMM, 0xB: Form.LRDIMM, 0xC: Form.SODIMM, 0xD: Form.SODIMM},
}
_RANKS = {0: 1, 1: 2, 2: 3, 3: 4, 4: 8}
_DENSITIES_MBIT = {0: 256, 1: 512, 2: 1024, 3: 2048, 4: 4096, 5: 8192, 6: 16384}
_USED_BYTES = 176


def decode_ddr3(image: Image) -> SpdModule:
    """Decode a DDR3 image of 256 bytes."""
    covered = 117 if (image.byte(0) or 0) & 0x80 else 126
    sound = image.sound(126, covered)
    times = _Times(image)
    width_code, bus_code = image.bits(7, 2, 0), image.bits(8, 2, 0)
    device_bits = 4 << width_code if width_code is not None and width_code <= 3 else None
    bus_bits = 8 << bus_code if bus_code is not None and bus_code <= 3 else None
    ranks = _RANKS.get(rank_code) if (rank_code := image.bits(7, 5, 3)) is not None else None
    density = _DENSITIES_MBIT.get(code) if (code := image.bits(4, 3, 0)) is not None else None
    tck_ps = times.time(12, 34)
    mask = image.word(14) or 0
    extension = image.bits(8, 4, 3)
    profiles = ddr3_profiles(image)
    return SpdModule(
        generation=Generation.DDR3,
        form=_FORMS.get(form) if (form := image.bits(3, 3, 0)) is not None else None,
        size_bytes=capacity_bytes(density, bus_bits, device_bits, ranks),
        ranks=ranks,
        device_width_bits=device_bits,
        data_width_bits=bus_bits,
        ecc=ECC_EXTENSIONS.get(extension) if extension is not None else None,
        tck_ps=tck_ps,
        standard_mts=standard_rate(tck_ps, Generation.DDR3),
        cas_latencies=tuple(4 + bit for bit in range(15) if mask >> bit & 1),
        taa_ps=times.time(16, 35),
        trcd_ps=times.time(18, 36),
        trp_ps=times.time(20, 37),
        tras_ps=times.long(21, 3, 0, 22),
        trc_ps=times.long(21, 7, 4, 23, 38),
        voltage_mv=_voltage_mv(image.byte(6)),
        maker=image.maker(117, "module's maker"),
        device_maker=image.maker(148, "devices' maker"),
        part=image.text(128, 18),
        serial=image.serial(122),
        made=image.week(120, 121),
        profiles=profiles,
        profiles_read=len(image.data) > _USED_BYTES + 2,
        base_sound=sound,
    )


class _Times:
    """Times in medium units (byte 10 / byte 11 ns) corrected by fine ones (byte 9, ps)."""

    def __init__(self, image: Image) -> None:
        self._image = image
        dividend, divisor = image.byte(10), image.byte(11)
        self._medium_ps = 1000 * dividend / divisor if dividend and divisor else None
        fine_divisor = image.bits(9, 3, 0)
        self._fine_ps = (image.bits(9, 7, 4) or 0) / fine_divisor if fine_divisor else 0
        if self._medium_ps is None:
            image.problems.append("the medium time base is zero, so no time can be told")

    def time(self, at: int, fine_at: int) -> int | None:
        units = self._image.byte(at)
        return self._ps(units, fine_at)

    def long(self, high_at: int, high: int, low: int, at: int, fine_at: int | None = None) -> int | None:
        upper, lower = self._image.bits(high_at, high, low), self._image.byte(at)
        return self._ps(None if upper is None or lower is None else upper << 8 | lower, fine_at)

    def _ps(self, units: int | None, fine_at: int | None) -> int | None:
        if not units or self._medium_ps is None:
            return None
        fine = self._image.signed(fine_at) * self._fine_ps if fine_at is not None else 0
        found = round(units * self._medium_ps + fine)
        return found if found > 0 else None


def _voltage_mv(code: int | None) -> int | None:
    """Byte 6: bit 0 set means that 1.5 V is not for it; bits 1 and 2 allow 1.35 V and 1.25 V. The lowest is nominal."""
    if code is None:
        return None
    if code & 0b100:
        return 1250
    if code & 0b010:
        return 1350
    return None if code & 0b001 else 1500
