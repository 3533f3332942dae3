"""Unfinished texts, kept while they are typed: a program that was killed brings them back.

They are this computer's own, and files of a folder: one who types does not wait for whoever writes to the store just
now, or for a server that is away. Until 2026 an embedded store held them itself; what it still holds is found.
"""

from __future__ import annotations

from contextlib import suppress
from hashlib import sha256
from pathlib import Path

from sqlalchemy import delete, select

from after_check.files.whole_files import make_private_folder, write_whole
from after_check.shop import tables
from after_check.shop.database import Database
from after_check.shop.errors import ShopError

_LONGEST_PLACE = 80


class DraftStore:
    """Texts by the place at which they were left; `folder` is where they are."""

    def __init__(self, database: Database, folder: Path) -> None:
        self._database = database
        self._folder = folder
        self._older = _older(database)

    def text(self, place: str) -> str:
        """Return the text that was left unfinished at a place, by this bench."""
        try:
            return self._file(place).read_text(encoding="utf-8")
        except FileNotFoundError:
            return self._older.get(place[:_LONGEST_PLACE], "")
        except (OSError, UnicodeDecodeError):
            return ""

    def keep(self, place: str, text: str) -> None:
        """Keep an unfinished text; an empty one is forgotten. Raises ShopError."""
        path = self._file(place)
        try:
            if text:
                make_private_folder(path.parent)
                write_whole(path, text.encode(), private=True)
                return
            path.unlink(missing_ok=True)
        except OSError as error:
            raise ShopError(f"the disk of this computer takes no text ({error.strerror})", "Make room and try again") from None
        if self._older.pop(place[:_LONGEST_PLACE], None) is not None:
            with self._database.writing() as connection:
                connection.execute(delete(tables.drafts).where(tables.drafts.c.place == place[:_LONGEST_PLACE]))

    def forget(self, place: str, text: str) -> None:
        """Forget a text that was kept for good, unless another one is at its place by now. Raises ShopError."""
        if self.text(place) == text:
            self.keep(place, "")

    def _file(self, place: str) -> Path:
        """Return the file of a place, whose name is data and no path."""
        return self._folder / f"draft-{sha256(place.encode()).hexdigest()[:32]}.txt"


def _older(database: Database) -> dict[str, str]:
    """Return what an embedded store of an older program still holds."""
    with suppress(ShopError):
        if database.is_embedded:
            with database.reading() as connection:
                return {row.place: row.text for row in connection.execute(select(tables.drafts.c.place, tables.drafts.c.text))}
    return {}
