"""The database of a shop: a file of SQLite on this computer, or a PostgreSQL server that several benches share.

Every change is one transaction, on disk before the call returns. What the driver says is told in words (`driver_errors.py`).
"""

from __future__ import annotations

import os
import sqlite3
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from sqlalchemy import Connection, Engine, Table, create_engine, event, inspect, text
from sqlalchemy.dialects import sqlite
from sqlalchemy.engine import URL, make_url
from sqlalchemy.exc import ArgumentError, DBAPIError

from after_check.domain.case_files import Needs
from after_check.domain.outside_text import clean
from after_check.files.network_address import HIGHEST_PORT
from after_check.files.whole_files import make_private_folder
from after_check.shop import tables
from after_check.shop.errors import (
    AlreadyExistsError,
    BusyError,
    DamagedError,
    DiskFullError,
    MadeByNewerVersionError,
    NotAnsweringError,
    ReadOnlyError,
    ShopError,
    UnreachableError,
)
from after_check.shop.revision import REVISION

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


WAIT_FOR_LOCK_SECONDS = 3
_CONNECT_SECONDS = 5
_STATEMENT_MILLISECONDS = 10_000
SERVER = "postgresql"
_WRITES = "after_check_writes"
"""The option of a connection whose transactions are going to write."""
_MIGRATES = "after_check_migrates"
"""The option of a connection whose transaction may rebuild tables."""
_NEEDS = "after_check_needs"
"""The option of a connection that says what the shop asks for before a job counts as ready."""
_MIGRATION_LOCK = 0x4146_5445
MIGRATIONS = Path(__file__).parent / "migrations"


class Database:
    """One open database; `where` names it without a password. May be used from several threads."""

    def __init__(self, engine: Engine, where: str) -> None:
        self._engine = engine
        self.where = where

    @classmethod
    def open(cls, where: Path | str, needs: Needs) -> Database:
        """Open a file, made if need be, or a server, and bring its tables up to date. Raises ShopError in words for people.

        `needs` is what the shop asks for beside a promise; every connection carries it (`needs_on`).
        """
        engine, name = _engine(where)
        database = cls(engine.execution_options(**{_NEEDS: needs}), name)
        try:
            # Nothing is written where nothing is out of date.
            with database._transaction(writes=False, migrates=True) as connection:
                _bring_up_to_date(connection, name)
        except NotAnsweringError as away:
            raise NotAnsweringError(away.what, "Try again when it answers, or work in a file of this computer with --shop FILE") from None
        return database

    @property
    def is_embedded(self) -> bool:
        """Whether it is a file of this computer."""
        return self._engine.dialect.name == "sqlite"

    def close(self) -> None:
        """Let go of the file, or of the server."""
        self._engine.dispose()

    @contextmanager
    def reading(self) -> Iterator[Connection]:
        """Give a connection that only looks."""
        try:
            with self._engine.connect() as connection:
                yield connection
        except DBAPIError as error:
            raise in_words(error, self.where) from None

    @contextmanager
    def writing(self) -> Iterator[Connection]:
        """Give a connection whose changes are all kept when the block ends well, or none of them."""
        with self._transaction(writes=True) as connection:
            yield connection

    @contextmanager
    def _transaction(self, writes: bool, migrates: bool = False) -> Iterator[Connection]:
        try:
            with self._engine.execution_options(**{_WRITES: writes, _MIGRATES: migrates}).begin() as connection:
                yield connection
        except DBAPIError as error:
            raise in_words(error, self.where) from None

    def problems(self) -> tuple[str, ...]:
        """Return what the database itself finds wrong with its file; a server looks after its own."""
        if not self.is_embedded:
            return ()
        try:
            with self.reading() as connection:
                found = [str(row[0]) for row in connection.exec_driver_sql("PRAGMA integrity_check(20)")]
                broken = [f"{row[0]} {row[1]}: its {row[2]} is missing" for row in connection.exec_driver_sql("PRAGMA foreign_key_check")]
        except ShopError as error:
            return (str(error),)
        return tuple(f"the database: {words}" for words in (*found, *broken) if words != "ok")


