"""What a collector gathered on another machine: one text file with everything in it, and a check sum at its end.

The scripts are in `collectors/`; docs/file-formats.md describes the file. Lines that begin with @ part it:

    after-check collection 1
    @base64 /proc/meminfo          the file's bytes, in base64 (or @hex, as od writes them)
    @rights /sys/...               what may not be read
    @json cim                      a document, as it is
    @end
    @cksum SUM LENGTH              over all bytes above: POSIX cksum (IEEE Std 1003.1); or @sha256 HEX, or @length BYTES
"""

from __future__ import annotations

import base64
import binascii
import hashlib
from collections.abc import Callable, Iterator
from dataclasses import replace
from importlib.resources import files

from after_check.domain.outside_text import clean
from after_check.domain.readings import Notice, NoticeKind, Reading
from after_check.files.errors import SourceError
from after_check.files.json_values import encoding_of, load_json
from after_check.files.tree import KeptFiles
from after_check.sources.cim import is_cim, reading_from_cim
from after_check.sources.evidence import RawEvidence, Taken, with_evidence
from after_check.sources.hardware_report import is_hardware_report, reading_from_report
from after_check.sources.linux import read_files
from after_check.sources.machine_files import MACHINE_FILES

_FIRST_LINE = "after-check collection "
_VERSION = "1"
_MOST_FILES = 2000
COLLECTORS = {"sh": "collect.sh", "powershell": "collect.ps1"}
"""For which shells there is a collector, and its file."""


def collector(shell: str) -> str:
    """Return the script that gathers a reading where that shell runs. Raises SourceError for a shell that is not known."""
    if shell not in COLLECTORS:
        raise SourceError(f"there is no collector for {clean(shell, 40)!r}", "--for", f"known: {', '.join(COLLECTORS)}")
    script = (files("after_check.collectors") / COLLECTORS[shell]).read_text(encoding="utf-8")
    return script.replace("@MACHINE_FILES@", "\n".join(f"/{name}" for name in MACHINE_FILES))


def is_collection(data: bytes) -> bool:
    """Return whether a file is what a collector wrote, from its first line."""
    beginning = data[:200].decode(encoding_of(data), "ignore").lstrip("\ufeff")
    return beginning.startswith(_FIRST_LINE)


def take_collection(data: bytes, where: str) -> Taken:
    """Take a reading from a collection. Raises SourceError; what is cut, changed or was not readable becomes a notice."""
    try:
        text = data.decode(encoding_of(data)).lstrip("\ufeff").replace("\r\n", "\n")
    except UnicodeDecodeError as error:
        raise SourceError(f"the collection is damaged at byte {error.start}", where, "copy it again") from None
    version = text.partition("\n")[0].removeprefix(_FIRST_LINE).strip()
    if version != _VERSION:
        raise SourceError(f"the collection has version {clean(version, 20)!r}", where, "bring After Check up to date")
    notices = list(_damage(text, where))
    kept: dict[str, bytes] = {}
    refused: set[str] = set()
    documents: list[str] = []
    for head, body in _sections(text):
        kind, _, name = head.partition(" ")
        name = clean(name).lstrip("/")
        if kind == "rights":
            refused.add(name)
        elif kind == "json":
            documents.append(body)
        elif kind in ("base64", "hex") and len(kept) < _MOST_FILES:
            raw = _decoded(kind, body)
            if raw is None:
                notices.append(Notice(NoticeKind.DAMAGED, f"{name} is damaged in the collection and left out", where, "collect again"))
            else:
                kept[name] = raw
    taken = _of_documents(documents, where, bool(refused)) if documents else read_files(KeptFiles(kept, frozenset(refused)), where)
    if documents:
        notices += [
            Notice(NoticeKind.RIGHTS, f"{name} could not be read", where, "run the collector with more rights") for name in sorted(refused)
        ]
    reading = replace(taken.reading, notices=(*notices, *taken.reading.notices), evidence=(), origin=where)
    return with_evidence(reading, (RawEvidence("collection.txt", data),))


def _sections(text: str) -> Iterator[tuple[str, str]]:
    """Yield head (without its @) and body of each part up to the end."""
    head, lines = "", list[str]()
    for line in text.split("\n")[1:]:
        if not line.startswith("@"):
            lines.append(line)
            continue
        if head:
            yield head, "\n".join(lines)
        head, lines = line[1:].strip(), []
        if head == "end":
            return
    if head:
        yield head, "\n".join(lines)


def _decoded(kind: str, body: str) -> bytes | None:
    whole = "".join(body.split())
    try:
        return base64.b64decode(whole, validate=True) if kind == "base64" else bytes.fromhex(whole)
    except (binascii.Error, ValueError):
        return None


def _of_documents(documents: list[str], where: str, some_refused: bool) -> Taken:
    document = load_json(documents[0].encode(), where)
    if is_cim(document):
        return with_evidence(reading_from_cim(document, where), ())
    if is_hardware_report(document):
        return with_evidence(reading_from_report(document, where), ())
    if document == {} and some_refused:
        return with_evidence(Reading(origin=where), ())  # Nothing might be read: what was refused says so.
    raise SourceError("the collection holds no memory classes and no hardware report", where, "collect again")


def _damage(text: str, where: str) -> Iterator[Notice]:
    """Yield what is wrong with the file as a whole: cut off, or changed after it was written."""
    body, _, tail = text.rpartition("\n@end\n@")
    how, _, sum_said = tail.partition(" ")
    if not body or how not in _SUMS:
        yield Notice(NoticeKind.DAMAGED, "the collection is cut off before its end", where, "copy it again, or collect again")
        return
    expected = _SUMS[how](f"{body}\n@end\n".encode())
    if sum_said.split()[: len(expected)] != expected:
        yield Notice(NoticeKind.DAMAGED, "the collection was changed after it was made: its check sum is wrong", where, "collect again")


def posix_cksum(data: bytes) -> int:
    """Return the sum of POSIX `cksum`: CRC-32 with polynomial 04C11DB7h over the bytes and the length, most significant bit first."""
    length = len(data)
    data += length.to_bytes((length.bit_length() + 7) // 8, "little")
    crc = 0
    for byte in data:
        crc = (crc << 8 & 0xFFFFFFFF) ^ _CRC_TABLE[crc >> 24 ^ byte]
    return crc ^ 0xFFFFFFFF


def _crc_table() -> list[int]:
    table: list[int] = []
    for byte in range(256):
        value = byte << 24
        for _ in range(8):
            value = (value << 1 ^ 0x04C11DB7 if value & 0x80000000 else value << 1) & 0xFFFFFFFF
        table.append(value)
    return table


_CRC_TABLE = _crc_table()
_SUMS: dict[str, Callable[[bytes], list[str]]] = {
    "cksum": lambda covered: [str(posix_cksum(covered)), str(len(covered))],
    "sha256": lambda covered: [hashlib.sha256(covered).hexdigest()],
    "length": lambda covered: [str(len(covered))],
}
"""How the last line covers the ones above it: what it has to say."""
