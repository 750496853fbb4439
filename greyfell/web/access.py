"""Who may ask: the names this program answers to, the passphrase where it is open to others, and
sessions that no clock ends.
"""

import hashlib
import hmac
import ipaddress
import logging
import re
import secrets
import time
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any

from flask import (
    Flask,
    Request,
    current_app,
    redirect,
    request,
    session,
    url_for,
)
from flask.sessions import SecureCookieSession, SecureCookieSessionInterface
from itsdangerous import BadSignature
from werkzeug.security import check_password_hash, generate_password_hash

from greyfell.web import addresses
from greyfell.web.showing import Page

log = logging.getLogger("greyfell")
LOCAL = ("127.0.0.1", "localhost", "[::1]")
HOST = re.compile(r"(?P<name>\[[0-9a-f:.]+\]|[^:\[\]/@\s]+)(?::(?P<port>\d{1,5}))?", re.I)
POLICY = (
    "default-src 'self'; script-src 'self'; style-src 'self'; img-src 'self' data:; "
    "font-src 'self'; connect-src 'self'; "
    "form-action 'self'; object-src 'none'; base-uri 'none'; frame-ancestors 'none'"
)
HEADERS = {
    "Content-Security-Policy": POLICY,
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
}
"""What every answer carries."""
LONGEST = 500
"""A passphrase may have so many letters."""
FREE_GUESSES, FIRST_WAIT, LONGEST_WAIT = 5, 2.0, 300.0
"""So many wrong guesses are free; then each doubles the wait, in seconds, up to so long."""


class Names:
    """Lets in what asks by a known name, and answers the rest itself.

    A name from elsewhere is refused: it may be another site's that was pointed here. Where the
    program is open to others any numeric address is taken, since no site can be called by one.
    """

    def __init__(self, app: Callable[..., Any], names: Iterable[str], *, numeric: bool):
        self.app, self.numeric = app, numeric
        self.names = {name.lower() for name in names}

    def __call__(self, environ: dict[str, Any], start: Callable[..., Any]) -> Any:
        given = environ.get("HTTP_HOST", "")
        if self.known(given):
            environ["HTTP_HOST"] = given.lower()
            return self.app(environ, start)
        body = b"This program answers to its own address only."
        headers = [("Content-Type", "text/plain; charset=utf-8"), ("Content-Length", "45")]
        start("400 Bad Request", [*headers, *HEADERS.items()])
        return [body]

    def known(self, host: str) -> bool:
        """Whether a Host header is one this program answers to."""
        found = HOST.fullmatch(host)
        if found is None or not 0 < int(found["port"] or 80) < 65536:
            return False
        name = found["name"].lower()
        return name in self.names or (self.numeric and _numeric(name))


def at_this_machine() -> bool:
    """Whether the request comes from this machine itself."""
    who = request.remote_addr or ""
    return _numeric(who) and ipaddress.ip_address(who).is_loopback


def _numeric(name: str) -> bool:
    try:
        ipaddress.ip_address(name.strip("[]"))
    except ValueError:
        return False
    return True


class Timeless(SecureCookieSessionInterface):
    """Sessions that end with the browser, the lock or the passphrase, whatever the clock does."""

    def open_session(self, app: Flask, request: Request) -> SecureCookieSession | None:
        serializer = self.get_signing_serializer(app)
        if serializer is None:
            return None
        given = request.cookies.get(self.get_cookie_name(app))
        if not given:
            return self.session_class()
        try:
            return self.session_class(serializer.loads(given))
        except BadSignature:
            return self.session_class()


def secret_of(folder: Path) -> str:
    """The cookie and CSRF key: made once, kept in the data folder, readable by its owner alone. An
    empty one is made anew.
    """
    path = folder / "secret"
    found = path.read_text().strip() if path.exists() else ""
    if len(found) < 32:
        path.touch(mode=0o600)
        path.write_text(secrets.token_hex(32))
        found = path.read_text().strip()
    path.chmod(0o600)
    return found


def short(secret: str, what: str) -> str:
    """A few letters that stand for something under a secret, and do not tell it."""
    return hmac.new(secret.encode(), what.encode(), hashlib.sha256).hexdigest()[:12]


class Guesses:
    """Wrong guesses of the passphrase, by the address that asks: after a few each one waits."""

    def __init__(self) -> None:
        self.wrong: dict[str, tuple[int, float]] = {}

    def wait(self, who: str) -> float:
        """Seconds until the next guess is looked at."""
        count, last = self.wrong.get(who, (0, 0.0))
        if count < FREE_GUESSES:
            return 0.0
        waits = min(LONGEST_WAIT, FIRST_WAIT * 2.0 ** (count - FREE_GUESSES))
        return max(0.0, last + waits - time.monotonic())

    def missed(self, who: str) -> None:
        """One more wrong guess."""
        if len(self.wrong) > 10_000:
            self.wrong.clear()
        self.wrong[who] = (self.wrong.get(who, (0, 0.0))[0] + 1, time.monotonic())

    def hit(self, who: str) -> None:
        """The right one: what was wrong before is forgotten."""
        self.wrong.pop(who, None)


def lock(app: Flask, passphrase: str | None) -> None:
    """Put the passphrase before every page, where there is one."""
    app.config["PASSPHRASE"] = generate_password_hash(passphrase) if passphrase else None
    mark = short(app.config["SECRET_KEY"], f"passphrase {passphrase}")
    _enter(app, mark, Guesses())

    @app.before_request
    def enter_first() -> Any:
        if app.config["PASSPHRASE"] is None or session.get("entered") == mark:
            return None
        if request.endpoint in ("enter", "static", "favicon"):
            return None
        if request.method != "GET" or request.headers.get("X-Greyfell"):
            return _page(problem="", status=401)
        return redirect(url_for("enter"))

    @app.route("/leave", methods=["POST"])
    def leave() -> Any:
        session.clear()
        return redirect(url_for("enter"))


def _enter(app: Flask, mark: str, guesses: Guesses) -> None:
    # the page that asks for the passphrase
    @app.route("/enter", methods=["GET", "POST"])
    def enter() -> Any:
        if request.method == "GET" or app.config["PASSPHRASE"] is None:
            return _page(problem="", status=200)
        who = request.remote_addr or ""
        wait = guesses.wait(who)
        if wait:
            log.warning("passphrase: %s guesses too fast", who)
            return _page(problem=f"Too many guesses: wait {wait:.0f} s.", status=429)
        given = request.form.get("passphrase", "")
        if len(given) <= LONGEST and check_password_hash(app.config["PASSPHRASE"], given):
            guesses.hit(who)
            session["entered"] = mark
            return redirect(url_for("shelf.show"))
        guesses.missed(who)
        log.warning("passphrase: wrong guess from %s", who)
        said = "That passphrase is not the one this program was started with."
        return _page(problem=said, status=403)


class EnterPage(Page, frozen=True, kw_only=True):
    """The door: the passphrase, and what was wrong with the last one."""

    template = "enter.html"
    problem: str


def _page(*, problem: str, status: int) -> Any:
    addresses.prepare(current_app)
    return EnterPage(problem=problem).render(), status
