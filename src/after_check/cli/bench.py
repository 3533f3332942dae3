"""Opening the bench."""

from __future__ import annotations

import gc
import os
import shutil
import sys
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from after_check.cli.exit_codes import EXIT_USAGE
from after_check.local.paths import demo_shop_path, drafts_folder
from after_check.local.settings import shop_place
from after_check.shop.stored_lines import first_look
from after_check.tui.leaving import leave


def open_bench(shop: str | None, demo: bool = False) -> int:
    """Open the application on a store; returns when it is left."""
    if not sys.stdout.isatty() or not sys.stdin.isatty():
        print("after-check: the bench needs a terminal; see after-check --help for commands without one", file=sys.stderr)
        return EXIT_USAGE
    # Nothing made while the modules load is garbage; looking for some takes a tenth of the way to the first frame.
    gc.disable()
    # What a key changes is drawn at the next of so many moments a second; the toolkit's 60 would make a letter of the search wait
    # three times for 17 ms.
    os.environ.setdefault("TEXTUAL_FPS", "120")
    place = demo_place(shop) if demo else shop_place(shop)
    # The store is looked into beside the loading of the toolkit, which takes longer than counting a hundred thousand jobs.
    looker = ThreadPoolExecutor(1, "first look")
    looks = looker.submit(first_look, place)
    looker.shutdown(wait=False)
    from after_check.tui.app import AfterCheckApp

    gc.freeze()
    # Widgets and messages live long or die at once: looking through them every 700 is work for nothing.
    gc.set_threshold(20_000, 20, 20)
    gc.enable()
    app = AfterCheckApp(place, demo, looks)
    app.run()
    if app.failure:
        print(f"after-check: {app.failure}", file=sys.stderr)
    return leave(app.return_code or 0)


def open_demo(shop: str | None, fresh: bool) -> int:
    """Open the application on the demo shop."""
    if fresh:
        demo_place(shop).unlink(missing_ok=True)
        shutil.rmtree(drafts_folder(str(demo_place(shop))), ignore_errors=True)
    return open_bench(shop, demo=True)


def demo_place(shop: str | None) -> Path:
    """Return the file of the demo shop, which is always on this computer."""
    return Path(shop).expanduser() if shop else demo_shop_path()
