"""The log file: what went wrong, with its time, for whoever is asked about it later. It holds no passwords and no readings."""

from __future__ import annotations

import logging
from logging.handlers import RotatingFileHandler
from pathlib import Path

_LARGEST_BYTES = 512 << 10
_KEPT_FILES = 2
_NAME = "after_check"


def log_path() -> Path:
    """Return where the log file is."""
    import platformdirs

    return Path(platformdirs.user_log_dir("after-check")) / "after-check.log"


def logger() -> logging.Logger:
    """Return the program's log, opened when it is first used; a place that takes no file takes no log either."""
    log = logging.getLogger(_NAME)
    if not log.handlers:
        log.propagate = False
        log.setLevel(logging.INFO)
        path = log_path()
        handler: logging.Handler
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            handler = RotatingFileHandler(path, maxBytes=_LARGEST_BYTES, backupCount=_KEPT_FILES, encoding="utf-8", delay=True)
            path.touch()
        except OSError:
            handler = logging.NullHandler()
        handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(message)s"))
        log.addHandler(handler)
    return log
