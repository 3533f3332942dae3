"""Many machines against one promise: who is ready, who differs from the rest, and why.

What is worked out of all of them is worked out once: a batch may have thousands.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from functools import cached_property

from after_check.casework.outcome import outcome_of
from after_check.domain.cards import Card
from after_check.domain.case_files import CaseFile, Needs
from after_check.domain.codes import Severity
from after_check.domain.findings import Finding, Judgement, Track
from after_check.domain.handback import HandBack
from after_check.domain.promises import Promise
from after_check.domain.readings import Reading
from after_check.domain.standing import JobOutcome, Verdict
from after_check.files.errors import SourceError
from after_check.judgement.judge import judge
from after_check.sources.evidence import Taken
from after_check.texts import say, words_of

CardOf = Callable[[Reading], Card | None]
"""The card of a machine, from what it told."""


def _no_card(reading: Reading) -> Card | None:
    return None


@dataclass(frozen=True, slots=True)
class Terms:
    """What every machine of a batch is held against: the promise, the card of its model, and what the shop asks for."""

    promise: Promise | None = None
    card_of: CardOf = _no_card
    needs: Needs = field(default_factory=Needs)


@dataclass(frozen=True)
class JudgedMachine:
    """One machine of a batch by name: its judgement, or why there is none."""

    name: str
    judgement: Judgement | None
    problem: str = ""

    @property
    def verdict(self) -> Verdict:
        """Its verdict; a machine that was not read can't be told."""
        return self.judgement.verdict if self.judgement is not None else Verdict.CANT_TELL

    @cached_property
    def outcome(self) -> JobOutcome:
        """How it stands: a promise that is kept on a machine that nobody tested is not ready."""
        return outcome_of(self.judgement, HandBack()) if self.judgement is not None else JobOutcome.CANT_TELL

    @cached_property
    def telling(self) -> tuple[Finding, ...]:
        """The causes that are more than a note; what follows from them is left out."""
        return tuple(finding for finding in (self.judgement.roots if self.judgement else ()) if finding.severity is not Severity.NOTE)

    @property
    def why(self) -> str:
        """What is to be said of it, in a line."""
        if self.judgement is None:
            return self.problem
        return "; ".join(words_of(found).title for found in self.telling) or say(self.judgement.why)

    @cached_property
    def signature(self) -> tuple[object, ...]:
        """What makes it like another: how it stands, its tracks and the codes of its findings."""
        if self.judgement is None:
            return (Verdict.CANT_TELL, self.problem)
        tracks = tuple((track.quantity, _rounded(track), track.status) for track in self.judgement.tracks)
        return (self.outcome, tracks, tuple(sorted(finding.code for finding in self.telling)))


@dataclass(frozen=True)
class Batch:
    """All machines, in their order."""

    machines: tuple[JudgedMachine, ...]

    @property
    def verdict(self) -> Verdict:
        """Ready when all are, not ready when any is not."""
        verdicts = {machine.verdict for machine in self.machines}
        if Verdict.NOT_READY in verdicts:
            return Verdict.NOT_READY
        return Verdict.READY if verdicts == {Verdict.READY} else Verdict.CANT_TELL

    @cached_property
    def usual(self) -> tuple[object, ...] | None:
        """How most machines are; None where no two are alike."""
        counts = Counter(machine.signature for machine in self.machines)
        if not counts:
            return None
        signature, count = counts.most_common(1)[0]
        return signature if count > 1 or len(self.machines) == 1 else None

    @cached_property
    def different(self) -> tuple[JudgedMachine, ...]:
        """The machines that are not like most."""
        usual = self.usual
        return tuple(machine for machine in self.machines if machine.signature != usual) if usual is not None else self.machines

    @cached_property
    def codes(self) -> tuple[str, ...]:
        """The codes of all telling findings, the most frequent first."""
        counts = Counter(code for machine in self.machines for code in {found.code for found in machine.telling})
        return tuple(code for code, _ in counts.most_common())

    def count(self, *outcomes: JobOutcome) -> int:
        """Return how many machines stand in one of these ways."""
        return sum(machine.outcome in outcomes for machine in self.machines)

    @property
    def counts(self) -> tuple[tuple[JobOutcome, int, str], ...]:
        """How many stand in which way, with the words for it; the ready ones always, the others where there are any."""
        kinds = (
            ((JobOutcome.READY,), "ready"),
            ((JobOutcome.NOT_TESTED, JobOutcome.PARTLY_TESTED), "as promised, not tested"),
            ((JobOutcome.NOT_READY,), "not ready"),
            ((JobOutcome.CANT_TELL,), "can't be told"),
        )
        found = ((kind[0], self.count(*kind), words) for kind, words in kinds)
        return tuple(one for one in found if one[1] or one[0] is JobOutcome.READY)


def _rounded(track: Track) -> object:
    """Return a track's value now; amounts that the system uses differ by a few pages between equal machines."""
    return round(track.now, 1) if isinstance(track.now, float) else track.now


def batch_of(readings: Iterable[tuple[str, Taken | SourceError]], earlier: Mapping[str, Reading], terms: Terms) -> Batch:
    """Judge readings of many machines on the same terms; `earlier` are those on arrival by the machines' names."""
    return Batch(tuple(judged_of(name, taken, earlier.get(name), terms) for name, taken in readings))


def judged_of(name: str, taken: Taken | SourceError, before: Reading | None, terms: Terms) -> JudgedMachine:
    """Judge one machine of a batch, or say why it was not read."""
    if isinstance(taken, SourceError):
        return JudgedMachine(name, None, taken.what.splitlines()[0])
    return JudgedMachine(name, judge(CaseFile(taken.reading, before, terms.promise, terms.card_of(taken.reading), needs=terms.needs)))


def card_by_model(cards: Iterable[Card]) -> CardOf:
    """Return what finds the card of a machine by the model that the machine tells."""
    known = {card.name.casefold(): card for card in cards}

    def of(reading: Reading) -> Card | None:
        model = reading.machine.model
        return known.get(model.value.casefold()) if model is not None else None

    return of
