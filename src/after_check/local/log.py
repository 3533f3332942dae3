"""The log file: what went wrong, with its time, for whoever is asked about it later. It holds no passwords and no readings."""

from __future__ import annotations

import logging

from after_check.files.whole_files import make_private_folder
from after_check.local.paths import log_path

_LARGEST_BYTES = 512 << 10
_KEPT_FILES = 2
_NAME = "after_check"


def logger() -> logging.Logger:
    """Return the program's log, opened when it is first used; a place that takes no file takes no log either."""
    log = logging.getLogger(_NAME)
    if not log.handlers:
        from logging.handlers import RotatingFileHandler

        log.propagate = False
        log.setLevel(logging.INFO)
        path = log_path()
        handler: logging.Handler
        try:
            make_private_folder(path.parent)
            handler = RotatingFileHandler(path, maxBytes=_LARGEST_BYTES, backupCount=_KEPT_FILES, encoding="utf-8", delay=True)
            path.touch(mode=0o600)
        except OSError:
            handler = logging.NullHandler()
        handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(message)s"))
        log.addHandler(handler)
    return log
