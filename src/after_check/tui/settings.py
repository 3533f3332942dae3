"""What the application remembers between starts: one small TOML file."""

from __future__ import annotations

from pathlib import Path

from after_check.shop.places import settings_path
from after_check.shop.settings import load_settings
from after_check.tui.palette import PALETTES


def load_theme() -> str | None:
    """Return the remembered theme, or None; a broken file is as good as none."""
    remembered = load_settings().theme
    return remembered if remembered in PALETTES else None


def load_soak_memory_bytes() -> int | None:
    """Return the most that a soak may take on this computer (`soak_memory = "2G"`); None for all but the reserve."""
    return load_settings().soak_memory_bytes


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
