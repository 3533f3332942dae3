"""A log of tries as a TOML file, in; the form is described in `docs/file-formats.md`."""

from __future__ import annotations

import re
import tomllib
from dataclasses import replace
from pathlib import Path
from typing import Annotated, Any, Literal

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, ValidationError

from after_check.domain.cards import Card
from after_check.domain.modules import Form
from after_check.domain.outside_text import clean
from after_check.domain.quantities import parse_size
from after_check.domain.tries import Arrangement, Elsewhere, SoakSaid, Started, Try, TryLog, TryModule
from after_check.files.errors import SourceError
from after_check.files.form_errors import in_words
from after_check.files.plain_files import read_plain
from after_check.language.typed_text import modules_said
from after_check.sources.card_file import read_card_file
from after_check.tries.elsewhere import MOST_NOTED, said_elsewhere
from after_check.tries.notes import noted

LARGEST_FILE_BYTES = 512 << 10
MOST_MODULES, MOST_SLOTS, MOST_TRIES = 32, 32, 100

_OFF = re.compile(r"(switch|shut|turn)\w* (itself )?off|off under load|powers? off", re.IGNORECASE)
_PLAIN_KEYS = ("words", "notation", "label", "size", "type", "rate", "form", "cl", "ranks", "voltage")
_STATES = ("old", "soldered", "known_good")
_NAMED_KEYS = ("maker", "part", "serial", "date", "std")


def _name(value: Any) -> Any:
    return clean(value, 40) if isinstance(value, str) else value


def _start(value: Any) -> Any:
    return {True: "yes", False: "no"}.get(value, value) if isinstance(value, bool) else value


def _profile(value: Any) -> Any:
    return str(value) if isinstance(value, int) and not isinstance(value, bool) else value


def _words_given(value: Any) -> Any:
    return clean(value, 200) if isinstance(value, str) else value


def _size(value: Any) -> Any:
    if isinstance(value, str):
        size_bytes = parse_size(value)
        if not size_bytes:
            raise ValueError('is no amount of memory, for instance "16 GiB"')
        return size_bytes
    return value


_Name = Annotated[str, BeforeValidator(_name), Field(min_length=1)]
_Noted = Annotated[list[_Name], BeforeValidator(lambda value: [value] if isinstance(value, str) else value), Field(max_length=MOST_NOTED)]
_Count = Annotated[int, Field(ge=0, le=1_000_000)]


class _TryTable(BaseModel):
    """One `[[try]]`."""

    model_config = ConfigDict(extra="forbid")

    fitted: dict[_Name, _Name] = Field(max_length=MOST_SLOTS)
    profile: Annotated[Literal["off", "1", "2", "3", "on"] | None, BeforeValidator(_profile)] = None
    start: Annotated[Literal["yes", "no", "cycles"] | None, BeforeValidator(_start)] = None
    seen: list[_Name] | None = Field(None, max_length=MOST_SLOTS)
    soak: Literal["clean", "errors"] | None = None
    errors_in: list[_Name] = Field([], max_length=MOST_SLOTS)
    minutes: Annotated[float, Field(ge=0, le=1e6)] | None = None
    signs: list[_Name] = Field([], max_length=64)
    total: Annotated[int | None, BeforeValidator(_size)] = None
    rate: _Count | None = None
    channels: _Count | None = None
    seconds: Annotated[float, Field(ge=0, le=1e6)] | None = None
    off_under_load: bool | None = None
    settings_reset: bool | None = None
    on_network: bool | None = None
    celsius: Annotated[float, Field(ge=-60, le=200)] | None = None
    soak_minutes: Annotated[float, Field(ge=0, le=1e6)] | None = None
    reseated: bool | list[_Name] | None = None
    errors_at: list[_Name] = Field([], max_length=64)
    put_right: Annotated[str, BeforeValidator(_words_given)] = ""
    starts: Annotated[int, Field(ge=1, le=1000)] | None = None
    starts_failed: Annotated[int, Field(ge=0, le=1000)] | None = None
    note: str = ""


