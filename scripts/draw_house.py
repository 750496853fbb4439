"""Draw the packages of the program with their arrows: docs/house.svg, from the imports themselves.

A box is a package of the core, or a part above it; it stands one floor above the highest thing it
imports. An arrow is an import that no other arrow implies. Run: python
scripts/draw_house.py [--check]
"""

import ast
import sys
from collections import defaultdict
from graphlib import TopologicalSorter
from pathlib import Path
from xml.sax.saxutils import escape

ROOT = Path(__file__).parents[1]
TARGET = ROOT / "docs" / "house.svg"
WIDTH, HEIGHT, GAP, RISE, MARGIN = 132, 36, 26, 78, 24
"""Size of a box, the gap beside it, the rise of a floor, the margin; px."""


def part_of(module):
    """The box that a module stands in: a package of the core, or records, web, drawings, cli."""
    names = module.split(".")
    if names[:3] == ["greyfell", "web", "drawings"]:
        return "drawings"
    if names[:2] == ["greyfell", "core"]:
        return names[2] if len(names) > 2 else None
    return names[1] if len(names) > 1 else None


def modules():
    """Every module with its source."""
    for path in sorted((ROOT / "greyfell").rglob("*.py")):
        if "versions" not in path.parts:
            name = ".".join(path.relative_to(ROOT).with_suffix("").parts)
            yield name.removesuffix(".__init__"), path.read_text(encoding="utf-8")


def imported(source):
    """Names of modules that a source imports, wherever in it."""
    for node in ast.walk(ast.parse(source)):
        if isinstance(node, ast.ImportFrom) and node.module:
            yield node.module
            yield from (f"{node.module}.{alias.name}" for alias in node.names)
        elif isinstance(node, ast.Import):
            yield from (alias.name for alias in node.names)


def house():
    """Every box with what it imports."""
    below = {}
    for name, source in modules():
        part = part_of(name)
        if part is None:
            continue
        below.setdefault(part, set())
        for other in imported(source):
            target = part_of(other) if other.startswith("greyfell.") else None
            if target is not None and target != part:
                below[part].add(target)
    return {part: found & below.keys() for part, found in below.items()}


def floors(below):
    """The floor of every box: nought where it imports nothing. Raises CycleError on a circle."""
    at = {}
    for part in TopologicalSorter(below).static_order():
        at[part] = 1 + max((at[x] for x in below[part]), default=-1)
    return at


def bare(below):
    """Arrows that no other arrows imply."""

    def reach(part):
        return set().union(*({x} | reach(x) for x in below[part]))

    return {
        part: {x for x in found if not any(x in reach(y) for y in found if y != x)}
        for part, found in below.items()
    }


def draw():
    """The drawing as SVG."""
    below = house()
    at = floors(below)
    rows = defaultdict(list)
    for part in sorted(at):
        rows[at[part]].append(part)
    top = max(rows)
    wide = max(len(row) for row in rows.values())
    width = 2 * MARGIN + wide * WIDTH + (wide - 1) * GAP
    height = 2 * MARGIN + top * RISE + HEIGHT
    places = {}
    for floor, row in rows.items():
        left = (width - len(row) * WIDTH - (len(row) - 1) * GAP) / 2
        for n, part in enumerate(row):
            places[part] = (left + n * (WIDTH + GAP), MARGIN + (top - floor) * RISE)
    out = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {width} {height}" '
        'font-family="sans-serif" font-size="14">',
        "<title>The packages of the program and what each imports</title>",
        f'<rect width="{width}" height="{height}" fill="#fff"/>',
        '<defs><marker id="tip" viewBox="0 0 8 8" refX="7" refY="4" markerWidth="7" '
        'markerHeight="7" orient="auto"><path d="M0 0 8 4 0 8z" fill="#555"/></marker></defs>',
    ]
    for part, found in sorted(bare(below).items()):
        for other in sorted(found):
            out.append(arrow(places[part], places[other]))
    for part, (x, y) in sorted(places.items()):
        out += box(part, x, y)
    return "\n".join([*out, "</svg>", ""])


def arrow(above, under):
    """An arrow from the foot of one box to the head of another."""
    x1, y1 = above[0] + WIDTH / 2, above[1] + HEIGHT
    x2, y2 = under[0] + WIDTH / 2, under[1]
    bend = (y2 - y1) / 2
    path = f"M{x1:g} {y1:g} C{x1:g} {y1 + bend:g} {x2:g} {y2 - bend:g} {x2:g} {y2:g}"
    return f'<path d="{path}" fill="none" stroke="#555" marker-end="url(#tip)"/>'


def box(part, x, y):
    """A box with its name."""
    return [
        f'<rect x="{x:g}" y="{y:g}" width="{WIDTH}" height="{HEIGHT}" rx="4" fill="#f4f1ea" '
        'stroke="#333"/>',
        f'<text x="{x + WIDTH / 2:g}" y="{y + 23:g}" text-anchor="middle">{escape(part)}</text>',
    ]


def main():
    text = draw()
    if "--check" in sys.argv:
        if not TARGET.exists() or TARGET.read_text(encoding="utf-8") != text:
            sys.exit(f"{TARGET} is stale: run python scripts/draw_house.py")
    else:
        TARGET.write_text(text, encoding="utf-8")


if __name__ == "__main__":
    main()
