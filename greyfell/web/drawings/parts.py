"""Each kind of the stores as its own small drawing: the thing as it lies in a drawer, in one line
weight, not to scale.
"""

from greyfell.core.evidence.stores import BY_KEY
from greyfell.web.drawings.shapes import Drawing, Shape, circle, line, path, rect, text

WIDE, HIGH = 70.0, 52.0
LINE, BODY, METAL = "part-line", "part-body", "part-metal"


def part(kind: str) -> Drawing:
    """The drawing of a kind."""
    drawing = Drawing(WIDE, HIGH, BY_KEY[kind].one.capitalize(), "Not to scale.")
    drawing.add(*PARTS[kind])
    return drawing


def _leads(y: float = 26.0, left: float = 16.0, right: float = 54.0) -> tuple[Shape, ...]:
    """A lead to either side."""
    return line(4, y, left, y, LINE), line(right, y, 66, y, LINE)


def _screen(words: str) -> tuple[Shape, ...]:
    """An instrument: a case, what it shows, two jacks."""
    return (
        rect(20, 4, 30, 44, BODY),
        rect(24, 8, 22, 14, METAL),
        text(35, 19, words, "t mono part-words", "middle"),
        circle(28, 41, 2.5, METAL),
        circle(42, 41, 2.5, METAL),
    )


def _box(words: str) -> tuple[Shape, ...]:
    """A part on a rail: a case with a lever, its leads above and below."""
    return (
        rect(22, 8, 26, 36, BODY),
        rect(31, 18, 8, 12, METAL),
        text(35, 41, words, "t mono part-words", "middle"),
        line(35, 2, 35, 8, LINE),
        line(35, 44, 35, 50, LINE),
    )


