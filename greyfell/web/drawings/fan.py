"""The fan: the piece's own leads along a diagonal, in their colours, and below it the triangle of
pairs; every cell is a pair to touch, filled by what was read. Beside the diagonal the windings as
they emerge.
"""

from collections.abc import Iterator

from greyfell.core.evidence.record import Lead
from greyfell.core.steps.pairs import CORE, Block, Fan, PairCell
from greyfell.web.drawings.marks import colour_class
from greyfell.web.drawings.shapes import Drawing, Shape, circle, group, line, rect, text

WIDE = 640.0
LARGEST, SMALLEST = 46.0, 26.0
MOST_POINTS = 21
"""More leads than this, core counted, are told in a list: cells would be too small to touch."""
LETTER = 7.3
"""Units a letter of a cell takes."""
ROOM = 300.0
"""Units kept beside the last ring for the windings' words, where cells can shrink for it."""


def fan(found: Fan, leads: list[Lead]) -> Drawing | None:
    """The triangle of pairs; None for more leads than cells can be touched for."""
    count = len(found.points)
    if count < 3 or count > MOST_POINTS:
        return None
    side = max(SMALLEST, min(LARGEST, (WIDE - ROOM / 2) / count))
    drawing = Drawing(
        WIDE,
        side * count + 8,
        "The pairs",
        f"{len(found.cells)} pairs of leads and core, {found.unread} not read.",
    )
    place = {x: n for n, x in enumerate(found.points)}
    for cell in found.cells:
        one, two = cell.points
        drawing.add(_cell(cell, place[one] * side, place[two] * side, side, found.telling))
    known = {lead.id: lead for lead in leads}
    for name, n in place.items():
        drawing.add(*_lead(known.get(name), name, (n + 0.5) * side, side))
    for block in found.blocks:
        drawing.add(*_block(block, side))
    return drawing


def _block(block: Block, side: float) -> Iterator[Shape]:
    x, top = (block.last + 1) * side + 8, block.first * side + 6
    bottom = (block.last + 1) * side - 6
    yield line(x, top, x, bottom, "fan-block")
    yield text(x + 8, (top + bottom) / 2 + 5, block.words, "t t-small")


def _cell(
    cell: PairCell, left: float, top: float, side: float, telling: tuple[str, str] | None
) -> Shape:
    """One pair, as a link that begins its line."""
    wanted = telling is not None and set(telling) == set(cell.points)
    look = f"fan-cell fan-{cell.state}{' fan-telling' if wanted else ''}"
    parts = [rect(left + 1.5, top + 1.5, side - 3, side - 3, look)]
    words = _words(cell, side)
    if words:
        look = f"t mono fan-words fan-words-{cell.state}"
        parts.append(text(left + side / 2, top + side / 2 + 4, words, look, "middle"))
    pair = "-".join(cell.points)
    shown = f"{words}, " if words else ""
    label = f"{pair.replace('-', ' to ')}: {shown}{cell.sentence}{', tells most' if wanted else ''}"
    return group("fan-pair", *parts, link=f"?at=cold&pick={pair}", label=label, lead=f"{pair} ")


def _words(cell: PairCell, side: float) -> str:
    """What stands in a cell."""
    fixed = {"unread": "", "open": "OL", "nothing": "OL?", "contradicting": "≠"}
    return fixed[cell.state] if cell.state in fixed else _short(cell.shown, side)


def _short(shown: str, side: float) -> str:
    """A figure that fits its cell: its unit stands only where there is room."""
    words = shown.replace(" ", "")
    return words if len(words) * LETTER < side - 4 else words.rstrip("Ω")


def _lead(lead: Lead | None, name: str, at: float, side: float) -> list[Shape]:
    """A lead on the diagonal: its ring, with its colour as a bar below."""
    radius = min(15.0, side / 2 - 4)
    look = "ring ring-core" if name == CORE else "ring"
    words = "Fe" if name == CORE else name
    kind = "t t-ring on-core" if name == CORE else "t t-ring"
    if len(words) > 2:
        kind += " t-ring-long"
    shapes = [circle(at, at, radius, look), text(at, at + 4.5, words, kind, "middle")]
    if lead is not None and lead.colour:
        bar, ends = at + radius + 3, (at - radius, at + radius)
        colour = f"lead {colour_class(lead.colour)}"
        shapes += [
            line(ends[0] - 1, bar, ends[1] + 1, bar, "fan-edge"),
            line(ends[0], bar, ends[1], bar, colour, **{"stroke-width": 4.0}),
        ]
    return shapes
