"""Who has a data folder open: one server at a time, and where it answers."""

import json
import os
import sys
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import IO

FILE = "open"


@contextmanager
def opened(folder: Path, address: str) -> Iterator[str]:
    """Hold a folder while a server runs on it. Gives the address of the server that has it
    already; empty where this one has it now. The system lets go of it whatever happens.
    """
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    path = folder / FILE
    with os.fdopen(os.open(path, os.O_RDWR | os.O_CREAT, 0o600), "r+", encoding="utf-8") as file:
        if not _held(file):
            yield _address(file)
            return
        file.seek(0)
        file.truncate()
        json.dump({"address": address, "process": os.getpid()}, file)
        file.flush()
        yield ""


def server_on(folder: Path) -> str:
    """The address of the server that has a folder open; empty where none has."""
    path = folder / FILE
    if not path.exists():
        return ""
    with path.open("r+", encoding="utf-8") as file:
        return "" if _held(file) else _address(file)


def _address(file: IO[str]) -> str:
    file.seek(0)
    with suppress(ValueError, KeyError, TypeError):
        return str(json.load(file)["address"])
    return "another address"


if sys.platform == "win32":
    import msvcrt

    FAR = 1 << 30
    """A byte far beyond what is written: a locked byte cannot be read by others there."""

    def _held(file: IO[str]) -> bool:
        """Take the lock; whether it was free."""
        file.seek(FAR)
        try:
            msvcrt.locking(file.fileno(), msvcrt.LK_NBLCK, 1)
        except OSError:
            return False
        return True

else:
    import fcntl

    def _held(file: IO[str]) -> bool:
        """Take the lock; whether it was free."""
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            return False
        return True
