"""Mixed into the bench: a stick that is plugged in is seen, collected from and loaded."""

from __future__ import annotations

import asyncio
from pathlib import Path
from typing import TYPE_CHECKING, cast

from after_check.domain.quantities import counted
from after_check.files.errors import SourceError
from after_check.local.settings import load_settings
from after_check.shop.errors import ShopError
from after_check.tui.dialogs.choose import ChooseDialog

if TYPE_CHECKING:
    from after_check.tui.base import ShopScreen

LOOK_SECONDS = 4.0


class StickHere:
    """Offers a key while a stick is plugged in."""

    stick: Path | None = None
    """Where the stick's partition is mounted."""

    def look_for_stick(self) -> None:
        """See whether a stick came or went."""
        screen = self._screen()
        if screen.is_current:
            screen.run_worker(self._look(screen), group="stick seen", exclusive=True)

    def _screen(self) -> ShopScreen[None]:
        return cast("ShopScreen[None]", self)

    async def _look(self, screen: ShopScreen[None]) -> None:
        found = await asyncio.to_thread(stick_here)
        if found == self.stick:
            return
        came = found is not None
        self.stick = found
        screen.refresh_bindings()
        if came:
            screen.notify(f"a stick of After Check is here ({found}): u collects from it and loads it", timeout=8)

    def collected(self) -> None:
        """What is to be done when jobs came in."""
        raise NotImplementedError

    def action_stick(self) -> None:
        """Ask what to do with the stick."""
        place, screen = self.stick, self._screen()
        if place is None:
            return

        def chosen(key: str | None) -> None:
            if key is not None:
                screen.run_worker(self._do(screen, key, place), group="stick", exclusive=True)

        answers = (("c", "collect what it found"), ("l", "load all jobs that are not handed back"), ("a", "collect, also of another shop"))
        screen.app.push_screen(ChooseDialog("THE STICK", str(place), answers), chosen)

    async def _do(self, screen: ShopScreen[None], key: str, place: Path) -> None:
        try:
            words = await asyncio.to_thread(self._done, screen, key, place)
        except (SourceError, ShopError, OSError) as problem:
            screen.notify(str(problem), severity="error", timeout=12)
            return
        screen.notify(words, timeout=10)
        self.collected()

    @staticmethod
    def _done(screen: ShopScreen[None], key: str, place: Path) -> str:
        from after_check.stick.contents import StickFolder
        from after_check.stick.load import collect_stick, load_stick

        folder = StickFolder(place)
        if key == "l":
            loaded = load_stick(screen.shop, folder, (), True, load_settings())
            return f"{counted(loaded.jobs, 'job')} and {counted(loaded.cards, 'data sheet')} are on the stick"
        found = collect_stick(screen.shop, folder, any_shop=key == "a")
        said = [f"job {number} {became}" for number, became in found.jobs] or ["nothing is on the stick"]
        return "; ".join([*said, *found.problems])


def stick_here() -> Path | None:
    """Return where one stick is mounted, or None: there is none, or more than one."""
    from after_check.stick.load import find_stick

    try:
        return find_stick()
    except SourceError:
        return None
