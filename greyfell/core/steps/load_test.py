"""Short circuit and load: which winding is shorted, how far to wind up so that no winding is above
its rating, what to expect; and the load line, every point beside what the earlier ones foretold.
"""

from collections.abc import Sequence

from msgspec import Struct

from greyfell.core.belief.found import Winding
from greyfell.core.circuit.equivalent import own_impedance
from greyfell.core.circuit.fed_winding import fed_whole
from greyfell.core.circuit.idle import idle_of
from greyfell.core.circuit.load import (
    Against,
    LoadLine,
    against,
    load_line,
    short_amps,
)
from greyfell.core.circuit.warmth import Warmth, warmth_of
from greyfell.core.families.registry import does
from greyfell.core.figures.quantity import Quantity
from greyfell.core.judgement.gates import fed_windings, live_gate
from greyfell.core.judgement.identification import Identification
from greyfell.core.steps.live_steps import shorted_step
from greyfell.core.steps.step import Step

SECONDS = 10.0
"""A short-circuit reading takes no longer: it is rated for a minute. Common practice."""
USUAL_WATTS = 1.6
"""Watts at no load that nobody read, over and under by this factor. M-T4, broad."""


class ShortPlan(Struct, frozen=True, kw_only=True):
    """One winding to short: the step, the most primary amps, the volts that bring them, seconds."""

    winding: str
    step: Step
    most_amps: Quantity
    volts: Quantity | None
    seconds: float


class LoadedOutput(Struct, frozen=True, kw_only=True):
    """One output under load: its line, a dead short at full volts, every point read."""

    winding: Winding
    line: LoadLine
    short: Quantity
    points: Sequence[Against]


def short_plans(ident: Identification) -> list[ShortPlan]:
    """Every winding that may be shorted, by its rating and the primary's; nothing behind a closed
    gate.
    """
    fed = fed_whole(ident.record, ident.belief)
    if fed is None or fed.volts is None or not live_gate(ident).open:
        return []
    out = []
    for w in _others(ident):
        most = _most(ident, fed, w)
        if most is None:
            continue
        out.append(
            ShortPlan(
                winding=w.name,
                step=shorted_step(ident, w, most),
                most_amps=most,
                volts=_volts(ident, most),
                seconds=SECONDS,
            )
        )
    return out


def outputs(ident: Identification) -> list[LoadedOutput]:
    """Every output whose line something tells, with its points."""
    out = []
    for w in _others(ident):
        line = load_line(ident.record, ident.belief, w)
        if line is not None:
            points = against(ident.record, ident.belief, w)
            short = short_amps(ident.record, ident.belief, line)
            out.append(LoadedOutput(winding=w, line=line, short=short, points=points))
    return out


def idle_watts(ident: Identification) -> Quantity | None:
    """Watts at no load on the supply: read near it; else what its iron lets expect, wide."""
    idle = idle_of(ident.record, ident.belief)
    if idle is None:
        return None
    watts = [c.watts for c in idle.curves if c.watts]
    if not watts:
        return None
    spread = 1.0 if idle.basis.startswith("no load") else USUAL_WATTS
    low, high = min(watts) / spread, max(watts) * spread
    return Quantity(watts[0], low, high, (idle.basis,))


def per_kilogram(ident: Identification, watts: Quantity | None) -> Quantity | None:
    """Watts over the mass that was weighed; None without either. By definition."""
    core = ident.record.core
    if watts is None or core is None or core.mass_kg is None:
        return None
    mass = core.mass_kg
    basis = (*watts.basis, "mass")
    return Quantity(watts.value / mass, watts.low / mass, watts.high / mass, basis)


def idle_warmth(ident: Identification, watts: Quantity | None) -> Warmth | None:
    """How warm its idle watts make it; None without them or without a mass."""
    core = ident.record.core
    if watts is None or core is None or core.mass_kg is None:
        return None
    return warmth_of(watts, core.mass_kg)


def _others(ident: Identification) -> list[Winding]:
    fed = fed_windings(ident)
    return [w for w in ident.windings if w not in fed and not w.coil.broken]


def _most(ident: Identification, fed: Winding, w: Winding) -> Quantity | None:
    """Primary amps at which neither winding is above what it bears for a minute."""
    own, other = (ident.belief.ratings.get(x.id) for x in (fed, w))
    limits = [] if own is None else [own.minute]
    if other is not None and w.volts is not None and fed.volts is not None:
        ratio = w.volts.value / fed.volts.value
        m = other.minute
        limits.append(Quantity(m.value * ratio, m.low * ratio, m.high * ratio, m.basis))
    return min(limits, key=lambda q: q.low) if limits else None


def _volts(ident: Identification, most: Quantity) -> Quantity | None:
    """Volts at the primary that bring these amps into a short."""
    own = own_impedance(ident.record, ident.belief)
    if own is not None:
        r, x = own.resistance_ohms, own.reactance_ohms
        ohms = Quantity(
            abs(complex(r.value, x.value)),
            abs(complex(r.low, x.low)),
            abs(complex(r.high, x.high)),
            (f"short circuit {own.reading}",),
        )
    else:
        whole = ident.belief.voltamperes
        if whole is None:
            return None
        least, _, top = does(ident.family).own_share
        rated = ident.record.supply.volts**2
        low, high = least * rated / whole.high, top * rated / whole.low
        ohms = Quantity((low * high) ** 0.5, low, high, ("kind and size",))
    return Quantity(most.low * ohms.value, most.low * ohms.low, most.low * ohms.high, ohms.basis)
