"""From pairwise ohms to windings: which leads belong together, in which order, and what meets the
core.

Leads of one winding lie on a line whose distances are ohms (`lines`); a group that conducts may
hold several windings (`groups`). A reading that breaks additivity is named, not averaged.
"""

import itertools
import math
from collections import defaultdict
from dataclasses import replace

import networkx as nx

from greyfell.core.evidence.accuracy import OhmReading, ohms_of, unstated_probes
from greyfell.core.evidence.record import Transformer
from greyfell.core.figures.quantity import Quantity
from greyfell.core.wiring.coil import LEAK_OHMS, Coil, Contradiction, Joint, Leak, Tap, Topology
from greyfell.core.wiring.groups import component, could_be_primary
from greyfell.core.wiring.lines import Distances, slip_of


def find_windings(record: Transformer) -> Topology:
    """Group a record's leads into windings with taps in order. Pure; readings struck out take no
    part.
    """
    leads = [lead.id for lead in record.leads]
    ohms: Distances = defaultdict(list)
    probes = unstated_probes(record.standing)
    tested: dict[str, set[str]] = defaultdict(set)
    for reading in record.standing:
        if reading.kind not in ("resistance", "dc_drop"):
            continue
        pair = tuple(
            "core" if x == "earth" else x
            for x in (getattr(reading, "between", None) or reading.across)
        )
        if pair[0] == pair[1]:
            continue
        ohms[frozenset(pair)].append(ohms_of(reading, probes))
        tested[pair[0]].add(pair[1])
        tested[pair[1]].add(pair[0])

    joined, leaks, contradictions = _classify(ohms)
    core_leads = _core_leads(leads, joined, record)
    to_core = {
        x: min(abs(o.ohms) for o in joined[frozenset((x, "core"))])
        for x in leads
        if frozenset((x, "core")) in joined
    }
    joined = _merge_core(joined, core_leads)
    graph: nx.Graph = nx.Graph()
    graph.add_nodes_from(x for x in leads if x not in core_leads)
    graph.add_edges_from(tuple(pair) for pair in joined)

    coils: list[Coil] = []
    joints: list[Joint] = []
    parts = [p for p in nx.connected_components(graph) if len(p) >= 2]
    able = [could_be_primary(p, joined) for p in parts]
    for part, own in zip(parts, able, strict=True):
        elsewhere = sum(able) > own
        made, faults, odd = component(
            sorted(part, key=lambda x: _place(leads, x)), joined, elsewhere
        )
        coils += made
        joints += faults
        contradictions += odd
    in_coils = {x for c in coils for x in c.members}
    alone = [x for x in leads if x not in in_coils and x not in core_leads]
    loose = tuple(x for x in alone if _conducts_to_nothing(x, leads, coils, core_leads, tested[x]))
    coils = [_clued_ends(_name_bond_lead(c, core_leads, record), record) for c in coils]
    coils += _broken_pairs(record, loose)
    coils.sort(key=lambda c: min(_place(leads, x) for x in c.members))
    return Topology(
        coils=tuple(coils),
        core_leads=tuple(core_leads),
        loose=loose,
        untested=tuple(x for x in alone if x not in loose),
        joints=tuple(joints),
        leaks=tuple(leaks),
        contradictions=tuple(contradictions),
        core_proved=any(r.kind == "core_proof" and r.ohms <= 1.0 for r in record.standing),
        open_to_core=_open_to_core(ohms, core_leads),
        core_ohms=to_core,
    )


def _conducts_to_nothing(
    x: str, leads: list[str], coils: list[Coil], core_leads: list[str], tested: set[str]
) -> bool:
    """Whether a lead was read against everything it might belong to: each winding found, every
    other lead, and the iron.

    What was not read yet is untested, not open: at the bench readings come one by one.
    """
    groups = [set(c.members) for c in coils]
    alone = [y for y in leads if y not in core_leads and y != x and not any(y in g for g in groups)]
    iron = {"core", *core_leads, *(y for c in coils if c.bond is not None for y in c.members)}
    if tested.isdisjoint(iron):
        return False  # its winding may return through the iron
    groups += [{y} for y in alone]
    return all(g & tested for g in groups)


def _place(leads: list[str], x: str) -> int:
    return leads.index(x) if x in leads else len(leads)


def _classify(ohms: Distances) -> tuple[Distances, list[Leak], list[Contradiction]]:
    """Split pairs into conducting and leaking, and name repeated readings of one pair that exclude
    each other.
    """
    joined: Distances = {}
    leaks: list[Leak] = []
    odd: list[Contradiction] = []
    for pair, readings in ohms.items():
        x, y = sorted(pair)
        low = [o for o in readings if o.ohms < LEAK_OHMS]
        high = [o for o in readings if o.ohms >= LEAK_OHMS]
        finite = min(low, key=lambda o: o.ohms) if low else None
        high_enough = [o for o in high if finite is not None and _would_show(o, finite.ohms)]
        if finite is not None and high_enough:
            high = high_enough
            odd.append(
                Contradiction(
                    high[0].reading.id, (x, y), high[0].ohms, finite.ohms, "open against conducting"
                )
            )
        if low:
            joined[pair] = low
            for a, b in itertools.combinations(low, 2):
                if (
                    abs(a.ohms - b.ohms) > 1.5 * (a.limit + b.limit) + 0.1
                    and a.reading.kind == b.reading.kind
                ):
                    odd.append(
                        Contradiction(b.reading.id, (x, y), b.ohms, a.ohms, slip_of(b.ohms, a.ohms))
                    )
        else:
            leaks += [Leak((x, y), o.ohms, o.reading.id) for o in high if math.isfinite(o.ohms)]
    return joined, leaks, odd


