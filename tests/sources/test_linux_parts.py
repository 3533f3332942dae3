"""What else a Linux tree tells: SPD through the kernel, temperatures, error counters, nodes, pressure, the log."""

from __future__ import annotations

import os

import pytest

from after_check.domain.case_files import CaseFile
from after_check.domain.facts import Source
from after_check.domain.readings import ErrorCounter, MemoryNode, NoticeKind
from after_check.files.tree import KeptFiles, Tree, UnreadableError
from after_check.judgement.judge import judge
from after_check.sources.linux import read_folder
from after_check.sources.linux_health import read_counters
from after_check.sources.open_source import decode_again
from after_check.texts import words_of
from tests.standards import spd_images as images

GIB = 1 << 30


@pytest.fixture
def tree(tmp_path):
    put(tmp_path, "proc/meminfo", "MemTotal:       32701824 kB\n")
    return tmp_path


def put(tree, name, content):
    path = tree / name
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(content if isinstance(content, bytes) else content.encode())


def test_modules_from_the_kernels_eeprom_drivers_in_order(tree):
    put(tree, "sys/bus/i2c/drivers/ee1004/1-0052/eeprom", bytes(images.ddr4()))
    put(tree, "sys/bus/i2c/drivers/ee1004/1-0050/eeprom", bytes(images.ddr4_profiles(images.ddr4())))
    put(tree, "sys/bus/i2c/drivers/ee1004/bind", "")
    put(tree, "sys/bus/i2c/drivers/at24/2-0050/eeprom", b"\xff" * 256)
    reading = read_folder(tree).reading
    assert [entry.device for entry in reading.spd] == ["1-0050", "1-0052"]
    first = reading.spd[0].module
    assert (first.size_bytes.value, first.size_bytes.source) == (16 * GIB, Source.SPD)
    assert first.rated_mts.value == 3600
    assert first.standard_mts.value == 3200
    assert str(first.timings.value) == "22-22-22-52"


def test_a_damaged_eeprom_is_named(tree):
    image = images.ddr4()
    image[30] ^= 0xFF
    put(tree, "sys/bus/i2c/drivers/ee1004/0-0050/eeprom", bytes(image))
    reading = read_folder(tree).reading
    damaged = [notice for notice in reading.notices if notice.kind is NoticeKind.DAMAGED]
    assert any("CRC over bytes 0 to 125" in notice.what for notice in damaged)
    assert "check sum wrong" in reading.spd[0].module.size_bytes.where


def test_temperatures_of_module_sensors_only(tree):
    put(tree, "sys/class/hwmon/hwmon0/name", "jc42\n")
    put(tree, "sys/class/hwmon/hwmon0/temp1_input", "41250\n")
    put(tree, "sys/class/hwmon/hwmon1/name", "fan\n")
    put(tree, "sys/class/hwmon/hwmon1/temp1_input", "99000\n")
    put(tree, "sys/class/hwmon/hwmon2/name", "spd5118\n")
    put(tree, "sys/class/hwmon/hwmon2/temp1_input", "not a number\n")
    (temperature,) = read_folder(tree).reading.temperatures
    assert temperature.celsius.value == 41.25
    assert temperature.celsius.source is Source.SYSTEM


def test_error_counters_by_module_and_by_controller(tree):
    base = "sys/devices/system/edac/mc"
    put(tree, f"{base}/mc0/ce_count", "7\n")
    put(tree, f"{base}/mc0/ue_count", "1\n")
    put(tree, f"{base}/mc0/dimm0/dimm_label", "CPU_A1\n")
    put(tree, f"{base}/mc0/dimm0/dimm_ce_count", "7\n")
    put(tree, f"{base}/mc0/dimm0/dimm_ue_count", "1\n")
    put(tree, f"{base}/mc0/dimm1/dimm_label", "CPU_B1\n")
    put(tree, f"{base}/mc0/dimm1/dimm_ce_count", "0\n")
    put(tree, f"{base}/mc1/ce_count", "2\n")
    put(tree, f"{base}/mc1/ue_count", "0\n")
    reading = read_folder(tree).reading
    assert reading.error_counters == (ErrorCounter("CPU_A1", 7, 1), ErrorCounter("CPU_B1", 0, None), ErrorCounter("mc1", 2, 0))
    assert reading.ecc_errors.value == 9
    codes = {finding.code: finding for finding in judge(CaseFile(reading)).findings}
    assert words_of(codes["ecc.corrected"]).title == "9 corrected memory errors: CPU_A1 and mc1"
    assert words_of(codes["ecc.uncorrected"]).title == "1 memory error that could not be corrected: CPU_A1"


def test_nodes_pressure_and_the_telling_lines_of_the_log(tree):
    put(tree, "sys/devices/system/node/node0/meminfo", "Node 0 MemTotal:       16350912 kB\nNode 0 MemFree: 1 kB\n")
    put(tree, "sys/devices/system/node/node1/meminfo", "Node 1 MemTotal:       16350912 kB\n")
    put(tree, "proc/pressure/memory", "some avg10=0.00 avg60=1.20 avg300=3.45 total=1234\nfull avg10=0.00 avg60=0.00 avg300=0.00 total=0\n")
    log = "[ 0.1] usb 1-1: new device\n[ 9.9] EDAC MC0: 1 CE on CPU_A1\n\x1b[31m[10.0] mce: [Hardware Error]: Machine check\n"
    put(tree, "kernel.log", log)
    reading = read_folder(tree).reading
    assert reading.nodes == (MemoryNode(0, 16350912 * 1024), MemoryNode(1, 16350912 * 1024))
    assert reading.pressure_percent.value == 3.45
    assert reading.log_lines == ("[ 9.9] EDAC MC0: 1 CE on CPU_A1", "[31m[10.0] mce: [Hardware Error]: Machine check")


