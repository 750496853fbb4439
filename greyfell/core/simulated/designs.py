"""Plausible pieces to put on a simulated bench: designed from core section, flux, turns, wire and
leakage.

Used for demo data, evaluation and, later, the practice bench. Figures are drawn from the ranges of
M-T1, M-T2, M-T4 and M-T6 of docs/references.md (common practice there) and from design habit;
nothing here is a real product.
"""

import math
from collections.abc import Callable, Iterator

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from greyfell.core.figures.constants import COPPER_OHM_M, FLUX_FACTOR, MU0, STEEL_KG_M3
from greyfell.core.figures.mains import half_volts, high_region
from greyfell.core.truth.loaded import shorted_reactance
from greyfell.core.truth.piece import ORIENTED, Damage, Iron, Joined, Piece, Wound

Rng = np.random.Generator


class Region(Struct, frozen=True):
    """The mains a piece was made for."""

    volts: float
    hertz: float


EUROPE, AMERICA = Region(230.0, 50.0), Region(120.0, 60.0)


def _letters(n: int, start: int = 0) -> list[str]:
    return [chr(ord("A") + start + i) for i in range(n)]


def _u(rng: Rng, low: float, high: float) -> float:
    return float(rng.uniform(low, high))


def _about(rng: Rng, median: float, sd: float, cut: float = 2.5) -> float:
    """A log-normal draw, cut off at so many standard deviations: designs have limits."""
    return median * math.exp(sd * min(cut, max(-cut, float(rng.normal()))))


def shell(rng: Rng, tongue_mm: float, stack_mm: float, *, steel: float, gap_mm: float) -> Iron:
    """A shell core from scrapless laminations: REF-M-13 and M-20."""
    area = tongue_mm * stack_mm * 1e-6 * _u(rng, 0.93, 0.97)
    path = 6 * tongue_mm * 1e-3 * _u(rng, 0.98, 1.15)
    mass = STEEL_KG_M3 * area * path * _u(rng, 1.02, 1.12)
    return Iron(
        shape="shell",
        area_m2=area,
        path_m=path,
        gap_m=gap_mm * 1e-3,
        mass_kg=mass,
        loss_w_per_kg=steel,
        mu_initial=_u(rng, 700, 1700),
        softness=_u(rng, 0.75, 1.35),
    )


def wire_for(ohms: float, turns: float, mean_turn_m: float) -> float:
    """Bare diameter in mm that gives these ohms. REF-W-02.

    >>> round(wire_for(23.5, 1000.0, 0.17), 2)
    0.4
    """
    return 1e3 * math.sqrt(COPPER_OHM_M * turns * mean_turn_m / ohms * 4 / math.pi)


class _Bobbin(Struct):
    """A piece being wound: its primary's turns, mean turn and ohms, and the letters still free."""

    turns: int
    mean_turn_m: float
    ohms: float
    names: Iterator[str]

    def ends(self) -> tuple[tuple[str, float], tuple[str, float]]:
        """Two leads, at both ends of a winding."""
        return (next(self.names), 0.0), (next(self.names), 1.0)

    def like(self, turns: float, copper: float) -> float:
        """Ohms of a winding of so many turns with so many times the primary's share of copper.
        REF-W-02.
        """
        return self.ohms * (turns / self.turns) ** 2 * copper

    def primary(self, *, role: str = "primary") -> Wound:
        """The primary, end to end."""
        return Wound(
            name="primary",
            role=role,
            leads=self.ends(),
            turns=self.turns,
            wire_mm=wire_for(self.ohms, self.turns, self.mean_turn_m),
            mean_turn_m=self.mean_turn_m,
        )


def _turns_for(volts: float, region: Region, tesla: float, iron: Iron) -> int:
    """Turns that give a flux density on so many volts. REF-M-01."""
    return round(volts / (FLUX_FACTOR * region.hertz * tesla * iron.area_m2))


MOST_OVEN_OHMS, MOST_SIGN_OHMS = 225.0, 40e3
"""HV windings have no thinner wire than this gives: M-T4, and some 30 kΩ at most, common
practice."""


