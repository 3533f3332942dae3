"""What a shop says when it cannot keep or give a job. `domain/errors.py` has the whole tree."""

from __future__ import annotations

from typing import TYPE_CHECKING

from after_check.domain.errors import AfterCheckError

if TYPE_CHECKING:
    from after_check.domain.jobs import Job


class ShopError(AfterCheckError):
    """The store of jobs cannot do what was asked: what is wrong, and what to do."""

    def __init__(self, what: str, help: str = "") -> None:
        super().__init__(what)
        self.what = what
        self.help = help

    def __str__(self) -> str:
        return f"{self.what}. {self.help}." if self.help else f"{self.what}."


class NotFoundError(ShopError):
    """There is no such job."""


class AlreadyExistsError(ShopError):
    """There is one of that name already."""


class ChangedElsewhereError(ShopError):
    """Somebody else changed the job in the meantime."""


class SignedError(ShopError):
    """The job is signed."""


class ReadOnlyError(ShopError):
    """Nothing can be written."""


class BusyError(ShopError):
    """Another process holds the store."""


class DiskFullError(ShopError):
    """There is no room for what is to be written."""


class DamagedError(ShopError):
    """The file is no store, or a damaged one."""


class MadeByNewerVersionError(ShopError):
    """A newer program made the store."""


class UnreachableError(ShopError):
    """The server that keeps the shop cannot be worked with."""


class NotAnsweringError(UnreachableError):
    """The server does not answer at all now; it may later."""


class KeptAsideError(ShopError):
    """The server does not answer; what was to be kept is on this computer, and is written when the server is back.

    `job` is the job as it was known last, with the addition in it.
    """

    def __init__(self, what: str, help: str, job: Job) -> None:
        super().__init__(what, help)
        self.job = job
