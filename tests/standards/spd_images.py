"""SPD images laid out byte by byte after the JEDEC documents, for the tests; nothing here uses the decoder."""

from __future__ import annotations

import binascii


def seal(image: bytearray, start: int, end: int, at: int) -> None:
    """Write the CRC of `start` to `end` (not included) at an offset."""
    image[at : at + 2] = binascii.crc_hqx(bytes(image[start:end]), 0).to_bytes(2, "little")


def put(image: bytearray, at: int, *values: int) -> None:
    """Write bytes at an offset."""
    image[at : at + len(values)] = bytes(values)


def identity(image: bytearray, maker: int, place: int, year: int, serial: int, part: int, part_length: int, text: str) -> None:
    """Write maker (bank 10, code 21h: both bytes have odd parity), date week 11 of 2021, serial 0A1B2C3D and part."""
    # Nine continuation codes: 09h has two bits, so the parity bit is set: 89h. 21h has two bits as well: A1h.
    put(image, maker, 0x89, 0xA1)
    image[place] = 1
    put(image, year, 0x21, 0x11)
    put(image, serial, 0x0A, 0x1B, 0x2C, 0x3D)
    image[part : part + part_length] = text.ljust(part_length).encode()


def ddr4(**changes: int) -> bytearray:
    """DDR4-3200AA SO-DIMM, 16 GiB: 8 Gbit devices, x8, two ranks, 64 bits. Changes are `b12=0x...`."""
    image = bytearray(512)
    put(image, 0, 0x23, 0x12, 0x0C, 0x03)
    put(image, 4, 0x85, 0x21, 0x00)  # 8 Gbit, 16 rows, 10 columns, monolithic
    put(image, 11, 0x03, 0x09, 0x03)  # 1.2 V; two ranks of x8; 64 bits
    put(image, 18, 0x05, 0x0D)  # tCKmin 5 x 125 = 625 ps
    put(image, 20, 0xF8, 0xFF, 0x02, 0x00)  # CL10 to 22 and 24
    put(image, 24, 0x6E, 0x6E, 0x6E, 0x11, 0x00, 0x6E)  # tAA, tRCD, tRP 13.75 ns; tRAS 32 ns; tRC 45.75 ns
    identity(image, 320, 322, 323, 325, 329, 20, "QM4S-3200-16")
    put(image, 350, 0x8A, 0xA1)
    _change(image, changes)
    seal(image, 0, 126, 126)
    seal(image, 128, 254, 254)
    return image


def ddr4_profiles(image: bytearray) -> bytearray:
    """Add two profiles: 3600 at 18-22-22-42 and 1.35 V, and 3000 (3 x 111.1 MHz) at 16 and 1.30 V."""
    put(image, 384, 0x0C, 0x4A, 0x03, 0x20)
    # 3600 is 555.6 ps: 5 x 125 - 69. 18 clocks are 10 ns = 80 units; 22 are 12.22 ns = 98 units less 28 ps.
    put(image, 393, 0x80 | 35)
    put(image, 396, 5, 0x00, 0x08, 0, 0, 80, 98, 98, 0x00, 187)  # latencies: bit 11 is CL18; tRAS 23.375 ns
    put(image, 428, 0xE4, 0xE4, 0x00, 0xBB)  # fine: tRP -28, tRCD -28, tAA 0, tCK -69
    # 3000 is 666.7 ps: 5 x 125 + 42. 16 clocks are 10.67 ns = 85 units + 42 ps.
    put(image, 440, 0x80 | 30)
    put(image, 443, 5, 0x00, 0x02, 0, 0, 85, 85, 85, 0x00, 0)
    put(image, 475, 42, 42, 42, 42)
    return image


def ddr3(**changes: int) -> bytearray:
    """DDR3L-1600K SO-DIMM, 4 GiB: 2 Gbit devices, x8, two ranks, 64 bits."""
    image = bytearray(256)
    put(image, 0, 0x92, 0x11, 0x0B, 0x03, 0x03, 0x19, 0x02, 0x09, 0x03, 0x11, 0x01, 0x08)
    put(image, 12, 0x0A, 0x00, 0xFE, 0x00)  # 1.25 ns; CL5 to 11
    put(image, 16, 0x69, 0x78, 0x69, 0x30, 0x69, 0x11, 0x18, 0x81)  # tAA, tRCD, tRP 13.125; tRAS 35; tRC 48.125 ns
    identity(image, 117, 119, 120, 122, 128, 18, "QM3S-1600-4")
    put(image, 148, 0x8A, 0xA1)
    _change(image, changes)
    seal(image, 0, 117 if image[0] & 0x80 else 126, 126)
    return image


