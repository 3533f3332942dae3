"""What a source says when it cannot give a reading."""

from __future__ import annotations

from after_check.domain.errors import AfterCheckError
from after_check.domain.outside_text import without_password


class SourceError(AfterCheckError):
    """A reading could not be taken: what is wrong, where, and what to do about it."""

    def __init__(self, what: str, where: str = "", help: str = "") -> None:
        what, where = without_password(what), without_password(where)
        super().__init__(what)
        self.what = what
        self.where = where
        self.help = help

    def __str__(self) -> str:
        said = f"{self.where}: {self.what}" if self.where else self.what
        help = f". {self.help[:1].upper()}{self.help[1:]}" if self.help else ""
        return said.rstrip(".") + help.rstrip(".") + "."
