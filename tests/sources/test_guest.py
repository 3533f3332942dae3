"""A real Linux guest: its kernel's own firmware tables, gathered by the collector under a rescue system's shell, and read here.

The guest is a kernel of the distribution with one program in its memory (busybox), started in an emulator. What it must read is
what the emulator was told to put into its tables, and what the guest's own tools say of it.
"""

from __future__ import annotations

import re
import shutil
import subprocess
from pathlib import Path

import pytest

from after_check.domain.readings import NoticeKind
from after_check.sources.collection import collector
from after_check.sources.open_source import take
from tests.helpers.commands import run_here
from tests.helpers.needs import needs

KERNEL = Path(__file__).parents[2] / ".venv" / "guest" / "vmlinuz"
EMULATOR = shutil.which("qemu-system-x86_64")
BUSYBOX = shutil.which("busybox")
MODULE = "type=17,loc_pfx=Slot,manufacturer=Orrin,serial=7F001A,part=OR-1536,speed=2933"
MACHINE = "type=1,manufacturer=Larkfield,product=Larkfield T1,serial=LT-004,uuid=5b0f7e3a-0d5c-4f0e-9f0e-2f1a6c1d9e77"

pytestmark = needs(bool(EMULATOR and BUSYBOX) and KERNEL.exists(), "an emulator (qemu-system-x86) and a kernel for it: run ./check as root")

INIT = """#!/bin/busybox sh
/bin/busybox --install -s /bin
export PATH=/bin
mount -t proc proc /proc; mount -t sysfs sys /sys; mount -t devtmpfs dev /dev
cd /tmp
sh /collect.sh out.txt 2>told; echo "=== ended $?"
echo "=== told"; cat told
echo "=== usable"; awk '/^MemTotal/ {print $2}' /proc/meminfo
echo "=== nodes"; ls -d /sys/devices/system/node/node* | wc -l
echo "=== collection"; cat out.txt
echo "=== end"
poweroff -f
"""


@pytest.fixture(scope="module")
def guest(tmp_path_factory):
    """Start the guest once; return the parts of what it wrote, by their names."""
    folder = tmp_path_factory.mktemp("guest")
    root = folder / "root"
    for name in ("bin", "proc", "sys", "dev", "tmp"):
        (root / name).mkdir(parents=True)
    shutil.copy(str(BUSYBOX), root / "bin" / "busybox")
    (root / "collect.sh").write_text(collector("sh"))
    (root / "init").write_text(INIT)
    (root / "init").chmod(0o755)
    packed = folder / "root.cpio"
    with packed.open("wb") as out:
        names = "\n".join(str(path.relative_to(root)) for path in [root, *sorted(root.rglob("*"))])
        subprocess.run(
            [str(BUSYBOX), "cpio", "-o", "-H", "newc"], cwd=root, input=names.encode(), stdout=out, stderr=subprocess.DEVNULL, check=True
        )
    command = [str(EMULATOR), "-accel", "tcg", "-cpu", "max,-hypervisor", "-m", "1536", "-nodefaults", "-display", "none", "-no-reboot"]
    command += ["-serial", "stdio", "-kernel", str(KERNEL), "-initrd", str(packed), "-append", "console=ttyS0 quiet panic=-1"]
    command += ["-smbios", MODULE, "-smbios", MACHINE]
    done = subprocess.run(command, stdin=subprocess.DEVNULL, capture_output=True, timeout=300, check=False)
    written = done.stdout.decode("utf-8", "replace").replace("\r\n", "\n")
    parts = re.split(r"^=== (\w+) ?(.*)$", written, flags=re.MULTILINE)
    assert "end" in parts, written[-2000:]
    return {name: (value or body).strip("\n") for name, value, body in zip(parts[1::3], parts[2::3], parts[3::3], strict=True)}


@pytest.fixture
def collection(guest, tmp_path):
    path = tmp_path / "guest.txt"
    path.write_text(f"{guest['collection']}\n")
    return path


def test_the_collector_ends_well_in_a_rescue_system(guest):
    assert guest["ended"] == "0", guest["told"]
    assert "not found" not in guest["told"]


def test_a_guests_own_tables_are_read_to_the_last_field(guest, collection):
    reading = take(str(collection)).reading
    assert not [notice for notice in reading.notices if notice.kind is NoticeKind.DAMAGED]
    (slot,) = reading.slots
    module = slot.module
    assert slot.name == "Slot 0"
    assert module.size_bytes.value == 1536 << 20
    assert (module.maker.value, module.part.value, module.serial.value) == ("Orrin", "OR-1536", "7F001A")
    assert reading.usable_bytes.value == int(guest["usable"]) * 1024
    assert reading.machine.model.value == "Larkfield T1"
    assert reading.machine.serial.value == "LT-004"


def test_the_command_reads_it_too(collection):
    done = run_here("read", str(collection))
    assert done.returncode == 0, done.stderr
    assert "1.5 GiB" in done.stdout
    assert "7F001A" in done.stdout
