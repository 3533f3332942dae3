"""The table of marks: each sign means one thing, in all views, in the commands and on paper. `?` shows those that are on the screen.

A mark is never told by its colour alone, and a colour beside it says the same: green is kept or better, red is short or worse,
amber is promised, asked or to be minded; everything else has the colour of text.
"""

from __future__ import annotations

from enum import Enum


class ScreenMark(Enum):
    """A sign and what it means."""

    GOOD = "✓", "yes; as promised; better"
    BAD = "✗", "no; not as promised; wrong"
    UNKNOWN = "?", "not known"
    NOT_ASKED = "–", "not asked for"
    WAIVED = "≈", "agreed with the customer"
    NOW = "●", "now, or the later of two; of a choice: taken"
    ARRIVAL = "○", "on arrival, or the earlier of two; of a choice: not taken"
    PROMISED = "◇", "promised"
    NOW_AS_PROMISED = "◈", "now, as promised"
    NOW_AS_BEFORE = "◉", "now, as on arrival"
    FIX = "▲", "to fix; a fault, or something against it"
    TELL = "■", "to tell the customer, or to mind"
    NOTE = "·", "to note"
    NEXT = "▸", "what to do next"
    FOLLOWS = "─▶", "what follows from it"
    CURSOR = "▶", "chosen: the keys are about this"
    RUNS = "◐", "runs now"
    DONE = "▮", "done"
    TO_DO = "▯", "to do"
    FROM_TO = "→", "from here to there; from this to that"
    OUT = "←", "taken out"
    NOT_SEEN = "◌", "fitted, not seen"
    HELD = "✥", "in the hand, to be put down elsewhere"
    LIMIT = "◂", "this is the limit; the slowest"
    LINE = "┊", "a known limit on the scale"
    DIFFERS = "≠", "said otherwise elsewhere"
    CYCLES = "↻", "switched itself off and on"
    REMARK = "✎", "has a note"
    SETTLED = "◆", "settled: signed, or clear"

    @property
    def sign(self) -> str:
        """The sign."""
        return self.value[0]

    @property
    def meaning(self) -> str:
        """What it means, in a few words."""
        return self.value[1]


def marks_in(text: str) -> tuple[ScreenMark, ...]:
    """Return the marks that a text has, in the order of the table; signs that are letters elsewhere (`?`, `–`, `·`) are left out."""
    alone = text.replace(ScreenMark.FOLLOWS.sign, "")
    return tuple(mark for mark in ScreenMark if mark not in _ALSO_LETTERS and mark.sign in (text if mark is ScreenMark.FOLLOWS else alone))


_ALSO_LETTERS = frozenset((ScreenMark.UNKNOWN, ScreenMark.NOT_ASKED, ScreenMark.NOTE))
