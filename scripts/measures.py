"""What the house looks like in figures: places to touch, long functions, docstrings.

Run: make measures. Counted over the product by its syntax trees. A function's tokens are those of
its source without comments and docstrings. A function returns figures where its return is annotated
as a float, a Quantity, or some of them.
"""

import ast
import io
import re
import sys
import tokenize
from collections.abc import Iterator
from pathlib import Path

from places import MOST, named

ROOT = Path(__file__).parents[1]
PRODUCT = ROOT / "greyfell"
LONG = 250
"""Tokens from which a function is long."""
BEFORE = {
    "functions over 250 tokens": "5.8 %",
    "figures with units": "70 %",
    "figures with a source": "25 %",
    "figures with an example": "27 %",
    "files that name sign": "33",
    "files that name test_turn": "24",
    "files of core that share a name": "45",
    "classes of core that share a name": "48",
    "lines of templates over 160 columns": "129",
}
"""The same as the review counted them, at d2044dc."""
FIGURES = re.compile(r"\b(?:float|Quantity|Figures)\b")
UNITS = re.compile(
    r"(?<![A-Za-z])(?:[mkµMG]?(?:V|A|Ω|W|H|F|Hz|VA|J|T|Wb|N)|s|mm²?|m|kg|°C|K|nats|decibans"
    r"|volts|amps|ohms|watts|henries|farads|hertz|joules|tesla|seconds|minutes|kelvin|turns|metres"
    r"|per cent|share|chance|ratio|times|logarithm|per unit|points|degrees|millimetres|kilograms"
    r")(?![A-Za-z])",
    re.I,
)
SOURCE = re.compile(
    r"REF-|IEC|JCGM|NFPA|M-T|R-T|M-\d|[Cc]ommon practice|[Hh]ouse rule|[Ff]rom memory|law|Bayes|"
    r"Kirchhoff|Newton|Hamming|Brier|[Dd]efinition|Shannon|Fritsch|Ohm's|Geometry|Pythagoras"
)


def functions() -> Iterator[tuple[Path, ast.FunctionDef, list[str]]]:
    """Every function of the product, with the lines of its file."""
    for path in sorted(PRODUCT.rglob("*.py")):
        text = path.read_text(encoding="utf-8")
        for node in ast.walk(ast.parse(text)):
            if isinstance(node, ast.FunctionDef):
                yield path, node, text.splitlines(keepends=True)


def tokens(node: ast.FunctionDef, lines: list[str]) -> int:
    """Tokens of a function without its docstring and its comments."""
    body = lines[node.lineno - 1 : node.end_lineno]
    inside = "".join(body)
    said = ast.get_docstring(node, clean=False) or ""
    shift = len(body[0]) - len(body[0].lstrip())
    source = "".join(line[shift:] if line.strip() else line for line in body)
    count = 0
    try:
        for token in tokenize.generate_tokens(io.StringIO(source).readline):
            if token.type in (tokenize.NAME, tokenize.NUMBER, tokenize.OP, tokenize.STRING):
                count += said == "" or said not in token.string
    except tokenize.TokenError:
        return len(inside.split())
    return count


def public() -> Iterator[tuple[Path, ast.FunctionDef]]:
    """Every public function and method of core; those within a function are its own affair."""
    for path in sorted((PRODUCT / "core").rglob("*.py")):
        body = ast.parse(path.read_text(encoding="utf-8")).body
        within = [x for node in body if isinstance(node, ast.ClassDef) for x in node.body]
        for node in (*body, *within):
            if isinstance(node, ast.FunctionDef) and not node.name.startswith("_"):
                yield path, node


def reckons(node: ast.FunctionDef) -> bool:
    """Whether a function works a figure out: a product, a quotient, a power, a mathematical
    function. One that hands over what is stored has no formula that a source could be named for.
    """
    for part in ast.walk(node):
        if isinstance(part, ast.BinOp) and isinstance(part.op, ast.Mult | ast.Div | ast.Pow):
            return True
        called = part.func if isinstance(part, ast.Call) else None
        if isinstance(called, ast.Attribute) and _mathematical(called):
            return True
    return False


def _mathematical(called: ast.Attribute) -> bool:
    library = called.value.id if isinstance(called.value, ast.Name) else ""
    return library in ("math", "np", "cmath") and called.attr not in NO_FORMULA


NO_FORMULA = ("array", "asarray", "zeros", "ones", "where", "isfinite", "isinf")
"""What only makes or looks at figures."""


def told() -> dict[str, str]:
    """The table, counted now."""
    counted = [tokens(node, lines) for _, node, lines in functions()]
    giving = [
        node
        for _, node in public()
        if node.returns is not None and FIGURES.search(ast.unparse(node.returns))
    ]
    figures = [ast.get_docstring(node) or "" for node in giving]
    formulas = [ast.get_docstring(node) or "" for node in giving if reckons(node)]
    core = [p for p in (PRODUCT / "core").rglob("*.py") if p.name != "__init__.py"]
    names = [p.name for p in core]
    classes: dict[str, set[Path]] = {}
    for path in core:
        if path.parent.name != "planners":
            for node in ast.parse(path.read_text(encoding="utf-8")).body:
                if isinstance(node, ast.ClassDef):
                    classes.setdefault(node.name, set()).add(path)
    wide = [
        line
        for path in (PRODUCT / "web/templates").glob("*.html")
        for line in path.read_text(encoding="utf-8").splitlines()
        if len(line) > 160
    ]
    return {
        "functions over 250 tokens": share(sum(n > LONG for n in counted), len(counted)),
        "figures with units": share(sum(bool(UNITS.search(x)) for x in figures), len(figures)),
        "figures with a source": share(sum(bool(SOURCE.search(x)) for x in figures), len(figures)),
        "figures with an example": share(sum(">>>" in x for x in figures), len(figures)),
        "formulas with a source": share(
            sum(bool(SOURCE.search(x)) for x in formulas), len(formulas)
        ),
        "formulas with an example": share(sum(">>>" in x for x in formulas), len(formulas)),
        **{f"files that name {name}": str(len(named(name))) for name in MOST},
        "files of core that share a name": str(sum(names.count(n) > 1 for n in set(names))),
        "classes of core that share a name": str(sum(len(x) > 1 for x in classes.values())),
        "lines of templates over 160 columns": str(len(wide)),
    }


def share(some: int, of: int) -> str:
    """So many of so many, in per cent."""
    return f"{100 * some / of:.1f} % of {of:,}"


def main() -> int:
    """Prints the table, before and now."""
    print(f"{'':38} {'review':>8}   now")
    for what, now in told().items():
        print(f"{what:38} {BEFORE.get(what, ''):>8}   {now}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
