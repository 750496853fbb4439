"""How many amps a winding bears, and how many volt-amperes the piece: from whatever is on record.

Every witness gives a logarithm and its spread; they are joined by their weights (JCGM 100:2008
annex H). The size that ohms, mass and plate tell; the section of the iron; the plate's own
volt-amperes and amps; the section of the wire.
"""

import math
from collections.abc import Iterable

from msgspec import Struct

from greyfell.core.belief.family import Hypothesis
from greyfell.core.belief.found import Rating, Winding
from greyfell.core.belief.priors import MAINS_ROLES
from greyfell.core.belief.size import LAW_SD, va_of
from greyfell.core.belief.solution import A, Solution
from greyfell.core.evidence.record import Transformer
from greyfell.core.families.registry import does
from greyfell.core.figures.constants import Z95
from greyfell.core.figures.quantity import Quantity
from greyfell.core.figures.wire import area_mm2

SECTION = (1.15, 0.08)
"""Net section in cm² over √VA of a mains transformer, and the spread of its logarithm. REF-M-04."""
PLATED_SD = 0.05
"""A plate's volt-amperes and amps are the rating itself, rounded."""
DENSITY = (3.0, 0.50)
"""A/mm² that windings carry for good, and the spread of the logarithm. REF-W-03, M-T2."""
SHARED_SD = 0.45
"""How unevenly outputs share the copper they were given. From memory."""
MINUTE = (3.0, 0.20)
"""Amps for one minute over those for good: copper that takes ten to twenty minutes to warm bears
three times as much for one. Common practice; the planner of temperature works it out."""
MAGNETISING = (1.08, 0.05)
"""Amps of a primary over its volt-amperes by volts: losses and magnetising current. Common
practice."""


class Witness(Struct, frozen=True):
    """What one kind of evidence says: a logarithm, its spread, and its name."""

    mean: float
    sd: float
    name: str


def joined(witnesses: Iterable[Witness]) -> Quantity | None:
    """Amps that witnesses say together, each by its weight; None where there is none. 95 % range.
    JCGM 100:2008.

    >>> two = [Witness(math.log(10.0), 0.1, "plate"), Witness(math.log(10.0), 0.1, "wire")]
    >>> joined(two).basis
    ('plate', 'wire')
    """
    found = list(witnesses)
    if not found:
        return None
    weights = [1 / w.sd**2 for w in found]
    mean = sum(w.mean * g for w, g in zip(found, weights, strict=True)) / sum(weights)
    spread = math.exp(Z95 / math.sqrt(sum(weights)))
    value = math.exp(mean)
    return Quantity(value, value / spread, value * spread, tuple(w.name for w in found))


def voltamperes(
    record: Transformer, best: Hypothesis | None, solution: Solution | None, index: int
) -> Quantity | None:
    """Volt-amperes that a piece bears for good; None where its family does not tell them by size.
    REF-M-04, REF-M-05.
    """
    if best is None or solution is None or not does(best.family).rated:
        return None
    return joined(_of_the_piece(record, solution, index))


def _of_the_piece(record: Transformer, solution: Solution, index: int) -> Iterable[Witness]:
    plate, core = record.nameplate, record.core
    outputs = plate.outputs if plate is not None else []
    rated = [o.volts * o.amps for o in outputs if o.volts and o.amps]
    if plate is not None and plate.va:
        yield Witness(math.log(plate.va), PLATED_SD, "plate")
        return
    if rated and len(rated) == len(outputs):
        yield Witness(math.log(sum(rated)), PLATED_SD, "plate")
        return
    size, sd = solution.posterior(index, solution.unit((A, 1.0)))
    va, slope = va_of(size)
    yield Witness(math.log(va), slope * math.hypot(sd, LAW_SD), "ohms and size")
    if core is not None and core.tongue_mm and core.stack_mm:
        net_cm2 = 0.95 * core.tongue_mm * core.stack_mm / 100
        spread = 2 * SECTION[1]
        yield Witness(2 * math.log(net_cm2 / SECTION[0]), spread, "core section")


def rated(
    record: Transformer, windings: tuple[Winding, ...], whole: Quantity | None
) -> dict[str, Rating]:
    """Amps of every winding of which something tells them, by the winding's id: from the wire, the
    plate, or its share of the volt-amperes. REF-W-03, M-T2.
    """
    shares = _shares(windings)
    out = {}
    for w in windings:
        amps = joined(_of_the_winding(record, w, whole, shares.get(w.id)))
        if amps is not None:
            out[w.id] = Rating(continuous=amps, minute=_for_a_minute(amps))
    return out


def _for_a_minute(amps: Quantity) -> Quantity:
    factor, sd = MINUTE
    wide = math.exp(Z95 * sd)
    return Quantity(
        factor * amps.value, factor * amps.low / wide, factor * amps.high * wide, amps.basis
    )


def _shares(windings: tuple[Winding, ...]) -> dict[str, float]:
    """Each output's share of the volt-amperes: copper is given out so that every winding is
    stressed alike, V²/R.
    """
    given = {
        w.id: w.volts.value**2 / w.coil.ohms.value
        for w in windings
        if w.volts is not None
        and w.role not in MAINS_ROLES
        and w.coil.readings
        and w.coil.ohms.value > 0
    }
    total = sum(given.values())
    return {k: v / total for k, v in given.items()} if total else {}


def _of_the_wire(record: Transformer, w: Winding) -> Iterable[Witness]:
    wires = [x.wire_mm for x in record.leads if x.id in w.coil.members and x.wire_mm]
    if wires:
        area = area_mm2(sum(wires) / len(wires))
        yield Witness(math.log(DENSITY[0] * area), DENSITY[1], "wire")


def _of_the_winding(
    record: Transformer, w: Winding, whole: Quantity | None, share: float | None
) -> Iterable[Witness]:
    yield from _of_the_wire(record, w)
    plated = _plated_amps(record, w)
    if plated is not None:
        yield Witness(math.log(plated), PLATED_SD, "plate")
        return
    if whole is None or w.volts is None or w.coil.broken:
        return
    spread = (math.log(whole.high) - math.log(whole.low)) / (2 * Z95)
    if w.on_mains:
        drawn = MAGNETISING[0] * whole.value / w.volts.value
        yield Witness(math.log(drawn), math.hypot(spread, MAGNETISING[1]), "volt-amperes")
    elif share is not None:
        alone = share > 0.999
        sd = math.hypot(spread, 0.0 if alone else SHARED_SD)
        yield Witness(math.log(share * whole.value / w.volts.value), sd, "volt-amperes")


NEAR_PLATE = 0.25
"""A plate's output is this winding's where its volts are so near, in logarithms. House rule."""


def _plated_amps(record: Transformer, w: Winding) -> float | None:
    """The plate's amps of the output nearest to this winding's volts."""
    plate = record.nameplate
    if plate is None or w.volts is None or w.on_mains:
        return None
    told = [(o.volts, o.amps) for o in plate.outputs if o.volts and o.amps]
    if not told and plate.secondary_volts and plate.secondary_amps:
        told = [(plate.secondary_volts, plate.secondary_amps)]
    near = [(abs(math.log(v / w.volts.value)), a) for v, a in told]
    off, amps = min(near, default=(math.inf, 0.0))
    return amps if off < NEAR_PLATE else None
