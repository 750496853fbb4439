"""A conductor's section beside ten millimetres of rule, to scale."""

from greyfell.core.evidence.record import Transformer
from greyfell.core.planner_kit.declare import Planned
from greyfell.web.drawings.shapes import Drawing, circle, line, text

MOST_PIXELS = 150.0
RULE_MM = 10.0


def conductor(planned: Planned, _record: Transformer | None) -> Drawing:
    """The bare section with its diameter, and a rule of ten millimetres at the same scale."""
    millimetres = planned.found.millimetres_found.value
    scale = min(18.0, MOST_PIXELS / max(millimetres, RULE_MM))
    radius = max(1.0, millimetres * scale / 2)
    said = f"{millimetres:.3g} mm bare, {planned.found.mm2_found.value:.3g} mm²"
    drawing = Drawing(460, 300, f"A conductor of {said}", "Section, to scale beside a rule.")
    drawing.add(circle(230, 110, radius, "turn-copper"))
    drawing.add(text(230, 128 + MOST_PIXELS / 2, said, "t t-strong", "middle"))
    half = RULE_MM * scale / 2
    drawing.add(line(230 - half, 246, 230 + half, 246, "axis"))
    for k in range(int(RULE_MM) + 1):
        x = 230 - half + k * scale
        tall = 10 if k % 5 == 0 else 5
        drawing.add(line(x, 246 - tall, x, 246, "axis"))
    drawing.add(text(230, 268, "10 mm", "t mono t-small", "middle"))
    drawing.add(text(40, 292, "to scale", "t t-small quiet"))
    return drawing
