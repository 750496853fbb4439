"""What can be seen of a piece, as a form: one table of boxes drives the page and the reading of
it.
"""

import json
import re
from collections.abc import Mapping
from typing import Any

from msgspec import Struct

from greyfell.core.errors import FieldError
from greyfell.core.figures.notation import parse_quantity
from greyfell.core.figures.wire import awg_millimetres, diameter_mm
from greyfell.web.drawings.marks import LEAD_COLOURS

Document = Mapping[str, Any]


class Box(Struct, frozen=True, kw_only=True):
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
    """A figure as it was typed, or None for an empty box; lengths in mm or inch, wire also by gauge
    or section. Raises FieldError naming the box.
    """
    if not text:
        return None
    try:
        return (
            _length(text, words)
            if unit == "millimetre"
            else parse_quantity(text, unit, field=words)
        )
    except FieldError as error:
        raise FieldError(box, error.sentence) from None


def _length(text: str, words: str) -> float:
    """Millimetres of a length, a gauge or a section, as typed.

    >>> round(_length("1 1/2 in", "Tongue"), 1), round(_length("18 AWG", "Wire"), 2)
    (38.1, 1.02)
    """
    inches = INCHES.fullmatch(text.strip())
    if inches is not None:
        whole, upper, lower = inches.group(1), inches.group(2), inches.group(3)
        share = int(upper) / int(lower) if upper and int(lower) else 0.0
        return 25.4 * (float((whole or "0").replace(",", ".")) + share)
    gauge = GAUGE.fullmatch(text.strip())
    if gauge is not None:
        return awg_millimetres(float(gauge.group(1) or gauge.group(2)))
    if SECTION.search(text):
        return diameter_mm(parse_quantity(text, "square millimetre", field=words))
    return parse_quantity(text, "millimetre", field=words)


INCHES = re.compile(r"(\d+(?:[.,]\d+)?)?\s*(?:(\d{1,3})/(\d{1,3}))?\s*(?:in|inch|″|\")", re.I)
GAUGE = re.compile(r"AWG\s*(\d{1,2})|(\d{1,2})\s*AWG", re.I)
SECTION = re.compile(r"mm(²|2)$")
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
    Box(part="core", key="shape", words="Shape", choices=("shell", "core", "toroid", "c-core")),
    Box(
        part="core",
        key="shunts",
        words="Shunts between the coils",
        choices=("present", "absent", "removed", "unknown"),
    ),
    Box(
        part="core",
        key="assembly",
        words="Held together",
        choices=("welded", "interleaved", "banded", "potted"),
    ),
    Box(part="core", key="potted", words="Potted in a case", choices=YES_NO),
    Box(
        part="core",
        key="damage",
        words="Damage and age",
        choices=("dented", "rusted", "burnt smell", "cloth insulation", "stood in the wet"),
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
    Box(part="core", key="slide_mm", words="Sliding core drawn out, mm", unit="millimetre"),
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
OUTPUTS = "plate_outputs"
"""The box of a plate's outputs, as “24V 6A, 12V 1A”."""
BOXES = {box.name: box for box in (*SUPPLY, *CORE_CHOICES, *CORE_FIGURES, *PLATE)}
"""Every box of iron, plate and supply by its name."""
LEAD_WORDS = (
    "colour",
    "stripe",
    "sleeve",
    "end",
    "place",
    "twisted_with",
    "thicker_than",
    "material",
    "damage",
    "fed",
)
"""What is said of a lead in words; its bare wire is a figure."""
CHOICES = {
    "colour": LEAD_COLOURS,
    "stripe": LEAD_COLOURS[:10],
    "sleeve": ("enamel only", "plastic", "rubber", "cloth", "glass"),
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
    "material": ("copper", "aluminium"),
    "damage": ("nicked", "burnt", "brittle", "cloth insulation", "green with age"),
}
"""What touching a lead offers; other words in a record are kept."""
LEAD_TITLES = {
    "colour": "Colour",
    "stripe": "Stripe",
    "sleeve": "Its sleeve",
    "end": "Its end",
    "place": "Comes from",
    "material": "Scraped, the wire is",
    "damage": "Damage and age",
}


def seen(document: Document, form: Any) -> dict[str, Any]:
    """What a form of the clues says, as changes to the record: only what the form holds changes, an
    emptied box takes its fact away. Unknown keys of the record stay.

    Raises FieldError naming the box.
    """
    changes: dict[str, Any] = {"leads": _leads(document, form)}
    if "title" in form:
        changes["title"] = form["title"].strip()
    if "declared_family" in form:
        changes["declared_family"] = form["declared_family"] or None
    for part, prefix in PREFIXES.items():
        if any(name.startswith(f"{prefix}_") for name in form):
            changes[part] = _part(document, form, part) or None
    return {k: v for k, v in changes.items() if v is not None or document.get(k) is not None}


def _leads(document: Document, form: Any) -> list[dict[str, Any]]:
    """The leads with what the form says of each, with those it adds, without the one it drops."""
    dropped = form.get("drop_lead", "")
    if dropped and _named(document, dropped):
        raise FieldError("drop_lead", f"{dropped} stands in a reading: strike that out first.")
    found = [_lead(x, form) for x in document["leads"] if x["id"] != dropped]
    more = form.get("more_leads", "").replace(",", " ").split()
    if dropped and not found:
        raise FieldError("drop_lead", "A piece has one lead at least.")
    return found + [{"id": x} for x in more]


def _named(document: Document, lead: str) -> bool:
    """Whether anything else on record names a lead."""
    rest = {k: v for k, v in document.items() if k in ("readings", "changes")}
    twins = [
        x.get(key)
        for x in document["leads"]
        for key in ("twisted_with", "thicker_than")
        if x["id"] != lead
    ]
    return lead in twins or f'"{lead}"' in json.dumps(rest)


def _part(document: Document, form: Any, part: str) -> dict[str, Any]:
    """One part of the record with what its boxes say; an emptied box takes its figure away."""
    kept = document.get(part) or {}
    found = {**kept}
    for box in BOXES.values():
        if box.part == part and box.name in form:
            found[box.key] = box.read(form)
    if part == "nameplate" and OUTPUTS in form:
        found["outputs"] = outputs(form[OUTPUTS]) or None
    if part == "supply":  # a supply always has volts and hertz: an emptied box leaves them
        found = {k: kept.get(k) if v is None else v for k, v in found.items()}
    return {k: v for k, v in found.items() if v is not None}


def outputs(text: str) -> list[dict[str, float]]:
    """A plate's outputs as typed, volts and amps of each. Raises FieldError.

    >>> outputs("24V 6A, 12V")
    [{'volts': 24.0, 'amps': 6.0}, {'volts': 12.0}]
    """
    found = []
    for one in re.split(r"[;\n]|,\s+", text.strip()):
        words = one.split()
        if not words:
            continue
        if len(words) > 2:
            raise FieldError(OUTPUTS, f"An output is volts and amps, as 24V 6A; “{one[:30]}” was.")
        told = {"volts": figure(words[0], "volt", box=OUTPUTS, words="Output volts") or 0.0}
        if len(words) == 2:
            told["amps"] = figure(words[1], "ampere", box=OUTPUTS, words="Output amps") or 0.0
        found.append(told)
    return found


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
