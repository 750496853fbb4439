"""A damaged cache thrown away and made anew: nothing is lost with it, and the shelf stays open."""

import sqlite3
from contextlib import closing
from pathlib import Path

from greyfell.records.copying import PATIENCE, looked_over
from greyfell.records.kinds import KINDS
from greyfell.records.models import TallyRow

CACHES = (*(k.table.__tablename__ for k in KINDS if k.cache), TallyRow.__tablename__)
"""Tables that hold nothing but what is worked out, and keys of what was entered."""
BARE_CONCLUSIONS = (
    "INSERT INTO conclusion SELECT id, record_hash, '', tag, '', 'unknown', 3, '{}' FROM piece"
)
"""Every piece, not looked at again yet."""


def mended(path: Path) -> bool:
    """Throw a damaged cache away and make it anew, empty, where everything else of the file is
    whole; what it held is worked out again. Whether that was done.
    """
    try:
        with closing(sqlite3.connect(path, timeout=PATIENCE, isolation_level=None)) as db:
            if not _only_cache(db):
                return False
            _anew(db)
            db.execute("VACUUM")
    except sqlite3.Error:
        return False
    return not looked_over(path)


def _only_cache(db: sqlite3.Connection) -> bool:
    """Whether all evidence of a file can be read, and some of its cache cannot."""
    names = {str(r[0]) for r in db.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
    evidence = names - set(CACHES)
    return all(_reads(db, name) for name in evidence) and not all(
        _reads(db, name) for name in CACHES if name in names
    )


def _reads(db: sqlite3.Connection, table: str) -> bool:
    """Whether a table and its indexes are whole."""
    try:
        said = db.execute(f"PRAGMA integrity_check('{table}')").fetchall()
    except sqlite3.DatabaseError:
        return False
    return said == [("ok",)]


def _anew(db: sqlite3.Connection) -> None:
    """The tables of the cache made anew by the words that made them."""
    marks = ", ".join("?" * len(CACHES))
    query = f"SELECT type, sql FROM sqlite_master WHERE tbl_name IN ({marks}) AND sql IS NOT NULL"
    made = db.execute(query, CACHES).fetchall()
    db.execute("PRAGMA foreign_keys=OFF")
    db.execute("BEGIN IMMEDIATE")
    db.execute("PRAGMA writable_schema=ON")
    db.execute(f"DELETE FROM sqlite_master WHERE tbl_name IN ({marks})", CACHES)
    db.execute("COMMIT")
    db.execute("PRAGMA writable_schema=RESET")
    db.execute("BEGIN IMMEDIATE")
    for _, words in sorted(made, key=lambda m: ("table", "index", "trigger").index(m[0])):
        db.execute(words)
    db.execute(BARE_CONCLUSIONS)
    db.execute("COMMIT")
