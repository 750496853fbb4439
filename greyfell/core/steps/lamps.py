"""What a lamp ahead of each winding would show, before power: its glow if the winding is sound, if
it is shorted, and the volts that stand on every other winding meanwhile.
"""

import itertools
from collections.abc import Sequence

from msgspec import Struct
from msgspec.structs import replace

from greyfell.core.belief.found import Winding
from greyfell.core.bench.kept_setup import standing_setup
from greyfell.core.circuit.equivalent import own_impedance
from greyfell.core.circuit.fed_winding import fed_whole
from greyfell.core.circuit.idle import Idle, idle_of
from greyfell.core.circuit.lamp import GLOWS, LAW_SPREAD, Behind, Lit, glow_of, lit, through
from greyfell.core.evidence.stores import Item
from greyfell.core.families.registry import does
from greyfell.core.figures.limits import LIVE_VOLTS, MAINS_RISE
from greyfell.core.figures.quantity import Quantity
from greyfell.core.judgement.gates import fed_windings
from greyfell.core.judgement.identification import Identification
from greyfell.core.network.curve import Curve

USUAL_LAMPS = (25.0, 40.0, 60.0, 100.0, 200.0, 500.0, 1000.0)
"""Watts of lamps that are found, where the stores hold none. Common practice."""
USUAL_LAMP = 100.0
"""Watts of the lamp that is named where nothing is known of what the piece draws. Common
practice."""
BRIGHT_PROVES = (
    "Bright on one winding: it is wound for far less than the line, or something is shorted. "
    "Bright on every winding: a short anywhere on the core, or no winding made for the line."
)
DARK_PROVES = (
    "Dark: wound for the line at least. It does not say primary, nor sound: one shorted turn of "
    "many costs some watts that no lamp shows."
)


class Meanwhile(Struct, frozen=True, kw_only=True):
    """The volts of another winding while this one is fed behind the lamp."""

    name: str
    volts: Quantity

    @property
    def live(self) -> bool:
        """Whether it counts as live when touched. IEC 61010-1."""
        return self.volts.high > LIVE_VOLTS


class Foretold(Struct, frozen=True, kw_only=True):
    """One lamp ahead of one winding: every glow that a sound winding may show, every glow with
    another shorted, the lamp's watts, the volts left on it and on the others.
    """

    winding: str
    lamp_watts: float
    sound: tuple[str, ...]
    shorted: tuple[str, ...]
    drawn: Quantity
    left: Quantity
    others: tuple[Meanwhile, ...]

    @property
    def tells(self) -> bool:
        """Whether a sound winding is never bright behind it, and a short always is."""
        return GLOWS[2] not in self.sound and self.shorted == (GLOWS[2],)


class Lamps(Struct, frozen=True, kw_only=True):
    """What lamps show on the windings of a piece: the lamp to take (None where none tells), the
    lamps that would tell, every winding behind the lamp shown, and what it rests on. Where a lamp
    stands on the bench already, it is the one taken and shown.
    """

    taken: float | None
    telling: tuple[float, ...]
    windings: tuple[Foretold, ...]
    basis: str
    on_bench: bool = False


def bench_lamp(ident: Identification) -> float | None:
    """Watts of the lamp that limits on the bench of a piece; None where none stands there."""
    standing = standing_setup(ident)
    placed = standing.setup.of("lamp") if standing is not None and standing.setup else []
    watts = [e.figures["watts"] for e in placed if not e.bridged and "watts" in e.figures]
    return min(watts, default=None)


def lamps_of(
    ident: Identification, stores: Sequence[Item] = (), *, wrong_too: bool = True
) -> Lamps | None:
    """Every winding of known volts behind the lamp of the bench, else the best lamp of the stores,
    or the fed one alone. None where nothing is known of what the piece draws.
    """
    primary, idle = fed_whole(ident.record, ident.belief), idle_of(ident.record, ident.belief)
    if primary is None or primary.volts is None or idle is None:
        return None
    held = [i for i in stores if i.kind.key == "lamp" and i.count and not i.gone]
    sizes = sorted({float(i.figures["watts"]) for i in held}) or list(USUAL_LAMPS[:-1])
    own = bench_lamp(ident)
    tried = sorted({*sizes, *USUAL_LAMPS, *(() if own is None else (own,))})
    fed = _foretold(ident, idle, [(primary, watts) for watts in tried])
    apart = [f.lamp_watts for f in fed if f.tells]
    held_too = [w for w in apart if w in sizes]
    taken = held_too[-1] if held_too else None
    shown = taken if taken is not None else _least_bad(fed, sizes)
    if own is not None:
        taken, shown = (own if own in apart else None), own
    fed_ids = {w.id for w in fed_windings(ident)}
    others = [
        w
        for w in ident.windings
        if wrong_too and w.id not in fed_ids and w.volts is not None and not w.coil.broken
    ]
    first = next(f for f in fed if f.lamp_watts == shown)
    wrong = _foretold(ident, idle, [(w, shown) for w in others])
    telling = tuple(held_too or apart)
    return Lamps(
        taken=taken,
        telling=telling,
        windings=(first, *wrong),
        basis=idle.basis,
        on_bench=own is not None,
    )


