"""Which pieces could this be: every reading of the windings as roles of a family, with what speaks
for it beforehand.
"""

import itertools
import math
from collections.abc import Callable, Iterator
from typing import NamedTuple

from greyfell.core.belief.clues import family_clues, insulator_clue, winding_clues
from greyfell.core.belief.priors import (
    FAMILY_PRIOR,
    MISSED,
    OTHER_REGION,
    SUBTYPES,
    VARNISHED,
    Role,
    RoleModel,
    models,
)
from greyfell.core.evidence.record import FAMILIES, Family, Transformer
from greyfell.core.figures.mains import high_region
from greyfell.core.wiring.coil import Coil, Topology

MOST_HYPOTHESES = 1200


LOOSE_ON_A_SINGLE = -2.5
"""Log-odds for a choke or variac with a lead that goes nowhere. From memory."""


MISSING = {"primary": -3.5, "hv-secondary": -4.5, "secondary": -3.0}
"""Log-odds for a piece on which a winding it should have was not found. From memory."""


class Hypothesis(NamedTuple):
    """One reading of a piece: its family and kind, a role per winding, the mains it was made
    for.
    """

    family: Family
    subtype: str
    roles: tuple[Role, ...]
    models: tuple[RoleModel, ...]
    reference: int
    halves: tuple[int, int] | None
    volts: float
    hertz: float
    here: bool
    log_prior: float
    twins: tuple[tuple[int, ...], ...] = ()


TWINS = 0.5
"""How often secondaries whose ohms agree are wound alike, for the same volts. Common practice."""


ALIKE = 1.35
"""Ohms within this factor, beyond their limits, may belong to windings wound alike: the outer is
longer. Common practice."""


UNEVEN = 0.15
"""How often several secondaries do not share the copper evenly: a main winding and auxiliary ones.
From memory."""


HERE_ONLY = frozenset(
    {
        "variable",
        "choke",
        "other",
        "igniter",
        "inverter",
        "resonant",
        "isolating",
        "step",
        "dual-step",
        "dual",
    }
)
"""Kinds that are not tried as made for the other region's mains: its own would be as likely. House
rule."""


def hypotheses(
    record: Transformer, topology: Topology, without: str | None = None
) -> list[Hypothesis]:
    """Enumerate families and role assignments with log prior and clue weights; `without` leaves out
    one clue group.
    """
    supply = record.supply
    there = (120.0, 60.0) if high_region(supply.volts) else (230.0, 50.0)
    regions = [(supply.volts, supply.hertz, True), (*there, False)]
    plate = record.nameplate
    if plate is not None and plate.primary_volts and _of_no_region(plate.primary_volts, regions):
        regions.append((plate.primary_volts, plate.hertz or supply.hertz, False))
    weigher = _Weigher(record, topology, without)
    largest = max(range(len(topology.coils)), key=lambda i: topology.coils[i].ohms.value, default=0)
    out: list[Hypothesis] = []
    for subtype, (family, share) in SUBTYPES.items():
        base = math.log(FAMILY_PRIOR[family] * share) + weigher.piece(family, subtype)
        for roles, structure in _assignments(subtype, topology.coils, record, topology):
            told = weigher.windings(subtype, family, roles)
            if told is None:
                continue
            secondaries = roles.count("filament" if subtype == "valve" else "lv-secondary")
            halves, first = _reference(topology, roles, largest)
            variants = _variants(topology.coils, roles, subtype)
            for volts, hertz, here in _tried(regions, subtype):
                weight = base + structure + told + (LOG_HERE if here else LOG_THERE)
                for kind, twins, odds in variants:
                    known = models(kind, volts, secondaries)
                    wound = tuple([known[r] for r in roles])
                    out.append(
                        Hypothesis(
                            family=family,
                            subtype=subtype,
                            roles=roles,
                            models=wound,
                            reference=first,
                            halves=halves,
                            volts=volts,
                            hertz=hertz,
                            here=here,
                            log_prior=weight + odds,
                            twins=twins,
                        )
                    )
            if len(out) >= MOST_HYPOTHESES:
                return out
    return out


