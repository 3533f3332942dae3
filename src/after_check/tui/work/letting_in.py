"""How a batch's machines are got into: one password for all, one of its own, or a host key that a person compared."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING

from after_check.files.errors import SourceError
from after_check.sources.many import Named, with_kept_passwords
from after_check.sources.trust import Access, PasswordNeededError, TrustNeededError
from after_check.tui.dialogs.ask import AskDialog, Asked
from after_check.tui.dialogs.choose import trust_dialog

if TYPE_CHECKING:
    from after_check.tui.base import ShopScreen


class LettingIn:
    """What is known of the way into each machine, by name; passwords are in memory only, and end with the batch's screen."""

    def __init__(self) -> None:
        self._for_all = Access()
        self._passwords: dict[str, str] = {}
        self._fingerprints: dict[str, str] = {}
        self._needs: dict[str, TrustNeededError | PasswordNeededError] = {}

    def access(self, named: Named) -> Access:
        """Return how to get into a machine."""
        own = replace(self._for_all, password=self._passwords.get(named.name, self._for_all.password))
        return replace(with_kept_passwords(own)(named), accepted_fingerprint=self._fingerprints.get(named.name))

    def heard(self, name: str, problem: SourceError | None) -> None:
        """Take note of what a machine said when it was read."""
        if isinstance(problem, TrustNeededError | PasswordNeededError):
            self._needs[name] = problem
        else:
            self._needs.pop(name, None)

    def wants(self, name: str) -> bool:
        """Return whether a person can do something to get into this machine."""
        return name in self._needs

    def ask_for_all(self, screen: ShopScreen[str]) -> None:
        """Ask for a password for all machines."""

        def given(text: str | None) -> None:
            if text is not None:
                self._for_all = replace(self._for_all, password=text or None)

        question = "Kept until the batch is left, and nowhere else. A machine that has another one is let in with a."
        screen.app.push_screen(AskDialog(Asked("A PASSWORD FOR ALL", question, password=True)), given)

    def ask(self, name: str, screen: ShopScreen[str], then: Callable[[], object]) -> None:
        """Ask for what a machine needs: a look at its host key or certificate, or its password."""
        need = self._needs.get(name)
        if isinstance(need, TrustNeededError):
            fingerprint = need.fingerprint

            def decided(accepted: bool | None) -> None:
                if accepted:
                    self._fingerprints[name] = fingerprint
                    then()

            screen.app.push_screen(trust_dialog(f"{name}: {need}"), decided)
        elif need is not None:

            def given(text: str | None) -> None:
                if text:
                    self._passwords[name] = text
                    then()

            screen.app.push_screen(AskDialog(Asked(f"THE PASSWORD OF {name.upper()}", str(need), password=True)), given)
