"""The tries of a job: with the readings and soaks that were taken meanwhile, and what they say all together."""

from __future__ import annotations

import string
from collections.abc import Iterator
from dataclasses import replace
from datetime import datetime

from after_check.casework.promised import promise_of
from after_check.casework.same_machine import counts
from after_check.domain.boards import Filling, Slot
from after_check.domain.facts import typed, value_of
from after_check.domain.jobs import Job, KeptReading, Moment
from after_check.domain.modules import Form, Module
from after_check.domain.once import once_for_each
from after_check.domain.promises import Promise
from after_check.domain.readings import RateUnit, Reading, ShownRate, SoakResult
from after_check.domain.soak import SoakRecord
from after_check.domain.tries import Arrangement, Blame, NextTry, SoakSaid, Started, Try, TryLog, TryModule
from after_check.judgement.case import view
from after_check.judgement.slot_plan import alike, planned
from after_check.language.short_form import write
from after_check.language.short_form.writer import write_module
from after_check.soak.soak_json import result_of

_FEW_BITS = 8


@once_for_each(16)
def log_of(job: Job) -> TryLog:
    """Return a job's log, each try with what was read and tested while it stood; a new one where nothing was tried yet."""
    if job.tries is None:
        return new_log(job)
    log = job.tries.log
    ends: list[datetime | None] = [*(attempt.at for attempt in log.tries[1:]), None] if log.tries else []
    return replace(log, tries=tuple(_attached(job, attempt, end) for attempt, end in zip(log.tries, ends, strict=True)))


def new_log(job: Job) -> TryLog:
    """Return a log without tries: every physical module that a reading or the promise knows, lettered, and the board's slots."""
    letters = iter(string.ascii_lowercase)
    modules: list[TryModule] = []
    for old, module in _physical(job):
        letter = next(letters, None)
        if letter is not None:
            soldered = value_of(module.form) is Form.SOLDERED
            modules.append(TryModule(letter, write_module(module), old, module, soldered))
    return TryLog(tuple(modules), _slots(job))


def first_try(job: Job) -> Try:
    """Return a first try: the modules as promised in the slots where they are to go, and what the reading now says of them."""
    log = log_of(job)
    promise = promise_of(job) or Promise()
    plan = planned(job.arrival.reading if job.arrival is not None else None, promise, job.card)
    free = list(log.modules)
    fitted: list[tuple[str, str]] = []
    for slot, module in plan.filled():
        letter = next((one for one in free if one.module is not None and alike(one.module, module)), None)
        if slot and letter is not None:
            free.remove(letter)
            fitted.append((slot, letter.letter))
    if not fitted:
        return Try()
    now = job.now.reading if job.now is not None else None
    reported = {slot.name for slot in now.slots if slot.module is not None} if now is not None else set()
    is_known = now is not None and {slot for slot, _ in fitted} <= {slot.name for slot in now.slots}
    seen = tuple(slot for slot, _ in fitted if slot in reported) if is_known and len(reported) < len(fitted) else None
    profile = value_of(now.profile) if now is not None else None
    said = profile.value if profile is not None and profile.number is not None else ""
    return Try(Arrangement(tuple(fitted), said), seen=seen, started=Started.YES if seen is not None else None)


def staying(job: Job) -> int | None:
    """Return the place in the log of the try whose arrangement goes back to the customer; None where that cannot be said.

    It is the latest that worked with the slots that the latest reading shows filled; without a later reading, the last try. A
    borrowed module goes nowhere.
    """
    log = log_of(job)
    last, now = log.last, job.now
    if last is None:
        return None
    if now is None or last.at is None or now.taken_at <= last.at:
        return len(log.tries) - 1 if last.worked and not _borrows(log, last) else None
    filled = {slot.name for slot in now.reading.slots if slot.module is not None}
    own = ((at, tried) for at, tried in enumerate(log.tries) if tried.worked and not _borrows(log, tried))
    return max((at for at, tried in own if set(tried.arrangement.module_in) == filled), default=None)


def _borrows(log: TryLog, tried: Try) -> bool:
    return any(module.known_good and module.letter in tried.arrangement.slot_of for module in log.modules)


@once_for_each(16)
def blame_of(job: Job) -> Blame | None:
    """Return what the tries of a job say; None where nothing was tried."""
    if job.tries is None or not job.tries.log.tries:
        return None
    log = log_of(job)
    from after_check.tries.blame import blame

    said = blame(log, job.card)
    return _overtaken(job, said) if _is_overtaken(job, log) else said


@once_for_each(16)
def next_try_of(job: Job) -> NextTry | None:
    """Return what to try next; None where nothing was tried, or the tries are clear."""
    if job.tries is None or not job.tries.log.tries:
        return None
    from after_check.tries.next_try import next_try

    return next_try(log_of(job), job.card)


def _is_overtaken(job: Job, log: TryLog) -> bool:
    """Return whether the machine was read after the last try, and shows nothing of what went wrong in the tries.

    Errors of a soak are overtaken by a clean soak only, and a machine that switched off under load by a try that did not.
    """
    last, now = log.last, job.now
    if last is None or last.at is None or now is None or now.taken_at <= last.at or any(attempt.off_under_load for attempt in log.tries):
        return False
    if not any(attempt.soak is SoakSaid.ERRORS for attempt in log.tries):
        return True
    later = [result_of(kept.record) for kept in job.soaks if kept.record.begun_at > last.at and counts(job, kept.record)]
    typed = value_of(now.reading.soak)
    return any(result is not None and not result.errors for result in (*later, typed))


