"""The lexer: a text cut into tokens, each with all that it may mean. Nothing is decided here; docs/words.md tells what each kind is."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any

from after_check.domain.modules import Generation, Timings
from after_check.domain.quantities import KIB, MIB
from after_check.language.words.characters import as_meant, units_put_right
from after_check.language.words.figures import is_module_size, is_usual_rate
from after_check.language.words.spoken import with_spoken_numbers
from after_check.language.words.token import Token, number_kinds
from after_check.language.words.units import FREQUENCY_UNITS, SHORTENED, SIZE_UNITS, UNITS, WORDS_TOO
from after_check.language.words.vocabulary import Term, meaning, mistyped, plain, terms
from after_check.standards.labels import Label, misprint_in, parse_doubtful_label
from after_check.standards.rates import pc_number_to_rate_mts

_UNIT = "|".join(re.escape(unit) for unit in sorted(UNITS, key=len, reverse=True))
_NUMBER = r"\d{1,3}(?:(?P<part>[ .,'])\d{3})(?:(?P=part)\d{3})*(?![\d.,]\d|\d)|\d{1,13}(?:[.,]\d{1,3})?"
_LEAST_BYTES = 64 * MIB
_SLOT_WORD = r"(?:slot|socket|bank|dimm|sodimm|so-dimm|steckplatz|emplacement|ranura|sleuf|gniazdo|zócalo|ram|memory slot|mem|channel)"

_OF_LETTERS: tuple[tuple[str, re.Pattern[str]], ...] = tuple(
    (kind, re.compile(text, re.IGNORECASE))
    for kind, text in (
        ("ignored", r"(?:https?://|www\.)\S+|[\w.+-]+@[\w-]+\.[\w.]+"),
        ("label", r"PC[2345][LU]?-\d{4,5}[A-Z]{0,3}(?:-[A-Z0-9]+)+"),
        (
            "generation",
            r"(?P<gen>(?:LP\s?)?D\.?\s?D\.?\s?R)\s?-?\s?(?P<digit>[2345]|two|three|four|five)(?P<x>X?)(?P<low>[LU]?)(?:\s?[-–@_/]\s?(?P<rate>\d{3,5})(?!\d|[.,]\d|\s?(?:[GMK]i?B|[GM]o)\b)(?P<bin>AA|[A-Z](?![A-Za-z])|))?(?=\d{3}|[^A-Za-z\d]|sod|udi|rdi|dim|\d?x|\Z|ecc|reg|cl\d|ram)",
        ),
        ("generation", r"(?P<gen>(?:LP)?DDR)(?P<digit>)(?P<x>)(?P<low>)(?:-(?P<rate>\d{3})(?!\d))?(?P<bin>)(?![\w?])"),
        ("class", r"PC(?P<digit>[2345]?)(?P<low>[LU]?)\s?-?\s?(?P<n>\d{4,5})(?P<bin>[A-Z]{0,2})(?![\w-])"),
        ("generation", r"PC(?P<digit>[345])(?P<low>L?)(?P<gen>)(?P<x>)(?P<rate>)(?P<bin>)(?=\s)"),
        ("timing", r"t(?P<name>RCD|RP|RAS|CL)\s?[:=]?\s?(?P<n>\d{1,3})(?![\w.,])"),
        ("timings", r"(?:CL|C|CAS)\s?[:=]?\s?(?P<t>\d{1,2}(?:-\d{1,3}){2,3})(?![\w-])"),
        ("latency", r"(?:CL|CAS(?:\s+latency)?|latency\s+CL)\s?[:=-]?\s?(?P<n>\d{1,2})(?![\w-])|C(?P<c>[1-6]\d)(?![\w-])"),
        ("latency", r"(?:C\sL|CAS)\s(?P<n>\d{1,2})(?!\w)|(?P<c>(?!))"),
        ("serial_code", r"(?:S/N|SN|serial(?:\s(?:no|number|nr))?)\.?\s*[:#]?\s*(?=\S*\d)[\w/-]+"),
        ("channel_name", r"(?:channel|chan|kanal|canal|canale)\s[a-h](?=\s*[:,]|\s+\d)"),
        ("slot", r"(?P<name>DIMM_P\d_[A-P]\d)(?!\w)"),
        ("spoken_slot", r"(?:slot|dimm)\s(?P<name>[a-h])\s(?P<n>one|two|three|four|[1-4])(?!\w)"),
        ("slot", r"(?:slot|dimm)\s(?P<name>[A-H])(?=\s*[:=,.;]|\s*$|\s+\d|\s+(?:is|has|empty|and))"),
        ("slot", r"(?P<name>(?:P|CPU|PROC|NODE|SOCKET)\s?\d[\s_-](?:CHANNEL[\s_-]?)?(?:DIMM[\s_-]?|SLOT[\s_-]?)?[A-P]\d{0,2})(?!\w)"),
        ("slot", r"(?P<name>(?:Ch|Channel)\s?[A-H])(?=\s*[:=]?\s*\d+\s?(?:GB|GiB|G|MB)(?!\w))"),
        ("slot", r"(?P<name>Channel\s?[A-H0-3][\s_/-]{1,3}(?:DIMM|slot)[\s_-]?\d{1,2})(?!\w)"),
        ("slot", r"(?P<name>BANK\s?\d{1,2}\s?/\s?(?:Channel[A-H][-_ ]?)?DIMM\s?\d{1,2})(?!\w)"),
        ("slot", r"(?P<name>(?:DIMM|SODIMM|SO-DIMM|XMM|RAM|MEM)[_ -]?[A-H][1-8])(?![\w-])"),
        ("slot", r"(?P<name>[A-H][1-8]|[A-H]0(?=\s*[:=+/]|\s+\d|\s+(?:and|empty))|[J-P][1-8](?=\s*[:=]))(?![\w]|-\w)"),
        # Other letters name models and caches as well: they are slots at the head of a part, before what is in them.
        ("slot", r"(?<![^\W_]\s)(?P<name>[JKPS][1-8])(?=\s+(?:\d{1,3}\s?(?:GB|GiB|G|MB)(?!\w)|(?:is\s)?empty))"),
        (
            "slot",
            r"(?P<name>(?:DIMM|SODIMM|SO-DIMM|bank|slot|socket)\s?[_#-]?\s?\d{1,2})(?=\s*[:=–]|\s+-|_)(?!/)(?!\s?[:=]\s?\d\s?/|\s*[:=]\s*\d\s+(?:of|von)\b)",
        ),
        ("slot", r"(?:bank|dimm|slot):(?P<name>\d{1,2})(?=\s)"),
        ("slot", r"(?P<name>(?:DIMM|SODIMM|slot|bank|socket)[_#-]?\d{1,2}|MEM_\d{1,2})(?![\w-]|/\d)"),
        ("slot", rf"{_SLOT_WORD}\s+(?:no|nr|number|num|nummer|numéro|n°|nº|numero)\.?\s?(?P<name>\d{{1,2}})(?![\d.,]\d|\w)"),
        ("system", r"windows\s(?:xp|vista|7|8(?:\.1)?|10|11)(?!\s?(?:gb|gib|g)\b)(?=\s*[^\s\w.]|\s+[^\W\d]|\s+\d{2}\s?-?bit|\s*$|\s+\d)"),
        ("profile_number", r"(?:XMP|EXPO|DOCP|A-XMP)\s?-?(?P<n>[123])(?![\w]|\.\d|\s?(?:GB|x))"),
        ("times", r"x(?=\s?\d{1,2}(?!\w|[.,]\d))"),
        ("nth", r"(?:memory|module|modul|modulo|device|gerät|ram|stick|riegel|barrette|dimm module|kość)\s?#?\d{1,2}\s*[:=]"),
        ("word", r"[^\W\d_](?:[\w'’./-]*[\w'])?"),
    )
)
_OF_FIGURES: tuple[tuple[str, re.Pattern[str]], ...] = tuple(
    (kind, re.compile(text, re.IGNORECASE))
    for kind, text in (
        (
            "ignored",
            r"0x[0-9a-f]+(?!\w)|(?:[0-9a-f]{2}:){3,7}[0-9a-f]{2}(?!\w)|\d{1,3}(?:\.\d{1,3}){3}(?!\w)|[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f-]{9,}",
        ),
        (
            "ignored",
            r"\d{1,2}\.\d{1,2}\.(?:\d{4}|\d{2})?(?!\w)|\d{1,2}/\d{1,2}/(?:\d{4}|\d{2})(?!\w)|\d{4}-\d{2}-\d{2}(?:T[\d:.]+Z?)?(?!\w)|\d{1,2}:\d{2}(?::\d{2})?(?:\s?[ap]m)?(?!\w)",
        ),
        ("label", r"(?:\d{1,4}\s*[MG]B\s+)?\d{1,2}(?:S\d|D)?R\s?x\s?\d{1,2}\s+PC[2345][LU]?-\d{3,5}[A-Z]{0,3}(?:-[A-Z0-9]+)*"),
        ("throughput", r"\d+(?:[.,]\d+)?\s?(?:[KMGT]i?B|[KMGT]o|[kmg]bytes?)(?:/s(?:ec)?|ps)(?!\w)"),
        ("ignored", r"0\d{2,4}(?:[ /-]\d{2,}){1,4}(?!\w)|\+\d{2}[\d /()-]{6,}\d"),
        ("number_list", r"\d{1,2}(?:,\d{1,2}){2,15}(?![\w.,]|\s?(?:GB|MB|V)\b)"),
        ("range", r"\d{1,6}(?:-\d{1,6})(?![\w-])"),
        ("code", r"\d{1,6}(?:-\d{1,6}){2,}(?![\w-])(?<!\d\d\d)(?!)"),
        ("ranks", r"(?P<ranks>[1248])\s?R\s?(?:x\s?(?P<width>4|8|16|32))?(?![\w])"),
        ("timings", r"(?P<t>\d{1,2}(?:-\d{1,3}){2,3})(?![\w-])"),
        ("timings", r"(?P<t>\d{1,2}(?:/\d{1,3}){3})(?![\w/])"),
        ("slot", r"(?P<name>\d{1,2})\x03"),
        ("nth", r"\d{1,2}\x02"),
        (
            "class",
            r"(?P<digit>)(?P<low>)(?P<n>10600|10666|12800|14900|19200|21300|21333|23400|25600)(?P<bin>[SURE]{0,2})(?![\w.,-]|\s?(?:MB|GB|M|G|mhz)\b)",
        ),
        ("ordinal", r"(?P<n>[1-8])(?:st|nd|rd|th|º|ª|ème|\.(?=\s+(?:slot|steckplatz|bank|riegel|modul))|e(?!\w))(?!\w)"),
        ("plural", r"(?P<n>12|16|24|32|48|64|96|128|[1248])(?:['’]?s|er|ers)(?!\w)"),
        ("bin", r"(?P<n>1066|1333|1600|1866|2133|2400|2666|2933|3200|4800|5600)(?P<bin>AA|[A-Z])(?![\w])"),
        ("quantity", rf"(?P<n>{_NUMBER})(?P<gap>\s?-?)(?P<unit>{_UNIT})(?:(?![^\W\d_]|/s)|(?=x\s?\d))"),
        ("code", r"\d+-[\w-]*\d[\w-]*"),
        ("ignored", r"\d{3,4}\s?x\s?\d{3,4}(?!\w)"),
        ("count", r"(?P<n>\d{1,2})(?:[x*]|\s[x*](?=\s))(?=\s?\d|\s?[a-z(]|\s)"),
        ("rate_latency", r"(?P<n>\d{3,5})\s?/?\s?(?=C[L]?\s?\d{2}(?!\w))"),
        ("number", rf"(?P<n>{_NUMBER})(?![^\W_]|\?)"),
        ("number", r"(?P<n>\d{1,4})(?=x\d|x\s)"),
        ("unclear", r"\d*\?[\d?]*\s?(?P<unit>GB|MHz|MT/s|G|MB)?"),
        ("glued", r"\d[\w.]*"),
        ("code", r"\S+?(?=[\s;,()|]|$)"),
    )
)
_SIGNS = {
    **{",": "comma", ";": "semicolon", "\n": "line", "\t": "tab", "|": "bar", "•": "line", "(": "open", ")": "close", "]": "close"},
    **{
        "+": "plus",
        "&": "and",
        "=": "equals",
        ":": "colon",
        "/": "slash",
        "@": "at",
        "-": "dash",
        "–": "dash",
        "→": "arrow",
        "?": "question_mark",
        "*": "times",
    },
    **{"#": "hash", "!": "full_stop", '"': "quote", "~": "around", "<": "sign", ">": "sign"},
}
_UNCLEAR = re.compile(r"\?\d|\?\s?(?:GB|MB|MHz|MT/s)\b", re.IGNORECASE)
_MINUS = re.compile(r"-\d+(?:[.,]\d+)?\s?(?:[GMK]i?B?|[GM]o)\b", re.IGNORECASE)
_PATH = re.compile(r"/\d[\w.]*(?:/[\w.]+)*")
_ARROW = re.compile(r"[-=]+>|>>+|(?<=[\dgGbB])\s?>\s?(?=\d)")
_STOP = re.compile(r"\.(?=\s|$)|\.{2,}")
_GLUE = re.compile(
    r"(?:(?P<count>\d{1,2})x)?(?P<size>\d{1,4}(?:gb|mb|g(?![a-z])))|(?P<gen>(?:lp)?ddr[2345]x?l?)|(?P<rate>\d{3,5}(?:mhz|mt/?s)?)|(?P<word>so-?dimm|udimm|rdimm|lrdimm|dimm|ecc|reg|ram|kit|usable|total|dual|single|cl\d\d|c\d\d)|(?P<sep>[-_/.])",
    re.IGNORECASE,
)


def tokens(text: str) -> list[Token]:
    """Return the tokens of a text, in order; everything but blanks belongs to one."""
    shown = units_put_right(as_meant(text))
    shown = _SNAKE.sub(" ", _numbered(shown))
    return list(with_spoken_numbers(_with_terms(list(_scan(shown, 0, len(shown))))))


_NUMBERED = re.compile(r"(?m)^(?P<gap>[ \t]*)(?P<n>#?\d{1,2})(?P<sign>[:.)])(?=\s)")
_SNAKE = re.compile(r"(?<=[a-z])_(?=[a-z])")
"""Names of programs' fields are words: `total_memory_gb`."""
_ASSIGNED = re.compile(r"(?<![\w.,=*+-])(?<!\d )\d{1,2}\s?=(?=\s?\d)")
_LIST_MARK = "\x02"
_SLOT_MARK = "\x03"


