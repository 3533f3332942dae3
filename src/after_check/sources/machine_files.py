"""The files of a Linux machine that a reading looks at: one list for this machine, for SSH and for the collector.

A name with a * stands for all that fit, as a shell expands it. A reader takes its names from here, so that what is read on
this machine is also fetched from another one.
"""

from __future__ import annotations

TABLES = "sys/firmware/dmi/tables/DMI"
ENTRY_POINT = "sys/firmware/dmi/tables/smbios_entry_point"
NAMES_FOLDER = "sys/class/dmi/id"
MEMINFO = "proc/meminfo"
CPUINFO = "proc/cpuinfo"
START_OPTIONS = "proc/cmdline"
ARCHITECTURE = "proc/sys/kernel/arch"
PRESSURE = "proc/pressure/memory"
HYPERVISOR = "sys/hypervisor/type"
INSTALLATION = "etc/machine-id"
STARTED = "proc/sys/kernel/random/boot_id"
FIRMWARE_MAP = "sys/firmware/memmap"
SPD_DRIVERS = ("ee1004", "spd5118", "at24", "eeprom")
SPD_FOLDER = "sys/bus/i2c/drivers"
SENSORS = "sys/class/hwmon"
ERROR_COUNTERS = "sys/devices/system/edac/mc"
NODES = "sys/devices/system/node"
DEVICE_TREES = ("sys/firmware/devicetree/base", "proc/device-tree")
"""Two names of one tree; some systems have the second one only."""
_OF_A_BOARD = ("model", "serial-number", "compatible", "#address-cells", "#size-cells", "memory*/reg", "memory*/device_type")
_OF_A_DEVICE = ("compatible", "density", "io-width", "rank@*/density", "rank@*/io-width")

MACHINE_FILES = (
    *(TABLES, ENTRY_POINT),
    *(f"{NAMES_FOLDER}/{name}" for name in ("sys_vendor", "product_name", "board_name", "bios_version")),
    *(MEMINFO, CPUINFO, START_OPTIONS, ARCHITECTURE, PRESSURE, HYPERVISOR, INSTALLATION, STARTED),
    *(f"{SPD_FOLDER}/{driver}/*/eeprom" for driver in SPD_DRIVERS),
    f"{SENSORS}/*/name",
    f"{SENSORS}/*/temp1_input",
    f"{ERROR_COUNTERS}/mc*/[cu]e_*count",
    f"{ERROR_COUNTERS}/mc*/dimm*/dimm_*",
    f"{ERROR_COUNTERS}/mc*/rank*/dimm_*",
    f"{NODES}/node*/meminfo",
    f"{FIRMWARE_MAP}/*/*",
    *(f"{tree}/{name}" for tree in DEVICE_TREES for name in _OF_A_BOARD),
    *(f"{tree}/{place}lpddr*/{name}" for tree in DEVICE_TREES for place in ("", "*/", "*/*/") for name in _OF_A_DEVICE),
)
"""The kernel log is no file: who fetches the files asks `dmesg` for it."""