def ddr3_profiles(image: bytearray) -> bytearray:
    """Add one profile: 1866 (1/14 ns units: 15 are 1.0714 ns) at 9-10-10-28 and 1.65 V; the second is not enabled."""
    put(image, 176, 0x0C, 0x4A, 0x01, 0x12, 0x01, 0x0E)
    # 1.65 V: one volt (bit 5) and 13 steps of 50 mV. 9 clocks of 15 units are 135, 10 are 150, 28 are 420 = 1A4h.
    put(image, 185, 0x2D, 15, 135, 0x20, 0x00, 0, 150, 150, 0, 0x01, 0xA4, 0)
    put(image, 220, 0x2D, 15, 135)
    return image


def ddr5(**changes: int) -> bytearray:
    """DDR5-4800B UDIMM, 16 GiB: 16 Gbit devices, x8, one rank, two sub-channels of 32 bits."""
    image = bytearray(1024)
    put(image, 0, 0x30, 0x10, 0x12, 0x02)
    put(image, 4, 0x04, 0x00, 0x20, 0x62)  # 16 Gbit, one die; x8
    put(image, 16, 0x00, 0x00, 0x00)
    _word(image, 20, 416)
    _word(image, 22, 1010)
    put(image, 24, 0xF2, 0x07, 0x00, 0x00, 0x00)  # CL22, 28, 30, 32, 34, 36, 38, 40
    for at, time_ps in ((30, 16640), (32, 16000), (34, 16000), (36, 32000), (38, 48640)):
        _word(image, at, time_ps)
    put(image, 234, 0x00, 0x22)  # one rank; two sub-channels of 32 bits without extension
    identity(image, 512, 514, 515, 517, 521, 30, "QM5-4800-16")
    put(image, 552, 0x8A, 0xA1)
    _change(image, changes)
    seal(image, 0, 510, 510)
    return image


def ddr5_profiles(image: bytearray) -> bytearray:
    """Add 6400 at 32-39-39-102 and 1.40 V as profile 1, and 6000 at 30 and 1.35 V as profile 2, in the first block."""
    put(image, 640, 0x0C, 0x4A, 0x30, 0x03)
    for start, volts, tck, taa, trcd, tras, mask in (
        # 1.40 V: one volt (bit 5) and eight steps. CL32 is bit 6, CL30 is bit 5.
        (704, 0x28, 312, 9984, 12168, 31824, 0x40),
        (768, 0x27, 333, 9990, 12654, 25641, 0x20),
    ):
        put(image, start, 0x30, volts, volts)
        _word(image, start + 5, tck)
        put(image, start + 7, mask)
        for at, time_ps in ((13, taa), (15, trcd), (17, trcd), (19, tras)):
            _word(image, start + at, time_ps)
        seal(image, start, start + 62, start + 62)
    return image


def ddr5_other_profiles(image: bytearray) -> bytearray:
    """Add 6000 at 30-38-38-96 and 1.35 V as profile 1 of the block from byte 832; the second is not enabled."""
    image[832:836] = bytes.fromhex("4558504F")
    put(image, 836, 0x10, 0x01)
    put(image, 842, 0x27, 0x27, 0x30, 0x00)
    for at, time_ps in ((846, 333), (848, 9990), (850, 12654), (852, 12654), (854, 31968)):
        _word(image, at, time_ps)
    seal(image, 832, 958, 958)
    return image


def ddr2() -> bytearray:
    """DDR2-800 UDIMM, 2 GiB: two ranks of 1 GiB, x8, CL6, 2.5 ns."""
    image = bytearray(128)
    put(image, 0, 128, 8, 0x08, 14, 10, 0x61, 64)
    image[9] = 0x25
    image[13] = 8
    image[18] = 0x70
    image[20] = 0x02
    put(image, 27, 0x3C, 0x1E, 0x3C, 45, 0x01)  # tRP 15 ns, tRRD 7.5 ns, tRCD 15 ns, tRAS 45 ns; 1 GiB a rank
    image[63] = sum(image[:63]) % 256
    image[64:73] = bytes([0x7F] * 8 + [0xA1])
    put(image, 64, 0x7F, 0x7F, 0xA1)
    image[73:91] = b"QM2-800-2".ljust(18)
    put(image, 93, 0x08, 0x33)
    put(image, 95, 1, 2, 3, 4)
    return image


def _word(image: bytearray, at: int, value: int) -> None:
    image[at : at + 2] = value.to_bytes(2, "little")


def _change(image: bytearray, changes: dict[str, int]) -> None:
    for name, value in changes.items():
        image[int(name[1:])] = value
