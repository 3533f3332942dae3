"""The tries of a job: the matrix, the suspects, the next try, and what to do in the order of least work."""

from __future__ import annotations

import asyncio
from dataclasses import replace
from typing import ClassVar

from rich.text import Text
from textual import work
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Horizontal
from textual.reactive import reactive

from after_check.casework.job_tries import as_reading, first_try, log_of, staying
from after_check.casework.snapshot import JobSnapshot
from after_check.domain.jobs import Job, KeptTries
from after_check.domain.outside_text import clean
from after_check.domain.tries import Arrangement, Try, TryLog
from after_check.shop.errors import ChangedElsewhereError
from after_check.tries.advice import steps
from after_check.tries.blame import blame
from after_check.tries.elsewhere import example_of, with_elsewhere
from after_check.tries.next_try import next_try
from after_check.tries.try_words import elsewhere_words
from after_check.tui.charts.tries import (
    TriesSnapshot,
    advice_lines,
    details_lines,
    head_line,
    matrix_lines,
    next_lines,
    suspect_lines,
)
from after_check.tui.charts.try_keys import with_corrections
from after_check.tui.dialogs.ask import Asked
from after_check.tui.job_screen import JobView
from after_check.tui.screens.try_entry import Entered, TryEntryScreen
from after_check.tui.views import View
from after_check.tui.widgets.drawn import Drawn
from after_check.tui.widgets.job_sheet_panes import JobHeader
from after_check.tui.widgets.keys_line import KeysLine


class TriesPane(Drawn):
    """A region that draws a part of the tries."""

    snapshot: reactive[TriesSnapshot] = reactive(TriesSnapshot())


class TriesHead(TriesPane):
    """What the tries say."""

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw it."""
        return [head_line(self.snapshot, cells)]


class MatrixPane(TriesPane):
    """Slots against tries."""

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw it."""
        return matrix_lines(self.snapshot, cells, rows)


class SuspectsPane(TriesPane):
    """Suspects and contradictions."""

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw it."""
        return suspect_lines(self.snapshot, cells, rows)


class NextPane(TriesPane):
    """The next try on the board."""

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw it."""
        return next_lines(self.snapshot, cells, rows)


