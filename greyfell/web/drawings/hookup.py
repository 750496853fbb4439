"""The hook-up of the next step: which probe, or which source, goes where."""

from collections.abc import Callable, Sequence

from greyfell.core.evidence.kinds.reading import NOT_DRAWN, HookUp
from greyfell.core.steps.step import Step
from greyfell.web.drawings.shapes import Drawing, Shape, circle, path, rect, text


def hookup(step: Step) -> Drawing | None:
    """A small drawing of the step's connections, or None where there is nothing to connect."""
    declared = step.reading.hookup if step.reading is not None else NOT_DRAWN
    if not declared.shape:
        return None
    drawing = Drawing(150, 128, f"Hook-up: {step.title}", "Not to scale.")
    HANDS[declared.shape](drawing, step, declared)
    return drawing


def _meter(drawing: Drawing, x: float, y: float, shown: str, below: str) -> None:
    drawing.add(
        rect(x, y, 56, 74, "hook-meter"),
        rect(x + 7, y + 8, 42, 24, "hook-screen"),
        text(x + 28, y + 25, shown, "t mono hook-figure", "middle"),
        text(x + 28, y + 48, below, "t t-small on-core", "middle"),
        circle(x + 16, y + 64, 4, "hook-jack-red"),
        circle(x + 40, y + 64, 4, "hook-jack"),
    )


def _point(name: str, x: float, y: float) -> list[Shape]:
    if name == "core":
        return [
            rect(x - 15, y - 11, 30, 22, "hook-core"),
            text(x, y + 4.5, "Fe", "t t-ring on-core", "middle"),
        ]
    if name == "earth":
        return [
            rect(x - 20, y - 11, 42, 22, "hook-meter"),
            text(x + 1, y + 4.5, "earth", "t t-small on-core", "middle"),
        ]
    return [
        circle(x, y, 13, "ring"),
        text(x, y + 4.5, name, "t t-ring" if len(name) < 3 else "t t-ring t-ring-long", "middle"),
    ]


def _ohms(drawing: Drawing, step: Step, _declared: HookUp) -> None:
    x, y = step.leads.get("between", ("core", "core"))
    _meter(
        drawing,
        6,
        10,
        "OL" if step.expect.startswith("OL") else "Ω",  # only where open is what is expected
        "20 MΩ" if "highest" in step.title else "ohms",
    )
    drawing.add(
        path("M22 74C22 112 96 106 122 42", "hook-red"),
        path("M46 74C50 104 96 104 118 90", "hook-black"),
    )
    drawing.add(*_point(x, 126, 30), *_point(y, 126, 88))


def _tester(drawing: Drawing, step: Step, declared: HookUp) -> None:
    """An instrument of its own across two points."""
    x, y = next(iter(step.leads.values()), ("core", "core"))
    _meter(drawing, 6, 10, declared.shows, declared.set_to)
    drawing.add(
        path("M22 84C22 112 96 106 122 42", "hook-red"),
        path("M46 84C50 104 96 104 118 90", "hook-black"),
    )
    drawing.add(*_point(x, 126, 30), *_point(y, 126, 88))


def _turns(drawing: Drawing, step: Step, _declared: HookUp) -> None:
    """A source on the fed winding, a meter on a few turns of wire."""
    _source(drawing, Step(kind="ratio", leads=step.leads, title="", do=""), ALTERNATING)
    drawing.shapes = [s for s in drawing.shapes if s.text not in ENDS]
    drawing.add(
        rect(4, 66, 44, 40, "hook-meter"),
        text(26, 91, "V", "t mono on-core", "middle"),
        path("M48 76H70C96 70 96 84 74 84C96 78 96 92 74 92C96 86 96 98 70 98H48", "hook-red"),
        text(98, 91, "5 turns", "t t-small"),
    )


def _joined(drawing: Drawing, step: Step, _declared: HookUp) -> None:
    """Two windings joined at one end: the source on the first, the meter over both."""
    (a, b), (_, c), (_, d) = (step.leads[k] for k in ("driven", "joined", "across"))
    drawing.add(
        rect(4, 8, 44, 40, "hook-source"),
        text(26, 34, "≈", "t hook-figure", "middle"),
        rect(4, 76, 44, 40, "hook-meter"),
        text(26, 101, "V", "t mono on-core", "middle"),
        path("M48 16H94", "hook-red"),
        path("M48 40H94", "hook-black"),
        path("M112 52V66", "hook-black"),
        path("M134 16V82C134 100 100 96 48 86", "hook-red"),
        path("M48 106C70 112 84 110 96 108", "hook-black"),
    )
    points = ((a, 112, 16), (b, 112, 44), (c, 112, 74), (d, 112, 108))
    for name, x, y in points:
        drawing.add(*_point(name, x, y))