def oven(
    rng: Rng,
    region: Region = EUROPE,
    *,
    heater: bool = True,
    bonded: bool = True,
    shunts: bool = True,
) -> Piece:
    """An oven transformer: welded shell, hot flux, HV winding bonded at one end, heater of a few
    turns. Cheap sheet shorted by the weld takes twice what loose laminations do. M-T1, M-T4.
    """
    tongue, stack = _u(rng, 34, 44), _u(rng, 46, 72)
    iron = shell(rng, tongue, stack, steel=_u(rng, 7.0, 9.5), gap_mm=_u(rng, 0.03, 0.12))
    turns = _turns_for(region.volts, region, _u(rng, 1.50, 1.75), iron)
    mlt = 2 * (tongue + stack) * 1e-3 + _u(rng, 0.06, 0.09)
    ohms = _about(rng, 3.3e-5, 0.24, 1.7) * region.volts**2
    bobbin = _Bobbin(turns, mlt, ohms, iter(_letters(8)))
    coupling = _u(rng, 0.94, 0.985) if shunts else _u(rng, 0.972, 0.993)
    hv_turns = round(turns * _about(rng, 2080, 0.08) / region.volts / coupling)
    hv_ohms = min(MOST_OVEN_OHMS, bobbin.like(hv_turns, _about(rng, 0.78, 0.18, 1.7)))
    windings = [bobbin.primary()]
    if heater:
        windings.append(_heater(rng, region, bobbin))
    other = ("core", 0.0) if bonded else (next(bobbin.names), 0.0)
    leads = (other, (next(bobbin.names), 1.0))
    windings.append(_high(bobbin, leads, hv_turns, hv_ohms, stray=_u(rng, 1e-10, 3e-10)))
    return Piece(
        family="microwave",
        subtype="oven",
        iron=iron,
        windings=tuple(windings),
        rated_volts=region.volts,
        rated_hertz=region.hertz,
        coupling=coupling,
        leakage_ohms=2e-6 * region.volts**2,
    )


def _heater(rng: Rng, region: Region, bobbin: _Bobbin) -> Wound:
    """The few turns of a magnetron's heater, before or behind the shunts."""
    turns = max(2, round(_u(rng, 3.05, 3.55) * bobbin.turns / region.volts))
    ohms = bobbin.like(turns, _about(rng, 21, 0.33))
    longer = 1.15 * bobbin.mean_turn_m
    return Wound(
        name="heater",
        role="filament",
        leads=bobbin.ends(),
        turns=turns,
        wire_mm=wire_for(ohms, turns, longer),
        mean_turn_m=longer,
        shunted=bool(rng.random() < 0.6),
    )


def _high(
    bobbin: _Bobbin,
    leads: tuple[tuple[str, float], ...],
    turns: int,
    ohms: float,
    *,
    stray: float,
    growth: float = 0.06,
) -> Wound:
    """A high-voltage winding behind the shunts."""
    return Wound(
        name="hv",
        role="hv-secondary",
        leads=leads,
        turns=turns,
        wire_mm=wire_for(ohms, turns, bobbin.mean_turn_m),
        mean_turn_m=bobbin.mean_turn_m,
        growth=growth,
        shunted=True,
        stray_farads=stray,
    )


SIGN_VOLTS = (4000, 5000, 6000, 8000, 9000, 10000, 12000, 15000)
"""Open-circuit volts that sign transformers' plates carry. M-T6, common practice."""
SIGN_AMPS = (0.018, 0.020, 0.025, 0.030, 0.040, 0.060)
"""Amps into a short that they carry. M-T6, common practice."""
SIGN_VA = (80.0, 950.0)
"""Volts times amps of what is made. Common practice."""
SIGN_COUPLING = (0.86, 0.985)
"""Shunts take no more, and no less, of the flux. From memory."""


