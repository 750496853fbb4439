"""Keeping what pieces and parts came out of: donors are added, and their facts corrected; none is
erased.
"""

import secrets
from collections import Counter
from typing import Any

import sqlalchemy as sa

from greyfell.core.errors import FieldError, Missing
from greyfell.core.evidence.record import Donor
from greyfell.core.telling.donors import parse_donor
from greyfell.records.models import DonorRow, EntryRow
from greyfell.records.rows import now
from greyfell.records.store import Store, rows_of

FORMAT = "greyfell.donors/1"
MOST_DONORS = 5000
"""So many donors are kept."""


class Donors:
    """All reading and writing of donors goes through here. Raises FieldError for what is asked
    wrongly.
    """

    def __init__(self, store: Store):
        self.store = store

    def all(self) -> list[Donor]:
        """Every donor, the latest first."""
        query = sa.select(DonorRow.body).order_by(DonorRow.id.desc())
        with self.store.looking() as connection:
            return [parse_donor(body) for body in connection.scalars(query)]

    def get(self, uid: str) -> Donor:
        """One donor. Raises Missing where there is none."""
        query = sa.select(DonorRow.body).where(DonorRow.uid == uid)
        with self.store.looking() as connection:
            body = connection.scalar(query)
        if body is None:
            raise Missing("donor", "There is no such donor.")
        return parse_donor(body)

    def titles(self) -> dict[str, str]:
        """What each is called, by its id."""
        named = sa.func.json_extract(DonorRow.body, "$.title")
        kind = sa.func.json_extract(DonorRow.body, "$.kind")
        query = sa.select(DonorRow.uid, named, kind).order_by(DonorRow.id.desc())
        with self.store.looking() as connection:
            return {uid: title or what for uid, title, what in connection.execute(query)}

    def add(self, document: dict[str, Any], key: str = "") -> Donor:
        """Keep a new donor under an id of its own. Raises FieldError."""
        donor = parse_donor({**document, "id": f"d{secrets.token_hex(4)}"})
        with self.store.writing() as session:
            if rows_of(session, DonorRow) >= MOST_DONORS:
                raise FieldError("kind", f"{MOST_DONORS} donors are kept and no more.")
            session.add(_row(donor))
            if key:
                session.add(EntryRow(key=key, tag=donor.id, said="stored", at=now()))
        return donor

    def change(self, uid: str, document: dict[str, Any], key: str = "") -> Donor:
        """Correct what is said of a donor. Raises FieldError."""
        donor = parse_donor({**document, "id": uid})
        with self.store.writing() as session:
            row = session.scalar(sa.select(DonorRow).where(DonorRow.uid == uid))
            if row is None:
                raise Missing("donor", "There is no such donor.")
            row.body = _body(donor)
            if key:
                session.add(EntryRow(key=key, tag=uid, said="stored", at=now()))
        return donor

    def as_document(self) -> dict[str, Any]:
        """Every donor in the open format, the first first."""
        return {"format": FORMAT, "donors": [_body(d) for d in reversed(self.all())]}

    def bring_in(self, document: Any) -> Counter[str]:
        """Bring donors in; one whose id is here already stays as it is. Raises FieldError; all or
        nothing.
        """
        given = document.get("donors") if isinstance(document, dict) else None
        if not isinstance(given, list):
            raise FieldError("donors", f"A document of “{FORMAT}” holds a list of donors.")
        if not all(isinstance(one, dict) for one in given):
            raise FieldError("donors", "Every donor is an object with its kind and facts.")
        outcome: Counter[str] = Counter()
        with self.store.writing() as session:
            here = {*session.scalars(sa.select(DonorRow.uid))}
            for donor in map(parse_donor, given):
                if donor.id in here:
                    outcome["same"] += 1
                    continue
                fresh = donor if donor.id else _named(donor)
                session.add(_row(fresh))
                here.add(fresh.id)
                outcome["added"] += 1
            if len(here) > MOST_DONORS:
                raise FieldError("donors", f"{MOST_DONORS} donors are kept and no more.")
        return outcome


def _named(donor: Donor) -> Donor:
    """The donor under an id of its own."""
    return donor.model_copy(update={"id": f"d{secrets.token_hex(4)}"})


def _body(donor: Donor) -> dict[str, Any]:
    return {**donor.model_dump(mode="json", exclude_unset=True), "id": donor.id}


def _row(donor: Donor) -> DonorRow:
    return DonorRow(uid=donor.id, body=_body(donor), at=now())
