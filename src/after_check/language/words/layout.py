"""Tables, blocks of lines and markup: what is in one row, or in one block, is of one module or slot, and a name is no value.

What is read here is blanked in the text that goes on to be read as prose, so that nothing is read twice. Shapes: rows under a line
of names (separated by bars, tabs, semicolons, commas or blanks), the same turned on its side, blocks `name: value`, JSON, XML, YAML.
"""

from __future__ import annotations

import re
import tomllib
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from functools import cache
from importlib.resources import files
from typing import Any

from after_check.files.strict_json import parse_json
from after_check.language.words.characters import as_meant
from after_check.language.words.vocabulary import meaning, plain

_SLOT_HEAD = re.compile(
    r"\s*(?:[-*•]\s*)?(?P<name>"
    r"(?:(?:memory\s+)?(?:slot|socket|bank|dimm|sodimm|steckplatz|device|ranura|emplacement|module)[\s_#-]*[\w./ -]{1,24}"
    r"|(?:P\d|CPU\s?\d|PROC\s?\d)[\w\s_-]{0,16}|[A-H]\d|DIMM[\w.-]{1,16}|ChannelA?[\w-]{1,16}))\s*:?\s*\Z",
    re.IGNORECASE,
)
_DEVICE_HEAD = re.compile(r"\s*(?:memory device|physical memory|memory module|module|dimm|device)\s*:?\s*(?:\(.*\))?\s*\Z", re.IGNORECASE)
_PAIR = re.compile(
    # What may stand for one blank or many is taken whole: else a long row of them is tried in every way.
    r"\s*+(?:[-*•]\s++)?(?P<name>[A-Za-zÀ-ž#](?:[\w /#.'()&-]{0,37}?[\w/#'()&.-])?)"
    r"(?:\s*+(?:\.{2,}+\s*+:?|:|=)| *+\t++|\s{3,}+)\s*+(?P<value>\S(?:.*\S)?)\s*+\Z"
)
_NO_VALUE = re.compile(r"\s*+(?:[-*•]\s++)?(?P<name>[A-Za-z](?:[\w /#.'()-]{0,37}?[\w/#'().-])?)\s*+[:=]\s*+\Z")
_INLINE = re.compile(r"(?:(?<=\s)|^)(?P<name>[a-z][a-z-]*(?: [a-z-]+)?):\s*", re.IGNORECASE)
_LABELLED_HEAD = re.compile(r"\s*(?:Device|Array|Module|Slot)-?\d+:\s*(?P<slot>[A-Za-z][\w/ -]{0,20}?)\s+(?=[a-z]+:)", re.IGNORECASE)
_LEADING_HEAD = re.compile(r"\s*(?P<name>(?:BANK|DIMM|SLOT|CHANNEL)\s?\S{0,16}):\s*\Z", re.IGNORECASE)
_XML = re.compile(r"<(?P<name>[A-Za-z][\w:.-]*)(?:\s[^<>]*)?>\s*(?P<value>[^<>]+?)\s*</(?P=name)>")
_FEW = 2
_MODULE_FIELDS = frozenset(("slot", "bank", "form", "maker", "part", "serial", "ranks", "configured", "total_width", "data_width"))
_TELLING = frozenset(
    ("slot", "bank", "size", "generation", "speed", "configured", "form", "maker", "part", "ranks", "count", "latency", "status")
)


@dataclass(slots=True)
class Record:
    """What one row or block says: the text by field, the unit that a field's name gave, and where it is."""

    values: dict[str, str] = field(default_factory=dict)
    units: dict[str, str] = field(default_factory=dict)
    start: int = 0
    end: int = 0

    @property
    def is_module(self) -> bool:
        """Whether it tells of one module or slot, and not of the machine."""
        keys = self.values.keys()
        return (
            bool(keys & _MODULE_FIELDS)
            and bool(keys & {"size", "slot", "bank", "part", "generation", "status"})
            and len(keys & _TELLING) >= _FEW
        )


