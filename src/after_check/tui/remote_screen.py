"""Mixed into a screen whose work may run on a machine over SSH: how to get in is asked until it is known, then it begins."""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING, cast

from textual.screen import Screen

from after_check.files.errors import SourceError
from after_check.sources.trust import Access, PasswordNeededError, TrustNeededError, kept_password
from after_check.tui.dialogs.ask import AskDialog, Asked
from after_check.tui.dialogs.choose import ConfirmDialog, trust_dialog

if TYPE_CHECKING:
    from after_check.remote.target import Target

Reached = Callable[[Access, bool], None]
"""Called with the way in, and whether After Check is to be brought along."""


class OnThere:
    """Leads to a machine behind an address."""

    def reach(self, address: str, then: Reached, access: Access | None = None) -> None:
        """Look what is at an address, asking about its key, for its password, and before anything is put there."""
        screen = cast("Screen[object]", self)
        given = access or Access(password=kept_password(address))
        screen.run_worker(self._look(screen, address, given, then), group="there", exclusive=True)

    async def _look(self, screen: Screen[object], address: str, access: Access, then: Reached) -> None:
        from after_check.remote.target import look_there, may_bring

        screen.notify(f"connecting to {address}", timeout=4)
        try:
            target = await asyncio.to_thread(look_there, address, access)
            if target.has_program:
                then(access, False)
                return
            may_bring(target, address)
        except TrustNeededError as needed:
            self._ask_trust(screen, address, access, needed, then)
        except PasswordNeededError as needed:
            self._ask_password(screen, address, access, needed, then)
        except SourceError as problem:
            screen.notify(str(problem), severity="error", timeout=12)
        else:
            self._ask_to_bring(screen, target, access, then)

    def _ask_trust(self, screen: Screen[object], address: str, access: Access, needed: TrustNeededError, then: Reached) -> None:
        def decided(accepted: bool | None) -> None:
            if accepted:
                self.reach(address, then, replace(access, accepted_fingerprint=needed.fingerprint))

        screen.app.push_screen(trust_dialog(str(needed)), decided)

    def _ask_password(self, screen: Screen[object], address: str, access: Access, needed: PasswordNeededError, then: Reached) -> None:
        def said(password: str | None) -> None:
            if password:
                self.reach(address, then, replace(access, password=password))

        screen.app.push_screen(AskDialog(Asked("THE PASSWORD", str(needed), password=True)), said)

    def _ask_to_bring(self, screen: Screen[object], target: Target, access: Access, then: Reached) -> None:
        def decided(agreed: bool | None) -> None:
            if agreed:
                then(access, True)

        there = f"There is version {target.version} of After Check" if target.version else "After Check is not there"
        question = f"{there}. It can be brought along into {target.folder}, about 300 MB, and is taken away when the test is over."
        screen.app.push_screen(ConfirmDialog("BRING AFTER CHECK ALONG?", question, "bring it along", "leave it"), decided)
