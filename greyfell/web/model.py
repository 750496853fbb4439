"""The station Model: the circuit of an output, its load line, and one load that is dragged."""

from collections.abc import Iterator, Mapping, Sequence
from typing import Any

import numpy as np

from greyfell.core.belief.found import Winding
from greyfell.core.circuit.fed_winding import fed_whole, halves
from greyfell.core.circuit.load import LoadLine, short_amps
from greyfell.core.circuit.model import LoadPoint, PieceModel
from greyfell.core.figures.constants import DAY_CELSIUS
from greyfell.core.figures.mains import high_region
from greyfell.core.figures.notation import engineering
from greyfell.core.figures.quantity import Quantity
from greyfell.core.judgement.identification import Identification
from greyfell.core.telling.load_answer import NEVER_SECONDS, seconds_to_limit, trips, wants
from greyfell.web.asking import figure_within
from greyfell.web.drawings.circuit import circuit
from greyfell.web.drawings.graph import BOTTOM, LEFT, RIGHT, TOP, Axis, Graph, Place, draw
from greyfell.web.drawings.shapes import Drawing
from greyfell.web.showing import Shown

POINTS = 50
FARTHEST = 2.0
CELSIUS = (-20.0, 150.0)
PLOT = (LEFT, RIGHT, TOP, BOTTOM)
"""Where the plot of a graph lies in its picture, for the hand that drags."""


class ModelShown(Shown, frozen=True, kw_only=True):
    """The model asked for, its drawing, the point of the load; or what it still wants."""

    model: PieceModel | None = None
    model_wants: Any = None
    model_outputs: tuple[Winding, ...] = ()
    model_circuit: Drawing | None = None
    model_load: float = 0.0
    model_celsius: float = DAY_CELSIUS
    model_plot: tuple[float, ...] = ()
    model_ends: tuple[float, float] = (0.0, 0.0)
    model_line: Drawing | None = None
    model_point: Sequence[tuple[str, Quantity | str, str]] = ()


def model_shown(
    ident: Identification, found: Sequence[PieceModel], args: Mapping[str, str]
) -> ModelShown:
    """What the page shows: the model asked for, its drawing, the point of the load."""
    if not found:
        return ModelShown(model_wants=wants(ident))
    model = next((m for m in found if m.winding.id == args.get("of")), found[0])
    model = model.warmed(celsius := figure_within(args.get("celsius", ""), DAY_CELSIUS, *CELSIUS))
    power = figure_within(args.get("load", ""), 0.0, -FARTHEST, FARTHEST)
    ohms = model.line.match_ohms.value * 10**power
    point = model.at(ohms)
    return ModelShown(
        model=model,
        model_outputs=tuple(m.winding for m in found),
        model_circuit=circuit(model, *_fed(ident)),
        model_load=power,
        model_celsius=celsius,
        model_plot=PLOT,
        model_ends=_ends(model),
        model_line=load_graph(model, point),
        model_point=_told(ident, model, point, celsius),
    )


def _fed(ident: Identification) -> tuple[tuple[str, str], str]:
    """The leads that the supply goes on; and, of two halves, how they are joined for it."""
    both, fed = halves(ident.belief), fed_whole(ident.record, ident.belief)
    if both is None or fed is None:
        one, two = ident.belief.fed[:2]
        return (one, two), ""
    how = "in series" if high_region(ident.record.supply.volts) else "side by side"
    return fed.coil.leads, f"{both[0].name} and {both[1].name} {how}"


def _ends(model: PieceModel) -> tuple[float, float]:
    """Where the axes of amps and volts end."""
    short = model.line.amps(0.0)
    return min(1.3 * short.value, short.high), 1.06 * model.line.open_volts.high


def _along(line: LoadLine) -> list[list[tuple[float, float]]]:
    # amps and volts from short to open: the middle, and both ends of their range
    loads = np.geomspace(1e-3, 1e3, POINTS) * line.match_ohms.value
    read = [(line.amps(float(r)), line.volts(float(r))) for r in loads]
    return [
        [(a.value, v.value) for a, v in read],
        [(a.low, v.low) for a, v in read],
        [(a.high, v.high) for a, v in read],
    ]


def load_graph(model: PieceModel, point: LoadPoint) -> Drawing:
    """Volts against amps from open to short, with the band, the straight line that people draw, and
    the load asked for.
    """
    line = model.line
    volts, short = line.open_volts, line.amps(0.0)
    most_amps, most_volts = _ends(model)
    middle, *ends = _along(line)
    return draw(
        Graph(
            title=f"{model.winding.name}: {engineering(point.volts.value, 'V')} at this load",
            desc="Volts against amps from open to short.",
            x=Axis(words="amps", unit="A", low=0, high=most_amps),
            y=Axis(words="volts", unit="V", low=0, high=most_volts),
            curves=[
                (middle, "decay"),
                *((e, "sweep-before") for e in ends),
                ([(0.0, volts.value), (short.value, 0.0)], "load-straight"),
            ],
            places=[Place(words="this load", x=point.amps.value, y=point.volts.value)],
            named=[
                ("decay", "load line"),
                ("sweep-before", "its range"),
                ("load-straight", "the straight line understates it"),
            ],
        )
    )


def _told(
    ident: Identification, model: PieceModel, point: LoadPoint, celsius: float
) -> list[tuple[str, Quantity | str, str]]:
    """The point in words and figures."""
    opened = model.line.open_volts.value
    rise = f"{(opened - point.volts.value) / max(point.volts.value, 1e-9):.0%} of its volts"
    short = short_amps(ident.record, ident.belief, model.line)
    rows: list[tuple[str, Quantity | str, str]] = [
        ("Load", engineering(point.ohms, "Ω"), ""),
        ("Volts", point.volts, "V"),
        ("Amps", point.amps, "A"),
        ("Watts", point.watts, "W"),
        ("Primary", point.primary_amps, "A"),
        ("Power factor", f"{point.power_factor:.2f}", ""),
        ("Efficiency", f"{point.efficiency:.0%}", ""),
        ("Regulation to here", rise, ""),
        ("Shorted, on full volts", short, "A"),
        ("Most watts into", model.line.match_ohms, "Ω"),
    ]
    tripped = trips(ident, point)
    if tripped is not None:
        rows.append(("The breaker", "trips, sooner or later" if tripped else "holds", ""))
    return [*rows, *_hot_after(ident, model, point, celsius)]


def _hot_after(
    ident: Identification, model: PieceModel, point: LoadPoint, celsius: float
) -> Iterator[tuple[str, Quantity | str, str]]:
    for w, amps in ((model.winding, point.amps), (ident.belief.primary, point.primary_amps)):
        seconds = None if w is None else seconds_to_limit(ident, w, amps, celsius)
        if w is not None and seconds is not None:
            long = seconds.low > NEVER_SECONDS
            said: Quantity | str = "more than an hour" if long else seconds
            yield f"{w.name} is as hot as it may be after", said, "s"
