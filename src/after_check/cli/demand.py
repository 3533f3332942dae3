"""The command `demand`: how much memory the work on this machine takes."""

from __future__ import annotations

import json
from dataclasses import asdict

from after_check.benchmark.demand import DemandUnknownError, DemandWatch, verdict_words
from after_check.cli.access import AccessWords, with_access
from after_check.cli.long_work import run_to_the_end
from after_check.domain.demand import DemandRecord
from after_check.domain.quantities import parse_size, size_text
from after_check.files.errors import SourceError
from after_check.sources.linux import identity_here
from after_check.sources.trust import Access

_LAST_SAMPLES = 3600


def demand_command(
    source: str | None, minutes: float | None, old: str | None, rehearse: str | None, as_json: bool, access: AccessWords
) -> int:
    """Watch this machine, or one behind an address, until it is stopped or the time is up; print what it shows; returns 0."""
    old_bytes, load_bytes = _size(old, "--old"), _size(rehearse, "--trial-load")
    seconds = minutes * 60 if minutes is not None else None
    if source is None:
        record = _watched(DemandWatch(seconds, load_bytes, machine=identity_here()))
    else:
        if load_bytes is not None:
            raise SourceError("a trial load is held on this machine only", source, "leave --trial-load out, or run it there")
        from after_check.sources.ssh import parse_ssh_address
        from after_check.sources.ssh_files import SshFiles

        address = parse_ssh_address(source)

        def follow(given: Access) -> DemandRecord:
            with SshFiles(address, given) as files:
                return _watched(DemandWatch(seconds, files=files, machine=identity_here(files)))

        record = with_access(source, access, follow)
    print(json.dumps(_document(record, old_bytes), indent=1) if as_json else "\n".join(_lines(record, old_bytes)))
    return 0


def _watched(watch: DemandWatch) -> DemandRecord:
    """Let a watch run to its end, showing how it goes; ctrl+c ends it. Raises SourceError when the system says nothing."""

    def progress() -> str:
        if not watch.record.samples:
            return ""
        last = watch.record.samples[-1]
        return f"{last.at_seconds:6.0f} s  in use {size_text(last.used_bytes):<10}"

    try:
        run_to_the_end(watch, progress)
    except DemandUnknownError as unknown:
        raise SourceError(str(unknown), "demand") from None
    return watch.record


def _size(text: str | None, option: str) -> int | None:
    if text is None:
        return None
    size_bytes = parse_size(text)
    if not size_bytes:
        raise SourceError(f"{text!r} is no amount of memory", option, "for instance 16G")
    return size_bytes


def _document(record: DemandRecord, old_bytes: int | None) -> dict[str, object]:
    return {
        "format": "after-check demand",
        "version": 1,
        "begun_at": record.begun_at.isoformat(),
        "total_bytes": record.total_bytes,
        "peak_bytes": record.peak_bytes,
        "old_total_bytes": old_bytes,
        "seconds_above_old_total": record.seconds_above(old_bytes) if old_bytes else None,
        "would_have_fit": record.peak_bytes <= old_bytes if old_bytes else None,
        "swapped_out": record.swapped_out,
        "rehearsed_bytes": record.rehearsed_bytes,
        "says": list(verdict_words(record, old_bytes)),
        "remarks": list(record.remarks),
        "samples": [asdict(sample) for sample in record.samples[-_LAST_SAMPLES:]],
    }


def _lines(record: DemandRecord, old_bytes: int | None) -> list[str]:
    return [*verdict_words(record, old_bytes), *record.remarks]
