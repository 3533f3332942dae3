"""A bench whose server is away when the program starts: a store of its own on this computer, until the server is back.

Only for a shop that this computer has worked with before: an address that never led anywhere is a mistake in the address.
What was begun here is written to the server when it is opened again.
"""

from __future__ import annotations

import time
from dataclasses import dataclass
from pathlib import Path

from after_check.shop.aside import Aside
from after_check.shop.engine import open_engine
from after_check.shop.errors import Away, ShopError
from after_check.shop.log import logger
from after_check.shop.places import aside_folder
from after_check.shop.store import Shop
from after_check.sources.errors import SourceError
from after_check.sources.whole_files import write_whole


@dataclass(frozen=True, slots=True)
class Opened:
    """An open shop; `brought` jobs of the time without its server were written to it, the problems of others are in words."""

    shop: Shop
    brought: int = 0
    problems: tuple[str, ...] = ()


def open_or_go_on(where: Path | str) -> Opened:
    """Open a shop; where its server is away, a store on this computer in its place (`away_from` names the shop). Raises ShopError."""
    try:
        shop = Shop.open(where)
    except Away:
        name = open_engine(where)[1]
        aside = Aside(aside_folder(name))
        if not aside.is_known:
            raise
        return Opened(Shop.open(_store_for(aside.folder), away_from=name))
    try:
        return _sent(shop)
    except (ShopError, SourceError, OSError) as problem:
        logger().error("what was begun without the server was not written to it: %s", problem)
        return Opened(shop, 0, (str(problem),))


def _sent(shop: Shop) -> Opened:
    """Write what was begun without the server to it, unless that was done since the last change. Twice is the same as once."""
    brought = 0
    problems: list[str] = []
    for store in _stores(shop.aside.folder) if shop.aside is not None else ():
        changed = _changed(store)
        if _written(store) == changed:
            continue
        from after_check.shop.job_files import move

        own = Shop.open(store)
        try:
            counted = move(own, shop)
        finally:
            own.close()
        brought += counted.new + counted.joined
        problems += counted.problems
        if not counted.problems:
            write_whole(_note(store), changed.encode())
    return Opened(shop, brought, tuple(problems))


def _store_for(folder: Path) -> Path:
    """Return the store to work with: the one that the server has not seen yet, or a new one.

    One that was written to the server is not used again: its jobs are the server's now, and others may change them there.
    It stays, as another window may still work with it, and what that adds is written as well.
    """
    unwritten = [store for store in _stores(folder) if _written(store) != _changed(store)]
    return unwritten[-1] if unwritten else folder / f"meanwhile-{time.time_ns():020d}.db"


def unwritten(folder: Path) -> int:
    """Return how many stores of a time without the server hold something that it has not got yet."""
    return sum(_written(store) != _changed(store) for store in _stores(folder))


def _stores(folder: Path) -> list[Path]:
    return sorted(folder.glob("meanwhile-*.db"))


def _note(store: Path) -> Path:
    return store.with_suffix(".written")


def _changed(store: Path) -> str:
    return str(store.stat().st_mtime_ns)


def _written(store: Path) -> str:
    """Return when a store had been changed last as it was written to the server; nothing where it never was."""
    try:
        return _note(store).read_text(encoding="ascii", errors="replace")
    except OSError:
        return ""
