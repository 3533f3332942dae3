"""Tries in cells: slots against tries as a matrix, suspects with their weights moving, the next try on the board."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

from rich.cells import cell_len
from rich.text import Text

from after_check.domain.quantities import GIB, counted, size_text
from after_check.domain.tries import Arrangement, Blame, NextTry, SoakSaid, Started, Suspect, Try, TryLog, sureness
from after_check.judgement.rules.blame import act_message
from after_check.texts import say
from after_check.tries.advice import AdviceStep
from after_check.tries.blame import other_help, other_help_in_short, says_with
from after_check.tries.try_words import elsewhere_words, facts_of
from after_check.tries.watch import clock
from after_check.tui.charts.cells import day_and_time, fitted, right_aligned, told_apart, wrapped
from after_check.tui.theme import Ink

_COLUMN = 6
_NAME, _WIDEST_NAME = 9, 18
_ORIGIN, _LEAST_WORDS = 13, 16
_LEAST_SCALE = 13
_CHIP_CELLS = 24
"""What the chip beside what the tries say takes, at the most."""
_STARTED = {Started.YES: "✓", Started.NO: "✗", Started.CYCLES: "↻"}
_SOAKS = {SoakSaid.CLEAN: "✓", SoakSaid.ERRORS: "✗"}


@dataclass(frozen=True, slots=True)
class TriesSnapshot:
    """A log, what it says, what it said before the latest try, the steps of advice, and the columns that are looked at.

    `staying` is the try whose arrangement goes back to the customer.
    """

    log: TryLog = field(default_factory=TryLog)
    blame: Blame | None = None
    next: NextTry | None = None
    earlier: Blame | None = None
    steps: tuple[AdviceStep, ...] = ()
    chosen: int | None = None
    against: int | None = None
    staying: int | None = None

    @property
    def slots(self) -> tuple[str, ...]:
        """The board's slots."""
        used = (slot for attempt in self.log.tries for slot, _ in attempt.arrangement.fitted)
        return tuple(dict.fromkeys((*self.log.slots, *used)))


def head_line(snapshot: TriesSnapshot, cells: int) -> Text:
    """Return what the tries say, with a chip."""
    blame = snapshot.blame
    left, chip = Text(" ", no_wrap=True), Text(no_wrap=True)
    if blame is None or not snapshot.log.tries:
        left.append("Nothing was tried yet. ", Ink.TEXT)
        left.append("Write down every arrangement: after the fourth nobody remembers which gave what.", Ink.MUTED)
        return left
    count = counted(len(snapshot.log.tries), "try", "tries")
    if blame.settled:
        chip.append("  ◆ CLEAR  ", f"bold {Ink.ON_COLOUR} on {Ink.KEPT}")
    elif blame.suspects:
        chip.append("  ? NOT CLEAR YET  ", f"bold {Ink.ON_COLOUR} on {Ink.PROMISED}")
    chip.append(f" {count} ", Ink.MUTED)
    said = says_with(blame, snapshot.next is not None)
    # With several suspects the act is told below, as what to do.
    said = f"{said.split('. ')[0]}." if blame.named is not None else said
    left.append(fitted(said, max(10, cells - chip.cell_len - 3)).rstrip(), f"bold {Ink.TEXT}")
    return right_aligned(left, chip, cells)


