"""A reading of a managed machine. Documents: DMTF DSP0266 (Redfish protocol), DSP2046 (resources)."""

from __future__ import annotations

import base64
import contextlib
import hashlib
import socket
import ssl
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any
from urllib.parse import urljoin, urlsplit

import httpx

from after_check.domain.boards import Filling, Slot
from after_check.domain.facts import Fact, Source, T
from after_check.domain.modules import Form, Generation, Module
from after_check.domain.outside_text import clean
from after_check.domain.quantities import GIB, MIB
from after_check.domain.readings import ErrorCounter, Machine, Notice, NoticeKind, Reading, Redundancy, corrected_errors
from after_check.files.errors import SourceError
from after_check.files.firmware_text import distinct
from after_check.files.json_values import dicts, text, whole_number
from after_check.files.limited_http import Limit, LimitedTransport, OverLimitError
from after_check.files.network_address import NetworkAddress, parse_network_address
from after_check.files.strict_json import parse_json
from after_check.sources.evidence import RawEvidence, Taken, with_evidence
from after_check.sources.trust import Access, PasswordNeededError, TrustBrokenError, TrustNeededError, add_line, lines_of
from after_check.standards.rates import HIGHEST_RATE_MTS, highest_known_rate_mts, lowest_standard_rate_mts, same_rate, snap_rate

CONNECT_SECONDS = 10
READ_SECONDS = 30
WHOLE_SECONDS = 120
"""For the whole conversation, login included: a controller of an old server needs some seconds for each module."""
LARGEST_ANSWER_BYTES = 4 << 20
LARGEST_WHOLE_BYTES = 64 << 20
_MOST_MEMBERS = 512
_MOST_PAGES = 64
_MOST_REDIRECTS = 5
_CERTIFICATES = "certificates"


@dataclass(frozen=True, slots=True)
class RedfishAddress:
    """The service to ask; `system` is the identifier of one of its systems, or empty for the only one."""

    host: str
    port: int = 443
    user: str = ""
    system: str = ""

    @property
    def place(self) -> str:
        """Host and port, as they are shown and remembered."""
        return NetworkAddress(self.host, self.port if self.port != 443 else None).place


def parse_redfish_address(address: str) -> RedfishAddress:
    """Return the address in `redfish+https://[USER@]HOST[:PORT][/SYSTEM]`. Raises SourceError."""
    at = parse_network_address(address, "redfish+https", "redfish+https://USER@HOST or redfish+https://USER@HOST:PORT")
    return RedfishAddress(at.host, at.port or 443, at.user, at.path.strip("/"))


def read_over_redfish(text_of_address: str, access: Access = Access()) -> Taken:  # noqa: B008 - frozen
    """Take a reading from a Redfish service. Raises SourceError, TrustNeededError, TrustBrokenError or PasswordNeededError."""
    with _talking_to(parse_redfish_address(text_of_address), access) as service:
        return service.reading()


def boot_state(text_of_address: str, access: Access = Access()) -> str:  # noqa: B008 - frozen
    """Return how far a start is by the service's word (BootProgress.LastState); empty where it does not say. Raises as a reading does."""
    with _talking_to(parse_redfish_address(text_of_address), access) as service:
        return service.boot_state()


@contextlib.contextmanager
def _talking_to(address: RedfishAddress, access: Access) -> Iterator[_Service]:
    """Connect, and leave in the end; what fails is told in words."""
    context = _trusting(address, access.accepted_fingerprint)
    timeout = httpx.Timeout(READ_SECONDS, connect=CONNECT_SECONDS)
    try:
        transport = LimitedTransport(Limit(WHOLE_SECONDS, LARGEST_WHOLE_BYTES), context)
        with httpx.Client(base_url=f"https://{address.place}", transport=transport, timeout=timeout) as client:
            service = _Service(client, address, access)
            try:
                yield service
            finally:
                service.leave()
    except OverLimitError as over:
        raise SourceError(str(over), address.place, "see whether its address is right, and try again") from None
    except httpx.TimeoutException:
        said = f"the service did not answer within {READ_SECONDS} s"
        raise SourceError(said, address.place, "see whether its address is right") from None
    except (httpx.HTTPError, ssl.SSLError, OSError) as error:
        raise SourceError(f"the connection failed ({clean(str(error), 120)})", address.place, "nothing was changed") from None


