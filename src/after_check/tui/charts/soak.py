"""A soak in cells: the memory as tracks that fill, the steps, the rate against its limit, what failed and where."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from rich.text import Text

from after_check.domain.case_files import ENOUGH_PERCENT
from after_check.domain.messages import message
from after_check.domain.quantities import size_text
from after_check.domain.soak import Block, LookedFor, SoakRecord, SoakState, Surroundings, WrongWord
from after_check.soak.soak_json import covered_percent
from after_check.texts import say
from after_check.tui.charts.cells import fitted, right_aligned, wrapped
from after_check.tui.theme import Ink

_MARKS = "·╍━╳ "
_BARS = " ▁▂▃▄▅▆▇█"


@dataclass(frozen=True, slots=True)
class SoakSnapshot:
    """What the view shows: a record, the memory's own limit in GB/s where it is known, and whether it runs here.

    `why_not` says why it does not count for the job, where it does not. Below `enough_percent` of the memory a clean test is
    none of all of it.
    """

    record: SoakRecord
    peak_gbs: float | None = None
    here: bool = True
    why_not: str = ""
    enough_percent: int = ENOUGH_PERCENT


def head_lines(snapshot: SoakSnapshot, cells: int) -> list[Text]:
    """Return the two lines that the eye lands on: how it stands, how far it is, what is left."""
    record = snapshot.record
    chip = Text(no_wrap=True)
    words, colour = (
        ("? DOES NOT COUNT", Ink.PROMISED) if snapshot.why_not and not record.errors else _standing(record, snapshot.enough_percent)
    )
    chip.append(f"  {words}  ", f"bold {Ink.ON_COLOUR} on {colour}")
    chip.append(" ")
    left = Text(" ", no_wrap=True)
    left.append(f"{record.plan} memory test", f"bold {Ink.TEXT}")
    left.append(f"  {_whose(snapshot)}", Ink.MUTED)
    second = Text(" ", no_wrap=True)
    if record.state is SoakState.FINISHED:
        passes = "1 whole pass" if record.passes_done == 1 else f"{record.passes_done} whole passes"
        second.append(passes, f"bold {Ink.TEXT}")
        second.append(f"   in {clock_words(record.seconds)}", Ink.TEXT)
    else:
        second.append(f"{record.share:.0%}", f"bold {Ink.PROMISED}")
        second.append(f" of pass {record.passes_done + 1}", Ink.MUTED)
        second.append(f"   {clock_words(record.seconds)} {'in all' if record.state.is_over else 'so far'}", Ink.TEXT)
    if record.seconds_left is not None:
        second.append(f"   {clock_words(record.seconds_left)} left", f"bold {Ink.TEXT}")
    counted = Text(f"{record.errors:,} errors " if record.errors else "", f"bold {Ink.SHORT}")
    return [right_aligned(left, chip, cells), right_aligned(second, counted, cells)]


def _whose(snapshot: SoakSnapshot) -> str:
    if snapshot.why_not:
        return f"of {snapshot.why_not}"
    if snapshot.record.own_word_of:
        return f"of {snapshot.record.own_word_of}, in its own words"
    return "of this computer, which After Check runs on" if snapshot.here else "of the computer that After Check ran on"


def _standing(record: SoakRecord, enough_percent: int) -> tuple[str, str]:
    if record.errors:
        return "✗ ERRORS", Ink.SHORT
    if record.state in (SoakState.RUNNING, SoakState.PAUSED):
        running = "◐ RUNS, CLEAN SO FAR" if record.bytes_done else "◐ STARTS"
        return (running if record.state is SoakState.RUNNING else "‖ PAUSED"), Ink.PROMISED
    if record.state is SoakState.FAILED:
        return "? COULD NOT RUN", Ink.SHORT
    if record.state is SoakState.INTERRUPTED:
        return "? INTERRUPTED", Ink.PROMISED
    if record.state is SoakState.STOPPED and record.steps_done and not record.passes_done and not record.own_word_of:
        return f"? CLEAN FOR {record.share:.0%} OF A PASS", Ink.PROMISED
    if not record.steps_done:
        return "? NOTHING FINISHED", Ink.PROMISED
    percent = covered_percent(record)
    if percent is not None and percent < enough_percent:  # How little was tested is told before that it was clean.
        return f"? CLEAN · {percent} % TESTED", Ink.PROMISED
    return "✓ CLEAN", Ink.KEPT


def field_lines(record: SoakRecord, cells: int, rows: int) -> list[Text]:
    """Return the memory under test: rows of blocks from its first byte to its last, each waiting, under way, clean or wrong."""
    legend = "· waits  ╍ under way  ━ clean  ╳ wrong"
    # Where the legend would wrap it would push the last row of the field, and an error in it, out of sight.
    lines = [_heading("MEMORY UNDER TEST", legend if cells >= 62 else "╳ wrong"), Text("")]
    blocks = record.blocks
    if not blocks:
        words = "no memory was taken" if record.state.is_over else "taking the memory ..."
        if record.fully_swept_bytes:
            words = f"{size_text(record.fully_swept_bytes)} swept by every finished step"
        return [*lines, Text(f" {words}", Ink.MUTED), *_taking(record, cells)]
    label = 11
    room = max(8, cells - label - 1)
    high = max(1, min(rows - 2, 8))
    blocks = _merged(blocks, room * high)
    across = -(-len(blocks) // high)
    wide = max(1, room // across)
    across = min(across, room)
    styles = (Ink.LINE, Ink.PROMISED, Ink.KEPT, f"bold {Ink.SHORT}", Ink.LINE)
    for first in range(0, len(blocks), across):
        line = Text(no_wrap=True)
        at = record.covered.held_bytes * first / len(blocks)
        line.append(fitted(f" {size_text(round(at / (1 << 20)) << 20)}" if first else " 0", label), Ink.MUTED)
        for block in blocks[first : first + across]:
            line.append(_MARKS[block] * wide, styles[block])
        lines.append(line)
    return lines[:rows]


def _merged(blocks: tuple[int, ...], most: int) -> tuple[int, ...]:
    """Return at most so many blocks, each the worst of those that it stands for; clean only where all of them are."""
    together = -(-len(blocks) // most)
    order = (Block.WRONG, Block.UNDER_WAY, Block.WAITING, Block.CLEAN, Block.GIVEN_BACK)
    groups = (blocks[at : at + together] for at in range(0, len(blocks), together))
    return blocks if together == 1 else tuple(next(state for state in order if state in group) for group in groups)


def _taking(record: SoakRecord, cells: int) -> list[Text]:
    """How much of the wanted memory is held so far, as a track."""
    held, wanted = record.covered.held_bytes, record.covered.available_bytes
    if record.state.is_over or not wanted:
        return []
    room = max(8, cells - 26)
    full = min(room, round(room * held / wanted))
    line = Text(" ", no_wrap=True)
    line.append("━" * full, Ink.TEXT)
    line.append("·" * (room - full), Ink.LINE)
    line.append(f"  {size_text(held)} of {size_text(wanted)}", Ink.TEXT)
    return [Text(""), line]


def step_lines(record: SoakRecord, rows: int, cells: int) -> list[Text]:
    """Return the steps of the plan around the one that runs."""
    count = len(record.steps)
    over = record.state is SoakState.FINISHED
    here = count if over else record.steps_done % count if count else 0
    lines = [_heading("STEPS", f"{here} of {count}"), Text("")]
    room = max(1, rows - 2)
    first = max(0, min(here - room // 2, count - room))
    for number in range(first, min(count, first + room)):
        line = Text(no_wrap=True)
        if number < here:
            line.append(" ▮ ", Ink.TEXT)
            line.append(record.steps[number], Ink.MUTED)
        elif number == here:
            line.append(" ◐ ", f"bold {Ink.PROMISED}")
            line.append(record.steps[number], f"bold {Ink.TEXT}")
            line.append(f"  {record.step_share:.0%}", f"bold {Ink.PROMISED}")
        else:
            line.append(" · ", Ink.LINE)
            line.append(record.steps[number], Ink.MUTED)
        line.truncate(cells, overflow="ellipsis")
        lines.append(line)
    return lines


def rate_lines(snapshot: SoakSnapshot, cells: int) -> list[Text]:
    """Return the rate against the memory's own limit, what it covers, temperatures and counters."""
    record = snapshot.record
    rate = record.rate_bytes_per_s / 1e9
    lines = [_heading("RATE AND SURROUNDINGS", "")]
    limit = snapshot.peak_gbs
    most = limit or max([rate, *((moment.rate_bytes_per_s or 0) / 1e9 for moment in record.surroundings)]) or 1.0
    bar_cells = max(8, cells - 42)
    full = max(0, min(bar_cells, round(bar_cells * rate / most)))
    line = Text(no_wrap=True)
    line.append(f" {rate:5.1f} GB/s ", f"bold {Ink.TEXT}")
    line.append("━" * full, Ink.TEXT)
    line.append("·" * (bar_cells - full), Ink.LINE)
    line.append(f"┊ {limit:.1f} GB/s this job's limit" if limit else " fastest so far", Ink.PROMISED if limit else Ink.MUTED)
    lines += [line, _history(record, cells)]
    said = _surroundings(record.surroundings[-1]) if record.surroundings else ""
    return lines + [Text(f" {part}", Ink.MUTED) for part in wrapped(said, cells - 2)]


