"""Figures that no source gives, sealed: a change to one of them shows somewhere here. Where it was
meant, seal anew (`python -m tests.core.sealing`) and say in the change why figures moved.
"""

import json

import pytest

from tests.core.sealing import FILE, PARTS, made

SEALED = json.loads(FILE.read_text(encoding="utf-8"))
NEAR = 5e-4
"""How far, as a share, a figure may move: another machine's rounding, and nothing else."""


MOST = 20_000
"""More figures than these nobody reads."""


def moved(was, found):
    """What is found that differs from what was sealed, by name."""
    for name in sorted({*was, *found}):
        old, new = was.get(name), found.get(name)
        if is_figure(old) and is_figure(new):
            same = old == pytest.approx(new, rel=NEAR, abs=1e-5)
        else:
            same = old == new and type(old) is type(new)
        if not same:
            yield f"{name}: {old} was sealed, {new} is found"


def is_figure(value):
    """Whether it may move by another machine's rounding."""
    return isinstance(value, float | int) and not isinstance(value, bool)


def of_part(part):
    """What is sealed of one part."""
    return {name: value for name, value in SEALED.items() if name.startswith(f"{part}/")}


@pytest.mark.parametrize("part", PARTS)
def test_no_figure_has_moved(part):
    """Conclusions of kept records, figures of simulated ones, planners' own examples."""
    now = json.loads(json.dumps(made(part)))

    assert now
    assert list(moved(of_part(part), now)) == []


def test_every_part_is_sealed_figure_by_figure():
    """One figure a line, no more than can be read, each of a part that is still made."""
    lines = FILE.read_text(encoding="utf-8").splitlines()

    assert len(lines) == len(SEALED) + 2
    assert len(SEALED) <= MOST
    assert {name.partition("/")[0] for name in SEALED} == set(PARTS)
    assert not [name for name, value in SEALED.items() if isinstance(value, dict | list)]


def test_a_figure_that_moves_is_told():
    """By its name, what it was and what it is; a missing one too."""
    was, found = {"a/0": 1.0, "a/1": 2.0, "b": "x"}, {"a/0": 1.0, "a/1": 2.1}

    assert list(moved(was, found)) == [
        "a/1: 2.0 was sealed, 2.1 is found",
        "b: x was sealed, None is found",
    ]
    assert list(moved(was, was)) == []
    assert list(moved({"a": True}, {"a": 1.0})) == ["a: True was sealed, 1.0 is found"]
