"""Whether a capacitor that belongs to a piece is not excluded."""

import re

from greyfell.core.belief.found import Belief
from greyfell.core.evidence.record import Transformer
from greyfell.core.families.registry import chance, has, keys
from greyfell.core.wiring.coil import Leak, Topology

HOLDS_CHARGE = 0.05
"""From this chance of an oven transformer its capacitor is named and asked about first: it stands
until it is excluded. House rule."""
CAPACITOR_WORDS = re.compile(r"capacitor|condenser|resonan|constant voltage|\bCVT\b|[µu]F\b", re.I)
"""Words of a plate, a part or a title that speak of a capacitor."""
RESONANT_WORDS = re.compile(r"constant[- ]voltage|ferro-?resonan|\bCVT\b", re.I)
"""Words of a part that keeps a winding in resonance with its capacitor."""
FILTER_OHMS = (80e3, 1.2e6)
"""The resistor across a mains filter's capacitor has 0.1 to 1 MΩ, with a fifth either way. REF-H
H94, common practice."""


def may_hold_charge(record: Transformer, belief: Belief) -> bool:
    """Whether a capacitor that belongs to the piece is not excluded: an oven's, a filter's, or one
    that plate, parts or the owner's belief speak of.
    """
    if has(record.declared_family, "stores"):
        return True
    if belief.family != "unknown" and chance(belief.families, "stores") >= HOLDS_CHARGE:
        return True
    if belief.kind("inverter") >= HOLDS_CHARGE or ferroresonant(record, belief):
        return True
    if belief.topology.joints and not told_otherwise(record):
        return True  # a touch scrambles windings, and the family with them
    return speaks_of_capacitor(record) or bool(filters(record, belief.topology))


def filters(record: Transformer, topology: Topology) -> list[Leak]:
    """What reads as a mains filter's bleeder does, between two leads that no winding joins."""
    return [
        Leak(r.between, r.ohms, r.id)
        for r in record.standing
        if r.may_open and not r.is_open
        if FILTER_OHMS[0] < r.ohms < FILTER_OHMS[1]
        if not any(_wound(topology, x) for x in r.between)
    ]


def _wound(topology: Topology, point: str) -> bool:
    """Whether a point is the core, or the lead of a winding that conducts."""
    i = topology.coil_of(point)
    return point in topology.iron or (i is not None and not topology.coils[i].broken)


def told_otherwise(record: Transformer) -> bool:
    """Whether plate or belief say that it is of a family without a capacitor."""
    plate = record.nameplate
    plated = plate is not None and (plate.secondary_volts or any(o.volts for o in plate.outputs))
    return bool(plated) or record.declared_family in keys(stores=False)


def ferroresonant(record: Transformer, belief: Belief) -> bool:
    """Whether a piece may keep a winding in resonance: by what is believed of it, or by its title,
    plate or parts.
    """
    plate = "" if record.nameplate is None else record.nameplate.text
    told = (record.title, plate, *(f"{p.what} {p.text}" for p in record.parts))
    said = any(RESONANT_WORDS.search(text) for text in told)
    return said or belief.kind("resonant") >= HOLDS_CHARGE


def speaks_of_capacitor(record: Transformer) -> bool:
    """Whether plate or parts name one."""
    told = [p.what + " " + p.text for p in record.parts]
    if record.nameplate is not None:
        told.append(record.nameplate.text)
    return any(CAPACITOR_WORDS.search(text) for text in told)