def sign(rng: Rng, region: Region = EUROPE, *, middle: bool = True) -> Piece:
    """A sign transformer: leakage type, HV winding bonded at its middle (or at one end); its shunts
    let pass the amps that its plate says. M-T6.
    """
    plated = float(rng.choice(SIGN_VOLTS)) * (1 if middle else 0.5)
    amps = float(rng.choice([x for x in SIGN_AMPS if SIGN_VA[0] <= plated * x <= SIGN_VA[1]]))
    iron = _sign_iron(rng, plated * amps)
    turns = _turns_for(region.volts, region, _u(rng, 1.05, 1.45), iron)
    side = 1e3 * math.sqrt(iron.area_m2 / 0.95)
    mlt = 4 * side * 1e-3 + _u(rng, 0.06, 0.1)
    usual = 7e-5 * (300 / (plated * amps)) ** 0.9 * region.volts**2
    bobbin = _Bobbin(turns, mlt, _about(rng, usual, 0.4), iter(_letters(4)))
    open_volts = plated * _u(rng, 0.95, 1.05)
    copper, growth, stray = _about(rng, 0.95, 0.2), _u(rng, -0.03, 0.03), _u(rng, 1e-10, 4e-10)
    leads = (("C", 0.0), ("core", 0.5), ("D", 1.0)) if middle else (("core", 0.0), ("C", 1.0))
    primary = bobbin.primary()

    def wound(coupling: float) -> Piece:
        hv_turns = round(turns * open_volts / region.volts / coupling)
        hv_ohms = min(MOST_SIGN_OHMS, bobbin.like(hv_turns, copper))
        hv = _high(bobbin, leads, hv_turns, hv_ohms, stray=stray, growth=growth)
        return Piece(
            family="sign",
            subtype="sign",
            iron=iron,
            windings=(primary, hv),
            rated_volts=region.volts,
            rated_hertz=region.hertz,
            coupling=coupling,
            leakage_ohms=4e-6 * region.volts**2,
        )

    return _passing(wound, amps)


def _sign_iron(rng: Rng, va: float) -> Iron:
    """Core of a sign transformer of so many volt-amperes: REF-M-04 for leakage iron, which is
    smaller. Common practice.
    """
    side = math.sqrt(0.86 * math.sqrt(va) * _u(rng, 0.92, 1.15) * 100)
    iron = shell(rng, side, side, steel=_u(rng, 3.5, 6.5), gap_mm=_u(rng, 0.05, 0.2))
    iron = replace(iron, shape="core", path_m=_u(rng, 8.5, 11.0) * side * 1e-3)
    return replace(iron, mass_kg=STEEL_KG_M3 * iron.area_m2 * iron.path_m * 1.15)


def _passing(wound: Callable[[float], Piece], amps: float) -> Piece:
    """The piece wound with the coupling that lets so many amps into a short of its HV winding:
    leakage X of Z = V over the amps, and X = (1 − k²) of what magnetises. REF-T-02, T-17.
    """
    coupling = 0.93
    for _ in range(4):
        piece = wound(coupling)
        first, high = piece.winding("primary"), piece.winding("hv")
        ratio = high.turns / first.turns
        copper = first.ohms + high.ohms / ratio**2
        impedance = piece.rated_volts / (amps * ratio)
        reach = math.sqrt(max(0.0, impedance**2 - copper**2)) - piece.leakage_ohms
        share = reach / shorted_reactance(piece, first.turns, piece.rated_hertz)
        least, most = SIGN_COUPLING
        coupling = min(most, max(least, math.sqrt(max(0.0, 1 - share))))
    return wound(coupling)


class DesignedOutput(Struct, frozen=True):
    """A wanted secondary: role, open-circuit volts, share of copper relative to the primary's,
    centre tap.
    """

    role: str
    volts: float
    copper: float
    centre_tap: bool = False


def mains(
    rng: Rng,
    region: Region,
    va: float,
    outputs: list[DesignedOutput],
    *,
    halves: bool = False,
    toroid: bool = False,
    taps: tuple[float, ...] = (),
    subtype: str = "lv",
) -> Piece:
    """A mains transformer of so many VA: REF-M-04 for the section, regulation falling with size."""
    tongue, stack, iron = _mains_iron(rng, va, toroid)
    tesla = _u(rng, 1.3, 1.5) if toroid else _u(rng, 1.05, 1.38)
    unit = half_volts(region.volts) if halves else region.volts
    turns = _turns_for(unit, region, tesla, iron)
    mlt = 2 * (tongue + stack) * 1e-3 + _u(rng, 0.02, 0.05)
    ohms = _copper_of(rng, va) * unit**2 * (2.0 if halves else 1.0)
    bobbin = _Bobbin(turns, mlt, ohms, iter(_letters(26)))
    windings = [_tapped(bobbin, taps) if taps else bobbin.primary(role=_first_role(halves))]
    if halves:
        windings.append(_second_half(rng, bobbin, windings[0]))
    given = sum(1 / out.copper for out in outputs)
    windings += [
        replace(_output(rng, bobbin, out, unit, n), rated_amps=va / out.copper / given / out.volts)
        for n, out in enumerate(outputs, 1)
    ]
    return Piece(
        family="mains",
        subtype=subtype,
        iron=iron,
        windings=tuple(windings),
        rated_volts=unit,
        rated_hertz=region.hertz,
        leakage_ohms=0.02 * unit**2 / va,
        rated_va=va,
    )


