"""What went wrong, told: a sentence, a way on, and what was typed, to be sent again."""

import logging
from typing import Any

from flask import Flask, current_app, request
from flask_wtf.csrf import CSRFError, generate_csrf
from werkzeug.exceptions import HTTPException

from greyfell.core.errors import TOO_FAR, FieldError, Missing
from greyfell.records.trouble import Trouble
from greyfell.web import addresses
from greyfell.web.showing import Page

log = logging.getLogger("greyfell")
WORDS = {
    404: ("Nothing here", "There is no such page. The shelf has every piece."),
    405: ("Not that way", "This address does not take that kind of request."),
    413: (
        "Too large",
        "A record may be at most 4 MB, a photo 20 MB, an archive of a shelf 32 MB; a larger one "
        "comes in by “greyfell import FILE”. Nothing was stored.",
    ),
    429: ("Too fast", "Wait a little, then try again."),
}
FIGURED = ("plans.", "rigs.", "kept_plans.")
"""Addresses that reckon with figures as somebody typed them."""
STALE = (
    "This page is from before Greyfell was started anew, or its cookie is gone. Nothing was stored."
)
FOREIGN = "This form did not come from this program. Nothing was stored."
OURS = (
    "Something in Greyfell itself went wrong; it is written in the log. Look whether it was stored "
    "before you send it again: sent again from here, it is stored once."
)
SHOWN = ("line", "text", "title", "reason")
"""Boxes whose contents are shown again to be sent; the rest of a form goes along unseen."""
UNSENT = ("csrf_token", "passphrase")


def register(app: Flask) -> None:
    """Tell every error of the program as a page of its own."""

    @app.errorhandler(FieldError)
    def field_error(error: FieldError) -> Any:
        status = 404 if isinstance(error, Missing) else 422
        return told("That cannot be used", error.sentence, status)

    @app.errorhandler(ArithmeticError)
    def too_far(error: ArithmeticError) -> Any:
        if not (request.endpoint or "").startswith(FIGURED):
            return ours(error)
        log.exception("figures too far apart: %s %s", request.method, request.full_path[:500])
        return told("That cannot be used", TOO_FAR, 422)

    _register_asked_wrong(app)

    @app.errorhandler(Exception)
    def ours(_error: Exception) -> Any:
        log.exception("an answer failed: %s %s", request.method, request.path)
        return told("Greyfell's fault", OURS, 500, again=own_page())


def _register_asked_wrong(app: Flask) -> None:
    @app.errorhandler(CSRFError)
    def csrf_error(_error: CSRFError) -> Any:
        return told("Not stored yet", STALE if own_page() else FOREIGN, 400, again=own_page())

    @app.errorhandler(Trouble)
    def trouble(error: Trouble) -> Any:
        log.error("%s", error)
        return told("The data file", str(error), 503, again=own_page())

    @app.errorhandler(HTTPException)
    def http_error(error: HTTPException) -> Any:
        title, sentence = WORDS.get(error.code or 500, (error.name, str(error.description)))
        return told(title, sentence, error.code or 500)


def own_page() -> bool:
    """Whether a page of this program asked, and no other site's."""
    site = request.headers.get("Sec-Fetch-Site")
    if site is not None:
        return site == "same-origin"
    return request.headers.get("Origin", "").partition("//")[2] == request.host


class ProblemPage(Page, frozen=True, kw_only=True):
    """What went wrong; with a form to send the same again, where that helps."""

    template = "problem.html"
    title: str
    sentence: str
    again: dict[str, Any] | None


def told(title: str, sentence: str, status: int, *, again: bool = False) -> Any:
    """The page that tells it; with a form to send the same again, where that helps and the answer
    goes to a page of this program.
    """
    addresses.prepare(current_app)
    fields = _fields() if again and request.method == "POST" else None
    page = ProblemPage(title=title, sentence=sentence, again=fields).render()
    headers = {"X-Greyfell-Token": generate_csrf()} if again else {}
    return page, status, headers


def _fields() -> dict[str, Any]:
    """What was sent, to be sent again: boxes shown, boxes unseen, whether a file was among it."""
    sent = [(k, v) for k, v in request.form.items(multi=True) if k not in UNSENT]
    return {
        "shown": [(k, v) for k, v in sent if k in SHOWN and v],
        "unseen": [(k, v) for k, v in sent if k not in SHOWN or not v],
        "file": bool(request.files),
    }
