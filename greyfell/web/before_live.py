"""The screen before a first live step: asked once of every name that reads, and without a name once
a session of the browser.
"""

from collections.abc import Mapping
from typing import Any

from flask import current_app, redirect, request, session, url_for

from greyfell.core.errors import FieldError
from greyfell.core.telling.before_live import ASKED, LiveAsked, answered
from greyfell.records.hands import Hands
from greyfell.web.preferences import own_address, whose
from greyfell.web.showing import Page, Shown
from greyfell.web.support import stored

NAMELESS = "answered before live"
"""Where a session keeps that somebody without a name answered."""


def due(*, live: bool) -> bool:
    """Whether the questions stand before what is shown: something live, and nobody of this name
    answered.
    """
    return live and not _answered(whose())


def _answered(name: str) -> bool:
    return _hands().was_asked(name) if name else bool(session.get(NAMELESS))


def _hands() -> Hands:
    return Hands(current_app.extensions["store"])


class BeforeLiveShown(Shown, frozen=True, kw_only=True):
    """The questions before something is fed: what was typed, what is missing."""

    before_live: tuple[LiveAsked, ...]
    live_name: str
    live_form: Mapping[str, str]
    live_error: FieldError | None
    live_back: str


def asked_shown(error: FieldError | None = None) -> BeforeLiveShown:
    """What the screen shows: the questions, what was typed, what is missing."""
    return BeforeLiveShown(
        before_live=ASKED,
        live_name=whose(),
        live_form=request.form if error is not None else {},
        live_error=error,
        live_back=request.form.get("back", "") or request.full_path,
    )


class BeforeLivePage(Page, frozen=True, kw_only=True):
    """The questions by themselves, where an answer was wanting."""

    template = "before_live.html"
    asked_before: BeforeLiveShown


def answer() -> Any:
    """Keep the answers, and go back to where they were asked for."""
    try:
        said = answered(request.form)
    except FieldError as error:
        return BeforeLivePage(asked_before=asked_shown(error)).render(), 422
    name = whose()
    if name:
        _hands().keep(name, said)
    else:
        session[NAMELESS] = True
    stored()
    return redirect(own_address(request.form.get("back", "") or url_for("shelf.show")))
