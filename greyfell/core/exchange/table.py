"""Readings as a table: comma-separated text out without loss, and in from what spreadsheets write,
each row told as it was understood.
"""

import csv
import io
import json
from collections.abc import Iterator, Mapping, Sequence
from functools import cache
from typing import Any

from msgspec import Struct

from greyfell.core.errors import FieldError
from greyfell.core.evidence.kinds.registry import by_key
from greyfell.core.evidence.loading import FORMAT
from greyfell.core.evidence.parse import parse_record
from greyfell.core.evidence.reading_in_words import told
from greyfell.core.evidence.record import MOST_READINGS, Transformer
from greyfell.core.figures.notation import parse_quantity

FIRST = ("id", "at", "kind")
LAST = ("by", "meter", "note", "struck")
UNITS = {
    "ohms": "ohm",
    "volts": "volt",
    "amps": "ampere",
    "watts": "watt",
    "henries": "henry",
    "hertz": "hertz",
}
"""What a column's figures are read in, by the last word of its name."""
DELIMITERS = ",;\t|"
MOST_BYTES = 4 * 1024 * 1024
OPEN_WORDS = ("open", "ol", "o.l", "inf", "∞")
FORMULA = ("=", "+", "-", "@", "\t", "'")
"""What a spreadsheet would work out when a text begins with it: such a text gets an apostrophe
ahead, which is taken off again on the way in. Common practice against formulas in tables."""
YES, NO = ("yes", "true", "1", "x"), ("no", "false", "0")


class TableRow(Struct, frozen=True):
    """One row of a table that came in: its number as a spreadsheet counts, the reading it was
    understood as and how that is told; or what is wrong. `here` where it is on record already.
    """

    number: int
    reading: dict[str, Any] | None
    words: str
    problem: str = ""
    here: bool = False


@cache
def columns() -> tuple[str, ...]:
    """Every column that a table may have, in the order they are written."""
    named: dict[str, None] = {}
    for kind in by_key().values():
        for name, field in kind.model_fields.items():
            named[field.alias or name] = None
    middle = [name for name in named if name not in (*FIRST, *LAST)]
    return (*FIRST, *middle, *LAST)


def as_table(record: Transformer) -> str:
    """Every reading of a record as comma-separated text with a head; columns that nothing stands in
    are left out. RFC 4180.
    """
    rows = [r.model_dump(mode="json", by_alias=True, exclude_unset=True) for r in record.readings]
    used = {name for row in rows for name, value in row.items() if value not in (None, "", [])}
    head = [name for name in columns() if name in used or name in FIRST]
    out = io.StringIO()
    writer = csv.DictWriter(out, head, extrasaction="ignore")
    writer.writeheader()
    for row in rows:
        writer.writerow({k: _written(v) for k, v in row.items()})
    return out.getvalue()


def _written(value: Any) -> Any:
    """A value as a cell: a pair as A-B, several with spaces, anything deeper as JSON."""
    if _is_pair(value):
        return "-".join(value)
    if isinstance(value, list) and all(_is_pair(x) for x in value):
        return " ".join("-".join(x) for x in value)
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, dict | list):
        return json.dumps(value, ensure_ascii=False)
    if isinstance(value, str) and value.startswith(FORMULA):
        return f"'{value}"
    return value


def _is_pair(value: Any) -> bool:
    return isinstance(value, list) and len(value) == 2 and all(isinstance(x, str) for x in value)


def _given(text: str) -> list[tuple[int, dict[str, Any]]]:
    delimiter = max(DELIMITERS, key=text.partition("\n")[0].count)
    reader = csv.DictReader(io.StringIO(text), delimiter=delimiter, skipinitialspace=True)
    try:
        head = [name.strip().lower().replace(" ", "_") for name in reader.fieldnames or []]
        _check_head(head)
        reader.fieldnames = head
        return [(reader.line_num, row) for row in reader if any(_filled(row))]
    except csv.Error as error:
        raise FieldError("table", f"The table cannot be read: {error}.") from None


def rows_of(text: str, document: Mapping[str, Any]) -> list[TableRow]:
    """Every row of a table, understood for a piece. Commas, semicolons, tabs and decimal commas are
    taken; figures may have units. Raises FieldError where it is no table of readings at all.
    """
    if len(text.encode()) > MOST_BYTES:
        raise FieldError("table", f"A table may have {MOST_BYTES // 2**20} MB at most.")
    text = text.removeprefix("﻿").strip("\r\n")
    if not text.strip():
        raise FieldError("table", "The table is empty.")
    given = _given(text)
    if len(given) > MOST_READINGS:
        raise FieldError(
            "table", f"A record holds {MOST_READINGS} readings; the table has {len(given)} rows."
        )
    bare = {k: v for k, v in document.items() if k in ("format", "tag", "leads")}
    known = {r["id"]: r for r in document.get("readings") or []}
    return list(_understood(given, {"format": FORMAT, **bare}, known))


