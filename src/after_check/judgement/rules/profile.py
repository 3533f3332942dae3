"""Rules about the memory profile."""

from __future__ import annotations

from collections.abc import Iterator

from after_check.domain.codes import Code, Severity
from after_check.domain.facts import Source, value_of
from after_check.domain.findings import Evidence, Finding
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
    name = f"profile {wanted.value}" if wanted is not None and wanted.number else "a profile"
    state = "no profile is on" if now is ProfileState.OFF else f"profile {now.value} is on"
    lost = case.now.reading.settings_reset is not None
    no_choice = bool(modules_without_a_profile(case))
    yield Finding(
        code=Code.PROFILE_OFF,
        severity=Severity.FIX if was_promised else Severity.TELL,
        title=f"{state[0].upper()}{state[1:]}, {name} {'promised' if was_promised else 'was on before'}",
        reason="The firmware cleared its settings at this start, and the profile with them."
        if lost
        else f"The firmware runs the modules at standard settings: {state}."
        if now is ProfileState.OFF
        else f"Another profile than the promised one was chosen: {state}.",
        next="See to the module without a profile first; then choose the profile, save, start, and read again."
        if no_choice
        else f"Turn {name} on in the firmware setup, save, start, and read again.",
        sure=0.97 if case.now.profile_source is not Source.WORKED_OUT else 0.8,
        customer="The setting that lets the memory run at its full speed is not on.",
        evidence=(Evidence(f"profile {now.value}", case.now.profile_source or Source.TYPED),),
    )


def locked(case: Case) -> Iterator[Finding]:
    """profile.locked: a profile was promised, and this firmware offers no choice."""
    if case.now.profile is not ProfileState.LOCKED or case.promise.profile not in _ON:
        return
    yield Finding(
        code=Code.PROFILE_LOCKED,
        severity=Severity.FIX,
        title="This firmware offers no profile",
        reason="A profile was promised, and the firmware of this machine has no such choice.",
        next="Fit modules whose standard rate is the promised one, ask the processor's maker for a tool that sets the profile, "
        "or change the promise with the customer.",
        sure=0.95,
        customer="This machine does not allow the setting that was promised for the memory.",
        evidence=(Evidence("profile locked", case.now.profile_source or Source.TYPED),),
    )


def not_promised(case: Case) -> Iterator[Finding]:
    """profile.not_promised: a profile is on although standard settings were promised."""
    if case.promise.profile is not ProfileState.OFF or profile_status(case) is not TrackStatus.SHORT or case.now.profile is None:
        return
    yield Finding(
        code=Code.PROFILE_NOT_PROMISED,
        severity=Severity.FIX,
        title="A profile is on, standard settings were promised",
        reason="The memory runs by a profile, faster and often at a higher voltage than the standard asks for.",
        next="Turn the profile off in the firmware setup, or change the promise with the customer.",
        sure=0.9,
        customer="The memory runs at a faster setting than agreed on.",
        evidence=(Evidence(f"profile {case.now.profile.value}", case.now.profile_source or Source.TYPED),),
    )


def hidden(case: Case) -> Iterator[Finding]:
    """profile.hidden: the choice is gone because one module holds no profile; names the module."""
    without = modules_without_a_profile(case)
    if not without:
        return
    wanted = case.promise.profile in _ON or (case.before is not None and case.before.profile in _ON)
    named = [slot for slot in without if slot]
    where = f"in {', '.join(named)}" if named else "without slots"
    yield Finding(
        code=Code.PROFILE_HIDDEN,
        severity=Severity.FIX if case.promise.profile in _ON else Severity.TELL if wanted else Severity.NOTE,
        title=f"No profile for all: the module{'s' if len(without) > 1 else ''} {where} hold{'s' if len(without) == 1 else ''} none",
        reason="A profile can be chosen only when every fitted module holds one, so the firmware shows no choice any more.",
        next="Replace that module with one that holds the same profile, or take it out.",
        sure=0.85,
        customer="One of the modules does not have the setting for full speed, so it cannot be switched on for the others.",
        evidence=tuple(Evidence(f"{slot or 'one module'} holds no profile", Source.WORKED_OUT) for slot in without),
        slots=tuple(named),
    )


def modules_without_a_profile(case: Case) -> list[str]:
    """Return the slots of the modules for which the firmware shows no profile: those that hold none, where others do."""
    modules = list(case.now.reading.filled())
    holders = [slot for slot, module in modules if value_of(module.profiles)]
    return [slot for slot, module in modules if value_of(module.profiles) == ()] if holders and case.now.profile not in _ON else []
