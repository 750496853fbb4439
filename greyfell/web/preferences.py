"""What a browser is told once: the light or the dark bench, whose hand reads; kept in the session,
so that it needs no script.
"""

from typing import Any
from urllib.parse import urlsplit

from flask import redirect, request, session, url_for

LONGEST_HAND = 40

THEMES = {"": "look: system", "light": "look: light", "dark": "look: dark"}
"""What can be chosen, in the order a touch goes through it, and its words."""


def theme() -> Any:
    """Keep the theme that was chosen, and go back to the page it was chosen on."""
    chosen = request.form.get("theme", "")
    session["theme"] = chosen if chosen in THEMES else ""
    return redirect(own_address(request.form.get("back", "")))


def hand() -> Any:
    """Keep whose hand reads from now on; it stands beside every reading and on the labels."""
    session["hand"] = request.form.get("hand", "").strip()[:LONGEST_HAND]
    return redirect(own_address(request.form.get("back", "")))


def whose() -> str:
    """Whose hand reads; empty where nobody said."""
    return str(session.get("hand", ""))


def next_theme(now: str) -> str:
    """What a touch changes to."""
    names = list(THEMES)
    return names[(names.index(now) + 1) % len(names)] if now in names else ""


def own_address(back: str) -> str:
    """An address of this program; the shelf for any other."""
    try:
        foreign = bool(urlsplit(back).netloc)
    except ValueError:
        foreign = True
    ours = back.startswith("/") and not back.startswith(("//", "/\\")) and back.isprintable()
    return back if ours and not foreign else url_for("shelf.show")
