"""A piece as rows, and as its public document."""

import uuid
from collections.abc import Iterable
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import sqlalchemy as sa
from sqlalchemy.orm import Session

from greyfell import clock
from greyfell.core.errors import FieldError, Missing
from greyfell.core.evidence.lenient import LeftOut, parse_kept
from greyfell.core.evidence.record import Transformer
from greyfell.core.identify import identify
from greyfell.core.judgement.gates import Gate, live_gate
from greyfell.core.judgement.identification import Identification
from greyfell.core.steps.next_step import next_steps
from greyfell.core.steps.step import Step
from greyfell.records.models import PieceRow, ReadingRow, StrikeRow

Document = dict[str, Any]


@dataclass(frozen=True)
class Kept:
    """A piece as it is kept: its record as far as it can be read, its public document, its
    fingerprint, and the version that edits must name. `drawn` is for whoever shows it, to keep what
    follows from it.
    """

    record: Transformer
    document: Document
    record_hash: str
    version: int = 1
    unread: tuple[LeftOut, ...] = ()
    drawn: dict[str, Any] = field(default_factory=dict, compare=False, repr=False)

    @property
    def tag(self) -> str:
        """The piece's tag."""
        return self.record.tag

    @property
    def supply_volts(self) -> float:
        """The volts it would be fed with."""
        return self.record.supply.volts

    @cached_property
    def ident(self) -> Identification:
        """What follows from the record, worked out once."""
        return identify(self.record, self.unread)

    @property
    def asked(self) -> Identification:
        """The same, asked now: what the gate says of age and of times to come is never kept."""
        return self.ident.at(clock.moment())

    @property
    def gate(self) -> Gate:
        """The gate as it stands now."""
        return live_gate(self.asked)

    @cached_property
    def kept_gate(self) -> Gate:
        """The gate by the record alone, worked out once."""
        return live_gate(self.ident)

    @cached_property
    def kept_steps(self) -> list[Step]:
        """What to do next by the record alone, worked out once."""
        return next_steps(self.ident)

    @property
    def steps(self) -> list[Step]:
        """What to do next, asked now."""
        return self.kept_steps if self.gate == self.kept_gate else next_steps(self.asked)


def now() -> str:
    """This moment, ISO 8601 with zone, to the millisecond: what equals in time settles nothing."""
    return clock.moment().astimezone().isoformat(timespec="milliseconds")


def folded(tag: str) -> str:
    """A tag as it is looked for: in any case; half a letter is none of ours."""
    return tag.casefold().encode("utf-8", "replace").decode()


def find(session: Session, tag: str) -> PieceRow | None:
    """The row of a tag; case does not matter."""
    return session.scalar(sa.select(PieceRow).where(PieceRow.tag_folded == folded(tag)))


def must(session: Session, tag: str) -> PieceRow:
    """The row of a tag. Raises Missing where there is none."""
    row = find(session, tag)
    if row is None:
        raise Missing("tag", f"There is no piece tagged {tag[:24]}.")
    return row


def by_uid(session: Session, uid: str | None) -> PieceRow | None:
    """The row of a piece's id."""
    return session.scalar(sa.select(PieceRow).where(PieceRow.uid == uid))


def document_of(row: PieceRow) -> Document:
    """The public document: the head, and every reading with its strike."""
    readings = [
        r.body | ({"struck": r.strike.body} if r.strike is not None else {}) for r in row.readings
    ]
    return {**row.head, "readings": readings}


def kept_of(row: PieceRow) -> Kept:
    """A row as a piece."""
    document = document_of(row)
    record, unread = parse_kept(document)
    return Kept(
        record=record,
        document=document,
        record_hash=row.record_hash,
        version=row.version,
        unread=unread,
    )


def new_row(record: Transformer) -> PieceRow:
    """An empty row for a new piece."""
    return PieceRow(
        uid=record.id or str(uuid.uuid4()),
        tag=record.tag,
        tag_folded=record.tag.casefold(),
        title=record.title,
        head={},
        record_hash="",
        created_at=now(),
    )


def filled(document: Document, record: Transformer) -> Document:
    """A document as it is kept: every key as it was given, and ids and defaults from the record
    where it leaves them out; new readings in the checked form, null strikes as they were.
    """
    checked = record.as_json()
    by_id = {r["id"]: r for r in checked.get("readings", [])}
    given = document.get("readings") or []
    if all(isinstance(r, dict) and r.get("id") for r in given):
        readings = [_checked(r, by_id.get(r["id"])) for r in given]
    else:
        readings = list(by_id.values())
    return {**checked, **document, "readings": readings}


