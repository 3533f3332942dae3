"""What a person decided to trust: host keys and certificates, by fingerprint; and how a source asks for it."""

from __future__ import annotations

import os
from dataclasses import dataclass
from pathlib import Path

import platformdirs

from after_check.files.errors import SourceError


@dataclass(frozen=True, slots=True)
class Access:
    """How to get in: a password or a key file where one is needed, a fingerprint that was accepted just now, and a machine to go
    through (`USER@HOST[:PORT]`)."""

    password: str | None = None
    key_file: str | None = None
    accepted_fingerprint: str | None = None
    jump: str = ""


class NeedsPersonError(SourceError):
    """Only a person can decide how to go on."""


class TrustNeededError(NeedsPersonError):
    """A host shows a key or certificate that nobody accepted yet; `fingerprint` is for a person to compare."""

    def __init__(self, host: str, what: str, fingerprint: str) -> None:
        super().__init__(
            f"{host} shows a {what} that is not known here: {fingerprint}",
            host,
            "compare it with the one on the machine itself, and accept it only if it is the same",
        )
        self.host = host
        self.fingerprint = fingerprint


class TrustBrokenError(NeedsPersonError):
    """A host shows another key than the one that is known: this is where an attack would show, so it ends here."""


class PasswordNeededError(NeedsPersonError):
    """The host wants a password (or another one)."""


def trust_folder() -> Path:
    """Return the folder of what was accepted; AFTER_CHECK_TRUST names another."""
    named = os.environ.get("AFTER_CHECK_TRUST")
    return Path(named) if named else Path(platformdirs.user_config_dir("after-check"))


def add_line(name: str, line: str) -> None:
    """Add a line to a file of the trust folder, readable by its owner only. Raises SourceError."""
    path = trust_folder() / name
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        with os.fdopen(os.open(path, os.O_WRONLY | os.O_APPEND | os.O_CREAT, 0o600), "a", encoding="utf-8") as stream:
            stream.write(line + "\n")
    except OSError as error:
        raise SourceError(f"what was accepted cannot be kept ({error.strerror})", str(path)) from None


def lines_of(name: str) -> list[str]:
    """Return the lines of a file of the trust folder; none where it is not there."""
    try:
        return (trust_folder() / name).read_text(encoding="utf-8").splitlines()
    except (OSError, UnicodeDecodeError):
        return []


_KEYRING_SERVICE = "after-check"


def kept_password(address: str) -> str | None:
    """Return the password that the system's keyring keeps for an address, or None; never from a file of ours."""
    try:
        import keyring

        return keyring.get_password(_KEYRING_SERVICE, address)
    except Exception:  # Keyrings fail in many ways of their own where there is no desktop; none of them matters here.
        return None


def keep_password(address: str, password: str) -> None:
    """Keep a password in the system's keyring. Raises SourceError where there is none."""
    try:
        import keyring

        keyring.set_password(_KEYRING_SERVICE, address, password)
    except Exception as error:
        raise SourceError(f"this system has no keyring that keeps a password ({type(error).__name__})", address) from None


def forget_password(address: str) -> None:
    """Take a password that no longer works out of the keyring."""
    try:
        import keyring

        keyring.delete_password(_KEYRING_SERVICE, address)
    except Exception:
        return
