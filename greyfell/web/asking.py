"""A planner's input as a form: boxes from its declaration, and what was typed back into it."""

import re
from collections.abc import Iterable, Mapping, Sequence
from typing import Any, Literal

from msgspec import Struct
from msgspec.structs import replace

from greyfell.core.errors import FieldError
from greyfell.core.evidence.stores import Item
from greyfell.core.figures.notation import MEASURES, parse_quantity, parse_uncertain, typed
from greyfell.core.figures.quantity import Quantity
from greyfell.core.planner_kit.asking import (
    Ask,
    Input,
    Known,
    OnHand,
    Slot,
    nested,
    plain_input,
    slots,
)
from greyfell.core.planner_kit.declare import Planner
from greyfell.core.planner_kit.hangs import reading_of
from greyfell.web.drawings.marks import mark_of

MOST_TYPED = 2000
"""Letters of one box: a path of thirty parts."""
EXAMPLE = "example"
"""The mark of a figure that is nobody's."""
ON = "yes"
"""What a ticked box sends."""


class AskBox(Struct, frozen=True, kw_only=True):
    """One box of a planner's form: its key (dotted where nested), words and bounds, what stands in
    it, where that comes from, and, where it is empty and wanted of a piece, the reading that fills
    it.
    """

    key: str
    slot: Slot
    text: str
    basis: tuple[str, ...] = ()
    mark: str = "measured"
    wants: str = ""

    @property
    def ask(self) -> Ask:
        """Its words and bounds."""
        return self.slot.ask

    @property
    def look(self) -> Literal["figure", "choice", "tick", "rows"]:
        """How it is drawn."""
        if self.slot.kind is bool:
            return "tick"
        if self.slot.row is not None:
            return "rows"
        return "choice" if self.ask.choices else "figure"

    @property
    def lines(self) -> list[str]:
        """Rows that stand in it, one a line."""
        return [one.strip() for one in ROWS.split(self.text) if one.strip()]

    @property
    def row_words(self) -> str:
        """What a row holds, in its order."""
        assert self.slot.row is not None
        return ", ".join(s.ask.label.split(": ")[-1] for s in slots(self.slot.row))

    @property
    def plain(self) -> str:
        """The figure that stands in it without its range, for a slider."""
        return self.text.split("±")[0].split("(")[0].strip()

    def value(self) -> Any:
        """What stands in it, as JSON gives it. Raises FieldError naming the key."""
        if self.look == "tick":
            return self.text == ON
        if self.look == "choice":
            return self.text
        try:
            return self._figure()
        except FieldError as error:
            raise FieldError(self.key, error.sentence) from None

    def _figure(self) -> Any:
        if self.slot.row is not None:
            return [_row(self.slot.row, one) for one in ROWS.split(self.text) if one.strip()]
        measure, words = MEASURES[self.ask.unit], self.ask.label
        if self.slot.many and self.slot.kind is str:
            return [word.strip() for word in ROWS.split(self.text) if word.strip()]
        if self.slot.many:
            parts = self.text.replace(";", " ").split()
            return [parse_quantity(p.rstrip(","), measure, field=words) for p in parts]
        if self.slot.kind is Quantity:
            return plain_input(parse_uncertain(self.text, measure, field=words))
        return parse_quantity(self.text, measure, field=words)


LEFT_OUT = "-"
"""What stands in a row for a figure that is not known."""
MOST_ROWS = 4
"""So many entries of the stores fill a box of rows; more are typed."""
ROWS = re.compile(r"[;\n]|,\s+")
"""What stands between the rows of a list that is typed into one box."""


def _row(of: type[Input], text: str) -> dict[str, Any]:
    """One row of a list as it is typed: its figures in their order, with blanks between. Raises
    FieldError.
    """
    wanted, given = slots(of), text.split()
    if not sum(s.required for s in wanted) <= len(given) <= len(wanted):
        said = ", ".join(s.ask.label for s in wanted)
        raise FieldError(wanted[0].key, f"A row is {said}; “{text.strip()[:40]}” was given.")
    pairs = zip(wanted, given, strict=False)
    return {s.key: _cell(s, x) for s, x in pairs if x != LEFT_OUT}


