"""What a planner asks: typed fields with words, unit and bounds, declared once.

An input is a frozen dataclass derived from `Input`, whose fields are made with `asked`. The bounds
of a field are checked whenever an input is made, so page, command line and Python refuse alike, and
the schema is written from the same object.
"""

import dataclasses
import itertools
import types
import typing
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any, TypeVar

from greyfell.core.errors import FieldError, told_from_nought, within
from greyfell.core.evidence.stores import FORMAT, Item, parse_stores, stores_document
from greyfell.core.figures.quantity import Quantity, exact, from_json
from greyfell.core.planner_kit.showing import plain

if TYPE_CHECKING:
    from greyfell.core.judgement.identification import Identification


@dataclass(frozen=True)
class Known:
    """What a start may draw on: what is known of a piece."""

    ident: "Identification"


Start = Callable[[Known], "Quantity | float | str | None"]


@dataclass(frozen=True, kw_only=True)
class Ask:
    """One input: its words and unit, its bounds, and where it starts.

    `above`, `at_least` and `at_most` bound the whole range of an uncertain figure; `slide` gives
    the ends of a slider; `choices` the words that may be chosen; `start` is the fact of a piece
    that fills it, `stock` the kind of the stores whose entries fill its rows. What is `aside`
    stands behind a fold on the page; `chosen` is a figure that somebody wants, and nobody reads.
    """

    label: str
    unit: str = ""
    above: float | None = None
    at_least: float | None = None
    at_most: float | None = None
    slide: tuple[float, float] | None = None
    choices: tuple[str, ...] = ()
    start: Start | None = None
    stock: str = ""
    help: str = ""
    aside: bool = False
    chosen: bool = False

    def check(self, key: str, value: Any) -> None:
        """Refuse a value out of bounds. Raises FieldError naming the key."""
        for number in _numbers(value):
            within(
                key,
                number,
                above=self.above,
                at_least=self.at_least,
                at_most=self.at_most,
                unit=self.unit,
            )
            told_from_nought(key, _said(key), number)
        if self.choices and value is not None and value not in self.choices:
            allowed = ", ".join(self.choices)
            raise FieldError(key, f"{_said(key)} must be one of {allowed}; {value!r} was given.")

    def schema(self) -> dict[str, float]:
        """The bounds as JSON Schema says them, in SI units: V, A, Ω, s."""
        bounds = {
            "exclusiveMinimum": self.above,
            "minimum": self.at_least,
            "maximum": self.at_most,
        }
        return {name: bound for name, bound in bounds.items() if bound is not None}


def _numbers(value: Any) -> Iterable[float]:
    """The figures in a value: its own, both ends of its range, or each of a list."""
    if isinstance(value, Quantity):
        return (value.low, value.high)
    if isinstance(value, tuple):
        return () if value and isinstance(value[0], Input | str) else value
    if isinstance(value, int | float) and not isinstance(value, bool):
        return (value,)
    return ()


@dataclass(frozen=True)
class OnHand:
    """What the stores hold, as an input: entries of `greyfell.stores/1` that are still there."""

    items: tuple[Item, ...] = ()

    def of(self, *kinds: str) -> list[Item]:
        """Its entries of some kinds."""
        return [i for i in self.items if i.kind.key in kinds and i.count and not i.gone]

    def as_json(self) -> dict[str, Any]:
        """The open format."""
        return stores_document(self.items)


def on_hand(key: str, given: Any) -> OnHand:
    """Stores from JSON: the whole document, or a list of entries. Raises FieldError under `key`."""
    document = given
    if isinstance(given, list | tuple):
        document = {"format": FORMAT, "items": list(given)}
    elif isinstance(given, Mapping) and "format" not in given:
        document = {"format": FORMAT, **given}
    try:
        return OnHand(tuple(parse_stores(document)))
    except FieldError as error:
        raise FieldError(f"{key}.{error.field}", error.sentence) from None


def asked(label: str, unit: str = "", *, default: Any = dataclasses.MISSING, **more: Any) -> Any:
    """A field of an input. `default` is what stands where nothing is given; without it the field
    must be given. Other words as of `Ask`.
    """
    ask = Ask(label=label, unit=unit, **more)
    return field(default=default, metadata={"ask": ask})


def _said(key: str) -> str:
    """A key as words."""
    return key.rsplit(".", 1)[-1].replace("_", " ").capitalize()


