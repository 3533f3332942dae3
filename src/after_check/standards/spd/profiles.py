"""Vendor profile blocks in the part of the image that the JEDEC documents leave to the end user.

The blocks begin with a mark; each profile of a block is enabled by a bit of its header. Times of the DDR3 and DDR4
blocks are in a medium and a fine time base, those of the DDR5 blocks in ps. Voltages count whole volts in the upper
bits and steps of 50 mV (DDR3, DDR5) or 10 mV (DDR4) in the lower ones.
"""

from __future__ import annotations

from after_check.domain.modules import Generation, Profile
from after_check.standards.rates import snap_rate
from after_check.standards.spd.image import Image, crc16
from after_check.standards.spd.organisation import LONGEST_TCK_PS, SHORTEST_TCK_PS, timings_at

_MARK = b"\x0c\x4a"
_OTHER_MARK = bytes.fromhex("4558504F")

_ROUNDED_UP_PS = 110
"""Most of the rounding of a DDR4 time that has no fine part; `clocks` takes the rest off."""

_Times = tuple[int | None, int | None, int | None, int | None]


def ddr3_profiles(image: Image) -> tuple[Profile, ...]:
    """Return the enabled profiles of the block from byte 176."""
    if image.data[176:178] != _MARK:
        return ()
    found: list[Profile | None] = []
    for index, (start, base_at) in enumerate(((185, 180), (220, 182))):
        dividend, divisor = image.byte(base_at), image.byte(base_at + 1)
        if not (image.byte(178) or 0) >> index & 1 or not dividend or not divisor or _cut(image, index, start, 35):
            continue
        unit_ps = 1000 * dividend / divisor

        def time(at: int, unit_ps: float = unit_ps) -> int | None:
            return round((image.byte(at) or 0) * unit_ps) or None

        upper, lower = image.bits(start + 9, 3, 0), image.byte(start + 10)
        tras_ps = round(((upper or 0) << 8 | (lower or 0)) * unit_ps) or None
        mask = image.word(start + 3) or 0
        latencies = tuple(4 + bit for bit in range(15) if mask >> bit & 1)
        times = (time(start + 2), time(start + 7), time(start + 6), tras_ps)
        found.append(_profile(index + 1, time(start + 1), times, latencies, _fifties_mv(image.byte(start)), Generation.DDR3))
    return tuple(profile for profile in found if profile is not None)


def ddr4_profiles(image: Image) -> tuple[Profile, ...]:
    """Return the enabled profiles of the block from byte 384."""
    if image.data[384:386] != _MARK:
        return ()
    found: list[Profile | None] = []
    for index, start in enumerate((393, 440)):
        if not (image.byte(386) or 0) >> index & 1 or _cut(image, index, start, 39):
            continue

        def time(at: int, fine_at: int, start: int = start) -> int | None:
            units = image.byte(start + at)
            return units * 125 + image.signed(start + fine_at) if units else None

        upper, lower = image.bits(start + 11, 3, 0), image.byte(start + 12)
        stored_ps = ((upper or 0) << 8 | (lower or 0)) * 125
        # Without a fine part, what is stored is up to 124 ps above the clocks that are meant.
        tras_ps = max(0, stored_ps - _ROUNDED_UP_PS) or None
        mask = int.from_bytes(image.data[start + 4 : start + 8], "little")
        base = 23 if mask >> 31 else 7
        latencies = tuple(base + bit for bit in range(30) if mask >> bit & 1)
        times = (time(8, 37), time(9, 36), time(10, 35), tras_ps)
        code = image.byte(start)
        voltage_mv = None if code is None else (code >> 7) * 1000 + (code & 0x7F) * 10
        found.append(_profile(index + 1, time(3, 38), times, latencies, voltage_mv, Generation.DDR4))
    return tuple(profile for profile in found if profile is not None)


def ddr5_profiles(image: Image) -> tuple[Profile, ...]:
    """Return the enabled profiles of the blocks from bytes 640 and 832; where both have a number, the first block's."""
    found = {profile.number: profile for profile in _second_ddr5_block(image)}
    found.update({profile.number: profile for profile in _first_ddr5_block(image)})
    return tuple(found[number] for number in sorted(found))


def _first_ddr5_block(image: Image) -> list[Profile]:
    if image.data[640:642] != _MARK:
        return []
    found: list[Profile] = []
    for index in range(3):
        start = 704 + 64 * index
        if not (image.byte(643) or 0) >> index & 1 or image.data[start : start + 4] == _OTHER_MARK or _cut(image, index, start, 64):
            continue
        stated = image.word(start + 62)
        if stated is not None and crc16(image.data[start : start + 62]) != stated:
            image.problems.append(f"the CRC of profile {index + 1} is wrong")
        mask = int.from_bytes(image.data[start + 7 : start + 12], "little")
        latencies = tuple(20 + 2 * bit for bit in range(40) if mask >> bit & 1)
        times: _Times = (image.word(start + 13), image.word(start + 15), image.word(start + 17), image.word(start + 19))
        profile = _profile(index + 1, image.word(start + 5), times, latencies, _fifties_mv(image.byte(start + 1)), Generation.DDR5)
        if profile is not None:
            found.append(profile)
    return found


def _second_ddr5_block(image: Image) -> list[Profile]:
    if image.data[832:836] != _OTHER_MARK:
        return []
    stated = image.word(958)
    if stated is not None and stated and crc16(image.data[832:958]) != stated:
        image.problems.append("the CRC of the profile block from byte 832 is wrong")
    found: list[Profile] = []
    enabled = image.byte(837) or 0
    for index, start in enumerate((842, 882)):
        if not enabled >> 4 * index & 0xF or _cut(image, index, start, 40):
            continue
        times: _Times = (image.word(start + 6), image.word(start + 8), image.word(start + 10), image.word(start + 12))
        profile = _profile(index + 1, image.word(start + 4), times, (), _fifties_mv(image.byte(start)), Generation.DDR5)
        if profile is not None:
            found.append(profile)
    return found


def _cut(image: Image, index: int, start: int, length: int) -> bool:
    """Return whether the image ends within a profile; half of one would give a wrong figure, so it is left out and said."""
    if len(image.data) >= start + length:
        return False
    image.problems.append(f"profile {index + 1} is cut off and left out")
    return True


def _profile(
    number: int, tck_ps: int | None, times: _Times, latencies: tuple[int, ...], voltage_mv: int | None, generation: Generation
) -> Profile | None:
    if tck_ps is None or not SHORTEST_TCK_PS <= tck_ps <= LONGEST_TCK_PS:
        return None
    timings = timings_at(tck_ps, times, latencies, generation)
    return Profile(number, snap_rate(2_000_000 / tck_ps, generation), timings, voltage_mv or None)


def _fifties_mv(code: int | None) -> int | None:
    return None if code is None else (code >> 5 & 3) * 1000 + (code & 0x1F) * 50
