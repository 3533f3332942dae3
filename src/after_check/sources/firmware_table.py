"""A reading from the bytes of the firmware's tables."""

from __future__ import annotations

from dataclasses import dataclass

from after_check.domain.boards import Filling, Slot
from after_check.domain.facts import Fact, Source, T
from after_check.domain.modules import Module
from after_check.domain.quantities import counted
from after_check.domain.readings import FirmwareChannel, Machine, MappedRange, Notice, NoticeKind, Reading
from after_check.files.firmware_text import distinct, said
from after_check.standards.rates import HIGHEST_RATE_MTS, snap_rate
from after_check.standards.smbios.entry_point import EntryPoint, parse_entry_point
from after_check.standards.smbios.machine import parse_firmware, parse_named, parse_processor, parse_uuid
from after_check.standards.smbios.memory import (
    SYSTEM_MEMORY_USE,
    MemoryDevice,
    parse_array,
    parse_array_mapped,
    parse_channel,
    parse_device,
    parse_device_mapped,
)
from after_check.standards.smbios.structures import Table, walk

_WIDEST_RANKS = 8
_MOST_DEVICES = 512
_DATA_WIDTHS_BITS = frozenset((8, 16, 24, 32, 48, 64, 128))
_MOST_BITS_BESIDE = 16
"""Two sub-channels of DDR5 have eight bits for correction each (JESD400-5, byte 235); no kind of module has more."""
_MODULE_AT_MOST_BYTES = 4 << 40
_VOLTAGES_MV = range(500, 3_601)
"""From the lowest supply of any memory's core to that of the first synchronous ones."""
"""The largest servers have some hundreds of slots; more is a damaged table."""


def reading_from_tables(table_bytes: bytes, entry_point_bytes: bytes | None, where: str) -> Reading:
    """Return what the tables say; any bytes are accepted, and what is wrong with them becomes notices.

    `where` names the tables' place in every fact and notice.
    """
    entry_point = parse_entry_point(entry_point_bytes) if entry_point_bytes else None
    table = walk(table_bytes)
    notices = _entry_point_notices(entry_point, entry_point_bytes, table_bytes, table, where)
    notices += [Notice(NoticeKind.DAMAGED, problem, where, "copy the table again, or type what is missing") for problem in table.problems]
    builder = _Builder(table, where)
    return builder.reading(tuple(notices))


def split_dump(data: bytes) -> tuple[bytes, bytes | None]:
    """Return table and entry point of a file that holds either a bare table or an entry point before its table."""
    entry_point = parse_entry_point(data)
    if entry_point is None:
        return data, None
    start = entry_point.table_address
    if not entry_point.length_bytes <= start < len(data):
        start = entry_point.length_bytes
    return data[start:], data[: entry_point.length_bytes]


def _entry_point_notices(entry_point: EntryPoint | None, raw: bytes | None, table_bytes: bytes, table: Table, where: str) -> list[Notice]:
    if raw is None:
        return []
    if entry_point is None:
        return [Notice(NoticeKind.DAMAGED, "the entry point is not one; the tables were read without it", where)]
    found: list[Notice] = []
    if not entry_point.checksum_right:
        found.append(Notice(NoticeKind.REMARK, "the entry point's checksum is wrong", where))
    if len(table_bytes) < entry_point.table_length_bytes and not table.ended:
        missing = f"the entry point announces {entry_point.table_length_bytes:,} bytes of tables, {len(table_bytes):,} are there"
        found.append(Notice(NoticeKind.DAMAGED, missing, where, "copy the table again"))
    return found


