"""Keys are done in the order in which they were struck: the next one begins when the one before it has gone its whole way.

The toolkit hands a key to the line that has the focus and goes on with the next one; a key that the line does not take (`tab`, a letter
that is a command of the view) comes back by way of everything around it, behind keys that were struck later. Typed fast, a word would
land in the line that was to be left. Here a key is followed on its way, and what it opens is there before the next one is looked at.
"""

from __future__ import annotations

import asyncio
from collections.abc import Awaitable, Callable
from typing import Any

from textual import events
from textual.app import App, ReturnType
from textual.dom import DOMNode
from textual.message import Message
from textual.message_pump import MessagePump
from textual.screen import Screen

_LONGEST_KEY_SECONDS = 1.0
"""So long one key is followed: what takes longer works on by itself, and keys must not stand still behind it."""
_LONGEST_OPENING_SECONDS = 2.0
_LONGEST_FETCH_SECONDS = 10.0
"""So long keys wait for what another view changed to be fetched; a shop that does not answer is told of sooner."""
_LOOK_SECONDS = 0.005


class KeysInOrder(App[ReturnType]):
    """An application whose keys are done one after the other."""

    def __init__(self, *given: Any, **named: Any) -> None:
        super().__init__(*given, **named)
        self._on_its_way = False
        self._came_back: events.Key | None = None
        self._opened: Screen[object] | None = None

    def post_message(self, message: Message) -> bool:
        """Post a message; a key that comes back from where it was handed to is done at once and not behind those that wait."""
        if self._on_its_way and isinstance(message, events.Key) and message.is_forwarded:
            self._came_back = message
            return True
        return super().post_message(message)

    async def on_event(self, event: events.Event) -> None:
        """Do an event; a key to its end."""
        if not isinstance(event, events.Key) or event.is_forwarded or not self.screen_stack:
            await super().on_event(event)
            return
        await self._within(_LONGEST_OPENING_SECONDS, self._opened_fully)
        await self._within(_LONGEST_FETCH_SECONDS, self._fetched)
        first = self.focused or self.screen
        self._on_its_way, self._came_back = True, None
        try:
            await super().on_event(event)
            await self._within(_LONGEST_KEY_SECONDS, lambda: self._gone_through(first))
        finally:
            self._on_its_way = False
        if (came_back := self._taken_back()) is not None:
            await super().on_event(came_back)

    def _taken_back(self) -> events.Key | None:
        came_back, self._came_back = self._came_back, None
        return came_back

    async def _within(self, seconds: float, wait: Callable[[], Awaitable[None]]) -> None:
        try:
            async with asyncio.timeout(seconds):
                await wait()
        except TimeoutError:
            return

    async def _gone_through(self, first: DOMNode) -> None:
        """Wait until a key has been looked at by what it was handed to, and by all around that."""
        for part in first.ancestors_with_self:
            if part is self or (self._came_back is not None and not isinstance(part, Screen)):
                continue
            await _emptied(part)

    async def _opened_fully(self) -> None:
        """Wait until a view that was put up stands, with the line focused that is its first."""
        screen = self.screen
        if screen is self._opened:
            return
        while not screen.is_mounted:
            if screen is not self.screen:
                return
            await asyncio.sleep(_LOOK_SECONDS)
        await _emptied(screen)
        self._opened = screen

    async def _fetched(self) -> None:
        """Wait until a view that is fetching what another one changed shows it."""
        screen = self.screen
        while screen is self.screen and getattr(screen, "is_fetching", False):
            await asyncio.sleep(_LOOK_SECONDS)


async def _emptied(part: MessagePump) -> None:
    """Wait until a part has done what waits for it by now, or is closed."""
    done = asyncio.Event()
    if not part.is_running or not part.call_later(done.set):
        return
    while not done.is_set() and not (part._closing or part._closed):
        try:
            async with asyncio.timeout(_LOOK_SECONDS):
                await done.wait()
        except TimeoutError:
            continue
