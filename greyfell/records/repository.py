"""Keeping and finding pieces: append readings, strike them out, correct what can be seen, list,
import, export.

What follows from a change is worked out before the file is locked: nobody waits for thinking.
"""

import threading
import uuid
from collections.abc import Callable, Iterable, Mapping
from contextlib import suppress
from datetime import timedelta
from typing import Any

import sqlalchemy as sa
from msgspec import Struct
from sqlalchemy.orm import Session

from greyfell import clock
from greyfell.core import CORE_VERSION
from greyfell.core.errors import FieldError, Missing
from greyfell.core.evidence.lenient import parse_kept
from greyfell.core.evidence.loading import FORMAT
from greyfell.core.evidence.parse import parse_record
from greyfell.core.telling.outputs_of_shelf import WantedOutput
from greyfell.records import shelf as shelves
from greyfell.records.fingerprint import record_hash
from greyfell.records.models import ConclusionRow, EntryRow, PhotoRow, PieceRow, PlanRow, VerdictRow
from greyfell.records.photos import encoded, named
from greyfell.records.plain import PRACTISED_SQL
from greyfell.records.rows import (
    Document,
    Kept,
    by_uid,
    document_of,
    filled,
    find,
    folded,
    free,
    kept_of,
    merged,
    must,
    new_row,
    next_id,
    now,
    put,
)
from greyfell.records.shelf import ShelfPage
from greyfell.records.store import Store

KNOWN = 64
"""So many pieces are kept in mind with what follows from them."""
ROUNDS = 12
"""So often a change is worked out anew because another came between."""
REMEMBERED = timedelta(days=60)
"""So long what was entered is known by its key: sent again, it is not stored again."""


Change = Callable[[Document], Document]
Along = Callable[[Session, PieceRow], None]
PLATE_TEXT = sa.func.json_extract(PieceRow.head, sa.text("'$.nameplate.text'"))
"""The words of a plate, as they are indexed."""


class Entry(Struct, frozen=True):
    """Something entered before: on which piece, and what was said of it then."""

    tag: str
    said: str


