"""Judging many machines against one promise."""

from __future__ import annotations

import json
import sys
from dataclasses import dataclass
from pathlib import Path

from after_check.casework.batch import Batch, Terms, batch_of
from after_check.casework.needs import needs_of_the_shop
from after_check.casework.on_all_cores import is_worth_it, judged_on_all_cores
from after_check.casework.verdict_words import OUTCOME_MARKS
from after_check.cli.access import AccessWords, with_access
from after_check.cli.judge import EXIT_CODES, judgement_document
from after_check.domain.cards import Card
from after_check.domain.promises import Promise
from after_check.domain.standing import JobOutcome, Verdict
from after_check.files.errors import SourceError
from after_check.files.whole_files import write_whole
from after_check.local.settings import load_settings
from after_check.sources.evidence import Taken
from after_check.sources.many import Named, sources_in, take_many, with_kept_passwords

_MOST_CODES = 8
_LONGEST_NAME = 26


@dataclass(frozen=True, slots=True)
class BatchOutputs:
    """Where the summary goes besides the screen."""

    pdf: Path | None = None
    csv: Path | None = None
    json: bool = False


def batch_command(
    after: Path, before: Path | None, promise: Promise | None, card: Card | None, out: BatchOutputs, access: AccessWords
) -> int:
    """Judge every machine of a folder or a list; returns 0 when all are ready, 1 when any is not, else 2."""
    earlier = {named.name: taken.reading for named, taken in _taken(before, access) if isinstance(taken, Taken)} if before else {}
    terms = Terms(promise, lambda reading: card, needs_of_the_shop())
    sources = sources_in(after)
    if is_worth_it(sources):
        batch = Batch(judged_on_all_cores(sources, earlier, terms, _tell))
    else:
        batch = batch_of(((named.name, taken) for named, taken in _taken(after, access)), earlier, terms)
    if out.pdf is not None or out.csv is not None:
        from after_check.handback.batch_sheet import batch_csv, batch_pdf
        from after_check.handback.content import look_of

        if out.pdf is not None:
            write_whole(out.pdf, batch_pdf(batch, promise, look_of(load_settings())))
        if out.csv is not None:
            write_whole(out.csv, batch_csv(batch))
    if out.json:
        print(json.dumps(_document(batch), indent=1))
    else:
        print("\n".join(_lines(batch)))
    return EXIT_CODES[batch.verdict]


def _taken(path: Path, access: AccessWords) -> tuple[tuple[Named, Taken | SourceError], ...]:
    sources = sources_in(path)
    return with_access(str(path), access, lambda given: take_many(sources, with_kept_passwords(given), _tell))


def _tell(done: int, whole: int) -> None:
    if sys.stderr.isatty():
        print(f"{done} of {whole} read", end="\r" if done < whole else "\n", file=sys.stderr, flush=True)


def _lines(batch: Batch) -> list[str]:
    """Return the matrix: a row for each machine, a column for each finding; those that differ come with their reason."""
    codes = batch.codes[:_MOST_CODES]
    wide = min(_LONGEST_NAME, max(len(machine.name) for machine in batch.machines))
    lines = [f"{'':{wide}}    {'   '.join(str(number) for number in range(1, len(codes) + 1))}"] if codes else []
    different = {machine.name for machine in batch.different} if batch.usual is not None else set()
    for machine in batch.machines:
        found = {finding.code for finding in machine.telling}
        cells = "   ".join("▲" if code in found else "·" for code in codes)
        mark = "  ◂ differs" if machine.name in different else ""
        lines.append(f"{machine.name[:wide]:{wide}}  {OUTCOME_MARKS[machine.outcome]} {cells}{mark}")
    lines += [f"  {number} {code}" for number, code in enumerate(codes, 1)]
    lines.append("")
    for machine in batch.machines:
        if machine.name in different or (machine.verdict is not Verdict.READY and batch.usual is None):
            lines.append(f"{machine.name}: {machine.why}")
    lines.append(f"{len(batch.machines)} machines: {', '.join(f'{number} {words}' for _, number, words in batch.counts)}")
    return lines


def _document(batch: Batch) -> dict[str, object]:
    return {
        "verdict": batch.verdict.value,
        "ready": sum(machine.verdict is Verdict.READY for machine in batch.machines),
        "not_tested": batch.count(JobOutcome.NOT_TESTED, JobOutcome.PARTLY_TESTED),
        "not_ready": batch.count(JobOutcome.NOT_READY),
        "cant_tell": batch.count(JobOutcome.CANT_TELL),
        "different": [machine.name for machine in batch.different] if batch.usual is not None else [],
        "machines": [
            {
                "name": machine.name,
                "problem": machine.problem or None,
                "judgement": judgement_document(machine.judgement) if machine.judgement else None,
            }
            for machine in batch.machines
        ],
    }