def _history(record: SoakRecord, cells: int) -> Text:
    rates = [moment.rate_bytes_per_s or 0.0 for moment in record.surroundings][-(cells - 16) :]
    most = max(rates, default=0.0)
    text = Text(" over time  ", Ink.MUTED, no_wrap=True)
    text.append("".join(_BARS[round(rate / most * 8)] if most else " " for rate in rates), Ink.TEXT)
    return text


def _surroundings(last: Surroundings) -> str:
    said = [
        f"modules {last.module_celsius:.0f} °C" if last.module_celsius is not None else "modules' temperature: no sensor",
        f"processor {last.processor_celsius:.0f} °C" if last.processor_celsius is not None else "processor: no sensor",
        f"slowed for heat {last.throttled} times" if last.throttled is not None else "",
        f"corrected errors {last.corrected}, uncorrected {last.uncorrected}" if last.corrected is not None else "no error counters",
    ]
    return " · ".join(part for part in said if part)


def covered_lines(record: SoakRecord, cells: int) -> list[Text]:
    """Return what was and was not covered."""
    covered = record.covered
    lines = [_heading("COVERED", "")]
    if not record.blocks and not record.state.is_over and not record.own_word_of:
        return [*lines, Text(" known when the memory is taken", Ink.MUTED)]
    installed = f", {covered.of_installed:.0%} of what is installed" if covered.of_installed is not None else ""
    if record.own_word_of:
        # What the machine did not say is not known here: no zeros in its place.
        said = (
            f"It says that it tested {size_text(covered.held_bytes)}{installed}."
            if covered.held_bytes
            else "It does not say how much it tested."
        )
        return [*lines, *(Text(f" {part}", Ink.TEXT) for words in (said, *record.remarks) for part in wrapped(words, cells - 2))]
    held = f"{size_text(covered.held_bytes)} under test of {size_text(covered.available_bytes)} that was available{installed}"
    locked = "locked in its place" if covered.locked else "not locked"
    lines += [Text(f" {part}", Ink.TEXT) for part in wrapped(f"{held}; {locked}.", cells - 2)]
    for words in (*covered.out_of_reach, *record.remarks):
        lines += [Text(f" {part}", Ink.MUTED) for part in wrapped(f"– {words}", cells - 2)]
    return lines


