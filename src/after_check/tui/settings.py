"""What the application remembers between starts: one small TOML file."""

from __future__ import annotations

import tomllib
from pathlib import Path
from typing import Any

from after_check.domain.quantities import parse_size
from after_check.shop.places import settings_path
from after_check.tui.palette import PALETTES


def load_theme() -> str | None:
    """Return the remembered theme, or None; a broken file is as good as none."""
    remembered = _settings().get("theme")
    return remembered if remembered in PALETTES else None


def load_soak_memory_bytes() -> int | None:
    """Return the most that a soak may take on this computer (`soak_memory = "2G"`); None for all but the reserve."""
    remembered = _settings().get("soak_memory")
    return parse_size(remembered) if isinstance(remembered, str) else None


def _settings() -> dict[str, Any]:
    try:
        return tomllib.loads(settings_path().read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return {}


def save_theme(name: str) -> None:
    """Remember a theme; a place that cannot be written to is no reason to stop."""
    path = settings_path()
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        kept = [line for line in _lines(path) if not line.replace(" ", "").startswith("theme=")]
        path.write_text("\n".join([f'theme = "{name}"', *kept]) + "\n", encoding="utf-8")
    except OSError:
        return


def _lines(path: Path) -> list[str]:
    try:
        return path.read_text(encoding="utf-8").splitlines()
    except OSError:
        return []