def _trusting(address: RedfishAddress, accepted: str | None) -> ssl.SSLContext:
    """Return a context that trusts the system's authorities, or exactly the certificate that was accepted for this host."""
    der = _certificate(address)
    fingerprint = "SHA256:" + base64.b64encode(hashlib.sha256(der).digest()).decode().rstrip("=")
    pinned = next(
        (line.split()[1] for line in lines_of(_CERTIFICATES) if line.split()[:1] == [address.place] and len(line.split()) == 2), None
    )
    if pinned is None and _is_vouched_for(address):
        return ssl.create_default_context()
    if pinned is None:
        if accepted != fingerprint:
            raise TrustNeededError(address.place, "certificate", fingerprint)
        add_line(_CERTIFICATES, f"{address.place} {fingerprint}")
    elif pinned != fingerprint:
        raise TrustBrokenError(
            f"{address.place} shows another certificate than the one that was accepted ({fingerprint})",
            address.place,
            "if it was renewed, take the old line out of the file certificates in the settings folder; if not, somebody is in between",
        )
    context = ssl.create_default_context(cadata=ssl.DER_cert_to_PEM_cert(der))
    context.verify_flags |= ssl.VERIFY_X509_PARTIAL_CHAIN
    context.check_hostname = False  # The certificate itself is pinned; its name adds nothing.
    return context


def _certificate(address: RedfishAddress) -> bytes:
    # Nothing is verified here, so the system's authorities, which take a while to read, are not looked for.
    context = ssl.SSLContext(ssl.PROTOCOL_TLS_CLIENT)
    context.check_hostname = False
    context.verify_mode = ssl.CERT_NONE
    try:
        with (
            socket.create_connection((address.host, address.port), timeout=CONNECT_SECONDS) as raw,
            context.wrap_socket(raw, server_hostname=address.host) as secured,
        ):
            der = secured.getpeercert(binary_form=True)
    except (OSError, ValueError) as error:
        reason = getattr(error, "strerror", None) or str(error)
        raise SourceError(f"no secure connection ({clean(str(reason), 120)})", address.place, "nothing was changed") from None
    if der is None:
        raise SourceError("the service shows no certificate", address.place)
    return der


def _is_vouched_for(address: RedfishAddress) -> bool:
    """Return whether the system's authorities vouch for the certificate and its name."""
    context = ssl.create_default_context()
    try:
        with (
            socket.create_connection((address.host, address.port), timeout=CONNECT_SECONDS) as raw,
            context.wrap_socket(raw, server_hostname=address.host),
        ):
            return True
    except (ssl.SSLError, OSError):
        return False


