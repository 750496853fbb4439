"""Export and import of records, and of the whole shelf."""

import json
from typing import Any

from flask import Response, redirect, render_template, request, url_for

from greyfell.core.errors import FieldError
from greyfell.core.evidence.parse import load_json
from greyfell.core.identify import answer
from greyfell.records.archive import STORES_FORMAT, bring_document, packed, unpacked
from greyfell.records.rows import now
from greyfell.web.support import before, kept, key, repository

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
    out = answer(kept(tag).ident)
    return Response(json.dumps(out, ensure_ascii=False, indent=1), mimetype="application/json")


def ask() -> Any:
    """The form to bring a record in."""
    return _form()


def bring() -> Any:
    """Bring a record in, or a whole shelf; what is here already is merged only when agreed to."""
    upload = request.files.get("file")
    text = request.form.get("text", "")
    data: bytes | str = upload.read() if upload is not None and upload.filename else text
    agreed = request.form.get("agree") == "yes"
    try:
        if isinstance(data, bytes) and data.startswith(ZIP):
            return _form(brought=list(unpacked(repository(), data, merge=agreed)))
        entry = before()
        if entry is not None:
            return redirect(url_for("pieces.show", tag=entry.tag))
        document = load_json(data)
        if isinstance(document, dict) and document.get("format") == STORES_FORMAT:
            return _form(brought=[bring_document(repository(), document)])
        tag, outcome = repository().bring_in(document, merge=agreed, key=key())
    except FieldError as error:
        return _form(error=error, text=text), 422
    if outcome == "ask":
        return _form(pending=tag, text=data if isinstance(data, str) else data.decode("utf-8-sig"))
    return redirect(url_for("pieces.show", tag=tag))


def _form(**shown: Any) -> str:
    """The form, with what came of the last."""
    blank: dict[str, Any] = {"error": None, "pending": None, "text": "", "brought": None}
    return render_template("import.html", **(blank | shown))
