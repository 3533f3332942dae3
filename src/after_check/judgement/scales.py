"""Where the three marks of a track stand on its scale; the screen and the sheet share it."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

if TYPE_CHECKING:
    from after_check.domain.findings import Track


_HEADROOM = 1.12
"""The scale runs from zero to a little beyond the largest of the three values, so that lengths compare honestly."""


class Marks(NamedTuple):
    """Positions from 0 to 1; None where the value is not known. `gap` runs from now to promised, where now is short."""

    before: float | None
    promised: float | None
    now: float | None

    @property
    def gap(self) -> tuple[float, float] | None:
        """The stretch between what is and what was promised, from left to right."""
        if self.promised is None or self.now is None or self.promised == self.now:
            return None
        return (min(self.promised, self.now), max(self.promised, self.now))


def marks_of(track: Track) -> Marks | None:
    """Return the positions of a track's marks, or None where the track has no numbers (the profile)."""
    values = [track.before, track.promised, track.now]
    numbers = [float(value) for value in values if isinstance(value, int | float)]
    if not numbers or max(numbers) <= 0:
        return None
    end = max(numbers) * _HEADROOM
    before, promised, now = (float(value) / end if isinstance(value, int | float) else None for value in values)
    return Marks(before, promised, now)
