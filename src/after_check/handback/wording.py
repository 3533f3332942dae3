"""What the customer's sheet says in words; no jargon."""

from __future__ import annotations

import re
from collections.abc import Iterator

from after_check.casework.outcome import unknown_code
from after_check.domain.findings import PROMISED_QUANTITIES, Judgement
from after_check.domain.handback import HandBack
from after_check.domain.promises import Promise
from after_check.domain.quantities import counted, size_text
from after_check.domain.readings import ProfileState, SoakResult
from after_check.domain.standing import JobOutcome, Quantity, TrackStatus
from after_check.domain.tries import Blame, SuspectKind
from after_check.texts import words_of

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
    for track in judgement.tracks:
        override = added.accepted(unknown_code(track.quantity))
        if override is not None:
            about.setdefault(override.reason, []).append(f"{CUSTOMER_WORDS[track.quantity]}: it was not read.")
    for reason, found in about.items():
        yield f"{' '.join(dict.fromkeys(found))} {_agreed(reason)}"


_ALREADY_SAID = re.compile(r"\s*agreed\s*(?:[:,-]\s*|(?=\w))", re.IGNORECASE)


def _agreed(reason: str) -> str:
    """Return a reason behind the word for it, once, as a sentence of its own."""
    said = _ALREADY_SAID.sub("", reason, count=1).strip()
    ends = "" if said.endswith((".", "!", "?")) else "."
    return f"Agreed: {said}{ends}" if said else "This was agreed."


def not_checked(judgement: Judgement, soak: SoakResult | None, measured: bool = False) -> list[str]:
    """Return what was not checked, as sentences."""
    found: list[str] = []
    for track in judgement.tracks:
        if track.status is TrackStatus.UNKNOWN and track.quantity in PROMISED_QUANTITIES:
            found.append(f"{CUSTOMER_WORDS[track.quantity]}: promised, and could not be read.")
    if judgement.track(Quantity.CHANNELS) is None:
        found.append("Memory channels: not read.")
    if soak is None:
        found.append("No memory test was run, so hidden faults of the modules are not ruled out.")
    if not measured:
        found.append("No speed was measured; the figures for bandwidth and waiting are worked out from the settings.")
    return found
