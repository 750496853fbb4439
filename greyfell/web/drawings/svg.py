"""Placed shapes written as SVG text: every value escaped, attributes only, no styles. Fast, since
the shelf writes thousands.
"""

from collections.abc import Iterable

from markupsafe import Markup, escape

from greyfell.web.drawings.shapes import Drawing, Shape


def shapes_markup(drawing: Drawing) -> Markup:
    """The inner SVG of a drawing, written once while nothing is painted on top."""
    if drawing.written is None:
        drawing.written = written(drawing.shapes)
    return Markup(drawing.written)


def written(shapes: Iterable[Shape]) -> str:
    """Shapes as SVG text."""
    return "".join(_one(s) for s in shapes)


def _one(s: Shape) -> str:
    if s.element != "g":
        return f"<{s.element}{_attributes(s)}>{escape(s.text)}</{s.element}>"
    inner = "".join(_one(p) for p in s.parts)
    lead = f' data-lead="{escape(s.lead)}"' if s.lead else ""
    if not s.link:
        return f"<g{_attributes(s)}{lead}>{inner}</g>"
    label = f' aria-label="{escape(s.label)}"' if s.label else ""
    return f'<a href="{escape(s.link)}"{label}{lead} class="{escape(s.attrs["class"])}">{inner}</a>'


def _attributes(s: Shape) -> str:
    return "".join(
        f' {name}="{escape(value) if isinstance(value, str) else value}"'
        for name, value in s.attrs.items()
    )
