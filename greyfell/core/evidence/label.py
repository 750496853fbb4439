"""What a capacitor's label says, explained: microfarads, working volts, tolerance, bleeder; of a
doubtful figure every reading is tried, and the energy told for each.

Energy of a charged capacitor: E = ½·C·U², U the crest (√2 times an AC rating). Plates of AC motor
and oven capacitors: IEC 60252-1, from memory.
"""

import math
import re

from msgspec import Struct

from greyfell.core.errors import FieldError
from greyfell.core.figures.limits import MAINS_RISE
from greyfell.core.figures.notation import engineering, parse_quantity
from greyfell.core.figures.quantity import Quantity

FARADS = re.compile(r"([\d.,]+)\s*(?:or|/|\?)?\s*([\d.,]+)?\s*([munpµμ]?F|MFD|MF)\b", re.I)
VOLTS = re.compile(r"([\d.,]+)\s*(?:or|/)?\s*([\d.,]+)?\s*(k?)\s*(V\s*AC|VAC|V~|WV|VW|VDC|V)", re.I)
TOLERANCE = re.compile(r"(?:±|\+/?-)\s*([\d.,]+)\s*%")
BLEEDER = re.compile(r"([\d.,]+)\s*(MΩ|M\s*ohm|MEG|M)(?![FVWa-z])", re.I)
USUAL_TOLERANCE = 0.10
"""Where a label gives none. Common practice."""
MOST_LABEL = 120
USUAL = (0.5e-6, 1.3e-6)
"""What an oven's capacitor holds, farads. REF-R-T3."""


class Charged(Struct, frozen=True):
    """One way to read the label: farads, the crest volts, and the energy it would hold."""

    farads: float
    crest: float
    energy: Quantity
    words: str


class CapacitorLabel(Struct, frozen=True):
    """A label as understood: its words explained one by one, and every way to read it."""

    explained: tuple[tuple[str, str], ...]
    ways: tuple[Charged, ...]


def read_label(text: str) -> CapacitorLabel:
    """What a label says. Raises FieldError where no microfarads or no volts stand in it.

    >>> [round(way.energy.value, 2) for way in read_label("0.95µF 2100V AC ±3%").ways]
    [4.19]
    """
    text = text.strip()[:MOST_LABEL]
    farads, volts = FARADS.search(text), VOLTS.search(FARADS.sub(" ", text))
    if farads is None:
        raise FieldError("label", "Type its capacitance with the unit, such as 0.95µF.")
    if volts is None:
        raise FieldError("label", "Type its volts as they stand there: 2100V AC, or 2100WV.")
    said = TOLERANCE.search(text)
    share = _number(said.group(1)) / 100 if said else USUAL_TOLERANCE
    if share >= 1:
        raise FieldError("label", "A tolerance is under 100 %.")
    ways = [_charged(c, *u, share) for c in _farads(farads) for u in _crests(volts)]
    return CapacitorLabel(
        tuple(_explained(text, farads, volts, share, said is not None)), tuple(ways)
    )


def _number(text: str) -> float:
    return parse_quantity(text.rstrip(".,"), "number", field="label")


def _farads(found: re.Match[str]) -> list[float]:
    """The capacitances it may mean, in farads; MFD and MF are old ways to write microfarads."""
    unit = found.group(3).lower()
    factor = {"f": 1.0, "mf": 1e-6, "mfd": 1e-6, "nf": 1e-9, "pf": 1e-12}.get(unit, 1e-6)
    figures = [_number(x) for x in found.groups()[:2] if x]
    if any(not 0 < x * factor <= 10 for x in figures):
        raise FieldError("label", "A capacitance above nought, in µF, is meant.")
    return [x * factor for x in figures]


def _crests(found: re.Match[str]) -> list[tuple[float, str]]:
    """The crests it may mean. Without AC or DC beside it, both."""
    kind = re.sub(r"\s", "", found.group(4)).upper()
    factor = 1e3 if found.group(3) else 1.0
    out = []
    for figure in (_number(x) * factor for x in found.groups()[:2] if x):
        if not 0 < figure <= 1e5:
            raise FieldError("label", "Volts above nought and up to 100 kV are meant.")
        shown = engineering(figure, "V")
        if kind != "VDC":
            out.append((math.sqrt(2) * figure, f"{shown} AC"))
        if kind in ("V", "VDC", "WV", "VW"):
            out.append((figure, f"{shown} DC"))
    return out


def _charged(farads: float, crest: float, volts: str, share: float) -> Charged:
    energy = farads * crest**2 / 2
    low, high = energy * (1 - share), energy * (1 + share) * MAINS_RISE**2
    basis = (f"{engineering(farads, 'F')} ±{100 * share:.0f} %", f"crest {engineering(crest, 'V')}")
    words = f"{engineering(farads, 'F')} at {volts}"
    return Charged(farads, crest, Quantity(energy, low, high, basis), words)


def _explained(
    text: str, farads: re.Match[str], volts: re.Match[str], share: float, told: bool
) -> list[tuple[str, str]]:
    """Each thing that stands on it, and what it means."""
    out = [(farads.group(0).strip(), "how much charge it takes a volt, in microfarads")]
    kind = re.sub(r"\s", "", volts.group(4)).upper()
    meaning = {
        "WV": "working volts, not watts; of an oven's, AC: the crest is √2 times as much",
        "VW": "working volts, not watts; of an oven's, AC: the crest is √2 times as much",
        "VDC": "direct volts: the crest itself",
        "V": "volts, AC or DC is not said: both are tried",
    }.get(kind, "alternating volts, as RMS: the crest is √2 times as much")
    out.append((volts.group(0).strip(), meaning))
    words = f"±{100 * share:g} %"
    out.append((words, "how far the farads may be off" if told else "taken: none stands on it"))
    bleeder = BLEEDER.search(FARADS.sub(" ", text))
    if bleeder is not None:
        out.append((bleeder.group(0).strip(), "a resistor inside; it takes minutes, if sound"))
    if not any(USUAL[0] <= c <= USUAL[1] for c in _farads(farads)):
        out.append(("", "an oven's has 0.5 to 1.3 µF: look again, or it is another kind"))
    return out
