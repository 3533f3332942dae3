"""Unfinished texts, kept while they are typed: a program that was killed brings them back.

They are this computer's own: beside an embedded store they are in it, beside a server they are files of a folder.
"""

from __future__ import annotations

from hashlib import sha256
from pathlib import Path

from sqlalchemy import delete, select

from after_check.local.whole_files import make_private_folder, write_whole
from after_check.shop import tables
from after_check.shop.database import Database, put
from after_check.shop.errors import ShopError

_LONGEST_PLACE = 80


class DraftStore:
    """Texts by the place at which they were left; `folder` is where they are for a shop on a server."""

    def __init__(self, database: Database, folder: Path | None = None) -> None:
        self._database = database
        self._folder = folder

    def text(self, place: str) -> str:
        """Return the text that was left unfinished at a place, by this bench."""
        if self._folder is not None:
            try:
                return self._file(place).read_text(encoding="utf-8")
            except (OSError, UnicodeDecodeError):
                return ""
        with self._database.reading() as connection:
            found = connection.execute(select(tables.drafts.c.text).where(tables.drafts.c.place == place[:_LONGEST_PLACE])).scalar()
        return found or ""

    def keep(self, place: str, text: str) -> None:
        """Keep an unfinished text; an empty one is forgotten. Raises ShopError."""
        if self._folder is not None:
            self._write(place, text)
            return
        place = place[:_LONGEST_PLACE]
        with self._database.writing() as connection:
            if text:
                put(connection, tables.drafts, {"place": place, "text": text})
            else:
                connection.execute(delete(tables.drafts).where(tables.drafts.c.place == place))

    def forget(self, place: str, text: str) -> None:
        """Forget a text that was kept for good, unless another one stands at its place by now. Raises ShopError."""
        if self.text(place) == text:
            self.keep(place, "")

    def _write(self, place: str, text: str) -> None:
        path = self._file(place)
        try:
            if not text:
                path.unlink(missing_ok=True)
                return
            make_private_folder(path.parent)
            write_whole(path, text.encode(), private=True)
        except OSError as error:
            raise ShopError(f"the disk of this computer takes no text ({error.strerror})", "Make room and try again") from None

    def _file(self, place: str) -> Path:
        """Return the file of a place, whose name is data and no path."""
        return (self._folder or Path()) / f"draft-{sha256(place.encode()).hexdigest()[:32]}.txt"
