"""Looking whether a shop is sound: the database itself, every job, every piece of evidence."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from hashlib import sha256

from after_check.domain.text import clean
from after_check.shop.errors import ShopError
from after_check.shop.store import Shop
from after_check.shop.summary import judge_job


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


def check_shop(shop: Shop, tell: Callable[[int, int], None] = lambda done, whole: None) -> Checked:
    """Look through a whole shop; nothing is changed."""
    problems = list(shop.database_problems())
    pieces = 0
    numbers: list[str] = []
    try:
        numbers = shop.numbers()
    except ShopError as error:
        problems.append(str(error))
    for at, number in enumerate(numbers, 1):
        try:
            job = shop.job(number)
            judge_job(job)
            for kept in job.readings:
                found = {one.name: one for one in shop.evidence(kept.id)}
                for part in kept.reading.evidence:
                    pieces += 1
                    data = found[part.name].data if part.name in found else None
                    if data is None or sha256(data).hexdigest() != part.sha256:
                        problems.append(f"job {number}: the evidence {clean(part.name, 60)} is missing or damaged")
            for revision in job.revisions:
                text = shop.signed_document(number, revision.number)
                if text and sha256(text.encode()).hexdigest() != revision.sha256:
                    problems.append(f"job {number}: revision {revision.number} is not what was signed")
        except (ShopError, ValueError, KeyError, TypeError) as error:
            problems.append(f"job {clean(number, 40)} cannot be read ({clean(str(error).splitlines()[0], 120)})")
        tell(at, len(numbers))
    return Checked(len(numbers), pieces, tuple(problems))
