"""What several screens share: the repository, form reading, the header's supply."""

from typing import Any

from flask import current_app, request

from greyfell.core.errors import FieldError
from greyfell.core.quantity import parse_quantity
from greyfell.records.repository import Kept, Repository


def repository() -> Repository:
    """The application's repository."""
    found: Repository = current_app.extensions["repository"]
    return found


def kept(tag: str) -> Kept:
    """The piece of a tag. Raises FieldError where there is none."""
    piece = repository().get(tag)
    if piece is None:
        raise FieldError("tag", f"There is no piece tagged {tag[:24]}.")
    return piece


def enhanced() -> bool:
    """Whether the page's script asked, and wants the same page with a sentence instead of an error
    status.
    """
    return request.headers.get("X-Greyfell") == "part"


def optional(form: Any, name: str, unit: str) -> float | None:
    """A figure from a form, or None where the field was left empty. Raises FieldError."""
    text = (form.get(name) or "").strip()
    return parse_quantity(text, unit, field=name.replace("_", " ")) if text else None
