"""A capacitor let down through a resistor chain on an insulated stick: for how long, with what
chain, and what is left if it is let go early.
"""

import math
from dataclasses import dataclass

from greyfell.core.errors import FieldError
from greyfell.core.figures.limits import MAINS_RISE, RESISTOR_VOLTS
from greyfell.core.figures.quantity import Quantity, corners
from greyfell.core.planner_kit.asking import Input, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, shown

HOLD_CONSTANTS, LEAST_HOLD = 10.0, 5.0
"""The stick is held for ten time constants, and never for less than five seconds: it is counted
aloud, and a poor touch costs seconds. House rule."""
RECOVERED = (0.01, 0.10)
"""Share of the volts that dielectric absorption gives back in minutes. REF-R-08, from memory."""
PULSED = 10.0
"""Peak watts over rated watts that a wirewound or carbon resistor bears for a second or so; film
bears less. Common practice."""
BASIS = ("REF-R-06", "REF-R-08")


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """The capacitor, its volts in one of two ways, and one resistor of the chain."""

    capacitance_farads: Quantity = asked(
        "Capacitance", "F", above=0, at_most=10, help="µ and n are understood, as 0.95µF"
    )
    volts_peak: Quantity | None = asked(
        "Charged to", "V", default=None, above=0, at_most=1e6, help="volts read, or peak"
    )
    rated_volts_ac: Quantity | None = asked(
        "or its rated AC volts", "V", default=None, above=0, at_most=1e5
    )
    resistor_ohms: Quantity = asked("One resistor", "Ω", above=0, at_most=1e12)
    resistor_volts: float = asked("Working volts of one", "V", above=0, at_most=1e6)
    resistor_watts: float = asked("Watts of one", "W", above=0, at_most=1e4)
    resistors: int = asked("So many in a row", default=1, at_least=1, at_most=1000)
    safe_volts: float = asked("Safe below", "V", default=50.0, above=0, at_most=120)
    bleeder_ohms: Quantity | None = asked(
        "Bleeder inside", "Ω", default=None, above=0, at_most=1e12, aside=True
    )
    interrupted_after_seconds: float | None = asked(
        "Let go after", "s", default=None, at_least=0, at_most=1e6, aside=True
    )


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """What it starts from, the chain, how long it is held, what it does to the resistors, and what
    is left.
    """

    hold_seconds: Quantity = shown("Hold it for", "s", lead=True)
    start_volts: Quantity = shown("Starts from", "V")
    energy_joules: Quantity = shown("Energy held", "J")
    chain_ohms: Quantity = shown("Chain", "Ω")
    time_constant_seconds: Quantity = shown("Time constant", "s")
    seconds_to_safe: Quantity = shown("Below the safe volts after", "s")
    peak_amps: Quantity = shown("First amps", "A")
    peak_watts: Quantity = shown("First watts, whole chain", "W")
    volts_each: Quantity = shown("Volts on each resistor", "V")
    joules_each: Quantity = shown("Energy into each", "J")
    pulse_ratio: Quantity = shown("First watts of each over its rating")
    resistors_needed: int = shown("Resistors needed for the volts")
    left_volts: Quantity | None = shown("Left when let go early", "V")
    recovered_volts: Quantity = shown("May come back in minutes", "V")
    bleeder_seconds_to_safe: Quantity | None = shown("Its bleeder alone would take", "s")


def work(given: Given) -> Found:
    """v = V0·e^(−t/RC), t = RC·ln(V0/V), I = V0/R, P = V0²/R, W = ½CV0². Farads, volts, ohms,
    seconds; limits at their worst. REF-R-05 to R-08, REF-Q-07.

    Raises FieldError where the volts are given in neither way, or in both.

    >>> from greyfell.core.figures.quantity import exact
    >>> one = exact(1e-6), exact(3000.0), exact(10e3)
    >>> found = work(Given(capacitance_farads=one[0], volts_peak=one[1], resistor_ohms=one[2],
    ...                    resistor_volts=10e3, resistor_watts=20.0))
    >>> round(found.peak_watts.value), round(found.energy_joules.value, 2)
    (900, 4.5)
    """
    start, farads = _start(given), given.capacitance_farads
    chain = corners(lambda r: given.resistors * r, given.resistor_ohms)
    constant = corners(lambda r, c: r * c, chain, farads)
    safe = given.safe_volts

    def to_safe(volts: float, seconds: float) -> float:
        return seconds * math.log(max(1.0, volts / safe))

    def held(seconds: float) -> float:
        return max(LEAST_HOLD, HOLD_CONSTANTS * seconds)

    each = corners(lambda v: v / given.resistors, start)
    watts = corners(lambda v, r: v * v / r, start, chain)
    energy = corners(lambda c, v: 0.5 * c * v * v, farads, start)
    pulse = corners(lambda w: w / given.resistors / given.resistor_watts, watts)
    least, most = RECOVERED
    return Found(
        hold_seconds=_based(corners(held, constant)),
        start_volts=start,
        energy_joules=_based(energy),
        chain_ohms=_based(chain),
        time_constant_seconds=_based(constant),
        seconds_to_safe=_based(corners(to_safe, start, constant)),
        peak_amps=_based(corners(lambda v, r: v / r, start, chain)),
        peak_watts=_based(watts),
        volts_each=_based(each),
        joules_each=_based(corners(lambda w: w / given.resistors, energy)),
        pulse_ratio=_based(pulse),
        resistors_needed=math.ceil(start.high / given.resistor_volts - 1e-9),
        left_volts=_left(given, start, constant),
        recovered_volts=Quantity(
            0.03 * start.value, least * start.low, most * start.high, ("1 to 10 %, REF-R-08",)
        ),
        bleeder_seconds_to_safe=_by_bleeder(given, start),
    )


