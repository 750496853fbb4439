"""The number pad of the bench card: what it sends is a line that the jotter understands."""

from functools import cache

import pytest

from greyfell.core.evidence.jotter import read_line
from greyfell.core.evidence.kinds.registry import EVERY
from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.core.steps.next_step import next_steps
from greyfell.core.steps.number_pad import line_of, pad_of
from greyfell.records.demo import demo_documents


@cache
def steps():
    """Every next step of the demo's pieces: tag, step, leads."""
    return [
        (document["tag"], step, [lead["id"] for lead in document["leads"]])
        for document in demo_documents()
        for step in next_steps(identify(parse_record(document)))
    ]


def test_every_step_that_begins_a_line_has_its_pad():
    """And one that begins none has none."""
    for tag, step, _ in steps():
        assert (pad_of(step) is not None) == bool(step.jotter), (tag, step.title)


def test_every_key_of_every_step_gives_a_line_that_is_understood():
    """Each unit with a figure, each word, on every step that the demo's pieces ask for."""
    seen = set()
    for _, step, leads in steps():
        pad = pad_of(step)
        if pad is None:
            continue
        keys = [("1.5", typed) for _, typed in pad.units] + [(word, "") for _, word in pad.words]
        for figure, suffix in keys:
            jotted = read_line(line_of(step, "", figure, suffix), leads, 230.0)
            assert jotted.reading["kind"] == step.kind
        seen.add(step.kind)

    assert seen >= {"resistance", "ratio", "inductance", "dc_drop", "polarity", "lamp"}


@pytest.mark.parametrize("kind", [k for k in EVERY if k.pad is not None])
def test_no_pad_is_empty(kind):
    """A key at least, each by its own words."""
    shown = [words for words, _ in (*kind.pad.units, *kind.pad.words)]

    assert shown
    assert len(set(shown)) == len(shown)
