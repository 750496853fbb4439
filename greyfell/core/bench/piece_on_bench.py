"""What a piece asks of its set-up: which pair is fed, the volts that may stand on every pair, what
may be HV, what must be earthed, its own amps.
"""

import itertools
from collections.abc import Mapping, Sequence

from msgspec import Struct, field

from greyfell.core.belief.found import Winding
from greyfell.core.bench.open_windings import Open, Ratios, open_windings, ratios_read
from greyfell.core.circuit.idle import idle_of
from greyfell.core.figures.limits import MAINS_RISE
from greyfell.core.figures.quantity import Quantity
from greyfell.core.judgement.earthing import bond_meant, bond_wanted
from greyfell.core.judgement.gates import fed_windings
from greyfell.core.judgement.high import may_be_high
from greyfell.core.judgement.identification import Identification

Pair = frozenset[str]


class Needs(Struct, frozen=True, kw_only=True):
    """What a piece asks of the bench; volts RMS on mains a tenth high, None where they are not
    known. `no_core` says why no core can be reached for an earth, and is empty where one can.
    """

    supply_volts: float
    fed: tuple[Pair, ...]
    half: tuple[Pair, ...]
    reverse: tuple[Pair, ...]
    volts: Mapping[Pair, float | None]
    high: frozenset[str]
    ends: frozenset[str]
    iron: frozenset[str]
    bond: bool
    amps: Quantity | None
    idle_amps: float | None
    windings: tuple[Open, ...] = ()
    ratios: Ratios = field(default_factory=dict)
    no_core: str = ""

    def volts_of(self, pair: tuple[str, str]) -> float | None:
        """The most volts that may stand between two points; None where nobody knows."""
        return self.volts.get(frozenset(pair))


def _rated_amps(ident: Identification) -> Quantity | None:
    whole, volts = ident.belief.voltamperes, ident.record.supply.volts
    if whole is None:
        return None
    return Quantity(whole.value / volts, whole.low / volts, whole.high / volts)


def _reverse(ident: Identification, fed: Sequence[Winding]) -> tuple[frozenset[str], ...]:
    others = [w for w in ident.windings if w not in fed and not w.coil.broken]
    return tuple(frozenset(w.coil.leads) for w in others)


def needs_of(ident: Identification) -> Needs:
    """What this piece asks of its set-up, from everything on record."""
    belief, supply = ident.belief, ident.record.supply
    idle = idle_of(ident.record, belief)
    fed = fed_windings(ident)
    pairs = _fed_pairs(fed)
    half = tuple(frozenset(w.coil.leads) for w in fed) if len(fed) > 1 else ()
    iron = frozenset({"core", *ident.topology.core_leads})
    return Needs(
        supply_volts=supply.volts,
        fed=pairs,
        half=half,
        reverse=_reverse(ident, fed),
        volts=_volts(ident, fed),
        high=frozenset(x for w in ident.windings if may_be_high(w) for x in w.coil.members),
        ends=frozenset(x.id for x in ident.record.leads) - set(ident.topology.core_leads),
        iron=iron,
        bond=bond_wanted(belief) or bond_meant(ident.record, belief),
        windings=open_windings(belief, iron),
        ratios=ratios_read(ident.record),
        no_core=_no_core(ident),
        amps=_rated_amps(ident),
        idle_amps=None if idle is None else max(c.amps for c in idle.curves),
    )


def _no_core(ident: Identification) -> str:
    """Why no core or metal case can be reached; empty where one can, or nobody looked."""
    core = ident.record.core
    if core is None or ident.topology.core_leads:
        return ""
    if core.shape == "toroid":
        return "a ring wound all round"
    return "potted" if core.potted or core.assembly == "potted" else ""


def _fed_pairs(fed: list[Winding]) -> tuple[Pair, ...]:
    """Pairs that the supply may go on: the winding's ends, or the outer ends of halves in
    series.
    """
    if len(fed) == 1:
        return (frozenset(fed[0].coil.leads),)
    if len(fed) == 2:
        ends = itertools.product(fed[0].coil.leads, fed[1].coil.leads)
        return tuple(frozenset(pair) for pair in ends)
    return ()


def _volts(ident: Identification, fed: list[Winding]) -> dict[Pair, float | None]:
    """The most volts between every two points of one winding, the line's on what is fed; a bonded
    winding's leads stand at them to the iron.
    """
    out: dict[Pair, float | None] = {}
    line = MAINS_RISE * ident.record.supply.volts
    iron = {"core", *ident.topology.core_leads}
    for w in ident.windings:
        most = None if w.volts is None else MAINS_RISE * w.volts.high
        if w in fed:
            most = line
        points = {*w.coil.members, *(iron if w.coil.bond is not None else ())}
        for one, two in itertools.combinations(sorted(points), 2):
            share = w.coil.fraction_between(one, two)
            told = most if most is None or share is None else most * min(1.0, share * 1.1)
            out[frozenset((one, two))] = told
    return out