def _numbered(text: str) -> str:
    """Mark the numbers that count the lines of a list: `1:` names slots, `1.` and `1)` only count."""
    assigned = list(_ASSIGNED.finditer(text))
    if len(assigned) > 1:
        for match in assigned:
            text = text[: match.end() - 1] + _SLOT_MARK + text[match.end() :]
    found = list(_NUMBERED.finditer(text))
    if len(found) < 2:
        return text
    slots = all(match["sign"] == ":" for match in found)
    for match in found:
        at = match.start("sign")
        text = text[:at] + (_SLOT_MARK if slots else _LIST_MARK) + text[at + 1 :]
    return text


def _scan(text: str, at: int, end: int) -> Iterator[Token]:
    while at < end:
        character = text[at]
        if character == " ":
            at += 1
            continue
        unclear = character == "?" and _UNCLEAR.match(text, at, end) is not None
        patterns = _OF_FIGURES if character.isdigit() or unclear else _OF_LETTERS if character.isalpha() else ()
        for kind, pattern in patterns:
            match = pattern.match(text, at, end)
            if match is None or match.end() == at:
                continue
            made = _made(kind, match, text)
            if made:
                yield from made
                at = made[-1].end
                break
        else:
            token = _sign(text, at)
            yield token
            at = token.end


