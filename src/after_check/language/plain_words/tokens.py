"""Cutting a text into tokens: figures with their units, words by what they mean, signs. The vocabulary is `vocabulary.toml`."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from typing import Any

from after_check.domain.modules import Generation, Timings
from after_check.domain.quantities import GIB, KIB, MIB, TIB
from after_check.language.plain_words.figures import is_module_size
from after_check.language.plain_words.layout import laid_out
from after_check.language.plain_words.terms import plain, vocabulary
from after_check.standards.labels import parse_label
from after_check.standards.rates import pc_number_to_rate_mts

LONGEST_TEXT = 4_000
"""Characters that are looked at; a page that was pasted has fewer. What is behind them is not understood."""
_MOST_WORDS_OF_A_TERM = 4
_MOST_PLACES = 32


@dataclass(slots=True)
class Token:
    """A piece of the text: its kind, its value, where it stands, and whether anything was made of it."""

    kind: str
    value: Any
    start: int
    end: int
    kinds: frozenset[str] = frozenset()
    used: bool = False
    facts: dict[str, Any] = field(default_factory=dict)

    def means(self, kind: str) -> bool:
        """Return whether the token is of a kind, or is a word that may mean it."""
        return self.kind == kind or kind in self.kinds


_UNITS = {
    **dict.fromkeys(("g", "gb", "gib", "go", "gig", "gigs", "giga", "gigabyte", "gigabytes", "gbyte", "gbytes", "gi", "er"), GIB),
    **dict.fromkeys(("m", "mb", "mib", "mo", "meg", "megs", "mega", "megabyte", "megabytes", "mbyte", "mbytes", "mi"), MIB),
    **dict.fromkeys(("tb", "tib", "to"), TIB),
    **dict.fromkeys(("kb", "kib", "ko", "kbyte", "kbytes", "ki"), KIB),
}
_UNIT = "|".join(sorted(_UNITS, key=len, reverse=True))
_NUMBER = r"\d{1,3}(?:[ .,'’\u00a0\u202f]\d{3})+(?!\d)|\d{1,9}(?:[.,]\d{1,3})?(?!\d)"

_PEAKS = {
    **dict.fromkeys(("8500", "10600", "10666", "12800", "14900"), Generation.DDR3),
    **dict.fromkeys(("19200", "21300", "21333", "23400", "25600"), Generation.DDR4),
}
"""Peaks in MB/s by which modules are called ("10600 ram"), as far as they are of one generation and no rate."""
_SLOT_WORDS = "slot|socket|bank|steckplatz|emplacement|ranura|sleuf"

_LEXEMES: tuple[tuple[str, re.Pattern[str]], ...] = tuple(
    (kind, re.compile(text, re.IGNORECASE))
    for kind, text in (
        ("odd", r"0x[0-9a-f]+(?!\w)"),
        ("label", r"(?:\d{1,4}\s*[MG]B\s+)?\d{1,2}(?:S\d|D)?R\s?[x×]\s?\d{1,2}\s+PC[2345]L?-\d{3,5}[A-Z]{0,3}(?:-[A-Z0-9]+)*"),
        ("label", r"PC[345]L?-\d{4,5}[A-Z]{1,3}(?:-[A-Z0-9]+)+"),
        ("timings", r"(?:CL\s?)?(?P<t>\d{1,2}-\d{1,2}-\d{1,2}(?:-\d{1,3})?)(?![\w-])"),
        ("timings", r"(?:CL|C|CAS(?:\s+latency)?)\s?[:=]?\s?(?P<cl>\d{1,2})(?!\w)"),
        ("volts", r"(?P<volts>[01][.,]\d{1,3})\s?V(?:olts?)?(?!\w)"),
        ("ranks", r"(?P<ranks>[1248])\s?R\s?[x×]\s?(?P<width>4|8|16|32)(?!\w)"),
        ("pc", r"PC(?P<digit>[2345]?)(?P<low>[LU]?)\s?-?\s?(?P<number>\d{4,5})[A-Z]{0,2}(?![\w-])"),
        ("pc", rf"(?P<digit>)(?P<low>)(?P<number>{'|'.join(_PEAKS)})[SURET]{{0,2}}(?![\w.,-]|\s?(?:{_UNIT})(?![^\W_]))"),
        ("unclear", r"(?P<gen>(?:LP)?DDR[2345]X?L?)[\s-]?(?P<rate>\d*\?[\d?]*)(?!\w)"),
        (
            "generation",
            r"(?P<gen>(?:LP)?DDR\s?[2345]X?)(?P<low>[LU])?(?:[\s-]{0,2}@?\s?(?P<rate>\d{3,5}))?(?:\s?(?P<unit>MHz|MT/?s)|(?<=\d\d)[A-Z]{1,2})?(?:(?![\w?])|(?=CL?\d))",
        ),
        ("generation", r"(?P<gen>DDR)(?:-(?P<rate>\d{3}))?(?![\w?])"),
        ("rate", rf"(?P<n>{_NUMBER})\s?(?P<unit>MHz|MT/?s|GHz|MTS)(?![\w])"),
        ("throughput", rf"(?:{_NUMBER})\s?(?:[KMGT]i?B|[KMGT]o|[kmg]bytes?)(?:/s(?:ec)?|ps)(?!\w)"),
        ("size_times", rf"(?P<n>{_NUMBER})\s?(?P<unit>{_UNIT})\s?[x×*]\s?(?P<count>\d{{1,2}})(?!\w)"),
        ("size", rf"(?P<n>{_NUMBER})\s?-?(?P<unit>{_UNIT})(?![^\W_])"),
        ("noise", r"\d{1,3}\s?-?(?:bits?|pins?)(?!\w)"),
        (
            "system",
            rf"windows\s(?:xp|vista|7|8(?:\.1)?|10|11)(?!\s?(?:{_UNIT})(?![^\W_]))(?=\s*[^\s\w.]|\s+[^\W\d]|\s+\d{{2}}\s?-?bit|\s*$)",
        ),
        (
            "duration",
            r"(?P<n>\d{1,5}(?:[.,]\d)?)\s?(?P<unit>h|hrs?|hours?|min|mins|minutes?|std|stunden?|minuten|heures?|horas?|minutos|minuti|uur)(?!\w)",
        ),
        ("bytes", r"(?P<n>\d{9,13})(?:\s?(?:bytes?|octets?))?(?!\w)"),
        ("count", r"(?P<count>\d{1,2})\s?[x×*]\s?(?=\d)"),
        ("count_after", r"[x×]\s?(?P<count>\d{1,2})(?!\w)"),
        ("count", r"(?P<count>\d{1,2})\s?[x×](?=\s)"),
        ("slot_name", r"(?:DIMM|SODIMM|SO-DIMM)?[_ ]?(?P<name>[A-H][1-8]|S[0-4]|[A-H]0(?=\s*[:=]\s*\d|\s+\d))(?![\w-])"),
        ("slot_name", r"(?P<name>(?:P\d[_-]|CPU\s?\d[\s_-])(?:DIMM[\s_-]?)?[A-P][1-9]?)(?![\w-])"),
        ("slot_name", rf"(?:{_SLOT_WORDS}|DIMM)\s+(?:no|nr|number|num|nummer|numéro|n°|nº)\.?\s?(?P<name>\d{{1,2}})(?![\d.,]\d|\w)"),
        (
            "slot_range",  # "slots 1-4"; "slot 1 - 8" may be one slot and what sits in it.
            rf"(?:slots|sockets|banks|steckplätze|emplacements|ranuras|sleuven)\s+(?P<first>\d{{1,2}})\s?(?:-|–|to|bis|à|a)\s?(?P<last>\d{{1,2}})"
            rf"(?![\d.,]\d|\w|\s?(?:{_UNIT})(?![^\W_]))",
        ),
        ("joint", r"(?<=[A-H][1-8])/(?=[A-H][1-8](?!\w))"),
        ("slot_name", r"(?P<name>Channel\s?[A-H][\s-]?DIMM\s?\d)(?!\w)"),
        ("slot_name", r"(?P<name>(?:DIMM|bank|slot)\s?_?#?\d{1,2})(?=\s*[:=])"),
        ("slot_name", r"(?<![^\n])(?P<name>DIMM\s?#?\d{1,2})(?=\s+(?:\d|-|empty|no|leer|frei|vide))"),
        ("nth", r"(?:module|modul|modulo|device|gerät|ram|stick|riegel|barrette)\s?#?\d{1,2}\s*[:=]"),
        ("number", r"(?P<n>1333|1600|1866|2133|2400|2666|2933|3200)[A-Z]{1,2}(?!\w)"),
        (
            "size",
            r"(?P<n>2048|3072|4096|6144|8192|12288|16384|24576|32768|49152|65536|98304|131072)(?P<unit>)(?![\w.,]|\s?(?:MHz|MT|bytes))",
        ),
        ("number", r"(?P<n>\d{3,5})(?=/?CL?\d{2}(?!\w))"),
        ("ordinals", rf"(?P<n>[1-8])(?:st|nd|rd|th|e|º|ª|ème|\.)(?=\s+(?:{_SLOT_WORDS}))"),
        ("slot_name", r"(?P<name>(?:DIMM|bank|slot)_?\d{1,2})(?![\w-])"),
        ("plural", r"(?P<n>[1248]|12|16|24|32|48|64)['’]?s(?!\w)"),
        ("number", rf"(?P<n>{_NUMBER})(?![^\W_]|\?)"),
        ("of", r"(?<=\d)/(?=\d)"),
        ("sign", r"(?<=\d)/(?=CL?\d)"),
        ("word", r"[^\W\d_][\w'’./-]*|@|#"),
        ("arrow", r"[-=]+>|→"),
        ("sign", r"[:=+()&]|(?<=\s)[-–](?=\s|$)"),
        ("end", r"[;,\n\t|•·]|(?<=\s)/(?=\s)|\.(?=\s|$)"),
        ("odd", r"\S+?(?=[\s;,()]|$)"),
    )
)


def tokens(text: str) -> list[Token]:
    """Return the tokens of a text, in order; everything but blanks belongs to one."""
    shown = _as_meant(laid_out("".join(map(_harmless, text[:LONGEST_TEXT]))))
    found = list(_with_terms(list(_scan(shown)), shown))
    if len(text) > LONGEST_TEXT:
        found.append(Token("odd", text[LONGEST_TEXT:], LONGEST_TEXT, len(text)))
    return found


def _as_meant(text: str) -> str:
    """Return a text of the same length in which figures that an optical reader took for letters are figures again."""
    for pattern, meant in _MISREAD:
        text = pattern.sub(meant, text)
    return text


_MISREAD: tuple[tuple[re.Pattern[str], Callable[[re.Match[str]], str]], ...] = (
    # I6GB, l6 GB; 32OO, PC4-256OO; DDRS; 8G8.
    (re.compile(r"(?<!\w)[Il|](?=\dG[B8]?(?!\w)|\d GB(?!\w))"), lambda match: "1"),
    (re.compile(r"(?<![A-Za-z\d])[1-9][\dO]*O[\dO]*(?=[A-Z]{0,2}(?!\w)|MHz|MT)"), lambda match: match[0].replace("O", "0")),
    (re.compile(r"(?<!\w)(?P<kind>(?:LP)?DDR)S(?!\w)", re.IGNORECASE), lambda match: match["kind"] + "5"),
    (re.compile(r"(?<!\w)(?P<n>\d{1,3})G8(?!\w)"), lambda match: match["n"] + "GB"),
)


_ALMOST_ASCII = {"İ": "I", "ı": "i", "ſ": "s", "\u212a": "K"}
"""The letters that count as one of ASCII where case is ignored, and are another one in small letters (Unicode, CaseFolding.txt)."""


def _harmless(character: str) -> str:
    """Return a blank for a control or formatting character, and a plain letter for one that is almost it; places stay as they are."""
    if character in _ALMOST_ASCII:
        return _ALMOST_ASCII[character]
    return " " if character not in "\n\t" and unicodedata.category(character)[0] == "C" else character


def _scan(text: str) -> Iterator[Token]:
    at = 0
    while at < len(text):
        if text[at] in " \r\u00a0\u200b\ufeff":
            at += 1
            continue
        for kind, pattern in _LEXEMES:
            match = pattern.match(text, at)
            if match is None:
                continue
            token = _made(kind, match)
            if token is not None:
                yield token
                at = match.end()
                break
        else:
            yield Token("odd", text[at], at, at + 1)
            at += 1


def _made(kind: str, match: re.Match[str]) -> Token | None:
    if kind in ("generation", "unclear"):
        return _generation(kind, match)
    if kind == "pc":
        return _module_class(match)
    if kind == "noise":
        return Token("noise", match[0], match.start(), match.end(), frozenset({"noise"}))
    if kind == "nth":
        return Token("count", 1, match.start(), match.end())  # "module 2: 8 GB" is one module.
    if kind == "joint":
        return Token("sign", "&", match.start(), match.end())
    if kind == "system":
        return Token("system", "windows", match.start(), match.end(), frozenset({"noise", "system_shows"}))
    if kind == "bytes":
        whole = int(match["n"])
        if not is_module_size(whole) and match[0][-1] not in "sS":
            return None
        return Token("size", whole, match.start(), match.end(), facts={"in_bytes": True})
    if kind == "arrow":
        return Token(kind, match[0], match.start(), match.end(), frozenset({"upgrade"}))
    if kind == "size" and match["unit"] == "to":
        return None  # "8 to 16": French terabytes are written with a large T.
    value = _VALUES[kind](match) if kind in _VALUES else match[0]
    facts: dict[str, Any] = {}
    if kind == "size_times":
        facts["count"] = int(match["count"])
    elif kind == "size" and match["unit"].lower() == "er":
        facts["stick"] = True  # "ein 8er" is a module, never a total.
    elif kind == "ranks":
        facts = {"ranks": int(match["ranks"]), "device_width_bits": int(match["width"])}
    return None if value is None else Token(kind, value, match.start(), match.end(), facts=facts)


def _module_class(match: re.Match[str]) -> Token | None:
    generation = Generation("DDR" + match["digit"]) if match["digit"] or match["number"] not in _PEAKS else _PEAKS[match["number"]]
    rate_mts = pc_number_to_rate_mts(int(match["number"]), generation)
    if rate_mts is None:
        return None
    facts: dict[str, Any] = {"generation": generation, "rated_mts": rate_mts}
    if match["low"]:
        facts["voltage_mv"] = 1350
    return Token("pc", match[0], match.start(), match.end(), facts=facts)


def _places(first: int, last: int) -> tuple[str, ...] | None:
    return tuple(map(str, range(first, last + 1))) if first < last <= _MOST_PLACES else None


def _rate_value(match: re.Match[str]) -> tuple[float, str]:
    number, unit = _decimal(match["n"]), match["unit"].upper().replace("/", "")
    return (number * 1000, "MHz") if unit == "GHZ" else (number, "MHz" if unit == "MHZ" else "MT/s")


def _timings_value(match: re.Match[str]) -> Timings:
    return Timings(*(int(part) for part in match["t"].split("-"))) if "t" in match.groupdict() else Timings(int(match["cl"]))


_VALUES: dict[str, Callable[[re.Match[str]], Any]] = {
    "size": lambda match: _size_bytes(match["n"], match["unit"]),
    "size_times": lambda match: _size_bytes(match["n"], match["unit"]),
    "rate": _rate_value,
    "number": lambda match: _decimal(match["n"]),
    "plural": lambda match: int(match["n"]),
    "ordinals": lambda match: int(match["n"]),
    "duration": lambda match: round(float(match["n"].replace(",", ".")) * (1 if match["unit"].lower().startswith("m") else 60)),
    "count": lambda match: int(match["count"]),
    "count_after": lambda match: int(match["count"]),
    "timings": _timings_value,
    "volts": lambda match: round(float(match["volts"].replace(",", ".")) * 1000),
    "label": lambda match: parse_label(match[0]),
    "slot_range": lambda match: _places(int(match["first"]), int(match["last"])),
    "slot_name": lambda match: match["name"].upper() if len(match["name"]) == 2 else match["name"],
}
"""How the value of a token is read off its text; None where it is none after all."""


def _generation(kind: str, match: re.Match[str]) -> Token | None:
    name = match["gen"].upper().replace(" ", "")
    low = name.endswith("L") and not name.startswith("L")
    try:
        generation = Generation(name.removesuffix("L") if low else name)
    except ValueError:
        return None
    facts: dict[str, Any] = {"generation": generation}
    if kind == "unclear":
        facts["unclear"] = match["rate"]
    else:
        groups = match.groupdict()
        if low or groups.get("low"):
            facts["voltage_mv"] = 1350
        if groups.get("rate"):
            facts["shown"] = (float(match["rate"]), "MHz" if (groups.get("unit") or "").upper() == "MHZ" else "")
    return Token(kind, generation, match.start(), match.end(), facts=facts)


def _decimal(text: str) -> float:
    """Return a number whose comma or point may part thousands: it does before three digits, unless a unit says otherwise."""
    parts = re.split(r"[ .,'’\u00a0\u202f]", text)
    if len(parts) == 1:
        return float(text)
    if len(parts) > 2 or (len(parts[1]) == 3 and re.search(r"[ '’\u00a0\u202f]", text)):
        return float("".join(parts))
    return float(f"{parts[0]}.{parts[1]}")


def _size_bytes(number: str, unit: str) -> int:
    """Return a size in bytes. 16.384 MB is sixteen thousand of them: a point before three digits parts thousands of MB."""
    unit_bytes = _UNITS[unit.lower() or "mb"]  # "dimm1 8192": no rate of any memory.
    parts = re.split(r"[ .,'’\u00a0\u202f]", number)
    if unit_bytes in (MIB, KIB) and len(parts) > 1 and all(len(part) == 3 for part in parts[1:]):
        return int("".join(parts)) * unit_bytes
    return round(_decimal(number) * unit_bytes)


def _spoken_size(term: str) -> int | None:
    """Return the bytes of a size whose number is a word: `sixteen gigabytes`, `thirty-two gigs`; None where it is none."""
    *number, unit = term.replace("-", " ").split()
    if not number or len(unit) < 2 or unit not in _UNITS:
        return None
    _, values = vocabulary()
    known = values["numbers"] | values["large_numbers"]
    value = known.get(" ".join(number))
    return value * _UNITS[unit] if value is not None and value > 1 else None


def _with_terms(raw: list[Token], text: str) -> Iterator[Token]:
    """Yield the tokens, words replaced by the longest terms of the vocabulary that they make."""
    terms, _ = vocabulary()
    at = 0
    while at < len(raw):
        token = raw[at]
        if token.kind != "word":
            yield token
            at += 1
            continue
        for count in range(min(_MOST_WORDS_OF_A_TERM, len(raw) - at), 0, -1):
            some = raw[at : at + count]
            if any(part.kind != "word" for part in some):
                continue
            term = " ".join(plain(text[part.start : part.end]) for part in some)
            spoken = _spoken_size(term)
            if spoken is not None:
                yield Token("size", spoken, token.start, some[-1].end)
                at += count
                break
            kinds = terms.get(term) or (terms.get(term.rstrip(".")) if count == 1 else None)
            if kinds:
                yield Token("word", term, token.start, some[-1].end, kinds)
                at += count
                break
        else:
            word = plain(text[token.start : token.end])
            if word[-1:] in "123" and "profile" in terms.get(word[:-1], ()):  # "XMP1"
                yield Token("word", word[:-1], token.start, token.end - 1, terms[word[:-1]])
                yield Token("number", float(word[-1]), token.end - 1, token.end)
                at += 1
                continue
            pieces = [terms.get(piece) for piece in word.split("-")] if "-" in word else []
            if pieces and all(pieces):
                offset = token.start
                for piece, kinds in zip(word.split("-"), pieces, strict=True):
                    yield Token("word", piece, offset, min(offset + len(piece), token.end), kinds or frozenset())
                    offset += len(piece) + 1
            else:
                yield Token("word", word, token.start, token.end, frozenset())
            at += 1
