"""Small tools for lines of text in cells."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from itertools import zip_longest

from rich.cells import cell_len, set_cell_size
from rich.text import Text


def beside(left: Sequence[Text], right: Sequence[Text], column: int, gap: int) -> list[Text]:
    """Return two drawings beside each other, each `column` cells wide, with a gap between them."""
    lines: list[Text] = []
    for one, other in zip_longest(left, right, fillvalue=Text("")):
        line = one.copy()
        line.truncate(column, pad=True)
        line.append(" " * gap)
        line.append_text(other)
        lines.append(line)
    return lines


def day_and_time(at: datetime) -> str:
    """Return a moment in words, in the time of this place: 2 Dec 07:08."""
    return f"{at.astimezone():%-d %b %H:%M}"


def day_of(at: datetime) -> str:
    """Return a day in words, in the time of this place: 2 Dec."""
    return f"{at.astimezone():%-d %b}"


def fitted(text: str, cells: int) -> str:
    """Return text in exactly `cells` cells, cut with an ellipsis or padded with blanks."""
    if cells <= 0:
        return ""
    if cell_len(text) <= cells:
        return text + " " * (cells - cell_len(text))
    return set_cell_size(text, cells - 1).rstrip() + "…" + " " * (cells - 1 - cell_len(set_cell_size(text, cells - 1).rstrip()))


def shortened(text: str, cells: int) -> str:
    """Return text in at most `cells` cells: what does not fit is left out by whole words, and an ellipsis says so."""
    if cell_len(text) <= cells:
        return text
    words = text.split()
    while words and cell_len(" ".join(words)) + 2 > cells:
        words.pop()
    return f"{' '.join(words).rstrip(',;')} …" if words else fitted(text, cells)


def wrapped(text: str, cells: int) -> list[str]:
    """Return text in lines of at most `cells` cells, broken between words where a word fits."""
    lines: list[str] = []
    line = ""
    for word in text.split():
        while cell_len(word) > cells:
            if line:
                lines.append(line)
                line = ""
            lines.append(set_cell_size(word, cells))
            word = word[len(set_cell_size(word, cells)) :]
        candidate = f"{line} {word}" if line else word
        if cell_len(candidate) > cells:
            lines.append(line)
            line = word
        else:
            line = candidate
    return [*lines, line] if line else lines


def told_apart(names: Sequence[str], cells: int) -> list[str]:
    """Return names in exactly `cells` cells each; where they are cut, at the end at which they can still be told apart."""
    ends = [fitted(name, cells) for name in names]
    if len(set(ends)) == len(set(names)):
        return ends
    starts = [fitted(name if cell_len(name) <= cells else "…" + name[-(cells - 1) :], cells) for name in names]
    return starts if len(set(starts)) > len(set(ends)) else ends


def joined(lines: list[Text]) -> Text:
    """Return lines as one text."""
    whole = Text(no_wrap=True, end="")
    for index, line in enumerate(lines):
        if index:
            whole.append("\n")
        whole.append_text(line)
    return whole


def right_aligned(left: Text, right: Text, cells: int) -> Text:
    """Return a line with one text at its left end and another at its right end, which is whole where only one can be."""
    line = left.copy()
    line.truncate(max(0, cells - right.cell_len - 1), overflow="ellipsis")
    gap = max(1, cells - line.cell_len - right.cell_len)
    line.append(" " * gap)
    line.append_text(right)
    return line
