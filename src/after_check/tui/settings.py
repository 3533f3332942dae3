"""What the application remembers between starts: one small TOML file."""

from __future__ import annotations

import tomllib

from after_check.shop.places import settings_path
from after_check.tui.palette import PALETTES


def load_theme() -> str | None:
    """Return the remembered theme, or None; a broken file is as good as none."""
    try:
        remembered = tomllib.loads(settings_path().read_text(encoding="utf-8")).get("theme")
    except (OSError, ValueError):
        return None
    return remembered if remembered in PALETTES else None


def save_theme(name: str) -> None:
    """Remember a theme; a place that cannot be written to is no reason to stop."""
    path = settings_path()
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(f'theme = "{name}"\n', encoding="utf-8")
    except OSError:
        return