@cache
def _fields() -> dict[str, str]:
    document = tomllib.loads((files("after_check.language.words") / "fields.toml").read_text(encoding="utf-8"))
    return {plain(name): kind for kind, names in document.items() for name in names}


_UNIT_BEHIND = re.compile(
    r"\s*[(\[](?P<unit>[^)\]]{1,12})[)\]]\s*\Z|\s+in\s+(?P<word>GB|MB|MHz|MT/s|bytes)\Z|_(?P<tail>mb|gb|mhz|mts|mib|gib)\Z", re.IGNORECASE
)


def field_of(name: str) -> tuple[str, str]:
    """Return the field that a name stands for, and the unit that it gives; empty for a name that is none."""
    unit = ""
    if found := _UNIT_BEHIND.search(name):
        unit = (found["unit"] or found["word"] or found["tail"]).strip()
        name = name[: found.start()]
    key = plain(re.sub(r"([a-z])([A-Z])", r"\1\2", name)).strip(" .:*#_\"'-").replace("_", " ")
    known = _fields().get(key) or _fields().get(key.replace(" ", ""))
    if known is None and key.split(" ")[-1:] in (["size"], ["capacity"]) and key.split(" ")[0] in ("module", "dimm", "stick"):
        known = "size"
    if known == "size" and key in ("gb", "mb"):
        unit = unit or key
    return known or "", unit


def _rows_apart(text: str) -> str:
    """Return a text of the same length, in which the rows of a table that is in one line, separated by semicolons, are lines."""
    parts = text.split(";")
    cells = {part.count("|") for part in parts if part.strip()}
    return "\n".join(parts) if "\n" not in text and len(parts) > 2 and len(cells) == 1 and cells.pop() > 0 else text


def laid_out(text: str) -> tuple[list[Record], str]:
    """Return what rows and blocks say, and the text with these blanked; the length of the text stays."""
    if not any(sign in text for sign in "\n⏎|\t;,{<:="):
        return [], text
    shown = _rows_apart(as_meant(text))
    records = _markup(shown)
    if records:
        return records, " " * len(text)
    rest = text
    found, rest, shown = _free(shown, rest)
    shown = _later_columns(shown)
    rest = "".join(" " if new == " " and one != "\n" else one for one, new in zip(rest, shown, strict=True))
    for reader in (_numbered_fields, _tables, _sideways, _inline_lines, _blocks):
        made = list(reader(_lines(shown)))
        for record in made:
            rest = _blanked(rest, record.start, record.end)
            shown = _blanked(shown, record.start, record.end)
        found += [record for record in made if record.values]
    return found, rest


_NUMBERED_FIELD = re.compile(
    r"\s*+(?:memory\s?)?(?:module|modul|dimm|slot|device|stick|bank|mem)\s?[#_-]?(?P<number>\d{1,2})[\s_.-]+(?P<name>[A-Za-z][A-Za-z ]*?)"
    r"\s*+(?:[:=]|(?<=\s))\s*+(?P<value>\S.*)",
    re.IGNORECASE,
)


def _numbered_fields(lines: list[tuple[int, str]]) -> Iterator[Record]:
    """Yield what lines say that name a module by its number and one of its fields each (`Module 1 Size 16384 MB`)."""
    of_number: dict[str, Record] = {}
    found = [
        (start, line, match, field_of(match["name"]))
        for start, line in lines
        if (match := _NUMBERED_FIELD.fullmatch(line)) is not None and field_of(match["name"])[0] not in ("", "slot")
    ]
    if len({match["number"] for _, _, match, _ in found}) < 2 or len(found) < _FEW:
        return
    for start, line, match, (name, unit) in found:
        record = of_number.setdefault(match["number"], Record({"slot": match["number"]}, {}, start, start))
        record.values.setdefault(name, match["value"].strip())
        if unit:
            record.units.setdefault(name, unit)
        yield Record({}, {}, start, start + len(line))
    yield from of_number.values()


