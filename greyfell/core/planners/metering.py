"""A chain of resistors ahead of a small meter, so that it reads kilovolts."""

import math
from dataclasses import dataclass

from greyfell.core.errors import FieldError
from greyfell.core.figures.limits import LIVE_VOLTS, RESISTOR_VOLTS
from greyfell.core.figures.quantity import Quantity, corners, exact
from greyfell.core.planner_kit.asking import Input, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, shown

WATTS_SHARE = 0.50
"""Of a resistor's watts so much is used. Common practice."""
NEAREST = 0.02
"""A count is taken whose nearest standard value errs by less. House rule."""
MOST = 2000
E12 = (10, 12, 15, 18, 22, 27, 33, 39, 47, 56, 68, 82)
E24 = tuple(sorted((*E12, 11, 13, 16, 20, 24, 30, 36, 43, 51, 62, 75, 91)))
"""Standard values, tenths. IEC 60063."""
SERIES = {
    "E12": tuple(x / 10 for x in E12),
    "E24": tuple(x / 10 for x in E24),
    "E96": tuple(round(10 ** (n / 96), 2) for n in range(96)),
}
"""Values of each series within a decade. IEC 60063."""
BASIS = ("REF-Q-06", "REF-Q-07")


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """The full scale wanted, the meter, and one resistor of the chain."""

    full_scale_volts: float = asked("Full scale wanted, DC", "V", above=0, at_most=1e6)
    meter_full_scale_amps: Quantity = asked("Meter's full scale", "A", above=0, at_most=10)
    meter_ohms: float = asked("Meter's own ohms", "Ω", default=0.0, at_least=0, at_most=1e9)
    resistor_volts: float = asked("Working volts of one", "V", above=0, at_most=1e6)
    resistor_watts: float = asked("Watts of one", "W", above=0, at_most=1e4)
    resistor_tolerance: float = asked("Its tolerance", default=0.01, at_least=0, at_most=0.5)
    series: str = asked("Values", default="E24", choices=tuple(SERIES))
    foot_ohms: float | None = asked(
        "Resistor across the meter", "Ω", default=None, above=0, at_most=1e9
    )


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """The chain: how many of which value, what each bears, and what it then reads."""

    resistors: int = shown("So many in a row")
    ohms_each: Quantity = shown("of each", "Ω", lead=True)
    chain_ohms: Quantity = shown("Chain as wanted", "Ω")
    volts_each: Quantity = shown("Volts on each", "V")
    watts_each: Quantity = shown("Watts in each", "W")
    chain_watts: Quantity = shown("Watts of the chain", "W")
    full_scale_volts_as_built: Quantity = shown("Full scale as built", "V")
    error_fraction: Quantity = shown("Reads off by")
    open_meter_volts: Quantity = shown("At the meter's leads if it opens", "V")


def work(given: Given) -> Found:
    """R = (V − I·R_m)/I_chain, n the least at 70 % of the volts and half of the watts whose nearest
    standard value errs under 2 %. Volts DC, amps, ohms. REF-Q-06, REF-Q-07, IEC 60063.

    Raises FieldError where the meter alone already bears the volts, or no count will do.

    >>> found = work(Given(full_scale_volts=5000.0, meter_full_scale_amps=exact(100e-6),
    ...                    resistor_volts=500.0, resistor_watts=0.5))
    >>> found.resistors, found.ohms_each.value
    (15, 3300000.0)
    """

    def amps_of(full: float) -> float:
        """Amps of the chain at full scale: the meter's, and those beside it."""
        beside = 0.0 if given.foot_ohms is None else full * given.meter_ohms / given.foot_ohms
        return full + beside

    def reads(full: float, ohms: float) -> float:
        """Volts that deflect it fully through so many ohms."""
        return full * given.meter_ohms + amps_of(full) * ohms

    def needs(full: float) -> float:
        return (given.full_scale_volts - full * given.meter_ohms) / amps_of(full)

    def watts_of(full: float) -> float:
        return (given.full_scale_volts - full * given.meter_ohms) * amps_of(full)

    full, wanted_for = given.meter_full_scale_amps, given.full_scale_volts
    over = wanted_for - full.value * given.meter_ohms
    if wanted_for - full.high * given.meter_ohms <= 0:
        raise FieldError("full_scale_volts", "The meter alone already reads so many volts.")
    wanted, amps = corners(needs, full), corners(amps_of, full)
    count, each = _chain(given, wanted.value, over, amps.value)
    tolerance = given.resistor_tolerance
    one = Quantity(each, each * (1 - tolerance), each * (1 + tolerance), ("IEC 60063",))
    built = corners(lambda i, r: reads(i, count * r), full, one)
    share = 1.0 if given.foot_ohms is None else given.foot_ohms / (count * each + given.foot_ohms)
    return Found(
        resistors=count,
        ohms_each=one,
        chain_ohms=_based(wanted),
        volts_each=exact(over / count, "REF-Q-07"),
        watts_each=exact(over / count * amps.value, "REF-Q-07"),
        chain_watts=_based(
            corners(lambda i: (wanted_for - i * given.meter_ohms) * amps_of(i), full)
        ),
        full_scale_volts_as_built=_based(built),
        error_fraction=_based(corners(lambda v: v / wanted_for - 1, built)),
        open_meter_volts=exact(wanted_for * share, "Ohm's law"),
    )


