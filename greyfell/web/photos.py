"""Label before cutting: photos of a piece with its leads marked on them, both ends of every cut,
and where each wire went.
"""

from collections.abc import Callable
from typing import Any

from flask import Response, abort, redirect, request, url_for

from greyfell.core.errors import FieldError, Missing
from greyfell.core.evidence.record import Lead, Photo, Transformer
from greyfell.core.telling.labels import Label, labels
from greyfell.records.photos import FOLDER, size_of
from greyfell.records.repository import Twice
from greyfell.records.rows import Kept
from greyfell.web.drawings.photo import photo as draw_photo
from greyfell.web.drawings.shapes import Drawing
from greyfell.web.showing import Page
from greyfell.web.support import before, kept, key, repository, sent, stored

ENDS = {"piece": "on the piece", "far": "what it went to"}
"""Which side of a cut a mark names, in words."""
LONGEST_NOTE = 300
HUNDRED = 100.0


def show(tag: str) -> Any:
    """The photos of a piece, and its wires."""
    return _page(kept(tag), None)


def add(tag: str) -> Any:
    """Keep a photo that was sent."""
    piece = kept(tag)
    note = request.form.get("note", "").strip()[:LONGEST_NOTE]
    try:
        if before() is None:
            piece = repository().add_photo(tag, sent("photo"), note, key())
    except Twice:
        return redirect(url_for(".show", tag=tag))
    except FieldError as error:
        return _page(piece, error)
    stored()
    return redirect(url_for(".show", tag=tag, photo=len(piece.record.photos)))


def mark(tag: str, name: str) -> Any:
    """Put a lead's mark on a photo, move it, or take it off."""
    form = request.form
    piece = kept(tag)
    photo = _photo(piece, name)
    try:
        if before() is None:
            marks = _marked(piece, photo, form)
            repository().note_photo(tag, photo.file, {"marks": marks}, key())
    except FieldError as error:
        return _page(piece, error)
    stored()
    at = 1 + [p.file for p in piece.record.photos].index(photo.file)
    return redirect(url_for(".show", tag=tag, photo=at, lead=form.get("lead", "")) + "#photo")


def drop(tag: str, name: str) -> Any:
    """Take a photo away."""
    if before() is None:
        repository().drop_photo(tag, _photo(kept(tag), name).file, key())
    stored()
    return redirect(url_for(".show", tag=tag))


def wire(tag: str) -> Any:
    """Keep where a lead went and what it fed."""
    form = request.form
    piece = kept(tag)
    lead = form.get("lead", "")
    if lead not in {x["id"] for x in piece.document["leads"]}:
        raise Missing("lead", "There is no such lead.")
    said = {name: form.get(name, "").strip()[:LONGEST_NOTE] or None for name in ("went", "fed")}
    leads = [
        {k: v for k, v in {**x, **said}.items() if v is not None} if x["id"] == lead else x
        for x in piece.document["leads"]
    ]
    try:
        if before() is None:
            version = form.get("version", 0, type=int)
            repository().correct(tag, {"leads": leads}, version, key())
    except FieldError as error:
        return _page(piece, error)
    stored()
    return redirect(url_for(".show", tag=tag, lead=_after(piece, lead)) + "#wires")


def picture(tag: str, name: str) -> Response:
    """The picture of a photo."""
    data = repository().picture(tag, f"{FOLDER}/{name}")
    if data is None:
        abort(404)
    answer = Response(data, mimetype="image/jpeg")
    answer.headers["Cache-Control"] = "private, max-age=86400, immutable"
    return answer


def _photo(piece: Kept, name: str) -> Photo:
    """A photo by the last part of its file. Raises Missing."""
    found = next((p for p in piece.record.photos if p.file == f"{FOLDER}/{name}"), None)
    if found is None:
        raise Missing("photo", f"There is no such photo of {piece.tag}.")
    return found


def _marked(piece: Kept, photo: Photo, form: Any) -> list[dict[str, Any]]:
    """The marks of a photo with the one that a form places; without it where it is taken off.
    Raises FieldError.
    """
    lead, end = form.get("lead", ""), form.get("end", "piece")
    if lead not in {x.id for x in piece.record.leads}:
        raise FieldError("lead", "Say which lead it is; none of this piece was chosen.")
    if end not in ENDS:
        raise FieldError("end", "A cut has two ends: on the piece, and what it went to.")
    marks = [m.model_dump(exclude_none=True) for m in photo.marks]
    others = [m for m in marks if (m["lead"], m["end"]) != (lead, end)]
    if "off" in form:
        return others
    x, y = (_share(form.get(name, ""), name) for name in ("x", "y"))
    return [*others, {"lead": lead, "x": x, "y": y, "end": end}]


def _share(text: str, name: str) -> float:
    """A place in percent, as a share. Raises FieldError."""
    words = {"x": "From the left", "y": "From above"}[name]
    try:
        percent = float(text.replace(",", ".").removesuffix("%"))
    except ValueError:
        raise FieldError(name, f"{words}: a figure from 0 to 100 %; “{text[:20]}” was.") from None
    if not 0 <= percent <= HUNDRED:
        raise FieldError(name, f"{words}: from 0 to 100 %; {text[:20]} was given.")
    return round(percent / HUNDRED, 4)


def _after(piece: Kept, lead: str) -> str:
    """The lead after one, to go on with."""
    ids = [x.id for x in piece.record.leads]
    return ids[(ids.index(lead) + 1) % len(ids)]


class PhotosPage(Page, frozen=True, kw_only=True):
    """The page, with the photo that is looked at and the lead that is in hand."""

    template = "photos.html"
    piece: Kept
    record: Transformer
    told: tuple[Label, ...]
    at: int
    here: Photo | None
    drawing: Drawing | None
    lead: Lead
    ends: dict[str, str]
    end: str
    unmarked: list[str]
    error: FieldError | None
    name_of: Callable[[Photo], str]


def _drawn(tag: str, here: Photo | None) -> Drawing | None:
    data = None if here is None else repository().picture(tag, here.file)
    if here is None or data is None:
        return None
    return draw_photo(here, _address(tag, here), size_of(data))


def _page(piece: Kept, error: FieldError | None) -> Any:
    """The page, with the photo that is looked at and the lead that is in hand."""
    photos = piece.record.photos
    at = min(max(1, request.args.get("photo", 1, type=int)), max(1, len(photos)))
    here = photos[at - 1] if photos else None
    ids = [lead.id for lead in piece.record.leads]
    asked = request.values.get("lead", "")
    lead = asked if asked in ids else ids[0]
    shown = PhotosPage(
        piece=piece,
        record=piece.record,
        told=labels(piece.ident),
        at=at,
        here=here,
        drawing=_drawn(piece.tag, here),
        lead=next(x for x in piece.record.leads if x.id == lead),
        ends=ENDS,
        end=request.values.get("end", "piece"),
        unmarked=_unmarked(piece),
        error=error,
        name_of=_name_of,
    ).render()
    return shown, 200 if error is None else 422


def _address(tag: str, photo: Photo) -> str:
    return url_for("photos.picture", tag=tag, name=_name_of(photo))


def _name_of(photo: Photo) -> str:
    """The last part of a photo's file."""
    return photo.file.rpartition("/")[2]


def _unmarked(piece: Kept) -> list[str]:
    """Leads that no photo shows."""
    seen = {m.lead for p in piece.record.photos for m in p.marks}
    return [lead.id for lead in piece.record.leads if lead.id not in seen]