def _checked(given: Document, checked: Document | None) -> Document:
    """One reading in its checked form; as it was given where it cannot be read."""
    if checked is None:
        return given
    none = {"struck": None} if "struck" in given and not given["struck"] else {}
    return {**checked, **none}


def put(session: Session, row: PieceRow, kept: Kept, before: Document | None) -> None:
    """Write a piece into its row: the head, and what readings and strikes are new since `before`.
    What was read is never written again.
    """
    row.head = {k: v for k, v in kept.document.items() if k != "readings"}
    row.title, row.version, row.record_hash = kept.record.title, kept.version, kept.record_hash
    session.flush()
    old = {} if before is None else {r["id"]: r for r in before["readings"]}
    for reading in kept.document["readings"]:
        known = old.get(reading["id"])
        if known is None:
            session.add(_reading_row(row.id, reading))
        elif reading.get("struck") and not known.get("struck"):
            where = (ReadingRow.piece_id == row.id, ReadingRow.reading_id == reading["id"])
            found = session.scalars(sa.select(ReadingRow.id).where(*where)).one()
            session.add(StrikeRow(reading_pk=found, body=reading["struck"]))
    session.flush()


def _reading_row(piece_id: int, reading: Document) -> ReadingRow:
    """A new reading, its strike beside it."""
    struck = reading.get("struck")
    return ReadingRow(
        piece_id=piece_id,
        reading_id=reading["id"],
        kind=reading["kind"],
        body={k: v for k, v in reading.items() if k != "struck" or not v},
        strike=StrikeRow(body=struck) if struck else None,
    )


def next_id(taken: Iterable[str]) -> str:
    """The reading id after the last."""
    numbers = [int(t[1:]) for t in taken if t[:1] == "r" and t[1:].isdigit() and len(t) < 12]
    return f"r{max(numbers, default=0) + 1}"


def free(session: Session, tag: str) -> str:
    """A tag near one in use. Raises FieldError where there is none."""
    for n in range(2, 10_000):
        suffix = f"-{n}"
        candidate = tag[: 24 - len(suffix)] + suffix
        query = sa.select(PieceRow.id).where(PieceRow.tag_folded == candidate.casefold())
        if session.scalar(query) is None:
            return candidate
    raise FieldError("tag", f"No free tag near {tag} was found; give another.")


def merged(mine: Document, theirs: Document) -> tuple[Document, int]:
    """Append what the other copy has and this one lacks: readings, strikes, changes, statements.
    Nothing is overwritten.

    A reading of the same id but another content is a different reading: it gets a new id.
    """
    out = dict(mine)
    out["readings"], news = _both(mine["readings"], theirs.get("readings", []))
    for name in ("changes", "statements", "photos"):
        kept = mine.get(name) or []
        extra = [x for x in theirs.get(name) or [] if not _has(kept, x, name)]
        if extra:
            out[name] = kept + extra
            news += len(extra)
    return out, news


def _both(mine: list[Document], theirs: list[Document]) -> tuple[list[Document], int]:
    readings, news = [dict(r) for r in mine], 0
    by_id = {r["id"]: r for r in readings}
    have = [_content(r) for r in readings]
    for r in theirs:
        here = by_id.get(r["id"])
        if here is None or _content(here) != _content(r):
            if here is not None and _content(r) in have:
                continue
            fresh = r if here is None else {**r, "id": next_id(by_id)}
            readings.append(fresh)
            by_id[fresh["id"]] = fresh
            have.append(_content(fresh))
            news += 1
        elif r.get("struck") and not here.get("struck"):
            here["struck"] = r["struck"]
            news += 1
    return readings, news


def _has(kept: list[Document], one: Document, name: str) -> bool:
    """Whether an entry is here already; a photo by its file, whatever is marked on it."""
    if name == "photos":
        return one.get("file") in {p.get("file") for p in kept}
    return one in kept


def _content(reading: Document) -> Document:
    """What a reading says, whatever it is called and whether it was struck."""
    return {k: v for k, v in reading.items() if k not in ("id", "struck")}
