"""Cards as TOML files, in and out; the form is described in `docs/file-formats.md`."""

from __future__ import annotations

import re
import tomllib
from collections.abc import Iterable
from pathlib import Path
from typing import Any

from after_check.domain.boards import names_tell_channels
from after_check.domain.cards import Card, CardSlot, EccSupport, PlatformRate, ProfileChoice
from after_check.domain.modules import Form, Generation
from after_check.domain.outside_text import clean
from after_check.domain.quantities import parse_size, size_notation
from after_check.domain.readings import Reading
from after_check.files.errors import SourceError
from after_check.files.plain_files import read_plain
from after_check.standards.rates import HIGHEST_RATE_MTS

LARGEST_CARD_BYTES = 256 << 10
_MOST_SLOTS = 256
_SECONDS = {"s": 1, "sec": 1, "min": 60, "h": 3600}
_KNOWN = {
    "": {"card", "memory", "start"},
    "card": {"name", "kind"},
    "memory": {"generation", "forms", "ecc", "total", "module", "profile", "slot", "rate", "supported"},
    "start": {"usual", "longest", "signs"},
}


def parse_card(text: str, where: str = "card") -> Card:
    """Read a card. Raises SourceError that names the key and what would do."""
    if len(text) > LARGEST_CARD_BYTES:
        raise SourceError(f"the card has {len(text):,} characters, far more than any", where)
    try:
        data = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        raise SourceError(f"this is no TOML ({clean(str(error), 100)})", where) from None
    reader = _Reader(where)
    card, memory, start = (reader.table(data, name) for name in ("card", "memory", "start"))
    for name, table in (("", data), ("card", card), ("memory", memory), ("start", start)):
        for key in table:
            if key not in _KNOWN[name]:
                reader.refuse(f"{name}.{key}".strip("."), "is no key of a card", f"known here: {', '.join(sorted(_KNOWN[name]))}")
    title = reader.text(card, "card.name")
    if not title:
        reader.refuse("card.name", "is missing", 'for instance name = "Larkfield T1"')
    return Card(
        name=title or "",
        kind=reader.text(card, "card.kind") or "",
        generation=reader.one_of(memory, "memory.generation", {generation.value: generation for generation in Generation}),
        forms=tuple(reader.form(name) for name in reader.texts(memory, "memory.forms")),
        ecc=reader.one_of(memory, "memory.ecc", {support.value: support for support in EccSupport}),
        total_bytes=reader.size(memory, "memory.total"),
        module_bytes=reader.size(memory, "memory.module"),
        profile=reader.one_of(memory, "memory.profile", {choice.value: choice for choice in ProfileChoice}),
        slots=reader.slots(memory),
        rates=reader.rates(memory),
        supported_parts=reader.texts(memory, "memory.supported"),
        usual_start_seconds=reader.seconds(start, "start.usual"),
        longest_start_seconds=reader.seconds(start, "start.longest"),
        signs=reader.texts(start, "start.signs"),
    )


def read_card_file(path: Path) -> Card:
    """Read a card from a file. Raises SourceError."""
    try:
        return parse_card(read_plain(path, LARGEST_CARD_BYTES, "card").decode("utf-8"), str(path))
    except UnicodeDecodeError as error:
        raise SourceError(f"is no text in UTF-8 (byte {error.start})", str(path)) from None


