"""A photo with its marks: a ring with its letter at each end of a cut."""

from greyfell.core.evidence.record import Photo
from greyfell.web.drawings.shapes import Drawing, Shape, circle, text

WIDTH = 800.0
RING = 17.0
FAR = "′"
"""What stands behind the letter at the far end of a cut."""


def photo(shown: Photo, address: str, size: tuple[int, int]) -> Drawing:
    """A photo drawn from its address, so many pixels wide and high, its marks on top. Pure."""
    tall = WIDTH * size[1] / size[0]
    said = ", ".join(f"{m.lead}{FAR if m.end == 'far' else ''}" for m in shown.marks)
    drawing = Drawing(
        WIDTH, round(tall, 1), shown.note or "Photo", f"Marked: {said or 'nothing yet'}."
    )
    place: dict[str, str | float] = {"href": address, "width": WIDTH, "height": round(tall, 1)}
    drawing.add(Shape("image", place))
    for m in shown.marks:
        x = min(max(m.x * WIDTH, RING), WIDTH - RING)
        y = min(max(m.y * tall, RING), tall - RING)
        look = "ring" if m.end == "piece" else "ring ring-far"
        letter = m.lead + (FAR if m.end == "far" else "")
        words = "t-ring" if len(letter) < 3 else "t-ring t-ring-long"
        drawing.add(circle(x, y, RING, look), text(x, y + 5, letter, words, "middle"))
    return drawing