def family_odds(record: Transformer) -> dict[str, float]:
    """The chance of each family by plate, look and the owner's belief, before any winding is known;
    all alike where none of them says anything. Bayes' rule over the kinds.
    """
    weigh = {k: sum(family_clues(record, f, k).values()) for k, (f, _) in SUBTYPES.items()}
    said = {k: weight + insulator_clue(record, k) for k, weight in weigh.items()}
    if not any(said.values()):
        return dict.fromkeys(FAMILIES, round(1 / len(FAMILIES), 6))
    out: dict[str, float] = dict.fromkeys(FAMILIES, 0.0)
    for kind, (family, share) in SUBTYPES.items():
        out[family] += FAMILY_PRIOR[family] * share * math.exp(said[kind])
    total = sum(out.values())
    return {family: weight / total for family, weight in out.items()}


def _tried(
    regions: list[tuple[float, float, bool]], subtype: str
) -> list[tuple[float, float, bool]]:
    """The mains a kind is tried as made for: here, elsewhere, and the plate's own."""
    return [r for n, r in enumerate(regions) if n != 1 or subtype not in HERE_ONLY]


def _of_no_region(volts: float, regions: list[tuple[float, float, bool]]) -> bool:
    """Whether a plate's volts are none of the mains that are tried anyway."""
    return all(abs(math.log(volts / v)) > ANOTHER for v, _, _ in regions)


ANOTHER = 0.15
"""Plate volts further than this from a mains, in logarithms, are another's: 208 beside 240 V."""


def _reference(
    topology: Topology, roles: tuple[Role, ...], largest: int
) -> tuple[tuple[int, int] | None, int]:
    """The two halves of a dual primary, the inner first, and the winding that turns are counted
    from: that half, the primary, the choke, or where there is none the winding of most ohms.
    """
    if "primary-half" in roles:
        both = [i for i, r in enumerate(roles) if r == "primary-half"]
        both.sort(
            key=lambda i: (topology.coils[i].ohms.value, topology.coils[i].leads)
        )  # the inner half has the shorter turns
        return ((both[0], both[1]) if len(both) == 2 else None), both[0]
    return None, next((roles.index(r) for r in ("primary", "choke") if r in roles), largest)


LOG_HERE, LOG_THERE = math.log(1 - OTHER_REGION), math.log(OTHER_REGION)


BREAKS, BREAKS_ELSE = {"primary": 0.6, "hv-secondary": 0.3}, 0.15
"""Shares of the windings found open inside: a small primary's thermal link most, thick wire least.
Common practice."""


class _Weigher:
    """What can be seen of a piece and of each winding, as log-likelihoods, each looked up once."""

    def __init__(self, record: Transformer, topology: Topology, without: str | None):
        self.record, self.topology, self.without = record, topology, without
        seen = {lead.id: lead for lead in record.leads if lead.colour or lead.place or lead.end}
        self.leads = [[seen[x] for x in c.members if x in seen] for c in topology.coils]
        self.known: dict[tuple[int, str, Role], float | None] = {}

    def piece(self, family: Family, kind: str) -> float:
        """The whole piece under a kind: shape, shunts, assembly, words, the owner's belief."""
        if self.without == "clues":
            return 0.0
        told = family_clues(self.record, family, kind)
        return sum(v for name, v in told.items() if name != self.without)

    def windings(self, subtype: str, family: Family, roles: tuple[Role, ...]) -> float | None:
        """All windings under their roles; None where the ohms of one do not allow its role."""
        total = 0.0
        for i, role in enumerate(roles):
            key = (i, subtype, role)
            if key not in self.known:
                self.known[key] = self._winding(
                    i, models(subtype, self.record.supply.volts, 1)[role], family, role
                )
            told = self.known[key]
            if told is None:
                return None
            total += told
        return total

    def _winding(self, i: int, model: RoleModel, family: Family, role: Role) -> float | None:
        """One winding under one role: its bond, taps and leads. Ohms, bonds and taps of a role go
        with no mains or share.
        """
        coil = self.topology.coils[i]
        slack = 12.0 if family in ("microwave", "sign") else 1.0  # room for a reading ten times off
        if not coil.broken and (
            coil.ohms.low > slack * model.ohms[1] or coil.ohms.high < model.ohms[0] / slack
        ):
            return None
        told = math.log(BREAKS.get(role, BREAKS_ELSE)) if coil.broken else 0.0
        if self.without != "core bond":
            told += _bond_weight(coil, model, self.topology)
        if self.without != "taps":
            told += _tap_weight(model, coil)
        if self.leads[i] and self.without not in ("clues", "leads"):
            told += winding_clues(self.leads[i], family, role)
        return told


