"""One limit in one place: no two modules of the core hold the same figure with the same source, and
what `figures/limits` holds stands nowhere else; each limit is held from both sides where it rules.
"""

import ast
import re
from collections import defaultdict
from functools import cache
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
    again = [*constants(), ("bench/else.py", "SHOCK", 50.0, {"IEC 61140"})]

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


# ------------------------------------------------------------------ bare figures in comparisons

SHAPE_OF_FIGURES = "digits and rounding of a figure as it is written"
COUNTS = "how many things there are"
CLOSE_TO_WHOLE = "a share so near one that nobody reads the difference"
TOLD = "an influence or chance too small to be told"
BARE = {
    "belief/amps.py:_of_the_winding": CLOSE_TO_WHOLE,
    "belief/family.py:_tap_weight": "half way, within what the reading tells",
    "belief/found.py:family": "every family alike, but for rounding",
    "belief/taps.py:_span_weights": "a tap's volts at the least of the line's",
    "belief/taps.py:feeds": "a chance too small to keep",
    "belief/taps.py:taps_of": "a place settled by its reading, or too wide to give volts",
    "belief/volts.py:density": "so many spreads away nothing is left of a density",
    "belief/volts.py:shortest": TOLD,
    "circuit/equivalent.py:short_circuit_impedance": "watts over volts times amps by the meters",
    "circuit/equivalent.py:_referred": CLOSE_TO_WHOLE,
    "circuit/model.py:_narrower": "a tenth, beside what is felt at all",
    "lessons/advice.py:_wild": COUNTS,
    "evidence/accuracy.py:resolution": "counts of a meter's display",
    "evidence/label.py:_crests": "a label's figure beyond sense",
    "evidence/label.py:_farads": "a label's figure beyond sense",
    "families/giving.py:_valve": "windings of a valve set, and ohms of its HV winding",
    "families/giving.py:_valve_in_part": "windings of a valve set, and ohms of its HV winding",
    "figures/mains.py:usual_hertz": "regions of 50 Hz, the table's own edges",
    "figures/notation.py:*": SHAPE_OF_FIGURES,
    "telling/usual_ranges.py:_of_winding": "a tenth beside a band that is broad itself",
    "telling/outputs_of_shelf.py:_brief": "seconds of a minute",
    "telling/why.py:*": TOLD,
    "isolation/states.py:*": "nought, half, twice, as a person reads them",
    "judgement/salvage.py:_shown": "volts beyond sense",
    "judgement/touches.py:same_place": COUNTS,
    "planners/breaker.py:_times": "a minute",
    "planners/gap.py:_gap_of": "kilovolts in volts",
    "planners/gap.py:curve": "kilovolts in volts",
    "planners/pulse_weld.py:pulse_seconds": "the discriminant of an R-L-C circuit, 4 L > R² C",
    "planners/two_primaries.py:work": "hundredths in per cent",
    "planner_kit/hangs.py:hangs": TOLD,
    "uses/build.py:_winding": COUNTS,
    "uses/build.py:_switching_to_buy": "a minute",
    "uses/paired.py:_turns": "hundredths in per cent",
    "uses/project.py:in_hand": "sections of wire that do for one another",
    "coil_design/window.py:thickest_sheet": "thinner sheet is not sold",
    "wiring/groups.py:_like": "halves that may be alike, the near side of LOOSE_HALVES",
    "wiring/lines.py:*": "how two orders of a line's points are told apart",
    "wiring/topology.py:_exclude": "a tenth of an ohm of a contact",
    "wiring/topology.py:_would_show": "nine tenths of a range; a thousand ohms where none is told",
}
"""Functions that compare with a bare figure, and what it is there; `*` is the whole module."""
PLAIN = {0, 1, 2, 3, -1, 0.5}
"""Figures that need no name."""
GUARD = 1e-6
"""Guards against division by nought and rounding are no limits."""


@cache
def bare_figures():
    """Every bare figure in a comparison of the core: module, function, figure."""
    found = []
    for path in sorted(CORE.rglob("*.py")):
        inside = path.relative_to(CORE).as_posix()
        if not inside.startswith(("simulated/", "truth/")):  # the truth side keeps its own
            found += bare_in(inside, ast.parse(path.read_text(encoding="utf-8")), "")
    return found


def bare_in(module, node, function):
    """The same of one node and what it holds."""
    if isinstance(node, ast.FunctionDef):
        function = node.name
    if isinstance(node, ast.Compare):
        for side in (node.left, *node.comparators):
            for figure in figures_of(side):
                yield module, function, figure
    for child in ast.iter_child_nodes(node):
        yield from bare_in(module, child, function)


def figures_of(side):
    """Figures of one side that are no argument and no index, no guard and not plain."""
    if isinstance(side, ast.Call | ast.Subscript):
        return
    if isinstance(side, ast.Constant) and type(side.value) in (int, float):
        if side.value not in PLAIN and abs(side.value) > GUARD:
            yield side.value
        return
    for child in ast.iter_child_nodes(side):
        yield from figures_of(child)


def test_no_rule_compares_with_a_figure_that_has_no_name():
    """What is compared with bears a name and a source, or stands in the table with its reason."""
    found = set(bare_figures())
    unnamed = sorted(
        f"{module}:{function} {figure:g}"
        for module, function, figure in found
        if f"{module}:{function}" not in BARE and f"{module}:*" not in BARE
    )

    assert unnamed == []


def test_no_reason_stands_for_nothing():
    """Each row of the table is met by the code; a row that is met no more goes."""
    found = bare_figures()
    met = {f"{module}:{function}" for module, function, _ in found}
    met |= {f"{module}:*" for module, _, _ in found}

    assert sorted(set(BARE) - met) == []


def test_a_bare_figure_is_found_where_one_stands():
    """On lines made by hand."""
    source = "def f(x):\n    return x > 0.37 and y[4] < g(5) and z >= 2 and w < 1e-9\n"

    assert list(bare_in("m.py", ast.parse(source), "")) == [("m.py", "f", 0.37)]
