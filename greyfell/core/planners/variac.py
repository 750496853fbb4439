"""A variac ahead of a winding: where its dial stands, what its brush carries, how far it may be
wound up, and the sheet of steps with their stops.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from msgspec.structs import replace

from greyfell.core.errors import FieldError
from greyfell.core.figures.limits import FUSES, STOP_AMPS
from greyfell.core.figures.quantity import Quantity, corners, exact
from greyfell.core.figures.solve import crossing
from greyfell.core.planner_kit.asking import Input, asked
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, ShownRow, shown
from greyfell.core.planners.starts import (
    CONDEMNED,
    DOUBTFUL,
    borne_volts,
    plate_hertz,
    supply_hertz,
    supply_volts,
    sweep_points,
)

READ = 0.03
"""What amps read off between points may err by, ±. From memory."""
USUAL_STEPS = 10
HUM = 1.1
"""Above so much of its own line volts a variac's iron, and what it feeds, saturates on a high
line. IEC 60038; common practice."""


@dataclass(frozen=True, kw_only=True)
class Point(Input):
    """One point of the winding's sweep."""

    volts: float = asked("Sweep: volts", "V", above=0, at_most=1e5)
    amps: float = asked("Sweep: amps", "A", above=0, at_most=1e5)
    watts: float | None = asked("Sweep: watts", "W", default=None, at_least=0, at_most=1e7)


@dataclass(frozen=True, kw_only=True)
class Dial(Input):
    """One reading of the dial against a meter."""

    dial: float = asked("Dial shows", at_least=0, at_most=1e4)
    volts: float = asked("Meter shows", "V", at_least=0, at_most=1e5)


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """The variac, the winding behind it, where it is wanted, and its plate."""

    line_volts: Quantity = asked("Line", "V", above=0, at_most=1e4, start=supply_volts)
    brush_amps: float = asked("Its brush bears", "A", above=0, at_most=1e3, slide=(1, 30))
    most_fraction: float = asked("Top of its dial, of the line", default=1.17, above=0, at_most=3)
    points: tuple[Point, ...] = asked(
        "Points of the winding's sweep",
        help="as 115V 0.4A 20W; 230V 1.9A 75W",
        start=sweep_points,
    )
    wanted_volts: float = asked("Wanted", "V", above=0, at_most=1e4, slide=(10, 260), chosen=True)
    load_amps: float = asked("Load besides", "A", default=0.0, at_least=0, at_most=1e4)
    plate_volts: float | None = asked(
        "Plate volts", "V", default=None, above=0, at_most=1e4, start=borne_volts
    )
    plate_hertz: float | None = asked(
        "Plate hertz", "Hz", default=None, above=0, at_most=1e4, start=plate_hertz
    )
    supply_hertz: float = asked(
        "Supply hertz", "Hz", default=50.0, above=0, at_most=1e4, start=supply_hertz
    )
    steps: int = asked("Steps on the sheet", default=USUAL_STEPS, at_least=2, at_most=50)
    dial_readings: tuple[Dial, ...] = asked(
        "Dial against a meter, two readings", default=(), help="as 20 46V; 90 209V"
    )


@dataclass(frozen=True, kw_only=True)
class Step(ShownRow):
    """One step of the wind-up sheet."""

    volts: Quantity = shown("Volts", "V")
    amps: Quantity = shown("Expect", "A")
    watts: Quantity | None = shown("Watts", "W")
    stop_above_amps: Quantity = shown("Stop above", "A")


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """Where it stands, what it carries, how far it goes, and the sheet."""

    setting_fraction: Quantity = shown("Setting, of the line", lead=True)
    dial_setting: Quantity | None = shown("which its dial shows as")
    brush_amps_drawn: Quantity = shown("Through the brush", "A", lead=True)
    line_amps: Quantity = shown("From the line", "A")
    headroom_amps: Quantity = shown("Left to the brush", "A")
    fuse_amps: Quantity = shown("Fast fuse at the brush", "A")
    most_volts: Quantity = shown("Wind up no further than", "V")
    brush_limit_volts: Quantity | None = shown("The brush's own limit is at", "V")
    sheet: tuple[Step, ...] = shown("Wind-up sheet")


