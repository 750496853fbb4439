"""The shelf: every piece on its tag; and a new piece."""

import re
from typing import Any

from flask import current_app, redirect, request, url_for
from markupsafe import Markup
from msgspec.structs import replace

from greyfell.core.errors import FieldError
from greyfell.core.evidence.loading import FORMAT
from greyfell.core.evidence.parse import parse_record
from greyfell.core.evidence.record import Donor
from greyfell.core.figures.mains import SUPPLIES
from greyfell.core.identify import identify
from greyfell.core.telling.donors import BY_KEY as DONOR_KINDS
from greyfell.core.telling.outputs_of_shelf import parse_wanted
from greyfell.records import demo
from greyfell.records.donors import Donors
from greyfell.records.reminders import Reminder, reminders
from greyfell.records.shelf import BARE, PAGE, Answer, Item, News, ShelfPage
from greyfell.web.drawings.iron import iron
from greyfell.web.drawings.shapes import Drawing
from greyfell.web.drawings.tag import small_iron
from greyfell.web.preferences import own_address
from greyfell.web.showing import Page
from greyfell.web.support import before, catch_up, key, repository, stored

EXAMPLE_LEADS = (("A", "black"), ("B", "black"), ("C", "red"), ("D", "red"), ("E", "white"))
SCANNED = "Greyfell"
"""What stands before a tag in the words of its code."""
SORTS = {"danger": "by danger", "tag": "by tag", "newest": "newest first", "family": "by family"}
SUPPLY_WORDS = {f"{v:g}/{hz:g}": f"{v:g} V, {hz:g} Hz" for v, hz in SUPPLIES}
"""Supplies as they are chosen."""


class ShelfShownPage(Page, frozen=True, kw_only=True):
    """The shelf, narrowed and sorted by the address."""

    template = "shelf.html"
    page: ShelfPage
    cards: list[Markup]
    chosen: dict[str, str]
    sorts: dict[str, str]
    waiting: int
    reminders: list[Reminder]
    news: list[News]


def show() -> Any:
    """The shelf, narrowed and sorted by the address."""
    args = request.args
    if "gives" in args:
        return _giving(args["gives"], args.get("page", 1, type=int))
    find = args.get("find", "").strip()[:MOST_ASKED]
    tag = repository().known_as(scanned(find)) if find else None
    if tag is not None:
        return redirect(url_for("pieces.show", tag=tag))
    narrowed = {"family": args.get("family", ""), "verdict": args.get("verdict", ""), "find": find}
    sort = args.get("sort", "danger")
    page = repository().shelf(sort, page=args.get("page", 1, type=int), **narrowed)
    waiting = repository().waiting() if any(i.earlier for i in page.items) else 0
    catch_up()
    return ShelfShownPage(
        page=page,
        cards=_cards(page.items),
        chosen={**narrowed, "sort": sort},
        sorts=SORTS,
        waiting=waiting,
        reminders=reminders(repository().store),
        news=repository().news(),
    ).render()


def scanned(words: str) -> str:
    """The tag in what a scanner typed: an address of a piece, the program's name and a tag, or a
    tag alone.

    >>> scanned("http://bench.local:8730/pieces/CQ-014/"), scanned("Greyfell CQ-014")
    ('CQ-014', 'CQ-014')
    """
    _, inside, rest = words.partition("/pieces/")
    return rest.partition("/")[0] if inside else words.removeprefix(f"{SCANNED} ").strip()


class GivingPage(Page, frozen=True, kw_only=True):
    """Outputs across the shelf that give what is asked for."""

    template = "giving.html"
    asked: str
    error: FieldError | None
    answers: list[tuple[Markup, Answer]]
    count: int
    page: int
    pages: int
    waiting: int


