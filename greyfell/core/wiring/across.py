"""Windings that no ohmmeter named: whatever was read across two leads says that they are one.

Most owners never write ohms down: a ratio, a lamp, amps at no load, counted turns, an inductance
name a winding better than an ohmmeter does. Common practice.
"""

from msgspec.structs import replace

from greyfell.core.evidence.record import Transformer
from greyfell.core.figures.quantity import Quantity
from greyfell.core.wiring.coil import LEAK_OHMS, Coil, Tap
from greyfell.core.wiring.graph import Graph

ANY_OHMS = Quantity(1.0, 0.0, LEAK_OHMS)
"""What a winding may have of which no ohms were read."""
Pair = tuple[str, str]


def read_across(record: Transformer, placed: set[str]) -> list[Coil]:
    """Windings of leads not placed by ohms, from readings of any other kind across two of them."""
    sizes: dict[Pair, float] = {}
    for reading in record.standing:
        for pair, volts in reading.one_winding():
            known = _own(pair, placed)
            if known is not None:
                sizes[known] = max(volts, sizes.get(known, 0.0))
    groups = Graph(edges=list(sizes)).parts() if sizes else []
    return [c for g in groups for c in _coils_of(g, sizes, record)]


def behind_the_core(record: Transformer, coils: list[Coil], core_leads: list[str]) -> list[Coil]:
    """The windings, where two points that ohms put at the core have a winding between them: few
    ohms hide behind the many of the winding that returns there. One end of it stands on the core.
    Ampère's law.
    """
    iron = {"core", "earth", *core_leads}
    for reading in record.standing:
        for pair in reading.more_than_wire():
            hidden = [x for x in pair if x not in iron]
            if len(hidden) == 1:
                coils = _parted(coils, hidden[0], reading.id)
    return coils


def _from_core(coil: Coil, lead: str) -> float | None:
    """How far, as a share of a winding, a lead taken for its point at the core may be from it; None
    for every other.
    """
    apart = coil.fraction_between(lead, "core")
    if apart is None or "core" in coil.leads:
        return None
    if lead in coil.leads and coil.bond == "end":
        return apart if apart < 0.5 else None
    limit = next((t.limit for t in coil.taps if t.lead in (lead, "core")), 0.0)
    return limit if apart <= limit else None


def _parted(coils: list[Coil], lead: str, by: str) -> list[Coil]:
    """The windings with a lead that was taken for a tap at the core as a winding of its own, by the
    reading that shows it.
    """
    for n, coil in enumerate(coils):
        apart = _from_core(coil, lead)
        if apart is None:
            continue
        first, last = ("core" if x == lead else x for x in coil.leads)
        returns = lead in coil.leads  # the core was taken for a tap beside this end
        gone = {lead, "core"} if returns else {lead}
        whole = replace(
            coil,
            leads=(first, last),
            taps=tuple(t for t in coil.taps if t.lead not in gone),
            positions={x: ohms for x, ohms in coil.positions.items() if x != lead},
            bond="end" if returns else coil.bond,
        )
        few = Quantity(0.0, 0.0, 2 * apart * coil.ohms.high, coil.ohms.basis)
        return [*coils[:n], whole, _at_core(lead, few, by), *coils[n + 1 :]]
    return coils


def _at_core(lead: str, ohms: Quantity, by: str) -> Coil:
    return Coil(
        leads=(lead, "core"),
        taps=(),
        bond="end",
        ohms=ohms,
        readings=(by,),
        resolved=False,
        positions={lead: 0.0, "core": 1.0},
        unread=True,
    )


def _own(pair: Pair, placed: set[str]) -> Pair | None:
    """A pair of which no lead was placed by ohms, in order, the core last; None for others."""
    if "earth" in pair or set(pair) & placed or set(pair) == {"core"}:
        return None
    x, y = sorted(pair, key=lambda p: (p == "core", p))
    return x, y


def _coils_of(group: set[str], sizes: dict[Pair, float], record: Transformer) -> list[Coil]:
    """One winding of a group of leads: its ends are the pair that the most volts stood on."""
    inside = {p: v for p, v in sizes.items() if set(p) <= group}
    first, last = max(inside, key=lambda p: (inside[p], p))
    rest = [x.id for x in record.leads if x.id in group - {first, last}]
    if "core" in group - {first, last}:
        return []  # which of several returns through the core is not told by this
    taps = tuple(Tap(x, 0.5, 0.5) for x in rest)
    places = {first: 0.0, **dict.fromkeys(rest, 0.5), last: 1.0}
    return [
        Coil(
            leads=(first, last),
            taps=taps,
            bond="end" if last == "core" else None,
            ohms=ANY_OHMS,
            readings=(),
            resolved=False,
            positions=places,
            unread=True,
        )
    ]
