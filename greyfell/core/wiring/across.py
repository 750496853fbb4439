"""Windings that no ohmmeter named: whatever was read across two leads says that they are one.

Most owners never write ohms down: a ratio, a lamp, amps at no load, counted turns, an inductance
name a winding better than an ohmmeter does. Common practice.
"""

from collections.abc import Iterable
from typing import Any

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
        for pair, volts in _pairs(reading):
            known = _own(pair, placed)
            if known is not None:
                sizes[known] = max(volts, sizes.get(known, 0.0))
    groups = Graph(edges=list(sizes)).parts() if sizes else []
    return [c for g in groups for c in _coils_of(g, sizes, record)]


def _pairs(r: Any) -> Iterable[tuple[Pair, float]]:
    """Pairs that a reading shows to be of one winding, each with the volts that stood on it."""
    if r.kind == "ratio":
        yield r.driven, r.driven_volts
        if r.sensed_volts > 0:
            yield r.sensed, r.sensed_volts
    elif r.kind in ("inductance", "turns", "lamp"):
        yield r.across, getattr(r, "supply_volts", 0.0)
    elif r.kind == "no_load":
        yield r.driven, r.volts
    elif r.kind == "test_turn":
        yield r.driven, r.driven_volts
    elif r.kind == "load":
        yield r.driven, r.driven_volts
        yield r.loaded, r.load_volts
    elif r.kind == "short_circuit":
        yield r.driven, r.volts
        for pair in r.shorted:
            yield pair, 0.0
    elif r.kind == "polarity":
        yield r.driven, r.driven_volts
    elif r.kind == "direct":
        yield r.driven, r.driven_volts
        yield r.rectified, r.direct_volts
    elif r.kind == "loop":
        yield r.driven, r.driven_volts
        yield r.loaded, 0.0


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
