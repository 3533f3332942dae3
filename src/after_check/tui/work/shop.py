"""What the application does with its shop off the screen's thread: opening it, fetching what the bench shows.

The database's libraries take longer to import than everything else at a start. This file is where they come in, so
`app.py` imports it when the first frame is on the screen, and nothing that the first frame needs imports it.
"""

from __future__ import annotations

from pathlib import Path

from after_check.domain.bench import Groups
from after_check.shop.opening import Opened, open_or_go_on, send_waiting
from after_check.shop.outbox import Sent
from after_check.shop.shop import Shop
from after_check.shop.unsaved_results import bring_results


def open_shop(where: Path | str, demo: bool) -> Opened:
    """Open the shop, or go on without its server; fill the demo shop. Raises ShopError."""
    opened = open_or_go_on(where)
    if demo:
        from after_check.shop.demo import fill

        fill(opened.shop)
    return opened


def bench_entries(shop: Shop) -> tuple[Groups, Sent]:
    """Return every job for the bench by whose turn it is; what waited for the server is sent first, what is outdated judged again."""
    sent = send_waiting(shop)
    bring_results(shop)
    shop.jobs.judge_outdated()
    return shop.jobs.bench(), sent
