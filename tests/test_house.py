"""The house keeps its own rules: documented functions, current schemas, docs and demo data, sources
that stand on the reference page.
"""

import ast
import json
import os
import re
import subprocess
import sys
from collections import Counter, defaultdict
from functools import cache
from pathlib import Path

import pytest

from greyfell.core.planners.registry import PLANNERS
from greyfell.records.demo_rigs import RIGS
from greyfell.web.addresses import ADDRESSES, View
from scripts import draw_house, write_schema, write_uses

ROOT = Path(__file__).parent.parent
SOURCES = sorted((ROOT / "greyfell").rglob("*.py"))


@cache
def tree(path):
    """A module as its statements, read once."""
    return ast.parse(path.read_text(encoding="utf-8"))


@pytest.mark.parametrize(
    "path",
    [p for p in SOURCES if "versions" not in p.parts and p.name != "__init__.py"],
    ids=lambda p: str(p.relative_to(ROOT)),
)
def test_every_module_and_public_function_says_what_it_is(path):
    """A docstring for every module, public class and public function of core, records and web."""
    assert ast.get_docstring(tree(path)), path
    for node in tree(path).body:
        if isinstance(node, ast.FunctionDef | ast.ClassDef) and not node.name.startswith("_"):
            small = isinstance(node, ast.ClassDef) and path.name == "record.py"
            assert ast.get_docstring(node) or small, f"{path.name}: {node.name}"


@pytest.mark.parametrize("script", [draw_house, write_schema, write_uses])
def test_generated_files_are_current(monkeypatch, script):
    """docs/ is what types, declarations and imports say: a stale page ends its script."""
    monkeypatch.setattr(sys, "argv", ["", "--check"])

    script.main()


def test_a_stale_page_is_told(monkeypatch, tmp_path):
    """One word more, and it is named."""
    page = tmp_path / "uses.md"
    page.write_text(write_uses.FILE.read_text(encoding="utf-8") + "more\n", encoding="utf-8")
    monkeypatch.setattr(write_uses, "FILE", page)
    monkeypatch.setattr(write_uses, "verdicts", list)
    monkeypatch.setattr(sys, "argv", ["", "--check"])

    with pytest.raises(SystemExit, match=r"uses\.md is stale"):
        write_uses.main()


def test_demo_data_comes_from_the_forward_model(tmp_path):
    """Running the maker again gives the committed bytes."""
    before = (ROOT / "greyfell/records/demo.json").read_bytes()
    copy = tmp_path / "make_demo.py"
    text = (ROOT / "scripts/make_demo.py").read_text(encoding="utf-8")
    copy.write_text(
        text.replace(
            'Path(__file__).parent.parent / "greyfell" / "records"', f'Path("{tmp_path}")'
        ),
        encoding="utf-8",
    )
    paths = {**os.environ, "PYTHONPATH": str(ROOT / "scripts")}
    subprocess.run([sys.executable, copy], check=True, capture_output=True, cwd=ROOT, env=paths)

    assert (tmp_path / "demo.json").read_bytes() == before


REFERENCE = re.compile(r"\b(?:REF-)?([WMTBQ]-(?:T\d|\d\d))(?![\d])")
"""An id of the reference page, cited with or without its prefix."""


def test_reference_ids_in_code_stand_in_the_reference_page():
    """Every id of a formula or table that code or tests cite is explained in docs/references.md."""
    page = (ROOT / "docs/references.md").read_text(encoding="utf-8")
    known = set(REFERENCE.findall(page))
    files = [*SOURCES, *(ROOT / "tests").rglob("*.py")]
    cited = {m for p in files for m in REFERENCE.findall(p.read_text(encoding="utf-8"))}

    assert len(cited) > 30
    assert sorted(cited - known) == []


def test_no_paper_is_cited_that_the_repository_does_not_hold():
    """A source is an id of the reference page, a standard, common practice, or from memory."""
    lost = re.compile(r"domain (rule|section)", re.I)
    held = [p for p in SOURCES if lost.search(p.read_text(encoding="utf-8"))]

    assert held == []


def test_every_dependency_has_its_sentence():
    """The README's table names each run-time and development dependency."""
    text = (ROOT / "pyproject.toml").read_text(encoding="utf-8")
    readme = (ROOT / "README.md").read_text(encoding="utf-8").lower()
    names = re.findall(r'^\s+"([a-z0-9-]+)>=', text, flags=re.M)
    packages = json.loads((ROOT / "package.json").read_text(encoding="utf-8"))["devDependencies"]

    assert len(names) > 15
    assert [n for n in [*names, *packages] if n not in readme] == []


