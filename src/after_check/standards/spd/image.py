"""What an SPD image says, in one form for all generations, and the tools to read its bytes."""

from __future__ import annotations

import binascii
from dataclasses import dataclass, field

from after_check.domain.modules import Form, Generation, MakerId, ManufactureWeek, Profile
from after_check.domain.outside_text import clean
from after_check.standards.weeks import make_week

ECC_EXTENSIONS = {0: False, 1: True}
"""Bits beside the data of DDR3 and DDR4 modules: none, 8; the other codes are reserved (JESD21-C annexes K, byte 8, and L, byte 13)."""


@dataclass(frozen=True, slots=True)
class SpdModule:
    """A module as its SPD describes it. What the image does not say, or says in reserved codes, is None.

    Times are in ps. `ranks` are package ranks (a sub-channel's, for DDR5); `dies` counts the stacked dies that are
    ranks of their own. `base_sound` is whether the check sum over the timings and the organisation is right.
    """

    generation: Generation
    form: Form | None = None
    size_bytes: int | None = None
    ranks: int | None = None
    ranks_differ: bool = False
    dies: int = 1
    device_width_bits: int | None = None
    data_width_bits: int | None = None
    ecc: bool | None = None
    subchannels: int = 1
    tck_ps: int | None = None
    standard_mts: int | None = None
    cas_latencies: tuple[int, ...] = ()
    taa_ps: int | None = None
    trcd_ps: int | None = None
    trp_ps: int | None = None
    tras_ps: int | None = None
    trc_ps: int | None = None
    voltage_mv: int | None = None
    maker: MakerId | None = None
    device_maker: MakerId | None = None
    part: str | None = None
    serial: str | None = None
    made: ManufactureWeek | None = None
    profiles: tuple[Profile, ...] = ()
    profiles_read: bool = False
    base_sound: bool = False
    problems: tuple[str, ...] = field(default=())


class Image:
    """The bytes of an image; reading beyond its end gives None, and what is wrong is collected."""

    def __init__(self, data: bytes) -> None:
        self.data = data
        self.problems: list[str] = []

    def byte(self, at: int) -> int | None:
        """Return the byte at an offset."""
        return self.data[at] if at < len(self.data) else None

    def word(self, at: int) -> int | None:
        """Return the little-endian 16-bit word at an offset."""
        part = self.data[at : at + 2]
        return int.from_bytes(part, "little") if len(part) == 2 else None

    def bits(self, at: int, high: int, low: int) -> int | None:
        """Return the bits from `high` down to `low` of the byte at an offset."""
        value = self.byte(at)
        return None if value is None else value >> low & (1 << high - low + 1) - 1

    def signed(self, at: int) -> int:
        """Return the byte at an offset as a signed number; 0 beyond the end."""
        value = self.byte(at) or 0
        return value - 256 if value > 127 else value

    def text(self, at: int, length: int) -> str | None:
        """Return ASCII text up to its first 00h; FFh is unwritten, and a blank."""
        part = self.data[at : at + length].partition(b"\0")[0]
        said = clean(part.replace(b"\xff", b" ").decode("latin-1"))
        return said or None

    def serial(self, at: int) -> str | None:
        """Return a serial number of four bytes in hexadecimal; all-zero and all-one are unwritten."""
        part = self.data[at : at + 4]
        return None if len(part) < 4 or part in (b"\0\0\0\0", b"\xff\xff\xff\xff") else part.hex().upper()

    def week(self, year_at: int, week_at: int) -> ManufactureWeek | None:
        """Return the week of manufacture from two bytes in BCD; years are from 2000."""
        year, week = self._bcd(year_at), self._bcd(week_at)
        if year is None or week is None:
            if self.byte(week_at) not in (None, 0, 0xFF) or self.byte(year_at) not in (None, 0, 0xFF):
                self.problems.append("the date of manufacture is no date")
            return None
        found = make_week(2000 + year, week)
        if found is None and (year or week):
            self.problems.append(f"the date of manufacture is no date: 20{year:02d} has no week {week}")
        return found

    def maker(self, at: int, what: str) -> MakerId | None:
        """Return a JEDEC maker code (JEP106): number of continuation codes, then the code, each with odd parity."""
        first, second = self.byte(at), self.byte(at + 1)
        if first is None or second is None or (first, second) in ((0, 0), (0xFF, 0xFF)):
            return None
        if not (_odd(first) and _odd(second)):
            self.problems.append(f"the code of the {what} has wrong parity (0x{first:02X} 0x{second:02X})")
            return None
        return MakerId((first & 0x7F) + 1, second & 0x7F)

    def sound(self, end: int, covered: int | None = None) -> bool:
        """Return whether the CRC at `end` is that of the bytes before it (or the first `covered`); what is wrong is noted."""
        covered = covered if covered is not None else end
        stated = self.word(end)
        if stated is None:
            self.problems.append(f"the CRC over bytes 0 to {covered - 1} cannot be checked: the image ends before it")
        elif crc16(self.data[:covered]) != stated:
            self.problems.append(f"the CRC over bytes 0 to {covered - 1} is wrong")
        else:
            return True
        return False

    def _bcd(self, at: int) -> int | None:
        value = self.byte(at)
        if value is None or value >> 4 > 9 or value & 15 > 9:
            return None
        return (value >> 4) * 10 + (value & 15)


def _odd(byte: int) -> bool:
    return byte.bit_count() % 2 == 1


def crc16(data: bytes) -> int:
    """Return the CRC of SPD blocks: polynomial 1021h, starting from 0 (JESD21-C section 4.1.2, "CRC")."""
    return binascii.crc_hqx(data, 0)
