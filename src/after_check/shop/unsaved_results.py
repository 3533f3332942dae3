"""Results of memory tests that the shop did not take: kept in files beside it, and joined to their jobs when it takes them.

A test of an hour may end in the very moment in which somebody holds the store, or the disk is full. Its result is tried
again, then written elsewhere, and the bench brings it in the next time it looks.
"""

from __future__ import annotations

import json
import tempfile
import time
from collections.abc import Callable
from contextlib import suppress
from hashlib import sha256
from pathlib import Path

from after_check.domain.outside_text import clean, safe_name
from after_check.domain.soak import SoakRecord
from after_check.files.errors import SourceError
from after_check.files.plain_files import read_plain
from after_check.files.strict_json import parse_json
from after_check.files.whole_files import make_private_folder, write_whole
from after_check.local.paths import results_folder
from after_check.shop.errors import KeptAsideError, NotFoundError, ShopError, SignedError
from after_check.shop.salvage import FAULTS
from after_check.shop.shop import Shop
from after_check.soak.soak_json import record_document, record_from_json

WAITS_SECONDS = (0.5, 1.0, 2.0, 4.0)
_LARGEST_FILE_BYTES = 16 << 20


class UnsavedResultError(ShopError):
    """A result is kept in a file of its own, as the shop did not take it."""


def keep_at_last(shop: Shop, job: str, record: SoakRecord, soak_id: int | None, sleep: Callable[[float], object] = time.sleep) -> int:
    """Keep the result of a test that is over: again and again for a few seconds, then in a file beside. Raises UnsavedResultError."""
    for wait in (*WAITS_SECONDS, None):
        try:
            return shop.jobs.keep_soak(job, record, soak_id)
        except (KeptAsideError, NotFoundError, SignedError):
            raise
        except ShopError as problem:
            if wait is None:
                raise UnsavedResultError(
                    f"{problem}. The result is kept in {_write(shop, job, record)}", "It is joined when the shop takes it"
                ) from None
            sleep(wait)
    raise AssertionError("unreachable")


def _write(shop: Shop, job: str, record: SoakRecord) -> Path:
    """Write a result beside the shop; where that disk is full as well, into the system's folder for what is temporary."""
    name = f"{safe_name(job)[:40]}-{record.begun_at:%Y%m%d%H%M%S}.json"
    document = {"shop": _mark(shop), "job": job, "record": record_document(record)}
    data = json.dumps(document).encode()
    for folder in (results_folder(), Path(tempfile.gettempdir()) / "after-check-results"):
        with suppress(OSError):
            make_private_folder(folder)
            write_whole(folder / name, data, private=True)
            return folder / name
    raise UnsavedResultError("there is no room for the result anywhere: make room on a disk; until then it is on this screen only")


def bring_results(shop: Shop) -> tuple[str, ...]:
    """Join what is kept beside this shop to its jobs; returns what came in, in words. What it still does not take stays where it is."""
    said: list[str] = []
    for folder in (results_folder(), Path(tempfile.gettempdir()) / "after-check-results"):
        for path in sorted(folder.glob("*.json")) if folder.is_dir() else ():
            try:
                found = parse_json(read_plain(path, _LARGEST_FILE_BYTES, "result"))
                if found["shop"] != _mark(shop):
                    continue
                record = record_from_json(json.dumps(found["record"]))
                shop.jobs.keep_soak(clean(str(found["job"]), 40), record)
            except (*FAULTS, SourceError, ShopError):
                continue
            with suppress(OSError):
                path.unlink()
            said.append(f"the memory test of job {clean(str(found['job']), 40)} that was kept beside the shop is in it now")
    return tuple(said)


def _mark(shop: Shop) -> str:
    return sha256(shop.where.encode()).hexdigest()[:16]
