"""The zip files that jobs travel in: written whole, and checked on the way in before anything is believed.

A job file holds `job.json` and `evidence/<SHA-256>`; a backup holds `shop.json`, `jobs/<identity>.json` and the same
evidence. No name in a zip file is ever used as a path.
"""

from __future__ import annotations

import io
import re
import zipfile
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from hashlib import sha256
from pathlib import Path
from typing import Any

from after_check.domain.outside_text import clean
from after_check.files.errors import SourceError
from after_check.files.plain_files import read_plain
from after_check.shop.documents import JobDocument, document_text, parse_document

LARGEST_FILE_BYTES = 2 << 30
LARGEST_MEMBER_BYTES = 64 << 20
LARGEST_DOCUMENT_BYTES = 16 << 20
"""The document of a job without its evidence; that of a year with a test of a week has 4 MB."""
MOST_VALUES = 1_000_000
"""Values in such a document: each takes some hundred bytes of memory while it is looked at."""
LARGEST_WHOLE_BYTES = 4 << 30
MOST_MEMBERS = 400_000
_MOST_TIMES_LARGER = 400
"""A file that unpacks to more times its size is a bomb; text of one letter packs a thousandfold, real jobs thirtyfold."""
_EVIDENCE = re.compile(r"evidence/([0-9a-f]{64})")
_JOB = re.compile(r"jobs/[0-9a-f-]{36}\.json")


def zipped(document: Mapping[str, Any], evidence: Mapping[str, bytes]) -> bytes:
    """Return a job's document and its evidence, by SHA-256, as the bytes of a job file."""
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("job.json", document_text(document))
        for digest, data in sorted(evidence.items()):
            archive.writestr(f"evidence/{digest}", data)
    return stream.getvalue()


def read_job_file(data: bytes, where: str) -> tuple[JobDocument, dict[str, bytes]]:
    """Return the document and the evidence of a job file. Raises SourceError."""
    with _opened(data, where) as archive:
        members = _members(archive, where)
        if "job.json" not in members:
            raise SourceError("is no job file: it has no job.json in it", where)
        strangers = [name for name in members if name != "job.json" and not _EVIDENCE.fullmatch(name)]
        if strangers:
            raise SourceError(f"has something in it that is no part of a job: {clean(strangers[0], 60)}", where, "nothing was taken in")
        document = parse_document(_document(archive, members["job.json"], where), where)
        return document, {name[9:]: _evidence(archive, info, where) for name, info in members.items() if name != "job.json"}


@dataclass(frozen=True, slots=True)
class OpenBackup:
    """A backup that was opened: the shop's own document, and the jobs, each read when it is its turn."""

    shop: bytes
    count: int
    jobs: Iterator[tuple[JobDocument, dict[str, bytes]]]


@contextmanager
def opened_backup(data: bytes, where: str) -> Iterator[OpenBackup]:
    """Open a backup of a shop. Raises SourceError, also while its jobs are read."""
    with _opened(data, where) as archive:
        members = _members(archive, where)
        strangers = [name for name in members if name != "shop.json" and not _EVIDENCE.fullmatch(name) and not _JOB.fullmatch(name)]
        if "shop.json" not in members or strangers:
            raise SourceError("is no backup of a shop", where, f"it has {clean(strangers[0], 60)} in it" if strangers else "")
        names = sorted(name for name in members if _JOB.fullmatch(name))
        yield OpenBackup(_member(archive, members["shop.json"], where), len(names), _jobs_in(archive, members, names, where))


def _jobs_in(
    archive: zipfile.ZipFile, members: Mapping[str, zipfile.ZipInfo], names: list[str], where: str
) -> Iterator[tuple[JobDocument, dict[str, bytes]]]:
    for name in names:
        document = parse_document(_document(archive, members[name], where), f"{where}: {name}")
        wanted = {digest for part in document.readings for digest in part.evidence.values()}
        wanted |= {revision.sha256 for revision in document.revisions}
        found = {digest: members[f"evidence/{digest}"] for digest in wanted if f"evidence/{digest}" in members}
        yield document, {digest: _evidence(archive, info, where) for digest, info in found.items()}


def is_backup(data: bytes, where: str) -> bool:
    """Return whether a zip file is a backup of a shop, and not a single job. Raises SourceError for what is no zip file."""
    with _opened(data, where) as archive:
        return "shop.json" in archive.namelist()


def file_bytes(path: Path) -> bytes:
    """Return the content of a file that somebody names. Raises SourceError."""
    return read_plain(path, LARGEST_FILE_BYTES, "backup of a shop")


def _opened(data: bytes, where: str) -> zipfile.ZipFile:
    try:
        return zipfile.ZipFile(io.BytesIO(data))
    except (zipfile.BadZipFile, ValueError, OSError, NotImplementedError) as error:
        raise SourceError(f"is no zip file, or a damaged one ({clean(str(error), 80)})", where, "copy it again") from None


def _members(archive: zipfile.ZipFile, where: str) -> dict[str, zipfile.ZipInfo]:
    """Return the members by name, after looking at their number and announced sizes."""
    infos = archive.infolist()
    whole = sum(info.file_size for info in infos)
    packed = sum(info.compress_size for info in infos)
    if len(infos) > MOST_MEMBERS or whole > LARGEST_WHOLE_BYTES or (whole > 1 << 20 and whole > packed * _MOST_TIMES_LARGER):
        raise SourceError("would unpack to far more than any job", where, "nothing was taken in")
    names = [info.filename for info in infos]
    if len(set(names)) != len(names):
        raise SourceError("has two parts of one name in it", where, "nothing was taken in")
    return dict(zip(names, infos, strict=True))


def _member(archive: zipfile.ZipFile, info: zipfile.ZipInfo, where: str) -> bytes:
    """Return one member; its announced size is not trusted."""
    try:
        with archive.open(info) as stream:
            data = stream.read(LARGEST_MEMBER_BYTES + 1)
    except (zipfile.BadZipFile, OSError, ValueError, NotImplementedError, RuntimeError, EOFError) as error:
        raise SourceError(f"{clean(info.filename, 60)} is damaged ({clean(str(error), 80)})", where, "copy it again") from None
    except Exception as error:  # The decompressors raise errors of their own, with no common ancestor.
        raise SourceError(f"{clean(info.filename, 60)} cannot be unpacked ({type(error).__name__})", where) from None
    if len(data) > LARGEST_MEMBER_BYTES:
        raise SourceError(f"{clean(info.filename, 60)} is larger than any part of a job", where, "nothing was taken in")
    return data


def _document(archive: zipfile.ZipFile, info: zipfile.ZipInfo, where: str) -> bytes:
    """Return a job's document, where it can be looked at in memory."""
    data = _member(archive, info, where)
    if len(data) > LARGEST_DOCUMENT_BYTES or data.count(b",") > MOST_VALUES:
        raise SourceError(f"{clean(info.filename, 60)} has more in it than any job", where, "nothing was taken in")
    return data


def _evidence(archive: zipfile.ZipFile, info: zipfile.ZipInfo, where: str) -> bytes:
    data = _member(archive, info, where)
    match = _EVIDENCE.fullmatch(info.filename)
    if match is None or sha256(data).hexdigest() != match[1]:
        raise SourceError(
            f"{clean(info.filename, 30)}… is not what its name says: it was changed or damaged", where, "nothing was taken in"
        )
    return data
