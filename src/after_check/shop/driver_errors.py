"""What a database's driver says, as one of the shop's errors.

Errors are told apart by the driver's codes and never by words, which come in any language and may quote anything:
SQLSTATE (PostgreSQL, "Error Codes", appendix A), the names of SQLite's result codes
(https://www.sqlite.org/rescode.html), and whether the driver calls the connection lost.
"""

from __future__ import annotations

import sqlite3

from sqlalchemy.exc import DBAPIError

from after_check.domain.outside_text import clean
from after_check.shop.errors import (
    AlreadyExistsError,
    BusyError,
    DamagedError,
    DiskFullError,
    NotAnsweringError,
    ReadOnlyError,
    ShopError,
    UnreachableError,
)

_LONGEST_WORDS = 120
_Said = tuple[type[ShopError], str, str]

_NO_ANSWER: _Said = (
    NotAnsweringError,
    "the server of the shop does not answer",
    "What you typed is still here: keep it again when the server is back",
)
_STARTING: _Said = (NotAnsweringError, "the server of the shop is just starting or stopping", "Nothing was changed; try again in a moment")
_NO_PASSWORD: _Said = (UnreachableError, "the server of the shop wants a password", "Put it into the address or into ~/.pgpass")
_NO_LOGIN: _Said = (
    UnreachableError,
    "the server of the shop answers and refuses the login, or has no shop of that name",
    "Check user, password and database of its address",
)

_BY_SQLSTATE: tuple[tuple[str, _Said], ...] = (
    ("23505", (AlreadyExistsError, "somebody else kept one of that name just now", "Look at it, then choose another name")),
    ("25006", (ReadOnlyError, "the server takes no changes now", "Nothing was changed; try again later")),
    ("28", (UnreachableError, "the server of the shop refuses the login", "Check user and password of its address")),
    ("3D000", (UnreachableError, "the server has no such shop", "Create the database, or check its name")),
    ("40", (BusyError, "another bench changed the same just now", "Nothing was changed; try again in a moment")),
    ("42501", (ReadOnlyError, "this user may not write to the shop", "Ask whoever runs the server for the right")),
    ("53100", (DiskFullError, "the disk of the server is full", "Nothing was changed; make room and try again")),
    ("53300", (BusyError, "the server of the shop has too many connections", "Nothing was changed; try again in a moment")),
    ("55P03", (BusyError, "another bench is writing to the shop", "Nothing was changed; try again in a moment")),
    ("57014", (BusyError, "the server of the shop takes too long", "Nothing was changed; try again in a moment")),
    ("57P0", _STARTING),
    ("58030", (DiskFullError, "the disk of the server takes no more", "Nothing was changed; make room and try again")),
    ("08", _NO_ANSWER),
    ("XX002", (DamagedError, "an index of the store of jobs on the server is damaged", "Let whoever runs the server rebuild it")),
    ("XX001", (DamagedError, "the store of jobs on the server is damaged", "Bring back a backup of it")),
)
"""What an SQLSTATE means, by how it begins."""

_BY_RESULT_CODE: tuple[tuple[str, _Said], ...] = (
    ("SQLITE_BUSY", (BusyError, "another process is writing to the store of jobs", "Nothing was changed; try again in a moment")),
    ("SQLITE_LOCKED", (BusyError, "another process is writing to the store of jobs", "Nothing was changed; try again in a moment")),
    ("SQLITE_READONLY", (ReadOnlyError, "the store of jobs is read-only", "Nothing was changed; check the rights of its file and folder")),
    ("SQLITE_PERM", (ReadOnlyError, "the store of jobs is read-only", "Nothing was changed; check the rights of its file and folder")),
    ("SQLITE_CANTOPEN", (ReadOnlyError, "the store of jobs cannot be opened for writing", "Check the rights of its folder")),
    ("SQLITE_FULL", (DiskFullError, "the disk is full", "Nothing was changed; make room and try again")),
    ("SQLITE_IOERR", (DiskFullError, "the disk does not take what is written", "Nothing was changed; check its room and its health")),
    ("SQLITE_CORRUPT", (DamagedError, "the store of jobs is damaged", "Keep the file, and bring back a copy of it")),
    ("SQLITE_NOTADB", (DamagedError, "this file is no store of jobs", "Name another file with --shop")),
    (
        "SQLITE_CONSTRAINT_UNIQUE",
        (AlreadyExistsError, "somebody else kept one of that name just now", "Look at it, then choose another name"),
    ),
    (
        "SQLITE_CONSTRAINT_PRIMARYKEY",
        (AlreadyExistsError, "somebody else kept one of that name just now", "Look at it, then choose another name"),
    ),
)
"""What a result code of SQLite means, by how its name begins."""


def in_words(error: DBAPIError, where: str) -> ShopError:
    """Return what a database error means for whoever sees it; `where` names the store, without a password."""
    said = _from_sqlite(error.orig) if isinstance(error.orig, sqlite3.Error) else _from_server(error)
    if said is None:
        words = clean(str(error.orig or error), _LONGEST_WORDS)
        return ShopError(f"the store of jobs failed ({where}): {words}", "Nothing was changed")
    kind, what, help = said
    # Where a login and a name of a database cannot be told apart, the server's own words may do it for the reader.
    own_words = f"; its words: {_last_line(error.orig)}" if said is _NO_LOGIN else ""
    return kind(f"{what} ({where}){own_words}", help)


def _last_line(error: BaseException | None) -> str:
    return clean((str(error).strip().splitlines() or [""])[-1], _LONGEST_WORDS)


def _from_sqlite(error: sqlite3.Error) -> _Said | None:
    name = getattr(error, "sqlite_errorname", None) or ""
    return next((said for code, said in _BY_RESULT_CODE if name.startswith(code)), None)


def _from_server(error: DBAPIError) -> _Said | None:
    state = getattr(error.orig, "sqlstate", None)
    if state:
        return next((said for code, said in _BY_SQLSTATE if state.startswith(code)), None)
    if error.connection_invalidated:
        return _NO_ANSWER
    return _from_connecting(error.orig)


def _from_connecting(error: BaseException | None) -> _Said | None:
    """Return why no connection came about. Such an error has no SQLSTATE, so the server is asked how it is (libpq, PQping)."""
    import psycopg
    from psycopg.errors import ConnectionTimeout
    from psycopg.pq import Ping

    if not isinstance(error, psycopg.OperationalError):
        return None
    if isinstance(error, ConnectionTimeout) or error.pgconn is None:
        return _NO_ANSWER
    if error.pgconn.needs_password:
        return _NO_PASSWORD
    options = [f"{option.keyword.decode()}={_quoted(option.val.decode())}" for option in error.pgconn.info if option.val]
    answer = psycopg.pq.PGconn.ping(" ".join(options).encode())
    return {Ping.OK: _NO_LOGIN, Ping.REJECT: _STARTING}.get(Ping(answer), _NO_ANSWER)


def _quoted(value: str) -> str:
    """Return a value as the connection strings of libpq quote it."""
    escaped = value.replace("\\", "\\\\").replace("'", "\\'")
    return f"'{escaped}'"
