"""How figures and words reach a template: quantities with range and evidence mark, engineering
notation, colours.
"""

from typing import Any

from flask import Flask
from markupsafe import Markup, escape

from greyfell.core.evidence.reading_in_words import told
from greyfell.core.figures.notation import as_read, engineering, percent, span, with_range
from greyfell.core.figures.quantity import Quantity
from greyfell.core.planner_kit.declare import in_words
from greyfell.core.telling.answers import shorts_at
from greyfell.core.telling.under_power import theirs_alone
from greyfell.core.telling.words import (
    STATEMENT_WORDS,
    VERDICT_SHORT,
    VERDICT_WORDS,
    family_choices,
    family_name,
    family_word,
    role_words,
)
from greyfell.records.archive import OUTCOMES
from greyfell.web.drawings.marks import colour_class, mark_of
from greyfell.web.drawings.svg import shapes_markup
from greyfell.web.preferences import THEMES, next_theme
from greyfell.web.support import stored_key

MARKS = {"measured": "measured", "worked": "worked out", "assumed": "assumed"}


def quantity(q: Quantity | dict[str, Any] | None, unit: str, mark: str = "") -> Markup:
    """A figure with unit, range, evidence mark and, on hover or focus, what it rests on."""
    if q is None:
        return Markup('<span class="figure figure-none">not known</span>')
    if isinstance(q, dict):
        q = Quantity(q["value"], q["low"], q["high"], tuple(q.get("basis", ())))
    kind = mark or mark_of(q)
    basis = "; ".join(q.basis) or "no basis given"
    return Markup('<span class="figure mark-{}" tabindex="0" title="{}: {}">{}</span>').format(
        kind, MARKS[kind], escape(basis), with_range(q, unit)
    )


LEAST_TOLD = 5e-4
"""A range of a smaller share is not worth a line."""


def ends_in_words(value: Any, unit: str) -> str:
    """The range of a figure in a table; nothing for what has none, or is no figure.

    >>> ends_in_words(Quantity(230.0, 220.0, 240.0), "V"), ends_in_words("mains", "")
    ('220 to 240 V', '')
    """
    if not isinstance(value, Quantity) or value.high - value.low <= LEAST_TOLD * abs(value.value):
        return ""
    return span(value.low, value.high, unit)


def register(app: Flask) -> None:
    """Make these known to templates."""
    app.jinja_env.filters.update(percent=percent, colour_class=colour_class, shapes=shapes_markup)
    app.jinja_env.globals.update(
        quantity=quantity,
        engineering=engineering,
        as_read=as_read,
        span=span,
        role_words=role_words,
        family_word=family_word,
        family_name=family_name,
        family_choices=family_choices,
        verdict_words=VERDICT_WORDS,
        verdict_short=VERDICT_SHORT,
        told=told,
        statement_words=STATEMENT_WORDS,
        stored_key=stored_key,
        outcome_words=OUTCOMES,
        shown_in_words=in_words,
        ends_in_words=ends_in_words,
        shorts_at=shorts_at,
        next_theme=next_theme,
        theme_words=THEMES,
        theirs_alone=theirs_alone,
    )
