"""Opening the file: SQLite in WAL mode with foreign keys on, readable by its owner alone, migrated
to the newest tables, backed up before that.
"""

import json
import logging
import os
import sqlite3
import threading
from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path
from typing import Any

import sqlalchemy as sa
from sqlalchemy.orm import Session

from greyfell.records.copying import (
    BACKUPS,
    FILE,
    PATIENCE,
    copied,
    daily,
    looked_over,
    stamped,
    todays,
)
from greyfell.records.mending import mended
from greyfell.records.trouble import RESTORE, Trouble, gone, told

log = logging.getLogger("greyfell")
HERE = Path(__file__).parent
HEAD = "0010"
"""The newest migration in `versions/`; a file that is there already needs no migration tool."""
QUICKLY = 8 * 1024 * 1024
"""A data file of so many bytes is looked over before it is used; a larger one meanwhile."""
OLDER = (*(f"{n:04d}" for n in range(1, 10)), HEAD)
"""What this version can open."""


class Store:
    """One data folder with its database. `reading()` and `writing()` give sessions; writers take
    the lock at once. Where `backed` is asked for, the first change of a day is followed by the
    day's backup. Raises Trouble, with a sentence and a way on.
    """

    def __init__(self, folder: Path, *, backed: bool = False):
        self.folder, self.backed = folder, backed
        self.path = folder / FILE
        try:
            _make_private(folder, self.path)
            migrate(self.path)
        except (OSError, sqlite3.Error, sa.exc.SQLAlchemyError) as error:
            raise _at_start(error, folder) from error
        self.engine = sa.create_engine(
            sa.URL.create("sqlite", database=str(self.path)),
            connect_args={"timeout": PATIENCE, "check_same_thread": False},
        )
        sa.event.listen(self.engine, "connect", _on_connect)
        sa.event.listen(self.engine, "begin", _on_begin)
        self.opened = _identity(self.path)
        self.joined = threading.local()
        self.backing = threading.Lock()
        self.damage = ""
        if self.path.stat().st_size <= QUICKLY:
            self._look()
        else:
            threading.Thread(target=self._look, daemon=True).start()

    @contextmanager
    def reading(self) -> Iterator[Session]:
        """A session that only reads."""
        within = self._within()
        if within is not None:
            yield within
            return
        with self._told(), Session(self.engine) as session:
            yield session

    @contextmanager
    def looking(self) -> Iterator[sa.Connection]:
        """A bare connection that only reads: for what is asked of every page."""
        within = self._within()
        if within is not None:
            yield within.connection()
            return
        with self._told(), self.engine.connect() as connection:
            yield connection

    @contextmanager
    def writing(self) -> Iterator[Session]:
        """A session that holds the write lock from its start and commits at its end, or rolls back
        whole.
        """
        within = self._within()
        if within is not None:
            with within.begin_nested():
                yield within
            return
        engine = self.engine.execution_options(writing=True)
        with self._told(), Session(engine) as session, session.begin():
            yield session
        if self.backed and not todays(self.folder).exists():
            threading.Thread(target=self._back_up).start()  # a command waits for it at its end

    @contextmanager
    def together(self) -> Iterator[None]:
        """Everything that this thread reads and writes meanwhile, as one: stored whole at the end,
        or, broken off, not at all.
        """
        with self.writing() as session:
            self.joined.session = session
            try:
                yield
            finally:
                self.joined.session = None

    def _within(self) -> Session | None:
        """The session that this thread does everything in; None where it does not."""
        return getattr(self.joined, "session", None)

    @contextmanager
    def _told(self) -> Iterator[None]:
        """What goes wrong with the file, as a Trouble."""
        if _identity(self.path) != self.opened:
            raise gone(self.folder)
        try:
            yield
        except (sa.exc.DBAPIError, sqlite3.Error, OSError) as error:
            raise told(getattr(error, "orig", None) or error) from error
        except (json.JSONDecodeError, UnicodeDecodeError) as error:
            raise told(sqlite3.DatabaseError("malformed row")) from error

    def _back_up(self) -> None:
        """The day's backup, of what was changed just now; not twice at once."""
        if not self.backing.acquire(blocking=False):
            return
        try:
            daily(self.folder)
        except (OSError, sqlite3.Error) as error:
            log.error("no backup today: %s", told(error))
        finally:
            self.backing.release()

    def _look(self) -> None:
        """Look the file over, and say so where it is damaged; a damaged cache is made anew."""
        damage = looked_over(self.path)
        if damage and mended(self.path):
            log.warning("what was worked out was damaged: it is worked out again")
            damage = ""
        self.damage = damage

    def close(self) -> None:
        """Give the file back."""
        self.engine.dispose()


