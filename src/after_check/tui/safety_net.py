"""The net under every screen: what goes wrong in one of them ends that view and not the program.

The toolkit ends the program with its insides on the screen. Here the fault is written to the log, the views are left,
the bench comes back, and a sentence says so. Drafts and running tests are not touched by it. Faults that come again and
again would be a circle: the third within a short time ends the program, in words.
"""

from __future__ import annotations

import time
from asyncio import CancelledError
from typing import Any

from textual.message import Message
from textual.message_pump import MessagePump
from textual.worker import WorkerFailed

from after_check.local.log import logger
from after_check.local.paths import log_path
from after_check.tui.keys_in_order import KeysInOrder

MOST, WITHIN_SECONDS = 2, 15.0
CAUGHT = "Something went wrong in that view, and it was left. What was typed is kept. The log says what it was: {}"
TOO_MANY = "it stopped because things went wrong again and again. What was typed is kept. The log says what it was: {}"


class Caught(MessagePump):
    """Mixed into whatever takes keys: a message that cannot be handled is told to the application, and the next one is handled."""

    async def _dispatch_message(self, message: Message) -> None:
        try:
            await super()._dispatch_message(message)
        except CancelledError:
            raise
        except Exception as fault:
            if not getattr(self.app, "catches", False):
                raise
            self.app._handle_exception(fault)


class NetApp(Caught, KeysInOrder[None]):
    """An application that gets up again. `catches` is off in tests without a screen, so that nothing is hidden from them."""

    def __init__(self, *given: Any, **named: Any) -> None:
        super().__init__(*given, **named)
        self.catches = False
        self.failure = ""
        self._faults: list[float] = []

    def _handle_exception(self, error: Exception) -> None:
        fault = error.error if isinstance(error, WorkerFailed) else error
        if not self.catches:
            super()._handle_exception(error)
            return
        logger().error("%s", type(fault).__name__, exc_info=fault)
        now = time.monotonic()
        self._faults = [*(moment for moment in self._faults if now - moment < WITHIN_SECONDS), now]
        if len(self._faults) > MOST:
            self.failure = TOO_MANY.format(log_path())
            self.exit(return_code=70)
            return
        # Not from within whatever failed: its own queue of messages may have ended.
        self.set_timer(0.01, self._get_up)

    def _get_up(self) -> None:
        while len(self.screen_stack) > 1:
            self.pop_screen()
        self.come_back()
        self.notify(CAUGHT.format(log_path()), severity="error", timeout=15)

    def come_back(self) -> None:
        """Show where the work goes on after a fault, over the first screen."""
        raise NotImplementedError
