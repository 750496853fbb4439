"""A winding as a source: its own resistance and reactance, what it gives into any resistance, and
the load that takes most.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass

from msgspec import Struct

from greyfell.core.errors import FieldError
from greyfell.core.figures.quantity import Quantity, corners, exact
from greyfell.core.planner_kit.asking import Input, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, ShownRow, shown

ASSUMED = ("all resistance to all reactance: no watts were read",)


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """Open volts; impedance, or amps and watts of its short; loads to look at; the primary's side
    where the ratio is known.
    """

    open_volts: Quantity = asked("Open volts", "V", above=0, at_most=1e6)
    resistance_ohms: Quantity | None = asked(
        "Its resistance", "Ω", default=None, at_least=0, at_most=1e9
    )
    reactance_ohms: Quantity | None = asked(
        "Its reactance", "Ω", default=None, at_least=0, at_most=1e9
    )
    short_amps: Quantity | None = asked("or amps, shorted", "A", default=None, above=0, at_most=1e6)
    short_watts: Quantity | None = asked(
        "and watts, shorted", "W", default=None, above=0, at_most=1e8
    )
    power_factor_shorted: float | None = asked(
        "or power factor, shorted", default=None, at_least=0, at_most=1
    )
    loads_ohms: tuple[float, ...] = asked("Loads", "Ω", default=(), above=0, at_most=1e9)
    primary_over_secondary: float | None = asked(
        "Primary turns over its own", default=None, above=0, at_most=1e6
    )
    magnetising_amps: float = asked("Primary, idle", "A", default=0.0, at_least=0, at_most=1e5)


@dataclass(frozen=True, kw_only=True)
class Point(ShownRow):
    """One load: its ohms and what it takes; amps of the primary and their power factor."""

    ohms: Quantity = shown("Load", "Ω")
    volts: Quantity = shown("Volts", "V")
    amps: Quantity = shown("Amps", "A")
    watts: Quantity = shown("Watts", "W")
    primary_amps: Quantity | None = shown("Primary", "A")
    power_factor: Quantity | None = shown("Power factor")


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """Its own impedance, its short, the load that takes most, and a point for each load."""

    most_watts: Quantity = shown("Most into a resistance", "W", lead=True)
    match_ohms: Quantity = shown("at this load", "Ω", lead=True)
    source_resistance_ohms: Quantity = shown("Its resistance", "Ω")
    source_reactance_ohms: Quantity = shown("Its reactance", "Ω")
    short_amps_as_built: Quantity = shown("Shorted", "A")
    volts_at_match: Quantity = shown("Volts there", "V")
    amps_at_match: Quantity = shown("Amps there", "A")
    points: tuple[Point, ...] = shown("Into each load")


def work(given: Given) -> Found:
    """I = E/√((Rs + R)² + Xs²); R* = √(Rs² + Xs²), P = E²/(2(R* + Rs)). REF-T-06, REF-T-07. V, A,
    Ω, W; loads resistive, the magnetising amps a quarter behind the primary's volts.

    Raises FieldError where neither impedance nor short is given, or both.

    >>> told = Given(open_volts=exact(230.0), resistance_ohms=exact(5.0),
    ...              reactance_ohms=exact(40.0))
    >>> found = work(told)
    >>> round(found.match_ohms.value, 2), round(found.most_watts.value, 1)
    (40.31, 583.7)
    """
    own = _own(given)
    match = own.of(lambda _, r, x: math.hypot(r, x))
    at_match = own.of(lambda e, r, x: _amps(e, math.hypot(r, x), r, x))
    return Found(
        most_watts=own.of(lambda e, r, x: e * e / (2 * (math.hypot(r, x) + r))),
        match_ohms=match,
        source_resistance_ohms=own.of(lambda _, r, x: r),
        source_reactance_ohms=own.of(lambda _, r, x: x),
        short_amps_as_built=given.short_amps or own.of(lambda e, r, x: e / math.hypot(r, x)),
        volts_at_match=corners(lambda i, z: i * z, at_match, match),
        amps_at_match=at_match,
        points=tuple(_point(given, load, own) for load in given.loads_ohms),
    )


class Own(Struct, frozen=True):
    """A source by what was given of it: open volts and two more figures, and what resistance and
    reactance these are, V and Ω.
    """

    inputs: tuple[Quantity, Quantity, Quantity]
    ohms: Callable[[float, float, float], tuple[float, float]]

    def of(self, function: Callable[[float, float, float], float]) -> Quantity:
        """A function of its volts, resistance and reactance, at every corner of what was given."""
        return corners(lambda e, a, b: function(e, *self.ohms(e, a, b)), *self.inputs)


def _own(given: Given) -> Own:
    """The source by its ohms, or by volts over amps and the power factor of its short: the middle
    one, anything from none to one, where no watts were read. Raises FieldError.
    """
    r, x, amps = given.resistance_ohms, given.reactance_ohms, given.short_amps
    if amps is None:
        if r is None or x is None:
            raise FieldError(
                "short_amps", "Give resistance and reactance both, or the amps of its short."
            )
        if r.low <= 0 and x.low <= 0:
            raise FieldError("reactance_ohms", "A source without any ohms has no short.")
        return Own((given.open_volts, r, x), lambda _, r, x: (r, x))
    if r is not None or x is not None:
        raise FieldError("short_amps", "Give ohms, or the amps of its short; not both.")
    factor = _factor(given, amps) or Quantity(math.sqrt(0.5), 0.0, 1.0, ASSUMED)
    return Own((given.open_volts, amps, factor), _by_short)


def _by_short(volts: float, amps: float, factor: float) -> tuple[float, float]:
    """Resistance and reactance of a short of so many amps and this power factor. Ω."""
    z = volts / amps
    return z * factor, z * math.sqrt(max(0.0, 1 - factor * factor))


def _factor(given: Given, amps: Quantity) -> Quantity | None:
    """The power factor of the short. Raises FieldError where watts are more than volt-amperes."""
    if given.power_factor_shorted is not None:
        return exact(given.power_factor_shorted, "given")
    if given.short_watts is None:
        return None
    found = corners(lambda w, e, i: w / (e * i), given.short_watts, given.open_volts, amps)
    if found.low > 1:
        raise FieldError("short_watts", "More watts than volts times amps: read them again.")
    return Quantity(min(1.0, found.value), found.low, min(1.0, found.high), found.basis)


def _amps(volts: float, load: float, r: float, x: float) -> float:
    return volts / math.hypot(r + load, x)


def _point(given: Given, load: float, own: Own) -> Point:
    """What one load takes."""
    amps = own.of(lambda e, r, x: _amps(e, load, r, x))
    primary = factor = None
    if given.primary_over_secondary is not None:
        primary = own.of(lambda e, r, x: abs(_primary(given, e, load, r, x)))
        factor = own.of(lambda e, r, x: _power_factor(given, e, load, r, x))
    return Point(
        ohms=exact(load, "given"),
        volts=corners(lambda i: i * load, amps),
        amps=amps,
        watts=corners(lambda i: i * i * load, amps),
        primary_amps=primary,
        power_factor=factor,
    )


def _primary(given: Given, volts: float, load: float, r: float, x: float) -> complex:
    """Amps of the primary against its volts: the load's over the ratio, the idle ones behind."""
    ratio = given.primary_over_secondary or 1.0
    return volts / complex(r + load, x) / ratio - 1j * given.magnetising_amps