def _later_columns(text: str) -> str:
    """Blank what is beneath `before` where `after` or `now` is beside it: it is no part of what is."""
    lines = text.split("\n")
    for at, line in enumerate(lines):
        words = [(found.start(), meaning(found[0])) for found in re.finditer(r"[^\W\d_]+", line)]
        times = [
            (start, "past" if term.kinds & {"past"} else "now")
            for start, term in words
            if term is not None and term.kinds & {"past", "now"}
        ]
        if len(words) != len(times) or sorted(kind for _, kind in times) != ["now", "past"] or at + 1 >= len(lines):
            continue
        (first, first_kind), (second, _) = times
        lines[at] = " " * len(line)
        for number in range(at + 1, len(lines)):
            row = lines[number]
            if not row.strip():
                break
            cells = list(re.finditer(r"[^|\t;\s]+(?: [^|\t;\s]+)*", row))
            values = [found for found in cells if any(map(str.isdigit, found[0]))]
            if len(values) != 2:
                continue
            gone = values[0] if first_kind == "past" else values[1]
            lines[number] = row[: gone.start()] + " " * len(gone[0]) + row[gone.end() :]
        del first, second
    return "\n".join(lines)


_COLUMNS_OF_USE = re.compile(r"(?m)^\s*total\s+used\s+free\b.*$\n(?P<rows>(?:.*\n?)*?)(?=\n\s*\n|\Z)")
_MEMORY_ROW = re.compile(r"(?m)^(?P<unit>[KMGT]iB\s+)?Mem\w*\s*:\s*(?P<n>[\d.,]+)\s?(?P<own>[KMGT]i?B?)?(?:\s+total\b)?")
_OTHER_ROW = re.compile(r"(?m)^(?:[KMGT]iB\s+)?(?:Swap|Mem|Total|Speicher|Mém)\w*\s*:.*$")


def _free(shown: str, rest: str) -> tuple[list[Record], str, str]:
    """Read what a shell tells of the memory in use: its total is what the system can use; swap, cached and free are no facts."""
    table = _COLUMNS_OF_USE.search(shown)
    row = (
        _MEMORY_ROW.search(shown, table.start("rows"))
        if table is not None
        else next((found for found in _MEMORY_ROW.finditer(shown) if found["unit"]), None)
    )
    if row is None:
        return [], rest, shown
    unit = (row["unit"] or row["own"] or "K").strip()
    record = Record({"usable": f"{row['n']} {unit[0]}iB"}, {}, row.start(), row.end())
    places = [table.span()] if table is not None else []
    places += [found.span() for found in _OTHER_ROW.finditer(shown)]
    for start, end in places:
        rest, shown = _blanked(rest, start, end), _blanked(shown, start, end)
    return [record], rest, shown


def _blanked(text: str, start: int, end: int) -> str:
    return text[:start] + "".join("\n" if one == "\n" else " " for one in text[start:end]) + text[end:]


def _lines(text: str) -> list[tuple[int, str]]:
    found, at = [], 0
    for line in text.split("\n"):
        found.append((at, line))
        at += len(line) + 1
    return found


# ------------------------------------------------------------------------------------------------------------ rows under names
def _cells(line: str, sign: str) -> list[str]:
    if sign == "  ":
        return re.split(r"\s{2,}|\t", line.strip())
    body = line.strip()
    if sign == "|":
        body = body.removeprefix("|").removesuffix("|")
    return [cell.strip().strip('"') for cell in body.split(sign)]


