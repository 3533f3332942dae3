"""The hand-back: what a person adds to the sheet, what was agreed to otherwise, and who signed which revision."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

ON_THE_STICKER = "the modules' stickers say so"
"""Why something promised counts as known that no machine shows: somebody looked."""
ONLY_DESCRIBES = "it only describes the modules"
"""Why something promised need not be known: nothing depends on it."""
_SETTLED = "settled "


def settled_code(name: str) -> str:
    """Return under which code it is settled on the spot that something promised counts, though no machine shows it."""
    return f"{_SETTLED}{name}"


@dataclass(frozen=True, slots=True)
class Override:
    """Something that the sheet says otherwise than the judgement, with the reason and who agreed.

    `code` is the finding that is accepted, `unknown QUANTITY` for a promised quantity that need not be known, `settled NAME`
    for what a sticker told or what only describes the modules, or `promise` for a promise that was changed in agreement with the
    customer; `before` and `after` are then the two promises in notation.
    """

    code: str
    reason: str
    by: str = ""
    at: datetime | None = None
    before: str = ""
    after: str = ""

    @property
    def settles(self) -> bool:
        """Whether somebody looked, and nothing was agreed."""
        return self.code.startswith(_SETTLED)


@dataclass(frozen=True, slots=True)
class HandBack:
    """What a person adds to the sheet. Empty texts were not filled in.

    `as_it_came` is why the machine goes back as it came, where it does.
    """

    old_modules: str = ""
    warranty: str = ""
    later: str = ""
    note: str = ""
    as_it_came: str = ""
    overrides: tuple[Override, ...] = ()

    @property
    def settled(self) -> dict[str, str]:
        """What was settled on the spot, by its name, and why it counts."""
        return {one.code.removeprefix(_SETTLED): one.reason for one in self.overrides if one.settles}

    @property
    def agreements(self) -> tuple[Override, ...]:
        """What was agreed with the customer: all but a changed promise, and what was settled by looking."""
        return tuple(one for one in self.overrides if one.code != "promise" and not one.settles)

    def accepted(self, code: str) -> Override | None:
        """Return the override that accepts a finding, where there is one."""
        return next((override for override in self.overrides if override.code == code), None)


@dataclass(frozen=True, slots=True)
class Revision:
    """A signed state of a job: its number from 1, when and by whom, and the SHA-256 of the job's document at that moment."""

    number: int
    signed_at: datetime
    signed_by: str
    sha256: str