@dataclass(frozen=True, kw_only=True)
class Input:
    """The base of every input: made only within its bounds."""

    def __post_init__(self) -> None:
        for slot in slots(type(self)):
            slot.ask.check(slot.key, getattr(self, slot.key))


T = TypeVar("T", bound=Input)


def at_ends(given: T) -> list[T]:
    """The same input with its uncertain figures at the ends of their ranges, all ways; nothing
    where none is uncertain.
    """
    told = {s.key: getattr(given, s.key) for s in slots(type(given)) if s.kind is Quantity}
    wide = {k: q for k, q in told.items() if q is not None and q.low < q.high}
    ways = itertools.product(*((q.low, q.high) for q in wide.values())) if wide else ()
    return [
        dataclasses.replace(given, **{k: exact(x) for k, x in zip(wide, way, strict=True)})
        for way in ways
    ]


@dataclass(frozen=True)
class Slot:
    """One field of an input as it was declared: key, words and bounds, type, default."""

    key: str
    ask: Ask
    kind: type
    many: bool
    optional: bool
    default: Any

    @property
    def required(self) -> bool:
        """Whether it must be given."""
        return self.default is dataclasses.MISSING

    @property
    def part(self) -> type[Input] | None:
        """The input that it nests once, or None."""
        return self.kind if issubclass(self.kind, Input) and not self.many else None

    @property
    def row(self) -> type[Input] | None:
        """The input that it holds a list of, or None."""
        return self.kind if issubclass(self.kind, Input) and self.many else None

    def read(self, given: Any, path: str = "") -> Any:
        """A value of this field from JSON. Raises FieldError naming the key."""
        key = path + self.key
        if given is None and self.optional:
            return None
        if self.part is not None:
            return read(self.part, given, f"{key}.")
        if self.row is not None:
            rows = _named(self.row, given)
            if not isinstance(rows, list | tuple):
                raise FieldError(key, f"{_said(key)} is a list; {given!r:.40} was given.")
            return tuple(read(self.row, one, f"{key}.{n}.") for n, one in enumerate(rows))
        if self.many:
            values = given if isinstance(given, list | tuple) else [given]
            if not values and self.kind is not str:
                raise FieldError(key, f"{_said(key)} needs at least one figure; none was given.")
            return tuple(self._one(key, v) for v in values)
        if self.kind is Quantity:
            return from_json(key, given)
        if self.kind is OnHand:
            return on_hand(key, given)
        return self._one(key, given)

    def _one(self, key: str, given: Any) -> Any:
        """One word, choice or figure of it. Raises FieldError."""
        if self.kind is bool or self.kind is str:
            if not isinstance(given, self.kind):
                wanted = "true or false" if self.kind is bool else "words"
                raise FieldError(key, f"{_said(key)} must be {wanted}; {given!r} was given.")
            return given
        number = within(key, given)
        if self.kind is int and number != int(number):
            raise FieldError(key, f"{_said(key)} must be a whole number; {number:g} was given.")
        return self.kind(number)

    def schema(self) -> dict[str, Any]:
        """What JSON Schema says of it."""
        said: dict[str, Any] = {"title": self.ask.label, "description": self._description()}
        if not self.required and self.default is not None:
            said["default"] = plain(self.default)
        shape = self._shape()
        if self.optional:
            shape = {"anyOf": [shape, {"type": "null"}]}
        return {**said, **shape}

    def _shape(self) -> dict[str, Any]:
        if self.part is not None:
            return input_schema(self.part)
        if self.row is not None:
            return {"type": ["array", "object"], "items": input_schema(self.row)}
        if self.kind is OnHand:
            return {"type": ["object", "array"]}
        if self.kind is str or self.kind is bool:
            word: dict[str, Any] = {"type": "boolean" if self.kind is bool else "string"}
            if self.ask.choices:
                word["enum"] = list(self.ask.choices)
            return {"type": "array", "items": word} if self.many else word
        number = {"type": "integer" if self.kind is int else "number", **self.ask.schema()}
        if self.kind is Quantity:
            return {"anyOf": [number, _range_schema(number)]}
        if self.many:
            return {"anyOf": [number, {"type": "array", "items": number, "minItems": 1}]}
        return number

    def _description(self) -> str:
        unit = f"in {self.ask.unit}" if self.ask.unit else ""
        return "; ".join(x for x in (unit, self.ask.help) if x)


