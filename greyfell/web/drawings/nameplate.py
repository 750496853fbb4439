"""The plate drawn as a plate: what stands on it in its fields, each of them a link; empty fields
are dotted.
"""

from greyfell.core.evidence.record import Nameplate
from greyfell.core.figures.notation import as_read
from greyfell.web.drawings.shapes import Drawing, Shape, circle, group, rect, text

WIDE, HIGH = 320.0, 268.0
ROWS = (
    (("primary_volts", "in", "V"), ("hertz", "hertz", "Hz")),
    (("secondary_volts", "out, volts", "V"), ("secondary_amps", "out, amps", "A")),
    (("va", "power", "VA"), ("midpoint_earthed", "middle earthed", "")),
    (("outputs", "outputs", ""),),
    (("text", "all it says", ""),),
)
"""Fields of a plate, row by row: key, label, sign."""
LONGEST = 34


def nameplate(plate: Nameplate | None, touched: str) -> Drawing:
    """The plate of a record, or an empty one."""
    drawing = Drawing(WIDE, HIGH, "The plate", "Each field can be touched.")
    drawing.add(rect(8, 8, WIDE - 16, HIGH - 16, "seen-plate"))
    for x, y in ((18, 18), (WIDE - 18, 18), (18, HIGH - 18), (WIDE - 18, HIGH - 18)):
        drawing.add(circle(x, y, 3, "part-metal"))
    for n, row in enumerate(ROWS):
        wide = (WIDE - 56) / len(row)
        for m, (key, label, sign) in enumerate(row):
            shown = _shown(plate, key, sign)
            box = (28 + m * wide, 26 + n * 44, wide - 8)
            drawing.add(_field(key, label, shown, box, touched))
            drawing.add(text(box[0] + 6, box[1] + 14, label, "t t-small quiet words-over"))
    return drawing


def _field(
    key: str, label: str, shown: str, box: tuple[float, float, float], touched: str
) -> Shape:
    x, y, wide = box
    here = touched == f"plate_{key}"
    look = "seen-box" + (" seen-here" if here else "") + ("" if shown else " seen-empty")
    parts = [
        rect(x, y, wide, 38, look),
        text(x + 6, y + 31, shown or "?", "t mono"),
    ]
    link = f"?at=clues&touch=plate_{key}#touched"
    return group("seen-link", *parts, link=link, label=f"{label}: {shown or 'not known'}")


def _shown(plate: Nameplate | None, key: str, sign: str) -> str:
    """What a field says."""
    if plate is None:
        return ""
    if key == "outputs":
        return _short(outputs_words(plate))
    value = getattr(plate, key)
    if value is None or value == "":
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    return as_read(value, sign) if sign else _short(str(value))


def outputs_words(plate: Nameplate | None) -> str:
    """The outputs as they are typed."""
    told = []
    for out in plate.outputs if plate is not None else []:
        parts = ((out.volts, "V"), (out.amps, "A"))
        told.append(" ".join(as_read(v, u).replace(" ", "") for v, u in parts if v is not None))
    return ", ".join(told)


def _short(words: str) -> str:
    return words if len(words) <= LONGEST else words[: LONGEST - 1] + "…"
