"""Places that were named before: where readings came from, where sheets went, batches of machines. Offered again, never used unasked."""

from __future__ import annotations

import json
from pathlib import Path

from after_check.domain.outside_text import clean
from after_check.files.strict_json import parse_json
from after_check.files.whole_files import make_private_folder, write_whole
from after_check.local.paths import data_folder

_MOST = 12
_LONGEST = 1000


def remembered(purpose: str) -> tuple[str, ...]:
    """Return what was named for a purpose, the latest first; a file that cannot be read is as good as none."""
    found = _all().get(purpose, [])
    return tuple(clean(place, _LONGEST) for place in found if isinstance(place, str)) if isinstance(found, list) else ()


def remember(purpose: str, place: str) -> None:
    """Remember a place; a folder that takes no file is no reason to stop. Never give it a password."""
    everything = _all()
    everything[purpose] = [place, *(other for other in remembered(purpose) if other != place)][:_MOST]
    try:
        make_private_folder(_file().parent)
        write_whole(_file(), json.dumps(everything, indent=1).encode(), private=True)
    except OSError:
        return


def _all() -> dict[str, object]:
    try:
        found = parse_json(_file().read_bytes())
    except (OSError, ValueError, RecursionError):
        return {}
    return found if isinstance(found, dict) else {}


def _file() -> Path:
    return data_folder() / "places.json"