def _named(row: type[Input], given: Any) -> Any:
    """Rows of two fields may be given as an object: the first field of each is its name."""
    keys = [slot.key for slot in slots(row)]
    if len(keys) != 2 or not isinstance(given, Mapping):
        return given
    return [dict(zip(keys, pair, strict=True)) for pair in given.items()]


def _range_schema(number: dict[str, Any]) -> dict[str, Any]:
    parts = ("value", "low", "high")
    return {
        "type": "object",
        "required": list(parts),
        "additionalProperties": False,
        "properties": dict.fromkeys(parts, number),
    }


_SLOTS: dict[type[Input], tuple["Slot", ...]] = {}
"""Fields of inputs already looked at."""


def slots(of: type[Input]) -> tuple["Slot", ...]:
    """Every field of an input, in order."""
    if of not in _SLOTS:
        _SLOTS[of] = _slots(of)
    return _SLOTS[of]


def _slots(of: type[Input]) -> tuple["Slot", ...]:
    hints = typing.get_type_hints(of)
    out = []
    for f in dataclasses.fields(of):
        kind = hints[f.name]
        optional, many = False, False
        if typing.get_origin(kind) in (types.UnionType, typing.Union):
            kind = next(k for k in typing.get_args(kind) if k is not type(None))
            optional = True
        if typing.get_origin(kind) is tuple:
            kind, many = typing.get_args(kind)[0], True
        out.append(
            Slot(
                key=f.name,
                ask=f.metadata["ask"],
                kind=kind,
                many=many,
                optional=optional,
                default=f.default,
            )
        )
    return tuple(out)


def read(of: type[T], given: Any, path: str = "") -> T:
    """An input from JSON: SI figures, an uncertain one a number or value, low and high.

    Raises FieldError that names the key: one it does not know, one that is missing, one out of
    bounds.
    """
    if not isinstance(given, Mapping):
        what = path.rstrip(".") or "input"
        raise FieldError(what, f"{_said(what)} must be one JSON object; {given!r:.60} was given.")
    known = {slot.key: slot for slot in slots(of)}
    for key in given:
        if key not in known:
            listed = ", ".join(known)
            raise FieldError(f"{path}{key}", f"{key!s:.40} is not an input here (known: {listed}).")
    for key, slot in known.items():
        if slot.required and key not in given:
            raise FieldError(f"{path}{key}", f"{_said(key)} is missing.")
    try:
        return of(**{key: known[key].read(value, path) for key, value in given.items()})
    except FieldError as error:
        raise FieldError(_under(path, error.field), error.sentence) from None


def _under(path: str, key: str) -> str:
    """A key with its path, which a nested refusal may carry already."""
    return key if key.startswith(path) else f"{path}{key}"


def input_schema(of: type[Input]) -> dict[str, Any]:
    """The JSON Schema of an input."""
    return {
        "type": "object",
        "required": [slot.key for slot in slots(of) if slot.required],
        "additionalProperties": False,
        "properties": {slot.key: slot.schema() for slot in slots(of)},
    }


def starts_of(
    of: type[Input], known: Known, path: str
) -> Iterable[tuple[str, Quantity | float | str]]:
    """Key and value of every field that a piece fills."""
    for slot in slots(of):
        if slot.part is not None:
            yield from starts_of(slot.part, known, f"{path}{slot.key}.")
            continue
        value = slot.ask.start(known) if slot.ask.start is not None else None
        if value is not None:
            yield f"{path}{slot.key}", value


def nested(flat: Mapping[str, Any]) -> dict[str, Any]:
    """Values by dotted keys as JSON nests them.

    >>> nested({"turns": 3, "conductor.area_mm2": 16.0})
    {'turns': 3, 'conductor': {'area_mm2': 16.0}}
    """
    out: dict[str, Any] = {}
    for key, value in flat.items():
        place = out
        *parts, last = key.split(".")
        for part in parts:
            place = place.setdefault(part, {})
        place[last] = dict(value) if isinstance(value, dict) else plain_input(value)
    return out


def plain_input(value: Any) -> Any:
    """A start as JSON gives it: an uncertain figure without its basis."""
    if isinstance(value, Quantity):
        return {"value": value.value, "low": value.low, "high": value.high}
    return value
