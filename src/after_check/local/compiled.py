"""Whether the compiled loops of tests and benchmarks are there already: a mark beside the code or in the cache."""

from __future__ import annotations

import os
import platform
from contextlib import suppress
from pathlib import Path

from platformdirs import user_cache_path

_PACKAGE = Path(__file__).parent.parent
_SOURCES = ("soak/kernels.py", "benchmark/kernels.py", "host/instructions.py", "host/splitmix.py")
_MARK = "after-check-compiled"


def _key() -> str:
    times = [str((_PACKAGE / name).stat().st_mtime_ns) for name in _SOURCES]
    return " ".join([platform.python_version(), platform.machine(), *times])


def _places() -> list[Path]:
    if named := os.environ.get("NUMBA_CACHE_DIR"):
        return [Path(named) / _MARK]
    return [_PACKAGE / "soak" / "__pycache__" / _MARK, user_cache_path("after-check") / _MARK]


def is_compiled() -> bool:
    """Whether somebody compiled these sources here."""
    with suppress(OSError):
        key = _key()
        for place in _places():
            with suppress(OSError):
                if place.read_text(encoding="utf-8") == key:
                    return True
    return False


def mark_compiled() -> None:
    """Note that these sources are compiled; where nothing can be written, it is noted nowhere."""
    for place in _places():
        with suppress(OSError):
            place.parent.mkdir(parents=True, exist_ok=True)
            place.write_text(_key(), encoding="utf-8")
            if os.access(place, os.R_OK):
                return