class _Service:
    """One conversation with a service: login, resources, what could not be read."""

    def __init__(self, client: httpx.Client, address: RedfishAddress, access: Access) -> None:
        self._client = client
        self._address = address
        self._access = access
        self._session = ""
        self._evidence: list[RawEvidence] = []
        self._notices: list[Notice] = []

    def reading(self) -> Taken:
        root = self._get("/redfish/v1/")
        self._log_in(root)
        system_path = self._system_path(root)
        system = self._get(system_path)
        members = self._memory_of(system)
        self._optional(link_of(system, "Bios"), "the firmware's settings")
        reading = self._reading(system, members)
        return with_evidence(reading, tuple(self._evidence))

    def boot_state(self) -> str:
        """Return the last state that the service reports of a start."""
        root = self._get("/redfish/v1/")
        self._log_in(root)
        progress = self._get(self._system_path(root)).get("BootProgress")
        return (text(progress.get("LastState")) or "") if isinstance(progress, dict) else ""

    def leave(self) -> None:
        """End the session; a service that is gone by then needs no ending."""
        if self._session:
            with contextlib.suppress(httpx.HTTPError):
                self._client.delete(self._session)

    def _log_in(self, root: dict[str, Any]) -> None:
        if not self._address.user or self._access.password is None:
            return
        sessions = link_of(root.get("Links", {}) if isinstance(root.get("Links"), dict) else {}, "Sessions")
        credentials = {"UserName": self._address.user, "Password": self._access.password}
        if sessions:
            answer = self._client.post(self._local(sessions), json=credentials)
            token = answer.headers.get("X-Auth-Token")
            if answer.status_code in (200, 201) and token:
                self._client.headers["X-Auth-Token"] = token
                self._session = self._local(answer.headers.get("Location", "")) if answer.headers.get("Location") else ""
                return
            if answer.status_code in (400, 401, 403):
                raise PasswordNeededError("the service refused user and password", self._address.place, "try another password")
        self._client.auth = httpx.BasicAuth(self._address.user, self._access.password)

    def _system_path(self, root: dict[str, Any]) -> str:
        systems = link_of(root, "Systems")
        if not systems:
            raise SourceError("the service lists no systems", self._address.place)
        paths = [path for path in (link_of({"it": member}, "it") for member in dicts(self._get(systems).get("Members"))) if path]
        if self._address.system:
            wanted = [path for path in paths if path.rstrip("/").rsplit("/", 1)[-1] == self._address.system]
            if not wanted:
                raise SourceError(f"the service has no system {clean(self._address.system, 40)}", self._address.place)
            return wanted[0]
        if not paths:
            raise SourceError("the service's list of systems is empty", self._address.place)
        if len(paths) > 1:
            names = [clean(path.rstrip("/").rsplit("/", 1)[-1], 40) for path in paths]
            more = f"the service has {len(paths)} systems ({', '.join(names[:8])}); this is {names[0]}"
            self._notices.append(Notice(NoticeKind.REMARK, more, self._address.place, f"name another one behind the host: /{names[-1]}"))
        return paths[0]

    def _memory_of(self, system: dict[str, Any]) -> list[dict[str, Any]]:
        """Return the memory of a system; where it names none of its own, that of the chassis in which it is."""
        if link_of(system, "Memory"):
            return list(self._members(link_of(system, "Memory"), "memory"))
        links = system.get("Links")
        paths = [link_of({"it": chassis}, "it") for chassis in dicts(links.get("Chassis"))] if isinstance(links, dict) else []
        found = [chassis for path in paths if (chassis := self._optional(path, "the chassis")) is not None]
        places = [place for chassis in found if (place := link_of(chassis, "Memory"))]
        return [member for place in places or [""] for member in self._members(place, "memory")]

    def _chunks_bytes(self, system: dict[str, Any]) -> int | None:
        """Return how much working memory the ranges of a system have together (MemoryChunks); None where it names none."""
        domains = self._members(link_of(system, "MemoryDomains"), "memory domains") if link_of(system, "MemoryDomains") else ()
        chunks = [
            chunk for domain in domains if (path := link_of(domain, "MemoryChunks")) for chunk in self._members(path, "memory chunks")
        ]
        return working_bytes(chunks)

    def _members(self, path: str, what: str) -> Iterator[dict[str, Any]]:
        """Yield the members of a collection, page by page; what is missing of it becomes a notice."""
        if not path:
            self._notices.append(Notice(NoticeKind.ABSENT, f"the service shows no {what} collection", self._address.place))
            return
        seen: set[str] = set()
        expected, got = 0, 0
        while path and path not in seen and len(seen) < _MOST_PAGES:
            seen.add(path)
            page = self._get(path)
            expected = max(expected, whole_number(page.get("Members@odata.count"), 1 << 20) or 0)
            for listed in dicts(page.get("Members")):
                link = link_of({"it": listed}, "it")
                member = self._optional(link, f"the {what} member {link.rsplit('/', 1)[-1]}") if link else None
                got += 1
                if member is not None:
                    yield member
                if got >= _MOST_MEMBERS:
                    return
            following = page.get("Members@odata.nextLink") or page.get("@odata.nextLink")
            path = following if isinstance(following, str) else ""
        if got < expected:
            missing = f"the {what} collection announces {expected} members and lists {got}"
            self._notices.append(Notice(NoticeKind.DAMAGED, missing, self._address.place, "read again, or type what is missing"))

    def _optional(self, path: str, what: str) -> dict[str, Any] | None:
        if not path:
            return None
        try:
            return self._get(path)
        except PasswordNeededError:
            raise
        except SourceError as error:
            self._notices.append(
                Notice(NoticeKind.DAMAGED, f"{what} could not be read: {error.what}", path, "read again, or type what is missing")
            )
            return None

    def _get(self, path: str) -> dict[str, Any]:
        """Return a resource. Follows redirects within the service only; limits the answer's size."""
        local = self._local(path)
        for _ in range(_MOST_REDIRECTS + 1):
            with self._client.stream("GET", local, headers={"Accept": "application/json"}) as answer:
                if answer.is_redirect:
                    local = self._local(urljoin(local, answer.headers.get("Location", "")))
                    continue
                return self._decoded(answer, local)
        raise SourceError("the service redirects without end", path[:100])

    def _decoded(self, answer: httpx.Response, path: str) -> dict[str, Any]:
        if answer.status_code in (401, 403):
            raise PasswordNeededError(
                "the service wants a user and a password", self._address.place, "write redfish+https://USER@HOST, then the password"
            )
        if answer.status_code != 200:
            raise SourceError(f"the service answers {answer.status_code}", path[:100])
        parts: list[bytes] = []
        size = 0
        for part in answer.iter_bytes():
            size += len(part)
            if size > LARGEST_ANSWER_BYTES:
                raise SourceError(f"the answer is larger than {LARGEST_ANSWER_BYTES >> 20} MB", path[:100], "nothing of it was used")
            parts.append(part)
        raw = b"".join(parts)
        try:
            data = parse_json(raw)
        except (ValueError, RecursionError):
            raise SourceError("the answer is no JSON", path[:100]) from None
        if not isinstance(data, dict):
            raise SourceError("the answer is no resource", path[:100])
        self._evidence.append(RawEvidence(clean(path, 200), raw))
        return data

    def _local(self, path: str) -> str:
        """Return a path of this service. A link elsewhere is not followed: it would take the password along."""
        parts = urlsplit(path)
        if parts.netloc and parts.netloc not in (self._address.place, f"{self._address.host}:{self._address.port}"):
            raise SourceError("the service points to another host; it was not followed", clean(path, 100))
        if not parts.path.startswith("/"):
            raise SourceError("the service gives a link that is none", clean(path, 100))
        return parts.path + (f"?{parts.query}" if parts.query else "")

    def _reading(self, system: dict[str, Any], members: list[dict[str, Any]]) -> Reading:
        slots: list[Slot] = []
        persistent: list[Slot] = []
        counters: list[ErrorCounter] = []
        names = distinct([name_of(member, index) for index, member in enumerate(members)], [bank_of(member) for member in members])
        for name, member in zip(names, members, strict=True):
            if is_persistent(member):
                kept = f"{name} holds persistent memory, which is no working memory"
                self._notices.append(Notice(NoticeKind.REMARK, kept, self._address.place))
                kept_mib = whole_number(member.get("NonVolatileSizeMiB"), 1 << 30) or 0
                persistent.append(Slot(name, Filling.PERSISTENT, bank=bank_of(member), kept_bytes=kept_mib * MIB))
                continue
            slot = slot_of(member, name)
            slots.append(slot)
            if words := state_words(member):
                self._notices.append(Notice(NoticeKind.REMARK, f"{slot.name}: {words}", self._address.place))
            metrics = self._optional(link_of(member, "Metrics"), f"the counters of {slot.name}")
            if metrics is not None:
                counters += counters_of(metrics, slot.name)
                self._notices += [Notice(NoticeKind.REMARK, f"{slot.name}: {alarm}", "MemoryMetrics") for alarm in alarms_of(metrics)]
        summary = system.get("MemorySummary") if isinstance(system.get("MemorySummary"), dict) else {}
        total = summary.get("TotalSystemMemoryGiB") if isinstance(summary, dict) else None
        total_bytes = round(total * GIB) if isinstance(total, int | float) and not isinstance(total, bool) and 0 < total < 1 << 30 else None
        where = "MemorySummary" if total_bytes is not None else "MemoryChunks"
        total_bytes = total_bytes if total_bytes is not None else self._chunks_bytes(system)
        progress = system.get("BootProgress") if isinstance(system.get("BootProgress"), dict) else {}
        state = text(progress.get("LastState")) if isinstance(progress, dict) else None
        if state:
            self._notices.append(Notice(NoticeKind.REMARK, f"the start got as far as: {state}", "BootProgress"))
        return Reading(
            slots=tuple(slots),
            persistent=tuple(persistent),
            total_bytes=fact_of(total_bytes, where),
            redundancy=fact_of(redundancy_of(summary, members), "MemorySummary"),
            ecc_errors=fact_of(corrected_errors(counters), "MemoryMetrics"),
            error_counters=tuple(counters),
            machine=Machine(
                maker=fact_of(text(system.get("Manufacturer")), "ComputerSystem"),
                model=fact_of(text(system.get("Model")), "ComputerSystem"),
                serial=fact_of(text(system.get("SerialNumber")), "ComputerSystem"),
                firmware_version=fact_of(text(system.get("BiosVersion")), "ComputerSystem"),
            ),
            notices=tuple(self._notices),
            origin=f"redfish+https://{self._address.place}",
            taken_at=datetime.now(UTC).replace(microsecond=0),
        )


