"""The whole shelf as one open archive: a zip of records as JSON, with a list of what is in it. It
is the way to another machine, and what is left in ten years.
"""

import hashlib
import io
import json
import zipfile
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import suppress
from pathlib import Path, PurePosixPath
from typing import Any, BinaryIO

from msgspec import Struct

from greyfell import __version__
from greyfell.core.errors import FieldError
from greyfell.core.evidence.loading import MOST_BYTES, load_json
from greyfell.core.evidence.stores import FORMAT as STORES_FORMAT
from greyfell.core.evidence.stores import as_text
from greyfell.core.exchange.passport import is_passport, opened
from greyfell.records.donors import FORMAT as DONORS_FORMAT
from greyfell.records.donors import Donors
from greyfell.records.photos import FOLDER as PHOTOS
from greyfell.records.photos import MOST_BYTES as PHOTO_BYTES
from greyfell.records.photos import encoded
from greyfell.records.plans import FORMAT as PLANS_FORMAT
from greyfell.records.plans import Plans
from greyfell.records.repository import Repository
from greyfell.records.rows import now
from greyfell.records.stores import Stores

FORMAT = "greyfell.shelf/1"
LIST = "shelf.json"
PIECES, PICTURES = "pieces", "photos"
STORES, DONORS, PLANS = "stores.json", "donors.json", "plans.json"
OUTCOMES = {
    "added": "added",
    "merged": "new readings appended",
    "same": "here already, nothing new",
    "ask": "here already; agree to append what is new",
    "refused": "refused:",
}
"""What can become of a record that is brought in, in words."""


class Bound(Struct, frozen=True, kw_only=True):
    """How much an archive may hold: bytes as they unfold, and pieces; where a larger one goes."""

    unfolded: int
    pieces: int
    way: str


BY_PAGE = Bound(
    unfolded=32 * 1024 * 1024,
    pieces=1000,
    way="A larger one comes in by “greyfell import FILE”.",
)
BY_COMMAND = Bound(
    unfolded=2 * 1024**3, pieces=20_000, way="Bring its records in one by one, as JSON."
)
"""A page answers within seconds; a command may take its time. House rules."""
MOST_ARCHIVE = BY_PAGE.unfolded
"""An archive that is sent through the page may be so large."""


class Brought(Struct, frozen=True):
    """What became of one record of an archive: its tag, and what happened or was wrong."""

    name: str
    outcome: str
    sentence: str = ""


def packed(repository: Repository) -> bytes:
    """Every piece of iron of a shelf, and the stores, as an archive; practice stays here."""
    out = io.BytesIO()
    pack(repository, out)
    return out.getvalue()


def _json(document: Any) -> str:
    return json.dumps(document, ensure_ascii=False, indent=1)


def pack(repository: Repository, out: BinaryIO) -> int:
    """Write the archive of a shelf; returns how many pieces it holds. Raises FieldError where it
    would hold more than comes in again.
    """
    tags = repository.tags(practice=False)
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        head = {"format": FORMAT, "made": now(), "by": f"greyfell {__version__}", "pieces": tags}
        archive.writestr(LIST, _json(head))
        for tag in tags:
            archive.writestr(f"{PIECES}/{tag}.json", _json(repository.document(tag)))
            for file, data in repository.pictures(tag).items():
                archive.writestr(f"{PICTURES}/{tag}/{PurePosixPath(file).name}", data)
        items = Stores(repository.store).items(gone=True)
        if items:
            archive.writestr(STORES, as_text(items))
        for name, key, whole in (
            (DONORS, "donors", Donors(repository.store).as_document()),
            (PLANS, "plans", Plans(repository.store).as_document()),
        ):
            if whole[key]:
                archive.writestr(name, _json(whole))
        _bounded(archive, BY_COMMAND)
    return len(tags)


def unpacked(
    repository: Repository,
    source: bytes | Path,
    *,
    merge: bool = False,
    bound: Bound = BY_COMMAND,
    at: Callable[[int, int], None] | None = None,
) -> list[Brought]:
    """Bring every record of an archive in: one that is refused says why, and the others go on;
    broken off, none of it is stored. Nothing is overwritten. `at` is told how many of how many are
    worked out. Raises FieldError where it is no archive, or larger than its bound.
    """
    try:
        archive = zipfile.ZipFile(io.BytesIO(source) if isinstance(source, bytes) else source)
        head = load_json(archive.read(_sized(archive, LIST)), LIST)
    except (zipfile.BadZipFile, KeyError, NotImplementedError, RuntimeError):
        raise FieldError("file", f"This is no archive of a shelf: {LIST} is missing.") from None
    if not isinstance(head, dict) or head.get("format") != FORMAT:
        raise FieldError("file", f"The archive's {LIST} must say the format is “{FORMAT}”.")
    _bounded(archive, bound)
    names = [n for n in archive.namelist() if _is_piece(n)]
    whole = _Whole(repository, archive, merge)
    for n, name in enumerate(names):
        whole.foresee(name)
        if at is not None:
            at(n + 1, len(names))
    try:
        with repository.store.together():
            return list(whole.brought(names))
    finally:
        repository.foreseen.clear()


def _bounded(archive: zipfile.ZipFile, bound: Bound) -> None:
    """Raises FieldError where an archive holds more than it may."""
    size = sum(entry.file_size for entry in archive.infolist())
    if size > bound.unfolded:
        said = f"An archive may unfold to {bound.unfolded // 2**20} MB; {size // 2**20} MB stand."
        raise FieldError("file", f"{said} {bound.way}")
    count = sum(_is_piece(name) for name in archive.namelist())
    if count > bound.pieces:
        said = f"An archive may hold {bound.pieces} pieces; {count} stand."
        raise FieldError("file", f"{said} {bound.way}")


