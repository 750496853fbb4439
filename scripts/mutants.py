"""Break the rules one at a time and see whether a test notices. Run: make mutants [N=60] [SEED=1]
[OWN=100 for a sample of the first kind]

A mutant is one change to one line of the core: a comparison flipped or its edge moved to the other
side, a sign turned, a constant halved or doubled. There is one for every comparison, sign and
constant of hazards, metering, gates, screening, faults, advice, the voltage model, what can hurt
and the fit of uses, and N more at random from anywhere in the core; rows of the belief tables,
which are expectations of the trade and not rules, are drawn and told apart. For each, the tests
that run the broken function are run, the quickest first, until one fails; where all pass, the
mutant survives and is told.

Which test runs what is measured once (coverage, a context a test) and kept in build/ until a file
changes.
"""

import ast
import compileall
import hashlib
import itertools
import json
import os
import py_compile
import random
import re
import shutil
import sqlite3
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from queue import SimpleQueue

import pytest

ROOT = Path(__file__).parents[1]
CORE = "greyfell/core"
OWN = (
    "figures/limits.py",
    "judgement/metering.py",
    "judgement/gates.py",
    "judgement/primary.py",
    "judgement/contradictions.py",
    "judgement/salvage.py",
    "judgement/isolating.py",
    "judgement/high.py",
    "judgement/screening.py",
    "judgement/verdict.py",
    "judgement/faults.py",
    "judgement/touches.py",
    "judgement/leaks.py",
    "judgement/odd_readings.py",
    "judgement/acts.py",
    "judgement/struck_stops.py",
    "judgement/rated_mains.py",
    "judgement/earthing.py",
    "judgement/charge.py",
    "judgement/rating.py",
    "judgement/shorts.py",
    "judgement/audit.py",
    "judgement/warm_runs.py",
    "bench/",
    "chain/",
    "steps/next_step.py",
    "belief/solution.py",
    "dangers/",
    "judgement/put_out.py",
    "lessons/hookup.py",
    "uses/fit.py",
)
"""Where every comparison, sign and constant is broken once."""
TABLES = ("belief/priors.py", "belief/clues.py", "families/")
"""Expectations of the trade: their rows are told apart."""
SUITE = ["tests/core", "tests/reference", "greyfell/core"]
TIMES = "GREYFELL_TEST_TIMES"
"""Names the file that the plugin writes the times to."""
FIRST = (
    "tests/core/test_thresholds.py",
    "tests/core/test_lines.py",
    "tests/core/test_hazards.py",
)
"""The tables of thresholds, lines and declarations: most mutants meet their end there, and they
load quickly."""
GUARD = re.compile(r"1e-(?:[6-9]|1\d|300)")
"""How a guard against division by nought is written: no rule, and left alone everywhere."""
WORKERS = 2
BY_HASH = py_compile.PycInvalidationMode.CHECKED_HASH
"""A file broken within the second it was written in must not run as it was."""
PATIENCE = 240
"""Seconds after which a mutant that hangs counts as noticed."""
FLIP = {ast.Lt: ">=", ast.LtE: ">", ast.Gt: "<=", ast.GtE: "<", ast.Eq: "!=", ast.NotEq: "=="}
EDGE = {ast.Lt: "<=", ast.LtE: "<", ast.Gt: ">=", ast.GtE: ">"}
SIGN = {ast.Add: "-", ast.Sub: "+"}


@dataclass(frozen=True)
class Mutant:
    """One change: the file, the lines of the function (or the name of the constant) it sits in,
    which source it replaces, by what.
    """

    path: str
    kind: str
    line: int
    start: int
    end: int
    before: str
    after: str
    functions: tuple[tuple[str, int, int], ...]

    def broken(self) -> str:
        """The file's text with the change in it."""
        text = (ROOT / self.path).read_bytes()
        return (text[: self.start] + self.after.encode() + text[self.end :]).decode()

    def __str__(self) -> str:
        return f"{self.path}:{self.line}: {self.kind}: {self.before} → {self.after}"


# ------------------------------------------------------------------ what can be broken


