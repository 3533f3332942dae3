"""What to do about a module that is not seen or a machine that does not start, in the order of least work.

Each step is done when a try of the log did it; one that proposes an arrangement can be begun as a try at once. Soldered
memory stays where it is in every one of them.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from after_check.domain.cards import Card
from after_check.domain.tries import PROFILE_OFF, Arrangement, Try, TryLog
from after_check.tries.arrangements import fill_order


@dataclass(frozen=True, slots=True)
class AdviceStep:
    """One step: a name, what to do in words, whether it was done, and the arrangement it asks for."""

    name: str
    words: str
    done: bool
    arrangement: Arrangement | None = None


def steps(log: TryLog, card: Card | None, missing: Sequence[str] = ()) -> tuple[AdviceStep, ...]:
    """Return the steps for a log; `missing` are filled slots that are not seen, else those of the latest failed try are taken."""
    if not log.tries:
        return ()
    failed = next((attempt for attempt in reversed(log.tries) if attempt.failed), log.tries[-1])
    first = failed.arrangement
    slots = tuple(missing) or failed.unseen or failed.errors_in or tuple(slot for slot, _ in first.fitted[-1:])
    loose = [slot for slot, _ in first.fitted if slot not in log.soldered]
    slot = next((slot for slot in slots if slot in loose), loose[-1] if loose else "")
    letter = first.module_in.get(slot, "")
    found = [_seat(log, first, slot, letter), _slots(log, first, card), _settings(log, first), _alone(log, slot, letter, card)]
    found += [_crossed(log, first, slot, letter), _control(log, card)]
    return tuple(step for step in found if step is not None)


def _loose(log: TryLog, tried: Try | None) -> dict[str, str]:
    """Return the modules of a try by slot, without what is soldered."""
    return {slot: letter for slot, letter in tried.arrangement.fitted if slot not in log.soldered} if tried is not None else {}


def _seat(log: TryLog, first: Arrangement, slot: str, letter: str) -> AdviceStep | None:
    if not slot and first.fitted:
        return None  # All of it is soldered.
    times = sum(attempt.arrangement.fitted == first.fitted for attempt in log.tries)
    words = f"Seat {letter or 'the modules'} again in {slot}: both latches up, an even line of contacts, the notch on the right side."
    return AdviceStep("seat", words, times > 1, first)


def _slots(log: TryLog, first: Arrangement, card: Card | None) -> AdviceStep | None:
    """The slots that the machine wants filled first."""
    letters = [letter for slot, letter in first.fitted if slot not in log.soldered]
    free = [slot for slot in fill_order(log, card) if slot not in log.soldered]
    wanted = free[: len(letters)]
    if card is None or not card.slots or len(wanted) < len(letters) or len(free) < 2:
        return None
    arrangement = Arrangement((*log.soldered.items(), *zip(wanted, letters, strict=False)), first.profile)
    done = any(set(_loose(log, attempt)) == set(wanted) for attempt in log.tries)
    return AdviceStep(
        "slots", f"Use the slots in the order in which {card.name} wants them filled: {', '.join(wanted)}.", done, arrangement
    )


def _settings(log: TryLog, first: Arrangement) -> AdviceStep | None:
    if not any(attempt.arrangement.profile_is_on for attempt in log.tries):
        return None
    done = any(attempt.arrangement.profile == PROFILE_OFF for attempt in log.tries)
    return AdviceStep("settings", "Switch the profile off: standard rate and voltage.", done, Arrangement(first.fitted, PROFILE_OFF))


def _alone(log: TryLog, slot: str, letter: str, card: Card | None) -> AdviceStep | None:
    """The module alone, in a slot that is known to be good, else in the first one."""
    if not letter:
        return None
    good = [place for attempt in log.tries if attempt.worked for place in _loose(log, attempt) if place != slot]
    place = (good or [other for other in fill_order(log, card) if other not in (slot, *log.soldered)] or [slot])[0]
    if place == slot and log.soldered:
        return None  # The only slot that there is: it is alone in it as it is.
    done = any(set(_loose(log, attempt).values()) == {letter} for attempt in log.tries)
    known = "known to be good" if good else "the first one" if place == fill_order(log, card)[0] else "another one"
    return AdviceStep("alone", f"{letter} alone in {place} ({known}).", done, Arrangement((*log.soldered.items(), (place, letter))))


def _crossed(log: TryLog, first: Arrangement, slot: str, letter: str) -> AdviceStep | None:
    other = next((pair for pair in first.fitted if pair[0] != slot and pair[0] not in log.soldered), None)
    if other is None or not letter:
        return None
    fitted = {**first.module_in, slot: other[1], other[0]: letter}
    done = any(
        attempt.arrangement.module_in.get(slot) not in (None, letter) and letter in attempt.arrangement.slot_of for attempt in log.tries
    )
    words = f"Cross them: {letter} into {other[0]}, {other[1]} into {slot}. Whether the fault moves with it tells module from slot."
    return AdviceStep("crossed", words, done, Arrangement(tuple((place, fitted[place]) for place, _ in first.fitted), first.profile))


def _control(log: TryLog, card: Card | None) -> AdviceStep | None:
    old = [module.letter for module in log.modules if module.old]
    if not old:
        return None
    before = next(
        (attempt.arrangement for attempt in log.tries if _loose(log, attempt) and set(_loose(log, attempt).values()) <= set(old)), None
    )
    free = [slot for slot in fill_order(log, card) if slot not in log.soldered]
    arrangement = before or Arrangement((*log.soldered.items(), *zip(free, old, strict=False)))
    return AdviceStep(
        "control",
        f"The old modules back ({', '.join(old)}): proves whether the machine itself still works.",
        before is not None,
        arrangement,
    )
