"""Signs of a start at one key each, in the entry of a try and in the start watch."""

from __future__ import annotations

SIGNS = {
    "B": "beeps",
    "F": "fans stay fast",
    "P": "no picture",
    "L": "a warning light",
    "M": "message: the amount of memory changed",
    "T": "text on the screen",
    "H": "hot",
}
"""Signs at one key each; the same key takes it back."""
