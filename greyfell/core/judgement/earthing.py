"""The protective bond: earth to the core, a few hundredths of an ohm, and what an ohmmeter can say
of it.

Earth is a point of its own: the pin of a lead need not be on the iron, so that what reads open to
earth says nothing of the core.
"""

import math
import re
from collections.abc import Iterable
from typing import Any

from msgspec import Struct

from greyfell.core.belief.found import Belief
from greyfell.core.evidence.accuracy import ohms_of
from greyfell.core.evidence.record import Lead, Transformer
from greyfell.core.evidence.times import after, in_order
from greyfell.core.families.registry import chance
from greyfell.core.figures.limits import BOND_OHMS
from greyfell.core.figures.notation import engineering
from greyfell.core.judgement.high import may_be_high

BOND_AMPS = 1.0
"""With a current from here on, volts over amps tell a tenth of an ohm; 10 A or more before use. IEC
60335-1 cl. 27.5 asks 25 A, at most 12 V; 1 A behind a limiter is common practice."""
LIKELY_HV_FAMILY = 0.5
"""From this chance of an oven's or a sign's part its iron is taken for the return of an HV winding
that was not found. House rule."""
METER_TELLS_OHMS = 0.5
"""A hand meter can only say that a bond reads above this, or open. Common practice."""


class Bond(Struct, frozen=True):
    """What is on record of earth to the core: whether it is proved, or bad, its figure in words,
    the reading it rests on, with its time.
    """

    reading: str
    proved: bool
    bad: bool
    words: str
    at: str | None = None


def bond_of(record: Transformer, core_leads: Iterable[str]) -> Bond | None:
    """The bond by its readings that stand; None where none was taken.

    A bond can break by itself: a bad reading stands until a later one, of at least as many amps,
    is good, and a proof from before it proves nothing any more. What has no time of its own is no
    later. Order of entry does not matter.

    >>> from greyfell.core.evidence.kinds.dc_drop import DcDrop
    >>> drop = DcDrop(id="r1", across=("earth", "core"), volts=0.45, amps=10.0)
    >>> bond_of(Transformer.model_construct(readings=[drop]), ()).proved
    True
    """
    iron = {"core", *core_leads}
    read = [r for r in in_order(record.standing) if is_bond(r, iron)]
    judged = [(r, bond_by(r)) for r in read]
    good = [r for r, bond in judged if not bond.bad]
    broken = [r for r, bond in judged if bond.bad]
    bad = [bond for r, bond in judged if bond.bad and not any(mends(x, r) for x in good)]
    proved = [b for _, b in judged if b.proved and all(after(b.at, x.at) for x in broken)]
    told = [b for _, b in judged if not b.proved]
    return next(iter([*bad[::-1], *proved[::-1], *told[::-1]]), None)


def is_bond(r: Any, iron: set[str]) -> bool:
    """Whether a reading is one of earth to the core."""
    if not r.of_wire:
        return False
    points = set(r.ohms_between)
    return "earth" in points and points - {"earth"} <= iron


def mends(good: Any, bad: Any) -> bool:
    """Whether a good reading of the bond is later than a bad one and taken with as many amps; one
    taken by a hand meter says nothing against volts over amps.
    """
    return after(good.at, bad.at) and bool(good.test_amps >= bad.test_amps)


def bond_by(r: Any) -> Bond:
    """What one reading says of the bond."""
    read = ohms_of(r)
    ohms = max(read.ohms, 0.0)
    words = "open" if math.isinf(ohms) else engineering(ohms, "Ω")
    if r.test_amps >= BOND_AMPS:
        good = ohms <= BOND_OHMS
        return Bond(reading=r.id, proved=good, bad=not good, words=words, at=r.at)
    return Bond(reading=r.id, proved=False, bad=ohms > METER_TELLS_OHMS, words=words, at=r.at)


def bond_wanted(belief: Belief) -> bool:
    """Whether the iron returns what may be a high voltage; one that no reading found counts where
    the piece likely has it.
    """
    found = any(w.coil.bond is not None and may_be_high(w) for w in belief.windings)
    likely = chance(belief.families, "high") >= LIKELY_HV_FAMILY
    return found or (bool(belief.hidden) and likely)


def bond_meant(record: Transformer, belief: Belief) -> bool:
    """Whether the core is meant to be earthed: a lead on it wears the colours of an earth, the
    plate says that the middle is earthed, or an output is bonded to it by design. IEC 60446, from
    memory.
    """
    iron = set(belief.topology.core_leads)
    if any(lead.id in iron and earth_wire(lead) for lead in record.leads):
        return True
    bonded = {x for coil in belief.topology.coils if coil.bond is not None for x in coil.members}
    return plate_earths(record) or bool(vouched_points(record) & bonded)


EARTHS = re.compile(
    r"\bCTE\b|cent(?:re|er)[- ]tap(?:ped)?[- ](?:to )?earth|\bPELV\b|mid-?point earthed", re.I
)
"""Words of a plate by which an output is earthed by its maker. BS 7671 and BS 4363 name the site
transformer so (from memory)."""


def plate_earths(record: Transformer) -> bool:
    """Whether the plate says that an output is earthed by design."""
    plate = record.nameplate
    if plate is None:
        return False
    return bool(plate.midpoint_earthed) or EARTHS.search(plate.text) is not None


def vouched_points(record: Transformer) -> set[str]:
    """Leads that somebody says are bonded to the core by design."""
    meant = [s for s in record.statements if s.kind == "bonded-by-design"]
    return {x for s in meant for x in re.split(r"[^A-Za-z0-9]+", s.concerns) if x}


def earth_wire(lead: Lead) -> bool:
    """Whether a lead wears an earth's colours: green with a stripe, or green under a lug."""
    return (lead.colour or "").lower() == "green" and bool(lead.stripe or lead.end == "lug")