class Repository:
    """All reading and writing of pieces goes through here. Raises FieldError for what is asked
    wrongly, Trouble where the file cannot be used.
    """

    def __init__(self, store: Store):
        self.store = store
        self.known: dict[tuple[str, int], Kept] = {}
        self.foreseen: dict[str, dict[str, Any]] = {}
        """What follows from records that are about to come in, by their hash."""
        self.turns: dict[str, threading.Lock] = {}
        """Changes of one piece take turns within one server; those of others do not wait."""

    # -------------------------------------------------------------- reading

    def get(self, tag: str) -> Kept | None:
        """A piece by its tag (case does not matter), or None."""
        with self.store.looking() as connection:
            asked = sa.select(PieceRow.record_hash, PieceRow.version)
            query = asked.where(PieceRow.tag_folded == folded(tag))
            stands = connection.execute(query).first()
        known = None if stands is None else self.known.get((stands[0], stands[1]))
        if stands is None or known is not None:
            return known
        with self.store.reading() as session:
            return self._know(kept_of(must(session, tag)))

    def _know(self, kept: Kept) -> Kept:
        """Keep a piece in mind, with all that was worked out of it; the longest unasked goes."""
        self.known[kept.record_hash, kept.version] = kept
        while len(self.known) > KNOWN:
            with suppress(KeyError, RuntimeError, StopIteration):
                del self.known[next(iter(self.known))]
        return kept

    def document(self, tag: str) -> Document:
        """A piece's public document, whether or not it can be read. Raises Missing where there is
        no such tag.
        """
        with self.store.reading() as session:
            return document_of(must(session, tag))

    def tags(self, like: str = "", most: int | None = None, *, practice: bool = True) -> list[str]:
        """Tags that hold some letters, in order; the first of them where there is a limit; with
        those of pieces for practice or without.
        """
        query = sa.select(PieceRow.tag).order_by(PieceRow.tag).limit(most)
        if not practice:
            query = query.where(sa.text(f"NOT {PRACTISED_SQL}"))
        if like:
            query = query.where(PieceRow.tag_folded.contains(like.casefold(), autoescape=True))
        with self.store.reading() as session:
            return list(session.scalars(query))

    def saying(self, kind: str, most: int) -> list[str]:
        """Tags of pieces on which a statement of a kind stands, the newest pieces first."""
        said = sa.func.json_each(PieceRow.head, "$.statements").table_valued("value", name="said")
        there = sa.func.json_extract(said.c.value, "$.kind") == kind
        query = sa.select(PieceRow.tag).where(sa.exists().select_from(said).where(there))
        with self.store.reading() as session:
            return list(session.scalars(query.order_by(PieceRow.id.desc()).limit(most)))

    def latest(self) -> Kept | None:
        """The piece that came last; None on an empty shelf."""
        query = sa.select(PieceRow.tag).order_by(PieceRow.id.desc()).limit(1)
        with self.store.reading() as session:
            tag = session.scalar(query)
        return None if tag is None else self.get(tag)

    def pieces_of(self, donor: str) -> list[tuple[str, str]]:
        """Tags and titles of the pieces that came out of a donor, in the order they came."""
        mine = sa.func.json_extract(PieceRow.head, "$.donor.id") == donor
        query = sa.select(PieceRow.tag, PieceRow.title).where(mine).order_by(PieceRow.id)
        with self.store.reading() as session:
            return [(tag, title) for tag, title in session.execute(query)]

    def sisters_of(self, piece: Kept, most: int = 8) -> list[str]:
        """Tags of other pieces that may be of the same make: their plates say the same words, or
        their titles begin with the same two words.
        """
        plate, title = piece.record.nameplate, " ".join(piece.record.title.split()[:2])
        alike: list[sa.ColumnElement[bool]] = []
        if plate is not None and plate.text.strip():
            alike.append(PLATE_TEXT.op("=", return_type=sa.Boolean())(plate.text))
        if " " in title:
            alike.append(PieceRow.title.startswith(title, autoescape=True))
        if not alike:
            return []
        query = sa.select(PieceRow.tag).where(sa.or_(*alike), PieceRow.tag != piece.tag)
        with self.store.reading() as session:
            return list(session.scalars(query.order_by(PieceRow.tag).limit(most)))

    def shelf(self, sort: str = "danger", **wanted: Any) -> ShelfPage:
        """One page of the shelf, as its pieces were last concluded; what may be wanted stands in
        `shelf.Asked`.
        """
        with self.store.looking() as connection:
            return shelves.page_of(connection, shelves.Asked(sort=sort, **wanted))

    def giving(self, wanted: WantedOutput, page: int = 1) -> tuple[list[shelves.Answer], int]:
        """Outputs across the shelf that give what is wanted, a page of them, and how many."""
        with self.store.looking() as connection:
            return shelves.giving(connection, wanted, page)

    def summaries(self, items: Iterable[shelves.Item]) -> dict[int, dict[str, Any]]:
        """What is concluded of pieces of the shelf, by their row."""
        with self.store.looking() as connection:
            return shelves.summaries(connection, [item.piece_id for item in items])

    def news(self, tag: str = "") -> list[shelves.News]:
        """Verdicts that newer rules changed, not read yet."""
        with self.store.looking() as connection:
            return shelves.news(connection, tag)

    def read_news(self, tags: Iterable[str]) -> None:
        """Somebody has read what newer rules changed of these pieces."""
        pieces = sa.select(PieceRow.id).where(PieceRow.tag.in_(list(tags)))
        with self.store.writing() as session:
            done = sa.update(VerdictRow).where(VerdictRow.piece_id.in_(pieces))
            session.execute(done.values(news=None))

    def waiting(self) -> int:
        """How many pieces stand as an earlier version of the program left them."""
        with self.store.reading() as session:
            return shelves.waiting(session)

    def look_again(self, kept: Kept) -> None:
        """Keep what follows from a piece that is opened, where an earlier version's conclusion
        still stands: what newer rules change of it is told at once.
        """
        query = (
            sa.select(PieceRow.id)
            .join(ConclusionRow, ConclusionRow.piece_id == PieceRow.id)
            .where(
                PieceRow.tag_folded == folded(kept.tag), ConclusionRow.core_version != CORE_VERSION
            )
        )
        with self.store.looking() as connection:
            stale = connection.scalar(query)
        if stale is None:
            return
        told = shelves.concluded(kept)
        with self.store.writing() as session:
            row = session.get(PieceRow, stale)
            if row is not None and row.record_hash == told["record_hash"]:
                shelves.keep(session, stale, told)

    def conclude_some(self, most: int = shelves.BATCH) -> int:
        """Work out some of what waits. Returns how many were."""
        return shelves.conclude_some(self.store, most)

    def entered(self, key: str) -> Entry | None:
        """What was entered under a key; None where nothing was."""
        if not key:
            return None
        query = sa.select(EntryRow.tag, EntryRow.said).where(EntryRow.key == key)
        with self.store.looking() as connection:
            row = connection.execute(query).first()
        return None if row is None else Entry(row.tag, row.said)

    # -------------------------------------------------------------- writing

    def add(self, document: Document, key: str = "") -> Kept:
        """Keep a new piece. Raises FieldError where the record is not one, or its tag is in use."""
        named = {"format": FORMAT, **document, "id": document.get("id") or str(uuid.uuid4())}
        kept = _worked_out(named)
        with self.store.writing() as session:
            if find(session, kept.tag) is not None:
                suggested = free(session, kept.tag)
                raise FieldError("tag", f"Tag {kept.tag} is in use. {suggested} is free.")
            if by_uid(session, kept.record.id) is not None:
                raise FieldError("id", "A piece with this id is here already: import merges it.")
            _new(session, kept)
            _remember(session, key, kept.tag, "added")
        return kept

    def append(
        self,
        tag: str,
        readings: Iterable[dict[str, Any]],
        key: str = "",
        said: str = "",
        meter: dict[str, Any] | None = None,
    ) -> Kept:
        """Append readings; ids and times are given where they are missing. Returns the piece as it
        stands then. All or nothing. A meter of the stores that they were read with joins the record
        with its ratings.
        """
        given = [{k: v for k, v in r.items() if v is not None} for r in readings]

        def more(document: Document) -> Document:
            taken = {r["id"] for r in document["readings"]}
            added = []
            for reading in given:
                ident = reading.get("id") or next_id(taken)
                if ident in taken:
                    raise FieldError(
                        f"reading {ident}",
                        f"Reading {ident} is here already; readings are never overwritten.",
                    )
                taken.add(ident)
                added.append({"id": ident, "at": now()} | reading)
            whole = {**document, "readings": document["readings"] + added}
            meters = document.get("meters") or []
            if meter is not None and meter["id"] not in {m["id"] for m in meters}:
                whole["meters"] = [*meters, meter]
            return whole

        return self._change(tag, more, key, said)

    def strike(
        self, tag: str, reading_id: str, reason: str, by: str = "", key: str = "", said: str = ""
    ) -> Kept:
        """Strike a reading out with its reason; it stays in the record. Raises FieldError."""
        if not reason.strip():
            raise FieldError("reason", "Striking a reading out needs a reason; none was given.")

        def struck(document: Document) -> Document:
            found = next((r for r in document["readings"] if r["id"] == reading_id), None)
            if found is None:
                raise FieldError(
                    "reading", f"There is no reading {reading_id[:64]} on {document['tag']}."
                )
            if found.get("struck"):
                raise FieldError("reading", f"Reading {reading_id} is struck out already.")
            mark = {"reason": reason.strip()[:200], "by": by[:200], "at": now()}
            readings = [{**r, "struck": mark} if r is found else r for r in document["readings"]]
            return {**document, "readings": readings}

        return self._change(tag, struck, key, said)

    def correct(self, tag: str, changes: dict[str, Any], version: int, key: str = "") -> Kept:
        """Correct what can be seen (title, leads, core, plate, supply, meters …); each correction
        is kept in `edits`.

        `version` is the one the form was made from: where the piece has moved on, nothing is
        stored. Raises FieldError.
        """

        def corrected(document: Document) -> Document:
            edits = [*(document.get("edits") or []), *_edits(document, changes)]
            return {**document, **changes, **({"edits": edits} if edits else {})}

        return self._change(tag, corrected, key, "corrected", version=version)

    def rename(self, tag: str, new: str, key: str = "") -> Kept:
        """Give a piece another tag; the old one is kept in `edits` and still finds it. Raises
        FieldError.
        """
        version = must_be(self.get(tag), tag).version
        renamed = self.correct(tag, {"tag": new.strip()}, version, key)
        with self.store.writing() as session:
            for row in session.scalars(sa.select(PlanRow).where(PlanRow.tag == tag)):
                row.tag, row.body = renamed.tag, {**row.body, "tag": renamed.tag}
        return renamed

    def known_as(self, tag: str) -> str | None:
        """The tag of the piece that a tag means, by its old one too; None where none does."""
        with self.store.reading() as session:
            row = find(session, tag)
        return row.tag if row is not None else self.renamed(tag)

    def renamed(self, tag: str) -> str | None:
        """The tag that a piece has now which had another before; None where none had it."""
        edits = sa.func.json_each(PieceRow.head, "$.edits").table_valued("value")
        path = sa.func.json_extract(edits.c.value, "$.path")
        was = sa.func.lower(sa.func.json_extract(edits.c.value, "$.from"))
        query = sa.select(PieceRow.tag).select_from(PieceRow).join(edits, sa.true())
        query = query.where(path == "tag", was == folded(tag)).order_by(PieceRow.id.desc())
        with self.store.reading() as session:
            return session.scalar(query.limit(1))

    def add_photo(self, tag: str, picture: bytes, note: str = "", key: str = "") -> Kept:
        """Keep a photo of a piece, its picture with it. Raises FieldError; all or nothing."""
        data = encoded(picture)
        file = named(data)

        def more(document: Document) -> Document:
            photos = document.get("photos") or []
            if file in {p.get("file") for p in photos}:
                raise FieldError("photo", f"This photo of {document['tag']} is here already.")
            return {**document, "photos": [*photos, {"file": file, "note": note, "at": now()}]}

        def along(session: Session, row: PieceRow) -> None:
            hold(session, row.id, file, data)

        return self._change(tag, more, key, "photo", along=along)

    def note_photo(self, tag: str, file: str, changes: dict[str, Any], key: str = "") -> Kept:
        """Change marks and note of a photo. Raises Missing where there is no such photo."""

        def noted(document: Document) -> Document:
            photos = document.get("photos") or []
            if file not in {p.get("file") for p in photos}:
                raise Missing("photo", f"There is no such photo of {tag[:24]}.")
            return {
                **document,
                "photos": [{**p, **changes} if p.get("file") == file else p for p in photos],
            }

        return self._change(tag, noted, key, "photo")

    def drop_photo(self, tag: str, file: str, key: str = "") -> Kept:
        """Take a photo away, its picture with it; that it was there stays in `edits`."""

        def less(document: Document) -> Document:
            photos = document.get("photos") or []
            kept = [p for p in photos if p.get("file") != file]
            if len(kept) == len(photos):
                raise Missing("photo", f"There is no such photo of {tag[:24]}.")
            edit = {"at": now(), "path": "photos", "from": file, "to": None}
            return {**document, "photos": kept, "edits": [*(document.get("edits") or []), edit]}

        def along(session: Session, row: PieceRow) -> None:
            mine = (PhotoRow.piece_id == row.id, PhotoRow.file == file)
            session.execute(sa.delete(PhotoRow).where(*mine))

        return self._change(tag, less, key, "photo", along=along)

    def picture(self, tag: str, file: str) -> bytes | None:
        """The picture of a photo; None where it is not here."""
        query = sa.select(PhotoRow.picture).join(PieceRow, PieceRow.id == PhotoRow.piece_id)
        query = query.where(PieceRow.tag_folded == folded(tag), PhotoRow.file == file)
        with self.store.looking() as connection:
            return connection.scalar(query)

    def pictures(self, tag: str) -> dict[str, bytes]:
        """Every picture of a piece by its file."""
        query = sa.select(PhotoRow.file, PhotoRow.picture)
        query = query.join(PieceRow, PieceRow.id == PhotoRow.piece_id)
        query = query.where(PieceRow.tag_folded == folded(tag)).order_by(PhotoRow.id)
        with self.store.looking() as connection:
            return dict(connection.execute(query).all())

    def bring_pictures(
        self,
        tag: str,
        pictures: Mapping[str, bytes],
        encode: Callable[[bytes], bytes] = encoded,
    ) -> int:
        """Keep the pictures that a record brought in names and that are not here yet, each as
        `encode` makes it. Returns how many were kept. Raises FieldError where one is no photo.
        """
        named_here = {p.get("file") for p in self.document(tag).get("photos") or []}
        wanted = {f: encode(data) for f, data in pictures.items() if f in named_here}
        with self.store.writing() as session:
            row = must(session, tag)
            held = set(session.scalars(sa.select(PhotoRow.file).filter_by(piece_id=row.id)))
            new = {f: data for f, data in wanted.items() if f not in held}
            for file, data in new.items():
                hold(session, row.id, file, data)
        return len(new)

    def append_statement(self, tag: str, statement: dict[str, Any], key: str = "") -> Kept:
        """Append what somebody vouches for."""
        return self.append_statements(tag, [statement], key)

    def append_statements(
        self, tag: str, statements: Iterable[dict[str, Any]], key: str = ""
    ) -> Kept:
        """Append several things that somebody vouches for, all or none."""
        given = list(statements)

        def said(document: Document) -> Document:
            whole = list(document.get("statements") or [])
            for statement in given:
                whole.append({"id": f"s{len(whole) + 1}", "at": now(), **statement})
            return {**document, "statements": whole}

        return self._change(tag, said, key, "vouched for")

    def append_change(self, tag: str, change: dict[str, Any], key: str = "") -> Kept:
        """Append a change to the iron; what it may have touched is asked for again."""

        def said(document: Document) -> Document:
            whole = list(document.get("changes") or [])
            return {
                **document,
                "changes": [*whole, {"id": f"c{len(whole) + 1}", "at": now(), **change}],
            }

        return self._change(tag, said, key, "changed")

    def foresee(self, document: Document) -> None:
        """Work out what follows from a document that will be brought in, before the file is locked
        for it; of a piece that is here already nothing. What is wrong with it is told then.
        """
        with suppress(FieldError):
            record = parse_record(document)
            with self.store.reading() as session:
                if by_uid(session, record.id) is not None:
                    return
            kept = _worked_out({**document, "tag": record.tag, "id": record.id or ""})
            self.foreseen[kept.record_hash] = shelves.concluded(kept)

    def bring_in(
        self, document: Document, *, merge: bool = False, key: str = ""
    ) -> tuple[str, str]:
        """Import a document. Returns the tag and what happened: `added`, `merged`, `same`, or `ask`
        where a merge needs agreement.

        A different id with a tag in use gets a new tag. Nothing is overwritten. Raises FieldError;
        nothing half-stored.
        """
        record = parse_record(document)
        ident = record.id or str(uuid.uuid4())
        with self.store.reading() as session:
            here = by_uid(session, ident)
            tag = record.tag if here is None else here.tag
            if here is None and find(session, tag) is not None:
                tag = free(session, tag)
        if here is None:
            kept = _worked_out({**document, "tag": tag, "id": ident})
            with self.store.writing() as session:
                if find(session, tag) is None and by_uid(session, ident) is None:
                    _new(session, kept, self.foreseen.pop(kept.record_hash, None))
                    _remember(session, key, tag, "added")
                    return tag, "added"
            return self.bring_in({**document, "id": ident}, merge=merge, key=key)  # came between
        return tag, self._merge_in(tag, record.as_json(), merge=merge)

    def _merge_in(self, tag: str, theirs: Document, *, merge: bool) -> str:
        _, news = merged(self.document(tag), theirs)
        if not news:
            return "same"
        if not merge:
            return "ask"
        self._change(tag, lambda mine: merged(mine, theirs)[0])
        return "merged"

    def _change(
        self,
        tag: str,
        change: Change,
        key: str = "",
        said: str = "",
        version: int | None = None,
        along: Along | None = None,
    ) -> Kept:
        """Change a piece: work out what follows, then lock the file and store it, unless another
        program's change came between; then work it out anew. `along` writes what belongs to it.
        """
        must_be(self.get(tag), tag)
        with self.turns.setdefault(folded(tag), threading.Lock()):
            for _ in range(ROUNDS):
                kept = self._changed(tag, change, key, said, version, along)
                if kept is not None:
                    return self._know(kept)
        raise FieldError("piece", f"{tag} is being changed from elsewhere; try again.")

    def _changed(
        self,
        tag: str,
        change: Change,
        key: str,
        said: str,
        version: int | None,
        along: Along | None,
    ) -> Kept | None:
        """One round of it; None where another change came between."""
        before = must_be(self.get(tag), tag)
        if version is not None and before.version != version:
            raise FieldError(
                "version",
                "This piece was changed in another tab since this form was opened. Nothing was "
                "stored; look at it again, then enter this once more.",
            )
        at = before.version + (version is not None)
        kept = _worked_out(change(before.document), before.document, at)
        values = shelves.concluded(kept)
        with self.store.writing() as session:
            row = must(session, tag)
            if (row.record_hash, row.version) != (before.record_hash, before.version):
                return None
            _renamed(session, row, kept)
            put(session, row, kept, before.document)
            if along is not None:
                along(session, row)
            shelves.keep(session, row.id, values)
            _remember(session, key, kept.tag, said)
        return kept


