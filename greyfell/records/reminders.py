"""What a shelf has to be reminded of: isolation to be tested again, a short that was left on a
capacitor, a discharge that was begun and not ended, a meter to be proved.
"""

import json
from collections.abc import Iterator
from contextlib import suppress
from datetime import UTC, date, datetime, timedelta

import sqlalchemy as sa
from msgspec import Struct

from greyfell import clock
from greyfell.core.evidence.kinds.registry import keys
from greyfell.core.evidence.record import Statement
from greyfell.core.evidence.stores import PROVED
from greyfell.core.judgement.salvage import DONE
from greyfell.core.steps.salvage import STEP, walk
from greyfell.core.telling.isolating import AGAIN_DAYS
from greyfell.records.models import PieceRow, ReadingRow, StrikeRow
from greyfell.records.store import Store
from greyfell.records.stores import Stores

NEWEST = 200
"""So many of the newest pieces are looked at for what was said at their capacitors."""
MOST_TOLD = 12
SOON_DAYS = 30
"""A test is told as due so long before. House rule."""
PROVED_DAYS = 365
"""A meter is held against a known source so often, besides before every use on what kills. House
rule; common practice."""
JUDGING = ("meter", "insulation-tester", "clamp")
"""Entries of the stores that lives are judged by."""


class Reminder(Struct, frozen=True, kw_only=True):
    """One thing to remember: the piece, what, in words; whether it is past. What stands in the
    stores has no tag.
    """

    tag: str
    kind: str
    words: str
    past: bool = False


def reminders(store: Store, now: datetime | None = None) -> list[Reminder]:
    """Everything a shelf is reminded of, what is past first."""
    today = now or clock.moment()
    found = [*_capacitors(store), *_tests(store, today), *_meters(store, today)]
    return sorted(found, key=lambda r: (not r.past, r.tag))[:MOST_TOLD]


def _tests(store: Store, today: datetime) -> list[Reminder]:
    """Pieces of which the last insulation test is about a year old."""
    at = sa.func.max(sa.func.json_extract(ReadingRow.body, "$.at"))
    struck = sa.exists().where(StrikeRow.reading_pk == ReadingRow.id)
    query = (
        sa.select(PieceRow.tag, at)
        .join(ReadingRow, ReadingRow.piece_id == PieceRow.id)
        .where(ReadingRow.kind.in_(keys("again_in_time")), ~struck)
        .group_by(PieceRow.id)
    )
    with store.looking() as connection:
        rows = [(tag, told) for tag, told in connection.execute(query) if told]
    out = []
    for tag, told in rows:
        tested = _stamp(told)
        if tested is None:
            continue
        due = tested + timedelta(days=AGAIN_DAYS)
        if due - today > timedelta(days=SOON_DAYS):
            continue
        past = due < today
        words = f"insulation to be tested again {'since' if past else 'by'} {due.date()}"
        out.append(Reminder(tag=tag, kind="test again", words=words, past=past))
    return out


def _meters(store: Store, today: datetime) -> Iterator[Reminder]:
    """Meters of the stores that were proved on a known day, which is about a year ago; and, once,
    those of which nobody noted it.
    """
    unknown = []
    for item in Stores(store).of(JUDGING):
        told = item.figures.get(PROVED.key)
        if told is None:
            unknown.append(item.title)
            continue
        due = date.fromisoformat(str(told)) + timedelta(days=PROVED_DAYS)
        if due - today.date() <= timedelta(days=SOON_DAYS):
            past = due < today.date()
            words = (
                f"{item.title}: to be proved on a known source {'since' if past else 'by'} {due}"
            )
            yield Reminder(tag="", kind="prove", words=words, past=past)
    if unknown:
        words = f"when they were last proved is not noted: {', '.join(unknown[:MOST_NAMED])}"
        yield Reminder(tag="", kind="prove", words=words)


MOST_NAMED = 4


def _stamp(told: object) -> datetime | None:
    """A time as it was kept; one without a zone is the world's. None where it is no time: what
    cannot be read keeps no shelf from opening.
    """
    try:
        found = datetime.fromisoformat(str(told))
    except ValueError:
        return None
    return found if found.tzinfo is not None else found.replace(tzinfo=UTC)


def _capacitors(store: Store) -> list[Reminder]:
    """Shorts that were left on, and discharges that were not ended."""
    query = sa.select(PieceRow.tag, sa.func.json_extract(PieceRow.head, "$.statements"))
    with store.looking() as connection:
        newest = query.order_by(PieceRow.id.desc()).limit(NEWEST)
        rows = [(tag, told) for tag, told in connection.execute(newest) if told]
    out = []
    for tag, told in rows:
        said = list(_each(told))
        done = any(s.kind == DONE for s in said)
        begun = [s for s in said if s.kind == STEP]
        if done:
            out.append(Reminder(tag=tag, kind="shorted", words="a short was left on its capacitor"))
        elif begun and walk(said).taken:
            words = "its capacitor is not proved empty: the discharge was begun and not ended"
            out.append(Reminder(tag=tag, kind="begun", words=words, past=True))
    return out


def _each(told: str) -> Iterator[Statement]:
    """The statements of a head that speak of salvage; one that cannot be read is left out."""
    for said in json.loads(told):
        if isinstance(said, dict) and said.get("kind") in (DONE, STEP):
            with suppress(ValueError):
                yield Statement.model_validate_json(json.dumps(said))
