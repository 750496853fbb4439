"""How drawing and page mark what they show: a lead's colour, and what a figure rests on."""

from greyfell.core.figures.quantity import Quantity

LEAD_COLOURS = (
    "black",
    "brown",
    "red",
    "orange",
    "yellow",
    "green",
    "blue",
    "violet",
    "grey",
    "white",
    "pink",
    "copper",
    "clear",
    "tan",
)
"""The colours of leads that are drawn, and offered, in this order."""


def mark_of(quantity: Quantity) -> str:
    """Measured, worked out or assumed: what a figure's basis makes it."""
    basis = " ".join(quantity.basis)
    if basis in ("supply", "given") or basis.startswith(("resistance", "dc drop")):
        return "measured"
    if any(word in basis for word in ("ratio", "inductance", "turn", "×", "REF", "X/", "I²")):
        return "worked"
    return "assumed"


def colour_class(name: str | None) -> str:
    """The CSS class of a lead's colour; unknown colours share a neutral one."""
    words = (name or "").lower().replace("gray", "grey").split()
    return next((f"lead-{w}" for w in words if w in LEAD_COLOURS), "lead-none")
