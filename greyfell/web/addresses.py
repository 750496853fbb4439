"""Every address of the program and the view that answers it.

A view's module, with the engine behind it, is imported when it is first asked for (the pattern that
Flask's documentation calls "Lazily Loading Views"): the server answers long before all of it is
loaded, and `load` fetches the rest meanwhile.
"""

from functools import cached_property
from importlib import import_module
from typing import Any

from flask import Flask, current_app, make_response, request
from msgspec import Struct


class Address(Struct, frozen=True):
    """Where a view answers: the rule of the address, module and function, the method."""

    rule: str
    endpoint: str
    method: str = "GET"


PIECE = "/pieces/<tag>"

ADDRESSES = (
    Address("/", "shelf.show"),
    Address("/demo", "shelf.load_demo", "POST"),
    Address("/news", "shelf.read_news", "POST"),
    Address("/pieces/new", "shelf.new"),
    Address("/pieces", "shelf.create", "POST"),
    Address(f"{PIECE}/", "pieces.show"),
    Address(f"{PIECE}/why", "pieces.why"),
    Address(f"{PIECE}/sisters", "sisters.show"),
    Address(f"{PIECE}/understand", "pieces.understand"),
    Address(f"{PIECE}/jot", "pieces.jot", "POST"),
    Address(f"{PIECE}/strike/<reading>", "pieces.strike", "POST"),
    Address(f"{PIECE}/vouch", "pieces.vouch", "POST"),
    Address(f"{PIECE}/lack", "pieces.lack", "POST"),
    Address(f"{PIECE}/salvage", "pieces.salvage", "POST"),
    Address(f"{PIECE}/clues", "pieces.clues", "POST"),
    Address(f"{PIECE}/setup", "pieces.setup", "POST"),
    Address(f"{PIECE}/isolation", "paper.isolation"),
    Address(f"{PIECE}/goal", "pieces.say_goal", "POST"),
    Address(f"{PIECE}/dangers", "dangers.show"),
    Address(f"{PIECE}/dangers.json", "dangers.document"),
    Address(f"{PIECE}/rewind", "rewinding.show"),
    Address(f"{PIECE}/rewind/sheet", "rewinding.build"),
    Address(f"{PIECE}/rewind", "rewinding.keep", "POST"),
    Address(f"{PIECE}/rewind/tick", "rewinding.tick", "POST"),
    Address(f"{PIECE}/rewind/photo", "rewinding.picture", "POST"),
    Address(f"{PIECE}/rewind/made", "rewinding.made", "POST"),
    Address(f"{PIECE}/rewind/log", "rewinding.log", "POST"),
    Address(f"{PIECE}/record.json", "transfer.export"),
    Address(f"{PIECE}/identification.json", "transfer.identification"),
    Address(f"{PIECE}/photos", "photos.show"),
    Address(f"{PIECE}/photos", "photos.add", "POST"),
    Address(f"{PIECE}/photos/<name>", "photos.picture"),
    Address(f"{PIECE}/photos/<name>", "photos.mark", "POST"),
    Address(f"{PIECE}/photos/<name>/away", "photos.drop", "POST"),
    Address(f"{PIECE}/wires", "photos.wire", "POST"),
    Address(f"{PIECE}/tag", "paper.tag"),
    Address(f"{PIECE}/labels", "paper.label_sheet"),
    Address(f"{PIECE}/paper", "paper.whole"),
    Address(f"{PIECE}/sheet", "paper.sheet"),
    Address(f"{PIECE}/marking", "paper.marking", "POST"),
    Address(f"{PIECE}/<drawing>.svg", "paper.drawing"),
    Address(f"{PIECE}/passport.html", "paper.passport"),
    Address(f"{PIECE}/rename", "keeping.rename", "POST"),
    Address(f"{PIECE}/retire", "keeping.retire", "POST"),
    Address(f"{PIECE}/back", "keeping.back", "POST"),
    Address(f"{PIECE}/readings.csv", "tables.export"),
    Address(f"{PIECE}/table", "tables.ask"),
    Address(f"{PIECE}/table", "tables.bring", "POST"),
    Address(f"{PIECE}/bench", "bench.show"),
    Address(f"{PIECE}/bench", "bench.enter", "POST"),
    Address("/log", "log.show"),
    Address("/hand", "preferences.hand", "POST"),
    Address("/before-live", "before_live.answer", "POST"),
    Address("/stores", "stores.show"),
    Address("/stores", "stores.add", "POST"),
    Address("/stores/bring", "stores.bring", "POST"),
    Address("/stores/<uid>", "stores.change", "POST"),
    Address("/stores.json", "stores.export"),
    Address("/stores/stick", "donors.stick"),
    Address("/donors", "donors.index"),
    Address("/donors", "donors.add", "POST"),
    Address("/donors/tests", "donors.tests"),
    Address("/donors/<uid>", "donors.show"),
    Address("/donors/<uid>", "donors.change", "POST"),
    Address("/instruments", "instruments.show"),
    Address("/instruments/<uid>", "instruments.keep", "POST"),
    Address("/instruments/<uid>/read", "instruments.take", "POST"),
    Address(f"{PIECE}/points", "instruments.ask_points"),
    Address(f"{PIECE}/points", "instruments.points", "POST"),
    Address("/practice", "practice.home"),
    Address("/practice", "practice.start", "POST"),
    Address("/practice/<tag>", "practice.show"),
    Address("/practice/<tag>/connect", "practice.connect", "POST"),
    Address("/practice/<tag>/name", "practice.name", "POST"),
    Address(f"{PIECE}/rehearse", "practice.rehearse"),
    Address(f"{PIECE}/isolated", "isolating.show"),
    Address(f"{PIECE}/isolated", "isolating.read", "POST"),
    Address("/uses", "job_finder.show"),
    Address("/coils", "job_finder.coils"),
    Address("/rewindings", "rewinding.kept_plans"),
    Address("/schools", "schools.show"),
    Address("/shocked", "help_pages.shocked"),
    Address("/trips", "help_pages.trips"),
    Address("/glossary", "help_pages.glossary"),
    Address("/plans/", "plans.index"),
    Address("/plans/<name>", "plans.show"),
    Address("/plans/<name>.svg", "plans.drawing"),
    Address("/rigs", "kept_plans.rigs"),
    Address("/rigs", "kept_plans.keep_rig", "POST"),
    Address("/rigs/edit", "rigs.edit"),
    Address("/rigs/sheet", "rigs.sheet"),
    Address("/rigs/rig.cir", "rigs.netlist"),
    Address("/rigs/rig.csv", "rigs.table"),
    Address("/rigs/rig.json", "rigs.document"),
    Address("/rigs/open", "rigs.open_file", "POST"),
    Address("/rigs/compare", "kept_plans.compare"),
    Address("/kept", "kept_plans.keep", "POST"),
    Address("/kept/<uid>", "kept_plans.show"),
    Address("/kept/<uid>", "kept_plans.measure", "POST"),
    Address("/kept/<uid>/walk", "kept_plans.walk", "POST"),
    Address("/kept/<uid>.json", "kept_plans.export"),
    Address("/archive.zip", "transfer.archive"),
    Address("/import", "transfer.ask"),
    Address("/import", "transfer.bring", "POST"),
    Address("/theme", "preferences.theme", "POST"),
    Address("/patterns", "patterns.show"),
)


