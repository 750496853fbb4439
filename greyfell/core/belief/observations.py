"""Everything on record that bears on turns and volts, as rows: a value, its spread, the windings it
touches.

Limits are rectangular (JCGM 100:2008 4.3.7, REF-Q-08): ± (percent of the value + digits in the
value's unit).
"""

import math
from collections.abc import Iterable, Sequence
from functools import lru_cache

import numpy as np
from msgspec import Struct
from msgspec.structs import replace
from numpy.typing import NDArray

from greyfell.core.belief.priors import MASS_A
from greyfell.core.belief.size import log_size
from greyfell.core.evidence.accuracy import ohms_of
from greyfell.core.evidence.kinds.reading import TurnsTold
from greyfell.core.evidence.record import Core, Nameplate, Reading, Transformer
from greyfell.core.wiring.coil import Coil, Topology

Array = NDArray[np.float64]
ALUMINIUM = 1.64
"""Aluminium has so many times copper's ohms: its section counts for so much less. REF-W-01."""
PLATE_VA_SD = 0.45
"""Spread of ln R/V² of a primary of which the plate tells the volt-amperes. From memory."""
PLATED_OPEN_VOLTS = 1500.0
"""From this on a plate states open volts: a sign transformer's volts and milliamps are of its open
and its shorted output. Common practice; T-15."""
OPEN_PLATE, LOADED_PLATE = (0.0, 0.03), (0.08, 0.12)
"""How far a winding's open volts stand above the plate's, in logarithms, and the spread. Common
practice."""
ALONE = 1.0
"""A ratio that no other reading agrees with: so much of that wander again, in quadrature, for what
one pair of figures cannot show. Learned on the worlds of `make evaluate`."""
AGREEING, VOUCHES = 2.0, 0.02
"""Two ratios agree within so many times what the line or source may wander between them, and one of
no more than this spread vouches for the other; whatever the meters' limits, so that a coarser
meter never narrows a range. House rule."""
OHMMETER_FLOOR_OHMS = 1e-3
"""No winding of interest here is below about a milliohm; keeps logarithms finite."""
WARMTH_SD = 0.02
"""Spread of the logarithm of ohms by the winding's temperature: 5 K. REF-W-01."""
HALF_WITHIN = 0.06
"""A point this near to the middle by ohms is the middle by turns. Common practice."""
WIRE_SD = (0.28, 0.22)
"""Spread of the logarithm of a conductor's area by one gauge, and by two or more. From memory."""
STACKING = 0.95
"""Net over gross area of a stack of laminations. REF-M-04."""


class Row(Struct, frozen=True):
    """One observation: its kind, the readings behind it, the windings it touches, its value and
    standard deviation; of a ratio, what of that is the line's or source's wander.
    """

    kind: str
    readings: tuple[str, ...]
    coils: tuple[int, ...]
    value: float
    sd: float
    volts: tuple[float, float] = (0.0, 0.0)
    apart: float = 0.0


def observations(record: Transformer, topology: Topology) -> list[Row]:
    """Everything on record that bears on turns and volts, one row each: ohms first, inductances
    and what was seen last.
    """
    rows: list[Row] = []
    for i, coil in enumerate(topology.coils):
        if coil.readings and not coil.broken:
            mean, sd = _best_ohms(record, coil)
            rows.append(Row(kind="ohms", readings=coil.readings, coils=(i,), value=mean, sd=sd))
    late: list[Row] = []
    for r in record.standing:
        row = _of_turns(r, topology)
        if row is not None:
            (late if row.kind == "inductance" else rows).append(row)
    return [*_vouched(rows), *late, *_seen(record, topology)]


def _vouched(rows: list[Row]) -> list[Row]:
    """The same rows, wider where a ratio stands alone: what line and hand did between its two
    volts shows only beside another reading of the same two windings.
    """
    ratios = [row for row in rows if row.kind == "ratio"]
    alone = {r.readings for r in ratios if not any(_agree(r, other) for other in ratios)}
    return [
        replace(row, sd=math.hypot(row.sd, ALONE * row.apart)) if row.readings in alone else row
        for row in rows
    ]


