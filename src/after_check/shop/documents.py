"""A whole job as a document: what a job file holds, what is signed, and what travels between shops.

The form is described in docs/file-formats.md and docs/job.schema.json; its version is raised when it changes.
"""

from __future__ import annotations

import json
from collections.abc import Mapping
from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, ValidationError

from after_check.benchmark.benchmark_json import benchmark_from_json, benchmark_to_json, demand_from_json, demand_to_json
from after_check.domain.handback import HandBack
from after_check.domain.jobs import Job
from after_check.domain.outside_text import clean, stripped_data
from after_check.files.codec import Codec
from after_check.files.errors import SourceError
from after_check.files.strict_json import parse_json
from after_check.files.times import checked_time
from after_check.shop.lineages import lineages_of
from after_check.soak.soak_json import record_from_json, record_to_json
from after_check.sources.card_file import parse_card, write_card
from after_check.sources.saved import reading_from_json, reading_to_json
from after_check.tries.log_json import log_from_json, log_to_json

_HAND_BACKS = Codec(HandBack)


def hand_back_to_json(added: HandBack) -> str:
    """Return it as JSON text."""
    return _HAND_BACKS.to_json(added)


def hand_back_from_json(text: str) -> HandBack:
    """Return what `hand_back_to_json` wrote. Raises ValueError."""
    return _HAND_BACKS.from_json(text)


FORMAT = "after-check job"
VERSION = 2
"""Version 1 had no lineages."""

_Text = Field("", max_length=8000)
_MOST = 10_000
_Time = Annotated[datetime, AfterValidator(checked_time)]


class _Part(BaseModel):
    # The checks take a moment to build, and only signing and job files need them.
    model_config = ConfigDict(extra="forbid", defer_build=True)


class ReadingPart(_Part):
    """One reading: when, of which moment, what it said, and its evidence by name and SHA-256."""

    moment: Literal["arrival", "fitted"]
    taken_at: _Time
    reading: dict[str, Any]
    evidence: dict[str, str] = Field({}, max_length=_MOST)


class TimedPart(_Part):
    """A soak, a benchmark or a demand."""

    moment: Literal["arrival", "fitted"] = "fitted"
    at: _Time
    record: dict[str, Any]


class RevisionPart(_Part):
    """A signed revision."""

    number: int = Field(ge=1)
    signed_at: _Time
    signed_by: str = _Text
    sha256: str = Field(pattern=r"^[0-9a-f]{64}$")


class JobDocument(_Part):
    """The whole document of a job."""

    format: Literal["after-check job"]
    version: int
    uid: str = Field(pattern=r"^[0-9a-f-]{36}$")
    number: str = Field(min_length=1, max_length=40)
    title: str = _Text
    machine: str = _Text
    customer: str = _Text
    promise: str = _Text
    created_at: _Time
    changed_at: _Time
    frozen: bool = False
    archived: bool = False
    card: str = Field("", max_length=300_000)
    hand_back: dict[str, Any] = {}
    tries: dict[str, Any] | None = None
    readings: list[ReadingPart] = Field([], max_length=_MOST)
    soaks: list[TimedPart] = Field([], max_length=_MOST)
    gauges: list[TimedPart] = Field([], max_length=_MOST)
    demands: list[TimedPart] = Field([], max_length=_MOST)
    revisions: list[RevisionPart] = Field([], max_length=_MOST)
    lineages: dict[str, list[Annotated[str, Field(max_length=64)]]] = Field({}, max_length=100)


