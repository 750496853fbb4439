"""On what a plan hangs: the inputs that move its answer most, how far each may go before the plan
must not be built, what that would cost, and the cheapest reading that settles it.
"""

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from greyfell.core.errors import FieldError
from greyfell.core.figures.quantity import Quantity
from greyfell.core.planner_kit.asking import Known, Slot, slots
from greyfell.core.planner_kit.declare import Planned, Planner
from greyfell.core.planner_kit.showing import columns

NUDGE, USUAL_SPREAD = 1.05, 0.05
"""How far an input is moved to see what it does, and what one without a range may be off by."""
FACTORS, FEW = (1.1, 1.25, 1.5, 2.0), (1.5,)
"""How far each is taken, up and down, to see whether the plan still stands; of planners that are
solved in time, once."""
MOST = 3
COSTS = {
    "over-brush": "a burnt brush",
    "over-heaters": "the transformer's heater winding",
    "does-not-fit": "an evening's winding",
    "too-hot": "the choke, slowly",
    "bridge-on-bonded": "the winding, and a trip",
    "resonance": "the insulation; near it, a life",
    "ferroresonance": "the capacitor and the piece",
    "nothing-limits": "a trip, a cable, or a life",
    "none-may": "the piece, in minutes",
    "one-core": "a life: kilovolts on the control winding",
    "over-the-top": "the piece, by its iron",
    "above-its-volts": "the reactor, by its iron",
}
"""What it costs where a plan fails for this reason."""
USUAL_COST = "the piece, or more"
SHORTED = "a short circuit at reduced volts, with watts"
PRINTED = "what is printed on it"
READINGS = (
    ("source_resistance", SHORTED),
    ("primary_resistance", SHORTED),
    ("reactance", SHORTED),
    ("short", SHORTED),
    ("brush", "the variac's plate"),
    ("claimed", "what is claimed, in writing"),
    ("breaker", PRINTED),
    ("ballasts", PRINTED),
    ("full_scale_amps", PRINTED),
    ("resistor_volts", PRINTED),
    ("resistor_watts", PRINTED),
    ("voltamperes", "its plate"),
    ("points", "amps and watts at each step of a wind-up"),
    ("parts", "a calliper, and its ohms by four wires"),
    ("price", "a dealer's price"),
    ("mass", "scales"),
    ("volts_per_turn", "five test turns through the window"),
    ("magnetising", "amps and watts at no load on the supply"),
    ("no_load", "amps and watts at no load on the supply"),
    ("supply_volts", "the line's volts at that minute"),
    ("line_volts", "the line's volts at that minute"),
    ("winding_volts", "its ratio at a low drive, both ways"),
    ("side_volts", "its ratio at a low drive, both ways"),
    ("primary_volts", "its plate"),
    ("coil_volts", "its ratio at a low drive, both ways"),
    ("over_secondary", "its ratio at a low drive, both ways"),
    ("open_volts", "its ratio at a low drive, both ways"),
    ("plate", "the plate, read once more"),
    ("ohms", "its ohms by four wires"),
    ("farads", "a capacitance meter"),
    ("millimetres", "a calliper"),
    ("_mm", "a calliper"),
    ("amps", "a clamp on the conductor"),
    ("watts", "a wattmeter"),
    ("hertz", "the plate, or the mains where you live"),
    ("celsius", "a thermometer"),
    ("turns", "a count, or five test turns"),
    ("volts", "a voltmeter"),
)
"""Cheapest reading by what an input's key holds, the first that fits."""


@dataclass(frozen=True, kw_only=True)
class Hang:
    """One input that the answer hangs on: what it does to the answer for a hundredth of its own,
    where the plan fails below and above it (None where not within twice), what failing costs, and
    the reading that settles it.
    """

    key: str
    label: str
    unit: str
    share: float
    fails_below: float | None
    fails_above: float | None
    costs: str
    reading: str


