"""The whole shelf as one open archive: a zip of records as JSON, with a list of what is in it. It
is the way to another machine, and what is left in ten years.
"""

import io
import json
import zipfile
from collections import Counter
from collections.abc import Iterable, Iterator
from pathlib import PurePosixPath

from msgspec import Struct

from greyfell import __version__
from greyfell.core.errors import FieldError
from greyfell.core.evidence.parse import load_json
from greyfell.core.evidence.record import MOST_BYTES
from greyfell.core.evidence.stores import FORMAT as STORES_FORMAT
from greyfell.core.evidence.stores import as_text
from greyfell.core.exchange.passport import is_passport, opened
from greyfell.records.donors import FORMAT as DONORS_FORMAT
from greyfell.records.donors import Donors
from greyfell.records.photos import FOLDER as PHOTOS
from greyfell.records.photos import MOST_BYTES as PHOTO_BYTES
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
MOST_PIECES = 20_000
MOST_ARCHIVE = 32 * 1024 * 1024
"""An archive that is sent through the page may be so large; from a file, any size."""


class Brought(Struct, frozen=True):
    """What became of one record of an archive: its tag, and what happened or was wrong."""

    name: str
    outcome: str
    sentence: str = ""


def packed(repository: Repository) -> bytes:
    """Every piece of iron of a shelf, and the stores, as an archive; practice stays here."""
    out = io.BytesIO()
    tags = repository.tags(practice=False)
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        head = {"format": FORMAT, "made": now(), "by": f"greyfell {__version__}", "pieces": tags}
        archive.writestr(LIST, json.dumps(head, ensure_ascii=False, indent=1))
        for tag in tags:
            text = json.dumps(repository.document(tag), ensure_ascii=False, indent=1)
            archive.writestr(f"{PIECES}/{tag}.json", text)
            for file, data in repository.pictures(tag).items():
                archive.writestr(f"{PICTURES}/{tag}/{PurePosixPath(file).name}", data)
        items = Stores(repository.store).items(gone=True)
        if items:
            archive.writestr(STORES, as_text(items))
        donors = Donors(repository.store).as_document()
        if donors["donors"]:
            archive.writestr(DONORS, json.dumps(donors, ensure_ascii=False, indent=1))
        plans = Plans(repository.store).as_document()
        if plans["plans"]:
            archive.writestr(PLANS, json.dumps(plans, ensure_ascii=False, indent=1))
    return out.getvalue()


def unpacked(repository: Repository, data: bytes, *, merge: bool = False) -> Iterator[Brought]:
    """Bring every record of an archive in, each by itself: one that is refused says why, and the
    others go on. Nothing is overwritten. Raises FieldError where it is no archive.
    """
    try:
        archive = zipfile.ZipFile(io.BytesIO(data))
        head = load_json(archive.read(_sized(archive, LIST)), LIST)
    except (zipfile.BadZipFile, KeyError, NotImplementedError, RuntimeError):
        raise FieldError("file", f"This is no archive of a shelf: {LIST} is missing.") from None
    if not isinstance(head, dict) or head.get("format") != FORMAT:
        raise FieldError("file", f"The archive's {LIST} must say the format is “{FORMAT}”.")
    names = [n for n in archive.namelist() if _is_piece(n)]
    if len(names) > MOST_PIECES:
        raise FieldError("file", f"An archive may hold {MOST_PIECES} pieces; {len(names)} stand.")
    return _all_of(repository, archive, names, merge)


def _all_of(
    repository: Repository, archive: zipfile.ZipFile, names: list[str], merge: bool
) -> Iterator[Brought]:
    """The stores and donors first, where the archive has them, then every piece."""
    for name in (STORES, DONORS, PLANS):
        if name in archive.namelist():
            yield _bring_list(repository, archive, name)
    pictures: dict[str, list[str]] = {}
    for name in archive.namelist():
        path = PurePosixPath(name)
        if len(path.parts) == 3 and path.parts[0] == PICTURES:
            pictures.setdefault(path.parts[1], []).append(name)
    for name in names:
        yield _bring(repository, archive, name, pictures.get(PurePosixPath(name).stem, ()), merge)


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


def _pictures(archive: zipfile.ZipFile, names: Iterable[str]) -> dict[str, bytes]:
    """The pictures of one piece of an archive, by their files in the record. Raises FieldError."""
    found = {}
    for name in names:
        if archive.getinfo(name).file_size > PHOTO_BYTES:
            raise FieldError("photo", f"{name} may be at most {PHOTO_BYTES // 2**20} MB.")
        found[f"{PHOTOS}/{PurePosixPath(name).name}"] = archive.read(name)
    return found


def _stored(name: str, outcome: Counter[str]) -> Brought:
    said = f"{outcome['added']} entries added, {outcome['same']} here already"
    return Brought(name, "added" if outcome["added"] else "same", said)


def _bring(
    repository: Repository,
    archive: zipfile.ZipFile,
    name: str,
    pictures: Iterable[str],
    merge: bool,
) -> Brought:
    try:
        document = load_json(archive.read(_sized(archive, name)), name)
        tag, outcome = repository.bring_in(document, merge=merge)
        if outcome != "ask":
            repository.bring_pictures(tag, _pictures(archive, pictures))
    except FieldError as error:
        return Brought(name, "refused", error.sentence)
    except (zipfile.BadZipFile, NotImplementedError, RuntimeError, EOFError):
        return Brought(name, "refused", f"{name} is damaged or locked.")
    return Brought(tag, outcome)
