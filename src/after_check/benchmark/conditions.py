"""What surrounds a benchmark and must be alike for two of them to be compared.

Linux: cpufreq governor (admin-guide/pm/cpufreq), power supplies (sysfs-class-power), load (proc(5)).
"""

from __future__ import annotations

import platform

from after_check import __version__
from after_check.benchmark.plan import BenchmarkPlan
from after_check.domain.benchmark import Conditions
from after_check.files.tree import Files, UnreadableError
from after_check.host.sensors import Watch


def look_around(files: Files, plan: BenchmarkPlan, large_pages: bool | None) -> Conditions:
    """Return the conditions as they are now."""
    around = Watch(files).look(0.0, None)
    return Conditions(
        plan=plan.words,
        threads=plan.threads,
        buffer_bytes=plan.buffer_bytes,
        governor=_text(files, "sys/devices/system/cpu/cpu0/cpufreq/scaling_governor"),
        power=_power(files),
        system=f"{platform.system()} {platform.release()}",
        versions=_versions(),
        load=_load(files),
        processor_celsius=around.processor_celsius,
        throttled=around.throttled,
        large_pages=large_pages,
    )


def processor_times(files: Files) -> tuple[int, int]:
    """Return ticks stolen by a hypervisor and ticks in all since the start (proc(5), /proc/stat)."""
    words = _text(files, "proc/stat").split("\n")[0].split()
    ticks = [int(word) for word in words[1:9] if word.isdigit()]
    return (ticks[7], sum(ticks)) if len(ticks) == 8 else (0, 0)


def _versions() -> str:
    import numba

    return f"after-check {__version__}, numba {numba.__version__}"


def _power(files: Files) -> str:
    """Return mains or battery, by the first power supply that says whether it is connected."""
    for name in files.names("sys/class/power_supply"):
        online = _text(files, f"sys/class/power_supply/{name}/online")
        if online in ("0", "1"):
            return "mains" if online == "1" else "battery"
    return ""


def _load(files: Files) -> float | None:
    """Return the programs that wanted to run in the last minute, for each core."""
    words = _text(files, "proc/loadavg").split()
    cores = sum(name.startswith("cpu") and name[3:].isdigit() for name in files.names("sys/devices/system/cpu")) or 1
    try:
        return round(float(words[0]) / cores, 2)
    except (IndexError, ValueError):
        return None


def _text(files: Files, name: str) -> str:
    try:
        return files.read(name, 128).decode("ascii", "replace").strip()
    except UnreadableError:
        return ""
