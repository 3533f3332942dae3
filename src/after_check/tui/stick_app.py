"""The application as the stick starts it: the visit first, then, if wanted, everything else with the same job."""

from __future__ import annotations

import os
import subprocess
import threading
from pathlib import Path
from typing import Any

from textual.screen import Screen

from after_check.stick.run import MachineVisit
from after_check.tui.app import AfterCheckApp
from after_check.tui.screens.bench import BenchScreen
from after_check.tui.screens.on_machine import OnMachineScreen
from after_check.tui.theme import CONSOLE_THEME

_COMMANDS = {"off": ("systemctl", "poweroff"), "again": ("systemctl", "reboot")}


class OnMachineApp(AfterCheckApp):
    """After Check on the customer's machine."""

    def __init__(self, visit: MachineVisit, shop_path: Path) -> None:
        super().__init__(shop_path)
        self._visit = visit
        if os.environ.get("TERM") == "linux":
            self.theme = CONSOLE_THEME

    def get_default_screen(self) -> Screen[Any]:
        """Begin with nothing: the visit comes first, and the bench where somebody asks for it."""
        return Screen()

    def begin(self) -> None:
        """Begin the visit, and show it."""
        threading.Thread(target=self._visit.run, name="visit", daemon=True).start()
        self.push_screen(OnMachineScreen(self._visit), self._left)

    def come_back(self) -> None:
        """The visit goes on by itself; its screen comes back."""
        self.push_screen(OnMachineScreen(self._visit), self._left)

    def _left(self, what: str | None) -> None:
        if what in _COMMANDS:
            subprocess.run(_COMMANDS[what], check=False)
            self.exit()
        else:
            self.push_screen(BenchScreen())
