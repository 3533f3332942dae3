"""A reading of a Linux machine from its `/sys` and `/proc`, live or copied into a folder.

Public interfaces: `/sys/firmware/dmi/tables` and `/sys/class/dmi/id` (kernel ABI documents sysfs-firmware-dmi-tables
and sysfs-class-dmi), `/proc/meminfo` and `/proc/cpuinfo` (proc(5)).
"""

from __future__ import annotations

import hashlib
import hmac
import re
import subprocess
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

from after_check.domain.facts import Fact, Source
from after_check.domain.identity import MachineIdentity
from after_check.domain.outside_text import clean_bytes
from after_check.domain.quantities import KIB, LARGEST_SIZE_BYTES
from after_check.domain.ranges import size_of
from after_check.domain.readings import ErrorCounter, Machine, Notice, NoticeKind, Reading, corrected_errors
from after_check.files.errors import SourceError
from after_check.files.tree import LARGEST_FILE_BYTES, Files, KeptFiles, Tree, UnreadableError
from after_check.sources import machine_files
from after_check.sources.device_tree import BoardOfTree, read_device_tree
from after_check.sources.evidence import RawEvidence, Taken, with_evidence
from after_check.sources.firmware_map import firmware_ram, map_names, starts_in_a_window
from after_check.sources.firmware_table import reading_from_tables
from after_check.sources.linux_health import KERNEL_LOG, read_counters, read_log, read_nodes, read_pressure
from after_check.sources.linux_modules import read_spd, read_temperatures

THIS_MACHINE = Path("/")

_TABLES = (machine_files.TABLES, "DMI")
_ENTRY_POINTS = (machine_files.ENTRY_POINT, "smbios_entry_point")
_MEMINFO = (machine_files.MEMINFO, "meminfo")
_CPUINFO = (machine_files.CPUINFO, "cpuinfo")
_START_OPTIONS = (machine_files.START_OPTIONS, "cmdline")
_ARCHITECTURE = (machine_files.ARCHITECTURE,)
_KNOWN_NAMES = _TABLES + _ENTRY_POINTS + _MEMINFO + (machine_files.NAMES_FOLDER, *machine_files.DEVICE_TREES)
_BITS = {"x86_64": 64, "aarch64": 64, "riscv64": 64, "i386": 32, "i586": 32, "i686": 32, "armv6l": 32, "armv7l": 32}
_INSTALLATION = (machine_files.INSTALLATION,)
_STARTED = (machine_files.STARTED,)
_OPTIONAL_BYTES = 8192
"""The first processor's part of cpuinfo is enough; the rest repeats it."""

_TYPE_IT = "type what the firmware setup page or the stickers show"


def read_this_machine() -> Taken:
    """Take a reading of the machine that this runs on."""
    return _read(_ThisMachine(THIS_MACHINE), "this machine", f"run the reading as root (sudo after-check read), or {_TYPE_IT}")


class _ThisMachine(Tree):
    """The running machine's files, and its kernel log under the name that a saved one has."""

    def read(self, name: str, most_bytes: int = LARGEST_FILE_BYTES) -> bytes:
        """Return a file's bytes; the kernel log is asked for with dmesg, which knows what the rights allow."""
        if name != KERNEL_LOG:
            return super().read(name, most_bytes)
        try:
            done = subprocess.run(["dmesg"], capture_output=True, timeout=5, check=True)
        except (OSError, subprocess.SubprocessError):
            raise UnreadableError("rights", name, "may not be read with the present rights") from None
        return done.stdout[-most_bytes:]


def read_folder(folder: Path) -> Taken:
    """Take a reading of a copied tree: a folder with `sys` and `proc` in it, or with the files themselves.

    Raises SourceError when nothing in the folder belongs to such a tree.
    """
    tree = Tree(folder)
    if not any(tree.exists(name) for name in _KNOWN_NAMES):
        raise SourceError(
            "no firmware tables and no meminfo are in this folder",
            str(folder),
            "it needs sys/firmware/dmi/tables and proc/meminfo as copied from the machine; docs/file-formats.md says how",
        )
    return _read(tree, str(folder), "copy the folder again as root, or " + _TYPE_IT)


def read_files(files: Files, origin: str) -> Taken:
    """Take a reading from files that were fetched from a machine."""
    return _read(files, origin, "log in as root, or " + _TYPE_IT)


def read_kept(evidence: tuple[RawEvidence, ...], origin: str) -> Taken:
    """Decode again the files that an earlier reading kept."""
    files = KeptFiles({part.name: part.data for part in evidence})
    return _read(files, origin, _TYPE_IT)


