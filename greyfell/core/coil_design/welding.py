"""What a weld asks for: metal, thickness and tips to milliohms, amps, joules and seconds, each with
its range; tips, and what can time the pulse.
"""

import math

from msgspec import Struct

from greyfell.core.errors import FieldError, within
from greyfell.core.figures.quantity import Quantity
from greyfell.core.figures.wire import area_mm2

OPPOSED, ONE_SIDED = "opposed", "one-sided"
TIPS = (OPPOSED, ONE_SIDED)
FOOT_SECONDS = 0.2
"""The shortest pulse that a foot on a switch gives. Common practice."""
STEEL_AMPS, STEEL_MM, STEEL_POWER = 8000.0, 0.8, 0.6
"""A proper spot in two sheets of low-carbon steel wants 8 kA at 0.8 mm, ± 15 %, and grows so with
thickness: 9.5 kA at 1.0 mm and 12 kA at 1.6 mm. Resistance-welding tables, class A; from memory."""
STEEL_CYCLES, HERTZ = 12.0, 60.0
"""Cycles of a proper spot in 1 mm. The same tables."""
STEEL_NEWTONS = 2250.0
"""Force in N for each mm of sheet: 1.8 kN at 0.8 mm. The same tables."""
TACK = (0.10, 0.35)
"""A tack by a long pulse lives on so much of a proper spot's amps. Common practice: 300 to 1200 A
in thin sheet."""
THICKEST_TACK_MM = 0.5
"""One oven core tacks at most about twice so much steel. Common practice."""
FACE = 5.0
"""Face of a tip in mm over the root of the sheet's thickness in mm. Resistance-welding practice."""
TAB_MM = 0.15
"""Thickness of the strip that tab figures are told for, mm."""
TIP_MM = 2.0
"""Diameter of a one-sided tip for tabs. Common practice."""


class Stuff(Struct, frozen=True, kw_only=True):
    """A metal as it is welded: ohms of a spot between opposed tips while it welds, Ω·m when hot,
    amps over those of steel, shortest and longest pulse in s of thin pieces, a word; `tab_amps`
    where the trade has amps of its own for 0.15 mm.
    """

    ohms: tuple[float, float]
    hot_ohm_m: float
    times_steel: float
    seconds: tuple[float, float]
    words: str
    refused: str = ""
    tab_amps: tuple[float, float] | None = None


STUFF = {
    "steel": Stuff(
        ohms=(1e-4, 3e-4),
        hot_ohm_m=5e-7,
        times_steel=1.0,
        seconds=(0.1, 1.0),
        words="low-carbon steel; zinc on it fumes and spits",
    ),
    "stainless": Stuff(
        ohms=(2e-4, 6e-4),
        hot_ohm_m=1.1e-6,
        times_steel=0.7,
        seconds=(0.05, 0.5),
        words="stainless is easy: its own ohms make the heat",
    ),
    "nickel": Stuff(
        ohms=(1e-4, 5e-4),
        hot_ohm_m=3e-7,
        times_steel=0.45,
        seconds=(0.003, 0.02),
        words="nickel strip on cells: milliseconds, or the cell's can is holed",
        tab_amps=(600.0, 1200.0),
    ),
    "copper": Stuff(
        ohms=(2e-5, 8e-5),
        hot_ohm_m=8e-8,
        times_steel=3.0,
        seconds=(0.01, 0.1),
        words="copper carries the heat away as fast as it is made",
        refused=(
            "Copper to copper is not for a rewound transformer: it wants some 20 kA, or tips of "
            "tungsten and a slot in the strip. Solder it, or crimp it."
        ),
    ),
    "aluminium": Stuff(
        ohms=(3e-5, 1e-4),
        hot_ohm_m=1e-7,
        times_steel=2.8,
        seconds=(0.05, 0.2),
        words="aluminium's skin of oxide holds until it bursts",
        refused=(
            "Aluminium wants two and a half times the amps of steel in a tenth of a second and "
            "tips redressed every few spots: not with a rewound transformer."
        ),
    ),
}
"""Metals to weld. Ohms of a spot: 50 µΩ to 2 mΩ, sheet 0.1 to 0.3 mΩ, common practice; nickel tab
0.10 to 0.15 mm: 600 to 1200 A for 3 to 20 ms, common practice; the rest from memory."""


class Job(Struct, frozen=True, kw_only=True):
    """A weld: what it is, ohms with the sheets under the tips, amps, seconds, joules in the weld,
    face of the tips in mm, force in N, A/mm² in the face; whether a foot can time it and what can;
    why it is refused, where it is.
    """

    metal: str
    thickness_mm: float
    tips: str
    ohms: Quantity
    amps: Quantity
    seconds: Quantity
    joules: Quantity
    face_mm: float
    newtons: Quantity
    foot: bool
    timer: str
    refused: str

    @property
    def a_per_mm2(self) -> float:
        """Amps over the face of one tip. Geometry."""
        return self.amps.value / area_mm2(self.face_mm)