def needs_on(connection: Connection) -> Needs:
    """Return what the shop behind a connection asks for before a job counts as ready, as it was when the shop was opened."""
    needs: Needs = connection.get_execution_options()[_NEEDS]
    return needs


def is_server(where: Path | str) -> bool:
    """Return whether a store is named by the address of a server."""
    return isinstance(where, str) and where.startswith(SERVER)


def name_of_server(address: str) -> str:
    """Return the address of a server without its password. Raises ShopError."""
    return _url(address).render_as_string(hide_password=True)


def put(connection: Connection, table: Table, values: Mapping[str, Any], replace: bool = True) -> bool:
    """Put a row in, or in the place of the one with the same key; return whether anything was put in.

    Without `replace` the row that is there stays. Another bench may put the same row in at the same moment: the
    database's own upsert lets one of both win, and none fail.
    """
    wanted = _insert(connection)(table).values(values)
    keys = [column.name for column in table.primary_key]
    others = {name: wanted.excluded[name] for name in values if name not in keys}
    upsert = wanted.on_conflict_do_update(index_elements=keys, set_=others) if replace and others else wanted.on_conflict_do_nothing()
    return connection.execute(upsert).rowcount > 0


def insert_row(connection: Connection, table: Table, values: Mapping[str, Any]) -> int | None:
    """Insert a row and return its number; None where a row with the same unique value is there, from another bench just now."""
    found = connection.execute(_insert(connection)(table).values(values).on_conflict_do_nothing().returning(table.c.id)).scalar()
    return None if found is None else int(found)


def _insert(connection: Connection) -> Callable[[Table], Any]:
    """Return the insert of the database's own kind, which knows what to do about a row that is there."""
    if connection.dialect.name == "sqlite":
        return sqlite.insert
    from sqlalchemy.dialects import postgresql

    return postgresql.insert


def _engine(where: Path | str) -> tuple[Engine, str]:
    if is_server(where):
        url = _url(str(where))
        engine = create_engine(
            url,
            pool_pre_ping=True,  # A server that was restarted in between costs one look, not a failed change.
            connect_args={"connect_timeout": _CONNECT_SECONDS, "options": f"-c statement_timeout={_STATEMENT_MILLISECONDS}"},
        )
        event.listen(engine, "do_connect", _connect_to_server)
        return engine, url.render_as_string(hide_password=True)
    path = Path(where)
    if path.is_dir():
        raise ShopError(f"{path} is a folder", "Name a file with --shop")
    try:
        make_private_folder(path.parent)
        # Names of customers are nobody else's business: the file is made before the driver makes one for everybody.
        os.close(os.open(path, os.O_CREAT | os.O_RDONLY, 0o600))
    except OSError as error:
        raise ReadOnlyError(f"{path} cannot be made or opened ({error.strerror})", "Name another place with --shop") from None
    engine = create_engine(f"sqlite:///{path}", connect_args={"timeout": WAIT_FOR_LOCK_SECONDS})
    event.listen(engine, "connect", _prepare_connection)
    event.listen(engine, "begin", _begin)
    return engine, str(path)


def _url(address: str) -> URL:
    try:
        url: URL = make_url(address)
        if url.port is not None and not 1 <= url.port <= HIGHEST_PORT:
            raise ValueError
    except (ArgumentError, ValueError):
        raise ShopError("this is no address of a shop", "Write postgresql://USER@HOST/NAME or the name of a file") from None
    if url.drivername == SERVER:
        url = url.set(drivername=f"{SERVER}+psycopg")
    if url.drivername != f"{SERVER}+psycopg" or not url.database:
        raise ShopError("this is no address of a shop", "Write postgresql+psycopg://USER@HOST/NAME")
    return url


def _connect_to_server(_dialect: Any, _record: Any, words: tuple[Any, ...], named: dict[str, Any]) -> Any:
    from after_check.shop.server_line import connect

    return connect(words, named)