def _sign(text: str, at: int) -> Token:
    for pattern, kind in ((_ARROW, "arrow"), (_STOP, "full_stop")):
        if match := pattern.match(text, at):
            return Token(frozenset({kind}), match[0], at, match.end(), match[0])
    if text[at] == "/" and (at == 0 or text[at - 1] in " \n\t") and (path := _PATH.match(text, at)):
        return Token(frozenset({"ignored"}), path[0], at, path.end(), path[0])
    if text[at] == "-" and (at == 0 or text[at - 1] in " \n") and (minus := _MINUS.match(text, at)):
        return Token(frozenset({"code"}), minus[0], at, minus.end(), minus[0])
    if text[at] == "[":
        return Token(frozenset({"open", "bracket"}), "[", at, at + 1, "[")
    if text[at] == "\t" and text[text.rfind("\n", 0, at) + 1 : (text.find("\n", at) + 1 or len(text) + 1) - 1].strip().count("\t") == 1:
        return Token(frozenset({"colon"}), "\t", at, at + 1, "\t")
    if text[at] in "€$£" and (price := re.compile(r"[€$£]\s?\d+(?:[.,]\d+)*").match(text, at)):
        return Token(frozenset({"measure"}), price[0], at, price.end(), price[0])
    return Token(frozenset({_SIGNS.get(text[at], "sign")}), text[at], at, at + 1, text[at])