def job(metal: str, thickness_mm: float, tips: str = OPPOSED, spacing_mm: float = 8.0) -> Job:
    """What a weld of two sheets asks for. Opposed tips squeeze both sheets; one-sided tips send the
    current down, across and up, and a part of it through the top sheet alone: ρ·s/(t·(s + d)).
    mm to Ω, A, s, J, N. Resistance-welding tables and common practice, see each constant.

    Raises FieldError where the metal is none of the table's or a figure is out of bounds.

    >>> round(job("steel", 0.8).amps.high, -2), job("nickel", 0.15, "one-sided").foot
    (2800.0, False)
    """
    stuff = STUFF.get(metal)
    if stuff is None:
        known = ", ".join(STUFF)
        raise FieldError("metal", f"The metal is one of {known}; {metal!r:.40} was given.")
    if tips not in TIPS:
        raise FieldError("tips", f"Tips are {' or '.join(TIPS)}; {tips!r:.40} was given.")
    within("thickness_mm", thickness_mm, above=0, at_most=10, unit="mm")
    within("spacing_mm", spacing_mm, above=0, at_most=200, unit="mm")
    proper = STEEL_AMPS * (thickness_mm / STEEL_MM) ** STEEL_POWER * stuff.times_steel
    amps = _amps(stuff, thickness_mm, proper)
    low, high = stuff.ohms
    if tips == ONE_SIDED:
        across = stuff.hot_ohm_m * spacing_mm / (thickness_mm * 1e-3 * (spacing_mm + TIP_MM))
        low, high = 2 * low + 0.3 * across, 2 * high + across
    ohms = _ranged(low, high, "common practice")
    seconds = _ranged(*_seconds(stuff, thickness_mm), "common practice")
    joules = _ranged(
        amps.low**2 * ohms.low * seconds.low, amps.high**2 * ohms.low * seconds.high, "I²·R·t"
    )
    face = FACE * math.sqrt(thickness_mm) if tips == OPPOSED else TIP_MM
    force = STEEL_NEWTONS * thickness_mm
    thick = thickness_mm > THICKEST_TACK_MM
    foot = seconds.high >= FOOT_SECONDS
    return Job(
        metal=metal,
        thickness_mm=thickness_mm,
        tips=tips,
        ohms=ohms,
        amps=amps,
        seconds=seconds,
        joules=joules,
        face_mm=face,
        newtons=_ranged(0.1 * force, force, "tables; a tack does with a tenth"),
        foot=foot,
        timer=_timer(seconds, foot=foot),
        refused=stuff.refused or (_too_thick(thickness_mm, proper) if thick else ""),
    )


def _amps(stuff: Stuff, thickness_mm: float, proper: float) -> Quantity:
    """A tack's: of the tables', or the trade's own for tabs, by the root of their thickness."""
    if stuff.tab_amps is None:
        low, high = (share * proper for share in TACK)
        return _ranged(low, high, "a tack: a tenth to a third of the tables")
    k = math.sqrt(thickness_mm / TAB_MM)
    return _ranged(k * stuff.tab_amps[0], k * stuff.tab_amps[1], "common practice for tabs")


def _seconds(stuff: Stuff, thickness_mm: float) -> tuple[float, float]:
    """Shortest and longest pulse: thicker sheet bears longer ones."""
    longer = max(1.0, thickness_mm / TAB_MM)
    return stuff.seconds[0], stuff.seconds[1] * min(longer, 4.0)


def _timer(seconds: Quantity, *, foot: bool) -> str:
    """What can time such a pulse."""
    if foot:
        return "a foot switch of its rating; no pulse of a foot is shorter than 0.2 s"
    return (
        f"no foot: it gives {FOOT_SECONDS:g} s at least, and this wants {1e3 * seconds.low:.0f} to "
        f"{1e3 * seconds.high:.0f} ms. A timer of half cycles that switches at the zero crossing "
        "ahead of the primary, or a capacitor-discharge welder"
    )


def _too_thick(thickness_mm: float, proper: float) -> str:
    return (
        f"Twice {thickness_mm:g} mm wants about {proper / 1e3:.0f} kA for a proper spot; a rewound "
        f"oven core tacks at most twice {THICKEST_TACK_MM:g} mm of steel with long pulses."
    )


def _ranged(low: float, high: float, basis: str) -> Quantity:
    return Quantity(math.sqrt(low * high), low, high, (basis,))


CELLS = (
    "Into a charged cell, above all lithium, a shot is heat where it bears none: a holed can, or "
    "fire. Never on a pack in circuit, one cell at a time, discharged to storage, sand and a "
    "metal box at hand, eyes covered."
)
"""Said at every job on cells. Common practice; local codes and the maker's word stand above it."""