def hangs(planner: Planner, given: Mapping[str, Any], known: Known | None) -> list[Hang]:
    """The three inputs that a plan hangs on most; nothing where it has no leading figure."""
    given = {key: _middle(value) for key, value in given.items()}
    base = _planned(planner, given, known)
    lead = None if base is None else _lead(planner, base)
    if base is None or lead is None or not lead:
        return []
    found = []
    for slot, value, spread in _told(planner, base):
        moved = _planned(planner, {**given, slot.key: value * NUDGE}, known)
        after = None if moved is None else _lead(planner, moved)
        if after is None or after * lead <= 0:
            continue
        share = math.log(after / lead) / math.log(NUDGE)
        found.append((abs(share) * spread, share, slot, value))
    found.sort(key=lambda f: -f[0])
    return [
        _hang(planner, given, known, base, slot, value, share)
        for _, share, slot, value in found[:MOST]
        if abs(share) > 1e-3
    ]


def _middle(value: Any) -> Any:
    """An uncertain figure by its middle."""
    if isinstance(value, Mapping) and {"value", "low", "high"} <= set(value):
        return value["value"]
    return value


def _planned(planner: Planner, given: Mapping[str, Any], known: Known | None) -> Planned | None:
    """The plan with these inputs; None where it has no answer."""
    try:
        return planner.plan(planner.read(dict(given)), known)
    except FieldError:
        return None


def _lead(planner: Planner, planned: Planned) -> float | None:
    """The leading figure: the one that stands large, else the first."""
    figures = [(c, kind) for c, kind, _ in columns(planner.found) if kind in ("figure", "count")]
    for column, _ in sorted(figures, key=lambda f: not f[0].show.lead):
        value = getattr(planned.found, column.key)
        if value is not None:
            return float(value.value if isinstance(value, Quantity) else value)
    tables = [c.key for c, kind, _ in columns(planner.found) if kind == "table"]
    for table in (getattr(planned.found, key) for key in tables):
        for row in table[:1] if isinstance(table, tuple) else ():
            amps = getattr(row, "shorted_amps", None)
            if isinstance(amps, Quantity):
                return amps.value
    return None


def _told(planner: Planner, planned: Planned) -> Iterator[tuple[Slot, float, float]]:
    """Every input that is one figure above nought, and how far it may be off."""
    for slot in slots(planner.given):
        value = getattr(planned.given, slot.key)
        if isinstance(value, Quantity) and value.value > 0:
            yield slot, value.value, max(value.relative, USUAL_SPREAD)
        elif isinstance(value, float) and value > 0 and not slot.ask.aside:
            yield slot, value, USUAL_SPREAD


def _hang(
    planner: Planner,
    given: Mapping[str, Any],
    known: Known | None,
    base: Planned,
    slot: Slot,
    value: float,
    share: float,
) -> Hang:
    ends: list[float | None] = [None, None]
    reasons: list[str] = []
    if not base.refused:
        factors = FEW if planner.heavy else FACTORS
        for up, there in enumerate(([value / f for f in factors], [value * f for f in factors])):
            ends[up], because = _first_refused(planner, given, known, slot, there)
            reasons += because
    costs = next((COSTS[r] for r in reasons if r in COSTS), USUAL_COST)
    return Hang(
        key=slot.key,
        label=slot.ask.label,
        unit=slot.ask.unit,
        share=share,
        fails_below=ends[0],
        fails_above=ends[1],
        costs="" if ends == [None, None] else costs,
        reading=reading_of(slot.key),
    )


def _first_refused(
    planner: Planner,
    given: Mapping[str, Any],
    known: Known | None,
    slot: Slot,
    values: Sequence[float],
) -> tuple[float | None, list[str]]:
    for there in values:
        planned = _planned(planner, {**given, slot.key: there}, known)
        if planned is None or planned.refused:
            said = () if planned is None else planned.said
            return there, [s.code for s in said if s.severity == "stop"]
    return None, []


def reading_of(key: str) -> str:
    """The cheapest reading that settles an input, by its key.

    >>> reading_of("supply_volts")
    "the line's volts at that minute"
    """
    return next((words for part, words in READINGS if part in key), "a reading of it")
