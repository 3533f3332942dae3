"""From messages to words: the templates of one language, and how values are written in it."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any

from fluent.runtime import FluentBundle, FluentResource

from after_check.domain.errors import AfterCheckError
from after_check.domain.findings import Finding
from after_check.domain.messages import Message, Values
from after_check.domain.once import once_for_each
from after_check.domain.quantities import number_text, size_text

LANGUAGES = ("en",)
_ENTRY = re.compile(r"^(?=[a-z][a-z0-9-]* *=)", re.MULTILINE)
_REFERENCE = re.compile(r"{ *([a-z][a-z0-9-]*)")
_SURE_ENOUGH = 0.9
"""From here on a finding need not say how it would be disproved."""


class TextError(AfterCheckError):
    """A text is not there, or names a value that it was not given."""


@dataclass(frozen=True, slots=True)
class FindingWords:
    """A finding in words. `customer` is the sentence of the customer's sheet; `disproof` is there below 90 % sure."""

    title: str
    reason: str
    next: str
    customer: str
    disproof: str = ""


class Texts:
    """The words of one language."""

    def __init__(self, language: str) -> None:
        self.language = language
        # Marks around values, for lines in two directions of writing, would end up in files and on paper.
        self._bundle = FluentBundle([language], use_isolating=False)
        folder = files("after_check.texts") / language
        self._sources: dict[str, str] = {}
        for name in ("findings.ftl", "evidence.ftl", "chain.ftl"):
            for entry in _ENTRY.split((folder / name).read_text(encoding="utf-8"))[1:]:
                self._sources[entry.partition("=")[0].strip()] = entry

    def say(self, message: Message) -> str:
        """Return a message in words. Raises TextError."""
        return self._part(message.key, "", message.values) or ""

    def finding(self, finding: Finding) -> FindingWords:
        """Return a finding in words. Raises TextError."""
        key, values = _key(finding.code.value), finding.values
        title, reason, step, customer = (self._part(key, part, values) or "" for part in ("", "reason", "next", "customer"))
        for more in finding.more:
            # What explains it further is added; a step of its own goes behind the one that is there, or takes its place.
            reason = f"{reason} {self._part(more.key, '', more.values)}".strip()
            step = self._part(more.key, "instead", more.values) or step
            step = f"{step} {self._part(more.key, 'next', more.values) or ''}".strip()
        disproof = self._part(key, "disproof", values) if finding.sure < _SURE_ENOUGH else None
        return FindingWords(_capital(title), _capital(reason), _capital(step), customer, disproof or "")

    def link(self, finding: Finding) -> str:
        """Return a finding in a few words: of its code, of its group of codes, else the beginning of its title. Raises TextError."""
        for name in (finding.code.value, finding.code.group):
            key = f"link-{_key(name)}"
            if key in self._sources or self._bundle.has_message(key):
                return self._part(key, "", finding.values) or ""
        return self.finding(finding).title.partition(": ")[0]

    def _parse(self, key: str) -> None:
        """Parse a message, and those that it refers to, when it is said for the first time: one judgement says a few of hundreds."""
        source = self._sources.pop(key, None)
        if source is not None:
            self._bundle.add_resource(FluentResource(source))
            for other in _REFERENCE.findall(source):
                self._parse(other)

    def _part(self, key: str, part: str, values: Values) -> str | None:
        """Return a part of a message in words, or None where the message has no such part."""
        self._parse(key)
        if not self._bundle.has_message(key):
            raise TextError(f"there is no text {key!r} in {self.language!r}")
        found = self._bundle.get_message(key)
        pattern = found.attributes.get(part) if part else found.value
        if pattern is None:
            return None
        text, problems = self._bundle.format_pattern(pattern, self._arguments(values))
        if problems:
            raise TextError(f"the text {key}{'.' + part if part else ''} in {self.language!r}: {problems[0]}")
        return " ".join(str(text).split())

    def _arguments(self, values: Values) -> dict[str, Any]:
        """Return values as the templates name them: sizes, rates and times written with their units, lists with their count."""
        found: dict[str, Any] = {}
        for name, value in values:
            plain, _, unit = name.rpartition("_")
            if value is None:
                found[plain if unit in _WRITTEN else name] = "none"
            elif isinstance(value, Message):
                found[name] = self.say(value)
            elif isinstance(value, tuple):
                found[name], found[f"{name}_count"] = self._listed(value), len(value)
            elif unit in _WRITTEN and isinstance(value, int | float):
                found[plain] = _WRITTEN[unit](value)
            elif isinstance(value, bool):
                found[name] = "yes" if value else "no"
            else:
                found[name] = value
        return found

    def _listed(self, values: tuple[str, ...] | tuple[Message, ...]) -> str:
        """Return names as a list within a sentence (`A1, A2 and B1`), phrases one behind the other."""
        phrases = [value for value in values if isinstance(value, Message)]
        if phrases:
            between = self._part(phrases[0].key, "between", ()) or ";"
            return f"{between} ".join(self.say(phrase) for phrase in phrases)
        names = [str(value) for value in values]
        return f"{', '.join(names[:-1])} and {names[-1]}" if len(names) > 1 else "".join(names)


def _key(code: str) -> str:
    return code.replace(".", "-").replace("_", "-")


def _capital(text: str) -> str:
    return text[:1].upper() + text[1:]


_WRITTEN: dict[str, Callable[[float], str]] = {
    "bytes": lambda value: size_text(int(value)),
    "mts": lambda value: f"{value:g}",
    "ns": lambda value: number_text(value),
    "gbs": lambda value: f"{value:.1f}",
    "mv": lambda value: f"{number_text(value / 1000, 2)} V",
}
"""How a value is written, by the unit at the end of its name."""


@cache
def texts(language: str = "en") -> Texts:
    """Return the words of a language, read once."""
    return Texts(language)


def say(message: Message) -> str:
    """Return a message in words."""
    return texts().say(message)


@once_for_each(512)
def words_of(finding: Finding) -> FindingWords:
    """Return a finding in words."""
    return texts().finding(finding)


@once_for_each(512)
def link_words(finding: Finding) -> str:
    """Return a finding in a few words, as one link of a chain."""
    return texts().link(finding)


__all__ = ["LANGUAGES", "FindingWords", "TextError", "Texts", "link_words", "say", "texts", "words_of"]
