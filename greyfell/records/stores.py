"""Keeping what stands in the stores: entries are added, counted and put aside; none is erased."""

import secrets
from collections import Counter
from collections.abc import Iterable
from contextlib import suppress
from typing import Any

import sqlalchemy as sa
from sqlalchemy.orm import Session

from greyfell.core.errors import FieldError, Missing
from greyfell.core.evidence.record import Meter
from greyfell.core.evidence.stores import MOST_ITEMS, Item, as_meter, parse_item, parse_stores
from greyfell.records.models import EntryRow, ItemRow
from greyfell.records.rows import now
from greyfell.records.store import Store, rows_of


class Stores:
    """All reading and writing of the stores goes through here. Raises FieldError for what is asked
    wrongly.
    """

    def __init__(self, store: Store):
        self.store = store

    def items(self, search: str = "", *, gone: bool = False) -> list[Item]:
        """Entries that hold every word typed, in the order they came; those put aside only where
        asked for.
        """
        query = sa.select(ItemRow.body).order_by(ItemRow.id)
        if not gone:
            query = query.where(ItemRow.gone.is_(False))
        for word in search.casefold().split()[:MOST_WORDS]:
            query = query.where(ItemRow.searched.contains(word, autoescape=True))
        with self.store.looking() as connection:
            return [parse_item(body) for body in connection.scalars(query)]

    def of(self, kinds: Iterable[str]) -> list[Item]:
        """Entries of some kinds that are on hand, the first of them where there are many; one that
        cannot be read is left out.
        """
        query = sa.select(ItemRow.body).where(ItemRow.kind.in_(kinds), ItemRow.gone.is_(False))
        with self.store.looking() as connection:
            bodies = list(connection.scalars(query.order_by(ItemRow.id).limit(MOST_OFFERED)))
        found = []
        for body in bodies:
            with suppress(FieldError):  # one that cannot be read keeps no page from opening
                found.append(parse_item(body))
        return [item for item in found if item.count]

    def get(self, uid: str) -> Item:
        """One entry. Raises Missing where there is none."""
        with self.store.reading() as session:
            return parse_item(_must(session, uid).body)

    def meters(self) -> list[Meter]:
        """The meters on hand, as records keep them."""
        return [as_meter(item) for item in self.of(["meter"])]

    def add(self, document: dict[str, Any], key: str = "") -> Item:
        """Keep a new entry under an id of its own. Raises FieldError."""
        item = parse_item({**document, "id": _fresh()})
        with self.store.writing() as session:
            if rows_of(session, ItemRow) >= MOST_ITEMS:
                raise FieldError("kind", f"The stores hold {MOST_ITEMS} entries and no more.")
            session.add(_row(item))
            if key:
                session.add(EntryRow(key=key, tag=item.id, said="stored", at=now()))
        return item

    def change(self, uid: str, changes: dict[str, Any]) -> Item:
        """Change an entry: how many there are, a figure, a note, or why it is gone. Raises
        FieldError.
        """
        with self.store.writing() as session:
            row = _must(session, uid)
            item = parse_item({**row.body, **changes, "id": uid})
            fresh = _row(item)
            row.body, row.searched, row.gone = fresh.body, fresh.searched, fresh.gone
        return item

    def bring_in(self, document: Any) -> Counter[str]:
        """Bring a stores document in: what is here already stays as it is; an entry of an id in use
        but of other content gets an id of its own. Raises FieldError; all or nothing.
        """
        outcome: Counter[str] = Counter()
        with self.store.writing() as session:
            here = {row.uid: row.body for row in session.scalars(sa.select(ItemRow))}
            contents = [_content(body) for body in here.values()]
            for item in parse_stores(document):
                body = item.as_json()
                if _content(body) in contents:
                    outcome["same"] += 1
                    continue
                uid = item.id if item.id and item.id not in here else _fresh()
                session.add(_row(parse_item({**body, "id": uid})))
                here[uid] = body
                contents.append(_content(body))
                outcome["added"] += 1
            if len(here) > MOST_ITEMS:
                raise FieldError("items", f"The stores hold {MOST_ITEMS} entries and no more.")
        return outcome


MOST_OFFERED = 200
"""So many entries are offered where a page draws on the stores."""
MOST_WORDS = 12
"""So many words of a search count."""


def _fresh() -> str:
    """An id that no other stores give either: a meter's goes into records, and records travel."""
    return f"s{secrets.token_hex(4)}"


def _content(body: dict[str, Any]) -> dict[str, Any]:
    """What an entry says, whatever it is called."""
    return {k: v for k, v in body.items() if k != "id"}


def _row(item: Item) -> ItemRow:
    return ItemRow(
        uid=item.id,
        kind=item.kind.key,
        searched=item.searched,
        body=item.as_json(),
        gone=bool(item.gone),
        at=now(),
    )


def _must(session: Session, uid: str) -> ItemRow:
    row = session.scalar(sa.select(ItemRow).where(ItemRow.uid == uid))
    if row is None:
        raise Missing("id", "There is no such entry in the stores.")
    return row
