"""From pairwise ohms to windings: which leads belong together, in which order, and what meets the
core.

Leads of one winding lie on a line whose distances are ohms (`lines`); a group that conducts may
hold several windings (`groups`). A reading that breaks additivity is named, not averaged.
"""

import itertools
import math
from collections import defaultdict
from collections.abc import Iterable

from msgspec import Struct, field
from msgspec.structs import replace

from greyfell.core.evidence.accuracy import OhmReading, ohms_of, unstated_probes
from greyfell.core.evidence.present import points_of
from greyfell.core.evidence.record import Lead, Reading, Transformer
from greyfell.core.figures.limits import BOND_OHMS
from greyfell.core.figures.quantity import Quantity
from greyfell.core.wiring.across import behind_the_core, read_across
from greyfell.core.wiring.coil import LEAK_OHMS, Coil, Contradiction, Leak, Tap, Topology
from greyfell.core.wiring.graph import Graph, ends
from greyfell.core.wiring.groups import (
    FEW_OHMS,
    NEAR_CORE,
    RETURNS_OHMS,
    Found,
    component,
    could_be_primary,
    is_metal,
)
from greyfell.core.wiring.lines import Distances, Pair, best_reading, slip_of

CORE_PROVED_OHMS = 0.5
"""Two bare spots of the core read no more than this, probes in: more is a bad contact. Common
practice."""
CORE_LEAD_OHMS, EARTH_WIRE_OHMS = 0.3, 0.5
"""A lead that is the core reads no more than this to it: with other leads behind it, and alone.
Common practice."""
PROBES_AGAIN = 2.5
"""A lone lead's contact adds as much as the probes themselves do: so many times what they read."""
LEAST_TOLD_OHMS = 0.02
"""What two probes on one piece of metal may differ by, Ω."""
OPEN_OHMS = 2e7
"""A screen or a core lead is open to all windings on such a range, and reads no more to the core
than a protective bond may. Common practice."""
SAME_PAIR = 1.5
"""Readings of one pair exclude each other where they differ by so many times both their limits."""


MANY_REPEATS = 12
"""So many readings of one pair are compared each with each. House rule, for speed."""


class _Read(Struct):
    """What was read with ohms, by pair, and which points each lead was tried against."""

    ohms: Distances = field(default_factory=lambda: defaultdict(list))
    tried: dict[str, set[str]] = field(default_factory=lambda: defaultdict(set))

    @classmethod
    def of(cls, record: Transformer) -> "_Read":
        """Every ohms reading that stands."""
        out = cls()
        probes = unstated_probes(record.standing)
        for r in record.standing:
            if r.of_wire:
                out.add(r.ohms_between, ohms_of(r, probes))
        return out

    def add(self, points: tuple[str, str], read: OhmReading) -> None:
        """Add a reading of two points. What conducts to earth is taken to conduct to the core; what
        is open to earth says nothing of it: the pin need not be on the iron.
        """
        if "earth" in points and ("core" in points or math.isinf(read.ohms)):
            return
        x, y = ("core" if p == "earth" else p for p in points)
        if x != y:
            self.ohms[frozenset((x, y))].append(read)
            self.tried[x].add(y)
            self.tried[y].add(x)


