"""What stands on every other winding while one is fed: by a ratio on record, else by the upper end
of the volts believed, else by the ohms. Turns alone; what is not known counts as too much.
"""

import itertools
import math
from collections.abc import Iterable, Mapping, Sequence

from msgspec import Struct

from greyfell.core.belief.found import Belief, Winding
from greyfell.core.evidence.accuracy import limit
from greyfell.core.evidence.record import Transformer
from greyfell.core.families.registry import chance
from greyfell.core.figures.limits import NOT_EXCLUDED
from greyfell.core.figures.quantity import Quantity
from greyfell.core.wiring.coil import Coil

Pair = frozenset[str]
OHMS_SLACK = 3.0
"""Volts by the root of ohms are right within tens of per cent between windings for power, and three
times too high or low beside a heater. Domain, common practice."""
REVERSE_SLACK = 1.3
"""A ratio read the other way round is up to 1/k² from what the forward drive gives. REF-T-01."""


class Open(Struct, frozen=True, kw_only=True):
    """One winding as a drive of another sees it: its name, its coil with its ends (those on the
    iron left out), its volts on the supply, whether it is an oven's heater.
    """

    name: str
    coil: Coil
    ends: tuple[str, ...]
    points: frozenset[str]
    volts: Quantity | None
    heater: bool

    def share(self, pair: Pair) -> float | None:
        """The share of its turns between two of its points; None where these are not its own."""
        one, two = sorted(pair) if len(pair) == 2 else ("", "")
        if not pair <= self.points:
            return None
        found = self.coil.fraction_between(one, two)
        return 1.0 if found is None or found <= 0 else found


Ratios = Mapping[tuple[Pair, Pair], float]


def open_windings(belief: Belief, iron: frozenset[str]) -> tuple[Open, ...]:
    """Every winding of a piece that conducts."""
    return tuple(_open(w, belief, iron) for w in belief.windings if not w.coil.broken)


def _open(w: Winding, belief: Belief, iron: frozenset[str]) -> Open:
    oven = chance(belief.families, "heater_never_fed") >= NOT_EXCLUDED
    ends = tuple(x for x in w.coil.members if x not in iron)
    points = {*w.coil.members, *w.coil.positions, *(iron if w.coil.bond is not None else ())}
    return Open(
        name=w.name,
        coil=w.coil,
        ends=ends,
        points=frozenset(points),
        volts=w.volts,
        heater=oven and w.roles.get("filament", 0.0) >= NOT_EXCLUDED,
    )


def ratios_read(record: Transformer) -> Ratios:
    """Volts on one pair for each volt driven into another, the most that the readings allow."""
    out: dict[tuple[Pair, Pair], float] = {}
    for r in record.standing:
        if r.kind != "ratio" or r.links:
            continue
        driven, sensed = frozenset(r.driven), frozenset(r.sensed)
        high = r.sensed_volts + limit(r, "sensed_volts")
        low = max(r.sensed_volts - limit(r, "sensed_volts"), 1e-9)
        there = high / max(r.driven_volts - limit(r, "driven_volts"), 1e-9)
        back = REVERSE_SLACK * (r.driven_volts + limit(r, "driven_volts")) / low
        out[driven, sensed] = max(there, out.get((driven, sensed), 0.0))
        out.setdefault((sensed, driven), back)
    return out


class Stands(Struct, frozen=True, kw_only=True):
    """A winding with the most volts that stand on it; None where nobody knows."""

    winding: Open
    volts: float | None


def stands(
    windings: Sequence[Open], ratios: Ratios, fed: tuple[str, str], drive: float | None
) -> list[Stands]:
    """The most volts on every winding while a pair is driven, the whole of a tapped one that is
    fed in part too.
    """
    pair = frozenset(fed)
    own = next((w for w in windings if pair <= w.points), None)
    out = []
    for w in windings:
        if w is own:
            share = w.share(pair)
            if share is not None and share < 1.0 and drive is not None:
                out.append(Stands(winding=w, volts=drive / share))
            continue
        times = None if own is None else _times(own, w, ratios, pair)
        volts = None if drive is None or times is None else drive * times
        out.append(Stands(winding=w, volts=volts))
    return out


def _times(own: Open, other: Open, ratios: Ratios, pair: Pair) -> float | None:
    """The most volts on a winding for each volt on a pair of another."""
    share = own.share(pair) or 1.0
    read = [
        times / (other.share(sensed) or 1.0) * share_of / share
        for (driven, sensed), times in ratios.items()
        if (share_of := own.share(driven)) is not None and other.share(sensed) is not None
    ]
    if read:
        return max(read)
    if own.volts is not None and other.volts is not None and own.volts.low > 0:
        return other.volts.high / own.volts.low / share
    if own.coil.unread or other.coil.unread or own.coil.ohms.low <= 0:
        return None
    return OHMS_SLACK * math.sqrt(other.coil.ohms.high / own.coil.ohms.low) / share


def shorted_pairs(windings: Sequence[Open]) -> Iterable[tuple[Open, tuple[str, str]]]:
    """Every two points of one winding: joined outside, they are a short."""
    for w in windings:
        for one, two in itertools.combinations(sorted(w.points), 2):
            yield w, (one, two)
