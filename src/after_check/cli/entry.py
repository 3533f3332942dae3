"""The entry of the `after-check` command. Kept free of imports, so that `--version` answers at once."""

from __future__ import annotations

import gc
import os
import sys


def main(arguments: list[str] | None = None) -> int:
    """Run the command line and return its exit code."""
    given = sys.argv[1:] if arguments is None else arguments
    # There are no plugins for the checking of data; looking for them reads about every installed package.
    os.environ.setdefault("PYDANTIC_DISABLE_PLUGINS", "__all__")
    if given in (["--version"], ["-V"]):
        from after_check import __version__

        print(f"after-check {__version__}")
        return 0
    if given in ([], ["demo"]):
        # The bench without options needs no argument parser, whose import would hold the first frame up.
        from after_check.cli.bench import open_bench, open_demo

        return open_demo(None, fresh=False) if given else open_bench(None)
    # Most of what a command makes is modules, and none of that is garbage: looking for it this often costs a tenth of a second.
    gc.set_threshold(100_000, 50, 100)
    from after_check.cli.app import run

    try:
        return run(given)
    finally:
        # Nor at the end, when Python looks through all of it several times.
        gc.freeze()