def _tables(lines: list[tuple[int, str]]) -> Iterator[Record]:
    at = 0
    while at < len(lines):
        heading = _heading(lines[at][1])
        if heading is None:
            at += 1
            continue
        sign, names = heading
        yield Record({}, {}, lines[at][0], lines[at][0] + len(lines[at][1]))
        at += 1
        while at < len(lines):
            start, line = lines[at]
            body = line.strip()
            if not body or (re.fullmatch(r"[\s|+=:_─-]+", body) and not re.search(r"\w", body)):
                at += 1
                if not body and not (at < len(lines) and _is_row(lines[at][1], sign, names)):
                    break
                continue
            cells = _cells(line, sign)
            if (len(cells) < _FEW and not any(map(str.isdigit, body))) or not _is_row(line, sign, names):
                break
            if record := _row(cells, names, line, sign):
                record.start, record.end = start, start + len(line)
                yield record
            at += 1


def _is_row(line: str, sign: str, names: list[tuple[str, str, int]]) -> bool:
    cells = _cells(line, sign)
    first = cells[0].lower() if cells else ""
    if re.match(r"(?:total|sum|gesamt|totale|summe|usable|channels?|mode|speed|runs|profile)\b", first):
        return False
    return len(cells) >= min(_FEW, len(names)) or (sign == "  " and len(line.split()) >= _FEW)


def _heading(line: str) -> tuple[str, list[tuple[str, str, int]]] | None:
    """Return how cells are separated and what the columns are called (field, unit, place), where a line is a line of names."""
    for sign in ("|", "\t", ";", ",", "  "):
        if sign not in line.strip():
            continue
        cells = _cells(line, sign)
        if len(cells) < _FEW:
            continue
        fields = [field_of(cell) for cell in cells]
        known = [name for name, _ in fields if name and name != "ignored"]
        if (
            len(known) >= _FEW
            and len(known) * 2 >= len(cells)
            and not any(re.search(r"\d", cell) for cell in cells)
            and ({"size", "slot", "part"} & set(known))
            and len(set(known)) == len(known)
        ):
            places, place = [], 0
            for cell in cells:
                place = line.find(cell, place) if cell else place
                places.append(place)
                place += len(cell)
            return sign, [(name, unit, at) for (name, unit), at in zip(fields, places, strict=True)]
    words = line.split()
    fields = [field_of(word) for word in words]
    if (
        len(words) >= 3
        and all(name for name, _ in fields)
        and {"size"} & {name for name, _ in fields}
        and len({name for name, _ in fields}) == len(words)
    ):
        return " ", [(name, unit, line.find(word)) for (name, unit), word in zip(fields, words, strict=True)]
    return None


def _row(cells: list[str], names: list[tuple[str, str, int]], line: str, sign: str) -> Record | None:
    if sign in ("  ", " ") and len(cells) != len(names):
        cells = _by_place(line, names)
    record = Record()
    for (name, unit, _), cell in zip(names, cells, strict=False):
        if name and name != "ignored":
            record.values[name] = cell
            if unit:
                record.units[name] = unit
    return record if any(record.values.values()) else None


def _by_place(line: str, names: list[tuple[str, str, int]]) -> list[str]:
    """Return cells by where the names of their columns stand: what begins left of the next name belongs to this one."""
    found = [""] * len(names)
    for word in re.finditer(r"\S+(?: \S+)*", line):
        nearest = min(range(len(names)), key=lambda at: abs(names[at][2] - word.start()))
        found[nearest] = f"{found[nearest]} {word[0]}".strip()
    return found


# ------------------------------------------------------------------------------------------------------------ turned on its side
def _sideways(lines: list[tuple[int, str]]) -> Iterator[Record]:
    for at, (start, line) in enumerate(lines[:-1]):
        for sign in ("|", "\t", ";", ",", "  "):
            if sign not in line.strip(" "):
                continue
            heads = _cells(line, sign)
            if heads and field_of(heads[0])[0] in ("slot", "ignored", "") and len(heads) > 1 and not _is_slot(heads[0]):
                heads = heads[1:] if field_of(heads[0])[0] or not heads[0] else heads
            heads = [head for head in heads if head]
            if len(heads) < _FEW or not all(_is_slot(head) for head in heads):
                continue
            rows: list[tuple[str, str, list[str]]] = []
            last = at
            for number in range(at + 1, len(lines)):
                cells = _cells(lines[number][1], sign)
                name, unit = field_of(cells[0]) if cells else ("", "")
                if not name or len(cells) < _FEW:
                    if re.search(r"\w", lines[number][1]):
                        break
                    continue
                rows.append((name, unit, cells[1:]))
                last = number
            if not any(name == "size" for name, _, _ in rows):
                continue
            end = lines[last][0] + len(lines[last][1])
            for column, head in enumerate(heads):
                record = Record({"slot": head}, {}, start, end)
                for name, unit, cells in rows:
                    if column < len(cells) and name != "ignored":
                        record.values[name] = cells[column]
                        if unit:
                            record.units[name] = unit
                yield record
            return


