"""Keeping plans and rigs with the piece they were made for: none is overwritten; what is measured
later is added.
"""

import secrets
from collections import Counter
from typing import Any

import sqlalchemy as sa

from greyfell.core.errors import FieldError, Missing
from greyfell.core.planners.kept_plan import MOST_MEASURED, parse_plan
from greyfell.records.models import EntryRow, PlanRow
from greyfell.records.rows import now
from greyfell.records.store import Store, rows_of

FORMAT = "greyfell.plans/1"
MOST_PLANS = 5000
"""So many plans are kept."""


class Plans:
    """All reading and writing of kept plans goes through here. Raises FieldError for what is asked
    wrongly.
    """

    def __init__(self, store: Store):
        self.store = store

    def all(self, *, planner: str | None = None, tag: str | None = None) -> list[dict[str, Any]]:
        """Kept plans, the latest first; of one planner, or of one piece, where asked for."""
        query = sa.select(PlanRow.body).order_by(PlanRow.id.desc())
        if planner is not None:
            query = query.where(PlanRow.planner == planner)
        if tag is not None:
            query = query.where(PlanRow.tag == tag)
        with self.store.looking() as connection:
            return list(connection.scalars(query))

    def get(self, uid: str) -> dict[str, Any]:
        """One plan. Raises Missing where there is none."""
        query = sa.select(PlanRow.body).where(PlanRow.uid == uid)
        with self.store.looking() as connection:
            body = connection.scalar(query)
        if body is None:
            raise Missing("plan", "There is no such plan.")
        return dict(body)

    def add(self, document: dict[str, Any], key: str = "") -> str:
        """Keep a plan under an id of its own, which is returned. Raises FieldError."""
        body = {**parse_plan(document), "id": f"p{secrets.token_hex(4)}", "at": now()}
        with self.store.writing() as session:
            if rows_of(session, PlanRow) >= MOST_PLANS:
                raise FieldError("planner", f"{MOST_PLANS} plans are kept and no more.")
            session.add(_row(body))
            if key:
                session.add(EntryRow(key=key, tag=body["id"], said="stored", at=now()))
        return str(body["id"])

    def measure(self, uid: str, figure: str, value: float, key: str = "") -> None:
        """Set what was measured against a figure. Raises FieldError."""
        with self.store.writing() as session:
            row = session.scalar(sa.select(PlanRow).where(PlanRow.uid == uid))
            if row is None:
                raise Missing("plan", "There is no such plan.")
            measured = [*row.body.get("measured", []), {"key": figure, "value": value, "at": now()}]
            if len(measured) > MOST_MEASURED:
                raise FieldError("value", f"{MOST_MEASURED} figures are kept and no more.")
            row.body = parse_plan({**row.body, "measured": measured})
            if key:
                session.add(EntryRow(key=key, tag=uid, said="stored", at=now()))

    def walk(self, uid: str, step: dict[str, Any], key: str = "") -> None:
        """Keep a step that was proved. Raises FieldError."""
        with self.store.writing() as session:
            row = session.scalar(sa.select(PlanRow).where(PlanRow.uid == uid))
            if row is None:
                raise Missing("plan", "There is no such plan.")
            walked = [*row.body.get("walk", []), {**step, "at": now()}]
            row.body = parse_plan({**row.body, "walk": walked})
            if key:
                session.add(EntryRow(key=key, tag=uid, said="stored", at=now()))

    def as_document(self) -> dict[str, Any]:
        """Every kept plan, the first first."""
        return {"format": FORMAT, "plans": list(reversed(self.all()))}

    def bring_in(self, document: Any) -> Counter[str]:
        """Bring plans in; one whose id is here already stays as it is. Raises FieldError; all or
        nothing.
        """
        given = document.get("plans") if isinstance(document, dict) else None
        if not isinstance(given, list):
            raise FieldError("plans", f"A document of “{FORMAT}” holds a list of plans.")
        outcome: Counter[str] = Counter()
        with self.store.writing() as session:
            here = {*session.scalars(sa.select(PlanRow.uid))}
            for body in map(parse_plan, given):
                uid = str(body.get("id") or f"p{secrets.token_hex(4)}")
                if uid in here:
                    outcome["same"] += 1
                    continue
                session.add(_row({**body, "id": uid, "at": body.get("at") or now()}))
                here.add(uid)
                outcome["added"] += 1
            if len(here) > MOST_PLANS:
                raise FieldError("plans", f"{MOST_PLANS} plans are kept and no more.")
        return outcome


def _row(body: dict[str, Any]) -> PlanRow:
    return PlanRow(
        uid=body["id"], planner=body["planner"], tag=body.get("tag", ""), body=body, at=body["at"]
    )