def _cell(slot: Slot, text: str) -> Any:
    """One figure or word of a row."""
    if slot.kind is str:
        return text.replace("_", " ")
    return parse_quantity(text, MEASURES[slot.ask.unit], field=slot.ask.label)


def boxes(
    planner: Planner, known: Known | None, args: Mapping[str, str], items: Sequence[Item] = ()
) -> list[AskBox]:
    """Every box of a planner: what was typed, else what is known of the piece or stands in the
    stores, else the default. Without a piece an example stands there; from one only where the
    figure is a wish, for what is not known of a piece is not put in its place.
    """
    starts: dict[str, Any] = dict(planner.start(known)) if known is not None else {}
    starts |= _stocked(planner, items)
    begun = _Begun(
        starts=starts,
        stores={} if known is None else _in_stores(planner, items),
        example=_flat(planner.example),
        from_piece=known is not None,
    )
    return list(_boxes(planner.given, "", begun, args))


class _Begun(Struct, frozen=True):
    """What boxes begin with: what is known, figures of the stores, the example, whether there is a
    piece.
    """

    starts: Mapping[str, Any]
    stores: Mapping[str, float]
    example: Mapping[str, Any]
    from_piece: bool


def _in_stores(planner: Planner, items: Sequence[Item]) -> dict[str, float]:
    """The figures of the first entry of each kind that a planner draws on and that is there."""
    out: dict[str, float] = {}
    for kind, fills in planner.draws.items():
        mine = next((i for i in items if i.kind.key == kind and i.count), None)
        for key, name in fills.items() if mine is not None else ():
            value = mine.figures.get(name) if mine is not None else None
            if isinstance(value, int | float):
                out[key] = float(value)
    return out


def _stocked(planner: Planner, items: Sequence[Item]) -> dict[str, str]:
    """Rows that entries of the stores fill, as they are typed."""
    out = {}
    for slot in slots(planner.given):
        if slot.row is None or not slot.ask.stock:
            continue
        keys = [s.key for s in slots(slot.row)]
        mine = [i.as_json() for i in items if i.kind.key == slot.ask.stock and i.count]
        rows = [" ".join(_typed(i.get(k)) for k in keys) for i in mine[:MOST_ROWS]]
        if rows:
            out[slot.key] = "; ".join(rows)
    return out


def _flat(example: Mapping[str, Any], path: str = "") -> dict[str, Any]:
    """An example by dotted keys."""
    out: dict[str, Any] = {}
    for key, value in example.items():
        ranged = isinstance(value, Mapping) and "low" in value
        if isinstance(value, Mapping) and not ranged:
            out |= _flat(value, f"{path}{key}.")
        else:
            out[path + key] = Quantity(**value) if isinstance(value, Mapping) else value
    return out


def _boxes(of: Any, path: str, begun: _Begun, args: Mapping[str, str]) -> Iterable[AskBox]:
    for slot in slots(of):
        key = path + slot.key
        if slot.kind is OnHand:
            continue
        if slot.part is not None:
            yield from _boxes(slot.part, f"{key}.", begun, args)
            continue
        yield _typed_over(_started(key, slot, begun), args)


def _by_example(key: str, slot: Slot, begun: _Begun) -> bool:
    of_piece = begun.from_piece and not slot.ask.chosen
    return key in begun.example and slot.kind is not bool and not of_piece


