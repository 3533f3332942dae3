"""Job files and backups: zip files of documents and evidence, checked on the way in.

A job file holds `job.json` and `evidence/<SHA-256>`; a backup holds `shop.json`, `jobs/<identity>.json` and the same
evidence. No name in a zip file is ever used as a path.
"""

from __future__ import annotations

import io
import json
import re
import zipfile
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from hashlib import sha256
from pathlib import Path
from typing import TYPE_CHECKING, Any

from after_check.domain.modules import MakerId
from after_check.domain.text import clean
from after_check.shop.documents import JobDocument, document_text, job_document, parse_document
from after_check.shop.errors import ShopError
from after_check.shop.taking_in import Arrived, TakenIn
from after_check.sources.card_file import parse_card, write_card
from after_check.sources.errors import SourceError

if TYPE_CHECKING:
    from after_check.shop.store import Shop

LARGEST_FILE_BYTES = 2 << 30
LARGEST_MEMBER_BYTES = 64 << 20
LARGEST_WHOLE_BYTES = 4 << 30
MOST_MEMBERS = 400_000
_MOST_TIMES_LARGER = 400
"""A file that unpacks to more times its size is a bomb; text of one letter packs a thousandfold, real jobs thirtyfold."""
_EVIDENCE = re.compile(r"evidence/([0-9a-f]{64})")
_JOB = re.compile(r"jobs/[0-9a-f-]{36}\.json")
BACKUP_FORMAT = "after-check shop"
BACKUP_VERSION = 1


@dataclass(frozen=True, slots=True)
class Counted:
    """How many jobs were new, the same, joined; and what was wrong with others, in words."""

    new: int = 0
    same: int = 0
    joined: int = 0
    problems: tuple[str, ...] = ()

    def and_one(self, became: TakenIn) -> Counted:
        """Return it with one more."""
        name = {TakenIn.NEW: "new", TakenIn.SAME: "same", TakenIn.JOINED: "joined"}[became]
        counts = {"new": self.new, "same": self.same, "joined": self.joined}
        return Counted(**{**counts, name: counts[name] + 1}, problems=self.problems)


def job_file(shop: Shop, number: str) -> bytes:
    """Return a whole job as the bytes of a job file. Raises Absent."""
    return zipped(*handed_out(shop, number))


def handed_out(shop: Shop, number: str) -> tuple[dict[str, Any], dict[str, bytes]]:
    """Return a job's document, and its evidence and signed revisions by their SHA-256."""
    job = shop.job(number)
    evidence = {one.sha256: one.data for kept in job.readings for one in shop.evidence(kept.id)}
    for revision in job.revisions:
        text = shop.signed_document(number, revision.number)
        if text:
            evidence[revision.sha256] = text.encode()
    return job_document(job), evidence


def read_job_file(data: bytes, where: str) -> tuple[JobDocument, dict[str, bytes]]:
    """Return the document and the evidence of a job file. Raises SourceError."""
    with _opened(data, where) as archive:
        members = _members(archive, where)
        if "job.json" not in members:
            raise SourceError("is no job file: it has no job.json in it", where)
        strangers = [name for name in members if name != "job.json" and not _EVIDENCE.fullmatch(name)]
        if strangers:
            raise SourceError(f"has something in it that is no part of a job: {clean(strangers[0], 60)}", where, "nothing was taken in")
        document = parse_document(_member(archive, members["job.json"], where), where)
        return document, {name[9:]: _evidence(archive, info, where) for name, info in members.items() if name != "job.json"}


def bring_in(shop: Shop, path: Path) -> Arrived:
    """Bring a job file into a shop; returns its number here and what became of it. Raises SourceError."""
    document, evidence = read_job_file(_file(path), str(path))
    return shop.take_in(document, evidence)


def backup(shop: Shop, path: Path, tell: Callable[[int, int], None] = lambda done, whole: None) -> Counted:
    """Write the whole shop into a zip file; a job that cannot be read is left out and told. The file is whole or not there."""
    beside = path.with_name(f".{path.name}.part")
    counted = Counted()
    try:
        with zipfile.ZipFile(beside, "w", zipfile.ZIP_DEFLATED) as archive:
            written: set[str] = set()
            for document, evidence, problem in _jobs_of(shop, tell):
                if document is None:
                    counted = Counted(counted.new, 0, 0, (*counted.problems, problem))
                    continue
                archive.writestr(f"jobs/{document['uid']}.json", document_text(document))
                for digest in evidence.keys() - written:
                    archive.writestr(f"evidence/{digest}", evidence[digest])
                written |= evidence.keys()
                counted = counted.and_one(TakenIn.NEW)
            archive.writestr("shop.json", json.dumps(_shop_document(shop), indent=1))
        beside.replace(path)
    finally:
        beside.unlink(missing_ok=True)
    return counted


