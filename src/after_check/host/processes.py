"""Which process of which computer does a piece of long work, and whether it still lives."""

from __future__ import annotations

import os
import platform


def this_process() -> str:
    """Return the computer and the number of this process, by which others tell whether it still lives."""
    return f"{platform.node()} {os.getpid()}"


def has_died(process: str) -> bool:
    """Whether a process is known to be gone; False where it ran on another computer, or nobody can tell."""
    node, _, number = process.rpartition(" ")
    if node != platform.node() or not number.isdigit() or os.name != "posix":
        return False
    try:
        os.kill(int(number), 0)
    except ProcessLookupError:
        return True
    except (OSError, OverflowError):
        return False
    return False