def work(given: Given) -> Found:
    """Brush amps |I_load + I_winding|, the winding's along its points log on log, its watts in
    phase; line amps = brush × setting. REF-B-02; autotransformer. V, A, W.

    Raises FieldError where fewer than two points, or one dial reading, are given.

    >>> told = Given(line_volts=exact(230.0), brush_amps=5.0, wanted_volts=115.0, points=(
    ...     Point(volts=115.0, amps=0.4, watts=20.0), Point(volts=230.0, amps=1.9, watts=75.0)))
    >>> found = work(told)
    >>> found.setting_fraction.value, found.line_amps.value, found.fuse_amps.value
    (0.5, 0.2, 5.0)
    """
    points = sorted(given.points, key=lambda p: p.volts)
    falls = [b for a, b in pairwise(points) if b.amps < a.amps * (1 - 2 * READ)]
    if falls:
        said = f"Amps fall at {falls[0].volts:g} V, and a winding's rise: read that point again."
        raise FieldError("points", said)
    if len({p.volts for p in points}) < 2:
        raise FieldError("points", "A sweep has two points at least, at different volts.")
    drawn = _drawn(given, points, given.wanted_volts)
    setting = corners(lambda line: given.wanted_volts / line, given.line_volts)
    limit = _brush_limit(given, points)
    most = _most(given, limit)
    return Found(
        setting_fraction=setting,
        dial_setting=_dial(given),
        brush_amps_drawn=drawn,
        line_amps=corners(lambda i, share: i * share, drawn, setting),
        headroom_amps=Quantity(
            given.brush_amps - drawn.value,
            given.brush_amps - drawn.high,
            given.brush_amps - drawn.low,
            drawn.basis,
        ),
        fuse_amps=exact(_fuse(given.brush_amps), "IEC 60127-2"),
        most_volts=most,
        brush_limit_volts=limit,
        sheet=tuple(_steps(given, points, most.value)),
    )


def _along(points: Sequence[Point], volts: float) -> tuple[float, float | None]:
    """Amps and watts of the winding at some volts, log on log; beyond the ends by the last
    slope.
    """
    k = next((n for n in range(1, len(points) - 1) if volts < points[n].volts), len(points) - 1)
    one, two = points[k - 1], points[k]
    share = math.log(volts / one.volts) / math.log(two.volts / one.volts)
    amps = math.exp(math.log(one.amps) + share * math.log(two.amps / one.amps))
    if not one.watts or not two.watts:
        return amps, None
    return amps, math.exp(math.log(one.watts) + share * math.log(two.watts / one.watts))


def _drawn(given: Given, points: Sequence[Point], volts: float) -> Quantity:
    """Amps through the brush: the load in phase, the winding's own a quarter behind but for its
    watts.
    """
    amps, watts = _along(points, volts)
    real = min(amps, (watts or 0.0) / volts)
    across = math.sqrt(max(0.0, amps**2 - real**2))
    value = math.hypot(given.load_amps + real, across)
    return Quantity(value, value * (1 - READ), value * (1 + READ), ("points",))


def _brush_limit(given: Given, points: Sequence[Point]) -> Quantity | None:
    """Volts at which the brush carries what it bears; None where the dial ends before."""
    top = given.most_fraction * given.line_volts.value
    if _drawn(given, points, top).value < given.brush_amps:
        return None
    ends = []
    for scale in (1.0, 1 + READ, 1 - READ):
        borne = given.brush_amps / scale

        def over(volts: float, borne: float = borne) -> bool:
            return _drawn(given, points, volts).value > borne

        ends.append(crossing(over, top * 1e-3, top * 1.5).at)
    return Quantity(ends[0], ends[1], ends[2], ("points", "brush"))


def _most(given: Given, limit: Quantity | None) -> Quantity:
    """The least of dial, brush and plate volts per hertz; without a plate the line's own volts."""
    top = corners(lambda line: given.most_fraction * line, given.line_volts)
    found = [top, *([limit] if limit is not None else [])]
    if given.plate_volts is not None:
        hertz = given.plate_hertz or given.supply_hertz
        found.append(exact(given.plate_volts * given.supply_hertz / hertz, "plate"))
    else:
        found.append(replace(given.line_volts, basis=("the line: no plate says more",)))
    return min(found, key=lambda q: q.value)


def _fuse(brush: float) -> float:
    """The largest fuse that is sold and not above the brush. IEC 60127-2."""
    held = [x for x in FUSES if x <= brush]
    return held[-1] if held else FUSES[0]