def find_windings(record: Transformer) -> Topology:
    """Group a record's leads into windings with taps in order. Pure; readings struck out take no
    part.
    """
    leads = [lead.id for lead in record.leads]
    read = _Read.of(record)
    joined, leaks, contradictions = _classify(read.ohms)
    core_leads = _core_leads(leads, joined, record, _free(leads, read.ohms, joined))
    merged = _merge_core(joined, core_leads)
    groups = list(_groups(leads, core_leads, merged))
    coils = [c for g in groups for c in g.coils]
    placed = {x for c in coils for x in c.members}
    alone = [x for x in leads if x not in placed and x not in core_leads]
    loose = tuple(x for x in alone if _to_nothing(x, leads, coils, core_leads, read.tried[x]))
    coils = [_clued_ends(_name_bond_lead(c, core_leads, record), record) for c in coils]
    coils = behind_the_core(record, coils, core_leads)
    coils += read_across(record, placed={x for c in coils for x in c.members} | {*core_leads})
    placed = {x for c in coils for x in c.members}
    loose = tuple(x for x in loose if x not in placed)
    alone = [x for x in alone if x not in placed]
    coils += _broken_pairs(record, loose)
    coils.sort(key=lambda c: min(_place(leads, x) for x in c.members))
    return Topology(
        coils=tuple(coils),
        core_leads=tuple(core_leads),
        loose=loose,
        untested=tuple(x for x in alone if x not in loose),
        joints=tuple(j for g in groups for j in g.joints),
        leaks=tuple(leaks),
        contradictions=(*contradictions, *(c for g in groups for c in g.odd)),
        core_proved=any(_proves_core(r) for r in record.standing),
        open_to_core=_open_to_core(read.ohms, core_leads),
        core_ohms=_core_ohms(leads, joined),
    )


def _groups(leads: list[str], core_leads: list[str], merged: Distances) -> Iterable[Found]:
    """Every conducting group with what it turns out to hold."""
    graph = Graph([x for x in leads if x not in core_leads], map(ends, merged))
    parts = [p for p in graph.parts() if len(p) >= 2]
    able = [could_be_primary(p, merged) for p in parts]
    for part, own in zip(parts, able, strict=True):
        ordered = sorted(part, key=lambda x: _place(leads, x))
        yield component(ordered, merged, elsewhere=sum(able) > own)


def _proves_core(r: Reading) -> bool:
    return "core proved" in r.meets and bool(r.ohms <= CORE_PROVED_OHMS)


def _core_ohms(leads: list[str], joined: Distances) -> dict[str, float]:
    """Per lead that conducts to the core, the fewest ohms read to it."""
    read = {x: joined[frozenset((x, "core"))] for x in leads if frozenset((x, "core")) in joined}
    return {x: min(abs(o.ohms) for o in v) for x, v in read.items()}


def _to_nothing(
    x: str, leads: list[str], coils: list[Coil], core_leads: list[str], tried: set[str]
) -> bool:
    """Whether a lead was read against everything it might belong to: each winding found, every
    other lead, and the iron.

    What was not read yet is untested, not open: at the bench readings come one by one.
    """
    groups = [set(c.members) for c in coils]
    alone = [y for y in leads if y not in core_leads and y != x and not any(y in g for g in groups)]
    iron = {"core", *core_leads, *(y for c in coils if c.bond is not None for y in c.members)}
    if tried.isdisjoint(iron):
        return False  # its winding may return through the iron
    groups += [{y} for y in alone]
    return all(g & tried for g in groups)


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
        if not low:
            leaks += [Leak((x, y), o.ohms, o.reading.id) for o in high if math.isfinite(o.ohms)]
            continue
        joined[pair] = low
        finite = min(low, key=lambda o: o.ohms)
        shows = (o for o in high if _would_show(o, finite.ohms) and not _elsewhere(finite, o))
        against = next(shows, None)
        if against is not None:
            words = "open against conducting"
            said = against.reading.id
            odd.append(
                Contradiction(
                    reading=said, points=(x, y), said=against.ohms, expected=finite.ohms, slip=words
                )
            )
        for a, b in _compared(low):
            if _exclude(a, b):
                slip = slip_of(b, a.ohms)
                odd.append(
                    Contradiction(
                        reading=b.reading.id, points=(x, y), said=b.ohms, expected=a.ohms, slip=slip
                    )
                )
    return joined, leaks, odd


def _elsewhere(earthed: OhmReading, other: OhmReading) -> bool:
    """Whether what conducts to the earth stands against what is open to the core: two points, where
    the pin is not on the iron.
    """
    return "earth" in points_of(earthed.reading) and "earth" not in points_of(other.reading)