def matrix_lines(snapshot: TriesSnapshot, cells: int, rows: int) -> list[Text]:
    """Return the matrix: a row for each slot, a column for each try, below it how each ended; the latest tries where not all fit."""
    lines = [Text("TRIES", f"bold {Ink.MUTED}")]
    tries = snapshot.log.tries
    if not tries:
        hint = "n writes the first one down: which module sits in which slot, and what happens."
        return [*lines, Text(""), *(Text(f" {part}", Ink.MUTED) for part in wrapped(hint, cells - 2))]
    lines[0].append("  → moved here  ◌ not seen  ✗ errors", Ink.MUTED)
    name_cells = _name_cells(snapshot, cells)
    room = max(1, (cells - name_cells - 1) // _COLUMN)
    last = len(tries) if snapshot.chosen is None else min(len(tries), max(room, snapshot.chosen + 1))
    first = max(0, last - room)
    shown = range(first, last)
    head = Text(f" {'…' if first else ' '}".ljust(name_cells), Ink.MUTED, no_wrap=True)
    for at in shown:
        mark = "●" if at == snapshot.chosen else "○" if at == snapshot.against else " "
        head.append(f"{mark}{at + 1}".center(_COLUMN), f"bold {Ink.PROMISED if mark != ' ' else Ink.TEXT}")
    lines.append(head)
    slots = _shown_slots(snapshot, max(2, rows - 7))
    for slot, name in zip(slots, told_apart(slots, name_cells - 1), strict=True):
        line = Text(f" {name}", Ink.TEXT, no_wrap=True)
        for at in shown:
            before = tries[at - 1].arrangement if at else Arrangement()
            line.append_text(_cell(tries[at], before, slot))
        lines.append(line)
    hidden = len(snapshot.slots) - len(slots)
    if hidden:
        lines.append(Text(f" and {hidden} slots that were always empty", Ink.MUTED))
    lines += _outcome_rows(tries, shown, snapshot.staying, name_cells)
    return lines[:rows]


def _name_cells(snapshot: TriesSnapshot, cells: int) -> int:
    """Return the cells that names of slots get: all that they need, where the latest tries still have room beside them."""
    longest = max((cell_len(slot) for slot in snapshot.slots), default=0) + 2
    tries = min(len(snapshot.log.tries), 6) * _COLUMN
    return max(_NAME, min(longest, _WIDEST_NAME, cells - 1 - tries))


def _shown_slots(snapshot: TriesSnapshot, most: int) -> tuple[str, ...]:
    """Return all slots, or where they do not fit those that were ever filled."""
    if len(snapshot.slots) <= most:
        return snapshot.slots
    used = {slot for attempt in snapshot.log.tries for slot, _ in attempt.arrangement.fitted}
    return tuple(slot for slot in snapshot.slots if slot in used)[:most]


def _cell(tried: Try, before: Arrangement, slot: str) -> Text:
    letter = tried.arrangement.module_in.get(slot)
    text = Text(no_wrap=True)
    if letter is None:
        text.append("·".center(_COLUMN), Ink.LINE)
        return text
    moved = before.module_in.get(slot) != letter and bool(before.fitted)
    unseen, wrong = slot in tried.unseen, slot in tried.errors_in
    text.append("→" if moved else " ", Ink.PROMISED)
    body = f"{'◌' if unseen else ' '}{letter}{'✗' if wrong else ' '}"
    colour = Ink.SHORT if unseen or wrong else Ink.CHOSEN
    text.append(fitted(body, 4), f"bold {Ink.ON_COLOUR if unseen or wrong else Ink.TEXT} on {colour}")
    text.append(" ")
    return text


def _outcome_rows(tries: tuple[Try, ...], shown: range, staying: int | None, name_cells: int) -> list[Text]:
    """Return the rows below the matrix; one of which nothing is known in any try is left out."""
    kinds = (
        ("start", [_start_mark(attempt) for attempt in tries]),
        ("time", [clock(attempt.seconds) if attempt.seconds is not None else "" for attempt in tries]),
        ("soak", [_SOAKS[attempt.soak] if attempt.soak else "" for attempt in tries]),
        ("load", ["off✗" if attempt.off_under_load else "" for attempt in tries]),
        ("profile", [attempt.arrangement.profile for attempt in tries]),
        ("speed", [str(attempt.rate_mts) if attempt.rate_mts else "" for attempt in tries]),
        ("total", [f"{attempt.total_bytes / GIB:g}G" if attempt.total_bytes else "" for attempt in tries]),
        ("channels", [str(attempt.channels) if attempt.channels else "" for attempt in tries]),
        ("GB/s", [f"{attempt.benchmark_gbs:.1f}" if attempt.benchmark_gbs else "" for attempt in tries]),
        ("note", ["✎" if attempt.note else "" for attempt in tries]),
        ("stays", ["◆" if at == staying and len(tries) > 1 else "" for at in range(len(tries))]),
    )
    lines: list[Text] = []
    for name, marks in kinds:
        if not any(marks):
            continue
        line = Text(f" {name:<{name_cells - 1}}", Ink.MUTED, no_wrap=True)
        for at in shown:
            mark = marks[at] or ("" if name == "stays" else "–")
            style = Ink.SHORT if "✗" in mark else Ink.KEPT if mark.startswith(("✓", "◆")) else Ink.TEXT if marks[at] else Ink.LINE
            line.append(mark.center(_COLUMN), f"bold {style}" if mark[:1] in "✓✗↻" else style)
        lines.append(line)
    return lines


def _start_mark(tried: Try) -> str:
    """Return how it started as a mark, with how many of several starts went so."""
    if tried.starts_failed and tried.starts and tried.starts > 1:
        return f"✗{tried.starts_failed}/{tried.starts}"
    mark = _STARTED.get(tried.started, "") if tried.started else ""
    return f"{mark}{tried.starts}" if mark == "✓" and (tried.starts or 1) > 1 else mark


def suspect_lines(snapshot: TriesSnapshot, cells: int, rows: int) -> list[Text]:
    """Return the suspects, each on a scale from nothing to certain: ○ before the latest try, ● now."""
    lines = [Text("SUSPECTS", f"bold {Ink.MUTED}")]
    blame = snapshot.blame
    if blame is None or not blame.suspects:
        return [*lines, Text(""), Text(" nothing to blame yet", Ink.MUTED)]
    lines[0].append("  ○ before the latest try  ● now" if cells > 44 else "  ○ before  ● now", Ink.MUTED)
    earlier = {(suspect.kind, suspect.name): suspect.weight for suspect in (snapshot.earlier.suspects if snapshot.earlier else ())}
    room = max(1, (rows - 1 - min(4, 2 * len(blame.contradictions))) // 1)
    known = {(suspect.kind, suspect.name) for suspect in blame.suspects}
    ruled_out = [
        replace(suspect, weight=0.0)
        for suspect in (snapshot.earlier.suspects if snapshot.earlier else ())
        if (suspect.kind, suspect.name) not in known
    ]
    shown = [*blame.suspects, *ruled_out][:room]
    longest = max(cell_len(suspect.words) for suspect in shown)
    name_cells = max(18, min(longest, cells - 13 - _LEAST_SCALE))
    scale = max(8, cells - name_cells - 13)
    whole = sum(len(wrapped(suspect.words, name_cells)) for suspect in shown) <= room
    for number, suspect in enumerate(shown):
        first, *rest = wrapped(suspect.words, name_cells) if whole else [suspect.words]
        lines.append(_suspect_line(first, suspect, earlier.get((suspect.kind, suspect.name)), number == 0, name_cells, scale))
        lines += [Text(f"   {part}", Ink.TEXT) for part in rest]
    for question in blame.asks:
        lines += [Text(f" {part}", f"bold {Ink.PROMISED}") for part in wrapped(f"? {question} (ctrl+e in a try says so)", cells - 2)]
    for module in snapshot.log.modules:
        if module.elsewhere:
            words = fitted(elsewhere_words(module), cells - 11)
            lines.append(Text.assemble((" module ", Ink.MUTED), (f"{module.letter} ", f"bold {Ink.TEXT}"), (words, Ink.TEXT)))
    for words in blame.contradictions:
        lines += [Text(f" {part}", Ink.PROMISED) for part in wrapped(f"! {words}", cells - 2)]
    return lines[:rows]


def _suspect_line(words: str, suspect: Suspect, earlier: float | None, first: bool, name_cells: int, scale: int) -> Text:
    def at(weight: float) -> int:
        return round(min(1.0, weight) * (scale - 1))

    symbols, styles = ["·"] * scale, [Ink.LINE] * scale
    colour = Ink.SHORT if first else Ink.TEXT
    for cell in range(at(suspect.weight)):
        symbols[cell], styles[cell] = "━", colour
    if earlier is not None:
        symbols[at(earlier)], styles[at(earlier)] = "○", Ink.TEXT
    symbols[at(suspect.weight)], styles[at(suspect.weight)] = "●", colour
    line = Text(f" {fitted(words, name_cells)} ", f"bold {Ink.TEXT}" if first else Ink.TEXT, no_wrap=True)
    for symbol, style in zip(symbols, styles, strict=True):
        line.append(symbol, style)
    line.append(f" {sureness(suspect.weight) if suspect.weight else 'ruled out':>9}", f"bold {Ink.TEXT}" if first else Ink.MUTED)
    return line


def next_lines(snapshot: TriesSnapshot, cells: int, rows: int) -> list[Text]:
    """Return the next try on the board with the reason, and what each outcome would mean."""
    blame = snapshot.blame
    lines = [Text("NEXT TRY", f"bold {Ink.MUTED}")]
    if blame is None or snapshot.next is None:
        if blame is not None and blame.settled and blame.first is not None:
            lines[0] = Text("WHAT TO DO", f"bold {Ink.MUTED}")
            said = say(act_message(blame))
            lines += [Text(""), *(Text(f" {part}", f"bold {Ink.TEXT}") for part in wrapped(said, cells - 2))]
            head = blame.says.split(". ")[0]
            if cell_len(head) > cells - _CHIP_CELLS:  # Above it is cut: here is room for all of it.
                lines += [Text(""), *(Text(f" {part}", Ink.MUTED) for part in wrapped(f"{head.rstrip('.')}.", cells - 2))]
            return lines[:rows]
        if blame is not None and blame.settled:
            said = "Nothing: the tries are clear."
        elif blame is None or not blame.suspects:
            said = "Nothing failed, however often it was started and tested: nothing has to be told apart."
        else:
            help_words = other_help(blame.borrow_for, blame.elsewhere_for) or "A module that is known to be good would help."
            said = f"No arrangement of these modules tells the suspects apart. {help_words}"
        return [*lines, Text(""), *(Text(f" {part}", Ink.MUTED) for part in wrapped(said, cells - 2))]
    proposal = snapshot.next
    lines[0].append(f"   about {proposal.cost_minutes:.0f} min", Ink.MUTED)
    if proposal.with_soak:
        lines[0].append(f", a memory test of {proposal.soak_minutes:.0f} among them", Ink.PROMISED)
    if proposal.starts > 1:
        lines[0].append(f", {proposal.starts} starts", Ink.PROMISED)
    lines[0].append("   enter", f"bold {Ink.PROMISED}")
    lines[0].append(" tries it", Ink.MUTED)
    last = snapshot.log.last.arrangement if snapshot.log.last else Arrangement()
    lines += board_lines(snapshot, proposal.arrangement, last, cells, max(2, rows - 6))
    head = proposal.why.split(". ")[0].rstrip(".") + "."
    lines += [Text(f" {part}", f"bold {Ink.TEXT}") for part in wrapped(head, cells - 2)]
    for outcome in proposal.outcomes:
        line = Text(f" {outcome.chance:4.0%} ", Ink.MUTED, no_wrap=True)
        line.append(outcome.what, Ink.TEXT)
        sure = f" {sureness(outcome.weight)}"
        then = Text(f"  ▸ {outcome.then}", Ink.PROMISED)
        then.truncate(max(0, cells - line.cell_len - cell_len(sure)), overflow="ellipsis")  # How sure it is, is never cut.
        line.append_text(then)
        line.append(sure, Ink.PROMISED)
        line.truncate(cells, overflow="ellipsis")
        lines.append(line)
    advice = wrapped(other_help(proposal.or_borrow_for, proposal.or_elsewhere_for, beside=True), cells - 2)
    if len(lines) + len(advice) > rows:
        advice = wrapped(other_help_in_short(proposal.or_borrow_for, proposal.or_elsewhere_for), cells - 2)
    lines += [Text(f" {part}", Ink.MUTED) for part in advice]
    return lines[:rows]


def board_lines(
    snapshot: TriesSnapshot, arrangement: Arrangement, last: Arrangement, cells: int, rows: int, cursor: int | None = None
) -> list[Text]:
    """Return an arrangement slot by slot, with where each module comes from; as many slots as there are rows."""
    came_from = last.slot_of
    slots = list(snapshot.slots)
    if len(slots) > rows and cursor is None:
        slots = [slot for slot in slots if slot in arrangement.module_in or slot in last.module_in][:rows]
    first = max(0, min((cursor or 0) - rows // 2, len(slots) - rows)) if cursor is not None else 0
    lines: list[Text] = []
    name_cells = max(_NAME, min(max((cell_len(slot) for slot in slots), default=0) + 2, _WIDEST_NAME, cells // 3))
    names = told_apart(slots, name_cells - 1)
    for number, slot in enumerate(slots[first : first + rows], first):
        letter = arrangement.module_in.get(slot)
        chosen = cursor == number
        line = Text(no_wrap=True)
        line.append("▶" if chosen else " ", Ink.PROMISED)
        line.append(names[number], f"bold {Ink.TEXT}" if chosen else Ink.TEXT)
        if letter is None:
            line.append(" ─────  ", Ink.LINE)
            gone = last.module_in.get(slot)
            words = f"← {gone} out" if gone and gone not in arrangement.slot_of else f"← {gone} away" if gone else "empty"
            line.append(words, Ink.PROMISED if gone else Ink.MUTED)
        else:
            line.append(fitted(f"  {letter}", 6), f"bold {Ink.ON_COLOUR} on {Ink.MODULE}")
            origin = came_from.get(letter)
            moved = f"  → from {origin}" if origin and origin != slot else "  → put in" if origin is None and last.fitted else ""
            words = module_words(snapshot.log, letter)
            if line.cell_len + _ORIGIN + min(cell_len(words), _LEAST_WORDS) <= cells:
                moved = moved.ljust(_ORIGIN)
            else:  # Where it is narrow, the size before all else.
                known = snapshot.log.by_letter.get(letter)
                line.append(f" {size_text(known.size_bytes)}" if known is not None and known.size_bytes else "", Ink.MUTED)
                words = ""
                moved = moved if line.cell_len + cell_len(moved) <= cells else " →" if moved else ""
            line.append(moved, f"bold {Ink.PROMISED}")
            line.append(words, Ink.MUTED)
        line.truncate(cells, overflow="ellipsis")
        lines.append(line)
    return lines


def module_words(log: TryLog, letter: str) -> str:
    """Return a module in a few words: size, maker, serial, and whether it was there before."""
    known = log.by_letter.get(letter)
    if known is None:
        return ""
    module = known.module
    parts = [
        size_text(known.size_bytes) if known.size_bytes else "",
        module.maker.value if module is not None and module.maker is not None else "",
        known.serial or (module.part.value if module is not None and module.part is not None else ""),
        "old" if known.old else "known good" if known.known_good else "",
    ]
    return " ".join(part for part in parts if part)


def advice_lines(snapshot: TriesSnapshot, cells: int, rows: int) -> list[Text]:
    """Return the steps in the order of least work, done ones ticked; a digit begins one as a try."""
    lines = [Text("IN THE ORDER OF LEAST WORK", f"bold {Ink.MUTED}")]
    if not snapshot.steps:
        return lines
    lines[0].append("   a digit begins one", Ink.MUTED)
    for number, step in enumerate(snapshot.steps, 1):
        for index, part in enumerate(wrapped(step.words, cells - 6)):
            line = Text(no_wrap=True)
            if index == 0:
                line.append(f" {number} ", f"bold {Ink.PROMISED}")
                line.append("▮ " if step.done else "▯ ", Ink.TEXT if step.done else Ink.MUTED)
            else:
                line.append("     ")
            line.append(part, Ink.MUTED if step.done else Ink.TEXT)
            lines.append(line)
    return lines[:rows]


def details_lines(snapshot: TriesSnapshot, cells: int, rows: int) -> list[Text]:
    """Return the chosen try in words, or two tries against each other."""
    tries = snapshot.log.tries
    if snapshot.chosen is None or snapshot.chosen >= len(tries):
        return []
    tried = tries[snapshot.chosen]
    other = tries[snapshot.against] if snapshot.against is not None and snapshot.against < len(tries) else None
    if other is None:
        lines = [Text(f"TRY {snapshot.chosen + 1}", f"bold {Ink.MUTED}")]
        if tried.at is not None:
            lines[0].append(f"   {day_and_time(tried.at)}", Ink.MUTED)
        for name, words in facts_of(tried):
            for index, part in enumerate(wrapped(words, cells - 13)):
                lines.append(Text.assemble((f" {name if index == 0 else '':<11} ", Ink.MUTED), (part, Ink.TEXT)))
        return lines[:rows]
    lines = [Text(f"TRY {(snapshot.against or 0) + 1} ○  AND TRY {snapshot.chosen + 1} ●", f"bold {Ink.MUTED}")]
    mine, theirs = dict(facts_of(tried)), dict(facts_of(other))
    for name in dict.fromkeys((*theirs, *mine)):
        first, second = theirs.get(name, "not known"), mine.get(name, "not known")
        if first != second:
            half = (cells - 16) // 2
            line = Text.assemble((f" {name:<11} ", Ink.MUTED), (fitted(first, half), Ink.MUTED), ("→ ", Ink.LINE), (second, Ink.TEXT))
            line.truncate(cells, overflow="ellipsis")
            lines.append(line)
    if len(lines) == 1:
        lines.append(Text(" They say the same.", Ink.TEXT))
    return lines[:rows]
