"""What stands in the stores: every kind by its declaration, found by typing, told in a few words,
and the open format that holds it.
"""

import json
from pathlib import Path

import jsonschema
import pytest

from greyfell.core.errors import FieldError
from greyfell.core.evidence import stores
from greyfell.core.evidence.stores import KINDS, as_meter, parse_item, parse_stores, short_list
from greyfell.core.judgement.rating import rating
from greyfell.web.drawings.parts import PARTS, part

SCHEMA = Path(__file__).parents[2] / "docs/format/stores-1.schema.json"
VALIDATOR = jsonschema.Draft202012Validator(json.loads(SCHEMA.read_text(encoding="utf-8")))


def value_of(figure):
    """A value that a figure takes."""
    if figure.choices:
        return figure.choices[0]
    if figure.dated:
        return "2026-05-01"
    return "some words" if figure.words else 0.1 * figure.most


def example(kind):
    """An entry of a kind with every figure at a tenth of its bound, or its first choice."""
    figures = {f.key: value_of(f) for f in kind.figures}
    return {"id": "s1", "kind": kind.key, "title": "a thing", "count": 2, **figures}


def bounds():
    """Every figure that is a number."""
    return [(k, f) for k in KINDS for f in k.figures if not f.is_text]


@pytest.mark.parametrize("kind", KINDS, ids=lambda k: k.key)
def test_every_kind_is_kept_drawn_and_in_the_schema(kind):
    """Written, it validates; read back, it is the same; it has a drawing of its own."""
    item = parse_item(example(kind))
    document = stores.stores_document([item])

    VALIDATOR.validate(document)
    assert [i.as_json() for i in parse_stores(document)] == [item.as_json()]
    assert len(item.told) == len(kind.figures)
    assert kind.figure(kind.lead) is not None
    assert part(kind.key).shapes
    assert sum(PARTS[kind.key] == other for other in PARTS.values()) == 1


@pytest.mark.parametrize(("kind", "figure"), bounds(), ids=lambda x: getattr(x, "key", None))
def test_a_figure_is_refused_beyond_its_bounds(kind, figure):
    """Nought, below it, beyond the most, and what is no number: by its key, in the schema too."""
    for bad in (0.0, -1.0, 1.01 * figure.most, "much", True):
        document = {**example(kind), figure.key: bad}
        with pytest.raises(FieldError) as refused:
            parse_item(document)
        assert refused.value.field == figure.key
        whole = {"format": stores.FORMAT, "items": [document]}
        assert not VALIDATOR.is_valid(whole)
    assert parse_item({**example(kind), figure.key: 0.99 * figure.most})


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"kind": "gauge"}, "kind"),
        ({"watts": None}, "watts"),
        ({"count": -1}, "count"),
        ({"count": 2.5}, "count"),
        ({"count": stores.MOST_COUNT + 1}, "count"),
        ({"title": "x" * (stores.MOST_WORDS + 1)}, "title"),
        ({"note": 5}, "note"),
    ],
)
def test_what_is_no_entry_is_refused_by_its_key(change, field):
    lamp = {"id": "s1", "kind": "lamp", "title": "clear", "watts": 40.0}
    with pytest.raises(FieldError) as refused:
        parse_item({**lamp, **change})
    assert refused.value.field == field


def test_words_are_of_those_that_are_known():
    breaker = {"id": "s1", "kind": "breaker", "amps": 16.0, "curve": "Q"}
    with pytest.raises(FieldError, match="one of B, C, D"):
        parse_item(breaker)


def test_a_document_is_all_or_nothing_and_names_the_entry():
    """The second of three is wrong: said so, and none is taken."""
    lamp = {"kind": "lamp", "watts": 40.0}
    bad = {"format": stores.FORMAT, "items": [lamp, {"kind": "lamp"}, lamp]}
    with pytest.raises(FieldError, match="Entry 2") as refused:
        parse_stores(bad)

    assert refused.value.field == "items.1.watts"
    for document in ({}, {"format": stores.FORMAT}, {"format": "x", "items": []}, []):
        with pytest.raises(FieldError):
            parse_stores(document)


def test_unknown_keys_are_kept_and_written_back():
    item = parse_item({"id": "s1", "kind": "lamp", "watts": 40.0, "shelf": "third"})

    assert item.as_json()["shelf"] == "third"


def test_what_a_planner_may_draw_on_is_told_in_a_few_words():
    """Numbers in order, the unit once; none of what is used up or put aside; words as they are."""
    items = [
        parse_item({"id": str(w), "kind": "lamp", "watts": w, **more})
        for w, more in (
            (100.0, {}),
            (40.0, {}),
            (7.5, {}),
            (60.0, {"count": 0}),
            (25.0, {"gone": "broken"}),
        )
    ]
    resistors = [
        parse_item({"id": "a", "kind": "resistor", "ohms": 1e4}),
        parse_item({"id": "b", "kind": "resistor", "ohms": 470.0}),
    ]

    assert short_list(items, "lamp") == "lamps: 7.5, 40, 100 W"
    assert short_list(resistors, "resistor") == "resistors: 470 Ω, 10 kΩ"
    assert short_list(items, "fuse") == ""


def test_a_meter_of_the_stores_has_the_ratings_of_a_record():
    """What its label says decides what it may touch; nothing is filled in."""
    pocket = {"id": "s1", "kind": "meter", "title": "pocket", "category": "CAT III"}
    full = as_meter(parse_item({**pocket, "max_volts_ac": 600.0, "input_ohms": 1e7}))
    bare = as_meter(parse_item(pocket))

    assert (full.id, full.title, full.category) == ("s1", "pocket", "CAT III")
    assert rating(full) == 600.0
    assert bare.max_volts_ac is None


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"id": "a b"}, "id"),
        ({"id": "../x"}, "id"),
        ({"max_volts_ac": 1e-12}, "max_volts_ac"),
        ({"input_ohms": 1e-12}, "input_ohms"),
    ],
)
def test_a_meter_that_no_record_could_hold_is_refused(change, field):
    """Else every piece that it stands beside would not open."""
    with pytest.raises(FieldError) as refused:
        parse_item({"id": "s1", "kind": "meter", "title": "pocket", **change})

    assert refused.value.field == field
