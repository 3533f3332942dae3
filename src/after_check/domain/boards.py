"""Slots of a board and what their names tell."""

from __future__ import annotations

import functools
import re
from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

from after_check.domain.facts import value_of
from after_check.domain.modules import Form, Module
from after_check.domain.quantities import size_text


class Filling(StrEnum):
    """Whether a slot holds a module."""

    FILLED = "filled"
    EMPTY = "empty"
    UNKNOWN = "unknown"
    PERSISTENT = "persistent"


@dataclass(frozen=True, slots=True)
class Slot:
    """One slot by the name its source gives it; `module` is there when the slot is filled.

    A slot with persistent memory holds `kept_bytes` of it: that is drawn, and is no working memory.
    """

    name: str
    filling: Filling
    module: Module | None = None
    bank: str = ""
    kept_bytes: int | None = None

    def __post_init__(self) -> None:
        if (self.filling is Filling.FILLED) != (self.module is not None):
            raise ValueError(f"slot {self.name!r} is {self.filling} and has module {self.module!r}")

    @property
    def words(self) -> str:
        """What is in a slot without a module of working memory."""
        if self.filling is Filling.PERSISTENT:
            return f"persistent {size_text(self.kept_bytes)}, no working memory" if self.kept_bytes else "persistent, no working memory"
        return "empty" if self.filling is Filling.EMPTY else "not known"

    @property
    def place(self) -> Place | None:
        """What the slot's name, with its bank name, tells; None where it tells no channel."""
        return place_of(self.name, self.bank)


@dataclass(frozen=True, slots=True, order=True)
class Place:
    """What a slot name says: socket, controller, channel letter and position within the channel."""

    socket: str
    channel: str
    position: int


def board_order(slot: Slot) -> tuple[bool, str, str, int, str]:
    """Return the order of slots on a drawing: those of a channel stand together, whatever was named or is filled first."""
    place = slot.place
    socket, channel, position = (place.socket, place.channel, place.position) if place is not None else ("", "", 0)
    return (place is None, socket, channel, position, slot.name)


_SOCKET = re.compile(r"(?:CPU|PROC(?:ESSOR)?|NODE|SOCKET|P)\s*_?(\d{1,2})(?=[\s_\-/]|CHANNEL|DIMM)", re.IGNORECASE | re.ASCII)
_CONTROLLER = re.compile(r"(?<![A-Z])(?:CONTROLLER|MC|IMC)\s*_?(\d{1,3})", re.IGNORECASE | re.ASCII)
_CHANNEL_WORD = re.compile(r"(?:CHANNEL|CHAN|CHN|CH)[\s_\-]*([A-P]|\d{1,2})(?![A-Z])", re.IGNORECASE | re.ASCII)
_POSITION_WORD = re.compile(r"(?:DIMM|SLOT|D)[\s_\-#]*(\d{1,2})\b", re.IGNORECASE | re.ASCII)
_LETTER_DIGIT = re.compile(
    r"(?<![A-Z])(?:SO-?DIMM|DIMM|SLOT|DDR\d?)?[\s_\-#]*([A-P])[\s_\-]?(\d{1,2})(?![0-9A-Z])", re.IGNORECASE | re.ASCII
)
_THREE_DIGITS = re.compile(r"DIMM[\s_\-]?(\d)(\d)(\d)(?!\d)", re.IGNORECASE | re.ASCII)
"""Processor, channel and slot, a digit each, as some servers count them."""
_OF_AN_ARRAY = re.compile(r"A\d_(?:DIMM|BANK)\d+", re.IGNORECASE | re.ASCII)
"""A name that counts arrays and devices: its letter is no channel."""
_MOST_IN_A_CHANNEL = 3
_LAST_USUAL_LETTER = "H"
_LETTER = re.compile(r"([A-P])", re.IGNORECASE | re.ASCII)
_BARE_LETTER = re.compile(r"(?:DIMM|SLOT)[\s_\-#]*([A-P])\s*\Z", re.IGNORECASE | re.ASCII)


