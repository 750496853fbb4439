"""Pages that are one tap away from anywhere: somebody was shocked; what a word means."""

from flask import render_template

from greyfell.core.guidance.glossary import GLOSSARY
from greyfell.core.guidance.shocked import STEPS


def shocked() -> str:
    """First aid, in its order."""
    return render_template("shocked.html", steps=STEPS)


def glossary() -> str:
    """Every word of the bench."""
    return render_template("glossary.html", words=GLOSSARY)
