"""Readings of copied trees, firmware tables and saved readings, sound and spoiled."""

from __future__ import annotations

import json
import os
import shutil
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from after_check.domain.boards import Filling
from after_check.domain.case_files import CaseFile
from after_check.domain.facts import Source
from after_check.domain.modules import Form, Generation
from after_check.domain.readings import NoticeKind
from after_check.files.errors import SourceError
from after_check.judgement.judge import judge
from after_check.sources import saved
from after_check.sources.firmware_table import reading_from_tables
from after_check.sources.linux import read_folder, read_this_machine
from after_check.sources.open_source import NotationError, decode_again, take, take_promise
from after_check.standins.firmware_tables import SimulatedMachine, SimulatedModule, entry_point, tables

GIB = 1 << 30
TABLES = "sys/firmware/dmi/tables"


def machine(**changes) -> SimulatedMachine:
    module = SimulatedModule(16384, "DDR4", "UDIMM", 3200, 2667, maker="Ostrel", part="OS4-16", serial="00C0FFEE", ranks=2)
    described = {
        "maker": "Larkfield",
        "model": "Larkfield T1",
        "firmware_version": "1.7",
        "slots": {"DIMM_A1": None, "DIMM_A2": module, "DIMM_B1": None, "DIMM_B2": module},
        "limit_mib": 65536,
    }
    return SimulatedMachine(**{**described, **changes})


@pytest.fixture
def tree(tmp_path):
    folder = tmp_path / "tree"
    (folder / TABLES).mkdir(parents=True)
    (folder / "proc").mkdir()
    table = tables(machine())
    (folder / TABLES / "DMI").write_bytes(table)
    (folder / TABLES / "smbios_entry_point").write_bytes(entry_point(table))
    (folder / "proc" / "meminfo").write_text("MemTotal:       32701824 kB\nMemFree:  100 kB\n")
    return folder


def test_a_whole_tree(tree):
    taken = read_folder(tree)
    reading = taken.reading
    assert [slot.name for slot in reading.slots] == ["DIMM_A1", "DIMM_A2", "DIMM_B1", "DIMM_B2"]
    assert [slot.filling for slot in reading.slots] == [Filling.EMPTY, Filling.FILLED, Filling.EMPTY, Filling.FILLED]
    module = reading.modules[0]
    assert module.size_bytes is not None
    assert (module.size_bytes.value, module.size_bytes.source) == (16 * GIB, Source.FIRMWARE)
    assert "type 17, handle 0x1101" in module.size_bytes.where
    assert module.generation is not None
    assert module.generation.value is Generation.DDR4
    assert module.form is not None
    assert module.form.value is Form.UDIMM
    # 2667 is the rounding of 2666.67 that this firmware chose.
    assert (module.rated_mts.value, module.running_mts.value) == (3200, 2666)
    assert (module.maker.value, module.part.value, module.serial.value) == ("Ostrel", "OS4-16", "00C0FFEE")
    assert reading.usable_bytes is not None
    assert (reading.usable_bytes.value, reading.usable_bytes.source) == (32701824 * 1024, Source.SYSTEM)
    assert reading.array_limit_bytes is not None
    assert reading.array_limit_bytes.value == 64 * GIB
    assert reading.machine.model is not None
    assert reading.machine.model.value == "Larkfield T1"
    assert reading.notices == ()
    assert reading.mapped[0].last_byte == 32 * GIB - 1


def test_evidence_is_kept_with_its_hash_and_decodes_again(tree):
    taken = read_folder(tree)
    by_name = {piece.name: piece for piece in taken.evidence}
    assert by_name[f"{TABLES}/DMI"].data == (tree / TABLES / "DMI").read_bytes()
    assert {ref.sha256 for ref in taken.reading.evidence} == {piece.sha256 for piece in taken.evidence}
    again = decode_again(taken.evidence, taken.reading.origin)
    assert again is not None
    assert again.reading.slots == taken.reading.slots
    assert again.reading.usable_bytes == taken.reading.usable_bytes


def test_this_machine_gives_a_reading_that_says_what_it_could_not_see():
    reading = read_this_machine().reading
    assert reading.usable_bytes is not None
    assert reading.slots or reading.notices


def test_missing_tables_are_named_with_what_would_help(tree):
    shutil.rmtree(tree / "sys")
    reading = read_folder(tree).reading
    (notice,) = reading.notices
    assert notice.kind is NoticeKind.ABSENT
    assert "type what the firmware setup page" in notice.help
    assert reading.usable_bytes is not None


