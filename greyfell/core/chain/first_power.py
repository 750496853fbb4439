"""First power of a direct supply that can kill: a walk of steps in their order, each proved before
the next is told. Common practice; IEC 61010-1, IEC 60364-4-41.
"""

import math
from collections.abc import Callable, Mapping, Sequence
from typing import Any

from msgspec import Struct

from greyfell.core.chain.elements import Rig
from greyfell.core.chain.sight import charges
from greyfell.core.chain.solving import Solved
from greyfell.core.errors import FieldError
from greyfell.core.figures.limits import BOND_OHMS, MAINS_RISE, TOUCH_VOLTS
from greyfell.core.figures.notation import engineering
from greyfell.core.figures.touch import hazard_class

NEAR = 0.1
"""Ohms read off a bleeder or a chain may be so far from what they should be."""
FALLEN_SHARE = 1.5
"""It may take so many times as long as reckoned to fall."""
FORETOLD_SHARE = 0.15
"""Volts under power may be so far from those foretold; a tenth more where no load takes it."""
Bounds = tuple[float, float]


class PowerStep(Struct, frozen=True, kw_only=True):
    """One step: what to do and why; the figure it asks for, its unit, and the bounds it must lie in
    on this rig (None where it asks for none, or nothing tells the bounds).
    """

    key: str
    do: str
    why: str
    asks: str = ""
    unit: str = ""
    bounds: Callable[[Rig, Solved], Bounds | None] = lambda rig, solved: None


def _bleeder(rig: Rig, _solved: Solved) -> Bounds | None:
    ohms = [e.told("ohms") for e in rig.behind if e.kind.key == "bleeder"]
    whole = 1 / sum(1 / r for r in ohms) if ohms else None
    return None if whole is None else (whole * (1 - NEAR), whole * (1 + NEAR))


def _dry(_rig: Rig, solved: Solved) -> Bounds | None:
    at = solved.after(solved.rig.rectified.id) if solved.rig.rectified is not None else None
    if at is None:
        return None
    return 0.0, 0.5 * abs(at.mean_volts)


def _volts(rig: Rig, solved: Solved) -> Bounds | None:
    rectifier = rig.rectified
    if rectifier is None:
        return None
    volts = abs(solved.after(rectifier.id).mean_volts)
    return volts * (1 - FORETOLD_SHARE), volts * (1 + FORETOLD_SHARE) + 0.1 * volts


def _fall(_rig: Rig, solved: Solved) -> Bounds | None:
    seconds = [s for _, _, _, s in charges(solved) if s is not None]
    return (0.0, FALLEN_SHARE * max(seconds)) if seconds else None


def _safe(_rig: Rig, _solved: Solved) -> Bounds:
    return 0.0, TOUCH_VOLTS


STEPS: Sequence[PowerStep] = (
    PowerStep(
        key="bond",
        do="Unplugged. Read the bond from earth to core with an ampere or more: volts over amps.",
        why="Everything returns through it.",
        asks="Bond",
        unit="Ω",
        bounds=lambda rig, solved: (0.0, BOND_OHMS),
    ),
    PowerStep(
        key="bleeder",
        do="Read the bleeder where it stands, cold, its capacitor shorted first.",
        why="It fails open, and says nothing when it does.",
        asks="Bleeder",
        unit="Ω",
        bounds=_bleeder,
    ),
    PowerStep(
        key="stick",
        do="Read the discharge stick from hook to clip; its clip is on the core now.",
        why="It is the second way for the charge, and the one in your hand.",
        asks="Stick",
        unit="Ω",
        bounds=lambda rig, solved: (1e3, 2e6),
    ),
    PowerStep(
        key="chain",
        do=(
            "The meter stands at the earthed foot of its chain, a resistor and an arrester "
            "across it; nobody holds a probe."
        ),
        why="An open meter takes the full kilovolts.",
    ),
    PowerStep(
        key="distance",
        do="Covered; an arm and a half away; a switch that lets go when you do; nobody near.",
        why="No residual-current device sees a shock here.",
    ),
    PowerStep(
        key="dry",
        do=(
            "Without its load, any preheat left in: wind up to a third through a lamp, read the "
            "direct volts, wind down."
        ),
        why="A wrong diode or capacitor shows here, at a tenth of its energy.",
        asks="Volts at a third",
        unit="V",
        bounds=_dry,
    ),
    PowerStep(
        key="fall",
        do="Switch off and watch the volts fall below 50 V; hands at the clock.",
        why="What is not seen to fall is not discharged.",
        asks="Took",
        unit="s",
        bounds=_fall,
    ),
    PowerStep(
        key="rest",
        do="Stick on, then a short that stays. Read what is left on the capacitor.",
        why="1 to 10 % comes back.",
        asks="Left",
        unit="V",
        bounds=_safe,
    ),
    PowerStep(
        key="power",
        do="Short off, away from it, full volts through the limiter: read the direct volts.",
        why="Against what was foretold.",
        asks="Volts",
        unit="V",
        bounds=_volts,
    ),
    PowerStep(
        key="touch",
        do="Off. Seen to fall, stick, short that stays: so before every touch from now on.",
        why="It is never dead because it was.",
    ),
)
"""The walk, in its order."""


def asked_of(solved: Solved) -> bool:
    """Whether a rig's direct side must be walked: it can kill, or holds a charge that can."""
    if solved.rig.rectified is None:
        return False
    at = solved.after(solved.rig.rectified.id)
    joules = sum(j for _, _, j, _ in charges(solved))
    volts = max(at.volts, at.peak_volts / math.sqrt(2))
    return hazard_class(MAINS_RISE * volts, None, joules).startswith("lethal")


def next_step(walked: Sequence[Mapping[str, Any]]) -> PowerStep | None:
    """The first step that is not done; None at the end."""
    done = {str(w.get("step")) for w in walked}
    return next((s for s in STEPS if s.key not in done), None)


def taken(
    solved: Solved, walked: Sequence[Mapping[str, Any]], key: str, value: float | None
) -> dict[str, Any]:
    """One step proved, as it is kept. Raises FieldError where it is not its turn, where its figure
    is missing, or where it lies outside what this rig lets expect.
    """
    step = next_step(walked)
    if step is None or step.key != key:
        raise FieldError("step", "It is not that step's turn.")
    if not step.asks:
        return {"step": key}
    if value is None or not math.isfinite(value) or value < 0:
        raise FieldError("value", f"{step.asks} is a figure of nought or more; none was given.")
    bounds = step.bounds(solved.rig, solved)
    if bounds is None:
        raise FieldError("value", f"This rig has nothing that {step.asks.lower()} is read of.")
    low, high = bounds
    if not low <= value <= high:
        said = f"{engineering(low, step.unit)} to {engineering(high, step.unit)}"
        raise FieldError(
            "value",
            f"{step.asks} is {engineering(value, step.unit)}; on this rig it lies in {said}. Stop "
            "here: find out why before anything is switched on.",
        )
    return {"step": key, "value": value}
