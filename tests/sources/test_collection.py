"""What the collectors write is read: on a real tree, with real shells, and cut or changed on the way."""

from __future__ import annotations

import hashlib
import json
import os
import shutil
import subprocess

import pytest

from after_check.domain.readings import NoticeKind
from after_check.files.errors import SourceError
from after_check.sources.collection import collector, posix_cksum
from after_check.sources.evidence import RawEvidence
from after_check.sources.linux import read_folder
from after_check.sources.open_source import decode_again, take
from tests.conftest import SAMPLES
from tests.helpers.commands import run_here

TREE = SAMPLES / "0419" / "fitted"


def collected(folder, tree=TREE, system="Linux", path=None, shell="sh"):
    script = folder / "collect.sh"
    script.write_text(collector("sh"))
    environment = {**os.environ, "COLLECT_ROOT": str(tree), "COLLECT_SYSTEM": system, **({"PATH": path} if path else {})}
    done = subprocess.run(
        [*([shell, "sh"] if shell == "busybox" else [shell]), str(script), "out.txt"],
        cwd=folder,
        env=environment,
        capture_output=True,
        text=True,
        check=False,
    )
    return folder / "out.txt", done


SHELLS = [name for name in ("sh", "dash", "bash", "zsh", "busybox") if shutil.which(name)]


@pytest.mark.parametrize("shell", SHELLS)
def test_a_collected_machine_reads_as_the_machine_itself(tmp_path, shell):
    path, done = collected(tmp_path, shell=shell)
    assert done.returncode == 0, done.stderr
    assert "This will be read:" in done.stderr
    assert "/sys/bus/i2c/drivers/ee1004/*/eeprom" in done.stderr
    there, here = take(str(path)), read_folder(TREE)
    assert there.reading.slots == here.reading.slots
    assert (there.reading.usable_bytes, there.reading.machine) == (here.reading.usable_bytes, here.reading.machine)
    assert not [notice for notice in there.reading.notices if notice.kind is NoticeKind.DAMAGED]
    # The file is the evidence, and reads the same again.
    assert [reference.name for reference in there.reading.evidence] == ["collection.txt"]
    again = decode_again((RawEvidence("collection.txt", path.read_bytes()),), "x")
    assert again is not None
    assert again.reading.slots == there.reading.slots


def test_without_base64_the_bytes_come_in_hexadecimal(tmp_path):
    tools = tmp_path / "bin"
    tools.mkdir()
    for name in ("sh", "head", "od", "cksum", "uname", "tr", "cat"):
        (tools / name).symlink_to(shutil.which(name))
    path, done = collected(tmp_path, path=str(tools))
    assert done.returncode == 0, done.stderr
    assert "@hex /proc/meminfo" in path.read_text()
    assert take(str(path)).reading.slots == read_folder(TREE).reading.slots