def _read(tree: Files, origin: str, help: str) -> Taken:
    evidence: list[RawEvidence] = []
    notices: list[Notice] = []
    table = _evidence(tree, _TABLES, "the firmware tables", help, evidence, notices)
    entry_point = _evidence(tree, _ENTRY_POINTS, "the entry point of the firmware tables", help, evidence, notices) if table else None
    reading = Reading()
    if table is not None:
        where = evidence[0].name
        if table:
            reading = reading_from_tables(table, entry_point, where)
        else:
            notices.append(Notice(NoticeKind.DAMAGED, "the firmware tables are empty (0 bytes)", where, help))
    meminfo = _evidence(tree, _MEMINFO, "the system's memory total", _TYPE_IT, evidence, notices)
    usable = _usable(meminfo, notices) if meminfo is not None else None
    start_limit = _start_limit(_optional(tree, _START_OPTIONS, evidence))
    if starts_in_a_window(tree):
        evidence += [RawEvidence(name, tree.read(name)) for name in map_names(tree)]
        usable, start_limit = _by_the_map(tree), None
    cpuinfo = _optional(tree, _CPUINFO, evidence)
    virtual = reading.virtual
    if _hypervisor(tree, cpuinfo):
        virtual = Fact(True, Source.SYSTEM, "proc/cpuinfo: the processor reports a hypervisor")
    if virtual is not None and virtual.value:
        notices.append(
            Notice(
                NoticeKind.VIRTUAL,
                "this is a virtual machine; its memory tables are the hypervisor's invention",
                origin,
                "read the host itself",
            )
        )
    counters = read_counters(tree, evidence)
    board = read_device_tree(tree, evidence)
    if board is not None:
        reading = _with_device_tree(reading, board)
        if table is None:  # Such a board has a device tree in place of tables.
            notices = [notice for notice in notices if notice.kind is not NoticeKind.ABSENT or notice.where not in _TABLES]
    reading = replace(
        reading,
        usable_bytes=usable,
        system_bits=_system_bits(_optional(tree, _ARCHITECTURE, evidence)),
        system_limit_bytes=start_limit,
        virtual=virtual,
        machine=_with_installation(tree, _with_sysfs_names(tree, _with_processor(reading.machine, cpuinfo), evidence)),
        spd=read_spd(tree, evidence, notices),
        temperatures=read_temperatures(tree, evidence),
        error_counters=counters,
        ecc_errors=_corrected(counters),
        nodes=read_nodes(tree, evidence),
        pressure_percent=read_pressure(tree, evidence),
        log_lines=read_log(tree, evidence),
        origin=origin,
        taken_at=datetime.now(UTC).replace(microsecond=0),
    )
    reading = replace(reading, notices=reading.notices + tuple(notices))
    return with_evidence(reading, tuple(evidence))


def identity_here(files: Files | None = None) -> MachineIdentity:
    """Return what tells the machine that this runs on, or that of the given files, from others, as far as the rights show it."""
    tree, evidence, notices = files or Tree(THIS_MACHINE), list[RawEvidence](), list[Notice]()
    table = _evidence(tree, _TABLES, "", "", evidence, notices)
    reading = reading_from_tables(table, None, "") if table else Reading()
    meminfo = _evidence(tree, _MEMINFO, "", "", evidence, notices)
    if (board := read_device_tree(tree, evidence)) is not None:
        reading = _with_device_tree(reading, board)
    machine = _with_sysfs_names(tree, reading.machine, evidence)
    usable = _usable(meminfo, notices) if meminfo is not None else None
    if starts_in_a_window(tree):
        usable = _by_the_map(tree)
    return replace(reading, machine=_with_installation(tree, machine), usable_bytes=usable).identity


def _with_installation(tree: Files, machine: Machine) -> Machine:
    """Add what names the installed system; where that has no number, what names its present start.

    The number itself is to be kept confidential (machine-id(5)), so it is hashed with a word of this program's own.
    """
    for names in (_INSTALLATION, _STARTED):
        number = clean_bytes(_optional(tree, names, []))
        if number:
            digest = hmac.new(b"after-check", number.encode(), hashlib.sha256).hexdigest()[:32]
            return replace(machine, installation=Fact(digest, Source.SYSTEM, f"{names[0]}, hashed"))
    return machine


def _start_limit(options: bytes | None) -> Fact[int] | None:
    """Return the limit of the start option `mem=` (the kernel's admin-guide, kernel-parameters)."""
    match = re.search(rb"(?:^|\s)mem=(\d{1,15})([KMGkmg]?)(?=\s|$)", options or b"")
    if match is None:
        return None
    size_bytes = int(match[1]) << {b"": 0, b"k": 10, b"m": 20, b"g": 30}[match[2].lower()]
    return Fact(size_bytes, Source.SYSTEM, "proc/cmdline: mem=") if 0 < size_bytes <= LARGEST_SIZE_BYTES else None


