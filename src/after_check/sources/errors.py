"""What a source says when it cannot give a reading."""

from __future__ import annotations


class SourceError(Exception):
    """A reading could not be taken: what is wrong, where, and what to do about it."""

    def __init__(self, what: str, where: str = "", help: str = "") -> None:
        super().__init__(what)
        self.what = what
        self.where = where
        self.help = help

    def __str__(self) -> str:
        parts = [f"{self.where}: {self.what}" if self.where else self.what]
        if self.help:
            parts.append(self.help)
        return ". ".join(part.rstrip(".") for part in parts) + "."
