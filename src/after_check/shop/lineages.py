"""The words of a job that two benches may both write, and which bench knew what the other wrote.

Each word has its lineage: marks of all that ever stood there, oldest first. A bench that has the other's whole lineage in its own
knew what stood there and wrote later; where neither has, both wrote, and a person is asked. No clock decides (trust.md).
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import Enum, auto
from hashlib import sha256

from after_check.domain.jobs import Job
from after_check.domain.outside_text import clean

HAND_BACK_WORDS = ("old_modules", "warranty", "later", "note", "as_it_came")
"""The texts that a person adds to the sheet, by their names in `HandBack`."""
FACT_WORDS = ("title", "machine", "customer", "promise")
"""What a person says of a job, by its names in `JobFacts`."""
CONCLUSION = "conclusion"
WORDS = (*FACT_WORDS, *HAND_BACK_WORDS, CONCLUSION)
MOST_MARKS = 500
_MARK_LETTERS = 12

Lineage = tuple[str, ...]


class Later(Enum):
    """Which side wrote a word last; NEITHER: both wrote without knowing of the other."""

    SAME = auto()
    HERE = auto()
    THERE = auto()
    NEITHER = auto()


@dataclass(frozen=True, slots=True)
class BothWrote:
    """A word that two benches wrote without knowing of each other: what is here and what came in."""

    name: str
    here: str
    there: str

    @property
    def words(self) -> str:
        """Both of them, for a person to choose from."""
        shown = {side: f"'{clean(text, 200)}'" if text else "nothing" for side, text in (("here", self.here), ("there", self.there))}
        return f"{self.name.replace('_', ' ')}: both benches wrote it; here {shown['here']}, in the file {shown['there']}"


def words_of(job: Job) -> dict[str, str]:
    """Return the words of a job by their names; all of `WORDS` are there."""
    found = {name: getattr(job.facts, name) for name in FACT_WORDS} | {name: getattr(job.hand_back, name) for name in HAND_BACK_WORDS}
    return found | {CONCLUSION: job.tries.log.conclusion if job.tries is not None else ""}


def mark(text: str) -> str:
    """Return a short mark of a text: twelve hexadecimal digits of its SHA-256."""
    return sha256(text.encode("utf-8", "surrogatepass")).hexdigest()[:_MARK_LETTERS]


def grown(lineage: Lineage, text: str) -> Lineage:
    """Return a lineage whose last mark is that of the text which is there now."""
    now = mark(text)
    return lineage if lineage and lineage[-1] == now else (*lineage, now)[-MOST_MARKS:]


def lineages_of(job: Job) -> dict[str, Lineage]:
    """Return the lineage of each word of a job, up to what is there now."""
    return {name: grown(tuple(job.lineages.get(name, ())), text) for name, text in words_of(job).items()}


def later_of(here: Lineage, there: Lineage) -> Later:
    """Return which side wrote last: the one that has the other's whole lineage, in its order, in its own."""
    if here[-1:] == there[-1:]:
        return Later.SAME
    here_knew, there_knew = _is_within(there, here), _is_within(here, there)
    if here_knew == there_knew:
        return Later.NEITHER
    return Later.HERE if here_knew else Later.THERE


def joined(first: Lineage, last: Lineage) -> Lineage:
    """Return a lineage that has both within it, and ends like the last: who has it knows both."""
    if _is_within(first, last):
        return last
    if first[-1:] == last[-1:] and _is_within(last, first):
        return first
    start = 0
    while start < min(len(first), len(last)) and first[start] == last[start]:
        start += 1
    return (*first, *(last[start:] or last[-1:]))[-MOST_MARKS:]


def checked_lineages(found: Mapping[str, object]) -> dict[str, Lineage]:
    """Return lineages as a file or a row has them; what is none is left out."""
    return {
        name: tuple(str(mark) for mark in marks)[-MOST_MARKS:] for name, marks in found.items() if name in WORDS and isinstance(marks, list)
    }


def _is_within(part: Lineage, whole: Lineage) -> bool:
    """Return whether the marks of a part stand in the whole, in their order."""
    rest = iter(whole)
    return all(mark in rest for mark in part)
