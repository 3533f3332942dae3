"""The command `read`."""

from __future__ import annotations

import getpass
import json
import sys
from pathlib import Path

from after_check.cli.words import reading_lines
from after_check.handback.files import write_whole
from after_check.sources import saved
from after_check.sources.take import NETWORK, take
from after_check.sources.taken import Taken
from after_check.sources.trust import Access, PasswordNeeded, TrustNeeded, forget_password, keep_password, kept_password


def read_command(
    source: str | None, out: Path | None, as_json: bool, key: Path | None, accept: str | None, ask: bool, remember: bool
) -> int:
    """Take a reading and print it; returns 0 also for a reading that says what it could not see."""
    taken = _take(source, key, accept, ask, remember)
    if out is not None:
        write_whole(out, json.dumps(saved.dump(taken), indent=1).encode())
    if as_json:
        print(json.dumps(saved.dump(taken, with_raw=False), indent=1))
    else:
        print("\n".join(reading_lines(taken.reading)))
        if out is not None:
            print(f"saved as {out}")
    return 0


def _take(source: str | None, key: Path | None, accept: str | None, ask: bool, remember: bool) -> Taken:
    """Take a reading; over the network, ask a person about keys and passwords where there is one to ask."""
    if source is None or not source.startswith(NETWORK):
        return take(source)
    password = _ask_password(source) if ask else kept_password(source)
    access = Access(password=password, key_file=str(key) if key else None, accepted_fingerprint=accept)
    interactive = sys.stdin.isatty() and sys.stderr.isatty()
    for _ in range(4):
        try:
            taken = take(source, access)
        except TrustNeeded as needed:
            if not interactive or not _is_accepted(needed):
                raise
            access = Access(access.password, access.key_file, needed.fingerprint)
        except PasswordNeeded:
            forget_password(source)
            if not interactive:
                raise
            access = Access(_ask_password(source), access.key_file, access.accepted_fingerprint)
        else:
            if remember and access.password is not None:
                keep_password(source, access.password)
            return taken
    return take(source, access)


def _is_accepted(needed: TrustNeeded) -> bool:
    print(f"{needed}\nIs it the same? Type yes to accept it: ", end="", file=sys.stderr, flush=True)
    return sys.stdin.readline().strip().lower() == "yes"


def _ask_password(source: str) -> str:
    if not sys.stdin.isatty():
        return sys.stdin.readline().rstrip("\n")
    return getpass.getpass(f"Password for {source}: ", stream=sys.stderr)
