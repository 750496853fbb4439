"""Conductors: gauges, standard sizes, ohms, heating. IEC 60028, IEC 60889, IEC 60228, ASTM B258."""

import math

from msgspec import Struct

from greyfell.core.errors import within
from greyfell.core.figures.constants import COPPER_OHM_M, COPPER_PER_K, DAY_CELSIUS

IEC_MM2 = (
    0.5,
    0.75,
    1.0,
    1.5,
    2.5,
    4.0,
    6.0,
    10.0,
    16.0,
    25.0,
    35.0,
    50.0,
    70.0,
    95.0,
    120.0,
    150.0,
    185.0,
    240.0,
    300.0,
)
"""Nominal cross-sections of cables, mm². IEC 60228."""
ENAMELLED_MM = (
    (0.100, 0.125),
    (0.200, 0.239),
    (0.250, 0.297),
    (0.315, 0.367),
    (0.400, 0.459),
    (0.500, 0.566),
    (0.630, 0.704),
    (0.800, 0.884),
    (1.000, 1.094),
    (1.250, 1.349),
    (1.400, 1.502),
    (1.600, 1.706),
    (1.800, 1.909),
    (2.000, 2.112),
    (2.500, 2.618),
)
"""Bare and greatest overall diameter of grade 2 wire, mm. W-T3, IEC 60317-0-1."""
AWG_MM, AWG_RATIO, AWG_STEPS, AWG_AT = 0.127, 92.0, 39.0, 36.0
"""Gauge 36 is 0.127 mm, and 39 steps make a factor of 92. REF-W-04, ASTM B258."""
HOT_SPOT_KELVIN = (10.0, 15.0)
"""How much hotter than the mean of a winding its hottest place is. Common practice."""


class Metal(Struct, frozen=True, kw_only=True):
    """A conductor's metal: resistivity Ω·m and its coefficient per K at 20 °C, density kg/m³, T0 of
    the resistance line for winding rises °C, and β and K of adiabatic heating.
    """

    ohm_m: float
    per_kelvin: float
    kg_m3: float
    t0: float
    beta: float
    heating: float
    derating: float


METALS = {
    "copper": Metal(
        ohm_m=COPPER_OHM_M,
        per_kelvin=COPPER_PER_K,
        kg_m3=8890.0,
        t0=234.5,
        beta=234.5,
        heating=225.67,
        derating=1.0,
    ),
    "aluminium": Metal(
        ohm_m=2.8264e-8,
        per_kelvin=0.00403,
        kg_m3=2703.0,
        t0=225.0,
        beta=228.0,
        heating=148.11,
        derating=0.62,
    ),
}
"""REF-W-01, IEC 60028 and IEC 60889; T0 of REF-W-03, IEC 60335-1 cl. 11; β and K of REF-W-10, IEC
60949; derating by the resistivities."""


def awg_millimetres(gauge: float) -> float:
    """Bare diameter in mm of an AWG number; 1/0 is 0, 4/0 is −3. REF-W-04, ASTM B258.

    >>> round(awg_millimetres(12), 3), round(awg_millimetres(-3), 2)
    (2.053, 11.68)
    """
    return float(AWG_MM * AWG_RATIO ** ((AWG_AT - gauge) / AWG_STEPS))


def millimetres_awg(millimetres: float) -> float:
    """AWG number of a bare diameter in mm. REF-W-04. Raises FieldError where it is not positive.

    >>> round(millimetres_awg(1.0), 2)
    18.2
    """
    within("millimetres", millimetres, above=0, unit="mm")
    return AWG_AT - AWG_STEPS * math.log(millimetres / AWG_MM) / math.log(AWG_RATIO)


def area_mm2(millimetres: float) -> float:
    """Cross-section in mm² of a round wire of so many mm. Geometry.

    >>> round(area_mm2(1.0), 4)
    0.7854
    """
    return math.pi / 4 * millimetres**2


def diameter_mm(mm2: float) -> float:
    """Diameter in mm of a round wire of so many mm². Geometry.

    >>> round(diameter_mm(0.7854), 3)
    1.0
    """
    return math.sqrt(4 / math.pi * mm2)


def ohms_per_metre(mm2: float, metal: Metal, celsius: float = DAY_CELSIUS) -> float:
    """DC ohms of a metre of so many mm² at a temperature. REF-W-01, REF-W-05.

    >>> round(1e3 * ohms_per_metre(area_mm2(0.35), METALS["copper"]), 1)
    179.2
    """
    warm = 1 + metal.per_kelvin * (celsius - DAY_CELSIUS)
    return metal.ohm_m * warm / (mm2 * 1e-6)


def seconds_to(celsius: float, a_per_mm2: float, metal: Metal, start_celsius: float) -> float:
    """Seconds in which a current density heats a buried conductor from one temperature to another,
    nothing given away. REF-W-12, IEC 60949; pessimistic beyond some tens of seconds.

    >>> round(seconds_to(181.2, 20.0, METALS["copper"], 25.0), 0)
    60.0
    """
    rise = math.log((metal.beta + celsius) / (metal.beta + start_celsius))
    return metal.heating**2 / a_per_mm2**2 * rise
