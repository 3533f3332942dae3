"""What a device tree says of a board and its memory: ARM boards and small computers, whose firmware has no tables.

Documents: Devicetree Specification 0.4, sections 2.2.1 (names), 2.3.5 (cells), 2.3.6 (reg), 3.2 (root node) and 3.4 (memory
nodes); the bindings `memory-controllers/ddr/jedec,lpddr*.yaml` of the Linux kernel for devices of low power. The kernel shows the tree
as folders (Documentation/ABI/testing/sysfs-firmware-ofw); numbers in it are big-endian cells of 32 bits.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field

from after_check.domain.boards import Filling, Slot
from after_check.domain.facts import Fact, Source, T
from after_check.domain.modules import Form, Generation, Module
from after_check.domain.outside_text import clean_bytes
from after_check.domain.quantities import LARGEST_SIZE_BYTES, MIB
from after_check.domain.readings import Notice, NoticeKind
from after_check.files.tree import Files, UnreadableError
from after_check.sources import machine_files
from after_check.sources.evidence import RawEvidence

_MOST_NODES = 256
_LARGEST_PROPERTY_BYTES = 4096
_MEGABIT_BYTES = MIB // 8
_WHOLE = 128 * MIB
_LARGEST_DEVICE_MEGABITS = 1 << 17
"""Four times the largest device of low power so far (JESD209-5C: 32 Gbit): more is a property that makes no sense."""
_LPDDR = re.compile(r"jedec,lpddr([2345])(x?)(-channel)?\Z")


@dataclass(frozen=True, slots=True)
class BoardOfTree:
    """What a device tree tells: names of the board, the memory that the firmware hands over, and soldered devices."""

    model: Fact[str] | None = None
    serial: Fact[str] | None = None
    total_bytes: Fact[int] | None = None
    slots: tuple[Slot, ...] = ()
    notices: tuple[Notice, ...] = ()


@dataclass(slots=True)
class _Reader:
    files: Files
    root: str
    evidence: list[RawEvidence]
    notices: list[Notice] = field(default_factory=list)

    def property(self, path: str) -> bytes | None:
        """Return the bytes of a property, kept as evidence; None where it is not there."""
        name = f"{self.root}/{path}"
        try:
            data = self.files.read(name, _LARGEST_PROPERTY_BYTES)
        except UnreadableError:
            return None
        self.evidence.append(RawEvidence(name, data))
        return data

    def text(self, path: str) -> str | None:
        """Return the first string of a property."""
        data = self.property(path)
        return clean_bytes(data.split(b"\0", 1)[0]) or None if data else None

    def strings(self, path: str) -> tuple[str, ...]:
        """Return every string of a property."""
        return tuple(clean_bytes(part) for part in (self.property(path) or b"").split(b"\0") if part)

    def cell(self, path: str) -> int | None:
        """Return a property of one cell."""
        data = self.property(path)
        return int.from_bytes(data, "big") if data is not None and len(data) == 4 else None

    def nodes(self, path: str = "") -> list[str]:
        """Return the names below a node."""
        return sorted(self.files.names(f"{self.root}/{path}".rstrip("/")))[:_MOST_NODES]

    def fact(self, value: T | None, path: str) -> Fact[T] | None:
        """Return a value with the property that it came from."""
        return None if value is None else Fact(value, Source.FIRMWARE, f"device tree, {path}")


def read_device_tree(files: Files, evidence: list[RawEvidence]) -> BoardOfTree | None:
    """Return what the device tree of a machine tells; None where it has none."""
    root = next((root for root in machine_files.DEVICE_TREES if files.names(root)), None)
    if root is None:
        return None
    reader = _Reader(files, root, evidence)
    model, serial = reader.text("model"), reader.text("serial-number")
    total = _memory_bytes(reader)
    slots = tuple(_soldered(reader))
    return BoardOfTree(
        reader.fact(model, "model"),
        reader.fact(serial, "serial-number"),
        reader.fact(total, "memory nodes"),
        slots,
        tuple(reader.notices),
    )


def _memory_bytes(reader: _Reader) -> int | None:
    """Return what the memory nodes list together, where it is a whole amount; firmware takes its share out of some of them."""
    cells = [reader.cell("#address-cells"), reader.cell("#size-cells")]
    # What the root does not say is 2 and 1 (section 2.3.5).
    address_cells, size_cells = (2 if cells[0] is None else cells[0], 1 if cells[1] is None else cells[1])
    ranges: set[tuple[int, int]] = set()
    for node in reader.nodes():
        if not re.fullmatch(r"memory(?:@[0-9a-f,]+)?", node) or reader.text(f"{node}/device_type") not in ("memory", None):
            continue
        reg = reader.property(f"{node}/reg")
        if reg is None:
            continue
        step = 4 * (address_cells + size_cells)
        if not 1 <= size_cells <= 2 or not 1 <= address_cells <= 2 or not reg or len(reg) % step:
            damaged = f"{node} has {len(reg)} bytes of ranges, and each has {step}: nothing of it was used"
            reader.notices.append(Notice(NoticeKind.DAMAGED, damaged, f"{reader.root}/{node}/reg"))
            return None
        for at in range(0, len(reg), step):
            first = int.from_bytes(reg[at : at + 4 * address_cells], "big")
            ranges.add((first, int.from_bytes(reg[at + 4 * address_cells : at + step], "big")))
    total = sum(size for _, size in ranges)
    if not 0 < total <= LARGEST_SIZE_BYTES:
        return None
    if total % _WHOLE:
        rest = f"the device tree hands {total / 2**30:.2f} GiB to the system: the firmware has taken its share out of it"
        reader.notices.append(Notice(NoticeKind.REMARK, rest, reader.root))
        return None
    return total


def _soldered(reader: _Reader) -> Iterator[Slot]:
    """Yield the devices of low power that the tree describes, each channel as one: they are soldered to the board."""
    for path in _lpddr_nodes(reader):
        kinds = [found for text in reader.strings(f"{path}/compatible") if (found := _LPDDR.fullmatch(text))]
        if not kinds:
            continue
        name = f"LPDDR{kinds[0][1]}{kinds[0][2].upper()}"
        generation = Generation(name) if name in Generation.__members__ else None
        size, ranks, width = _channel(reader, path) if kinds[0][3] else _device(reader, path)
        module = Module(
            size_bytes=reader.fact(size, f"{path}, density"),
            generation=reader.fact(generation, f"{path}, compatible"),
            form=reader.fact(Form.SOLDERED, f"{path}, compatible"),
            ranks=reader.fact(ranks, path),
            data_width_bits=reader.fact(width, f"{path}, io-width"),
        )
        yield Slot(path.rsplit("/", 1)[-1], Filling.FILLED, module)


def _lpddr_nodes(reader: _Reader) -> Iterator[str]:
    """Yield the paths of nodes for such devices: beneath the root, a controller, or a controller of a bus."""
    level = [""]
    for _ in range(3):
        below = [f"{path}/{node}".lstrip("/") for path in level for node in reader.nodes(path)]
        yield from (path for path in below if path.rsplit("/", 1)[-1].startswith("lpddr"))
        level = [path for path in below if not path.rsplit("/", 1)[-1].startswith("lpddr")][:_MOST_NODES]


def _device(reader: _Reader, path: str) -> tuple[int | None, int | None, int | None]:
    """Return size in bytes, ranks and width in bits of a device that is alone: one of its width."""
    megabits, width = reader.cell(f"{path}/density"), reader.cell(f"{path}/io-width")
    return _size(megabits, 1), None, width if width in (8, 16, 32, 64) else None


def _channel(reader: _Reader, path: str) -> tuple[int | None, int | None, int | None]:
    """Return size in bytes, ranks and width in bits of a channel: its ranks, each of as many devices as fill its width."""
    width = reader.cell(f"{path}/io-width")
    ranks = [node for node in reader.nodes(path) if re.fullmatch(r"rank@[0-9a-f]+", node)]
    sizes: list[int] = []
    for rank in ranks:
        megabits, device_width = reader.cell(f"{path}/{rank}/density"), reader.cell(f"{path}/{rank}/io-width")
        beside = width // device_width if width and device_width and width % device_width == 0 else None
        if (size := _size(megabits, beside)) is None:
            return None, len(ranks), width
        sizes.append(size)
    return sum(sizes) or None, len(ranks) or None, width


def _size(megabits: int | None, devices: int | None) -> int | None:
    if not megabits or not devices or megabits > _LARGEST_DEVICE_MEGABITS:
        return None
    return megabits * devices * _MEGABIT_BYTES