class Finder(ast.NodeVisitor):
    """Every place of a file where a comparison, sign or constant can be broken."""

    def __init__(self, path: str, names: "Names"):
        self.path = path
        self.names = names
        self.source = (ROOT / path).read_bytes()
        self.starts = [0]
        for line in self.source.splitlines(keepends=True):
            self.starts.append(self.starts[-1] + len(line))
        self.within: tuple[tuple[str, int, int], ...] = ()
        self.found: list[Mutant] = []

    def offset(self, line: int, column: int) -> int:
        return self.starts[line - 1] + column

    def add(self, kind: str, line: int, start: int, end: int, after: str) -> None:
        before = self.source[start:end].decode()
        mutant = Mutant(self.path, kind, line, start, end, before, after, self.within)
        self.found.append(mutant)

    def visit_Module(self, node: ast.Module) -> None:
        for statement in node.body:
            names = _assigned(statement)
            self.within = self.names.users(names) or ((self.path, 1, len(self.starts)),)
            self.visit(statement)

    def visit_FunctionDef(self, node: ast.FunctionDef) -> None:
        outer = self.within
        self.within = ((self.path, node.body[0].lineno, node.end_lineno or 0),)
        for statement in node.body:
            self.visit(statement)
        self.within = outer

    def visit_Expr(self, node: ast.Expr) -> None:
        if not isinstance(node.value, ast.Constant):
            self.generic_visit(node)

    def visit_Subscript(self, node: ast.Subscript) -> None:
        self.visit(node.value)

    def visit_FormattedValue(self, node: ast.FormattedValue) -> None:
        """Words are no rules."""

    def visit_AnnAssign(self, node: ast.AnnAssign) -> None:
        if node.value is not None:
            self.visit(node.value)

    def between(self, left: ast.expr, right: ast.expr, old: str) -> tuple[int, int]:
        """Where an operator stands between its two sides."""
        start = self.offset(left.end_lineno or 0, left.end_col_offset or 0)
        end = self.offset(right.lineno, right.col_offset)
        at = self.source.find(old.encode(), start, end)
        return at, at + len(old)

    def visit_Compare(self, node: ast.Compare) -> None:
        left = node.left
        for op, right in zip(node.ops, node.comparators, strict=True):
            for kind, table in (("flipped", FLIP), ("edge", EDGE)):
                after = table.get(type(op))
                if after is not None:
                    start, end = self.between(left, right, _symbol(op))
                    self.add(kind, right.lineno, start, end, after)
            left = right
        self.generic_visit(node)

    def visit_BinOp(self, node: ast.BinOp) -> None:
        after = SIGN.get(type(node.op))
        words = any(isinstance(x, ast.JoinedStr) for x in (node.left, node.right))
        if after is not None and not words:
            old = "+" if after == "-" else "-"
            start, end = self.between(node.left, node.right, old)
            self.add("sign", node.left.lineno, start, end, after)
        self.generic_visit(node)

    def visit_UnaryOp(self, node: ast.UnaryOp) -> None:
        if isinstance(node.op, ast.USub):
            start = self.offset(node.lineno, node.col_offset)
            self.add("sign", node.lineno, start, start + 1, " ")
        self.generic_visit(node)

    def visit_Constant(self, node: ast.Constant) -> None:
        value = node.value
        if isinstance(value, bool) or not isinstance(value, int | float) or value == 0:
            return
        start = self.offset(node.lineno, node.col_offset)
        end = self.offset(node.end_lineno or 0, node.end_col_offset or 0)
        for kind, factor in (("doubled", 2), ("halved", 0.5)):
            changed = value * factor
            after = int(changed) if isinstance(value, int) and changed == int(changed) else changed
            self.add(kind, node.lineno, start, end, repr(after))


def _symbol(op: ast.cmpop) -> str:
    symbols = {ast.Lt: "<", ast.LtE: "<=", ast.Gt: ">", ast.GtE: ">=", ast.Eq: "=="}
    return symbols.get(type(op), "!=")


def _assigned(statement: ast.stmt) -> set[str]:
    """Names that a statement at the top of a module gives."""
    targets: list[ast.expr] = []
    if isinstance(statement, ast.Assign):
        targets = statement.targets
    elif isinstance(statement, ast.AnnAssign):
        targets = [statement.target]
    return {x.id for t in targets for x in ast.walk(t) if isinstance(x, ast.Name)}


class Names:
    """Which functions of the program use a constant, by itself or through another constant."""

    def __init__(self, files: Iterable[str]):
        self.direct: dict[str, set[tuple[str, int, int]]] = {}
        self.through: dict[str, set[str]] = {}
        for path in files:
            self._read(path)

    def _read(self, path: str) -> None:
        for statement in ast.parse((ROOT / path).read_bytes()).body:
            given = _assigned(statement)
            for name in self._used(path, statement):
                if given:
                    self.through.setdefault(name, set()).update(given)

    def _used(self, path: str, node: ast.AST) -> set[str]:
        """Names at and below a node; those of each function are put down on the way."""
        if isinstance(node, ast.Name):
            return {node.id}
        names = {node.attr} if isinstance(node, ast.Attribute) else set()
        for child in ast.iter_child_nodes(node):
            names |= self._used(path, child)
        if isinstance(node, ast.FunctionDef):
            place = (path, node.body[0].lineno, node.end_lineno or 0)
            for name in names:
                self.direct.setdefault(name, set()).add(place)
        return names

    def users(self, names: set[str]) -> tuple[tuple[str, int, int], ...]:
        """Functions that use any of these names."""
        todo, seen = list(names), set(names)
        while todo:
            for other in self.through.get(todo.pop(), set()) - seen:
                seen.add(other)
                todo.append(other)
        return tuple(sorted({f for name in seen for f in self.direct.get(name, set())}))