class AdvicePane(TriesPane):
    """The steps of advice, or the chosen try."""

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw them."""
        return details_lines(self.snapshot, cells, rows) or advice_lines(self.snapshot, cells, rows)


class TriesScreen(JobView[View | None]):
    """Keeps the log and says what to try next."""

    CSS_PATH = "tries.tcss"
    HELP_TITLE = "Tries"
    HELP_LINES = (
        "Which module sat in which slot, and what happened: every try weighs the suspects again.",
        "Enter takes the proposed arrangement, a digit a step of the list, n begins from the latest one.",
        "a notes how a module did alone in another machine (b fails; a clean 40 min): that counts for all tries.",
        "Left and right look at a try; c marks it (○), and the next one you look at is held against it.",
    )
    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("enter", "follow", "try it", tooltip="write down the proposed try"),
        Binding("n", "new", "new try", tooltip="write down a try, beginning with the latest arrangement"),
        Binding("w", "watch", "start watch", tooltip="a clock for a start, then the try"),
        Binding("left", "look(-1)", "look at one", key_display="← →"),
        Binding("right", "look(1)", "later", show=False),
        Binding("c", "compare", "compare", tooltip="mark this try; the next one you look at is held against it"),
        Binding("e", "edit", "correct", tooltip="correct the try that is looked at, or the latest one"),
        Binding("o", "conclude", "what it was", tooltip="conclude in your own words: that is what is printed"),
        Binding("a", "elsewhere", "another machine", tooltip="note how a module did alone in another machine"),
        Binding("r", "reading", "as a reading", tooltip="take the arrangement of this try as a reading"),
        Binding("x", "take_back", "take back", tooltip="take the latest try out of the log"),
        *(Binding(str(number), f"step({number})", show=False) for number in range(1, 7)),
        Binding("escape,t", "back", "back", tooltip="back to the job sheet"),
    ]

    def __init__(self, snapshot: JobSnapshot) -> None:
        super().__init__(snapshot)
        self._chosen: int | None = None
        self._against: int | None = None
        self._seen = TriesSnapshot()
        self._being_kept: TryLog | None = None
        self._weighed_log: TryLog | None = None
        self._follows = False
        self._draft_being_kept = ""

    @property
    def tries_log(self) -> TryLog:
        """The log with what was read and tested meanwhile, as the store has it."""
        return log_of(self.job)

    @property
    def newest_log(self) -> TryLog:
        """The log with what is on its way to the store, for whoever goes on from it; it is not shown before it is kept."""
        if self._being_kept is None:
            return self.tries_log
        return log_of(replace(self.job, tries=KeptTries(self.job.tries.version if self.job.tries else 0, self._being_kept)))

    def compose(self) -> ComposeResult:
        """Lay out the view."""
        yield JobHeader(id="tries-header")
        yield TriesHead(id="tries-head")
        with Horizontal(id="tries-upper"):
            yield MatrixPane(id="tries-matrix")
            yield SuspectsPane(id="tries-suspects")
        with Horizontal(id="tries-lower"):
            yield NextPane(id="tries-next")
            yield AdvicePane(id="tries-steps")
        yield KeysLine()

    def draw(self) -> None:
        """Give the regions the log, and what it says."""
        log = self.tries_log
        # The log at once; what it says follows as soon as it is weighed.
        self._give(replace(self._seen, log=log, chosen=self._chosen, against=self._against))
        self.weigh(log)

    @work(exclusive=True, group="weigh")
    async def weigh(self, log: TryLog) -> None:
        """Weigh the log off the screen's thread, and show what it says."""
        self._give(await asyncio.to_thread(self._weighed, log))
        self._weighed_log = log
        self.refresh_bindings()
        if self._follows and self.is_current:
            self.action_follow()

    def _give(self, snapshot: TriesSnapshot) -> None:
        self._seen = snapshot
        for pane in self.query(TriesPane):
            pane.snapshot = snapshot

    def _weighed(self, log: TryLog) -> TriesSnapshot:
        card = self.job.card
        said = blame(log, card) if log.tries else None
        earlier = blame(replace(log, tries=log.tries[:-1]), card) if len(log.tries) > 1 else None
        following = next_try(log, card) if log.tries else None
        advice = steps(log, card) if said and said.suspects else ()
        return TriesSnapshot(log, said, following, earlier, advice, self._chosen, self._against, staying(self.job))

    def check_action(self, action: str, parameters: tuple[object, ...]) -> bool | None:
        """Offer what makes sense now."""
        if action == "follow":
            return self._seen.next is not None or (bool(self.tries_log.tries) and self._weighed_log != self.tries_log)
        return (
            bool(self._seen.log.tries) if action in ("look", "compare", "edit", "take_back", "conclude", "reading", "elsewhere") else True
        )

    def action_follow(self) -> None:
        """Write down the proposed try; one of a log that is still weighed, or on its way to the store, is waited for."""
        self._follows = self._being_kept is not None or self._weighed_log != self.tries_log
        if self._follows:
            return
        proposal, last = self._seen.next, self.tries_log.last
        if proposal is not None:
            again = last is not None and proposal.arrangement == last.arrangement and not last.worked
            seated = tuple(letter for _, letter in proposal.arrangement.fitted) if again else ()
            often = proposal.starts if proposal.starts > 1 else None
            self._enter(Try(proposal.arrangement, reseated=seated, soak_minutes=proposal.soak_minutes or None, starts=often))

    def action_new(self) -> None:
        """Write down a try from the latest arrangement; the first one from what was promised, and what of it is not seen."""
        begun = first_try(self.job) if self.newest_log.last is None else Try()
        self._enter(begun if begun.arrangement.fitted else Try(self._latest()))

    def action_conclude(self) -> None:
        """Ask what the technician concludes; an empty line takes it back."""
        question = "In your own words, as the customer is to read it. What the program thinks is beside it in the record."
        asked = Asked("WHAT IT WAS", question, "", self._stored().conclusion, "the fan was not plugged in", may_be_empty=True)
        self.ask_to_keep(asked, lambda text: self._kept(replace(self._stored(), conclusion=clean(text, 400))))

    def action_elsewhere(self) -> None:
        """Ask how modules did in another machine; it counts for all tries."""
        log = self._stored()
        noted = [module for module in log.modules if module.elsewhere]
        question = "A module alone in another machine that takes it: does it fail there too? Say how long it was tested."
        if noted:
            said = "; ".join(f"{module.letter} {elsewhere_words(module)}" for module in noted)
            question += f"\nNoted so far: {said}. A dash ({noted[0].letter} -) forgets it."
        title, check = "IN ANOTHER MACHINE", lambda line: with_elsewhere(self._stored(), line)
        asked = Asked(title, question, placeholder=example_of(log), check=check)
        self.ask_to_keep(asked, lambda line: self._kept(with_elsewhere(self._stored(), line)))

    @work(exclusive=True, group="reading")
    async def action_reading(self) -> None:
        """Take the arrangement that is looked at, or the latest one, as a reading: its line is there to look at and to keep."""
        log = self.tries_log
        tried = log.tries[self._chosen if self._chosen is not None else -1]
        place, line = f"reading {self.job.uid}", as_reading(log, tried)
        await asyncio.wrap_future(self.shop_app.writes.submit(self.shop.drafts.keep, place, line))
        self.dismiss(View.READ)

    def action_watch(self) -> None:
        """Watch a start of the latest arrangement."""
        self._enter(Try(self._latest()), watch=True)

    def action_step(self, number: int) -> None:
        """Begin a step of the advice as a try."""
        found = steps(self.tries_log, self.job.card)
        if number <= len(found) and (arrangement := found[number - 1].arrangement) is not None:
            self._enter(Try(arrangement))

    def _latest(self) -> Arrangement:
        log = self.newest_log
        if log.last is not None:
            return log.last.arrangement
        now = self.job.now
        filled = [slot.name for slot in now.reading.slots if slot.module is not None] if now is not None else []
        new = [module.letter for module in log.modules if module.is_new] or [module.letter for module in log.modules]
        return Arrangement(tuple(zip(filled or log.slots, new, strict=False)))

    def _enter(self, begun: Try, watch: bool = False, at: int | None = None) -> None:
        def entered(found: Entered | None) -> None:
            if found is None:
                return
            log = self._stored()
            if found.tried is None:
                self.keep(replace(log, modules=found.modules))
                return
            tries = (*log.tries, found.tried) if at is None else (*log.tries[:at], found.tried, *log.tries[at + 1 :])
            self.keep(replace(log, tries=tries, modules=found.modules), entry if at is None else None)

        self._follows = False
        entry = TryEntryScreen(self.snapshot, self.newest_log, begun, watch, new=at is None, kept_already=self._draft_being_kept)
        self.app.push_screen(entry, entered)

    def _stored(self) -> TryLog:
        """Return the log as it is kept, without what attaches itself."""
        if self._being_kept is not None:
            return self._being_kept
        return self.job.tries.log if self.job.tries is not None else self.tries_log

    def action_look(self, step: int = 1) -> None:
        """Look at the try before or after."""
        count = len(self.tries_log.tries)
        at = (count if step < 0 else -1) if self._chosen is None else self._chosen
        at += step
        self._chosen = at if 0 <= at < count else None
        self.show()

    def action_compare(self) -> None:
        """Mark the try that is looked at, or forget the mark."""
        self._against = None if self._against is not None else self._chosen if self._chosen is not None else len(self.tries_log.tries) - 1
        self.show()

    def action_edit(self) -> None:
        """Correct a try."""
        stored = self._stored()
        at = self._chosen if self._chosen is not None else len(stored.tries) - 1
        self._enter(stored.tries[at], at=at)

    def action_take_back(self) -> None:
        """Take the latest try out; what it said stays as a draft."""
        stored = self._stored()
        self._chosen = None
        self.keep(replace(stored, tries=stored.tries[:-1]))
        self.notify("the latest try was taken out of the log", timeout=4)

    def keep(self, log: TryLog, entry: TryEntryScreen | None = None) -> None:
        """Keep the log, and judge the job again; then forget the entry's draft, which lives until the store has answered."""
        draft = entry.draft_text() if entry is not None else ""
        self._being_kept, self._draft_being_kept = log, draft or self._draft_being_kept

        def answered() -> None:
            # Another log may be on its way already; only the last one replaces what the store has.
            if self._being_kept is log:
                self._being_kept, self._draft_being_kept = None, ""

        def forget() -> None:
            answered()
            if entry is not None:
                self.shop_app.writes.submit(self.shop.drafts.forget, entry.draft_place, draft)

        def refused() -> None:
            answered()
            self._follows = False

        self.change(lambda: self._kept(log), forget, refused)

    def _kept(self, log: TryLog) -> Job:
        """Keep the log. Called off the screen's thread. Raises ShopError."""
        try:
            return self.shop.jobs.keep_tries(self.number, log, self.job.tries.version if self.job.tries else 0)
        except ChangedElsewhereError as error:
            # Somebody else added tries: theirs come first, then what was new here, so that neither is lost.
            both = self._merged(log)
            words = f"{error.what}: both were kept"
            self.app.call_from_thread(self.notify, words, severity="warning", timeout=8)
            return both

    def _merged(self, log: TryLog) -> Job:
        theirs = self.shop.jobs.job(self.number)
        before = self.job.tries.log.tries if self.job.tries else ()
        added = tuple(attempt for attempt in log.tries if attempt not in before)
        stored = theirs.tries.log if theirs.tries is not None else log
        modules = with_corrections(log.modules, stored.modules)
        both = replace(stored, modules=modules, tries=(*stored.tries, *(tried for tried in added if tried not in stored.tries)))
        return self.shop.jobs.keep_tries(theirs.facts.number, both, theirs.tries.version if theirs.tries else 0)

    def action_back(self) -> None:
        """Go back to the latest view of all, then to the job sheet."""
        if self._chosen is not None or self._against is not None:
            self._chosen = self._against = None
            self.show()
            return
        self.dismiss()
