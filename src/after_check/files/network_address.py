"""Addresses of machines and services as people type them: one door, so that each of them is checked in the same way.

The form is that of RFC 3986, section 3: `SCHEME://[USER@]HOST[:PORT][/PATH]`. A password is never taken from an address.
"""

from __future__ import annotations

import ipaddress
import re
from dataclasses import dataclass
from urllib.parse import urlsplit

from after_check.domain.outside_text import clean
from after_check.files.errors import SourceError

_HOST = re.compile(r"[A-Za-z0-9_]([\w.-]*[\w])?", re.ASCII)
_USER = re.compile(r"[\w][\w.@+-]*")
_MOST_LETTERS = 2000
_SHOWN = 80
HIGHEST_PORT = 65_535


@dataclass(frozen=True, slots=True)
class NetworkAddress:
    """Where something answers: the host without brackets, the port (None: none was typed), the user, the path without its last slash."""

    host: str
    port: int | None = None
    user: str = ""
    path: str = ""

    @property
    def place(self) -> str:
        """Host and port as they stand in an address; a host of IP version 6 is in brackets (RFC 3986, 3.2.2)."""
        host = f"[{self.host}]" if ":" in self.host else self.host
        return host if self.port is None else f"{host}:{self.port}"


def parse_network_address(text: str, scheme: str, example: str) -> NetworkAddress:
    """Return an address of one scheme. Raises SourceError that says how such an address is written."""
    said = text.strip()
    try:
        if len(said) > _MOST_LETTERS or any(ord(letter) < 33 for letter in said):
            raise ValueError
        parts = urlsplit(said)
        host, port, user = parts.hostname or "", parts.port, parts.username or ""
    except ValueError:
        raise _no_address(said, example) from None
    if parts.password is not None:
        raise SourceError("a password in an address is not taken", _shown(parts.hostname or ""), f"write {example}; you are asked for it")
    if parts.scheme != scheme or not _is_host(host) or port == 0 or parts.query or parts.fragment:
        raise _no_address(said, example)
    found = NetworkAddress(host, port, user, parts.path.rstrip("/"))
    # What is between the host and the port, or behind it, would be passed over in silence.
    if (user and not _USER.fullmatch(user)) or parts.netloc.rpartition("@")[2].casefold().removesuffix(":") != found.place:
        raise _no_address(said, example)
    return found


def _is_host(host: str) -> bool:
    if ":" not in host:
        return bool(_HOST.fullmatch(host))
    try:
        ipaddress.IPv6Address(host)
    except ValueError:
        return False
    return True


def _no_address(text: str, example: str) -> SourceError:
    return SourceError("this is no address", _shown(text), f"write {example}")


def _shown(text: str) -> str:
    """Return an address as it may be shown: what is before an at sign may be a password."""
    return clean(text.rpartition("@")[2] if "@" in text else text, _SHOWN)
