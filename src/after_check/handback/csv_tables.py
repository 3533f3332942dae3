"""Tables of a job as CSV files. What a spreadsheet would take for a formula is kept as text."""

from __future__ import annotations

import csv
import io
import unicodedata
from collections.abc import Iterable, Sequence
from pathlib import Path

from after_check.benchmark.benchmark_json import name_in_files
from after_check.domain.facts import value_of
from after_check.domain.jobs import Job
from after_check.domain.outside_text import stripped
from after_check.files.whole_files import write_whole
from after_check.handback.content import SheetContent, content_of
from after_check.texts import words_of
from after_check.tries.try_words import fitted_words, outcome_words

_FORMULA_STARTS = ("=", "+", "-", "@", "\t", "\r", "|", "%")


def as_cell(value: object) -> str:
    """Return a value for a cell: text that a spreadsheet would run gets an apostrophe before it; numbers stay numbers."""
    if value is None:
        return ""
    if isinstance(value, int | float) and not isinstance(value, bool):
        return repr(value)
    text = str(value)
    # As a spreadsheet may read it: blanks, line ends and signs without width before it, and full-width signs, count for nothing.
    plain = stripped(unicodedata.normalize("NFKC", text)).lstrip()
    return f"'{text}" if plain.startswith(_FORMULA_STARTS) or text.startswith(("\t", "\r", "\n")) else text


def csv_bytes(head: Sequence[str], rows: Iterable[Sequence[object]]) -> bytes:
    """Return a table as CSV (RFC 4180, UTF-8 with a mark that spreadsheets know it by)."""
    stream = io.StringIO()
    writer = csv.writer(stream, lineterminator="\r\n")
    writer.writerow(head)
    writer.writerows([as_cell(cell) for cell in row] for row in rows)
    return b"\xef\xbb\xbf" + stream.getvalue().encode("utf-8")


def tables_of(content: SheetContent) -> dict[str, bytes]:
    """Return the tables of a job by name; one without rows is left out."""
    modules = [
        (
            word,
            slot,
            value_of(module.size_bytes),
            str(value_of(module.generation) or ""),
            value_of(module.rated_mts),
            value_of(module.maker),
            value_of(module.part),
            value_of(module.serial),
            str(value_of(module.made) or ""),
        )
        for word, reading in (("on arrival", content.before), ("now", content.now))
        if reading is not None
        for slot, module in reading.filled()
    ]
    tracks = [
        (track.quantity.value, track.before, track.promised, track.now, track.unit, track.status.value if track.status else "", track.basis)
        for track in content.judgement.tracks
    ]
    findings = [
        (finding.severity.value, finding.code, words.title, words.reason, words.next, finding.sure, words.customer)
        for finding in content.judgement.findings
        for words in (words_of(finding),)
    ]
    benchmarks = [
        (word, name_in_files(part), part.unit, part.median, "typed" if part.typed else "measured", *part.samples)
        for word, record in zip(("on arrival", "now"), content.benchmarks, strict=True)
        if record is not None
        for part in record.series
    ]
    tries = [
        (
            number,
            attempt.at.isoformat() if attempt.at else "",
            fitted_words(attempt.arrangement),
            attempt.arrangement.profile,
            outcome_words(attempt),
            attempt.note,
        )
        for number, attempt in enumerate(content.tries.tries if content.tries is not None else (), 1)
    ]
    tables: dict[str, tuple[Sequence[str], list[tuple[object, ...]]]] = {
        "modules": (("moment", "slot", "size_bytes", "generation", "rated_mts", "maker", "part", "serial", "made"), list(modules)),
        "promise": (("quantity", "on_arrival", "promised", "now", "unit", "status", "basis"), list(tracks)),
        "findings": (("severity", "code", "title", "reason", "next", "sure", "customer"), list(findings)),
        "benchmarks": (("moment", "name", "unit", "median", "origin", "samples"), list(benchmarks)),
        "tries": (("try", "at", "fitted", "profile", "outcome", "note"), list(tries)),
    }
    return {name: csv_bytes(head, rows) for name, (head, rows) in tables.items() if rows}


def export_csv(job: Job, folder: Path) -> list[Path]:
    """Write the tables of a job into a folder and return their paths."""
    folder.mkdir(parents=True, exist_ok=True)
    written: list[Path] = []
    for name, data in tables_of(content_of(job)).items():
        path = folder / f"{name}.csv"
        write_whole(path, data)
        written.append(path)
    return written