def _agree(row: Row, other: Row) -> bool:
    """Whether another ratio of the same two windings, itself fine enough, is the same within what
    the line or source does.
    """
    if other is row or set(other.coils) != set(row.coils) or other.sd > VOUCHES:
        return False
    told = other.value if other.coils == row.coils else -other.value
    return abs(row.value - told) <= AGREEING * math.hypot(row.apart, other.apart)


def _of_turns(r: Reading, topology: Topology) -> Row | None:
    """What a reading says of turns, as of whole windings; None where it says nothing, or of pairs
    that are no two windings.
    """
    told = r.turns_told()
    if told is None:
        return None
    found = _spots(topology, told.pairs)
    if found is None:
        return None
    shares = [spot.share for spot in found]
    of = shares[-1] / shares[0] if len(shares) > 1 else shares[0]
    places = tuple(spot.spread for spot in found) if told.placed else ()
    volts = (0.0, 0.0)
    if told.volts is not None:
        volts = (told.volts[0] / shares[0], told.volts[1] / shares[-1])
    return Row(
        kind=told.row,
        readings=(r.id,),
        coils=tuple(spot.coil for spot in found),
        value=told.value - math.log(of),
        sd=math.hypot(*_spreads(told, topology.coils[found[0].coil]), *places),
        volts=volts,
        apart=told.apart,
    )


def _spreads(told: TurnsTold, coil: Coil) -> tuple[float, ...]:
    """The spreads of what was told, wider where the winding's own ohms spoil it."""
    if coil.unread or coil.ohms.value <= told.spoilt_from:
        return told.spreads
    return (told.spreads[0] + told.spoilt, *told.spreads[1:])


def _best_ohms(record: Transformer, coil: Coil) -> tuple[float, float]:
    """ln ohms of a winding and its spread, a low-current DC measurement before an ohmmeter."""
    for r in record.standing:
        if r.test_amps and {*r.ohms_between} == {*coil.leads}:
            o = ohms_of(r)
            if o.ohms > 0:
                mean, sd = log_moments(max(o.low, 0.5 * o.ohms), o.ohms, o.high)
                return mean, math.hypot(sd, WARMTH_SD)
    mean, sd = log_moments(coil.ohms.low, coil.ohms.value, max(coil.ohms.high, 2e-3))
    return mean, math.hypot(sd, WARMTH_SD)


class _Spot(Struct, frozen=True):
    """Where a pair of points lies: which winding, what share of its turns, and that share's
    relative spread.
    """

    coil: int
    share: float
    spread: float


def _locate(topology: Topology, pair: tuple[str, str]) -> _Spot | None:
    """Which winding a pair of points spans; None where none, or where its place is not known."""
    core = topology.iron
    x, y = ("core" if p in core else p for p in pair)
    for i, coil in enumerate(topology.coils):
        names = {("core" if p in core else p): p for p in coil.positions}
        if x not in names or y not in names or x == y:
            continue
        share = coil.fraction_between(names[x], names[y])
        if share is None or coil.broken:
            return None
        if {names[x], names[y]} == set(coil.leads):
            return _Spot(i, 1.0, 0.0)
        if not coil.resolved:
            return None
        if coil.bond == "middle" or abs(share - 0.5) < HALF_WITHIN:
            return _Spot(i, 0.5, 0.005)
        return _Spot(i, max(share, 0.02), 0.04)
    return None


def _spots(topology: Topology, pairs: Sequence[tuple[str, str]]) -> list[_Spot] | None:
    # None where a pair is on no winding, or two of them on the same
    spots = [_locate(topology, pair) for pair in pairs]
    found = [spot for spot in spots if spot is not None]
    if len(found) < len(spots) or len({spot.coil for spot in found}) < len(found):
        return None
    return found


# ------------------------------------------------------------------ what can be seen