_FORMS = {
    **{"RDIMM": Form.RDIMM, "UDIMM": Form.UDIMM, "SO_DIMM": Form.SODIMM, "LRDIMM": Form.LRDIMM, "Mini_RDIMM": Form.RDIMM},
    **{"Mini_UDIMM": Form.UDIMM, "SO_RDIMM_72b": Form.SODIMM, "SO_UDIMM_72b": Form.SODIMM, "Die": Form.SOLDERED},
}


def redundancy_of(summary: Any, members: list[dict[str, Any]]) -> Redundancy | None:
    """ComputerSystem MemorySummary.MemoryMirroring, and Memory IsRankSpareEnabled (DMTF DSP0268)."""
    mirroring = text(summary.get("MemoryMirroring")) if isinstance(summary, dict) else None
    if mirroring in ("System", "DIMM", "Hybrid"):
        return Redundancy.MIRRORED
    return Redundancy.SPARE if any(member.get("IsRankSpareEnabled") is True for member in members) else None


def name_of(member: dict[str, Any], index: int) -> str:
    """Return the name of a slot: what is printed beside it, else what the firmware calls it, else the resource's own."""
    return (
        service_label_of(member)
        or text(member.get("DeviceLocator"))
        or text(member.get("Name"))
        or text(member.get("Id"))
        or f"slot {index + 1}"
    )