@pytest.mark.parametrize(("has", "says"), [("sha256sum", "@sha256 "), ("wc", "@length ")])
def test_without_the_commands_sum_the_end_is_still_known(tmp_path, has, says):
    tools = tmp_path / "bin"
    tools.mkdir()
    for name in ("sh", "head", "base64", "uname", "tr", "cat", has):
        (tools / name).symlink_to(shutil.which(name))
    path, done = collected(tmp_path, path=str(tools))
    assert done.returncode == 0, done.stderr
    assert path.read_text().splitlines()[-1].startswith(says)
    assert not [notice for notice in take(str(path)).reading.notices if notice.kind is NoticeKind.DAMAGED]
    whole = path.read_text()
    for damaged in (whole[: len(whole) // 2], whole.replace("@base64 /proc/meminfo\n", "@base64 /proc/meminfo\nAAAA")):
        path.write_text(damaged)
        assert any(notice.kind is NoticeKind.DAMAGED for notice in take(str(path)).reading.notices)


@pytest.mark.parametrize("shell", SHELLS)
def test_in_a_small_root_and_as_another_user_what_is_not_there_is_left_out(tmp_path, shell):
    """A root as a container has it: no firmware, one file of /proc; and a file that only root may read."""
    root = tmp_path / "root"
    (root / "proc").mkdir(parents=True)
    (root / "proc" / "meminfo").write_text("MemTotal: 8000000 kB\n")
    secret = root / "sys/firmware/dmi/tables/DMI"
    secret.parent.mkdir(parents=True)
    secret.write_bytes(b"x")
    secret.chmod(0)
    for folder in (tmp_path, *list(tmp_path.parents)[:3]):
        folder.chmod(0o755)
    work = tmp_path / "work"
    work.mkdir()
    work.chmod(0o777)
    (work / "collect.sh").write_text(collector("sh"))
    command = [*([shell, "sh"] if shell == "busybox" else [shell]), "collect.sh", "out.txt"]
    user = {"user": "nobody"} if os.geteuid() == 0 else {}
    environment = {**os.environ, "COLLECT_ROOT": str(root), "COLLECT_SYSTEM": "Linux"}
    done = subprocess.run(command, cwd=work, env=environment, capture_output=True, text=True, check=False, **user)
    assert done.returncode == 0, done.stderr
    reading = take(str(work / "out.txt")).reading
    assert reading.usable_bytes.value == 8_000_000 * 1024
    assert any(notice.kind is NoticeKind.RIGHTS and "firmware tables" in notice.what for notice in reading.notices)


def test_nothing_is_written_over(tmp_path):
    collected(tmp_path)
    before = (tmp_path / "out.txt").read_bytes()
    _, done = collected(tmp_path)
    assert done.returncode != 0
    assert "is there already" in done.stderr
    assert (tmp_path / "out.txt").read_bytes() == before


@pytest.mark.parametrize(
    ("change", "says"),
    [
        (lambda text: text[: len(text) // 2], "cut off before its end"),
        (lambda text: text.replace("@base64 /proc/meminfo", "@base64 /proc/meminfo2"), "changed after it was made"),
        (lambda text: text.replace("\n@end\n", "\n@base64 /proc/version\n!!!\n@end\n"), "proc/version is damaged"),
    ],
)
def test_a_collection_that_was_cut_or_changed_says_so(tmp_path, change, says):
    path, _ = collected(tmp_path)
    path.write_text(change(path.read_text()))
    assert any(says in notice.what for notice in take(str(path)).reading.notices)


def test_line_ends_of_another_system_change_nothing(tmp_path):
    path, _ = collected(tmp_path)
    path.write_bytes(path.read_bytes().replace(b"\n", b"\r\n"))
    assert not [notice for notice in take(str(path)).reading.notices if notice.kind is NoticeKind.DAMAGED]


def test_what_may_not_be_read_is_said(tmp_path):
    path, _ = collected(tmp_path)
    lines = path.read_text().split("\n")
    at = lines.index("@base64 /sys/firmware/dmi/tables/DMI")
    end = next(index for index in range(at + 1, len(lines)) if lines[index].startswith("@"))
    path.write_text("\n".join([*lines[:at], "@rights /sys/firmware/dmi/tables/DMI", *lines[end:]]))
    reading = take(str(path)).reading
    assert any(notice.kind is NoticeKind.RIGHTS for notice in reading.notices)


def test_the_sum_is_that_of_the_command():
    for data in (b"", b"a", b"after-check\n" * 500, bytes(range(256))):
        done = subprocess.run(["cksum"], input=data, capture_output=True, check=True)
        assert done.stdout.split()[0] == str(posix_cksum(data)).encode()


MODULE = {
    **{"Capacity": 8589934592, "Speed": 2666, "ConfiguredClockSpeed": 2400, "FormFactor": 12, "SMBIOSMemoryType": 26},
    **{"Manufacturer": "Ostrel", "PartNumber": "OS4S-8", "SerialNumber": "1A2B", "DeviceLocator": "ChannelA-DIMM0", "BankLabel": "BANK 0"},
}


def test_what_the_other_shell_writes(tmp_path):
    """Recorded by hand after its script: classes as JSON, UTF-8, a SHA-256 over the lines above."""
    document = json.dumps({"Win32_PhysicalMemory": [MODULE], "Win32_ComputerSystem": [{"Model": "Larkfield S1"}]}, indent=4)
    text = f"after-check collection 1\n@rights Win32_OperatingSystem\n@json cim\n{document}\n@end\n"
    path = tmp_path / "collected.txt"
    path.write_text(f"{text}@sha256 {hashlib.sha256(text.encode()).hexdigest()}\n")
    reading = take(str(path)).reading
    assert [slot.name for slot in reading.slots] == ["ChannelA-DIMM0"]
    assert reading.machine.model.value == "Larkfield S1"
    assert [notice.kind for notice in reading.notices] == [NoticeKind.RIGHTS]
    path.write_text(f"{text.replace('2400', '2666')}@sha256 {hashlib.sha256(text.encode()).hexdigest()}\n")
    assert any("check sum is wrong" in notice.what for notice in take(str(path)).reading.notices)


def test_the_script_of_the_other_shell_is_whole():
    """Without that shell here: every bracket and quote is closed, outside of remarks, and each class it reads is one that is taken."""
    script = "\n".join(line for line in collector("powershell").split("\n") if not line.lstrip().startswith("#"))
    for opened, closed in ("()", "{}", "[]"):
        assert script.count(opened) == script.count(closed), opened
    assert script.count("'") % 2 == 0
    for name in ("Win32_PhysicalMemory", "Win32_PhysicalMemoryArray", "Win32_ComputerSystem", "Win32_OperatingSystem"):
        assert f"'{name}'" in script


def test_the_command_prints_the_scripts():
    assert run_here("collector", "--for", "sh").stdout == collector("sh")
    assert run_here("collector", "--for", "powershell").stdout == collector("powershell")
    refused = run_here("collector", "--for", "fish")
    assert refused.returncode != 0
    assert "Known: sh, powershell" in refused.stderr


def test_a_collection_of_a_newer_program_is_refused(tmp_path):
    path = tmp_path / "new.txt"
    path.write_text("after-check collection 9\n@end\n")
    with pytest.raises(SourceError, match="version"):
        take(str(path))