def _power_factor(given: Given, volts: float, load: float, r: float, x: float) -> float:
    amps = _primary(given, volts, load, r, x)
    return amps.real / abs(amps)


SOURCE = Planner(
    name="source",
    title="A winding as a source",
    purpose="What a winding gives into a load, and the load that takes most of it.",
    given=Given,
    found=Found,
    work=work,
    why=Formula(
        text="R* = √(Rs² + Xs²); P = E²/(2(R* + Rs))",
        source="REF-T-06, REF-T-07",
        put="√({source_resistance_ohms}² + {source_reactance_ohms}²) = {match_ohms}: {most_watts}",
    ),
    cautions=(
        Caution(
            code="measure-watts",
            severity="caution",
            sentence=(
                "Without watts at the short nobody knows what is resistance and what reactance: "
                "the power differs twofold. Read them."
            ),
            when=lambda given, found: (
                given.short_amps is not None
                and given.short_watts is None
                and given.power_factor_shorted is None
            ),
        ),
        Caution(
            code="saturating-shunts",
            severity="note",
            sentence=(
                "Shunts saturate at full volts: more flows than a short at reduced volts, carried "
                "on, tells."
            ),
        ),
    ),
    example={
        "open_volts": 230.0,
        "resistance_ohms": 5.0,
        "reactance_ohms": 40.0,
        "loads_ohms": [50.0],
    },
    checks=(
        Check(
            given={"open_volts": 230.0, "resistance_ohms": 5.0, "reactance_ohms": 40.0},
            expected={"match_ohms": 40.31, "most_watts": 583.7},
            source="REF-T-07a",
        ),
        Check(
            given={"open_volts": 15000.0, "resistance_ohms": 0.0, "reactance_ohms": 500e3},
            expected={"most_watts": 225.0},
            source="REF-T-07b",
        ),
        Check(
            given={"open_volts": 12.0, "short_amps": 0.435, "short_watts": 4.20},
            expected={"source_resistance_ohms": 22.20, "source_reactance_ohms": 16.38},
            source="REF-T-02b",
        ),
    ),
)
