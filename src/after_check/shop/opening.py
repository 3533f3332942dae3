"""Opening a shop, and going on without its server: what waited is sent, and where the server is away, a file takes its place.

A file takes its place only for a shop that this computer has worked with before: an address that never led anywhere is a
mistake in the address.
"""

from __future__ import annotations

import io
from dataclasses import dataclass, field
from pathlib import Path

from after_check.local.log import logger
from after_check.local.paths import outbox_folder
from after_check.shop.database import name_of_server
from after_check.shop.errors import NotAnsweringError, ShopError
from after_check.shop.exchange import take_waiting, write_backup
from after_check.shop.outbox import Outbox, Sent
from after_check.shop.shop import Shop


@dataclass(frozen=True, slots=True)
class Opened:
    """An open shop, and what of a time without its server was written to it."""

    shop: Shop
    sent: Sent = field(default_factory=Sent)


def open_or_go_on(where: Path | str) -> Opened:
    """Open a shop; where its server is away, a store on this computer in its place (`away_from` names the shop). Raises ShopError."""
    try:
        shop = Shop.open(where)
    except NotAnsweringError:
        name = name_of_server(str(where))
        outbox = Outbox(outbox_folder(name))
        if not outbox.is_known:
            raise
        return Opened(Shop.open(outbox.store_for_now(), away_from=name))
    return Opened(shop, send_waiting(shop))


def send_waiting(shop: Shop) -> Sent:
    """Write to the shop what waited on this computer for its server. Twice is the same as once."""
    if shop.outbox is None:
        return Sent()
    try:
        shop.outbox.put_stores(_backup_of)
    except (ShopError, OSError) as problem:
        logger().error("what was begun without the server cannot be handed over: %s", problem)
        return Sent(problems=(str(problem),))
    return shop.outbox.send(lambda data, where: _taken(shop, data, where))


def _taken(shop: Shop, data: bytes, where: str) -> tuple[int, tuple[str, ...]]:
    counted = take_waiting(shop, data, where)
    return counted.new + counted.joined, counted.problems


def _backup_of(store: Path) -> bytes:
    own = Shop.open(store)
    try:
        stream = io.BytesIO()
        write_backup(own, stream)
        return stream.getvalue()
    finally:
        own.close()
