"""Whose a written sheet is: a file of another job is never replaced, and the name of a file says which job it is of."""

from __future__ import annotations

import errno
import re
import zipfile
from pathlib import Path

from after_check.domain.jobs import JobFacts
from after_check.domain.outside_text import safe_name
from after_check.files.whole_files import NotReplacedError

_LARGEST_LOOKED_AT_BYTES = 64 << 20
_LONGEST_PART = 24


def mark_of(uid: str) -> str:
    """Return what a file of a job carries in it: the job's own number, which no other job has."""
    return f"after-check job {uid}"


def check_owner(path: Path, uid: str) -> None:
    """See that a file may be written at a path: nothing is there, or what is there is of the same job. Raises NotReplacedError, OSError."""
    if path.is_symlink() or not path.is_file():
        return  # Nothing is there, or no plain file, which nobody replaces.
    with path.open("rb") as file:
        data = file.read(_LARGEST_LOOKED_AT_BYTES)
    if data and uid.encode() not in data and not _is_job_file_of(path, uid):
        raise NotReplacedError(errno.EEXIST, "a file that is not of this job is there already", str(path))


def _is_job_file_of(path: Path, uid: str) -> bool:
    try:
        with zipfile.ZipFile(path) as archive, archive.open("job.json") as document:
            return f'"uid": "{uid}"'.encode() in document.read(_LARGEST_LOOKED_AT_BYTES)
    except (OSError, KeyError, zipfile.BadZipFile, NotImplementedError, RuntimeError):
        return False


def check_folder(folder: Path, uid: str) -> None:
    """See that the drawings of a job may be written into a folder: those that are there are of the same job. Raises as `check_owner`."""
    for path in sorted(folder.glob("*.svg")):
        check_owner(path, uid)


def file_stem(facts: JobFacts, shop: str) -> str:
    """Return the name of a job's files: its number, its machine and the shop, so that two of them are never one."""
    parts = (facts.number, facts.machine or facts.title, shop)
    plain = (re.sub(r"-+", "-", safe_name(part)).strip("-")[:_LONGEST_PART].strip("-") for part in parts)
    return "-".join(["job", *(part for part in plain if part)])