def _mains_iron(rng: Rng, va: float, toroid: bool) -> tuple[float, float, Iron]:
    """Tongue and stack in mm, and the core of so many VA. REF-M-04."""
    area_cm2 = 1.15 * math.sqrt(va) * _u(rng, 0.92, 1.12) * (0.8 if toroid else 1.0)
    tongue = math.sqrt(area_cm2 * 100 / _u(rng, 1.0, 1.4))
    stack = area_cm2 * 100 / tongue
    steel = _u(rng, 0.8, 1.4) if toroid else _u(rng, 3.5, 6.5)
    gap_mm = 0.0 if toroid else _u(rng, 0.01, 0.05)
    iron = shell(rng, tongue, stack, steel=steel, gap_mm=gap_mm)
    if toroid:
        soft = _u(rng, 0.7, 1.1)
        mu = _u(rng, 2500, 6000)
        iron = replace(iron, shape="toroid", mu_initial=mu, softness=soft, steel=ORIENTED)
    return tongue, stack, iron


def _copper_of(rng: Rng, va: float) -> float:
    """R/V² of the primary of so many VA: regulation falls with size. REF-M-05 with M-T3."""
    usual = math.exp(math.log(0.0305) - 1.05 * math.log(va) + rng.normal(0, 0.3))
    return usual * (1.0 if va > 60 else (60 / va) ** 0.45)


def _first_role(halves: bool) -> str:
    return "primary-half" if halves else "primary"


def _tapped(bobbin: _Bobbin, taps: tuple[float, ...]) -> Wound:
    """A primary with taps at shares of its turns; the mains goes on the last of them."""
    total = bobbin.turns / taps[-1] if taps[-1] < 1 else bobbin.turns
    inner = tuple((next(bobbin.names), f) for f in (0.0, *(t for t in taps if t < 1)))
    return replace(bobbin.primary(), leads=(*inner, (next(bobbin.names), 1.0)), turns=total)


def _second_half(rng: Rng, bobbin: _Bobbin, first: Wound) -> Wound:
    """The other of two like primaries, wound over the first."""
    longer = bobbin.mean_turn_m * _u(rng, 1.03, 1.12)
    return replace(first, name="half", leads=bobbin.ends(), mean_turn_m=longer)


def _output(rng: Rng, bobbin: _Bobbin, out: DesignedOutput, unit: float, n: int) -> Wound:
    """One secondary, over the primary."""
    turns = max(1, round(out.volts * bobbin.turns / unit))
    ohms = bobbin.like(turns, out.copper * math.exp(rng.normal(0, 0.25)))
    shares = (0.0, 0.5, 1.0) if out.centre_tap else (0.0, 1.0)
    longer = 1.2 * bobbin.mean_turn_m
    return Wound(
        name=f"s{n}",
        role=out.role,
        leads=tuple((next(bobbin.names), f) for f in shares),
        turns=turns,
        wire_mm=wire_for(ohms, turns, longer),
        mean_turn_m=longer,
        growth=_u(rng, 0.02, 0.1),
    )


def low_voltage(rng: Rng, region: Region = EUROPE) -> Piece:
    """A mains transformer with one to three low-voltage secondaries, some tapped, some toroids,
    some tapped primaries.
    """
    n = int(rng.choice([1, 2, 3], p=[0.55, 0.33, 0.12]))
    va = math.exp(_u(rng, math.log(2.5), math.log(600)))
    twin = rng.random() < 0.5
    volts = [
        float(rng.choice([6, 9, 12, 15, 18, 24, 30, 36, 48])) * _u(rng, 1.02, 1.2) for _ in range(n)
    ]
    volts = [volts[0]] * n if twin else volts
    uneven = (
        n > 1 and not twin and rng.random() < 0.3
    )  # a main winding beside auxiliary ones of thin wire
    shares = np.exp(rng.normal(0, 0.8, n)) if uneven else np.ones(n)
    outputs = [
        DesignedOutput(
            "lv-secondary", v, 1.25 * float(shares.sum() / s), bool(n == 1 and rng.random() < 0.35)
        )
        for v, s in zip(volts, shares, strict=True)
    ]
    taps = (0.9167,) if high_region(region.volts) and rng.random() < 0.1 else ()
    toroid = bool(rng.random() < 0.18) and not taps
    return mains(rng, region, va, outputs, toroid=toroid, taps=taps, subtype="lv")


