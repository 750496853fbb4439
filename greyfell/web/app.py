"""The app factory: security by default, one store, every address."""

import hashlib
import secrets
from pathlib import Path
from typing import Any

from flask import Flask, Response, request
from flask_wtf.csrf import CSRFProtect

from greyfell import __version__
from greyfell.core.codes import CODES
from greyfell.records.store import Store
from greyfell.web import access as door
from greyfell.web import addresses, problems

RECORD_BYTES = 4 * 1024 * 1024 + 64 * 1024
UPLOAD_BYTES = 32 * 1024 * 1024 + 64 * 1024
PHOTO_BYTES = 20 * 1024 * 1024 + 64 * 1024
"""A record, a whole shelf and a photo, with what a form adds to them."""
ROOM = {"transfer.bring": UPLOAD_BYTES, "photos.add": PHOTO_BYTES}
"""Views that take more than a record."""
READ_BYTES = UPLOAD_BYTES + 16 * 1024 * 1024
"""So much of a request is read at most: what is somewhat too large still gets its sentence."""


def _settings(secret: str) -> dict[str, Any]:
    return {
        "SECRET_KEY": secret,
        "MAX_CONTENT_LENGTH": RECORD_BYTES,
        "MAX_FORM_MEMORY_SIZE": RECORD_BYTES,
        "SESSION_COOKIE_NAME": f"greyfell-{door.short(secret, 'cookie')}",
        "SESSION_COOKIE_SAMESITE": "Strict",
        "SESSION_COOKIE_HTTPONLY": True,
        "WTF_CSRF_TIME_LIMIT": None,
    }


def create_app(
    folder: Path,
    *,
    demo: bool = False,
    names: list[str] | None = None,
    numeric: bool = False,
    passphrase: str | None = None,
    backed: bool = False,
) -> Flask:
    """Build the application over one data folder. `names` are those it answers to besides this
    machine's own; `numeric` lets any numeric address in; `backed` makes each day's backup. Raises
    Trouble.
    """
    app = Flask(__name__, static_folder="static/dist", static_url_path="/static")
    store = Store(folder, backed=backed)
    secret = door.secret_of(folder)
    app.config.update(_settings(secret), DEMO=demo)
    app.extensions["store"] = store
    app.session_interface = door.Timeless()
    named = door.Names(app.wsgi_app, [*door.LOCAL, *(names or [])], numeric=numeric)
    app.wsgi_app = named  # type: ignore[method-assign, assignment]
    problems.register(app)
    app.before_request(_room)  # ahead of the token, which reads the whole form
    CSRFProtect(app)
    app.jinja_options = {"trim_blocks": True, "lstrip_blocks": True}
    addresses.register(app)
    app.jinja_env.globals.update(
        version=__version__,
        codes=CODES,
        damage=lambda: app.extensions["store"].damage,
        shelf_key=door.short(secret, "shelf"),
        once=secrets.token_urlsafe,
    )
    door.lock(app, passphrase)
    _plain(app)
    return app


def _room() -> None:
    """Let a form be as large as its view takes."""
    if request.endpoint in ROOM:
        request.max_content_length = ROOM[request.endpoint]
        request.max_form_memory_size = ROOM[request.endpoint]


def _plain(app: Flask) -> None:
    """The few answers that are no page, and what every answer carries."""

    @app.route("/favicon.ico")
    def favicon() -> Response:
        return Response(
            (Path(str(app.static_folder)) / "favicon.svg").read_text(), mimetype="image/svg+xml"
        )

    @app.route("/bare")
    def bare() -> Response:
        """A page with nothing on it: what the server itself costs, for benchmarks."""
        return Response("<!doctype html><title>bare</title>", mimetype="text/html")

    @app.after_request
    def harden(response: Response) -> Response:
        response.headers.update(door.HEADERS)
        if request.endpoint == "static":
            dated = request.args.get("v") == _mark(app, (request.view_args or {})["filename"])
            response.headers["Cache-Control"] = FOR_EVER if dated else "no-cache"
        elif "Cache-Control" not in response.headers:
            response.headers["Cache-Control"] = "no-store"
        return response

    @app.url_defaults
    def dated(endpoint: str, values: dict[str, Any]) -> None:
        if endpoint == "static":
            values.setdefault("v", _mark(app, values["filename"]))


FOR_EVER = "public, max-age=31536000, immutable"
"""A file whose address says its contents never changes. RFC 8246."""


def _mark(app: Flask, name: str) -> str:
    """What a shipped file holds, in ten letters: it stands in its address."""
    marks: dict[str, str] = app.extensions.setdefault("marks", {})
    if name not in marks:
        path = Path(str(app.static_folder)) / name
        data = path.read_bytes() if path.is_file() else b""
        marks[name] = hashlib.sha256(data).hexdigest()[:10]
    return marks[name]