def _bond_weight(coil: Coil, model: RoleModel, topology: Topology) -> float:
    """Log-likelihood of how it meets the core: nothing where it was not read; an open reading as
    far as the core was proved.
    """
    if coil.bond is not None or coil.broken:
        return math.log(model.bonds.get(coil.bond, 0.005))
    if topology.open_to_core.keys().isdisjoint(coil.members):
        return 0.0
    free = model.bonds.get(None, 0.005)
    blind = MISSED + (0.0 if topology.core_proved else VARNISHED)
    return math.log(free + (1 - free) * blind)


def _tap_weight(model: RoleModel, coil: Coil) -> float:
    if not coil.taps:
        return math.log(max(0.02, 1 - model.centre_tap - model.other_tap))
    if len(coil.taps) == 1 and abs(coil.taps[0].fraction - 0.5) < 0.06 + coil.taps[0].limit:
        return math.log(model.centre_tap + 0.2 * model.other_tap + 0.005)
    return math.log(model.other_tap + 0.005) - 0.3 * (len(coil.taps) - 1)


def _assignments(
    subtype: str, coils: tuple[Coil, ...], record: Transformer, topology: Topology
) -> Iterator[tuple[tuple[Role, ...], float]]:
    n = len(coils)
    if n == 0:
        return
    removed = any(c.what in ("winding-removed", "rewound") for c in record.changes)
    placed = {x for c in coils for x in c.members}
    stray = [x for x in (*topology.untested, *topology.loose) if x not in placed]
    hidden = len(stray) // 2  # the ends of windings not found yet, or behind a blown link
    short = 0.0 if removed or hidden else (0.5 if topology.untested else 1.0)
    lost = len(topology.loose)
    if lost == 1 and not any(c.broken for c in coils):
        short = min(short, 0.6)  # the missing winding may be the one that conducts to nothing
    if subtype in ("choke", "variable"):
        if n == 1:
            apart, unread = _strays(record, topology, coils[0])
            taps = -0.7 * unread if subtype == "choke" else 0.0
            yield (
                ("choke" if subtype == "choke" else "primary",),
                LOOSE_ON_A_SINGLE * (lost + apart) + taps,
            )
    elif subtype == "other":
        yield ("unknown",) * n, -0.5 * n
    elif subtype in ("igniter", "inverter", "resonant"):
        yield from UNUSUAL[subtype](n)
    elif subtype == "oven" and any(c.what == "rewound" for c in record.changes):
        yield from _rewound(n)
    elif subtype == "oven":  # its HV winding has one lead: the other end is on the iron
        yield from _more(
            _oven(n, 0.0 if topology.untested else short), TOO_MANY * max(0, n + hidden - 3)
        )
    elif subtype == "sign":
        yield from _more(_sign(n, short), TOO_MANY * max(0, n + hidden - 2))
    elif subtype == "valve":
        yield from _valve(n, coils) if not hidden else _valve_in_part(n, coils, hidden)
    elif subtype in ("lv", "isolating", "step"):
        yield from _one_primary(n, subtype, short)
        if hidden and subtype == "lv":
            yield _fill(n, {}, "lv-secondary"), math.log(0.5)
    else:
        yield from _dual(n, coils, subtype)


TOO_MANY = math.log(0.1)
"""Ovens have two or three windings, sign pieces two: each more that untested leads must belong to.
Common practice."""


def _more(
    assignments: Iterator[tuple[tuple[Role, ...], float]], weight: float
) -> Iterator[tuple[tuple[Role, ...], float]]:
    return ((roles, w + weight) for roles, w in assignments)


def _strays(record: Transformer, topology: Topology, coil: Coil) -> tuple[int, int]:
    """How many untested leads read open to the only winding found, and how many were not read to
    it: they may be its taps.
    """
    members, untested = set(coil.members), set(topology.untested)
    apart: set[str] = set()
    for r in record.standing:
        if r.kind == "resistance" and r.ohms == "open" and set(r.between) & members:
            apart |= set(r.between) & untested
    return len(apart), len(untested) - len(apart)


def _fill(n: int, placed: dict[int, Role], rest: Role) -> tuple[Role, ...]:
    return tuple([placed.get(i, rest) for i in range(n)])


