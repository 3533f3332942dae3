"""Channel mode: how many channels run, how it is known, and which bytes are shared by how many.

Unequal channels, after the usual behaviour of memory controllers: the part of the capacity that all n channels
have is spread over n; what lies above it is spread over fewer.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass

from after_check.domain.boards import Filling, Place, Slot, names_tell_channels
from after_check.domain.cards import Card
from after_check.domain.facts import Fact, Source, value_of
from after_check.domain.findings import ChannelPart
from after_check.domain.modules import Form, Generation
from after_check.domain.quantities import counted
from after_check.domain.readings import Reading
from after_check.judgement.capacity import lists_too_little
from after_check.judgement.running_rate import common_generation


@dataclass(frozen=True, slots=True)
class Channels:
    """What is known of the channels of one reading.

    `count` is None where it cannot be told. `claimed` is what was shown, corrected for subchannels; `derived` is
    what slot names tell. `parts` run from the widest to the narrowest. `empty_channels` have slots and no module.
    """

    count: int | None
    claimed: int | None
    derived: int | None
    source: Source | None
    basis: str
    parts: tuple[ChannelPart, ...] = ()
    by_channel: tuple[tuple[str, tuple[str, ...]], ...] = ()
    empty_channels: tuple[tuple[str, tuple[str, ...]], ...] = ()
    contradiction: str = ""
    subchannels: str = ""

    @property
    def partial(self) -> bool:
        """Whether a part of the memory is shared by fewer channels than another."""
        return len(self.parts) > 1


def look_at_channels(
    reading: Reading, card: Card | None = None, rate_mts: int | None = None, bandwidth_gbs: Fact[float] | None = None
) -> Channels:
    """Work out the channels of a reading from what was shown, from slot names, and from a measured bandwidth.

    A card's channels overrule names.
    """
    found = _derived(reading, card)
    derived, basis, named, interleaved, wide = found.count, found.basis, found.named, found.interleaved, found.wide
    parts, by_card = found.parts, found.named == "card"
    nobody_looked = any(slot.filling is Filling.UNKNOWN for slot in reading.slots)
    filled, empty = _slots_by_channel(reading, card)
    shown = value_of(reading.channels)
    claimed, subchannels = _without_subchannels(reading, shown, derived)
    if wide is not None and claimed in (wide.count, wide.bits // 16, wide.bits // 32):
        claimed, subchannels = wide.ways, wide.words if claimed != wide.ways else ""
    alone = [value_of(module.size_bytes) for module in reading.modules]
    if not parts and derived is None and claimed is not None and 1 < claimed == len(alone):
        # As many modules as channels that run: each has one of its own, whatever the slots are called.
        parts = channel_parts([size for size in alone if size is not None]) if None not in alone else ()
    measured = bandwidth_gbs
    proven = proven_channels(measured.value, rate_mts) if measured is not None and rate_mts else 1
    carry = "one channel carries" if proven <= 2 else f"{proven - 1} channels carry"
    proven_words = f"measured: {measured.value:.1f} GB/s are more than {carry}" if measured is not None else ""
    if derived is None and proven > 1 and (claimed is None or claimed <= proven):
        derived, basis = proven, proven_words
    count, source, contradiction = claimed, reading.channels.source if reading.channels else None, ""
    if claimed is None:
        count, source = derived, Source.WORKED_OUT if derived else None
    elif derived is None:
        basis = f"shown as {shown}, and nothing else tells"
        if claimed > len(reading.modules) > 0 and not _soldered(reading) and not nobody_looked:
            contradiction = f"{claimed} channels are shown, with {counted(len(reading.modules), 'module')}"
    elif claimed != derived:
        contradiction = _two_counts(claimed, derived, basis)
    if not contradiction and derived is not None and derived < proven:
        contradiction = f"{proven_words}, {counted(derived, 'channel')} by the {named}"
    if not contradiction and not by_card and derived is not None and len(interleaved) > derived:
        contradiction = f"addresses are interleaved over {len(interleaved)} modules, {counted(derived, 'channel')} by the {named}"
    if contradiction:
        count, basis = None, contradiction
    return Channels(count, claimed, derived, source, basis, parts, filled, empty, contradiction, subchannels)


@dataclass(frozen=True, slots=True)
class _Derived:
    """What slots, addresses and widths tell of the channels, whatever was shown."""

    count: int | None
    basis: str
    named: str
    parts: tuple[ChannelPart, ...]
    interleaved: Mapping[str, int | None]
    wide: _Width | None


def _derived(reading: Reading, card: Card | None) -> _Derived:
    sizes = _channel_sizes(reading, card)
    derived = len(sizes) if sizes else None
    by_card = card is not None and any(card.channel_of(slot.name) for slot in reading.slots)
    by_list = not by_card and any(slot.module is not None and slot.place is None for slot in reading.slots)
    named = "card" if by_card else "firmware's list of channels" if by_list else "slot names"
    basis = f"worked out from the {named}" if derived else ""
    interleaved = _interleaved_sizes(reading)
    if derived is None and interleaved:
        sizes, derived, basis = interleaved, len(interleaved), "worked out from the interleaved addresses"
    wide = _soldered_width(reading, card)
    if wide is not None:
        # Its channels are narrower than a module's: what counts is how many bits they have together.
        whole = sum(value_of(module.size_bytes) or 0 for module in reading.modules)
        derived, basis = wide.ways, wide.words
        sizes = {f"part {number + 1}": whole // wide.ways or None for number in range(wide.ways)}
    elif derived is not None and _hidden_channel(reading, card, sizes):
        sizes, derived, basis = {}, None, ""  # A slot that nobody looked at may hold a module on another channel.
    nobody_looked = any(slot.filling is Filling.UNKNOWN for slot in reading.slots)
    if wide is None and len(reading.modules) == 1 and _is_compression_attached(reading):
        size = value_of(reading.modules[0].size_bytes)
        sizes = {} if size is None else {"first half": size // 2, "second half": size // 2}
        derived, basis = 2, "one compression-attached module fills two channels"
    elif derived is None and len(reading.modules) == 1 and not _soldered(reading) and not nobody_looked:
        derived, basis = 1, "one module makes one channel"
    parts = channel_parts([size for size in sizes.values() if size is not None]) if sizes and None not in sizes.values() else ()
    return _Derived(derived, basis, named, parts, interleaved, wide)


@dataclass(frozen=True, slots=True)
class _Width:
    """Soldered memory: so many channels, with so many bits together."""

    count: int
    bits: int

    @property
    def ways(self) -> int:
        """How many channels of 64 bits that is."""
        return max(1, self.bits // 64)

    @property
    def words(self) -> str:
        return f"{self.count} channels of {self.bits // self.count} bits, a memory of {self.bits} bits"


def _soldered_width(reading: Reading, card: Card | None) -> _Width | None:
    """Return the width of LPDDR memory (JESD209-4, JESD209-5: channels of 16 bits, two of which may make one of 32).

    None where it is no LPDDR, or where nothing tells how wide its channels are: four or eight of them are 128 bits.
    """
    modules = reading.modules
    if not modules or any(not (value_of(module.generation) or "").startswith("LP") for module in modules):
        return None
    named = {slot_channel(slot, card, reading) or slot.name for slot in reading.slots if slot.module is not None}
    count = len(named) + len(reading.loose)
    widths = {value_of(module.data_width_bits) for module in modules}
    width = widths.pop() if len(widths) == 1 else None
    if count == 1 and any(value_of(module.form) is Form.CAMM for module in modules):
        return _Width(8, 128)  # A compression-attached module has them all (JESD318).
    if width in (16, 32):
        return _Width(count, width * count)
    return _Width(count, 128) if count in (4, 8) else None


def _is_compression_attached(reading: Reading) -> bool:
    """Return whether the modules are compression-attached ones, each of which fills two channels (JESD318)."""
    return bool(reading.modules) and all(value_of(module.form) is Form.CAMM for module in reading.modules)


def _attached(reading: Reading) -> int:
    return len(reading.modules) if _is_compression_attached(reading) else 0


def _hidden_channel(reading: Reading, card: Card | None, sizes: Mapping[str, int | None]) -> bool:
    """Return whether a module that nobody saw may be in a channel of which none is known: the list is short, or has an open slot."""
    if lists_too_little(reading):
        return True
    unknown = [slot for slot in reading.slots if slot.filling is Filling.UNKNOWN]
    return any((channel := slot_channel(slot, card, reading)) is None or channel not in sizes for slot in unknown)


def proven_channels(bandwidth_gbs: float, rate_mts: int) -> int:
    """Return how many channels a measured bandwidth needs at least: one carries rate × 8 bytes. Less proves nothing."""
    one_gbs = rate_mts * 8 / 1000
    count = 1
    while bandwidth_gbs > one_gbs * count:
        count += 1
    return count


def channel_parts(sizes_bytes: list[int]) -> tuple[ChannelPart, ...]:
    """Return the parts of a memory whose channels have these capacities in bytes, widest first.

    With 4 and 12 GiB: 8 GiB two-way, then 8 GiB one-way.
    """
    parts: list[ChannelPart] = []
    below = 0
    ordered = sorted(size for size in sizes_bytes if size > 0)
    for index, size in enumerate(ordered):
        ways = len(ordered) - index
        if size > below:
            parts.append(ChannelPart(ways, (size - below) * ways))
            below = size
    return tuple(parts)


def slot_channel(slot: Slot, card: Card | None, reading: Reading) -> str | None:
    """Return the channel of a slot: what the card says, else what its name tells, else the firmware's list, else None."""
    known = card.channel_of(slot.name) if card is not None else None
    if known is None and slot.place is not None and (slot.place.channel.isdigit() or names_tell_channels(reading.slots)):
        known = channel_name(slot.place)
    if known is None:
        known = next((channel.name for channel in reading.firmware_channels if slot.name in channel.slots), None)
    return known


