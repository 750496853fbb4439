"""Which pieces could this be: every reading of the windings as roles of a family, with what speaks
for it beforehand.
"""

import math
from collections.abc import Iterator
from typing import NamedTuple

from greyfell.core.belief.clues import family_clues, insulator_clue, winding_clues
from greyfell.core.belief.priors import MISSED, OTHER_REGION, VARNISHED
from greyfell.core.evidence.record import Transformer
from greyfell.core.families.giving import alike
from greyfell.core.families.registry import UNEVEN, kinds, models, names
from greyfell.core.families.row import Family, Given, PieceKind, Role, RoleModel, ToAssign
from greyfell.core.figures.mains import high_region
from greyfell.core.wiring.coil import Coil, Topology

MOST_HYPOTHESES = 1200


class Hypothesis(NamedTuple):
    """One reading of a piece: its family and kind, a role per winding, the mains it was made
    for.
    """

    family: str
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
    for family, kind in kinds():
        base = math.log(family.prior * kind.share) + weigher.piece(family.key, kind.key)
        for roles, structure in _assignments(kind, topology.coils, record, topology):
            told = weigher.windings(kind.key, family, roles)
            if told is None:
                continue
            secondaries = roles.count(kind.shares)
            halves, first = _reference(topology, roles, largest)
            variants = _variants(topology.coils, roles, kind)
            for volts, hertz, here in _tried(regions, kind):
                weight = base + structure + told + (LOG_HERE if here else LOG_THERE)
                for variant, twins, odds in variants:
                    known = models(variant, volts, secondaries)
                    wound = tuple([known[r] for r in roles])
                    out.append(
                        Hypothesis(
                            family=family.key,
                            subtype=kind.key,
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
    weigh = {k.key: sum(family_clues(record, f.key, k.key).values()) for f, k in kinds()}
    said = {key: weight + insulator_clue(record, key) for key, weight in weigh.items()}
    every = names()
    if not any(said.values()):
        return dict.fromkeys(every, round(1 / len(every), 6))
    out: dict[str, float] = dict.fromkeys(every, 0.0)
    for family, kind in kinds():
        out[family.key] += family.prior * kind.share * math.exp(said[kind.key])
    total = sum(out.values())
    return {family: weight / total for family, weight in out.items()}


def _tried(
    regions: list[tuple[float, float, bool]], kind: PieceKind
) -> list[tuple[float, float, bool]]:
    """The mains a kind is tried as made for: here, elsewhere, and the plate's own."""
    return [r for n, r in enumerate(regions) if n != 1 or not kind.here_only]


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

    def piece(self, family: str, kind: str) -> float:
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
        slack = family.slack
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
            told += winding_clues(self.leads[i], family.key, role)
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
    kind: PieceKind, coils: tuple[Coil, ...], record: Transformer, topology: Topology
) -> Iterator[Given]:
    """Every way in which a kind gives the windings their roles."""
    if not coils:
        return
    removed = any(c.what in ("winding-removed", "rewound") for c in record.changes)
    placed = {x for c in coils for x in c.members}
    stray = [x for x in (*topology.untested, *topology.loose) if x not in placed]
    hidden = len(stray) // 2  # the ends of windings not found yet, or behind a blown link
    short = 0.0 if removed or hidden else (0.5 if topology.untested else 1.0)
    if len(topology.loose) == 1 and not any(c.broken for c in coils):
        short = min(short, 0.6)  # the missing winding may be the one that conducts to nothing
    yield from kind.assign(
        ToAssign(coils=coils, record=record, topology=topology, hidden=hidden, short=short)
    )


def _twins(coils: tuple[Coil, ...], outer: list[int]) -> tuple[tuple[int, ...], ...]:
    groups: list[list[int]] = []
    for i in sorted(outer, key=lambda i: coils[i].ohms.value):
        if groups and all(alike(coils[i], coils[j]) for j in groups[-1]):
            groups[-1].append(i)
        else:
            groups.append([i])
    return tuple(tuple(g) for g in groups if len(g) > 1)


def _variants(
    coils: tuple[Coil, ...], roles: tuple[Role, ...], kind: PieceKind
) -> list[tuple[str, tuple[tuple[int, ...], ...], float]]:
    """How the secondaries may share the copper, each with its models, twins and log-odds: each its
    own volts from an even share, wound alike where ohms let some be alike, or a main winding beside
    auxiliary ones.
    """
    if not kind.twins:
        return [(kind.key, (), 0.0)]
    outer = [i for i, r in enumerate(roles) if r == "lv-secondary"]
    twins = _twins(coils, outer)
    uneven = kind.uneven[0] if kind.uneven is not None and len(outer) > 1 else 0.0
    same = TWINS if twins else 0.0
    odds = (
        (f"{kind.key}{UNEVEN}", (), uneven),
        (kind.key, twins, (1 - uneven) * same),
        (kind.key, (), (1 - uneven) * (1 - same)),
    )
    return [(variant, pairs, math.log(x)) for variant, pairs, x in odds if x > 0]
