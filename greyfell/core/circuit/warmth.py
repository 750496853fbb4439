"""How warm the iron gets by what it takes at no load, and how long it may stay on."""

import math

from msgspec import Struct

from greyfell.core.errors import within
from greyfell.core.figures.constants import COOLING, IRON_HEAT, IRON_SURFACE
from greyfell.core.figures.quantity import Quantity

COOLING_SPREAD = 1.3
"""Over and under by this factor: how it stands, what covers it. From memory."""
STAYS_KELVIN = 50.0
"""A part that never gets so much warmer may stay on: 25 °C and 50 K leave a class A winding its
hot spot. IEC 60085, from memory."""
LIMIT_KELVIN = 65.0
"""Warmer than this by its idle watts alone it is switched off. House rule: 90 °C at 25 °C."""
SHOTS_MINUTES = 10.0
"""What comes to the limit sooner is used in shots only. House rule."""
HOUR = 3600.0


class Warmth(Struct, frozen=True, kw_only=True):
    """Kelvin then (after an hour where no time is asked for) and for good, the minutes until the
    limit (None where it never comes), and how it may be used: `stays`, `minutes` or `shots`.
    """

    then: Quantity
    for_good: Quantity
    minutes: float | None
    use: str


def warmth_of(watts: Quantity, mass_kg: float, seconds: float = HOUR) -> Warmth:
    """A lump of iron cooled by its surface: rise P/(hA)·(1 − e^(−t/τ)), τ = mc/(hA). W, kg, K.
    Newton's law of cooling.

    Raises FieldError where the mass is not above nought.

    >>> oven = warmth_of(Quantity(60.0, 55.0, 65.0), 4.0)
    >>> round(oven.for_good.value), round(oven.then.value), oven.use
    (67, 56, 'minutes')
    """
    within("mass_kg", mass_kg, above=0, unit="kg")
    surface: float = IRON_SURFACE * mass_kg ** (2 / 3)

    def rise(power: float, cooling: float, seconds: float) -> float:
        lag = mass_kg * IRON_HEAT / (cooling * surface)
        share: float = -math.expm1(-seconds / lag)
        return power / (cooling * surface) * share

    ends = (
        (watts.value, COOLING),
        (watts.low, COOLING * COOLING_SPREAD),
        (watts.high, COOLING / COOLING_SPREAD),
    )
    then = [rise(p, h, seconds) for p, h in ends]
    good = [rise(p, h, math.inf) for p, h in ends]
    basis = ("idle watts", "mass", "still air")
    return Warmth(
        then=_quantity(then, basis),
        for_good=_quantity(good, basis),
        minutes=_minutes(watts.high, mass_kg, surface),
        use=_use(good[2], _minutes(watts.high, mass_kg, surface)),
    )


def _quantity(values: list[float], basis: tuple[str, ...]) -> Quantity:
    """The value, then its ends."""
    return Quantity(values[0], min(values), max(values), basis)


def _minutes(watts: float, mass_kg: float, surface: float) -> float | None:
    """Minutes to the limit at the worst of the range; None where it is never reached."""
    cooling = COOLING / COOLING_SPREAD
    final = watts / (cooling * surface)
    if final <= LIMIT_KELVIN:
        return None
    lag = mass_kg * IRON_HEAT / (cooling * surface)
    return float(-math.log1p(-LIMIT_KELVIN / final)) * lag / 60


def _use(most: float, minutes: float | None) -> str:
    """How it may be used, by the worst of its range."""
    if most <= STAYS_KELVIN:
        return "stays"
    return "shots" if minutes is not None and minutes < SHOTS_MINUTES else "minutes"


USE_WORDS = {
    "stays": "may stay on, looked after",
    "minutes": "minutes, with a clock and a hand that switches it off",
    "shots": "shots only: seconds on, minutes off",
}
"""What each use is called."""
