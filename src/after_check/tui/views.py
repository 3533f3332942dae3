"""The views by name, and how each is made. A view's file is imported when somebody first goes there.

This is the one place where views are imported late: together they take longer than the first frame may.
"""

from __future__ import annotations

from enum import StrEnum
from importlib import import_module
from typing import Any

from textual.screen import Screen


class View(StrEnum):
    """Where one can go, by the name that keys and commands use."""

    BATCH = "batch"
    JOB_SHEET = "job sheet"
    EDITOR = "promise"
    BEFORE = "before fitting"
    READ = "read"
    MODULES = "modules"
    CEILINGS = "ceilings"
    COMPARE = "compare"
    CARD = "card"
    SOAK = "soak"
    BENCHMARK = "benchmark"
    DEMAND = "demand"
    TRIES = "tries"
    HAND_BACK = "hand back"
    HANDS = "hands"


PLACES = {
    View.BATCH: "batch:BatchScreen",
    View.JOB_SHEET: "job_sheet:JobSheetScreen",
    View.EDITOR: "editor:JobEditorScreen",
    View.BEFORE: "before_fitting:BeforeFittingScreen",
    View.READ: "reading:ReadingScreen",
    View.MODULES: "modules:ModulesScreen",
    View.CEILINGS: "ceilings:CeilingsScreen",
    View.COMPARE: "compare:CompareScreen",
    View.CARD: "card:CardScreen",
    View.SOAK: "soak:SoakScreen",
    View.BENCHMARK: "benchmark:BenchmarkScreen",
    View.DEMAND: "demand:DemandScreen",
    View.TRIES: "tries:TriesScreen",
    View.HAND_BACK: "hand_back:HandBackScreen",
    View.HANDS: "hands:HandsScreen",
}
TAKES_THE_JOB = frozenset({View.EDITOR, View.READ, View.CARD})
"""Views that are made of the job itself; the others of its snapshot."""


def make_view(name: View, *given: Any) -> Screen[Any]:
    """Return a view, made of what it shows."""
    module, _, screen = PLACES[name].partition(":")
    made: Screen[Any] = getattr(import_module(f"after_check.tui.screens.{module}"), screen)(*given)
    return made
