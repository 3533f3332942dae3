"""Rules about the firmware's settings."""

from __future__ import annotations

from collections.abc import Iterator

from after_check.domain.codes import Code, Severity
from after_check.domain.findings import Finding, finding, shown
from after_check.judgement.case import Case
from after_check.judgement.rules.regressions import new_modules


def reset(case: Case) -> Iterator[Finding]:
    """firmware.reset: the firmware cleared its settings at this start."""
    fact = case.now.reading.settings_reset
    if fact is None or not fact.value:
        return
    evidence = (shown("settings-cleared", fact.source),)
    yield finding(Code.FIRMWARE_RESET, 0.95, evidence, profile=_first(case))


def _first(case: Case) -> str | None:
    """Return the number of the profile that this job is about."""
    wanted = case.promise.profile or (case.before.profile if case.before is not None else None)
    return wanted.value if wanted is not None and wanted.number is not None else None


def changed_notice(case: Case) -> Iterator[Finding]:
    """firmware.changed_notice: the firmware said at the start that the amount of memory changed."""
    fact = case.now.reading.memory_changed
    if fact is None or not fact.value:
        return
    upgraded = new_modules(case)
    yield finding(
        Code.FIRMWARE_CHANGED_NOTICE,
        0.95 if upgraded else 0.8,
        (shown("memory-changed", fact.source),),
        severity=Severity.NOTE if upgraded else Severity.TELL,
        upgraded=upgraded,
    )


def updated(case: Case) -> Iterator[Finding]:
    """firmware.updated: the firmware is another version than on arrival, so more than the memory changed."""
    if case.before is None:
        return
    before, now = case.before.reading.machine.firmware_version, case.now.reading.machine.firmware_version
    if before is None or now is None or before.value == now.value:
        return
    evidence = (shown("version-before", before.source, version=before.value), shown("version-now", now.source, version=now.value))
    yield finding(Code.FIRMWARE_UPDATED, 0.95, evidence, before=before.value, now=now.value)