def test_lock_files_name_no_download_addresses():
    """Pinned with hashes, without where from."""
    for name in ("requirements.lock", "requirements-dev.lock", "package-lock.json"):
        text = (ROOT / name).read_text(encoding="utf-8")
        assert not re.search(
            r"https?://(?!.*(github\.com|opencollective|tidelift))[\w./-]*(pypi|npmjs|files\.)",
            text,
        ), name
        assert '"resolved"' not in text


def test_screenshots_are_linked():
    """Every committed picture is linked from the README, and there are under twenty."""
    readme = (ROOT / "README.md").read_text(encoding="utf-8")
    shots = [p.name for p in (ROOT / "docs/screenshots").glob("*.png")]

    assert 2 <= len(shots) < 20
    assert [s for s in shots if s not in readme] == []


def test_no_package_of_core_holds_more_than_a_quarter():
    """What grows above that is two things."""
    lines = {}
    for path in (ROOT / "greyfell/core").rglob("*.py"):
        package = path.relative_to(ROOT / "greyfell/core").parts[0]
        lines[package] = lines.get(package, 0) + len(path.read_text(encoding="utf-8").splitlines())

    assert max(lines.values()) <= sum(lines.values()) / 4


def test_an_import_inside_a_function_says_why():
    """docs/house.md names every module that does so, with its reason."""
    told = (ROOT / "docs/house.md").read_text(encoding="utf-8")
    for path in [*SOURCES, ROOT / "greyfell/cli.py"]:
        inside = [
            node
            for outer in tree(path).body
            if isinstance(outer, ast.FunctionDef | ast.ClassDef)
            for node in ast.walk(outer)
            if isinstance(node, ast.Import | ast.ImportFrom)
        ]
        name = str(path.relative_to(ROOT / "greyfell"))
        assert not inside or f"`{name}`" in told, name


STARTS_AT_ONCE = {
    "planner_kit/asking.py": "a plan without a piece needs no engine",
    "planner_kit/declare.py": "a plan without a piece needs no engine",
    "planners/starts.py": "a plan without a piece needs no engine",
    "dangers/rule.py": "a rig without a piece needs no engine",
    "dangers/of_row.py": "a rig without a piece needs no engine",
    "families/row.py": "a plan that asks a family's habit needs no models",
    "evidence/stores.py": "stores without a record need no models",
}
"""Files that import for types alone, and why; the contract against circles reads them all the
same.
"""


def test_nothing_else_is_imported_for_types_alone_in_core():
    """A circle under TYPE_CHECKING is a circle."""
    core = ROOT / "greyfell/core"
    found = {
        str(path.relative_to(core))
        for path in core.rglob("*.py")
        if "TYPE_CHECKING" in path.read_text(encoding="utf-8")
    }

    assert found == set(STARTS_AT_ONCE)


SOLVED = {
    *("dc_supply", "dc_routes", "valve_supply", "limiter", "lamp", "ballast"),
    *("ballast_bank", "series_capacitor", "breaker", "touch_map", "weld_match"),
}
"""Planners that solve, and need numpy for it."""


def test_a_plan_on_arithmetic_starts_without_engine_numpy_or_models(tmp_path):
    """Every planner's example by the command line, in one process, the lightest first."""
    order = sorted(PLANNERS, key=lambda name: (name in SOLVED, name))
    examples = {name: PLANNERS[name].example for name in order}
    for name, example in examples.items():
        (tmp_path / f"{name}.json").write_text(json.dumps(example))
    script = f"""
import sys
from greyfell.cli import main
for name in {order!r}:
    main(["plan", name, r"{tmp_path}/" + name + ".json"], standalone_mode=False)
    heavy = [m for m in ("numpy", "pydantic", "sqlalchemy") if m in sys.modules]
    print(name, *heavy, file=sys.stderr)
"""
    done = subprocess.run(
        [sys.executable, "-c", script], capture_output=True, text=True, check=True, cwd=ROOT
    )
    heavy = {line.split()[0]: line.split()[1:] for line in done.stderr.splitlines()}

    light = set(PLANNERS) - SOLVED
    assert len(light) > 25
    assert {name for name in light if heavy[name]} == set()
    assert "sqlalchemy" not in heavy[order[-1]]


def test_a_rig_starts_without_engine_or_models(tmp_path):
    """Solved, refused or not, with every failure: numpy alone."""
    (tmp_path / "rig.json").write_text(json.dumps(RIGS[0]))
    script = f"""
import sys
from greyfell.cli import main
main(["rig", "--failures", r"{tmp_path}/rig.json"], standalone_mode=False)
print(*[m for m in ("pydantic", "sqlalchemy", "greyfell.core.belief") if m in sys.modules], "end")
"""
    done = subprocess.run(
        [sys.executable, "-c", script], capture_output=True, text=True, check=True, cwd=ROOT
    )

    assert done.stdout.splitlines()[-1] == "end"


