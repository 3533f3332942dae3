"""Where a shop's files are on this computer."""

from __future__ import annotations

import os
from pathlib import Path


def default_shop_path() -> Path:
    """Return the file of the embedded store; AFTER_CHECK_SHOP names another."""
    named = os.environ.get("AFTER_CHECK_SHOP")
    return Path(named).expanduser() if named else _data_folder() / "shop.db"


def demo_shop_path() -> Path:
    """Return the file of the demo shop."""
    return _data_folder() / "demo.db"


def settings_path() -> Path:
    """Return the file of the settings that the program remembers."""
    import platformdirs

    return Path(platformdirs.user_config_dir("after-check")) / "settings.toml"


def _data_folder() -> Path:
    import platformdirs

    return Path(platformdirs.user_data_dir("after-check"))