@functools.lru_cache(maxsize=4096)
def place_of(locator: str, bank: str = "") -> Place | None:
    """Return the place that a slot's name, with its bank name, tells; None where it tells no channel.

    Styles that are read: `A`, `A1`, `DIMM_A1`, `DIMM A`, `ChannelA-DIMM0`, `Controller0-ChannelB-DIMM1`,
    `CPU1_DIMM_A2`, `DIMM 0` with bank `P0 CHANNEL A`, `Channel B Slot 1`. Plain numbers (`DIMM 3`) tell none.
    """
    if _OF_AN_ARRAY.fullmatch(locator.strip()):
        return None
    if digits := _THREE_DIGITS.search(locator):
        return Place(digits[1], digits[2], int(digits[3]))
    whole = f"{bank} {locator}"
    sockets = _SOCKET.search(whole)
    socket = sockets[1] if sockets else "0"
    if controller := _CONTROLLER.search(whole):
        socket = f"{socket}.{controller[1]}"
    if channel := _CHANNEL_WORD.search(whole):
        positions = _POSITION_WORD.search(locator)
        return Place(socket, channel[1].upper(), int(positions[1]) if positions else 0)
    stripped = _SOCKET.sub(" ", locator)
    if matched := _LETTER_DIGIT.search(stripped):
        return Place(socket, matched[1].upper(), int(matched[2]))
    if matched := _BARE_LETTER.search(stripped) or _LETTER.fullmatch(stripped.strip()):
        return Place(socket, matched[1].upper(), 0)
    return None


def names_tell_channels(slots: Iterable[Slot]) -> bool:
    """Return whether the letters of slot names can be channels, where no word says so.

    A channel has at most three slots: letters with more of them count processors (A1 to A16), and single letters far down
    the alphabet (M1, M2) are a board's own names.
    """
    places = [place for slot in slots if (place := slot.place) is not None and not _CHANNEL_WORD.search(f"{slot.bank} {slot.name}")]
    letters = [place for place in places if place.channel.isalpha()]
    counts = Counter((place.socket, place.channel) for place in letters)
    if any(place.position > _MOST_IN_A_CHANNEL for place in letters) or any(count > _MOST_IN_A_CHANNEL for count in counts.values()):
        return False
    return not letters or min(place.channel for place in letters) <= _LAST_USUAL_LETTER


def short_name(name: str) -> str:
    """Return the name as people write it: letter and number where it tells a place, else the name itself."""
    if re.fullmatch(r"[A-Za-z]\d{1,2}", name):
        return name.upper()
    return name


@dataclass(frozen=True, slots=True)
class Soldered:
    """Devices of one kind that are soldered to the board: what a firmware lists as so many slots is one thing to whoever looks.

    `names` are the slots that the firmware made up for them; `device` is one of them.
    """

    names: tuple[str, ...]
    device: Module
    count: int

    @property
    def size_bytes(self) -> int | None:
        """What all of them hold; None where the size of one is not known."""
        size = value_of(self.device.size_bytes)
        return None if size is None else size * self.count


def soldered_apart(slots: Iterable[Slot], loose: Iterable[Module]) -> tuple[tuple[Soldered, ...], tuple[Slot, ...], tuple[Module, ...]]:
    """Return what is soldered by kind, the other slots, and the other modules without one. A single device with a name stays a slot."""
    named: dict[tuple[object, ...], list[Slot]] = {}
    nameless: dict[tuple[object, ...], list[Module]] = {}
    loose, slots = tuple(loose), tuple(slots)
    for slot in slots:
        if slot.module is not None and _is_soldered(slot.module):
            named.setdefault(_kind(slot.module), []).append(slot)
    for module in loose:
        if _is_soldered(module):
            nameless.setdefault(_kind(module), []).append(module)
    groups = [group for group in named.values() if len(group) > 1]
    gone = {slot.name for group in groups for slot in group}
    found = [Soldered(tuple(slot.name for slot in group), group[0].module, len(group)) for group in groups if group[0].module is not None]
    found += [Soldered((), group[0], len(group)) for group in nameless.values()]
    others = tuple(slot for slot in slots if slot.name not in gone)
    return tuple(found), others, tuple(module for module in loose if not _is_soldered(module))


def _is_soldered(module: Module) -> bool:
    return value_of(module.form) is Form.SOLDERED


def _kind(module: Module) -> tuple[object, ...]:
    sold_as = (value_of(module.generation), value_of(module.rated_mts), value_of(module.size_bytes))
    return (*sold_as, value_of(module.maker), value_of(module.part))
