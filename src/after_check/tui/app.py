"""The application: opens the shop, holds the themes, and leads from the bench to everything else."""

from __future__ import annotations

import asyncio
import threading
from concurrent.futures import Future
from pathlib import Path, PurePath
from typing import TYPE_CHECKING, Any, ClassVar

from textual.binding import Binding, BindingType
from textual.notifications import SeverityLevel
from textual.screen import ModalScreen, Screen

from after_check.local.settings import load_settings, save_theme
from after_check.shop.stored_lines import first_look
from after_check.tui.base import ShopApp
from after_check.tui.leaving import LEAVE_SECONDS, StoreThreads
from after_check.tui.screens.bench import BenchScreen
from after_check.tui.theme import DEFAULT_THEME, THEME_WORDS, named_styles, themes
from after_check.tui.views import View, make_view

if TYPE_CHECKING:
    from after_check.domain.bench import Groups
    from after_check.domain.soak import SoakRecord
    from after_check.shop.opening import Opened
    from after_check.shop.outbox import Sent
    from after_check.shop.shop import Shop
    from after_check.soak.soak_run import Wishes
    from after_check.tui.work.soaks import RunningSoak, SoakRunner
    from after_check.tui.worker_messages import SoakMoved

EXIT_STORE = 74
_LONGEST_OPENING_SECONDS = 30
_LEAVING = "leaving"
_COMPILED_AFTER_SECONDS = 3.0


