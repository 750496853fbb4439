"""One limit in one place: no two modules of the core hold the same figure with the same source, and
what `figures/limits` holds stands nowhere else; each limit is held from both sides where it rules.
"""

import ast
import re
from collections import defaultdict
from itertools import pairwise
from pathlib import Path

import pytest

from greyfell.core.dangers.of_handling import handling
from greyfell.core.evidence.parse import parse_record
from greyfell.core.figures import limits
from greyfell.core.figures.limits import MOST_FLUX, NOT_EXCLUDED
from greyfell.core.identify import identify
from greyfell.core.planners.registry import PLANNERS
from tests.conftest import MAINS, piece

CORE = Path(limits.__file__).parents[1]
SOURCE = re.compile(r"\b(?:IEC|EN|NFPA|ANSI|NEC) \d+(?:-\d+)*|\bREF-[A-Z]-T?\d+")
APART = {
    ("UNREAD_LEAKAGE_AMPS", "LOOK_AMPS"): "what a sound part may have; where it is turned down",
    ("MOST_FLUX", "HUM"): "a plate's flux; a variac's own line",
    ("MAINS_RISE", "MOST_FLUX"): "volts of the line; volts per hertz of an iron",
    ("MAINS_RISE", "HUM"): "the line; a variac's own iron",
    ("MAINS_RISE", "BORNE_OVER"): "the line; which tap a plate's volts may be put on",
    ("MOST_FLUX", "BORNE_OVER"): "iron that saturates; which tap a plate's volts may be put on",
    ("HUM", "BORNE_OVER"): "a variac's own iron; which tap a plate's volts may be put on",
    ("ALUMINIUM", "ALUMINIUM"): "the truth side keeps its own",
    ("DENSITY_MOST", "SHORT_A_PER_MM2"): "copper that runs on; copper for a shot",
}
"""Pairs of one figure and one source that answer different questions."""


def constants():
    """Every scalar constant of the core: module, name, figure, the sources its sentence names."""
    for path in sorted(CORE.rglob("*.py")):
        body = ast.parse(path.read_text(encoding="utf-8")).body
        for node, after in zip(body, [*body[1:], None], strict=True):
            if not isinstance(node, ast.Assign):
                continue
            said = getattr(getattr(after, "value", None), "value", "")
            sources = set(SOURCE.findall(" ".join(str(said).split())))
            for name, value in named(node):
                yield str(path.relative_to(CORE)), name, value, sources


def named(node):
    """The names of an assignment with their figures."""
    target = node.targets[0]
    parts = [(target, node.value)]
    if isinstance(target, ast.Tuple) and isinstance(node.value, ast.Tuple):
        parts = list(zip(target.elts, node.value.elts, strict=True))
    for name, value in parts:
        is_figure = isinstance(value, ast.Constant) and isinstance(value.value, int | float)
        if isinstance(name, ast.Name) and is_figure and not isinstance(value.value, bool):
            yield name.id, float(value.value)


def twins(found):
    """Pairs in two modules of the same figure and the same source."""
    by_source = defaultdict(list)
    for module, name, value, sources in found:
        for source in sources:
            by_source[value, source].append((module, name))
    for (value, source), places in by_source.items():
        for n, (module, name) in enumerate(places):
            for other, twin in places[n + 1 :]:
                if module != other:
                    yield (name, twin), f"{value:g}, {source}: {module} {name}, {other} {twin}"


def test_no_limit_stands_twice():
    """The same figure by the same standard in two modules is one limit, or has its reason."""
    found = list(constants())
    told = [words for pair, words in twins(found) if not {pair, pair[::-1]} & APART.keys()]

    assert len(found) > 400
    assert told == []


def test_a_twin_is_told():
    """A second touch limit by the same standard in another room."""
    again = [*constants(), ("rig/else.py", "SHOCK", 50.0, {"IEC 61140"})]

    assert ("TOUCH_VOLTS", "SHOCK") in {pair for pair, _ in twins(again)}


def test_every_limit_has_its_source():
    """A standard, or the word that it is a house rule or common practice."""
    body = ast.parse(Path(limits.__file__).read_text(encoding="utf-8")).body
    for node, after in pairwise(body):
        if isinstance(node, ast.Assign):
            said = after.value.value
            assert re.search(r"IEC|REF-|House rule|[Cc]ommon practice", said), said


# ------------------------------------------------------------------ merged from twins


@pytest.mark.parametrize(
    ("declared", "chance", "said"),
    [
        (None, 0.049, False),
        (None, 0.05, True),
        ("variable", 0.19, False),
        ("variable", 0.21, True),
    ],
)
def test_a_family_that_is_not_excluded_is_handled_as_one(declared, chance, said):
    """An oven's beryllia and second capacitor are told from one in twenty; beside a family that
    the owner named from one in five. House rules.
    """
    ident = identify(parse_record(piece("ABCD", MAINS, declared_family=declared)))
    families = {"mains": 1 - chance, "microwave": chance}
    ident.belief.families.clear()
    ident.belief.families.update(families)

    told = {h.code for h in handling(ident)}
    assert NOT_EXCLUDED == 0.05
    assert ("magnetron" in told) is said


@pytest.mark.parametrize(("flux", "stops"), [(1.099, False), (1.101, True)])
def test_bucking_turns_stop_where_the_iron_saturates(flux, stops):
    """N turns less k: 1/(1 - k/N) of the flux. IEC 60038; common practice."""
    turns = 200.0
    given = {
        "supply_volts": 230.0,
        "volts_per_turn": 230.0 / turns,
        "added_turns": turns * (1 - 1 / flux),
        "sense": "bucking",
    }
    codes = {w["code"] for w in PLANNERS["primary_turns"](given)["warnings"]}

    assert MOST_FLUX == 1.10
    assert ("saturates" in codes) is stops