def job_document(job: Job) -> dict[str, Any]:
    """Return a job as data for its document. The same job gives the same document, here and elsewhere."""
    facts = job.facts
    return {
        "format": FORMAT,
        "version": VERSION,
        "uid": job.uid,
        "number": facts.number,
        "title": facts.title,
        "machine": facts.machine,
        "customer": facts.customer,
        "promise": facts.promise,
        "created_at": job.created_at.isoformat(),
        "changed_at": job.changed_at.isoformat(),
        "frozen": job.frozen,
        "archived": job.archived,
        "card": write_card(job.card) if job.card is not None else "",
        "hand_back": parse_json(hand_back_to_json(job.hand_back)),
        "tries": parse_json(log_to_json(job.tries.log)) if job.tries is not None else None,
        "readings": [
            {
                "moment": reading.moment.value,
                "taken_at": reading.taken_at.isoformat(),
                "reading": parse_json(reading_to_json(reading.reading)),
                "evidence": {part.name: part.sha256 for part in reading.reading.evidence},
            }
            for reading in job.readings
        ],
        "soaks": [
            {"moment": "fitted", "at": soak.changed_at.isoformat(), "record": parse_json(record_to_json(soak.record))} for soak in job.soaks
        ],
        "gauges": [
            {
                "moment": benchmark.moment.value,
                "at": benchmark.record.begun_at.isoformat(),
                "record": parse_json(benchmark_to_json(benchmark.record)),
            }
            for benchmark in job.benchmarks
        ],
        "demands": [
            {"moment": "fitted", "at": demand.begun_at.isoformat(), "record": parse_json(demand_to_json(demand))} for demand in job.demands
        ],
        "revisions": [
            {
                "number": revision.number,
                "signed_at": revision.signed_at.isoformat(),
                "signed_by": revision.signed_by,
                "sha256": revision.sha256,
            }
            for revision in job.revisions
        ],
        "lineages": {name: list(lineage) for name, lineage in lineages_of(job).items()},
    }


def document_text(document: Mapping[str, Any]) -> str:
    """Return a document as text: keys in order, so that equal documents have equal hashes."""
    return json.dumps(document, indent=1, sort_keys=True, ensure_ascii=False)


def parse_document(data: bytes, where: str) -> JobDocument:
    """Return a document that was checked through and through. Raises SourceError that says what is wrong and where in it."""
    try:
        found = stripped_data(parse_json(data))
    except (ValueError, RecursionError) as error:
        raise SourceError(f"is no JSON ({clean(str(error), 100)})", where) from None
    if not isinstance(found, dict) or found.get("format") != FORMAT:
        raise SourceError("is no job of After Check", where)
    if isinstance(found.get("version"), int) and found["version"] > VERSION:
        raise SourceError(
            f"was written by a newer After Check (its form is version {found['version']}, this program reads {VERSION})",
            where,
            "bring After Check up to date; nothing was changed",
        )
    try:
        document = JobDocument.model_validate(found)
    except (ValidationError, RecursionError) as error:
        first = error.errors()[0] if isinstance(error, ValidationError) else {"loc": (), "msg": "is nested too deeply"}
        raise SourceError(f"{'.'.join(str(part) for part in first['loc'])}: {clean(str(first['msg']), 160)}", where) from None
    _check_parts(document, where)
    return document


def _check_parts(document: JobDocument, where: str) -> None:
    """Read every part the way the store will, so that nothing comes in that does not come out again."""
    for number, reading in enumerate(document.readings):
        _checked(reading_from_json, reading.reading, f"readings.{number}", where)
    for name, parts, read in (
        ("soaks", document.soaks, record_from_json),
        ("gauges", document.gauges, benchmark_from_json),
        ("demands", document.demands, demand_from_json),
    ):
        for number, part in enumerate(parts):
            _checked(read, part.record, f"{name}.{number}", where)
    _checked(hand_back_from_json, document.hand_back, "hand_back", where)
    if document.tries is not None:
        _checked(log_from_json, document.tries, "tries", where)
    if document.card:
        parse_card(document.card, f"{where}: card")


def _checked(read: Any, data: dict[str, Any], name: str, where: str) -> None:
    try:
        read(json.dumps(data))
    except (ValueError, KeyError, TypeError) as error:
        raise SourceError(f"{name}: {clean(str(error).splitlines()[0], 160)}", where) from None
