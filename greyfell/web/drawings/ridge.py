"""The ridge: the track of stations as a hill line whose height is the energy you stand next to at
each.
"""

from greyfell.core.evidence.record import Transformer
from greyfell.web.drawings.shapes import Drawing, Shape, circle, group, path, text

STATIONS = (
    ("salvage", "Salvage", 0.62, 90.0),
    ("clues", "Clues", 0.05, 220.0),
    ("cold", "Cold", 0.09, 350.0),
    ("low", "Low energy", 0.27, 490.0),
    ("power", "First power", 0.52, 640.0),
    ("sweep", "Sweep", 0.95, 790.0),
    ("model", "Model", 0.08, 930.0),
    ("uses", "Uses", 0.08, 1050.0),
    ("record", "Record", 0.04, 1170.0),
)
"""Key, name, relative height, place along the track. Heights rank stored and available energy; not
to scale."""
STATION_WORDS = {key: name.lower() for key, name, _, _ in STATIONS}
"""Stations by key, as they stand in a sentence."""
LIVE = {"power", "sweep"}
"""Stations behind the gate."""


def walked(record: Transformer) -> set[str]:
    """Stations that have something on record."""
    done: set[str] = {r.reaches for r in record.standing} - {""}
    if any(s.kind in ("salvage-done", "no-capacitor", "done-elsewhere") for s in record.statements):
        done.add("salvage")
    if record.core is not None or any(
        x.colour or x.end or x.place or x.wire_mm for x in record.leads
    ):
        done.add("clues")
    return done


def ridge(record: Transformer, here: str, *, gate_open: bool = False) -> Drawing:
    """The track with the present station ringed, walked ones filled, gated ones shown as such."""
    drawing = Drawing(
        1240, 84, "The track of stations", "Height of the ridge is the energy you stand next to."
    )
    base, rise = 54.0, 44.0
    points = [(x, base - rise * h) for _, _, h, x in STATIONS]
    d = f"M20 {base}L" + "L".join(f"{x:.0f} {y:.0f}" for x, y in points) + f"L1230 {base}"
    drawing.add(path(d, "ridge-line"))
    done = walked(record)
    solid = [i for i, s in enumerate(STATIONS[:4]) if s[0] in done]
    if solid:
        drawing.add(
            path(
                f"M20 {base}L" + "L".join(f"{x:.0f} {y:.0f}" for x, y in points[: max(solid) + 1]),
                "ridge-walked",
            )
        )
    for (key, name, _, _), at in zip(STATIONS, points, strict=True):
        closed = key in LIVE and not gate_open
        drawing.add(_station(key, name, at, here=key == here, done=key in done, closed=closed))
    said = "height of the ridge: the energy you stand next to"
    drawing.add(text(1236, 14, said, "t t-small t-assumed", "end"))
    return drawing


def _station(
    key: str, name: str, at: tuple[float, float], *, here: bool, done: bool, closed: bool
) -> Shape:
    x, y = at
    look, named = "station", "t t-station"
    if here:
        look, named = "station-here", "t t-here"
    elif closed:
        look, named = "station-done" if done else "station-closed", "t t-station quiet"
    elif done:
        look = "station-done"
    parts = [circle(x, y, 9 if here else 6, look)]
    if closed:
        parts.append(path(f"M{x - 3} {y}h6", "station-bar"))
    words = f"{name}, closed" if closed else name
    parts.append(text(x, 76, words, named, "middle"))
    return group("station-group", *parts, link=f"?at={key}", label=words)