def service_label_of(member: dict[str, Any]) -> str | None:
    """Return what a technician finds printed on the board (DMTF DSP0268, Resource.Location), or None."""
    location = member.get("Location")
    part = location.get("PartLocation") if isinstance(location, dict) else None
    return text(part.get("ServiceLabel")) if isinstance(part, dict) else None


def bank_of(member: dict[str, Any]) -> str:
    """Return what is known of a slot's place beside its name: processor, controller and channel, and what the firmware calls it."""
    locator = text(member.get("DeviceLocator")) if service_label_of(member) else None
    beside = locator if locator != service_label_of(member) else None
    return ", ".join(filter(None, (place_in_words(member), beside)))


def place_in_words(member: dict[str, Any]) -> str:
    """Return where a slot is: processor, memory controller, channel (DMTF DSP2046, Memory.MemoryLocation); empty where nothing says it.

    Channels are counted within a controller: those of two controllers are two channels.
    """
    location = member.get("MemoryLocation")
    if not isinstance(location, dict):
        return ""
    socket, controller, channel = (whole_number(location.get(name), 999, least=0) for name in ("Socket", "MemoryController", "Channel"))
    if channel is None:
        return ""
    parts = (f"P{socket}" if socket is not None else "", f"MC{controller}" if controller is not None else "", f"channel {channel}")
    return " ".join(filter(None, parts))


