"""Rules about the firmware's settings."""

from __future__ import annotations

from collections.abc import Iterator

from after_check.domain.codes import Code, Severity
from after_check.domain.findings import Evidence, Finding
from after_check.judgement.case import Case
from after_check.judgement.rules.regressions import new_modules


def reset(case: Case) -> Iterator[Finding]:
    """firmware.reset: the firmware cleared its settings at this start."""
    fact = case.now.reading.settings_reset
    if fact is None or not fact.value:
        return
    yield Finding(
        code=Code.FIRMWARE_RESET,
        severity=Severity.FIX,
        title="Firmware settings were cleared at this start",
        reason="Profile, fan curve, boot order and virtualisation may be back at their defaults.",
        next=f"Set them again in the firmware setup{_first(case)}, start, and read again.",
        sure=0.95,
        customer="The machine's basic settings were cleared by the change and have to be set again.",
        evidence=(Evidence("settings cleared", fact.source),),
    )


def _first(case: Case) -> str:
    """Return the one setting that this job is about."""
    wanted = case.promise.profile or (case.before.profile if case.before is not None else None)
    return f", profile {wanted.value} first" if wanted is not None and wanted.number is not None else ""


def changed_notice(case: Case) -> Iterator[Finding]:
    """firmware.changed_notice: the firmware said at the start that the amount of memory changed."""
    fact = case.now.reading.memory_changed
    if fact is None or not fact.value:
        return
    upgraded = new_modules(case)
    yield Finding(
        code=Code.FIRMWARE_CHANGED_NOTICE,
        severity=Severity.NOTE if upgraded else Severity.TELL,
        title="The firmware said that the amount of memory changed" + ("" if upgraded else ", and no module was changed"),
        reason="After an upgrade that is as it should be; it does not mean that settings were cleared."
        if upgraded
        else "Without an upgrade it means that a module has come loose, or is not seen at every start.",
        next="Nothing to do." if upgraded else "Reseat the modules, start twice more, and see whether it says so again.",
        sure=0.95 if upgraded else 0.8,
        customer="The machine noticed the new memory at its start."
        if upgraded
        else "The machine noticed a change of its memory although none was made; the modules have to be seated again.",
        evidence=(Evidence("memory changed", fact.source),),
    )


def updated(case: Case) -> Iterator[Finding]:
    """firmware.updated: the firmware is another version than on arrival, so more than the memory changed."""
    if case.before is None:
        return
    before, now = case.before.reading.machine.firmware_version, case.now.reading.machine.firmware_version
    if before is None or now is None or before.value == now.value:
        return
    yield Finding(
        code=Code.FIRMWARE_UPDATED,
        severity=Severity.NOTE,
        title=f"The firmware changed from {before.value} to {now.value}",
        reason="More than the memory changed since arrival; settings and training may differ with it.",
        next="Look whether the settings are as they were.",
        sure=0.95,
        customer="The machine's basic software was updated as well.",
        evidence=(Evidence(f"{before.value} on arrival", before.source), Evidence(f"{now.value} now", now.source)),
    )