def _is_slot(text: str) -> bool:
    return bool(
        re.fullmatch(
            r"(?:slot|dimm|sodimm|bank|socket|module|channel)?[\s_#-]*(?:[A-H]\d|\d{1,2}|[A-H])|DIMM[_\s]?[A-H]\d|left|right|top|bottom",
            text.strip(),
            re.IGNORECASE,
        )
    ) and bool(re.search(r"[A-Za-z]", text))


# ------------------------------------------------------------------------------------------------------------ blocks of lines
def _blocks(lines: list[tuple[int, str]]) -> Iterator[Record]:
    """Yield blocks of lines `name: value` that tell of one module each."""
    open_one = Record()
    head = ""
    for start, line in [*lines, (0, "")]:
        body = line.strip().lstrip(">").strip() if line.lstrip().startswith(">") else line
        end = start + len(line)
        if labelled := _LABELLED_HEAD.match(body):
            yield from _closed(open_one)
            open_one, head = Record({"slot": labelled["slot"]}, {}, start, end), ""
            if "array" in body[: labelled.end()].lower():
                open_one = Record()
                continue
            _inline(open_one, body[labelled.end() :])
            yield from _closed(open_one)
            open_one = Record()
            continue
        if not body.strip() and not open_one.values.get("slot"):
            yield from _closed(open_one)
            open_one, head = Record(), ""
            continue
        pair = _PAIR.match(body)
        name, unit = field_of(pair["name"]) if pair is not None else ("", "")
        named_slot = _LEADING_HEAD.match(body) or (_SLOT_HEAD.match(body) if not name else None)
        if (named_slot is not None and not (pair is not None and name)) or _DEVICE_HEAD.match(body):
            yield from _closed(open_one)
            head = named_slot["name"].strip().rstrip(":") if named_slot is not None and not _DEVICE_HEAD.match(body) else ""
            open_one = Record({"slot": head} if head else {}, {}, start, end)
            continue
        if not body.strip():
            yield from _closed(open_one)
            open_one = Record()
        elif pair is not None and name:
            repeated = name in open_one.values and name != "ignored"
            if repeated and not (name == "slot" and head and open_one.values.get("slot") == head):
                yield from _closed(open_one)
                open_one = Record()
            if not open_one.values:
                open_one.start = start
            open_one.values[name] = pair["value"]
            if unit:
                open_one.units[name] = unit
            open_one.end = end
        elif pair is not None and (len(open_one.values) >= _FEW or "slot" in open_one.values) and line[:1].isspace():
            open_one.end = end  # A name that nobody knows, inside a block.
        elif _NO_VALUE.match(body) and open_one.values:
            open_one.end = end
        else:
            yield from _closed(open_one)
            open_one = Record()


_ASSIGNED = re.compile(r"(?P<name>[A-Za-z_][\w.]*)=(?P<value>\"[^\"]*\"|[^\s,;]+)")
_HEAD_BEFORE = re.compile(r"(?P<name>[A-Za-z]*[\s_#-]?[A-H]?\d{1,2})\s*:\s*\Z")


