"""What a planner shows: typed results of a handful of kinds, declared once.

A result is a frozen dataclass derived from `Result`, whose fields are made with `shown`; their kind
follows from their type.
"""

import dataclasses
import types
import typing
from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Any, Literal, TypeVar

from greyfell.core.figures.quantity import Quantity

Kind = Literal["figure", "count", "choice", "table", "group", "verdict", "series"]


@dataclass(frozen=True, kw_only=True)
class Show:
    """One result: its words and unit. `lead` marks the one that stands large."""

    label: str
    unit: str = ""
    lead: bool = False


def shown(
    label: str, unit: str = "", *, lead: bool = False, default: Any = dataclasses.MISSING
) -> Any:
    """A field of a result; its kind follows from its type: `Quantity` is a figure, `int` a count,
    `str` a choice, `bool` a verdict, a tuple of `Row` a table, one `Row` a group (shown as a table
    of one row), a tuple of figures a series.
    """
    return field(default=default, metadata={"show": Show(label=label, unit=unit, lead=lead)})


@dataclass(frozen=True, kw_only=True)
class ShownRow:
    """The base of every row of a table; its fields are made with `shown`."""


@dataclass(frozen=True, kw_only=True)
class Result:
    """The base of every result."""


@dataclass(frozen=True)
class Cell:
    """One field of a result as it is shown: key, words, kind and value."""

    key: str
    show: Show
    kind: Kind
    value: Any
    columns: tuple["Column", ...] = ()


@dataclass(frozen=True)
class Column:
    """One column of a table."""

    key: str
    show: Show


_COLUMNS: dict[type, tuple[tuple[Column, Kind, type | None], ...]] = {}
"""Fields of results and rows already looked at."""


def columns(of: type) -> tuple[tuple[Column, Kind, type | None], ...]:
    """Every field of a result or a row: its column, its kind, and the row type of a table."""
    if of not in _COLUMNS:
        _COLUMNS[of] = _columns(of)
    return _COLUMNS[of]


def _columns(of: type) -> tuple[tuple[Column, Kind, type | None], ...]:
    hints = typing.get_type_hints(of)
    out = []
    for f in dataclasses.fields(of):
        kind, row = _kind(hints[f.name])
        out.append((Column(f.name, f.metadata["show"]), kind, row))
    return tuple(out)


def _kind(hint: Any) -> tuple[Kind, type | None]:
    """The kind of a result by its type, and the row of a table."""
    if typing.get_origin(hint) in (types.UnionType, typing.Union):
        hint = next(k for k in typing.get_args(hint) if k is not type(None))
    if typing.get_origin(hint) is tuple:
        inner = typing.get_args(hint)[0]
        if isinstance(inner, type) and issubclass(inner, ShownRow):
            return "table", inner
        return "series", None
    if isinstance(hint, type) and issubclass(hint, ShownRow):
        return "group", hint
    kinds: dict[type, Kind] = {bool: "verdict", int: "count", str: "choice"}
    return kinds.get(hint, "figure"), None


def cells(result: Result) -> list[Cell]:
    """A result field by field, as it is shown; what is not known is left out."""
    out = []
    for column, kind, row in columns(type(result)):
        value = getattr(result, column.key)
        if value is not None:
            heads = tuple(c for c, _, _ in columns(row)) if row is not None else ()
            if kind == "group" and row is not None:
                kind, (heads, value) = "table", _laid_out(row, value)
            out.append(
                Cell(key=column.key, show=column.show, kind=kind, value=value, columns=heads)
            )
    return out


def _laid_out(row: type, value: Any) -> tuple[tuple["Column", ...], tuple[Any, ...]]:
    """A group as a table: of one row; or, where its fields are rows themselves, a row each with
    its name before it.
    """
    fields = columns(row)
    inner = next((r for _, kind, r in fields if kind == "group"), None)
    if inner is None:
        return tuple(c for c, _, _ in fields), (value,)
    heads = (Column("name", Show(label="Current")), *(c for c, _, _ in columns(inner)))
    keys = [c.key for c, _, _ in columns(inner)]
    rows = (
        {"name": c.show.label, **{k: getattr(getattr(value, c.key), k) for k in keys}}
        for c, _, _ in fields
    )
    return heads, tuple(rows)


R = TypeVar("R", bound=Result)


def merged(found: R, others: Iterable[R]) -> R:
    """A result whose figures also hold what they are in others of its kind: worked at the ends of
    an input's range, where turns are whole and nothing is monotonic.
    """
    rest = list(others)
    wider = {}
    for column, kind, _ in columns(type(found)):
        figures = [getattr(x, column.key) for x in (found, *rest)]
        if kind == "figure" and figures[0] is not None:
            held = [q for q in figures if q is not None]
            low, high = min(q.low for q in held), max(q.high for q in held)
            wider[column.key] = Quantity(held[0].value, low, high, held[0].basis)
    return dataclasses.replace(found, **wider)


def said(name: str) -> str:
    """A field's key in JSON: one that is a word of the language is declared with a `_` behind."""
    return name.rstrip("_")


def plain(value: Any) -> Any:
    """Any input or result as JSON says it."""
    if isinstance(value, Quantity):
        return value.as_json()
    if hasattr(value, "as_json"):
        return value.as_json()
    if dataclasses.is_dataclass(value):
        names = [f.name for f in dataclasses.fields(value)]
        return {said(name): plain(getattr(value, name)) for name in names}
    if isinstance(value, tuple):
        return [plain(x) for x in value]
    return value


FIGURE_SCHEMA = {
    "type": "object",
    "required": ["value", "low", "high", "basis"],
    "properties": {
        "value": {"type": ["number", "null"]},
        "low": {"type": "number"},
        "high": {"type": "number"},
        "basis": {"type": "array", "items": {"type": "string"}},
    },
}
WARNING_SCHEMA = {
    "type": "object",
    "required": ["code", "severity", "sentence"],
    "properties": {
        "code": {"type": "string"},
        "severity": {"enum": ["note", "caution", "stop"]},
        "sentence": {"type": "string"},
    },
}


def result_schema(of: type[Result]) -> dict[str, Any]:
    """The JSON Schema of a result, with the warnings that any may carry."""
    schema = _fields_schema(of)
    schema["properties"] |= {
        "warnings": {"type": "array", "items": WARNING_SCHEMA},
        "refused": {"type": "boolean"},
    }
    return schema


def _fields_schema(of: type) -> dict[str, Any]:
    """The JSON Schema of a result's or a row's own fields."""
    shapes: dict[Kind, Any] = {
        "figure": FIGURE_SCHEMA,
        "count": {"type": "integer"},
        "choice": {"type": "string"},
        "verdict": {"type": "boolean"},
        "series": {"type": "array"},
    }
    properties: dict[str, Any] = {}
    for column, kind, row in columns(of):
        shape = shapes.get(kind)
        if row is not None:
            shape = _fields_schema(row)
            shape = shape if kind == "group" else {"type": "array", "items": shape}
        words = {"title": column.show.label, "description": column.show.unit}
        properties[said(column.key)] = {**words, "anyOf": [shape, {"type": "null"}]}
    return {"type": "object", "required": list(properties), "properties": properties}
