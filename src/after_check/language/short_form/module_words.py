"""The words that describe a module."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from after_check.domain.facts import Fact, Source
from after_check.domain.modules import Form, Generation, ManufactureWeek, Module, Profile, Timings
from after_check.domain.outside_text import clean, nearest
from after_check.domain.quantities import parse_size, size_text
from after_check.language.short_form.items import QUOTED, Cursor, unquote
from after_check.language.short_form.problems import Problem, quoted
from after_check.standards.labels import Label, misprint_in, parse_label
from after_check.standards.rates import HIGHEST_RATE_MTS, pc_number_to_rate_mts, snap_rate
from after_check.standards.weeks import make_week

_END = r"(?![A-Za-z0-9.])"
_TIMINGS = r"(?:(?P<{p}t>\d{{1,3}}-\d{{1,3}}-\d{{1,3}}(?:-\d{{1,3}})?)|{cl}\s*(?P<{p}cl>\d{{1,3}}))"
_VOLTS = r"(?P<{p}volts>\d(?:\.\d{{1,3}})?)\s*V"

VOCABULARY = (
    "ecc",
    "noecc",
    "udimm",
    "sodimm",
    "rdimm",
    "lrdimm",
    "soldered",
    "camm",
    "maker",
    "part",
    "serial",
    "date",
    "std",
    "noprof",
    "prof1",
    "prof2",
    "prof3",
    "ddr3-1600",
    "ddr4-2933",
    "ddr5-4800",
)


def pattern(text: str) -> re.Pattern[str]:
    """Return a compiled pattern that ignores case and ends at the end of a word."""
    return re.compile(text + _END, re.IGNORECASE | re.ASCII)


def timings_of(match: re.Match[str], prefix: str = "") -> Timings | None:
    """Return the timings in the groups that `_TIMINGS` makes, or None where there are none."""
    if match[f"{prefix}cl"]:
        return Timings(int(match[f"{prefix}cl"]))
    if match[f"{prefix}t"]:
        return Timings(*(int(part) for part in match[f"{prefix}t"].split("-")))
    return None


def millivolts(volts: str) -> int:
    """Return a typed voltage in mV."""
    return round(float(volts) * 1000)


TIMINGS_WORD = pattern(_TIMINGS.format(p="", cl="CL"))
VOLTS_WORD = pattern(_VOLTS.format(p=""))


@dataclass(slots=True)
class Draft:
    """A module while its words are read: the facts so far and where each stood."""

    facts: dict[str, Fact[Any]] = field(default_factory=dict)
    profiles: list[Profile] = field(default_factory=list)
    problems: list[Problem] = field(default_factory=list)

    def put(self, name: str, value: object, span: tuple[int, int], source: Source = Source.TYPED) -> None:
        """Set a fact; a second, different value for it is a problem, and the first one stays."""
        standing = self.facts.get(name)
        if standing is None:
            self.facts[name] = Fact(value, source)
        elif standing.value != value:
            said = f"{_word(name)} is given twice: {_shown(name, standing.value)} and {_shown(name, value)}"
            self.problems.append(Problem(*span, said, "keep one of the two"))
        elif source is Source.TYPED:
            self.facts[name] = Fact(value, source)

    def module(self) -> Module:
        """Return the module that the words describe."""
        facts = dict(self.facts)
        if self.profiles:
            facts["profiles"] = Fact(tuple(sorted(self.profiles, key=lambda profile: profile.number)), Source.TYPED)
        return Module(**facts)


_LOW_MILLIVOLTS = {"L": 1350, "U": 1250}
"""DDR3L and DDR3U (JESD79-3-1A, JESD79-3-2)."""
_GENERATIONS = {str(generation): generation for generation in Generation}


def _size(draft: Draft, match: re.Match[str]) -> None:
    size_bytes = parse_size(match[0])
    if not size_bytes:
        draft.problems.append(Problem(*match.span(), f"{quoted(match[0])} is no size of a module"))
        return
    draft.put("size_bytes", size_bytes, match.span())


def _named_rate(draft: Draft, match: re.Match[str]) -> None:
    generation = _GENERATIONS.get(match["generation"].upper())
    if generation is None:
        draft.problems.append(
            Problem(*match.span("generation"), f"{quoted(match['generation'])} is no kind of memory", f"known: {', '.join(_GENERATIONS)}")
        )
        return
    draft.put("generation", generation, match.span())
    if match["low"] and generation is Generation.DDR3:
        draft.put("voltage_mv", _LOW_MILLIVOLTS[match["low"].upper()], match.span())
    if match["rate"]:
        put_rate(draft, "rated_mts", match["rate"], match.span("rate"), generation)


def _pc_number(draft: Draft, match: re.Match[str]) -> None:
    generation = _GENERATIONS["DDR" + match["digit"]]
    rate_mts = pc_number_to_rate_mts(int(match["number"]), generation)
    if rate_mts is None:
        draft.problems.append(Problem(*match.span(), f"{quoted(match[0])} is no module class of {generation}", "for instance PC4-23400"))
        return
    draft.put("generation", generation, match.span())
    draft.put("rated_mts", rate_mts, match.span())
    if match["low"]:
        draft.put("voltage_mv", _LOW_MILLIVOLTS[match["low"].upper()], match.span())


def put_rate(draft: Draft, name: str, digits: str, span: tuple[int, int], generation: Generation | None) -> None:
    """Set a rate, rounded as labels round it; a number that is no rate is a problem."""
    if not 100 <= int(digits) <= HIGHEST_RATE_MTS:
        draft.problems.append(Problem(*span, f"{digits} is no data rate", "rates are between 100 and 20000 MT/s"))
        return
    draft.put(name, snap_rate(int(digits), generation), span)


def _ranks(draft: Draft, match: re.Match[str]) -> None:
    draft.put("ranks", int(match["ranks"]), match.span())
    draft.put("device_width_bits", int(match["width"]), match.span())


def _standard(draft: Draft, match: re.Match[str]) -> None:
    put_rate(draft, "standard_mts", match["rate"], match.span(), None)


def _bare_rate(draft: Draft, match: re.Match[str]) -> None:
    """A rate whose generation nobody wrote: it is that of the module's other words, where there is one."""
    generation = draft.facts.get("generation")
    put_rate(draft, "rated_mts", match["rate"], match.span(), generation.value if generation is not None else None)