class AfterCheckApp(ShopApp):
    """After Check on a store of jobs."""

    TITLE = "After Check"
    # With the first screen's own: a screen that brings a file has everything laid out once more.
    CSS_PATH: ClassVar[list[str | PurePath]] = ["app.tcss", "screens/bench.tcss"]
    ENABLE_COMMAND_PALETTE = False
    HORIZONTAL_BREAKPOINTS = [(0, "-narrow"), (104, "-normal"), (170, "-wide")]  # noqa: RUF012
    VERTICAL_BREAKPOINTS = [(0, "-low"), (32, "-high")]  # noqa: RUF012

    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("question_mark", "help", "keys", priority=False),
        Binding("f1", "help", "keys", show=False),
        Binding("ctrl+p", "go_to", "go to", show=False),
        Binding("ctrl+t", "next_theme", "theme", show=False),
        Binding("ctrl+q", "quit", "quit", show=False),
        Binding("ctrl+c", "quit", "quit", show=False, priority=True),
    ]

    def __init__(self, shop_path: Path | str, demo: bool = False, looks: Future[Groups | None] | None = None) -> None:
        """`looks` is a first look at the store that was begun while the toolkit was loaded."""
        super().__init__()
        self.shop_path = shop_path
        self.demo = demo
        self._shop: Shop | None = None
        self._looks = looks
        self._named_styles = False
        self.writes = StoreThreads("drafts", 1)
        self.sent: Sent | None = None
        self._shop_is_open = threading.Event()
        self.soak_runner: SoakRunner | None = None
        self.soak_wishes: Wishes | None = None
        for theme in themes():
            self.register_theme(theme)
        remembered = load_settings().theme
        self.theme = remembered if remembered in THEME_WORDS else DEFAULT_THEME
        self._sheets_are_read_for = self.theme
        self.stylesheet.set_variables(self.get_css_variables())

    @property
    def shop(self) -> Shop:
        """The open shop; whoever asks while the bench is still opening it waits for that."""
        if not self._shop_is_open.wait(_LONGEST_OPENING_SECONDS) or self._shop is None:
            raise RuntimeError("the shop did not open")
        return self._shop

    @property
    def is_shop_open(self) -> bool:
        """Whether the jobs can be had without waiting."""
        return self._shop is not None

    def first_look(self) -> Groups | None:
        """Return what the first screen can show before the shop is open."""
        begun, self._looks = self._looks, None
        return begun.result() if begun is not None else first_look(self.shop_path)

    def look_for_shop(self) -> Opened:
        """Return the shop, newly opened, or what replaces it while its server is away. Raises ShopError."""
        from after_check.tui.work.shop import open_shop

        return open_shop(self.shop_path, self.demo)

    def bench_entries(self) -> Groups:
        """Return every job for the bench by whose turn it is. Raises ShopError."""
        from after_check.tui.work.shop import bench_entries

        entries, sent = bench_entries(self.shop)
        self.sent = sent if sent.jobs or sent.problems else self.sent
        return entries

    def take_shop(self, opened: Opened) -> None:
        """Work with this shop from now on."""
        before, self._shop = self._shop, opened.shop
        self.sent = opened.sent
        self._shop_is_open.set()
        if before is not None:
            before.close()

    def watch_theme(self, theme: str) -> None:
        """Give drawn text the colours of the theme."""
        if self._named_styles:
            self.console.pop_theme()
        self.console.push_theme(named_styles(theme))
        self._named_styles = True

    def on_load(self) -> None:
        """Prepare what the first screen needs to be drawn."""
        asyncio.get_running_loop().set_default_executor(StoreThreads("work"))
        self.watch_theme(self.theme)

    def get_default_screen(self) -> Screen[Any]:
        """Begin with the bench: over an empty screen of the toolkit everything would be laid out twice before it is seen."""
        return BenchScreen()

    def refresh_css(self, animate: bool = True) -> None:
        """Read the style sheets again for another theme. The toolkit asks for it at the start too: then they are read for it already."""
        first, self._sheets_are_read_for = self._sheets_are_read_for, ""
        if first != self.theme:
            super().refresh_css(animate)

    def on_mount(self) -> None:
        """Begin."""
        self.catches = not self.is_headless
        self.begin()
        if not self.is_headless:
            self.set_timer(_COMPILED_AFTER_SECONDS, self._compile_behind)

    def _compile_behind(self) -> None:
        from after_check.tui.work.compiling import compile_behind

        self.run_worker(compile_behind, thread=True)

    def begin(self) -> None:
        """Show what comes first of all; the bench is there already."""

    def come_back(self) -> None:
        """Show a new bench over the first one, which may be what failed and does nothing while it is covered."""
        self.push_screen(BenchScreen())

    def on_unmount(self) -> None:
        """Let the last draft reach the disk, and what a memory test found."""
        if self.soak_runner is not None:
            self.soak_runner.stop_and_wait(LEAVE_SECONDS)
        self.writes.shutdown(wait=True)

    def give_up(self, failure: str) -> None:
        """Leave because the store cannot be used; the words are printed once the screen is gone."""
        self.failure = failure
        self.exit(return_code=EXIT_STORE)

    def start_soak(self, job: str, soak: RunningSoak) -> None:
        """Start a soak that outlives the screen it was started on."""
        from after_check.tui.work.soaks import SoakRunner

        self.soak_runner = SoakRunner(job, soak, self.tell_soak)
        self.soak_runner.start()

    def tell_soak(self, job: str, record: SoakRecord) -> None:
        """Post how a soak stands; called from the thread that watches it."""
        from after_check.tui.worker_messages import SoakMoved

        self.post_message(SoakMoved(job, record))

    def view(self, name: View, *given: Any) -> Screen[Any]:
        """Return a view, made of what it shows."""
        return make_view(name, *given)

    def on_soak_moved(self, message: SoakMoved) -> None:
        """Tell the screen that is shown."""
        # Once the program closes there may be none, and the thread that watches still tells.
        follow = getattr(self.screen_stack[-1], "soak_moved", None) if self.screen_stack else None
        if follow is not None:
            follow(message)

    async def action_quit(self) -> None:
        """Leave; a running soak is asked about first."""
        runner = self.soak_runner
        if runner is None or not runner.is_running:
            self.exit()
            return
        from after_check.tui.dialogs.choose import ConfirmDialog

        record = runner.soak.record
        question = f"The {record.plan} memory test is at {record.share:.0%}. Leaving stops it; what it found is kept."
        if self.screen.name != _LEAVING:
            self.push_screen(ConfirmDialog("A SOAK RUNS", question, "stop it and leave", "stay", name=_LEAVING), self._leave)

    def _leave(self, sure: bool | None) -> None:
        if sure and self.soak_runner is not None:
            self.soak_runner.stop_and_wait()
            self.exit()

    def notify(
        self,
        message: str,
        *,
        title: str = "",
        severity: SeverityLevel = "information",
        timeout: float | None = None,
        markup: bool = False,
    ) -> None:
        """Show a notice, and log one about a failure. Never as markup: what it says may come from a file or a person."""
        if severity == "error":
            from after_check.local.log import logger

            logger().error("%s", message)
        super().notify(message, title=title, severity=severity, timeout=timeout, markup=False)

    def action_help(self) -> None:
        """Show the keys of the present screen."""
        from after_check.tui.dialogs.help import HelpScreen

        if not isinstance(self.screen, HelpScreen):
            self.push_screen(HelpScreen(self.screen))

    def action_next_theme(self) -> None:
        """Go to the next theme and remember it."""
        names = list(THEME_WORDS)
        following = names[(names.index(self.theme) + 1) % len(names)] if self.theme in names else DEFAULT_THEME
        self.choose_theme(following)

    def choose_theme(self, name: str) -> None:
        """Show a theme and remember it."""
        self.theme = name
        save_theme(name)
        self.notify(f"theme: {THEME_WORDS[name]}", timeout=2)

    def action_go_to(self) -> None:
        """Go anywhere by typing a part of its name."""
        if isinstance(self.screen, ModalScreen):
            return
        # Fuzzy search is not needed for the first frame.
        from after_check.tui.dialogs.go_to import GoToDialog, Way
        from after_check.tui.ways import ways_from

        def chosen(way: Way | None) -> None:
            if way is not None:
                way.go()

        self.push_screen(GoToDialog(ways_from(self, self.screen)), chosen)
