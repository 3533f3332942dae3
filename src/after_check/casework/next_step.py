"""The one thing that is to be done next with a job, from arrival to sheet."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from after_check.casework.outcome import open_fixes, open_unknown, to_settle, unknown_words
from after_check.casework.snapshot import JobSnapshot
from after_check.domain.findings import Finding


class ToDo(StrEnum):
    """What is to be done."""

    READ = "read"
    PROMISE = "promise"
    BEFORE = "look before it is opened"
    TRY = "try"
    TEST = "test"
    SETTLE = "look at the stickers"
    HAND_BACK = "hand back"


@dataclass(frozen=True, slots=True)
class NextStep:
    """What is to be done next, and in a few words."""

    doing: ToDo
    words: str


_BY_TRYING = ("module.", "soak.", "start.", "ecc.", "cause.", "mix.")
"""What settings do not fix: modules are moved, and what came of it is written down."""


def next_step_of(snapshot: JobSnapshot) -> NextStep:
    """Return what is to be done next."""
    job, added = snapshot.job, snapshot.job.hand_back
    if job.frozen or (snapshot.outcome.may_go and (snapshot.soak is not None or added.as_it_came)):
        return NextStep(ToDo.HAND_BACK, "the signed sheet" if job.frozen else "hand it back")
    if job.arrival is None and job.now is None:
        return NextStep(ToDo.READ, "read it on arrival")
    if snapshot.promise is None:
        return NextStep(ToDo.PROMISE, "type the promise")
    if job.now is None:
        return NextStep(ToDo.BEFORE, "before you open it")
    if snapshot.outcome.may_go:
        return NextStep(ToDo.TEST, "test the memory")
    fixes = open_fixes(snapshot.judgement, added)
    if fixes:
        return fixing(fixes[0])
    settle = to_settle(snapshot.judgement, added, snapshot.promise)
    if settle:
        return NextStep(ToDo.SETTLE, f"does the sticker say so? {', '.join(unknown_words(name) for name in settle)}")
    unknown = open_unknown(snapshot.judgement, added)
    if unknown:
        return NextStep(ToDo.READ, f"read what is not known: {', '.join(unknown_words(name) for name in unknown)}")
    return NextStep(ToDo.TEST, "test the memory") if snapshot.soak is None else NextStep(ToDo.READ, "read it again")


def fixing(finding: Finding) -> NextStep:
    """Return how a fault is fixed: by trying, or by a setting and another reading."""
    if finding.code.startswith(_BY_TRYING):
        return NextStep(ToDo.TRY, "fix it and write down what came of it")
    return NextStep(ToDo.READ, "fix it, then read it again")
