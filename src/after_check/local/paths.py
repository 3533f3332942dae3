"""Where the program's files are on this computer (the XDG base directories, through platformdirs)."""

from __future__ import annotations

from pathlib import Path

import platformdirs

_NAME = "after-check"


def demo_shop_path() -> Path:
    """Return the file of the demo shop."""
    return data_folder() / "demo.db"


def usual_shop_path() -> Path:
    """Return the file of the shop where nobody named another one."""
    return data_folder() / "shop.db"


def outbox_folder(address: str) -> Path:
    """Return where this computer keeps what waits for a shop on a server; `address` is without the password."""
    return data_folder() / "aside" / _named(address.encode())


def drafts_folder(store: str) -> Path:
    """Return where this computer keeps what is being typed for a store in a file."""
    return data_folder() / "drafts" / _named(str(Path(store).resolve()).encode(errors="surrogateescape"))


def _named(what: bytes) -> str:
    """Return a name for a folder that is always the same for the same bytes."""
    from hashlib import sha256

    return sha256(what).hexdigest()[:16]


def results_folder() -> Path:
    """Return where results of tests are kept that the shop did not take; not on the disk of the shop, where it can be helped."""
    return Path(platformdirs.user_state_dir(_NAME)) / "results"


def settings_path() -> Path:
    """Return the file of the settings that the program remembers."""
    return Path(platformdirs.user_config_dir(_NAME)) / "settings.toml"


def log_path() -> Path:
    """Return the log file."""
    return Path(platformdirs.user_log_dir(_NAME)) / "after-check.log"


def data_folder() -> Path:
    """Return the folder of what the program keeps on this computer."""
    return Path(platformdirs.user_data_dir(_NAME))
