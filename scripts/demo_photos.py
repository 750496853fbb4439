"""The demo's photos: drawn, not taken. A transformer on a bench, its leads in their colours out to
what they fed; every lead marked at both ends of its cut.
"""

import io
import math
from dataclasses import dataclass

from PIL import Image, ImageDraw, ImageFilter

from greyfell.records.photos import encoded

SIZE = (1200, 800)
HUES = {
    "black": "#1a1c1e",
    "white": "#efece2",
    "red": "#a82424",
    "green": "#2f7a45",
    "yellow": "#d8b62c",
    "blue": "#2b5d9f",
    "brown": "#6d4324",
    None: "#b5734d",
}
BENCH, GRAIN = "#8d7a61", "#83705a"
STEEL, EDGE, TAPE, COPPER = "#6b7277", "#4c5358", "#c9b98c", "#b06a3f"
FAR_X = 0.9


@dataclass(frozen=True)
class Made:
    """One drawn photo: its bytes, and how the record names it with its marks."""

    data: bytes
    entry: dict


def drawn(file, leads, at, *, far=True, tall=False):
    """A photo, by the name of its file, of a piece's leads as (letter, colour) from above down,
    taken at a time.
    """
    image = Image.new("RGB", SIZE, BENCH)
    pen = ImageDraw.Draw(image)
    _bench(pen)
    _iron(pen, tall)
    marks = []
    for n, (letter, colour) in enumerate(leads):
        y = 150 + (n + 0.5) * 520 / len(leads)
        start, end = (SIZE[0] * 0.42, 260 + n * 300 / len(leads)), (SIZE[0] * FAR_X, y)
        _lead(pen, start, end, HUES.get(colour, HUES[None]))
        share = 0.22 + (0.17 * (n % 3) if tall else 0.0)  # side by side where there are many
        x = (start[0] + (end[0] - start[0]) * share) / SIZE[0]
        marks.append(_mark(letter, x, _along(start, end, share), "piece"))
        if far:
            _board(pen, end)
            marks.append(_mark(letter, FAR_X - 0.02, end[1] / SIZE[1], "far"))
    out = io.BytesIO()
    image.filter(ImageFilter.GaussianBlur(0.8)).save(out, "PNG")
    data = encoded(out.getvalue())
    return Made(data, {"file": file, "marks": marks, "note": "before cutting", "at": at})


def _mark(letter, x, y, end):
    return {"lead": letter, "x": round(x, 3), "y": round(y, 3), "end": end}


def _along(start, end, share):
    """The height of a lead's curve at a share of its way, of the whole picture."""
    ease = (1 - math.cos(math.pi * share)) / 2
    return (start[1] + (end[1] - start[1]) * ease) / SIZE[1]


def _bench(pen):
    for y in range(0, SIZE[1], 46):
        pen.line([(0, y), (SIZE[0], y + 14)], fill=GRAIN, width=5)


def _iron(pen, tall):
    left, right, top = 90, 500, 130 if tall else 200
    pen.rectangle([left, top, right, 690], fill=STEEL, outline=EDGE, width=6)
    for y in range(top + 12, 690, 12):
        pen.line([(left + 4, y), (right - 4, y)], fill=EDGE, width=2)
    for n in range(2):
        y = top + 70 + n * 190
        pen.rounded_rectangle([left - 30, y, right + 10, y + 140], 26, fill=COPPER)
        for x in range(left - 20, right, 11):
            pen.line([(x, y + 8), (x, y + 132)], fill="#9c5a34", width=3)
        pen.rectangle([left + 150, y - 6, left + 230, y + 146], fill=TAPE)


def _lead(pen, start, end, hue):
    points = []
    for n in range(41):
        share = n / 40
        x = start[0] + (end[0] - start[0]) * share
        points.append((x, _along(start, end, share) * SIZE[1]))
    pen.line(points, fill="#3c352c", width=17, joint="curve")
    pen.line(points, fill=hue, width=12, joint="curve")


def _board(pen, end):
    x, y = end
    pen.rectangle([x, y - 22, x + 100, y + 22], fill="#3f5a4a", outline="#2b3d33", width=3)
    pen.ellipse([x + 12, y - 9, x + 30, y + 9], fill="#c8ccce")