def _made(kind: str, match: re.Match[str], text: str) -> list[Token]:
    maker = _MAKERS.get(kind)
    if maker is None:
        return [_token(kind, match[0], match)]
    found = maker(match)
    return found if isinstance(found, list) else [found] if found is not None else []


def _token(kind: str | frozenset[str], value: Any, match: re.Match[str]) -> Token:
    kinds = frozenset({kind}) if isinstance(kind, str) else kind
    return Token(kinds, value, match.start(), match.end(), match[0].lower())


def decimal(text: str) -> float:
    """Return a number whose comma or point may part thousands: it does where it is before three digits more than once."""
    parts = re.split(r"[ .,']", text)
    if len(parts) == 1:
        return float(text)
    if len(parts) > 2 or (len(parts[1]) == 3 and re.search(r"[ ']", text)):
        return float("".join(parts))
    return float(f"{parts[0]}.{parts[1]}")


def _number(match: re.Match[str]) -> Token:
    value = decimal(match["n"])
    pieces = re.split(r"[ .,']", match["n"])
    if len(pieces) == 2 and len(pieces[1]) == 3 and value < 100 and "." not in match["n"][-3:]:
        thousands = float("".join(pieces))
        if is_usual_rate(thousands, None) and thousands >= 1000:
            value = thousands  # "2.400", "2,400"
    if re.search(r"[.,]00\Z", match["n"]) or re.search(r"[.,]\d\d\Z", match["n"]):
        return _token("price_like", value, match)
    if value >= 128 * MIB and is_module_size(round(value)):
        return _token(frozenset({"size", "number"}), round(value), match)
    return _token(
        number_kinds(
            value,
            value == thousands if len(pieces) == 2 and (thousands := float("".join(pieces))) else not re.search("[.,]", match["n"]),
        ),
        value,
        match,
    )


