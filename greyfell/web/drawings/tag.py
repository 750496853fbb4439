"""The small iron on a shelf tag: windings and leads in their colours, bonds and breaks, nothing
else.
"""

from typing import Any

from greyfell.web.drawings.marks import colour_class
from greyfell.web.drawings.shapes import Drawing, circle, line, path, rect, spread

ORDER = {
    "hv-secondary": 0,
    "lv-secondary": 1,
    "bias": 1,
    "filament": 2,
    "choke": 3,
    "primary": 3,
    "primary-half": 3,
}
LINES = {
    "hv-secondary": 9,
    "primary": 5,
    "primary-half": 5,
    "choke": 5,
    "filament": 2,
    "bias": 6,
    "lv-secondary": 3,
}


def small_iron(sketch: dict[str, Any], tag: str) -> Drawing:
    """The drawing for one piece's tag, from its cached sketch."""
    windings = sorted(sketch["windings"], key=lambda w: ORDER.get(w["role"], 1))
    drawing = Drawing(
        240,
        124,
        f"Iron of {tag}",
        f"{len(windings)} windings, {sketch['shape']} core. Not to scale.",
    )
    if sketch["shape"] == "toroid":
        drawing.add(circle(120, 62, 52, "core"), circle(120, 62, 20, "window"))
        boxes = [
            (96.0, 22.0 + i * 80 / max(1, len(windings)), 48.0, 80 / max(1, len(windings)) - 6)
            for i in range(len(windings))
        ]
    else:
        drawing.add(rect(78, 6, 84, 112, "core"))
        for window in (94, 132):
            drawing.add(rect(window, 18, 14, 88, "window"))
        n = max(1, len(windings))
        gap = 5.0 if n < 5 else 3.0
        each = (84 - gap * (n - 1)) / n
        boxes = [(88.0, 20 + i * (each + gap), 64.0, each) for i in range(len(windings))]
    left: list[tuple[float, str, float]] = []
    right: list[tuple[float, str, float]] = []
    for w, (x, y, width, h) in zip(windings, boxes, strict=True):
        drawing.add(rect(x, y, width, h, "coil"))
        count = max(1, min(LINES.get(w["role"], 4), int(h / 3)))
        for k in range(count):
            at = y + h * (k + 0.5) / count
            drawing.add(
                line(
                    x + 2,
                    at,
                    x + width - 2,
                    at,
                    "wire",
                    **{"stroke-width": 2.4 if w["role"] == "filament" else 1.3},
                )
            )
        if w["bond"]:
            drawing.add(
                path(f"M{x} {y + h / 2}q-12 0 -12 {h / 2 + 2}", "bond"),
                circle(x - 12, y + h / 2 + h / 2 + 2, 3, "bond-dot"),
            )
        if w["broken"]:
            drawing.add(
                path(f"M{x + width / 2 - 8} {y + h / 2 - 8}l16 16m0 -16l-16 16", "fault-cross")
            )
        side = left if w["role"] == "hv-secondary" else right
        for k, (_, colour) in enumerate(w["leads"]):
            side.append(
                (y + h * (k + 0.5) / len(w["leads"]), colour, x if side is left else x + width)
            )
    for items, end in ((left, 34.0), (right, 206.0)):
        for (at, colour, start), y in zip(
            items, spread([i[0] for i in items], 12.0, 10, 114), strict=True
        ):
            middle = (start + end) / 2
            d = f"M{start} {at:.1f}C{middle} {at:.1f} {middle} {y:.1f} {end} {y:.1f}"
            drawing.add(
                path(d, "lead-edge", **{"stroke-width": 3.6}),
                path(d, f"lead {colour_class(colour)}", **{"stroke-width": 2.4}),
                circle(end, y, 4, "ring"),
            )
    for i, (_, colour) in enumerate(sketch["loose"][:8]):
        drawing.add(
            path(f"M{20 + 12 * i} 104v8", f"lead {colour_class(colour)}", **{"stroke-width": 2}),
            circle(20 + 12 * i, 117, 4, "ring ring-loose"),
        )
    return drawing