def _corrected(counters: tuple[ErrorCounter, ...]) -> Fact[int] | None:
    count = corrected_errors(counters)
    return Fact(count, Source.SYSTEM, "EDAC counters") if count is not None else None


def _evidence(
    tree: Files, names: tuple[str, ...], what: str, help: str, evidence: list[RawEvidence], notices: list[Notice]
) -> bytes | None:
    """Return the bytes of the first of `names` that is there, kept as evidence; else say why there are none."""
    name = next((name for name in names if tree.exists(name)), names[0])
    try:
        data = tree.read(name)
    except UnreadableError as problem:
        kind = {"rights": NoticeKind.RIGHTS, "missing": NoticeKind.ABSENT}.get(problem.reason, NoticeKind.DAMAGED)
        if kind is NoticeKind.ABSENT and name.endswith("smbios_entry_point"):
            return None  # The tables alone can be read; only their announced length is then unknown.
        if kind is NoticeKind.ABSENT:
            help = _TYPE_IT
        notices.append(Notice(kind, f"{what} {'are' if what.endswith('s') else 'is'} not available: the file {problem.detail}", name, help))
        return None
    evidence.append(RawEvidence(name, data))
    return data


def _optional(tree: Files, names: tuple[str, ...], evidence: list[RawEvidence]) -> bytes:
    """Return the bytes of a file that a reading can do without, kept as evidence, or nothing."""
    for name in names:
        try:
            data = tree.read(name, _OPTIONAL_BYTES)
        except UnreadableError:
            continue
        evidence.append(RawEvidence(name, data))
        return data
    return b""


def _by_the_map(tree: Files) -> Fact[int] | None:
    """Return the memory that the firmware lists for systems: the kernel was started in a small part of it, on purpose."""
    size_bytes = size_of(firmware_ram(tree))
    return Fact(size_bytes, Source.SYSTEM, "sys/firmware/memmap") if size_bytes else None


def _usable(meminfo: bytes, notices: list[Notice]) -> Fact[int] | None:
    match = re.search(rb"^MemTotal:\s*(\d{1,15})\s*kB", meminfo, re.MULTILINE)
    usable_bytes = int(match[1]) * KIB if match else 0
    if not 0 < usable_bytes <= LARGEST_SIZE_BYTES:
        notices.append(Notice(NoticeKind.DAMAGED, "meminfo has no line MemTotal that makes sense", "proc/meminfo", _TYPE_IT))
        return None
    return Fact(usable_bytes, Source.SYSTEM, "proc/meminfo, MemTotal")


def _hypervisor(tree: Files, cpuinfo: bytes) -> bool:
    flags = re.search(rb"^flags\s*:(.*)$", cpuinfo, re.MULTILINE)
    return bool(flags and b"hypervisor" in flags[1].split()) or tree.exists(machine_files.HYPERVISOR)


def _system_bits(architecture: bytes) -> Fact[int] | None:
    bits = _BITS.get(clean_bytes(architecture))
    return None if bits is None else Fact(bits, Source.SYSTEM, _ARCHITECTURE[0])


def _with_processor(machine: Machine, cpuinfo: bytes) -> Machine:
    match = re.search(rb"^model name\s*:(.*)$", cpuinfo, re.MULTILINE)
    name = clean_bytes(match[1]) if match else ""
    if machine.processor is not None or not name:
        return machine
    return replace(machine, processor=Fact(name, Source.SYSTEM, "proc/cpuinfo"))


def _with_device_tree(reading: Reading, board: BoardOfTree) -> Reading:
    """Fill what the tables did not give from the device tree."""
    machine = reading.machine
    return replace(
        reading,
        machine=replace(machine, model=machine.model or board.model, serial=machine.serial or board.serial),
        total_bytes=reading.total_bytes or board.total_bytes,
        slots=reading.slots or board.slots,
        notices=(*reading.notices, *board.notices),
    )


def _with_sysfs_names(tree: Files, machine: Machine, evidence: list[RawEvidence]) -> Machine:
    """Fill what the tables did not give from the names that the kernel shows to everybody."""
    for field, name in (("maker", "sys_vendor"), ("model", "product_name"), ("board", "board_name"), ("firmware_version", "bios_version")):
        path = f"{machine_files.NAMES_FOLDER}/{name}"
        if getattr(machine, field) is None and (text := clean_bytes(_optional(tree, (path,), evidence))):
            machine = replace(machine, **{field: Fact(text, Source.SYSTEM, path)})
    return machine