class _Reader:
    """Takes values out of the tables of a card, each with its place in the message when it does not fit."""

    def __init__(self, where: str) -> None:
        self._where = where

    def refuse(self, key: str, what: str, help: str = "") -> None:
        raise SourceError(f"{key} {what}", self._where, help)

    def table(self, data: dict[str, Any], key: str) -> dict[str, Any]:
        value = data.get(key, {})
        if not isinstance(value, dict):
            self.refuse(key, "is no table", f"write [{key}]")
        return dict(value)

    def text(self, table: dict[str, Any], key: str) -> str | None:
        value = table.get(key.rsplit(".", 1)[-1])
        if value is None:
            return None
        if not isinstance(value, str):
            self.refuse(key, "is no text", 'put it into "quotes"')
        return clean(str(value)) or None

    def texts(self, table: dict[str, Any], key: str) -> tuple[str, ...]:
        value = table.get(key.rsplit(".", 1)[-1], [])
        if not isinstance(value, list) or not all(isinstance(text, str) for text in value):
            self.refuse(key, "is no list of texts", '["one", "two"]')
        return tuple(clean(text) for text in value if clean(text))

    def one_of(self, table: dict[str, Any], key: str, known: dict[str, Any]) -> Any:
        value = self.text(table, key)
        if value is None:
            return None
        found = {name.casefold(): meant for name, meant in known.items()}.get(value.casefold())
        if found is None:
            self.refuse(key, f"is {value!r}", f"known: {', '.join(known)}")
        return found

    def form(self, name: str) -> Form:
        known = {form.value.casefold(): form for form in Form}
        if name.casefold().replace("-", "") not in known:
            self.refuse("memory.forms", f"has {name!r}", f"known: {', '.join(form.value for form in Form)}")
        return known[name.casefold().replace("-", "")]

    def size(self, table: dict[str, Any], key: str) -> int | None:
        value = self.text(table, key)
        if value is None:
            return None
        size_bytes = parse_size(value)
        if not size_bytes:
            self.refuse(key, f"is {value!r}", 'for instance "64 GiB"')
        return size_bytes

    def seconds(self, table: dict[str, Any], key: str) -> int | None:
        value = self.text(table, key)
        if value is None:
            return None
        match = re.fullmatch(r"(\d{1,5})\s*(s|sec|min|h)", value.strip())
        if match is None:
            self.refuse(key, f"is {value!r}", 'for instance "35 s" or "6 min"')
            return None
        return int(match[1]) * _SECONDS[match[2]]

    def slots(self, memory: dict[str, Any]) -> tuple[CardSlot, ...]:
        slots: list[CardSlot] = []
        for index, slot in enumerate(self._tables(memory, "slot")):
            key = f"memory.slot {index + 1}"
            name, channel = self.text(slot, "name"), self.text(slot, "channel")
            if not name:
                self.refuse(key, "needs a name", 'name = "A2", channel = "A"')
            if any(slot.name.casefold() == (name or "").casefold() for slot in slots):
                self.refuse(key, f"repeats the name {name!r}")
            slots.append(CardSlot(name or "", channel or "", slot.get("guess") is True))
        return tuple(slots)

    def rates(self, memory: dict[str, Any]) -> tuple[PlatformRate, ...]:
        rates: list[PlatformRate] = []
        for index, row in enumerate(self._tables(memory, "rate")):
            per_channel, rate, ranks = row.get("per_channel"), row.get("rate"), row.get("ranks")
            sound = isinstance(per_channel, int) and 1 <= per_channel <= 8 and isinstance(rate, int) and 100 <= rate <= HIGHEST_RATE_MTS
            if not sound or not (ranks is None or (isinstance(ranks, int) and 1 <= ranks <= 16)):
                self.refuse(f"memory.rate {index + 1}", "needs per_channel (1 to 8) and rate (MT/s)", "per_channel = 1, rate = 3200")
            rates.append(PlatformRate(int(per_channel or 1), int(rate or 0), ranks))
        return tuple(rates)

    def _tables(self, memory: dict[str, Any], key: str) -> list[dict[str, Any]]:
        value = memory.get(key, [])
        if not isinstance(value, list) or not all(isinstance(table, dict) for table in value) or len(value) > _MOST_SLOTS:
            self.refuse(f"memory.{key}", "is no list of tables", f"write [[memory.{key}]]")
        return list(value)


def write_card(card: Card) -> str:
    """Return a card as TOML that reads back the same; what is not known is left out."""
    # Only keeping a card needs the library that writes TOML.
    import tomlkit

    def table(**values: object) -> tomlkit.items.Table:
        made = tomlkit.table()
        for key, value in values.items():
            if value not in (None, "", 0, []):
                made.add(key, value)
        return made

    def tables(rows: Iterable[tomlkit.items.Table]) -> tomlkit.items.AoT:
        made = tomlkit.aot()
        for row in rows:
            made.append(row)
        return made

    memory = table(
        generation=card.generation.value if card.generation else "",
        forms=[form.value for form in card.forms],
        ecc=card.ecc.value if card.ecc is not None else "",
        profile=card.profile.value if card.profile is not None else "",
        total=size_notation(card.total_bytes) if card.total_bytes is not None else "",
        module=size_notation(card.module_bytes) if card.module_bytes is not None else "",
        supported=list(card.supported_parts),
        slot=tables(table(name=slot.name, channel=slot.channel or None, guess=slot.guessed or None) for slot in card.slots),
        rate=tables(table(per_channel=rate.per_channel, rate=rate.rate_mts, ranks=rate.ranks) for rate in card.rates),
    )
    start = table(
        usual=f"{card.usual_start_seconds} s" if card.usual_start_seconds else "",
        longest=f"{card.longest_start_seconds} s" if card.longest_start_seconds else "",
        signs=list(card.signs),
    )
    document = tomlkit.document()
    document["card"] = table(name=card.name, kind=card.kind)
    document["memory"] = memory
    if start:
        document["start"] = start
    return tomlkit.dumps(document)


def _usual_channels(count: int) -> tuple[str, ...]:
    """Return how two or four slots usually stand on channels, to be confirmed; of other numbers nothing is usual."""
    return {2: ("A", "B"), 4: ("A", "A", "B", "B")}.get(count, ("",) * count)


def card_from_reading(reading: Reading, name: str) -> Card:
    """Return what a reading tells of its model: slots in their order, channels by name, limits, generation, forms."""
    generations = {module.generation.value for module in reading.modules if module.generation}
    forms = {module.form.value for module in reading.modules if module.form}
    # A letter in a name is how boards are usually labelled, and a list of the firmware is read; anything else is a guess.
    listed = {slot: channel.name for channel in reading.firmware_channels for slot in channel.slots}
    tells = names_tell_channels(reading.slots)
    slots = []
    for slot, usual in zip(reading.slots, _usual_channels(len(reading.slots)), strict=True):
        channel = listed.get(slot.name) or (slot.place.channel if slot.place else usual)
        is_read = slot.name in listed or (tells and slot.place is not None)
        slots.append(CardSlot(slot.name, channel, guessed=bool(channel) and not is_read))
    return Card(
        name=name,
        generation=generations.pop() if len(generations) == 1 else None,
        forms=tuple(sorted(forms)),
        total_bytes=reading.array_limit_bytes.value if reading.array_limit_bytes else None,
        slots=tuple(slots),
    )
