"""What a note of a try tells beside its words: the rate, total and channels of the machine, wrong bits, heat, how often it started.

The screen, a file of tries and the command read notes here, so that all of them know the same.
"""

from __future__ import annotations

import re
from dataclasses import replace

from after_check.domain.facts import value_of
from after_check.domain.outside_text import clean
from after_check.domain.tries import Try
from after_check.judgement.case import view
from after_check.language.typed_text import read_line
from after_check.tries.error_places import told_in
from after_check.tries.starts import starts_told


def noted(tried: Try, note: str) -> Try:
    """Return the try with a note, and with what the note says; what it says holds before what was noted earlier."""
    right = re.match(r"\s*(?:was )?put right:?\s+(.+)", note, re.IGNORECASE)
    if right:  # A cause that was put right before this try: it is at work no longer.
        return replace(tried, note=clean(note, 400), put_right=clean(right[1], 200))
    said = read_line(note)
    errors_at, celsius = told_in(note)
    starts, starts_failed = starts_told(note)
    view_of = view(said.reading) if note.strip() and not said.problems else None
    return replace(
        tried,
        note=clean(note, 400),
        rate_mts=(view_of.rate_mts if view_of is not None else None) or tried.rate_mts,
        total_bytes=(value_of(said.reading.total_bytes) if view_of is not None else None) or tried.total_bytes,
        channels=(value_of(said.reading.channels) if view_of is not None else None) or tried.channels,
        errors_at=errors_at or tried.errors_at,
        celsius=celsius if celsius is not None else tried.celsius,
        starts=starts or tried.starts,
        starts_failed=starts_failed if starts else tried.starts_failed,
    )
