"""Compiling the loops of tests behind the first screen, in a process of its own that gives way to everything else."""

from __future__ import annotations

import os
import subprocess
import sys
from contextlib import suppress

from after_check.local.compiled import is_compiled

_GIVING_WAY = 15


def compile_behind() -> None:
    """Compile what is not compiled yet; where that fails, the first test does it."""
    if is_compiled():
        return
    with suppress(OSError):
        command = [sys.executable, "-m", "after_check.cli.prepare"]
        process = subprocess.Popen(command, stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        if hasattr(os, "setpriority"):
            os.setpriority(os.PRIO_PROCESS, process.pid, _GIVING_WAY)
        process.wait()
