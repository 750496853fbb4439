"""Plausible pieces to put on a simulated bench: designed from core section, flux, turns, wire and
leakage.

Used for demo data, evaluation and, later, the practice bench. Figures are drawn from the ranges of
M-T1, M-T2, M-T4 and M-T6 of docs/references.md (common practice there) and from design habit;
nothing here is a real product.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from greyfell.core.figures.constants import FLUX_FACTOR
from greyfell.core.figures.mains import high_region
from greyfell.core.forward.piece import Damage, Iron, Piece, Wound

Rng = np.random.Generator


@dataclass(frozen=True)
class Region:
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
    mass = 7650 * area * path * _u(rng, 1.02, 1.12)
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
    """Bare diameter in mm that gives these ohms."""
    return math.sqrt(turns * mean_turn_m / 58.0 / ohms * 4 / math.pi)


def oven(
    rng: Rng,
    region: Region = EUROPE,
    *,
    heater: bool = True,
    bonded: bool = True,
    shunts: bool = True,
) -> Piece:
    """An oven transformer: welded shell, hot flux, HV winding bonded at one end, heater of a few
    turns.
    """
    tongue, stack = _u(rng, 34, 44), _u(rng, 46, 72)
    iron = shell(rng, tongue, stack, steel=_u(rng, 3.8, 6.5), gap_mm=_u(rng, 0.03, 0.12))
    tesla = _u(rng, 1.50, 1.75)
    turns = round(region.volts / (FLUX_FACTOR * region.hertz * tesla * iron.area_m2))
    mlt = 2 * (tongue + stack) * 1e-3 + _u(rng, 0.06, 0.09)
    a = _about(rng, 3.3e-5, 0.24, 1.7)
    coupling = _u(rng, 0.94, 0.985) if shunts else _u(rng, 0.972, 0.993)
    hv_volts = _about(rng, 2080, 0.08)
    hv_turns = round(turns * hv_volts / region.volts / coupling)
    primary_ohms = a * region.volts**2
    hv_ohms = min(
        225.0, primary_ohms * (hv_turns / turns) ** 2 * _about(rng, 0.78, 0.18, 1.7)
    )  # REF-M-T4: no thinner wire
    names = iter(_letters(8))
    windings = [
        Wound(
            name="primary",
            role="primary",
            leads=((next(names), 0.0), (next(names), 1.0)),
            turns=turns,
            wire_mm=wire_for(primary_ohms, turns, mlt),
            mean_turn_m=mlt,
        )
    ]
    if heater:
        count = max(2, round(_u(rng, 3.05, 3.55) * turns / region.volts))
        ohms = primary_ohms * (count / turns) ** 2 * _about(rng, 21, 0.33)
        windings.append(
            Wound(
                name="heater",
                role="filament",
                leads=((next(names), 0.0), (next(names), 1.0)),
                turns=count,
                wire_mm=wire_for(ohms, count, 1.15 * mlt),
                mean_turn_m=1.15 * mlt,
                shunted=bool(rng.random() < 0.6),
            )
        )
    other = ("core", 0.0) if bonded else (next(names), 0.0)
    windings.append(
        Wound(
            name="hv",
            role="hv-secondary",
            leads=(other, (next(names), 1.0)),
            turns=hv_turns,
            wire_mm=wire_for(hv_ohms, hv_turns, mlt),
            mean_turn_m=mlt,
            shunted=True,
            stray_farads=_u(rng, 1e-10, 3e-10),
        )
    )
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


def sign(rng: Rng, region: Region = EUROPE, *, middle: bool = True) -> Piece:
    """A sign transformer: leakage type, HV winding bonded at its middle (or at one end)."""
    tongue, stack = _u(rng, 30, 46), _u(rng, 30, 46)
    iron = replace(
        shell(rng, tongue, stack, steel=_u(rng, 3.5, 6.5), gap_mm=_u(rng, 0.05, 0.2)),
        shape="core",
        path_m=_u(rng, 0.30, 0.46),
    )
    iron = replace(iron, mass_kg=7650 * iron.area_m2 * iron.path_m * 1.15)
    tesla = _u(rng, 1.05, 1.45)
    turns = round(region.volts / (FLUX_FACTOR * region.hertz * tesla * iron.area_m2))
    coupling = _u(rng, 0.89, 0.975)
    hv_volts = (
        float(rng.choice([4000, 5000, 6000, 8000, 9000, 10000, 12000, 15000]))
        * (1 if middle else 0.5)
        * _u(rng, 0.95, 1.05)
    )
    hv_turns = round(turns * hv_volts / region.volts / coupling)
    mlt = 2 * (tongue + stack) * 1e-3 + _u(rng, 0.06, 0.1)
    ohms = _about(rng, 6.5e-5, 0.6) * region.volts**2
    hv_ohms = min(
        40e3, ohms * (hv_turns / turns) ** 2 * _about(rng, 0.95, 0.2)
    )  # no thinner wire: some 30 kΩ at most, common practice
    hv_leads = (("C", 0.0), ("core", 0.5), ("D", 1.0)) if middle else (("core", 0.0), ("C", 1.0))
    hv = Wound(
        name="hv",
        role="hv-secondary",
        leads=hv_leads,
        turns=hv_turns,
        wire_mm=wire_for(hv_ohms, hv_turns, mlt),
        mean_turn_m=mlt,
        growth=_u(rng, -0.03, 0.03),
        shunted=True,
        stray_farads=_u(rng, 1e-10, 4e-10),
    )
    primary = Wound(
        name="primary",
        role="primary",
        leads=(("A", 0.0), ("B", 1.0)),
        turns=turns,
        wire_mm=wire_for(ohms, turns, mlt),
        mean_turn_m=mlt,
    )
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


@dataclass(frozen=True)
class Output:
    """A wanted secondary: role, open-circuit volts, share of copper relative to the primary's q,
    centre tap.
    """

    role: str
    volts: float
    q: float
    centre_tap: bool = False


def mains(
    rng: Rng,
    region: Region,
    va: float,
    outputs: list[Output],
    *,
    halves: bool = False,
    toroid: bool = False,
    taps: tuple[float, ...] = (),
    subtype: str = "lv",
) -> Piece:
    """A mains transformer of so many VA: REF-M-04 for the section, regulation falling with size."""
    area_cm2 = 1.15 * math.sqrt(va) * _u(rng, 0.92, 1.12) * (0.8 if toroid else 1.0)
    tongue = math.sqrt(area_cm2 * 100 / _u(rng, 1.0, 1.4))
    stack = area_cm2 * 100 / tongue
    iron = shell(
        rng,
        tongue,
        stack,
        steel=_u(rng, 1.2, 2.0) if toroid else _u(rng, 3.5, 6.5),
        gap_mm=0.0 if toroid else _u(rng, 0.01, 0.05),
    )
    if toroid:
        iron = replace(iron, shape="toroid", mu_initial=_u(rng, 2500, 6000), softness=0.4)
    tesla = _u(rng, 1.3, 1.5) if toroid else _u(rng, 1.05, 1.38)
    unit = (120.0 if high_region(region.volts) else region.volts) if halves else region.volts
    unit = region.volts / 2 if halves and high_region(region.volts) else unit
    turns = round(unit / (FLUX_FACTOR * region.hertz * tesla * iron.area_m2))
    mlt = 2 * (tongue + stack) * 1e-3 + _u(rng, 0.02, 0.05)
    a = math.exp(math.log(0.0305) - 1.05 * math.log(va) + rng.normal(0, 0.3)) * (
        1.0 if va > 60 else (60 / va) ** 0.45
    )
    ohms = a * unit**2 * (2.0 if halves else 1.0)
    names = iter(_letters(26))
    windings: list[Wound] = []
    if taps:
        total = turns / taps[-1] if taps[-1] < 1 else turns
        leads = [(next(names), 0.0), *((next(names), f) for f in taps if f < 1), (next(names), 1.0)]
        windings.append(
            Wound(
                name="primary",
                role="primary",
                leads=tuple(leads),
                turns=total,
                wire_mm=wire_for(ohms, turns, mlt),
                mean_turn_m=mlt,
            )
        )
    else:
        windings.append(
            Wound(
                name="primary",
                role="primary-half" if halves else "primary",
                leads=((next(names), 0.0), (next(names), 1.0)),
                turns=turns,
                wire_mm=wire_for(ohms, turns, mlt),
                mean_turn_m=mlt,
            )
        )
    if halves:
        longer = mlt * _u(rng, 1.03, 1.12)
        windings.append(
            Wound(
                name="half",
                role="primary-half",
                leads=((next(names), 0.0), (next(names), 1.0)),
                turns=turns,
                wire_mm=windings[0].wire_mm,
                mean_turn_m=longer,
            )
        )
    for n, out in enumerate(outputs):
        count = max(1, round(out.volts * turns / unit))
        wanted = ohms * (count / turns) ** 2 * out.q * math.exp(rng.normal(0, 0.25))
        lead = [
            (next(names), 0.0),
            *([(next(names), 0.5)] if out.centre_tap else []),
            (next(names), 1.0),
        ]
        windings.append(
            Wound(
                name=f"s{n + 1}",
                role=out.role,
                leads=tuple(lead),
                turns=count,
                wire_mm=wire_for(wanted, count, 1.2 * mlt),
                mean_turn_m=1.2 * mlt,
                growth=_u(rng, 0.02, 0.1),
            )
        )
    return Piece(
        family="mains",
        subtype=subtype,
        iron=iron,
        windings=tuple(windings),
        rated_volts=unit,
        rated_hertz=region.hertz,
        leakage_ohms=0.02 * unit**2 / va,
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
        Output(
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
    outputs = [Output("hv-secondary", _u(rng, 420, 950), 1.5, bool(rng.random() < 0.85))]
    heaters = int(rng.choice([1, 2, 3], p=[0.35, 0.45, 0.2]))
    shares = np.exp(
        rng.normal(0, 0.35, heaters)
    )  # heaters share the copper by what they feed, not evenly
    for n in range(heaters):
        volts = (6.3 if n != 1 else float(rng.choice([5.0, 6.3]))) * _u(rng, 1.03, 1.13)
        outputs.append(
            Output(
                "filament", volts, 4.5 * float(shares.sum() / shares[n]), bool(rng.random() < 0.2)
            )
        )
    if rng.random() < 0.2:
        outputs.append(Output("bias", _u(rng, 35, 85), _about(rng, 70.0, 0.4)))
    return mains(rng, region, va, outputs, subtype="valve")


def isolating(rng: Rng, region: Region = EUROPE) -> Piece:
    """One to one, near enough."""
    va = math.exp(_u(rng, math.log(30), math.log(600)))
    return mains(
        rng,
        region,
        va,
        [Output("lv-secondary", region.volts * _u(rng, 1.03, 1.12), 1.15)],
        subtype="isolating",
    )


def stepping(rng: Rng, region: Region = EUROPE) -> Piece:
    """From one mains voltage to the other."""
    other = 120.0 if high_region(region.volts) else 230.0
    va = math.exp(_u(rng, math.log(50), math.log(800)))
    return mains(
        rng, region, va, [Output("lv-secondary", other * _u(rng, 1.03, 1.1), 1.2)], subtype="step"
    )


def dual(rng: Rng, region: Region = EUROPE) -> Piece:
    """Two equal primary halves and one or two low-voltage secondaries."""
    n = int(rng.choice([1, 2]))
    volts = float(rng.choice([9, 12, 15, 18, 24])) * _u(rng, 1.03, 1.15)
    va = math.exp(_u(rng, math.log(12), math.log(300)))
    return mains(
        rng, region, va, [Output("lv-secondary", volts, 0.62 * n)] * n, halves=True, subtype="dual"
    )


def choke(rng: Rng, region: Region = EUROPE) -> Piece:
    """A lamp ballast: one winding on a gapped core."""
    tongue, stack = _u(rng, 15, 32), _u(rng, 18, 60)
    iron = shell(rng, tongue, stack, steel=5.0, gap_mm=_u(rng, 0.5, 1.6))
    amps = _u(rng, 0.35, 4.0)
    ohms_ac = region.volts * _u(rng, 0.6, 0.95) / amps
    henries = ohms_ac / (2 * math.pi * region.hertz)
    reach = 4e-7 * math.pi * iron.area_m2 / (iron.gap_m + iron.path_m / 3000)
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
        mass_kg=1.3 * 7650 * area * path,
        loss_w_per_kg=1.6,
        mu_initial=_u(rng, 2500, 6000),
        softness=0.4,
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
}


def damaged(piece: Piece, rng: Rng, kind: str) -> Piece:
    """The same piece with one fault of a kind: open, shorted-turns, to-core, between or leak."""
    free = [w for w in piece.windings if not any(lead == "core" for lead, _ in w.leads)]
    first = piece.winding("primary")
    if kind == "open":
        plain = [w for w in piece.windings if len(w.leads) == 2] or list(piece.windings)
        target = plain[int(rng.integers(len(plain)))]
        return replace(piece, damage=(Damage(kind="open", winding=target.name, place=0.4),))
    if kind == "to-core":
        target = free[int(rng.integers(len(free)))]
        return replace(
            piece,
            damage=(
                Damage(
                    kind="to-core",
                    winding=target.name,
                    place=float(rng.choice([0.03, 0.3, 0.6, 0.97])),
                    ohms=float(rng.choice([0.0, 0.3, 1.5, 8.0])),
                ),
            ),
        )
    if kind == "leak":
        target = free[int(rng.integers(len(free)))]
        return replace(
            piece,
            damage=(
                Damage(
                    kind="leak",
                    winding=target.name,
                    place=_u(rng, 0, 1),
                    ohms=math.exp(_u(rng, math.log(8e4), math.log(1.5e6))),
                ),
            ),
        )
    if kind == "shorted-turns":
        target = max(piece.windings, key=lambda w: w.turns)
        return replace(
            piece,
            damage=(
                Damage(
                    kind="shorted-turns",
                    winding=target.name,
                    place=0.2,
                    turns=max(1.0, 0.01 * target.turns),
                ),
            ),
        )
    others = [w for w in piece.windings if w.name != first.name]
    if not others:
        return damaged(piece, rng, "to-core")
    other = others[int(rng.integers(len(others)))]
    return replace(
        piece,
        damage=(
            Damage(
                kind="between",
                winding=first.name,
                other=other.name,
                place=_u(rng, 0.1, 0.9),
                other_place=_u(rng, 0.1, 0.9),
                ohms=_u(rng, 0, 3),
            ),
        ),
    )
