"""A floating output as one wiring graph: its conductors, its case, earth, the clip of an earthed
instrument; every pair solved with a body across it, before and after a first fault.
"""

import itertools
from collections.abc import Iterator, Sequence

from msgspec import Struct

from greyfell.core.isolation.body import body_ohms
from greyfell.core.network.parts import EARTH, Capacitor, CircuitPart, Resistor, Source
from greyfell.core.network.phasors import solved

LINE, NEUTRAL, CASE, CLIP = "L", "N", "case", "clip"
TIES = ("earth", "float", "neutral")
FAULTS, CLIPS = ("none", "line", "neutral"), ("none", "L", "N")
DEVICES = ("none", "ahead", "after-bond")
NOTHING, DEVICE, BREAKER = "nothing", "residual-current device", "breaker"
TIED, HELD, APART = 0.1, 0.05, 1e9
"""Ω of a bond, of a fault or clip that holds, of what is not joined."""
SOURCE_OHMS = 1.0
"""Ω of the transformer and its leads; a bolted fault is a hundred amps and more. From memory."""
TRIPS_AMPS = 0.03
"""A device for persons trips by here. IEC 61008-1."""
FAULT_AMPS = 20.0
"""Amps in the loop from which the breaker of the output is taken to open: a 2 to 6 A breaker."""
ROUNDS = 8


class Outlet(Struct, frozen=True, kw_only=True):
    """The wiring: output volts and hertz, what the outlet's earth pin (the case of what is plugged
    in) is tied to, farads between the windings with the mains behind them, first fault, clip of an
    earthed instrument, residual-current device. The core stays earthed in all of it.
    """

    volts: float
    hertz: float
    case: str
    farads: float
    fault: str = "none"
    clip: str = "none"
    device: str = "none"


class Touch(Struct, frozen=True, kw_only=True):
    """One pair of points with a body across it: volts open, amps through the body, what clears
    it.
    """

    one: str
    two: str
    volts: float
    amps: float
    cleared: str


def parts_of(outlet: Outlet, sense: float = 1.0) -> list[CircuitPart]:
    """The wiring as parts: the output's source, what couples from the mains (whose winding stands
    at half of its volts, in one sense or the other), the ties.
    """
    mains = Source(name="VM", one="mains", volts=sense * outlet.volts / 2, hertz=outlet.hertz)
    half = outlet.farads / 2
    return [
        Source(name="VS", one="s", two=NEUTRAL, volts=outlet.volts, hertz=outlet.hertz),
        Resistor(name="RS", one="s", two=LINE, ohms=SOURCE_OHMS),
        mains,
        Capacitor(name="CL", one="mains", two=LINE, farads=half),
        Capacitor(name="CN", one="mains", two=NEUTRAL, farads=half),
        Resistor(name="RE", one=CASE, ohms=TIED if outlet.case != "float" else APART),
        Resistor(
            name="RN", one=CASE, two=NEUTRAL, ohms=TIED if outlet.case == "neutral" else APART
        ),
        Resistor(name="RD", one=NEUTRAL, ohms=APART),
        *_wrong(outlet),
    ]


def _wrong(outlet: Outlet) -> Iterator[CircuitPart]:
    # a fault to the case, and an instrument's clip that is earthed
    fault = {"line": LINE, "neutral": NEUTRAL}.get(outlet.fault)
    if fault is not None:
        yield Resistor(name="RF", one=fault, two=CASE, ohms=HELD)
    if outlet.clip != "none":
        yield Resistor(name="RC", one=CLIP, ohms=TIED)
        yield Resistor(name="RK", one=outlet.clip, two=CLIP, ohms=HELD)


def points_of(outlet: Outlet) -> tuple[str, ...]:
    """Points that a hand may meet."""
    clip = (CLIP,) if outlet.clip != "none" else ()
    return (LINE, NEUTRAL, CASE, EARTH, *clip)


def touches(outlet: Outlet, body: float | None = None) -> list[Touch]:
    """Every pair with a body across it; `body` ohms, else by the volts, the lowest of twenty
    people. The worse of both senses in which the windings may lie. V, A.
    """
    senses = [_touched(outlet, parts_of(outlet, sense), body) for sense in (1.0, -1.0)]
    return [max(pair, key=lambda t: (t.amps, t.volts)) for pair in zip(*senses, strict=True)]


def _touched(outlet: Outlet, parts: list[CircuitPart], body: float | None) -> list[Touch]:
    """Every pair with the windings in one sense."""
    found = solved(parts, hertz=outlet.hertz)
    loop = abs(found.amps(parts[1]))
    out = []
    for one, two in itertools.combinations(points_of(outlet), 2):
        volts = abs(found.volts(one, two))
        amps = _through(parts, outlet, (one, two), body or body_ohms(volts)[0], body)
        cleared = _cleared(outlet, one, two, amps, loop)
        out.append(Touch(one=one, two=two, volts=volts, amps=amps, cleared=cleared))
    return out


def _through(
    parts: Sequence[CircuitPart],
    outlet: Outlet,
    pair: tuple[str, str],
    ohms: float,
    fixed: float | None,
) -> float:
    """Amps through a body across a pair: its ohms follow the volts that are left across it."""
    amps = 0.0
    for _ in range(ROUNDS):
        across = Resistor(name="BODY", one=pair[0], two=pair[1], ohms=ohms)
        amps = abs(solved([*parts, across], hertz=outlet.hertz).amps(across))
        if fixed is not None:
            break
        new = body_ohms(max(amps * ohms, 1.0))[0]
        if abs(new - ohms) < 1.0:
            break
        ohms = new
    return amps


def _cleared(outlet: Outlet, one: str, two: str, amps: float, loop: float) -> str:
    """What ends it: a breaker where a fault or clip shorts the output, a device behind the bond
    where the current returns through earth; a device ahead of the transformer sees none of it.
    """
    if loop > FAULT_AMPS:
        return BREAKER
    earthy = {CASE, EARTH, CLIP}
    live = {one, two} & {LINE} and {one, two} & earthy
    if outlet.device == "after-bond" and outlet.case == "neutral" and live and amps >= TRIPS_AMPS:
        return DEVICE
    return NOTHING


def why_not(outlet: Outlet) -> str:
    """Why an output does not isolate, in a sentence; empty where nothing cancels it."""
    if outlet.case == "neutral":
        return "Its neutral is tied to earth: a hand on the line and on anything earthed closes it."
    if outlet.clip != "none":
        return (
            f"The clip of an earthed instrument ties {outlet.clip} to earth: the other conductor "
            "stands at full volts to it, and nothing told."
        )
    if outlet.fault != "none" and outlet.case == "earth":
        which = "line" if outlet.fault == "line" else "neutral"
        return f"A first fault ties its {which} to the earthed case, silently."
    return ""
