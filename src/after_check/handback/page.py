"""The customer's page before it is set: what it says and shows, in order, for paper and for a screen alike."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from enum import StrEnum

from after_check.benchmark.before_and_now import compare, overall
from after_check.casework.answers import answers_of, answers_words
from after_check.casework.outcome import all_unknown, unknown_code
from after_check.casework.promised import promise_in
from after_check.domain.benchmark import Change
from after_check.domain.boards import Filling
from after_check.domain.cards import Card, ProfileChoice
from after_check.domain.codes import Code, Severity
from after_check.domain.facts import value_of
from after_check.domain.findings import Judgement
from after_check.domain.handback import ON_THE_STICKER, ONLY_DESCRIBES, HandBack
from after_check.domain.promises import Promise
from after_check.domain.quantities import GIB, counted, size_text
from after_check.domain.readings import ProfileState, Reading, SoakResult
from after_check.domain.standing import JobOutcome, Quantity
from after_check.domain.tries import Blame, SuspectKind
from after_check.handback.content import SheetContent
from after_check.texts import words_of


def suggestions(reading: Reading | None, promise: Promise | None, judgement: Judgement, card: Card | None) -> tuple[str, ...]:
    """Return sentences for the customer, the most useful first; none where nothing can be said."""
    if reading is None or not reading.modules:
        return ()
    found = [_second_module(reading, judgement), _faster_modules(promise, judgement, card), _more(reading, judgement, card)]
    return tuple(part for part in found if part)


def _second_module(reading: Reading, judgement: Judgement) -> str:
    channels = judgement.track(Quantity.CHANNELS)
    free = [slot.name for slot in reading.slots if slot.filling is Filling.EMPTY]
    if channels is None or channels.now != 1 or len(reading.modules) != 1 or not free:
        return ""
    size = value_of(reading.modules[0].size_bytes)
    like = f" of {size_text(size)}" if size else ""
    return f"A second, matching module{like} would open the second memory channel; it often helps more than its size does."


def _faster_modules(promise: Promise | None, judgement: Judgement, card: Card | None) -> str:
    rate = judgement.track(Quantity.RATE)
    if card is None or card.profile is not ProfileChoice.LOCKED or promise is None or rate is None or not isinstance(rate.now, int | float):
        return ""
    wanted = promise.rate_mts
    highest = card.highest_rate_mts
    if wanted is None or wanted <= rate.now:
        return ""
    reach = min(wanted, highest) if highest else wanted
    return f"This machine has no memory profile: only modules whose own standard pace is {reach} MT/s would run at it."


def _more(reading: Reading, judgement: Judgement, card: Card | None) -> str:
    capacity = judgement.track(Quantity.CAPACITY)
    if card is None or card.total_bytes is None or capacity is None or not isinstance(capacity.now, int | float):
        return ""
    left = card.total_bytes - round(capacity.now * GIB)
    if left < GIB:
        return ""
    free = sum(slot.filling is Filling.EMPTY for slot in reading.slots)
    how = f"{free} slot{'s are' if free > 1 else ' is'} free" if free else "larger modules would have to take the place of these"
    return f"The machine takes up to {size_text(card.total_bytes)}, {size_text(left)} more than it has now; {how}."


CUSTOMER_WORDS = {
    Quantity.CAPACITY: "Memory size",
    Quantity.RATE: "Speed",
    Quantity.CHANNELS: "Memory channels",
    Quantity.PROFILE: "Memory profile",
    Quantity.PEAK: "Moves a second",
    Quantity.FIRST_WORD: "Response time",
    Quantity.READ: "Reading, measured",
    Quantity.WRITE: "Writing, measured",
    Quantity.COPY: "Copying, measured",
    Quantity.LATENCY: "Response time, measured",
}
UNIT_WORDS = {
    "MT/s": "million transfers a second",
    "GB/s": "thousand million bytes a second",
    "ns": "thousand-millionths of a second",
}
"""The units of the figures on the customer's page, in words."""

OUTCOME_WORDS = {
    JobOutcome.READY: "Ready: what was promised is there.",
    JobOutcome.NOT_TESTED: "As promised, not tested: what was promised is there; the memory was not tested.",
    JobOutcome.PARTLY_TESTED: "As promised, not fully tested: what was promised is there; not all of the memory is known to be tested.",
    JobOutcome.NOT_READY: "Not ready yet: something is still to fix.",
    JobOutcome.CANT_TELL: "Not checked yet: something important is not known.",
    JobOutcome.AS_AGREED: "Handed back as agreed with you.",
    JobOutcome.AS_IT_CAME: "Handed back as it came.",
}


