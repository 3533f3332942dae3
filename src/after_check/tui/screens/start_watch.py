"""The start watch: a clock from power-on against the usual, the training and the longest time, with signs at a key press."""

from __future__ import annotations

import contextlib
import time
from dataclasses import dataclass, replace
from typing import ClassVar

from rich.text import Text
from textual import events, work
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.message import Message
from textual.worker import get_current_worker

from after_check.casework.snapshot import JobSnapshot
from after_check.domain.tries import Arrangement, Started, Try, TryLog
from after_check.files.errors import SourceError
from after_check.sources.reachability import Alive, WatchAddress, look, parse_watch_address
from after_check.tries.watch import SIGNS, Phase, StartTimes, advise, clock, start_times
from after_check.tui.base import DraftScreen
from after_check.tui.charts.cells import wrapped
from after_check.tui.charts.numerals import large
from after_check.tui.dialogs.ask import AskDialog, Asked
from after_check.tui.theme import Ink
from after_check.tui.widgets.drawn import Drawn
from after_check.tui.widgets.job_sheet_panes import JobHeader
from after_check.tui.widgets.keys_line import KeysLine

_LOOK_SECONDS = 2.0
_TICK_SECONDS = 0.5


@dataclass(frozen=True, slots=True)
class Watched:
    """What a watch found: whether it started, after how many seconds, power cycles, whether the network showed it, signs."""

    started: Started
    seconds: float
    cycles: int
    on_network: bool | None
    signs: tuple[str, ...]

    def into(self, tried: Try) -> Try:
        """Return a try with it."""
        return replace(
            tried,
            started=self.started,
            seconds=round(self.seconds, 1),
            cycles=self.cycles or None,
            on_network=self.on_network if self.on_network is not None else tried.on_network,
            signs=tuple(dict.fromkeys((*tried.signs, *self.signs))),
        )


class Looked(Message):
    """The network was looked at."""

    def __init__(self, alive: Alive) -> None:
        super().__init__()
        self.alive = alive


class WatchFace(Drawn):
    """The clock on a scale of the times, and what to do."""

    times: StartTimes = StartTimes(40, 90, 360, "")
    elapsed: float | None = None
    cycles = 0
    changed = True
    signs: tuple[str, ...] = ()
    address = ""
    network = ""

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw it."""
        lines = [Text("START WATCH", f"bold {Ink.MUTED}"), Text("")]
        if self.elapsed is None:
            said = "Press space in the moment in which you switch the machine on."
            lines += [Text(f"    {said}", f"bold {Ink.PROMISED}"), Text("")]
        else:
            advice = advise(self.times, self.elapsed, self.changed, self.cycles)
            colour = {Phase.USUAL: Ink.KEPT, Phase.TRAINING: Ink.KEPT, Phase.LONG: Ink.PROMISED}.get(advice.phase, Ink.SHORT)
            mark = "✗ POWER OFF" if advice.phase is Phase.ENOUGH else "◐ WAIT"
            numerals = [Text(f"    {part}", Ink.TEXT) for part in large(clock(self.elapsed), cells - 8, rows - 15)]
            lines += [*numerals, Text("")] if numerals else []
            head = Text("" if numerals else f" {clock(self.elapsed)}  ", f"bold {Ink.TEXT}")
            head.append(" " * (4 if numerals else 0))
            head.append(f"  {mark}  ", f"bold {Ink.ON_COLOUR} on {colour}")
            lines += [head, Text("")]
            lines += [Text(f"    {part}", f"bold {Ink.TEXT}") for part in wrapped(advice.words, cells - 8)]
            lines.append(Text(""))
        lines += self._scale(cells)
        lines += [Text(""), Text(f"    times: {self.times.basis}", Ink.MUTED)]
        happened = [f"power cycles {self.cycles}"] if self.cycles else []
        happened += self.signs
        if happened:
            lines.append(Text(f"    {'; '.join(happened)}", Ink.TEXT))
        lines.append(
            Text(
                f"    network: {self.network or ('watching ' + self.address if self.address else 'not watched; a names an address')}",
                Ink.MUTED,
            )
        )
        signs = "signs: " + ", ".join(f"{key} {words}" for key, words in SIGNS.items())
        lines += [Text(""), *(Text(f"    {part}", Ink.MUTED) for part in wrapped(signs, cells - 8))]
        return lines[:rows]

    def _scale(self, cells: int) -> list[Text]:
        """Return the times on one scale, and the clock's hand."""
        wide = max(20, cells - 8)
        end = max(self.times.longest * 1.15, (self.elapsed or 0) * 1.02)

        def at(seconds: float) -> int:
            return min(wide - 1, round(seconds / end * (wide - 1)))

        symbols, styles = ["─"] * wide, [Ink.LINE] * wide
        if self.elapsed is not None:
            for cell in range(at(self.elapsed)):
                symbols[cell], styles[cell] = "━", Ink.TEXT if self.elapsed < self.times.longest else Ink.SHORT
        marks = ((self.times.usual, "usual"), (self.times.training, "first start"), (self.times.longest, "longest"))
        names = [" "] * (wide + 20)
        taken = -1
        for seconds, word in marks:
            symbols[at(seconds)], styles[at(seconds)] = "┊", Ink.PROMISED
            text = f"{word} {clock(seconds)}"
            begin = max(taken + 2, min(at(seconds), wide - len(text)))
            for offset, letter in enumerate(text):
                if begin + offset < len(names):
                    names[begin + offset] = letter
            taken = begin + len(text)
        if self.elapsed is not None:
            symbols[at(self.elapsed)], styles[at(self.elapsed)] = "●", Ink.TEXT
        bar = Text("    ", no_wrap=True)
        for symbol, style in zip(symbols, styles, strict=True):
            bar.append(symbol, style)
        return [bar, Text("    " + "".join(names).rstrip(), Ink.MUTED, no_wrap=True)]


