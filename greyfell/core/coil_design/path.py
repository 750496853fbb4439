"""The path of a high current: parts by their millivolts or milliohms, their sum against the loop,
what the sum leaves over, and what a repair would gain.
"""

import math
from collections.abc import Sequence

from msgspec import Struct

from greyfell.core.errors import FieldError
from greyfell.core.figures.quantity import Quantity, corners

SAME = 1e-9


class PathPart(Struct, frozen=True, kw_only=True):
    """One part of the path: title, ohms with range, the part that it lies within ("" where none),
    whether it is assumed.
    """

    title: str
    ohms: Quantity
    within: str = ""


class CurrentPath(Struct, frozen=True, kw_only=True):
    """The path added up: ohms of the parts that count, the loop's (None where no open volts are
    told), what of the loop is reactance, whether all of it can be, and the reading to repeat.
    """

    resistance_ohms: Quantity
    loop_ohms: Quantity | None
    reactance_ohms: Quantity | None
    consistent: bool
    repeat: str


def added(parts: Sequence[PathPart]) -> Quantity:
    """Ohms of all parts that lie in no other, their ranges at their worst."""
    tops = [p for p in parts if not p.within]
    basis = ("sum of the parts",)
    return Quantity(
        sum(p.ohms.value for p in tops),
        sum(p.ohms.low for p in tops),
        sum(p.ohms.high for p in tops),
        basis,
    )


def path(
    parts: Sequence[PathPart],
    amps: Quantity,
    open_volts: Quantity | None,
    totals: Sequence[tuple[str, float]] = (),
) -> CurrentPath:
    """Parts against the loop: Z = V/I, X = √(Z² − R²); parts within another may not sum to more
    than it; stated totals may not contradict what was measured. Ω, A, V.

    Raises FieldError where a part lies within one that is not there, or within itself.
    """
    _check(parts)
    resistance = added(parts)
    loop = None if open_volts is None else corners(lambda v, i: v / i, open_volts, amps)
    reactance = None if loop is None else _left_over(loop, resistance)
    worst = _worst(parts, resistance, loop, totals)
    return CurrentPath(
        resistance_ohms=resistance,
        loop_ohms=loop,
        reactance_ohms=reactance,
        consistent=not worst,
        repeat=worst,
    )


def _check(parts: Sequence[PathPart]) -> None:
    titles = [p.title for p in parts]
    for n, p in enumerate(parts):
        if titles.count(p.title) > 1:
            raise FieldError(f"parts.{n}.title", f"Two parts are called “{p.title:.40}”.")
        if p.within and (p.within not in titles or p.within == p.title):
            said = f"“{p.title:.40}” lies within “{p.within:.40}”, which is no other part."
            raise FieldError(f"parts.{n}.within", said)


def _left_over(loop: Quantity, resistance: Quantity) -> Quantity:
    """What the parts leave over of the loop is reactance: no joint takes it away."""

    def left(z: float, r: float) -> float:
        return math.sqrt(max(0.0, z * z - r * r))

    value = left(loop.value, resistance.value)
    return Quantity(
        value,
        min(left(loop.low, resistance.high), value),
        max(left(loop.high, resistance.low), value),
        ("what the millivolts leave over",),
    )


def _worst(
    parts: Sequence[PathPart],
    resistance: Quantity,
    loop: Quantity | None,
    totals: Sequence[tuple[str, float]],
) -> str:
    """The part to read again; empty where everything may be true at once."""
    for outer in parts:
        inner = [p for p in parts if p.within == outer.title]
        if inner and sum(p.ohms.low for p in inner) > outer.ohms.high * (1 + SAME):
            return max(inner, key=lambda p: p.ohms.value).title
    for title, ohms in totals:
        if _contradicts(parts, resistance, loop, title, ohms):
            return title
    if loop is not None and resistance.low > loop.high * (1 + SAME):
        return max((p for p in parts if not p.within), key=lambda p: p.ohms.value).title
    return ""


STATED = 0.05
"""A total that is stated, not measured, is taken to so much, ±."""


def _contradicts(
    parts: Sequence[PathPart], resistance: Quantity, loop: Quantity | None, title: str, ohms: float
) -> bool:
    """Whether a stated total is not what its part, its inner parts or the whole add up to."""
    low, high = ohms * (1 - STATED), ohms * (1 + STATED)
    named = next((p.ohms for p in parts if p.title == title), None)
    inner = [p.ohms for p in parts if p.within == title]
    if named is not None and (named.low > high or named.high < low):
        return True
    if inner and sum(q.low for q in inner) > high:
        return True
    if named is None and not inner:
        return resistance.low > high or (loop is not None and loop.high < low)
    return False


def amps_without(
    found: CurrentPath, parts: Sequence[PathPart], gone: Sequence[str], volts: Quantity
) -> float:
    """Amps with some parts at nought: V/√((R − ΣR_gone)² + X²); the reactance stays. A. Ohm's law.

    Raises FieldError where a part is named that is not there.
    """
    titles = {p.title: p for p in parts}
    taken = 0.0
    for title in gone:
        if title not in titles:
            raise FieldError("without", f"“{title:.40}” is none of the parts.")
        if titles[title].within not in gone:
            taken += titles[title].ohms.value
    left = max(found.resistance_ohms.value - taken, 0.0)
    x = 0.0 if found.reactance_ohms is None else found.reactance_ohms.value
    whole = math.hypot(left, x)
    if whole <= 0:
        raise FieldError("without", "Nothing would be left of the loop.")
    return volts.value / whole


TYPICAL = (
    ("bolted lug, clean", 10e-6, 50e-6),
    ("crimp of 35 mm²", 20e-6, 80e-6),
    ("soldered or brazed lug", 5e-6, 30e-6),
    ("electrode clamp or jaws", 50e-6, 300e-6),
    ("electrode of copper, 10 mm, 100 mm long", 20e-6, 30e-6),
    ("crocodile clip", 5e-3, 30e-3),
)
"""Joints that nobody measured: title, least and most Ω; offered, marked assumed. Common practice,
9.3 of the references."""


def typical() -> list[PathPart]:
    """Usual joints with their ranges, each assumed."""
    return [
        PathPart(title=title, ohms=Quantity((low * high) ** 0.5, low, high, ("assumed", "usual")))
        for title, low, high in TYPICAL
    ]


SOFTENS_VOLTS, MELTS_VOLTS = 0.12, 0.43
"""Volts across a copper joint at which it softens and melts; iron 0.2 and 0.6. Holm, Electric
Contacts, from memory."""
