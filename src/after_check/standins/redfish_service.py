"""A Redfish service of a simulated machine, on 127.0.0.1 only. Documents: DMTF DSP0266 and DSP2046.

Faults can be switched on, to see how a reader takes them.
"""

from __future__ import annotations

import base64
import json
import secrets
import ssl
import threading
from dataclasses import dataclass, field
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any
from urllib.parse import parse_qs, urlsplit

from after_check.standins.certificates import self_signed
from after_check.standins.firmware_tables import SimulatedMachine, SimulatedModule

ROOT = "/redfish/v1/"
SYSTEM = "/redfish/v1/Systems/1"
CHASSIS = "/redfish/v1/Chassis/1"
DOMAINS = f"{SYSTEM}/MemoryDomains"
PAGE = 3


@dataclass
class Faults:
    """What goes wrong: names of faults from `ALL`, and how often each was met."""

    on: set[str] = field(default_factory=set)

    ALL = ("missing-member", "half-collection", "huge", "no-json", "redirect-loop", "elsewhere", "slow", "escapes", "at-the-chassis")


class RedfishService:
    """Serves one machine; `start` returns the port."""

    def __init__(self, machine: SimulatedMachine, folder: Path, user: str = "bench", password: str = "") -> None:
        self.machine = machine
        self.user = user
        self.password = password or secrets.token_urlsafe(9)
        self.faults = Faults()
        self.requests: list[str] = []
        self.tokens: set[str] = set()
        self.boot_state = "OSRunning"
        self._folder = folder
        self._server: ThreadingHTTPServer | None = None

    def start(self, port: int = 0) -> int:
        """Serve in a thread of its own and return the port."""
        certificate, key = self_signed(self._folder, "127.0.0.1")
        service = self

        class Handler(_Handler):
            pass

        Handler.service = service
        server = ThreadingHTTPServer(("127.0.0.1", port), Handler)
        context = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
        context.load_cert_chain(certificate, key)
        server.socket = context.wrap_socket(server.socket, server_side=True)
        self._server = server
        threading.Thread(target=server.serve_forever, args=(0.05,), daemon=True).start()
        return int(server.server_address[1])

    def stop(self) -> None:
        """End serving."""
        if self._server is not None:
            self._server.shutdown()
            self._server.server_close()

    def resource(self, path: str, query: dict[str, list[str]]) -> dict[str, Any] | None:
        """Return the resource at a path, or None."""
        slots = list(self.machine.slots.items())
        path = path.rstrip("/")
        if path == ROOT.rstrip("/"):
            return {
                "@odata.id": ROOT,
                "RedfishVersion": "1.15.0",
                "Systems": {"@odata.id": "/redfish/v1/Systems"},
                "Links": {"Sessions": {"@odata.id": "/redfish/v1/SessionService/Sessions"}},
            }
        if path == "/redfish/v1/Systems":
            return {"Members": [{"@odata.id": SYSTEM}], "Members@odata.count": 1}
        if path == SYSTEM:
            return self._system()
        if path == f"{SYSTEM}/Bios":
            return {"Attributes": {"MemoryProfile": "Off", "MemoryInterleave": "Auto"}}
        if path == CHASSIS:
            return {"@odata.id": CHASSIS, "Memory": {"@odata.id": f"{SYSTEM}/Memory"}}
        if path.startswith(DOMAINS):
            return self._domains(path)
        if path == f"{SYSTEM}/Memory":
            return self._collection(slots, int(query.get("$skip", ["0"])[0]))
        for index, (name, module) in enumerate(slots):
            if path == f"{SYSTEM}/Memory/{name}":
                return self._member(index, name, module)
            if path == f"{SYSTEM}/Memory/{name}/MemoryMetrics":
                return {"CurrentPeriod": {"CorrectableECCErrorCount": 0, "UncorrectableECCErrorCount": 0}}
        return None

    def _domains(self, path: str) -> dict[str, Any] | None:
        """One domain with two ranges: half of the memory each, and a third that keeps its content."""
        fitted_mib = sum(module.size_mib for module in self.machine.slots.values() if module)
        chunks = f"{DOMAINS}/1/MemoryChunks"
        ranges = [("Volatile", fitted_mib // 2), ("Volatile", fitted_mib - fitted_mib // 2), ("PMEM", 4096)]
        if path == DOMAINS:
            return {"Members": [{"@odata.id": f"{DOMAINS}/1"}], "Members@odata.count": 1}
        if path == f"{DOMAINS}/1":
            return {"MemoryChunks": {"@odata.id": chunks}}
        if path == chunks:
            return {"Members": [{"@odata.id": f"{chunks}/{number}"} for number in range(3)], "Members@odata.count": 3}
        number = path.removeprefix(f"{chunks}/")
        if number not in ("0", "1", "2"):
            return None
        kind, size_mib = ranges[int(number)]
        return {"AddressRangeType": kind, "MemoryChunkSizeMiB": size_mib}

    def _system(self) -> dict[str, Any]:
        fitted_mib = sum(module.size_mib for module in self.machine.slots.values() if module)
        if "at-the-chassis" in self.faults.on:
            return {
                "@odata.id": SYSTEM,
                "Model": self.machine.model,
                "Links": {"Chassis": [{"@odata.id": CHASSIS}]},
                "MemoryDomains": {"@odata.id": DOMAINS},
            }
        return {
            "@odata.id": SYSTEM,
            "Manufacturer": self.machine.maker,
            "Model": f"\x1b[31m{self.machine.model}" if "escapes" in self.faults.on else self.machine.model,
            "SerialNumber": self.machine.serial,
            "BiosVersion": self.machine.firmware_version,
            "MemorySummary": {"TotalSystemMemoryGiB": fitted_mib / 1024},
            "BootProgress": {"LastState": self.boot_state},
            "Memory": {"@odata.id": f"{SYSTEM}/Memory"},
            "Bios": {"@odata.id": f"{SYSTEM}/Bios"},
        }

    def _collection(self, slots: list[tuple[str, SimulatedModule | None]], skip: int) -> dict[str, Any]:
        page = slots[skip : skip + PAGE]
        answer: dict[str, Any] = {
            "Members": [{"@odata.id": f"{SYSTEM}/Memory/{name}"} for name, _ in page],
            "Members@odata.count": len(slots),
        }
        if skip + PAGE < len(slots) and "half-collection" not in self.faults.on:
            answer["Members@odata.nextLink"] = f"{SYSTEM}/Memory?$skip={skip + PAGE}"
        return answer

    def _member(self, index: int, name: str, module: SimulatedModule | None) -> dict[str, Any]:
        answer: dict[str, Any] = {
            "Id": name,
            "DeviceLocator": name,
            "MemoryLocation": {"Socket": 0, "Channel": index, "Slot": 1},
            "Status": {"State": "Enabled" if module else "Absent"},
        }
        if module is not None:
            answer |= {
                "CapacityMiB": module.size_mib,
                "MemoryDeviceType": module.generation,
                "BaseModuleType": {"SODIMM": "SO_DIMM"}.get(module.form, module.form),
                "OperatingSpeedMhz": module.configured_mts,
                "AllowedSpeedsMHz": [module.speed_mts],
                "RankCount": module.ranks,
                "DataWidthBits": 64,
                "BusWidthBits": 72 if module.ecc else 64,
                "ErrorCorrection": "MultiBitECC" if module.ecc else "NoECC",
                "Manufacturer": module.maker,
                "PartNumber": module.part,
                "SerialNumber": module.serial,
                "Metrics": {"@odata.id": f"{SYSTEM}/Memory/{name}/MemoryMetrics"},
            }
        return answer


class _Handler(BaseHTTPRequestHandler):
    service: RedfishService
    protocol_version = "HTTP/1.1"
    timeout = 20
    disable_nagle_algorithm = True  # An answer is sent in two parts; the second would wait 40 ms for word of the first.

    def log_message(self, format: str, *arguments: object) -> None:
        """Keep the terminal free of a line for each request."""

    def do_GET(self) -> None:
        parts = urlsplit(self.path)
        faults = self.service.faults.on
        self.service.requests.append(self.path)
        if parts.path.rstrip("/") != ROOT.rstrip("/") and not self._is_known():
            return self._send(401, {"error": {"message": "who is there?"}})
        is_member = parts.path.startswith(f"{SYSTEM}/Memory/") and not parts.path.endswith("Metrics")
        if "missing-member" in faults and is_member and parts.path.endswith("B1"):
            return self._send(404, {"error": {"message": "gone"}})
        if "redirect-loop" in faults and parts.path == SYSTEM:
            return self._send(302, {}, {"Location": SYSTEM})
        if "elsewhere" in faults and parts.path == SYSTEM:
            return self._send(302, {}, {"Location": "https://198.51.100.7/redfish/v1/Systems/1"})
        if "no-json" in faults and parts.path == SYSTEM:
            return self._send_raw(200, b"<html>\x1b[2J not here</html>")
        if "huge" in faults and parts.path == SYSTEM:
            return self._send_raw(200, b'{"x": "' + b"a" * (50 << 20) + b'"}')
        if "slow" in faults and parts.path == SYSTEM:
            threading.Event().wait(15)
        found = self.service.resource(parts.path, parse_qs(parts.query))
        return self._send(404, {"error": {"message": "no such resource"}}) if found is None else self._send(200, found)

    def do_POST(self) -> None:
        length = int(self.headers.get("Content-Length", "0"))
        try:
            given = json.loads(self.rfile.read(min(length, 10_000)))
        except ValueError:
            given = {}
        if given != {"UserName": self.service.user, "Password": self.service.password}:
            return self._send(401, {"error": {"message": "no"}})
        token = secrets.token_hex(16)
        self.service.tokens.add(token)
        return self._send(201, {}, {"X-Auth-Token": token, "Location": f"/redfish/v1/SessionService/Sessions/{len(self.service.tokens)}"})

    def do_DELETE(self) -> None:
        self.service.tokens.discard(self.headers.get("X-Auth-Token", ""))
        self._send(204, {})

    def _is_known(self) -> bool:
        if self.headers.get("X-Auth-Token", "") in self.service.tokens:
            return True
        basic = base64.b64encode(f"{self.service.user}:{self.service.password}".encode()).decode()
        return self.headers.get("Authorization", "") == f"Basic {basic}"

    def _send(self, status: int, body: dict[str, Any], headers: dict[str, str] | None = None) -> None:
        self._send_raw(status, b"" if status == 204 else json.dumps(body).encode(), headers)

    def _send_raw(self, status: int, raw: bytes, headers: dict[str, str] | None = None) -> None:
        try:
            self.send_response(status)
            for name, value in (headers or {}).items():
                self.send_header(name, value)
            self.send_header("Content-Type", "application/json")
            self.send_header("Content-Length", str(len(raw)))
            self.end_headers()
            self.wfile.write(raw)
        except (BrokenPipeError, ConnectionResetError, ssl.SSLError):
            self.close_connection = True
