"""How an isolated outlet is wired from a piece's own leads: feed, core, halves in every position
that may be switched, what opens both poles, what the wires must bear. None without polarity read.
"""

from collections.abc import Sequence

from msgspec import Struct

from greyfell.core.belief.found import Winding
from greyfell.core.bench.limiting import SECTION_AMPS
from greyfell.core.figures.notation import begun
from greyfell.core.isolation.states import UNPROVED
from greyfell.core.judgement.high import may_be_high
from greyfell.core.judgement.identification import Identification
from greyfell.core.telling.isolating import LIKE_HALVES
from greyfell.core.telling.terminals import in_order, senses

BREAKERS = (0.5, 1.0, 2.0, 3.0, 4.0, 6.0, 10.0, 16.0)
"""A, of two poles. IEC 60898-1, and small ones of IEC 60934."""


class Position(Struct, frozen=True, kw_only=True):
    """One position: its name, leads that are joined to one another, leads on each pole of the
    outlet, open volts, amps that the windings bear.
    """

    name: str
    joined: tuple[tuple[str, str], ...]
    line: tuple[str, ...]
    neutral: tuple[str, ...]
    volts: float
    amps: float | None

    @property
    def truth(self) -> str:
        """What touches what, in a line."""
        joined = ", ".join(f"{a} to {b}" for a, b in self.joined) or "nothing joined"
        return f"{joined}; L from {' and '.join(self.line)}, N from {' and '.join(self.neutral)}"


class Wiring(Struct, frozen=True, kw_only=True):
    """The whole: leads of the feed, positions, the output's breaker, mm² of its wires, why it is
    not wired.
    """

    feed: tuple[str, ...]
    positions: tuple[Position, ...]
    breaker: float | None
    mm2: float | None
    refused: str = ""

    @property
    def switched(self) -> bool:
        """Whether a switch chooses between volts."""
        return len(self.positions) > 1


def wiring(ident: Identification) -> Wiring:
    """The wiring of a piece as an isolated outlet, from its leads and the polarity that was read.
    V, A, mm². Kirchhoff.
    """
    feed = tuple(ident.belief.fed)
    if ident.stopped:
        stop = "A stop fault stands on this piece: nothing is wired of it."
        return Wiring(feed=feed, positions=(), breaker=None, mm2=None, refused=stop)
    outputs = _outputs(ident)
    if not feed or not outputs:
        none = "The winding for the mains, or the volts of an output, are not known yet."
        return Wiring(feed=feed, positions=(), breaker=None, mm2=None, refused=none)
    first, *rest = outputs
    like = [w for w in rest if _like(first, w)]
    if not like:
        found: Sequence[Position] = (_single(ident, first),)
    else:
        told = senses(ident)
        if first.id not in told or like[0].id not in told or not _joined(told, first, like[0]):
            return Wiring(feed=feed, positions=(), breaker=None, mm2=None, refused=_unproved())
        found = _halves(ident, first, like[0])
    breaker, mm2 = _protected(found)
    return Wiring(feed=feed, positions=tuple(found), breaker=breaker, mm2=mm2)


def _protected(found: Sequence[Position]) -> tuple[float | None, float]:
    # the breaker for the least amps of all positions, and the conductor that bears it
    amps = min((p.amps for p in found if p.amps is not None), default=None)
    breaker = None
    if amps is not None:
        breaker = max((b for b in BREAKERS if b <= amps), default=BREAKERS[0])
    bears = breaker or BREAKERS[-1]
    return breaker, next((x for x, most in SECTION_AMPS if most >= bears), SECTION_AMPS[-1][0])


def _unproved() -> str:
    return f"{begun(UNPROVED)}."


def _outputs(ident: Identification) -> list[Winding]:
    fed = set(ident.belief.fed)
    known = [w for w in ident.windings if not set(w.coil.leads) & fed and not may_be_high(w)]
    return [w for w in known if w.volts is not None and not w.coil.broken]


def _like(one: Winding, two: Winding) -> bool:
    assert one.volts is not None
    assert two.volts is not None
    return abs(two.volts.value / one.volts.value - 1) <= LIKE_HALVES


def _joined(told: dict[str, tuple[int, int]], one: Winding, two: Winding) -> bool:
    """Whether polarity readings join both."""
    return told[one.id][0] == told[two.id][0]


def _amps(ident: Identification, *windings: Winding) -> float | None:
    rated = [ident.belief.ratings.get(w.id) for w in windings]
    known = [r.continuous.value for r in rated if r is not None]
    return min(known) if len(known) == len(windings) else None


def _ends(ident: Identification, w: Winding) -> tuple[str, str]:
    """First and last end of a winding, by its polarity where that was read."""
    island = senses(ident).get(w.id, (0, 1))
    points = in_order(w, island[1])
    return points[0], points[-1]


def _single(ident: Identification, w: Winding) -> Position:
    start, end = _ends(ident, w)
    assert w.volts is not None
    return Position(
        name="on",
        joined=(),
        line=(start,),
        neutral=(end,),
        volts=w.volts.value,
        amps=_amps(ident, w),
    )


def _halves(ident: Identification, one: Winding, two: Winding) -> tuple[Position, Position]:
    """Both halves in series, and side by side: like ends alike."""
    (a, b), (c, d) = _ends(ident, one), _ends(ident, two)
    assert one.volts is not None
    assert two.volts is not None
    amps = _amps(ident, one, two)
    series = Position(
        name="in series",
        joined=((b, c),),
        line=(a,),
        neutral=(d,),
        volts=one.volts.value + two.volts.value,
        amps=amps,
    )
    parallel = Position(
        name="in parallel",
        joined=((a, c), (b, d)),
        line=(a, c),
        neutral=(b, d),
        volts=(one.volts.value + two.volts.value) / 2,
        amps=None if amps is None else 2 * amps,
    )
    return series, parallel
