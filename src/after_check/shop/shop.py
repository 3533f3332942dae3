"""A shop: its jobs, what it knows of machines and makers, drafts and signatures, on one database."""

from __future__ import annotations

from pathlib import Path

from after_check.casework.needs import needs_of_the_shop
from after_check.domain.case_files import Needs
from after_check.local.paths import drafts_folder, outbox_folder
from after_check.shop.cards import CardStore
from after_check.shop.database import Database, is_server
from after_check.shop.drafts import DraftStore
from after_check.shop.errors import DamagedError, NotFoundError
from after_check.shop.jobs import JobStore
from after_check.shop.outbox import Outbox
from after_check.shop.signing import SigningStore


class Shop:
    """The stores of one shop. `away_from` names the shop on a server that a file replaces while the server is away.

    `outbox` is there for a shop on a server only: it holds what the server has not got yet.
    """

    def __init__(self, database: Database, outbox: Outbox | None = None, away_from: str = "") -> None:
        self.database = database
        self.outbox = outbox
        self.away_from = away_from
        # What is being typed is this computer's own, and stays with the shop whether its server is there or not.
        drafts = outbox_folder(away_from) if away_from else outbox.folder if outbox is not None else drafts_folder(database.where)
        self.jobs = JobStore(database, outbox, number_mark="M" if away_from else "")
        self.cards = CardStore(database, self.jobs)
        self.drafts = DraftStore(database, drafts)
        self.signing = SigningStore(database, self.jobs)

    @classmethod
    def open(cls, where: Path | str, away_from: str = "", needs: Needs | None = None) -> Shop:
        """Open the store in a file, made where there is none, or on a server. Raises ShopError in words for people.

        `needs` is what the shop asks for before a job counts as ready; by default what the settings say now.
        """
        database = Database.open(where, needs_of_the_shop() if needs is None else needs)
        outbox = Outbox(outbox_folder(database.where)) if is_server(where) else None
        if outbox is not None:
            outbox.know()
        return cls(database, outbox, away_from)

    @classmethod
    def open_existing(cls, place: Path | str) -> Shop:
        """Open a shop that is there already: to look at one, or to take something out of it, never makes one. Raises ShopError."""
        if isinstance(place, Path):
            if not place.exists():
                raise NotFoundError(f"there is no shop at {place}", "See whether the name is right; nothing was made or changed")
            if place.is_file() and place.stat().st_size == 0:
                raise DamagedError(
                    f"{place} is empty and no shop", "Bring a backup back with after-check shop restore; nothing was changed"
                )
        return cls.open(place)

    @property
    def where(self) -> str:
        """Where it is, without a password."""
        return self.database.where

    def close(self) -> None:
        """Let go of the database."""
        self.database.close()