def valve(rng: Rng, region: Region = EUROPE) -> Piece:
    """A valve set's transformer: HV with centre tap, one to three heaters, sometimes a bias
    winding.
    """
    va = math.exp(_u(rng, math.log(35), math.log(220)))
    outputs = [DesignedOutput("hv-secondary", _u(rng, 420, 950), 1.5, bool(rng.random() < 0.85))]
    heaters = int(rng.choice([1, 2, 3], p=[0.35, 0.45, 0.2]))
    shares = np.exp(
        rng.normal(0, 0.35, heaters)
    )  # heaters share the copper by what they feed, not evenly
    for n in range(heaters):
        volts = (6.3 if n != 1 else float(rng.choice([5.0, 6.3]))) * _u(rng, 1.03, 1.13)
        outputs.append(
            DesignedOutput(
                "filament", volts, 4.5 * float(shares.sum() / shares[n]), bool(rng.random() < 0.2)
            )
        )
    if rng.random() < 0.2:
        outputs.append(DesignedOutput("bias", _u(rng, 35, 85), _about(rng, 70.0, 0.4)))
    return mains(rng, region, va, outputs, subtype="valve")


def isolating(rng: Rng, region: Region = EUROPE) -> Piece:
    """One to one, near enough."""
    va = math.exp(_u(rng, math.log(30), math.log(600)))
    return mains(
        rng,
        region,
        va,
        [DesignedOutput("lv-secondary", region.volts * _u(rng, 1.03, 1.12), 1.15)],
        subtype="isolating",
    )


def stepping(rng: Rng, region: Region = EUROPE) -> Piece:
    """From one mains voltage to the other."""
    other = 120.0 if high_region(region.volts) else 230.0
    va = math.exp(_u(rng, math.log(50), math.log(800)))
    return mains(
        rng,
        region,
        va,
        [DesignedOutput("lv-secondary", other * _u(rng, 1.03, 1.1), 1.2)],
        subtype="step",
    )


def dual(rng: Rng, region: Region = EUROPE) -> Piece:
    """Two equal primary halves and one or two low-voltage secondaries."""
    n = int(rng.choice([1, 2]))
    volts = float(rng.choice([9, 12, 15, 18, 24])) * _u(rng, 1.03, 1.15)
    va = math.exp(_u(rng, math.log(12), math.log(300)))
    return mains(
        rng,
        region,
        va,
        [DesignedOutput("lv-secondary", volts, 0.62 * n)] * n,
        halves=True,
        subtype="dual",
    )


def choke(rng: Rng, region: Region = EUROPE) -> Piece:
    """A lamp ballast: one winding on a gapped core."""
    tongue, stack = _u(rng, 15, 32), _u(rng, 18, 60)
    iron = shell(rng, tongue, stack, steel=5.0, gap_mm=_u(rng, 0.5, 1.6))
    amps = _u(rng, 0.35, 4.0)
    ohms_ac = region.volts * _u(rng, 0.6, 0.95) / amps
    henries = ohms_ac / (2 * math.pi * region.hertz)
    reach = MU0 * iron.area_m2 / (iron.gap_m + iron.path_m / 3000)
    turns = round(math.sqrt(henries / reach))
    mlt = 2 * (tongue + stack) * 1e-3 + 0.03
    ohms = ohms_ac * _u(rng, 0.03, 0.08)
    wound = Wound(
        name="primary",
        role="choke",
        leads=(("A", 0.0), ("B", 1.0)),
        turns=turns,
        wire_mm=wire_for(ohms, turns, mlt),
        mean_turn_m=mlt,
    )
    return Piece(
        family="choke",
        subtype="choke",
        iron=iron,
        windings=(wound,),
        rated_volts=region.volts,
        rated_hertz=region.hertz,
    )


