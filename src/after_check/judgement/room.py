"""Many machines against one promise: who is ready, who differs from the rest, and why."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

from after_check.domain.cards import Card
from after_check.domain.findings import Finding, Judgement, Severity, Track, Verdict
from after_check.domain.promises import Promise
from after_check.domain.readings import Reading
from after_check.judgement.judge import judge


@dataclass(frozen=True, slots=True)
class JudgedMachine:
    """One machine of a room by name: its judgement, or why there is none."""

    name: str
    judgement: Judgement | None
    problem: str = ""

    @property
    def verdict(self) -> Verdict:
        """Its verdict; a machine that was not read can't be told."""
        return self.judgement.verdict if self.judgement is not None else Verdict.CANT_TELL

    @property
    def telling(self) -> tuple[Finding, ...]:
        """The findings that are more than a note."""
        return tuple(one for one in (self.judgement.findings if self.judgement else ()) if one.severity is not Severity.NOTE)

    @property
    def why(self) -> str:
        """What is to be said of it, in a line."""
        if self.judgement is None:
            return self.problem
        return "; ".join(found.title for found in self.telling) or self.judgement.why

    @property
    def signature(self) -> tuple[object, ...]:
        """What makes it like another: its verdict, its tracks and the codes of its findings."""
        if self.judgement is None:
            return (Verdict.CANT_TELL, self.problem)
        tracks = tuple((one.quantity, _rounded(one), one.status) for one in self.judgement.tracks)
        return (self.verdict, tracks, tuple(sorted(one.code for one in self.telling)))


def judged(
    name: str,
    reading: Reading | None,
    problem: str = "",
    before: Reading | None = None,
    promise: Promise | None = None,
    card: Card | None = None,
) -> JudgedMachine:
    """Judge one machine of a room; without a reading, `problem` says why there is none."""
    if reading is None:
        return JudgedMachine(name, None, problem)
    return JudgedMachine(name, judge(reading, before, promise, card))


@dataclass(frozen=True, slots=True)
class Room:
    """All machines, in their order."""

    machines: tuple[JudgedMachine, ...]

    @property
    def verdict(self) -> Verdict:
        """Ready when all are, not ready when any is not."""
        verdicts = {one.verdict for one in self.machines}
        if Verdict.NOT_READY in verdicts:
            return Verdict.NOT_READY
        return Verdict.READY if verdicts == {Verdict.READY} else Verdict.CANT_TELL

    @property
    def usual(self) -> tuple[object, ...] | None:
        """How most machines are; None where no two are alike."""
        counts = Counter(one.signature for one in self.machines)
        if not counts:
            return None
        signature, count = counts.most_common(1)[0]
        return signature if count > 1 or len(self.machines) == 1 else None

    @property
    def different(self) -> tuple[JudgedMachine, ...]:
        """The machines that are not like most."""
        usual = self.usual
        return tuple(one for one in self.machines if one.signature != usual) if usual is not None else self.machines

    @property
    def codes(self) -> tuple[str, ...]:
        """The codes of all telling findings, the most frequent first."""
        counts = Counter(code for one in self.machines for code in {found.code for found in one.telling})
        return tuple(code for code, _ in counts.most_common())

    def count(self, verdict: Verdict) -> int:
        """Return how many machines have this verdict."""
        return sum(one.verdict is verdict for one in self.machines)


def _rounded(track: Track) -> object:
    """Return a track's value now; amounts that the system uses differ by a few pages between equal machines."""
    return round(track.now, 1) if isinstance(track.now, float) else track.now
