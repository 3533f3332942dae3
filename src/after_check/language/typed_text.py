"""What a person typed, through one door: the short form where it is that, else plain words."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from typing import Any

from after_check.domain.facts import value_of
from after_check.domain.modules import Form, Module
from after_check.domain.promises import Promise
from after_check.domain.readings import Reading
from after_check.language.short_form import parse, parse_promise, write
from after_check.language.short_form.edit import module_from_words
from after_check.language.short_form.items import LONGEST_LINE, QUOTED, quote, unquote
from after_check.language.short_form.parser import Parsed, typed_notes
from after_check.language.short_form.problems import Problem, quoted
from after_check.language.words import Ask, Understood, understand
from after_check.language.words.figures import is_module_size, may_be_sold_as
from after_check.language.words.understood import LeftAside
from after_check.language.words.vocabulary import meaning
from after_check.standards.labels import can_be_built

_FIELDS = ("running_rate", "total_bytes")
_AN_AMOUNT = re.compile(r"\A\d{3,}\Z|[+&]|\d\s*(?:[GM]i?B?|Go|Mo)(?![A-Za-z])|\d\s*[x×*]\s*\d", re.IGNORECASE)
"""What is before an equals sign and is no slot: 4 x 8, 8 + 8, 16 GB, a large number."""
_PLACES = frozenset(("slot", "bank", "dimm", "other", "ordinal", "top"))
"""Kinds of words that may name a slot."""
_NOT_SHORT = re.compile(r"\d[.,]\d{3}\s*M|(?<![\w.=])(?:8|12|16|24|32|48|64)\s?[x×*]\s?[1-8](?![\w.])", re.IGNORECASE)
"""What the short form would take, and people mean otherwise: separated thousands of MB; 16x2, which may be 2x16."""


_LONE_SIZE = re.compile(r"\s*\d{1,4}\s*(?:GB|GiB|G)\s*", re.IGNORECASE)
"""As a promise this is how much the machine is to have, in however many modules; a module that is promised is counted (1x16G)."""
_COUNTED = re.compile(
    r"\d\s*[x×*]|[x×]\s*\d|\b(?:one|single|another|an?|the|module|stick|dimm|riegel|modul|barrette|m[oó]dulo|pcs?|pieces?|st(?:ü|ue)ck|slot|in)\b",
    re.IGNORECASE,
)
"""What says that a size is that of one module."""
_QUOTED = re.compile(QUOTED)
_NOTE = re.compile(rf"(?:;|(?<![\s;]))\s*+note\s*+(?P<text>{QUOTED})", re.IGNORECASE | re.ASCII)


@dataclass(frozen=True, slots=True)
class Said:
    """A text as it was understood: certain facts, what is to be asked, stretches that nobody understands; in the short form at last."""

    text: str
    reading: Reading
    asks: tuple[Ask, ...]
    not_understood: tuple[tuple[int, int], ...]
    notation: str
    left_aside: tuple[LeftAside, ...] = ()

    @property
    def is_whole(self) -> bool:
        """Whether everything was understood and nothing is to be asked."""
        return not self.asks and not self.not_understood


def said(text: str, promise: bool = False, before: Reading | None = None) -> Said:
    """Return what a text says. The short form is exact, and taken as it is; anything else is read as words."""
    parsed = parse_promise(text)[1] if promise else parse(text)
    if text.strip() and _is_short(text, parsed, promise):
        line = write(parsed.reading)
        return Said(text, parsed.reading, (), (), line.replace("1x", "", 1) if promise and parsed.uncounted else line)
    return _in_words(text, promise, before)


def _in_words(text: str, promise: bool = False, before: Reading | None = None, added: bool = False) -> Said:
    notes = [notice for match in _NOTE.finditer(text) for notice in typed_notes(unquote(match["text"]))]
    # A note is no words of the trade: it is passed over, and what is behind it stays where it is.
    here = _NOTE.sub(lambda match: " " * len(match[0]), text)
    found: Understood = understand(here, promise, before, added)
    reading = replace(found.reading, notices=(*found.reading.notices, *notes))
    return Said(text, reading, found.asks, found.not_understood, write(reading), found.left_aside)


def read_line(text: str, added: bool = False) -> Parsed:
    """Return a typed reading as a parsed line, whichever way it was typed; what is asked or not understood is its problems.

    `added` says that it is added to a reading that is there, so that its modules are not all.
    """
    parsed = parse(text)
    if not text.strip() or len(text) > LONGEST_LINE or _is_short(text, parsed):
        return parsed
    return _as_parsed(_in_words(text, added=added), parsed)


def modules_said(words: str) -> tuple[tuple[Module, ...], tuple[Problem, ...]]:
    """Return the modules that words describe, and what of them is not understood or to be asked; `-` is none."""
    module, problems = module_from_words(words)
    if not problems and (module is None or _is_made(module)):
        return ((module,) if module is not None else ()), ()
    found = _in_words(words)
    if found.is_whole and found.reading.modules:
        return found.reading.modules, ()
    if found.asks:
        return (), tuple(_asked(words, ask) for ask in found.asks)
    return (), problems or (Problem(0, len(words), f"{quoted(words)} is no module", "for instance 16 GB DDR4-3200"),)


def read_promise(text: str, before: Reading | None = None) -> tuple[Promise, Parsed]:
    """Return a promise as typed; words that speak of what is there need the reading on arrival."""
    promise, parsed = parse_promise(text)
    if not text.strip() or len(text) > LONGEST_LINE or _is_short(text, parsed, promised=True):
        return promise, parsed
    found = _as_parsed(_in_words(text, True, before), parsed)
    if found is parsed or found.problems:
        return promise, found
    line = write(found.reading)
    if len(found.reading.loose) == 1 and found.reading.loose[0].size_bytes is not None and not _COUNTED.search(text):
        line = line.replace("1x", "", 1)  # A size that stands for itself is an amount, in any number of modules.
    exact, checked = parse_promise(line)
    whole = tuple(Problem(0, len(text), problem.message, problem.suggestion) for problem in checked.problems)
    return exact, Parsed(text, checked.reading, whole)


def exact_promise(text: str, before: Reading | None = None) -> str:
    """Return a promise in the short form, which is how it is kept; what was not understood is returned as it is."""
    promise, parsed = read_promise(text, before)
    return text.strip() if parsed.problems else promise.notation


def _as_parsed(found: Said, exact: Parsed) -> Parsed:
    """Return words as a parsed line; the short form's own problems where it was meant, or where nothing was understood."""
    aside = tuple((one.start, one.end, one.because.value) for one in found.left_aside)
    if found.is_whole and found.notation:
        return Parsed(found.text, found.reading, (), left_aside=aside)
    if found.is_whole and aside:
        nothing = Problem(aside[0][0], aside[0][1], "nothing is said of what is in this machine now", "say what is in it now")
        return Parsed(found.text, found.reading, (nothing,), left_aside=aside)
    if exact.problems and ("=" in found.text or ";" in found.text or not (found.notation or found.asks)):
        return exact
    problems = [_asked(found.text, ask) for ask in found.asks]
    problems += [Problem(start, end, f"{quoted(found.text[start:end])} is not understood") for start, end in found.not_understood]
    # What is asked is not known yet: nothing is drawn or judged by it.
    open_fields: dict[str, Any] = {ask.about: None for ask in found.asks if ask.about in _FIELDS}
    return Parsed(found.text, replace(found.reading, **open_fields), tuple(problems), left_aside=aside)