def variable(rng: Rng, region: Region = EUROPE) -> Piece:
    """A variable autotransformer: one bare ring winding, an input tap, a brush."""
    amps = math.exp(_u(rng, math.log(1.2), math.log(16.0)))
    area = 0.65e-4 * math.sqrt(amps * region.volts) * _u(rng, 0.85, 1.2)
    path = 7.6 * math.sqrt(area) * _u(rng, 0.9, 1.15)
    iron = Iron(
        shape="toroid",
        area_m2=area,
        path_m=path,
        gap_m=0.0,
        mass_kg=1.3 * STEEL_KG_M3 * area * path,
        loss_w_per_kg=1.6,
        mu_initial=_u(rng, 2500, 6000),
        softness=_u(rng, 0.8, 1.3),
        steel=ORIENTED,
    )
    ends = region.volts / 0.8846
    turns = round(ends / (FLUX_FACTOR * region.hertz * _u(rng, 1.0, 1.3) * area))
    mlt = 4 * math.sqrt(area) + 0.04
    wire = math.sqrt(4 / math.pi * amps / _u(rng, 2.8, 4.5))
    leads = (("A", 0.0), ("B", round(_u(rng, 0.2, 0.8), 3)), ("C", 0.8846), ("D", 1.0))
    wound = Wound(
        name="primary",
        role="primary",
        leads=leads,
        turns=turns,
        wire_mm=wire,
        mean_turn_m=mlt,
        growth=0.0,
    )
    return Piece(
        family="variable",
        subtype="variable",
        iron=iron,
        windings=(wound,),
        rated_volts=ends,
        rated_hertz=region.hertz,
    )


CONTROL_VOLTS = {50.0: (380.0, 400.0, 415.0, 440.0), 60.0: (208.0, 240.0, 277.0, 480.0)}
"""What control transformers are fed with, by hertz. Common practice."""
CONTROL_OUTPUTS = (24.0, 110.0, 120.0, 230.0)
"""What they put out. Common practice."""


def control(rng: Rng, region: Region = EUROPE) -> Piece:
    """A control transformer out of a cabinet: fed between two lines, or from 277 V."""
    lines = Region(float(rng.choice(CONTROL_VOLTS[region.hertz])), region.hertz)
    va = math.exp(_u(rng, math.log(40), math.log(1000)))
    volts = float(rng.choice(CONTROL_OUTPUTS)) * _u(rng, 1.02, 1.1)
    return mains(rng, lines, va, [DesignedOutput("lv-secondary", volts, 1.2)], subtype="control")


def extra_low(rng: Rng, region: Region = EUROPE) -> Piece:
    """Fed from 24 V: signal and bell circuits, and step-up parts of old inverters."""
    line = Region(24.0, region.hertz)
    va = math.exp(_u(rng, math.log(8), math.log(150)))
    volts = float(rng.choice((6.0, 8.0, 12.0, region.volts))) * _u(rng, 1.03, 1.15)
    return mains(rng, line, va, [DesignedOutput("lv-secondary", volts, 1.2)], subtype="extra-low")


BONDED = ("oven", "sign")
"""Makers of pieces whose HV winding meets the iron."""
MAKERS: dict[str, Callable[..., Piece]] = {
    "oven": oven,
    "sign": sign,
    "lv": low_voltage,
    "valve": valve,
    "isolating": isolating,
    "step": stepping,
    "dual": dual,
    "choke": choke,
    "variable": variable,
    "control": control,
    "extra-low": extra_low,
}
OWN_MAINS = ("control", "extra-low")
"""Kinds that are fed from other mains than the region's."""


SISTERS = {"mu_initial": 0.05, "loss_w_per_kg": 0.04, "gap_m": 0.08, "softness": 0.04}
"""Spread of the logarithm of what differs in the iron of two pieces of one make and batch. From
memory."""
SISTER_WIRE = 0.004
"""And of their wire's diameter: drawing and tension. Common practice."""


def sister(piece: Piece, rng: Rng) -> Piece:
    """Another piece of the same make: the same turns, other sheet, joints and wire within a batch's
    spread.
    """
    changed = {
        name: getattr(piece.iron, name) * math.exp(rng.normal(0, sd))
        for name, sd in SISTERS.items()
    }
    windings = tuple(
        replace(w, wire_mm=w.wire_mm * math.exp(rng.normal(0, SISTER_WIRE))) for w in piece.windings
    )
    return replace(piece, iron=replace(piece.iron, **changed), windings=windings)


