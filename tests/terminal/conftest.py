"""A terminal for a test, closed behind it."""

from __future__ import annotations

import pytest

from tests.helpers.terminal import Terminal


@pytest.fixture
def terminal(tmp_path):
    opened = []

    def start(*arguments, size=(128, 40)):
        opened.append(Terminal(tmp_path, *arguments, size=size))
        return opened[-1]

    yield start
    for screen in opened:
        screen.close()
