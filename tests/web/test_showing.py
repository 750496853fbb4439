"""What a view hands over and what its template asks for are the same names: nothing is asked for
that nobody gives, nothing is given that nobody asks for.
"""

import importlib
import pkgutil
import typing
from functools import cache

import pytest
from jinja2 import meta
from jinja2.nodes import Assign, Const, Extends, FromImport, Import, Include, Macro, Name

import greyfell.web
from greyfell.web.app import create_app
from greyfell.web.showing import Page, Shown

for module in pkgutil.iter_modules(greyfell.web.__path__, "greyfell.web."):
    importlib.import_module(module.name)
PAGES = sorted(Page.__subclasses__(), key=lambda page: page.__name__)
BY_STATION = "_station_"
"""How the templates of a piece's stations begin; which one is put in hangs on the address."""


@pytest.fixture(scope="module")
def app(tmp_path_factory):
    """The program, for its templates and what every page is given."""
    made = create_app(tmp_path_factory.mktemp("showing"))
    made.test_client().get("/")  # filters and globals come with the first page
    return made


@cache
def given_by(shown):
    """Every name that a page or a part of one hands over, its parts' names with them."""
    names = set()
    for name, hint in typing.get_type_hints(shown, globalns=scope_of(shown)).items():
        parts = [x for x in (hint, *typing.get_args(hint)) if is_shown(x) and x is not Shown]
        if parts:
            names |= {n for part in parts for n in given_by(part)}
        elif name not in ("template", "station"):
            names.add(name)
    return names


def scope_of(shown):
    """Where a class's annotations are read."""
    return vars(importlib.import_module(shown.__module__))


def is_shown(hint):
    """Whether an annotation is a part of a page; any part stands for all of a station's."""
    return isinstance(hint, type) and issubclass(hint, Shown)


def every_part():
    """Names of all parts that a station may show."""
    return {
        name
        for part in Shown.__subclasses__()
        if part is not Page and part.__module__ != "greyfell.web.paper"
        for name in given_by(part)
    }


def within(env, name, seen=()):
    """A template, what it extends and what it puts in: all that is drawn, macros left out."""
    found = {name}
    for node in parsed(env, name).find_all((Extends, Include)):
        named = [node.template] if isinstance(node.template, Const) else node.find_all(Const)
        inside = [x.value for x in named if str(x.value) in templates(env)]
        if not inside:
            inside = [x for x in templates(env) if x.startswith(BY_STATION)]
        for inner in inside:
            if inner not in {*seen, *found}:
                found |= within(env, inner, (*seen, *found))
    return found


def macros_of(env, names):
    """Templates that these take macros from; a macro asks for its names where it is called."""
    return {
        node.template.value
        for name in names
        for node in parsed(env, name).find_all((Import, FromImport))
    }


def made_in(env, names):
    """Every name that one of these templates makes for the rest."""
    made = set()
    for name in names:
        tree = parsed(env, name)
        made |= {node.target for node in tree.find_all(Import)}
        made |= {x.name for node in tree.find_all(Assign) for x in targets(node)}
        made |= {node.name for node in tree.find_all(Macro)}
    return made


@cache
def parsed(env, name):
    """A template's tree; those that only look at it share it."""
    return env.parse(env.loader.get_source(env, name)[0])


@cache
def undeclared(env, name):
    """Names that a template asks for and does not make."""
    return frozenset(meta.find_undeclared_variables(parsed(env, name)))


@cache
def templates(env):
    """The names of all templates."""
    return tuple(env.list_templates())


def targets(node):
    """What an assignment sets."""
    return [node.target] if isinstance(node.target, Name) else node.target.find_all(Name)


def asked_in(env, names):
    """Every name that these templates ask for and none of them makes."""
    return {asked for name in names for asked in undeclared(env, name)}


def everywhere(app):
    """Names that every page has."""
    with app.test_request_context("/"):
        context = dict(app.jinja_env.globals)
        app.update_template_context(context)
    return set(context)


@cache
def asked_by(app, page):
    """Names that a page's templates ask for; and those besides that its macros may, or that stand
    for something everywhere else.
    """
    env = app.jinja_env
    drawn = within(env, page.template)
    return asked_in(env, drawn), asked_in(env, macros_of(env, drawn)) | set(env.globals)


@pytest.mark.parametrize("page", PAGES, ids=lambda page: page.__name__)
def test_a_page_gives_what_its_template_asks_for(app, page):
    """Every name, by its own fields or those of its parts; what every page has besides."""
    asked, _ = asked_by(app, page)
    made = made_in(app.jinja_env, within(app.jinja_env, page.template))
    given = given_by(page) | (every_part() if page.template == "piece.html" else set())

    assert asked - made - given - everywhere(app) - OPTIONAL == set()


OPTIONAL = {"nav"}
"""What only some pages set, and the frame asks whether it is there."""


def test_no_name_is_given_that_no_template_asks_for(app):
    """What nobody shows is not worked out: each field of a page, and of its parts, is used."""
    used = {page: set().union(*asked_by(app, page)) for page in PAGES}
    idle = []
    for page in PAGES:
        parts = holding(page)
        for part in parts:
            users = [p for p in PAGES if part in holding(p)]
            asked = set().union(*(used[p] for p in users))
            idle += [f"{part.__name__}.{name}" for name in own_names(part) - asked]

    assert sorted(set(idle)) == ["ModelsShown.models"], "carried to the load that is asked for"


@cache
def holding(page):
    """A page and every part within it; a piece's stations hold theirs."""
    found = {page}
    for hint in typing.get_type_hints(page, globalns=scope_of(page)).values():
        for part in (hint, *typing.get_args(hint)):
            if part is Shown:
                found |= {p for p in Shown.__subclasses__() if p is not Page}
            elif is_shown(part):
                found |= holding(part)
    return found


def own_names(shown):
    """The names that a page or part hands over itself."""
    within_it = set().union(*(given_by(p) for p in holding(shown) - {shown}))
    return given_by(shown) - within_it


def test_every_template_of_a_page_is_of_one_class(app):
    """Templates that are no part of another have their page."""
    whole = {t for t in templates(app.jinja_env) if not t.startswith("_")}
    shown = {page.template for page in PAGES}

    assert len(shown) == len(PAGES)
    assert whole - shown == {"base.html", "part.html"}, "what others extend"