def _quantity(match: re.Match[str]) -> list[Token] | None:
    unit, gap = plain(match["unit"]), match["gap"]
    kind = UNITS.get(unit)
    if kind is None or (
        gap
        and unit in WORDS_TOO
        and not (match["unit"][0].isupper() and unit in ("g", "m", "go", "mo", "gi", "mi", "to", "v", "mt", "w", "k"))
        and not (unit in ("h", "min", "v", "w", "ms", "std", "week", "day", "year", "people", "pol", "bytes", "byte") and "\n" not in gap)
    ):
        return None
    if unit == "to" and match["unit"] != "To":
        return None
    if match["unit"] == "w" and gap:
        return None  # "16 w slot": a word of another language; watts have a large letter, or none between.
    if unit in ("k",) and not gap and decimal(match["n"]) < 1024:
        return [_token("measure", match[0], match)]  # "20k hours", "4K screen"
    value = decimal(match["n"])
    if kind == "size" and SIZE_UNITS[unit] <= KIB and value * SIZE_UNITS[unit] < _LEAST_BYTES:
        return [_token("measure", match[0], match)]  # A cache, a table; no memory of a machine.
    if kind == "size":
        return [_token("size", _size_bytes(match["n"], SIZE_UNITS[unit]), match)]
    if kind == "frequency":
        name, factor = FREQUENCY_UNITS[unit]
        parts = re.split(r"[ .,']", match["n"])
        if factor == 1 and len(parts) == 2 and len(parts[1]) == 3 and value < 100:
            value = float("".join(parts))  # "2.400 MHz"
        return [_token("frequency", (round(value * factor, 2), name), match)]
    if kind == "volts":
        return [_token("volts" if 0.9 <= value <= 2.6 else "measure", round(value * 1000), match)]
    if kind == "millivolts":
        return [_token("volts" if 900 <= value <= 2600 else "measure", round(value), match)]
    if kind in ("hours", "minutes"):
        return [_token("duration", round(value * (60 if kind == "hours" else 1)), match)]
    return [_token(kind, value, match)]