@pytest.mark.skipif(os.geteuid() == 0, reason="root may read everything; the test below replaces it")
def test_missing_rights_for_real(tree):
    (tree / TABLES / "DMI").chmod(0)
    assert read_folder(tree).reading.notices[0].kind is NoticeKind.RIGHTS


def test_missing_rights_as_an_ordinary_user(tree):
    """As root the kernel lets everything through, so a child that gives its rights up does the reading."""
    if os.geteuid() != 0:
        pytest.skip("only root can become somebody else")
    for folder in [tree, *tree.parents]:
        folder.chmod(0o755)
        if folder.name.startswith("pytest-of-"):
            break
    for path in tree.rglob("*"):
        path.chmod(0o755 if path.is_dir() else 0o644)
    (tree / TABLES / "DMI").chmod(0o600)
    out, into = os.pipe()
    child = os.fork()
    if child == 0:
        try:
            os.setuid(65534)
            notices = read_folder(tree).reading.notices
            os.write(into, notices[0].kind.value.encode() + b"|" + notices[0].help.encode())
        finally:
            os._exit(0)
    os.close(into)
    os.waitpid(child, 0)
    said = os.read(out, 1000).decode()
    os.close(out)
    assert said.startswith("rights|")
    assert "root" in said


def test_a_virtual_machine_is_told_by_firmware_and_by_processor(tree):
    table = tables(machine(is_virtual=True))
    (tree / TABLES / "DMI").write_bytes(table)
    reading = read_folder(tree).reading
    assert reading.virtual is not None
    assert (reading.virtual.value, reading.virtual.source) == (True, Source.FIRMWARE)
    (tree / TABLES / "DMI").write_bytes(tables(machine()))
    (tree / "proc" / "cpuinfo").write_text("processor : 0\nflags\t\t: fpu hypervisor sse\n")
    reading = read_folder(tree).reading
    assert reading.virtual is not None
    assert (reading.virtual.value, reading.virtual.source) == (True, Source.SYSTEM)
    assert any(notice.kind is NoticeKind.VIRTUAL for notice in reading.notices)


def test_a_link_out_of_the_folder_and_a_pipe_are_not_followed(tree, tmp_path):
    outside = tmp_path / "secret"
    outside.write_bytes((tree / TABLES / "DMI").read_bytes())
    (tree / TABLES / "DMI").unlink()
    (tree / TABLES / "DMI").symlink_to(outside)
    reading = read_folder(tree).reading
    assert reading.slots == ()
    assert "leaves the folder" in reading.notices[0].what
    (tree / TABLES / "DMI").unlink()
    os.mkfifo(tree / TABLES / "DMI")
    assert "no plain file" in read_folder(tree).reading.notices[0].what


def test_an_empty_table_and_an_empty_meminfo(tree):
    (tree / TABLES / "DMI").write_bytes(b"")
    (tree / "proc" / "meminfo").write_bytes(b"")
    reading = read_folder(tree).reading
    assert [notice.kind for notice in reading.notices] == [NoticeKind.DAMAGED, NoticeKind.DAMAGED]
    assert reading.usable_bytes is None


def test_a_folder_that_is_no_tree_is_refused(tmp_path):
    with pytest.raises(SourceError, match="no firmware tables and no meminfo") as caught:
        read_folder(tmp_path)
    assert "proc/meminfo" in caught.value.help


@settings(max_examples=60)
@given(st.integers(0, len(tables(machine()))))
def test_a_table_cut_anywhere_gives_a_reading_that_says_so(cut):
    whole = tables(machine())
    reading = reading_from_tables(whole[:cut], entry_point(whole), "DMI")
    if cut < len(whole) - 2:
        assert any(notice.kind in (NoticeKind.DAMAGED, NoticeKind.ABSENT) for notice in reading.notices)
    judge(CaseFile(reading))


@settings(max_examples=150)
@given(st.data())
def test_mutated_tables_never_crash_reading_or_judgement(data):
    raw = bytearray(tables(machine()))
    for _ in range(data.draw(st.integers(1, 12))):
        raw[data.draw(st.integers(0, len(raw) - 1))] = data.draw(st.integers(0, 255))
    reading = reading_from_tables(bytes(raw), None, "DMI")
    judge(CaseFile(reading, reading, take_promise("2x16G DDR4-3200; dual")))


