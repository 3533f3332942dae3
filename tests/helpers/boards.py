"""Files of made-up boards with a device tree, by the Devicetree Specification and the kernel's bindings for LPDDR."""

from __future__ import annotations

from pathlib import Path

TREE = "sys/firmware/devicetree/base"


def cells(*numbers: int) -> bytes:
    return b"".join(number.to_bytes(4, "big") for number in numbers)


def board(folder: Path, tree: str = TREE) -> Path:
    """A board with 4 GiB in two ranges and two channels of LPDDR4: each 32 bits wide, of two devices of 16 bits and 8 Gbit."""
    files: dict[str, bytes] = {
        f"{tree}/model": b"Merle Mini 4\0",
        f"{tree}/serial-number": b"ME4-000817\0",
        f"{tree}/compatible": b"merle,mini-4\0merle,soc\0",
        f"{tree}/#address-cells": cells(2),
        f"{tree}/#size-cells": cells(2),
        f"{tree}/memory@40000000/device_type": b"memory\0",
        f"{tree}/memory@40000000/reg": cells(0, 0x40000000, 0, 0x80000000, 1, 0, 0, 0x80000000),
        "proc/meminfo": b"MemTotal:        4030464 kB\n",
        "proc/sys/kernel/arch": b"aarch64\n",
    }
    for channel in (0, 1):
        node = f"{tree}/memory-controller@fe000000/lpddr-channel{channel}"
        files |= {
            f"{node}/compatible": b"jedec,lpddr4-channel\0",
            f"{node}/io-width": cells(32),
            f"{node}/rank@0/compatible": b"lpddr4-ff,0100\0jedec,lpddr4\0",
            f"{node}/rank@0/density": cells(8192),
            f"{node}/rank@0/io-width": cells(16),
        }
    for name, data in files.items():
        path = folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(data)
    return folder
