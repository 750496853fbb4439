"""An earth wire or pin on a winding that may carry the mains: with the plug in, everything earthed
would be live, whether or not the iron is. IEC 60335-1 on protective earth; common practice.
"""

from greyfell.core.belief.found import Belief
from greyfell.core.belief.priors import MAINS_ROLES
from greyfell.core.evidence.accuracy import ohms_of, unstated_probes
from greyfell.core.evidence.record import Lead, Transformer
from greyfell.core.figures.notation import engineering
from greyfell.core.judgement.fault import Fault
from greyfell.core.judgement.leaks import MAY_BE_MAINS

EARTH = "earth"
"""The earth of a plug or of a socket, as readings name it."""
CONDUCTS_OHMS = 1e4
"""Below this an earth conducts to a winding; above it, it leaks and is told as that."""


def earth_on_winding(record: Transformer, belief: Belief) -> list[Fault]:
    """Every reading by which an earth conducts to what may be the mains winding."""
    earths = {EARTH, *(x.id for x in record.leads if _wears_earth(x))}
    probes = unstated_probes(record.standing)
    out = []
    for r in record.standing:
        pair = r.ohms_between if r.of_wire else ()
        one = next((x for x in pair if x in earths), None)
        if one is None or "core" in pair:
            continue
        other = next(x for x in pair if x != one)
        ohms = ohms_of(r, probes).ohms
        if ohms < CONDUCTS_OHMS and _may_be_mains(belief, other):
            out.append(_fault(one, other, ohms, r.id))
    return out


def _wears_earth(lead: Lead) -> bool:
    """Green and yellow together are kept for the protective earth. IEC 60446, now IEC 60445."""
    colours = {(lead.colour or "").lower(), (lead.stripe or "").lower()}
    return colours == {"green", "yellow"}


def _may_be_mains(belief: Belief, point: str) -> bool:
    i = belief.topology.coil_of(point)
    if i is None:
        return False
    return sum(p for r, p in belief.roles[i].items() if r in MAINS_ROLES) >= MAY_BE_MAINS


def _fault(one: str, other: str, ohms: float, reading: str) -> Fault:
    name = "The earth" if one == EARTH else f"{one} wears an earth's colours and"
    return Fault(
        code="earth-on-winding",
        severity="stop",
        leads=(other, one),
        readings=(reading,),
        sentence=(
            f"{name} reads {engineering(max(ohms, 0.0), 'Ω')} to {other}, an end or tap of what "
            "may be the mains winding. With the plug in, all that is earthed would be live. Find "
            "where the two are joined and part them; the other readings need not be wrong."
        ),
    )
