"""Where a shop's files are on this computer."""

from __future__ import annotations

import os
from pathlib import Path


def shop_place(named: str | None) -> Path | str:
    """Return where the jobs are kept: a file, or a server's address (`postgresql…://`).

    What was named on the command line comes first, then AFTER_CHECK_SHOP, then the settings, then the usual file.
    """
    from after_check.shop.settings import load_settings

    found = named or os.environ.get("AFTER_CHECK_SHOP") or load_settings().shop
    if not found:
        return data_folder() / "shop.db"
    return found if found.startswith("postgresql") else Path(found).expanduser()


def demo_shop_path() -> Path:
    """Return the file of the demo shop."""
    return data_folder() / "demo.db"


def aside_folder(address: str) -> Path:
    """Return where this computer keeps what waits for a shop on a server; `address` is without the password."""
    from hashlib import sha256

    return data_folder() / "aside" / sha256(address.encode()).hexdigest()[:16]


def settings_path() -> Path:
    """Return the file of the settings that the program remembers."""
    import platformdirs

    return Path(platformdirs.user_config_dir("after-check")) / "settings.toml"


def data_folder() -> Path:
    """Return the folder of what the program keeps on this computer."""
    import platformdirs

    return Path(platformdirs.user_data_dir("after-check"))