def _size_bytes(number: str, unit_bytes: int) -> int:
    """Return a size in bytes. 16.384 MB is sixteen thousand of them: a point before three digits parts thousands of MB."""
    parts = re.split(r"[ .,']", number)
    if unit_bytes in (MIB, KIB, 1) and len(parts) > 1 and all(len(part) == 3 for part in parts[1:]):
        return int("".join(parts)) * unit_bytes
    return round(decimal(number) * unit_bytes)


def _generation(match: re.Match[str]) -> list[Token] | None:
    groups = match.groupdict()
    digit = {"two": "2", "three": "3", "four": "4", "five": "5"}.get((groups["digit"] or "").lower(), groups["digit"] or "")
    name = re.sub(r"[\s.]", "", groups["gen"] or "DDR").upper() + digit + (groups["x"] or "").upper()
    try:
        generation = Generation(name)
    except ValueError:
        return None
    value: dict[str, Any] = {"generation": generation}
    if groups["low"]:
        value["voltage_mv"] = 1350 if groups["low"].upper() == "L" else 1250
    if groups["rate"]:
        value["rate"] = float(groups["rate"])
        value["joined"] = match[0][match.start("rate") - match.start() - 1] == "-"
        if (unit := re.compile(r"\s?(MHz|MT/?s|MTs)\b", re.IGNORECASE).match(match.string, match.end())) is not None:
            value["unit"] = "MHz" if unit[1].lower() == "mhz" else "MT/s"
            return [
                Token(frozenset({"rated_generation"}), value, match.start(), unit.end(), match.string[match.start() : unit.end()].lower())
            ]
        value["at"] = "@" in match[0]
        return [_token("rated_generation", value, match)]
    return [_token("generation", value, match)]


def _module_class(match: re.Match[str]) -> Token | None:
    digit = match["digit"] or (
        "3"
        if int(match["n"]) in (8500, 10600, 10666, 12800, 14900)
        else "4"
        if int(match["n"]) in (19200, 21300, 21333, 23400, 25600)
        else ""
    )
    try:
        generation = Generation("DDR" + digit)
    except ValueError:
        return None
    rate_mts = pc_number_to_rate_mts(int(match["n"]), generation)
    if rate_mts is None:
        label = parse_doubtful_label(match[0]) or (Label(generation, 0, misprint=match["n"]) if misprint_in(match[0]) else None)
        return _token("label", label, match) if label is not None else None
    value: dict[str, Any] = {"generation": generation, "rated_mts": rate_mts}
    if match["low"]:
        value["voltage_mv"] = 1350 if match["low"].upper() == "L" else 1250
    if match["bin"].upper() == "S" and generation is Generation.DDR3:
        value["form"] = "SODIMM"
    return _token("class", value, match)


def _label(match: re.Match[str]) -> Token | None:
    label = parse_doubtful_label(match[0])
    return _token("label", label, match) if label is not None else None


def _timings(match: re.Match[str]) -> Token | None:
    figures = [int(part) for part in re.split("[-/]", match["t"])]
    if not 2 <= figures[0] <= 60 or any(figure > 60 for figure in figures[:3]) or len(figures) > 4:
        return _token("measure", match[0], match)
    return _token("timings", Timings(*figures), match)


def _latency(match: re.Match[str]) -> Token | None:
    number = int(match["n"] or match["c"])
    return _token("timings" if 2 <= number <= 60 else "measure", Timings(number) if number >= 2 else number, match)


def _ranks(match: re.Match[str]) -> Token:
    value = {"ranks": int(match["ranks"])}
    if match["width"]:
        value["device_width_bits"] = int(match["width"])
    return _token("ranks", value, match)


def _bin(match: re.Match[str]) -> Token:
    return _token(frozenset({"mts", "number", "bin"}), float(match["n"]), match)


