"""Rules about the channel mode."""

from __future__ import annotations

from collections.abc import Iterator

from after_check.domain.boards import Slot
from after_check.domain.facts import Source
from after_check.domain.findings import Code, Evidence, Finding, Severity
from after_check.domain.quantities import peak_bandwidth_gbs, size_text
from after_check.judgement.case import Case
from after_check.judgement.rules.modules import missing_count

_WORDS = {1: "one channel", 2: "two channels", 3: "three channels", 4: "four channels"}


def single(case: Case) -> Iterator[Finding]:
    """channels.single: fewer channels than promised, or than the modules could fill, and not for the slots chosen."""
    channels = case.now.channels
    modules = len(case.now.reading.modules)
    if channels.count is None or _move(case) is not None:
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
        reason = f"The memory runs on {words(channels.count)}: {channels.basis or 'as shown'}."
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
    move = _move(case)
    if move is None:
        return
    source, target = move
    promised = case.promise.channels
    count = case.now.channels.derived or 1
    yield Finding(
        code=Code.CHANNELS_WRONG_SLOTS,
        severity=Severity.FIX if promised is not None and count < promised else Severity.TELL,
        title=f"Wrong slots: {len(case.now.reading.modules)} modules on {words(count)}",
        reason=f"{source} shares a channel with another module, while the channel of {target} is empty.",
        next=f"Power off and move the module from {source} to {target}; then read again.",
        sure=0.9,
        customer="The modules sit in slots that make them share one memory channel; moving one makes the memory faster.",
        evidence=tuple(Evidence(f"channel {name}: {', '.join(slots)}", Source.WORKED_OUT) for name, slots in case.now.channels.by_channel),
        slots=(source, target),
    )


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
        customer=f"The modules differ in size, so {said}. It works; two equal modules would be faster throughout.",
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
    """channels.unproven: the channel mode rests on a claim alone, or on nothing."""
    channels = case.now.channels
    if channels.contradiction or (not case.now.reading.modules and channels.claimed is None):
        return
    if channels.count is None:
        yield Finding(
            code=Code.CHANNELS_UNPROVEN,
            severity=Severity.NOTE,
            title="Channel mode not known",
            reason="No channel mode was shown, and the slot names do not tell channels.",
            next="Type the mode that the firmware setup page shows (single, dual), or the slots of the modules.",
            sure=0.9,
            customer="How many memory channels the memory uses could not be read.",
        )
    elif channels.derived is None:
        yield Finding(
            code=Code.CHANNELS_UNPROVEN,
            severity=Severity.NOTE,
            title=f"{words(channels.count)[0].upper()}{words(channels.count)[1:]} shown, not proven",
            reason="The channel mode was shown by a screen; no slot names support it.",
            next="Type the slots of the modules, or measure the bandwidth.",
            sure=0.6,
            customer=f"The machine says that the memory uses {words(channels.count)}; this was not measured.",
            evidence=(Evidence(words(channels.count), channels.source or Source.TYPED),),
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


def _move(case: Case) -> tuple[str, str] | None:
    """Return the slot to move a module from and the one to move it to, where a move would fill one more channel."""
    channels = case.now.channels
    crowded = [slots for _, slots in channels.by_channel if len(slots) > 1]
    if channels.derived is None or not crowded or not channels.empty_channels or channels.contradiction:
        return None
    places = {slot.name: slot for slot in case.now.reading.slots}
    by_card = _move_by_card(case, places)
    if by_card is not None:
        return by_card
    stays, goes = _who_stays(crowded[0], places)
    position = _position(places[stays])
    target = min(channels.empty_channels[0][1], key=lambda name: abs(_position(places[name]) - position))
    return goes, target


def _move_by_card(case: Case, places: dict[str, Slot]) -> tuple[str, str] | None:
    """Return the move that the card's fill order asks for: the last filled slot of it to the first empty one."""
    if case.card is None:
        return None
    known = {name.casefold(): name for name in places}
    order = [known[slot.name.casefold()] for slot in case.card.slots if slot.name.casefold() in known]
    empty = {name for _, names in case.now.channels.empty_channels for name in names}
    targets = [name for name in order if name in empty]
    sources = [name for name in order if places[name].module is not None]
    return (sources[-1], targets[0]) if targets and sources else None


def _who_stays(slots: tuple[str, ...], places: dict[str, Slot]) -> tuple[str, str]:
    """The module farthest from the processor stays, as boards with two slots a channel are wired to be filled there first."""
    ordered = sorted(slots, key=lambda name: _position(places[name]))
    return ordered[-1], ordered[0]


def _position(slot: Slot) -> int:
    return slot.place.position if slot.place is not None else 0


def words(count: int) -> str:
    """Return a number of channels in words."""
    return _WORDS.get(count, f"{count} channels")
