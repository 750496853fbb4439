"""What a piece draws with nothing joined to it, as a curve of amps over volts: by its sweep, by one
reading at no load, or by what iron of its kind and size usually takes.
"""

import math

from msgspec import Struct
from msgspec.structs import replace

from greyfell.core.belief.found import Belief
from greyfell.core.circuit.fed_winding import fed_whole, halves
from greyfell.core.circuit.lamp import GLOWS, Behind, glow_of, lit
from greyfell.core.circuit.loss import expected_loss, usual_amps
from greyfell.core.circuit.sweep import Sweep, sweep_on_record, with_phase
from greyfell.core.circuit.three_lamps import lamps_on_record
from greyfell.core.circuit.waveform import shape_of
from greyfell.core.evidence.kinds.lamp import Lamp
from greyfell.core.evidence.kinds.no_load import NoLoad
from greyfell.core.evidence.record import Transformer
from greyfell.core.families.registry import does
from greyfell.core.figures.mains import half_volts, high_region
from greyfell.core.network.curve import Curve

KIND = "iron of its kind and size"
"""What a curve rests on that nobody read."""
STRAIGHT = 0.3
"""Share of the peak amps at rated volts that is a straight line, where no sweep tells. From
memory; butted and gapped cores have more."""
USUAL_SPREAD = 2.5
"""Amps of iron by its kind and size alone, over and under by this factor. M-12, broad."""
READ_SPREAD = 1.15
"""Amps at the supply from one reading elsewhere, over and under by this factor. From memory."""
MAYBE = 1.7
"""Idle watts that nobody read, over and under by this factor. M-T4, broad."""
NEAR_SUPPLY = 0.85
"""A reading below this share of the supply tells little of the amps there: the knee lies between.
House rule."""
SWEEP_SPREAD, BEYOND = 0.03, 2.0
"""Amps by a sweep, over and under by this share at its top; beyond it the power of flux may be so
much more or less. From memory."""


class Idle(Struct, frozen=True):
    """The curve of the fed winding at its middle, and the curves that it may lie between; what it
    rests on.
    """

    middle: Curve
    ends: tuple[Curve, ...]
    basis: str

    @property
    def curves(self) -> tuple[Curve, ...]:
        """The middle first."""
        return (self.middle, *self.ends)


def idle_of(record: Transformer, belief: Belief) -> Idle | None:
    """The no-load curve of the fed winding at the supply. V, A, W; None where no winding is fed or
    its volts are not known.
    """
    primary = belief.primary
    if primary is None or primary.volts is None or len(belief.fed) < 2:
        return None
    sweep = sweep_on_record(record, belief)
    if sweep is not None and sweep.last >= NEAR_SUPPLY * record.supply.volts:
        return _by_sweep(sweep, record)
    by = lamps_on_record(record, belief)
    if by is not None:
        lamps = tuple(replace(by.curve, amps=x) for x in (by.amps.low, by.amps.high))
        return Idle(by.curve, lamps, "lamps")
    usual = _usual(record, belief)
    read = _near_supply(record, belief)
    if read is None or usual is None:
        return usual
    return _by_reading(read, usual, record.supply.volts)


def _by_reading(read: NoLoad, usual: Idle, supply_volts: float) -> Idle:
    # its amps are read; the shape of the curve stays that of the kind
    scale = (read.volts / supply_volts) ** 5
    amps = (read.amps or usual.middle.amps) / scale
    most = amps * supply_volts
    low, watts, high = _watts_near(read, usual.middle.watts, scale, most)
    middle = replace(usual.middle, amps=amps, watts=watts)
    less, more = usual.ends
    ends = (
        replace(middle, amps=amps / READ_SPREAD, power=less.power, watts=low),
        replace(middle, amps=amps * READ_SPREAD, power=more.power, watts=high),
    )
    return Idle(middle, ends, f"no load {read.id}")


def _watts_near(
    read: NoLoad, usual: float, scale: float, voltamperes: float
) -> tuple[float, float, float]:
    """Watts at the supply, least, likeliest and most: as read, with the wattmeter's phase error;
    where none were read the kind's usual ones, as far as they go into the volt-amperes.
    """
    if read.watts is None:
        least, watts, most = usual / MAYBE, usual, usual * MAYBE
    else:
        told = with_phase(read.watts / scale ** (2 / 5), voltamperes)
        least, watts, most = told.low, told.value, told.high
    return min(least, voltamperes), min(watts, voltamperes), min(most, voltamperes)


