"""The command `read`."""

from __future__ import annotations

import json
import shutil
import sys
import textwrap
from collections.abc import Iterable, Iterator
from pathlib import Path

from after_check.cli.access import AccessWords, with_access
from after_check.cli.report_lines import reading_lines
from after_check.files.whole_files import write_whole
from after_check.sources import saved
from after_check.sources.open_source import NETWORK, take


def read_command(
    source: str | None,
    out: Path | None,
    as_json: bool,
    key: Path | None,
    accept: str | None,
    ask: bool,
    remember: bool,
    jump: str | None = None,
) -> int:
    """Take a reading and print it; returns 0 also for a reading that says what it could not see."""
    if source is not None and source.startswith(NETWORK):
        taken = with_access(source, AccessWords(key, accept, ask, remember, jump), lambda access: take(source, access))
    else:
        taken = take(source)
    if out is not None:
        write_whole(out, json.dumps(saved.dump(taken), indent=1).encode())
    if as_json:
        print(json.dumps(saved.dump(taken, with_raw=False), indent=1))
    else:
        print("\n".join(_folded(reading_lines(taken.reading))))
        if out is not None:
            print(f"saved as {out}")
    return 0


def _folded(lines: Iterable[str]) -> Iterator[str]:
    """Yield lines that fit the terminal, what does not fit beneath its beginning; a file or a pipe gets them whole."""
    if not sys.stdout.isatty():
        yield from lines
        return
    cells = shutil.get_terminal_size().columns
    for line in lines:
        yield from textwrap.wrap(line, max(40, cells), subsequent_indent=" " * 13, drop_whitespace=False) or [line]
