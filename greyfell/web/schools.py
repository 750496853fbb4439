"""The page of ways on which practitioners differ."""

from flask import render_template

from greyfell.core.planners.registry import PLANNERS
from greyfell.core.telling.schools import SCHOOLS


def show() -> str:
    """Every question with its ways, and the planners where it is claimed."""
    return render_template("schools.html", schools=SCHOOLS, planners=PLANNERS)
