"""What every screen and dialog builds on: the application as they know it, its shop, and texts that are being typed."""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeVar, cast

from textual import work
from textual.dom import DOMNode
from textual.screen import ModalScreen, Screen

from after_check.shop.errors import ShopError
from after_check.tui.safety_net import Caught, NetApp

if TYPE_CHECKING:
    from after_check.domain.bench import Groups
    from after_check.domain.identity import MachineIdentity
    from after_check.shop.opening import Opened
    from after_check.shop.outbox import Sent
    from after_check.shop.shop import Shop
    from after_check.soak.soak_run import Wishes
    from after_check.tui.views import View
    from after_check.tui.work.soaks import RunningSoak, SoakRunner

Result = TypeVar("Result")


def _identity_here() -> MachineIdentity:
    """Return what tells this computer from others. Nobody needs it before the first frame, and its readers are many."""
    from after_check.sources.linux import identity_here

    return identity_here()


class ShopApp(NetApp):
    """The application as its screens know it; `app.py` fills it in."""

    shop_path: Path | str
    demo: bool
    sent: Sent | None
    soak_runner: SoakRunner | None
    soak_wishes: Wishes | None
    identity: Callable[[], MachineIdentity] = staticmethod(_identity_here)
    """Returns what tells the machine that this program runs on from others."""
    writes: ThreadPoolExecutor
    """Writes drafts, one after the other."""

    @property
    def shop(self) -> Shop:
        """The open shop; whoever asks while it is being opened waits for that."""
        raise NotImplementedError

    def first_look(self) -> Groups | None:
        """Return the jobs as far as an embedded store shows them before it is opened, or None where only the open shop can tell."""
        raise NotImplementedError

    def look_for_shop(self) -> Opened:
        """Return the shop, newly opened, or what replaces it while its server is away. Raises ShopError."""
        raise NotImplementedError

    def take_shop(self, opened: Opened) -> None:
        """Work with this shop from now on."""
        raise NotImplementedError

    def bench_entries(self) -> Groups:
        """Return every job for the bench by whose turn it is. Called off the screen's thread. Raises ShopError."""
        raise NotImplementedError

    def view(self, name: View, *given: Any) -> Screen[Any]:
        """Return another view, made of what it shows."""
        raise NotImplementedError

    def choose_theme(self, name: str) -> None:
        """Show a theme and remember it."""
        raise NotImplementedError

    def action_help(self) -> None:
        """Show the keys of the present screen."""
        raise NotImplementedError

    def start_soak(self, job: str, soak: RunningSoak) -> None:
        """Start a soak that outlives the screen it was started on."""
        raise NotImplementedError

    def give_up(self, failure: str) -> None:
        """Leave because the store cannot be used."""
        raise NotImplementedError


class ShopScreen(Caught, Screen[Result]):
    """A screen that knows the application and its shop."""

    @property
    def shop_app(self) -> ShopApp:
        """The application, as what it is."""
        return cast("ShopApp", self.app)

    @property
    def shop(self) -> Shop:
        """The open shop."""
        return self.shop_app.shop


def after_typing(screen: Screen[Any], do: Callable[[], object]) -> None:
    """Do something once every key that was pressed before has reached the line that it was typed into.

    A binding that comes before all others is run while what was typed right before it still waits for its line.
    """
    begin = screen.focused or screen
    # Once for the keys that were pressed, and once for what their bindings sent.
    _climb(begin, lambda: _climb(begin, do))


def _climb(node: DOMNode | None, do: Callable[[], object]) -> None:
    """Go up to the application through the queue of each widget, behind every message that goes the same way; then do it."""
    if node is None:
        do()
    else:
        node.call_later(_climb, node.parent, do)


class ShopDialog(ModalScreen[Result], ShopScreen[Result]):
    """A dialog over a screen. The toolkit takes the style of the first base alone, so dialogs come first."""

    # Named whole, as the classes below are in other folders; read with the first dialog, not before the first frame.
    CSS_PATH = Path(__file__).parent / "dialogs" / "dialogs.tcss"


class DraftScreen(ShopScreen[Result]):
    """A screen with something to type on; subclasses name the draft's place and give its text (empty: nothing to keep).

    A screen without a place keeps nothing.

    All drafts are written one after the other, off the screen's thread: what was typed last is what stays, also where
    a screen is left while its last text is on the way.
    """

    draft_place = ""

    def draft_text(self) -> str:
        """Return what is typed so far."""
        raise NotImplementedError

    def keep_draft(self) -> None:
        """Keep what is typed at once: a kill loses nothing that was seen on the screen."""
        if self.draft_place:
            self.keep_soon(self.draft_text())

    @work(exclusive=True, group="draft")
    async def keep_soon(self, text: str) -> None:
        """Keep a text. One that still waits for its turn when another follows is not written: the cancelled wait takes it out."""
        try:
            await asyncio.wrap_future(self.keep_now(text))
        except ShopError as error:
            self.notify(f"the draft is not kept: {error}", severity="warning", timeout=6)

    def keep_now(self, text: str) -> Future[None]:
        """Keep a text behind whatever is being written; returns at once."""
        return self.shop_app.writes.submit(self.shop.drafts.keep, self.draft_place, text)

    async def left_unfinished(self) -> str:
        """Return what was left unfinished here. Raises ShopError."""
        return await asyncio.wrap_future(self.shop_app.writes.submit(self.shop.drafts.text, self.draft_place))

    async def forget_draft(self) -> None:
        """Forget it, as it was kept for good. Raises ShopError."""
        self.workers.cancel_group(self, "draft")
        await asyncio.wrap_future(self.keep_now(""))


class DraftDialog(ShopDialog[Result], DraftScreen[Result]):
    """A dialog with something to type on."""