def _unclear(match: re.Match[str]) -> Token | None:
    if not any(map(str.isdigit, match[0])) and not match["unit"]:
        return None
    unit = (match["unit"] or "").upper()
    return _token("unclear", "size" if unit in ("GB", "MB", "G") else "rate", match)


def _plural(match: re.Match[str]) -> Token:
    token = _token("plural", match[0], match)
    token.values = {"plural": int(match["n"])}
    return token


def _ordinal(match: re.Match[str]) -> Token:
    token = _token("ordinal", match[0], match)
    token.values = {"ordinal": int(match["n"])}
    return token


def _glued(match: re.Match[str]) -> list[Token] | None:
    """Return the tokens of words that were written without blanks: `16gb3200`, `2x8GBDDR43200MHz`; else a code."""
    chunk = re.compile(r"[\w.\-]+").match(match.string, match.start())
    assert chunk is not None
    if (worded := re.fullmatch(r"(\d{1,5})([^\W\d_]{2,})", chunk[0])) and meaning(worded[2]) is not None:
        cut = chunk.start() + len(worded[1])
        return [*_pieces(match.string, chunk.start(), cut), *_pieces(match.string, cut, chunk.end())]
    found: list[tuple[int, int]] = []
    at = chunk.start()
    while at < chunk.end():
        piece = _GLUE.match(match.string, at, chunk.end())
        if piece is None or piece.end() == at:
            return [Token(frozenset({"code"}), chunk[0], chunk.start(), chunk.end(), chunk[0].lower())]
        found.append((at, piece.end()))
        at = piece.end()
    if len(found) < 2 or not any(map(str.isalpha, chunk[0])) or re.search(r"[A-Z]{2,}\d+[-]\d", chunk[0]):
        return [Token(frozenset({"code"}), chunk[0], chunk.start(), chunk.end(), chunk[0].lower())]
    return [token for start, end in found for token in _pieces(match.string, start, end)]


def _pieces(text: str, start: int, end: int) -> list[Token]:
    return [
        Token(token.kinds, token.value, token.start + start, token.end + start, token.text, token.values)
        for token in _scan(text[start:end], 0, end - start)
    ]


def _word(match: re.Match[str]) -> list[Token]:
    word = match[0]
    if word == "PCs":
        return [_token("noise", word, match)]  # Computers, and no pieces.
    if any(map(str.isdigit, word)):
        if piece := re.match(r"((?:lp)?ddr[2345]x?l?)(.+)", word, re.IGNORECASE):
            glued = _glued_word(match, piece)
            if glued is not None:
                return glued
        if numbered := re.match(r"(profile?|profil|channel|ch|perfil|profilo)([1-8])\Z", word, re.IGNORECASE):
            cut = match.start() + len(numbered[1])
            return [*_pieces(match.string, match.start(), cut), *_pieces(match.string, cut, match.end())]
        return [_token("code", word, match)]
    return [_token("word", word, match)]


def _glued_word(match: re.Match[str], piece: re.Match[str]) -> list[Token] | None:
    rest_start = match.start() + len(piece[1])
    rest = match.string[rest_start : match.end()].lstrip("-_/")
    start = match.end() - len(rest)
    if not re.fullmatch(
        r"(?:\d{3,5}(?:mhz|mt/?s)?|so-?dimm|udimm|rdimm|ecc|cl?\d\d|\d{1,2}x\d{1,3}gb?|\d{1,3}gb|[-/_])+", rest, re.IGNORECASE
    ):
        return None
    found = _pieces(match.string, match.start(), rest_start)
    at = start
    for part in re.finditer(r"\d{3,5}(?:mhz|mt/?s)?|so-?dimm|udimm|rdimm|ecc|cl?\d\d|\d{1,2}x\d{1,3}gb?|\d{1,3}gb", rest, re.IGNORECASE):
        at = start + part.start()
        found += _pieces(match.string, at, start + part.end())
    return found


def _slot_name(match: re.Match[str]) -> Token:
    name = match["name"].strip()
    if numbered := re.fullmatch(r"(?:slot|dimm|bank|socket)\s*#\s*(\d{1,2})", name, re.IGNORECASE):
        name = numbered[1]
    return _token("slot_name", name.upper() if len(name) == 2 else name, match)