class _File(BaseModel):
    """The whole file."""

    model_config = ConfigDict(extra="forbid")

    modules: list[_Name] = Field([], max_length=MOST_MODULES)
    slots: list[_Name] = Field([], max_length=MOST_SLOTS)
    old: list[_Name] = Field([], max_length=MOST_MODULES)
    module: dict[_Name, dict[str, Any] | str] = Field({}, max_length=MOST_MODULES)
    card: str | None = None
    soldered: list[_Name] | dict[_Name, _Name] = Field([], max_length=MOST_MODULES)
    known_good: list[_Name] = Field([], max_length=MOST_MODULES)
    elsewhere: dict[_Name, _Noted] = Field({}, max_length=MOST_MODULES)
    order: list[_Name] = Field([], max_length=MOST_SLOTS)
    concluded: str = ""
    tries: list[_TryTable] = Field([], alias="try", max_length=MOST_TRIES)


def read_tries(path: Path) -> tuple[TryLog, Card | None]:
    """Return the log in a file, and the card that it names (relative to the file). Raises SourceError."""
    log, card = parse_tries(read_plain(path, LARGEST_FILE_BYTES, "log of tries"), str(path))
    return log, read_card_file(path.parent / card) if card else None


def parse_tries(data: bytes, where: str = "tries") -> tuple[TryLog, str | None]:
    """Return the log in a TOML document, and the name of the card's file. Raises SourceError with the key that does not fit."""
    try:
        found = _File.model_validate(tomllib.loads(data.decode("utf-8")))
    except UnicodeDecodeError as error:
        raise SourceError(f"is no text in UTF-8 (byte {error.start})", where) from None
    except tomllib.TOMLDecodeError as error:
        raise SourceError(f"this is no TOML ({clean(str(error), 100)})", where) from None
    except RecursionError:
        raise SourceError("is nested deeper than any log of tries", where) from None
    except ValidationError as error:
        first = error.errors()[0]
        known = _TryTable.model_fields if first["loc"][0] == "try" else [field.alias or name for name, field in _File.model_fields.items()]
        raise SourceError(in_words(first, known), where, "an example is in docs/file-formats.md") from None
    letters = list(
        dict.fromkeys(
            [
                *(*found.modules, *found.module, *found.old, *found.known_good, *found.elsewhere, *_soldered(found)),
                *(letter for a in found.tries for letter in a.fitted.values()),
            ]
        )
    )
    slots = tuple(dict.fromkeys([*found.slots, *(slot for attempt in found.tries for slot in attempt.fitted)]))
    if len(letters) > MOST_MODULES or len(slots) > MOST_SLOTS:
        raise SourceError(f"has {len(letters)} modules and {len(slots)} slots; {MOST_MODULES} and {MOST_SLOTS} are the most", where)
    for number, tried in enumerate(found.tries, 1):
        _check(tried, number, found, where)
    modules = tuple(replace(_module(letter, found, where), elsewhere=_elsewhere(letter, found, where)) for letter in letters)
    tries = tuple(_try(attempt) for attempt in found.tries)
    return TryLog(modules, slots, tries, clean(found.concluded, 400), tuple(found.order)), found.card


def _soldered(found: _File) -> list[str]:
    """Return the letters of soldered memory: a list of them, or a table of the slots that they stay in."""
    return list(found.soldered.values()) if isinstance(found.soldered, dict) else found.soldered


def _check(tried: _TryTable, number: int, found: _File, where: str) -> None:
    letters = list(tried.fitted.values())
    twice = next((letter for letter in letters if letters.count(letter) > 1), None)
    if twice is not None:
        raise SourceError(f"try {number}: module {twice} sits in two slots", where, "a letter is one physical module")
    for letter in letters:
        if found.modules and letter not in (*found.modules, *found.module, *found.known_good):
            raise SourceError(f"try {number}: module {letter} is not in modules", where, f"known: {', '.join(found.modules)}")
    for slot in (*tried.fitted, *(tried.seen or ()), *tried.errors_in):
        if found.slots and slot not in found.slots:
            raise SourceError(f"try {number}: slot {slot} is not in slots", where, f"known: {', '.join(found.slots)}")

    if tried.starts_failed is not None and tried.starts_failed > (tried.starts or 0):
        of = f"of {tried.starts} starts" if tried.starts else "and starts is not given"
        raise SourceError(
            f"try {number}: starts_failed is {tried.starts_failed}, {of}", where, "for instance starts = 5, starts_failed = 2"
        )