def _profile(draft: Draft, match: re.Match[str]) -> None:
    profile = Profile(
        number=int(match["number"]),
        rate_mts=snap_rate(int(match["rate"])),
        timings=timings_of(match, "p"),
        voltage_mv=millivolts(match["pvolts"]) if match["pvolts"] else None,
    )
    if not 100 <= int(match["rate"]) <= HIGHEST_RATE_MTS:
        draft.problems.append(Problem(*match.span("rate"), f"{match['rate']} is no data rate"))
    elif any(standing.number == profile.number for standing in draft.profiles):
        draft.problems.append(Problem(*match.span(), f"profile {profile.number} is given twice", "keep one of the two"))
    elif "profiles" in draft.facts:
        draft.problems.append(Problem(*match.span(), "noprof and a profile contradict each other"))
    else:
        draft.profiles.append(profile)


def _no_profile(draft: Draft, match: re.Match[str]) -> None:
    if draft.profiles:
        draft.problems.append(Problem(*match.span(), "noprof and a profile contradict each other"))
    else:
        draft.put("profiles", (), match.span())


def _date(draft: Draft, match: re.Match[str]) -> None:
    week = make_week(int(match["year"]), int(match["week"]))
    if week is None:
        draft.problems.append(Problem(*match.span(), f"{match['year']} has no week {match['week']}", "write the ISO week, as in 2021-W11"))
        return
    draft.put("made", week, match.span())


def _text(name: str) -> Callable[[Draft, re.Match[str]], None]:
    def put(draft: Draft, match: re.Match[str]) -> None:
        value = clean(unquote(match["text"]))
        if value:
            draft.put(name, value, match.span())
        else:
            draft.problems.append(Problem(*match.span(), f"{name} has no text"))

    return put


def _label(draft: Draft, match: re.Match[str]) -> None:
    text = clean(unquote(match[0]))
    label = parse_label(text)
    draft.put("label", text, match.span(), Source.LABEL)
    if label is None:
        wrong = misprint_in(text)
        help = f'look again: is it "{wrong[1]}"?' if wrong is not None and wrong[1] else 'for instance "16GB 2Rx8 PC4-2933Y-UB1-11"'
        what = f"{wrong[0]} in a label is no rate and no class of modules" if wrong is not None else f"{quoted(text)} is no JEDEC label"
        draft.problems.append(Problem(*match.span(), what, help))
        return
    for name, value in label_facts(label).items():
        draft.put(name, value, match.span(), Source.LABEL)


def label_facts(label: Label) -> dict[str, object]:
    """Return what a label says, by the names of a module's fields; a label's rate is a standard one."""
    said: dict[str, object | None] = {
        "size_bytes": label.size_bytes,
        "generation": label.generation,
        "form": label.form,
        "rated_mts": label.rate_mts,
        "standard_mts": label.rate_mts,
        "timings": label.timings,
        "ranks": label.ranks,
        "device_width_bits": label.device_width_bits,
        "voltage_mv": label.voltage_mv,
        "ecc": label.ecc,
    }
    return {name: value for name, value in said.items() if value is not None}


def _constant(name: str, value: object) -> Callable[[Draft, re.Match[str]], None]:
    return lambda draft, match: draft.put(name, value, match.span())


_NAME = rf"(?P<text>{QUOTED}|[^\s\";]+)"