def _giving(asked: str, page: int) -> Any:
    """Outputs across the shelf that give what is asked for."""
    answers: list[Answer] = []
    error, count = None, 0
    try:
        answers, count = repository().giving(parse_wanted(asked), page)
    except FieldError as refused:
        error = refused
    told = zip(_cards([a.item for a in answers]), answers, strict=True)
    shown = GivingPage(
        asked=asked[:MOST_ASKED],
        error=error,
        answers=list(told),
        count=count,
        page=max(1, page),
        pages=max(1, -(-count // PAGE)),
        waiting=repository().waiting(),
    ).render()
    return shown, 200 if error is None else 422


MOST_ASKED = 60
"""So much of a question is written back."""
MOST_CARDS = 4000
"""So many tags are kept as they were drawn."""
_drawn: dict[Item, Markup] = {}


class CardPage(Page, frozen=True, kw_only=True):
    """The pieces' tags, each drawn once for what is concluded of it."""

    template = "_card.html"
    item: Item
    told: dict[str, Any]
    drawing: Drawing


def _cards(items: list[Item]) -> list[Markup]:
    """The pieces' tags, each drawn once for what is concluded of it."""
    new = [item for item in items if item not in _drawn]
    if new:
        if len(_drawn) >= MOST_CARDS:
            _drawn.clear()
        known = repository().summaries(new)
        for item in new:
            told = known.get(item.piece_id, BARE)
            drawing = small_iron(told["sketch"], item.tag)
            _drawn[item] = Markup(CardPage(item=item, told=told, drawing=drawing).render())
    return [_drawn[item] for item in items]


def read_news() -> Any:
    """Somebody has read which verdicts newer rules changed: they are not told again."""
    repository().read_news(request.form.getlist("tag"))
    return redirect(own_address(request.form.get("back", "")))


def load_demo() -> Any:
    """Put the demo pieces on an empty shelf."""
    demo.load_demo(repository())
    current_app.config["DEMO"] = True
    return redirect(url_for(".show"))


def new() -> Any:
    """The form for iron in front of you; what its donor tells stands in it."""
    uid = request.args.get("donor", "")
    donor = _donors().get(uid) if uid else None
    begun = {} if donor is None else _begun(donor)
    return _form({**_proposed(), **begun}, None), 200


def _donors() -> Donors:
    return Donors(current_app.extensions["store"])


def _begun(donor: Donor) -> dict[str, Any]:
    """What is known of a piece by its donor; a supply that is none of ours is left to be said."""
    fed = f"{donor.volts or 0:g}/{donor.hertz or 0:g}"
    return {
        "donor": donor.id,
        "title": donor.title,
        "declared_family": DONOR_KINDS[donor.kind].family,
        "supply": fed,
    }


def create() -> Any:
    """Make a new piece from its tag, title and leads."""
    form = request.form
    try:
        entry = before()
        tag = repository().add(_document(form), key()).tag if entry is None else entry.tag
    except FieldError as error:
        return _form(form, error), 422
    stored()
    return redirect(url_for("pieces.show", tag=tag))


class NewPage(Page, frozen=True, kw_only=True):
    """The form, with an unknown iron and its loose leads drawn beside it."""

    template = "new.html"
    form: Any
    error: FieldError | None
    supplies: dict[str, str]
    drawing: Drawing
    donors: dict[str, str]


def _form(form: Any, error: FieldError | None) -> str:
    """The form, with an unknown iron and its loose leads drawn beside it."""
    example = parse_record(
        {
            "format": FORMAT,
            "tag": "CQ-050",
            "leads": [{"id": x, "colour": c} for x, c in EXAMPLE_LEADS],
        }
    )
    drawing = iron(identify(example))
    drawing.shapes = [replace(s, link="", lead="") for s in drawing.shapes]  # nothing to pick yet
    return NewPage(
        form=form, error=error, supplies=SUPPLY_WORDS, drawing=drawing, donors=_donors().titles()
    ).render()


def leads_of(text: str) -> list[str]:
    """Leads as they are named: one by one, as a count, as a span, or as letters in a row. Raises
    FieldError.

    >>> leads_of("A, B C"), leads_of("3 leads"), leads_of("A-D"), leads_of("ABC")
    (['A', 'B', 'C'], ['A', 'B', 'C'], ['A', 'B', 'C', 'D'], ['A', 'B', 'C'])
    """
    text = text.strip()
    counted = COUNTED.fullmatch(text)
    if counted is not None and 1 <= int(counted.group(1)) <= len(LETTERS):
        return list(LETTERS[: int(counted.group(1))])
    spanned = SPANNED.fullmatch(text)
    if spanned is not None and spanned.group(1) < spanned.group(2):
        first, last = (LETTERS.index(x) for x in spanned.groups())
        return list(LETTERS[first : last + 1])
    if IN_A_ROW.fullmatch(text) and len(set(text)) == len(text):
        return list(text)
    names = [n for n in re.split(r"[\s,;]+", text) if n]
    wrong = next((n for n in names if not LEAD.fullmatch(n)), None)
    if wrong is not None:
        raise FieldError(
            "leads", f"A lead is named by 1 to 8 letters or digits; “{wrong[:20]}” was given."
        )
    if not names:
        raise FieldError(
            "leads", "Name the leads, one letter or label each, such as A B C D; none was given."
        )
    return names


LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
COUNTED = re.compile(r"(\d{1,2})\s*(?:leads?)?")
SPANNED = re.compile(r"([A-Z])\s*(?:-|–|to)\s*([A-Z])")
IN_A_ROW = re.compile(r"[A-Z]{2,26}")
LEAD = re.compile(r"[A-Za-z0-9]{1,8}")


def _proposed() -> dict[str, str]:
    """A tag that is free, counted on from the last piece's, and the supply it would be fed from."""
    last = repository().latest()
    if last is None:
        return {}
    head = TAIL.fullmatch(last.tag)
    tag = f"{head.group(1)}{int(head.group(2)) + 1:0{len(head.group(2))}d}" if head else ""
    free = bool(tag) and len(tag) <= MOST_TAG and repository().get(tag) is None
    supply = last.record.supply
    return {"tag": tag if free else "", "supply": f"{supply.volts:g}/{supply.hertz:g}"}


TAIL = re.compile(r"(.*?)(\d{1,6})")
MOST_TAG = 24


def _document(form: Any) -> dict[str, Any]:
    names = leads_of(form.get("leads", ""))
    chosen = form.get("supply", "")
    volts, hertz = next((s for s in SUPPLIES if f"{s[0]:g}/{s[1]:g}" == chosen), SUPPLIES[0])
    tag = form.get("tag", "").strip()
    if not tag:
        raise FieldError("tag", "A tag is needed: 1 to 24 letters, digits or “-”, such as CQ-050.")
    uid = form.get("donor", "")
    donor = {"donor": _donors().get(uid).model_dump(exclude_unset=True)} if uid else {}
    return {
        **donor,
        "format": FORMAT,
        "tag": tag,
        "title": form.get("title", "").strip(),
        "declared_family": form.get("declared_family") or None,
        "supply": {"volts": volts, "hertz": hertz},
        "leads": [{"id": n} for n in names],
        "readings": [],
    }