def _dial(given: Given) -> Quantity | None:
    """What the dial shows where it is wanted, by two readings of it. Raises FieldError."""
    if not given.dial_readings:
        return None
    if len(given.dial_readings) != 2:
        raise FieldError("dial_readings", "A dial is put right by two readings, low and high.")
    one, two = given.dial_readings
    if one.volts == two.volts:
        raise FieldError("dial_readings", "The two readings are at the same volts: take others.")
    slope = (two.dial - one.dial) / (two.volts - one.volts)
    return exact(one.dial + slope * (given.wanted_volts - one.volts), "two readings")


def _steps(given: Given, points: Sequence[Point], top: float) -> list[Step]:
    """Steps up to the top, evenly, with what to expect and where to stop."""
    out = []
    for n in range(1, given.steps + 1):
        volts = top * n / given.steps
        amps, (_, watts) = _drawn(given, points, volts), _along(points, volts)
        told = None if watts is None else Quantity(watts, 0.9 * watts, 1.1 * watts, ("points",))
        stop = exact(STOP_AMPS * amps.high, "1.3 times the most expected")
        out.append(Step(volts=exact(volts), amps=amps, watts=told, stop_above_amps=stop))
    return out


VARIAC = Planner(
    name="variac",
    title="A variac ahead of it",
    purpose="Where the dial stands, what the brush carries, how far to wind up, step by step.",
    given=Given,
    found=Found,
    work=work,
    why=Formula(
        text="I_brush = |I_load + I_winding|; I_line = I_brush · setting",
        source="REF-B-02; autotransformer",
        put="{wanted_volts} of {line_volts}: {brush_amps_drawn} through the brush, {line_amps} "
        "from the line",
    ),
    cautions=(
        Caution(
            code="over-brush",
            severity="stop",
            sentence="{brush_amps_drawn} through a brush that bears {brush_amps}: it burns a spot.",
            when=lambda given, found: found.brush_amps_drawn.high > given.brush_amps,
        ),
        Caution(
            code="over-the-top",
            severity="stop",
            sentence=(
                "{wanted_volts} is more than {most_volts}, the most for brush, dial and plate; "
                "without a plate nothing is wound above the line."
            ),
            when=lambda given, found: given.wanted_volts > found.most_volts.value,
        ),
        Caution(
            code="over-the-line",
            severity="caution",
            sentence=(
                "Above the line's own volts the variac saturates too; its top is measured, not "
                "believed."
            ),
            when=lambda given, found: given.wanted_volts > HUM * given.line_volts.value,
        ),
        Caution(
            code="no-isolation",
            severity="caution",
            sentence=(
                "A variac isolates nothing and limits nothing: its output is the line's. The fast "
                "fuse stands at the brush; switched on at zero, never opened."
            ),
        ),
    ),
    of_piece=(CONDEMNED, DOUBTFUL),
    draws={"variac": {"brush_amps": "brush_amps", "line_volts": "line_volts"}},
    example={
        "line_volts": 230.0,
        "brush_amps": 5.0,
        "wanted_volts": 200.0,
        "points": [
            {"volts": 60, "amps": 0.15, "watts": 5},
            {"volts": 115, "amps": 0.4, "watts": 20},
            {"volts": 180, "amps": 0.8, "watts": 45},
            {"volts": 230, "amps": 1.9, "watts": 75},
        ],
    },
    checks=(
        Check(
            given={
                "line_volts": 230.0,
                "brush_amps": 5.0,
                "wanted_volts": 115.0,
                "load_amps": 3.0,
                "points": [{"volts": 57.5, "amps": 2.0}, {"volts": 115.0, "amps": 4.0}],
            },
            expected={"brush_amps_drawn": 5.0, "line_amps": 2.5, "setting_fraction": 0.5},
            source="the triangle 3-4-5; an autotransformer at half takes half from the line",
        ),
        Check(
            given={
                "line_volts": 120.0,
                "brush_amps": 20.0,
                "wanted_volts": 90.0,
                "points": [{"volts": 50.0, "amps": 0.1}, {"volts": 100.0, "amps": 0.4}],
                "plate_volts": 120.0,
                "plate_hertz": 60.0,
                "supply_hertz": 50.0,
            },
            expected={"most_volts": 100.0, "fuse_amps": 20.0},
            source="REF-M-02: 120 V 60 Hz iron on 50 Hz bears 100 V",
        ),
    ),
)
