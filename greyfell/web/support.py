"""What several screens share: the repository, the piece of a tag, how a page was asked for, what
was entered before.
"""

import threading
from collections.abc import Callable
from typing import TypeVar
from urllib.parse import urlencode

from flask import current_app, request, session

from greyfell.records.repository import Entry, Repository, must_be
from greyfell.records.rows import Kept
from greyfell.records.trouble import Trouble

LONGEST_KEY = 64


def repository() -> Repository:
    """The application's repository, over its store."""
    found: Repository | None = current_app.extensions.get("repository")
    if found is None:
        found = Repository(current_app.extensions["store"])
        current_app.extensions["repository"] = found
    return found


def kept(tag: str) -> Kept:
    """The piece of a tag. Raises Missing where there is none."""
    piece = repository().get(tag)
    return must_be(piece, tag)


Made = TypeVar("Made")


def drawn(piece: Kept, what: str, make: Callable[[], Made]) -> Made:
    """Something that follows from a piece, made once while the piece is kept in mind."""
    if what not in piece.drawn:
        piece.drawn[what] = make()
    made: Made = piece.drawn[what]
    return made


WHOLE = "whole"
"""Asked with this, a page comes with what takes long; its script asks so a moment after the page
stands, and a person without a script by the link in its place.
"""


def whole() -> bool:
    """Whether what takes long is asked for too."""
    return WHOLE in request.args


def own_args() -> dict[str, str]:
    """The address's own figures, without how the page is asked for."""
    return {key: value for key, value in request.args.items() if key != WHOLE}


def own_query() -> str:
    """The same as a query, every value of it."""
    pairs = [(key, value) for key, value in request.args.items(multi=True) if key != WHOLE]
    return urlencode(pairs)


def enhanced() -> bool:
    """Whether the page's script asked, and wants the same page with a sentence instead of an error
    status.
    """
    return request.headers.get("X-Greyfell") == "part"


def key() -> str:
    """The key that a form came with: sent twice, it is stored once."""
    return request.form.get("once", "")[:LONGEST_KEY]


def sent(name: str) -> bytes:
    """What a file of a form holds; nothing where none was sent."""
    file = request.files.get(name)
    if file is None:
        return b""
    with file.stream as stream:
        return bytes(stream.read())


def before() -> Entry | None:
    """What was stored under this form's key already."""
    return repository().entered(key())


def stored() -> None:
    """Tell the next page that this form was stored: what was kept of it may be forgotten."""
    if key():
        session["stored"] = key()


def stored_key() -> str:
    """The key of the form that was stored last, told to one page."""
    return str(session.pop("stored")) if "stored" in session else ""


def catch_up() -> None:
    """Work out behind the pages what an earlier version of the program left, once a start."""
    if current_app.extensions.get("catching up"):
        return
    current_app.extensions["catching up"] = True
    if not repository().waiting():
        return
    work = threading.Thread(target=_all_of_it, args=[repository()], daemon=True)
    current_app.extensions["catching up"] = work
    work.start()


def _all_of_it(found: Repository) -> None:
    """Until nothing waits, or the file cannot be used: then the next start goes on."""
    try:
        while found.conclude_some():
            pass
    except Trouble:
        return
