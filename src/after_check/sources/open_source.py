"""From what a person names as a source to a reading."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

from after_check.domain.promises import Promise
from after_check.domain.readings import Notice, NoticeKind, Reading, SpdEntry
from after_check.files.errors import SourceError
from after_check.files.json_values import encoding_of, load_json
from after_check.files.plain_files import read_plain
from after_check.language.short_form import parse
from after_check.language.short_form.parser import Parsed
from after_check.language.short_form.problems import pointed_out
from after_check.language.typed_text import read_line, read_promise
from after_check.sources.cim import is_cim, take_cim
from after_check.sources.collection import is_collection, take_collection
from after_check.sources.evidence import PHOTO, RawEvidence, Taken, with_evidence
from after_check.sources.firmware_table import reading_from_tables, split_dump
from after_check.sources.hardware_report import is_hardware_report, take_hardware_report
from after_check.sources.linux import read_folder, read_kept, read_this_machine
from after_check.sources.spd_image import module_from_spd, spd_notices
from after_check.sources.trust import Access
from after_check.standards.labels import parse_label
from after_check.standards.smbios.structures import LONGEST_TABLE_BYTES, walk
from after_check.standards.spd import decode
from after_check.standards.spd.decode import looks_like_spd, unreadable_spd

NETWORK = ("ssh://", "redfish+https://")
_LARGEST_FILE_BYTES = 96 << 20
_PICTURES = (b"\x89PNG\r\n\x1a\n", b"\xff\xd8\xff", b"II*\0", b"MM\0*", b"BM")


class NotationError(SourceError):
    """A line of notation that was not fully understood; carries the parse for whoever wants to show it."""

    def __init__(self, parsed: Parsed, help: str = "") -> None:
        first = parsed.problems[0]
        more = f" (and {len(parsed.problems) - 1} more)" if len(parsed.problems) > 1 else ""
        pointed = "" if first.asked else f"\n{pointed_out(parsed.line, first)}"
        super().__init__(f"{first}{more}{pointed}", "notation", help)
        self.parsed = parsed

    def __str__(self) -> str:
        head = "this may mean two things:" if self.parsed.problems[0].asked else "the notation is not understood"
        return f"{head} {self.what}" + (f"\n{self.help}" if self.help else "")


def take(source: str | None, access: Access = Access()) -> Taken:  # noqa: B008 - frozen
    """Take a reading from what a person named: nothing (this machine), an address, a folder, a file, or notation.

    Raises SourceError that says what is wrong, where, and what to do.
    """
    if source is None:
        return read_this_machine()
    if source.startswith("ssh://"):
        from after_check.sources.ssh import read_over_ssh  # Slow to import, and most readings do without it.

        return read_over_ssh(source, access)
    if source.startswith("redfish+https://"):
        from after_check.sources.redfish import read_over_redfish

        return read_over_redfish(source, access)
    path = _existing(source)
    if path is None:
        return take_notation(source)
    try:
        return read_folder(path) if path.is_dir() else take_file(path)
    except OSError as error:
        raise SourceError(f"cannot be read ({error.strerror})", source) from None


def take_notation(line: str, added: bool = False) -> Taken:
    """Take a reading from a line of notation, or one that is `added` to another. Raises NotationError when any of it is not understood."""
    # A label as it stands on the module has no quotes around it.
    bare_label = not line.strip().startswith('"') and parse_label(line.strip()) is not None
    parsed = parse(f'"{line.strip()}"; stickers') if bare_label else read_line(line, added)
    if parsed.problems:
        hint = "if this is meant to be a file or a folder: there is none of that name" if "/" in line and "=" not in line else ""
        raise NotationError(parsed, hint)
    if not line.strip():
        raise SourceError("the line is empty", "notation", "for instance 2x16G DDR4-2933; run 2933; dual")
    reading = replace(parsed.reading, origin="typed", taken_at=datetime.now(UTC).replace(microsecond=0))
    reading = replace(reading, notices=(*reading.notices, *_odd_labels(reading)))
    return with_evidence(reading, (RawEvidence("notation", line.encode("utf-8", "replace")),))


def _odd_labels(reading: Reading) -> Iterator[Notice]:
    """Yield what a label says that cannot be: letters that are no speed bin of its rate."""
    for _, module in reading.filled():
        label = parse_label(module.label.value) if module.label is not None else None
        if label is not None and label.is_odd_bin:
            yield Notice(NoticeKind.REMARK, label.odd_bin_words, "label")


def take_result(line: str) -> Taken:
    """Take what a memory test said that was run elsewhere: the short form, or words; that it is of a memory test need not be said.

    Raises SourceError where no result is in it, or something else is.
    """
    text = line.strip()
    for said in (text, f"soak {text}", f"memory test {text}"):
        parsed = read_line(said)
        reading = parsed.reading
        if not parsed.problems and reading.soak is not None and reading == Reading(soak=reading.soak, earlier_soaks=reading.earlier_soaks):
            typed = replace(reading, origin="typed", taken_at=datetime.now(UTC).replace(microsecond=0))
            return with_evidence(typed, (RawEvidence("notation", line.encode("utf-8", "replace")),))
    raise SourceError("no result of a memory test is in this", "result", "for instance: clean 2 h 4 passes, or 12 errors after 20 min")


def take_file(path: Path) -> Taken:
    """Take a reading from a file: a saved reading, a firmware table, or a text file with a line of notation."""
    if not path.is_file():
        raise SourceError("is no plain file", str(path))
    size_bytes = path.stat().st_size
    if size_bytes > _LARGEST_FILE_BYTES:
        raise SourceError(f"has {size_bytes:,} bytes, far more than any reading", str(path))
    data = read_plain(path, _LARGEST_FILE_BYTES, "reading")
    if not data:
        raise SourceError("is empty (0 bytes)", str(path), "copy it again")
    if is_collection(data):
        return take_collection(data, str(path))
    if _is_photo(data):
        from after_check.sources.photo import take_photo  # It needs what works with pictures, which is slow to import.

        return take_photo(data, str(path))
    if _begins_like_json(data):
        return _take_json(data, str(path))
    if looks_like_spd(data):
        return _take_spd(data, str(path))
    if _looks_like_table(data):
        return _take_table(data, str(path))
    if (unreadable := unreadable_spd(data)) is not None:
        raise SourceError(unreadable, str(path), "read the module again; its whole data has 256 (DDR3), 512 (DDR4) or 1,024 bytes (DDR5)")
    return _take_text(data, path)


def _is_photo(data: bytes) -> bool:
    """Return whether a file is a picture (PNG, JPEG, TIFF, BMP or WebP by its first bytes)."""
    return data.startswith(_PICTURES) or (data[:4] == b"RIFF" and data[8:12] == b"WEBP")


def _begins_like_json(data: bytes) -> bool:
    encoding = encoding_of(data)
    beginning = data[:4096].decode(encoding, "ignore").lstrip("\ufeff \t\r\n\0")
    return beginning[:1] in ("{", "[")


def take_promise(text: str, before: Reading | None = None) -> Promise:
    """Read a promise from a line of notation or words, or from a text file that holds one; `before` is what its words may speak of."""
    path = _existing(text)
    if path is not None and path.is_file():
        text = _one_line(read_plain(path, _LARGEST_FILE_BYTES, "promise"), path)
    promise, parsed = read_promise(text, before)
    if parsed.problems:
        raise NotationError(parsed)
    return promise


def decode_again(evidence: tuple[RawEvidence, ...], origin: str) -> Taken | None:
    """Decode kept evidence again, for a reading that an older version decoded; None where it cannot be."""
    names = {part.name for part in evidence}
    if names == {"notation"}:
        return take_notation(evidence[0].data.decode("utf-8", "replace"))
    if any(name.startswith(("notation", PHOTO)) for name in names):
        return None  # A person looked at it, or put it together: nobody knows better than what was kept.
    if names == {"cim.json"}:
        return take_cim(evidence[0].data, origin)
    if names == {"hardware-report.json"}:
        return take_hardware_report(evidence[0].data, origin)
    if names == {"collection.txt"}:
        return take_collection(evidence[0].data, origin)
    if names == {"spd"}:
        return _take_spd(evidence[0].data, origin)
    return read_kept(evidence, origin) if names else None


def _existing(text: str) -> Path | None:
    """Return the path that a text names, where something of that name is there."""
    if "\0" in text or len(text) > 4000 or not text.strip():
        return None
    try:
        path = Path(text).expanduser()
        return path if path.exists() else None
    except (OSError, RuntimeError, ValueError):
        return None


def _looks_like_table(data: bytes) -> bool:
    if data.startswith((b"_SM_", b"_SM3_")):
        return True
    if b"\0\0" not in data[:LONGEST_TABLE_BYTES]:
        return False
    structures = walk(data[: 1 << 20]).structures
    return len(structures) >= 2 and any(structure.type in (0, 1, 16, 17) for structure in structures)


def _take_table(data: bytes, where: str) -> Taken:
    table, entry_point = split_dump(data)
    reading = replace(reading_from_tables(table, entry_point, "DMI"), origin=where)
    reading = replace(reading, taken_at=datetime.now(UTC).replace(microsecond=0))
    evidence = [RawEvidence("DMI", table)] + ([RawEvidence("smbios_entry_point", entry_point)] if entry_point else [])
    return with_evidence(reading, tuple(evidence))


def _take_json(data: bytes, where: str) -> Taken:
    document = load_json(data, where)
    if is_cim(document):
        return take_cim(data, where)
    if is_hardware_report(document):
        return take_hardware_report(data, where)
    from after_check.sources.saved import load  # Pydantic is slow to import, and most commands do without it.

    return load(data, where)


def _take_spd(data: bytes, where: str) -> Taken:
    module = decode(data)
    if module is None:
        raise SourceError("is no SPD image", where)
    entry = SpdEntry("spd", module_from_spd(module, where))
    reading = Reading(
        spd=(entry,), notices=tuple(spd_notices(module, where)), origin=where, taken_at=datetime.now(UTC).replace(microsecond=0)
    )
    return with_evidence(reading, (RawEvidence("spd", data),))


def _take_text(data: bytes, path: Path) -> Taken:
    return take_notation(_one_line(data, path))


def _one_line(data: bytes, path: Path) -> str:
    """Return a text file as one line of notation: lines are items, and # begins a remark."""
    try:
        text = data.decode(encoding_of(data)).lstrip("\ufeff")
        if sum(character.isascii() for character in text) * 2 < len(text):
            raise UnicodeDecodeError("utf-8", data, 0, 1, "no text that anybody types")
    except UnicodeDecodeError as error:
        raise SourceError(
            f"is no text in UTF-8 (byte {error.start}), no firmware table and no saved reading", str(path), "see docs/file-formats.md"
        ) from None
    lines = (line.split("#", 1)[0].strip() for line in text.splitlines())
    return "; ".join(line.rstrip(";") for line in lines if line)