def rows_of(session: Session, model: type[Any]) -> int:
    """How many rows a table has."""
    return session.scalar(sa.select(sa.func.count()).select_from(model)) or 0


def _make_private(folder: Path, path: Path) -> None:
    """The folder and its file, for their owner alone: 0700 and 0600."""
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    if not os.access(folder, os.W_OK | os.X_OK):
        raise PermissionError(f"permission denied: {folder}")
    folder.chmod(0o700)
    if not path.exists():
        os.close(os.open(path, os.O_CREAT | os.O_WRONLY, 0o600))
    for file in folder.glob(f"{FILE}*"):
        file.chmod(0o600)


def _identity(path: Path) -> tuple[int, int] | None:
    """Which file stands there; None where there is none."""
    try:
        found = path.stat()
    except OSError:
        return None
    return found.st_dev, found.st_ino


def _at_start(error: BaseException, folder: Path) -> Trouble:
    """What keeps a data folder from being opened."""
    if isinstance(error, Trouble):
        return error
    found = told(getattr(error, "orig", None) or error)
    way = found.way.removeprefix("Nothing of this was stored. ")
    return Trouble(f"{found.sentence} ({folder})", way)


def _on_connect(connection: Any, _record: Any) -> None:
    connection.isolation_level = None
    for pragma in (
        "journal_mode=WAL",
        "foreign_keys=ON",
        f"busy_timeout={PATIENCE * 1000:.0f}",
        "synchronous=NORMAL",
    ):
        connection.execute(f"PRAGMA {pragma}")


def _on_begin(connection: sa.Connection) -> None:
    writing = connection.get_execution_options().get("writing")
    connection.exec_driver_sql("BEGIN IMMEDIATE" if writing else "BEGIN")


def migrate(path: Path) -> None:
    """Bring a file to the newest tables. An older file is copied into the backups first; foreign
    keys are off meanwhile. Raises Trouble where the file is newer, or is not Greyfell's.
    """
    now = _version(path)
    if now == HEAD:
        return
    if now is not None:
        if now not in OLDER:
            raise Trouble(
                f"The data file {path} stands at {now}; this Greyfell knows {HEAD} at most.",
                "Open it with the newer Greyfell, or start with another folder: --data FOLDER.",
            )
        copied(path, stamped(path.parent, f"before-{HEAD}"))
    engine = sa.create_engine(sa.URL.create("sqlite", database=str(path)))
    try:
        with engine.connect() as connection:
            connection.exec_driver_sql("PRAGMA foreign_keys=OFF")
            _upgrade(connection)
            connection.commit()
            broken = connection.exec_driver_sql("PRAGMA foreign_key_check").all()
            if broken:
                raise Trouble(
                    f"After migrating, {len(broken)} rows of {path} point nowhere.",
                    f"The file as it was stands in {path.parent / BACKUPS}. {RESTORE}",
                )
    finally:
        engine.dispose()


def _version(path: Path) -> str | None:
    """The migration a file stands at; None where it is new. Raises Trouble for another program's
    file.
    """
    if not path.exists() or path.stat().st_size == 0:
        return None
    with closing(sqlite3.connect(path, timeout=PATIENCE)) as connection:
        tables = {row[0] for row in connection.execute("SELECT name FROM sqlite_master")}
        if "alembic_version" in tables:
            row = connection.execute("SELECT version_num FROM alembic_version").fetchone()
            if row:
                return str(row[0])
    if tables:
        raise Trouble(
            f"The file {path} holds another program's tables.",
            "It was left alone. Start with another folder: --data FOLDER.",
        )
    return None


def _upgrade(connection: sa.Connection) -> None:
    """Run the migrations that a file lacks."""
    from alembic import command
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(HERE))
    config.set_main_option("path_separator", "os")
    config.attributes["connection"] = connection
    command.upgrade(config, "head")