def is_persistent(member: dict[str, Any]) -> bool:
    """Return whether nothing of a module is working memory (Memory.NonVolatileSizeMiB, VolatileSizeMiB; DMTF DSP2046)."""
    kept = whole_number(member.get("NonVolatileSizeMiB"), 1 << 30)
    return kept is not None and whole_number(member.get("VolatileSizeMiB"), 1 << 30) is None


def working_bytes(chunks: list[dict[str, Any]]) -> int | None:
    """Return the sum of ranges that are working memory (MemoryChunks.AddressRangeType, MemoryChunkSizeMiB; DMTF DSP2046), or None."""
    sizes = [
        whole_number(chunk.get("MemoryChunkSizeMiB"), 1 << 30)
        for chunk in chunks
        if chunk.get("AddressRangeType") in ("Volatile", "Mirrored", None)
    ]
    known = [size for size in sizes if size is not None]
    return sum(known) * MIB if known and len(known) == len(sizes) else None


def slot_of(member: dict[str, Any], name: str) -> Slot:
    """Return a slot and what is in it."""
    status = member.get("Status") if isinstance(member.get("Status"), dict) else {}
    state = text(status.get("State")) if isinstance(status, dict) else None
    bank = bank_of(member)
    size_mib = whole_number(member.get("CapacityMiB"), 1 << 30)
    if whole_number(member.get("NonVolatileSizeMiB"), 1 << 30) is not None:
        size_mib = whole_number(member.get("VolatileSizeMiB"), 1 << 30)  # What keeps its content is no working memory.
    if state == "Absent":
        return Slot(name, Filling.EMPTY, bank=bank)
    named = any(text(member.get(name)) for name in ("PartNumber", "SerialNumber", "Manufacturer"))
    if size_mib is None and not named:
        return Slot(name, Filling.UNKNOWN, bank=bank)
    return Slot(name, Filling.FILLED, module_of(member, size_mib, name), bank=bank)


def state_words(member: dict[str, Any]) -> str:
    """Return what a service says of a module that is there and not in use, or not well; empty where all is well (DSP0268, Status)."""
    status = member.get("Status") if isinstance(member.get("Status"), dict) else {}
    state, health = (text(status.get(name)) if isinstance(status, dict) else None for name in ("State", "Health"))
    if state == "Disabled" or (member.get("Enabled") is False and state != "Absent"):
        return "the service says that it is switched off"
    return f"the service says that its health is {health}" if health and health != "OK" and state != "Absent" else ""


def rates_of(running: int | None, speeds: list[int], generation: Generation | None) -> tuple[int | None, int | None]:
    """Return the running and the rated data rate in MT/s. Both fields are called MHz, and services write clocks or rates.

    A list is written in one way: all are clocks where one of them is below every rate of the generation, or where what runs
    is the double of one of them and none of them itself. What runs is a clock where only its double is among the rates.
    """
    lowest = lowest_standard_rate_mts(generation) * 0.99 if generation is not None else 0.0
    highest = highest_known_rate_mts(generation) * 1.01 if generation is not None else float(HIGHEST_RATE_MTS)

    def listed(rate: float) -> bool:
        return any(same_rate(rate, speed) for speed in speeds)

    below = any(speed < lowest for speed in speeds) and all(speed * 2 <= highest for speed in speeds)
    if below or (running is not None and not listed(running) and listed(running / 2)):
        # What runs is written as the list is, where it is in it.
        running = running * 2 if running is not None and listed(running) else running
        speeds = [speed * 2 for speed in speeds]
    if running is not None and not listed(running) and (listed(running * 2) or running < lowest):
        running *= 2
    return running, max(speeds, default=None)


