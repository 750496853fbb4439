"""Placed shapes: plain numbers and class names; colours and type come from the style sheet."""

from dataclasses import dataclass, field
from textwrap import wrap

from msgspec import Struct

Attr = str | float


class Shape(Struct, frozen=True):
    """One SVG element: its name, attributes, text. `link` makes it a link, `label` says what it is
    to a reader.
    """

    element: str
    attrs: dict[str, Attr]
    text: str = ""
    link: str = ""
    label: str = ""
    lead: str = ""
    parts: tuple["Shape", ...] = ()


@dataclass
class Drawing:
    """A drawing: its size in view units, a title and a description for readers, its shapes in
    painting order.
    """

    width: float
    height: float
    title: str
    desc: str
    shapes: list[Shape] = field(default_factory=list)
    written: str | None = field(default=None, compare=False)

    def add(self, *shapes: Shape) -> None:
        """Paint on top."""
        self.shapes.extend(shapes)
        self.written = None

    def texts(self) -> list[str]:
        """Every text of the drawing, for tests and readers."""
        out: list[str] = []
        for s in self.shapes:
            out += [s.text] if s.text else []
            out += [p.text for p in s.parts if p.text]
        return out


def _n(value: float) -> float:
    return round(float(value), 1)


def rect(x: float, y: float, w: float, h: float, look: str) -> Shape:
    """A rectangle."""
    return Shape("rect", {"x": _n(x), "y": _n(y), "width": _n(w), "height": _n(h), "class": look})


def line(x1: float, y1: float, x2: float, y2: float, look: str, **more: Attr) -> Shape:
    """A straight line."""
    return Shape(
        "line", {"x1": _n(x1), "y1": _n(y1), "x2": _n(x2), "y2": _n(y2), "class": look, **more}
    )


def circle(x: float, y: float, r: float, look: str) -> Shape:
    """A circle."""
    return Shape("circle", {"cx": _n(x), "cy": _n(y), "r": _n(r), "class": look})


def path(d: str, look: str, **more: Attr) -> Shape:
    """A path."""
    return Shape("path", {"d": d, "class": look, **more})


def text(x: float, y: float, words: str, look: str = "t", anchor: str = "start") -> Shape:
    """A line of text."""
    return Shape("text", {"x": _n(x), "y": _n(y), "class": look, "text-anchor": anchor}, text=words)


def group(look: str, *parts: Shape, link: str = "", label: str = "", lead: str = "") -> Shape:
    """Shapes that belong together; with a link they are one target."""
    return Shape("g", {"class": look}, link=link, label=label, lead=lead, parts=parts)


def spread(wanted: list[float], gap: float, low: float, high: float) -> list[float]:
    """Places as near as may be to those wanted, in the same order, at least `gap` apart, inside low
    … high.

    >>> spread([10.0, 12.0, 50.0], 10.0, 0.0, 100.0)
    [10.0, 20.0, 50.0]
    """
    if not wanted:
        return []
    gap = min(gap, (high - low) / max(1, len(wanted) - 1)) if len(wanted) > 1 else gap
    out = list(wanted)
    for i, want in enumerate(out):
        out[i] = max(want, low if i == 0 else out[i - 1] + gap)
    for i in range(len(out) - 1, -1, -1):
        out[i] = min(out[i], high if i == len(out) - 1 else out[i + 1] - gap)
    return out


LETTER, CAPTION = 6.3, 17.0
"""Width of a letter of a caption, and height of its line, in view units."""


def captioned(drawing: Drawing, words: str) -> Drawing:
    """The same drawing with a line below it, broken where it is too long for its width."""
    lines = wrap(words, max(20, int((drawing.width - 20) / LETTER)))
    told = [
        text(10, drawing.height + CAPTION * (n + 0.7), one, "t quiet example")
        for n, one in enumerate(lines)
    ]
    return Drawing(
        width=drawing.width,
        height=drawing.height + CAPTION * (len(lines) + 0.3),
        title=drawing.title,
        desc=f"{drawing.desc} {words}.".strip(),
        shapes=[*drawing.shapes, *told],
    )
