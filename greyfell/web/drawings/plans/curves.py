"""Pictures of the limiting planners and of what a piece puts out: each a curve with the place that
was asked for on it.
"""

import math
from collections.abc import Iterator, Sequence

import numpy as np

from greyfell.core.evidence.record import Transformer
from greyfell.core.figures.notation import engineering
from greyfell.core.network.parts import Figures
from greyfell.core.network.timeline import rms
from greyfell.core.planner_kit.declare import Planned
from greyfell.core.planners import breaker as breaking
from greyfell.core.planners import choke as choking
from greyfell.core.planners import dc_supply as supplying
from greyfell.core.planners import gap as gapping
from greyfell.core.planners import series_capacitor as resonating
from greyfell.core.planners import sliding_choke as sliding
from greyfell.web.drawings.graph import Axis, Band, Graph, Place, draw
from greyfell.web.drawings.shapes import Drawing, Shape, rect, text

POINTS = 60


NEVER = Band(
    low=resonating.FORBIDDEN[0],
    high=resonating.FORBIDDEN[1],
    words="never: it multiplies",
    look="stop",
)


def resonance(planned: Planned, _record: Transformer | None) -> Drawing:
    """Volts on the capacitor against its reactance over the loop's, the forbidden band behind."""
    given, found = planned.given, planned.found
    ratio = found.resonance_ratio.value
    low, high = min(0.1, ratio / 2), max(10.0, 2 * ratio)
    ratios = np.geomspace(low, high, 4 * POINTS)
    volts = [(float(k), resonating.gain(given, float(k))[1]) for k in ratios]
    here = found.capacitor_volts.value
    top = min(max(v for _, v in volts), 8 * max(here, given.supply_volts.value))
    return draw(
        Graph(
            title=f"{engineering(here, 'V')} on the capacitor",
            desc="Volts on the capacitor against its reactance over the loop's.",
            x=Axis(words="reactance over the loop's", unit="", low=low, high=high, log=True),
            y=Axis(words="volts on the capacitor", unit="V", low=0, high=1.05 * top),
            bands=[NEVER],
            curves=[(volts, "decay")],
            places=[Place(words="this one", x=ratio, y=here)],
        )
    )


def _positions(points: Sequence[sliding.At], supply: float) -> list[tuple[float, float]]:
    """Amps with the load shorted at every position that the points reach."""
    ends = (points[0].millimetres, points[-1].millimetres)
    along = [sliding.at_position(points, float(m)) for m in np.linspace(*ends, POINTS)]
    return [(p.millimetres, supply / p.whole) for p in along]


def crank(planned: Planned, _record: Transformer | None) -> Drawing:
    """Amps against the position of an old welder's core, and the range wanted."""
    given, found = planned.given, planned.found
    supply = given.supply_volts.value
    points = sliding.at_points(given.points)
    amps = _positions(points, supply)
    told = (("from", given.least_amps_wanted), ("to", given.most_amps_wanted))
    wanted = [Place(words=f"wanted {w} {engineering(a, 'A')}", y=a) for w, a in told]
    measured = [Place(words="", x=p.millimetres, y=supply / p.whole) for p in points]
    low, high = found.reach_amps
    return draw(
        Graph(
            title=f"It reaches {engineering(low, 'A')} to {engineering(high, 'A')}",
            desc="Amps with the load shorted against how far the core is drawn out.",
            x=Axis(words="core drawn out", unit="mm", low=amps[0][0], high=amps[-1][0]),
            y=Axis(words="amps", unit="A", low=0, high=1.15 * max(high, given.most_amps_wanted)),
            curves=[(amps, "decay")],
            places=[*measured, *wanted],
        )
    )


def slide(planned: Planned, _record: Transformer | None) -> Drawing:
    """Amps against the position of the core, the measured points on it."""
    given, found = planned.given, planned.found
    supply = given.supply_volts.value
    points = sliding.at_points(given.points)
    amps = _positions(points, supply)
    wanted = given.wanted_amps.value
    top = 1.1 * max(wanted, *(a for _, a in amps))
    places = [Place(words="", x=p.millimetres, y=supply / p.whole) for p in points]
    places.append(Place(words=f"wanted {engineering(wanted, 'A')}", y=wanted))
    about = found.millimetres_found
    said = f"{about.value:.0f} mm"
    return draw(
        Graph(
            title=f"{engineering(wanted, 'A')} at {said}",
            desc="Amps with the load shorted against how far the core is drawn out.",
            x=Axis(words="core drawn out", unit="mm", low=amps[0][0], high=amps[-1][0]),
            y=Axis(words="amps", unit="A", low=0, high=top),
            bands=[Band(low=about.low, high=about.high, words=said, look="sound")],
            curves=[(amps, "decay")],
            places=places,
        )
    )