_WORDS: tuple[tuple[re.Pattern[str], Callable[[Draft, re.Match[str]], None]], ...] = (
    (re.compile(QUOTED), _label),
    (pattern(r"\d{1,19}(?:\.\d{1,6})?\s*[KMGT](?:i?B)?"), _size),
    (pattern(r"\d{1,19}\s*B"), _size),
    (pattern(r"(?P<generation>(?:LP)?DDR[2345]?X?)(?:(?<=4X)|(?<=5X)|(?<!X))(?P<low>[LU]?)(?:\s*-?\s*(?P<rate>\d{3,5}))?"), _named_rate),
    (pattern(r"PC(?P<digit>[2345]?)(?P<low>[LU]?)\s*-\s*(?P<number>\d{3,5})"), _pc_number),
    (pattern(r"(?P<ranks>[1-9])\s*R\s*[x×]\s*(?P<width>4|8|16|32)"), _ranks),
    (pattern(r"(?P<ranks>[1-9])\s*R"), lambda draft, match: draft.put("ranks", int(match["ranks"]), match.span())),
    (TIMINGS_WORD, lambda draft, match: draft.put("timings", timings_of(match), match.span())),
    (VOLTS_WORD, lambda draft, match: draft.put("voltage_mv", millivolts(match["volts"]), match.span())),
    (pattern(r"std\s*(?P<rate>\d{3,5})"), _standard),
    (
        pattern(
            r"prof(?:ile)?\s*(?P<number>[123])\s+(?P<rate>\d{3,5})"
            rf"(?:\s*@\s*{_TIMINGS.format(p='p', cl='(?:CL)?')})?(?:\s*/\s*{_VOLTS.format(p='p')})?"
        ),
        _profile,
    ),
    (pattern(r"noprof"), _no_profile),
    (pattern(r"module|filled|used"), lambda draft, match: None),  # A module of which nothing is known.
    (pattern(r"(?P<rate>\d{3,5})(?:\s*MT/?s)?"), _bare_rate),
    (pattern(r"ecc"), _constant("ecc", True)),
    (pattern(r"noecc"), _constant("ecc", False)),
    (pattern(r"udimm"), _constant("form", Form.UDIMM)),
    (pattern(r"so-?dimm"), _constant("form", Form.SODIMM)),
    (pattern(r"rdimm"), _constant("form", Form.RDIMM)),
    (pattern(r"lrdimm"), _constant("form", Form.LRDIMM)),
    (pattern(r"soldered"), _constant("form", Form.SOLDERED)),
    (pattern(r"camm2?"), _constant("form", Form.CAMM)),
    (pattern(r"date\s*(?P<year>\d{4})\s*-?\s*W\s*(?P<week>\d{1,2})"), _date),
    (re.compile(rf"maker\s*{_NAME}", re.IGNORECASE | re.ASCII), _text("maker")),
    (re.compile(rf"part\s*{_NAME}", re.IGNORECASE | re.ASCII), _text("part")),
    (re.compile(rf"serial\s*{_NAME}", re.IGNORECASE | re.ASCII), _text("serial")),
)

_FACT_WORDS = frozenset(
    {
        "run",
        "single",
        "dual",
        "triple",
        "quad",
        "channels",
        "profile",
        "total",
        "usable",
        "graphics",
        "via",
        "bits",
        "virtual",
        "reset",
        "pending",
    }
)


def read_module(cursor: Cursor) -> tuple[Module, list[Problem]]:
    """Read module words until the item ends; words that nobody knows become problems."""
    draft = Draft()
    while not cursor.done:
        for words, put in _WORDS:
            match = cursor.take(words)
            if match is not None:
                put(draft, match)
                break
        else:
            start, end = cursor.take_rest_of_word()
            draft.problems.append(Problem(start, end, *_unknown_word(cursor.line[start:end])))
    return draft.module(), draft.problems


def _unknown_word(word: str) -> tuple[str, str]:
    if word.lower() in _FACT_WORDS:
        return f"{quoted(word)} is no word for a module", f"put ; before {quoted(word)}"
    if word.lower() == "date":
        return "the date is not understood", "write the ISO week, as in date 2021-W11"
    return f"{quoted(word)} is not understood", nearest(word, VOCABULARY)


_WORD_FOR_FIELD = {
    "size_bytes": "size",
    "rated_mts": "rate",
    "standard_mts": "standard rate",
    "device_width_bits": "device width",
    "voltage_mv": "voltage",
    "made": "date",
    "ecc": "ECC",
}


def _word(name: str) -> str:
    return _WORD_FOR_FIELD.get(name, name)


def _shown(name: str, value: object) -> str:
    if name == "size_bytes" and isinstance(value, int):
        return size_text(value)
    if isinstance(value, ManufactureWeek | Timings | str | int):
        return str(value)
    return repr(value)
