"""Readings of many machines at once: a folder with a tree or file for each, or a list of sources."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

from after_check.domain.text import clean
from after_check.sources.errors import SourceError
from after_check.sources.take import NETWORK, take
from after_check.sources.taken import Taken
from after_check.sources.trust import Access

AT_ONCE = 16
MOST = 5_000
_LARGEST_LIST_BYTES = 1 << 20
_TREE_NAMES = {"sys", "proc", "DMI", "smbios_entry_point", "meminfo"}


@dataclass(frozen=True, slots=True)
class Named:
    """One machine's source, and the name that it goes by."""

    name: str
    source: str


def is_room(path: Path) -> bool:
    """Return whether a folder holds many machines, and is not the copied tree of one."""
    try:
        if not path.is_dir():
            return False
    except (OSError, ValueError):
        return False
    names = {entry.name for entry in path.iterdir()}
    return bool(names) and not names & _TREE_NAMES


def sources_in(path: Path) -> tuple[Named, ...]:
    """Return the machines of a folder (each a tree or a file), or of a list with one source a line. Raises SourceError."""
    try:
        if path.is_dir():
            entries = sorted(entry for entry in path.iterdir() if not entry.name.startswith("."))
            found = tuple(Named(clean(entry.stem if entry.is_file() else entry.name, 80), str(entry)) for entry in entries)
        else:
            found = _listed(path)
    except OSError as error:
        raise SourceError(f"cannot be read ({error.strerror})", str(path)) from None
    if not found:
        raise SourceError("names no machine", str(path), "put a reading of each into the folder, or a source on each line")
    if len(found) > MOST:
        raise SourceError(f"names {len(found):,} machines; {MOST:,} are the most", str(path))
    return found


def _listed(path: Path) -> tuple[Named, ...]:
    """Return the machines of a list: `NAME = SOURCE` or a source alone on each line; # begins a remark."""
    with path.open("rb") as file:
        text = file.read(_LARGEST_LIST_BYTES).decode("utf-8", "replace")
    found: list[Named] = []
    for line in text.splitlines():
        line = line.strip()
        if not line or line.startswith("#"):
            continue
        name, given, source = line.partition(" = ")
        source = source.strip() if given else line
        if not source.startswith(NETWORK) and not (path.parent / source).exists():
            raise SourceError(f"{clean(source, 80)} is no address and no file", str(path), "write ssh://…, redfish+https://… or a path")
        found.append(Named(clean(name.strip() if given else line, 80), source if source.startswith(NETWORK) else str(path.parent / source)))
    return tuple(found)


def take_many(
    sources: tuple[Named, ...],
    access: Access = Access(),  # noqa: B008 - frozen
    tell: Callable[[int, int], None] = lambda done, whole: None,
    took: Callable[[Named, Taken | SourceError], None] = lambda named, taken: None,
    goes_on: Callable[[], bool] = lambda: True,
) -> tuple[tuple[Named, Taken | SourceError], ...]:
    """Take every reading, many at once; one that fails stops no other, and is given as its error. The order stays.

    `took` hears of each as it comes, from the thread that took it; once `goes_on` says no, the rest is not begun.
    """
    done = 0

    def one(named: Named) -> Taken | SourceError:
        nonlocal done
        if not goes_on():
            return SourceError("was not read: stopped before its turn", named.source)
        taken: Taken | SourceError
        try:
            taken = take(named.source, access)
        except SourceError as problem:
            taken = problem
        took(named, taken)
        done += 1
        tell(done, len(sources))
        return taken

    with ThreadPoolExecutor(AT_ONCE, "reading") as pool:
        return tuple(zip(sources, pool.map(one, sources), strict=True))