class View(Struct, frozen=True, dict=True):
    """A view by its endpoint, `module.function` of this package."""

    endpoint: str

    @cached_property
    def answer(self) -> Any:
        """The function itself, imported on first use."""
        module, _, function = self.endpoint.partition(".")
        return getattr(import_module(f"greyfell.web.{module}"), function)

    @property
    def __name__(self) -> str:  # as Flask's extensions expect of a view
        return self.endpoint

    def __call__(self, **given: str) -> Any:
        prepare(current_app)
        if request.method != "POST" or "tag" not in given:
            return self.answer(**given)
        changes = import_module("greyfell.web.moved")
        changes.look_before()
        answer = make_response(self.answer(**given))
        changes.look_after(answer.status_code)
        return answer


def register(app: Flask) -> None:
    """Make every address known to the application."""
    for place in ADDRESSES:
        view = View(place.endpoint)
        app.add_url_rule(place.rule, place.endpoint, view, methods=[place.method])


def prepare(app: Flask) -> None:
    """Give templates their figures and words, before the first is shown."""
    if "figures" not in app.extensions:
        import_module("greyfell.web.filters").register(app)
        app.extensions["figures"] = True


def load(app: Flask) -> None:
    """Import every view."""
    for module in sorted({place.endpoint.partition(".")[0] for place in ADDRESSES}):
        import_module(f"greyfell.web.{module}")
    prepare(app)
