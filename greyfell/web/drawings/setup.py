"""The bench from the wall to the piece: line, neutral and earth as three rails, every element in
its place, the piece at their end; what is wrong is ringed and numbered.
"""

from collections.abc import Sequence

from greyfell.core.bench.demand import Wrong
from greyfell.core.bench.piece_on_bench import Needs
from greyfell.core.bench.setup import BOTH, LINE, Attached, BenchPart, Setup
from greyfell.core.figures.notation import engineering
from greyfell.web.drawings.shapes import Drawing, Shape, circle, line, path, rect, text

LINE_Y, NEUTRAL_Y, EARTH_Y = 70.0, 150.0, 226.0
FIRST, GAP, PIECE_WIDTH = 104.0, 92.0, 190.0
SHORT = {
    "residual-current-device": "RCD",
    "breaker": "breaker",
    "fuse": "fuse",
    "switch": "switch",
    "variac": "variac",
    "source": "source",
    "lamp": "lamp",
    "heater": "heater",
    "ballast": "ballast",
    "wattmeter": "W",
    "ammeter": "A",
}
LEAD = {
    "residual-current-device": ("trip_amps", "A"),
    "breaker": ("amps", "A"),
    "fuse": ("amps", "A"),
    "switch": ("amps", "A"),
    "variac": ("brush_amps", "A"),
    "source": ("volts", "V"),
    "lamp": ("watts", "W"),
    "heater": ("watts", "W"),
    "ballast": ("short_amps", "A"),
    "wattmeter": ("amps", "A"),
    "ammeter": ("amps", "A"),
}


def setup_drawing(setup: Setup, wrongs: Sequence[Wrong], needs: Needs) -> Drawing:
    """A set-up as one picture, with a number at everything that is wrong at a place. Pure."""
    count = len(setup.chain)
    piece_x = FIRST + count * GAP
    width = piece_x + PIECE_WIDTH + 16
    height = 252 + 28 * len(setup.meters[:3])
    drawing = Drawing(width, height, _title(wrongs), "From the wall to the piece; not to scale.")
    numbers = {w.at: n for n, w in reversed(list(enumerate(wrongs, 1))) if w.at}
    _wall(drawing, setup)
    for n in range(count + 1):
        x = FIRST + n * GAP
        start = 62.0 if n == 0 else x - GAP + 64
        for y in (LINE_Y, NEUTRAL_Y):
            drawing.add(line(start, y, x, y, "rail"))
    for n, e in enumerate(setup.chain):
        _element(drawing, e, FIRST + n * GAP, numbers.get(e.id))
    _piece(drawing, setup, needs, piece_x, numbers)
    return drawing


def _title(wrongs: Sequence[Wrong]) -> str:
    """What the drawing says in a line."""
    if not wrongs:
        return "The bench: nothing wrong from the wall to the piece"
    return f"The bench: {len(wrongs)} wrong or missing"


def _wall(drawing: Drawing, setup: Setup) -> None:
    """The socket with its three contacts."""
    drawing.add(rect(14, LINE_Y - 30, 48, NEUTRAL_Y - LINE_Y + 60, "hook-source"))
    drawing.add(text(38, LINE_Y - 38, "wall", "t t-small", "middle"))
    for y, name in ((LINE_Y, "L"), (NEUTRAL_Y, "N")):
        drawing.add(text(38, y + 5, name, "t mono", "middle"))
    if setup.plug == "reversible":
        drawing.add(text(38, (LINE_Y + NEUTRAL_Y) / 2 + 5, "⇅", "t mono stop", "middle"))
    if setup.earthed:
        drawing.add(text(38, EARTH_Y + 5, "earth", "t t-small", "middle"))


def _element(drawing: Drawing, e: BenchPart, x: float, number: int | None) -> None:
    """One element: a box on the conductor it stands in, or over both; its wire goes on below."""
    top, bottom = LINE_Y - 22.0, NEUTRAL_Y + 22.0
    if e.where == LINE:
        bottom = LINE_Y + 22.0
    elif e.where != BOTH:
        top = NEUTRAL_Y - 22.0
    for y in (LINE_Y, NEUTRAL_Y):
        if not top < y < bottom:
            drawing.add(line(x, y, x + 64, y, "rail"))
    look = "bench-box" if number is None else "bench-box bench-wrong"
    drawing.add(rect(x, top, 64, bottom - top, look))
    middle = (top + bottom) / 2
    drawing.add(text(x + 32, middle - 2, SHORT.get(e.kind, e.kind), "t t-small", "middle"))
    figure = _figure(e)
    if figure:
        drawing.add(text(x + 32, middle + 14, figure, "t t-small mono", "middle"))
    if number is not None:
        drawing.add(*_number(x + 64, top, number))


