"""Readings of a managed machine from the Redfish stand-in: TLS, sessions, paging, faults."""

from __future__ import annotations

import pytest

from after_check.domain.readings import NoticeKind
from after_check.files.errors import SourceError
from after_check.sources import redfish
from after_check.sources.reachability import look, parse_watch_address
from after_check.sources.redfish import boot_state, parse_redfish_address, read_over_redfish
from after_check.sources.trust import Access, PasswordNeededError, TrustBrokenError, TrustNeededError
from after_check.standins.firmware_tables import SimulatedMachine, SimulatedModule
from after_check.standins.redfish_service import RedfishService

GIB = 1 << 30


def server_machine():
    module = SimulatedModule(32768, "DDR4", "RDIMM", 3200, 3200, maker="Ostrel", part="OS4R-32G32", serial="5A1", ranks=2, ecc=True)
    return SimulatedMachine("Holm", "Holm R6", "3.02", {f"{letter}1": None if letter == "D" else module for letter in "ABCDEFGH"}, 524288)


@pytest.fixture
def service(tmp_path, monkeypatch):
    monkeypatch.setenv("AFTER_CHECK_TRUST", str(tmp_path / "trust"))
    one = RedfishService(server_machine(), tmp_path / "service", password="right")
    one.port = one.start()
    yield one
    one.stop()


def address(service, user="bench@"):
    return f"redfish+https://{user}127.0.0.1:{service.port}"


def fingerprint(service):
    with pytest.raises(TrustNeededError) as caught:
        read_over_redfish(address(service), Access(password="right"))
    return caught.value.fingerprint


def read(service, password="right"):
    return read_over_redfish(address(service), Access(password=password, accepted_fingerprint=fingerprint(service))).reading


def test_a_paged_collection_is_read_whole_within_a_session(service):
    reading = read(service)
    assert [slot.name for slot in reading.slots] == [f"{letter}1" for letter in "ABCDEFGH"]
    assert reading.empty_slots == ("D1",)
    module = reading.modules[0]
    assert (module.size_bytes.value, module.running_mts.value, module.form.value, module.ecc.value) == (32 * GIB, 3200, "RDIMM", True)
    assert reading.total_bytes.value == 7 * 32 * GIB
    assert reading.machine.model.value == "Holm R6"
    assert any("OSRunning" in notice.what for notice in reading.notices)
    assert len([path for path in service.requests if "/Memory?" in path]) == 2
    # The session was ended, so the token opens nothing any more.
    assert service.tokens == set()


def test_memory_that_the_chassis_names_and_a_total_from_its_ranges(service):
    service.faults.on.add("at-the-chassis")
    reading = read(service)
    assert [slot.name for slot in reading.slots] == [f"{letter}1" for letter in "ABCDEFGH"]
    # What keeps its content is no working memory: 4 GiB of the three ranges are left out.
    assert (reading.total_bytes.value, reading.total_bytes.where) == (7 * 32 * GIB, "Redfish, MemoryChunks")


def test_a_certificate_is_accepted_once_and_another_one_stops(service, tmp_path):
    read(service)
    assert read_over_redfish(address(service), Access(password="right")).reading.slots
    service.stop()
    for path in (tmp_path / "service").iterdir():
        path.unlink()
    service.start(service.port)
    with pytest.raises(TrustBrokenError, match="another certificate"):
        read_over_redfish(address(service), Access(password="right"))


def test_wrong_credentials_and_none(service):
    with pytest.raises(PasswordNeededError, match="refused"):
        read(service, password="wrong")
    with pytest.raises(PasswordNeededError, match="wants a user"):
        read_over_redfish(address(service, user=""), Access())


@pytest.mark.parametrize(
    ("fault", "part"),
    [
        ("huge", "larger than 4 MB"),
        ("no-json", "no JSON"),
        ("redirect-loop", "redirects without end"),
        ("elsewhere", "points to another host"),
    ],
)
def test_answers_that_cannot_be_used(service, fault, part):
    accepted = fingerprint(service)
    service.faults.on.add(fault)
    with pytest.raises(SourceError, match=part):
        read_over_redfish(address(service), Access(password="right", accepted_fingerprint=accepted))


