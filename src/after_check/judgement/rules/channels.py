"""Rules about the channel mode."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from after_check.domain.boards import Filling, Slot
from after_check.domain.codes import Code, Severity
from after_check.domain.facts import Source, value_of
from after_check.domain.findings import Evidence, Finding, finding, shown
from after_check.domain.messages import message
from after_check.domain.quantities import peak_bandwidth_gbs
from after_check.judgement.capacity import lists_too_little
from after_check.judgement.case import Case
from after_check.judgement.channels import slot_channel
from after_check.judgement.rules.modules import missing_count
from after_check.judgement.rules.promised import places_missed


def single(case: Case) -> Iterator[Finding]:
    """channels.single: fewer channels than promised, or than the modules could fill, and not for the slots chosen."""
    channels = case.now.channels
    modules = len(case.now.reading.modules)
    if channels.count is None or moves(case):
        return
    promised = case.promise.channels
    if promised is not None and channels.count < promised:
        follows = missing_count(case) >= promised - channels.count
        severity, against = Severity.NOTE if follows else Severity.FIX, "promised"
    elif promised is None and channels.count == 1 and modules > 1:
        severity, against = Severity.TELL, "more"
    elif promised is None and channels.count == 1 and modules == 1:
        severity, against = Severity.NOTE, "one"
    else:
        return
    if promised is not None and missing_count(case) >= promised - channels.count > 0:
        why = "missing"
    elif modules == 1:
        why = "one"
    else:
        why = "shown" if not channels.basis or channels.derived is None else "worked-out"
    basis = shown("basis", channels.source or Source.WORKED_OUT, basis=channels.basis)
    yield finding(
        Code.CHANNELS_SINGLE,
        0.95 if channels.claimed == channels.derived else 0.85,
        (basis if channels.basis else shown("channels", channels.source or Source.WORKED_OUT, channels=channels.count),),
        severity=severity,
        channels=channels.count,
        promised=promised,
        modules=modules,
        against=against,
        why=why,
        basis=channels.basis,
    )


def wrong_slots(case: Case) -> Iterator[Finding]:
    """channels.wrong_slots: modules share a channel while another channel is empty."""
    found = moves(case)
    if not found:
        return
    promised = case.promise.channels
    count = case.now.channels.derived or 1
    yield finding(
        Code.CHANNELS_WRONG_SLOTS,
        0.9,
        _by_channel(case),
        tuple(name for move in found for name in (move.source, move.target)),
        Severity.FIX if (promised is not None and count < promised) or places_missed(case)[0] else Severity.TELL,
        modules=len(case.now.reading.modules),
        channels=count,
        to=found[0].target,
        moves=tuple(message("move", source=move.source, target=move.target) for move in found),
        **{"from": found[0].source},
    )


def _by_channel(case: Case) -> tuple[Evidence, ...]:
    by_channel = case.now.channels.by_channel
    return tuple(shown("channel", Source.WORKED_OUT, channel=name, slots=", ".join(slots)) for name, slots in by_channel)


def partial(case: Case) -> Iterator[Finding]:
    """channels.partial: unequal channels, so that a part of the memory is shared by fewer."""
    channels, rate_mts = case.now.channels, case.now.rate_mts
    if not channels.partial or channels.count is None:
        return
    peaks = [peak_bandwidth_gbs(rate_mts, part.ways) for part in channels.parts] if rate_mts is not None else []
    weighted = sum(peak * part.size_bytes for peak, part in zip(peaks, channels.parts, strict=False))
    sizes = {value_of(module.size_bytes) for module in case.now.reading.modules}
    yield finding(
        Code.CHANNELS_PARTIAL,
        0.85,
        _by_channel(case),
        severity=Severity.TELL,
        channels=channels.parts[0].ways,
        parts=tuple(message("part", size_bytes=part.size_bytes, channels=part.ways) for part in channels.parts),
        peaks=tuple(f"{peak:.1f}" for peak in peaks),
        mean_gbs=weighted / sum(part.size_bytes for part in channels.parts) if peaks else None,
        unlike="modules" if len(sizes) > 1 else "channels",
    )


def unproven(case: Case) -> Iterator[Finding]:
    """channels.unproven: nothing tells the channel mode."""
    channels = case.now.channels
    if channels.contradiction or not case.seen or not case.now.reading.modules:
        return
    if channels.count is None:
        # It keeps the verdict open where channels were promised; else it is for the record.
        severity = Severity.TELL if case.promise.channels is not None else Severity.NOTE
        yield finding(Code.CHANNELS_UNPROVEN, 0.9, severity=severity, loose=bool(case.now.reading.loose))


def node_empty(case: Case) -> Iterator[Finding]:
    """channels.node_empty: a processor (memory node) without memory of its own, so that all it needs comes from another."""
    nodes = case.now.reading.nodes
    empty = [node.number for node in nodes if node.total_bytes == 0]
    if not empty or len(empty) == len(nodes):
        return
    named = tuple(str(number) for number in empty)
    evidence = tuple(shown("node", Source.SYSTEM, node=str(node.number), size_bytes=node.total_bytes) for node in nodes)
    yield finding(Code.CHANNELS_NODE_EMPTY, 0.8, evidence, named=named, nodes=len(nodes))


@dataclass(frozen=True, slots=True)
class Move:
    """A module that is to go from one slot into another."""

    source: str
    target: str


def moves(case: Case) -> list[Move]:
    """Return which modules to move so that one more channel, or all, are filled; empty where no move does that.

    Where they belong is asked of the promise, the arrival, the card's fill order, and the neighbours, in this order.
    """
    channels = case.now.channels
    crowded = [slots for _, slots in channels.by_channel if len(slots) > 1]
    if channels.derived is None or not crowded or channels.contradiction:
        return []
    slots = {slot.name: slot for slot in (*case.now.reading.slots, *_not_named_again(case))}
    for wanted in (_promised_slots(case), _arrival_slots(case), _ordered_slots(case)):
        found = _moves_into(wanted, slots)
        if found and _fills_more(case, found):
            return found
    if not channels.empty_channels:
        return []
    stays, goes = _who_stays(crowded[0], slots)
    position = _position(slots[stays])
    target = min(channels.empty_channels[0][1], key=lambda name: abs(_position(slots[name]) - position))
    return [Move(goes, target)]


def _not_named_again(case: Case) -> list[Slot]:
    """Return the slots of the promise and of the arrival that nobody named now: empty, where the listed modules are all there is."""
    reading = case.now.reading
    if lists_too_little(reading) or any(value_of(module.size_bytes) is None for module in reading.modules):
        return []
    known = {slot.name.casefold() for slot in reading.slots}
    others = (*case.promise.slots, *(case.before.reading.slots if case.before is not None else ()))
    more = {slot.name.casefold(): replace(slot, filling=Filling.EMPTY, module=None) for slot in others}
    return [slot for name, slot in more.items() if name not in known]


def _promised_slots(case: Case) -> list[str]:
    return [slot.name for slot in case.promise.slots if slot.module is not None]


def _arrival_slots(case: Case) -> list[str]:
    """Return the slots that were filled on arrival, where as many modules were there and they ran on more channels."""
    if case.before is None or (case.before.channels.count or 0) <= (case.now.channels.derived or 0):
        return []
    return [slot.name for slot in case.before.reading.slots if slot.module is not None]


def _ordered_slots(case: Case) -> list[str]:
    """Return the first slots of the card's fill order, as many as there are modules."""
    return [slot.name for slot in case.card.slots][: len(case.now.reading.modules)] if case.card is not None else []