def saturable(planned: Planned, _record: Transformer | None) -> Drawing:
    """Alternating against direct amps, from what flows unbiased."""
    given, found = planned.given, planned.found
    here, dc = given.load_amps.value, found.dc_amps.value
    slope = here / dc
    least = found.unbiased_amps.value
    most = found.most_load_amps.value
    high = 1.6 * dc
    curve = [(float(i), min(max(least, slope * i), most)) for i in np.linspace(0, high, POINTS)]
    return draw(
        Graph(
            title=f"{engineering(dc, 'A')} let {engineering(here, 'A')} through",
            desc="Alternating amps against direct amps in the control winding.",
            x=Axis(words="direct amps", unit="A", low=0, high=high),
            y=Axis(words="amps of the load", unit="A", low=0, high=1.1 * max(1.5 * here, here)),
            curves=[(curve, "decay")],
            places=[
                Place(words="wanted", x=dc, y=here),
                Place(words="flows without it", x=0.0, y=least),
            ],
        )
    )


IRON_WIDE, IRON_TOP, IRON_LEFT, IRON_ROOM = 300.0, 30.0, 60.0, 230.0
LEAST_CARD = 2.5


def choke(planned: Planned, record: Transformer | None) -> Drawing:
    """Its iron in section with the card in every leg, and below it the inductance over the amps."""
    graph = _saturating(planned, record)
    given, found = planned.given, planned.found
    wide = 2 * (given.tongue_mm + given.window_width_mm)
    scale = min(IRON_WIDE / wide, 160 / (given.window_height_mm + given.tongue_mm))
    drawing = Drawing(graph.width, graph.height + IRON_ROOM, graph.title, graph.desc)
    tongue, high = given.tongue_mm * scale, given.window_height_mm * scale
    window, card = given.window_width_mm * scale, found.card_mm.value * scale
    x, y = IRON_LEFT, IRON_TOP
    drawn = max(card, LEAST_CARD)
    whole = 2 * (tongue + window)
    drawing.add(rect(x, y, whole, tongue / 2 + high, "core"))
    below = y + tongue / 2 + high
    drawing.add(rect(x, below + drawn, whole, tongue / 2, "core"))
    for left in (x + tongue / 2, x + 1.5 * tongue + window):
        drawing.add(rect(left, y + tongue / 2, window, high, "window"))
        drawing.add(rect(left + 2, y + tongue / 2 + 3, window - 4, high - 6, "zone zone-caution"))
    drawing.add(rect(x, below, whole, drawn, "zone zone-stop"))
    middle = x + whole / 2
    drawing.add(
        text(middle, y + tongue / 2 + high / 2, f"{given.tongue_mm:g} mm", "t on-core", "middle")
    )
    words = f"card {found.card_mm.value:.2f} mm"
    drawing.add(text(x + whole + 6, below + 5, words, "t t-small"))
    scaled = "to scale" if card >= LEAST_CARD else "iron to scale, the card is thinner"
    turns = f"{found.turns} turns of {found.wire_mm.value:g} mm; {scaled}"
    drawing.add(text(x, below + drawn + tongue / 2 + 18, turns, "t t-small quiet"))
    drawing.add(Shape("g", {"transform": f"translate(0 {IRON_ROOM:g})"}, parts=tuple(graph.shapes)))
    return drawing


def _saturating(planned: Planned, _record: Transformer | None) -> Drawing:
    """Inductance against the peak of its current, falling as the steel saturates."""
    given, found = planned.given, planned.found
    peak = given.crest * given.amps
    gap = found.gap_total_mm.value * 1e-3
    amps = np.linspace(0.1 * peak, 3 * peak, POINTS)
    along = [(float(i), choking.henries_at(given, found.turns, gap, float(i))) for i in amps]
    top = 1.2 * max(h for _, h in along)
    return draw(
        Graph(
            title=f"{engineering(found.henries.value, 'H')} with {found.turns} turns",
            desc="Inductance against the peak of the current.",
            x=Axis(words="peak amps", unit="A", low=0, high=3 * peak),
            y=Axis(words="inductance", unit="H", low=0, high=top),
            bands=[
                Band(low=0, high=peak, words="made for", look="sound"),
                Band(low=2 * peak, high=3 * peak, words="lets more through", look="stop"),
            ],
            curves=[(along, "decay")],
            places=[Place(words="its amps", x=peak, y=found.henries.value)],
            below=f"card {found.card_mm.value:.2f} mm under all legs, {found.turns} turns",
        )
    )


