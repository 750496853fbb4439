"""Opening the file: SQLite in WAL mode with foreign keys on, migrated to the newest tables, backed
up before that.
"""

import shutil
import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path
from typing import Any

import sqlalchemy as sa
from sqlalchemy.orm import Session

HERE = Path(__file__).parent
FILE = "greyfell.sqlite"
HEAD = "0001"
"""The newest migration in `versions/`; a file that is there already needs no migration tool."""


class Store:
    """One data folder with its database. `reading()` and `writing()` give sessions; writers take
    the lock at once.
    """

    def __init__(self, folder: Path):
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        self.folder = folder
        self.path = folder / FILE
        self.engine = sa.create_engine(
            f"sqlite:///{self.path}", connect_args={"timeout": 10, "check_same_thread": False}
        )
        sa.event.listen(self.engine, "connect", _on_connect)
        sa.event.listen(self.engine, "begin", _on_begin)
        migrate(self.path)

    @contextmanager
    def reading(self) -> Iterator[Session]:
        """A session that only reads."""
        with Session(self.engine) as session:
            yield session

    @contextmanager
    def writing(self) -> Iterator[Session]:
        """A session that holds the write lock from its start and commits at its end, or rolls back
        whole.
        """
        engine = self.engine.execution_options(writing=True)
        with Session(engine) as session, session.begin():
            yield session

    def close(self) -> None:
        """Give the file back."""
        self.engine.dispose()


def _on_connect(connection: Any, _record: Any) -> None:
    connection.isolation_level = None
    for pragma in (
        "journal_mode=WAL",
        "foreign_keys=ON",
        "busy_timeout=10000",
        "synchronous=NORMAL",
    ):
        connection.execute(f"PRAGMA {pragma}")


def _on_begin(connection: sa.Connection) -> None:
    writing = connection.get_execution_options().get("writing")
    connection.exec_driver_sql("BEGIN IMMEDIATE" if writing else "BEGIN")


def migrate(path: Path) -> None:
    """Bring a file to the newest tables. An older file is copied beside itself first; foreign keys
    are off meanwhile.
    """
    now = _version(path)
    if now == HEAD:
        return
    if now is not None:
        shutil.copy2(path, path.with_suffix(f".before-{HEAD}.sqlite"))
    engine = sa.create_engine(f"sqlite:///{path}")
    try:
        with engine.connect() as connection:
            connection.exec_driver_sql("PRAGMA foreign_keys=OFF")
            _upgrade(connection)
            connection.commit()
            broken = connection.exec_driver_sql("PRAGMA foreign_key_check").all()
            if broken:
                raise sqlite3.IntegrityError(
                    f"after migrating, {len(broken)} rows point nowhere; the file before is "
                    "kept beside it"
                )
    finally:
        engine.dispose()


def _version(path: Path) -> str | None:
    """The migration a file stands at; None where it is new."""
    if not path.exists():
        return None
    with closing(sqlite3.connect(path)) as connection:
        try:
            row = connection.execute("SELECT version_num FROM alembic_version").fetchone()
        except sqlite3.OperationalError:
            return None
    return str(row[0]) if row else None


def _upgrade(connection: sa.Connection) -> None:
    """Run the migrations that a file lacks."""
    from alembic import command
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(HERE))
    config.set_main_option("path_separator", "os")
    config.attributes["connection"] = connection
    command.upgrade(config, "head")