def _module(letter: str, found: _File, where: str) -> TryModule:
    given = found.module.get(letter, {})
    table = {"words": given} if isinstance(given, str) else given
    old = letter in found.old or bool(table.get("old", False))
    stays = letter in _soldered(found) or bool(table.get("soldered", False))
    good = letter in found.known_good or bool(table.get("known_good", False))
    given_words = (_words(key, value, letter, where) for key, value in table.items() if key not in _STATES)
    words = " ".join(filter(None, given_words))
    if not words:
        return TryModule(letter, old=old, soldered=stays, known_good=good)
    modules, problems = modules_said(words)
    if problems or len(modules) != 1:
        why = problems[0] if problems else f"{words!r} is {len(modules)} modules"
        raise SourceError(f"module.{letter}: {why}", where, 'for instance words = "16G DDR4-3200 ecc"')
    form = modules[0].form
    return TryModule(letter, words, old, modules[0], stays or (form is not None and form.value is Form.SOLDERED), good)


def _elsewhere(letter: str, found: _File, where: str) -> tuple[Elsewhere, ...]:
    """Return how a module did in another machine. Raises SourceError for other words, and for a module that cannot be in one."""
    noted = found.elsewhere.get(letter, [])
    known = not found.modules or letter in (*found.modules, *found.module, *found.known_good)
    if noted and (letter in _soldered(found) or not known):
        why = "is soldered to this machine" if letter in _soldered(found) else "is not in modules"
        raise SourceError(f"elsewhere.{letter}: {letter} {why}", where)
    try:
        return tuple(said_elsewhere(words) for words in noted)
    except ValueError as error:
        raise SourceError(f"elsewhere.{letter}: {error}", where) from None


def _words(key: str, value: Any, letter: str, where: str) -> str:
    if key == "ecc" and isinstance(value, bool):
        return "ecc" if value else "noecc"
    if isinstance(value, str | int | float) and not isinstance(value, bool):
        text = clean(str(value))
        if key in _PLAIN_KEYS:
            return text
        if key in _NAMED_KEYS:
            quoted = text.replace('"', "")
            return f'{key} "{quoted}"' if " " in text else f"{key} {text}"
    raise SourceError(
        f"module.{letter}.{clean(key, 40)} is not understood",
        where,
        f"known: {', '.join(_STATES)}, ecc, {', '.join(_PLAIN_KEYS + _NAMED_KEYS)}",
    )


def _reseated(tried: _TryTable) -> tuple[str, ...] | None:
    """Return the modules that were taken out and put in again: all for `true`, none for `false`; None where nothing is said."""
    if tried.reseated is None:
        return None
    if isinstance(tried.reseated, bool):
        return tuple(tried.fitted.values()) if tried.reseated else ()
    return tuple(tried.reseated)


def _try(tried: _TryTable) -> Try:
    off = tried.off_under_load
    if off is None and any(_OFF.search(sign) for sign in tried.signs):
        off = True
    read = noted(Try(), tried.note) if tried.note else Try()
    return Try(
        arrangement=Arrangement(tuple(tried.fitted.items()), tried.profile or ""),
        started=Started(tried.start) if tried.start else None,
        seen=tuple(tried.seen) if tried.seen is not None else None,
        soak=SoakSaid(tried.soak) if tried.soak else None,
        errors_in=tuple(tried.errors_in),
        soak_minutes=tried.soak_minutes if tried.soak_minutes is not None else tried.minutes,
        total_bytes=tried.total if tried.total is not None else read.total_bytes,
        rate_mts=tried.rate if tried.rate is not None else read.rate_mts,
        channels=tried.channels if tried.channels is not None else read.channels,
        off_under_load=off,
        settings_reset=tried.settings_reset,
        on_network=tried.on_network,
        seconds=tried.seconds,
        celsius=tried.celsius if tried.celsius is not None else read.celsius,
        signs=tuple(tried.signs),
        reseated=_reseated(tried),
        errors_at=tuple(tried.errors_at) or read.errors_at,
        put_right=tried.put_right or read.put_right,
        starts=tried.starts if tried.starts is not None else read.starts,
        starts_failed=tried.starts_failed if tried.starts is not None else read.starts_failed,
        note=clean(tried.note, 400),
    )
