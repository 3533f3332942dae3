"""Lets `python -m after_check` do what the `after-check` command does."""

from after_check.cli.entry import main

if __name__ == "__main__":
    raise SystemExit(main())
