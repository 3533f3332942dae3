"""The board in cells: slots by channel, each module a bar."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from itertools import groupby, zip_longest
from typing import NamedTuple

from rich.text import Text

from after_check.casework.shown_boards import ShownBoard
from after_check.domain.boards import Filling, Slot, Soldered, soldered_apart
from after_check.domain.facts import value_of
from after_check.domain.findings import ChannelPart
from after_check.domain.modules import Module
from after_check.domain.quantities import size_text
from after_check.domain.readings import Reading
from after_check.judgement.channels import channel_name
from after_check.tui.charts.cells import fitted
from after_check.tui.theme import Ink


@dataclass(frozen=True, slots=True)
class BoardSnapshot:
    """What the board drawing shows; `pointed_at` are slots that the chosen finding is about.

    `letters` are those of the modules by slot, `loose_letters` of those without one, `not_seen` the slots that were filled and show empty.
    """

    slots: tuple[Slot, ...]
    loose: tuple[Module, ...]
    parts: tuple[ChannelPart, ...] = ()
    pointed_at: frozenset[str] = frozenset()
    cursor: str = ""
    held: str = ""
    letters: Mapping[str, str] = field(default_factory=dict)
    loose_letters: tuple[str, ...] = ()
    not_seen: Mapping[str, str] = field(default_factory=dict)

    def letter(self, name: str) -> str:
        """Return the letter of the module in a slot, with room behind it; nothing where it is not known."""
        return f"{self.letters[name]}  " if self.letters.get(name) else ""


def snapshot_of(shown: ShownBoard, parts: tuple[ChannelPart, ...] = (), pointed_at: frozenset[str] = frozenset()) -> BoardSnapshot:
    """Return the snapshot of a board of a job."""
    plain = snapshot_of_reading(shown.reading, parts, pointed_at)
    return replace(plain, letters=shown.letters, loose_letters=shown.loose_letters, not_seen=shown.not_seen)


def snapshot_of_reading(reading: Reading, parts: tuple[ChannelPart, ...] = (), pointed_at: frozenset[str] = frozenset()) -> BoardSnapshot:
    """Return the snapshot of a reading's board."""
    return BoardSnapshot(reading.drawn_slots, reading.loose, parts, pointed_at)


def board_lines(board: BoardSnapshot, cells: int, rows: int) -> list[Text]:
    """Return the drawing in at most about `rows` lines: what does not fit in full is drawn more closely."""
    if not board.slots and not board.loose:
        return [Text("no slots and no modules in this reading", Ink.MUTED)]
    closing = _parts_line(board, cells)
    sockets = _by_socket(board)
    if len(sockets) > 1 and cells >= _LEAST_COLUMN_CELLS * min(len(sockets), 2):
        return _beside_each_other(board, sockets, cells, rows - len(closing)) + closing
    for spread in (3, 2, 1, 0):
        lines = _drawn(board, cells, spread)
        if len(lines) + len(closing) <= rows:
            break
    if len(lines) + len(closing) > rows and board.slots and cells >= 2 * _LEAST_COLUMN_CELLS:
        half = (len(board.slots) + 1) // 2
        return _beside_each_other(board, {"": board.slots[:half], " ": board.slots[half:]}, cells, rows - len(closing)) + closing
    return lines + closing


class _Room(NamedTuple):
    """The room of a slot's drawing: cells of its name, of all, and how far it is spread (see `_drawn`)."""

    name_cells: int
    cells: int
    spread: int


_LEAST_COLUMN_CELLS = 19
_MOST_COLUMNS = 4


def _by_socket(board: BoardSnapshot) -> dict[str, tuple[Slot, ...]]:
    """Return the slots of each processor where there are several; none where a module is beside all slots."""
    if board.loose or any(slot.place is None for slot in board.slots):
        return {}
    sockets: dict[str, list[Slot]] = {}
    for slot in board.slots:
        sockets.setdefault(slot.place.socket.partition(".")[0] if slot.place is not None else "", []).append(slot)
    return {f"processor {name}": tuple(slots) for name, slots in sorted(sockets.items())}