# ------------------------------------------------------------------ working out, and writing


def must_be(kept: Kept | None, tag: str) -> Kept:
    """A piece, where it is here. Raises Missing."""
    if kept is None:
        raise Missing("tag", f"There is no piece tagged {tag[:24]}.")
    return kept


def hold(session: Session, piece_id: int, file: str, picture: bytes) -> None:
    """Write a picture beside its piece."""
    session.add(PhotoRow(piece_id=piece_id, file=file, picture=picture, at=now()))


def _worked_out(document: Document, before: Document | None = None, version: int = 1) -> Kept:
    """A document as it would be kept. What is new in it must be right: raises FieldError; what was
    kept before need not be readable.
    """
    record, unread = parse_kept(document)
    old = {r["id"] for r in before["readings"]} if before is not None else set()
    for left in unread:
        known = before is not None and before.get(left.what) == document.get(left.what)
        if not (left.what in old if left.is_reading else known):
            parse_record(_alone(document, old))  # says what is wrong with what is new
            raise FieldError(left.what, left.why)
    whole = filled(document, record)
    return Kept(
        record=record,
        document=whole,
        record_hash=record_hash(whole),
        version=version,
        unread=unread,
    )


def _alone(document: Document, old: set[str]) -> Document:
    """A document with its new readings only."""
    return {**document, "readings": [r for r in document["readings"] if r.get("id") not in old]}


