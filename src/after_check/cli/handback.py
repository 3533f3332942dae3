"""The command `handback`."""

from __future__ import annotations

import sys
from pathlib import Path

from after_check.cli.bench import demo_place
from after_check.cli.exit_codes import EXIT_USAGE
from after_check.files.whole_files import write_whole
from after_check.handback.content import Look
from after_check.handback.csv_tables import export_csv
from after_check.handback.export import export_pdf, export_svg
from after_check.handback.ownership import check_owner
from after_check.local.settings import shop_place
from after_check.shop.documents import document_text, job_document
from after_check.shop.errors import NotFoundError
from after_check.shop.shop import Shop


def handback_command(
    number: str, pdf: Path | None, svg: Path | None, csv: Path | None, as_json: Path | None, shop_named: str | None, demo: bool, look: Look
) -> int:
    """Write the sheet, the drawings, the tables and the document of a job; returns 0."""
    if pdf is None and svg is None and csv is None and as_json is None:
        print("after-check: name where to write: --pdf F, --svg DIR, --csv DIR, --json F, or several", file=sys.stderr)
        return EXIT_USAGE
    number.encode()  # What is no text can be no number; said as a mistake of the call.
    try:
        job = _demo_shop(shop_named).jobs.job(number) if demo else Shop.open_existing(shop_place(shop_named)).jobs.job(number)
    except NotFoundError as missing:
        from after_check.shop.demo import demo_numbers

        help = "It is a job of the demo: add --demo" if not demo and number in demo_numbers() else missing.help
        raise NotFoundError(missing.what, help) from None
    written = ([export_pdf(job, pdf, look)] if pdf else []) + (export_svg(job, svg) if svg else []) + (export_csv(job, csv) if csv else [])
    if as_json:
        check_owner(as_json, job.uid)
        write_whole(as_json, document_text(job_document(job)).encode())
        written.append(as_json)
    for path in written:
        print(path)
    return 0


def _demo_shop(named: str | None) -> Shop:
    """Return the demo shop, made where it is not there yet: it is nobody's work."""
    from after_check.shop.demo import fill

    shop = Shop.open(demo_place(named))
    fill(shop)
    return shop
