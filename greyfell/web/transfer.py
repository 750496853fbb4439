"""Export and import of records, and of the whole shelf."""

import json
import time
from typing import Any

from flask import Response, redirect, request, url_for

from greyfell.core.errors import FieldError
from greyfell.core.identify import answer
from greyfell.records.archive import (
    BY_PAGE,
    DONORS,
    STORES,
    Brought,
    bring_text,
    packed,
    unpacked,
)
from greyfell.records.rows import now
from greyfell.web.showing import Page
from greyfell.web.support import before, kept, key, repository, sent

LISTS = (STORES, DONORS)
"""What comes in besides pieces, by the name it is told with."""
ZIP = b"PK\x03\x04"
"""How an archive begins."""


def export(tag: str) -> Response:
    """The piece's record as it is exported, whether or not it can be read."""
    document = repository().document(tag)
    return _file(
        json.dumps(document, ensure_ascii=False, indent=1),
        f"{document['tag']}.json",
        "application/json",
    )


def archive() -> Response:
    """The whole shelf as one archive."""
    return _file(packed(repository()), f"greyfell-{now()[:10]}.zip", "application/zip")


def _file(body: str | bytes, name: str, kind: str) -> Response:
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(body, mimetype=kind, headers=headers)


def identification(tag: str) -> Response:
    """What the record says, as the command line prints it."""
    out = answer(kept(tag).asked)
    return Response(json.dumps(out, ensure_ascii=False, indent=1), mimetype="application/json")


def ask() -> Any:
    """The form to bring a record in."""
    return ImportPage().render()


def bring() -> Any:
    """Bring a record in, or a whole shelf; what is here already is merged only when agreed to."""
    text = request.form.get("text", "")
    data: bytes | str = sent("file") or text
    agreed = request.form.get("agree") == "yes"
    try:
        if isinstance(data, bytes) and data.startswith(ZIP):
            begun = time.monotonic()
            brought_ = unpacked(repository(), data, merge=agreed, bound=BY_PAGE)
            return ImportPage(brought=brought_, seconds=time.monotonic() - begun).render()
        entry = before()
        if entry is not None:
            return redirect(url_for("pieces.show", tag=entry.tag))
        brought = bring_text(repository(), data, merge=agreed, key=key())
    except FieldError as error:
        return ImportPage(error=error, text=text).render(), 422
    if brought.outcome == "ask":
        return ImportPage(pending=brought.name, text=_text(data)).render()
    if brought.name in LISTS:
        return ImportPage(brought=[brought]).render()
    return redirect(url_for("pieces.show", tag=brought.name))


def _text(data: str | bytes) -> str:
    """What was sent, as text; what is none as far as it goes."""
    return data if isinstance(data, str) else data.decode("utf-8-sig", "replace")


class ImportPage(Page, frozen=True, kw_only=True):
    """The form, with what came of the last."""

    template = "import.html"
    error: FieldError | None = None
    pending: str | None = None
    text: str = ""
    brought: list[Brought] | None = None
    seconds: float | None = None
