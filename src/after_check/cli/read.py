"""The command `read`."""

from __future__ import annotations

import json
from pathlib import Path

from after_check.cli.access import AccessWords, with_access
from after_check.cli.words import reading_lines
from after_check.local.whole_files import write_whole
from after_check.sources import saved
from after_check.sources.take import NETWORK, take


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
        print("\n".join(reading_lines(taken.reading)))
        if out is not None:
            print(f"saved as {out}")
    return 0
