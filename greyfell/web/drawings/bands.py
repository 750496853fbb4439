"""A reading on its band: a logarithmic scale of ohms, the usual range, the reading as a mark."""

import math

from greyfell.core.figures.notation import engineering
from greyfell.core.telling.usual_ranges import LEAST, MOST, Band
from greyfell.web.drawings.shapes import Drawing, line, rect

WIDE = 190.0


def at(ohms: float) -> float:
    """Where a value stands on the scale, in view units; open stands at the far end."""
    if math.isinf(ohms):
        return WIDE - 6
    value = min(max(ohms, LEAST), MOST)
    return 6 + (WIDE - 24) * (math.log(value) - math.log(LEAST)) / (
        math.log(MOST) - math.log(LEAST)
    )


def band_marks(band: Band) -> Drawing:
    """The small drawing beside one reading."""
    usual = (
        f"usual {engineering(band.usual[0], 'Ω', 2)} to {engineering(band.usual[1], 'Ω', 2)}"
        if band.usual
        else "no usual range yet"
    )
    drawing = Drawing(
        WIDE,
        26,
        f"{'–'.join(band.points)} {band.shown}",
        f"{usual}; scale 10 mΩ to 100 MΩ, logarithmic, open at the end.",
    )
    drawing.add(line(4, 13, WIDE - 2, 13, "band-line"))
    if band.usual is not None:
        low, high = at(band.usual[0]), at(band.usual[1])
        if band.usual[1] >= MOST:
            high = WIDE - 2
        drawing.add(rect(low - 2, 7, max(5.0, high - low + 4), 12, "band-usual"))
    x = at(band.ohms)
    drawing.add(line(x, 3, x, 23, f"band-mark band-{band.mood}"))
    return drawing
