"""How a Linux machine's memory fares: error counters, nodes, pressure, and what the kernel logged.

Public interfaces: `/sys/devices/system/edac/mc` (Documentation/admin-guide/ras.rst), `/sys/devices/system/node`,
`/proc/pressure/memory` (Documentation/accounting/psi.rst), `/dev/kmsg` or a saved kernel log.
"""

from __future__ import annotations

import re

from after_check.domain.facts import Fact, Source
from after_check.domain.outside_text import clean, clean_bytes
from after_check.domain.quantities import KIB
from after_check.domain.readings import ErrorCounter, MemoryNode, corrected_errors, uncorrected_errors
from after_check.files.tree import Files, UnreadableError
from after_check.sources import machine_files
from after_check.sources.evidence import RawEvidence

KERNEL_LOG = "kernel.log"
_LOGS = (KERNEL_LOG, "dmesg", "dmesg.txt", "var/log/kern.log")
_MOST_ENTRIES = 256
_MOST_LINES = 40
_TELLING = re.compile(
    r"EDAC|mce:|machine check|Hardware Error|memory failure|corrected error|uncorrected|Bad page|Out of memory|oom-kill|"
    r"page allocation failure|memory: \d+K|i2c.*SPD|BIOS-provided physical RAM",
    re.IGNORECASE,
)


def read_counters(files: Files, evidence: list[RawEvidence]) -> tuple[ErrorCounter, ...]:
    """Return the error counters of every module that the kernel counts for, and of each controller what no module has (ras.rst)."""
    found: list[ErrorCounter] = []
    for controller in sorted(name for name in files.names(machine_files.ERROR_COUNTERS) if re.fullmatch(r"mc\d{1,3}", name))[
        :_MOST_ENTRIES
    ]:
        folder = f"{machine_files.ERROR_COUNTERS}/{controller}"
        parts = sorted(name for name in files.names(folder) if re.fullmatch(r"(?:dimm|rank)\d{1,3}", name))
        counters = [_counter(files, f"{folder}/{part}", "dimm_", part, evidence) for part in parts]
        whole = _counter(files, folder, "", controller, evidence)
        of_parts = [counter for counter in counters if counter is not None]
        found += of_parts
        if whole is not None:
            # The controller's own counters are the totals; what no module owns (`*_noinfo_count`) is in them alone.
            corrected = _beside(whole.corrected, corrected_errors(of_parts))
            uncorrected = _beside(whole.uncorrected, uncorrected_errors(of_parts))
            if corrected or uncorrected or not of_parts:
                label = f"{whole.label}, no module named" if of_parts else whole.label
                found.append(ErrorCounter(label, corrected, uncorrected))
    return tuple(found[:_MOST_ENTRIES])


def _beside(whole: int | None, of_parts: int | None) -> int | None:
    """Return what a controller counted beside what its modules did."""
    return max(0, whole - (of_parts or 0)) if whole is not None else None


def _counter(files: Files, folder: str, prefix: str, name: str, evidence: list[RawEvidence]) -> ErrorCounter | None:
    corrected = _number(files, f"{folder}/{prefix}ce_count", evidence)
    uncorrected = _number(files, f"{folder}/{prefix}ue_count", evidence)
    if not prefix:  # Some controllers keep what no module owns and no total.
        corrected = corrected if corrected is not None else _number(files, f"{folder}/ce_noinfo_count", evidence)
        uncorrected = uncorrected if uncorrected is not None else _number(files, f"{folder}/ue_noinfo_count", evidence)
    if corrected is None and uncorrected is None:
        return None
    label = _text(files, f"{folder}/dimm_label", evidence) if prefix else ""
    return ErrorCounter(label or name, corrected, uncorrected)


def read_nodes(files: Files, evidence: list[RawEvidence]) -> tuple[MemoryNode, ...]:
    """Return the memory nodes (NUMA) with their totals."""
    found: list[MemoryNode] = []
    for name in sorted(name for name in files.names(machine_files.NODES) if re.fullmatch(r"node\d{1,4}", name))[:_MOST_ENTRIES]:
        match = re.search(r"MemTotal:\s*(\d{1,15})\s*kB", _text(files, f"{machine_files.NODES}/{name}/meminfo", evidence, 4096))
        if match:
            found.append(MemoryNode(int(name[4:]), int(match[1]) * KIB))
    return tuple(found)


def read_pressure(files: Files, evidence: list[RawEvidence]) -> Fact[float] | None:
    """Return the share of the last five minutes in which something waited for memory, in per cent."""
    match = re.search(r"some .*?avg300=(\d{1,3}\.\d{1,4})", _text(files, machine_files.PRESSURE, evidence))
    return Fact(float(match[1]), Source.SYSTEM, "proc/pressure/memory, some avg300") if match else None


def read_log(files: Files, evidence: list[RawEvidence]) -> tuple[str, ...]:
    """Return the lines of a kernel log that tell of memory or machine checks, newest last."""
    for name in _LOGS:
        try:
            log = files.read(name)
        except UnreadableError:
            continue
        lines = [clean(line) for line in log.decode("utf-8", "replace").splitlines() if _TELLING.search(line)]
        evidence.append(RawEvidence(name, "\n".join(lines[-_MOST_LINES:]).encode()))
        return tuple(lines[-_MOST_LINES:])
    return ()


def _text(files: Files, name: str, evidence: list[RawEvidence], most_bytes: int = 256) -> str:
    try:
        data = files.read(name, most_bytes)
    except UnreadableError:
        return ""
    evidence.append(RawEvidence(name, data))
    return clean_bytes(data, most_bytes)


def _number(files: Files, name: str, evidence: list[RawEvidence]) -> int | None:
    text = _text(files, name, evidence)
    return int(text) if re.fullmatch(r"\d{1,15}", text) else None