def _based(q: Quantity) -> Quantity:
    """A figure with the formulas it rests on."""
    return Quantity(q.value, q.low, q.high, BASIS)


def _chain(given: Given, wanted: float, over: float, amps: float) -> tuple[int, float]:
    """How many resistors, and of which standard value."""
    by_volts = over / (RESISTOR_VOLTS * given.resistor_volts)
    by_watts = over * amps / (WATTS_SHARE * given.resistor_watts)
    least = max(1, math.ceil(max(by_volts, by_watts) - 1e-9))
    for count in range(least, MOST + 1):
        each = _nearest(wanted / count, given.series)
        if abs(each * count / wanted - 1) < NEAREST:
            return count, each
    raise FieldError(
        "resistor_volts",
        f"More than {MOST} such resistors would be needed; take larger ones.",
    )


def _nearest(ohms: float, series: str) -> float:
    """The standard value nearest to some ohms."""
    decade = 10.0 ** math.floor(math.log10(ohms))
    values = [v * decade * t for t in (1, 10) for v in SERIES[series]]
    return float(f"{min(values, key=lambda v: abs(math.log(v / ohms))):.4g}")


METERING = Planner(
    name="metering",
    title="Metering",
    purpose="A chain of resistors that lets a small meter read kilovolts.",
    given=Given,
    found=Found,
    work=work,
    why=Formula(
        text="R = (V − I·R_m) / I, split so that none bears over 70 % of its volts, half its watts",
        source="REF-Q-06, REF-Q-07, IEC 60063",
        put="{chain_ohms} as {resistors} of {ohms_each}: full scale at {full_scale_volts_as_built}",
    ),
    draws={
        "resistor": {"resistor_volts": "working_volts", "resistor_watts": "watts"},
        "panel-meter": {"meter_full_scale_amps": "full_scale_amps", "meter_ohms": "ohms"},
    },
    cautions=(
        Caution(
            code="open-meter",
            severity="caution",
            sentence=(
                "If the meter opens or is unplugged, {open_meter_volts} stand at its leads: a "
                "resistor across it, soldered there, keeps them low."
            ),
            when=lambda given, found: found.open_meter_volts.high > LIVE_VOLTS,
        ),
        Caution(
            code="dc-only",
            severity="note",
            sentence="For DC: stray capacitance spoils it for AC; a clamp tells more there.",
        ),
        Caution(
            code="return",
            severity="note",
            sentence=(
                "The meter sits at the earthed end of the chain, the chain in a tube, every joint "
                "covered; it is connected with the power off."
            ),
        ),
    ),
    example={
        "full_scale_volts": 5000.0,
        "meter_full_scale_amps": 100e-6,
        "meter_ohms": 2000.0,
        "resistor_volts": 500.0,
        "resistor_watts": 0.5,
        "foot_ohms": 100e3,
    },
    checks=(
        Check(
            given={
                "full_scale_volts": 5940.0,
                "meter_full_scale_amps": 1e-4,
                "resistor_volts": 350.0,
                "resistor_watts": 10.0,
                "series": "E96",
            },
            expected={"resistors": 25},
            source="REF-Q-07a",
        ),
        Check(
            given={
                "full_scale_volts": 3003.0,
                "meter_full_scale_amps": 2.97e-7,
                "meter_ohms": 1e7,
                "foot_ohms": 1e5,
                "resistor_volts": 1e5,
                "resistor_watts": 5.0,
            },
            expected={"chain_ohms": 1e8},
            source="REF-Q-06a",
        ),
    ),
)
