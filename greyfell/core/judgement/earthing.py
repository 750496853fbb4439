"""The protective bond: earth to the core, a few hundredths of an ohm, and what an ohmmeter can say
of it.

Earth is a point of its own: the pin of a lead need not be on the iron, so that what reads open to
earth says nothing of the core.
"""

import math
from collections.abc import Iterable
from typing import Any

from msgspec import Struct

from greyfell.core.belief.found import Belief
from greyfell.core.evidence.accuracy import ohms_of
from greyfell.core.evidence.record import Lead, Transformer
from greyfell.core.figures.notation import engineering
from greyfell.core.judgement.high import may_be_high

BOND_OHMS = 0.1
"""A protective bond has no more ohms. IEC 60335-1 cl. 27.5 (from memory)."""
BOND_AMPS = 1.0
"""With a current from here on, volts over amps tell a tenth of an ohm; 10 A or more before use. IEC
60335-1 cl. 27.5 asks 25 A, at most 12 V; 1 A behind a limiter is common practice."""
METER_TELLS_OHMS = 0.5
"""A hand meter can only say that a bond reads above this, or open. Common practice."""


class Bond(Struct, frozen=True):
    """What is on record of earth to the core: whether it is proved, or bad, and its figure in
    words.
    """

    reading: str
    proved: bool
    bad: bool
    words: str


def bond_of(record: Transformer, core_leads: Iterable[str]) -> Bond | None:
    """The bond by the last reading of it that stands; None where none was taken.

    >>> from greyfell.core.evidence.record import DcDrop
    >>> drop = DcDrop(id="r1", across=("earth", "core"), volts=0.45, amps=10.0)
    >>> bond_of(Transformer.model_construct(readings=[drop]), ()).proved
    True
    """
    iron = {"core", *core_leads}
    found = None
    for r in record.standing:
        if r.kind not in ("resistance", "dc_drop"):
            continue
        points = r.between if r.kind == "resistance" else r.across
        if "earth" not in points:
            continue
        if not set(points) - {"earth"} <= iron:
            continue
        found = _judged(r)
    return found


def _judged(r: Any) -> Bond:
    read = ohms_of(r)
    ohms = max(read.ohms, 0.0)
    words = "open" if math.isinf(ohms) else engineering(ohms, "Ω")
    if r.kind == "dc_drop" and r.amps >= BOND_AMPS:
        good = ohms <= BOND_OHMS
        return Bond(reading=r.id, proved=good, bad=not good, words=words)
    return Bond(reading=r.id, proved=False, bad=ohms > METER_TELLS_OHMS, words=words)


def bond_wanted(belief: Belief) -> bool:
    """Whether the iron returns what may be a high voltage."""
    return any(w.coil.bond is not None and may_be_high(w) for w in belief.windings)


def bond_meant(record: Transformer, belief: Belief) -> bool:
    """Whether the core is meant to be earthed: a lead on it wears the colours of an earth, or the
    plate says that the middle is earthed. IEC 60446, from memory.
    """
    iron = set(belief.topology.core_leads)
    if any(lead.id in iron and earth_wire(lead) for lead in record.leads):
        return True
    plate = record.nameplate
    return plate is not None and bool(plate.midpoint_earthed)


def earth_wire(lead: Lead) -> bool:
    """Whether a lead wears an earth's colours: green with a stripe, or green under a lug."""
    return (lead.colour or "").lower() == "green" and bool(lead.stripe or lead.end == "lug")
