"""The entry points. Document: DSP0134 section 5.2 ("Table convention")."""

from __future__ import annotations

from dataclasses import dataclass

_ANCHOR_32 = b"_SM_"
_ANCHOR_64 = b"_SM3_"
_ANCHOR_INTERMEDIATE = b"_DMI_"
_SHORTEST_32 = 0x1E
"""Version 2.1 of the document gave the length as 1Eh by mistake; tables made after it are still about."""
_SHORTEST_64 = 0x18


@dataclass(frozen=True, slots=True)
class EntryPoint:
    """What an entry point says. `structure_count` is known of 32-bit entry points only."""

    major: int
    minor: int
    table_length_bytes: int
    table_address: int
    structure_count: int | None
    length_bytes: int
    checksum_right: bool

    @property
    def version(self) -> str:
        """The version of the document that the tables follow, such as `3.4`."""
        return f"{self.major}.{self.minor}"


def parse_entry_point(data: bytes) -> EntryPoint | None:
    """Return the entry point at the start of `data`, or None where there is none.

    A wrong checksum is reported and not refused: firmware in the field has them, and the tables may be sound.
    """
    if data.startswith(_ANCHOR_64) and len(data) >= _SHORTEST_64:
        length = data[6]
        return EntryPoint(
            major=data[7],
            minor=data[8],
            table_length_bytes=int.from_bytes(data[0x0C:0x10], "little"),
            table_address=int.from_bytes(data[0x10:0x18], "little"),
            structure_count=None,
            length_bytes=length,
            checksum_right=_SHORTEST_64 <= length <= len(data) and sum(data[:length]) % 256 == 0,
        )
    if data.startswith(_ANCHOR_32) and len(data) >= _SHORTEST_32 and data[0x10:0x15] == _ANCHOR_INTERMEDIATE:
        length = data[5]
        return EntryPoint(
            major=data[6],
            minor=data[7],
            table_length_bytes=int.from_bytes(data[0x16:0x18], "little"),
            table_address=int.from_bytes(data[0x18:0x1C], "little"),
            structure_count=int.from_bytes(data[0x1C:0x1E], "little"),
            length_bytes=length,
            checksum_right=_SHORTEST_32 <= length <= len(data) and sum(data[:length]) % 256 == 0,
        )
    return None
