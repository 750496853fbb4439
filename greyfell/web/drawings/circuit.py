"""A piece's equivalent circuit: copper, the iron across the terminals, leakage, an ideal part, the
other copper; each with its figure, what is assumed in dashes.
"""

from greyfell.core.circuit.model import ModelFigure, PieceModel
from greyfell.core.figures.notation import engineering, span
from greyfell.web.drawings.shapes import Drawing, Shape, circle, line, path, rect, text

WIDTH, HEIGHT = 660.0, 300.0
TOP, BOTTOM = 70.0, 214.0
SMALL, LEAD = "t t-small", "t mono t-strong"


def circuit(model: PieceModel, leads: tuple[str, str], joined: str = "") -> Drawing:
    """The circuit with its figures, from the fed leads to the winding's; `joined` says how two
    halves are fed. Pure.
    """
    drawing = Drawing(
        WIDTH,
        HEIGHT,
        f"Equivalent circuit, {model.winding.name}",
        "Copper, iron at the terminals, leakage, turns, copper. Not to scale.",
    )
    figures = {f.key: f for f in model.figures}
    for y in (TOP, BOTTOM):
        drawing.add(line(40, y, 380, y, "rig-wire"), line(440, y, 620, y, "rig-wire"))
    for x, y, words in ((40, TOP, leads[0]), (40, BOTTOM, leads[-1])):
        drawing.add(circle(x, y, 13, "ring"), text(x, y + 4.5, words, LEAD, "middle"))
    for (x, y), words in zip(((620, TOP), (620, BOTTOM)), model.winding.coil.leads, strict=True):
        short = "Fe" if words == "core" else words
        drawing.add(
            circle(x, y, 13, "ring"), text(x, y + 4.5, short[:4], "t mono t-strong", "middle")
        )
    _ohms(drawing, 110, figures["primary_ohms"])
    _iron(drawing, 190, figures)
    _coil(drawing, 290, figures["leakage_henries"], figures.get("shunt_volts"))
    _turns(drawing, figures["ratio"])
    _ohms(drawing, 520, figures["secondary_ohms"])
    farads = figures.get("winding_farads")
    if farads is not None:
        drawing.add(line(575, TOP, 575, 134, "rig-wire"), line(575, 150, 575, BOTTOM, "rig-wire"))
        drawing.add(line(563, 134, 587, 134, "rig-wire"), line(563, 150, 587, 150, "rig-wire"))
        _words(drawing, 560, 138, farads, "end")
    if model.bond != "none":
        drawing.add(line(600, BOTTOM, 600, BOTTOM + 16, "rig-wire"))
        drawing.add(path(f"M588 {BOTTOM + 16}h24m-20 5h16m-12 5h8", "rig-wire"))
        drawing.add(text(592, BOTTOM + 42, f"{model.bond} on the core", f"{SMALL} quiet", "end"))
    said = f"at {engineering(model.supply_volts, 'V')}, {engineering(model.hertz, 'Hz')}"
    said += f", {joined}" if joined else ""
    drawing.add(text(40, 286, f"{said}; in brackets what is assumed", f"{SMALL} quiet"))
    return drawing


def _said(f: ModelFigure) -> tuple[str, str]:
    """Its value and its range, in brackets where it is assumed."""
    value = engineering(f.figure.value, f.unit)
    wide = span(f.figure.low, f.figure.high, f.unit)
    return (f"({value})", f"({wide})") if f.assumed else (value, wide)


def _words(drawing: Drawing, x: float, y: float, f: ModelFigure, anchor: str = "middle") -> None:
    value, wide = _said(f)
    look = f"{SMALL} mono" + (" quiet" if f.assumed else "")
    drawing.add(text(x, y, value, look, anchor), text(x, y + 14, wide, f"{SMALL} quiet", anchor))


def _ohms(drawing: Drawing, x: float, f: ModelFigure) -> None:
    drawing.add(rect(x - 26, TOP - 9, 52, 18, "window"), rect(x - 26, TOP - 9, 52, 18, "box"))
    _words(drawing, x, TOP - 34, f)


def _bumps(x: float, y: float, count: int, *, upright: bool = False) -> Shape:
    arc = "a8 8 0 0 1 0 16" if upright else "a8 8 0 0 1 16 0"
    return path(f"M{x:g} {y:g}" + arc * count, "coil-turns")


def _iron(drawing: Drawing, x: float, figures: dict[str, ModelFigure]) -> None:
    """The magnetising coil and the loss beside it, across the terminals."""
    drawing.add(line(x, TOP, x, 110, "rig-wire"), line(x, 174, x, BOTTOM, "rig-wire"))
    drawing.add(_bumps(x, 110, 4, upright=True))
    drawing.add(line(x - 8, 112, x - 8, 172, "lamination"))
    _words(drawing, x + 14, 138, figures["idle_amps"], "start")
    _words(drawing, x + 14, 172, figures["core_watts"], "start")


def _coil(drawing: Drawing, x: float, f: ModelFigure, shunts: ModelFigure | None) -> None:
    drawing.add(rect(x - 32, TOP - 10, 64, 20, "window"), _bumps(x - 32, TOP, 4))
    _words(drawing, x, TOP - 34, f)
    if shunts is not None:
        value, _ = _said(shunts)
        drawing.add(text(x + 4, TOP + 22, f"shunts to {value}", f"{SMALL} quiet", "middle"))


def _turns(drawing: Drawing, ratio: ModelFigure) -> None:
    """The ideal part: two coils."""
    for x in (380, 440):
        drawing.add(line(x, TOP, x, 104, "rig-wire"), line(x, 184, x, BOTTOM, "rig-wire"))
    drawing.add(_bumps(380, 104, 5, upright=True), _bumps(440, 104, 5, upright=True))
    drawing.add(line(405, 100, 405, 188, "lamination"), line(413, 100, 413, 188, "lamination"))
    value = engineering(ratio.figure.value, "", 4).strip()
    drawing.add(text(410, BOTTOM + 30, f"1 : {value}", "t mono", "middle"))