def _near_supply(record: Transformer, belief: Belief) -> NoLoad | None:
    """The last reading at no load of what the supply goes on, near the supply, with its amps; one
    of a half as the two would show together.
    """
    read = (r for r in record.standing if r.kind == "no_load" and r.amps)
    found = [x for x in (_as_fed(r, record, belief) for r in read) if x is not None]
    near = [r for r in found if r.volts >= NEAR_SUPPLY * record.supply.volts]
    return near[-1] if near else None


def _as_fed(r: NoLoad, record: Transformer, belief: Belief) -> NoLoad | None:
    """A reading as of what the supply goes on: half the amps at twice the volts where two halves in
    series have twice the turns of the one that was fed. Ampère's law.
    """
    both, driven = halves(belief), set(r.driven)
    if both is None:
        return r if driven == set(belief.fed) else None
    ends = [set(w.coil.leads) for w in both]
    series = high_region(record.supply.volts)
    if series and all(len(driven & pair) == 1 for pair in ends):
        return r
    if driven not in ends:
        return None
    times = 2.0 if series else 1.0
    amps = None if r.amps is None else r.amps / times
    return r.model_copy(update={"volts": r.volts * times, "amps": amps})


def _usual(record: Transformer, belief: Belief) -> Idle | None:
    """By kind and size: watts a kilogram, amps over them."""
    supply = record.supply
    each = supply.volts if halves(belief) is None else half_volts(supply.volts)
    asked = NoLoad.model_construct(driven=belief.fed[:2], volts=each)
    loss = expected_loss(record, belief, asked)
    if loss is None:
        return None
    amps = usual_amps(loss.watts, supply.volts, loss.flux)
    spread = (amps / USUAL_SPREAD, amps, amps * USUAL_SPREAD)
    copper = _through_copper(record, belief)
    least, amps, most = (min(pair) for pair in zip(spread, copper, strict=True))
    power, low, high = does(belief.family).power
    middle = Curve(
        volts=supply.volts,
        hertz=supply.hertz,
        amps=amps,
        straight=STRAIGHT,
        power=power,
        watts=loss.watts,
    )
    ends = (
        replace(middle, amps=least, watts=loss.watts / USUAL_SPREAD, power=high),
        replace(middle, amps=most, power=low),
    )
    return Idle(middle, ends, KIND)


def _through_copper(record: Transformer, belief: Belief) -> tuple[float, float, float]:
    """Amps that the copper alone lets through, least, likeliest and most: however far its iron is
    driven, a winding takes no more. Ohm's law.
    """
    fed = fed_whole(record, belief)
    if fed is None:
        return math.inf, math.inf, math.inf
    ohms = fed.coil.ohms
    volts = record.supply.volts
    ends = (ohms.high, ohms.value, ohms.low)
    least, value, most = (volts / r if r > 0 else math.inf for r in ends)
    return least, value, most


def _by_sweep(sweep: Sweep, record: Transformer) -> Idle:
    """The curve through a sweep's points: of many straight shares and powers the one whose amps
    lie nearest in the logarithm.
    """
    supply = record.supply
    top = min(sweep.last, supply.volts)
    at = sweep.amps_at(top)
    watts = sweep.watts_at(top)
    amps = at.value if at is not None else sweep.points[-1].amps
    straight, power = shape_of([(p.volts / top, p.amps / amps) for p in sweep.points])
    middle = Curve(
        volts=top,
        hertz=supply.hertz,
        amps=amps,
        straight=straight,
        power=power,
        watts=0.0 if watts is None else min(watts.value, amps * top),
    )
    reach = (0.0, 0.0) if watts is None else (watts.low, min(watts.high, amps * top))
    ends = tuple(
        replace(
            middle,
            amps=amps * (1 + sign * SWEEP_SPREAD),
            power=power + sign * BEYOND,
            watts=end,
        )
        for sign, end in zip((-1, 1), reach, strict=True)
    )
    return Idle(middle, ends, "sweep")


def lights_it(record: Transformer, belief: Belief, r: Lamp) -> bool | None:
    """Whether sound iron of this piece lights a lamp bright by itself: yes where its likeliest
    amps do, or any that were read; None where only the most of its kind would; else no.
    """
    idle = idle_of(record, belief)
    if idle is None or set(r.across) != set(belief.fed):
        return False
    fed = fed_whole(record, belief)
    loops = [
        Behind(
            supply_volts=r.supply_volts,
            lamp_watts=r.lamp_watts,
            lamp_volts=record.supply.volts,
            curve=curve,
            ohms=0.0 if fed is None else fed.coil.ohms.value,
        )
        for curve in idle.curves
    ]
    bright = [glow_of(x.watts, r.lamp_watts) == GLOWS[2] for x in lit(loops)]
    if bright[0] or (any(bright) and idle.basis != KIND):
        return True
    return None if any(bright) else False