def restore(shop: Shop, path: Path, tell: Callable[[int, int], None] = lambda done, whole: None) -> Counted:
    """Take every job of a backup into a shop; what is here already is not doubled. Raises SourceError."""
    where = str(path)
    with _opened(_file(path), where) as archive:
        members = _members(archive, where)
        strangers = [name for name in members if name != "shop.json" and not _EVIDENCE.fullmatch(name) and not _JOB.fullmatch(name)]
        if "shop.json" not in members or strangers:
            raise SourceError("is no backup of a shop", where, f"it has {clean(strangers[0], 60)} in it" if strangers else "")
        _take_shop(shop, _member(archive, members["shop.json"], where), where)
        names = sorted(name for name in members if _JOB.fullmatch(name))
        counted = Counted()
        for at, name in enumerate(names, 1):
            document = parse_document(_member(archive, members[name], where), f"{where}: {name}")
            wanted = {digest for part in document.readings for digest in part.evidence.values()} | {
                one.sha256 for one in document.revisions
            }
            evidence = {
                digest: _evidence(archive, members[f"evidence/{digest}"], where) for digest in wanted if f"evidence/{digest}" in members
            }
            counted = counted.and_one(shop.take_in(document, evidence).became)
            tell(at, len(names))
    return counted


def move(source: Shop, target: Shop, tell: Callable[[int, int], None] = lambda done, whole: None) -> Counted:
    """Copy every job of one shop into another, and check that each came out as it went in. The source stays as it is."""
    _take_shop(target, json.dumps(_shop_document(source)).encode(), source.where)
    counted = Counted()
    for document, evidence, problem in _jobs_of(source, tell):
        if document is None:
            counted = Counted(counted.new, counted.same, counted.joined, (*counted.problems, problem))
            continue
        number, became, _ = target.take_in(parse_document(document_text(document).encode(), source.where), evidence)
        counted = counted.and_one(became)
        arrived, arrived_evidence = handed_out(target, number)
        if became is TakenIn.NEW and (_comparable(arrived) != _comparable({**document, "number": number}) or evidence != arrived_evidence):
            words = f"job {document['number']} did not arrive as it left"
            counted = Counted(counted.new, counted.same, counted.joined, (*counted.problems, words))
    return counted


def _comparable(document: Mapping[str, Any]) -> str:
    """Return a document without what a shop adds of its own: makers that it knows change names, cards are its own."""
    return document_text({key: value for key, value in document.items() if key not in ("card",)})


def _jobs_of(shop: Shop, tell: Callable[[int, int], None]) -> Iterator[tuple[dict[str, Any] | None, dict[str, bytes], str]]:
    """Yield every job's document and evidence, or what is wrong with it."""
    numbers = shop.numbers()
    for at, number in enumerate(numbers, 1):
        try:
            yield (*handed_out(shop, number), "")
        except (ShopError, ValueError, KeyError, TypeError) as error:
            yield None, {}, f"job {clean(number, 40)} cannot be read ({clean(str(error).splitlines()[0], 120)})"
        tell(at, len(numbers))


def _shop_document(shop: Shop) -> dict[str, Any]:
    return {
        "format": BACKUP_FORMAT,
        "version": BACKUP_VERSION,
        "makers": [{"bank": maker.bank, "code": maker.code, "name": name} for maker, name in sorted(shop.makers().items())],
        "cards": [write_card(card) for card in shop.cards()],
    }


def _take_shop(shop: Shop, data: bytes, where: str) -> None:
    """Take the names of makers and the cards; what this shop has of its own stays."""
    try:
        found = json.loads(data)
        if found["format"] != BACKUP_FORMAT or found["version"] > BACKUP_VERSION:
            raise SourceError("is a backup of a newer After Check, or none", where, "bring After Check up to date; nothing was changed")
        makers = {MakerId(int(one["bank"]), int(one["code"])): clean(str(one["name"])) for one in found["makers"]}
        cards = [parse_card(str(text), where) for text in found["cards"]]
    except (ValueError, KeyError, TypeError) as error:
        raise SourceError(f"shop.json cannot be read ({clean(str(error), 100)})", where) from None
    known, known_cards = shop.makers(), {card.name.casefold() for card in shop.cards()}
    for maker, name in makers.items():
        if maker not in known:
            shop.name_maker(maker, name)
    for card in cards:
        if card.name.casefold() not in known_cards:
            shop.keep_card(card)


def zipped(document: Mapping[str, Any], evidence: Mapping[str, bytes]) -> bytes:
    """Return a job's document and its evidence, by SHA-256, as the bytes of a job file."""
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("job.json", document_text(document))
        for digest, data in sorted(evidence.items()):
            archive.writestr(f"evidence/{digest}", data)
    return stream.getvalue()


def _file(path: Path) -> bytes:
    try:
        if path.stat().st_size > LARGEST_FILE_BYTES:
            raise SourceError("is larger than any backup of a shop", str(path))
        return path.read_bytes()
    except OSError as error:
        raise SourceError(f"cannot be read ({error.strerror})", str(path)) from None


def _opened(data: bytes, where: str) -> zipfile.ZipFile:
    try:
        return zipfile.ZipFile(io.BytesIO(data))
    except (zipfile.BadZipFile, ValueError, OSError) as error:
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


def _evidence(archive: zipfile.ZipFile, info: zipfile.ZipInfo, where: str) -> bytes:
    data = _member(archive, info, where)
    match = _EVIDENCE.fullmatch(info.filename)
    if match is None or sha256(data).hexdigest() != match[1]:
        raise SourceError(
            f"{clean(info.filename, 30)}… is not what its name says: it was changed or damaged", where, "nothing was taken in"
        )
    return data
