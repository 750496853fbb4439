"""Every macro of the house with sample values, for the eye and for a test."""

from typing import Any

from greyfell.core.dangers.rule import CAUTION, POWER, STOP, Danger
from greyfell.core.errors import FieldError
from greyfell.core.figures.quantity import Quantity
from greyfell.core.judgement.fault import Fault
from greyfell.core.planner_kit.declare import Planned, Planner
from greyfell.core.planner_kit.showing import Cell, cells
from greyfell.core.planners.registry import PLANNERS
from greyfell.web.asking import AskBox, boxes
from greyfell.web.drawings.shapes import Drawing
from greyfell.web.drawings.tag import small_iron
from greyfell.web.showing import Page

FIGURES = {
    "measured": Quantity(230.0, 230.0, 230.0, ("supply",)),
    "worked": Quantity(2140.0, 2080.0, 2200.0, ("ratio r7",)),
    "assumed": Quantity(3.25, 2.6, 4.0, ("family and ohms",)),
}
FAULTS = (
    Fault(
        code="shorted-to-core",
        severity="stop",
        leads=("A", "core"),
        readings=("r3",),
        sentence="A conducts to the core.",
    ),
    Fault(
        code="ratio-conflict",
        severity="caution",
        leads=("A", "B"),
        readings=(),
        sentence="Repeat it.",
    ),
    Fault(
        code="inconsistent-readings",
        severity="note",
        leads=("A", "B"),
        readings=(),
        sentence="The plate says another figure.",
    ),
)
HURTS = (
    Danger(
        code="hv",
        ids=(),
        near=POWER,
        severity=STOP,
        headline="High voltage.",
        reason="Expect about 2.1 kV.",
        instead="No ordinary meter belongs on it.",
    ),
    Danger(
        code="mains",
        ids=(),
        near=POWER,
        severity=CAUTION,
        headline="Mains on the primary.",
        reason="The primary carries 230 V.",
        instead="Keep off.",
    ),
)
SKETCH = {
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
        {
            "role": "hv-secondary",
            "bond": "end",
            "broken": True,
            "leads": [["E", "white"]],
        },
    ],
}


class PatternsPage(Page, frozen=True, kw_only=True):
    """Figures, marks, bands, faults, buttons, plans and tags as they look everywhere."""

    template = "patterns.html"
    samples: dict[str, Quantity]
    sample_error: FieldError
    faults: tuple[Fault, ...]
    hurts: tuple[Danger, ...]
    planner: Planner
    planned: Planned
    cells: list[Cell]
    boxes: list[AskBox]
    drawing: Drawing


def show() -> Any:
    """Figures, marks, bands, faults, buttons, plans and tags as they look everywhere."""
    planner = PLANNERS["nameplate"]
    planned = planner.plan(planner.read(planner.example))
    return PatternsPage(
        samples=FIGURES,
        sample_error=FieldError("sample", "Resistance must be above 0 Ω; −3 Ω was given."),
        faults=FAULTS,
        hurts=HURTS,
        planner=planner,
        planned=planned,
        cells=cells(planned.found),
        boxes=boxes(PLANNERS["rewind"], None, {})[:3],
        drawing=small_iron(SKETCH, "CQ-000"),
    ).render()
