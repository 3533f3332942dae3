"""What a shop says when it cannot keep or give a job.

    ShopError                 the base: what is wrong, and what to do
    ├── NotFound              there is no such job, revision or place
    ├── AlreadyExists         there is one of that name already
    ├── ChangedElsewhere      somebody else changed it in the meantime
    ├── Signed                the job is signed, and changes only in a new revision
    ├── ReadOnly              nothing can be written
    ├── Busy                  another process holds the store
    ├── DiskFull              there is no room for what is to be written
    ├── Damaged               the file is no store, or a damaged one
    ├── MadeByNewerVersion    a newer program made the store
    ├── Unreachable           the server that keeps the shop cannot be worked with: login, name, rights
    │   └── NotAnswering      it does not answer at all now; it may later
    └── KeptAside             the server does not answer; what was to be kept is on this computer until it does
What a database says becomes one of these in `driver_errors.py`.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from after_check.domain.jobs import Job


class ShopError(Exception):
    """The store of jobs cannot do what was asked: what is wrong, and what to do."""

    def __init__(self, what: str, help: str = "") -> None:
        super().__init__(what)
        self.what = what
        self.help = help

    def __str__(self) -> str:
        return f"{self.what}. {self.help}." if self.help else f"{self.what}."


class NotFound(ShopError):
    """There is no such job."""


class AlreadyExists(ShopError):
    """There is one of that name already."""


class ChangedElsewhere(ShopError):
    """Somebody else changed the job in the meantime."""


class Signed(ShopError):
    """The job is signed."""


class ReadOnly(ShopError):
    """Nothing can be written."""


class Busy(ShopError):
    """Another process holds the store."""


class DiskFull(ShopError):
    """There is no room for what is to be written."""


class Damaged(ShopError):
    """The file is no store, or a damaged one."""


class MadeByNewerVersion(ShopError):
    """A newer program made the store."""


class Unreachable(ShopError):
    """The server that keeps the shop cannot be worked with."""


class NotAnswering(Unreachable):
    """The server does not answer at all now; it may later."""


class KeptAside(ShopError):
    """The server does not answer; what was to be kept is on this computer, and is written when the server is back.

    `job` is the job as it was known last, with the addition in it.
    """

    def __init__(self, what: str, help: str, job: Job) -> None:
        super().__init__(what, help)
        self.job = job
