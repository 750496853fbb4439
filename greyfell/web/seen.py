"""What can be seen of a piece, as a form: one table of boxes drives the page and the reading of
it.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from greyfell.core.errors import FieldError
from greyfell.core.figures.notation import parse_quantity
from greyfell.web.drawings.marks import LEAD_COLOURS

Document = Mapping[str, Any]


@dataclass(frozen=True, kw_only=True)
class Box:
    """One box: the part and key of the record it fills, its words, and its unit or its choices."""

    part: str
    key: str
    words: str
    unit: str = ""
    choices: tuple[str, ...] = ()

    @property
    def name(self) -> str:
        """The box's name in the form."""
        return f"{PREFIXES[self.part]}_{self.key}"

    def shown(self, part: Any) -> str:
        """What stands in the box for a part of a record."""
        value = None if part is None else getattr(part, self.key)
        if value is None:
            return ""
        if isinstance(value, bool):
            return YES_NO[not value]
        return f"{value:g}" if self.unit else str(value)

    def read(self, form: Any) -> Any:
        """What was typed or chosen: a figure in SI, a choice, or None. Raises FieldError naming the
        box.
        """
        text = (form.get(self.name) or "").strip()
        if self.choices == YES_NO:
            return {YES_NO[0]: True, YES_NO[1]: False}.get(text)
        if self.choices:
            return text if text in self.choices else None
        if not self.unit:
            return text or None
        return figure(text, self.unit, box=self.name, words=self.words)


def figure(text: str, unit: str, *, box: str, words: str) -> float | None:
    """A figure as it was typed, or None for an empty box. Raises FieldError naming the box."""
    if not text:
        return None
    try:
        return parse_quantity(text, unit, field=words)
    except FieldError as error:
        raise FieldError(box, error.sentence) from None


YES_NO = ("yes", "no")
"""Choices of what is or is not."""
PREFIXES = {"supply": "supply", "core": "core", "nameplate": "plate"}
"""Parts of the record, and how their boxes' names begin."""
SUPPLY = (
    Box(part="supply", key="volts", words="Supply volts", unit="volt"),
    Box(part="supply", key="hertz", words="Supply hertz", unit="hertz"),
    Box(part="supply", key="breaker_amps", words="Breaker, A", unit="ampere"),
)
CORE_CHOICES = (
    Box(part="core", key="shape", words="Core", choices=("shell", "core", "toroid", "c-core")),
    Box(
        part="core",
        key="shunts",
        words="Shunts",
        choices=("present", "absent", "removed", "unknown"),
    ),
    Box(
        part="core",
        key="assembly",
        words="Built",
        choices=("welded", "interleaved", "banded", "potted"),
    ),
)
CORE_FIGURES = (
    Box(part="core", key="tongue_mm", words="Tongue, mm", unit="millimetre"),
    Box(part="core", key="stack_mm", words="Stack, mm", unit="millimetre"),
    Box(part="core", key="window_width_mm", words="Window width, mm", unit="millimetre"),
    Box(part="core", key="window_height_mm", words="Window height, mm", unit="millimetre"),
    Box(part="core", key="outer_mm", words="Outer, mm", unit="millimetre"),
    Box(part="core", key="inner_mm", words="Inner, mm", unit="millimetre"),
    Box(part="core", key="height_mm", words="Height, mm", unit="millimetre"),
    Box(part="core", key="mass_kg", words="Mass, kg", unit="kilogram"),
)
PLATE = (
    Box(part="nameplate", key="primary_volts", words="Plate: primary, V", unit="volt"),
    Box(part="nameplate", key="hertz", words="Plate: hertz", unit="hertz"),
    Box(part="nameplate", key="secondary_volts", words="Plate: secondary, V", unit="volt"),
    Box(part="nameplate", key="secondary_amps", words="Plate: secondary, A", unit="ampere"),
    Box(part="nameplate", key="va", words="Plate: VA", unit="voltampere"),
    Box(part="nameplate", key="midpoint_earthed", words="Plate: middle earthed", choices=YES_NO),
    Box(part="nameplate", key="text", words="Plate: all it says"),
)
LEAD_WORDS = ("colour", "stripe", "end", "place", "twisted_with")
"""What is said of a lead in words; its bare wire is a figure."""
LEAD_BOXES = ("colour", "stripe", "wire_mm", "end", "place", "twisted_with")
"""A lead's boxes in the order they stand."""
CHOICES = {
    "colour": LEAD_COLOURS,
    "end": ("flying", "tab", "lug", "screw", "pin", "bushing"),
    "place": (
        "inner coil",
        "outer coil",
        "lower coil",
        "middle coil",
        "upper coil",
        "between coils",
        "ring",
        "coil",
    ),
}
"""What a lead's boxes offer; other words are taken too."""


def seen(document: Document, form: Any) -> dict[str, Any]:
    """What the clues form says, as changes to the record. Unknown keys of the record stay.

    Raises FieldError naming the box.
    """
    leads = [_lead(lead, form) for lead in document["leads"]]
    more = form.get("more_leads", "").replace(",", " ").split()
    plate = _part(document, form, "nameplate", PLATE)
    changes: dict[str, Any] = {
        "title": form.get("title", "").strip(),
        "declared_family": form.get("declared_family") or None,
        "supply": _part(document, form, "supply", SUPPLY),
        "leads": leads + [{"id": x} for x in more],
        "core": _part(document, form, "core", (*CORE_CHOICES, *CORE_FIGURES)) or None,
        "nameplate": plate or None,
    }
    return {k: v for k, v in changes.items() if v is not None or document.get(k) is not None}


def _part(document: Document, form: Any, part: str, boxes: tuple[Box, ...]) -> dict[str, Any]:
    """One part of the record with what its boxes say; an emptied box takes its figure away."""
    found = {**(document.get(part) or {})}
    for box in boxes:
        if box.choices or box.name in form:
            found[box.key] = box.read(form)
    if part == "supply":  # a supply always has volts and hertz: an emptied box leaves them
        kept = document.get(part) or {}
        found = {k: kept.get(k) if v is None else v for k, v in found.items()}
    return {k: v for k, v in found.items() if v is not None}


def _lead(lead: Mapping[str, Any], form: Any) -> dict[str, Any]:
    """One lead with what its boxes say."""
    begin = f"lead_{lead['id']}_"
    new = {**lead}
    for key in LEAD_WORDS:
        given = form.get(begin + key)
        if given is not None:
            new[key] = given.strip() or None
    wire = form.get(f"{begin}wire_mm")
    if wire is not None:
        words = f"Wire of {lead['id']}"
        new["wire_mm"] = figure(wire.strip(), "millimetre", box=f"{begin}wire_mm", words=words)
    return {k: v for k, v in new.items() if v is not None or k in lead}
