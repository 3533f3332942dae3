"""Rules about the channel mode."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from after_check.domain.boards import Filling, Slot
from after_check.domain.codes import Code, Severity
from after_check.domain.facts import Source, value_of
from after_check.domain.findings import Evidence, Finding
from after_check.domain.quantities import peak_bandwidth_gbs, size_text
from after_check.judgement.capacity import lists_too_little
from after_check.judgement.case import Case
from after_check.judgement.channels import slot_channel
from after_check.judgement.rules.modules import missing_count

_WORDS = {1: "one channel", 2: "two channels", 3: "three channels", 4: "four channels"}


def single(case: Case) -> Iterator[Finding]:
    """channels.single: fewer channels than promised, or than the modules could fill, and not for the slots chosen."""
    channels = case.now.channels
    modules = len(case.now.reading.modules)
    if channels.count is None or moves(case):
        return
    promised = case.promise.channels
    if promised is not None and channels.count < promised:
        follows = missing_count(case) >= promised - channels.count
        severity, against = Severity.NOTE if follows else Severity.FIX, f", {promised} promised"
    elif promised is None and channels.count == 1 and modules > 1:
        severity, against = Severity.TELL, f" with {modules} modules"
    elif promised is None and channels.count == 1 and modules == 1:
        severity, against = Severity.NOTE, ", with one module"
    else:
        return
    if promised is not None and missing_count(case) >= promised - channels.count > 0:
        reason = "This follows from the module that is not seen: its channel has no memory."
        step = "See to the missing module first, then read again."
    elif modules == 1:
        reason = "One module makes one channel."
        step = "A second module of the same size in the other channel would double the bandwidth."
    else:
        shown_only = not channels.basis or channels.derived is None
        reason = f"The memory runs on {words(channels.count)}, {'as the machine shows it' if shown_only else channels.basis}."
        step = "Check that each channel has a module, reseat them, and read the channel mode again."
    yield Finding(
        code=Code.CHANNELS_SINGLE,
        severity=severity,
        title=f"Runs on {words(channels.count)}{against}",
        reason=reason,
        next=step,
        sure=0.95 if channels.claimed == channels.derived else 0.85,
        customer=f"The memory works on {words(channels.count)}"
        + (
            f" instead of {words(promised)}."
            if promised and promised > channels.count
            else "; a matching second module would help more than speed does."
        ),
        evidence=(Evidence(channels.basis or words(channels.count), channels.source or Source.WORKED_OUT),),
    )


def wrong_slots(case: Case) -> Iterator[Finding]:
    """channels.wrong_slots: modules share a channel while another channel is empty."""
    found = moves(case)
    if not found:
        return
    promised = case.promise.channels
    count = case.now.channels.derived or 1
    yield Finding(
        code=Code.CHANNELS_WRONG_SLOTS,
        severity=Severity.FIX if promised is not None and count < promised else Severity.TELL,
        title=f"Wrong slots: {len(case.now.reading.modules)} modules on {words(count)}",
        reason=f"{found[0].source} shares a channel with another module, while the channel of {found[0].target} is empty.",
        next=f"Power off and {_moves_words(found)}; then read again.",
        sure=0.9,
        customer="The modules sit in slots that make them share one memory channel; moving one makes the memory faster.",
        evidence=tuple(Evidence(f"channel {name}: {', '.join(slots)}", Source.WORKED_OUT) for name, slots in case.now.channels.by_channel),
        slots=tuple(name for move in found for name in (move.source, move.target)),
    )


def _unlike(case: Case) -> str:
    sizes = {value_of(module.size_bytes) for module in case.now.reading.modules}
    return "The modules differ in size" if len(sizes) > 1 else "The memory channels hold different amounts"


def partial(case: Case) -> Iterator[Finding]:
    """channels.partial: unequal channels, so that a part of the memory is shared by fewer."""
    channels = case.now.channels
    if not channels.partial or channels.count is None:
        return
    said = ", ".join(f"{size_text(part.size_bytes)} on {words(part.ways)}" for part in channels.parts)
    yield Finding(
        code=Code.CHANNELS_PARTIAL,
        severity=Severity.TELL,
        title=f"Partly on {words(channels.parts[0].ways)}: {said}",
        reason="The channels hold different amounts. What all of them hold is spread over all; the rest is not." + _weighted_words(case),
        next="Nothing to fix. Equal modules would put all of it on every channel.",
        sure=0.85,
        customer=f"{_unlike(case)}: {said}. It works; as much memory on each channel would be faster throughout.",
        evidence=tuple(Evidence(f"channel {name}: {', '.join(slots)}", Source.WORKED_OUT) for name, slots in channels.by_channel),
    )


def _weighted_words(case: Case) -> str:
    """Return the peak bandwidth of each part, and their mean weighted by size; empty where the rate is not known."""
    rate_mts, parts = case.now.rate_mts, case.now.channels.parts
    if rate_mts is None:
        return ""
    peaks = [peak_bandwidth_gbs(rate_mts, part.ways) for part in parts]
    whole = sum(part.size_bytes for part in parts)
    mean = sum(peak * part.size_bytes for peak, part in zip(peaks, parts, strict=True)) / whole
    return f" The parts carry {' and '.join(f'{peak:.1f}' for peak in peaks)} GB/s at most, weighted by their size {mean:.1f}."


def unproven(case: Case) -> Iterator[Finding]:
    """channels.unproven: nothing tells the channel mode."""
    channels = case.now.channels
    if channels.contradiction or not case.seen or not case.now.reading.modules:
        return
    if channels.count is None:
        yield Finding(
            code=Code.CHANNELS_UNPROVEN,
            severity=Severity.NOTE,
            title="Channel mode not known",
            reason="No channel mode was shown, and the slot names do not tell channels.",
            next="Type the mode that the firmware setup page shows (single, dual)"
            + (", or the slots of the modules." if case.now.reading.loose else ", or measure the bandwidth."),
            sure=0.9,
            customer="How many memory channels the memory uses could not be read.",
        )


def node_empty(case: Case) -> Iterator[Finding]:
    """channels.node_empty: a processor (memory node) without memory of its own, so that all it needs comes from another."""
    nodes = case.now.reading.nodes
    empty = [node.number for node in nodes if node.total_bytes == 0]
    if not empty or len(empty) == len(nodes):
        return
    named = " and ".join(str(number) for number in empty)
    yield Finding(
        code=Code.CHANNELS_NODE_EMPTY,
        severity=Severity.TELL,
        title=f"No memory at node {named}",
        reason=f"The system counts {len(nodes)} memory nodes, one to a processor, and node {named} has none of its own: "
        "everything it uses comes through another processor, and its channels do nothing.",
        next="Spread the modules over the slots of all processors, as the board's manual orders them; or note why not.",
        sure=0.8,
        customer="All memory sits at one of the machine's processors; spread over all of them it would be faster.",
        evidence=tuple(Evidence(f"node {node.number}: {size_text(node.total_bytes)}", Source.SYSTEM) for node in nodes),
    )


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


def _moves_words(found: list[Move]) -> str:
    said = [f"from {move.source} to {move.target}" for move in found]
    which = "the module" if len(said) == 1 else "the modules"
    return f"move {which} {said[0]}" if len(said) == 1 else f"move {which} {', '.join(said[:-1])} and {said[-1]}"


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
    yield Finding(
        code=Code.SLOTS_ORDER,
        severity=Severity.NOTE,
        title=f"Filled are {', '.join(filled)}; {case.card.name} asks for {asked} first",
        reason="The maker gives an order in which the slots are to be filled; another one may start late, run slower, or not at all.",
        next=f"Put the modules into {asked} where anything is odd; else note that it works as it is.",
        sure=0.85,
        customer="The memory sits in other slots than the machine's maker asks for; it works.",
        evidence=(Evidence(f"machine data sheet of {case.card.name}: {asked}", Source.TYPED),),
        slots=tuple(name for name in filled if name.casefold() not in wanted),
    )


def _who_stays(slots: tuple[str, ...], places: dict[str, Slot]) -> tuple[str, str]:
    """The module farthest from the processor stays, as boards with two slots a channel are wired to be filled there first."""
    ordered = sorted(slots, key=lambda name: _position(places[name]))
    return ordered[-1], ordered[0]


def _position(slot: Slot) -> int:
    return slot.place.position if slot.place is not None else 0


def words(count: int) -> str:
    """Return a number of channels in words."""
    return _WORDS.get(count, f"{count} channels")
