"""Export and import of records."""

import json
from typing import Any

from flask import Response, redirect, render_template, request, url_for

from greyfell.core.errors import FieldError
from greyfell.core.evidence.parse import load_json
from greyfell.core.identify import answer
from greyfell.web.support import kept, repository


def export(tag: str) -> Response:
    """The piece's record as it is exported."""
    piece = kept(tag)
    body = json.dumps(piece.document, ensure_ascii=False, indent=1)
    return Response(
        body,
        mimetype="application/json",
        headers={"Content-Disposition": f'attachment; filename="{piece.tag}.json"'},
    )


def identification(tag: str) -> Response:
    """What the record says, as the command line prints it."""
    out = answer(kept(tag).ident)
    return Response(json.dumps(out, ensure_ascii=False, indent=1), mimetype="application/json")


def ask() -> Any:
    """The form to bring a record in."""
    return render_template("import.html", error=None, pending=None, text="")


def bring() -> Any:
    """Bring a record in; a record that is here already is merged only when agreed to."""
    upload = request.files.get("file")
    text = request.form.get("text", "")
    data: bytes | str = upload.read() if upload is not None and upload.filename else text
    try:
        document = load_json(data)
        tag, outcome = repository().bring_in(document, merge=request.form.get("agree") == "yes")
    except FieldError as error:
        return render_template("import.html", error=error, pending=None, text=text), 422
    if outcome == "ask":
        kept_text = data if isinstance(data, str) else data.decode("utf-8-sig")
        return render_template("import.html", error=None, pending=tag, text=kept_text)
    return redirect(url_for("pieces.show", tag=tag))