def _oven(n: int, short: float) -> Iterator[tuple[tuple[Role, ...], float]]:
    heaters = {0: math.log(0.25), 1: math.log(0.70), 2: math.log(0.05)}
    for p, h in itertools.permutations(range(n), 2):
        if n - 2 in heaters:
            yield (
                _fill(n, {p: "primary", h: "hv-secondary"}, "filament"),
                heaters[n - 2] - math.log(n * (n - 1)),
            )
    for p in range(n):
        if n - 1 in heaters:
            yield (
                _fill(n, {p: "primary"}, "filament"),
                heaters[n - 1] + short * MISSING["hv-secondary"] - math.log(n),
            )
            yield (
                _fill(n, {p: "hv-secondary"}, "filament"),
                heaters[n - 1] + short * MISSING["primary"] - math.log(n),
            )


def _rewound(n: int) -> Iterator[tuple[tuple[Role, ...], float]]:
    """An oven's core with the owner's own windings: the primary, perhaps the HV winding still."""
    for p in range(n):
        yield _fill(n, {p: "primary"}, "lv-secondary"), math.log(0.9) - math.log(n)
    for p, h in itertools.permutations(range(n), 2):
        if n > 2:
            placed = {p: "primary", h: "hv-secondary"}
            yield _fill(n, placed, "lv-secondary"), math.log(0.1) - math.log(n * (n - 1))


def _igniter(n: int) -> Iterator[tuple[tuple[Role, ...], float]]:
    """A primary and an HV winding, however bonded."""
    if n == 2:
        yield ("primary", "hv-secondary"), math.log(0.5)
        yield ("hv-secondary", "primary"), math.log(0.5)


def _inverter(n: int) -> Iterator[tuple[tuple[Role, ...], float]]:
    """An inverter oven's ferrite: a primary of few turns that never sees the mains, heater, HV
    winding.
    """
    if n not in (2, 3):
        return
    for h in range(n):
        rest = [i for i in range(n) if i != h]
        for p in rest:
            placed = {h: "hv-secondary", p: "unknown"}
            yield _fill(n, placed, "filament"), -math.log(n * len(rest))


def _resonant(n: int) -> Iterator[tuple[tuple[Role, ...], float]]:
    """A ferroresonant part: primary, output, and the winding of its capacitor."""
    if n < 3:
        return
    for p, c in itertools.permutations(range(n), 2):
        placed = {p: "primary", c: "hv-secondary"}
        yield _fill(n, placed, "lv-secondary"), -math.log(n * (n - 1))


UNUSUAL: dict[str, Callable[[int], Iterator[tuple[tuple[Role, ...], float]]]] = {
    "igniter": _igniter,
    "inverter": _inverter,
    "resonant": _resonant,
}
"""Kinds of no usual family, with the roles of their windings."""


def _sign(n: int, short: float) -> Iterator[tuple[tuple[Role, ...], float]]:
    if n == 2:
        yield ("primary", "hv-secondary"), math.log(0.5)
        yield ("hv-secondary", "primary"), math.log(0.5)
    if n == 1:
        yield ("primary",), short * MISSING["hv-secondary"]
        yield ("hv-secondary",), short * MISSING["primary"]


SLACK = 1.5
"""A heater has fewer ohms than the windings of many turns, by more than any limit of error here.
Common practice."""


LEAST_BIAS_OHMS = 0.4
"""A bias winding of some ten volts and little current has more ohms than this. From memory."""
BIASED = 0.2
"""How often a valve set's transformer has a winding for its bias. From memory."""


def _valve(n: int, coils: tuple[Coil, ...]) -> Iterator[tuple[tuple[Role, ...], float]]:
    if n < 3 or n > 8:
        return
    high = [c.broken or c.ohms.high >= 4.0 for c in coils]
    counts = {1: 0.35, 2: 0.4, 3: 0.18, 4: 0.05, 5: 0.02}
    for p, h in itertools.permutations(range(n), 2):
        if not high[h]:
            continue
        rest = [i for i in range(n) if i not in (p, h)]
        least = SLACK * min(coils[p].ohms.high, coils[h].ohms.high)
        choices = [
            (("filament",) if coils[i].broken or coils[i].ohms.low <= least else ())
            + (("bias",) if high[i] or coils[i].ohms.high > LEAST_BIAS_OHMS else ())
            for i in rest
        ]
        for picked in itertools.product(*choices):
            biases = picked.count("bias")
            heaters = len(picked) - biases
            if biases > 1 or heaters < 1:
                continue
            weight = math.log(counts.get(heaters, 0.005))
            weight += math.log(BIASED if biases else 1 - BIASED)
            ways = math.log(n * (n - 1) * (max(1, len(rest)) if biases else 1))
            yield (
                _fill(
                    n, {p: "primary", h: "hv-secondary", **dict(zip(rest, picked, strict=True))}, ""
                ),
                weight - ways,
            )