def damaged(piece: Piece, rng: Rng, kind: str) -> Piece:
    """The same piece with one fault of a kind: open, half-open, link, shorted-turns, to-core,
    between or leak.
    """
    others = [w for w in piece.windings if w.name != "primary"]
    if kind == "between" and not others:
        return damaged(piece, rng, "to-core")
    return replace(piece, damage=(DAMAGES[kind](piece, rng),))


def _any_of(rng: Rng, windings: list[Wound]) -> Wound:
    return windings[int(rng.integers(len(windings)))]


def _clear_of_core(piece: Piece) -> list[Wound]:
    return [w for w in piece.windings if not any(lead == "core" for lead, _ in w.leads)]


def _open(piece: Piece, rng: Rng) -> Damage:
    plain = [w for w in piece.windings if len(w.leads) == 2] or list(piece.windings)
    return Damage(kind="open", winding=_any_of(rng, plain).name, place=0.4)


def _link(piece: Piece, _rng: Rng) -> Damage:
    """A one-shot thermal link under the first tape of the primary, blown."""
    return Damage(kind="open", winding=piece.primary, place=0.995)


def _half_open(piece: Piece, rng: Rng) -> Damage:
    """One half of a tapped winding, broken; of an HV winding where there is one."""
    tapped = [w for w in piece.windings if len(w.leads) > 2]
    if not tapped:
        return _open(piece, rng)
    most = max(tapped, key=lambda w: w.turns)
    return Damage(kind="open", winding=most.name, place=0.5 * most.leads[1][1])


def _to_core(piece: Piece, rng: Rng) -> Damage:
    return Damage(
        kind="to-core",
        winding=_any_of(rng, _clear_of_core(piece)).name,
        place=float(rng.choice([0.03, 0.3, 0.6, 0.97])),
        ohms=float(rng.choice([0.0, 0.3, 1.5, 8.0])),
    )


def _leak(piece: Piece, rng: Rng) -> Damage:
    return Damage(
        kind="leak",
        winding=_any_of(rng, _clear_of_core(piece)).name,
        place=_u(rng, 0, 1),
        ohms=math.exp(_u(rng, math.log(8e4), math.log(1.5e6))),
    )


def _shorted_turns(piece: Piece, _rng: Rng) -> Damage:
    most = max(piece.windings, key=lambda w: w.turns)
    turns = max(1.0, 0.01 * most.turns)
    return Damage(kind="shorted-turns", winding=most.name, place=0.2, turns=turns)


def _between(piece: Piece, rng: Rng) -> Damage:
    others = [w for w in piece.windings if w.name != "primary"]
    return Damage(
        kind="between",
        winding="primary",
        other=_any_of(rng, others).name,
        place=_u(rng, 0.1, 0.9),
        other_place=_u(rng, 0.1, 0.9),
        ohms=_u(rng, 0, 3),
    )


def with_capacitor(piece: Piece, rng: Rng) -> Piece:
    """An oven's capacitor still on its HV winding, with its bleeder. R-T3, common practice."""
    high = next(w for w in piece.windings if w.role == "hv-secondary")
    lead = next(x for x, _ in high.leads if x != "core")
    across = (lead, "core")
    left = Joined(between=across, farads=_u(rng, 0.7e-6, 1.2e-6), ohms=_u(rng, 9e6, 12e6))
    return replace(piece, attached=(*piece.attached, left))


def with_filter(piece: Piece, rng: Rng) -> Piece:
    """A mains filter still on the primary: its capacitor with a bleeder. Common practice."""
    primary = piece.winding(piece.primary)
    ends = (primary.leads[0][0], primary.leads[-1][0])
    left = Joined(between=ends, farads=_u(rng, 0.1e-6, 1e-6), ohms=_u(rng, 1e5, 1e6))
    return replace(piece, attached=(*piece.attached, left))


DAMAGES: dict[str, Callable[[Piece, Rng], Damage]] = {
    "open": _open,
    "half-open": _half_open,
    "link": _link,
    "to-core": _to_core,
    "leak": _leak,
    "shorted-turns": _shorted_turns,
    "between": _between,
}
"""Every kind of damage with what makes it."""
