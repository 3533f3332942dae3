"""The demo shop, filled once: filling it is tested elsewhere and takes a second of work each time."""

from __future__ import annotations

import tempfile
from functools import cache
from pathlib import Path

from after_check.shop.demo import fill
from after_check.shop.shop import Shop


@cache
def filled_demo() -> bytes:
    """The bytes of a filled demo shop."""
    with tempfile.TemporaryDirectory() as folder:
        shop = Shop.open(Path(folder) / "demo.db")
        fill(shop)
        shop.close()
        return (Path(folder) / "demo.db").read_bytes()


def put_demo(path: Path) -> Path:
    """Put a filled demo shop at a path."""
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(filled_demo())
    return path
