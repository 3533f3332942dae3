"""The promise of a job as data: the one place where the line that a person wrote is read."""

from __future__ import annotations

from after_check.domain.jobs import Job
from after_check.domain.once import once_for_each
from after_check.domain.promises import Promise
from after_check.language.short_form import parse_promise


def promise_in(line: str) -> Promise | None:
    """Return what a kept line promises, or None for an empty one."""
    return parse_promise(line)[0] if line else None


@once_for_each(16)
def promise_of(job: Job) -> Promise | None:
    """Return the job's promise, or None where nothing was promised yet."""
    return promise_in(job.facts.promise)
