"""A few turns and their job: watts against the job's ohms, one curve a number of turns; the path as
a ladder of what each part takes; shots warming a winding.
"""

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np

from greyfell.core.coil_design.heat import rise_of_shot
from greyfell.core.evidence.record import Transformer
from greyfell.core.figures.notation import engineering
from greyfell.core.figures.quantity import Quantity
from greyfell.core.figures.wire import METALS
from greyfell.core.planner_kit.declare import Planned
from greyfell.core.planners.pulse_weld import amps_at
from greyfell.core.planners.weld_match import shot_of
from greyfell.web.drawings.graph import Axis, Band, Graph, Place, draw
from greyfell.web.drawings.shapes import Drawing, line, rect, text

POINTS = 60
SPREAD = 8.0
LEFT, RIGHT, TOP, ROW = 16.0, 414.0, 40.0, 38.0
MOST_PARTS, MOST_SHOTS = 12, 60
LEAST_WIDE = 3.0
Watts = Callable[[float], float]


def match(planned: Planned, _record: Transformer | None) -> Drawing:
    """Watts in the job against its ohms, one curve for each number of turns."""
    given, found = planned.given, planned.found
    turns = [r.turns for r in found.rows]

    def of(n: int) -> Watts:
        return lambda ohms: shot_of(given, n, ohms).job_watts

    best = next((r for r in found.rows if r.turns == found.best_turns), None)
    return turns_graph(given.job_ohms, [(n, of(n)) for n in turns], best and best.turns)


def _top(points: list[tuple[float, float]], words: str) -> Place:
    at, most = max(points, key=lambda p: p[1])
    return Place(words=words, x=at, y=most, look="sweep-point")


def turns_graph(
    job: Quantity, curves: Sequence[tuple[int, Watts]], best: int | None, named: str = "turns"
) -> Drawing:
    """One curve a number of turns, the job's range as a band, the best one thick."""
    low, high = job.low / SPREAD, job.high * SPREAD
    ohms = np.geomspace(low, high, POINTS)
    read = [(n, [(float(r), watts(float(r))) for r in ohms]) for n, watts in curves]
    top = max(w for _, points in read for _, w in points)
    told = {n: f"{n} {'turn' if n == 1 else named}" for n in (curves[0][0], best)}
    places = [_top(points, told.get(n, str(n))) for n, points in read]
    said = f"best with {best}" if best else "every number of turns trips the breaker"
    return draw(
        Graph(
            title=f"Watts in the job: {said}",
            desc="One curve a number of turns, against the ohms of the job.",
            x=Axis(words="ohms of the job", unit="Ω", low=low, high=high, log=True),
            y=Axis(words="watts in it", unit="W", low=0.0, high=1.12 * top),
            curves=[(points, "decay" if n == best else "sweep-before") for n, points in read],
            bands=[Band(low=job.low, high=job.high, words="the job", look="caution")],
            places=places,
            named=[("decay", "best that the breaker bears"), ("sweep-before", "others")],
        )
    )


def _discharge(given: Any, found: Any, last: float) -> list[tuple[float, float]]:
    # the ohms that leave the joules of the bank the heating that was found
    ohms = given.bank_volts**2 * given.bank_farads / 2 / found.heating.value
    return [(float(t), amps_at(given, ohms, float(t))) for t in np.linspace(0, last, 4 * POINTS)]


def _level(words: str, amps: float) -> Place:
    return Place(words=f"{words} {engineering(amps, 'A')}", y=amps)


def pulse(planned: Planned, _record: Transformer | None) -> Drawing:
    """Amps of the bank's pulse over time at the middle of every range, beside the amps and seconds
    that the weld asks for.
    """
    given, found = planned.given, planned.found
    low, high = found.wanted_seconds.low, found.wanted_seconds.high
    last = max(1.5 * high, found.pulse_seconds.value)
    curve = _discharge(given, found, last)
    most = 1.1 * max(found.peak_amps.value, found.wanted_amps.high)
    least = min(0.0, *(amps for _, amps in curve))
    peak = engineering(found.peak_amps.value, "A")
    return draw(
        Graph(
            title=f"The pulse: {found.verdict}, {peak} at its peak",
            desc="Amps after the switch, against the amps and seconds that the weld asks for.",
            x=Axis(words="after the switch", unit="s", low=0.0, high=last),
            y=Axis(words="amps", unit="A", low=least, high=most),
            curves=[(curve, "decay")],
            bands=[Band(low=low, high=high, words="the weld asks for so long", look="sound")],
            places=[
                _level("at least", found.wanted_amps.low),
                _level("at most", found.wanted_amps.high),
            ],
        )
    )


