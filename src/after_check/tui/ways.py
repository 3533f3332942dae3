"""Where one can go from a screen, and what can be done there: each key of the screen, every job, the themes."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from typing import cast

from textual.binding import Binding
from textual.screen import Screen
from textual.widgets import Input

from after_check.shop.stored_lines import line_of_entry
from after_check.tui.base import ShopApp
from after_check.tui.dialogs.go_to import Way
from after_check.tui.dialogs.help import key_words
from after_check.tui.screens.bench import BenchScreen
from after_check.tui.theme import THEME_WORDS
from after_check.tui.widgets.bench_list import BenchList


def ways_from(app: ShopApp, screen: Screen[object]) -> tuple[Way, ...]:
    """Return where one can go from a screen."""
    return (*_of_screen(app, screen), *_everywhere(app), *_jobs(app, screen))


def _of_screen(app: ShopApp, screen: Screen[object]) -> Iterator[Way]:
    for binding in screen.BINDINGS:
        if not isinstance(binding, Binding) or not binding.description:
            continue
        name, _, parameter = binding.action.partition("(")
        given = (parameter.rstrip(")").strip("'\""),) if parameter else ()
        if "." not in name and screen.check_action(name, cast("tuple[object, ...]", given)):
            words = f"{binding.description}: {binding.tooltip}" if binding.tooltip else binding.description
            yield Way(words, "here", key_words(binding.key), partial(app.call_later, screen.run_action, binding.action))


def _everywhere(app: ShopApp) -> Iterator[Way]:
    for name, words in THEME_WORDS.items():
        if name != app.theme:
            yield Way(f"{words} theme", "everywhere", "ctrl+t", partial(app.choose_theme, name))
    yield Way("keys of this screen", "everywhere", "?", app.action_help)
    yield Way("leave After Check", "everywhere", "ctrl+q", partial(app.call_later, app.action_quit))


def _jobs(app: ShopApp, screen: Screen[object]) -> Iterator[Way]:
    """Yield the jobs; from a screen with something typed on it nobody is led away."""
    if any(line.value for line in screen.query(Input) if line.id != "search" and line.display):
        return
    bench = next((screen for screen in reversed(app.screen_stack) if isinstance(screen, BenchScreen)), None)
    for entry in bench.entries if bench is not None else ():
        line = line_of_entry(entry.number, entry.line)
        words = " · ".join(part for part in (line.number, line.title, line.machine, line.customer) if part)
        yield Way(words, "job", "", partial(go_to_job, app, entry.number))


def go_to_job(app: ShopApp, number: str) -> None:
    """Leave whatever is open, down to the bench, and open a job."""
    while not isinstance(app.screen, BenchScreen) and len(app.screen_stack) > 1:
        app.pop_screen()
    app.screen.post_message(BenchList.Opened(number))
