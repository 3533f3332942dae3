"""DDR2 in its basics. Document: JESD21-C section 4.1.2.10 (annex J), "Serial Presence Detects for DDR2 SDRAM"."""

from __future__ import annotations

from after_check.domain.modules import Form, Generation, MakerId
from after_check.domain.quantities import GIB, MIB
from after_check.standards.spd.image import Image, SpdModule
from after_check.standards.spd.organisation import standard_rate

_FORMS = {0x01: Form.RDIMM, 0x02: Form.UDIMM, 0x04: Form.SODIMM, 0x10: Form.RDIMM, 0x20: Form.UDIMM, 0x07: Form.SODIMM, 0x06: Form.SODIMM}
_RANK_SIZES_BYTES = {
    **{0x01: GIB, 0x02: 2 * GIB, 0x04: 4 * GIB, 0x08: 8 * GIB, 0x10: 16 * GIB},
    **{0x20: 128 * MIB, 0x40: 256 * MIB, 0x80: 512 * MIB},
}
_TENTHS_PS = {0xA: 250, 0xB: 330, 0xC: 660, 0xD: 750}
_CONTINUATION = 0x7F


def decode_ddr2(image: Image) -> SpdModule:
    """Decode a DDR2 image; its check sum is the sum of bytes 0 to 62."""
    sound = len(image.data) > 63 and sum(image.data[:63]) % 256 == image.data[63]
    if not sound:
        image.problems.append("the check sum over bytes 0 to 62 is wrong")
    rank_size = _RANK_SIZES_BYTES.get(image.byte(31) or 0)
    ranks = None if image.byte(5) is None else (image.bits(5, 2, 0) or 0) + 1
    tck_ps = _tck_ps(image.byte(9))
    mask = image.byte(18) or 0
    return SpdModule(
        generation=Generation.DDR2,
        form=_FORMS.get(image.byte(20) or 0),
        size_bytes=rank_size * ranks if rank_size and ranks else None,
        ranks=ranks,
        device_width_bits=image.byte(13) or None,
        data_width_bits={72: 64, 40: 32}.get(image.byte(6) or 0, image.byte(6) or None),
        ecc=None if image.byte(11) is None else bool(image.bits(11, 1, 1)),
        tck_ps=tck_ps,
        standard_mts=standard_rate(tck_ps, Generation.DDR2),
        cas_latencies=tuple(bit for bit in range(2, 8) if mask >> bit & 1),
        taa_ps=max((bit for bit in range(2, 8) if mask >> bit & 1), default=0) * tck_ps or None if tck_ps else None,
        trcd_ps=_quarters_ps(image.byte(29)),
        trp_ps=_quarters_ps(image.byte(27)),
        tras_ps=(image.byte(30) or 0) * 1000 or None,
        voltage_mv=1800,
        maker=_maker(image),
        part=image.text(73, 18),
        serial=image.serial(95),
        made=image.week(93, 94),
        base_sound=sound,
    )


def _tck_ps(code: int | None) -> int | None:
    if code is None:
        return None
    tenths = code & 0xF
    fraction = tenths * 100 if tenths <= 9 else _TENTHS_PS.get(tenths)
    return None if fraction is None else (code >> 4) * 1000 + fraction or None


def _quarters_ps(code: int | None) -> int | None:
    return (code >> 2) * 1000 + (code & 3) * 250 or None if code is not None else None


def _maker(image: Image) -> MakerId | None:
    """JEP106 in its long form: continuation codes 7Fh, then the code."""
    for count in range(8):
        code = image.byte(64 + count)
        if code in (None, 0, 0xFF):
            return None
        if code != _CONTINUATION:
            if code.bit_count() % 2 == 0:
                image.problems.append(f"the code of the module's maker has wrong parity (0x{code:02X})")
                return None
            return MakerId(count + 1, code & 0x7F)
    return None