def _channel_sizes(reading: Reading, card: Card | None) -> dict[str, int | None]:
    """Return bytes by channel of the filled slots; empty where one of the modules has no telling slot name."""
    if reading.loose or not reading.modules:
        return {}
    sizes: dict[str, int | None] = {}
    for slot in reading.slots:
        if slot.module is None:
            continue
        size, channel = value_of(slot.module.size_bytes), slot_channel(slot, card, reading)
        if channel is None:
            return {}
        standing = sizes.get(channel, 0)
        sizes[channel] = None if size is None or standing is None else standing + size
    return sizes


def _interleaved_sizes(reading: Reading) -> dict[str, int | None]:
    """Return bytes by position in an interleave (DSP0134, type 20: positions count from 1, 0 is no interleave).

    Empty unless every filled slot has a position and at least two positions share a range. Addresses that are not
    interleaved prove nothing: many tables state them so whatever runs.
    """
    ranges = {mapped.slot: mapped for mapped in reading.mapped if mapped.slot and mapped.interleave_position}
    filled = [slot for slot in reading.slots if slot.module is not None]
    if len(filled) < 2 or reading.loose or any(slot.name not in ranges for slot in filled):
        return {}
    shared = {(ranges[slot.name].first_byte, ranges[slot.name].interleave_position) for slot in filled}
    if len(shared) < len(filled) or not any(
        first == other and position != another for first, position in shared for other, another in shared
    ):
        return {}
    sizes: dict[str, int | None] = {}
    for slot in filled:
        size = value_of(slot.module.size_bytes) if slot.module else None
        position = f"position {ranges[slot.name].interleave_position}"
        standing = sizes.get(position, 0)
        sizes[position] = None if size is None or standing is None else standing + size
    return sizes


