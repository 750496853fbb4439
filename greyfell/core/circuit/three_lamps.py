"""A no-load curve without a variac: lamps of different watts in series, one after the other, and
the volts of the winding and of the lamp behind each; the filament's law makes amps of them.
"""

import math
from collections.abc import Sequence

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from greyfell.core.belief.found import Belief
from greyfell.core.circuit.lamp import Behind, lit
from greyfell.core.circuit.sweep import ONSET, STEP
from greyfell.core.errors import FieldError, within
from greyfell.core.evidence.record import Transformer
from greyfell.core.figures.constants import Z95
from greyfell.core.figures.least_squares import Fitted, fit
from greyfell.core.figures.quantity import Quantity
from greyfell.core.figures.solve import crossing
from greyfell.core.network.curve import LAW, Curve

LEAST_LAMPS = 3
VOLTS_SPREAD, COUNTS = 0.01, 0.3
"""Spread of a cheap meter's volts, as a share and in volts of its last digits. From memory."""
LAMP_SPREAD = 0.035
"""Spread of a lamp about its law, as a share of its volts or amps: its rating and its exponent,
0.53 to 0.60. REF-B-05."""
PRIOR = np.array([math.log(0.3), -0.4, math.log(12.0), math.log(0.3)])
PRIOR_SPREAD = np.array([2.0, 0.9, 0.15, 0.6])
"""What iron usually is, before a lamp is lit: logarithm of its amps at the supply, logit of its
straight share, logarithm of its power (REF-M-11: 12 of cheap sheet, 14 of oriented), and of its
power factor; and their spreads. From memory where not said."""
ROUNDS, NUDGE, FARTHEST_STEP = 10, 1e-3, 0.7
BENDS = 0.95
"""Where the smallest lamp leaves the winding more than this share of the supply, the iron was not
bent: its knee is not told, and its amps rest on a lamp far below its law. House rule."""
DIM_SPREAD = 0.15
"""Amps of such a lamp, as a spread of their logarithm: REF-B-05 holds from a fifth of its volts."""
KNEE_FROM, KNEE_TO = 0.3, 2.0
"""The knee is looked for between these shares of the supply."""
Figures = NDArray[np.float64]


class LampRead(Struct, frozen=True, kw_only=True):
    """One lamp: its watts and volts, the supply of that minute, volts read at the winding and
    across the lamp.
    """

    watts: float
    rated_volts: float
    supply_volts: float
    winding_volts: float
    lamp_volts: float


class ByLamps(Struct, frozen=True, kw_only=True):
    """Amps at the supply, the onset of the knee (None where these lamps are too large to bend the
    iron), and the curve.
    """

    amps: Quantity
    onset: Quantity | None
    curve: Curve


def _check(read: Sequence[LampRead]) -> None:
    if len({r.watts for r in read}) < LEAST_LAMPS:
        raise FieldError("lamps", f"Read {LEAST_LAMPS} lamps of different watts, one by one.")
    for r in read:
        within("winding_volts", r.winding_volts, at_least=0, at_most=2 * r.supply_volts, unit="V")
        within("lamp_volts", r.lamp_volts, at_least=0, at_most=2 * r.supply_volts, unit="V")


def by_lamps(read: Sequence[LampRead], hertz: float, ohms: float = 0.0) -> ByLamps:
    """The iron's curve that leaves every lamp and the winding the volts that were read: least
    squares over the loop's steady state, Gauss and Newton. REF-B-05, REF-M-11. V, W, Ω, Hz to A, V.

    Raises FieldError where fewer than three lamps were read, and where no curve settles on them.

    >>> iron = Curve(volts=230.0, hertz=50.0, amps=1.4, straight=0.3, power=11.0, watts=60.0)
    >>> sizes = (40.0, 100.0, 500.0)
    >>> loops = [Behind(supply_volts=230.0, lamp_watts=w, lamp_volts=230.0, curve=iron)
    ...          for w in sizes]
    >>> seen = [LampRead(watts=w, rated_volts=230.0, supply_volts=230.0,
    ...                  winding_volts=x.turns_volts, lamp_volts=x.lamp_volts)
    ...         for w, x in zip(sizes, lit(loops))]
    >>> round(by_lamps(seen, 50.0).amps.value, 1)
    1.4
    """
    _check(read)
    supply = sum(r.supply_volts for r in read) / len(read)
    fitted = _Fit(read, hertz, ohms, supply)
    found = fitted.best()
    if not found.settled:
        raise FieldError("lamps", "No one iron leaves these volts: read each lamp once more.")
    at, covariance = found.at, found.covariance
    curve = fitted.curve(at)
    spread = np.sqrt(np.diag(covariance))
    bent = min(r.winding_volts / r.supply_volts for r in read) <= BENDS
    amps_spread = math.hypot(float(spread[0]), LAMP_SPREAD if bent else DIM_SPREAD)
    onset = _onset(fitted, at, covariance) if bent else None
    return ByLamps(amps=_ranged(curve.amps, amps_spread), onset=onset, curve=curve)


