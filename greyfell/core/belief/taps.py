"""Which points of a tapped primary the supply goes on, and where a tap stands by turns."""

import math

from msgspec import Struct

from greyfell.core.belief.family import Hypothesis
from greyfell.core.belief.found import TapFound
from greyfell.core.belief.priors import MAINS_ROLES
from greyfell.core.evidence.record import Transformer
from greyfell.core.figures.mains import MAINS_VOLTS, half_volts
from greyfell.core.figures.quantity import Quantity
from greyfell.core.wiring.coil import Coil, Tap, Topology

CENTRE = 0.04
"""A tap within this of the middle by ohms is a centre tap: outer turns are longer, so ohms put it
off the middle by a few per cent. Common practice."""
BORNE_OVER = 1.10
"""A section bears so much more than its volts. IEC 60038."""
FAR_OFF, USUAL_WEIGHT = 0.3, 2.0
"""The most that one tap far from any mains counts against a set, in logarithms of volts, and what
the mean over the taps is multiplied by. From memory."""
FITS = 0.05
"""How sharply a set of usual mains volts must fit a primary's taps, in logarithms of volts. From
memory."""
LEAST_TOLD = 0.05
"""A smaller share of a primary is two wires on one tag, no tap of another mains. House rule."""
LEAST_FED = 0.3
"""The supply goes on no smaller share of a tapped primary than this. House rule."""
GROWTH = 0.15
"""Half of how much longer a winding's outermost turn is than its innermost, at most usual: ohms
share − turns share of a tap at turns share f is up to GROWTH·f·(1 − f), either way while it is not
known which end lies inside. With a build b on a mean turn of length l it is 4·b/l: 8 mm on 220 mm.
Geometry of REF-M-14; the usual most from memory."""


class Feed(Struct, frozen=True):
    """Two points of a primary that the supply may go on, their share of its turns, how likely."""

    points: tuple[str, str]
    share: float
    weight: float


def reference_volts(
    record: Transformer, topology: Topology, h: Hypothesis
) -> list[tuple[float, float]]:
    """Volts across the reference primary's ends when it is fed as it should be, with weights.
    REF-M-01.
    """
    supply = record.supply.volts
    if h.halves is not None:
        return [(half_volts(supply), 1.0)]
    return [(supply / f.share, f.weight) for f in feeds(record, topology.coils[h.reference])]


def feeds(record: Transformer, coil: Coil) -> list[Feed]:
    """Which points of a tapped primary the supply goes on: the likeliest first.

    The taps' volts are taken to be a set of usual mains volts that fits the shares as they stand
    from one end, the common one. The supply goes from there to the tap nearest to it in ratio among
    those that it drives to at most 110 % of their volts per hertz; of two as near, the higher.
    Where 220/240 and 230/250 fit alike, both stay open. Common practice; REF-M-01.
    """
    whole = Feed(coil.leads, 1.0, 1.0)
    if not coil.taps or coil.bond is not None:
        return [whole]
    weights = _span_weights(record, coil)
    total = sum(weights.values())
    if total <= 0:
        return [whole]
    options = [Feed(pair, share, w / total) for (pair, share), w in weights.items()]
    return sorted((o for o in options if o.weight > 0.02), key=lambda o: -o.weight)


def _span_weights(record: Transformer, coil: Coil) -> dict[tuple[tuple[str, str], float], float]:
    supply = record.supply.volts
    plate = record.nameplate.primary_volts if record.nameplate else None
    weights: dict[tuple[tuple[str, str], float], float] = {}
    for spans in _from_either_end(coil):
        for ends in (v for v in MAINS_VOLTS if v >= 0.95 * supply):
            span = _bearing(ends, spans, supply)
            if span is None:
                continue
            off = _usual_misfit(ends, spans) + _plate_misfit(ends, spans, plate)
            off += abs(math.log(ends * span[1] / supply))
            weights[span] = weights.get(span, 0.0) + math.exp(-off / FITS)
    return weights


def centre_of(coil: Coil) -> Tap | None:
    """The tap that may be the centre: of those near the middle by ohms the nearest, since two that
    a reading tells apart never share a place. A bias tap stands some per cent beside the centre.
    """
    near = [t for t in coil.taps if abs(t.fraction - 0.5) <= CENTRE]
    return min(near, key=lambda t: abs(t.fraction - 0.5), default=None)


Span = tuple[tuple[str, str], float]
"""Two points of a winding, and their share of its turns."""


def _from_either_end(coil: Coil) -> list[list[Span]]:
    """Every stretch of a tapped winding from one of its ends, and from the other."""
    first, last = coil.leads
    there: list[Span] = [(coil.leads, 1.0)]
    back: list[Span] = [(coil.leads, 1.0)]
    middle = centre_of(coil)
    for tap in coil.taps:
        share = 0.5 if tap is middle else round(tap.fraction, 3)
        there.append(((first, tap.lead), share))
        back.append(((tap.lead, last), 1 - share))
    return [there, back]


def _bearing(ends: float, spans: list[Span], supply: float) -> Span | None:
    """The stretch that the supply goes on, were the whole made for `ends` volts; None where none
    bears it.
    """
    able = [s for s in spans if s[1] > LEAST_FED and supply <= BORNE_OVER * ends * s[1]]
    return min(able, key=lambda s: (_apart(ends * s[1], supply), -s[1]), default=None)


