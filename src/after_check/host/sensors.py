"""What happens around a soak: temperatures of modules and processor, error counters, throttling, sleep.

Linux hwmon and thermal zones (the kernel's hwmon/sysfs-interface and driver-api/thermal), EDAC counters
(admin-guide/RAS), thermal_throttle counters of x86 processors (sysfs-devices-system-cpu).
"""

from __future__ import annotations

import time

from after_check.domain.readings import ErrorCounter, corrected_errors, uncorrected_errors
from after_check.domain.soak import Surroundings
from after_check.files.tree import Files, UnreadableError
from after_check.sources.evidence import RawEvidence
from after_check.sources.linux_health import read_counters
from after_check.sources.linux_modules import read_temperatures

_MOST_CPUS = 256
_ASLEEP_SECONDS = 2.0


class Watch:
    """Looks at the surroundings of a soak, and tells error counters' rise since it began."""

    def __init__(self, files: Files) -> None:
        self._files = files
        self._first = {counter.label: counter for counter in self._counters()}
        self._first_throttled = self._throttled()
        self._apart = time_asleep()

    def look(self, at_seconds: float, rate_bytes_per_s: float | None) -> Surroundings:
        """Return what there is to see now. Counters are counted from the beginning of the soak."""
        modules = [temperature.celsius.value for temperature in read_temperatures(self._files, [])]
        counters = self._counters()
        throttled = self._throttled()
        return Surroundings(
            at_seconds=round(at_seconds, 1),
            module_celsius=max(modules, default=None),
            processor_celsius=self._processor(),
            corrected=_risen(corrected_errors(counters), corrected_errors(map(self._before, counters))),
            uncorrected=_risen(uncorrected_errors(counters), uncorrected_errors(map(self._before, counters))),
            throttled=throttled - self._first_throttled if throttled is not None and self._first_throttled is not None else None,
            rate_bytes_per_s=rate_bytes_per_s,
        )

    def risen(self) -> tuple[str, ...]:
        """Return the labels whose counters rose since the soak began."""
        return tuple(
            counter.label
            for counter in self._counters()
            if (counter.corrected, counter.uncorrected) != (self._before(counter).corrected, self._before(counter).uncorrected)
        )

    def slept_seconds(self) -> float:
        """Return for how long the machine was suspended since the last look; 0 where it was not."""
        now = time_asleep()
        slept, self._apart = now - self._apart, now
        return slept if slept >= _ASLEEP_SECONDS else 0.0

    def _before(self, counter: ErrorCounter) -> ErrorCounter:
        return self._first.get(counter.label, counter)

    def _counters(self) -> tuple[ErrorCounter, ...]:
        evidence: list[RawEvidence] = []
        return read_counters(self._files, evidence)

    def _processor(self) -> float | None:
        hottest: float | None = None
        for zone in self._names("sys/class/thermal"):
            if not zone.startswith("thermal_zone"):
                continue
            celsius = self._number(f"sys/class/thermal/{zone}/temp")
            if celsius is not None and 0 < celsius < 150_000:
                hottest = max(hottest or 0.0, celsius / 1000)
        return hottest

    def _throttled(self) -> int | None:
        counts = [
            count
            for name in self._names("sys/devices/system/cpu")[:_MOST_CPUS]
            if name.startswith("cpu") and name[3:].isdigit()
            if (count := self._number(f"sys/devices/system/cpu/{name}/thermal_throttle/core_throttle_count")) is not None
        ]
        return sum(counts) if counts else None

    def _names(self, folder: str) -> list[str]:
        try:
            return self._files.names(folder)
        except UnreadableError:
            return []

    def _number(self, name: str) -> int | None:
        try:
            text = self._files.read(name, 64).decode("ascii", "replace").strip()
        except UnreadableError:
            return None
        return int(text) if text.lstrip("-").isdigit() else None


def time_asleep() -> float:
    """Return by how much the clock that goes on in sleep is ahead of the one that does not, in seconds."""
    if not hasattr(time, "CLOCK_BOOTTIME"):
        return 0.0
    return time.clock_gettime(time.CLOCK_BOOTTIME) - time.clock_gettime(time.CLOCK_MONOTONIC)


def _risen(now: int | None, before: int | None) -> int | None:
    """Return by how much a count rose; None where it is not known now."""
    return now - (before or 0) if now is not None else None
