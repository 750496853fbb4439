"""Donors: what pieces and parts come out of, said before a lead has a name; how each is taken
apart, what else it holds, and cold tests of that.
"""

from typing import Any

from flask import current_app, redirect, request, url_for

from greyfell.core.dangers.of_handling import Handling, of_donor
from greyfell.core.errors import FieldError
from greyfell.core.evidence.record import Donor
from greyfell.core.evidence.stores import BY_KEY as STORES_KINDS
from greyfell.core.evidence.stores import Item, StoreKind
from greyfell.core.figures.notation import parse_quantity
from greyfell.core.figures.quantity import Quantity
from greyfell.core.steps.discharge_stick import Stick, build
from greyfell.core.telling.donors import BY_KEY, DONORS, DonorKind, class_of, iron_or_inverter
from greyfell.core.telling.part_tests import BY_KEY as TESTS
from greyfell.core.telling.part_tests import PART_TESTS, PartTest, TestTold, expected, judge_part
from greyfell.records.donors import Donors
from greyfell.web.drawings.parts import part
from greyfell.web.drawings.shapes import Drawing
from greyfell.web.drawings.stick import stick as draw_stick
from greyfell.web.showing import Page
from greyfell.web.stores import stores
from greyfell.web.support import before, key, repository, stored

WORDS = ("title", "source", "price", "date", "note")
FIGURES = {
    "mass_kg": ("Mass of the whole", "kg", "kilogram"),
    "volts": ("Mains on its plate", "V", "volt"),
    "hertz": ("Hertz on its plate", "Hz", "hertz"),
    "line_fuse_amps": ("Line fuse", "A", "ampere"),
    "high_fuse_amps": ("HV fuse", "A", "ampere"),
    "high_fuse_volts": ("HV fuse, its volts", "V", "volt"),
}
"""A donor's figures: label, sign, and the unit they are read in."""
INVERTER = {"yes": True, "no": False}
LONGEST = 1000


def donors() -> Donors:
    """The application's donors, over its store."""
    return Donors(current_app.extensions["store"])


def index() -> Any:
    """Every donor, and the form for a new one."""
    return _index({}, None), 200


def add() -> Any:
    """Keep a new donor."""
    form = request.form
    try:
        entry = before()
        uid = donors().add(_document(form), key()).id if entry is None else entry.tag
    except FieldError as error:
        return _index(form, error), 422
    stored()
    return redirect(url_for(".show", uid=uid))


def show(uid: str) -> Any:
    """One donor: what it is, how it is taken apart, what else it holds."""
    return _page(donors().get(uid), {}, None), 200


def change(uid: str) -> Any:
    """Correct what is said of a donor."""
    form = request.form
    try:
        if before() is None:
            donors().change(uid, _document(form), key())
    except FieldError as error:
        if error.field == "donor":
            raise
        return _page(donors().get(uid), form, error), 422
    stored()
    return redirect(url_for(".show", uid=uid))


class PartTestsPage(Page, frozen=True, kw_only=True):
    """Cold tests of parts, and what a reading of one says."""

    template = "part_tests.html"
    tests: list[tuple[PartTest, str, Drawing]]
    chosen: PartTest | None
    told: TestTold | None
    error: FieldError | None
    value: str


def tests() -> Any:
    """Cold tests of parts, and what a reading of one says."""
    test = TESTS.get(request.args.get("test", ""))
    told, error = None, None
    if test is not None and "value" in request.args:
        try:
            told = judge_part(test, request.args["value"][:LONGEST])
        except FieldError as refused:
            error = refused
    shown = PartTestsPage(
        tests=[(t, expected(t), part(t.kind)) for t in PART_TESTS],
        chosen=test,
        told=told,
        error=error,
        value=request.args.get("value", "")[:LONGEST],
    ).render()
    return shown, 200 if error is None else 422


class StickPage(Page, frozen=True, kw_only=True):
    """How the discharge stick is built, from what the stores hold or as a list to buy."""

    template = "stick.html"
    built: Stick
    drawing: Drawing


def stick() -> Any:
    """How the discharge stick is built, from what the stores hold or as a list to buy."""
    built = build(stores().of(["resistor"]))
    return StickPage(built=built, drawing=draw_stick(built)).render()


def _document(form: Any) -> dict[str, Any]:
    """A donor as its form gives it: boxes left empty are not known. Raises FieldError."""
    out: dict[str, Any] = {"kind": form.get("kind", "")}
    for name in WORDS:
        if form.get(name, "").strip():
            out[name] = form[name].strip()[:LONGEST]
    for name, (label, _, unit) in FIGURES.items():
        if form.get(name, "").strip():
            out[name] = _figure(form[name], unit, name=name, label=label)
    if form.get("inverter") in INVERTER:
        out["inverter"] = INVERTER[form["inverter"]]
    return out


def _figure(text: str, unit: str, *, name: str, label: str) -> float:
    try:
        return parse_quantity(text, unit, field=label)
    except FieldError as error:
        raise FieldError(name, error.sentence) from None


class DonorsPage(Page, frozen=True, kw_only=True):
    """Every donor, and the form for another."""

    template = "donors.html"
    donors: list[Donor]
    kinds: tuple[DonorKind, ...]
    words: dict[str, str]
    figures: dict[str, tuple[str, str, str]]
    form: Any
    error: FieldError | None


def _index(form: Any, error: FieldError | None) -> str:
    return DonorsPage(
        donors=donors().all(),
        kinds=DONORS,
        words={k.key: k.words for k in DONORS},
        figures=FIGURES,
        form=form,
        error=error,
    ).render()


class DonorPage(Page, frozen=True, kw_only=True):
    """One donor as it stood: what it holds, what is known of its iron, its pieces."""

    template = "donor.html"
    donor: Donor
    kind: DonorKind
    kinds: tuple[DonorKind, ...]
    figures: dict[str, tuple[str, str, str]]
    iron: str
    va: Quantity | None
    handling: tuple[Handling, ...]
    holds: list[tuple[StoreKind, Drawing]]
    parts: list[Item]
    pieces: list[tuple[str, str]]
    form: Any
    error: FieldError | None


def _page(donor: Donor, form: Any, error: FieldError | None) -> str:
    kind = BY_KEY[donor.kind]
    mine = [item for item in stores().items(donor.id) if item.donor == donor.id]
    return DonorPage(
        donor=donor,
        kind=kind,
        kinds=DONORS,
        figures=FIGURES,
        iron=iron_or_inverter(donor),
        va=class_of(donor),
        handling=of_donor(donor.kind),
        holds=[(STORES_KINDS[k], part(k)) for k in kind.holds],
        parts=mine,
        pieces=repository().pieces_of(donor.id),
        form=form,
        error=error,
    ).render()