_MAKERS: dict[str, Any] = {
    "number": _number,
    "rate_latency": _number,
    "quantity": _quantity,
    "generation": _generation,
    "class": _module_class,
    "label": _label,
    "timings": _timings,
    "latency": _latency,
    "timing": lambda match: _token("one_timing", (match["name"].lower(), int(match["n"])), match),
    "ranks": _ranks,
    "bin": _bin,
    "unclear": _unclear,
    "plural": _plural,
    "ordinal": _ordinal,
    "glued": _glued,
    "word": _word,
    "slot": _slot_name,
    "spoken_slot": lambda match: _token(
        "slot_name", match["name"].upper() + {"one": "1", "two": "2", "three": "3", "four": "4"}.get(match["n"].lower(), match["n"]), match
    ),
    "count": lambda match: _token("count_times", int(match["n"]), match),
    "system": lambda match: _token(frozenset({"system"}), match[0], match),
    "profile_number": lambda match: _token("profile_number", int(match["n"]), match),
}


def _with_terms(raw: list[Token]) -> Iterator[Token]:
    """Yield the tokens, words replaced by the longest terms of the vocabulary that they make."""
    root, at = terms(), 0
    while at < len(raw):
        token = raw[at]
        if "word" not in token.kinds and not ("code" in token.kinds and token.text[0].isalpha()):
            yield token
            at += 1
            continue
        made = _longest(raw, at, root)
        if made is not None:
            found, count = made
            last = raw[at + count - 1]
            behind = raw[at + count] if at + count < len(raw) else None
            if (
                behind is not None
                and "full_stop" in behind.kinds
                and behind.start == last.end
                and len(behind.text) == 1
                and last.text in SHORTENED
            ):
                last, count = behind, count + 1
            words = " ".join(part.text for part in raw[at : at + count])
            yield Token(found.kinds, token.text, token.start, last.end, words, found.values or None)
            at += count
        else:
            yield from _unknown(token) if "word" in token.kinds else (token,)
            at += 1


def _longest(raw: list[Token], at: int, root: Term) -> tuple[Term, int] | None:
    """Return the longest term that begins here, and of how many tokens it is."""
    term: Term | None = root
    best: tuple[Term, int] | None = None
    for number, token in enumerate(raw[at : at + 8], start=1):
        if "word" in token.kinds or "code" in token.kinds:
            for part in plain(token.text).replace("-", " ").split():
                term = term.longer.get(part.rstrip(".") or part) if term is not None else None
        elif "number" in token.kinds:
            term = term.longer.get(token.text) if term is not None else None
        elif not ("dash" in token.kinds and number > 1 and raw[at + number - 2].end == token.start):
            break
        if term is None:
            break
        if term.kinds:
            best = (term, number)
    return best


def _unknown(token: Token) -> Iterator[Token]:
    """Yield a word that no language has: cut at its hyphens and strokes, else as a mistyped word of the trade, else as it is."""
    word = plain(token.text)
    pieces = [piece for piece in re.split(r"([-/.])", token.text) if piece]
    root = terms()
    if len(pieces) > 1 and any(plain(piece) in root.longer and root.longer[plain(piece)].kinds for piece in pieces if piece not in "-/."):
        at = token.start
        cut: list[Token] = []
        for piece in pieces:
            if piece not in "-/.":
                cut.append(Token(frozenset({"word"}), piece, at, at + len(piece), piece.lower()))
            elif piece == "/":
                cut.append(Token(frozenset({"slash"}), piece, at, at + 1, piece))
            at += len(piece)
        yield from _with_terms_flat(cut)
        return
    meant = mistyped(word)
    if meant is not None:
        yield Token(meant.kinds, token.text, token.start, token.end, word, meant.values or None)
    else:
        yield token


def _with_terms_flat(cut: list[Token]) -> Iterator[Token]:
    root, at = terms(), 0
    while at < len(cut):
        made = _longest(cut, at, root) if "word" in cut[at].kinds else None
        if made is None:
            yield cut[at]
            at += 1
            continue
        found, count = made
        yield Token(
            found.kinds,
            cut[at].text,
            cut[at].start,
            cut[at + count - 1].end,
            " ".join(one.text for one in cut[at : at + count]),
            found.values or None,
        )
        at += count
