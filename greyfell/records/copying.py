"""Copies of a data file by SQLite's own means: one before anything is done to it, one a day."""

import os
import sqlite3
import time
from contextlib import closing, suppress
from datetime import datetime
from pathlib import Path

FILE = "greyfell.sqlite"
BACKUPS = "backups"
PATIENCE = 4.0
"""Seconds that a writer waits for another program to let go of the file."""
DAYS = 14
"""So many daily backups are kept."""
DAILY = "daily-*.sqlite"
ABANDONED = 600.0
"""Seconds after which nobody is at work on half a copy any more."""


def looked_over(path: Path) -> str:
    """What a quick look finds wrong with a data file; empty where it is whole."""
    try:
        with closing(sqlite3.connect(path, timeout=PATIENCE)) as connection:
            said = [row[0] for row in connection.execute("PRAGMA quick_check(3)")]
    except sqlite3.Error as error:
        return str(error)
    return "" if said == ["ok"] else "; ".join(said)[:400]


def stamped(folder: Path, why: str) -> Path:
    """A name of its own for a backup that is made now."""
    stamp = datetime.now().astimezone().strftime("%Y-%m-%d-%H%M%S-%f")
    return folder / BACKUPS / f"{why}-{stamp}.sqlite"


def copied(path: Path, to: Path) -> None:
    """A copy of a data file by SQLite's own means: whole, with what its log still holds. The copy
    appears at once or not at all; another program that copies to the same place meanwhile has its
    own half. What a killed one left goes.
    """
    to.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    for left in to.parent.glob(f"{to.name}*.half"):
        with suppress(FileNotFoundError):
            if time.time() - left.stat().st_mtime > ABANDONED:
                left.unlink()
    half = to.with_name(f"{to.name}.{os.getpid()}.half")
    half.unlink(missing_ok=True)
    os.close(os.open(half, os.O_CREAT | os.O_WRONLY, 0o600))
    try:
        with (
            closing(sqlite3.connect(path, timeout=PATIENCE)) as source,
            closing(sqlite3.connect(half)) as target,
        ):
            source.backup(target)
            target.execute("PRAGMA journal_mode=DELETE")
        half.replace(to)
    finally:
        half.unlink(missing_ok=True)


def todays(folder: Path) -> Path:
    """Where today's backup stands, or would."""
    day = datetime.now().astimezone().strftime("%Y-%m-%d")
    return folder / BACKUPS / f"daily-{day}.sqlite"


def daily(folder: Path) -> Path | None:
    """Today's backup, unless there is one; the oldest beyond a fortnight go. None where nothing was
    written. Raises OSError and sqlite3.Error.
    """
    target = todays(folder)
    if target.exists():
        return None
    copied(folder / FILE, target)
    for old in sorted(target.parent.glob(DAILY))[:-DAYS]:
        old.unlink(missing_ok=True)
    return target
