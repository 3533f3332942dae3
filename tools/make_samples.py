"""Writes the sample machines of the demo shop as copied `/sys` and `/proc` trees.

Run after changing a machine in `standins/machines.py`: `.venv/bin/python tools/make_samples.py`. The readings that
were typed are in the sample folders themselves, as lines of notation.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from after_check.standins.machines import ADDED, LARGE, MACHINES, Bench

SAMPLES = Path(__file__).parent.parent / "src" / "after_check" / "samples"


def after(number: str, slot: str, module: object, usable_kib: int) -> Bench:
    """Return a machine with a module put into one of its slots, started again."""
    bench = MACHINES[number]()
    bench.put_in(slot, module)  # type: ignore[arg-type]
    bench.restart()
    bench.usable_kib = usable_kib
    return bench


def server_on_arrival() -> Bench:
    """Return the camera-trap server with its four old modules."""
    bench = MACHINES["0419"]()
    for slot in bench.fitted:
        if slot[0] not in "AEBF":
            bench.take_out(slot)
    bench.restart()
    bench.usable_kib = 131_729_400
    return bench


def server_after_fitting() -> Bench:
    """Return the camera-trap server with slot D1 not seen."""
    bench = MACHINES["0419"]()
    bench.usable_kib = 230_781_100
    return bench


TREES: dict[str, Callable[[], Bench]] = {
    "0417/arrival": MACHINES["0417"],
    "0418/arrival": MACHINES["0418"],
    "0418/fitted": lambda: after("0418", "ChannelB-DIMM0", ADDED, 16_240_916),
    "0419/arrival": server_on_arrival,
    "0419/fitted": server_after_fitting,
    "0420/arrival": MACHINES["0420"],
    "0420/fitted": lambda: after("0420", "DIMM 1", LARGE, 20_407_532),
}

if __name__ == "__main__":
    for name, make in TREES.items():
        make().write_tree(SAMPLES / name)
        print(SAMPLES / name)