def _figure(e: BenchPart) -> str:
    """Its leading figure."""
    key, unit = LEAD.get(e.kind, ("", ""))
    value = e.figures.get(key)
    return "" if value is None else engineering(value, unit, 2)


def _number(x: float, y: float, number: int) -> list[Shape]:
    """The number of what is wrong, in a ring."""
    return [
        circle(x, y, 11, "bench-number"),
        text(x, y + 4.5, str(number), "t t-ring on-core", "middle"),
    ]


def _inside(drawing: Drawing, x: float) -> None:
    # the winding between the fed leads, and the iron beside it
    tall = NEUTRAL_Y - LINE_Y
    drawing.add(path(f"M{x + 17} {LINE_Y}h16v{tall}h-16", "hook-red"))
    drawing.add(rect(x + 52, LINE_Y - 16, 34, tall + 32, "hook-core"))
    drawing.add(text(x + 69, (LINE_Y + NEUTRAL_Y) / 2 + 5, "Fe", "t t-ring on-core", "middle"))


def _piece(drawing: Drawing, setup: Setup, needs: Needs, x: float, numbers: dict[str, int]) -> None:
    """The piece: fed leads on the rails, the other ends with their covers, the core and its
    bond.
    """
    drawing.add(rect(x, LINE_Y - 34, PIECE_WIDTH, NEUTRAL_Y - LINE_Y + 68, "bench-piece"))
    drawing.add(text(x + PIECE_WIDTH / 2, LINE_Y - 42, "the piece", "t t-small", "middle"))
    for lead, y in zip(setup.fed, (LINE_Y, NEUTRAL_Y), strict=True):
        drawing.add(circle(x + 4, y, 13, "ring"), text(x + 4, y + 4.5, lead, "t t-ring", "middle"))
    _inside(drawing, x)
    _ends(drawing, setup, needs, x + 112, numbers)
    _bond(drawing, setup, needs, x + 69, numbers)
    for n, meter in enumerate(setup.meters[:3]):
        _meter(drawing, meter, x - 12, 262 + 28 * n, numbers.get(meter.id))


def _ends(drawing: Drawing, setup: Setup, needs: Needs, x: float, numbers: dict[str, int]) -> None:
    """Every other end, covered or bare."""
    others = sorted(needs.ends - set(setup.fed))
    for n, lead in enumerate(others[:10]):
        column, row = divmod(n, 5)
        at, y = x + 40 * column, LINE_Y - 16 + 28 * row
        drawing.add(circle(at, y, 10, "ring"), text(at, y + 4, lead, "t t-small", "middle"))
        if lead in setup.covered:
            drawing.add(path(f"M{at + 9} {y - 9}h8v18h-8", "bench-cover"))
    bare = next((n for lead in others for at, n in numbers.items() if at == lead), None)
    if bare is not None:
        drawing.add(*_number(x + 54, LINE_Y - 34, bare))


def _bond(drawing: Drawing, setup: Setup, needs: Needs, x: float, numbers: dict[str, int]) -> None:
    """The core as a terminal: its wire to earth, and the volts it has if that breaks."""
    bonded = bool(needs.iron & set(setup.earth)) and setup.earthed
    if bonded:
        drawing.add(path(f"M{x} {NEUTRAL_Y + 16}V{EARTH_Y}H66", "bench-earth"))
    volts = core_volts(needs)
    if volts:
        words = f"core: {volts} if the bond breaks" if bonded else f"core: {volts}, no bond"
        look = "t t-small" if bonded else "t t-small stop"
        drawing.add(text(x - 10, EARTH_Y - 10, words, look, "end"))
    if "core" in numbers:
        drawing.add(*_number(x + 17, NEUTRAL_Y + 16, numbers["core"]))


def core_volts(needs: Needs) -> str:
    """The volts that the core has if its bond breaks: of what is bonded to it, in words; empty
    where nothing returns on it.
    """
    bonded = [v for pair, v in needs.volts.items() if "core" in pair and v is not None]
    return f"up to {engineering(max(bonded), 'V', 2)}" if bonded else ""


def _meter(drawing: Drawing, meter: Attached, x: float, y: float, number: int | None) -> None:
    """A meter and where it is: below the rails, before the piece."""
    words = f"{meter.name[:26]} on {'–'.join(meter.at)}, {meter.held}"
    drawing.add(rect(x, y - 16, 20, 22, "hook-meter"))
    drawing.add(text(x + 10, y, "V", "t t-small on-core", "middle"))
    drawing.add(text(x + 26, y, words, "t t-small" if number is None else "t t-small stop"))
    if number is not None:
        drawing.add(*_number(x - 14, y - 5, number))