PARTS: dict[str, tuple[Shape, ...]] = {
    "capacitor": (
        rect(18, 14, 34, 32, BODY),
        line(28, 14, 28, 4, LINE),
        line(42, 14, 42, 4, LINE),
        line(18, 22, 52, 22, LINE),
    ),
    "diode": (
        *_leads(),
        path("M16 16L16 36L44 26Z", BODY),
        line(46, 15, 46, 37, LINE),
        line(46, 26, 54, 26, LINE),
    ),
    "fuse": (
        *_leads(),
        rect(16, 18, 38, 16, BODY),
        rect(16, 18, 8, 16, METAL),
        rect(46, 18, 8, 16, METAL),
        path("M24 26C30 20 40 32 46 26", LINE),
    ),
    "cut-out": (
        circle(35, 26, 15, BODY),
        circle(35, 26, 7, METAL),
        line(4, 26, 20, 26, LINE),
        line(50, 26, 66, 26, LINE),
    ),
    "lamp": (
        path("M35 4C22 4 22 22 29 30L29 36L41 36L41 30C48 22 48 4 35 4Z", BODY),
        rect(29, 36, 12, 12, METAL),
        path("M30 20L33 14L37 20L40 14", LINE),
    ),
    "ballast": (
        rect(10, 12, 50, 30, BODY),
        path(
            "M18 32C18 18 26 18 26 32C26 18 34 18 34 32C34 18 42 18 42 32C42 18 50 18 50 32", LINE
        ),
    ),
    "resistor": (
        *_leads(),
        rect(16, 19, 38, 14, BODY),
        line(24, 19, 24, 33, LINE),
        line(30, 19, 30, 33, LINE),
        line(44, 19, 44, 33, LINE),
    ),
    "heater": (
        path("M6 40L12 12L20 40L28 12L36 40L44 12L52 40L60 12L64 26", LINE),
        circle(6, 42, 3, METAL),
        circle(64, 28, 3, METAL),
    ),
    "wire": (
        circle(35, 26, 21, LINE),
        circle(35, 26, 15, LINE),
        circle(35, 26, 9, LINE),
        line(56, 26, 66, 44, LINE),
    ),
    "strands": (
        line(6, 20, 50, 16, LINE),
        line(6, 26, 50, 26, LINE),
        line(6, 32, 50, 36, LINE),
        rect(26, 14, 12, 24, BODY),
        line(50, 16, 64, 8, LINE),
        line(50, 26, 66, 26, LINE),
        line(50, 36, 64, 44, LINE),
    ),
    "variac": (
        circle(35, 26, 21, BODY),
        circle(35, 26, 9, METAL),
        line(35, 26, 50, 13, LINE),
        circle(51, 12, 3, METAL),
    ),
    "source": (
        rect(10, 10, 50, 32, BODY),
        path("M18 26C22 14 28 14 31 26C34 38 40 38 44 26", LINE),
        circle(52, 20, 2.5, METAL),
        circle(52, 32, 2.5, METAL),
    ),
    "bench-supply": (
        rect(6, 8, 58, 36, BODY),
        rect(12, 14, 22, 12, METAL),
        circle(42, 20, 4, METAL),
        circle(54, 20, 4, METAL),
        circle(18, 36, 2.5, METAL),
        circle(28, 36, 2.5, METAL),
    ),
    "meter": _screen("V Ω"),
    "clamp": (
        path("M24 24C14 6 56 6 46 24", LINE),
        rect(22, 24, 26, 24, BODY),
        rect(27, 28, 16, 9, METAL),
    ),
    "wattmeter": _screen("W"),
    "inductance-meter": _screen("L Q"),
    "insulation-tester": _screen("MΩ"),
    "oscilloscope": (
        rect(8, 6, 54, 40, BODY),
        rect(14, 12, 30, 24, METAL),
        path("M16 24C20 12 24 12 28 24C32 36 38 36 42 24", LINE),
        circle(53, 16, 3, METAL),
        circle(53, 28, 3, METAL),
    ),
    "probe": (
        line(4, 46, 20, 34, LINE),
        path("M20 30L44 12L50 18L26 38Z", BODY),
        line(48, 14, 64, 4, LINE),
    ),
    "divider": (
        line(35, 2, 35, 8, LINE),
        rect(29, 8, 12, 14, BODY),
        line(35, 22, 35, 28, LINE),
        rect(29, 28, 12, 14, BODY),
        line(35, 42, 35, 50, LINE),
        line(35, 25, 58, 25, LINE),
    ),
    "shunt": (
        rect(6, 18, 14, 16, METAL),
        rect(50, 18, 14, 16, METAL),
        line(20, 22, 50, 22, LINE),
        line(20, 26, 50, 26, LINE),
        line(20, 30, 50, 30, LINE),
    ),
    "panel-meter": (
        rect(12, 6, 46, 40, BODY),
        path("M18 32C26 16 44 16 52 32", LINE),
        line(35, 40, 46, 20, LINE),
    ),
    "thermometer": (
        line(10, 44, 40, 14, LINE),
        circle(9, 45, 4, METAL),
        rect(38, 4, 26, 16, BODY),
        text(51, 16, "°C", "t mono part-words", "middle"),
    ),
    "residual-current-device": (*_box("T"), circle(35, 13, 2.5, METAL)),
    "breaker": _box("A"),
    "switch": (
        line(4, 36, 22, 36, LINE),
        circle(24, 36, 2.5, METAL),
        line(26, 35, 46, 18, LINE),
        circle(46, 36, 2.5, METAL),
        line(48, 36, 66, 36, LINE),
    ),
    "relay": (
        rect(8, 20, 22, 22, BODY),
        path("M12 31C12 24 17 24 17 31C17 24 22 24 22 31C22 24 26 24 26 31", LINE),
        line(40, 38, 52, 20, LINE),
        circle(39, 39, 2.5, METAL),
        circle(58, 39, 2.5, METAL),
        line(30, 26, 44, 28, LINE),
    ),
    "timer": (
        circle(35, 26, 20, BODY),
        line(35, 26, 35, 12, LINE),
        line(35, 26, 46, 30, LINE),
        circle(35, 26, 2.5, METAL),
    ),
    "socket": (
        rect(14, 6, 42, 40, BODY),
        circle(27, 26, 4, METAL),
        circle(43, 26, 4, METAL),
        circle(35, 37, 2.5, METAL),
    ),
    "lug": (
        circle(48, 26, 12, BODY),
        circle(48, 26, 5, METAL),
        rect(10, 20, 28, 12, BODY),
    ),
    "tip": (
        rect(28, 4, 14, 26, BODY),
        path("M28 30L42 30L37 46L33 46Z", METAL),
    ),
    "sheet": (
        path("M10 14L50 6L62 36L22 46Z", BODY),
        path("M14 22L54 14", LINE),
        path("M17 30L57 22", LINE),
    ),
    "other": (
        rect(16, 10, 38, 32, BODY),
        text(35, 31, "?", "t mono part-words", "middle"),
    ),
}
"""The shapes of every kind."""
