"""What in a rig is beyond its rating: every figure that an element, the piece or the supply bears,
against what it has.
"""

import math
from collections.abc import Iterator

import numpy as np
from msgspec import Struct

from greyfell.core.chain.elements import Element
from greyfell.core.chain.solving import Solved
from greyfell.core.figures.limits import BREAKER_HOLDS, MAINS_RISE
from greyfell.core.network.bending import Diode
from greyfell.core.network.parts import CircuitPart
from greyfell.core.network.rectifiers import INVERSE
from greyfell.core.network.timeline import rms

DRIVEN = 1.2
"""Above so many times its rated peak a winding's insulation counts as overdriven. From memory."""


class Beyond(Struct, frozen=True, kw_only=True):
    """One figure above what is borne: where, what, how much it has and bears, its unit, and what
    then fails.
    """

    at: str
    name: str
    what: str
    has: float
    bears: float
    unit: str
    fails: str


def beyond(solved: Solved) -> list[Beyond]:
    """Everything beyond its rating, the line at its middle; what is not told is not judged."""
    rig = solved.rig
    found: list[Beyond] = []
    for e in rig.elements:
        found += _element(solved, e)
    found += _piece(solved)
    found += _breaker(solved)
    return [b for b in found if b.has > b.bears]


def _volts(solved: Solved, part: CircuitPart) -> tuple[float, float]:
    """RMS and peak volts over a part; by phasors the peak is a sine's."""
    run = solved.run
    if run is not None:
        volts = run.over(part)
        return rms(volts), float(np.abs(volts).max())
    return _over(solved, part)


def _over(solved: Solved, part: CircuitPart) -> tuple[float, float]:
    found = solved.by_hertz
    volts = 0.0 if found is None else abs(found.volts(part.one, part.two))
    return volts, math.sqrt(2) * volts


def amps_of(solved: Solved, part: CircuitPart) -> float:
    """RMS amps through a part."""
    if solved.run is not None:
        return rms(solved.run.amps(part))
    return 0.0 if solved.by_hertz is None else abs(solved.by_hertz.amps(part))


def volts_over(solved: Solved, uid: str) -> float:
    """RMS volts over a whole element in the row."""
    parts = solved.built.of[uid]
    if solved.run is not None:
        ends = _ends(parts)
        return rms(solved.run.volts(*ends))
    if solved.by_hertz is None:
        return 0.0
    return abs(solved.by_hertz.volts(*_ends(parts)))


def _ends(parts: tuple[CircuitPart, ...]) -> tuple[str, str]:
    """From the first node of an element to its last; a stray path runs beside."""
    chain = [p for p in parts if not p.name.startswith(("S", "G"))]
    return chain[0].one, chain[-1].two


def _element(solved: Solved, e: Element) -> Iterator[Beyond]:
    kind = e.kind.key
    first = solved.built.of[e.id][0]
    amps = amps_of(solved, first)

    def one(what: str, has: float, bears: float | None, unit: str, fails: str) -> Iterator[Beyond]:
        if bears is not None:
            yield Beyond(
                at=e.id, name=e.name, what=what, has=has, bears=bears, unit=unit, fails=fails
            )

    volts, peak = _volts(solved, first)
    if kind == "lamp":
        fails = "its filament goes, with a flash and a dark loop"
        yield from one("watts", volts * amps, e.told("watts") * MAINS_RISE**2, "W", fails)
    elif kind == "ballast":
        fails = "it cooks; its cut-out opens, or it shorts and the piece has the whole mains"
        yield from one("amps", amps, e.get("rated_amps"), "A", fails)
    elif kind == "capacitor":
        fails = "it bursts or shorts, and the loop is left without it"
        yield from one("volts", volts * MAINS_RISE, e.get("volts_ac"), "V", fails)
    elif kind in ("resistor", "bleeder"):
        fails = "it opens red hot"
        yield from one("watts", volts * amps, e.get("watts"), "W", fails)
        bears = e.get("volts") if kind == "bleeder" else None
        fails = "it arcs along its body and opens: the charge stays"
        yield from one("volts", peak * MAINS_RISE, bears, "V", fails)
    elif kind == "variac":
        fails = "its brush burns a spot, and the winding under it"
        brush = amps_of(solved, solved.built.of[e.id][-1])
        yield from one("brush amps", brush, e.get("brush_amps"), "A", fails)
    elif kind == "reservoir":
        fails = "it bursts"
        yield from one("volts", peak * MAINS_RISE, e.get("volts_dc"), "V", fails)
    elif kind == "rectifier":
        fails = "a string shorts end to end: the winding sees a short every other half cycle"
        yield from one("inverse volts", _inverse(solved, e), e.get("inverse_volts"), "V", fails)


def _inverse(solved: Solved, e: Element) -> float:
    """The highest volts a diode place sees in reverse, on a high line."""
    diodes = [p for p in solved.built.of[e.id] if isinstance(p, Diode)]
    if solved.run is None:
        peaks = INVERSE[str(e.figures["rectifier"])]
        return peaks * solved.after("piece").peak_volts * MAINS_RISE
    reverse = (float((-solved.run.over(d)).max()) for d in diodes)
    return MAINS_RISE * max(reverse, default=0.0)


def _piece(solved: Solved) -> Iterator[Beyond]:
    m = solved.rig.piece.figures
    out = solved.after("piece")
    fails = "insulation inside it breaks down, to the core or between layers; potting does not heal"
    if "rated_volts" in m:
        yield Beyond(
            at="piece",
            name="the piece",
            what="peak volts of its winding",
            has=out.peak_volts,
            bears=DRIVEN * math.sqrt(2) * m["rated_volts"],
            unit="V",
            fails=fails,
        )
    if "rated_amps" in m:
        yield Beyond(
            at="piece",
            name="the piece",
            what="amps of its winding",
            has=out.amps,
            bears=MAINS_RISE * m["rated_amps"],
            unit="A",
            fails="the winding cooks: seconds to minutes, by its copper",
        )


def _breaker(solved: Solved) -> Iterator[Beyond]:
    bears = solved.rig.supply.get("breaker_amps")
    if bears is not None:
        yield Beyond(
            at="supply",
            name="the breaker",
            what="amps from the wall",
            has=solved.line.amps,
            bears=BREAKER_HOLDS * bears,
            unit="A",
            fails="it trips, sooner or later by its curve",
        )
