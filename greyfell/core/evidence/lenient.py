"""A record as it was kept, opened whatever stands in it.

What comes in at the door is checked by `parse_record`. What is kept already may be older than a
bound: then what cannot be read is named and left out, and the rest opens.
"""

from collections.abc import Mapping
from typing import Any

from msgspec import Struct

from greyfell.core.errors import FieldError
from greyfell.core.evidence.kinds.registry import keys
from greyfell.core.evidence.loading import FORMAT
from greyfell.core.evidence.parse import parse_record
from greyfell.core.evidence.record import MOST_RATIOS, MOST_READINGS, Transformer

LISTS = ("meters", "changes", "statements", "parts", "photos", "edits")
"""What stands in a record as lists, each entry by itself."""
WHOLE = (
    "id",
    "title",
    "declared_family",
    "supply",
    "nameplate",
    "core",
    "donor",
    "marking",
)
"""What stands in a record once."""


class LeftOut(Struct, frozen=True):
    """What could not be weighed: the reading's id, or the name of another part; and why."""

    what: str
    why: str
    is_reading: bool = True


def parse_kept(document: Mapping[str, Any]) -> tuple[Transformer, tuple[LeftOut, ...]]:
    """The record a kept document holds, and what of it had to be left out.

    Raises FieldError where not even tag and leads can be read.
    """
    try:
        return parse_record(dict(document)), ()
    except FieldError:
        return _piece_by_piece(document)


def _piece_by_piece(document: Mapping[str, Any]) -> tuple[Transformer, tuple[LeftOut, ...]]:
    """The same where something in it is refused: every part is tried by itself."""
    least: dict[str, Any] = {
        "format": FORMAT,
        "tag": document.get("tag"),
        "leads": document.get("leads"),
    }
    try:
        parse_record(least)
    except FieldError:
        if not isinstance(least["leads"], list):
            raise
        given = [x for x in least["leads"] or [] if isinstance(x, dict)]
        least["leads"] = [{"id": x.get("id")} for x in given]
        parse_record(least)
    taken: dict[str, Any] = dict(least)
    left: list[LeftOut] = []
    if least["leads"] != document.get("leads"):
        left.append(LeftOut("leads", "What was seen of the leads cannot be read.", False))
    for key in (k for k in WHOLE if document.get(k) is not None):
        sentence = _refused({**least, key: document[key]})
        if sentence:
            left.append(LeftOut(key, sentence, False))
        else:
            taken[key] = document[key]
    for key in (k for k in LISTS if document.get(k)):
        entries = document[key] if isinstance(document[key], list) else [document[key]]
        good = [x for x in entries if not _refused({**least, key: [x]})]
        if good != document[key] or _refused({**least, key: good}):
            left.append(LeftOut(key, f"Of {key}, not every entry can be read.", False))
        taken[key] = [] if _refused({**least, key: good}) else good
    readings = document.get("readings") or []
    good, odd = _readable(least, readings if isinstance(readings, list) else [readings])
    taken["readings"] = []
    ids: set[str] = set()
    for reading in good:
        named = reading.get("id")
        sentence = _full(taken["readings"], reading)
        if named in ids:
            sentence = f"Another reading is called {named} too."
        if sentence:
            odd.append(LeftOut(str(named), sentence))
        else:
            taken["readings"].append(reading)
            ids |= {named} if named else set()
    return parse_record(taken), (*left, *odd)


def _readable(
    least: dict[str, Any], readings: list[Any]
) -> tuple[list[dict[str, Any]], list[LeftOut]]:
    """The readings that can be read, in their order, and the others with why: by halves, so that
    one odd reading among thousands is soon found.
    """
    good: list[dict[str, Any]] = []
    odd: list[LeftOut] = []
    waiting = [list(enumerate(readings, 1))]
    while waiting:
        some = waiting.pop()
        sentence = _refused({**least, "readings": [r for _, r in some]})
        if not sentence:
            good += [r for _, r in some]
        elif len(some) == 1:
            ((n, reading),) = some
            named = reading.get("id") if isinstance(reading, dict) else None
            odd.append(LeftOut(str(named or n), sentence))
        else:
            half = len(some) // 2
            waiting += [some[half:], some[:half]]
    return good, odd


def _refused(document: dict[str, Any]) -> str:
    """Why a document is refused; empty where it is not."""
    try:
        parse_record(document)
    except FieldError as error:
        return error.sentence
    return ""


def _full(taken: list[Any], reading: Any) -> str:
    """Why a reading finds no room; empty where it does."""
    if len(taken) >= MOST_READINGS:
        return f"A record may hold {MOST_READINGS} readings; this one is beyond them."
    if not isinstance(reading, dict) or not _weighs_turns(reading):
        return ""
    if sum(map(_weighs_turns, taken)) >= MOST_RATIOS:
        return f"A record may hold {MOST_RATIOS} readings of turns; this one is beyond them."
    return ""


def _weighs_turns(reading: Any) -> bool:
    return reading.get("kind") in keys("weighs_turns")