def promise_in_words(promise: Promise | None) -> str:
    """Return what was promised as one sentence."""
    if promise is None or not promise.notation:
        return "Nothing was written down as promised."
    parts: list[str] = []
    if promise.total_bytes:
        modules = len(promise.modules)
        parts.append(
            f"{size_text(promise.total_bytes)} of memory" + (f" in {modules} module{'s' if modules > 1 else ''}" if modules else "")
        )
    if promise.rate_mts:
        parts.append(f"running at {promise.rate_mts} million transfers a second")
    if promise.channels:
        parts.append(f"on {promise.channels} memory channel{'s' if promise.channels > 1 else ''}")
    for name, words in (("read_gbs", "reading"), ("write_gbs", "writing"), ("copy_gbs", "copying")):
        value = getattr(promise, name)
        if value is not None:
            parts.append(f"{words} at least {value:g} GB/s")
    if promise.profile not in (None, ProfileState.OFF, ProfileState.LOCKED):
        parts.append("with the memory profile (the setting for full speed) on")
    return (", ".join(parts) or promise.notation) + "."


def soak_in_words(soak: SoakResult) -> str:
    """Return what was tested and for how long, as a sentence."""
    time = f" for {_duration(soak.minutes)}" if soak.minutes else ""
    passes = f" in {counted(soak.passes, 'whole pass', 'whole passes')}" if soak.passes else ""
    part = f" over {soak.covered_percent} % of it" if soak.covered_percent is not None else ""
    result = "found errors" if soak.errors else "found no errors"
    by = soak.by.replace("soak", "memory test")
    whose = " The machine tested itself; this is its own word." if soak.own_word else f" Tested by: {by}." if by else ""
    unknown = "" if soak.covered_percent is not None else " How much of the memory it covered is not known."
    unknown += " It was stopped before it had done everything once." if soak.passes == 0 else ""
    return f"The memory was tested{time}{passes}{part}; the test {result}.{unknown}{whose}"


_CHANNELS = {1: "single", 2: "dual", 3: "triple", 4: "quad"}


def story_words(judgement: Judgement) -> str:
    """Return in one line of numbers what changed: `8 → 24 GiB of memory · 2400 → 3000 MT/s · single → dual memory channels`."""
    changed: list[str] = []
    stays: list[str] = []
    for quantity, unit in ((Quantity.CAPACITY, "GiB of memory"), (Quantity.RATE, "MT/s"), (Quantity.CHANNELS, "memory channels")):
        track = judgement.track(quantity)
        now, before = (_figure(quantity, value) for value in (track.now, track.before)) if track is not None else ("", "")
        if quantity is Quantity.CHANNELS and any(finding.code is Code.CHANNELS_PARTIAL for finding in judgement.findings):
            now = f"partly {now}"  # Only what all channels hold is spread over them.
        if now and before and now != before:
            changed.append(f"{before} → {now} {unit}")
        elif now:
            stays.append(f"{now} {unit}")
    return " · ".join(changed or stays)


def _figure(quantity: Quantity, value: float | str | None) -> str:
    if not isinstance(value, int | float):
        return ""
    return _CHANNELS.get(int(value), f"{value:g}") if quantity is Quantity.CHANNELS else f"{value:g}"


def _duration(minutes: int) -> str:
    """Return a time as people say it: minutes, from an hour and a half on hours."""
    if minutes < 90:
        return counted(minutes, "minute")
    hours = minutes / 60
    return f"{hours:.0f} hours" if abs(hours - round(hours)) < 0.05 else f"{hours:.1f} hours"


def tried_words(blame: Blame | None, conclusion: str = "") -> str:
    """Return what trying found, as a sentence for the customer; empty where nothing was tried. A technician's conclusion counts first."""
    if blame is None or not blame.tries:
        return ""
    count = f"{blame.tries} arrangement{'s' if blame.tries > 1 else ''} of the modules {'were' if blame.tries > 1 else 'was'} tried"
    if conclusion:
        return f"{count} to find the cause: {conclusion.rstrip('.')}."
    if not blame.settled or blame.first is None:
        return f"{count}."
    if blame.named is not None:
        return f"{count} to find the cause: the machine does not work with what is marked {', '.join(blame.named.letters)}."
    return f"{count} to find the cause: {_CAUSES[blame.first.kind].format(blame.first.name)}."