def _least_bad(fed: Sequence[Foretold], sizes: Sequence[float]) -> float:
    """Of lamps that do not tell, the largest that a short surely lights: sound iron leaves it the
    darkest.
    """
    lit_by_short = [f.lamp_watts for f in fed if f.shorted == (GLOWS[2],)]
    held = [w for w in lit_by_short if w in sizes]
    return held[-1] if held else sizes[len(sizes) // 2]


def _foretold(
    ident: Identification, idle: Idle, asked: Sequence[tuple[Winding, float]]
) -> list[Foretold]:
    """Lamps ahead of windings, at the middle of what is known and at its ends; all loops at
    once.
    """
    loops = [_loops(ident, idle, w, watts) for w, watts in asked]
    found = iter(lit([loop for each in loops for loop in each]))
    return [
        _told(ident, idle, w, watts, list(itertools.islice(found, len(each))))
        for (w, watts), each in zip(asked, loops, strict=True)
    ]


def _told(
    ident: Identification, idle: Idle, w: Winding, watts: float, found: Sequence[Lit]
) -> Foretold:
    """What one lamp ahead of one winding shows, by its loops."""
    glows = {glow_of(x.watts, watts) for x in found}
    shorted = {glow_of(x.watts, watts) for x in _shorts(ident, w, watts)}
    left = _span([x.turns_volts for x in found], idle)
    return Foretold(
        winding=w.name,
        lamp_watts=watts,
        sound=tuple(g for g in GLOWS if g in glows),
        shorted=tuple(g for g in GLOWS if g in shorted),
        drawn=_span([x.watts for x in found], idle),
        left=left,
        others=tuple(_others(ident, w, left)),
    )


def _loops(ident: Identification, idle: Idle, w: Winding, watts: float) -> list[Behind]:
    """The loop at the middle, then at the ends of line, lamp and iron, the worst together."""
    supply, ohms = ident.record.supply.volts, w.coil.ohms.value
    middle, least, most = idle.curves
    primary = fed_whole(ident.record, ident.belief)
    volts, whole = w.volts, None if primary is None else primary.volts
    assert volts is not None
    assert whole is not None
    value, low, high = volts.value / whole.value, volts.low / whole.high, volts.high / whole.low

    def loop(volts: float, curve: Curve, ratio: float, law: float) -> Behind:
        return Behind(
            supply_volts=volts,
            lamp_watts=watts,
            lamp_volts=supply,
            curve=curve.seen_from(ratio),
            ohms=ohms,
            law=law,
        )

    return [
        loop(supply, middle, value, 1.0),
        loop(supply * (2 - MAINS_RISE), least, high, 1 + LAW_SPREAD),
        loop(supply * MAINS_RISE, most, low, 1 - LAW_SPREAD),
        loop(supply * MAINS_RISE, replace(least, straight=0.05), high, 1 + LAW_SPREAD),
    ]


def _shorts(ident: Identification, w: Winding, watts: float) -> list[Lit]:
    """The lamp with this winding's copper and the piece's leakage behind it, another shorted."""
    supply = ident.record.supply.volts
    own = own_impedance(ident.record, ident.belief)
    if own is not None and ident.belief.primary is not None and w.id == ident.belief.primary.id:
        pairs = [
            (own.resistance_ohms.low, own.reactance_ohms.low),
            (own.resistance_ohms.high, own.reactance_ohms.high),
        ]
    else:
        pairs = [(w.coil.ohms.low, x) for x in _leakage(ident, w)]
        pairs.append((2 * w.coil.ohms.high, pairs[-1][1]))
    return [through(supply, watts, supply, r, x) for r, x in pairs]


def _leakage(ident: Identification, w: Winding) -> tuple[float, float]:
    """Leakage reactance seen from a winding, least and most, by family and size. Ω."""
    whole, volts = ident.belief.voltamperes, w.volts
    if whole is None or volts is None:
        return (0.0, 0.0)
    least, _, most = does(ident.family).own_share
    return least * volts.low**2 / whole.high, most * volts.high**2 / whole.low


def _others(ident: Identification, fed: Winding, left: Quantity) -> list[Meanwhile]:
    """What stands on every other winding, by turns, the HV first."""
    out = []
    assert fed.volts is not None
    for w in ident.windings:
        if w.id == fed.id or w.volts is None or w.coil.broken:
            continue
        volts = Quantity(
            left.value * w.volts.value / fed.volts.value,
            left.low * w.volts.low / fed.volts.high,
            left.high * w.volts.high / fed.volts.low,
            ("turns", *left.basis),
        )
        out.append(Meanwhile(name=w.name, volts=volts))
    return sorted(out, key=lambda m: -m.volts.high)


def _span(values: Sequence[float], idle: Idle) -> Quantity:
    """The first as the figure, all of them as its range."""
    return Quantity(values[0], min(values), max(values), (idle.basis, "lamp's law"))
