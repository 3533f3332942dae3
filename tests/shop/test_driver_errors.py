"""What databases say is told apart by their codes: words come in any language, and may quote anything."""

from __future__ import annotations

import sqlite3

import psycopg
import pytest
from sqlalchemy.exc import DBAPIError, IntegrityError, OperationalError

from after_check.shop.database import in_words
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

# SQLSTATE by the class that the driver has for it (PostgreSQL, "Error Codes"), with what servers of several tongues say.
SERVER = [
    (psycopg.errors.UniqueViolation, "Schlüssel »(number)=(Full-tower)« existiert bereits", AlreadyExistsError),
    (psycopg.errors.UniqueViolation, "duplicate key: (title)=(no space left, locked, readonly)", AlreadyExistsError),
    (psycopg.errors.DiskFull, "konnte Datei nicht erweitern: Auf dem Gerät ist kein Speicherplatz mehr", DiskFullError),
    (psycopg.errors.InsufficientPrivilege, "droit refusé pour la table jobs", ReadOnlyError),
    (psycopg.errors.ReadOnlySqlTransaction, "no se puede ejecutar INSERT", ReadOnlyError),
    (psycopg.errors.AdminShutdown, "Verbindung wird abgebrochen auf Befehl des Administrators", NotAnsweringError),
    (psycopg.errors.CannotConnectNow, "das Datenbanksystem startet", NotAnsweringError),
    (psycopg.errors.ConnectionFailure, "", NotAnsweringError),
    (psycopg.errors.InvalidPassword, "Passwort-Authentifizierung fehlgeschlagen", UnreachableError),
    (psycopg.errors.InvalidCatalogName, "la base de datos no existe", UnreachableError),
    (psycopg.errors.QueryCanceled, "storniere Anfrage", BusyError),
    (psycopg.errors.DeadlockDetected, "Verklemmung entdeckt", BusyError),
    (psycopg.errors.DataCorrupted, "ungültige Seite", DamagedError),
]


@pytest.mark.parametrize(("kind", "words", "error"), SERVER, ids=lambda value: getattr(value, "__name__", ""))
def test_a_servers_error_by_its_state(kind, words, error):
    said = in_words(DBAPIError("INSERT", {}, kind(words)), "postgresql://bench@server/shop")
    assert type(said) is error
    assert said.help


def test_a_connection_that_the_driver_calls_lost_is_no_answer_whatever_it_says():
    lost = OperationalError("SELECT", {}, psycopg.OperationalError("etwas ist schiefgegangen"), connection_invalidated=True)
    assert type(in_words(lost, "x")) is NotAnsweringError


def test_what_nobody_knows_is_told_in_its_own_words_without_control_characters():
    said = in_words(DBAPIError("SELECT", {}, psycopg.errors.InternalError_("\x1b[31mred\x07 alert")), "x")
    assert type(said) is ShopError
    assert "red alert" in str(said)
    assert "\x1b" not in str(said)


def test_sqlite_by_its_result_codes(tmp_path):
    connection = sqlite3.connect(tmp_path / "a.db")
    connection.execute("CREATE TABLE jobs (number TEXT UNIQUE, title TEXT CHECK (title <> 'the disk is full'))")
    connection.execute("INSERT INTO jobs VALUES ('database or disk is full', 'x')")
    with pytest.raises(sqlite3.IntegrityError) as twice:
        connection.execute("INSERT INTO jobs VALUES ('database or disk is full', 'y')")
    assert type(in_words(IntegrityError("", {}, twice.value), "x")) is AlreadyExistsError
    with pytest.raises(sqlite3.IntegrityError) as refused:
        connection.execute("INSERT INTO jobs VALUES ('2', 'the disk is full')")
    assert type(in_words(IntegrityError("", {}, refused.value), "x")) is ShopError
    connection.close()
    (tmp_path / "b.db").write_bytes(b"locked, full, read-only " * 100)
    with pytest.raises(sqlite3.DatabaseError) as foreign:
        sqlite3.connect(tmp_path / "b.db").execute("SELECT * FROM sqlite_master")
    assert type(in_words(OperationalError("", {}, foreign.value), "x")) is DamagedError