def _ranged(value: float, spread: float) -> Quantity:
    """A figure whose logarithm has this spread, to 95 %."""
    wide = math.exp(Z95 * spread)
    return Quantity(value, value / wide, value * wide, ("lamps",))


class _Fit:
    """The loops as a function of the curve's four numbers, against what was read."""

    def __init__(self, read: Sequence[LampRead], hertz: float, ohms: float, supply: float) -> None:
        self.read, self.hertz, self.ohms, self.supply = read, hertz, ohms, supply
        seen = [x for r in read for x in (r.winding_volts, r.lamp_volts)]
        self.seen = np.array(seen, dtype=float)
        self.spread = np.hypot(VOLTS_SPREAD * self.seen, COUNTS)
        lamps = np.array([r.lamp_volts for r in read])
        self.spread[1::2] = np.hypot(self.spread[1::2], LAMP_SPREAD * lamps)

    def curve(self, at: Figures) -> Curve:
        """The curve of four numbers."""
        amps, straight, power, factor = (float(x) for x in at)
        amps = math.exp(amps)
        return Curve(
            volts=self.supply,
            hertz=self.hertz,
            amps=amps,
            straight=1 / (1 + math.exp(-straight)),
            power=min(20.0, max(2.0, math.exp(power))),
            watts=min(0.9, math.exp(factor)) * amps * self.supply,
        )

    def shown(self, many: Sequence[Figures]) -> list[Figures]:
        """Volts that winding and lamp would show under each of several curves, all at once."""
        loops = [
            Behind(
                supply_volts=r.supply_volts,
                lamp_watts=r.watts,
                lamp_volts=r.rated_volts,
                curve=self.curve(at),
                ohms=self.ohms,
            )
            for at in many
            for r in self.read
        ]
        found = lit(loops)
        volts = [x for one in found for x in (one.turns_volts, one.lamp_volts)]
        return list(np.array(volts).reshape(len(many), -1))

    def best(self) -> Fitted:
        """The likeliest numbers."""
        at = PRIOR.copy()
        at[0] = math.log(max(1e-3, self._first_guess()))
        return fit(
            self._look,
            prior=PRIOR,
            information=np.diag(1 / PRIOR_SPREAD**2),
            start=at,
            farthest=FARTHEST_STEP,
            arrived=NUDGE,
            rounds=ROUNDS,
        )

    def _look(self, at: Figures) -> tuple[Figures, Figures]:
        """How far each volt read is off, in its spreads, and how it moves with the curve."""
        base, *moved = self.shown([at, *(at + NUDGE * row for row in np.eye(len(at)))])
        slopes = np.array([(m - base) / NUDGE for m in moved]).T / self.spread[:, None]
        return (self.seen - base) / self.spread, slopes

    def _first_guess(self) -> float:
        """Amps of the lamp that left the winding most, by its law."""
        r = max(self.read, key=lambda one: one.winding_volts)
        share: float = (max(r.lamp_volts, 0.1) / r.rated_volts) ** LAW
        return r.watts / r.rated_volts * share


def onset_of(curve: Curve) -> float:
    """The volts from which a tenth more gives half as much current again. IEC 61869-2."""

    def passed(volts: float) -> bool:
        return curve.amps_at(STEP * volts) >= ONSET * curve.amps_at(volts)

    return crossing(passed, KNEE_FROM * curve.volts, KNEE_TO * curve.volts).at


def _onset(fit: _Fit, at: Figures, covariance: Figures) -> Quantity:
    """The onset with its range, by the curve's numbers a little either way."""
    middle = onset_of(fit.curve(at))
    slopes = np.array(
        [(onset_of(fit.curve(at + 0.1 * row)) - middle) / 0.1 for row in np.eye(len(at))]
    )
    spread = math.sqrt(float(slopes @ covariance @ slopes))
    wide = math.hypot(Z95 * spread, 0.02 * middle)
    return Quantity(middle, max(0.0, middle - wide), middle + wide, ("lamps",))


def lamps_on_record(record: Transformer, belief: Belief) -> ByLamps | None:
    """The curve by the lamps that were read on the fed pair, the last of each size; None where
    there are fewer than three, or where no curve settles on them.
    """
    fed, supply = set(belief.fed), record.supply
    read = {
        r.lamp_watts: LampRead(
            watts=r.lamp_watts,
            rated_volts=supply.volts,
            supply_volts=r.supply_volts,
            winding_volts=r.winding_volts,
            lamp_volts=r.lamp_volts,
        )
        for r in record.standing
        if r.kind == "lamp"
        and set(r.across) == fed
        and r.lamp_volts is not None
        and r.winding_volts is not None
    }
    primary = belief.primary
    if len(read) < LEAST_LAMPS or primary is None:
        return None
    try:
        return by_lamps(list(read.values()), supply.hertz, primary.coil.ohms.value)
    except FieldError:
        return None