def _filled(row: Mapping[str, Any]) -> Iterator[bool]:
    return (isinstance(v, str) and bool(v.strip()) for v in row.values())


def _check_head(head: Sequence[str]) -> None:
    """Raises FieldError where a head names no kind, or a column that no reading has."""
    if "kind" not in head:
        raise FieldError(
            "table", f"A table needs a column “kind”; its columns are {', '.join(head)[:200]}."
        )
    odd = [name for name in head if name not in columns()]
    if odd:
        raise FieldError("table", f"No reading has a column “{odd[0][:40]}”.")
    if len(set(head)) < len(head):
        raise FieldError("table", "A column stands twice in the table's head.")


def _understood(
    given: Sequence[tuple[int, Mapping[str, Any]]],
    bare: dict[str, Any],
    known: Mapping[str, Mapping[str, Any]],
) -> Iterator[TableRow]:
    seen: set[str] = set()
    for number, cells in given:
        try:
            reading = _reading(cells)
            record = parse_record({**bare, "readings": [{"id": "r", **reading}]})
            ident = reading.get("id", "")
            if ident in seen:
                raise FieldError("id", f"Reading {ident} stands twice in the table.")
            seen |= {ident} - {""}
            here = _same(record, known.get(ident))
            if ident in known and not here:
                raise FieldError("id", f"Reading {ident} is on record with other figures.")
        except FieldError as error:
            yield TableRow(number, None, "", error.sentence)
        else:
            yield TableRow(number, reading, told(record.readings[0]), here=here)


def _same(record: Transformer, known: Mapping[str, Any] | None) -> bool:
    """Whether a row says what a reading on record says, struck or not."""
    if known is None:
        return False
    return _bare(record.readings[0].model_dump(mode="json", by_alias=True, exclude_unset=True)) == (
        _bare(known)
    )


def _bare(reading: Mapping[str, Any]) -> dict[str, Any]:
    empty: tuple[Any, ...] = (None, "", [], False)
    return {k: v for k, v in reading.items() if v not in empty and k not in ("id", "struck")}


def _reading(cells: Mapping[str, Any]) -> dict[str, Any]:
    """One row as a reading. Raises FieldError naming the column."""
    if None in cells:
        raise FieldError("table", "The row has more cells than the head has columns.")
    kind = (cells.get("kind") or "").strip().lower().replace(" ", "_")
    known = by_key()
    if kind not in known:
        raise FieldError("kind", f"“{kind[:40]}” is no kind of reading: {', '.join(known)}.")
    fields = {f.alias or name for name, f in known[kind].model_fields.items()}
    out: dict[str, Any] = {"kind": kind}
    for name, text in cells.items():
        if name == "kind" or not (text or "").strip():
            continue
        if name not in fields:
            raise FieldError(name, f"A reading of {kind.replace('_', ' ')} has no {name}.")
        plain = text.strip()
        if plain.startswith("'") and plain[1:].startswith(FORMULA):
            plain = plain[1:]
        out[name] = _value(name, plain)
    return out


def _value(name: str, text: str) -> Any:
    """A cell as the value of its column. Raises FieldError."""
    last = name.rpartition("_")[2]
    if name in ("links", "shorted"):
        return [_pair(name, part) for part in text.split()]
    if name in ("between", "across", "driven", "sensed", "joined", "loaded"):
        return _pair(name, text)
    if name == "struck" or text.startswith("{"):
        return _deep(name, text)
    if name == "claimed" or name == "about":
        return _yes(name, text)
    if name == "ohms" and text.lower() in OPEN_WORDS:
        return "open"
    if last in UNITS:
        return parse_quantity(text, UNITS[last], field=name)
    if name in ("q", "turns", "celsius", "percent", "digits", "least", "most"):
        return parse_quantity(text, "number", field=name)
    return text


def _deep(name: str, text: str) -> Any:
    """A cell that holds JSON; a reason that is plain words stays words."""
    if not text.startswith("{"):
        return text
    try:
        return json.loads(text)
    except ValueError:
        raise FieldError(name, f"{name} is no whole JSON.") from None


def _yes(name: str, text: str) -> bool:
    if text.lower() in YES:
        return True
    if text.lower() in NO:
        return False
    raise FieldError(name, f"{name} is yes or no; “{text[:20]}” was given.")


def _pair(name: str, text: str) -> list[str]:
    """Two points as they are written: A-B, A–B, A/B."""
    points = [x.strip() for x in text.replace("–", "-").replace("/", "-").split("-")]
    if len(points) != 2 or not all(points):
        raise FieldError(name, f"{name} is two points, as A-B; “{text[:40]}” was given.")
    return points
