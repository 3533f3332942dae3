"""What a reading proves: what the started machine said of itself, and what is only known from stickers and hands."""

from __future__ import annotations

from after_check.domain.facts import Fact, Source
from after_check.domain.readings import Reading, StartOutcome, Via

_SAID_BY_A_STARTED_MACHINE = (
    *("running_rate", "channels", "profile", "total_bytes", "usable_bytes", "graphics_bytes", "reserved_bytes", "in_use_bytes"),
    "borrowed_bytes",
    *("available_bytes", "rate_cap_mts", "system_limit_bytes", "redundancy", "timings", "ecc_on", "ecc_errors", "voltage_mv"),
    *("uncorrected_errors", "system_bits", "settings_reset", "restart_pending", "memory_changed", "soak", "benchmark", "virtual"),
    *("read_gbs", "write_gbs", "copy_gbs", "latency_ns", "off_under_load"),
)
_NOT_STARTED = (StartOutcome.NO, StartOutcome.NOT_TRIED)
_BY_THE_MACHINE = (Source.FIRMWARE, Source.SYSTEM)


def said_by_the_machine(reading: Reading, start: Fact[StartOutcome] | None) -> bool:
    """Return whether the started machine said anything of this reading.

    A sticker, or a module's own data, says what a module is. It says nothing of what the machine sees, how fast it runs
    it, and on how many channels.
    """
    if reading.via is Via.LABEL or (start is not None and start.value in _NOT_STARTED):
        return False
    if start is not None or reading.via in (Via.FIRMWARE, Via.SYSTEM):
        return True
    if any(getattr(reading, name) is not None for name in _SAID_BY_A_STARTED_MACHINE):
        return True
    if reading.nodes or reading.error_counters or reading.mapped or reading.firmware_channels:
        return True
    facts = (fact for module in reading.modules for fact in (module.size_bytes, module.generation, module.running_mts, module.part))
    return any(fact is not None and fact.source in _BY_THE_MACHINE for fact in facts)
