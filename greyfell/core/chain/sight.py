"""What a rig looks like once it is solved: what is beyond its rating, its short, its reactances,
what stays charged.
"""

import math
from collections.abc import Iterable
from functools import cached_property

from msgspec import Struct
from msgspec.structs import replace

from greyfell.core.chain.elements import KINDS, Element, Rig
from greyfell.core.chain.over_rating import Beyond, beyond
from greyfell.core.chain.solving import Solved, solve
from greyfell.core.errors import FieldError
from greyfell.core.figures.limits import MAINS_RISE, TOUCH_VOLTS
from greyfell.core.network.parts import Capacitor

FORBIDDEN = (0.5, 2.0)
"""X_C over X_L that is refused. REF-B-04."""


class Sight(Struct, frozen=True, dict=True):
    """What a rule looks at: the rig solved, and what follows from it."""

    solved: Solved

    @property
    def rig(self) -> Rig:
        """The rig."""
        return self.solved.rig

    @cached_property
    def beyond(self) -> list[Beyond]:
        """Everything beyond its rating."""
        return beyond(self.solved)

    @cached_property
    def shorted(self) -> Solved | None:
        """Its output shorted ahead of any rectifier; None where it does not settle."""
        short = Element(id="load", kind=KINDS["short"])
        kept = []
        for e in self.rig.behind:
            if e.kind.key == "rectifier":
                break
            kept.append(e)
        try:
            return solve(replace(self.rig, behind=tuple(kept), load=short))
        except FieldError:
            return None

    @property
    def open(self) -> bool:
        """Whether nothing loads it."""
        return self.rig.load.kind.key == "open"

    @property
    def omega(self) -> float:
        """2πf of the supply, radians a second: f in Hz. By definition."""
        return 2 * math.pi * self.rig.supply.told("hertz")


def series_reactance(rig: Rig, e: Element, omega: float) -> float:
    """Ω of all coils in the loop of a capacitor, on its own side of the piece. Kirchhoff."""
    n = rig.piece.get("ratio")
    ahead = sum(_henries(x) for x in rig.ahead)
    behind = sum(_henries(x) for x in rig.behind)
    whole = ahead + rig.piece.get("leakage_henries") + behind / n**2
    return omega * whole * (1.0 if e in rig.ahead else n**2)


def _henries(e: Element) -> float:
    """Of a coil; nought of what is none."""
    if e.kind.key == "ballast":
        whole = e.told("at_volts") / e.told("short_amps")
        ohms = min(e.get("ohms") or 0.0, whole)
        return math.sqrt(whole**2 - ohms**2) / (2 * math.pi * e.told("at_hertz"))
    return e.get("henries") or 0.0


def capacitors(rig: Rig) -> Iterable[tuple[Element, float, float]]:
    """Capacitors in series, their reactance, and the loop's coils'. Kirchhoff."""
    omega = 2 * math.pi * rig.supply.told("hertz")
    for e in (*rig.ahead, *rig.behind):
        if e.kind.key == "capacitor":
            xc = 1 / (omega * e.told("farads"))
            yield e, xc, series_reactance(rig, e, omega)


def is_resonant(rig: Rig) -> bool:
    """Whether a capacitor of a rig stands near resonance with its coils. REF-B-04."""
    return any(FORBIDDEN[0] <= xc / xl <= FORBIDDEN[1] for _, xc, xl in capacitors(rig))


def charges(solved: Solved) -> list[tuple[str, float, float, float | None]]:
    """Capacitors that stay charged when it is switched off: name, volts, J, and seconds to safe
    volts through the bleeder; None where nothing empties it. A load is no bleeder: what is
    unplugged, or off, empties nothing. REF-R-05, REF-R-06.
    """
    rig = solved.rig
    ohms = [e.told("ohms") for e in rig.behind if e.kind.key == "bleeder"]
    whole = 1 / sum(1 / r for r in ohms) if ohms else None
    out = []
    for uid in (e.id for e in (*rig.ahead, *rig.behind)):
        for part in solved.built.of[uid]:
            if isinstance(part, Capacitor):
                volts = _held(solved, part)
                joules = part.farads * volts**2 / 2
                alone = not any(e.id == uid and e.kind.key == "reservoir" for e in rig.behind)
                seconds = None
                if whole is not None and not alone and volts > TOUCH_VOLTS:
                    seconds = whole * part.farads * math.log(volts / TOUCH_VOLTS)
                name = next(e.name for e in rig.elements if e.id == uid)
                out.append((name, volts, joules, seconds))
    return out


def _held(solved: Solved, part: Capacitor) -> float:
    """The most it may be left with, on a high line."""
    if solved.run is not None:
        volts = solved.run.over(part)
        return MAINS_RISE * float(abs(volts).max())
    found = solved.by_hertz
    return (
        0.0 if found is None else MAINS_RISE * math.sqrt(2) * abs(found.volts(part.one, part.two))
    )
