"""A soak: minutes on the line with nothing joined to the rest, and how warm the winding got by its
ohms.
"""

from msgspec import Struct

from greyfell.core.belief.found import Belief
from greyfell.core.circuit.warmth import warmth_of
from greyfell.core.evidence.accuracy import limit
from greyfell.core.evidence.kinds.soak import Soak
from greyfell.core.evidence.record import Transformer
from greyfell.core.figures.notation import engineering
from greyfell.core.figures.quantity import Quantity
from greyfell.core.figures.wire import METALS
from greyfell.core.judgement.fault import Fault, Severity

STOP_CELSIUS, CAUTION_CELSIUS = 105.0, 90.0
"""Mean of the winding: class A's limit, and that limit less what its hottest place has more. IEC
60085, IEC 60335-1 cl. 19 (from memory)."""
TOO_WARM = 1.0
"""A rise above the top of what its watts account for asks for another look: heat comes from where
no wattmeter reads, or the watts are wrong. House rule."""
LEAST_MINUTES = 20.0
"""A soak says nothing of what it will come to before so many minutes. The reference of the
bench."""


class Soaked(Struct, frozen=True, kw_only=True):
    """One soak worked out: mean temperature and rise of the winding, and the rise that its watts
    and mass account for, where both are known.
    """

    reading: str
    celsius: Quantity
    rise: Quantity
    accounted: Quantity | None
    minutes: float

    @property
    def enough(self) -> bool:
        """Whether it was long enough to say what the winding comes to."""
        return self.minutes >= LEAST_MINUTES


def soaked_of(r: Soak, record: Transformer) -> Soaked:
    """Temperature by resistance: Δt = (R2 − R1)/R1·(k + t1). REF-W-03; copper.

    >>> told = Transformer.model_construct(core=None)
    >>> one = Soak(id="r1", across=("A", "B"), cold_ohms=3.0, hot_ohms=3.6, minutes=30.0)
    >>> round(soaked_of(one, told).rise.value, 1)
    50.9
    """
    cold, hot = r.cold_ohms, r.hot_ohms
    k = METALS["copper"].t0 + r.cold_celsius
    # both are read by one meter on one range: what its gain errs by falls out of the ratio
    err = (limit(r, "cold_ohms") / cold + limit(r, "hot_ohms") / hot) / 2
    rise = (hot / cold - 1) * k
    spread = err * k
    found = Quantity(rise, rise - spread, rise + spread, (f"soak {r.id}",))
    air = r.cold_celsius
    celsius = Quantity(air + found.value, air + found.low, air + found.high, found.basis)
    return Soaked(
        reading=r.id,
        celsius=celsius,
        rise=found,
        accounted=_accounted(r, record),
        minutes=r.minutes,
    )


def _accounted(r: Soak, record: Transformer) -> Quantity | None:
    """The rise that so many watts bring in so many minutes."""
    mass = record.core.mass_kg if record.core is not None else None
    if mass is None or r.watts is None:
        return None
    err = limit(r, "watts")
    watts = Quantity(r.watts, max(0.0, r.watts - err), r.watts + err)
    return warmth_of(watts, mass, seconds=60 * r.minutes).then


def soaked(record: Transformer, belief: Belief) -> list[Fault]:
    """A winding above its insulation's limit after a soak, or warmer than its watts account for."""
    out = []
    last = {frozenset(r.across): r for r in record.standing if r.kind == "soak"}
    for r in last.values():
        found = soaked_of(r, record)
        told = f"{engineering(found.celsius.value, '°C')} in {r.minutes:g} minutes"
        if found.celsius.value > CAUTION_CELSIUS:
            stop = found.celsius.value > STOP_CELSIUS
            limit_ = f"{STOP_CELSIUS:g} °C" if stop else f"{CAUTION_CELSIUS:g} °C and its hot spot"
            severity: Severity = "stop" if stop else "caution"
            out.append(_fault(r, severity, f"{told}: above {limit_} of class A insulation."))
        elif found.accounted is not None and found.rise.low > TOO_WARM * found.accounted.high:
            most = engineering(found.accounted.high, "K")
            out.append(
                _fault(
                    r,
                    "caution",
                    f"{told}, and its watts account for {most} at most: shorted turns, or the "
                    "watts read wrong.",
                )
            )
    return out


def _fault(r: Soak, severity: Severity, words: str) -> Fault:
    return Fault(
        code="runs-hot",
        severity=severity,
        leads=tuple(r.across),
        readings=(r.id,),
        sentence=f"The winding {'–'.join(r.across)} came to {words} Off, and let it cool.",
    )
