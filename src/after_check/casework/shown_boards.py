"""The boards of a job as they are shown: what a reading says of each slot, and which physical module that is.

A module has one letter in all of a job: on its boards, in its tries, on paper. A reading knows no letters; they are those of the try
that was made before it where its slots are filled as that try filled them, else of the modules with the same serial number, else of
equal modules, in their order, as long as nothing was tried that may have moved them.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime

from after_check.casework.job_tries import log_of
from after_check.domain.boards import Filling
from after_check.domain.facts import value_of
from after_check.domain.jobs import Job, KeptReading
from after_check.domain.modules import Module
from after_check.domain.once import once_for_each
from after_check.domain.promises import Promise
from after_check.domain.readings import Reading
from after_check.domain.tries import Try, TryLog, TryModule
from after_check.judgement.reconcile import reconciled
from after_check.judgement.slot_plan import alike


@dataclass(frozen=True, slots=True)
class ShownBoard:
    """One board of a job.

    `letters` are those of the modules by slot, `loose_letters` of those without a slot, in their order. `not_seen` are the slots that the
    latest try filled and the machine shows empty, with their module's letter. `read_at` is when it was read, and `before_try` the number of
    the first try that was made since.
    """

    name: str
    reading: Reading
    letters: Mapping[str, str] = field(default_factory=dict)
    loose_letters: tuple[str, ...] = ()
    not_seen: Mapping[str, str] = field(default_factory=dict)
    read_at: datetime | None = None
    before_try: int | None = None

    @property
    def is_now(self) -> bool:
        """Whether it is the board as it is now."""
        return self.name == NOW


NOW, ON_ARRIVAL, AS_PROMISED = "now", "on arrival", "as promised"


@once_for_each(16)
def arrival_board(job: Job) -> ShownBoard | None:
    """Return the board on arrival; None where nothing was read then."""
    return _read(ON_ARRIVAL, job, job.arrival, log_of(job)) if job.arrival is not None else None


@once_for_each(16)
def present_board(job: Job) -> ShownBoard | None:
    """Return the board as it is now; None where nothing was read since fitting."""
    return _read(NOW, job, job.now, log_of(job)) if job.now is not None else None


def promised_board(job: Job, promise: Promise) -> ShownBoard:
    """Return the board as it was promised."""
    reading = Reading(slots=promise.slots, loose=promise.loose)
    log = log_of(job)
    given = _alike_letters(reading, [*(one for one in log.modules if not one.old), *(one for one in log.modules if one.old)])
    return ShownBoard(AS_PROMISED, reading, *_by_slot(reading, given))


def _read(name: str, job: Job, kept: KeptReading, log: TryLog) -> ShownBoard:
    reading = reconciled(kept.reading)
    if name == ON_ARRIVAL:
        given = _alike_letters(reading, [*(one for one in log.modules if one.old), *(one for one in log.modules if not one.old)])
        return ShownBoard(name, reading, *_by_slot(reading, given), read_at=kept.taken_at)
    since = next((number for number, tried in enumerate(log.tries, 1) if tried.at is not None and tried.at > kept.taken_at), None)
    earlier = [tried for tried in log.tries if tried.at is not None and tried.at <= kept.taken_at]
    last = earlier[-1] if earlier else None
    letters, loose = _by_slot(reading, _given(reading, log, last))
    return ShownBoard(name, reading, letters, loose, _not_seen(reading, last), kept.taken_at, since)


def _given(reading: Reading, log: TryLog, last: Try | None) -> list[str]:
    """Return a letter for each module of a reading, in the order of `Reading.filled`; an empty one where it cannot be told."""
    if last is None:
        return _alike_letters(reading, [*(one for one in log.modules if not one.old), *(one for one in log.modules if one.old)])
    module_in = {slot.casefold(): letter for slot, letter in last.arrangement.fitted}
    filled = {slot.casefold() for slot, _ in reading.filled()}
    if filled and filled <= module_in.keys():
        return [module_in[slot.casefold()] for slot, _ in reading.filled()]
    serials = {one.serial: one.letter for one in log.modules if one.serial}
    return [serials.get(value_of(module.serial) or "", "") for _, module in reading.filled()]


def _alike_letters(reading: Reading, modules: list[TryModule]) -> list[str]:
    free = list(modules)
    given: list[str] = []
    for _, module in reading.filled():
        found = next((one for one in free if _same_serial(one, module)), None) or next(
            (one for one in free if one.module is not None and alike(one.module, module)), None
        )
        if found is not None:
            free.remove(found)
        given.append(found.letter if found is not None else "")
    return given


def _same_serial(one: TryModule, module: Module) -> bool:
    return bool(one.serial) and one.serial == value_of(module.serial)


def _by_slot(reading: Reading, given: list[str]) -> tuple[dict[str, str], tuple[str, ...]]:
    pairs = list(zip((slot for slot, _ in reading.filled()), given, strict=True))
    return {slot: letter for slot, letter in pairs if slot and letter}, tuple(letter for slot, letter in pairs if not slot)


def _not_seen(reading: Reading, last: Try | None) -> dict[str, str]:
    if last is None:
        return {}
    module_in = {slot.casefold(): letter for slot, letter in last.arrangement.fitted}
    empty = (slot.name for slot in reading.slots if slot.filling is Filling.EMPTY)
    return {name: module_in[name.casefold()] for name in empty if name.casefold() in module_in}
