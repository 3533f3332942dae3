"""A card: what is known of a machine model."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from after_check.domain.modules import Form, Generation


class EccSupport(StrEnum):
    """What a machine does with error correction."""

    UNSUPPORTED = "unsupported"
    OPTIONAL = "optional"
    REQUIRED = "required"


class ProfileChoice(StrEnum):
    """What a machine's firmware offers of memory profiles."""

    CHOICE = "choice"
    LOCKED = "locked"
    NONE = "none"


@dataclass(frozen=True, slots=True)
class CardSlot:
    """A slot of the model by its name, and the channel that it belongs to; empty where nobody said it.

    `guessed`: the program suggested the channel, and nobody confirmed or read it. It is drawn as a guess, and proves nothing.
    """

    name: str
    channel: str
    guessed: bool = False


@dataclass(frozen=True, slots=True)
class PlatformRate:
    """The fastest rate with so many modules in a channel, and with so many ranks where that matters."""

    per_channel: int
    rate_mts: int
    ranks: int | None = None


@dataclass(frozen=True, slots=True)
class Card:
    """A machine model. `slots` stand in the order in which they are to be filled; what is not known is None or empty.

    `supported_parts` are the part numbers that the machine's maker supports; empty where there is no such list.
    """

    name: str
    kind: str = ""
    generation: Generation | None = None
    forms: tuple[Form, ...] = ()
    ecc: EccSupport | None = None
    total_bytes: int | None = None
    module_bytes: int | None = None
    profile: ProfileChoice | None = None
    slots: tuple[CardSlot, ...] = ()
    rates: tuple[PlatformRate, ...] = ()
    supported_parts: tuple[str, ...] = ()
    usual_start_seconds: int | None = None
    longest_start_seconds: int | None = None
    signs: tuple[str, ...] = ()

    def channel_of(self, slot: str) -> str | None:
        """Return the channel of a slot by its name, whatever its case; None where the card does not know it, or only guesses."""
        found = next((known for known in self.slots if known.name.casefold() == slot.casefold()), None)
        return found.channel or None if found is not None and not found.guessed else None

    def rate_for(self, per_channel: int, ranks: int | None = None) -> int | None:
        """Return the platform's rate for a load: the entry for as many modules, and for as many ranks or the nearest above."""
        same = [rate for rate in self.rates if rate.per_channel == per_channel]
        fitting = [rate.rate_mts for rate in same if not rate.ranks or not ranks or rate.ranks >= ranks]
        return max(fitting, default=None)

    def at_least_for(self, per_channel: int, ranks: int | None = None) -> int | None:
        """Return what the platform reaches with a load at the least: its rate, or that for more modules in a channel."""
        counts = sorted({rate.per_channel for rate in self.rates if rate.per_channel >= per_channel})
        return next((rate for count in counts if (rate := self.rate_for(count, ranks)) is not None), None)

    @property
    def highest_rate_mts(self) -> int | None:
        """The fastest rate that the platform reaches with any load."""
        return max((rate.rate_mts for rate in self.rates), default=None)