def _moves_into(wanted: list[str], slots: dict[str, Slot]) -> list[Move]:
    """Return the moves from filled slots that are not wanted into wanted ones that are empty."""
    known = {name.casefold(): name for name in slots}
    names = [known[name.casefold()] for name in wanted if name.casefold() in known]
    filled = [name for name, slot in slots.items() if slot.module is not None]
    targets = [name for name in names if slots[name].filling is Filling.EMPTY]
    sources = [name for name in filled if name not in names]
    return [Move(source, target) for source, target in zip(sources, targets, strict=False)] if len(names) >= len(filled) else []


def _fills_more(case: Case, found: list[Move]) -> bool:
    """Return whether moving modules so would give more channels a module."""
    reading = case.now.reading
    gone, come = {move.source for move in found}, {move.target for move in found}
    there = (*reading.slots, *_not_named_again(case))
    filled = [slot for slot in there if (slot.module is not None and slot.name not in gone) or slot.name in come]
    return len({slot_channel(slot, case.card, reading) for slot in filled}) > (case.now.channels.derived or 0)


def order(case: Case) -> Iterator[Finding]:
    """slots.order: the slots are not filled in the order that the machine's maker gives."""
    if case.card is None or not case.card.slots or case.now.reading.loose or moves(case) or not case.seen:
        return
    if missing_count(case) > 0:  # a slot without its module is the fault that is told; the order can't be seen past it
        return
    wanted = {name.casefold() for name in _ordered_slots(case)}
    filled = [slot.name for slot in case.now.reading.slots if slot.module is not None]
    if not filled or {name.casefold() for name in filled} == wanted or any(case.card.channel_of(name) is None for name in filled):
        return
    asked = ", ".join(_ordered_slots(case))
    yield finding(
        Code.SLOTS_ORDER,
        0.85,
        (shown("order", Source.TYPED, machine=case.card.name, asked=asked),),
        tuple(name for name in filled if name.casefold() not in wanted),
        filled=", ".join(filled),
        machine=case.card.name,
        asked=asked,
    )


def _who_stays(slots: tuple[str, ...], places: dict[str, Slot]) -> tuple[str, str]:
    """The module farthest from the processor stays, as boards with two slots a channel are wired to be filled there first."""
    ordered = sorted(slots, key=lambda name: _position(places[name]))
    return ordered[-1], ordered[0]


def _position(slot: Slot) -> int:
    return slot.place.position if slot.place is not None else 0
