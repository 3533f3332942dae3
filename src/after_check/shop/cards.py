"""What a shop knows beside its jobs: machine data sheets (cards), and the names of module makers."""

from __future__ import annotations

from functools import partial

from sqlalchemy import select

from after_check.domain.cards import Card
from after_check.domain.modules import MakerId
from after_check.domain.outside_text import clean
from after_check.shop import tables
from after_check.shop.database import Database, put
from after_check.shop.jobs import JobStore
from after_check.shop.rows import learn, load_makers
from after_check.shop.salvage import Damage
from after_check.sources.card_file import parse_card, write_card


class CardStore:
    """The cards of a shop, by name, and the makers that it has learned."""

    def __init__(self, database: Database, jobs: JobStore) -> None:
        self._database = database
        self._jobs = jobs

    def keep(self, card: Card) -> None:
        """Keep a card for this shop; one of the same name is replaced. Then the jobs of that model are judged again, a few at a time."""
        with self._database.writing() as connection:
            put(connection, tables.cards, {"name": card.name.casefold(), "toml": write_card(card)})
        self._jobs.judge_those_of(card)

    def all(self) -> tuple[Card, ...]:
        """Return the cards, by name."""
        with self._database.reading() as connection:
            rows = connection.execute(select(tables.cards.c.toml).order_by(tables.cards.c.name)).all()
        damage = Damage()
        found = tuple(damage.or_none("a data sheet", partial(parse_card, row.toml)) for row in rows)
        return tuple(card for card in found if card is not None)

    def damaged(self) -> tuple[str, ...]:
        """Return the names of cards that cannot be read."""
        with self._database.reading() as connection:
            rows = connection.execute(select(tables.cards.c.name, tables.cards.c.toml).order_by(tables.cards.c.name)).all()
        return tuple(clean(str(row.name)) for row in rows if Damage().or_none("a data sheet", partial(parse_card, row.toml)) is None)

    def makers(self) -> dict[MakerId, str]:
        """Return the names of makers that this shop knows, by their codes."""
        with self._database.reading() as connection:
            return load_makers(connection)

    def name_maker(self, maker: MakerId, name: str) -> None:
        """Keep the name that a technician gives a maker."""
        with self._database.writing() as connection:
            learn(connection, maker, clean(name), replace=True)