def _started(key: str, slot: Slot, begun: _Begun) -> AskBox:
    """A box before anything was typed in it."""
    start = begun.starts.get(key)
    if start is not None:
        known = isinstance(start, Quantity)
        basis = start.basis if known else ("the stores" if slot.ask.stock else "the record",)
        mark = mark_of(start) if known else "measured"
        return AskBox(key=key, slot=slot, text=_text(start), basis=basis, mark=mark)
    if slot.required and key in begun.stores:
        return AskBox(key=key, slot=slot, text=_text(begun.stores[key]), basis=("the stores",))
    if _by_example(key, slot, begun):
        return AskBox(key=key, slot=slot, text=_text(begun.example[key]), mark=EXAMPLE)
    value = None if slot.required or "." in key else slot.default
    wants = reading_of(slot.key) if slot.required and begun.from_piece else ""
    mark = "measured" if value is None else "assumed"
    return AskBox(key=key, slot=slot, text=_text(value), wants=wants, mark=mark)


def _typed_over(box: AskBox, args: Mapping[str, str]) -> AskBox:
    """The box with what was typed in it."""
    if box.look == "tick":
        ticked = box.key in args if "sent" in args else box.text == ON
        return replace(box, text=ON if ticked else "")
    if box.key not in args or args[box.key].strip() == box.text:
        return box
    return replace(box, text=args[box.key].strip()[:MOST_TYPED], basis=(), mark="measured")


def _text(value: Any) -> str:
    """A value as it stands in a box."""
    if value is None or value is False:
        return ""
    if value is True:
        return ON
    if isinstance(value, Quantity):
        return typed(value)
    if isinstance(value, tuple | list):
        if value and isinstance(value[0], dict):
            return "; ".join(" ".join(_typed(v) for v in row.values()) for row in value)
        if value and isinstance(value[0], str):
            return "; ".join(value)
        return " ".join(f"{v:g}" for v in value)
    return value if isinstance(value, str) else typed_figure(value)


def figure_within(text: str, usual: float, least: float, most: float) -> float:
    """A plain figure of an address within its bounds; what is none is the usual one."""
    try:
        value = float(text.replace(",", "."))
    except ValueError:
        return usual
    return min(max(value, least), most) if value == value else usual


def typed_figure(value: float) -> str:
    """A figure as it is typed: small ones with their prefix, 3.2e-5 as 32µ."""
    for scale, prefix in SMALL:
        if 0 < abs(value) < 1e3 * scale:
            return f"{value / scale:.6g}{prefix}"
    return f"{value:.6g}"


SMALL = ((1e-12, "p"), (1e-9, "n"), (1e-6, "µ"))
"""Prefixes of figures below a thousandth."""


def _typed(value: Any) -> str:
    """A figure or word of a row as it is typed."""
    if value is None:
        return LEFT_OUT
    return value.replace(" ", "_") if isinstance(value, str) else f"{value:g}"


def examples(found: Iterable[AskBox]) -> list[str]:
    """The labels of boxes in which an example stands."""
    return [b.ask.label for b in found if b.mark == EXAMPLE and b.text]


def missing(found: Iterable[AskBox]) -> list[str]:
    """The labels of boxes that must be filled and are not."""
    return [b.ask.label for b in found if b.slot.required and not b.text and "." not in b.key]


def given(planner: Planner, found: Iterable[AskBox], items: Sequence[Item] = ()) -> Any:
    """The planner's typed input from its boxes, and from the stores where it asks for them; an
    empty box is not given. Raises FieldError.

    A nested input counts as given once anything that it needs is typed.
    """
    return planner.read(told(planner, found, items))


def told(planner: Planner, found: Iterable[AskBox], items: Sequence[Item] = ()) -> dict[str, Any]:
    """The same as JSON has it, unread. Raises FieldError."""
    listed = list(found)
    parts = {_part(b) for b in listed if b.text and b.slot.required}
    filled = [b for b in listed if b.text and (_part(b) == "" or _part(b) in parts)]
    held = [i.as_json() for i in items]
    stock = {s.key: held for s in slots(planner.given) if s.kind is OnHand}
    return nested({b.key: b.value() for b in filled}) | stock


def _part(box: AskBox) -> str:
    """The nested input that a box belongs to; nothing for the planner's own."""
    return box.key.rpartition(".")[0]
