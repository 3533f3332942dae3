"""Boards with a device tree: names, memory nodes, soldered devices. Devicetree Specification 0.4; the kernel's LPDDR bindings."""

from __future__ import annotations

import pytest

from after_check.domain.modules import Form, Generation
from after_check.domain.readings import NoticeKind
from after_check.files.tree import Tree
from after_check.sources.linux import identity_here, read_folder
from after_check.sources.open_source import take
from tests.helpers.boards import TREE, board, cells
from tests.sources.test_collection import collected

GIB = 1 << 30


@pytest.mark.parametrize("tree", [TREE, "proc/device-tree"])
def test_a_board_says_its_name_its_memory_and_what_is_soldered(tmp_path, tree):
    reading = read_folder(board(tmp_path, tree)).reading
    assert (reading.machine.model.value, reading.machine.serial.value) == ("Merle Mini 4", "ME4-000817")
    assert reading.total_bytes.value == 4 * GIB
    assert reading.total_bytes.where == "device tree, memory nodes"
    assert [slot.name for slot in reading.slots] == ["lpddr-channel0", "lpddr-channel1"]
    for slot in reading.slots:
        module = slot.module
        # 32 bits / 16 bits = two devices of 8192 Mbit: 2 GiB a channel.
        assert (module.size_bytes.value, module.generation.value, module.form.value) == (2 * GIB, Generation.LPDDR4, Form.SOLDERED)
        assert (module.data_width_bits.value, module.ranks.value) == (32, 1)
    assert not [notice for notice in reading.notices if notice.kind is NoticeKind.ABSENT]
    assert identity_here(Tree(tmp_path)) == reading.identity


def test_a_collected_board_reads_as_the_board_itself(tmp_path):
    machine = board(tmp_path / "machine")
    out = tmp_path / "out"
    out.mkdir()
    path, done = collected(out, tree=machine)
    assert done.returncode == 0, done.stderr
    there, here = take(str(path)).reading, read_folder(machine).reading
    assert (there.slots, there.total_bytes, there.machine) == (here.slots, here.total_bytes, here.machine)


@pytest.mark.parametrize(
    ("address", "size", "reg", "total"),
    [
        (cells(1), cells(1), cells(0x80000000, 0x40000000), GIB),
        (None, None, cells(0, 0x80000000, 0x40000000), GIB),  # two cells of address and one of size where nothing is said (2.3.5)
        (cells(2), cells(2), cells(0, 0, 0, 0x40000000, 0, 0, 0, 0x40000000), GIB),  # one range said twice is one
        (cells(2), cells(2), cells(0, 0, 0, 0x3B400000), None),  # the firmware took its share: no whole amount
        (cells(2), cells(2), cells(0, 0, 0), None),
        (cells(7), cells(9), cells(0, 0, 0, 0), None),
        (cells(2), cells(2), b"", None),
        (cells(2), cells(2), cells(0, 0, 0xFFFFFFFF, 0xFFFFFFFF), None),
    ],
)
def test_memory_nodes_by_their_cells(tmp_path, address, size, reg, total):
    root = board(tmp_path) / TREE
    for name, value in (("#address-cells", address), ("#size-cells", size)):
        (root / name).unlink()
        if value is not None:
            (root / name).write_bytes(value)
    (root / "memory@40000000" / "reg").write_bytes(reg)
    reading = read_folder(tmp_path).reading
    assert (reading.total_bytes.value if reading.total_bytes else None) == total


@pytest.mark.parametrize(
    ("name", "value"),
    [
        ("density", cells(0)),
        ("density", b"8192"[:3]),
        ("density", cells(0xFFFFFFFF)),
        ("io-width", cells(0)),
        ("io-width", cells(12)),
        ("io-width", b""),
    ],
)
def test_a_device_that_makes_no_sense_has_no_size(tmp_path, name, value):
    root = board(tmp_path) / TREE / "memory-controller@fe000000"
    for channel in (0, 1):
        (root / f"lpddr-channel{channel}" / "rank@0" / name).write_bytes(value)
    reading = read_folder(tmp_path).reading
    assert [module.size_bytes for module in reading.modules] == [None, None]
    assert all(module.form.value is Form.SOLDERED for module in reading.modules)


def test_firmware_tables_are_believed_before_a_tree(tmp_path):
    import shutil

    from tests.sources.test_collection import TREE as SAMPLE

    shutil.copytree(SAMPLE, tmp_path, dirs_exist_ok=True)
    before = read_folder(tmp_path).reading
    board(tmp_path / "x")
    shutil.copytree(tmp_path / "x" / "sys" / "firmware" / "devicetree", tmp_path / "sys" / "firmware" / "devicetree")
    after = read_folder(tmp_path).reading
    assert (after.slots, after.machine.model) == (before.slots, before.machine.model)
