"""The five things that a technician asks of a job, each with its answer: all there, at pace, trusted, helped, told.

They are worked out here, once, from the judged job; whoever shows them draws the same five in the same order with the same marks.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime
from enum import StrEnum

from after_check.casework.chain import chain_of
from after_check.casework.judging import benchmark_of
from after_check.casework.outcome import all_unknown, unknown_code, unknown_words, untested_code
from after_check.casework.snapshot import JobSnapshot
from after_check.domain.case_files import CaseFile
from after_check.domain.codes import Code, Severity
from after_check.domain.findings import Finding, Judgement, Track
from after_check.domain.handback import HandBack
from after_check.domain.jobs import Job, JobFacts, KeptReading, Moment
from after_check.domain.quantities import number_text
from after_check.domain.readings import BenchmarkOutcome
from after_check.domain.standing import Quantity, TrackStatus
from after_check.texts import words_of


class JobQuestion(StrEnum):
    """What is asked, in the order in which it is shown."""

    ALL_THERE = "all there"
    AT_PACE = "at pace"
    TRUSTED = "trusted"
    HELPED = "helped"
    TOLD = "told"


class JobAnswerKind(StrEnum):
    """How a question is answered."""

    YES = "yes"
    NO = "no"
    UNKNOWN = "not known"
    NOT_ASKED = "not asked"
    WAIVED = "waived"

    @property
    def mark(self) -> str:
        """Its sign; none is told by colour alone."""
        return {"yes": "✓", "no": "✗", "not known": "?", "not asked": "–", "waived": "≈"}[self.value]


@dataclass(frozen=True, slots=True)
class JobAnswer:
    """One answer: with `no` the one fact that says so, with `not known` what would tell, with `waived` what was agreed."""

    question: JobQuestion
    kind: JobAnswerKind
    why: str = ""


QUESTION_OF = {
    **dict.fromkeys(("capacity", "module", "slots", "limit", "promise", "start", "source"), JobQuestion.ALL_THERE),
    **dict.fromkeys(("rate", "channels", "profile", "timings", "voltage", "firmware", "mix"), JobQuestion.AT_PACE),
    **dict.fromkeys(("soak", "ecc", "cause"), JobQuestion.TRUSTED),
    **dict.fromkeys(("gauge", "demand"), JobQuestion.HELPED),
}
"""Which question a finding answers, by the first part of its code."""
_OF_PACE = (Quantity.RATE, Quantity.CHANNELS, Quantity.PROFILE)
_OF_MODULES = frozenset(("modules", "ranks", "device width", "maker", "part", "serial", "form", "generation", "error correction"))
"""What is told of modules and not of how they run, among what is not known."""


def answers_of(snapshot: JobSnapshot) -> tuple[JobAnswer, ...]:
    """Return the five answers of a job."""
    asked: dict[JobQuestion, Callable[[JobSnapshot], JobAnswer]] = {
        JobQuestion.ALL_THERE: lambda job: _promised(job, JobQuestion.ALL_THERE, (Quantity.CAPACITY,)),
        JobQuestion.AT_PACE: lambda job: _promised(job, JobQuestion.AT_PACE, _OF_PACE),
        JobQuestion.TRUSTED: _trusted,
        JobQuestion.HELPED: _helped,
        JobQuestion.TOLD: _told,
    }
    return tuple(_failed(snapshot, question) or answer(snapshot) for question, answer in asked.items())


def answers_of_case(file: CaseFile, judgement: Judgement) -> tuple[JobAnswer, ...]:
    """Return the answers where there are readings and a promise, and no job."""
    at = datetime.now(UTC)
    taken = ((Moment.ARRIVAL, file.before), (Moment.FITTED, file.now))
    readings = tuple(KeptReading(0, moment, at, reading) for moment, reading in taken if reading is not None)
    soak = file.soak or (file.now.soak if file.now is not None else None)
    return answers_of(JobSnapshot(Job(0, JobFacts(""), readings, at, at, 0), file.promise, judgement, soak))


def answers_words(answers: tuple[JobAnswer, ...]) -> str:
    """Return the five answers in one line: `all there ✓ · at pace ✗ · …`."""
    return " · ".join(f"{one.question.value} {one.kind.mark}" for one in answers)


def answers_document(answers: tuple[JobAnswer, ...]) -> list[dict[str, str]]:
    """Return the answers as data for a JSON document."""
    return [{"question": one.question.value, "answer": one.kind.value, "why": one.why} for one in answers]


def _failed(snapshot: JobSnapshot, question: JobQuestion) -> JobAnswer | None:
    """Return what is to fix for a question, or what of it was agreed to; None where nothing is."""
    roots = [root for root in snapshot.judgement.roots if root.severity is Severity.FIX and _question_of(root) is question]
    added = snapshot.job.hand_back
    open_ones = [root for root in roots if added.accepted(root.code) is None]
    if open_ones:
        chain = chain_of(snapshot.judgement, open_ones[0])
        said = ", ".join(chain.links[:2]) if chain is not None else words_of(open_ones[0]).title
        return JobAnswer(question, JobAnswerKind.NO, said)
    return JobAnswer(question, JobAnswerKind.WAIVED, _reason(added, roots[0].code)) if roots else None


def _question_of(finding: Finding) -> JobQuestion:
    return QUESTION_OF[finding.code.value.partition(".")[0]]


def _reason(added: HandBack, code: str) -> str:
    override = added.accepted(code)
    return override.reason if override is not None else ""


def _promised(snapshot: JobSnapshot, question: JobQuestion, quantities: tuple[Quantity, ...]) -> JobAnswer:
    """Return the answer by the tracks of some quantities, and by what else of them was promised and is not known."""
    judgement, added = snapshot.judgement, snapshot.job.hand_back
    if snapshot.promise is None:
        return JobAnswer(question, JobAnswerKind.NOT_ASKED)
    if snapshot.job.now is None:
        return JobAnswer(question, JobAnswerKind.UNKNOWN, "read it after fitting")
    tracks = [track for track in judgement.tracks if track.quantity in quantities and track.status is not None]
    short = [track for track in tracks if track.status is TrackStatus.SHORT]
    if short:
        # Short because of a cause that another question has, and that the customer takes or not.
        fixes = [root for root in judgement.roots if root.severity is Severity.FIX]
        if fixes and all(added.accepted(root.code) is not None for root in fixes):
            return JobAnswer(question, JobAnswerKind.WAIVED, _reason(added, fixes[0].code))
        return JobAnswer(question, JobAnswerKind.NO, _against_the_promise(short[0]))
    names = {quantity.value for quantity in quantities}
    beside = {name for name in judgement.not_known if (name in _OF_MODULES) == (question is JobQuestion.ALL_THERE)}
    unknown = [name for name in all_unknown(judgement) if name in names or name in beside]
    still = [name for name in unknown if added.accepted(unknown_code(name)) is None]
    if still:
        return JobAnswer(question, JobAnswerKind.UNKNOWN, f"read {', '.join(unknown_words(name) for name in still)}")
    if unknown:
        return JobAnswer(question, JobAnswerKind.WAIVED, _reason(added, unknown_code(unknown[0])))
    if not all(track.status in (TrackStatus.KEPT, TrackStatus.OVER) for track in tracks):
        return JobAnswer(question, JobAnswerKind.UNKNOWN, "read it again")
    return JobAnswer(question, JobAnswerKind.YES if tracks else JobAnswerKind.NOT_ASKED)


def _against_the_promise(track: Track) -> str:
    """Return what is there of what was promised, in a few words."""
    values = [number_text(value) if isinstance(value, int | float) else str(value) for value in (track.now, track.promised)]
    return f"{values[0]} of {values[1]} {track.unit}".strip()


def _trusted(snapshot: JobSnapshot) -> JobAnswer:
    running = snapshot.job.soak.record if snapshot.job.soak is not None else None
    if running is not None and not running.state.is_over:
        share = f", {running.share:.0%} done" if running.share is not None else ""
        return JobAnswer(JobQuestion.TRUSTED, JobAnswerKind.UNKNOWN, f"the memory test runs{share}")
    untested = untested_code(snapshot.judgement)
    if untested is not None and snapshot.job.hand_back.accepted(untested) is not None:
        return JobAnswer(JobQuestion.TRUSTED, JobAnswerKind.WAIVED, _reason(snapshot.job.hand_back, untested))
    for finding in snapshot.judgement.findings:
        if finding.code is Code.SOAK_NOT_ENOUGH or (finding.code is Code.SOAK_PARTIAL and untested is Code.SOAK_PARTIAL):
            return JobAnswer(JobQuestion.TRUSTED, JobAnswerKind.UNKNOWN, words_of(finding).title)
    if snapshot.soak is None:
        return JobAnswer(JobQuestion.TRUSTED, JobAnswerKind.UNKNOWN, "test the memory")
    return JobAnswer(JobQuestion.TRUSTED, JobAnswerKind.YES)


def _helped(snapshot: JobSnapshot) -> JobAnswer:
    codes = {finding.code: finding for finding in snapshot.judgement.findings}
    outcome = benchmark_of(snapshot.job)
    if outcome is BenchmarkOutcome.BETTER or Code.DEMAND_PROVEN in codes:
        return JobAnswer(JobQuestion.HELPED, JobAnswerKind.YES)
    for code in (Code.BENCHMARK_WORSE, Code.BENCHMARK_SAME):
        if code in codes:
            return JobAnswer(JobQuestion.HELPED, JobAnswerKind.NO, words_of(codes[code]).title)
    return JobAnswer(JobQuestion.HELPED, JobAnswerKind.UNKNOWN, "measure before and after")


def _told(snapshot: JobSnapshot) -> JobAnswer:
    return JobAnswer(JobQuestion.TOLD, JobAnswerKind.YES if snapshot.job.frozen else JobAnswerKind.NOT_ASKED)