def _prepare_connection(connection: Any, _record: Any) -> None:
    """Let SQLAlchemy begin transactions itself, so that a migration is all or nothing, and have every change on disk."""
    connection.isolation_level = None
    cursor = connection.cursor()
    cursor.execute("PRAGMA synchronous=FULL")
    cursor.close()


def _begin(connection: Connection) -> None:
    """Begin a transaction; one that writes waits for its turn at once.

    One that first looks and then writes would be refused without waiting when another writes just then (SQLite, "Isolation
    and locking": a lock that is shared cannot be raised while somebody waits for it to go).
    """
    options = connection.get_execution_options()
    # A table that is rebuilt is dropped first, and with its rows would go all rows that name them (SQLite, "ALTER TABLE", 7).
    connection.exec_driver_sql(f"PRAGMA foreign_keys={'OFF' if options.get(_MIGRATES, False) else 'ON'}")
    connection.exec_driver_sql("BEGIN IMMEDIATE" if options.get(_WRITES, False) else "BEGIN")


def _bring_up_to_date(connection: Connection, where: str) -> None:
    """Create or migrate the tables. Raises MadeByNewerVersionError for a store that a newer program made."""
    found = _revision(connection, where)
    if found == REVISION:
        return
    if connection.dialect.name == SERVER:
        _be_patient(connection)
        # Other benches wait here until this one has migrated the server.
        connection.execute(text("SELECT pg_advisory_xact_lock(:key)"), {"key": _MIGRATION_LOCK})
    if _revision(connection, where) == REVISION:
        return  # Another bench was faster.
    if found is None and _revision(connection, where) is None:
        _make_tables(connection)
        return
    # Alembic takes most of a second to import, and an up-to-date store does without it.
    from alembic import command
    from alembic.config import Config
    from alembic.script import ScriptDirectory

    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS).replace("%", "%%"))
    known = {script.revision for script in ScriptDirectory.from_config(config).walk_revisions()}
    if found is not None and found not in known:
        raise MadeByNewerVersionError(
            f"the store of jobs was made by a newer After Check (its tables are version {found[:20]}, this program knows {REVISION})",
            "Bring After Check up to date; nothing was changed",
        )
    config.attributes["connection"] = connection
    command.upgrade(config, "head")
    if connection.dialect.name != SERVER and (lost := connection.exec_driver_sql("PRAGMA foreign_key_check").first()) is not None:
        raise DamagedError(
            f"the store of jobs does not hold together ({where}: {lost[0]} {lost[1]})", "It was left as it was; bring a backup back"
        )


def _make_tables(connection: Connection) -> None:
    """Make the tables of a new store as they are today: the migrations lead to the same ones, and take ten times as long."""
    tables.metadata.create_all(connection)
    # As Alembic makes it ("The alembic_version table"): its name and its one column are what later migrations look for.
    connection.exec_driver_sql(
        "CREATE TABLE alembic_version (version_num VARCHAR(32) NOT NULL, CONSTRAINT alembic_version_pkc PRIMARY KEY (version_num))"
    )
    connection.execute(text("INSERT INTO alembic_version (version_num) VALUES (:revision)"), {"revision": REVISION})


def _be_patient(connection: Connection) -> None:
    """Give the rest of a transaction more time than a statement has otherwise; the connection is not used again after it."""
    from after_check.shop.server_line import PATIENT_SECONDS

    line: Any = connection.connection.driver_connection
    line.answer_seconds = PATIENT_SECONDS
    connection.exec_driver_sql(f"SET LOCAL statement_timeout = '{PATIENT_SECONDS - 5:.0f}s'")
    connection.detach()


def _revision(connection: Connection, where: str) -> str | None:
    """Return the version that the store's tables have, or None for a new store."""
    names = inspect(connection).get_table_names()
    if "alembic_version" not in names:
        if names:
            raise DamagedError(f"this database is not After Check's ({where})", "Name another file with --shop")
        return None
    found = connection.execute(text("SELECT version_num FROM alembic_version")).scalar()
    return None if found is None else str(found)