def _lamp(drawing: Drawing, step: Step, _declared: HookUp) -> None:
    """The line through a lamp to the winding, nothing else on it."""
    a, b = step.leads["across"]
    drawing.add(
        rect(4, 40, 44, 40, "hook-source"),
        text(26, 66, "line", "t t-small", "middle"),
        path("M48 48C58 48 58 24 70 24", "hook-red"),
        circle(80, 24, 11, "ring"),
        path("M72 16L88 32M88 16L72 32", "hook-red"),
        path("M91 24H112", "hook-red"),
        path("M48 74C70 90 90 92 112 92", "hook-black"),
        text(80, 52, "lamp", "t t-small quiet", "middle"),
    )
    drawing.add(*_point(a, 126, 24), *_point(b, 126, 92))


def _wound_up(drawing: Drawing, step: Step, declared: HookUp) -> None:
    """The line through a variac and a wattmeter to the winding; a second pair bolted together."""
    a, b = step.leads["driven"]
    drawing.add(
        circle(24, 56, 19, "ring"),
        path("M24 56L36 42", "hook-red"),
        text(24, 96, "from 0", "t t-small quiet", "middle"),
        path("M34 40C44 24 50 24 54 24", "hook-red"),
        rect(54, 12, 34, 24, "hook-meter"),
        text(71, 29, "A W", "t t-small on-core", "middle"),
        path("M88 24H112", "hook-red"),
        path("M34 72C60 92 90 92 112 92", "hook-black"),
        rect(74, 46, 30, 22, "hook-meter"),
        text(89, 61, "V", "t mono on-core", "middle"),
        path("M104 52L120 36M104 62L118 82", "hook-black"),
    )
    drawing.add(*_point(a, 126, 24), *_point(b, 126, 92))
    if declared.below:
        drawing.add(text(4, 122, declared.below, "t t-small quiet"))


def _proof(drawing: Drawing, _step: Step, _declared: HookUp) -> None:
    _meter(drawing, 6, 10, "0.1", "ohms")
    drawing.add(
        rect(98, 14, 46, 92, "hook-core"), text(121, 66, "Fe", "t t-ring on-core", "middle")
    )
    drawing.add(circle(112, 30, 5, "hook-bare"), circle(112, 92, 5, "hook-bare"))
    drawing.add(
        path("M22 74C30 100 84 60 110 31", "hook-red"),
        path("M46 74C54 112 88 112 110 93", "hook-black"),
    )


def _source(drawing: Drawing, step: Step, declared: HookUp) -> None:
    pairs = list(step.leads.values())
    driven, sensed = pairs[0], pairs[1] if len(pairs) > 1 else None
    if step.act == "reverse ratio":
        drawing.add(text(4, 122, "Fe to earth", "t t-small quiet"))
    drawing.add(
        rect(4, 8, 44, 40, "hook-source"), text(26, 34, declared.shows, "t hook-figure", "middle")
    )
    drawing.add(
        path("M48 18C70 18 76 18 92 18", "hook-red"), path("M48 40C70 46 76 50 92 50", "hook-black")
    )
    drawing.add(*_point(driven[0], 108, 18), *_point(driven[1], 108, 52))
    if sensed is not None:
        _voltmeter(drawing, sensed)
    else:
        drawing.add(*(text(4, 84 + 16 * n, w, "t t-small quiet") for n, w in enumerate(ENDS)))


def _voltmeter(drawing: Drawing, sensed: Sequence[str]) -> None:
    drawing.add(rect(4, 66, 44, 40, "hook-meter"), text(26, 91, "V", "t mono on-core", "middle"))
    drawing.add(
        path("M48 76C70 76 76 80 94 80", "hook-red"),
        path("M48 98C66 106 76 112 94 112", "hook-black"),
    )
    drawing.add(*_point(sensed[0], 108, 80), *_point(sensed[1], 108, 112))


ALTERNATING = HookUp(shape="source", shows="≈")
"""A low source of AC."""
ENDS = ("read the volts", "at the ends")
"""What stands where no second pair is read."""
HANDS: dict[str, Callable[[Drawing, Step, HookUp], None]] = {
    "ohms": _ohms,
    "proof": _proof,
    "source": _source,
    "tester": _tester,
    "turns": _turns,
    "joined": _joined,
    "lamp": _lamp,
    "wound up": _wound_up,
}
"""How each shape of a hook-up is drawn."""
