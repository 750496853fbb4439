"""A capacitor going down through a chain: volts against time on a log axis, with the safe line, how
long it is held, and what is left if it is let go early.
"""

import math

from greyfell.core.evidence.record import Transformer
from greyfell.core.figures.notation import engineering
from greyfell.core.planner_kit.declare import Planned
from greyfell.web.drawings.shapes import Drawing, Shape, circle, line, path, rect, text

LEFT, RIGHT, TOP, BOTTOM = 70.0, 440.0, 96.0, 270.0
LEAST_VOLTS = 1.0
"""The axis ends here: nothing of a bench matters below."""
STEPS = 40


def decay(planned: Planned, _record: Transformer | None) -> Drawing:
    """The decay, drawn to scale in its logarithm of volts and in time."""
    given, found = planned.given, planned.found
    start, hold = found.start_volts.value, found.hold_seconds.value
    constant = found.time_constant_seconds.value
    safe = given.safe_volts
    title = f"{engineering(start, 'V')} below {safe:g} V in {_seconds(found.seconds_to_safe.value)}"
    drawing = Drawing(460, 320, title, "Volts against time, volts on a log axis, to scale.")
    drawing.add(*_stick(given.resistors))
    top = math.log10(max(start, 2 * safe))
    span = max(hold, 1.2 * (given.interrupted_after_seconds or 0.0))

    def at(seconds: float, volts: float) -> tuple[float, float]:
        x = LEFT + (RIGHT - LEFT) * min(1.0, seconds / span)
        share = math.log10(max(volts, LEAST_VOLTS)) / top
        return x, BOTTOM - (BOTTOM - TOP) * share

    for decade in range(math.floor(top) + 1):
        _, y = at(0, 10.0**decade)
        drawing.add(line(LEFT, y, RIGHT, y, "axis"))
        words = engineering(10.0**decade, "V", 1)
        drawing.add(text(LEFT - 6, y + 4, words, "t t-small mono", "end"))
    _, y = at(0, safe)
    drawing.add(line(LEFT, y, RIGHT, y, "decay-safe"))
    drawing.add(text(RIGHT, y - 5, f"safe: {safe:g} V", "t t-small zone-text-sound", "end"))
    last = min(span, constant * math.log(start / LEAST_VOLTS)) if start > LEAST_VOLTS else span
    points = [at(t, start * math.exp(-t / constant)) for t in _times(last)]
    drawing.add(path("M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in points), "decay"))
    x, _ = at(hold, 1)
    drawing.add(line(x, TOP, x, BOTTOM, "axis"))
    drawing.add(text(x, BOTTOM + 18, f"held {_seconds(hold)}", "t t-strong mono", "end"))
    early = given.interrupted_after_seconds
    if early is not None and found.left_volts is not None:
        x, y = at(early, found.left_volts.value)
        drawing.add(circle(x, y, 6, "zone-dot"))
        words = f"let go: {engineering(found.left_volts.value, 'V')} left"
        drawing.add(text(x + 10, y - 8, words, "t t-small mono"))
    drawing.add(text(LEFT, 314, "to scale in log volts and time", "t t-small quiet"))
    return drawing


def _stick(resistors: int) -> list[Shape]:
    """The chain on its insulated stick, hook to clip; no more than eight resistors are drawn."""
    y, shown = 40.0, min(resistors, 8)
    shapes: list[Shape] = [line(40, y, 430, y, "axis")]
    wide = 250.0 / shown
    for n in range(shown):
        shapes.append(rect(70 + n * wide, y - 9, max(8.0, 0.7 * wide), 18, "zone zone-sound"))
    more = f", {shown} drawn" if shown < resistors else ""
    words = f"{resistors} in a row{more}"
    shapes.append(text(70, y - 18, words, "t t-small"))
    shapes.append(rect(330, y - 5, 100, 10, "zone zone-caution"))
    shapes.append(text(430, y + 24, "insulated stick, hand here", "t t-small", "end"))
    shapes.append(text(40, y + 24, "hook", "t t-small"))
    return shapes


def _times(last: float) -> list[float]:
    return [last * n / STEPS for n in range(STEPS + 1)]


def _seconds(seconds: float) -> str:
    """Seconds as they are counted."""
    return f"{seconds:.0f} s" if seconds >= 10 else f"{seconds:.2g} s"