def test_strings_of_the_firmware_lose_escapes_and_fillers():
    evil = SimulatedModule(8192, "DDR4", "UDIMM", 3200, 3200, maker="\x1b[2J[red]Evil", part="To be filled by O.E.M.", serial="00000000")
    reading = reading_from_tables(tables(machine(slots={"A1": evil, "A2": None})), None, "DMI")
    (module,) = reading.modules
    assert module.maker is not None
    assert module.maker.value == "[2J[red]Evil"
    assert module.part is None
    assert module.serial is None


def test_equal_locators_are_told_apart_by_their_banks():
    module = SimulatedModule(8192, "DDR4", "UDIMM", 3200, 3200)
    slots = {"DIMM 0": module, "DIMM 0 ": None}
    reading = reading_from_tables(tables(machine(slots=slots, banks={"DIMM 0": "P0 CHANNEL A", "DIMM 0 ": "P0 CHANNEL B"})), None, "DMI")
    assert [slot.name for slot in reading.slots] == ["P0 CHANNEL A DIMM 0", "P0 CHANNEL B DIMM 0"]
    assert [slot.place.channel for slot in reading.slots if slot.place] == ["A", "B"]


def test_a_bare_table_and_one_behind_its_entry_point(tmp_path):
    table = tables(machine())
    (tmp_path / "bare.bin").write_bytes(table)
    (tmp_path / "dump.bin").write_bytes(entry_point(table) + table)
    assert take(str(tmp_path / "bare.bin")).reading.slots == take(str(tmp_path / "dump.bin")).reading.slots
    assert len(take(str(tmp_path / "bare.bin")).reading.modules) == 2


def test_saved_readings_come_back_as_they_were(tree, tmp_path):
    taken = read_folder(tree)
    path = tmp_path / "saved.json"
    path.write_text(json.dumps(saved.dump(taken)))
    assert take(str(path)) == taken


def test_a_saved_reading_is_data_and_is_cleaned_and_checked(tree, tmp_path):
    document = saved.dump(read_folder(tree))
    document["reading"]["machine"]["model"]["value"] = "\x1b[31mT1\x9b"
    assert saved.load(json.dumps(document).encode(), "f").reading.machine.model.value == "[31mT1"
    broken = json.loads(json.dumps(document))
    broken["reading"]["usable_bytes"]["value"] = -5
    with pytest.raises(SourceError, match=r"usable_bytes.*-5"):
        saved.load(json.dumps(broken).encode(), "f")
    forged = json.loads(json.dumps(document))
    forged["raw"][0]["base64"] = "AAAA"
    with pytest.raises(SourceError, match="not what the reading was decoded from"):
        saved.load(json.dumps(forged).encode(), "f")


@pytest.mark.parametrize(
    ("content", "part"),
    [
        (b"{", "no JSON"),
        (b"{}", "no saved reading"),
        (b'{"format": "after-check reading", "version": 99}', "version 99"),
        (b'{"format": "after-check reading", "version": 1, "reading": {"slots": 5}}', "slots"),
        (b'{"format": "after-check reading", "version": 1, "reading": {"slots": [{"name": "A", "filling": "filled"}]}}', "slot"),
        (b"[" * 100_000, "no JSON"),
        (b"", "empty"),
        ("16G \xe9".encode("latin-1"), "no text in UTF-8"),
    ],
)
def test_spoiled_files_get_a_clear_error(tmp_path, content, part):
    path = tmp_path / "file"
    path.write_bytes(content)
    with pytest.raises(SourceError, match=part) as caught:
        take(str(path))
    assert str(path) in str(caught.value)


def test_a_text_file_holds_notation_with_remarks(tmp_path):
    path = tmp_path / "reading.txt"
    path.write_text("# from the sticker\nA1=8G DDR4-2400 # left\n\nA2=-;\nrun 2400\n")
    reading = take(str(path)).reading
    assert len(reading.modules) == 1
    assert reading.empty_slots == ("A2",)


def test_a_name_that_is_no_file_and_no_notation(tmp_path):
    with pytest.raises(NotationError, match="file or a folder"):
        take(str(tmp_path / "missing.bin"))


def test_the_published_schema_is_the_one_of_the_code():
    published = json.loads((Path(__file__).parents[2] / "docs" / "reading.schema.json").read_text())
    assert published == json.loads(json.dumps(saved.schema()))


