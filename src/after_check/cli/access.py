"""Getting into another machine from the command line: keys are shown for comparison, passwords asked for or taken from the keyring."""

from __future__ import annotations

import getpass
import sys
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TypeVar

from after_check.sources.trust import Access, PasswordNeededError, TrustNeededError, forget_password, keep_password, kept_password

Result = TypeVar("Result")


@dataclass(frozen=True, slots=True)
class AccessWords:
    """What the command line says of the way in."""

    key: Path | None = None
    accept: str | None = None
    ask_password: bool = False
    remember: bool = False
    jump: str | None = None


def with_access(source: str, words: AccessWords, act: Callable[[Access], Result]) -> Result:
    """Do what needs access to a machine, asking a person about keys and passwords where there is one to ask."""
    password = ask_password(source) if words.ask_password else kept_password(source)
    access = Access(
        password=password, key_file=str(words.key) if words.key else None, accepted_fingerprint=words.accept, jump=words.jump or ""
    )
    interactive = sys.stdin.isatty() and sys.stderr.isatty()
    for _ in range(4):
        try:
            result = act(access)
        except TrustNeededError as needed:
            if not interactive or not _is_accepted(needed):
                raise
            access = replace(access, accepted_fingerprint=needed.fingerprint)
        except PasswordNeededError:
            forget_password(source)
            if not interactive:
                raise
            access = replace(access, password=ask_password(source))
        else:
            if words.remember and access.password is not None:
                keep_password(source, access.password)
            return result
    return act(access)


def _is_accepted(needed: TrustNeededError) -> bool:
    print(f"{needed}\nIs it the same? Type yes to accept it: ", end="", file=sys.stderr, flush=True)
    return sys.stdin.readline().strip().lower() == "yes"


def ask_password(source: str) -> str:
    """Ask for a password, or read it from standard input where nobody sits at the terminal."""
    if not sys.stdin.isatty():
        return sys.stdin.readline().rstrip("\n")
    return getpass.getpass(f"Password for {source}: ", stream=sys.stderr)
