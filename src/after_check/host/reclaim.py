"""Making room: what programs hold and do not need at the moment is packed or dropped by the system, so that it can be tested.

Linux: `memory.reclaim` of a control group of version 2 (the kernel's cgroup-v2 document, "Memory Interface Files").
Where it is not there, or the system has nothing to pack it into, nothing happens.
"""

from __future__ import annotations

from pathlib import Path

_STEP_BYTES = 8 << 20
_STEPS = 64


def make_room(root: Path = Path("/sys/fs/cgroup")) -> int:
    """Ask the system to pack what all groups beneath the root hold; returns how many bytes it was asked for and gave."""
    freed = 0
    for place in sorted(root.glob("*/memory.reclaim")):
        for _ in range(_STEPS):
            try:
                place.write_text(str(_STEP_BYTES), encoding="ascii")
            except OSError:
                break  # It could not free as much: there is no more.
            freed += _STEP_BYTES
    return freed
