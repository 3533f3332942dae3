"""Numerals and letters in blocks, to be read from the other side of the room."""

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
    "A": "010101111101101",
    "B": "110101110101110",
    "C": "111100100100111",
    "D": "110101101101110",
    "E": "111100110100111",
    "F": "111100110100100",
    "G": "111100101101111",
    "H": "101101111101101",
    "I": "111010010010111",
    "J": "111001001101111",
    "K": "101101110101101",
    "L": "100100100100111",
    "M": "101111111101101",
    "N": "110101101101101",
    "O": "111101101101111",
    "P": "111101111100100",
    "Q": "111101101111001",
    "R": "110101110101101",
    "S": "111100111001111",
    "T": "111010010010010",
    "U": "101101101101111",
    "V": "101101101101010",
    "W": "101101111111101",
    "X": "101101010101101",
    "Y": "101101010010010",
    "Z": "111001010100111",
    "-": "000000111000000",
    "_": "000000000000111",
    "/": "001001010100100",
    "%": "101001010100101",
    " ": "000000000000000",
}
"""Three columns by five rows, row by row."""


def large_words(words: str, cells: int, rows: int, most: int = 2) -> list[str]:
    """Return words drawn in blocks, on one line or on one line each, whichever makes them larger; none where there is too little room."""
    one = large(words, cells, rows, most)
    parts = words.split(" ")
    each = [large(part, cells, (rows - len(parts) + 1) // len(parts), most) for part in parts]
    if len(parts) == 1 or not all(each) or len(one) >= max(len(part) for part in each):
        return one
    size = min(len(part) for part in each)
    lines: list[str] = []
    for part in parts:
        lines += ["", *large(part, cells, size, most)]
    return lines[1:]


def large(text: str, cells: int, rows: int, most: int = 2) -> list[str]:
    """Return a text drawn in blocks as large as the room allows, `most` cells high each; none where there is too little."""
    wide, high = cells // max(1, len(text) * 4), rows // 5
    size = min(wide // 2, high, most)
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