def channel_name(place: Place) -> str:
    """Return a name for the channel of a place that tells it from those of other sockets and controllers."""
    between = "." if place.channel.isdigit() else ""  # 1 and 10 are not 11 and 0.
    return place.channel if place.socket == "0" else f"{place.socket}{between}{place.channel}"


def _slots_by_channel(
    reading: Reading, card: Card | None
) -> tuple[tuple[tuple[str, tuple[str, ...]], ...], tuple[tuple[str, tuple[str, ...]], ...]]:
    """Return slot names by channel: filled slots of channels that hold modules, all slots of channels that hold none."""
    filled: dict[str, list[str]] = defaultdict(list)
    all_slots: dict[str, list[str]] = defaultdict(list)
    not_known: set[str] = set()
    for slot in reading.slots:
        channel = slot_channel(slot, card, reading)
        if channel is None:
            continue
        all_slots[channel].append(slot.name)
        if slot.filling is Filling.FILLED:
            filled[channel].append(slot.name)
        elif slot.filling is Filling.UNKNOWN:
            not_known.add(channel)
    empty = {channel: names for channel, names in all_slots.items() if channel not in filled and channel not in not_known}
    return _frozen(filled), _frozen(empty)


def _two_counts(claimed: int, derived: int, basis: str) -> str:
    shown = f"{counted(claimed, 'channel')} {'is' if claimed == 1 else 'are'} shown"
    if basis.startswith("one module"):
        return f"{shown}, and one module alone makes one channel"
    return f"{shown}, and the {basis.removeprefix('worked out from the ')} {'make' if basis.endswith('s') else 'makes'} it {derived}"


def _frozen(slots: dict[str, list[str]]) -> tuple[tuple[str, tuple[str, ...]], ...]:
    return tuple((channel, tuple(names)) for channel, names in sorted(slots.items()))


def _without_subchannels(reading: Reading, shown: int | None, derived: int | None) -> tuple[int | None, str]:
    """A DDR5 module has two 32-bit subchannels (JESD79-5), which some screens count: four of them are two channels."""
    if (
        shown is None
        or common_generation(reading) is not Generation.DDR5
        or shown % 2
        or _soldered(reading)
        or shown == 2 * _attached(reading)
    ):
        return shown, ""
    half = shown // 2
    modules = len(reading.modules)
    if derived == half or (derived is None and modules and shown > modules and half <= modules):
        said = f"{shown} subchannels of 32 bits are {half} channel{'s' if half > 1 else ''}"
        return half, said
    return shown, ""


def _soldered(reading: Reading) -> bool:
    return any(value_of(module.form) is Form.SOLDERED for module in reading.modules)
