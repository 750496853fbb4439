"""What several screens share: the repository, the piece of a tag, how a page was asked for."""

from flask import current_app, request

from greyfell.core.errors import Missing
from greyfell.records.repository import Kept, Repository


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
    if piece is None:
        raise Missing("tag", f"There is no piece tagged {tag[:24]}.")
    return piece


def enhanced() -> bool:
    """Whether the page's script asked, and wants the same page with a sentence instead of an error
    status.
    """
    return request.headers.get("X-Greyfell") == "part"
