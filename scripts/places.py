"""How many product files name one of a kind: a family, or a kind of reading. `make places`.

A file names it where a string literal is it, where a class or a constant is called by it, or where
it imports that class. Public enumerations, migrations and demo data do not count, nor do things of
another sort that only share the word.
"""

import ast
import re
import sys
from collections.abc import Iterator
from functools import cache
from pathlib import Path

ROOT = Path(__file__).parents[1]
PRODUCT = ROOT / "greyfell"
FAMILIES = ("sign", "microwave", "variable")
KINDS = ("test_turn", "insulation", "dc_drop")
MOST = {**dict.fromkeys(FAMILIES, 8), **dict.fromkeys(KINDS, 6)}
LEFT_OUT = ("evidence/record.py", "evidence/family_names.py", "records/versions/", "records/demo")
"""Public enumerations, migrations, demo data."""


OTHER_THINGS = {
    "sign": ("core/planners/nameplate.py",),  # a sort of plate, by its published key
    "insulation": (
        "core/chain/building.py",  # what an insulation bears
        "core/uses/catalogue.py",  # a use, by its published key
        "core/uses/wound_record.py",  # what a winding was insulated with
        "web/templates/rewinding.html",  # the same, asked
    ),
}
"""Files in which the word is neither the family nor the kind of reading."""


def names_in(tree: ast.AST) -> Iterator[str]:
    """Every string literal that is no docstring, every class, imported or declared, and every
    constant.
    """
    docs = {id(doc) for node in ast.walk(tree) for doc in _docstring(node)}
    for node in ast.walk(tree):
        if isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in docs:
            yield node.value
        elif isinstance(node, ast.ClassDef):
            yield node.name
        elif isinstance(node, ast.ImportFrom):
            yield from (alias.name for alias in node.names)
        elif isinstance(node, ast.Name) and node.id.isupper():
            yield node.id


def _docstring(node: ast.AST) -> Iterator[ast.AST]:
    """Strings that stand as statements: docstrings, and sentences under constants."""
    body = getattr(node, "body", None)
    for child in body if isinstance(body, list) else []:
        if isinstance(child, ast.Expr) and isinstance(child.value, ast.Constant):
            yield child.value


@cache
def _names_of(path: Path) -> frozenset[str]:
    return frozenset(names_in(ast.parse(path.read_text(encoding="utf-8"))))


def named(name: str) -> list[Path]:
    """Product files that name it."""
    words = name.split("_")
    camel = "".join(w.title() for w in words)
    exact = {name, name.upper(), camel}
    found = []
    for path in sorted(PRODUCT.rglob("*.py")):
        inside = path.relative_to(PRODUCT).as_posix()
        other = inside in OTHER_THINGS.get(name, ())
        if other or inside.removeprefix("core/").startswith(LEFT_OUT):
            continue
        if exact & _names_of(path):
            found.append(path.relative_to(ROOT))
    for path in sorted(PRODUCT.rglob("*.html")):
        if path.relative_to(PRODUCT).as_posix() in OTHER_THINGS.get(name, ()):
            continue
        if re.search(rf"[\"']{re.escape(name)}[\"']", path.read_text(encoding="utf-8")):
            found.append(path.relative_to(ROOT))
    return found


def main() -> int:
    """Prints the table; says by its status whether every name is within its bound."""
    beyond = 0
    for name, most in MOST.items():
        found = named(name)
        beyond += len(found) > most
        print(f"{name:12} {len(found):3} files, at most {most}")
        if "--files" in sys.argv:
            for path in found:
                print(f"    {path}")
    return int(beyond > 0)


if __name__ == "__main__":
    sys.exit(main())
