"""The sheet of a sweep: how far to wind up at each step, what to expect, and where to stop."""

from msgspec import Struct

from greyfell.core.circuit.idle import Idle, idle_of
from greyfell.core.circuit.sweep import STEP, Sweep
from greyfell.core.figures.quantity import Quantity
from greyfell.core.judgement.gates import live_gate
from greyfell.core.judgement.identification import Identification
from greyfell.core.judgement.rated_mains import plate_hertz

SHARES = (0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.85, 0.9, 0.95, 1.0)
"""Steps as shares of the volts it was made for; closer where the iron bends. Common practice."""
STEEPEST = 10
"""Past the last step a knee may lie, and amps go with this power of the volts at most. Common
practice."""
RISE = 2.5
"""More than so many times the amps of the step before is told as running away: stop. House rule."""


class SheetStep(Struct, frozen=True, kw_only=True):
    """One step: volts, amps to expect where the sweep so far tells, amps above which it stops, what
    was read there.
    """

    volts: float
    expected: Quantity | None
    stop_above_amps: float | None
    read: float | None


def sheet_of(ident: Identification, sweep: Sweep | None) -> tuple[SheetStep, ...]:
    """The steps up to what the piece may be fed with: the plate's volts per hertz on this supply,
    never above the supply. Nothing where no winding is fed, or behind a closed gate.
    """
    if ident.belief.primary is None or not live_gate(ident).open:
        return ()
    top = most_volts(ident)
    rating = ident.belief.ratings.get(ident.belief.primary.id)
    limit = None if rating is None else rating.minute.low
    idle = idle_of(ident.record, ident.belief)
    steps = []
    for share in SHARES:
        volts = float(f"{share * top:.3g}")
        expected = _expected(sweep, idle, volts)
        steps.append(
            SheetStep(
                volts=volts,
                expected=expected,
                stop_above_amps=_stop(expected, limit),
                read=_read(sweep, volts),
            )
        )
    return tuple(steps)


def _expected(sweep: Sweep | None, idle: Idle | None, volts: float) -> Quantity | None:
    """Amps at a step: by the sweep where it covers it, else by what the iron lets expect."""
    by_sweep = sweep.amps_at(volts) if sweep is not None else None
    if by_sweep is not None or idle is None:
        return by_sweep
    amps = [curve.amps_at(volts) for curve in idle.curves]
    past = 1.0 if sweep is None else max(1.0, volts / sweep.last)
    most: float = max(amps) * past**STEEPEST
    return Quantity(amps[0], min(amps), most, (idle.basis,))


def most_volts(ident: Identification) -> float:
    """How far it may be wound up: its plate's volts per hertz at the supply's, else the supply.
    REF-M-01.
    """
    record = ident.record
    plate, supply = record.nameplate, record.supply
    if plate is None or plate.primary_volts is None:
        return supply.volts
    hertz = plate.hertz or supply.hertz
    return min(supply.volts, plate.primary_volts * supply.hertz / hertz)


def allowed_volts(ident: Identification) -> list[tuple[float, float]]:
    """The most volts by the plate's volts per hertz, on mains of 50 and of 60 Hz: (hertz, volts);
    nothing without plate volts. REF-M-02.
    """
    plate = ident.record.nameplate
    if plate is None or plate.primary_volts is None:
        return []
    made_for = plate.hertz or plate_hertz(plate)
    return [(hertz, plate.primary_volts * hertz / made_for) for hertz in (50.0, 60.0)]


def _stop(expected: Quantity | None, limit: float | None) -> float | None:
    """Amps above which a step is not held: well over what was expected, never over a minute's
    rating. None where neither is known.
    """
    known = [x for x in (limit, RISE * expected.high if expected is not None else None) if x]
    return min(known) if known else None


def _read(sweep: Sweep | None, volts: float) -> float | None:
    """The amps read within a twentieth of a step."""
    near = (STEP - 1) / 2
    points = sweep.points if sweep is not None else ()
    close = [p for p in points if abs(p.volts / volts - 1) <= near]
    return min(close, key=lambda p: abs(p.volts - volts)).amps if close else None
