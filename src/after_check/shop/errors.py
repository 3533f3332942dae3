"""What a shop says when it cannot keep or give a job."""

from __future__ import annotations

from typing import TYPE_CHECKING

from sqlalchemy.exc import DatabaseError, DBAPIError

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


class ReadOnly(ShopError):
    """Nothing can be written."""


class Busy(ShopError):
    """Another process holds the store."""


class Full(ShopError):
    """The disk is full."""


class Damaged(ShopError):
    """The file is no store, or a damaged one."""


class Unreachable(ShopError):
    """The server that keeps the shop does not answer."""


class Away(Unreachable):
    """The server does not answer at all now; it may later."""


class Waiting(ShopError):
    """The server does not answer; what was to be kept is on this computer, and is written when the server is back.

    `job` is the job as it was known last, with the addition in it.
    """

    def __init__(self, what: str, help: str, job: Job) -> None:
        super().__init__(what, help)
        self.job = job


class Frozen(ShopError):
    """The job is signed."""


class FromTheFuture(ShopError):
    """A newer program made the store."""


class Changed(ShopError):
    """Somebody else changed the job in the meantime."""


class Absent(ShopError):
    """There is no such job, or there is one already."""


_AWAY = "the server of the shop does not answer"
_AGAIN = "What you typed is still here: keep it again when the server is back"

_BY_MESSAGE: tuple[tuple[str, type[ShopError], str, str], ...] = (
    ("locked", Busy, "another process is writing to the store of jobs", "Nothing was changed; try again in a moment"),
    ("readonly", ReadOnly, "the store of jobs is read-only", "Nothing was changed; check the rights of its file and folder"),
    ("read-only", ReadOnly, "the store of jobs is read-only", "Nothing was changed; check the rights of its file and folder"),
    ("unable to open", ReadOnly, "the store of jobs cannot be opened for writing", "Check the rights of its folder"),
    ("full", Full, "the disk is full", "Nothing was changed; make room and try again"),
    ("disk i/o error", Full, "the disk does not take what is written", "Nothing was changed; check its room and its health"),
    ("malformed", Damaged, "the store of jobs is damaged", "Keep the file, and bring back a copy of it"),
    ("not a database", Damaged, "this file is no store of jobs", "Name another file with --shop"),
    ("could not translate host", Away, "the server of the shop is not known by that name", "Check its address"),
    ("failed to resolve host", Away, "the server of the shop is not known by that name", "Check its address"),
    (
        "database system is",
        Away,
        "the server of the shop is just starting or stopping",
        "Nothing was changed; try again in a moment",
    ),
    ("authentication failed", Unreachable, "the server of the shop refuses the login", "Check user and password of its address"),
    ("no password supplied", Unreachable, "the server of the shop wants a password", "Put it into the address or into ~/.pgpass"),
    ("does not exist", Unreachable, "the server has no such shop", "Create the database, or check its name"),
    ("permission denied", ReadOnly, "this user may not write to the shop", "Ask whoever runs the server for the right"),
    ("read-only transaction", ReadOnly, "the server takes no changes now", "Nothing was changed; try again later"),
    ("could not extend file", Full, "the disk of the server takes no more", "Nothing was changed; make room and try again"),
    ("no space left", Full, "the disk of the server is full", "Nothing was changed; make room and try again"),
    ("connection refused", Away, _AWAY, _AGAIN),
    ("connection failed", Away, _AWAY, _AGAIN),
    ("connection timeout", Away, _AWAY, _AGAIN),
    ("timeout expired", Away, _AWAY, _AGAIN),
    ("terminating connection", Away, _AWAY, _AGAIN),
    ("server closed the connection", Away, _AWAY, _AGAIN),
    ("the connection is lost", Away, _AWAY, _AGAIN),
    ("the connection is closed", Away, _AWAY, _AGAIN),
    ("file is encrypted", Damaged, "this file is no store of jobs", "Name another file with --shop"),
)


def in_words(error: DBAPIError | DatabaseError, where: str) -> ShopError:
    """Return what a database error means for whoever sees it."""
    message = str(error.orig or error).lower()
    for part, kind, what, help in _BY_MESSAGE:
        if part in message:
            return kind(f"{what} ({where})", help)
    return ShopError(f"the store of jobs failed ({where}): {message.splitlines()[0][:120]}", "Nothing was changed")
