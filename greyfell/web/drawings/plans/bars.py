"""Choices side by side: amps of each as a bar against the limit, those refused struck."""

from collections.abc import Sequence

from msgspec import Struct

from greyfell.core.evidence.record import Transformer
from greyfell.core.figures.limits import TOUCH_VOLTS
from greyfell.core.figures.notation import engineering
from greyfell.core.figures.quantity import Quantity
from greyfell.core.planner_kit.declare import Planned
from greyfell.web.drawings.shapes import Drawing, line, path, rect, text

LEFT, RIGHT, TOP, ROW = 16.0, 414.0, 54.0, 40.0
MOST = 8
LONGEST = 44


class Bar(Struct, frozen=True, kw_only=True):
    """One choice: its words, its figure with range, whether it is refused."""

    words: str
    figure: Quantity | None
    refused: bool


def bars_drawing(
    bars: Sequence[Bar], *, limit: float, unit: str, what: str, title: str, mark: str = "limit"
) -> Drawing:
    """Bars to one scale, a line at the limit."""
    shown = list(bars)[:MOST]
    most = max([1.25 * limit, *(b.figure.value for b in shown if b.figure and not b.refused)])
    drawing = Drawing(430, TOP + ROW * max(len(shown), 1) + 40, title, f"{what}, to one scale.")

    def x(value: float) -> float:
        return LEFT + (RIGHT - LEFT) * min(value / most, 1.0)

    at = x(limit)
    bottom = TOP + ROW * len(shown)
    drawing.add(line(at, TOP - 12, at, bottom, "decay-safe"))
    for n, bar in enumerate(shown):
        y = TOP + ROW * n
        look = "stop" if bar.refused else "sound"
        words = bar.words if len(bar.words) <= LONGEST else bar.words[: LONGEST - 1] + "…"
        look_of = "t t-small halo" + (" quiet" if bar.refused else "")
        drawing.add(text(LEFT, y + 12, words, look_of))
        if bar.figure is None:
            drawing.add(text(RIGHT, y + 12, "limits nothing", "t t-small stop", "end"))
            continue
        drawing.add(rect(LEFT, y + 18, max(x(bar.figure.value) - LEFT, 2), 12, f"zone zone-{look}"))
        low, high = x(bar.figure.low), x(bar.figure.high)
        drawing.add(line(low, y + 24, high, y + 24, "zone-range"))
        said = engineering(bar.figure.value, unit)
        drawing.add(text(RIGHT, y + 12, said, "t t-small mono halo", "end"))
        if bar.refused:
            drawing.add(path(f"M{LEFT + 4:.1f} {y + 19:.1f}l10 10m0 -10l-10 10", "fault-cross"))
    words = f"{mark} {engineering(limit, unit)}"
    anchor = "middle" if at > LEFT + 60 else "start"
    drawing.add(text(at, TOP - 18, words, "t t-small mono", anchor))
    drawing.add(text(LEFT, bottom + 22, f"{what}; to scale", "t t-small quiet"))
    return drawing


def banks(planned: Planned, _record: Transformer | None) -> Drawing:
    """Banks of ballasts against the limit."""
    found = planned.found
    choices = list(found.choices)[: MOST - 1]
    above = [found.next_above] if found.next_above is not None else []
    bars = [
        Bar(words=f"{c.parts}, {c.connection}", figure=c.shorted_amps, refused=c.over_rating)
        for c in choices
    ]
    bars += [Bar(words=f"{c.parts}: above it", figure=c.shorted_amps, refused=True) for c in above]
    limit = planned.given.limit_amps.value
    title = f"{len(choices)} banks below {engineering(limit, 'A')}"
    return bars_drawing(bars, limit=limit, unit="A", what="amps with the load shorted", title=title)


def limiters(planned: Planned, _record: Transformer | None) -> Drawing:
    """Everything on hand against the limit."""
    bars = [
        Bar(words=c.title, figure=c.shorted_amps, refused=c.refused) for c in planned.found.choices
    ]
    limit = planned.given.limit_amps.value
    title = f"Take {planned.found.recommended}"
    return bars_drawing(bars, limit=limit, unit="A", what="amps with the load shorted", title=title)


def feeds(planned: Planned, _record: Transformer | None) -> Drawing:
    """Sources by the volts they put on the piece, against what its plate allows."""
    bars = [Bar(words=c.title, figure=c.volts, refused=c.refused) for c in planned.found.choices]
    limit = planned.found.most_volts.value
    title = f"Take {planned.found.recommended}"
    return bars_drawing(bars, limit=limit, unit="V", what="volts on the piece", title=title)


def rails(planned: Planned, _record: Transformer | None) -> Drawing:
    """Direct volts of the circuits of a valve supply."""
    found = planned.found
    told = (
        ("capacitor first", found.capacitor_input_volts),
        ("choke first", found.choke_input_volts),
        ("bridge, half the amps", found.bridge_volts),
        ("before the valves are warm", found.open_volts),
    )
    bars = [Bar(words=w, figure=q, refused=False) for w, q in told if q is not None]
    wanted = planned.given.rails[0].volts if planned.given.rails else found.open_volts.value
    title = f"{engineering(found.capacitor_input_volts.value, 'V')} with a capacitor first"
    return bars_drawing(
        bars, limit=wanted, unit="V", what="direct volts", title=title, mark="wanted"
    )


def routes(planned: Planned, _record: Transformer | None) -> Drawing:
    """Loaded volts of the three routes to direct current, those that the bond forbids struck."""
    found = planned.found
    bars = [Bar(words=w.route, figure=w.loaded_volts, refused=not w.allowed) for w in found.routes]
    wanted = planned.given.winding_volts.value
    title = f"Take {found.route}"
    return bars_drawing(
        bars, limit=wanted, unit="V", what="direct volts, loaded", title=title, mark="the winding's"
    )


def outputs(planned: Planned, _record: Transformer | None) -> Drawing:
    """Open, loaded, peak and to the case, against what may be touched."""
    found = planned.found
    told = (
        ("open", found.open_volts),
        ("their peak", found.peak_volts),
        ("loaded", found.loaded_volts),
        ("an end to the case", found.to_case_volts),
        *((f"tap {t.title}", t.volts) for t in found.tap_volts),
    )
    bars = [Bar(words=w, figure=q, refused=False) for w, q in told if q is not None]
    title = f"{engineering(found.open_volts.value, 'V')} open, {found.hazard_class}"
    return bars_drawing(
        bars,
        limit=TOUCH_VOLTS,
        unit="V",
        what="volts, each with its range",
        title=title,
        mark="touch",
    )
