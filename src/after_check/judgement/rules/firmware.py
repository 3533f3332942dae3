"""Rules about the firmware's settings."""

from __future__ import annotations

from collections.abc import Iterator

from after_check.domain.findings import Code, Evidence, Finding, Severity
from after_check.judgement.case import Case


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
        next="Set them again in the firmware setup, start, and read again.",
        sure=0.95,
        customer="The machine's basic settings were cleared by the change and had to be set again.",
        evidence=(Evidence("settings cleared", fact.source),),
    )


def changed_notice(case: Case) -> Iterator[Finding]:
    """firmware.changed_notice: the firmware is another version than on arrival, so more than the memory changed."""
    if case.before is None:
        return
    before, now = case.before.reading.machine.firmware_version, case.now.reading.machine.firmware_version
    if before is None or now is None or before.value == now.value:
        return
    yield Finding(
        code=Code.FIRMWARE_CHANGED_NOTICE,
        severity=Severity.NOTE,
        title=f"The firmware changed from {before.value} to {now.value}",
        reason="More than the memory changed since arrival; settings and training may differ with it.",
        next="Look whether the settings are as they were.",
        sure=0.95,
        customer="The machine's basic software was updated as well.",
        evidence=(Evidence(f"{before.value} on arrival", before.source), Evidence(f"{now.value} now", now.source)),
    )
