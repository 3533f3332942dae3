"""Rules about the memory profile."""

from __future__ import annotations

from collections.abc import Iterator

from after_check.domain.codes import Code, Severity
from after_check.domain.facts import Source, value_of
from after_check.domain.findings import Evidence, Finding, finding, shown
from after_check.domain.readings import ProfileState
from after_check.domain.standing import TrackStatus
from after_check.judgement.case import Case
from after_check.judgement.tracks import profile_status

_ON = (ProfileState.ONE, ProfileState.TWO, ProfileState.THREE, ProfileState.ON)


def off(case: Case) -> Iterator[Finding]:
    """profile.off: a profile was promised, or was on before, and it is off or another one is on."""
    now, promised = case.now.profile, case.promise.profile
    before = case.before.profile if case.before else None
    if now is None or now is ProfileState.LOCKED:
        return
    was_promised = promised in _ON and profile_status(case) is TrackStatus.SHORT
    was_on_before = promised is None and before in _ON and now is ProfileState.OFF
    if not was_promised and not was_on_before:
        return
    wanted = promised if was_promised else before
    lost, no_choice = case.now.reading.settings_reset is not None, bool(modules_without_a_profile(case))
    yield finding(
        Code.PROFILE_OFF,
        0.97 if case.now.profile_source is not Source.WORKED_OUT else 0.8,
        (_setting(case, now),),
        severity=Severity.FIX if was_promised else Severity.TELL,
        state=now.value,
        number=wanted.value if wanted is not None and wanted.number else None,
        against="promised" if was_promised else "before",
        why="reset" if lost else "standard" if now is ProfileState.OFF else "another",
        no_choice=no_choice,
    )


def _setting(case: Case, state: ProfileState) -> Evidence:
    return shown("profile", case.now.profile_source or Source.TYPED, state=state.value)


def locked(case: Case) -> Iterator[Finding]:
    """profile.locked: a profile was promised, and this firmware offers no choice."""
    if case.now.profile is not ProfileState.LOCKED or case.promise.profile not in _ON:
        return
    yield finding(Code.PROFILE_LOCKED, 0.95, (_setting(case, ProfileState.LOCKED),))


def not_promised(case: Case) -> Iterator[Finding]:
    """profile.not_promised: a profile is on although standard settings were promised."""
    if case.promise.profile is not ProfileState.OFF or profile_status(case) is not TrackStatus.SHORT or case.now.profile is None:
        return
    yield finding(Code.PROFILE_NOT_PROMISED, 0.9, (_setting(case, case.now.profile),))


def hidden(case: Case) -> Iterator[Finding]:
    """profile.hidden: the choice is gone because one module holds no profile; names the module."""
    without = modules_without_a_profile(case)
    if not without:
        return
    wanted = case.promise.profile in _ON or (case.before is not None and case.before.profile in _ON)
    named = tuple(slot for slot in without if slot)
    yield finding(
        Code.PROFILE_HIDDEN,
        0.85,
        tuple(shown("no-profile", Source.WORKED_OUT, slot=slot or None) for slot in without),
        named,
        Severity.FIX if case.promise.profile in _ON else Severity.TELL if wanted else Severity.NOTE,
        modules=len(without),
        named=named,
    )


def modules_without_a_profile(case: Case) -> list[str]:
    """Return the slots of the modules for which the firmware shows no profile: those that hold none, where others do."""
    modules = list(case.now.reading.filled())
    holders = [slot for slot, module in modules if value_of(module.profiles)]
    return [slot for slot, module in modules if value_of(module.profiles) == ()] if holders and case.now.profile not in _ON else []