def _compared(low: list[OhmReading]) -> Iterable[tuple[OhmReading, OhmReading]]:
    """Repeated readings of one pair, each against each; where they are many, each against the first
    of its kind.
    """
    if len(low) <= MANY_REPEATS:
        return itertools.combinations(low, 2)
    first = {o.reading.kind: o for o in reversed(low)}
    return ((first[o.reading.kind], o) for o in low)


def _exclude(a: OhmReading, b: OhmReading) -> bool:
    """Whether two readings of one pair by one kind of test cannot both be right."""
    apart = abs(a.ohms - b.ohms) > SAME_PAIR * (a.limit + b.limit) + 0.1
    return apart and a.reading.kind == b.reading.kind


def _would_show(high: OhmReading, ohms: float) -> bool:
    """Whether an open (or leaking) reading was on a range that would have shown these ohms."""
    span = high.reading.range_ohms if high.reading.by_ohmmeter else None
    return ohms < 0.9 * span if span is not None else ohms < 1e3


def _free(leads: list[str], ohms: Distances, joined: Distances) -> frozenset[str]:
    """Leads that read open on 20 MΩ to everything that is wound: to a lead of every group that
    conducts, and to every lead that belongs to none.
    """
    groups = Graph(leads, map(ends, joined)).parts()
    opened: dict[str, set[str]] = defaultdict(set)
    for pair, readings in ohms.items():
        if any(math.isinf(o.ohms) and (o.reading.range_ohms or 0.0) >= OPEN_OHMS for o in readings):
            x, y = sorted(pair)
            opened[x].add(y)
            opened[y].add(x)
    wound = [g - {"core"} for g in groups if g - {"core"}]
    return frozenset(x for x in leads if all(x in g or g & opened[x] for g in wound))


def _core_leads(
    leads: list[str], joined: Distances, record: Transformer, free: frozenset[str]
) -> list[str]:
    """Leads that are the core itself: no resolvable ohms to it, and nothing but the core behind
    them; a lead that is free of everything wound may have the ohms of a bond.
    """
    by_id = {lead.id: lead for lead in record.leads}
    at_core = [x for x in leads if _reads_as_core(by_id[x], joined) or _foil(x, joined, free)]
    near = [x for x in at_core if not _paired_low(by_id[x], at_core, joined)]
    earth_like = [x for x in near if _looks_earth(by_id[x])]
    if len(near) <= 1 or earth_like:
        return earth_like or near
    twisted = [x for x in near if by_id[x].twisted_with in near]
    plain = [x for x in near if x not in twisted] or near
    return [min(plain, key=lambda x: min(abs(o.ohms) for o in joined[frozenset((x, "core"))]))]


def _foil(x: str, joined: Distances, free: frozenset[str]) -> bool:
    """Whether a lead conducts to the core alone, through no more than a bond, and is free of every
    winding: a screen's or the core's own.
    """
    behind = [pair for pair in joined if x in pair]
    if x not in free or behind != [frozenset((x, "core"))]:
        return False
    return all(o.ohms <= BOND_OHMS for o in joined[behind[0]])


def _reads_as_core(lead: Lead, joined: Distances) -> bool:
    """Whether a lead reads to the core no more than probes on one metal do, and nothing but the
    core is behind it, as far as was read.

    Whatever else conducts to it with few ohms is a winding whose end stands on the core.
    """
    x = lead.id
    readings = joined.get(frozenset((x, "core")))
    if not readings:
        return False
    behind = [pair for pair in joined if x in pair and "core" not in pair]
    if not _looks_earth(lead) and not all(_beyond_core(pair, x, joined) for pair in behind):
        return False
    # nothing behind it but what the core itself reads so: its ohms are the probes'
    alone = all(_as_from_core(pair, x, joined) for pair in joined if x in pair)
    return all(o.ohms <= min(o.limit, _most(o, alone)) + LEAST_TOLD_OHMS for o in readings)


