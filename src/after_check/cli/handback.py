"""The command `handback`."""

from __future__ import annotations

import sys
from pathlib import Path

from after_check.cli.bench import demo_place
from after_check.cli.entry import EXIT_USAGE
from after_check.handback.export import export_pdf, export_svg
from after_check.shop.places import shop_place
from after_check.shop.store import Shop


def handback_command(number: str, pdf: Path | None, svg: Path | None, shop_named: str | None, demo: bool) -> int:
    """Write the sheet and the drawings of a job; returns 0."""
    if pdf is None and svg is None:
        print("after-check: name where to write: --pdf F, --svg DIR, or both", file=sys.stderr)
        return EXIT_USAGE
    shop = Shop.open(demo_place(shop_named) if demo else shop_place(shop_named))
    if demo:
        from after_check.shop.demo import fill

        fill(shop)
    job = shop.job(number)
    written = ([export_pdf(job, pdf)] if pdf else []) + (export_svg(job, svg) if svg else [])
    for one in written:
        print(one)
    return 0
