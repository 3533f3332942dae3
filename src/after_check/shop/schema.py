"""Bringing a store's tables to the version that this program needs."""

from __future__ import annotations

from pathlib import Path

from sqlalchemy import Connection, inspect, text

from after_check.shop.engine import hold_for_migration
from after_check.shop.errors import Damaged, FromTheFuture
from after_check.shop.revision import REVISION

_MIGRATIONS = Path(__file__).parent / "migrations"


def bring_up_to_date(connection: Connection, where: str) -> None:
    """Create or migrate the tables. Raises FromTheFuture for a store that a newer program made."""
    found = _revision(connection, where)
    if found == REVISION:
        return
    hold_for_migration(connection)
    if _revision(connection, where) == REVISION:
        return  # Another bench was faster.
    # Alembic takes most of a second to import, and an up-to-date store does without it.
    from alembic import command
    from alembic.config import Config
    from alembic.script import ScriptDirectory

    config = Config()
    config.set_main_option("script_location", str(_MIGRATIONS).replace("%", "%%"))
    known = {script.revision for script in ScriptDirectory.from_config(config).walk_revisions()}
    if found is not None and found not in known:
        raise FromTheFuture(
            f"the store of jobs was made by a newer After Check (its tables are version {found[:20]}, this program knows {REVISION})",
            "Bring After Check up to date; nothing was changed",
        )
    config.attributes["connection"] = connection
    command.upgrade(config, "head")


def _revision(connection: Connection, where: str) -> str | None:
    """Return the version that the store's tables have, or None for a new store."""
    names = inspect(connection).get_table_names()
    if "alembic_version" not in names:
        if names:
            raise Damaged(f"this database is not After Check's ({where})", "Name another file with --shop")
        return None
    found = connection.execute(text("SELECT version_num FROM alembic_version")).scalar()
    return None if found is None else str(found)
