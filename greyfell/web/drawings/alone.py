"""A drawing as a file of its own: colours and type written into it, in the light theme."""

from functools import cache
from pathlib import Path

from markupsafe import escape
from msgspec.structs import replace

from greyfell.web.drawings.shapes import Drawing, Shape
from greyfell.web.drawings.svg import shapes_markup

LOOK = Path(__file__).parents[1] / "static" / "dist" / "drawing.css"
GROUND = "#fbfaf6"


@cache
def look() -> str:
    """The rules of drawings, as the build makes them from the style sheet."""
    return LOOK.read_text(encoding="utf-8")


def unlinked(drawing: Drawing) -> Drawing:
    """The same drawing with nothing in it that leads anywhere."""
    shapes = [_plain(s) for s in drawing.shapes]
    return Drawing(
        width=drawing.width,
        height=drawing.height,
        title=drawing.title,
        desc=drawing.desc,
        shapes=shapes,
    )


def _plain(shape: Shape) -> Shape:
    return replace(shape, link="", label="", lead="", parts=tuple(_plain(p) for p in shape.parts))


def alone(drawing: Drawing) -> str:
    """A drawing as SVG 1.1 text that stands alone."""
    return (
        '<?xml version="1.0" encoding="UTF-8"?>\n'
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {drawing.width} {drawing.height}" '
        f'width="{drawing.width}" height="{drawing.height}">'
        f"<title>{escape(drawing.title)}</title><desc>{escape(drawing.desc)}</desc>"
        f"<style>{escape(look())}</style>"
        f'<rect width="100%" height="100%" fill="{GROUND}"/>'
        f"{shapes_markup(unlinked(drawing))}</svg>\n"
    )
