"""What workers tell the screens, as data: the only way from a thread to what is drawn. Each message is itself and equals no other."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from textual.message import Message

if TYPE_CHECKING:
    from pathlib import Path

    from after_check.casework.batch import JudgedMachine
    from after_check.domain.benchmark import BenchmarkRecord
    from after_check.domain.demand import DemandRecord
    from after_check.domain.soak import SoakRecord
    from after_check.files.errors import SourceError
    from after_check.sources.evidence import Taken


@dataclass(eq=False, repr=False)
class SoakMoved(Message):
    """A soak went on, or ended; `record` is how it stands."""

    job: str
    record: SoakRecord


@dataclass(eq=False, repr=False)
class BenchmarkMoved(Message):
    """A benchmark went on, or ended."""

    record: BenchmarkRecord


@dataclass(eq=False, repr=False)
class DemandMoved(Message):
    """A watch over memory in use went on, or ended; `problem` says why it could not go on."""

    record: DemandRecord
    ended: bool
    problem: str = ""


@dataclass(eq=False, repr=False)
class ReadingTaken(Message):
    """A reading was taken and may be kept."""

    taken: Taken


@dataclass(eq=False, repr=False)
class AccessNeeded(Message):
    """A person has to decide: accept a fingerprint, or give a password."""

    source: str
    reason: str
    fingerprint: str | None


@dataclass(eq=False, repr=False)
class ReadingFailed(Message):
    """No reading could be taken; the job is as it was."""

    reason: str


@dataclass(eq=False, repr=False)
class ReadingBegun(Message):
    """The machines of a batch are known, `whole` of them, and their reading begins. `batch` is its folder."""

    batch: Path
    whole: int


@dataclass(eq=False, repr=False)
class MachineJudged(Message):
    """One machine was read, or could not be (`problem`), and judged; `done` of `whole` are behind it. `batch` is its batch's folder."""

    batch: Path
    machine: JudgedMachine
    problem: SourceError | None
    done: int
    whole: int


@dataclass(eq=False, repr=False)
class BatchRead(Message):
    """What a reader was to read of a batch, and judged by a promise, is over; `problem` says why where it did not end well."""

    batch: Path
    reader: object
    promise: str
    problem: str = ""
