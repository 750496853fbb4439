"""Every macro of the house with sample values, for the eye and for a test."""

from typing import Any

from flask import Blueprint, render_template

from greyfell.core.quantity import Quantity
from greyfell.web.drawings.tag import small_iron

bp = Blueprint("patterns", __name__)


@bp.get("/patterns")
def show() -> Any:
    """Figures, marks, bands, faults, buttons and tags as they look everywhere."""
    samples = {
        "measured": Quantity(230.0, 230.0, 230.0, ("supply",)),
        "worked": Quantity(2140.0, 2080.0, 2200.0, ("ratio r7",)),
        "assumed": Quantity(3.25, 2.6, 4.0, ("family and ohms",)),
    }
    sketch = {
        "shape": "shell",
        "shunts": True,
        "loose": [["G", "green"]],
        "windings": [
            {
                "role": "primary",
                "bond": None,
                "broken": False,
                "leads": [["A", "black"], ["B", "black"]],
            },
            {
                "role": "filament",
                "bond": None,
                "broken": False,
                "leads": [["C", "red"], ["D", "red"]],
            },
            {"role": "hv-secondary", "bond": "end", "broken": True, "leads": [["E", "white"]]},
        ],
    }
    return render_template("patterns.html", samples=samples, drawing=small_iron(sketch, "CQ-000"))