def ladder(planned: Planned, _record: Transformer | None) -> Drawing:
    """The loop from the winding and back: each part as wide as the watts it takes."""
    found = planned.found
    parts = list(found.parts_found)[:MOST_PARTS]
    loop, amps = found.loop_ohms, found.amps_found.value
    rows = len(parts) + (1 if found.reactance_ohms is not None else 0)
    drawing = Drawing(
        430,
        TOP + ROW * rows + 54,
        f"The path at {engineering(amps, 'A')}",
        "Each part as wide as the watts it takes, to one scale.",
    )
    most = max((p.watts.value for p in parts), default=1.0) or 1.0
    drawing.add(text(LEFT, 20, f"{engineering(amps, 'A')} through all of it", "t t-strong"))
    for n, p in enumerate(parts):
        y = TOP + ROW * n
        wide = max(LEAST_WIDE, (RIGHT - LEFT) * p.watts.value / most)
        look = "zone zone-caution" if n == 0 else "zone zone-sound"
        drawing.add(text(LEFT, y + 12, p.title, "t t-small"))
        said = f"{engineering(p.ohms.value, 'Ω')} · {engineering(p.volts.value, 'V')} · "
        said += engineering(p.watts.value, "W")
        drawing.add(text(RIGHT, y + 12, said, "t t-small mono", "end"))
        drawing.add(rect(LEFT, y + 17, wide, 12, look))
    y = TOP + ROW * len(parts)
    if found.reactance_ohms is not None:
        said = f"reactance {engineering(found.reactance_ohms.value, 'Ω')}: no joint takes it away"
        drawing.add(text(LEFT, y + 12, said, "t t-small quiet"))
        drawing.add(line(LEFT, y + 22, RIGHT, y + 22, "decay-safe"))
    below = TOP + ROW * rows + 22
    total = f"{engineering(found.resistance_ohms.value, 'Ω')} in the parts"
    whole = "" if loop is None else f"; the loop {engineering(loop.value, 'Ω')}"
    drawing.add(text(LEFT, below, total + whole, "t t-small mono"))
    words = "it adds up" if found.consistent else f"it does not add up: read “{found.repeat}” again"
    drawing.add(text(LEFT, below + 20, words, "t t-small" + ("" if found.consistent else " stop")))
    return drawing


def shots(planned: Planned, _record: Transformer | None) -> Drawing:
    """°C of the winding shot after shot with no rest, to its limit."""
    given, found = planned.given, planned.found
    start = given.ambient_celsius if given.start_celsius is None else given.start_celsius
    metal = METALS[given.material]
    celsius, points = start, [(0.0, start)]
    for n in range(1, min(found.shots_to_limit + 2, MOST_SHOTS) + 1):
        density = found.amps_per_mm2.value
        celsius += rise_of_shot(density, given.on_seconds, metal, celsius)
        points.append((float(n), min(celsius, 2 * given.limit_celsius)))
    top = max(1.2 * given.limit_celsius, points[-1][1] * 1.05)
    return draw(
        Graph(
            title=f"{found.shots_to_limit} shots to its limit",
            desc="Mean temperature of the winding, shot after shot without rest.",
            x=Axis(words="shots", unit="", low=0.0, high=max(points[-1][0], 1.0)),
            y=Axis(words="°C", unit="", low=0.0, high=top),
            curves=[(points, "decay")],
            places=[Place(words=f"limit {given.limit_celsius:g} °C", y=given.limit_celsius)],
            below="°C after so many shots without a rest, the mean",
        )
    )