def test_no_constructor_takes_more_than_four_by_place():
    """What a fifth thing in a row means, nobody reads."""
    for path in SOURCES:
        for node in ast.walk(tree(path)):
            if isinstance(node, ast.Call) and len(node.args) > 4:
                name = ast.unparse(node.func).rpartition(".")[2].lstrip("_")
                assert not name[:1].isupper() or name.isupper(), f"{path.name}:{node.lineno}"


def test_the_server_starts_without_the_engine():
    """What every page but the first needs is imported when it is asked for; see docs/house.md."""
    script = "import sys, greyfell.cli, greyfell.web.app; print(*sys.modules)"
    done = subprocess.run(
        [sys.executable, "-c", script], capture_output=True, text=True, check=True, cwd=ROOT
    )
    loaded = set(done.stdout.split())

    assert "greyfell.web.app" in loaded
    assert loaded.isdisjoint({"numpy", "pydantic", "greyfell.core.identify"})


def test_every_address_has_its_view():
    """The table of addresses names functions that are there."""
    for place in ADDRESSES:
        assert callable(View(place.endpoint).answer), place.rule


ONE_IDEA = {
    "choke.py": "a choke: what pieces are like, and one that is planned",
    "high.py": "high voltage: whether it is ruled out, and what is said of it",
    "isolating.py": "what isolates: marks and taps, and the report of it",
    "lamp.py": "a lamp ahead of iron: read, solved, and planned",
    "load.py": "a loaded output: read, and what it will give",
    "loop.py": "amps round a loop: read, and what limits them",
    "mains.py": "mains: its volts, its transformers, where it stands",
    "metering.py": "which meter may touch what, and how it is planned",
    "path.py": "the path of many amps: volts read over its parts, and what it drops",
    "polarity.py": "which ends of two windings are alike: read, and judged",
    "readings.py": "what a meter shows of a simulated piece",
    "registry.py": "everything of a kind there is, by name",
    "salvage.py": "the gate of the capacitor: judged, and walked",
    "wire.py": "wire: its figures, and its planner",
    "graph.py": "points and what joins them",
}
"""File names that stand in two packages of core, and the idea they share."""
NOT_NAMES = ("told", "standing", "held", "kept", "gives", "worth")
"""Words that name no module."""


def modules_of_core():
    """Every module of core that is no package's own."""
    return [p for p in (ROOT / "greyfell/core").rglob("*.py") if p.name != "__init__.py"]


def test_no_two_files_of_core_share_a_name_without_an_idea():
    """Found by its name in one guess; and none is called by a word that says nothing."""
    names = Counter(path.name for path in modules_of_core())
    shared = {name for name, n in names.items() if n > 1}

    assert shared == set(ONE_IDEA)
    assert not {path.stem for path in modules_of_core()} & set(NOT_NAMES)


def test_no_two_classes_of_core_share_a_name():
    """What a planner is given and finds stands beside it, and what a test shows of it."""
    named = defaultdict(set)
    for path in modules_of_core():
        if path.parent.name != "planners":
            for node in ast.parse(path.read_text(encoding="utf-8")).body:
                if isinstance(node, ast.ClassDef):
                    named[node.name].add(path.relative_to(ROOT).as_posix())
    shared = {name: sorted(files) for name, files in named.items() if len(files) > 1}

    assert shared == SAME_CLASS


SAME_CLASS: dict[str, list[str]] = {}


WIDEST = 160
"""Columns of a template: what is longer nobody reads."""


@pytest.mark.parametrize(
    "template",
    sorted((ROOT / "greyfell/web/templates").glob("*.html")),
    ids=lambda path: path.name,
)
def test_no_line_of_a_template_is_longer_than_a_screen(template):
    """One element a line; a long sentence is broken where a blank stands."""
    lines = template.read_text(encoding="utf-8").splitlines()
    long = [f"{n}: {len(line)}" for n, line in enumerate(lines, 1) if len(line) > WIDEST]

    assert long == []


def asserted_all(tree):
    """Lines that assert `all(…)` of a row that may be empty."""
    for node in ast.walk(tree):
        if isinstance(node, ast.Assert) and isinstance(node.test, ast.Call):
            call = node.test
            made = call.args and isinstance(call.args[0], ast.GeneratorExp | ast.ListComp)
            if isinstance(call.func, ast.Name) and call.func.id == "all" and made:
                yield node.lineno


def test_no_test_holds_by_looking_at_nothing():
    """`every` of tests/conftest.py fails where there is nothing to look at; `all` does not."""
    found = [
        f"{path.relative_to(ROOT)}:{line}"
        for path in sorted((ROOT / "tests").rglob("*.py"))
        for line in asserted_all(ast.parse(path.read_text(encoding="utf-8")))
    ]

    assert found == []
    assert list(asserted_all(ast.parse("assert all(x for x in ())"))) == [1]
