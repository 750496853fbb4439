"""The stores: what stands on hand, found by typing, drawn by kind; entries added, counted, put
aside; out and in as `greyfell.stores/1`.
"""

from itertools import groupby
from typing import Any

from flask import Response, current_app, redirect, request, url_for

from greyfell import clock
from greyfell.core.errors import FieldError
from greyfell.core.evidence.loading import load_json
from greyfell.core.evidence.stores import (
    BY_KEY,
    GROUPS,
    KINDS,
    PROVED,
    Item,
    StoreKind,
    as_text,
)
from greyfell.records.archive import counted
from greyfell.records.donors import Donors
from greyfell.records.stores import Stores
from greyfell.web.drawings.parts import part
from greyfell.web.drawings.shapes import Drawing
from greyfell.web.showing import Page
from greyfell.web.support import before, key, sent, stored

MOST_TYPED = 80


def stores() -> Stores:
    """The application's stores, over its store."""
    return Stores(current_app.extensions["store"])


def show() -> Any:
    """Everything on hand, narrowed by what is typed; beside it the form for the chosen kind."""
    return _page({}, None), 200


def add() -> Any:
    """Keep a new entry."""
    form = request.form
    try:
        if before() is None:
            stores().add(_document(form), key())
    except FieldError as error:
        return _page(form, error), 422
    stored()
    return redirect(url_for(".show", kind=form.get("kind", "")))


def change(uid: str) -> Any:
    """Count an entry anew, or put it aside with the reason."""
    form = request.form
    try:
        if before() is None:
            stores().change(uid, _changes(form))
    except FieldError as error:
        if error.field == "id":
            raise
        return _page({}, error), 422
    stored()
    return redirect(url_for(".show"))


def export() -> Response:
    """The stores in their open format."""
    text = as_text(stores().items(gone=True))
    headers = {"Content-Disposition": 'attachment; filename="stores.json"'}
    return Response(text, mimetype="application/json", headers=headers)


def bring() -> Any:
    """Bring a stores document in. Nothing here is overwritten."""
    try:
        outcome = stores().bring_in(load_json(sent("file")))
    except FieldError as error:
        return _page({}, error), 422
    return _page({}, None, f"Brought in: {counted(outcome)}"), 200


def _document(form: Any) -> dict[str, Any]:
    """An entry as the form gives it: boxes left empty are not known."""
    kind = BY_KEY.get(form.get("kind", ""))
    if kind is None:
        raise FieldError("kind", "Say first what kind of thing it is.")
    figures = {f.key: f.read(form[f.key]) for f in kind.figures if form.get(f.key, "").strip()}
    words = {k: form[k].strip() for k in ("title", "note", "donor") if form.get(k, "").strip()}
    return {"kind": kind.key, "count": _count(form), **words, **figures}


def _count(form: Any) -> int:
    given = form.get("count", "1").strip() or "1"
    if not given.isdigit() or len(given) > 7:
        raise FieldError("count", f"Count is a whole number; “{given[:20]}” was given.")
    return int(given)


def _changes(form: Any) -> dict[str, Any]:
    """What a row changes: how many, why it is gone, or the day a meter was proved."""
    if "gone" in form:
        if not form["gone"].strip():
            raise FieldError("gone", "Putting an entry aside needs its reason; none was given.")
        return {"gone": form["gone"].strip()}
    if PROVED.key in form:
        return {PROVED.key: PROVED.read(form[PROVED.key])}
    return {"count": _count(form)}


class StoresPage(Page, frozen=True, kw_only=True):
    """The stores: shelves by kind, and the form of one entry."""

    template = "stores.html"
    search: str
    shelves: list[Any]
    total: int
    kinds: tuple[StoreKind, ...]
    chosen: StoreKind | None
    form: Any
    error: FieldError | None
    said: str
    proved: str
    today: str
    drawn: dict[str, Drawing]
    asked_donor: str
    donor_titles: dict[str, str]


def _page(form: Any, error: FieldError | None, said: str = "") -> str:
    search = request.args.get("find", "").strip()[:MOST_TYPED]
    items = stores().items(search)
    chosen = BY_KEY.get(form.get("kind") or request.args.get("kind", ""))
    return StoresPage(
        search=search,
        shelves=list(_shelves(items)),
        total=len(items),
        kinds=KINDS,
        chosen=chosen,
        form=form,
        error=error,
        said=said,
        proved=PROVED.key,
        today=clock.moment().astimezone().date().isoformat(),
        drawn={k.key: part(k.key) for k in KINDS},
        asked_donor=request.args.get("donor", "")[:MOST_TYPED],
        donor_titles=Donors(current_app.extensions["store"]).titles(),
    ).render()


def _shelves(items: list[Item]) -> Any:
    """Entries by group and kind, in the order of the table of kinds."""
    order = {k.key: (GROUPS.index(k.group), n) for n, k in enumerate(KINDS)}
    placed = sorted(items, key=lambda i: order[i.kind.key])
    for name, group in groupby(placed, key=lambda i: i.kind.group):
        kinds = [(_kind(k), list(found)) for k, found in groupby(group, key=lambda i: i.kind.key)]
        yield name, kinds


def _kind(key_: str) -> StoreKind:
    return BY_KEY[key_]