def _seen(record: Transformer, topology: Topology) -> list[Row]:
    """Plate, mass, core area and wire gauge as observations."""
    rows = [*_of_plate(record.nameplate), *_of_core(record.core)]
    leads = {lead.id: lead for lead in record.leads}
    for i, coil in enumerate(topology.coils):
        seen = [leads[x].wire_mm for x in coil.members if x in leads]
        gauges = [d for d in seen if d]
        if gauges and not coil.broken:
            area = math.pi / 4 * (float(np.median(gauges)) * 1e-3) ** 2
            if any(leads[x].material == "aluminium" for x in coil.members if x in leads):
                area /= ALUMINIUM
            sd = WIRE_SD[1] if len(gauges) > 1 else WIRE_SD[0]
            rows.append(Row(kind="wire", readings=(), coils=(i,), value=math.log(area), sd=sd))
    return rows


def _of_plate(plate: Nameplate | None) -> Iterable[Row]:
    if plate is None:
        return
    if plate.primary_volts:
        yield Row(
            kind="plate primary",
            readings=(),
            coils=(),
            value=math.log(plate.primary_volts),
            sd=0.03,
        )
    outputs = [o.volts for o in plate.outputs if o.volts]
    if not outputs and plate.secondary_volts:
        outputs = [plate.secondary_volts]
    if len(outputs) == 1:
        rise, sd = OPEN_PLATE if outputs[0] >= PLATED_OPEN_VOLTS else LOADED_PLATE
        yield Row(
            kind="plate output", readings=(), coils=(), value=math.log(outputs[0]) + rise, sd=sd
        )
    if plate.va:
        yield Row(kind="plate va", readings=(), coils=(), value=log_size(plate.va), sd=PLATE_VA_SD)


def _of_core(core: Core | None) -> Iterable[Row]:
    if core is None:
        return
    if core.mass_kg:
        a = math.log(MASS_A[0]) - MASS_A[1] * math.log(core.mass_kg)
        yield Row(kind="mass", readings=(), coils=(), value=a, sd=0.0)
    if core.tongue_mm and core.stack_mm:
        net = core.tongue_mm * core.stack_mm * 1e-6 * STACKING
        yield Row(kind="core area", readings=(), coils=(), value=math.log(net), sd=0.02)


def mean_turn(record: Transformer) -> tuple[float, float]:
    """ln of the mean turn's length in metres and its spread, from the core where it was measured.
    REF-M-14.

    >>> from greyfell.core.evidence.record import Core, Transformer
    >>> core = Core(tongue_mm=28.0, stack_mm=40.0)
    >>> round(math.exp(mean_turn(Transformer.model_construct(core=core))[0]), 3)
    0.17
    """
    core = record.core
    if core is not None and core.tongue_mm and core.stack_mm:
        build = 0.4 * (core.window_width_mm or 0.5 * core.tongue_mm)
        turn_mm = 2 * (core.tongue_mm + core.stack_mm + 8.0) + math.pi * build
        return math.log(turn_mm * 1e-3), 0.12
    if core is not None and core.mass_kg:
        return math.log(0.15 * core.mass_kg ** (1 / 3)), 0.25
    return math.log(0.20), 0.35


@lru_cache(maxsize=4096)
def log_moments(low: float, value: float, high: float) -> tuple[float, float]:
    """Mean and standard deviation of ln x for a figure read between two limits; a floor keeps both
    finite.

    Likelihood triangular between the limits, peak at the figure (JCGM 100:2008 4.3.9: makers state
    limits that nearly every meter keeps well within); before looking every size is as likely as
    another (uniform in ln x). Where the limits reach down to nothing, that says what a plain
    average of the limits would not: most of it lies near the figure.

    >>> tuple(round(v, 3) for v in log_moments(0.9, 1.0, 1.1))
    (-0.003, 0.041)
    >>> tuple(round(v, 2) for v in log_moments(0.0, 0.3, 0.6))
    (-1.81, 0.93)
    """
    low = max(low, min(OHMMETER_FLOOR_OHMS, high / 10))
    value = min(max(value, low), high)
    u = np.linspace(math.log(low), math.log(high), 64)
    x = np.exp(u)
    rise = (x - low) / max(value - low, 1e-12)
    fall = (high - x) / max(high - value, 1e-12)
    weight = np.clip(np.minimum(rise, fall), 0.0, 1.0) + 1e-9
    weight /= weight.sum()
    mean = float(weight @ u)
    return mean, max(math.sqrt(float(weight @ (u - mean) ** 2)), 1e-4)