def _beside_each_other(board: BoardSnapshot, groups: dict[str, tuple[Slot, ...]], cells: int, rows: int) -> list[Text]:
    """Draw groups of slots in columns, each under how much of it is filled: which of them lacks what is seen at a glance."""
    across = max(1, min(len(groups), _MOST_COLUMNS, cells // _LEAST_COLUMN_CELLS))
    width = (cells - across + 1) // across
    names = list(groups)
    bands = [names[at : at + across] for at in range(0, len(names), across)]
    most = max(2, rows // len(bands))
    lines: list[Text] = []
    for band in bands:
        columns = [_column(name, groups[name], board, width, most) for name in band]
        for at in range(max(len(column) for column in columns)):
            line = Text(no_wrap=True)
            for column in columns:
                part = column[at] if at < len(column) else Text("")
                part.truncate(width)
                line.append_text(part)
                line.append(" " * (width - part.cell_len + 1))
            lines.append(line)
    return lines


def _column(name: str, slots: tuple[Slot, ...], board: BoardSnapshot, cells: int, rows: int) -> list[Text]:
    """Return one group: a head that counts, then its slots; where these are too many, those that matter and a count of the rest."""
    filled = [slot for slot in slots if slot.filling is Filling.FILLED]
    sizes = [value_of(slot.module.size_bytes) for slot in filled if slot.module is not None]
    whole = size_text(sum(size for size in sizes if size is not None)) if sizes and None not in sizes else ""
    lacking = any(slot.name in board.pointed_at for slot in slots)
    mark = "▲ " if lacking else ""
    head = Text(f"{mark}{name}", f"bold {Ink.SHORT}" if lacking else f"bold {Ink.MUTED}", no_wrap=True)
    kept = sum(slot.filling is Filling.PERSISTENT for slot in slots)
    counts = (f"{len(filled)} of {len(slots) - kept}", whole, f"{kept} persistent" if kept else "")
    counted = (f"{' ' * len(mark)}{' · '.join(filter(None, some))}" for some in (counts, counts[:2]))
    count = Text(next((line for line in counted if len(line) <= cells), f"{len(filled)} of {len(slots)}"), Ink.TEXT, no_wrap=True)
    lines = [head, count] if name.strip() else []
    name_cells = max(3, min(15, max((len(slot.name) for slot in slots), default=2))) + 1
    room = rows - len(lines)
    if len(slots) <= room:
        return lines + [line for slot in slots for line in _slot_lines(slot, board, name_cells, cells, 0)]
    marked = [slot for slot in slots if slot.name in (*board.pointed_at, board.cursor, board.held) or slot.filling is not Filling.FILLED]
    shown = (marked or list(slots))[: max(0, room - 1)]
    rest = [slot for slot in slots if slot not in shown]
    lines += [line for slot in shown for line in _slot_lines(slot, board, name_cells, cells, 0)]
    kinds = {module_text(slot.module, cells) for slot in rest if slot.module is not None}
    words = f"{len(rest)} more" if len(kinds) != 1 else f"{len(rest)} × {kinds.pop()}"
    return [*lines, Text(fitted(f" {words}", cells), Ink.TEXT, no_wrap=True)]


def closest_lines(board: BoardSnapshot, cells: int) -> list[Text]:
    """Return one line a slot and nothing else."""
    return _drawn(board, cells, 0) or [Text("no slots and no modules in this reading", Ink.MUTED)]


def _drawn(board: BoardSnapshot, cells: int, spread: int) -> list[Text]:
    """`spread` 3 has channel lines, details and air; 2 no air; 1 no details; 0 one line a slot and nothing else."""
    lines: list[Text] = []
    soldered, others, loose = soldered_apart(board.slots, board.loose)
    if any(name in (board.cursor, board.held) for group in soldered for name in group.names):
        soldered, others, loose = (), board.slots, board.loose  # Whoever corrects the board has to see what the cursor is on.
    name_cells = max(3, min(15, max((len(slot.name) for slot in others), default=2))) + 1
    for channel, slots in groupby(others, key=_channel):
        if spread >= 1 and channel:
            lines.append(_channel_line(channel, cells))
        for slot in slots:
            lines += _slot_lines(slot, board, name_cells, cells, spread)
            if spread == 3:
                lines.append(Text(""))
    if soldered:
        if spread >= 1:
            lines.append(_line_of("soldered to the board", cells))
        for group in soldered:
            lines += _soldered_lines(group, board, name_cells, cells, spread)
    if loose:
        for module, letter in zip_longest(loose, board.loose_letters[: len(loose)], fillvalue=""):
            if isinstance(module, Module):
                lines += _module_lines("?", module, False, f"{letter}  " if letter else "", _Room(name_cells, cells, spread))
    return lines


def _channel(slot: Slot) -> str:
    return channel_name(slot.place) if slot.place is not None else ""


def _channel_line(channel: str, cells: int) -> Text:
    return _line_of(f"channel {channel}", cells)


def _line_of(words: str, cells: int) -> Text:
    text = Text(no_wrap=True)
    text.append(f"{words} ", Ink.MUTED)
    text.append("─" * max(0, cells - text.cell_len), Ink.LINE)
    return text


def _slot_lines(slot: Slot, board: BoardSnapshot, name_cells: int, cells: int, spread: int) -> list[Text]:
    lines = _filled_or_empty(slot, board, name_cells, cells, spread)
    mark = "▶" if slot.name == board.cursor else "✥" if slot.name == board.held else ""
    if mark:
        first = Text(mark, f"bold {Ink.PROMISED}", no_wrap=True)
        first.append_text(lines[0][1:])
        lines[0] = first
    return lines


def _filled_or_empty(slot: Slot, board: BoardSnapshot, name_cells: int, cells: int, spread: int) -> list[Text]:
    pointed = slot.name in board.pointed_at
    if slot.module is not None:
        return _module_lines(slot.name, slot.module, pointed, board.letter(slot.name), _Room(name_cells, cells, spread))
    unseen = board.not_seen.get(slot.name)
    words = f"◌ {unseen}, not seen" if unseen else slot.words
    text = Text(no_wrap=True)
    text.append(fitted(f" {slot.name}", name_cells + 1), Ink.SHORT if pointed else Ink.TEXT)
    body = max(8, cells - name_cells - 1)
    edge = Ink.SHORT if pointed else Ink.MUTED
    text.append("▌", edge)
    text.append(fitted(f" {'▲ ' if pointed else ''}{words}", body - 2), f"bold {Ink.SHORT}" if pointed else Ink.MUTED)
    text.append("▐", edge)
    return [text]


def _module_lines(name: str, module: Module, pointed: bool, letter: str, room: _Room) -> list[Text]:
    name_cells, cells, spread = room
    text = Text(no_wrap=True)
    text.append(fitted(f" {name}", name_cells + 1), Ink.SHORT if pointed else Ink.TEXT)
    body = max(8, cells - name_cells - 1)
    colour = Ink.SHORT if pointed else Ink.MODULE
    before = f"{'▲ ' if pointed else ''}{letter}"
    text.append(fitted(f" {before}{module_text(module, body - 3 - len(letter))}", body), f"bold {Ink.ON_COLOUR} on {colour}")
    lines = [text]
    detail = _detail(module)
    if spread >= 2 and detail:
        lines.append(Text(" " * (name_cells + 2) + fitted(detail, body - 1), Ink.MUTED, no_wrap=True))
    return lines


def _soldered_lines(group: Soldered, board: BoardSnapshot, name_cells: int, cells: int, spread: int) -> list[Text]:
    """Draw devices of one kind as one block; beneath it their names, a mark for each."""
    pointed = bool(board.pointed_at & set(group.names))
    text = Text(no_wrap=True)
    text.append(" " * (name_cells + 1))
    body = max(8, cells - name_cells - 1)
    words = f" {'▲ ' if pointed else ''}{soldered_text(group, body - 3)}"
    text.append(fitted(words, body), f"bold {Ink.ON_COLOUR} on {Ink.SHORT if pointed else Ink.MODULE}")
    detail = " · ".join(part for part in (", ".join(group.names), value_of(group.device.part) or "") if part)
    if spread < 2 or not detail:
        return [text]
    return [text, Text(" " * (name_cells + 2) + fitted(detail, body - 1), Ink.MUTED, no_wrap=True)]


def soldered_text(group: Soldered, cells: int = 80) -> str:
    """Return soldered devices in a few words: how many of which size, and the kind."""
    one_of_them = module_text(group.device, cells - 4)
    return one_of_them if group.count == 1 else f"{group.count} × {one_of_them}"


def module_text(module: Module, cells: int = 80) -> str:
    """Return a module in a few words: size, rate, ranks, maker; the ranks only where there is room for the maker as well."""
    generation, rated_mts = value_of(module.generation), value_of(module.rated_mts)
    ranks, width = value_of(module.ranks), value_of(module.device_width_bits)
    parts = [
        size_text(module.size_bytes.value) if module.size_bytes else "size ?",
        f"{generation}-{rated_mts}" if generation and rated_mts else str(generation or ""),
        f"{ranks}R×{width}" if ranks and width else "",
        value_of(module.maker) or "",
    ]
    closer = (tuple(parts), (*parts[:2], parts[3]), parts[:2])
    said = ("  ".join(part for part in some if part) for some in closer)
    return next((words for words in said if len(words) <= cells), parts[0])


def _detail(module: Module) -> str:
    parts: list[str] = []
    profiles, standard_mts = value_of(module.profiles), value_of(module.standard_mts)
    if profiles:
        parts.append(f"{profiles[0].rate_mts} by profile {profiles[0].number}" + (f", {standard_mts} without" if standard_mts else ""))
    elif profiles == ():
        parts.append("holds no profile")
    if module.form is not None and not parts:
        parts.append("soldered" if module.form.value == "soldered" else module.form.value)
    if module.part is not None:
        parts.append(module.part.value)
    if module.serial is not None and len(parts) < 3:
        parts.append(module.serial.value)
    return " · ".join(parts)


def _parts_line(board: BoardSnapshot, cells: int) -> list[Text]:
    """Say in a line which part of the memory is spread over how many channels."""
    if not board.parts:
        return []
    if len(board.parts) == 1:
        part = board.parts[0]
        words = (
            f"{size_text(part.size_bytes)}, all on one channel"
            if part.ways == 1
            else f"{size_text(part.size_bytes)} spread over {part.ways} channels"
        )
    else:
        words = " + ".join(f"{size_text(part.size_bytes)} on {_channels(part.ways)}" for part in board.parts)
    return [Text(fitted(f" {words}", cells), Ink.TEXT, no_wrap=True)]


def _channels(count: int) -> str:
    return "one channel" if count == 1 else f"{count} channels"
