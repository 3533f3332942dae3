"""Tests that need a program of the system."""

from __future__ import annotations

import os

import pytest

IN_CI = bool(os.environ.get("CI"))


def needs(present: bool, what: str) -> pytest.MarkDecorator:
    """Leave tests out, and say why, where a program is missing. Not where changes are let in: there they run, and fail without it."""
    return pytest.mark.skipif(not present and not IN_CI, reason=f"needs {what}")