class _Whole:
    """An archive that comes in: looked through first, while nobody waits; then stored in one go."""

    def __init__(self, repository: Repository, archive: zipfile.ZipFile, merge: bool) -> None:
        self.repository, self.archive, self.merge = repository, archive, merge
        self.encoded: dict[bytes, bytes | None] = {}
        self.pictures: dict[str, list[str]] = {}
        for name in archive.namelist():
            path = PurePosixPath(name)
            if len(path.parts) == 3 and path.parts[0] == PICTURES:
                self.pictures.setdefault(path.parts[1], []).append(name)

    def foresee(self, name: str) -> None:
        """Work out what takes long: conclusions, and photos encoded anew. What is wrong is told
        when its turn comes.
        """
        with suppress(*WRONG):
            document = load_json(self.archive.read(_sized(self.archive, name)), name)
            self.repository.foresee(document)
            for data in self._of(name).values():
                made = encoded(data)
                self.encoded[_mark(data)] = None if made == data else made

    def brought(self, names: list[str]) -> Iterator[Brought]:
        """The stores and donors first, where the archive has them, then every piece."""
        for name in (STORES, DONORS, PLANS):
            if name in self.archive.namelist():
                yield _bring_list(self.repository, self.archive, name)
        for name in names:
            yield self._piece(name)

    def _piece(self, name: str) -> Brought:
        try:
            document = load_json(self.archive.read(_sized(self.archive, name)), name)
            tag, outcome = self.repository.bring_in(document, merge=self.merge)
            if outcome != "ask":
                self.repository.bring_pictures(tag, self._of(name), self._encode)
        except FieldError as error:
            return Brought(name, "refused", error.sentence)
        except WRONG:
            return Brought(name, "refused", f"{name} is damaged or locked.")
        return Brought(tag, outcome)

    def _encode(self, data: bytes) -> bytes:
        """A photo as it is kept, encoded before where that was foreseen."""
        mark = _mark(data)
        if mark not in self.encoded:
            return encoded(data)
        return self.encoded[mark] or data

    def _of(self, name: str) -> dict[str, bytes]:
        """The pictures of one piece, by their files in the record. Raises FieldError."""
        found = {}
        for file in self.pictures.get(PurePosixPath(name).stem, ()):
            if self.archive.getinfo(file).file_size > PHOTO_BYTES:
                raise FieldError("photo", f"{file} may be at most {PHOTO_BYTES // 2**20} MB.")
            found[f"{PHOTOS}/{PurePosixPath(file).name}"] = self.archive.read(file)
        return found


WRONG = (FieldError, zipfile.BadZipFile, NotImplementedError, RuntimeError, EOFError)
"""What an entry of an archive may be refused for."""


def _mark(data: bytes) -> bytes:
    return hashlib.sha256(data).digest()


def _bring_list(repository: Repository, archive: zipfile.ZipFile, name: str) -> Brought:
    try:
        return bring_document(repository, load_json(archive.read(_sized(archive, name)), name))
    except FieldError as error:
        return Brought(name, "refused", error.sentence)
    except (zipfile.BadZipFile, NotImplementedError, RuntimeError, EOFError):
        return Brought(name, "refused", f"{name} is damaged or locked.")


def _is_piece(name: str) -> bool:
    path = PurePosixPath(name)
    return len(path.parts) == 2 and path.parts[0] == PIECES and path.suffix == ".json"


def _sized(archive: zipfile.ZipFile, name: str) -> zipfile.ZipInfo:
    """An entry, once it is seen not to unfold beyond a record's size. Raises FieldError."""
    entry = archive.getinfo(name)
    if entry.file_size > MOST_BYTES:
        raise FieldError("file", f"{name} may be at most {MOST_BYTES // 2**20} MB.")
    return entry


def bring_text(
    repository: Repository, data: bytes | str, *, name: str = "", merge: bool = False, key: str = ""
) -> Brought:
    """Bring one file in, whatever it is: a passport with its pictures, or a document as JSON.
    Raises FieldError.
    """
    text = data if isinstance(data, str) else data.decode("utf-8-sig", "replace")
    if not is_passport(text):
        return bring_document(repository, load_json(data, name), merge=merge, key=key)
    document, pictures = opened(text)
    brought = bring_document(repository, document, merge=merge, key=key)
    if brought.outcome != "ask":
        repository.bring_pictures(brought.name, pictures)
    return brought


def bring_document(
    repository: Repository, document: object, *, merge: bool = False, key: str = ""
) -> Brought:
    """Bring one document in, whatever it is: a piece, stores or donors. Raises FieldError."""
    given = document.get("format") if isinstance(document, dict) else None
    if given == STORES_FORMAT:
        return _stored(STORES, Stores(repository.store).bring_in(document))
    if given == DONORS_FORMAT:
        return _stored(DONORS, Donors(repository.store).bring_in(document))
    if given == PLANS_FORMAT:
        return _stored(PLANS, Plans(repository.store).bring_in(document))
    return Brought(*repository.bring_in(document, merge=merge, key=key))  # type: ignore[arg-type]


def _stored(name: str, outcome: Counter[str]) -> Brought:
    return Brought(name, "added" if outcome["added"] else "same", f"({counted(outcome)})")


def counted(outcome: Counter[str]) -> str:
    """How many entries of a list are new here, in words."""
    return f"{outcome['added']} new, {outcome['same']} here already"