_CAUSES = {
    SuspectKind.MODULE: "one module (marked {}) is faulty",
    SuspectKind.SLOT: "the slot {} does not work",
    SuspectKind.CONTACT: "a module made poor contact",
    SuspectKind.MIX: "two of the modules do not work together",
    SuspectKind.TOTAL: "the machine does not take that much",
    SuspectKind.KIND: "the machine does not accept modules {}",
    SuspectKind.PROFILE: "the memory profile is more than the machine holds",
    SuspectKind.MACHINE: "the fault is in the machine, not in its memory",
    SuspectKind.OUTSIDE: "the fault is not in the memory",
    SuspectKind.MARGINAL: "one module (marked {}) fails at the speed of its memory profile",
    SuspectKind.ORDER: "the slot {} has to be filled first",
    SuspectKind.CHANNEL: "the memory channel {} does not work",
    SuspectKind.NOTHING: "it came once, and not again",
}


def accepted_words(judgement: Judgement, added: HandBack) -> Iterator[str]:
    """Yield what the customer agreed to although it was found, each agreement once with all that it is about."""
    about: dict[str, list[str]] = {}
    for finding in judgement.findings:
        override = added.accepted(finding.code)
        if override is not None:
            about.setdefault(override.reason, []).append(words_of(finding).customer)
    for name in (*(track.quantity.value for track in judgement.tracks), *judgement.not_known):
        override = added.accepted(unknown_code(name))
        if override is not None:
            about.setdefault(override.reason, []).append(f"{_name_for_customer(name)}: it was not read.")
    for reason, found in about.items():
        yield f"{' '.join(dict.fromkeys(found))} {_agreed(reason)}"


def settled_words(added: HandBack) -> Iterator[str]:
    """Yield what no machine shows and was settled by looking at the modules, or only describes them."""
    for why, words in (
        (ON_THE_STICKER, "as promised by the modules' stickers"),
        (ONLY_DESCRIBES, "only describes the modules; not checked"),
    ):
        names = ", ".join(name for name, reason in added.settled.items() if reason == why)
        if names:
            yield f"{names[:1].upper()}{names[1:]}: {words}."


_ALREADY_SAID = re.compile(r"\s*agreed\s*(?:[:,-]\s*|(?=\w))", re.IGNORECASE)


def _agreed(reason: str) -> str:
    """Return a reason behind the word for it, once, as a sentence of its own."""
    said = _ALREADY_SAID.sub("", reason, count=1).strip()
    ends = "" if said.endswith((".", "!", "?")) else "."
    return f"Agreed: {said}{ends}" if said else "This was agreed."


def _name_for_customer(name: str) -> str:
    return next((words for quantity, words in CUSTOMER_WORDS.items() if quantity.value == name), name[:1].upper() + name[1:])


def _shows_now(judgement: Judgement, quantity: Quantity) -> bool:
    track = judgement.track(quantity)
    return track is not None and track.now is not None


def not_checked(judgement: Judgement, soak: SoakResult | None, measured: bool = False) -> list[str]:
    """Return what was not checked, as sentences."""
    found: list[str] = []
    found += [f"{_name_for_customer(name)}: promised, and could not be read." for name in all_unknown(judgement)]
    if judgement.track(Quantity.CHANNELS) is None:
        found.append("Memory channels: not read.")
    if soak is None:
        found.append("No memory test was run, so hidden faults of the modules are not ruled out.")
    if not measured:
        worked_out = any(_shows_now(judgement, quantity) for quantity in (Quantity.PEAK, Quantity.FIRST_WORD))
        from_settings = "; the figures for bandwidth and waiting are worked out from the settings" if worked_out else ""
        found.append(f"No speed was measured{from_settings}.")
    return found


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
"""What is before a sentence of a list."""


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
    """A heading with what is beneath it: sentences, or a drawing."""

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
    answers: str
    """The five answers in one line, beneath how it goes back."""
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
        answers=answers_words(answers_of(content.snapshot)),
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
        *settled_words(added),
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
