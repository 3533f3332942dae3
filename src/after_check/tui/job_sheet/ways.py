"""The ways from the job sheet to the other views of a job. Each view is imported when somebody first goes there."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from textual.screen import Screen

from after_check.tui.job_sheet.snapshot import JobSnapshot


def _read(snapshot: JobSnapshot) -> Screen[Any]:
    from after_check.tui.reading.screen import ReadingScreen

    return ReadingScreen(snapshot.job)


def _promise(snapshot: JobSnapshot) -> Screen[Any]:
    from after_check.tui.editor.screen import JobEditorScreen

    return JobEditorScreen(snapshot.job)


def _modules(snapshot: JobSnapshot) -> Screen[Any]:
    from after_check.tui.modules.screen import ModulesScreen

    return ModulesScreen(snapshot)


def _ceilings(snapshot: JobSnapshot) -> Screen[Any]:
    from after_check.tui.ceilings.screen import CeilingsScreen

    return CeilingsScreen(snapshot)


def _compare(snapshot: JobSnapshot) -> Screen[Any]:
    from after_check.tui.compare.screen import CompareScreen

    return CompareScreen(snapshot)


def _card(snapshot: JobSnapshot) -> Screen[Any]:
    from after_check.tui.card.screen import CardScreen

    return CardScreen(snapshot.job)


def _soak(snapshot: JobSnapshot) -> Screen[Any]:
    from after_check.tui.soak.screen import SoakScreen

    return SoakScreen(snapshot)


def _gauge(snapshot: JobSnapshot) -> Screen[Any]:
    from after_check.tui.gauge.screen import GaugeScreen

    return GaugeScreen(snapshot)


def _demand(snapshot: JobSnapshot) -> Screen[Any]:
    from after_check.tui.demand.screen import DemandScreen

    return DemandScreen(snapshot)


def _tries(snapshot: JobSnapshot) -> Screen[Any]:
    from after_check.tui.tries.screen import TriesScreen

    return TriesScreen(snapshot)


def _hand_back(snapshot: JobSnapshot) -> Screen[Any]:
    from after_check.tui.hand_back.screen import HandBackScreen

    return HandBackScreen(snapshot)


WAYS: Mapping[str, Callable[[JobSnapshot], Screen[Any]]] = {
    "read": _read,
    "promise": _promise,
    "modules": _modules,
    "ceilings": _ceilings,
    "compare": _compare,
    "card": _card,
    "soak": _soak,
    "gauge": _gauge,
    "demand": _demand,
    "tries": _tries,
    "hand back": _hand_back,
}