def _valve_in_part(
    n: int, coils: tuple[Coil, ...], hidden: int
) -> Iterator[tuple[tuple[Role, ...], float]]:
    """A valve set's transformer of which some windings were not found yet, the primary or the HV
    winding perhaps among them.
    """
    if not 3 <= n + hidden <= 8:
        return
    high = [c.broken or c.ohms.high >= 4.0 for c in coils]
    found: list[dict[int, Role]] = []
    for p, h in itertools.product([*range(n), None], repeat=2):
        if (
            (p is None) + (h is None) > hidden
            or (p == h and p is not None)
            or (h is not None and not high[h])
        ):
            continue
        placed = {i: role for i, role in ((p, "primary"), (h, "hv-secondary")) if i is not None}
        least = SLACK * min((coils[i].ohms.high for i in placed), default=math.inf)
        if all(coils[i].broken or coils[i].ohms.low <= least for i in range(n) if i not in placed):
            found.append(placed)
    for placed in found:
        weight = math.log(0.6) - math.log(len(found))
        able = [i for i in range(n) if i not in placed and coils[i].ohms.high > LEAST_BIAS_OHMS]
        able = able if n - len(placed) + hidden > 1 else []
        yield _fill(n, placed, "filament"), weight + math.log(1 - BIASED if able else 1.0)
        for i in able:
            roles = _fill(n, {**placed, i: "bias"}, "filament")
            yield roles, weight + math.log(BIASED / len(able))


def _one_primary(n: int, subtype: str, short: float) -> Iterator[tuple[tuple[Role, ...], float]]:
    counts = {1: 0.55, 2: 0.28, 3: 0.1, 4: 0.04} if subtype == "lv" else {1: 0.85, 2: 0.14}
    if n == 1:
        if subtype == "lv":
            yield ("primary",), short * MISSING["secondary"]
        return
    for p in range(n):
        yield (
            _fill(n, {p: "primary"}, "lv-secondary"),
            math.log(counts.get(n - 1, 0.01)) - math.log(n),
        )


def _alike(a: Coil, b: Coil) -> bool:
    return not (
        a.broken or b.broken or a.ohms.high * ALIKE < b.ohms.low or b.ohms.high * ALIKE < a.ohms.low
    )


def _variants(
    coils: tuple[Coil, ...], roles: tuple[Role, ...], subtype: str
) -> list[tuple[str, tuple[tuple[int, ...], ...], float]]:
    """How the secondaries may share the copper, each with its models, twins and log-odds: each its
    own volts from an even share, wound alike where ohms let some be alike, or a main winding beside
    auxiliary ones.
    """
    if subtype not in ("lv", "dual"):
        return [(subtype, (), 0.0)]
    outer = [i for i, r in enumerate(roles) if r == "lv-secondary"]
    groups: list[list[int]] = []
    for i in sorted(outer, key=lambda i: coils[i].ohms.value):
        if groups and all(_alike(coils[i], coils[j]) for j in groups[-1]):
            groups[-1].append(i)
        else:
            groups.append([i])
    twins = tuple(tuple(g) for g in groups if len(g) > 1)
    uneven = UNEVEN if subtype == "lv" and len(outer) > 1 else 0.0
    alike = TWINS if twins else 0.0
    odds = (
        ("lv-uneven", (), uneven),
        (subtype, twins, (1 - uneven) * alike),
        (subtype, (), (1 - uneven) * (1 - alike)),
    )
    return [(kind, pairs, math.log(x)) for kind, pairs, x in odds if x > 0]


def _dual(
    n: int, coils: tuple[Coil, ...], subtype: str
) -> Iterator[tuple[tuple[Role, ...], float]]:
    if n < 3:
        return
    counts = {1: 0.5, 2: 0.42, 3: 0.06} if subtype == "dual" else {1: 0.4, 2: 0.58}
    for x, y in itertools.combinations(range(n), 2):
        if _alike(coils[x], coils[y]):
            roles = _fill(n, {x: "primary-half", y: "primary-half"}, "lv-secondary")
            yield roles, math.log(counts.get(n - 2, 0.01)) - math.log(n * (n - 1) / 2)
