"""Figures that no source gives, sealed: a change to one of them shows somewhere here. Where it was
meant, seal anew (`python -m tests.core.sealing`) and say in the change why figures moved.
"""

import json

import pytest

from tests.core.sealing import FILE, PARTS, made

SEALED = json.loads(FILE.read_text(encoding="utf-8"))
NEAR = 5e-4
"""How far, as a share, a figure may move: another machine's rounding, and nothing else."""


def moved(was, found, path=""):
    """Where what is found differs from what was sealed, in words."""
    if isinstance(was, dict) and isinstance(found, dict):
        for key in sorted({*was, *found}):
            yield from moved(was.get(key), found.get(key), f"{path}/{key}")
    elif isinstance(was, list) and isinstance(found, list) and len(was) == len(found):
        for n, (a, b) in enumerate(zip(was, found, strict=True)):
            yield from moved(a, b, f"{path}/{n}")
    elif isinstance(was, float | int) and isinstance(found, float | int):
        if was != pytest.approx(found, rel=NEAR, abs=1e-5):
            yield f"{path}: {was} was sealed, {found} is found"
    elif was != found:
        yield f"{path}: {was} was sealed, {found} is found"


@pytest.mark.parametrize("part", PARTS)
def test_no_figure_has_moved(part):
    """Conclusions of kept records, figures of simulated ones, planners' own examples."""
    now = json.loads(json.dumps(made(part)))

    assert list(moved(SEALED[part], now)) == []


def test_every_part_is_sealed():
    """No part without its seal, no seal without its part."""
    assert list(SEALED) == list(PARTS)


def test_a_figure_that_moves_is_told():
    """By where it stands, what it was and what it is; a missing one too."""
    was, found = {"a": [1.0, 2.0], "b": "x"}, {"a": [1.0, 2.1]}

    assert list(moved(was, found)) == [
        "/a/1: 2.0 was sealed, 2.1 is found",
        "/b: x was sealed, None is found",
    ]
    assert list(moved(was, was)) == []