def with_note(parsed: Parsed) -> str | None:
    """Return the line with the first stretch that nobody understands kept as a note; None where there is none."""
    odd = next((problem for problem in parsed.problems if not problem.asked and problem.start < problem.end), None)
    if odd is None:
        return None
    stretch = parsed.line[odd.start : odd.end].strip().strip('"')
    before, behind = parsed.line[: odd.start].rstrip(), parsed.line[odd.end :].strip(" ,;")
    comma = before[-1] if before.endswith((";", ",")) else ""
    left = f"{before.rstrip(' ,;')}{comma} {behind}" if behind else before.rstrip(" ,;")
    left = left.strip(" ,;")
    return "; ".join(part for part in (left, f"note {quote(stretch)}") if part) if stretch else None


def _asked(text: str, ask: Ask) -> Problem:
    answers: tuple[tuple[str, str], ...] = ()
    if ask.in_place_of is not None:
        start, end = ask.in_place_of
        answers = tuple((choice, text[:start] + choice + text[end:]) for choice in ask.choices)
    return Problem(0, len(text), ask.question, _answers(ask), True, answers)


def _answers(ask: Ask) -> str:
    return f"write {' or '.join(ask.choices)}" if ask.choices else "say it in other words"


def _is_short(text: str, parsed: Parsed, promised: bool = False) -> bool:
    """Return whether the short form was meant: slots have names, and modules sizes and rates that are made."""
    reading = parsed.reading
    if promised and _LONE_SIZE.fullmatch(text):
        return False
    if parsed.problems or _NOT_SHORT.search(_QUOTED.sub("", text)):
        return False
    return all(map(_is_made, reading.modules)) and not any(_is_no_slot(slot.name) for slot in reading.slots)


def _is_no_slot(name: str) -> bool:
    """Return whether what is before an equals sign is an amount, or a word for something else: `total = 16GB`, `ram=16gb`."""
    if _AN_AMOUNT.search(name):
        return True
    term = None if len(name) == 1 or any(map(str.isdigit, name)) else meaning(name)
    return term is not None and not term.kinds & _PLACES


def _is_made(module: Module) -> bool:
    size_bytes, rate_mts, generation = value_of(module.size_bytes), value_of(module.rated_mts), value_of(module.generation)
    if size_bytes is not None and not is_module_size(size_bytes) and value_of(module.form) is not Form.SOLDERED:
        return False
    ranks, width = value_of(module.ranks), value_of(module.device_width_bits)
    if generation is not None and not can_be_built(generation, size_bytes, ranks, width):
        return False
    return rate_mts is None or generation is None or may_be_sold_as(rate_mts, generation)
