"""Opening the bench."""

from __future__ import annotations

import gc
import sys
from pathlib import Path

from after_check.cli.entry import EXIT_USAGE
from after_check.shop.places import default_shop_path, demo_shop_path


def open_bench(path: Path | None, demo: bool = False) -> int:
    """Open the application on a store; returns when it is left."""
    if not sys.stdout.isatty() or not sys.stdin.isatty():
        print("after-check: the bench needs a terminal; see after-check --help for commands without one", file=sys.stderr)
        return EXIT_USAGE
    # Nothing made while the modules load is garbage; looking for some takes a tenth of the way to the first frame.
    gc.disable()
    from after_check.tui.app import AfterCheckApp

    gc.freeze()
    gc.enable()
    app = AfterCheckApp(path or default_shop_path(), demo=demo)
    app.run()
    if app.failure:
        print(f"after-check: {app.failure}", file=sys.stderr)
    return app.return_code or 0


def open_demo(path: Path | None, fresh: bool) -> int:
    """Open the application on the demo shop."""
    place = path or demo_shop_path()
    if fresh:
        place.unlink(missing_ok=True)
    return open_bench(place, demo=True)
