"""The stick's image and letters, byte by byte; which devices may be written to; windows of the memory."""

from __future__ import annotations

import io
import struct
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import ImageFont

import after_check
from after_check.cli.stick import write_command
from after_check.domain.ranges import both, first_of, merged, size_of, without
from after_check.files.errors import SourceError
from after_check.files.tree import KeptFiles
from after_check.host.physical import outside_window
from after_check.sources.firmware_map import firmware_ram, kernel_ram, starts_in_a_window
from after_check.sources.linux import identity_here
from after_check.stick.console_font import console_font, signs_of
from after_check.stick.disk_image import first_block, number_text, partitions, placed, write_image
from after_check.stick.memory_windows import larger_window, second_window, untested
from after_check.stick.write import NotWrittenError, Removable, checked, write_stick

MIB, GIB = 1 << 20, 1 << 30
RANGES = st.lists(st.tuples(st.integers(0, 60), st.integers(0, 60)), max_size=6)


def cells(ranges):
    return {cell for first, end in ranges for cell in range(first, end)}


@given(RANGES, RANGES)
def test_ranges_are_sets_of_bytes(one, other):
    assert cells(merged(one)) == cells(one)
    assert cells(without(one, other)) == cells(one) - cells(other)
    assert cells(both(one, other)) == cells(one) & cells(other)
    assert size_of(merged(one)) == len(cells(one))
    assert all(a[1] < b[0] for a, b in zip(merged(one), merged(one)[1:], strict=False))
    assert len(cells(first_of(one, 7))) == min(7, len(cells(one)))


def test_the_first_block():
    # UEFI 2.10, 5.2.1: boot code of 440 bytes, the disk's number, four entries of 16 bytes from byte 446, then 55 AA.
    parts = partitions(64 * MIB, 300 * MIB)
    block = first_block(parts, b"\xeb\x63" + bytes(510), 0x12345678)
    assert len(block) == 512
    assert block[:2] == b"\xeb\x63"
    assert block[440:444] == bytes.fromhex("78563412")
    assert block[510:] == b"\x55\xaa"
    data, system = block[446:462], block[462:478]
    assert (data[0], data[4], struct.unpack("<II", data[8:])) == (0x00, 0x0C, (2048, 64 * 2048))
    assert (system[0], system[4], struct.unpack("<II", system[8:])) == (0x80, 0xEF, (65 * 2048, 300 * 2048))
    assert block[478:510] == bytes(32)


def test_an_image_holds_its_partitions_where_the_table_says(tmp_path):
    parts = partitions(1 * MIB, 2 * MIB)
    files = (tmp_path / "one", tmp_path / "two")
    for number, file in enumerate(files, 1):
        file.write_bytes(bytes([number]) * number * MIB)
    write_image(tmp_path / "image", parts, files, b"", b"core", 1)
    data = (tmp_path / "image").read_bytes()
    assert data[512:516] == b"core"
    assert [data[place.first_byte] for place in placed(parts)] == [1, 2]
    assert len(data) == 4 * MIB
    with pytest.raises(ValueError, match="does not fit"):
        write_image(tmp_path / "image", parts, files, b"", bytes(1 * MIB), 1)


def test_a_number_is_written_as_systems_write_it():
    assert number_text(0x00ABCDEF) == "00AB-CDEF"


def test_the_console_has_every_sign_of_the_screens():
    # PSF 2 (kbd, psf.h): magic, version, header size, flags, count, bytes a character, height, width.
    package = Path(after_check.__file__).parent
    signs = signs_of(package)
    mono = next(iter(Path(ImageFont.__file__).parent.parent.glob("**/DejaVuSans*.ttf")), package / "handback/fonts/DejaVuSansCondensed.ttf")
    font = console_font(signs, mono, 10, 20)
    assert struct.unpack("<8I", font[:32]) == (0x864AB572, 0, 32, 1, 256, 2 * 20, 20, 10)
    table = font[32 + 256 * 40 :].split(b"\xff")
    assert table[0x41] == b"A"  # ASCII at its own number.
    assert {entry.decode() for entry in table} - {""} == set(signs)
    assert set("●○◐✓✗▸━█⏎") <= set(signs)
    blank, block = font[32 + 0x20 * 40 :][:40], table.index("█".encode())
    assert blank == bytes(40)
    assert font[32 + block * 40 :][:40] == b"\xff\xc0" * 20
    with pytest.raises(ValueError, match="more than the 256"):
        console_font(signs + "".join(chr(0x4E00 + number) for number in range(99)), mono, 8, 16)


