"""What a reading proves: what the started machine said of itself, and what is only known from stickers and hands."""

from __future__ import annotations

from after_check.domain.fact_table import known_facts
from after_check.domain.facts import Fact, Source
from after_check.domain.readings import Reading, StartOutcome, Via

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
    if any(row.by_the_machine for row, _ in known_facts(reading)):
        return True
    if reading.nodes or reading.error_counters or reading.mapped or reading.firmware_channels:
        return True
    facts = (fact for module in reading.modules for fact in (module.size_bytes, module.generation, module.running_mts, module.part))
    return any(fact is not None and fact.source in _BY_THE_MACHINE for fact in facts)
