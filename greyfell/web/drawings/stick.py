"""The discharge stick: the chain of resistors on its rod, the hook at the far end, the hand at the
near one. Not to scale.
"""

from greyfell.core.figures.notation import engineering
from greyfell.core.steps.discharge_stick import ROD_MM, Stick
from greyfell.web.drawings.shapes import Drawing, Shape, circle, line, path, rect, text

WIDE, HIGH = 620.0, 150.0
LINE, BODY, METAL = "part-line", "part-body", "part-metal"
CHAIN_FROM, CHAIN_TO, ROD = 190.0, 540.0, 70.0


def stick(built: Stick) -> Drawing:
    """The stick with its chain, and what each length of it is for."""
    said = f"{built.count} resistors of {engineering(built.ohms, 'Ω')} between hook and clip."
    drawing = Drawing(WIDE, HIGH, "Discharge stick", said)
    drawing.add(rect(20, ROD - 7, 540, 14, BODY), *_chain(built.count), *_ends())
    whole = engineering(built.count * built.ohms, "Ω")
    drawing.add(
        text(80, ROD - 16, "hand here", "t", "middle"),
        text((CHAIN_FROM + CHAIN_TO) / 2, 34, f"{built.count} in a row, {whole}", "t", "middle"),
        text(578, ROD - 16, "hook", "t", "middle"),
        text(20, 142, f"{ROD_MM:g} mm and more, dry", "t"),
        text(300, 142, "clip, on kilovolt wire: other terminal, or the can", "t"),
    )
    return drawing


def _chain(count: int) -> list[Shape]:
    """The resistors along the rod, a zigzag each."""
    pitch = (CHAIN_TO - CHAIN_FROM) / count
    out = [line(CHAIN_FROM - 20, ROD, CHAIN_FROM, ROD, LINE), line(CHAIN_TO, ROD, 565, ROD, LINE)]
    for n in range(count):
        x, step = CHAIN_FROM + n * pitch, 0.7 * pitch / 6
        zig = "".join(
            f"L{x + step * (k + 0.5):.1f} {ROD - 6 if k % 2 else ROD + 6}" for k in range(6)
        )
        out.append(path(f"M{x:.1f} {ROD}{zig}L{x + 0.7 * pitch:.1f} {ROD}H{x + pitch:.1f}", LINE))
    return out


def _ends() -> list[Shape]:
    """The hook, the clip on its wire, and the guard before the hand."""
    return [
        path("M565 70H586A13 13 0 1 1 573 57", LINE),
        rect(132, ROD - 20, 6, 40, METAL),
        path(f"M{CHAIN_FROM - 20} {ROD}C160 110 200 116 250 116", LINE),
        path("M250 110L276 104L276 128L250 122Z", METAL),
        circle(CHAIN_FROM - 20, ROD, 3, METAL),
    ]
