"""The customer's page as headings and sentences, for a view that has no paper."""

from __future__ import annotations

from dataclasses import dataclass

from after_check.domain.facts import value_of
from after_check.domain.findings import PROMISED_QUANTITIES, Severity, TrackStatus
from after_check.handback.content import SheetContent
from after_check.handback.later import suggestions
from after_check.handback.wording import VERDICT_WORDS, accepted_words, not_checked, promise_in_words, soak_in_words, tried_words


@dataclass(frozen=True, slots=True)
class Section:
    """A heading of the sheet with its sentences."""

    heading: str
    sentences: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Missing:
    """Something that the hand-back still lacks; `blocks` when the machine is not to go back without it."""

    words: str
    blocks: bool = False


def outline_of(content: SheetContent) -> tuple[Section, ...]:
    """Return the sections of the customer's page that have something in them."""
    added = content.job.hand_back
    soak = value_of(content.now.soak) if content.now is not None else None
    measured = content.now is not None and content.now.bandwidth_gbs is not None
    later = (added.later,) if added.later else suggestions(content.now, content.promise, content.judgement, content.job.card)
    sections = (
        Section("", (VERDICT_WORDS[content.judgement.verdict],)),
        Section("What was promised", (promise_in_words(content.promise),)),
        Section("Still to be mended", tuple(dict.fromkeys(one.customer for one in content.open_findings(Severity.FIX)))),
        Section(
            "Good to know",
            (*dict.fromkeys(one.customer for one in content.open_findings(Severity.TELL)), *accepted_words(content.judgement, added)),
        ),
        Section("What was tested", tuple(one for one in (soak_in_words(soak) if soak else "", tried_words(content.blame)) if one)),
        Section("What was not checked", tuple(not_checked(content.judgement, soak, measured))),
        Section("Your old modules", (added.old_modules,) if added.old_modules else ()),
        Section("Warranty", (added.warranty,) if added.warranty else ()),
        Section("A note", (added.note,) if added.note else ()),
        Section("To consider later", later[:2]),
    )
    return tuple(section for section in sections if section.sentences)


def missing(content: SheetContent) -> tuple[Missing, ...]:
    """Return what the hand-back still lacks, what blocks it first."""
    found = [Missing(f"to fix: {one.title}", blocks=True) for one in content.open_findings(Severity.FIX)]
    found += [
        Missing(f"not known: {track.quantity.words.lower()}", blocks=True)
        for track in content.judgement.tracks
        if track.status is TrackStatus.UNKNOWN and track.quantity in PROMISED_QUANTITIES
    ]
    now, added = content.now, content.job.hand_back
    if now is None:
        found.append(Missing("the machine was not read after fitting", blocks=True))
    elif now.soak is None:
        found.append(Missing("no memory test was run"))
    if content.gauges[1] is None:
        found.append(Missing("no speed was measured"))
    if not added.old_modules and content.before is not None and content.before.modules:
        found.append(Missing("what became of the old modules"))
    serials = [value_of(module.serial) for module in (now.modules if now is not None else ())]
    if serials and not all(serials):
        found.append(Missing("serial numbers of the modules, for the warranty"))
    return tuple(found)
