"""Text that is being typed, kept in the shop while it is typed: a program that was killed brings it back."""

from __future__ import annotations

import asyncio

from textual import work

from after_check.shop.errors import ShopError
from after_check.tui.base import Result, ShopScreen

_PAUSE_SECONDS = 0.3


class DraftScreen(ShopScreen[Result]):
    """A screen with something to type on; subclasses name the draft's place and give its text (empty: nothing to keep)."""

    draft_place = ""

    def draft_text(self) -> str:
        """Return what is typed so far."""
        raise NotImplementedError

    def keep_draft(self) -> None:
        """Keep what is typed after a short pause, so that a kill loses next to nothing."""
        self.keep_soon(self.draft_text())

    @work(exclusive=True, group="draft")
    async def keep_soon(self, text: str) -> None:
        """Keep a text, unless another one follows at once. It was taken before the pause: the screen may be gone after it."""
        await asyncio.sleep(_PAUSE_SECONDS)
        try:
            await asyncio.to_thread(self.shop.keep_draft, self.draft_place, text)
        except ShopError as error:
            self.notify(f"the draft is not kept: {error}", severity="warning", timeout=6)

    async def left_unfinished(self) -> str:
        """Return what was left unfinished here. Raises ShopError."""
        return await asyncio.to_thread(self.shop.draft, self.draft_place)

    async def forget_draft(self) -> None:
        """Forget it, as it was kept for good. Raises ShopError."""
        self.workers.cancel_group(self, "draft")
        await asyncio.to_thread(self.shop.keep_draft, self.draft_place, "")
