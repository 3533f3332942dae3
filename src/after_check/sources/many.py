"""Readings of many machines at once: a folder with a tree or file for each, or a list of sources."""

from __future__ import annotations

import threading
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path

from after_check.domain.outside_text import clean
from after_check.files.errors import SourceError
from after_check.files.plain_files import read_plain
from after_check.sources.evidence import Taken
from after_check.sources.open_source import NETWORK, take
from after_check.sources.trust import Access, kept_password

AT_ONCE = 16
MOST = 5_000
_LOOK_SECONDS = 0.2
_LARGEST_LIST_BYTES = 1 << 20
_TREE_NAMES = {"sys", "proc", "DMI", "smbios_entry_point", "meminfo"}


@dataclass(frozen=True, slots=True)
class Named:
    """One machine's source, and the name that it goes by."""

    name: str
    source: str


def is_batch(path: Path) -> bool:
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
    text = read_plain(path, _LARGEST_LIST_BYTES, "list of machines").decode("utf-8", "replace")
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


AccessOf = Callable[[Named], Access]
"""How to get into each machine."""


def with_kept_passwords(access: Access) -> AccessOf:
    """Return the same access for all; where it has no password, each machine's own, if the system's keyring keeps one."""

    def of(named: Named) -> Access:
        if access.password is not None or not named.source.startswith(NETWORK):
            return access
        return replace(access, password=kept_password(named.source))

    return of


def take_many(
    sources: tuple[Named, ...],
    access_of: AccessOf = lambda named: Access(),
    tell: Callable[[int, int], None] = lambda done, whole: None,
    took: Callable[[Named, Taken | SourceError], None] = lambda named, taken: None,
    goes_on: Callable[[], bool] = lambda: True,
) -> tuple[tuple[Named, Taken | SourceError], ...]:
    """Take every reading, many at once; one that fails stops no other, and is given as its error. The order stays.

    `took` hears of each as it comes, from the thread that took it. Once `goes_on` says no, the rest is not begun, and
    those that are still waiting for an answer are waited for no longer: what they bring is told to `took` and not given.
    """
    found: dict[int, Taken | SourceError] = {}
    failed: list[BaseException] = []
    turns = iter(range(len(sources)))
    changed = threading.Condition()

    def reader() -> None:
        while goes_on() and not failed:
            with changed:
                turn = next(turns, None)
            if turn is None:
                return
            named = sources[turn]
            taken: Taken | SourceError
            try:
                try:
                    taken = take(named.source, access_of(named))
                except SourceError as problem:
                    taken = problem
                took(named, taken)
            except BaseException as problem:
                # Not about this machine: a full disk, for instance, or a fault of ours. Whoever asked is to hear of it.
                with changed:
                    failed.append(problem)
                    changed.notify()
                return
            with changed:
                found[turn] = taken
                tell(len(found), len(sources))
                changed.notify()

    # Daemons: a program that is left does not wait for machines that do not answer.
    for _ in range(min(AT_ONCE, len(sources))):
        threading.Thread(target=reader, name="reading", daemon=True).start()
    with changed:
        while len(found) < len(sources) and not failed and goes_on():
            changed.wait(_LOOK_SECONDS)
        if failed:
            raise failed[0]
        return tuple((named, found.get(turn) or _not_read(named)) for turn, named in enumerate(sources))


def _not_read(named: Named) -> SourceError:
    return SourceError("was not read: stopped before its turn or its answer", named.source)
