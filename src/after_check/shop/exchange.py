"""Jobs that leave a shop and come into another: job files, backups, moves. Nothing is lost or doubled on the way."""

from __future__ import annotations

import json
import zipfile
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace
from pathlib import Path
from typing import IO, Any

from after_check.domain.jobs import Job
from after_check.domain.modules import MakerId
from after_check.domain.outside_text import clean
from after_check.files.errors import SourceError
from after_check.files.strict_json import parse_json
from after_check.files.whole_files import replacing
from after_check.shop.documents import document_text, job_document, parse_document
from after_check.shop.errors import ShopError
from after_check.shop.joining import Arrived, TakenIn
from after_check.shop.shop import Shop
from after_check.shop.zip_files import file_bytes, is_backup, opened_backup, read_job_file, zipped
from after_check.sources.card_file import parse_card, write_card

BACKUP_FORMAT = "after-check shop"
BACKUP_VERSION = 1
Tell = Callable[[int, int], None]
"""Called with how many jobs of how many are done."""


def _silent(done: int, whole: int) -> None:
    """Tell nobody."""


@dataclass(frozen=True, slots=True)
class Counted:
    """How many jobs were new, the same, joined; and what was wrong with others, in words."""

    new: int = 0
    same: int = 0
    joined: int = 0
    problems: tuple[str, ...] = ()

    def and_one(self, became: TakenIn) -> Counted:
        """Return it with one more."""
        match became:
            case TakenIn.NEW:
                return replace(self, new=self.new + 1)
            case TakenIn.SAME:
                return replace(self, same=self.same + 1)
            case TakenIn.JOINED:
                return replace(self, joined=self.joined + 1)

    def and_problem(self, words: str) -> Counted:
        """Return it with one more thing that is wrong."""
        return replace(self, problems=(*self.problems, words))


def job_file(shop: Shop, number: str) -> bytes:
    """Return a whole job as the bytes of a job file. Raises NotFoundError."""
    return zipped(*handed_out(shop, number))


def handed_out(shop: Shop, number: str) -> tuple[dict[str, Any], dict[str, bytes]]:
    """Return a job's document, and its evidence and signed revisions by their SHA-256."""
    return _document_of(shop, shop.jobs.job(number))


def _document_of(shop: Shop, job: Job) -> tuple[dict[str, Any], dict[str, bytes]]:
    number = job.facts.number
    evidence = {part.sha256: part.data for kept in job.readings for part in shop.jobs.evidence(kept.id)}
    for revision in job.revisions:
        text = shop.signing.document(number, revision.number)
        if text:
            evidence[revision.sha256] = text.encode()
    return job_document(job), evidence


def bring_in(shop: Shop, path: Path, chosen: Mapping[str, bool] | None = None) -> Arrived:
    """Bring a job file into a shop; returns its number here, what became of it and what is to be asked. Raises SourceError.

    `chosen` says of words that both benches wrote whether the file's is taken.
    """
    document, evidence = read_job_file(file_bytes(path), str(path))
    return shop.jobs.take_in(document, evidence, chosen=chosen)


def backup(shop: Shop, path: Path, tell: Tell = _silent) -> Counted:
    """Write the whole shop into a zip file; a job that cannot be read is left out and told. The file is whole or not there."""
    with replacing(path, private=True) as stream:
        return write_backup(shop, stream, tell)


def write_backup(shop: Shop, stream: IO[bytes], tell: Tell = _silent) -> Counted:
    """Write the whole shop as a zip file into a stream."""
    counted = Counted()
    written: set[str] = set()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as archive:
        for document, evidence, problem in _jobs_of(shop, tell):
            if problem:
                counted = counted.and_problem(problem)
            if document is None:
                continue
            archive.writestr(f"jobs/{document['uid']}.json", document_text(document))
            for digest in evidence.keys() - written:
                archive.writestr(f"evidence/{digest}", evidence[digest])
            written |= evidence.keys()
            counted = counted.and_one(TakenIn.NEW)
        archive.writestr("shop.json", json.dumps(_shop_document(shop), indent=1))
    return counted


def restore(shop: Shop, path: Path, tell: Tell = _silent) -> Counted:
    """Take every job of a backup into a shop; what is here already is not doubled. Raises SourceError."""
    return take_backup(shop, file_bytes(path), str(path), tell)


