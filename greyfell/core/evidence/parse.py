"""A document into a checked record, and what is wrong with it as a sentence."""

import json
from collections.abc import Mapping
from typing import Any

from pydantic import ValidationError

from greyfell.core.errors import FieldError
from greyfell.core.evidence.kinds.registry import by_key, keys
from greyfell.core.evidence.loading import FORMAT
from greyfell.core.evidence.record import MOST_RATIOS, Transformer, ends_of, field_of


def parse_record(document: Any) -> Transformer:
    """A checked record from a JSON document. Raises FieldError that names the reading and the
    field.
    """
    if not isinstance(document, dict):
        raise FieldError("file", "A record is one JSON object; something else was given.")
    if document.get("format") != FORMAT:
        given = document.get("format")
        said = f"“{str(given)[:60]}” was given" if given is not None else "none was given"
        raise FieldError("format", f"Format must be “{FORMAT}”; {said}.")
    document = (
        {**document, "readings": _with_ids(document.get("readings"))}
        if document.get("readings")
        else document
    )
    document = {k: v for k, v in document.items() if not (v is None and k in _NULLABLE_LISTS)}
    record: Transformer = checked(Transformer, document)
    _check_leads(record)
    return record


def checked(model: type[Any], document: Mapping[str, Any]) -> Any:
    """A document as one of the record's models. Raises FieldError that names the field."""
    try:
        return model.model_validate(document)
    except ValidationError as error:
        raise _sentence(error, document) from None


_NULLABLE_LISTS = (
    "meters",
    "readings",
    "changes",
    "statements",
    "parts",
    "photos",
    "edits",
    "supply",
    "title",
)


def _with_ids(readings: Any) -> Any:
    """Give readings without an id the next free one, so that conclusions can name them."""
    if not isinstance(readings, list):
        return readings
    given = [r.get("id") for r in readings if isinstance(r, dict)]
    taken = {ident for ident in given if isinstance(ident, str)}
    out, count = [], 0
    for reading in readings:
        if isinstance(reading, dict) and reading.get("id") in (None, ""):
            count += 1
            while f"r{count}" in taken:
                count += 1
            taken.add(f"r{count}")
            reading = {**reading, "id": f"r{count}"}
        out.append(reading)
    return out


def parse_reading(document: Mapping[str, Any], leads: list[str]) -> Any:
    """One checked reading, its leads among `leads`. Raises FieldError that names the field."""
    holder = {
        "format": FORMAT,
        "tag": "X",
        "leads": [{"id": x} for x in leads],
        "readings": [dict(document)],
    }
    return parse_record(holder).readings[0]


def _check_leads(record: Transformer) -> None:
    known = [lead.id for lead in record.leads]
    _check_names(record, known)
    turns = sum(r.weighs_turns for r in record.readings)
    if turns > MOST_RATIOS:
        sentence = (
            f"Of readings that tell turns ({', '.join(keys('weighs_turns'))}) a record may hold "
            f"{MOST_RATIOS}; {turns} were given."
        )
        raise FieldError("readings", sentence)
    ids: set[str] = set()
    points = {*known, "core", "earth"}
    for reading in record.readings:
        if reading.id in ids:
            raise FieldError(
                f"reading {reading.id}",
                f"Reading {reading.id} stands twice; each needs its own id.",
            )
        ids.add(reading.id)
        for field, (x, y) in ends_of(reading):
            _check_pair(reading.id, field, x, y, points, known)
        single = field_of(reading, "from_")
        if single is not None and single not in points:
            raise _no_such_lead(reading.id, "from", single, known)


def _check_names(record: Transformer, known: list[str]) -> None:
    for i, name in enumerate(known):
        if name in ("core", "earth"):
            raise FieldError(
                f"leads.{i}.id", f"A lead cannot be called “{name}”: that name is reserved."
            )
        if name in known[:i]:
            raise FieldError(
                f"leads.{i}.id", f"Lead {name} is named twice; each lead needs its own letter."
            )
    for lead in record.leads:
        if lead.twisted_with is not None and (
            lead.twisted_with not in known or lead.twisted_with == lead.id
        ):
            raise FieldError(
                "leads",
                f"Lead {lead.id} is twisted with {lead.twisted_with}, which is not another lead.",
            )
    for i, change in enumerate(record.changes):
        strange = next((x for x in change.leads or () if x not in known), None)
        if strange is not None:
            raise FieldError(
                f"changes.{i}.leads",
                f"The change “{change.what}” names lead {strange}, which this piece does not have.",
            )


