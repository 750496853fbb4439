"""For and against the leading family: each group of evidence left out in turn."""

import numpy as np
from msgspec import Struct

from greyfell.core.belief.clues import family_clues, winding_clues
from greyfell.core.belief.observations import Row, observations
from greyfell.core.belief.weigh import weigh
from greyfell.core.evidence.record import Transformer
from greyfell.core.figures.constants import DECIBANS
from greyfell.core.judgement.identification import Identification
from greyfell.core.wiring.coil import Topology


class Weight(Struct, frozen=True):
    """One piece of evidence: how far it moves the odds of the leading family against the rest, in
    decibans.
    """

    name: str
    decibans: float


def _odds(ident: Identification, kept: list[Row], without: str | None = None) -> float:
    # ln odds of the leading family by these rows
    weighed = weigh(ident.record, ident.topology, kept, without)
    mine = np.array([h.family == ident.family for h in weighed.hypotheses])
    if mine.all() or not mine.any():
        return 0.0
    for_it = np.logaddexp.reduce(weighed.score[mine])
    against = np.logaddexp.reduce(weighed.score[~mine])
    return float(for_it - against)


def weigh_evidence(ident: Identification) -> list[Weight]:
    """What spoke for and against the leading family, the weightiest first.

    Ten decibans are odds of ten to one. A group's weight is ln odds with it minus without it, ×
    10/ln 10.
    """
    if ident.belief.best is None:
        return []
    record, topology = ident.record, ident.topology
    rows = observations(record, topology)
    full = _odds(ident, rows)
    lost = {kind: _odds(ident, [r for r in rows if r.kind != kind]) for kind in _kinds(rows)}
    lost |= {name: _odds(ident, rows, name) for name in _groups(record, topology)}
    weights = [Weight(name, DECIBANS * (full - left)) for name, left in lost.items()]
    return sorted(weights, key=lambda w: -abs(w.decibans))


def _kinds(rows: list[Row]) -> list[str]:
    return list(dict.fromkeys(r.kind for r in rows))


def _groups(record: Transformer, topology: Topology) -> list[str]:
    """Groups of what can be seen, besides the readings."""
    names = [*family_clues(record, "mains"), "core bond", "taps"]
    leads = {lead.id: lead for lead in record.leads}
    for coil in topology.coils:
        seen = [leads[x] for x in coil.members if x in leads]
        if winding_clues(seen, "mains", "primary"):
            return [*names, "leads"]
    return names
