"""A piece's equivalent circuit for one of its outputs: a Γ, the iron at the primary's terminals,
all leakage behind it; every figure with its range, what it rests on, and whether it was read.
"""

import math
from collections.abc import Sequence

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from greyfell.core.belief.found import Belief, Winding
from greyfell.core.circuit.fed_winding import fed_whole
from greyfell.core.circuit.idle import KIND, MAYBE, Idle, idle_of
from greyfell.core.circuit.load import Figures, LoadLine, load_line
from greyfell.core.evidence.record import Transformer
from greyfell.core.families.registry import does
from greyfell.core.figures.constants import COPPER_PER_K, DAY_CELSIUS, Z95
from greyfell.core.figures.limits import HV_WINDING_VOLTS
from greyfell.core.figures.quantity import Quantity

SHUNT_VOLTS = (81.0, 90.0, 101.0)
"""Leakage volts at the primary above which an oven's shunts saturate, of 230 V 50 Hz parts: 240
turns, 8 to 10 cm², 1.9 T. REF-T-17; common practice."""
SHUNT_SUPPLY = 230.0
WINDING_FARADS = (2e-10, 5e-10, 2e-9)
"""Capacitance of a high-voltage winding with its leads. Common practice."""
COPPER_KEYS = ("primary_ohms", "secondary_ohms")
"""Figures that grow with the copper's temperature."""
READINGS = {
    "ratio": "The ratio both ways, at a low drive",
    "short": "A short circuit at reduced volts, with watts",
    "load": "One load point near half of its open volts, with a heater",
    "no-load": "Amps and watts at no load on the supply",
}
"""Readings that may narrow it, the least energy first."""
FELT = 0.1
"""A reading is worth proposing where it narrows a spread by more than this share. House rule."""


class ModelFigure(Struct, frozen=True, kw_only=True):
    """One figure of the circuit: its key as rigs have it, words, unit, whether it is assumed."""

    key: str
    label: str
    unit: str
    figure: Quantity
    assumed: bool


class LoadPoint(Struct, frozen=True, kw_only=True):
    """The circuit at one load: ohms, secondary volts, amps and watts, primary amps with their power
    factor, efficiency.
    """

    ohms: float
    volts: Quantity
    amps: Quantity
    watts: Quantity
    primary_amps: Quantity
    power_factor: float
    efficiency: float


class Narrower(Struct, frozen=True, kw_only=True):
    """A reading that would narrow the answer most: its key and words, and the share by which the
    spread of volts and amps shrinks.
    """

    key: str
    words: str
    share: float


class PieceModel(Struct, frozen=True):
    """The circuit of one output on the supply."""

    winding: Winding
    line: LoadLine
    idle: Idle
    figures: tuple[ModelFigure, ...]
    bond: str
    supply_volts: float
    hertz: float
    narrower: Narrower | None

    def get(self, key: str) -> Quantity | None:
        """One figure by its key, in the unit of that key: V, A, Ω, H, W."""
        return next((f.figure for f in self.figures if f.key == key), None)

    def warmed(self, celsius: float) -> "PieceModel":
        """The circuit with its copper at a temperature: resistances grow, all else stays. REF-W-02;
        °C of copper's mean.
        """
        factor = 1 + COPPER_PER_K * (celsius - DAY_CELSIUS)
        if factor == 1:
            return self
        at = self.line.at + np.array([0.0, math.log(factor), 0.0])
        basis = (*self.line.basis, f"copper at {celsius:.0f} °C")
        warm = tuple(
            replace(f, figure=_scaled(f.figure, factor)) if f.key in COPPER_KEYS else f
            for f in self.figures
        )
        return replace(self, line=replace(self.line, at=at, basis=basis), figures=warm)

    def as_rig(self) -> dict[str, float | str]:
        """The middle of every figure, as a rig's piece has it."""
        out: dict[str, float | str] = {f.key: f.figure.value for f in self.figures}
        return {**out, "volts": self.supply_volts, "hertz": self.hertz, "bond": self.bond}

    def at(self, ohms: float) -> LoadPoint:
        """The circuit at a load; nought ohms is a short. REF-T-06; the idle current lags by its
        own phase. V, A, W, Ω.
        """
        volts, amps = self.line.volts(ohms), self.line.amps(ohms)
        ratio = self.get("ratio")
        turns = 1.0 if ratio is None else ratio.value
        own = complex(self.line.resistance_ohms.value + ohms, self.line.reactance_ohms.value)
        angle = math.atan2(own.imag, own.real)

        def primary(second: float, idle: float, watts: float) -> complex:
            real = watts / self.supply_volts
            lag = math.sqrt(max(idle**2 - real**2, 0.0))
            return complex(real, -lag) + turns * second * complex(math.cos(angle), -math.sin(angle))

        idle = [(c.amps, c.watts) for c in self.idle.curves]
        middle = primary(amps.value, *idle[0])
        ends = [abs(primary(a, i, w)) for a in (amps.low, amps.high) for i, w in idle]
        watts = Quantity(
            volts.value * amps.value, volts.low * amps.low, volts.high * amps.high, volts.basis
        )
        taken = max(self.supply_volts * middle.real, 1e-12)
        size = abs(middle)
        return LoadPoint(
            ohms=ohms,
            volts=volts,
            amps=amps,
            watts=watts,
            primary_amps=Quantity(size, min(*ends, size), max(*ends, size), amps.basis),
            power_factor=middle.real / max(size, 1e-12),
            efficiency=min(1.0, watts.value / taken),
        )