@pytest.fixture
def bench(tmp_path):
    """A computer with a disk `sda`, a stick `sdb` that is mounted, and a stick `sdc` that is free."""
    for name, removable, size in (("sda", 0, 1 << 30), ("sdb", 1, 1 << 20), ("sdc", 1, 1 << 20)):
        block = tmp_path / "sys/block" / name
        (block / f"{name}1").mkdir(parents=True)
        (block / "removable").write_text(f"{removable}\n")
        (block / "size").write_text(f"{size}\n")
        (block / "device").mkdir()
        (block / "device/model").write_text("Pocket\x1b[31m 8\n")
    (tmp_path / "proc").mkdir()
    (tmp_path / "proc/mounts").write_text("/dev/sda1 / ext4 rw 0 0\n/dev/sdb1 /media/one vfat rw 0 0\n")
    image = tmp_path / "image"
    image.write_bytes(bytes(510) + b"\x55\xaa" + bytes(5 * MIB))
    return tmp_path, image


@pytest.mark.parametrize(
    ("device", "words"),
    [("sda", "is not removable"), ("sdb", "mounted at /media/one"), ("sdc1", "is a part of sdc"), ("sdz", "is no disk of this computer")],
)
def test_only_a_free_stick_is_written(bench, device, words):
    with pytest.raises(NotWrittenError, match=words):
        checked(Path("/dev") / device, bench[1], bench[0])


def test_a_stick_is_named_as_it_is_typed_back(bench):
    found = checked(Path("/dev/sdc"), bench[1], bench[0])
    assert found.to_type == "sdc 1 GB"
    assert "\x1b" not in found.words
    (bench[0] / "other").write_bytes(bytes(512))
    with pytest.raises(NotWrittenError, match="no image of a stick"):
        checked(Path("/dev/sdc"), bench[0] / "other", bench[0])
    (bench[0] / "sys/block/sdc/size").write_text("9\n")
    with pytest.raises(NotWrittenError, match=r"has 4.5 KiB, the image 5 MiB"):
        checked(Path("/dev/sdc"), bench[1], bench[0])


def test_what_is_only_called_as_a_stick_is_not_written(bench, tmp_path):
    """A file, a link or another device of the stick's name: the kernel's number decides, and not the name."""
    root, image = bench
    (root / "sys/block/sdc/dev").write_text("8:32\n")
    called = tmp_path / "elsewhere" / "sdc"
    called.parent.mkdir()
    called.write_bytes(bytes(8 * MIB))
    with pytest.raises(NotWrittenError, match="only called so"):
        checked(called, image, root)
    called.unlink()
    called.symlink_to("/dev/null")
    with pytest.raises(NotWrittenError, match="is a link to /dev/null"):
        checked(called, image, root)
    stick = Removable(tmp_path / "sdc", "", 8 * MIB, "8:32")
    (tmp_path / "sdc").symlink_to(tmp_path / "x")
    (tmp_path / "x").write_bytes(b"mine")
    with pytest.raises(NotWrittenError, match="nothing was written"):
        write_stick(stick, image)
    assert (tmp_path / "x").read_bytes() == b"mine"


def test_what_is_on_a_stick_is_said_before_it_is_gone(bench):
    root, image = bench
    (root / "sys/block/sdc/sdc1/size").write_text("2048\n")
    labels = root / "dev/disk/by-label"
    labels.mkdir(parents=True)
    (labels / "HOLIDAY").symlink_to("../../sdc1")
    assert checked(Path("/dev/sdc"), image, root).words.endswith("on it: sdc1 1 MiB HOLIDAY")


def test_what_is_written_is_read_back(bench, tmp_path):
    found = checked(Path("/dev/sdc"), bench[1], bench[0])
    device = tmp_path / "device"
    device.write_bytes(bytes(8 * MIB))
    stick = type(found)(device, found.name, 8 * MIB)
    write_stick(stick, bench[1], is_device=False)
    assert device.read_bytes()[: 5 * MIB + 512] == bench[1].read_bytes()
    with pytest.raises(NotWrittenError, match="is no device"):
        write_stick(stick, bench[1])