def error_lines(record: SoakRecord, cells: int, rows: int) -> list[Text]:
    """Return what failed: likely kinds, where it points, bit lanes, and the first addresses."""
    lines = [_heading("ERRORS", f"{record.errors:,}" if record.errors else "none")]
    if not record.errors:
        read = record.bytes_done or record.steps_done
        words = "Every word that was read back was as it was written." if read else "Nothing was read back yet."
        if record.own_word_of:
            words = "It reports none. That is its own word; this program read nothing back."
        lines.append(Text(f" {words}", Ink.MUTED))
        return [*lines, *looked_lines(record, cells, rows - len(lines))][:rows]
    for symptom in record.symptoms:
        words = f"{symptom.kind.value}: {say(message('symptom', **symptom.values))}"
        lines += [Text(f" {part}", f"bold {Ink.TEXT}") for part in wrapped(words, cells - 2)]
    pointed = f"They point at {' or '.join(record.suspects)}." if record.suspects else "Which module they come from is not known here."
    lines.append(Text(f" {pointed}", f"bold {Ink.SHORT}"))
    if record.wrong_devices:
        lines.append(Text(f" By the bits: {say(record.wrong_devices.message)}.", Ink.TEXT))
    if record.own_word_of:
        return [*lines, Text(" It gives no addresses and no bits.", Ink.MUTED)][:rows]
    lines += _lane_lines(record)
    lines.append(Text(f" {'address':<15}{'expected':<17} {'found':<17} bits", Ink.MUTED))
    for error in record.kept[: max(1, rows - len(lines))]:
        lines.append(_error_line(error))
    return lines[:rows]


