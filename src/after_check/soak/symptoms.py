"""What the errors of a soak look like: likely kinds of faults. Likely, as a test under a system sees but a part."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from after_check.domain.readings import Reading
from after_check.domain.soak import During, FaultKind, Symptom, WrongWord
from after_check.soak.locating import devices_behind, lanes_of, suspects_of

_MANY_ADDRESSES = 8
_MANY_BITS = 12
"""More wrong bits than this in a word: not single cells."""
_MOST_BITS = 16
"""More wrong bits than this are no device's."""
_SHARE = 0.6
_NAMED_BITS = 4


def symptoms_of(errors: Sequence[WrongWord]) -> tuple[Symptom, ...]:
    """Return the likely kinds of faults behind errors, those with most errors first; each error counts for one kind."""
    groups: dict[FaultKind, list[WrongWord]] = {}
    busy = _busy_lanes(errors)
    again = Counter((error.virtual_byte, error.bits) for error in errors)
    for error in errors:
        groups.setdefault(_kind(error, busy, again), []).append(error)
    found = [_symptom(kind, group) for kind, group in groups.items()]
    return tuple(sorted(found, key=lambda symptom: -symptom.errors))


def _busy_lanes(errors: Sequence[WrongWord]) -> frozenset[int]:
    """Return the lanes that most errors share, where they lie at many addresses: a line or a device, not a cell."""
    if len({error.virtual_byte for error in errors}) < _MANY_ADDRESSES:
        return frozenset()
    counts = Counter(lane for error in errors for lane in lanes_of(error.bits))
    return frozenset(lane for lane, count in counts.items() if count >= _SHARE * len(errors))


def _kind(error: WrongWord, busy: frozenset[int], again: Counter[tuple[int, int]]) -> FaultKind:
    if not error.was_stored:
        return FaultKind.READ
    if error.during is During.PAUSES:
        return FaultKind.RETENTION
    if error.during is During.ROWS:
        return FaultKind.DISTURBED
    if error.bits.bit_count() > _MANY_BITS:
        return FaultKind.ADDRESSING
    if busy & set(lanes_of(error.bits)):
        return FaultKind.LANE
    if again[(error.virtual_byte, error.bits)] > 1:
        return FaultKind.STUCK
    return FaultKind.SCATTERED


def _symptom(kind: FaultKind, errors: Sequence[WrongWord]) -> Symptom:
    bits = Counter(lane for error in errors for lane in lanes_of(error.bits))
    named = tuple(lane for lane, _ in sorted(bits.most_common(_NAMED_BITS)))
    return Symptom(kind, len(errors), bits=named, addresses=len({error.virtual_byte for error in errors}))


def pointed(kept: Sequence[WrongWord], reading: Reading | None, risen: tuple[str, ...], before: tuple[str, ...]) -> dict[str, object]:
    """Return what errors look like and point at, as parts of a record: symptoms, suspects, devices.

    Where no suspect is new, those from before stay.
    """
    bits = 0
    for error in kept:
        bits |= error.bits
    return {
        "symptoms": symptoms_of(kept),
        "suspects": suspects_of(kept, reading, risen) or before,
        "wrong_devices": devices_behind(bits, reading) if bits.bit_count() <= _MOST_BITS else None,
    }