def program() -> list[str]:
    """Every file of the program."""
    return sorted(str(p.relative_to(ROOT)) for p in (ROOT / "greyfell").rglob("*.py"))


def all_mutants(files: list[str] | None = None) -> list[Mutant]:
    """Every mutant of the core, or of the files given."""
    files = files or program()
    names = Names(files)
    found: list[Mutant] = []
    for path in files:
        if path.startswith(CORE):
            finder = Finder(path, names)
            finder.visit(ast.parse(finder.source))
            found += (m for m in finder.found if not GUARD.fullmatch(m.before))
    return found


def _in(mutant: Mutant, places: tuple[str, ...]) -> bool:
    return any(mutant.path.startswith(f"{CORE}/{place}") for place in places)


def own_mutants(rng: random.Random) -> list[Mutant]:
    """One mutant for every comparison, sign and constant of the rules: which, by chance."""
    places: dict[tuple[str, int], list[Mutant]] = {}
    for mutant in all_mutants():
        if _in(mutant, OWN) and mutant.kind != "edge":
            places.setdefault((mutant.path, mutant.start), []).append(mutant)
    return [rng.choice(mutants) for mutants in places.values()]


def random_mutants(rng: random.Random, n: int) -> tuple[list[Mutant], list[Mutant]]:
    """So many from anywhere in the core, and a sixth as many from the belief tables."""
    found = all_mutants()
    rows = [m for m in found if _in(m, TABLES) and not _inside_function(m)]
    rules = [m for m in found if m not in set(rows)]
    return rng.sample(rules, min(n, len(rules))), rng.sample(rows, min(n // 6, len(rows)))


def _inside_function(mutant: Mutant) -> bool:
    return (
        len(mutant.functions) == 1
        and mutant.functions[0][0] == mutant.path
        and (mutant.functions[0][1] <= mutant.line <= mutant.functions[0][2])
    )


# ------------------------------------------------------------------ which tests run what


class Covering:
    """Which tests run which lines, and how long each takes."""

    def __init__(self, lines: dict[str, dict[str, list[int]]], seconds: dict[str, float]):
        self.lines = lines
        self.seconds = seconds

    @classmethod
    def measured(cls) -> "Covering":
        """Measured now, or as it was kept for these very files."""
        kept = ROOT / "build" / f"covering-{_state()}.json"
        if not kept.exists():
            kept.parent.mkdir(exist_ok=True)
            kept.write_text(json.dumps(_measure()))
        told = json.loads(kept.read_text())
        return cls(told["lines"], told["seconds"])

    def of(self, mutant: Mutant) -> list[str]:
        """Tests that run a function the mutant is in, the quickest first."""
        found = set()
        for path, first, last in mutant.functions:
            for test, lines in self.lines.get(path, {}).items():
                if any(first <= line <= last for line in lines):
                    found.add(test)
        return sorted(found, key=lambda test: self.seconds.get(test, 1.0))


def _state() -> str:
    """A mark of everything that decides which test runs what."""
    files = [*(ROOT / "greyfell").rglob("*.py"), *(ROOT / "tests").rglob("*.py")]
    mark = hashlib.sha256()
    for path in sorted(files):
        mark.update(path.read_bytes())
    return mark.hexdigest()[:16]


def _measure() -> dict[str, object]:
    """Run the suite once, this module as its plugin, with a context for every test."""
    print("Measuring which test runs what, once …", flush=True)
    with tempfile.TemporaryDirectory() as folder:
        data, times = (Path(folder) / x for x in ("data", "times.json"))
        command = [sys.executable, "-m", "coverage", "run", f"--data-file={data}"]
        command += ["--source=greyfell/core", "-m", "pytest", "-q", "-p", "no:cacheprovider"]
        command += ["-p", "no:xdist", "-p", Path(__file__).stem, *SUITE]
        paths = os.pathsep.join([str(Path(__file__).parent), os.environ.get("PYTHONPATH", "")])
        environment = {**os.environ, "PYTHONPATH": paths, TIMES: str(times)}
        done = subprocess.run(
            command, cwd=ROOT, env=environment, check=False, capture_output=True, text=True
        )
        if done.returncode != 0:
            sys.exit(f"The suite does not pass as it is:\n{done.stdout[-2000:]}")
        return {"lines": _contexts(data), "seconds": json.loads(times.read_text())}


def pytest_runtest_logstart(nodeid: str) -> None:
    """As a plugin: what runs from here on is this test's."""
    import coverage

    measuring = coverage.Coverage.current()
    if measuring is not None:
        measuring.switch_context(nodeid.partition("[")[0])


_spent: dict[str, float] = {}


def pytest_runtest_logreport(report: pytest.TestReport) -> None:
    """As a plugin: how long each test function took."""
    test = report.nodeid.partition("[")[0]
    _spent[test] = _spent.get(test, 0.0) + report.duration


def pytest_sessionfinish() -> None:
    """As a plugin: hand the times over."""
    if TIMES in os.environ:
        Path(os.environ[TIMES]).write_text(json.dumps(_spent))


def _contexts(data: Path) -> dict[str, dict[str, list[int]]]:
    """Lines by file and test."""
    from coverage.numbits import numbits_to_nums

    out: dict[str, dict[str, list[int]]] = {}
    with sqlite3.connect(data) as db:
        rows = db.execute(
            "SELECT file.path, context.context, line_bits.numbits FROM line_bits "
            "JOIN file ON file.id = line_bits.file_id "
            "JOIN context ON context.id = line_bits.context_id"
        )
        for path, context, bits in rows:
            if context:
                short = str(Path(path).relative_to(ROOT))
                out.setdefault(short, {})[context] = numbits_to_nums(bits)
    return out


# ------------------------------------------------------------------ the run


class Benches:
    """Copies of the tree to break, one a worker."""

    def __init__(self, folder: Path, workers: int):
        self.free: SimpleQueue[Path] = SimpleQueue()
        for n in range(workers):
            copy = folder / str(n)
            for part in ("greyfell", "tests", "docs", "scripts"):
                shutil.copytree(ROOT / part, copy / part, ignore=shutil.ignore_patterns("*.pyc"))
            for part in ("pyproject.toml", "README.md", "CHANGELOG.md"):
                shutil.copy(ROOT / part, copy / part)
            compileall.compile_dir(copy / "greyfell", quiet=2, invalidation_mode=BY_HASH)
            self.free.put(copy)

    def prove(self, covering: Covering) -> None:
        """Every test must pass where nothing is broken: else all would count as noticed."""
        copy = self.free.get()
        if not _passes(copy, sorted(covering.seconds)):
            sys.exit("The tests do not pass on an unbroken copy.")
        self.free.put(copy)

    def survives(self, mutant: Mutant, tests: list[str]) -> bool:
        """Whether no test notices."""
        if not tests:
            return True
        # a declaration may be tested without a function that reads it
        stages = ([t for t in tests if t.startswith(FIRST)], tests, [*FIRST])
        copy = self.free.get()
        target = copy / mutant.path
        kept = target.read_text(encoding="utf-8")
        try:
            target.write_text(mutant.broken(), encoding="utf-8")
            return all(_passes(copy, stage) for stage in stages if stage)
        finally:
            target.write_text(kept, encoding="utf-8")
            self.free.put(copy)


def _passes(copy: Path, tests: list[str]) -> bool:
    flags = ["-x", "-q", "-p", "no:cacheprovider", "-p", "no:xdist", "--tb=no"]
    command = [sys.executable, "-B", "-m", "pytest", *flags, *tests]
    threads = dict.fromkeys(("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS"), "1")
    environment = {**os.environ, **threads, "PYTHONPATH": str(copy)}
    try:
        done = subprocess.run(
            command, cwd=copy, env=environment, capture_output=True, timeout=PATIENCE, check=False
        )
    except subprocess.TimeoutExpired:
        return False
    return done.returncode == 0


def tell(title: str, mutants: list[Mutant], covering: Covering, benches: Benches) -> None:
    """Break each, and say what survived."""
    started = time.monotonic()
    alive = 0
    with ThreadPoolExecutor(WORKERS) as pool:
        lives = pool.map(lambda m: benches.survives(m, covering.of(m)), mutants)
        for mutant in itertools.compress(mutants, lives):
            alive += 1
            print(f"  survives: {mutant}", flush=True)
    minutes = (time.monotonic() - started) / 60
    print(f"{title}: {alive} of {len(mutants)} survive ({minutes:.1f} min)", flush=True)


def main(n: int, seed: int, own_at_most: int) -> None:
    """Own mutants, random ones, and rows of the belief tables."""
    rng = random.Random(seed)
    own = own_mutants(rng)
    own = rng.sample(own, min(own_at_most, len(own)))
    rules, rows = random_mutants(rng, n)
    covering = Covering.measured()
    with tempfile.TemporaryDirectory() as folder:
        benches = Benches(Path(folder), WORKERS)
        benches.prove(covering)
        tell("every threshold and sign of the rules", own, covering, benches)
        tell(f"at random (seed {seed})", rules, covering, benches)
        tell("rows of belief tables", rows, covering, benches)


if __name__ == "__main__":
    main(*(int(os.environ.get(k, d)) for k, d in (("N", "60"), ("SEED", "1"), ("OWN", "9999"))))