def _new(session: Session, kept: Kept, told: dict[str, Any] | None = None) -> None:
    """Write a new piece with its conclusion, where that was worked out before."""
    row = new_row(kept.record)
    session.add(row)
    put(session, row, kept, None)
    shelves.keep(session, row.id, shelves.concluded(kept) if told is None else told)


def _renamed(session: Session, row: PieceRow, kept: Kept) -> None:
    """Give a row its new tag, where it is free. Raises FieldError."""
    new = folded(kept.tag)
    if new != row.tag_folded and find(session, kept.tag) is not None:
        raise FieldError("tag", f"Tag {kept.tag} is in use.")
    row.tag, row.tag_folded = kept.tag, new


def _remember(session: Session, key: str, tag: str, said: str) -> None:
    """Keep what was entered under its key, and forget what is long past. Raises FieldError where
    the key came in meanwhile.
    """
    if not key:
        return
    if session.get(EntryRow, key) is not None:
        raise Twice("entry", "This was stored already.")
    session.add(EntryRow(key=key, tag=tag, said=said, at=now()))
    past = (clock.moment() - REMEMBERED).astimezone().isoformat(timespec="seconds")
    session.execute(sa.delete(EntryRow).where(EntryRow.at < past))


class Twice(FieldError):
    """What was sent is stored already, under the same key."""


def _edits(document: Document, changes: dict[str, Any]) -> list[dict[str, Any]]:
    """What changes, as it is kept beside the record: when, where, from what to what."""
    at = now()
    return [
        {"at": at, "path": path, "from": document.get(path), "to": value}
        for path, value in changes.items()
        if document.get(path) != value
    ]