def _overtaken(job: Job, said: Blame) -> Blame:
    """Return what the tries say, with the present state taken from the later reading."""
    seen = view(job.now.reading) if job.now is not None else None
    if seen is None:
        return said
    return replace(said, works_now=True, clean_now=True, fitted_now=len(seen.reading.modules), fitted_bytes=seen.capacity.now_bytes)


def _physical(job: Job) -> Iterator[tuple[bool, Module]]:
    """Yield the modules from before the upgrade, then those of it; one with a serial number is known again."""
    known: set[str] = set()
    arrival = job.arrival.reading.modules if job.arrival else ()
    fitted = next((kept.reading.modules for kept in job.readings if kept.moment is Moment.FITTED), ())
    promise = promise_of(job)
    promised = promise.modules if promise is not None else ()
    new = fitted if len(fitted) >= len(promised) else (*fitted, *promised[len(fitted) :])
    stays = [_alike(module) for module in arrival]
    for old, module in (*((True, module) for module in arrival), *((False, row) for row in new)):
        serial = value_of(module.serial)
        if serial and serial in known:
            continue
        if not old and not serial and _alike(module) in stays:
            stays.remove(_alike(module))  # Without serial numbers, an equal module is taken for the one that was there.
            continue
        known.add(serial or "")
        yield old, module


def _alike(module: Module) -> tuple[object, ...]:
    return (value_of(module.size_bytes), value_of(module.rated_mts), value_of(module.part), value_of(module.maker))


def _slots(job: Job) -> tuple[str, ...]:
    named: list[str] = []
    for kept in reversed(job.readings):
        named += [slot.name for slot in kept.reading.slots]
    if not named and job.card is not None:
        named = [slot.name for slot in job.card.slots]
    promise = promise_of(job)
    if not named and promise is not None:
        named = [slot.name for slot in promise.slots]
    return tuple(dict.fromkeys(named))


def _attached(job: Job, tried: Try, end: datetime | None) -> Try:
    """Return a try with what was read and tested from its beginning until the next one began, where it does not say so itself."""
    if tried.at is None:
        return tried

    def within(moment: datetime) -> bool:
        return tried.at is not None and moment >= tried.at and (end is None or moment < end)

    for kept in job.readings:
        if kept.moment is Moment.FITTED and within(kept.taken_at):
            tried = _with_reading(tried, kept)
    for soak in job.soaks:
        result = result_of(soak.record) if within(soak.record.begun_at) and counts(job, soak.record) else None
        if result is not None and tried.soak is None:
            said = SoakSaid.ERRORS if result.errors else SoakSaid.CLEAN
            tried = replace(tried, soak=said, errors_in=result.suspects, soak_minutes=round(soak.record.seconds / 60, 1))
            if not tried.errors_at:
                tried = replace(tried, wrong_bits=_bits(soak.record))
            if tried.celsius is None:
                tried = replace(tried, celsius=_hottest(soak.record))
    for benchmark in job.benchmarks:
        measured = benchmark.record.best_bandwidth_gbs is not None and counts(job, benchmark.record)
        if within(benchmark.record.begun_at) and measured:
            tried = replace(tried, benchmark_gbs=benchmark.record.best_bandwidth_gbs)
    return tried


def _bits(record: SoakRecord) -> tuple[int, ...]:
    """Return the bits at which a memory test found errors; none where they are too many to be one place's."""
    wrong = tuple(lane for lane, (low, high) in enumerate(record.lanes) if low or high)
    return wrong if len(wrong) <= _FEW_BITS else ()


def _hottest(record: SoakRecord) -> float | None:
    """Return the hottest temperature of a module during a memory test, in degrees Celsius."""
    return max((moment.module_celsius for moment in record.surroundings if moment.module_celsius is not None), default=None)


def _with_reading(tried: Try, kept: KeptReading) -> Try:
    seen = view(kept.reading)
    reading: Reading = seen.reading
    known = bool(reading.slots) and all(slot.filling is not Filling.UNKNOWN for slot in reading.slots)
    filled = tuple(slot.name for slot in reading.slots if slot.module is not None)
    if len(reading.modules) > len(tried.arrangement.fitted) or tried.started is Started.NO:
        return tried  # More than was fitted, or of a machine that did not start: it was read of another arrangement.
    total = seen.capacity.total_bytes
    return replace(
        tried,
        started=tried.started or Started.YES,
        seen=tried.seen if tried.seen is not None else filled if known else None,
        total_bytes=tried.total_bytes if tried.total_bytes is not None else total,
        rate_mts=tried.rate_mts or seen.rate_mts,
        channels=tried.channels or seen.channels.count,
    )


def as_reading(log: TryLog, tried: Try) -> str:
    """Return the arrangement of a try in the short form, with what was noted of it: a reading to look at and to keep."""
    by_letter = log.by_letter
    slots = []
    for name in log.slots:
        module = by_letter.get(tried.arrangement.module_in.get(name, ""))
        known = (module.module or Module()) if module is not None else None
        slots.append(Slot(name, Filling.FILLED if known is not None else Filling.EMPTY, known))
    reading = Reading(
        slots=tuple(slots),
        running_rate=typed(ShownRate(tried.rate_mts, RateUnit.MTS)) if tried.rate_mts else None,
        channels=typed(tried.channels) if tried.channels else None,
        total_bytes=typed(tried.total_bytes) if tried.total_bytes else None,
        soak=typed(SoakResult(0, int(tried.soak_minutes) if tried.soak_minutes else None)) if tried.soak is SoakSaid.CLEAN else None,
    )
    return write(reading)
