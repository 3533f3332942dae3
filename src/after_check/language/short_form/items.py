"""Cutting a line of notation into items and names, with their positions."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass

LONGEST_LINE = 8_000
"""Characters; a board with 64 slots, each fully described, fits with room to spare."""

QUOTED = r'"(?:[^"]|"")*"'
_ITEM = re.compile(rf'(?:{QUOTED}|[^";])+')
_BLANKS = re.compile(r"\s*")


@dataclass(frozen=True, slots=True)
class Item:
    """A stretch of the line between two semicolons, without the blanks around it."""

    line: str
    start: int
    end: int

    @property
    def text(self) -> str:
        """The characters of the item."""
        return self.line[self.start : self.end]


def split_items(line: str) -> Iterator[Item]:
    """Yield the items of a line; semicolons within quotes part nothing, an open quote runs to the end."""
    closed = line if line.count('"') % 2 == 0 else line + '"'
    for match in _ITEM.finditer(closed):
        end = min(match.end(), len(line))
        text = line[match.start() : end]
        stripped = text.strip()
        if stripped:
            start = match.start() + len(text) - len(text.lstrip())
            yield Item(line, start, start + len(stripped))


class Cursor:
    """Reads an item from left to right by patterns; blanks before a pattern are skipped."""

    def __init__(self, item: Item, start: int | None = None) -> None:
        self.line = item.line
        self.at = item.start if start is None else start
        self.end = item.end
        self.skip_blanks()

    @property
    def done(self) -> bool:
        """Whether nothing is left."""
        return self.at >= self.end

    def skip_blanks(self) -> None:
        """Move to the next character that is not a blank."""
        matched = _BLANKS.match(self.line, self.at, self.end)
        if matched is not None:
            self.at = matched.end()

    def take(self, pattern: re.Pattern[str]) -> re.Match[str] | None:
        """Return the match of a pattern here and move behind it, or return None and stay."""
        matched = pattern.match(self.line, self.at, self.end)
        if matched is not None:
            self.at = matched.end()
            self.skip_blanks()
        return matched

    def take_rest_of_word(self) -> tuple[int, int]:
        """Move behind the next word and return its start and end."""
        start = self.at
        matched = re.compile(rf"{QUOTED}|\S+").match(self.line, self.at, self.end)
        self.at = matched.end() if matched else self.end
        end = self.at
        self.skip_blanks()
        return start, end


def unquote(text: str) -> str:
    """Return what is within quotes, with doubled quotes made single; other text as it is."""
    if len(text) >= 2 and text[0] == '"' and text[-1] == '"':
        return text[1:-1].replace('""', '"')
    return text.strip('"') if text.startswith('"') else text


def quote(text: str) -> str:
    """Return text in quotes, so that it reads back as it is."""
    return '"' + text.replace('"', '""') + '"'