def _check_pair(
    reading: str, field: str, x: str, y: str, points: set[str], known: list[str]
) -> None:
    for lead in (x, y):
        if lead not in points:
            raise _no_such_lead(reading, field, lead, known)
    if x == y:
        raise FieldError(
            f"reading {reading}: {field}",
            f"Reading {reading}: {field} needs two different points; {x} was given twice.",
        )


def _no_such_lead(reading: str, field: str, lead: str, known: list[str]) -> FieldError:
    names = ", ".join(known[:20]) or "none named yet"
    return FieldError(
        f"reading {reading}: {field}",
        (
            f"Reading {reading}: {field} names lead {lead[:20]}, which this piece does not have "
            f"(leads: {names}, core)."
        ),
    )


UNION_TAGS = ("constrained-", "literal[", "function-after[")
"""How a place names which choice of a union was tried."""


SHAPES = {
    "list_type": "a list",
    "tuple_type": "a list",
    "string_type": "text",
    "bool_type": "true or false",
    "bool_parsing": "true or false",
    "int_type": "a whole number",
    "int_parsing": "a whole number",
    "int_from_float": "a whole number",
    "dict_type": "an object",
    "model_type": "an object",
    "model_attributes_type": "an object",
}
"""What a value must be, by the kind of error that it is none."""


def _sentence(error: ValidationError, document: Mapping[str, Any]) -> FieldError:
    """The first thing wrong, as a sentence that names the reading and the field."""
    first = error.errors(include_url=False)[0]
    known = by_key()
    path = [p for p in first["loc"] if p not in known and not str(p).startswith(UNION_TAGS)]
    path = [p for p in path if p not in ("float", "Struck", "tuple[str, str]")]
    where, names = "", [str(p) for p in path]
    if len(path) > 1 and path[0] == "readings" and isinstance(path[1], int):
        item = document["readings"][path[1]]
        ident = item.get("id") if isinstance(item, dict) else None
        where, names = (
            f"Reading {ident or path[1] + 1}: ",
            [str(p) for p in path[2:]] or ["reading"],
        )
    field = ".".join(names) or "record"
    given = first.get("input")
    shown = (
        json.dumps(given, ensure_ascii=False, default=str)[:60]
        if not isinstance(given, dict)
        else "an object"
    )
    context = first.get("ctx", {})
    limit = next((context[k] for k in ("le", "ge", "max_length") if k in context), 0)
    allowed = first["msg"].removeprefix("Input should be ")
    words = {
        "missing": "is missing",
        "float_type": f"must be a number; {shown} was given",
        "finite_number": f"must be a finite number; {shown} was given",
        "greater_than": f"must be above 0; {shown} was given",
        "greater_than_equal": f"must {_least(given, limit)}; {shown} was given",
        "less_than_equal": f"must be at most {limit:g}; {shown} was given",
        "union_tag_invalid": f"has a kind this program does not know; known: {', '.join(known)}",
        "union_tag_not_found": "has no kind",
        "string_pattern_mismatch": f"may hold letters, digits and “-” only; {shown} was given",
        "too_long": f"may have {limit:g} entries; it has more",
        "string_too_long": "is too long",
        "literal_error": f"must be {allowed}; {shown} was given",
        **{kind: f"must be {what}; {shown} was given" for kind, what in SHAPES.items()},
    }.get(
        first["type"],
        f"cannot be used: {first['msg'].removeprefix('Value error, ')}; {shown} was given",
    )
    if field.endswith("ohms") and first["type"] == "literal_error":
        words = f"must be a number of ohms or “open”; {shown} was given"
    return FieldError(f"{where.lower()}{field}", f"{where}{field.replace('_', ' ')} {words}.")


def _least(given: Any, limit: float) -> str:
    """What a figure below its bound must do."""
    if limit == 0:
        return "not be negative"
    below = isinstance(given, int | float) and given <= 0
    return "be above 0" if below else f"be at least {limit:g}"