@pytest.mark.parametrize("typed", ["", "yes\n", "sdc\n", "sdb 1 GB\n", "sdc 2 GB\n"])
def test_nothing_is_written_before_name_and_size_are_typed_back(bench, monkeypatch, capsys, typed):
    device = bench[0] / "sdc"
    device.write_bytes(bytes(1 * MIB))
    (bench[0] / "sys/block/sdc/size").write_text("20000\n")
    monkeypatch.setattr("sys.stdin", io.StringIO(typed))
    assert write_command(device, bench[1], bench[0]) == 1
    out = capsys.readouterr().out
    assert "type its name and size: sdc 1 GB" in out
    assert "nothing was written" in out
    assert device.read_bytes() == bytes(1 * MIB)
    # The right words are taken however they are spaced; what is no device is refused even then.
    monkeypatch.setattr("sys.stdin", io.StringIO(" SDC  1 gb \n"))
    with pytest.raises(SourceError, match="is no device; nothing was written"):
        write_command(device, bench[1], bench[0])
    assert device.read_bytes() == bytes(1 * MIB)


def machine(window=b"aftercheck.window mem=384M", own="00100000-17ffffff", gib=2):
    """The files of a machine with so much memory below 4 GiB, whose system was started in a window."""
    end = gib * GIB
    entries = [(0, 0x9FBFF, "System RAM"), (0xF0000, 0xFFFFF, "Reserved"), (0x100000, end - 1, "System RAM")]
    files = {"proc/cmdline": b"quiet " + window, "proc/iomem": f"{own} : System RAM\n  01000000-01ffffff : Kernel code\n".encode()}
    for number, (first, last, kind) in enumerate(entries):
        for name, text in (("start", f"{first:#x}"), ("end", f"{last:#x}"), ("type", kind)):
            files[f"sys/firmware/memmap/{number}/{name}"] = f"{text}\n".encode()
    files["proc/meminfo"] = b"MemTotal: 300000 kB\nMemAvailable: 100000 kB\n"
    return KeptFiles(files)


def test_memory_outside_the_window_is_what_the_kernel_left():
    files = machine()
    assert starts_in_a_window(files)
    assert firmware_ram(files) == ((0, 0x9FC00), (0x100000, 2 * GIB))
    assert kernel_ram(files) == ((0x100000, 0x18000000),)
    assert outside_window(files) == ((384 * MIB, 2 * GIB),)
    # Elsewhere what the kernel leaves alone belongs to somebody, and without the right to know it nothing is touched.
    assert outside_window(machine(window=b"mem=384M")) == ()
    assert outside_window(machine(own="00000000-00000000")) == ()


def test_the_reading_counts_the_firmwares_memory():
    assert identity_here(machine()).usable_bytes == 2 * GIB - 1 * MIB + 0x9FC00
    assert identity_here(machine(window=b"")).usable_bytes == 300000 * 1024


def test_a_second_window_lies_where_everything_was_tested():
    files, tested = machine(), ((384 * MIB, 2 * GIB),)
    # 2 GiB need 384 MiB and 4 for the tables; the window begins at a whole 16 MiB of what was tested.
    assert second_window(files, tested) == "memmap=383M$1M mem=772M"
    second = machine(window=b"aftercheck.window", own="18000000-303fffff")
    assert untested(second, tested) == ((1 * MIB, 384 * MIB),)
    # What the first system held lies in single pages: one range is mapped, and not fifty thousand.
    pages = tuple((at, at + 4096) for at in range(16 * MIB, 384 * MIB, 8192))
    assert untested(second, (*pages, *tested)) == ((1 * MIB, 384 * MIB),)
    assert untested(second, ((1 * MIB, 200 * MIB + 4096), *tested)) == ((200 * MIB, 384 * MIB),)
    # Nothing left, nowhere to go, or not started so: no second start.
    assert second_window(files, ((1 * MIB, 2 * GIB),)) == ""
    assert second_window(files, ((384 * MIB, 500 * MIB),)) == ""
    assert second_window(machine(window=b""), tested) == ""


def test_much_memory_wants_a_larger_window():
    # 1 TiB: 384 MiB and 2 GiB for the tables (a 512th).
    assert larger_window(machine(gib=1024)) == "mem=2432M"
    assert larger_window(machine(gib=2)) == ""
    assert larger_window(machine(gib=1024, window=b"")) == ""
