"""Copies of the data file by SQLite's own means, kept a while, and put back when asked."""

import sqlite3
from contextlib import closing
from datetime import datetime
from pathlib import Path

import sqlalchemy as sa
from msgspec import Struct

from greyfell.core.errors import FieldError
from greyfell.records.fingerprint import record_hash
from greyfell.records.kinds import counted
from greyfell.records.models import PieceRow
from greyfell.records.rows import document_of, find, kept_of
from greyfell.records.store import BACKUPS, FILE, OLDER, Store, copied, looked_over, stamped
from greyfell.records.trouble import RESTORE, Trouble, told

DAYS = 14
"""So many daily backups are kept."""
DAILY = "daily-*.sqlite"


def backup(folder: Path, to: Path | None = None) -> Path:
    """A copy of a folder's data file, beside it or where it is asked for. Raises Trouble."""
    target = to or stamped(folder, "asked")
    _needs(folder)
    _copy(folder / FILE, target)
    return target


def daily(folder: Path) -> Path | None:
    """Today's backup, unless there is one; the oldest beyond a fortnight go. None where nothing was
    written. Raises Trouble.
    """
    day = datetime.now().astimezone().strftime("%Y-%m-%d")
    target = folder / BACKUPS / f"daily-{day}.sqlite"
    if target.exists():
        return None
    _copy(folder / FILE, target)
    for old in sorted(target.parent.glob(DAILY))[:-DAYS]:
        old.unlink(missing_ok=True)
    return target


def backups(folder: Path) -> list[Path]:
    """Every backup beside a data file, the newest last."""
    found = (folder / BACKUPS).glob("*.sqlite")
    return sorted(found, key=lambda path: path.stat().st_mtime)


def restore(folder: Path, source: Path) -> Path | None:
    """Put a backup back in place of a folder's data file; that file is kept as a backup first, and
    its name returned. Raises Trouble, and leaves everything as it was, where the backup is damaged
    or is none.
    """
    _whole(source)
    path = folder / FILE
    kept = None
    if path.exists() and path.stat().st_size:
        kept = stamped(folder, "before-restore")
        if looked_over(path):
            kept = kept.with_suffix(".damaged")
            kept.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
            kept.write_bytes(path.read_bytes())
            kept.chmod(0o600)
        else:
            _copy(path, kept)
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    for log in ("-wal", "-shm"):
        path.with_name(path.name + log).unlink(missing_ok=True)
    _copy(source, path)
    return kept


class Checked(Struct, frozen=True):
    """What a look at a data folder found: how many of each kind, and everything wrong."""

    counts: dict[str, int]
    wrong: tuple[str, ...]


def check(store: Store) -> Checked:
    """Look a data folder over: the file page by page, what points nowhere, every piece opened and
    its fingerprint compared. Raises Trouble where the file cannot be read at all.
    """
    wrong = list(_integrity(store.path))
    with store.reading() as session:
        counts = counted(session)
        tags = list(session.scalars(sa.select(PieceRow.tag).order_by(PieceRow.tag)))
        for tag in tags:
            row = find(session, tag)
            if row is None:
                wrong.append(f"{tag}: its row cannot be found by its tag")
                continue
            if row.record_hash != record_hash(document_of(row)):
                wrong.append(f"{tag}: the record is not the one that was stored")
            try:
                unread = kept_of(row).unread
            except FieldError as error:
                wrong.append(f"{tag}: cannot be read: {error.sentence}")
            else:
                wrong += [f"{tag}: {left.what} is left out: {left.why}" for left in unread]
    return Checked(counts, tuple(wrong))


def _integrity(path: Path) -> list[str]:
    """What SQLite itself finds wrong with a file."""
    with closing(sqlite3.connect(path)) as connection:
        said = [row[0] for row in connection.execute("PRAGMA integrity_check(20)")]
        lost = connection.execute("PRAGMA foreign_key_check").fetchall()
    wrong = [] if said == ["ok"] else [f"the file is damaged: {line}" for line in said]
    return wrong + [f"a row of {row[0]} points nowhere" for row in lost]


def _needs(folder: Path) -> None:
    """Raises Trouble where a folder has no data file."""
    if not (folder / FILE).exists():
        raise Trouble(f"There is no data file in {folder}.", "Say which folder: --data FOLDER.")


def _whole(source: Path) -> None:
    """Raises Trouble where a file is no whole backup."""
    if not source.is_file():
        raise Trouble(f"There is no file {source}.", "“greyfell backup --list” lists backups.")
    wrong = looked_over(source)
    if wrong:
        raise Trouble(f"{source} is damaged or is no backup: {wrong}.", "Nothing was changed.")
    try:
        with closing(sqlite3.connect(source)) as connection:
            row = connection.execute("SELECT version_num FROM alembic_version").fetchone()
    except sqlite3.Error:
        row = None
    if row is None or row[0] not in OLDER:
        raise Trouble(f"{source} is no backup this Greyfell can read.", "Nothing was changed.")


def _copy(path: Path, to: Path) -> None:
    """A copy by SQLite's own means. Raises Trouble."""
    try:
        copied(path, to)
    except (OSError, sqlite3.Error) as error:
        found = told(error)
        way = f"No backup was made. {RESTORE}" if "damaged" in found.sentence else "No copy made."
        raise Trouble(f"{found.sentence} ({to})", way) from error
