"""A network as a netlist for circuit simulators: elements and laws, nothing of this program."""

import re
from collections.abc import Sequence

from greyfell.core.network.curve import LAW
from greyfell.core.network.laws import LEAK
from greyfell.core.network.parts import (
    EARTH,
    Arc,
    Capacitor,
    CircuitPart,
    CoreInductor,
    Diode,
    Filament,
    Ideal,
    Inductor,
    Resistor,
    Sink,
    Source,
)

DIODE_IS = 1e-9
SHARPNESS, SHARPEST, BLUNTEST = 0.1, 0.05, 2.0
"""A diode of the netlist turns within a few hundredths of its drop, by its emission coefficient;
the rest of the drop stands in a source beside it.
"""
THERMAL_VOLTS = 0.025852
LN_HUNDRED_MILLIAMPS = 18.4
"""ln(0.1 A / IS): what is left of the drop at a tenth of an ampere is taken off the source."""
LAG_SECONDS = 0.1
"""Lag of a filament behind the square of its amps; common practice."""
UNREAL = 1e12
"""Ohms that give a flux node its way to earth."""


def netlist(title: str, parts: Sequence[CircuitPart]) -> str:
    """The lines of a netlist, begun by its title and without analysis: V, A, Ω, H, F, Wb.

    >>> print(netlist("a loop", [Source(name="V", one="a", volts=230.0, hertz=50.0),
    ...                          Resistor(name="R", one="a", ohms=10.0)]))
    * a loop
    VV a 0 SIN(0 325.269119 50 0 0 0)
    RR a 0 10
    .end
    <BLANKLINE>
    """
    lines = ["* " + re.sub(r"[^ -~]", "?", title)]
    for part in parts:
        lines += _lines(part)
    for n in sorted({_blunt(p) for p in parts if isinstance(p, Diode)}):
        lines.append(f".model {_model(n)} D(IS={DIODE_IS:g} N={n:g})")
    return "\n".join([*lines, ".end", ""])


def _lines(part: CircuitPart) -> list[str]:
    name, one, two = _safe(part.name), _safe(part.one), _safe(part.two)
    between = f"{one} {two}"
    if isinstance(part, Source):
        peak = 2**0.5 * part.volts
        turn = part.angle * 180 / 3.141592653589793
        return [f"V{name} {between} SIN({part.offset:g} {peak:.9g} {part.hertz:g} 0 0 {turn:.6g})"]
    if isinstance(part, Resistor):
        return [f"R{name} {between} {part.ohms:.9g}"]
    if isinstance(part, Sink):
        return [f"I{name} {between} {part.amps:.9g}"]
    if isinstance(part, Inductor):
        return [f"L{name} {between} {part.henries:.9g}"]
    if isinstance(part, Capacitor):
        return [f"C{name} {between} {part.farads:.9g} IC={part.volts:.9g}"]
    if isinstance(part, Ideal):
        return _ideal(part, name, one, two)
    if isinstance(part, CoreInductor):
        return [
            f"B{name} {between} I={part.law.expression(f'V(flux_{name})')}",
            f"Bf_{name} {EARTH} flux_{name} I=V({one},{two})",
            f"Cf_{name} flux_{name} {EARTH} 1 IC={part.flux:.9g}",
            f"Rf_{name} flux_{name} {EARTH} {UNREAL:g}",
        ]
    if isinstance(part, Diode):
        left = _blunt(part) * THERMAL_VOLTS * LN_HUNDRED_MILLIAMPS
        return [
            f"D{name} {one} d_{name} {_model(_blunt(part))}",
            f"Vd_{name} d_{name} r_{name} {part.law.volts - left:.9g}",
            f"Rd_{name} r_{name} {two} {part.law.ohms:.9g}",
            f"Rl_{name} {one} {two} {1 / LEAK:.9g}",
        ]
    if isinstance(part, Arc):
        return [f"B{name} {between} I={part.law.expression(f'V({one},{two})')}"]
    if isinstance(part, Filament):
        return _filament(part, name, one, two)
    raise TypeError(f"no netlist of {type(part).__name__}")


def _blunt(diode: Diode) -> float:
    """Its emission coefficient."""
    return min(max(SHARPNESS * diode.law.volts, SHARPEST), BLUNTEST)


def _model(emission: float) -> str:
    return f"turn{round(1000 * emission)}"


def _ideal(part: Ideal, name: str, one: str, two: str) -> list[str]:
    three, four = _safe(part.three), _safe(part.four)
    return [
        f"E{name} {one} e_{name} {three} {four} {part.ratio:.9g}",
        f"Ve_{name} e_{name} {two} 0",
        f"F{name} {three} {four} Ve_{name} {-part.ratio:.9g}",
    ]


def _filament(part: Filament, name: str, one: str, two: str) -> list[str]:
    """Its ohms by the mean square of its amps, which lags. REF-B-05."""
    square = f"(abs(V(q_{name}))+1e-9)/{part.amps**2:.9g}"
    ohms = f"{part.volts / part.amps:.9g}*pwr({square},{0.5 * (1 / LAW - 1):.9g})"
    return [
        f"B{name} {one} l_{name} V=I(Vl_{name})*{ohms}",
        f"Vl_{name} l_{name} {two} 0",
        f"Bq_{name} {EARTH} q_{name} I=I(Vl_{name})*I(Vl_{name})*{1 / LAG_SECONDS:g}",
        f"Cq_{name} q_{name} {EARTH} 1 IC={part.amps**2:.9g}",
        f"Rq_{name} q_{name} {EARTH} {LAG_SECONDS:g}",
    ]


def _safe(name: str) -> str:
    """A name as every simulator takes it."""
    return re.sub(r"[^0-9A-Za-z_]", "_", name)