class StartWatchScreen(DraftScreen[Watched | None]):
    """Runs the clock; the time of power-on outlives the program."""

    CSS_PATH = "start_watch.tcss"
    HELP_TITLE = "The start watch"
    HELP_LINES = (
        "Space starts the clock with the power switch. It says whether to wait, and when it was long enough.",
        "With an address the machine is watched over the network: open ports, or its management service's word.",
    )
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("space", "power", "power on"),
        Binding("1", "started", "it starts"),
        Binding("2", "dead", "it does not"),
        Binding("3", "cycle", "off and on"),
        Binding("a", "address", "address", tooltip="watch over the network: HOST, HOST:22,80 or redfish+https://USER@HOST"),
        Binding("escape", "back", "back", tooltip="back without a result"),
    ]

    def __init__(self, job: JobSnapshot, log: TryLog, arrangement: Arrangement) -> None:
        super().__init__()
        self._job = job
        self.draft_place = f"watch:{job.job.facts.number}"
        sizes = [log.by_letter[letter].size_bytes or 0 for _, letter in arrangement.fitted if letter in log.by_letter]
        generations = [module.generation.value for fitted in log.modules if (module := fitted.module) is not None and module.generation]
        self._times = start_times(job.job.card, generations[0] if generations else None, sum(sizes))
        last = log.last.arrangement if log.last is not None else None
        self._changed = last is None or last.fitted != arrangement.fitted
        self._began: float | None = None
        self._cycles = 0
        self._signs: list[str] = []
        self._address: WatchAddress | None = None
        self._was_up = False
        self._seen_on_network: bool | None = None

    def draft_text(self) -> str:
        """Return when the clock began, and the address that is watched."""
        return f"{self._began or ''} {self.query_one(WatchFace).address}".rstrip()

    def compose(self) -> ComposeResult:
        """Lay out the watch."""
        yield JobHeader(id="watch-header")
        yield WatchFace(id="watch-face")
        yield KeysLine()

    async def on_mount(self) -> None:
        """Take up a clock that was running when the program ended."""
        self.query_one(JobHeader).snapshot = self._job
        kept = await self.left_unfinished()
        began, _, address = kept.partition(" ")
        with contextlib.suppress(ValueError):
            at = float(began)
            if 0 <= time.time() - at < 4 * self._times.longest:
                self._began = at
        if address:
            self._watch(address)
        self.set_interval(_TICK_SECONDS, self._show)
        self._show()

    def _show(self) -> None:
        face = self.query_one(WatchFace)
        face.times, face.changed, face.cycles, face.signs = self._times, self._changed, self._cycles, tuple(self._signs)
        face.elapsed = time.time() - self._began if self._began is not None else None
        face.refresh()

    def on_key(self, event: events.Key) -> None:
        """Take signs."""
        sign = SIGNS.get(event.character or "")
        if sign is not None and sign not in self._signs:
            self._signs.append(sign)
            self._show()

    def action_power(self) -> None:
        """Start the clock, or start it again."""
        self._began = time.time()
        self._was_up = False
        self.keep_now(self.draft_text())
        self._show()

    def action_cycle(self) -> None:
        """Count a power cycle."""
        self._cycles += 1
        self._show()

    def action_started(self) -> None:
        """It starts."""
        self._end(Started.CYCLES if self._cycles else Started.YES)

    def action_dead(self) -> None:
        """It does not start."""
        self._end(Started.NO)

    def _end(self, started: Started) -> None:
        seconds = time.time() - self._began if self._began is not None else 0.0
        address = self.query_one(WatchFace).address
        self.keep_now(f" {address}" if address else "")
        self.dismiss(Watched(started, seconds, self._cycles, self._seen_on_network, tuple(self._signs)))

    def action_address(self) -> None:
        """Ask for an address."""

        def asked(text: str | None) -> None:
            if text:
                self._watch(text)
                self.keep_now(self.draft_text())

        question = "Its address: HOST, HOST:22,80 or redfish+https://USER@HOST"
        self.app.push_screen(AskDialog(Asked("WATCH OVER THE NETWORK", question, value=self.query_one(WatchFace).address)), asked)

    def _watch(self, text: str) -> None:
        try:
            self._address = parse_watch_address(text)
        except SourceError as problem:
            self.notify(str(problem), severity="warning", timeout=8)
            return
        self.query_one(WatchFace).address = text
        self._seen_on_network = False
        self.look_again(self._address)

    @work(exclusive=True, group="network", thread=True)
    def look_again(self, address: WatchAddress) -> None:
        """Look every other second until the screen goes."""
        worker = get_current_worker()
        while not worker.is_cancelled:
            self.post_message(Looked(look(address)))
            time.sleep(_LOOK_SECONDS)

    def on_looked(self, message: Looked) -> None:
        """Show it; a machine that goes away and comes back went through a power cycle."""
        alive = message.alive
        face = self.query_one(WatchFace)
        face.network = alive.problem or (f"port {alive.port} answers" if alive.port else alive.state or "does not answer yet")
        if self._began is not None:
            if alive.is_up and not self._was_up:
                self._seen_on_network = True
                self.notify(f"it is on the network after {clock(time.time() - self._began)}: press 1 if it works", timeout=10)
            elif self._was_up and not alive.is_up and not alive.problem:
                self._cycles += 1
            self._was_up = alive.is_up
        self._show()

    def action_back(self) -> None:
        """Go back without a result."""
        self.dismiss(None)
