"""The customer's page before it is set: what it says and shows, in order, for paper and for a screen alike."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from enum import StrEnum

from after_check.benchmark.compare import compare, overall
from after_check.casework.promised import promise_in
from after_check.domain.benchmark import Change
from after_check.domain.codes import Code, Severity
from after_check.domain.facts import value_of
from after_check.domain.standing import JobOutcome
from after_check.handback.content import SheetContent
from after_check.handback.later import suggestions
from after_check.handback.wording import (
    OUTCOME_WORDS,
    UNIT_WORDS,
    accepted_words,
    not_checked,
    promise_in_words,
    soak_in_words,
    story_words,
    tried_words,
)
from after_check.texts import words_of

_MOST_FINDINGS = 8
_MOST_LATER = 2
_SAID_BY_THE_TEST = (Code.SOAK_PARTIAL, Code.SOAK_NOT_ENOUGH)
"""How much a memory test covered is said once, with the test."""


class Tone(StrEnum):
    """How a sentence stands on the page."""

    PLAIN = "plain"
    SMALL = "small"
    ITEM = "item"
    ALARM = "alarm"
    """Still to fix."""
    OPEN = "open"
    """Not checked, so not known."""


MARKS = {Tone.ITEM: "•", Tone.ALARM: "!", Tone.OPEN: "–"}
"""What stands before a sentence of a list."""


class Figure(StrEnum):
    """A drawing that belongs to a section."""

    TRACKS = "tracks"
    BOARDS = "boards"


@dataclass(frozen=True, slots=True)
class Sentence:
    """A sentence in the customer's words."""

    text: str
    tone: Tone = Tone.PLAIN


@dataclass(frozen=True, slots=True)
class Section:
    """A heading with what stands beneath it: sentences, or a drawing."""

    heading: str
    sentences: tuple[Sentence, ...] = ()
    figure: Figure | None = None


@dataclass(frozen=True, slots=True)
class CustomerPage:
    """The page: title, how the machine goes back, what changed in a line of numbers, sections, the line to sign on, and sources."""

    title: str
    subtitle: str
    outcome: JobOutcome
    outcome_words: str
    story: str
    sections: tuple[Section, ...]
    handed_back_by: str
    provenance: str


def customer_page_of(content: SheetContent) -> CustomerPage:
    """Return what the customer's page of a job says and shows."""
    facts = content.job.facts
    return CustomerPage(
        title=facts.title or f"Job {facts.number}",
        subtitle="  ·  ".join(part for part in (facts.machine, facts.customer, f"job {facts.number}") if part),
        outcome=content.snapshot.outcome,
        outcome_words=OUTCOME_WORDS[content.snapshot.outcome],
        story=story_words(content.judgement),
        sections=tuple(section for section in _sections(content) if section.sentences or section.figure is not None),
        handed_back_by=_handed_back_by(content),
        provenance=_provenance(content),
    )


def _sections(content: SheetContent) -> Iterator[Section]:
    added = content.job.hand_back
    yield Section("What was promised", tuple(_promised(content)))
    agreed = tuple(Sentence(words, Tone.ITEM) for words in accepted_words(content.judgement, added))
    yield Section("What was agreed with you", (*_plain([added.as_it_came]), *agreed))
    if content.judgement.tracks:
        units = "; ".join(
            f"{unit}: {words}" for unit, words in UNIT_WORDS.items() if any(track.unit == unit for track in content.judgement.tracks)
        )
        explained = (Sentence(f"{units}.", Tone.SMALL),) if units else ()
        yield Section("On arrival, as promised, and now", explained, Figure.TRACKS)
    else:
        yield Section("On arrival, as promised, and now", (Sentence("Nothing was read yet."),))
    yield Section("The memory slots", figure=Figure.BOARDS)
    yield Section("Still to fix", tuple(_findings(content, Severity.FIX, Tone.ALARM)))
    yield Section("Good to know", tuple(_findings(content, Severity.TELL, Tone.ITEM)))
    soak = content.soak
    tested = (
        soak_in_words(soak) if soak is not None else "",
        _helped(content),
        tried_words(content.blame, content.conclusion),
    )
    yield Section("What was tested", tuple(_plain(tested)))
    now = content.benchmarks[1]
    measured = now is not None and now.best_bandwidth_gbs is not None
    open_ones = not_checked(content.judgement, soak, measured)
    yield Section("What was not checked", tuple(Sentence(words, Tone.OPEN) for words in open_ones))
    yield Section("Your old modules", tuple(_plain([added.old_modules])))
    yield Section("Warranty", tuple(_plain([added.warranty])))
    yield Section("A note", tuple(_plain([added.note])))
    later = [added.later] if added.later else suggestions(content.now, content.promise, content.judgement, content.job.card)
    yield Section("To consider later", tuple(Sentence(words, Tone.ITEM) for words in later[:_MOST_LATER]))


