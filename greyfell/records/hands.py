"""Keeping who was asked before a first live step, by name: once is enough."""

import sqlalchemy as sa

from greyfell.records.models import HandRow
from greyfell.records.rows import now
from greyfell.records.store import Store


class Hands:
    """All reading and writing of names goes through here."""

    def __init__(self, store: Store):
        self.store = store

    def was_asked(self, name: str) -> bool:
        """Whether somebody of this name answered."""
        with self.store.looking() as connection:
            query = sa.select(HandRow.name).where(HandRow.name == _plain(name))
            return connection.scalar(query) is not None

    def keep(self, name: str, said: dict[str, str]) -> None:
        """Keep what somebody answered; the first time stands."""
        if self.was_asked(name):
            return
        with self.store.writing() as session:
            session.add(HandRow(name=_plain(name), body=said, at=now()))


def _plain(name: str) -> str:
    return " ".join(name.casefold().split())
