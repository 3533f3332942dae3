"""Walking the structures of a table. Document: DSP0134 section 6.1 ("Structure standards")."""

from __future__ import annotations

from dataclasses import dataclass, field

from after_check.domain.outside_text import clean_bytes

LONGEST_TABLE_BYTES = 1 << 20
"""More than any firmware ships; what lies beyond is not read."""
MOST_STRUCTURES = 20_000
"""Handles are 16-bit numbers and unique, so more than 65,536 cannot be; real tables have some hundreds."""

_HEADER_BYTES = 4
END_OF_TABLE = 127


@dataclass(frozen=True, slots=True)
class Structure:
    """One structure: its formatted part, as long as it truly is, and its strings, cleaned.

    Every getter returns None for a field that the formatted part does not reach.
    """

    type: int
    handle: int
    formatted: bytes
    strings: tuple[bytes, ...]
    offset: int

    def byte(self, at: int) -> int | None:
        """Return the byte at an offset."""
        return self.formatted[at] if at < len(self.formatted) else None

    def word(self, at: int) -> int | None:
        """Return the little-endian 16-bit word at an offset."""
        return self._integer(at, 2)

    def dword(self, at: int) -> int | None:
        """Return the little-endian 32-bit word at an offset."""
        return self._integer(at, 4)

    def qword(self, at: int) -> int | None:
        """Return the little-endian 64-bit word at an offset."""
        return self._integer(at, 8)

    def string(self, at: int) -> str | None:
        """Return the string whose number is at an offset (section 6.1.3); None for number 0 or one not there."""
        number = self.byte(at)
        if not number or number > len(self.strings):
            return None
        return clean_bytes(self.strings[number - 1]) or None

    def _integer(self, at: int, size: int) -> int | None:
        part = self.formatted[at : at + size]
        return int.from_bytes(part, "little") if len(part) == size else None


@dataclass(frozen=True, slots=True)
class Table:
    """The structures of a table and what was wrong with it, in words."""

    structures: tuple[Structure, ...]
    problems: tuple[str, ...] = field(default=())
    ended: bool = False

    def of_type(self, number: int) -> tuple[Structure, ...]:
        """Return the structures of one type, in the table's order."""
        return tuple(structure for structure in self.structures if structure.type == number)


def walk(data: bytes) -> Table:
    """Return the structures of a table, as far as they can be trusted; any bytes are accepted.

    A structure is used as far as the bytes go; the walk stops at the first one that cannot be followed.
    The time taken is linear in the length of `data`, of which at most `LONGEST_TABLE_BYTES` are read.
    """
    structures: list[Structure] = []
    problems: list[str] = []
    if len(data) > LONGEST_TABLE_BYTES:
        problems.append(f"the table has {len(data):,} bytes; only the first {LONGEST_TABLE_BYTES:,} were read")
        data = data[:LONGEST_TABLE_BYTES]
    position, ended = 0, False
    while position + _HEADER_BYTES <= len(data):
        kind, length = data[position], data[position + 1]
        handle = int.from_bytes(data[position + 2 : position + 4], "little")
        formatted_end = position + length
        terminator = data.find(b"\0\0", formatted_end)
        problem = _problem(length, len(data) - formatted_end, terminator, kind)
        if problem:
            problems.append(f"structure {len(structures) + 1} (type {kind}, handle 0x{handle:04X}) at byte {position} {problem}")
        if length < _HEADER_BYTES:
            break
        if len(structures) == MOST_STRUCTURES:
            problems.append(f"the table has more than {MOST_STRUCTURES:,} structures; the rest was not read")
            break
        following = len(data) if terminator < 0 else terminator + 2
        raw_strings = data[formatted_end : following if terminator < 0 else terminator]
        strings = tuple(raw_strings.split(b"\0")) if raw_strings else ()
        structures.append(Structure(kind, handle, data[position : min(formatted_end, len(data))], strings, position))
        position = following
        if kind == END_OF_TABLE:
            ended = True
            break
    if not ended and not problems:
        problems.append("the table has no end-of-table structure; it may be cut off")
    return Table(tuple(structures), tuple(problems), ended)


def _problem(length: int, left: int, terminator: int, kind: int) -> str:
    """Return what is wrong with a structure of `length` bytes after which `left` bytes follow, or nothing."""
    if length < _HEADER_BYTES:
        return f"says it is {length} bytes long, shorter than its own header; the walk stops there"
    if left < 0:
        return f"says it is {length} bytes long; the table ends {-left} bytes before that"
    if terminator < 0 and kind != END_OF_TABLE:
        return "has no end mark after its strings; the table is cut off there"
    return ""
