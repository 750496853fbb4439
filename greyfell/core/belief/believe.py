"""From a present record to what is believed of it: wiring, hypotheses, windings, volts."""

from greyfell.core.belief.amps import rated, voltamperes
from greyfell.core.belief.found import Belief, Winding
from greyfell.core.belief.observations import observations
from greyfell.core.belief.polarity import polarities
from greyfell.core.belief.priors import MAINS_ROLES
from greyfell.core.belief.taps import fed_points, taps_of
from greyfell.core.belief.volts import volts_per_turn, winding_volts
from greyfell.core.belief.weigh import Weighed, weigh
from greyfell.core.evidence.record import Transformer
from greyfell.core.wiring.coil import Topology
from greyfell.core.wiring.topology import find_windings


def believe(record: Transformer) -> Belief:
    """What a present record lets believe. Pure; judges nothing."""
    topology = find_windings(record)
    weighed = weigh(record, topology, observations(record, topology))
    roles = weighed.roles(len(topology.coils))
    windings = _windings(record, topology, weighed, roles)
    leading = weighed.leading(-1.0)
    whole = voltamperes(record, weighed.best, weighed.solution, weighed.index)
    return Belief(
        topology=topology,
        best=weighed.best,
        index=weighed.index,
        roles=roles,
        solution=weighed.solution,
        outliers=tuple(weighed.loose.items()),
        families=weighed.families(),
        windings=windings,
        voltamperes=whole,
        ratings=rated(record, windings, whole),
        fed=_fed(record, topology, weighed, roles),
        volts_per_turn=volts_per_turn(record, topology, weighed),
        other_region=weighed.elsewhere(),
        polarity=tuple(polarities(record, topology, weighed.solution, weighed.index)),
        scored=tuple((h, weight) for _, h, weight in leading),
        places=tuple(k for k, _, _ in leading),
    )


FED_CHANCE = 0.5
"""A winding that is less likely the mains' than not is not named as fed. House rule."""


def _fed(
    record: Transformer, topology: Topology, weighed: Weighed, roles: tuple[dict[str, float], ...]
) -> tuple[str, ...]:
    """The leads that the supply goes on; none where the primary is a guess."""
    best = weighed.best
    if best is None:
        return ()
    chance = sum(roles[best.reference].get(role, 0.0) for role in MAINS_ROLES)
    return fed_points(record, topology, best) if chance >= FED_CHANCE else ()


def _windings(
    record: Transformer, topology: Topology, weighed: Weighed, roles: tuple[dict[str, float], ...]
) -> tuple[Winding, ...]:
    """Every coil with its roles, the likeliest first, its taps and its volts."""
    out = []
    for i, coil in enumerate(topology.coils):
        volts = winding_volts(record, topology, weighed, i)
        likely = dict(sorted(roles[i].items(), key=lambda x: -x[1])) or {"unknown": 1.0}
        taps = taps_of(record, topology, i, volts)
        out.append(Winding(id=f"W{i + 1}", coil=coil, roles=likely, taps=taps, volts=volts))
    return tuple(out)
