"""The app factory: security by default, one store, every address."""

import secrets
from pathlib import Path
from typing import Any

from flask import Flask, Response, current_app, redirect, render_template, request, session, url_for
from flask_wtf.csrf import CSRFError, CSRFProtect
from werkzeug.exceptions import HTTPException, SecurityError
from werkzeug.security import check_password_hash, generate_password_hash

from greyfell import __version__
from greyfell.core.errors import FieldError, Missing
from greyfell.records.store import Store
from greyfell.web import addresses

POLICY = (
    "default-src 'self'; script-src 'self'; style-src 'self'; img-src 'self' data:; "
    "font-src 'self'; connect-src 'self'; "
    "form-action 'self'; object-src 'none'; base-uri 'none'; frame-ancestors 'none'"
)
UPLOAD_BYTES = 4 * 1024 * 1024 + 64 * 1024


def create_app(
    folder: Path,
    *,
    demo: bool = False,
    hosts: list[str] | None = None,
    passphrase: str | None = None,
) -> Flask:
    """Build the application over one data folder. `hosts` are the Host headers it answers to."""
    app = Flask(__name__, static_folder="static/dist", static_url_path="/static")
    store = Store(folder)
    app.config.update(
        SECRET_KEY=_secret(folder),
        MAX_CONTENT_LENGTH=UPLOAD_BYTES,
        MAX_FORM_MEMORY_SIZE=UPLOAD_BYTES,
        SESSION_COOKIE_SAMESITE="Strict",
        SESSION_COOKIE_HTTPONLY=True,
        TRUSTED_HOSTS=hosts or ["127.0.0.1", "localhost"],
        WTF_CSRF_TIME_LIMIT=None,
        SEND_FILE_MAX_AGE_DEFAULT=3600,
        DEMO=demo,
        PASSPHRASE=generate_password_hash(passphrase) if passphrase else None,
    )
    app.extensions["store"] = store
    CSRFProtect(app)
    app.jinja_options = {"trim_blocks": True, "lstrip_blocks": True}
    addresses.register(app)
    app.jinja_env.globals.update(version=__version__)
    _guard(app)
    _errors(app)
    return app


def _secret(folder: Path) -> str:
    """The cookie and CSRF key: made once, kept in the data folder, readable by its owner alone."""
    path = folder / "secret"
    if not path.exists():
        path.touch(mode=0o600)
        path.write_text(secrets.token_hex(32))
    return path.read_text().strip()


def _render(template: str, **shown: Any) -> str:
    addresses.prepare(current_app)
    return render_template(template, **shown)


def _guard(app: Flask) -> None:
    @app.before_request
    def enter_first() -> Any:
        locked = app.config["PASSPHRASE"] is not None and not session.get("entered")
        if locked and request.endpoint not in ("enter", "static", "favicon"):
            return redirect(url_for("enter"))
        return None

    @app.route("/enter", methods=["GET", "POST"])
    def enter() -> Any:
        wrong = False
        if request.method == "POST":
            if app.config["PASSPHRASE"] and check_password_hash(
                app.config["PASSPHRASE"], request.form.get("passphrase", "")[:500]
            ):
                session["entered"] = True
                return redirect(url_for("shelf.show"))
            wrong = True
        return _render("enter.html", wrong=wrong), 403 if wrong else 200

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
        response.headers["Content-Security-Policy"] = POLICY
        response.headers["X-Content-Type-Options"] = "nosniff"
        response.headers["Referrer-Policy"] = "same-origin"
        response.headers["Cross-Origin-Opener-Policy"] = "same-origin"
        if response.mimetype == "text/html":
            response.headers["Cache-Control"] = "no-store"
        return response


def _errors(app: Flask) -> None:
    @app.errorhandler(FieldError)
    def field_error(error: FieldError) -> Any:
        status = 404 if isinstance(error, Missing) else 422
        return _render("problem.html", title="That cannot be used", sentence=error.sentence), status

    @app.errorhandler(CSRFError)
    def csrf_error(_error: CSRFError) -> Any:
        sentence = (
            "This form is out of date or did not come from this program. Nothing was stored; "
            "go back, reload the page and enter it again."
        )
        return _render("problem.html", title="Form refused", sentence=sentence), 400

    @app.errorhandler(SecurityError)
    def foreign_host(_error: SecurityError) -> Any:
        return Response("This program answers to its own address only.", 400, mimetype="text/plain")

    @app.errorhandler(HTTPException)
    def http_error(error: HTTPException) -> Any:
        words = {
            404: ("Nothing here", "There is no such page. The shelf has every piece."),
            405: ("Not that way", "This address does not take that kind of request."),
            413: ("Too large", "At most 4 MB can be given at once. Nothing was stored."),
        }.get(error.code or 500, (error.name, str(error.description)))
        return _render("problem.html", title=words[0], sentence=words[1]), error.code or 500
