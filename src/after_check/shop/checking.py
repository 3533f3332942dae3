"""Looking whether a shop is sound: the database itself, every job, every piece of evidence."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from hashlib import sha256

from after_check.casework.judging import judge_job
from after_check.domain.bench import BenchEntry
from after_check.domain.outside_text import clean
from after_check.shop.errors import ShopError
from after_check.shop.salvage import FAULTS, derived, essence
from after_check.shop.shop import Shop
from after_check.shop.stored_lines import line_from_json


@dataclass(frozen=True, slots=True)
class Checked:
    """How many jobs and pieces of evidence were looked at, and what is wrong, in words."""

    jobs: int
    evidence: int
    problems: tuple[str, ...]

    @property
    def is_sound(self) -> bool:
        """Whether nothing is wrong."""
        return not self.problems


def _is_odd(entry: BenchEntry) -> bool:
    """Whether the line of an entry cannot be read, or is that of another job."""
    try:
        return line_from_json(entry.line).number != entry.number
    except FAULTS:
        return True


def check_shop(shop: Shop, tell: Callable[[int, int], None] = lambda done, whole: None) -> Checked:
    """Look through a whole shop; nothing is changed."""
    problems = list(shop.database.problems())
    try:
        problems += [f"the data sheet {name} is damaged" for name in shop.cards.damaged()]
        problems += [f"job {clean(entry.number, 40)}: its line on the bench is damaged" for entry in shop.jobs.entries() if _is_odd(entry)]
    except ShopError as error:
        problems.append(str(error))
    pieces = 0
    numbers: list[str] = []
    try:
        numbers = shop.jobs.numbers()
    except ShopError as error:
        problems.append(str(error))
    for at, number in enumerate(numbers, 1):
        try:
            job = shop.jobs.job(number)
            judge_job(job)
            problems += [f"job {number}: {words}" for words in job.damaged]
            for kept in job.readings:
                found = {part.name: part for part in shop.jobs.evidence(kept.id)}
                for part in kept.reading.evidence:
                    pieces += 1
                    data = found[part.name].data if part.name in found else None
                    if data is None or sha256(data).hexdigest() != part.sha256:
                        problems.append(f"job {number}: the evidence {clean(part.name, 60)} is missing or damaged")
                again = derived(tuple(found.values()), kept.taken_at)
                if again is not None and essence(again) != essence(kept.reading):
                    problems.append(f"job {number}: a reading of {kept.taken_at:%Y-%m-%d} is not what its evidence says")
            for revision in job.revisions:
                text = shop.signing.document(number, revision.number)
                if not text:
                    problems.append(f"job {number}: revision {revision.number} was signed, and what was signed is missing")
                elif sha256(text.encode()).hexdigest() != revision.sha256:
                    problems.append(f"job {number}: revision {revision.number} is not what was signed")
        except (ShopError, ValueError, KeyError, TypeError) as error:
            problems.append(f"job {clean(number, 40)} cannot be read ({clean(str(error).splitlines()[0], 120)})")
        tell(at, len(numbers))
    return Checked(len(numbers), pieces, tuple(problems))