def _plain(texts: Iterable[str]) -> Iterator[Sentence]:
    return (Sentence(text) for text in texts if text)


def _promised(content: SheetContent) -> Iterator[Sentence]:
    words = promise_in_words(content.promise)
    yield Sentence(words[:1].upper() + words[1:])
    for override in content.job.hand_back.overrides:
        if override.code == "promise":
            before = promise_in_words(promise_in(override.before)) if override.before else "nothing"
            reason = override.reason or "no reason was written down"
            yield Sentence(f"Changed in agreement with you: {reason}. Before: {before}", Tone.SMALL)


def _findings(content: SheetContent, severity: Severity, tone: Tone) -> Iterator[Sentence]:
    """Yield what is open, each sentence once; a list that would push the rest off the page says how many more there are."""
    open_ones = (
        finding for finding in content.open_findings(severity) if severity is Severity.FIX or finding.code not in _SAID_BY_THE_TEST
    )
    said = list(dict.fromkeys(words_of(finding).customer for finding in open_ones))
    for words in said[:_MOST_FINDINGS]:
        yield Sentence(words, tone)
    if len(said) > _MOST_FINDINGS:
        yield Sentence(f"And {len(said) - _MOST_FINDINGS} more; the record lists them.", tone)


def _helped(content: SheetContent) -> str:
    """Return whether the upgrade helped, in a sentence; empty where nothing was measured before and after."""
    before, now = content.benchmarks
    comparisons = compare(before, now) if before is not None and now is not None else ()
    for comparison in comparisons:
        if not all(comparison.ran):
            return f"{comparison.series.name}: {comparison.why}."
    change = overall(comparisons)
    return {
        Change.BETTER: "Measured before and after, the memory is faster than it was.",
        Change.WORSE: "Measured before and after, the memory is slower than it was.",
        Change.SAME: "Measured before and after, there is no difference in speed beyond what chance makes.",
        Change.NOT_COMPARABLE: "The speed was measured before and after, under conditions that cannot be compared.",
        None: "",
    }[change]


def _handed_back_by(content: SheetContent) -> str:
    job = content.job
    revision = job.revisions[-1] if job.frozen and job.revisions else None
    if revision is None:
        return "Handed back by, on"
    return f"Handed back by {revision.signed_by or 'the shop'}, {revision.signed_at:%-d %B %Y}"


def _provenance(content: SheetContent) -> str:
    parts: list[str] = []
    for word, kept in (("on arrival", content.job.arrival), ("now", content.job.now)):
        if kept is not None:
            typed = any(part.name == "notation" for part in kept.reading.evidence)
            origin = "typed from a screen or a sticker" if typed else "read from the machine"
            parts.append(f"State {word}: {kept.taken_at:%Y-%m-%d %H:%M} UTC, {origin}.")
    serial = value_of(content.now.machine.serial) if content.now else None
    if serial:
        parts.append(f"Serial number of the machine: {serial}.")
    return " ".join(parts)
