"""Volts named pair by pair before power, and what was read afterwards set against them, with the
likely slip where it lies outside.
"""

import itertools
import math
from collections.abc import Iterable, Sequence

from msgspec import Struct

from greyfell.core.belief.found import Winding
from greyfell.core.evidence.accuracy import limit
from greyfell.core.figures.limits import LIVE_VOLTS
from greyfell.core.figures.quantity import Quantity
from greyfell.core.judgement.gates import fed_windings
from greyfell.core.judgement.high import may_be_high
from greyfell.core.judgement.identification import Identification

WITHIN_LINE = 0.6
"""From this share of the supply on a ratio's reading counts as taken on the line; its volts are
scaled to it. House rule."""
NEAR = 0.06
"""A reading that lies so near a slip's share of the expected volts is told as that slip. House
rule."""
GHOST_SHARE = 0.7
"""Volts below this share that nothing explains may be a ghost, read by a meter of high input
resistance on a winding that is not joined. Common practice."""
Pair = tuple[str, str]


class Slip(Struct, frozen=True, kw_only=True):
    """A share of the expected volts, and what usually stands behind it."""

    share: float
    words: str


SLIPS = (
    Slip(share=0.0, words="nothing: not believed until the meter is proved: mode, jack, range"),
    Slip(share=0.5, words="half: one half was read for the whole, or the tap"),
    Slip(share=2.0, words="double: the whole was read for a half"),
    Slip(share=math.sqrt(2), words="the peak for the RMS: a scope, or a meter behind a diode"),
    Slip(share=1 / math.sqrt(2), words="the RMS of a peak: look which of both was meant"),
    Slip(share=10.0, words="ten times: a range, or a digit"),
    Slip(share=0.1, words="a tenth: a range, or a digit"),
)
"""Slips by how many times the expected volts they show. Common practice."""


class Expected(Struct, frozen=True, kw_only=True):
    """One pair before power: what it is, its volts on the supply, whether a hand-held meter may be
    on it and else the other way; afterwards the reading, its volts, and what they mean.
    """

    pair: Pair
    what: str
    volts: Quantity
    high: bool
    reading: str = ""
    read: float | None = None
    meaning: str = ""

    @property
    def live(self) -> bool:
        """Whether it counts as live when touched. IEC 61010-1."""
        return self.volts.high > LIVE_VOLTS

    @property
    def agrees(self) -> bool | None:
        """Whether what was read lies in its band; None where nothing was."""
        return None if self.read is None else not self.meaning


OTHER_WAY = (
    "not by hand: from the HV side at 24 to 60 V and multiplied, or by a divider made for it"
)


def expected_of(ident: Identification) -> list[Expected]:
    """Every pair that carries volts with the primary on the line, the least first: windings whole
    and their parts; what is fed has the line's own.
    """
    fed = fed_windings(ident)
    out = [_after(ident, e) for w in ident.windings if w not in fed for e in _pairs(w)]
    return sorted(out, key=lambda e: (e.high, e.volts.value))


def _pairs(w: Winding) -> Iterable[Expected]:
    """A winding's ends, each part between neighbouring leads, in volts by its share."""
    if w.volts is None or w.coil.broken:
        return
    high = may_be_high(w)
    yield Expected(pair=w.coil.leads, what="whole", volts=w.volts, high=high)
    points = [w.coil.leads[0], *(t.lead for t in w.taps), w.coil.leads[1]]
    if len(points) < 3:
        return
    for one, two in itertools.pairwise(points):
        share = w.coil.fraction_between(one, two)
        if share is None or not 0 < share < 1:
            continue
        volts = _part(w, one, two, share)
        yield Expected(pair=(one, two), what="part", volts=volts, high=high)


def _part(w: Winding, one: str, two: str, share: float) -> Quantity:
    """Volts of a part: by a tap's own volts where it lies at an end, else by the share of ohms."""
    assert w.volts is not None
    at = {t.lead: t.fraction for t in w.taps} | {w.coil.leads[0]: 0.0, w.coil.leads[1]: 1.0}
    if one in at and two in at:
        share = abs(at[one] - at[two])
    volts = w.volts
    spread = 0.05
    return Quantity(
        volts.value * share,
        volts.low * share * (1 - spread),
        volts.high * share * (1 + spread),
        ("share of the winding", *volts.basis),
    )


def _after(ident: Identification, e: Expected) -> Expected:
    """The pair with the last reading of it on the line, scaled to the supply."""
    supply = ident.record.supply.volts
    fed = set(ident.belief.fed)
    found = [
        r
        for r in ident.record.standing
        if r.kind == "ratio"
        and set(r.driven) <= fed
        and set(r.sensed) == set(e.pair)
        and r.driven_volts >= WITHIN_LINE * supply
    ]
    if not found:
        return e
    r = found[-1]
    read = r.sensed_volts * supply / r.driven_volts
    off = limit(r, "sensed_volts") * supply / r.driven_volts
    meaning = meaning_of(read, off, e, _others(ident, e))
    return Expected(
        pair=e.pair,
        what=e.what,
        volts=e.volts,
        high=e.high,
        reading=r.id,
        read=read,
        meaning=meaning,
    )


def _others(ident: Identification, e: Expected) -> list[Expected]:
    """Every other pair, by which a reading may have been taken on the wrong one."""
    return [x for w in ident.windings for x in _pairs(w) if set(x.pair) != set(e.pair)]


def meaning_of(read: float, off: float, e: Expected, others: Sequence[Expected]) -> str:
    """What a reading means beside its band; empty where it lies inside. V.

    >>> e = Expected(pair=("C", "D"), what="whole", volts=Quantity(24.0, 23.0, 26.0), high=False)
    >>> meaning_of(24.5, 0.2, e, []), meaning_of(12.1, 0.2, e, [])[:4]
    ('', 'half')
    """
    if e.volts.low - off <= read <= e.volts.high + off:
        return ""
    for slip in SLIPS:
        wanted = slip.share * e.volts.value
        near = max(NEAR * wanted, NEAR * e.volts.value if slip.share == 0 else 0.0)
        if abs(read - wanted) <= near:
            return slip.words
    for x in others:
        if x.volts.low <= read <= x.volts.high:
            return f"the volts of {'–'.join(x.pair)}: the wrong pair?"
    if read < GHOST_SHARE * e.volts.low:
        return "less than it has: a ghost by a meter of high input, a poor clip, or a load left on"
    return "outside its band: read both volts again in the same minute"
