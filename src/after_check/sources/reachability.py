"""Whether a machine shows itself on the network while it starts: open TCP ports, and how far its firmware is (Redfish).

Redfish: DMTF DSP2046, ComputerSystem, BootProgress.LastState.
"""

from __future__ import annotations

import re
import socket
from dataclasses import dataclass

from after_check.files.errors import SourceError
from after_check.sources.redfish import boot_state, parse_redfish_address
from after_check.sources.trust import Access

USUAL_PORTS = (22, 80, 443, 445, 3389)
_CONNECT_SECONDS = 1.0
_REDFISH = "redfish+https://"


@dataclass(frozen=True, slots=True)
class Alive:
    """What was seen at one moment: a port that answered (None: none did), how far the firmware says it is, and what went wrong."""

    port: int | None = None
    state: str = ""
    problem: str = ""

    @property
    def is_up(self) -> bool:
        """Whether the machine's system answers or its firmware says that it runs."""
        return self.port is not None or self.state in ("OSRunning", "OSBootStarted")


@dataclass(frozen=True, slots=True)
class WatchAddress:
    """What to look at: a host with ports, or a Redfish service."""

    host: str
    ports: tuple[int, ...] = USUAL_PORTS
    redfish: str = ""


def parse_watch_address(text: str) -> WatchAddress:
    """Return the address in `HOST`, `HOST:PORT,PORT` or `redfish+https://USER@HOST`. Raises SourceError."""
    text = text.strip()
    if text.startswith(_REDFISH):
        return WatchAddress(parse_redfish_address(text).host, (), text)
    match = re.fullmatch(r"(?P<host>[\w.-]+|\[[0-9A-Fa-f:]+\])(?::(?P<ports>\d{1,5}(?:,\d{1,5}){0,7}))?", text)
    ports = tuple(int(port) for port in match["ports"].split(",")) if match and match["ports"] else USUAL_PORTS
    if match is None or not all(0 < port < 65536 for port in ports):
        raise SourceError("this is no address", text[:80], "write HOST, HOST:22,80 or redfish+https://USER@HOST")
    return WatchAddress(match["host"].strip("[]"), ports)


def look(address: WatchAddress, access: Access = Access()) -> Alive:  # noqa: B008 - frozen
    """Look once. A machine that is off or silent is no error; a Redfish service that refuses is told in `problem`."""
    if address.redfish:
        try:
            return Alive(state=boot_state(address.redfish, access))
        except SourceError as problem:
            return Alive(problem=str(problem))
    for port in address.ports:
        try:
            with socket.create_connection((address.host, port), timeout=_CONNECT_SECONDS):
                return Alive(port=port)
        except OSError:
            continue
    return Alive()
