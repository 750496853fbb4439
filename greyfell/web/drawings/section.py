"""The core from the front with its dimensions, by its shape; each dimension is a link. Not to
scale: what is measured stands beside its arrow.
"""

from greyfell.core.evidence.record import Core
from greyfell.core.figures.notation import as_read
from greyfell.web.drawings.shapes import Drawing, Shape, circle, group, line, path, rect, text

WIDE, HIGH = 320.0, 268.0
IRON, WINDOW = "core", "window"


def section(core: Core | None, touched: str) -> Drawing:
    """The core of a record, or one that is not known yet."""
    core = core or Core()
    shape = core.shape or "unknown"
    drawing = Drawing(WIDE, HIGH, "The core", f"Shape {shape}. Not to scale.")
    drawing.add(*SHAPES.get(shape, _shell)("core-unknown" if shape == "unknown" else IRON))
    for key, label, x, y in PLACES.get(shape, PLACES["shell"]):
        drawing.add(_dimension(core, key, label, x=x, y=y, touched=touched))
        drawing.add(text(x, y - 3, label, "t t-small quiet words-over", "middle"))
    return drawing


def _dimension(core: Core, key: str, label: str, *, x: float, y: float, touched: str) -> Shape:
    """A dimension as a link: its name and figure, or a question mark."""
    value = getattr(core, key)
    unit = "kg" if key == "mass_kg" else "mm"
    shown = "?" if value is None else as_read(value, unit)
    here = touched == f"core_{key}"
    parts = [
        rect(x - 44, y - 17, 88, 34, f"seen-box{' seen-here' if here else ''}"),
        text(x, y + 12, shown, "t mono", "middle"),
    ]
    link = f"?at=clues&touch=core_{key}#touched"
    return group("seen-link", *parts, link=link, label=f"{label}: {shown}")


def _shell(look: str) -> list[Shape]:
    return [
        rect(60, 50, 200, 160, look),
        rect(92, 78, 36, 104, WINDOW),
        rect(192, 78, 36, 104, WINDOW),
    ]


def _legs(look: str) -> list[Shape]:
    return [rect(70, 50, 180, 160, look), rect(114, 90, 92, 80, WINDOW)]


def _ring(look: str) -> list[Shape]:
    return [circle(160, 124, 84, look), circle(160, 124, 36, WINDOW)]


def _cut(look: str) -> list[Shape]:
    return [
        path(
            "M120 50H200A50 50 0 0 1 250 100V160A50 50 0 0 1 200 210H120A50 50 0 0 1 70 160V100A50 "
            "50 0 0 1 120 50Z",
            look,
        ),
        rect(112, 90, 96, 80, WINDOW),
        line(62, 130, 112, 130, "seen-cut"),
        line(208, 130, 258, 130, "seen-cut"),
    ]


SHAPES = {"shell": _shell, "core": _legs, "toroid": _ring, "c-core": _cut, "unknown": _shell}
"""How each shape is drawn."""
MASS = ("mass_kg", "mass", 260.0, 250.0)
SQUARE = (
    ("tongue_mm", "tongue", 160.0, 24.0),
    ("stack_mm", "stack, deep", 60.0, 250.0),
    ("window_width_mm", "window wide", 160.0, 250.0),
    ("window_height_mm", "window high", 160.0, 130.0),
    MASS,
)
PLACES = {
    "shell": SQUARE,
    "core": tuple((k, "leg" if k == "tongue_mm" else label, x, y) for k, label, x, y in SQUARE),
    "c-core": tuple((k, "leg" if k == "tongue_mm" else label, x, y) for k, label, x, y in SQUARE),
    "toroid": (
        ("outer_mm", "outer", 160.0, 24.0),
        ("inner_mm", "inner", 160.0, 124.0),
        ("height_mm", "high", 60.0, 250.0),
        MASS,
    ),
}
"""Where each shape's dimensions stand."""