def take_backup(shop: Shop, data: bytes, where: str, tell: Tell = _silent) -> Counted:
    """Take every job of a backup, given as its bytes, into a shop. Raises SourceError."""
    counted = Counted()
    with opened_backup(data, where) as found:
        _take_shop(shop, found.shop, where)
        for at, (document, evidence) in enumerate(found.jobs, 1):
            arrived = shop.jobs.take_in(document, evidence)
            counted = counted.and_one(arrived.became)
            for both in arrived.both_wrote:
                counted = counted.and_problem(f"job {arrived.number}: {both.words}; what is here stays")
            tell(at, found.count)
    return counted


def take_waiting(shop: Shop, data: bytes, where: str) -> Counted:
    """Take what waited for a shop, an addition to a job or a whole store of a time without the server. Raises SourceError."""
    if is_backup(data, where):
        return take_backup(shop, data, where)
    # An addition was made to this very job and only had to wait: it comes behind what is there.
    document, evidence = read_job_file(data, where)
    return Counted().and_one(shop.jobs.take_in(document, evidence, behind=True).became)


def move(source: Shop, target: Shop, tell: Tell = _silent) -> Counted:
    """Copy every job of one shop into another, and check that each came out as it went in. The source stays as it is."""
    _take_shop(target, json.dumps(_shop_document(source)).encode(), source.where)
    counted = Counted()
    for document, evidence, problem in _jobs_of(source, tell):
        if problem:
            counted = counted.and_problem(problem)
        if document is None:
            continue
        number, became, _ = target.jobs.take_in(parse_document(document_text(document).encode(), source.where), evidence)
        counted = counted.and_one(became)
        arrived, arrived_evidence = handed_out(target, number)
        if became is TakenIn.NEW and (_comparable(arrived) != _comparable({**document, "number": number}) or evidence != arrived_evidence):
            counted = counted.and_problem(f"job {document['number']} did not arrive as it left")
    return counted


def _comparable(document: Mapping[str, Any]) -> str:
    """Return a document without what a shop adds of its own: makers that it knows change names, cards are its own."""
    return document_text({key: value for key, value in document.items() if key not in ("card",)})


def _jobs_of(shop: Shop, tell: Tell) -> Iterator[tuple[dict[str, Any] | None, dict[str, bytes], str]]:
    """Yield every job's document and evidence, and what is wrong with it; no document for one that cannot be read."""
    numbers = shop.jobs.numbers()
    for at, number in enumerate(numbers, 1):
        try:
            job = shop.jobs.job(number)
            yield (*_document_of(shop, job), f"job {number}: {'; '.join(job.damaged)}" if job.damaged else "")
        except (ShopError, ValueError, KeyError, TypeError) as error:
            yield None, {}, f"job {clean(number, 40)} cannot be read ({clean(str(error).splitlines()[0], 120)})"
        tell(at, len(numbers))


def _shop_document(shop: Shop) -> dict[str, Any]:
    return {
        "format": BACKUP_FORMAT,
        "version": BACKUP_VERSION,
        "makers": [{"bank": maker.bank, "code": maker.code, "name": name} for maker, name in sorted(shop.cards.makers().items())],
        "cards": [write_card(card) for card in shop.cards.all()],
    }


def _take_shop(shop: Shop, data: bytes, where: str) -> None:
    """Take the names of makers and the cards; what this shop has of its own stays."""
    try:
        found = parse_json(data)
        if found["format"] != BACKUP_FORMAT or found["version"] > BACKUP_VERSION:
            raise SourceError("is a backup of a newer After Check, or none", where, "bring After Check up to date; nothing was changed")
        makers = {MakerId(int(maker["bank"]), int(maker["code"])): clean(str(maker["name"])) for maker in found["makers"]}
        cards = [parse_card(str(text), where) for text in found["cards"]]
    except (ValueError, KeyError, TypeError) as error:
        raise SourceError(f"shop.json cannot be read ({clean(str(error), 100)})", where) from None
    known, known_cards = shop.cards.makers(), {card.name.casefold() for card in shop.cards.all()}
    for maker, name in makers.items():
        if maker not in known:
            shop.cards.name_maker(maker, name)
    for card in cards:
        if card.name.casefold() not in known_cards:
            shop.cards.keep(card)