def trip(planned: Planned, _record: Transformer | None) -> Drawing:
    """The breaker's band of seconds against amps, with the piece's own currents on it."""
    given, found = planned.given, planned.found
    rated = given.breaker_amps
    currents = {
        "idle": given.no_load_amps,
        "loaded": given.loaded_amps,
        "shorted": given.shorted_amps,
    }
    amps = {k: getattr(v, "value", v) for k, v in currents.items()}
    inrush = found.inrush_peak_amps_used.value / math.sqrt(2)
    amps["inrush"] = inrush
    high = 1.5 * max(*amps.values(), 20 * rated)
    low = min(0.5 * rated, *(a for a in amps.values() if a > 0))
    sweep = np.geomspace(max(low, 1.01 * rated), high, 2 * POINTS)
    bands = [(float(i), breaking.seconds_at(given, float(i))) for i in sweep]
    fast = [(i, max(s[0], 1e-2)) for i, s in bands if math.isfinite(s[0])]
    slow = [(i, min(s[1], 1e4)) for i, s in bands if math.isfinite(s[0])]
    levels = {"idle": 3e3, "loaded": 3e2, "shorted": 20.0, "inrush": 0.012}
    return draw(
        Graph(
            title=f"{given.curve}{rated:g} against this piece",
            desc="Seconds to trip against amps, log on log, with the piece's currents.",
            x=Axis(words="amps", unit="A", low=low, high=high, log=True),
            y=Axis(words="seconds", unit="s", low=1e-2, high=1e4, log=True),
            curves=[(fast, "decay"), (slow, "decay")],
            places=[Place(words=k, x=a, y=levels[k]) for k, a in amps.items() if a > 0],
            below="between the curves it may trip; left of them it holds",
        )
    )


def _of_dial(most: float, line_volts: float, top: float) -> Iterator[Band]:
    yield Band(low=0, high=min(most, line_volts), words="may be used", look="sound")
    if most > line_volts:
        yield Band(low=line_volts, high=most, words="it hums", look="caution")
    if most < top:
        yield Band(low=most, high=top, words="not wound to", look="stop")


def dial(planned: Planned, _record: Transformer | None) -> Drawing:
    """Amps through the brush against volts of the dial: saturation, the brush's limit, the top."""
    given, found = planned.given, planned.found
    top = given.most_fraction * given.line_volts.value
    steps = [(s.volts.value, s.amps.value) for s in found.sheet]
    wanted, drawn = given.wanted_volts, found.brush_amps_drawn.value
    most = found.most_volts.value
    highest = max(1.2 * given.brush_amps, *(a for _, a in steps), drawn)
    return draw(
        Graph(
            title=f"{engineering(wanted, 'V')} of {engineering(most, 'V')} at most",
            desc="Amps through the brush against the volts wound up to.",
            x=Axis(words="volts", unit="V", low=0, high=top),
            y=Axis(words="brush amps", unit="A", low=0, high=highest),
            bands=list(_of_dial(most, given.line_volts.value, top)),
            curves=[(steps, "decay")],
            places=[
                Place(words="wanted", x=wanted, y=drawn),
                Place(words="the brush bears", y=given.brush_amps),
            ],
            below="no isolation: its output is the line's; fuse at the brush",
        )
    )


def _over_time(seconds: Figures, values: Figures) -> list[tuple[float, float]]:
    return [(float(s), float(v)) for s, v in zip(seconds, values, strict=True)]


def direct(planned: Planned, _record: Transformer | None) -> Drawing:
    """One cycle of the direct volts under load, and of the winding's amps."""
    given, found = planned.given, planned.found
    run, parts = supplying.loaded(given)
    volts = run.volts("out")
    amps = run.amps(parts["source"])
    seconds = run.times - run.times[0]
    high = 1.15 * found.open_volts.value
    shown = 0.25 * high / max(float(np.abs(amps).max()), 1e-12)
    said = f"winding's amps, {engineering(rms(amps), 'A')} RMS"
    return draw(
        Graph(
            title=f"{engineering(found.loaded_volts.value, 'V')} under load",
            desc="One cycle: direct volts, and the winding's amps below them.",
            x=Axis(words="one cycle", unit="s", low=0, high=float(seconds[-1])),
            y=Axis(words="volts", unit="V", low=0, high=high),
            curves=[
                (_over_time(seconds, volts), "decay"),
                (_over_time(seconds, 0.3 * high + shown * amps), "load-straight"),
            ],
            places=[Place(words="open", y=found.open_volts.value)],
            named=[("decay", "direct volts"), ("load-straight", said)],
        )
    )


def strike(planned: Planned, _record: Transformer | None) -> Drawing:
    """Gap against peak volts between these electrodes."""
    given, found = planned.given, planned.found
    gap = found.millimetres_found or given.millimetres
    volts = found.volts_peak_found or given.volts_peak
    high = 1.5 * volts.value
    curve = gapping.curve(given, high)
    high, top = max(v for v, _ in curve), max(m for _, m in curve)
    return draw(
        Graph(
            title=f"{gap.value:.1f} mm at {engineering(volts.value, 'V')} of peak",
            desc="Gap in air against peak volts.",
            x=Axis(words="peak volts", unit="V", low=0, high=high),
            y=Axis(words="gap", unit="mm", low=0, high=1.1 * top),
            bands=[Band(low=volts.low, high=volts.high, words="", look="caution")],
            curves=[(curve, "decay")],
            places=[Place(words="strikes", x=volts.value, y=gap.value)],
            below=f"{given.electrodes}; stay {found.keep_away_millimetres.value:.0f} mm away",
        )
    )