def _beyond_core(pair: Pair, x: str, joined: Distances) -> bool:
    """Whether a reading from lead x to another leaves x to be the core's: through a winding of so
    many ohms that it may be one on its return; over bare metal, by a direct current; or to a lead
    whose winding has another end nearer to it, so that only its touch is seen from here.
    """
    readings = joined[pair]
    if is_metal(readings) or min(o.ohms for o in readings) >= RETURNS_OHMS:
        return True
    (other,) = pair - {x}
    return _same_from_core(pair, x, joined) and any(
        min(o.ohms for o in v) < min(o.ohms for o in readings)
        for p, v in joined.items()
        if other in p and p.isdisjoint({x, "core"})
    )


def _same_from_core(pair: Pair, x: str, joined: Distances) -> bool:
    """Whether a lead reads to lead x what it reads to the core."""
    (other,) = pair - {x}
    here, there = best_reading(joined, x, other), best_reading(joined, other, "core")
    if here is None or there is None:
        return False
    return abs(here.ohms - there.ohms) <= here.limit + there.limit


def _as_from_core(pair: Pair, x: str, joined: Distances) -> bool:
    """Whether a reading from lead x is to the core, or is as the core itself reads to the same
    lead, and so long that what lies between x and the core is nothing beside it.
    """
    (other,) = pair - {x}
    if other == "core":
        return True
    here, own = best_reading(joined, x, other), best_reading(joined, x, "core")
    if here is None or own is None or not _same_from_core(pair, x, joined):
        return False
    return own.ohms < NEAR_CORE * here.ohms


def _most(o: OhmReading, alone: bool) -> float:
    """The most ohms to the core that a lead which is the core may read, beyond the probes taken
    off: with coarse probes, more.
    """
    if not alone:
        return CORE_LEAD_OHMS
    return max(EARTH_WIRE_OHMS, PROBES_AGAIN * (getattr(o.reading, "probe_ohms", None) or 0.0))


def _paired_low(lead: Lead, near: list[str], joined: Distances) -> bool:
    """Whether a lead at the core is twisted with the other end of a few-ohm winding: then it is
    that winding's end.
    """
    mate = lead.twisted_with
    readings = joined.get(frozenset((lead.id, mate or "")), [])
    return mate not in near and any(o.ohms < FEW_OHMS for o in readings)


def _looks_earth(lead: Lead) -> bool:
    green = (lead.colour or "").lower() == "green"
    return green and ((lead.stripe or "").lower() == "yellow" or lead.end == "lug")


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
    tap = _seen_as_tap({x.id: x for x in record.leads if x.id in coil.members})
    if tap is None or coil.taps[0].lead == tap:
        return coil
    first, last = (x for x in coil.members if x != tap)
    total = coil.ohms.value
    places = {first: 0.0, tap: total / 2, last: total}
    return replace(coil, leads=(first, last), taps=(Tap(tap, 0.5, 0.5),), positions=places)


def _seen_as_tap(leads: dict[str, Lead]) -> str | None:
    """The one striped lead, else the one that is not twisted with another."""
    striped = [x for x, lead in leads.items() if lead.stripe]
    if len(striped) == 1:
        return striped[0]
    ends = [x for x, lead in leads.items() if lead.twisted_with in leads]
    return next((x for x in leads if x not in ends), None) if len(ends) == 2 else None


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
    return [_broken(p) for p in pairs]


def _broken(ends: tuple[str, str]) -> Coil:
    return Coil(
        leads=ends,
        taps=(),
        bond=None,
        ohms=Quantity(LEAK_OHMS, 0.0, LEAK_OHMS),
        readings=(),
        resolved=False,
        positions={ends[0]: 0.0, ends[1]: LEAK_OHMS},
        broken=True,
    )


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