def looked_lines(record: SoakRecord, cells: int, rows: int) -> list[Text]:
    """Return how much of each kind of fault the steps that are done would have shown: a track and a share each.

    Where they do not all fit, the kinds are counted, and the one that is looked for least is named: half a list says more than is so.
    """
    if record.own_word_of or (record.steps_done and not record.looked):
        return []  # Not known: another program's word, or a record from before this was worked out.
    over = record.state.is_over
    shares = record.looked or (0.0,) * len(LookedFor)
    if rows < len(LookedFor) + 2:
        return _looked_shortly(shares, over, cells)[:rows]
    lines = [Text(""), _heading("LOOKED FOR" if over else "LOOKED FOR SO FAR", "what would have shown, by simulation")]
    label = max(len(kind.value) for kind in LookedFor) + 2
    room = max(6, min(28, cells - label - 11))
    for kind, share in zip(LookedFor, shares, strict=False):
        full = round(room * share)
        line = Text(f" {kind.value:<{label}}", Ink.TEXT if share else Ink.MUTED, no_wrap=True)
        line.append("━" * full, Ink.TEXT)
        line.append("·" * (room - full), Ink.LINE)
        line.append(f" {_percent(share) if share else 'not' if over else 'not yet':>4}", Ink.TEXT if share else Ink.MUTED)
        lines.append(line)
    return lines


def _looked_shortly(shares: Sequence[float], over: bool, cells: int) -> list[Text]:
    wholly = sum(share >= 1 for share in shares)
    share, kind = min(zip(shares, LookedFor, strict=False), key=lambda pair: pair[0])
    words = f"{wholly} of {len(shares)} kinds wholly" if any(shares) else f"none of {len(shares)} kinds yet"
    if any(shares) and wholly < len(shares):
        words += f"; least: {kind.value} {_percent(share) if share else 'not' if over else 'not yet'}"
    head = "Looked for" if over else "Looked for so far"
    return [Text(f" {part}", Ink.TEXT) for part in wrapped(f"{head}: {words}", cells - 2)]


def _percent(share: float) -> str:
    """A share in whole per cent; rounded to neither all nor nothing where it is neither."""
    return f"{min(99, max(1, round(100 * share))) if share < 1 else 100}%"


def _lane_lines(record: SoakRecord) -> list[Text]:
    """The 64 lanes in two strips, the highest bit left: how often each was wrong."""
    counts = [low + high for low, high in record.lanes] or [0] * 64
    most = max(counts) or 1
    strips: list[Text] = []
    for top in (63, 31):
        strip = Text(f" bits {top:>2} ", Ink.MUTED, no_wrap=True)
        for lane in range(top, top - 32, -1):
            mark = _BARS[max(1, round(counts[lane] / most * 8))] if counts[lane] else "·"
            strip.append(mark, f"bold {Ink.SHORT}" if counts[lane] else Ink.LINE)
            if lane % 8 == 0:
                strip.append(" ")
        strip.append(str(top - 31), Ink.MUTED)
        strips.append(strip)
    return strips


def _error_line(error: WrongWord) -> Text:
    place = error.physical_byte if error.physical_byte is not None else error.virtual_byte
    bits = [lane for lane in range(64) if error.bits >> lane & 1]
    named = ",".join(str(lane) for lane in bits[:4]) + ("…" if len(bits) > 4 else "")
    line = Text(no_wrap=True, overflow="ellipsis")
    line.append(f" {'p' if error.physical_byte is not None else 'v'} {place:012x} ", Ink.TEXT)
    line.append(f"{error.expected:016x}  {error.found:016x}  ", Ink.MUTED)
    line.append(named, f"bold {Ink.SHORT}")
    if not error.was_stored:
        line.append("  right when read again", Ink.MUTED)
    return line


def clock_words(seconds: float) -> str:
    """Return seconds as `0:42`, `12:05` or `3:07 h`."""
    whole = int(seconds)
    return f"{whole // 3600}:{whole % 3600 // 60:02d} h" if whole >= 3600 else f"{whole // 60}:{whole % 60:02d}"


def _heading(title: str, remark: str) -> Text:
    text = Text(title, f"bold {Ink.MUTED}", no_wrap=True)
    if remark:
        text.append(f"  {remark}", Ink.MUTED)
    return text