@pytest.mark.parametrize(
    ("path", "value", "part"),
    [
        (("usable_bytes", "value"), 0.5, "reading"),
        (("usable_bytes", "value"), 2**70, "usable_bytes"),
        (("usable_bytes", "value"), "many", "usable_bytes"),
        (("usable_bytes", "source"), "rumour", "source"),
        (("slots",), [{"name": "A1", "filling": "half"}], "filling"),
        (("slots",), [{"name": "A1", "filling": "filled", "module": {"rated_mts": {"value": 0, "source": "typed"}}}], "rated_mts"),
        (("slots",), [{"name": "A1", "filling": "filled", "module": {"rated_mts": {"value": 99999, "source": "typed"}}}], "rated_mts"),
        (("taken_at",), "yesterday", "taken_at"),
        (("channels",), {"value": -3, "source": "typed"}, "channels"),
    ],
)
def test_values_that_no_machine_has_are_refused_with_their_place(tree, path, value, part):
    document = saved.dump(read_folder(tree))
    node = document["reading"]
    for key in path[:-1]:
        node = node.setdefault(key, {})
    node[path[-1]] = value
    with pytest.raises(SourceError, match=part):
        saved.load(json.dumps(document).encode(), "f.json")


@settings(max_examples=200)
@given(
    st.recursive(
        st.none() | st.booleans() | st.integers() | st.text(max_size=8),
        lambda inner: (
            st.lists(inner, max_size=3)
            | st.dictionaries(st.sampled_from(["slots", "name", "value", "source", "module", "loose", "usable_bytes"]), inner, max_size=3)
        ),
    )
)
def test_any_json_in_a_saved_reading_is_a_reading_or_a_clear_error(body):
    document = {"format": saved.FORMAT, "version": saved.VERSION, "reading": body}
    try:
        judge(CaseFile(saved.load(json.dumps(document).encode(), "f.json").reading))
    except SourceError as error:
        said = str(error)
        assert said.startswith("f.json")


def test_a_table_that_is_cut_off_leaves_its_other_slots_unknown():
    whole = tables(machine())
    # The cut lies behind the first device: the array announces four slots and one is left.
    first_device_ends = whole.index(b"DIMM_A1") + len(b"DIMM_A1") + 2
    reading = reading_from_tables(whole[:first_device_ends], None, "DMI")
    assert reading.slot_count.value == 4
    assert [slot.filling for slot in reading.slots] == [Filling.EMPTY, Filling.UNKNOWN, Filling.UNKNOWN, Filling.UNKNOWN]
    codes = {finding.code for finding in judge(CaseFile(reading, None, take_promise("2x16G; run 3200"))).findings}
    assert "module.missing" not in codes
    assert "module.unreadable" in codes


def test_other_arrays_than_system_memory_are_left_out():
    """A video or cache memory has a type 16 of its own with another use, and its devices are no slots."""
    from after_check.standins.firmware_tables import structure

    video = structure(16, 0x2000, bytes([3, 4, 3]) + (1024).to_bytes(4, "little") + b"\xfe\xff" + b"\x01\x00", [])
    device = bytearray(0x24)
    device[0:2] = (0x2000).to_bytes(2, "little")
    device[8:10] = (64).to_bytes(2, "little")
    extra = video + structure(17, 0x2001, bytes(device), [])
    whole = tables(machine())
    reading = reading_from_tables(whole[:-6] + extra + whole[-6:], None, "DMI")
    assert len(reading.slots) == 4


def test_an_array_that_announces_fewer_devices_than_are_listed(tmp_path):
    """DSP0134, 7.17: the number of devices; where the list has more, the list is what there is, and that is said."""
    machine = SimulatedMachine("Larkfield", "Larkfield S1", "1.0", dict.fromkeys(("A1", "A2", "B1", "B2")), 65536)
    table = bytearray(tables(machine))
    at = _array_at(table)
    table[at + 0x0D : at + 0x0F] = (2).to_bytes(2, "little")
    path = tmp_path / "table.bin"
    path.write_bytes(bytes(table))
    reading = take(str(path)).reading
    assert (reading.slot_count.value, len(reading.slots)) == (4, 4)
    assert any("announce 2 memory devices and list 4" in notice.what for notice in reading.notices)


def _array_at(table):
    """Where the structure of type 16 begins: structures end with two zeros (DSP0134, 6.1)."""
    at = 0
    while table[at] != 16:
        at = table.index(b"\0\0", at + table[at + 1]) + 2
    return at