def _apart(volts: float, supply: float) -> float:
    """How far two volts are apart in ratio, to a tenth of a per cent."""
    return round(abs(math.log(volts / supply)), 3)


def _usual_misfit(ends: float, spans: list[Span]) -> float:
    """How far the stretches lie from usual mains volts, on average, were the whole made for
    `ends`.
    """
    shares = [share for _, share in spans if share > LEAST_TOLD]
    off = [min(abs(math.log(ends * share / v)) for v in MAINS_VOLTS) for share in shares]
    return sum(min(x, FAR_OFF) for x in off) / len(off) * USUAL_WEIGHT


def _plate_misfit(ends: float, spans: list[Span], plate: float | None) -> float:
    """How far the stretch nearest to the plate's volts lies from them; nought without a plate."""
    if not plate:
        return 0.0
    return min(abs(math.log(ends * share / plate)) for _, share in spans if share > LEAST_TOLD)


def fed_points(record: Transformer, topology: Topology, best: Hypothesis | None) -> tuple[str, ...]:
    """The leads that the supply goes on; none where no primary is known."""
    if best is None or best.roles[best.reference] not in MAINS_ROLES:
        return ()
    if best.halves is not None:
        return tuple(x for i in sorted(best.halves) for x in topology.coils[i].leads)
    return feeds(record, topology.coils[best.reference])[0].points


def taps_of(
    record: Transformer, topology: Topology, i: int, volts: Quantity | None
) -> tuple[TapFound, ...]:
    """The taps of winding i with their places by turns, and volts where the winding's are known."""
    out = []
    coil = topology.coils[i]
    placed = [(tap, *turn_fraction(record, topology, i, tap)) for tap in coil.taps]
    nearest = min(placed, key=lambda p: abs(p[1] - 0.5), default=None)
    for tap, fraction, spread in placed:
        centre = abs(fraction - 0.5) < CENTRE + min(0.3, 0.5 * spread)
        centre = centre and nearest is not None and tap is nearest[0]
        if centre and spread > 0.01:
            fraction, spread = 0.5, 0.01
        across = None
        if volts is not None and spread < 0.2:
            low = volts.low * max(0.0, fraction - spread)
            high = volts.high * (fraction + spread)
            across = Quantity(volts.value * fraction, low, high, volts.basis)
        out.append(TapFound(tap.lead, fraction, "centre" if centre else "tap", across))
    return tuple(out)


def turn_fraction(record: Transformer, topology: Topology, i: int, tap: Tap) -> tuple[float, float]:
    """A tap's share of the turns from the first end, and ±: by volts along the winding where read,
    else by ohms.

    Outer turns are longer, so the ohms share is f + g (f² − f) of the turns share f. A centre tap
    on the same winding tells g; without one its range widens the tap's. REF-M-14.
    """
    coil = topology.coils[i]
    by_volts = _share_by_volts(record, topology, coil, tap)
    if by_volts is not None:
        return by_volts, 0.01
    ohms = tap.fraction
    centre = centre_of(coil)
    if centre is None or centre.fraction == ohms:
        return ohms, min(0.5, tap.limit + GROWTH * ohms * (1 - ohms) + 0.003)
    g = 4 * (0.5 - centre.fraction)
    b = 1 - g
    turns = ohms
    if abs(g) >= 1e-6:
        turns = (-b + math.sqrt(max(0.0, b * b + 4 * g * ohms))) / (2 * g)
    return min(1.0, max(0.0, turns)), min(0.5, tap.limit + 0.01)


def _share_by_volts(record: Transformer, topology: Topology, coil: Coil, tap: Tap) -> float | None:
    """The tap's share of the volts: whole winding and a part of it read with the same pair driven,
    or one of them driven.
    """
    first, last = coil.leads
    whole = frozenset(coil.leads)
    near, far = frozenset((first, tap.lead)), frozenset((tap.lead, last))
    for told in _told_by_drive(record, topology, coil).values():
        one, two, all_of_it = told.get(near), told.get(far), told.get(whole)
        if all_of_it is not None and one is not None and one < all_of_it:
            return one / all_of_it
        if all_of_it is not None and two is not None and two < all_of_it:
            return 1 - two / all_of_it
        if one is not None and two is not None:
            return one / (one + two)
    return None


def _told_by_drive(
    record: Transformer, topology: Topology, coil: Coil
) -> dict[frozenset[str], dict[frozenset[str], float]]:
    """Per driven pair, the volts read on each pair per volt driven."""
    iron = ("core", *topology.core_leads)
    bonded = next((x for x in coil.positions if x in topology.core_leads), "core")

    def points(pair: tuple[str, str]) -> frozenset[str]:
        return frozenset(bonded if x in iron else x for x in pair)

    drives: dict[frozenset[str], dict[frozenset[str], float]] = {}
    for r in record.standing:
        if r.kind == "ratio" and r.sensed_volts > 0:
            driven = points(r.driven)
            told = drives.setdefault(driven, {driven: 1.0})
            told[points(r.sensed)] = r.sensed_volts / r.driven_volts
    return drives