def model_of(record: Transformer, belief: Belief, w: Winding) -> PieceModel | None:
    """The circuit of an output from everything on record: open volts, copper, short circuits and
    load points by least squares with their errors (`load_line`), the iron by its sweep, its no-load
    reading or its kind (`idle_of`). What no reading tells comes from the kind, wide and marked so.
    REF-T-01 to REF-T-07. None where its volts or the primary's are not known.
    """
    line, idle = load_line(record, belief, w), idle_of(record, belief)
    primary = fed_whole(record, belief)
    if line is None or idle is None or primary is None or primary.coil.broken:
        return None
    supply = record.supply
    ratio = line.open_volts
    ratio = _scaled(ratio, 1 / supply.volts)
    figures = (
        _figure("ratio", "secondary over primary turns", "", ratio),
        _figure("primary_ohms", "primary copper", "Ω", _at_least(primary.coil.ohms)),
        _figure("secondary_ohms", "secondary copper", "Ω", _secondary(line, primary, w, ratio)),
        _figure(
            "leakage_henries",
            "leakage, primary side",
            "H",
            _leakage(line, ratio, supply.hertz),
            assumed=not line.measured,
        ),
        *_idle_figures(idle),
        *_shunts(record, belief),
        *_capacitance(w),
    )
    return PieceModel(
        winding=w,
        line=line,
        idle=idle,
        figures=figures,
        bond=_bond(w),
        supply_volts=supply.volts,
        hertz=supply.hertz,
        narrower=_narrower(line, idle),
    )


def _figure(
    key: str, label: str, unit: str, figure: Quantity, *, assumed: bool = False
) -> ModelFigure:
    return ModelFigure(key=key, label=label, unit=unit, figure=figure, assumed=assumed)


def _scaled(q: Quantity, by: float) -> Quantity:
    return Quantity(q.value * by, q.low * by, q.high * by, q.basis)


def _at_least(q: Quantity) -> Quantity:
    """Ohms that a network can have: never nought."""
    least = 1e-4
    return Quantity(max(q.value, least), max(q.low, least), max(q.high, least), q.basis)


def _secondary(line: LoadLine, primary: Winding, w: Winding, ratio: Quantity) -> Quantity:
    """Its copper as it was read; where a short or loads tell all, what they leave over for it."""
    if not line.measured and w.coil.resolved:
        return _at_least(w.coil.ohms)
    whole, own = line.resistance_ohms, primary.coil.ohms
    value = whole.value - own.value * ratio.value**2
    least = 0.05 * whole.value
    low = whole.low - own.high * ratio.high**2
    high = whole.high - own.low * ratio.low**2
    value = max(value, least)
    return Quantity(value, max(min(low, value), least), max(high, value), whole.basis)


