"""What the stick starts on the customer's machine: the visit in a thread, the application on the console."""

from __future__ import annotations

import sys
from pathlib import Path

from after_check.domain.benchmark import BenchmarkRecord
from after_check.domain.identity import MachineIdentity
from after_check.files.tree import Tree
from after_check.files.whole_files import make_private_folder
from after_check.host.reclaim import make_room
from after_check.local.paths import data_folder
from after_check.local.settings import load_settings
from after_check.shop.shop import Shop
from after_check.soak.prepare import prepare
from after_check.sources.firmware_map import wants_measuring
from after_check.stick.contents import StickFolder
from after_check.stick.run import MachineVisit, VisitedMachine

_RESERVE_BYTES = 32 << 20
"""What is left to the stick's own system while the rest is tested: with less, it would read its own program from the stick
again and again. What it seldom needs is packed before (`host/reclaim.py`)."""


def _measured(machine: MachineIdentity) -> BenchmarkRecord:
    from after_check.benchmark.measuring import Benchmark

    return Benchmark(short=True, machine=machine).run()


def _get_ready() -> None:
    """Load the compiled loops, which takes memory for a moment, and then make room."""
    prepare()
    make_room()


def run_on_machine(stick: Path) -> int:
    """Run the visit with its screen; returns when it is left."""
    from after_check.tui.stick_app import OnMachineApp

    folder = StickFolder(stick)
    settings = load_settings(folder.settings_path)
    place = data_folder() / "visit.db"
    make_private_folder(place.parent)
    place.unlink(missing_ok=True)
    files = Tree(Path("/"))
    machine = VisitedMachine(
        files, reserve_bytes=_RESERVE_BYTES, measure=_measured if wants_measuring(files) else None, make_room=_get_ready
    )
    visit = MachineVisit(folder, Shop.open(place), settings, machine)
    if not sys.stdout.isatty():
        visit.run()
        print(visit.state.words)
        return 0
    app = OnMachineApp(visit, place)
    app.run()
    return app.return_code or 0
