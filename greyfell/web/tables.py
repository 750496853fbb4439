"""Readings as a table: out, and in with a preview of what each row was understood as."""

from typing import Any

from flask import Response, redirect, request, url_for

from greyfell.core.errors import FieldError
from greyfell.core.evidence.record import Transformer
from greyfell.core.exchange.table import TableRow, as_table, rows_of
from greyfell.records.repository import Twice
from greyfell.records.rows import Kept
from greyfell.web.showing import Page
from greyfell.web.support import before, kept, key, repository, sent, stored

SHOWN = 300
"""So many rows of a preview are shown."""


def export(tag: str) -> Response:
    """Every reading as comma-separated text."""
    piece = kept(tag)
    headers = {"Content-Disposition": f'attachment; filename="{piece.tag}-readings.csv"'}
    return Response(as_table(piece.record), mimetype="text/csv", headers=headers)


def ask(tag: str) -> Any:
    """The form to bring a table in."""
    return _page(kept(tag), "", None)


def bring(tag: str) -> Any:
    """Show what each row was understood as; store them once that was agreed to."""
    piece = kept(tag)
    text = request.form.get("table", "")
    try:
        text = _decoded(sent("file")) or text
        rows = rows_of(text, piece.document)
        good = [r.reading for r in rows if r.reading is not None and not r.here]
        whole = not any(r.problem for r in rows) or request.form.get("leave") == "yes"
        if request.form.get("agree") != "yes" or not good or not whole:
            return _page(piece, text, rows)
        if before() is None:
            repository().append(tag, good, key(), f"{len(good)} readings of a table")
    except Twice:
        pass
    except FieldError as error:
        return _page(piece, text, None, error)
    stored()
    return redirect(url_for("pieces.show", tag=tag, at="record"))


def _decoded(data: bytes) -> str:
    """A file as text. Raises FieldError."""
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        if b"\x00" in data:
            raise FieldError("table", "The file is no text; a table is one, as CSV.") from None
        return data.decode("cp1252", "replace")


class TablePage(Page, frozen=True, kw_only=True):
    """Readings as a table: what came in, row by row, before it is stored."""

    template = "table.html"
    record: Transformer
    text: str
    rows: list[TableRow] | None
    shown: list[TableRow]
    new: int
    here: int
    refused: list[TableRow]
    error: FieldError | None


def _page(
    piece: Kept, text: str, rows: list[TableRow] | None, error: FieldError | None = None
) -> Any:
    found = rows or []
    shown = TablePage(
        record=piece.record,
        text=text,
        rows=rows,
        shown=found[:SHOWN],
        new=sum(r.reading is not None and not r.here for r in found),
        here=sum(r.here for r in found),
        refused=[r for r in found if r.problem],
        error=error,
    ).render()
    return shown, 200 if error is None else 422