def _based(q: Quantity) -> Quantity:
    """A figure with the formulas it rests on."""
    return Quantity(q.value, q.low, q.high, BASIS)


def _start(given: Given) -> Quantity:
    """The volts it starts from: as given, or the peak of its AC volts with the mains a tenth high.
    REF-R-07.
    """
    peak, rated = given.volts_peak, given.rated_volts_ac
    if (peak is None) == (rated is None):
        raise FieldError(
            "volts_peak", "Volts are given one way: charged to, or rated AC volts; give one."
        )
    if peak is not None:
        return Quantity(peak.value, peak.low, peak.high, ("given",))
    assert rated is not None
    top = math.sqrt(2) * MAINS_RISE
    return Quantity(rated.value * top, rated.low * top, rated.high * top, ("√2 · 1.1, REF-R-07",))


def _left(given: Given, start: Quantity, constant: Quantity) -> Quantity | None:
    seconds = given.interrupted_after_seconds
    if seconds is None:
        return None
    return _based(corners(lambda v, t: v * math.exp(-seconds / t), start, constant))


def _by_bleeder(given: Given, start: Quantity) -> Quantity | None:
    if given.bleeder_ohms is None:
        return None

    def alone(volts: float, farads: float, ohms: float) -> float:
        return ohms * farads * math.log(max(1.0, volts / given.safe_volts))

    return _based(corners(alone, start, given.capacitance_farads, given.bleeder_ohms))


DISCHARGE = Planner(
    name="discharge",
    title="Discharge",
    purpose="Let a capacitor down through resistors on a stick: how long, and with which.",
    given=Given,
    found=Found,
    work=work,
    why=Formula(
        text="t = R·C·ln(V0/V); hold = 10·R·C, at least 5 s",
        source="REF-R-06, REF-R-07, REF-R-08",
        put="{chain_ohms} · {capacitance_farads} = {time_constant_seconds}; held {hold_seconds}",
    ),
    draws={
        "resistor": {
            "resistor_ohms": "ohms",
            "resistor_volts": "working_volts",
            "resistor_watts": "watts",
        },
        "capacitor": {
            "capacitance_farads": "farads",
            "rated_volts_ac": "volts_ac",
            "bleeder_ohms": "bleeder_ohms",
        },
    },
    cautions=(
        Caution(
            code="over-volts",
            severity="stop",
            sentence=(
                "Each resistor would stand at {volts_each}, made for {resistor_volts}: it flashes "
                "over and the charge stays. {resistors_needed} in a row at least."
            ),
            when=lambda given, found: found.volts_each.high > given.resistor_volts,
        ),
        Caution(
            code="near-volts",
            severity="caution",
            sentence=(
                "Each resistor stands at {volts_each}, above seven tenths of its {resistor_volts}: "
                "take one more."
            ),
            when=lambda given, found: (
                RESISTOR_VOLTS * given.resistor_volts
                < found.volts_each.high
                <= given.resistor_volts
            ),
        ),
        Caution(
            code="pulse",
            severity="caution",
            sentence=(
                "At the first touch each takes {pulse_ratio} times its watts: film resistors may "
                "open unseen. Wirewound or carbon, more of them, more ohms."
            ),
            when=lambda given, found: found.pulse_ratio.high > PULSED,
        ),
        Caution(
            code="then-short",
            severity="note",
            sentence=(
                "Across the terminals, then each terminal to the can; touch an insulated short "
                "across; only then the meter, proved. Some volts come back: measure again after "
                "five minutes, then leave a short on."
            ),
        ),
        Caution(
            code="bleeder",
            severity="caution",
            sentence="A bleeder inside can have failed open: it is never proof of discharge.",
            when=lambda given, found: given.bleeder_ohms is not None,
        ),
    ),
    example={
        "capacitance_farads": 0.95e-6,
        "rated_volts_ac": 2100.0,
        "resistor_ohms": 10e3,
        "resistor_volts": 500.0,
        "resistor_watts": 3.0,
        "resistors": 10,
        "bleeder_ohms": 10e6,
    },
    checks=(
        Check(
            given={
                "capacitance_farads": 1e-6,
                "volts_peak": 3000.0,
                "resistor_ohms": 10e3,
                "resistor_volts": 10e3,
                "resistor_watts": 20.0,
            },
            expected={"peak_amps": 0.3, "peak_watts": 900.0, "energy_joules": 4.5},
            source="REF-R-08a",
        ),
        Check(
            given={
                "capacitance_farads": 1e-6,
                "volts_peak": 2970.0,
                "resistor_ohms": 10e6,
                "resistor_volts": 10e3,
                "resistor_watts": 20.0,
            },
            expected={"seconds_to_safe": 40.84, "energy_joules": 4.410},
            source="REF-R-06a, REF-R-05a",
        ),
        Check(
            given={
                "capacitance_farads": 1.2e-6,
                "volts_peak": 3270.0,
                "resistor_ohms": 10e6,
                "resistor_volts": 10e3,
                "resistor_watts": 20.0,
                "interrupted_after_seconds": 60.0,
            },
            expected={"left_volts": 22.03},
            source="REF-R-06c",
        ),
        Check(
            given={
                "capacitance_farads": 0.91e-6,
                "volts_peak": 5940.0,
                "resistor_ohms": 1e4,
                "resistor_volts": 245.0,
                "resistor_watts": 20.0,
            },
            expected={"energy_joules": 16.05, "resistors_needed": 25},
            source="REF-R-05b, REF-Q-07a",
        ),
    ),
)
