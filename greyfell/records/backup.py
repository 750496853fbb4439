"""Copies of the data file by SQLite's own means, kept a while, and put back when asked."""

import sqlite3
from contextlib import closing
from pathlib import Path

from msgspec import Struct

from greyfell.records.checking import refused
from greyfell.records.copying import FILE, PATIENCE, copied, looked_over, stamped
from greyfell.records.plain import PRACTISED_SQL
from greyfell.records.trouble import RESTORE, Trouble, told


def backup(folder: Path, to: Path | None = None) -> Path:
    """A copy of a folder's data file, beside it or where it is asked for. Raises Trouble."""
    target = to or stamped(folder, "asked")
    _needs(folder)
    _copy(folder / FILE, target)
    return target


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


class Holds(Struct, frozen=True, kw_only=True):
    """What a data file holds: pieces of iron, practice pieces, readings, when the last was read."""

    pieces: int
    practice: int
    readings: int
    last: str

    @property
    def words(self) -> str:
        """In a line."""
        practice = f" and {self.practice} to practise on" if self.practice else ""
        last = f", the last of {self.last[:16].replace('T', ' ')}" if self.last else ""
        iron = f"{self.pieces} {'piece' if self.pieces == 1 else 'pieces'}"
        return f"{iron}{practice}, {self.readings} readings{last}"


def holds(path: Path) -> Holds | None:
    """What a data file holds; None where there is none, or it cannot be read."""
    if not path.is_file() or not path.stat().st_size:
        return None
    try:
        with closing(sqlite3.connect(path, timeout=PATIENCE)) as db:
            whole, practice = db.execute(
                f"SELECT count(*), coalesce(sum({PRACTISED_SQL}), 0) FROM piece"
            ).fetchone()
            readings, last = db.execute(
                "SELECT count(*), max(json_extract(body, '$.at')) FROM reading"
            ).fetchone()
    except sqlite3.Error:
        return None
    return Holds(
        pieces=whole - practice, practice=practice, readings=readings, last=str(last or "")
    )


def _needs(folder: Path) -> None:
    """Raises Trouble where a folder has no data file."""
    if not (folder / FILE).exists():
        raise Trouble(f"There is no data file in {folder}.", "Say which folder: --data FOLDER.")


def _whole(source: Path) -> None:
    """Raises Trouble where a file is no whole backup."""
    if not source.is_file():
        raise Trouble(f"There is no file {source}.", "“greyfell backup --list” lists backups.")
    wrong = refused(source)
    if wrong:
        raise Trouble(wrong, "Nothing was changed.")


def _copy(path: Path, to: Path) -> None:
    """A copy by SQLite's own means. Raises Trouble."""
    try:
        copied(path, to)
    except (OSError, sqlite3.Error) as error:
        found = told(error)
        way = f"No backup was made. {RESTORE}" if "damaged" in found.sentence else "No copy made."
        raise Trouble(f"{found.sentence} ({to})", way) from error