def module_of(member: dict[str, Any], size_mib: int | None, where: str) -> Module:
    """Return what a memory resource says of its module."""
    kind = (text(member.get("MemoryDeviceType")) or "").upper().replace("_SDRAM", "")
    generation = Generation(kind) if kind in Generation.__members__ else None
    running = whole_number(member.get("OperatingSpeedMhz"), HIGHEST_RATE_MTS)
    allowed = member.get("AllowedSpeedsMHz")
    said = [whole_number(one, HIGHEST_RATE_MTS) for one in allowed] if isinstance(allowed, list) else []
    # A list with something senseless in it does not say which speed is the highest.
    speeds = [speed for speed in said if speed] if None not in said else []
    running, rated = rates_of(running if running and running >= 50 else None, [speed for speed in speeds if speed >= 50], generation)
    correction = text(member.get("ErrorCorrection"))
    return Module(
        size_bytes=fact_of(size_mib * MIB if size_mib else None, where),
        generation=fact_of(generation, where),
        form=fact_of(_FORMS.get(text(member.get("BaseModuleType")) or ""), where),
        rated_mts=fact_of(snap_rate(rated, generation) if rated else None, where),
        running_mts=fact_of(snap_rate(running, generation) if running else None, where),
        ranks=fact_of(whole_number(member.get("RankCount"), 16), where),
        data_width_bits=fact_of(whole_number(member.get("DataWidthBits"), 4096), where),
        ecc=fact_of(None if correction is None else correction != "NoECC", where),
        maker=fact_of(text(member.get("Manufacturer")), where),
        part=fact_of(text(member.get("PartNumber")), where),
        serial=fact_of(text(member.get("SerialNumber")), where),
    )


def counters_of(metrics: dict[str, Any], label: str) -> list[ErrorCounter]:
    """Return the errors that a module's metrics count: of this period, and over its life where that is there (DMTF DSP2046, MemoryMetrics).

    A counter that is absent or null was not read; it is no nought.
    """
    found = []
    for period, over_life in (("CurrentPeriod", False), ("LifeTime", True)):
        values = metrics.get(period)
        if isinstance(values, dict):
            corrected, uncorrected = (_sum_of(values, names) for names in (_CORRECTED, _UNCORRECTED))
            if corrected is not None or uncorrected is not None:
                found.append(ErrorCounter(label, corrected, uncorrected, over_life))
    return found


_CORRECTED = ("CorrectableECCErrorCount", "CorrectableOtherErrorCount", "IndeterminateCorrectableErrorCount")
_UNCORRECTED = ("UncorrectableECCErrorCount", "UncorrectableOtherErrorCount", "IndeterminateUncorrectableErrorCount")


def _sum_of(values: dict[str, Any], names: tuple[str, ...]) -> int | None:
    known = [count for name in names if (count := whole_number(values.get(name), 1 << 40, least=0)) is not None]
    return sum(known) if known else None


def alarms_of(metrics: dict[str, Any]) -> list[str]:
    """Return what a module's health data warns of, in words (MemoryMetrics, HealthData.AlarmTrips)."""
    health = metrics.get("HealthData")
    trips = health.get("AlarmTrips") if isinstance(health, dict) else None
    return [words for name, words in _ALARMS.items() if isinstance(trips, dict) and trips.get(name) is True]


_ALARMS = {
    "UncorrectableECCError": "its alarm for errors that could not be corrected went off",
    "CorrectableECCError": "its alarm for corrected errors went off",
    "AddressParityError": "its alarm for address parity errors went off",
    "Temperature": "its alarm for heat went off",
}


def link_of(resource: dict[str, Any], name: str) -> str:
    """Return the path that a resource links to; empty where there is none."""
    target = resource.get(name)
    path = target.get("@odata.id") if isinstance(target, dict) else None
    return path if isinstance(path, str) else ""


def fact_of(value: T | None, where: str) -> Fact[T] | None:
    """Return a value with where it was read, or None."""
    return None if value is None else Fact(value, Source.FIRMWARE, f"Redfish, {where}")
