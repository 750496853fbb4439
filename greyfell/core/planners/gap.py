"""A gap in air: the volts at which it strikes, or the gap that volts strike over; to tell how far a
part was driven, and how far to stay away. Never a target.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from greyfell.core.errors import FieldError
from greyfell.core.figures.quantity import Quantity
from greyfell.core.planner_kit.asking import Input, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, shown

NEEDLES = (
    (5.0, 4.2),
    (10.0, 8.5),
    (15.0, 13.0),
    (20.0, 17.5),
    (25.0, 22.0),
    (30.0, 26.9),
    (35.0, 32.0),
    (40.0, 38.1),
    (50.0, 52.0),
    (60.0, 68.1),
    (70.0, 88.1),
    (80.0, 111.0),
    (100.0, 155.0),
)
"""Peak kV and mm between needle points in air. H-T1; CRC Handbook, F. W. Peek."""
SPHERE_MM = (1.0, 2.0, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0, 15.0, 20.0)
SPHERE_KV: dict[float, tuple[float | None, ...]] = {
    20.0: (4.7, 8.0, 11.2, 14.4, 17.4, 20.4, 25.8, 30.7, None, None),
    50.0: (None, 8.0, 11.2, 14.3, 17.4, 20.4, 26.3, 32.0, 45.5, None),
    125.0: (None, None, None, None, 16.8, None, None, 31.7, 45.5, 59.0),
}
"""Peak kV and mm between spheres of so many mm, one earthed. H-T2, IEC 60052."""
SCATTER = {"needle": 0.2, "rod": 0.0, "sphere": 0.05}
"""What a gap scatters by, ±. H-T1, H-T2."""
DRAWN, LEAST_AWAY = 30.0, 300.0
"""An arc once struck is drawn to so many times its gap; and nobody stands nearer than so many mm.
Common practice."""
KPA, KELVIN, ROOM = 101.3, 273.0, 293.0


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """Peak volts or the gap; what it is between; the air."""

    volts_peak: Quantity | None = asked("Peak volts", "V", default=None, above=0, at_most=1e5)
    millimetres: Quantity | None = asked("or gap", "mm", default=None, above=0, at_most=155)
    electrodes: str = asked("Between", default="needle", choices=("needle", "rod", "sphere"))
    sphere_mm: float = asked("Spheres, across", "mm", default=20.0, at_least=1, at_most=2000)
    kilopascals: float = asked("Air pressure in kPa", default=KPA, at_least=50, at_most=120)
    celsius: float = asked("Air", "°C", default=20.0, at_least=-40, at_most=60)


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """The other of the two, and how far to stay away."""

    millimetres_found: Quantity | None = shown("Strikes over", "mm", lead=True)
    volts_peak_found: Quantity | None = shown("Strikes at, peak", "V", lead=True)
    keep_away_millimetres: Quantity = shown("Stay away", "mm")
    air_density: Quantity = shown("Air, over its usual density")


def work(given: Given) -> Found:
    """Printed tables, straight between their points, volts by the density of the air δ = (p/101.3)
    (293/(273 + t)). REF-H-04, H-05, H-08, H-T1, H-T2. V peak, mm, kPa, °C.

    Raises FieldError where neither volts nor gap is given, or both, or where no table reaches.

    >>> found = work(Given(volts_peak=Quantity(21213.0, 21213.0, 21213.0)))
    >>> round(found.millimetres_found.value, 1)
    18.6
    """
    if (given.volts_peak is None) == (given.millimetres is None):
        raise FieldError("volts_peak", "Give peak volts or the gap: one of the two.")
    density = given.kilopascals / KPA * ROOM / (KELVIN + given.celsius)
    if given.volts_peak is not None:
        volts = given.volts_peak
        gap = _gap_of(given, volts, density)
        found_gap, found_volts = gap, None
    else:
        assert given.millimetres is not None
        volts = _volts_of(given, given.millimetres, density)
        found_gap, found_volts = None, volts
    away = DRAWN * _along(NEEDLES, min(volts.high, 1e5) / 1e3 / density, "volts_peak")
    away = max(away, LEAST_AWAY)
    return Found(
        millimetres_found=found_gap,
        volts_peak_found=found_volts,
        keep_away_millimetres=Quantity(away, away, away, ("30 times its gap between needles",)),
        air_density=Quantity(density, density, density, ("REF-H-05",)),
    )


def _along(table: Sequence[tuple[float, float]], kilovolts: float, field: str) -> float:
    """mm at so many kV, straight between points; below the first through nought. Raises FieldError
    above the last.
    """
    before = (0.0, 0.0)
    for kv, mm in table:
        if kilovolts <= kv * (1 + 1e-9):
            share = (kilovolts - before[0]) / (kv - before[0])
            return before[1] + share * (mm - before[1])
        before = (kv, mm)
    raise FieldError(
        field,
        f"No table reaches so far: this one ends at {before[0]:g} kV of peak, {before[1]:g} mm.",
    )


def uniform_kilovolts(centimetres: float, density: float = 1.0) -> float:
    """Peak kV of a gap between flats: 24.22·δ·d + 6.08·√(δ·d). REF-H-04, Kuffel et al.

    >>> round(uniform_kilovolts(0.5), 2)
    16.41
    """
    return 24.22 * density * centimetres + 6.08 * math.sqrt(density * centimetres)


def _sphere_table(given: Given) -> tuple[tuple[float, float], ...]:
    """The table of the nearest smaller sphere; short gaps before it as between flats."""
    sizes = [d for d in SPHERE_KV if d <= given.sphere_mm * (1 + 1e-9)]
    if not sizes:
        raise FieldError("sphere_mm", "Tables begin with spheres of 20 mm.")
    printed = zip(SPHERE_KV[max(sizes)], SPHERE_MM, strict=True)
    table = [(kv, mm) for kv, mm in printed if kv is not None]
    first_kv, first_mm = table[0]
    scale = first_kv / uniform_kilovolts(first_mm / 10)
    steps = [first_mm * k / 8 for k in range(1, 8)]
    return (*((scale * uniform_kilovolts(mm / 10), mm) for mm in steps), *table)


def _tables(given: Given) -> tuple[Sequence[tuple[float, float]], ...]:
    """The tables that bound it: one, or for rods those of spheres and needles."""
    if given.electrodes == "needle":
        return (NEEDLES,)
    if given.electrodes == "sphere":
        return (_sphere_table(given),)
    flats = [(uniform_kilovolts(mm / 10), float(mm)) for mm in range(1, 36)]
    return (flats, NEEDLES)


def _gap_of(given: Given, volts: Quantity, density: float) -> Quantity:
    tables = _tables(given)
    scatter = SCATTER[given.electrodes]
    ends = [
        _along(t, kv / 1e3 / density, "volts_peak")
        for t in tables
        for kv in (volts.low * (1 - scatter), volts.high * (1 + scatter))
        if kv / 1e3 / density <= t[-1][0] or len(tables) == 1
    ]
    middles = [_along(t, volts.value / 1e3 / density, "volts_peak") for t in tables]
    middle = math.prod(middles) ** (1 / len(middles))
    return Quantity(middle, min(*ends, middle), max(*ends, middle), (_basis(given),))


def curve(given: Given, volts: float) -> list[tuple[float, float]]:
    """Peak volts and mm between these electrodes up to so many volts, as far as tables go."""
    out = []
    for table in _tables(given)[-1:]:
        out += [(1e3 * kv, mm) for kv, mm in table if 1e3 * kv <= 2 * volts]
    return [(0.0, 0.0), *out]


def _volts_of(given: Given, gap: Quantity, density: float) -> Quantity:
    scatter = SCATTER[given.electrodes]

    def inverse(table: Sequence[tuple[float, float]], mm: float) -> float:
        turned = [(m, kv) for kv, m in table]
        return 1e3 * density * _along(turned, mm, "millimetres")

    tables = _tables(given)
    ends = [inverse(t, mm) for t in tables for mm in (gap.low, gap.high)]
    middles = [inverse(t, gap.value) for t in tables]
    middle = math.prod(middles) ** (1 / len(middles))
    low, high = min(*ends, middle) * (1 - scatter), max(*ends, middle) * (1 + scatter)
    return Quantity(middle, low, high, (_basis(given),))


def _basis(given: Given) -> str:
    tables = {
        "needle": "H-T1, CRC Handbook",
        "sphere": "H-T2, IEC 60052",
        "rod": "between flats and needles",
    }
    return tables[given.electrodes]


GAP = Planner(
    name="gap",
    title="A gap in air",
    purpose="How far a part was driven, and how far to stay away. Never a target.",
    given=Given,
    found=Found,
    work=work,
    why=Formula(
        text="tables, straight between their points; V ∝ δ = (p/101.3)·293/(273 + t)",
        source="REF-H-04, REF-H-05, REF-H-08, H-T1, H-T2; IEC 60052",
        put="{volts_peak} / {millimetres}, air at {air_density} of its density",
    ),
    cautions=(
        Caution(
            code="no-target",
            severity="caution",
            sentence=(
                "A gap tells what was there; it is no measure to aim at. Who sets one to limit "
                "volts watches it fail when the air is damp."
            ),
        ),
        Caution(
            code="arc-draws",
            severity="caution",
            sentence=(
                "An arc once struck is drawn to 10 to 30 times its gap: stay "
                "{keep_away_millimetres} away, touch nothing until it is dead, shorted and proved."
            ),
        ),
    ),
    example={"volts_peak": 8000.0},
    checks=(
        Check(
            given={"volts_peak": 21210.0},
            expected={"millimetres_found": 18.59},
            source="REF-H-08a: 21.21 kV peak, needles: 1.859 cm",
        ),
        Check(
            given={"volts_peak": 7500.0},
            expected={"millimetres_found": 6.350},
            source="REF-H-08b: 7.50 kV peak, needles: 0.6350 cm",
        ),
        Check(
            given={"millimetres": 10.0, "electrodes": "sphere", "sphere_mm": 50.0},
            expected={"volts_peak_found": 32000.0},
            source="H-T2, IEC 60052: spheres of 5 cm at 1.00 cm",
        ),
        Check(
            given={"volts_peak": 8500.0, "kilopascals": 95.0, "celsius": 30.0},
            expected={"air_density": 0.9069},
            source="REF-H-05a",
        ),
    ),
)
