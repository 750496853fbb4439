"""The page of ways on which practitioners differ."""

from greyfell.core.planners.registry import PLANNERS, Planners
from greyfell.core.telling.schools import SCHOOLS, School
from greyfell.web.showing import Page


class SchoolsPage(Page, frozen=True, kw_only=True):
    """Every question with its ways, and the planners where it is claimed."""

    template = "schools.html"
    schools: tuple[School, ...]
    planners: Planners


def show() -> str:
    """Every question with its ways, and the planners where it is claimed."""
    return SchoolsPage(schools=SCHOOLS, planners=PLANNERS).render()