def _would_show(high: OhmReading, ohms: float) -> bool:
    """Whether an open (or leaking) reading was on a range that would have shown these ohms."""
    span = high.reading.range_ohms if high.reading.kind == "resistance" else None
    return ohms < 0.9 * span if span is not None else ohms < 1e3


def _core_leads(leads: list[str], joined: Distances, record: Transformer) -> list[str]:
    """Leads that are the core itself: no resolvable ohms to it, and nothing but the core behind
    them.
    """
    near = []
    for x in leads:
        readings = joined.get(frozenset((x, "core")))
        alone = not any(
            x in pair and "core" not in pair for pair in joined
        )  # no winding behind it: its ohms are the probes'
        most = 0.5 if alone else 0.3
        if readings and all(o.ohms <= min(o.limit, most) + 0.02 for o in readings):
            near.append(x)
    by_id = {lead.id: lead for lead in record.leads}
    near = [x for x in near if not _paired_low(by_id[x], near, joined)]
    if len(near) <= 1:
        return near
    earth_like = [x for x in near if _looks_earth(by_id[x])]
    if earth_like:
        return earth_like
    twisted = [x for x in near if by_id[x].twisted_with in near]
    plain = [x for x in near if x not in twisted] or near
    return sorted(plain, key=lambda x: min(abs(o.ohms) for o in joined[frozenset((x, "core"))]))[:1]


def _paired_low(lead: object, near: list[str], joined: Distances) -> bool:
    """Whether a lead at the core is twisted with the other end of a few-ohm winding: then it is
    that winding's end.
    """
    mate = getattr(lead, "twisted_with", None)
    readings = joined.get(frozenset((getattr(lead, "id", ""), mate or "")), [])
    return mate not in near and any(o.ohms < 10.0 for o in readings)


def _looks_earth(lead: object) -> bool:
    colour, stripe = (
        (getattr(lead, "colour", None) or "").lower(),
        (getattr(lead, "stripe", None) or "").lower(),
    )
    return colour == "green" and (stripe == "yellow" or getattr(lead, "end", None) == "lug")


def _merge_core(joined: Distances, core_leads: list[str]) -> Distances:
    merged: Distances = defaultdict(list)
    for pair, readings in joined.items():
        renamed = frozenset("core" if x in core_leads else x for x in pair)
        if len(renamed) == 2:
            merged[renamed] += readings
    return dict(merged)


def _open_to_core(ohms: Distances, core_leads: list[str]) -> dict[str, float]:
    """Per lead, the highest range on which it read open to the core; 0 where the range was not
    written down.
    """
    best: dict[str, float] = {}
    for pair, readings in ohms.items():
        others = [x for x in pair if x != "core" and x not in core_leads]
        if len(others) == 1:
            for o in readings:
                if math.isinf(o.ohms):
                    best[others[0]] = max(best.get(others[0], 0.0), o.reading.range_ohms or 0.0)
    return best


def _clued_ends(coil: Coil, record: Transformer) -> Coil:
    """Where ohms cannot order three leads, what can be seen may: a stripe marks the tap, twisted
    leads are the ends.

    Common practice (a stripe is often the centre tap of its plain partner); the fraction stays
    unsettled, ½ ± ½.
    """
    if coil.resolved or len(coil.taps) != 1 or coil.bond is not None:
        return coil
    leads = {x.id: x for x in record.leads if x.id in coil.members}
    striped = [x for x, lead in leads.items() if lead.stripe]
    ends = [x for x, lead in leads.items() if lead.twisted_with in leads]
    tap = (
        striped[0]
        if len(striped) == 1
        else next((x for x in leads if x not in ends), "")
        if len(ends) == 2
        else ""
    )
    if not tap or coil.taps[0].lead == tap:
        return coil
    first, last = (x for x in coil.members if x != tap)
    total = coil.ohms.value
    return replace(
        coil,
        leads=(first, last),
        taps=(Tap(tap, 0.5, 0.5),),
        positions={first: 0.0, tap: total / 2, last: total},
    )


def _broken_pairs(record: Transformer, loose: tuple[str, ...]) -> list[Coil]:
    """Loose leads that look like the two ends of one winding: twisted together, alike, or simply
    the only two.
    """
    leads = {x.id: x for x in record.leads if x.id in loose}
    pairs: list[tuple[str, str]] = []
    left = list(leads)
    for x in list(left):
        mate = leads[x].twisted_with
        if x in left and mate in left:
            pairs.append((x, mate))
            left = [y for y in left if y not in (x, mate)]
    for x, y in itertools.combinations(list(left), 2):
        alike = (
            leads[x].colour
            and leads[x].colour == leads[y].colour
            and leads[x].place == leads[y].place
        )
        if x in left and y in left and (alike or len(left) == 2):
            pairs.append((x, y))
            left = [z for z in left if z not in (x, y)]
    return [
        Coil(
            p,
            (),
            None,
            Quantity(LEAK_OHMS, 0.0, LEAK_OHMS),
            (),
            False,
            {p[0]: 0.0, p[1]: LEAK_OHMS},
            broken=True,
        )
        for p in pairs
    ]


def _name_bond_lead(coil: Coil, core_leads: list[str], record: Transformer) -> Coil:
    """Where the bonded end is brought out on a lead of its own, name that lead instead of the
    core.
    """
    if (
        coil.bond != "end"
        or "core" not in coil.leads
        or "core" not in coil.positions
        or len(core_leads) != 1
    ):
        return coil
    lead = next(x for x in record.leads if x.id == core_leads[0])
    if _looks_earth(lead):
        return coil
    rename = {"core": lead.id}
    leads = tuple(rename.get(x, x) for x in coil.leads)
    positions = {**coil.positions, lead.id: coil.positions["core"]}
    return replace(coil, leads=(leads[0], leads[1]), positions=positions)
