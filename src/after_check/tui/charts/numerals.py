"""A clock in large numerals, to be read from the other side of the bench."""

from __future__ import annotations

_SHAPES = {
    "0": "111101101101111",
    "1": "010110010010111",
    "2": "111001111100111",
    "3": "111001111001111",
    "4": "101101111001001",
    "5": "111100111001111",
    "6": "111100111101111",
    "7": "111001010010010",
    "8": "111101111101111",
    "9": "111101111001111",
    ":": "000010000010000",
}
"""Three columns by five rows, row by row."""


def large(text: str, cells: int, rows: int) -> list[str]:
    """Return digits and colons drawn in blocks as large as the room allows; none where there is too little."""
    wide, high = cells // (len(text) * 4), rows // 5
    size = min(wide // 2, high, 2)
    if size < 1:
        return []
    lines: list[str] = []
    for row in range(5):
        drawn = "".join(
            "".join(("█" if _SHAPES[letter][row * 3 + column] == "1" else " ") * (2 * size) for column in range(3)) + " " * (2 * size)
            for letter in text
            if letter in _SHAPES
        )
        lines += [drawn.rstrip()] * size
    return lines
