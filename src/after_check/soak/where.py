"""Which reading tells where this computer's addresses are: its own, or the one that the job has."""

from __future__ import annotations

from after_check.domain.facts import value_of
from after_check.domain.readings import Reading
from after_check.sources.errors import SourceError
from after_check.sources.linux import read_this_machine


def reading_for_slots(kept: Reading | None = None) -> Reading | None:
    """Return this computer's own reading where it lists modules and is no virtual one, else the kept reading.

    A soak tests this computer, so its own tables name the slots; without the right to read them, the job's do.
    """
    try:
        own = read_this_machine().reading
    except (SourceError, OSError):
        return kept
    return own if own.modules and not value_of(own.virtual) else kept
