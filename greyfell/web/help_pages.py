"""Pages that are one tap away from anywhere: somebody was shocked; what a word means."""

from greyfell.core.telling.first_aid import STEPS, Aid
from greyfell.core.telling.glossary import GLOSSARY
from greyfell.core.telling.tripping import BYPASS, CAUSES, KNOWN_BY, Cause
from greyfell.web.showing import Page


class ShockedPage(Page, frozen=True, kw_only=True):
    """First aid, in its order."""

    template = "shocked.html"
    steps: tuple[Aid, ...]


def shocked() -> str:
    """First aid, in its order."""
    return ShockedPage(steps=STEPS).render()


class TripsPage(Page, frozen=True, kw_only=True):
    """A sign part that trips: causes, tests, and that the unit is never bypassed."""

    template = "trips.html"
    causes: tuple[Cause, ...]
    known_by: tuple[str, ...]
    bypass: str


def trips() -> str:
    """A sign part that trips: causes, tests, and that the unit is never bypassed."""
    return TripsPage(causes=CAUSES, known_by=KNOWN_BY, bypass=BYPASS).render()


class GlossaryPage(Page, frozen=True, kw_only=True):
    """Every word of the bench."""

    template = "glossary.html"
    words: dict[str, str]


def glossary() -> str:
    """Every word of the bench."""
    return GlossaryPage(words=GLOSSARY).render()
