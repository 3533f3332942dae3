"""The application: opens the shop, holds the themes, and leads from the bench to everything else."""

from __future__ import annotations

import threading
from pathlib import Path
from typing import TYPE_CHECKING, ClassVar

from textual.app import App
from textual.binding import Binding, BindingType
from textual.notifications import SeverityLevel
from textual.screen import ModalScreen

from after_check.tui.bench.screen import BenchScreen
from after_check.tui.help import HelpScreen
from after_check.tui.palette import DEFAULT_THEME, THEME_WORDS, Palette, palette_of, themes
from after_check.tui.settings import load_theme, save_theme

if TYPE_CHECKING:
    from after_check.domain.soak import SoakRecord
    from after_check.shop.meanwhile import Opened
    from after_check.shop.store import Shop
    from after_check.soak.engine import Wishes
    from after_check.tui.soak.messages import SoakMoved
    from after_check.tui.soak.runner import RunningSoak, SoakRunner

EXIT_STORE = 74
_LONGEST_OPENING_SECONDS = 30


class AfterCheckApp(App[None]):
    """After Check on a store of jobs."""

    TITLE = "After Check"
    CSS_PATH = "app.tcss"
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

    def __init__(self, shop_path: Path | str, demo: bool = False) -> None:
        super().__init__()
        self.shop_path = shop_path
        self.demo = demo
        self.failure = ""
        self._shop: Shop | None = None
        self.jobs_brought = 0
        self.shop_problems: tuple[str, ...] = ()
        self._shop_is_open = threading.Event()
        self.soak_runner: SoakRunner | None = None
        self.soak_wishes: Wishes | None = None
        for theme in themes():
            self.register_theme(theme)
        self.theme = load_theme() or DEFAULT_THEME

    @property
    def shop(self) -> Shop:
        """The open shop; whoever asks while the bench is still opening it waits for that."""
        if not self._shop_is_open.wait(_LONGEST_OPENING_SECONDS) or self._shop is None:
            raise RuntimeError("the shop did not open")
        return self._shop

    @property
    def palette(self) -> Palette:
        """The colours of the present theme."""
        return palette_of(self.theme)

    def open_shop(self) -> None:
        """Open the store, and fill the demo shop. Slow parts are imported here, off the screen's thread."""
        from after_check.shop.engine import is_server
        from after_check.shop.store import Shop

        if is_server(self.shop_path):
            from after_check.shop.meanwhile import open_or_go_on

            self.take_shop(open_or_go_on(self.shop_path))
            return
        shop = Shop.open(self.shop_path)
        if self.demo:
            from after_check.shop.demo import fill

            fill(shop)
        self._shop = shop
        self._shop_is_open.set()

    def take_shop(self, opened: Opened) -> None:
        """Work with this shop from now on."""
        before, self._shop = self._shop, opened.shop
        self.shop_problems = opened.problems
        self.jobs_brought = opened.brought
        self._shop_is_open.set()
        if before is not None:
            before.close()

    def on_mount(self) -> None:
        """Show the bench."""
        self.push_screen(BenchScreen())

    def give_up(self, failure: str) -> None:
        """Leave because the store cannot be used; the words are printed once the screen is gone."""
        self.failure = failure
        self.exit(return_code=EXIT_STORE)

    def start_soak(self, job: str, soak: RunningSoak) -> None:
        """Start a soak that outlives the screen it was started on."""
        from after_check.tui.soak.runner import SoakRunner

        self.soak_runner = SoakRunner(job, soak, self.tell_soak)
        self.soak_runner.start()

    def tell_soak(self, job: str, record: SoakRecord) -> None:
        """Post how a soak stands; called from the thread that watches it."""
        from after_check.tui.soak.messages import SoakMoved

        self.post_message(SoakMoved(job, record))

    def on_soak_moved(self, message: SoakMoved) -> None:
        """Tell the screen that is shown."""
        follow = getattr(self.screen, "soak_moved", None)
        if follow is not None:
            follow(message)

    async def action_quit(self) -> None:
        """Leave; a running soak is asked about first."""
        runner = self.soak_runner
        if runner is None or not runner.is_running:
            self.exit()
            return
        from after_check.tui.soak.leave import LeaveDialog

        if not isinstance(self.screen, LeaveDialog):
            self.push_screen(LeaveDialog(runner.soak.record), self._leave)

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
            from after_check.shop.log import logger

            logger().error("%s", message)
        super().notify(message, title=title, severity=severity, timeout=timeout, markup=False)

    def action_help(self) -> None:
        """Show the keys of the present screen."""
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
        from after_check.tui.go_to import GoToDialog, Way, ways_from

        def chosen(way: Way | None) -> None:
            if way is not None:
                way.go()

        self.push_screen(GoToDialog(ways_from(self, self.screen)), chosen)
