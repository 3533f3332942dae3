"""Whatever a reading looks at on this machine is fetched from another one, too."""

from __future__ import annotations

from fnmatch import fnmatch
from pathlib import Path

import pytest

from after_check.files.tree import Tree
from after_check.sources.collection import collector
from after_check.sources.linux import identity_here, read_files
from after_check.sources.linux_health import KERNEL_LOG
from after_check.sources.machine_files import MACHINE_FILES

ONLY_IN_FOLDERS = {"DMI", "smbios_entry_point", "meminfo", "cpuinfo", "cmdline", KERNEL_LOG, "dmesg", "dmesg.txt", "var/log/kern.log"}
"""Names that somebody may have given to files that he copied; a running machine does not have them."""
HERE = {
    "proc/meminfo": "MemTotal: 16310000 kB\n",
    "proc/cmdline": "root=/dev/sda1 mem=4G aftercheck.window\n",
    "proc/cpuinfo": "model name : Brackwater B7\n",
    "proc/sys/kernel/arch": "x86_64\n",
    "proc/sys/kernel/random/boot_id": "00000000-1111-4222-8333-444444444444\n",
    "proc/pressure/memory": "some avg10=0.00 avg60=0.00 avg300=1.50 total=5\n",
    "etc/machine-id": "",
    "sys/class/dmi/id/product_name": "Larkfield T1\n",
    "sys/hypervisor/type": "x\n",
    "sys/bus/i2c/drivers/eeprom/0-0050/eeprom": "x",
    "sys/class/hwmon/hwmon1/name": "jc42\n",
    "sys/class/hwmon/hwmon1/temp1_input": "41000\n",
    "sys/devices/system/edac/mc/mc0/ce_count": "0\n",
    "sys/devices/system/edac/mc/mc0/ue_count": "0\n",
    "sys/devices/system/edac/mc/mc0/rank0/dimm_ce_count": "0\n",
    "sys/devices/system/edac/mc/mc0/dimm0/dimm_ue_count": "0\n",
    "sys/devices/system/node/node0/meminfo": "Node 0 MemTotal: 16310000 kB\n",
    "sys/firmware/memmap/0/start": "0x0\n",
    "sys/firmware/memmap/0/end": "0xffff\n",
    "sys/firmware/memmap/0/type": "System RAM\n",
}


class Watched(Tree):
    """A tree that remembers what was looked at."""

    def __init__(self, root: Path) -> None:
        super().__init__(root)
        self.seen: set[str] = set()

    def exists(self, name: str) -> bool:
        self.seen.add(name)
        return super().exists(name)

    def read(self, name: str, most_bytes: int = 1 << 20) -> bytes:
        self.seen.add(name)
        return super().read(name, most_bytes)


@pytest.fixture
def tree(tmp_path):
    for name, text in HERE.items():
        (tmp_path / name).parent.mkdir(parents=True, exist_ok=True)
        (tmp_path / name).write_text(text)
    return Watched(tmp_path)


@pytest.mark.parametrize("read", [lambda tree: read_files(tree, "x"), identity_here], ids=["reading", "identity"])
def test_every_file_that_is_looked_at_is_in_the_list(tree, read):
    read(tree)
    assert "proc/cmdline" in tree.seen
    missing = {name for name in tree.seen - ONLY_IN_FOLDERS if not any(fnmatch(name, pattern) for pattern in MACHINE_FILES)}
    assert not missing


def test_the_collector_names_the_files_of_the_list():
    script = collector("sh")
    assert not [name for name in MACHINE_FILES if f"\n/{name}\n" not in script]
    assert "@MACHINE_FILES@" not in script