def _leakage(line: LoadLine, ratio: Quantity, hertz: float) -> Quantity:
    """Leakage on the primary's side in H. REF-T-03."""
    x = line.reactance_ohms
    scale = 1 / (2 * math.pi * hertz * ratio.value**2)
    return _scaled(x, scale)


def _idle_figures(idle: Idle) -> tuple[ModelFigure, ...]:
    """Amps, watts and shape of the iron."""
    curves, assumed = idle.curves, idle.basis == KIND
    basis = (idle.basis,)

    def spread(values: Sequence[float], factor: float = 1.0) -> Quantity:
        return Quantity(values[0], min(values) / factor, max(values) * factor, basis)

    watts = [c.watts for c in curves]
    return (
        _figure("idle_amps", "idle amps", "A", spread([c.amps for c in curves]), assumed=assumed),
        _figure(
            "core_watts",
            "idle watts",
            "W",
            spread(watts, MAYBE if assumed else 1.0),
            assumed=assumed,
        ),
        _figure("straight", "straight share of its peak", "", spread([c.straight for c in curves])),
        _figure("power", "power of flux", "", spread([c.power for c in curves])),
    )


def _shunts(record: Transformer, belief: Belief) -> tuple[ModelFigure, ...]:
    """Leakage volts above which an oven's shunts saturate; none where they are out."""
    core = record.core
    if not does(belief.family).shunts_give_way or (
        core is not None and core.shunts in ("absent", "removed")
    ):
        return ()
    low, value, high = (v * record.supply.volts / SHUNT_SUPPLY for v in SHUNT_VOLTS)
    volts = Quantity(value, low, high, ("kind, assumed",))
    return (_figure("shunt_volts", "shunts saturate at", "V", volts, assumed=True),)


def _capacitance(w: Winding) -> tuple[ModelFigure, ...]:
    """Of a high-voltage winding."""
    if w.volts is None or w.volts.value < HV_WINDING_VOLTS:
        return ()
    low, value, high = WINDING_FARADS
    farads = Quantity(value, low, high, ("kind, assumed",))
    return (_figure("winding_farads", "winding and its leads", "F", farads, assumed=True),)


def _bond(w: Winding) -> str:
    """Where the winding is bonded to the core."""
    bond = w.coil.bond
    if not bond:
        return "none"
    return "end" if "core" in w.coil.leads or bond in w.coil.leads else "middle"


def _narrower(line: LoadLine, idle: Idle) -> Narrower | None:
    """The reading that shrinks the spread of volts and amps into its best load most."""
    _, r, x = np.exp(line.at)
    match = math.hypot(r, x)
    whole2 = (r + match) ** 2 + x**2
    wanted = np.array([1.0, -r * (r + match) / whole2, -(x**2) / whole2])
    shorted = np.array([1.0, -(r**2) / match**2, -(x**2) / match**2])
    now = _width(line.covariance, wanted) + _width(line.covariance, shorted)
    rows = {
        "ratio": [(np.array([1.0, 0.0, 0.0]), 0.005)],
        "short": [(np.array([0.0, 1.0, 0.0]), 0.03), (np.array([0.0, 0.0, 1.0]), 0.02)],
        "load": [(wanted, 0.012)],
    }
    gains = {
        key: 1 - (_width(after, wanted) + _width(after, shorted)) / max(now, 1e-9)
        for key, seen in rows.items()
        for after in [_read(line.covariance, seen)]
    }
    key = max(gains, key=lambda k: gains[k])
    if gains[key] > FELT and now > 2 * FELT * Z95 / 10:
        return Narrower(key=key, words=READINGS[key], share=float(gains[key]))
    if idle.basis == KIND:
        return Narrower(key="no-load", words=READINGS["no-load"], share=0.0)
    return None


def _width(covariance: Figures, row: Figures) -> float:
    return math.sqrt(max(float(row @ covariance @ row), 0.0))


def _read(covariance: Figures, seen: Sequence[tuple[Figures, float]]) -> Figures:
    """The covariance once these have been read."""
    information = np.linalg.inv(covariance + 1e-12 * np.eye(3))
    for row, spread in seen:
        information = information + np.outer(row, row) / spread**2
    return np.asarray(np.linalg.inv(information))
