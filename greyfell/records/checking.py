"""Looking a data folder over: what is damaged, which pieces can still be read, which backup to put
back.
"""

import sqlite3
from collections.abc import Iterator
from contextlib import closing, suppress
from pathlib import Path

import sqlalchemy as sa
from msgspec import Struct
from sqlalchemy.orm import Session

from greyfell.core.errors import FieldError
from greyfell.records.copying import BACKUPS, PATIENCE, looked_over
from greyfell.records.fingerprint import record_hash
from greyfell.records.kinds import KINDS
from greyfell.records.rows import document_of, find, kept_of
from greyfell.records.store import OLDER, Store
from greyfell.records.trouble import Trouble

MOST_TOLD = 20
"""So many lines of what SQLite finds are told."""


class Checked(Struct, frozen=True, kw_only=True):
    """What a look at a data folder found: how many of each kind, everything wrong, the tags of
    pieces that can be read where some cannot, and the newest whole backup.
    """

    counts: dict[str, int]
    wrong: tuple[str, ...]
    readable: tuple[str, ...] = ()
    backup: Path | None = None


def check(store: Store) -> Checked:
    """Look a data folder over: the file page by page, what points nowhere, every piece opened and
    its fingerprint compared. What is damaged is named, and the rest is looked at all the same.
    """
    wrong = list(integrity(store.path))
    counts, readable = {}, []
    for kind in KINDS:
        try:
            with store.reading() as session:
                query = sa.select(sa.func.count()).select_from(kind.table)
                counts[kind.name] = int(session.scalar(query) or 0)
        except Trouble:
            wrong.append(f"{kind.name}: they cannot be counted, the file is damaged there")
    for tag in tags_of(store.path):
        said = _of_piece(store, tag)
        wrong += said
        if not said:
            readable.append(tag)
    return Checked(
        counts=counts,
        wrong=tuple(dict.fromkeys(wrong)),
        readable=tuple(readable) if wrong else (),
        backup=newest_whole(store.folder) if wrong else None,
    )


def _of_piece(store: Store, tag: str) -> list[str]:
    """What is wrong with one piece; nothing where it reads as it was stored."""
    try:
        with store.reading() as session:
            return _opened(session, tag)
    except Trouble:
        return [f"{tag}: it cannot be read, the file is damaged there"]


def _opened(session: Session, tag: str) -> list[str]:
    row = find(session, tag)
    if row is None:
        return [f"{tag}: its row cannot be found by its tag"]
    wrong = []
    if row.record_hash != record_hash(document_of(row)):
        wrong.append(f"{tag}: the record is not the one that was stored")
    try:
        unread = kept_of(row).unread
    except FieldError as error:
        return [*wrong, f"{tag}: cannot be read: {error.sentence}"]
    return wrong + [f"{tag}: {left.what} is left out: {left.why}" for left in unread]


def integrity(path: Path) -> Iterator[str]:
    """What SQLite itself finds wrong with a file."""
    try:
        with closing(sqlite3.connect(path, timeout=PATIENCE)) as connection:
            said = [r[0] for r in connection.execute(f"PRAGMA integrity_check({MOST_TOLD})")]
            if said != ["ok"]:
                yield from (f"the file is damaged: {line}" for line in said)
            lost = connection.execute("PRAGMA foreign_key_check").fetchall()
    except sqlite3.DatabaseError as error:
        yield f"the file is damaged: {error}"
        return
    yield from (f"a row of {row[0]} points nowhere" for row in lost)


def tags_of(path: Path) -> list[str]:
    """Every tag that can still be read, from the table and from its index, from either end: a
    damaged page hides only what stands on it.
    """
    ways = (
        "SELECT tag FROM piece INDEXED BY ix_piece_tag ORDER BY tag",
        "SELECT tag FROM piece INDEXED BY ix_piece_tag ORDER BY tag DESC",
        "SELECT tag FROM piece NOT INDEXED ORDER BY id",
        "SELECT tag FROM piece NOT INDEXED ORDER BY id DESC",
    )
    found: set[str] = set()
    with closing(sqlite3.connect(path, timeout=PATIENCE)) as connection:
        for way in ways:
            with suppress(sqlite3.DatabaseError):
                for row in connection.execute(way):
                    found.add(str(row[0]))
    return sorted(found)


def newest_whole(folder: Path) -> Path | None:
    """The newest backup that is whole and can be put back; None where there is none."""
    return next((p for p in reversed(backups(folder)) if not refused(p)), None)


def backups(folder: Path) -> list[Path]:
    """Every backup beside a data file, the newest last."""
    found = (folder / BACKUPS).glob("*.sqlite")
    return sorted(found, key=lambda path: path.stat().st_mtime)


def refused(source: Path) -> str:
    """Why a file is no whole backup; empty where it is one."""
    wrong = looked_over(source)
    if wrong:
        return f"{source} is damaged or is no backup: {wrong}."
    try:
        with closing(sqlite3.connect(source)) as connection:
            row = connection.execute("SELECT version_num FROM alembic_version").fetchone()
    except sqlite3.Error:
        row = None
    if row is None or row[0] not in OLDER:
        return f"{source} is no backup this Greyfell can read."
    return ""
