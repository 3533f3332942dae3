"""What has to be seen before somebody is named: replacing costs money, and one more try is cheap.

A module is named when the machine was seen to work without it, and it failed without each other module that was always
there, or when it failed in another machine too; a contact is looked at where it was; a machine is blamed when its old modules were tried.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from after_check.domain.tries import PROFILE_OFF, Arrangement, SoakSaid, Suspect, SuspectKind, Try, TryLog
from after_check.tries.arrangements import fits
from after_check.tries.elsewhere import failed_elsewhere, worked_elsewhere
from after_check.tries.model import Array
from after_check.tries.weigh import Weighed, is_settled, slots_of

CONTACT_FROM = 0.5
"""From here on a contact is looked at where it was: seated again there, it works or it does not."""
PROVEN_FROM, PROOF_BITS = 0.3, 0.5
"""A try that is asked for anyway, should the first suspect be the one, is worth so many bits more, by how likely that is."""
_OF_MODULES = (SuspectKind.MODULE, SuspectKind.MARGINAL)


def needs_old_modules(log: TryLog, weighed: Weighed, suspects: Sequence[Suspect]) -> bool:
    """Return whether the machine is about to be blamed, and nobody proved it with its old modules yet."""
    old = {module.letter for module in log.modules if module.old}
    good = old | {module.letter for module in log.modules if module.known_good}
    proven = any(attempt.arrangement.fitted and set(attempt.arrangement.slot_of) <= good for attempt in log.tries)
    return bool(old) and not proven and is_settled(log, suspects, weighed) and suspects[0].kind is SuspectKind.MACHINE


def to_confirm(log: TryLog, weighed: Weighed, suspects: Sequence[Suspect]) -> Arrangement | None:
    """Return the try that is missing before a module is named: everything back but it, tested like the try that failed.

    None where that was done, where there is nothing else to fit, or where no module is about to be named. Replacing costs
    money, and this is cheap: the module is out already, or comes out now.
    """
    if not suspects or log.last is None:
        return None
    if suspects[0].kind is SuspectKind.CONTACT and suspects[0].weight >= CONTACT_FROM:
        return _back_as_it_was(log, weighed, suspects[0]) if log.last.worked else None
    if not is_settled(log, suspects, weighed):
        return None
    if suspects[0].kind is SuspectKind.SLOT:
        return _without_slot(log, suspects[0].name)
    if suspects[0].kind not in _OF_MODULES:
        return None
    letter = suspects[0].name
    failed = _failed_with(log, letter)
    if letter in log.soldered.values() or not failed or (suspects[0].kind is SuspectKind.MODULE and failed_elsewhere(log, letter)):
        return None
    with_errors = _had_errors(failed)
    without_profile = any(
        letter in attempt.arrangement.slot_of and not attempt.arrangement.profile_is_on and (attempt.soak is not None or not with_errors)
        for attempt in log.tries
    )
    if suspects[0].kind is SuspectKind.MODULE and failed[-1].arrangement.profile_is_on and not without_profile:
        return replace(failed[-1].arrangement, profile=PROFILE_OFF)  # A setting costs less than a module.
    if _was_cleared(log, letter, with_errors):
        return _without_company(log, letter, failed)
    last = max(failed, key=lambda attempt: len(attempt.arrangement.fitted)).arrangement
    rest = tuple(pair for pair in last.fitted if pair[1] != letter)
    return Arrangement(rest, last.profile) if rest else None


def proof_bits(log: TryLog, suspects: Sequence[Suspect], offered: Sequence[Arrangement]) -> Array:
    """Return for each arrangement what it is worth beside what it tells, in bits: it saves a try that would be asked for later."""
    nothing: Array = np.zeros(len(offered))
    first = suspects[0] if suspects else None
    if first is None or first.weight < PROVEN_FROM:
        return nothing
    if first.kind is SuspectKind.SLOT:
        asked = [_proves_slot(log, first.name, one) for one in offered] if not _slot_was_proven(log, first.name) else [False] * len(offered)
        return np.where(asked, PROOF_BITS * first.weight, 0.0)
    if first.kind not in _OF_MODULES or first.name in log.soldered.values() or failed_elsewhere(log, first.name):
        return nothing
    failed = _failed_with(log, first.name)
    if not failed or _places_of(first.name, failed):
        return nothing  # A fault that has a place is told by crossing.
    with_errors = _had_errors(failed)
    others, company = _other_new_ones(log, first.name), _company(log, first.name, failed)
    alone_is_asked = bool(company) and not _was_without(log, first.name, company, with_errors)
    rest_is_asked = not _was_cleared(log, first.name, with_errors)
    proves = [
        (alone_is_asked and not company & one.slot_of.keys())
        if first.name in one.slot_of
        else (rest_is_asked and (not others or bool(others & one.slot_of.keys())))
        for one in offered
    ]
    return np.where(proves, PROOF_BITS * first.weight, 0.0)


def _failed_with(log: TryLog, letter: str) -> list[Try]:
    return [attempt for attempt in log.tries if attempt.failed and letter in attempt.arrangement.slot_of]


def _places_of(letter: str, failed: Sequence[Try]) -> set[str]:
    """Return the slots in which a module was found wrong: not seen, or with errors."""
    sat = ((attempt.arrangement.slot_of[letter], (*attempt.errors_in, *attempt.unseen)) for attempt in failed)
    return {slot for slot, named in sat if slot in named}


def _had_errors(failed: Sequence[Try]) -> bool:
    return any(attempt.soak is SoakSaid.ERRORS for attempt in failed)


def _other_new_ones(log: TryLog, letter: str) -> set[str]:
    """Return the other new modules that were tried: of several, one has to be seen to work, else what is wrong may be wrong with all."""
    others = {module.letter for module in log.modules if module.is_new and module.letter != letter}
    return others & {other for attempt in log.tries for other in attempt.arrangement.slot_of}


def _company(log: TryLog, letter: str, failed: Sequence[Try]) -> set[str]:
    """Return the modules that were there whenever this one failed, without what is soldered: it may be the two together."""
    return set.intersection(*(set(attempt.arrangement.slot_of) for attempt in failed)) - {letter} - set(log.soldered.values())


def _was_cleared(log: TryLog, letter: str, with_errors: bool) -> bool:
    """Return whether the machine was seen to work without a module, tested as when it failed."""
    others = _other_new_ones(log, letter)
    return any(
        attempt.worked
        and letter not in attempt.arrangement.slot_of
        and (attempt.soak is SoakSaid.CLEAN or not with_errors)
        and (not others or bool(others & attempt.arrangement.slot_of.keys()))
        for attempt in log.tries
    )


def _was_without(log: TryLog, letter: str, company: set[str], with_errors: bool) -> bool:
    """Return whether a module was tried without its company, tested as when it failed.

    Where it always failed with them and works without, that is what two together would do: then once is not enough.
    """
    tried = [attempt for attempt in log.tries if letter in attempt.arrangement.slot_of]
    alone = [attempt for attempt in tried if not company & attempt.arrangement.slot_of.keys()]
    tested = [attempt for attempt in alone if attempt.failed or attempt.soak is not None or not with_errors]
    comes_and_goes = any(attempt.worked for attempt in tried if company & attempt.arrangement.slot_of.keys())
    return any(attempt.failed for attempt in tested) or len(tested) > (0 if comes_and_goes else 1)


def _without_company(log: TryLog, letter: str, failed: Sequence[Try]) -> Arrangement | None:
    """Return the module without another one that was there whenever it failed: else it may be the two together."""
    if len(_places_of(letter, failed)) > 1:
        return None  # What went wrong went with it from slot to slot, and never with the other.
    company = _company(log, letter, failed)
    if not company or _was_without(log, letter, company, _had_errors(failed)):
        return None
    stays = log.soldered
    good = [slot for attempt in log.tries if attempt.worked for slot, other in attempt.arrangement.fitted if slot not in stays]
    slot = (good or [failed[-1].arrangement.slot_of[letter]])[0]
    return Arrangement((*(pair for pair in stays.items() if pair[0] != slot), (slot, letter)), failed[-1].arrangement.profile)


def _failed_in(log: TryLog, slot: str) -> list[Try]:
    return [attempt for attempt in log.tries if attempt.failed and slot in attempt.arrangement.module_in]


def _proves_slot(log: TryLog, slot: str, one: Arrangement) -> bool:
    """Return whether an arrangement proves a slot should it work: empty, and what sat in it when it failed sits elsewhere."""
    sat_there = {attempt.arrangement.module_in[slot] for attempt in _failed_in(log, slot)}
    room = len([other for other in slots_of(log) if other not in log.soldered and other != slot])
    return slot not in one.module_in and len(sat_there & one.slot_of.keys()) >= min(len(sat_there), room, 2)


def _slot_was_proven(log: TryLog, slot: str) -> bool:
    with_errors = _had_errors(_failed_in(log, slot))
    return any(
        attempt.worked and (attempt.soak is SoakSaid.CLEAN or not with_errors) and _proves_slot(log, slot, attempt.arrangement)
        for attempt in log.tries
    )


def _without_slot(log: TryLog, slot: str) -> Arrangement | None:
    """Return what failed with its slot empty and its modules elsewhere: before a board is blamed, it is seen to work so."""
    failed = _failed_in(log, slot)
    sure_ones = {module.letter for module in log.modules if module.old or module.known_good}
    sure_ones |= worked_elsewhere(log, tested=_had_errors(failed))
    if not failed or slot in log.soldered or _slot_was_proven(log, slot):
        return None
    if any(attempt.arrangement.module_in[slot] in sure_ones for attempt in failed):
        return None  # A module that is known to be good failed there too.
    last = failed[-1].arrangement
    sat_there = list(dict.fromkeys(attempt.arrangement.module_in[slot] for attempt in reversed(failed)))[:2]
    fitted = {place: letter for place, letter in last.fitted if place != slot and letter not in sat_there}
    slots = slots_of(log)
    free = [place for place in slots if place != slot and place not in log.soldered and place not in fitted]
    for letter in sat_there:
        if not fits({**fitted, "": letter}, log, None):
            continue
        if not free:
            free = [place for place, other in fitted.items() if place not in log.soldered and other not in sat_there][-1:]
        if free:
            fitted[free.pop(0)] = letter
    return Arrangement(tuple((place, fitted[place]) for place in slots if place in fitted), last.profile)


def _back_as_it_was(log: TryLog, weighed: Weighed, suspect: Suspect) -> Arrangement | None:
    """Return the arrangement with the poor contact once more, where the module was not seated there again yet."""
    pair = next((one for one in weighed.culprits if (one.kind, one.name) == (suspect.kind, suspect.name)), None)
    if pair is None or log.last is None or pair.where(log.last.arrangement):
        return None
    failed = [attempt.arrangement for attempt in log.tries if attempt.failed and pair.where(attempt.arrangement)]
    return failed[-1] if failed else None