def test_everything_that_was_read_is_evidence_and_decodes_again(tree):
    put(tree, "sys/bus/i2c/drivers/ee1004/0-0050/eeprom", bytes(images.ddr4()))
    put(tree, "sys/class/hwmon/hwmon0/name", "jc42\n")
    put(tree, "sys/class/hwmon/hwmon0/temp1_input", "41250\n")
    put(tree, "sys/devices/system/edac/mc/mc0/ce_count", "7\n")
    taken = read_folder(tree)
    again = decode_again(taken.evidence, "kept")
    assert again is not None
    for name in ("spd", "temperatures", "error_counters", "usable_bytes"):
        assert getattr(again.reading, name) == getattr(taken.reading, name)


def test_counters_that_are_no_numbers_are_passed_over(tree):
    put(tree, "sys/devices/system/edac/mc/mc0/ce_count", "many\n")
    put(tree, "sys/devices/system/node/node0/meminfo", "nonsense")
    put(tree, "proc/pressure/memory", "\xff\xfe")
    reading = read_folder(tree).reading
    assert (reading.error_counters, reading.nodes, reading.pressure_percent) == ((), (), None)


def test_reading_a_tree_stops_at_its_limits(tmp_path):
    (tmp_path / "long").write_bytes(b"x" * 5000)
    (tmp_path / "loop").symlink_to("loop")
    (tmp_path / "out").symlink_to("/etc/hostname")
    (tmp_path / "folder").mkdir()
    os.mkfifo(tmp_path / "pipe")
    tree = Tree(tmp_path)
    assert tree.read("long", 100) == b"x" * 100
    for name, reason in (("missing", "missing"), ("loop", "odd"), ("out", "odd"), ("folder", "odd"), ("pipe", "odd"), ("../x", "missing")):
        with pytest.raises(UnreadableError) as caught:
            tree.read(name)
        assert caught.value.reason == reason, name
    assert tree.names("missing") == []
    assert tree.names("..") == []


def test_an_endless_file_is_cut(tmp_path):
    """A device that never ends is no plain file; a link to one leaves the tree."""
    (tmp_path / "zero").symlink_to("/dev/zero")
    with pytest.raises(UnreadableError):
        Tree(tmp_path).read("zero")
    with pytest.raises(UnreadableError, match="no plain file"):
        Tree(tmp_path.__class__("/")).read("dev/zero")


def test_kept_files_answer_as_a_tree_does():
    files = KeptFiles({"a/b/c": b"123", "a/d": b"4"}, frozenset({"a/secret"}))
    assert files.names("a") == ["b", "d", "secret"]  # One that may not be read is there all the same.
    assert files.read("a/b/c", 2) == b"12"
    assert files.exists("a/secret")
    with pytest.raises(UnreadableError) as caught:
        files.read("a/secret")
    assert caught.value.reason == "rights"
    with pytest.raises(UnreadableError) as caught:
        files.read("a/x")
    assert caught.value.reason == "missing"


@pytest.mark.parametrize(
    ("options", "size_bytes"),
    [
        ("root=/dev/sda1 mem=16G quiet", 16 << 30),
        ("mem=512M", 512 << 20),
        ("mem=4194304k quiet", 4 << 30),
        ("root=/dev/sda1 memmap=16G", None),
        ("mem=", None),
        ("mem=0", None),
    ],
)
def test_a_limit_among_the_start_options(tree, options, size_bytes):
    put(tree, "proc/cmdline", options + "\n")
    put(tree, "proc/meminfo", "MemTotal: 16000000 kB\n")
    limit = read_folder(tree).reading.system_limit_bytes
    assert (limit.value if limit else None) == size_bytes


@pytest.mark.parametrize(
    ("files", "expected"),
    [
        # The controller counts 5 and its modules 3: two are nobody's (ras.rst: ce_count includes ce_noinfo_count).
        (
            {"ce_count": 5, "ue_count": 0, "dimm0/dimm_ce_count": 3, "dimm0/dimm_ue_count": 0},
            [("dimm0", 3, 0), ("mc0, no module named", 2, 0)],
        ),
        (
            {"ce_count": 0, "ue_count": 1, "dimm0/dimm_ce_count": 0, "dimm0/dimm_ue_count": 0},
            [("dimm0", 0, 0), ("mc0, no module named", 0, 1)],
        ),
        # What was not read is not known, and no nought.
        ({"dimm0/dimm_ce_count": 4}, [("dimm0", 4, None)]),
        ({"ue_noinfo_count": 2}, [("mc0", None, 2)]),
        ({"ce_count": 3, "ue_count": 0, "dimm0/dimm_ce_count": 3, "dimm0/dimm_ue_count": 0}, [("dimm0", 3, 0)]),
    ],
)
def test_no_error_of_a_controller_is_lost(tmp_path, files, expected):
    for name, count in files.items():
        path = tmp_path / "sys/devices/system/edac/mc/mc0" / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(f"{count}\n")
    assert read_counters(Tree(tmp_path), []) == tuple(ErrorCounter(*one) for one in expected)
