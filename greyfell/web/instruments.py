"""Instruments of the bench: which meter of the stores answers at which address; one figure into the
jotter with one key; points while a winding is wound up. Reading only.
"""

from typing import Any

from flask import jsonify, redirect, request, url_for

from greyfell.core.errors import FieldError
from greyfell.core.evidence.record import Transformer
from greyfell.core.evidence.stores import Item
from greyfell.core.exchange.logged import logged
from greyfell.instruments.declared import INSTRUMENTS, Instrument, instrument_of
from greyfell.instruments.driver import read_all
from greyfell.instruments.reach import checked_address
from greyfell.records.rows import Kept
from greyfell.web.access import at_this_machine
from greyfell.web.answering import ALL, METERED, Answering, answering
from greyfell.web.entering import understood
from greyfell.web.showing import Page
from greyfell.web.stores import stores
from greyfell.web.support import before, kept, key, repository, stored

NEAR = 0.02
"""A point whose volts are nearer than this share to the last one is the same step. House rule."""
MOST_TEXT = 100_000


def show() -> Any:
    """Meters of the stores, their addresses, and what each answers."""
    return _page(None)


def keep(uid: str) -> Any:
    """Keep where a meter answers, or that it does not any more."""
    form = request.form
    address, speaks = form.get("address", "").strip(), form.get("speaks", "")
    try:
        changes: dict[str, Any] = {"address": None, "speaks": None}
        if address:
            changes = {
                "address": checked_address(address, here=at_this_machine()),
                "speaks": instrument_of(speaks).key,
            }
        if before() is None:
            stores().change(uid, changes)
    except FieldError as error:
        if error.field == "id":
            raise
        return _page(error), 422
    stored()
    return redirect(url_for(".show"))


def take(uid: str) -> Any:
    """One figure, or all of them, as a line of the jotter; or the sentence why there is none."""
    found = next((a for a in answering() if a.item.id == uid), None)
    if found is None:
        return jsonify(problem="No meter of the stores answers under that name."), 404
    asked = request.form.get("function", "")
    keys = ["volts", "amps", "watts"] if asked == ALL else [asked]
    try:
        taken = read_all(found.address, found.instrument, keys, here=at_this_machine())
    except FieldError as error:
        return jsonify(problem=error.sentence)
    if len(taken) > 1:
        figures = {k: None if t.over else t.value for k, t in zip(keys, taken, strict=True)}
        over = any(t.over for t in taken)
        line = "" if over else " ".join(t.line for t in taken)
        said = {"line": line, "named": taken[0].named, **figures}
        return jsonify(**said, **({"problem": "A figure is beyond its range."} if over else {}))
    return jsonify(line=taken[0].line, named=taken[0].named, over=taken[0].over)


class PointsPage(Page, frozen=True, kw_only=True):
    """Points of a sweep, streamed, pasted or typed: all go on record, or none."""

    template = "points.html"
    record: Transformer
    text: str
    error: FieldError | None
    pair: str


def points(tag: str) -> Any:
    """Points of a sweep as they were streamed, pasted or typed: lines of the jotter or of a log;
    all go on record, or none.
    """
    piece = kept(tag)
    text = request.form.get("points", "")[:MOST_TEXT]
    pair = "-".join(piece.ident.belief.fed[:2])
    try:
        if not pair:
            raise FieldError("points", "Which winding is fed is not known yet.")
        lines = _lines(text, pair)
        if before() is None:
            _stored(piece, lines)
    except FieldError as error:
        page = PointsPage(record=piece.record, text=text, error=error, pair=pair).render()
        return page, 422
    stored()
    return redirect(url_for("pieces.show", tag=tag, at="sweep"))


def ask_points(tag: str) -> Any:
    """The page that takes them."""
    piece = kept(tag)
    pair = "-".join(piece.ident.belief.fed[:2])
    return PointsPage(record=piece.record, text="", error=None, pair=pair).render()


def _stored(piece: Kept, lines: list[str]) -> None:
    """Every line, understood before the first is stored."""
    readings = [understood(piece, {"line": line}).reading for line in lines]
    if any(r is None or r["kind"] != "no_load" for r in readings):
        raise FieldError("points", "Only steps of volts and amps are points of a sweep.")
    repository().append(piece.tag, [r for r in readings if r is not None], key())


def _lines(text: str, pair: str) -> list[str]:
    """Lines for the jotter: as they are where they begin with the pair, else out of a log; steps
    that are one another's are left out.
    """
    typed = [x.strip() for x in text.splitlines() if x.strip()]
    if typed and all(x.startswith(pair) for x in typed):
        return typed
    out, last = [], 0.0
    for point in logged(text):
        if point.volts <= 0 or abs(point.volts - last) <= NEAR * max(point.volts, last):
            continue
        out.append(point.line(pair))
        last = point.volts
    if not out:
        raise FieldError("points", "No two lines tell steps of volts.")
    return out


class InstrumentsPage(Page, frozen=True, kw_only=True):
    """Instruments of the stores: where each is reached, and how it is answered."""

    template = "instruments.html"
    items: list[Item]
    known: dict[str, Answering]
    classes: tuple[Instrument, ...]
    error: FieldError | None


def _page(error: FieldError | None) -> Any:
    items = stores().of(METERED)
    known = {a.item.id: a for a in answering()}
    return InstrumentsPage(items=items, known=known, classes=INSTRUMENTS, error=error).render()
