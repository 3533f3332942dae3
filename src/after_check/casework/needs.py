"""What the shop's settings ask for before a job counts as ready. Apart from judging, as commands need this alone."""

from __future__ import annotations

from after_check.domain.case_files import Needs
from after_check.local.settings import load_settings


def needs_of_the_shop() -> Needs:
    """Return what the settings ask for; read once, where a shop is opened or a command begins."""
    return Needs(*load_settings().ready)
