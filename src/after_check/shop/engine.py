"""Opening a store: a file of SQLite on this computer, or a PostgreSQL server that several benches share."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from sqlalchemy import Connection, Engine, create_engine, event, text
from sqlalchemy.engine import URL, make_url
from sqlalchemy.exc import ArgumentError

from after_check.shop.errors import ReadOnly, ShopError

WAIT_FOR_LOCK_SECONDS = 3
_CONNECT_SECONDS = 5
_STATEMENT_MILLISECONDS = 60_000
SERVER = "postgresql"
WRITES = "after_check_writes"
"""The option of a connection whose transactions are going to write."""
_MIGRATION_LOCK = 0x4146_5445


def is_server(where: Path | str) -> bool:
    """Return whether a store is named by the address of a server."""
    return isinstance(where, str) and where.startswith(SERVER)


def open_engine(where: Path | str) -> tuple[Engine, str]:
    """Return an engine for a file or a server's address, and its name without a password. Raises ShopError in words."""
    if is_server(where):
        return _server(str(where))
    path = Path(where)
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise ReadOnly(f"the folder {path.parent} cannot be made ({error.strerror})", "Name another place with --shop") from None
    if path.is_dir():
        raise ShopError(f"{path} is a folder", "Name a file with --shop")
    engine = create_engine(f"sqlite:///{path}", connect_args={"timeout": WAIT_FOR_LOCK_SECONDS})
    event.listen(engine, "connect", _prepare_connection)
    event.listen(engine, "begin", _begin)
    return engine, str(path)


def hold_for_migration(connection: Connection) -> None:
    """Keep other benches from migrating the same server at the same time, until this transaction ends."""
    if connection.dialect.name == SERVER:
        connection.execute(text("SELECT pg_advisory_xact_lock(:key)"), {"key": _MIGRATION_LOCK})


def _server(address: str) -> tuple[Engine, str]:
    try:
        url: URL = make_url(address)
    except ArgumentError:
        raise ShopError("this is no address of a shop", "Write postgresql://USER@HOST/NAME or the name of a file") from None
    if url.drivername == SERVER:
        url = url.set(drivername=f"{SERVER}+psycopg")
    if url.drivername != f"{SERVER}+psycopg" or not url.database:
        raise ShopError("this is no address of a shop", "Write postgresql+psycopg://USER@HOST/NAME")
    engine = create_engine(
        url,
        pool_pre_ping=True,  # A server that was restarted in between costs one look, not a failed change.
        connect_args={"connect_timeout": _CONNECT_SECONDS, "options": f"-c statement_timeout={_STATEMENT_MILLISECONDS}"},
    )
    return engine, url.render_as_string(hide_password=True)


def _prepare_connection(connection: Any, _record: Any) -> None:
    """Let SQLAlchemy begin transactions itself, so that a migration is all or nothing, and check foreign keys."""
    connection.isolation_level = None
    cursor = connection.cursor()
    cursor.execute("PRAGMA foreign_keys=ON")
    cursor.execute("PRAGMA synchronous=FULL")
    cursor.close()


def _begin(connection: Connection) -> None:
    """Begin a transaction; one that writes waits for its turn at once.

    One that first looks and then writes would be refused without waiting when another writes just then (SQLite, "Isolation
    and locking": a lock that is shared cannot be raised while somebody waits for it to go).
    """
    writes = connection.get_execution_options().get(WRITES, False)
    connection.exec_driver_sql("BEGIN IMMEDIATE" if writes else "BEGIN")
