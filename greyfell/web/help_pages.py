"""Pages that are one tap away from anywhere: somebody was shocked; what a word means."""

from flask import render_template

from greyfell.core.telling.first_aid import STEPS
from greyfell.core.telling.glossary import GLOSSARY
from greyfell.core.telling.tripping import BYPASS, CAUSES, KNOWN_BY


def shocked() -> str:
    """First aid, in its order."""
    return render_template("shocked.html", steps=STEPS)


def trips() -> str:
    """A sign part that trips: causes, tests, and that the unit is never bypassed."""
    return render_template("trips.html", causes=CAUSES, known_by=KNOWN_BY, bypass=BYPASS)


def glossary() -> str:
    """Every word of the bench."""
    return render_template("glossary.html", words=GLOSSARY)