def _inline_lines(lines: list[tuple[int, str]]) -> Iterator[Record]:
    """Yield modules that are told in one line each, or several in one: `dimm0: size=16G type=ddr5`, `size: 4 GB type: DDR3 speed: 1600`."""
    for start, line in lines:
        if _LABELLED_HEAD.match(line):
            continue
        found = list(_ASSIGNED.finditer(line)) or list(_INLINE.finditer(line))
        fields = [field_of(match["name"].rsplit(".", 1)[-1]) for match in found]
        known = [name for name, _ in fields if name and name != "ignored"]
        if len(known) < 3 or "size" not in known or not {"generation", "speed", "configured", "part", "slot"} & set(known):
            continue
        record = Record({}, {}, start, start + len(line))
        for at, (match, (name, unit)) in enumerate(zip(found, fields, strict=True)):
            head = _HEAD_BEFORE.search(line[: match.start()].rstrip(" ")) if found[at].re is _ASSIGNED else None
            if head is not None or (name and name in record.values):
                if "size" in record.values:
                    yield record
                record = Record({"slot": head["name"].strip()} if head is not None else {}, {}, start, start + len(line))
            if not name or name == "ignored":
                continue
            end = found[at + 1].start() if at + 1 < len(found) else len(line)
            record.values[name] = match["value"].strip('"') if found[at].re is _ASSIGNED else line[match.end() : end].strip()
            if unit:
                record.units[name] = unit
        yield record


def _inline(record: Record, text: str) -> None:
    """Read `type: DDR4 size: 16 GiB speed: spec: 3200 MT/s actual: 2133 MT/s` into a record."""
    names = list(_INLINE.finditer(text))
    starts = [found.start() if field_of(found["name"])[0] else found.start() + found["name"].rfind(" ") + 1 for found in names]
    for at, found in enumerate(names):
        value = text[found.end() : starts[at + 1] if at + 1 < len(names) else len(text)].strip()
        name, unit = field_of(found["name"])
        if not name:
            name, unit = field_of(found["name"].rsplit(" ", 1)[-1])
        if name and value and name != "ignored":
            record.values[name] = value
            if unit:
                record.units[name] = unit


def _closed(record: Record) -> Iterator[Record]:
    """Yield a block that tells of a module; what tells of the machine is read as prose."""
    named = [name for name in record.values if name != "ignored"]
    if record.is_module or (
        "size" in record.values and len(named) >= 3 and {"generation", "speed"} & record.values.keys() and "slot" in record.values
    ):
        record.values.pop("ignored", None)
        yield record


# ------------------------------------------------------------------------------------------------------------ markup
def _markup(text: str) -> list[Record]:
    """Return the records of a JSON or XML text; none where it is neither."""
    body = text.strip()
    if body[:1] in "{[":
        try:
            document = parse_json(body)
        except ValueError:
            return []
        return list(_objects(document, len(text)))
    if body[:1] == "<":
        found: list[Record] = []
        open_one = Record()
        for pair in _XML.finditer(text):
            name, unit = field_of(pair["name"])
            if not name or name == "ignored":
                continue
            if name in open_one.values:
                found.append(open_one)
                open_one = Record()
            open_one.values[name] = pair["value"]
            if unit:
                open_one.units[name] = unit
        found.append(open_one)
        return [record for record in found if "size" in record.values]
    return []


def _objects(document: Any, length: int) -> Iterator[Record]:
    if isinstance(document, list):
        for one in document:
            yield from _objects(one, length)
    elif isinstance(document, dict):
        record = Record({}, {}, 0, length)
        for key, value in document.items():
            if isinstance(value, (dict, list)):
                yield from _objects(value, length)
                continue
            name, unit = field_of(str(key))
            if name and name != "ignored" and value is not None:
                record.values[name] = str(value)
                if unit or "mib" in str(key).lower():
                    record.units[name] = unit or "MiB"
        if "size" in record.values or ({"slot", "status"} <= record.values.keys()):
            yield record


def names_of(records: Iterable[Record]) -> list[str]:
    """Return the slots that records name."""
    return [record.values["slot"] for record in records if "slot" in record.values]
