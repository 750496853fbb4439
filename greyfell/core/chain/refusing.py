"""Rigs that are never planned: what a rig is in figures, asked of the one list before anything is
solved, drawn or printed.
"""

import math

from greyfell.core.chain.elements import Element, Rig
from greyfell.core.chain.sight import is_resonant
from greyfell.core.chain.solving import Solved, solve
from greyfell.core.errors import FieldError, reckoned
from greyfell.core.families.registry import has
from greyfell.core.figures.limits import (
    HIGH_VOLTAGE,
    HV_WINDING_VOLTS,
    MAINS_RISE,
    SOON_SECONDS,
    TOUCH_VOLTS,
)
from greyfell.core.network.timeline import STEPS
from greyfell.core.never import Asked, Never, refused

PEAKS = {
    "half-wave": 1.0,
    "bridge": 1.0,
    "centre-tap": 0.5,
    "doubler": 2.0,
}
"""Open DC volts over the peak of the whole winding, by rectifier; a multiplier has two a stage.
REF-R-02, REF-R-03."""


def planned(rig: Rig, *, steps: int = STEPS) -> Solved:
    """A rig solved. Raises FieldError where it is never planned, by the sentence that says why and
    what does the job instead, and where it does not settle.
    """
    with reckoned("rig"):
        refuse(rig)
        return solve(rig, steps=steps)


def refuse(rig: Rig) -> None:
    """Raises FieldError where a rig is one that is never planned."""
    found = never_planned(rig)
    if found is not None:
        raise FieldError("rig", found.told)


def never_planned(rig: Rig) -> Never | None:
    """What of the never-list a rig is; None where it is none of it."""
    return refused(asked_of(rig))


def asked_of(rig: Rig) -> Asked:
    """A rig in the figures that the list asks: open volts at its load, what stays charged."""
    rms = open_volts(rig)
    rated = rig.piece.figures.get("rated_volts")
    direct = _direct(rig, rms)
    volts, joules = _held(rig, rms, direct)
    return Asked(
        words=". ".join(x for x in (rig.title, rig.load.title) if x),
        load_words=rig.load.title,
        load=rig.load.kind.key,
        open_rms=rms if not direct else 0.0,
        open_peak=math.sqrt(2) * rms,
        open_dc=direct,
        held_volts=volts,
        held_joules=joules,
        bled=_bled(rig, volts),
        enclosed=rig.enclosed,
        proved=rig.proved,
        electrodes=str(rig.load.figures.get("electrodes", "")),
        oven=_oven(rig, rms),
        sign=rig.piece.bond == "middle",
        within_plate=rated is not None and rms <= MAINS_RISE * rated,
        times=direct / (math.sqrt(2) * rms),
        resonant=is_resonant(rig),
    )


def open_volts(rig: Rig) -> float:
    """RMS volts of the winding with nothing joined to it, by the turns. V. REF-M-02."""
    dials = math.prod(e.told("fraction") for e in rig.ahead if e.kind.key == "variac")
    return rig.supply.told("volts") * dials * rig.piece.get("ratio")


def _oven(rig: Rig, rms: float) -> bool:
    """Whether the winding may be an oven's: its piece says so, or kilovolts with an end on the
    iron, or kilovolts of a piece that nobody names and that no bond shows to be a sign's.
    """
    p = rig.piece
    unsaid = not p.family and p.bond != "middle" and rms > HIGH_VOLTAGE
    return has(p.family, "exposed_never") or (p.bond == "end" and rms > HV_WINDING_VOLTS) or unsaid


def _direct(rig: Rig, rms: float) -> float:
    """Open DC volts behind the rectifier; nought where there is none."""
    e = rig.rectified
    if e is None:
        return 0.0
    kind = str(e.figures["rectifier"])
    times = PEAKS.get(kind, 2.0 * (e.get("stages", 1.0) or 1.0))
    return times * math.sqrt(2) * rms


def _held(rig: Rig, rms: float, direct: float) -> tuple[float, float]:
    """The highest volts that a capacitor of the rig may be left with, and the joules of all, on a
    high line. REF-R-05.
    """
    found = [(_volts_on(e, rig, rms, direct), e.told("farads")) for e in _capacitors(rig)]
    e = rig.rectified
    if e is not None and e.get("stage_farads"):
        count = 2 * int(e.get("stages", 1.0) or 1.0)
        each = direct / count * 2 if count else direct
        found += [(MAINS_RISE * each, e.told("stage_farads"))] * count
    joules = sum(farads * volts**2 / 2 for volts, farads in found)
    return max((volts for volts, _ in found), default=0.0), joules


def _bled(rig: Rig, volts: float) -> bool:
    """Whether what was built in as bleeders brings all the capacitors from their highest volts to
    what may be touched, within a minute. REF-R-06.
    """
    siemens = sum(1 / e.told("ohms") for e in rig.behind if e.kind.key == "bleeder")
    if not siemens:
        return False
    farads = sum(e.told("farads") for e in _capacitors(rig))
    e = rig.rectified
    if e is not None and e.get("stage_farads"):
        farads += e.told("stage_farads") * 2 * int(e.get("stages", 1.0) or 1.0)
    return volts <= TOUCH_VOLTS or farads / siemens * math.log(volts / TOUCH_VOLTS) <= SOON_SECONDS


def _capacitors(rig: Rig) -> list[Element]:
    return [e for e in (*rig.ahead, *rig.behind) if e.kind.key in ("reservoir", "capacitor")]


def _volts_on(e: Element, rig: Rig, rms: float, direct: float) -> float:
    """The most that stays on a capacitor: the DC volts, the winding's peak, or the line's."""
    if e.kind.key == "reservoir":
        return MAINS_RISE * direct
    whole = rms if e in rig.behind else rig.supply.told("volts")
    return MAINS_RISE * math.sqrt(2) * whole