def test_a_missing_member_and_half_a_collection_are_named(service):
    service.faults.on.add("missing-member")
    reading = read(service)
    assert len(reading.slots) == 7
    assert any(notice.kind is NoticeKind.DAMAGED and "B1" in notice.what for notice in reading.notices)
    service.faults.on.add("half-collection")
    reading = read_over_redfish(address(service), Access(password="right")).reading
    assert any("announces 8 members and lists 3" in notice.what for notice in reading.notices)


def test_escapes_are_dropped_and_a_slow_service_is_given_up(service, monkeypatch):
    service.faults.on.add("escapes")
    assert read(service).machine.model.value == "[31mHolm R6"
    service.faults.on.add("slow")
    monkeypatch.setattr(redfish, "READ_SECONDS", 1)
    with pytest.raises(SourceError, match="did not answer within 1 s"):
        read_over_redfish(address(service), Access(password="right"))


@pytest.mark.parametrize("text", ["redfish+https://", "redfish+https://u:p@h", "redfish+https://h:99999", "redfish+https://h h"])
def test_addresses_that_are_none(text):
    with pytest.raises(SourceError):
        parse_redfish_address(text)


def test_nobody_there():
    with pytest.raises(SourceError, match="no secure connection"):
        read_over_redfish("redfish+https://127.0.0.1:1")


def test_the_service_tells_how_far_a_start_is(service):
    access = Access(password="right", accepted_fingerprint=fingerprint(service))
    watched = parse_watch_address(address(service))
    assert boot_state(address(service), access) == "OSRunning"
    assert look(watched, access).is_up
    service.boot_state = "MemoryInitializationStarted"
    seen = look(watched, access)
    assert (seen.state, seen.is_up) == ("MemoryInitializationStarted", False)
    service.stop()
    assert "connection" in look(watched, access).problem


def with_members(service, **changes):
    """Let every module of the service say something else."""
    original = service.resource

    def resource(path, query):
        found = original(path, query)
        return {**found, **changes} if found is not None and "CapacityMiB" in found and found["CapacityMiB"] else found

    service.resource = resource


@pytest.mark.parametrize(
    ("operating", "allowed", "running", "rated"),
    [
        (3200, [3200, 2933], 3200, 3200),
        (1600, [3200, 2933], 3200, 3200),  # Only its double is among the speeds: it is the clock.
        (1600, [1600, 3200], 1600, 3200),  # It is one of them itself.
        (1333, [1466, 1333], 2666, 2933),  # Below every rate of DDR4, both are clocks.
        (2933, [], 2933, None),
    ],
)
def test_a_speed_is_a_clock_or_a_rate(service, operating, allowed, running, rated):
    with_members(service, OperatingSpeedMhz=operating, AllowedSpeedsMHz=allowed)
    module = read(service).modules[0]
    assert module.running_mts.value == running
    assert (module.rated_mts.value if module.rated_mts else None) == rated


def test_what_keeps_its_content_is_no_working_memory(service):
    with_members(service, NonVolatileSizeMiB=131072, VolatileSizeMiB=16384)
    assert {module.size_bytes.value for module in read(service).modules} == {16 * GIB}
    with_members(service, NonVolatileSizeMiB=131072, VolatileSizeMiB=None)
    reading = read_over_redfish(address(service), Access(password="right")).reading
    assert reading.modules == ()
    assert {slot.kept_bytes for slot in reading.persistent} == {128 * GIB}
    assert not {slot.name for slot in reading.persistent} & {slot.name for slot in reading.slots}
    assert any("persistent memory" in notice.what for notice in reading.notices)


def test_modules_with_one_name_are_told_apart(service):
    with_members(service, DeviceLocator="DIMM")
    names = [slot.name for slot in read(service).slots]
    assert len(set(names)) == len(names)
