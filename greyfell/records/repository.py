"""Keeping and finding pieces: append readings, strike them out, correct what can be seen, list,
import, export.
"""

import uuid
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import UTC, datetime
from functools import cached_property
from typing import Any

import sqlalchemy as sa
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.orm import Session, selectinload

from greyfell.core import CORE_VERSION
from greyfell.core.errors import FieldError, Missing
from greyfell.core.evidence.parse import parse_record
from greyfell.core.evidence.record import FORMAT, Transformer
from greyfell.core.guidance.summary import summarise
from greyfell.core.identify import identify
from greyfell.core.judgement.identification import Identification
from greyfell.records.fingerprint import record_hash
from greyfell.records.models import ConclusionRow, PieceRow, ReadingRow, StrikeRow
from greyfell.records.store import Store

PAGE = 24


@dataclass(frozen=True)
class Kept:
    """A piece as it is kept: its checked record, its public document, the version that edits must
    name.
    """

    record: Transformer
    document: dict[str, Any]
    version: int

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
        return identify(self.record)


@dataclass(frozen=True)
class ShelfPage:
    """One page of the shelf: summaries, how many there are in all, counts by family and by
    verdict.
    """

    items: list[dict[str, Any]]
    total: int
    matching: int
    families: dict[str, int]
    verdicts: dict[str, int]
    page: int

    @property
    def pages(self) -> int:
        """How many pages hold what matches."""
        return max(1, -(-self.matching // PAGE))


def now() -> str:
    """This moment, ISO 8601 with zone."""
    return datetime.now(UTC).astimezone().isoformat(timespec="seconds")


class Repository:
    """All reading and writing of pieces goes through here."""

    def __init__(self, store: Store):
        self.store = store
        self._concluded = False

    # -------------------------------------------------------------- reading

    def get(self, tag: str) -> Kept | None:
        """A piece by its tag (case does not matter), or None."""
        with self.store.reading() as session:
            row = _row(session, tag)
            return None if row is None else _kept(row)

    def document(self, tag: str) -> dict[str, Any]:
        """A piece's public document. Raises FieldError where there is no such tag."""
        kept = self.get(tag)
        if kept is None:
            raise Missing("tag", f"There is no piece tagged {tag[:24]}.")
        return kept.document

    def tags(self) -> list[str]:
        """Every tag, in order of tag."""
        with self.store.reading() as session:
            return list(session.scalars(sa.select(PieceRow.tag).order_by(PieceRow.tag)))

    def shelf(
        self, family: str = "", verdict: str = "", sort: str = "danger", page: int = 1
    ) -> ShelfPage:
        """One page of summaries. Cost does not grow with the readings, and hardly with the
        pieces.
        """
        if not self._concluded:  # once: from here on every write concludes itself
            self.conclude_missing()
            self._concluded = True
        joined = sa.and_(
            ConclusionRow.record_hash == PieceRow.record_hash,
            ConclusionRow.core_version == CORE_VERSION,
        )
        chosen = [
            c
            for c, v in (
                (ConclusionRow.family == family, family),
                (ConclusionRow.verdict == verdict, verdict),
            )
            if v
        ]
        order = {
            "danger": (ConclusionRow.danger.desc(), PieceRow.tag),
            "tag": (PieceRow.tag,),
            "newest": (PieceRow.id.desc(),),
            "family": (ConclusionRow.family, PieceRow.tag),
        }.get(sort, (PieceRow.tag,))
        counted = sa.select(
            ConclusionRow.family, ConclusionRow.verdict, sa.func.count(PieceRow.id)
        ).join(PieceRow, joined)
        with self.store.reading() as session:
            counts = session.execute(
                counted.group_by(ConclusionRow.family, ConclusionRow.verdict)
            ).all()
            matching = sum(n for f, v, n in counts if family in ("", f) and verdict in ("", v))
            page = min(max(1, page), max(1, -(-matching // PAGE)))
            keys = (
                sa.select(PieceRow.id)
                .join(ConclusionRow, joined)
                .where(*chosen)
                .order_by(*order)
                .limit(PAGE)
                .offset((page - 1) * PAGE)
            )
            wanted = list(session.scalars(keys))
            query = sa.select(
                PieceRow.id, PieceRow.tag, PieceRow.title, ConclusionRow.summary
            ).join(ConclusionRow, joined)
            found = {
                row[0]: row[1:] for row in session.execute(query.where(PieceRow.id.in_(wanted)))
            }
        rows = [found[k] for k in wanted]
        families, verdicts, total = _counts(counts)
        items = [{"tag": tag, "title": title, **summary} for tag, title, summary in rows]
        return ShelfPage(
            items=items,
            total=total,
            matching=matching,
            families=families,
            verdicts=verdicts,
            page=page,
        )

    def wanting(self) -> dict[str, Any] | None:
        """The piece nearest to a screening that still lacks one: its tag, title and next step; None
        where none does.
        """
        joined = sa.and_(
            ConclusionRow.record_hash == PieceRow.record_hash,
            ConclusionRow.core_version == CORE_VERSION,
        )
        query = (
            sa.select(PieceRow.tag, PieceRow.title, ConclusionRow.summary)
            .join(ConclusionRow, joined)
            .where(ConclusionRow.verdict == "unknown")
            .order_by(PieceRow.id.desc())
            .limit(1)
        )
        with self.store.reading() as session:
            row = session.execute(query).first()
        return (
            None
            if row is None
            else {"tag": row[0], "title": row[1], "next_step": row[2].get("next_step", "")}
        )

    # -------------------------------------------------------------- writing

    def add(self, document: dict[str, Any]) -> Kept:
        """Keep a new piece. Raises FieldError where the record is not one, or its tag is in use."""
        named = {"format": FORMAT, **document, "id": document.get("id") or str(uuid.uuid4())}
        record = parse_record(named)
        with self.store.writing() as session:
            if _row(session, record.tag) is not None:
                free = _free(session, record.tag)
                raise FieldError("tag", f"Tag {record.tag} is in use. {free} is free.")
            if _by_uid(session, record.id) is not None:
                raise FieldError("id", "A piece with this id is here already: import merges it.")
            return _write(session, _new_row(session, record), record, _unset(named))

    def append(self, tag: str, readings: Iterable[dict[str, Any]]) -> Kept:
        """Append readings; ids and times are given where they are missing. Returns the piece as it
        stands then. All or nothing.
        """
        with self.store.writing() as session:
            row = _must(session, tag)
            document = _document(row)
            taken = {r["id"] for r in document["readings"]}
            added = []
            for reading in readings:
                given = {k: v for k, v in reading.items() if v is not None}
                ident = given.get("id") or _next_id(taken)
                if ident in taken:
                    raise FieldError(
                        f"reading {ident}",
                        f"Reading {ident} is here already; readings are never overwritten.",
                    )
                taken.add(ident)
                added.append({"id": ident, "at": now()} | given)
            changed = {**document, "readings": document["readings"] + added}
            return _write(session, row, parse_record(changed), changed)

    def strike(self, tag: str, reading_id: str, reason: str, by: str = "") -> Kept:
        """Strike a reading out with its reason; it stays in the record. Raises FieldError."""
        if not reason.strip():
            raise FieldError("reason", "Striking a reading out needs a reason; none was given.")
        with self.store.writing() as session:
            row = _must(session, tag)
            document = _document(row)
            found = next((r for r in document["readings"] if r["id"] == reading_id), None)
            if found is None:
                raise FieldError("reading", f"There is no reading {reading_id[:64]} on {row.tag}.")
            if found.get("struck"):
                raise FieldError("reading", f"Reading {reading_id} is struck out already.")
            found["struck"] = {"reason": reason.strip()[:200], "by": by[:200], "at": now()}
            return _write(session, row, parse_record(document), document)

    def correct(self, tag: str, changes: dict[str, Any], version: int) -> None:
        """Correct what can be seen (title, leads, core, plate, supply, meters …); each correction
        is kept in `edits`.

        `version` is the one the form was made from: where the piece has moved on, nothing is
        stored. Raises FieldError.
        """
        with self.store.writing() as session:
            row = _must(session, tag)
            if row.version != version:
                raise FieldError(
                    "version",
                    "This piece was changed in another tab since this form was opened. Nothing was "
                    "stored; look at it again, then enter this once more.",
                )
            document = _document(row)
            edits = [*document.get("edits", []), *_edits(document, changes)]
            document |= changes
            if edits:
                document["edits"] = edits
            record = parse_record(document)
            folded = record.tag.casefold()
            if folded != row.tag_folded and _row(session, record.tag) is not None:
                raise FieldError("tag", f"Tag {record.tag} is in use.")
            row.tag, row.tag_folded, row.title = record.tag, folded, record.title
            row.version += 1
            _write(session, row, record, document)

    def append_statement(self, tag: str, statement: dict[str, Any]) -> None:
        """Append what somebody vouches for."""
        with self.store.writing() as session:
            row = _must(session, tag)
            document = _document(row)
            said = list(document.get("statements", []))
            said.append({"id": f"s{len(said) + 1}", "at": now(), **statement})
            document["statements"] = said
            _write(session, row, parse_record(document), document)

    def bring_in(self, document: dict[str, Any], *, merge: bool = False) -> tuple[str, str]:
        """Import a document. Returns the tag and what happened: `added`, `merged`, `same`, or `ask`
        where a merge needs agreement.

        A different id with a tag in use gets a new tag. Nothing is overwritten. Raises FieldError;
        nothing half-stored.
        """
        record = parse_record(document)
        with self.store.writing() as session:
            here = _by_uid(session, record.id) if record.id else None
            if here is None:
                taken = _row(session, record.tag) is not None
                tag = _free(session, record.tag) if taken else record.tag
                named = {"tag": tag, "id": record.id or str(uuid.uuid4())}
                record = record.model_copy(update=named)
                given = _unset({**document, **named})
                _write(session, _new_row(session, record), record, given)
                return tag, "added"
            merged, news = _merge(_document(here), record.as_json())
            if not news:
                return here.tag, "same"
            if not merge:
                return here.tag, "ask"
            _write(session, here, parse_record(merged), merged)
            return here.tag, "merged"

    def conclude_missing(self, most: int = 5000) -> int:
        """Work out conclusions that the cache lacks (a new core version, a new copy). Returns how
        many.
        """
        joined = sa.and_(
            ConclusionRow.record_hash == PieceRow.record_hash,
            ConclusionRow.core_version == CORE_VERSION,
        )
        with self.store.reading() as session:
            query = (
                sa.select(PieceRow.tag)
                .outerjoin(ConclusionRow, joined)
                .where(ConclusionRow.record_hash.is_(None))
            )
            missing = list(session.scalars(query.limit(most)))
        for tag in missing:
            with self.store.writing() as session:
                row = _row(session, tag)
                if row is not None:
                    _conclude(session, row, _kept(row).ident)
        return len(missing)


# ------------------------------------------------------------------ rows and documents


def _counts(rows: Iterable[Any]) -> tuple[dict[str, int], dict[str, int], int]:
    """Pieces by family, by verdict, and in all."""
    families: dict[str, int] = {}
    verdicts: dict[str, int] = {}
    for family, verdict, n in rows:
        families[family] = families.get(family, 0) + n
        verdicts[verdict] = verdicts.get(verdict, 0) + n
    return families, verdicts, sum(families.values())


def _row(session: Session, tag: str) -> PieceRow | None:
    query = (
        sa.select(PieceRow)
        .where(PieceRow.tag_folded == tag.casefold())
        .options(selectinload(PieceRow.readings))
    )
    return session.scalar(query)


def _must(session: Session, tag: str) -> PieceRow:
    row = _row(session, tag)
    if row is None:
        raise Missing("tag", f"There is no piece tagged {tag[:24]}.")
    return row


def _kept(row: PieceRow) -> Kept:
    document = _document(row)
    return Kept(parse_record(document), document, row.version)


def _document(row: PieceRow) -> dict[str, Any]:
    """The public document: the head, and every reading with its strike."""
    readings = [
        r.body | ({"struck": r.strike.body} if r.strike is not None else {}) for r in row.readings
    ]
    return {**row.head, "readings": readings}


def _unset(document: dict[str, Any]) -> dict[str, Any]:
    """Keys the given document has and the checked record left out (null lists): written back as
    they were.
    """
    return {k: v for k, v in document.items() if v is None and k not in ("id",)}


def _edits(document: dict[str, Any], changes: dict[str, Any]) -> list[dict[str, Any]]:
    """What changes, as it is kept beside the record: when, where, from what to what."""
    at = now()
    return [
        {"at": at, "path": path, "from": document.get(path), "to": value}
        for path, value in changes.items()
        if document.get(path) != value
    ]


def _by_uid(session: Session, uid: str | None) -> PieceRow | None:
    return session.scalar(sa.select(PieceRow).where(PieceRow.uid == uid))


def _new_row(session: Session, record: Transformer) -> PieceRow:
    """An empty row for a new piece."""
    row = PieceRow(
        uid=record.id,
        tag=record.tag,
        tag_folded=record.tag.casefold(),
        title=record.title,
        head={},
        record_hash="",
        created_at=now(),
    )
    session.add(row)
    return row


def _write(session: Session, row: PieceRow, record: Transformer, document: dict[str, Any]) -> Kept:
    """Store a checked record: the head, new readings, new strikes, the hash, and the conclusion
    beside it.

    `document` is the record as it was given; what it leaves out is taken from the record itself.
    """
    checked = record.as_json()
    whole = {**checked, **document}
    row.head = {k: v for k, v in whole.items() if k != "readings"}
    session.flush()
    here = {r.reading_id: r for r in row.readings}
    given = {r["id"]: r for r in document.get("readings") or [] if r.get("id")}
    for reading in checked.get("readings", []):
        body = dict(reading)
        struck = body.pop("struck", None)
        if "struck" in given.get(body["id"], {}) and not struck:
            body["struck"] = None
        kept = here.get(body["id"])
        if kept is None:
            kept = ReadingRow(reading_id=body["id"], kind=body["kind"], body=body)
            row.readings.append(kept)
        if struck and kept.strike is None:
            kept.strike = StrikeRow(body=struck)
    session.flush()
    stored = _document(row)
    row.record_hash = record_hash(stored)
    piece = Kept(record, stored, row.version)
    _conclude(session, row, piece.ident)
    return piece


def _conclude(session: Session, row: PieceRow, ident: Identification) -> None:
    """Keep what follows from a record beside it: a cache, never a source."""
    summary = summarise(ident)
    values = {
        "record_hash": row.record_hash,
        "core_version": CORE_VERSION,
        "family": summary.family,
        "verdict": ident.verdict,
        "danger": summary.danger,
        "summary": summary.as_json(),
    }
    session.execute(insert(ConclusionRow).values(**values).on_conflict_do_nothing())


def _next_id(taken: set[str]) -> str:
    numbers = [int(t[1:]) for t in taken if t[:1] == "r" and t[1:].isdigit()]
    return f"r{max(numbers, default=0) + 1}"


def _free(session: Session, tag: str) -> str:
    for n in range(2, 10_000):
        suffix = f"-{n}"
        candidate = tag[: 24 - len(suffix)] + suffix
        if (
            session.scalar(
                sa.select(PieceRow.id).where(PieceRow.tag_folded == candidate.casefold())
            )
            is None
        ):
            return candidate
    raise FieldError("tag", f"No free tag near {tag} was found; give another.")


def _merge(mine: dict[str, Any], theirs: dict[str, Any]) -> tuple[dict[str, Any], int]:
    """Append what the other copy has and this one lacks: readings, strikes, changes, statements.
    Nothing is overwritten.

    A reading of the same id but another content is a different reading: it gets a new id.
    """
    merged, news = dict(mine), 0
    readings = [dict(r) for r in mine["readings"]]
    by_id = {r["id"]: r for r in readings}
    for r in theirs.get("readings", []):
        here = by_id.get(r["id"])
        bare = {k: v for k, v in r.items() if k != "struck"}
        if here is None:
            readings.append(r)
            by_id[r["id"]] = r
            news += 1
        elif {k: v for k, v in here.items() if k != "struck"} != bare:
            if any(
                {k: v for k, v in x.items() if k not in ("id", "struck")}
                == {k: v for k, v in bare.items() if k != "id"}
                for x in readings
            ):
                continue
            fresh = {**r, "id": _next_id(set(by_id))}
            readings.append(fresh)
            by_id[fresh["id"]] = fresh
            news += 1
        elif r.get("struck") and not here.get("struck"):
            here["struck"] = r["struck"]
            news += 1
    merged["readings"] = readings
    for name in ("changes", "statements"):
        have = mine.get(name) or []
        extra = [x for x in theirs.get(name) or [] if x not in have]
        if extra:
            merged[name] = have + extra
            news += len(extra)
    return merged, news