@dataclass(frozen=True, slots=True)
class _Builder:
    table: Table
    where: str

    def reading(self, notices: tuple[Notice, ...]) -> Reading:
        arrays = [parse_array(structure) for structure in self.table.of_type(16)]
        system_arrays = [array for array in arrays if array.use == SYSTEM_MEMORY_USE]
        handles = {array.handle for array in system_arrays}
        structures = self.table.of_type(17)
        if len(structures) > _MOST_DEVICES:
            too_many = f"the tables list {len(structures):,} memory devices; only the first {_MOST_DEVICES:,} are shown"
            notices += (Notice(NoticeKind.DAMAGED, too_many, self.where),)
        devices = [parse_device(structure) for structure in structures[:_MOST_DEVICES]]
        if handles:
            known = {array.handle for array in arrays}
            # A device whose array is missing from the table still counts.
            devices = [device for device in devices if device.array_handle in handles or device.array_handle not in known]
        counts = [array.device_count for array in system_arrays if array.device_count]
        names = _slot_names(devices)
        persistent = tuple(
            Slot(names[index], Filling.PERSISTENT, bank=device.bank or "", kept_bytes=device.persistent_bytes)
            for index, device in enumerate(devices)
            if device.size_bytes == 0 and device.persistent_bytes
        )
        for slot in persistent:
            notices += (Notice(NoticeKind.REMARK, f"{slot.name} holds persistent memory, which is no working memory", self.where),)
        kept = {slot.name for slot in persistent}
        slots = tuple(self._slot(device, names[index]) for index, device in enumerate(devices) if names[index] not in kept)
        announced = sum(counts) if sum(counts) <= _MOST_DEVICES else 0
        if 0 < announced < len(devices):
            fewer = f"the tables announce {counted(announced, 'memory device')} and list {len(devices)}; the list is taken (DSP0134, 7.17)"
            notices += (Notice(NoticeKind.REMARK, fewer, self.where),)
            announced = len(devices)
        cut_off = 0 if self.table.ended else announced - len(devices)
        if cut_off > 0:
            # The slots that a cut-off table no longer lists are there all the same, and may hold anything.
            slots += tuple(Slot(f"slot not listed {number + 1}", Filling.UNKNOWN) for number in range(cut_off))
        by_handle = {device.handle: names[index] for index, device in enumerate(devices)}
        limits = [array.limit_bytes for array in system_arrays if array.limit_bytes]
        ecc = next((array.ecc for array in system_arrays if array.ecc is not None), None)
        if not devices:
            missing = Notice(
                NoticeKind.ABSENT, "the firmware tables list no memory slots", self.where, "type what the firmware setup page shows"
            )
            notices += (missing,)
        return Reading(
            slots=slots,
            persistent=persistent,
            slot_count=self._fact(announced or None, "type 16"),
            array_limit_bytes=self._fact(sum(limits) or None, "type 16"),
            ecc_on=self._fact(ecc, "type 16"),
            virtual=self._fact(self._virtual(), "type 0"),
            machine=self._machine(),
            mapped=self._mapped(by_handle),
            firmware_channels=self._channels(by_handle),
            notices=notices,
            origin=self.where,
        )

    def _fact(self, value: T | None, at: str) -> Fact[T] | None:
        return None if value is None else Fact(value, Source.FIRMWARE, f"{at}, {self.where}")

    def _slot(self, device: MemoryDevice, name: str) -> Slot:
        bank = device.bank or ""
        if device.size_bytes == 0:
            return Slot(name, Filling.EMPTY, bank=bank)
        if device.size_bytes is None and device.generation is None and said(device.part) is None:
            return Slot(name, Filling.UNKNOWN, bank=bank)
        return Slot(name, Filling.FILLED, self._module(device), bank=bank)

    def _module(self, device: MemoryDevice) -> Module:
        at = f"type 17, handle 0x{device.handle:04X}"
        data_bits = device.data_width_bits if device.data_width_bits in _DATA_WIDTHS_BITS else None
        beside_bits = device.total_width_bits - data_bits if device.total_width_bits and data_bits else -1
        ecc = beside_bits > 0 if 0 <= beside_bits <= _MOST_BITS_BESIDE else None
        size_bytes = device.size_bytes if device.size_bytes and device.size_bytes <= _MODULE_AT_MOST_BYTES else None
        voltage_mv = device.configured_mv if device.configured_mv and device.configured_mv in _VOLTAGES_MV else None
        return Module(
            size_bytes=self._fact(size_bytes, at),
            generation=self._fact(device.generation, at),
            form=self._fact(device.form, at),
            rated_mts=self._fact(_rate(device.speed_mts, device), at),
            running_mts=self._fact(_rate(device.configured_mts, device), at),
            ranks=self._fact(device.ranks if device.ranks and device.ranks <= _WIDEST_RANKS else None, at),
            data_width_bits=self._fact(data_bits, at),
            voltage_mv=self._fact(voltage_mv, at),
            ecc=self._fact(ecc, at),
            maker=self._fact(said(device.maker), at),
            part=self._fact(said(device.part), at),
            serial=self._fact(said(device.serial), at),
        )

    def _machine(self) -> Machine:
        firmware = next((parse_firmware(structure) for structure in self.table.of_type(0)), None)
        system = next((parse_named(structure) for structure in self.table.of_type(1)), None)
        uuid = next((parse_uuid(structure) for structure in self.table.of_type(1)), None)
        board = next((parse_named(structure) for structure in self.table.of_type(2)), None)
        processor = next((parse_processor(structure) for structure in self.table.of_type(4)), None)
        return Machine(
            maker=self._fact(said(system.maker) if system else None, "type 1"),
            model=self._fact(said(system.product) if system else None, "type 1"),
            serial=self._fact(said(system.serial) if system else None, "type 1"),
            uuid=self._fact(uuid, "type 1"),
            board=self._fact(said(board.product) if board else None, "type 2"),
            firmware_version=self._fact(said(firmware.version) if firmware else None, "type 0"),
            firmware_date=self._fact(said(firmware.released) if firmware else None, "type 0"),
            processor=self._fact(said(processor), "type 4"),
        )

    def _virtual(self) -> bool | None:
        return next((parse_firmware(structure).virtual for structure in self.table.of_type(0)), None)

    def _mapped(self, names: dict[int, str]) -> tuple[MappedRange, ...]:
        arrays = [parse_array_mapped(structure) for structure in self.table.of_type(19)]
        ranges = [MappedRange(array.first_byte, array.last_byte) for array in arrays if array is not None]
        for mapped in (parse_device_mapped(structure) for structure in self.table.of_type(20)):
            if mapped is not None and mapped.target_handle in names:
                slot = names[mapped.target_handle]
                ranges.append(MappedRange(mapped.first_byte, mapped.last_byte, slot, mapped.interleave_position, mapped.interleaved_depth))
        return tuple(ranges)

    def _channels(self, names: dict[int, str]) -> tuple[FirmwareChannel, ...]:
        channels = [parse_channel(structure) for structure in self.table.of_type(37)]
        named = [tuple(names[handle] for handle in channel.device_handles if handle in names) for channel in channels]
        return tuple(FirmwareChannel(f"channel {index + 1}", slots) for index, slots in enumerate(named) if slots)


def _slot_names(devices: list[MemoryDevice]) -> list[str]:
    """Return a name for each device that no other device has: locator, bank and locator, or a number."""
    plain = [said(device.locator) or f"slot {index + 1}" for index, device in enumerate(devices)]
    return distinct(plain, [device.bank or "" for device in devices])


def _rate(speed_mts: int | None, device: MemoryDevice) -> int | None:
    if speed_mts is None or not 50 <= speed_mts <= HIGHEST_RATE_MTS:
        return None
    return snap_rate(speed_mts, device.generation)
