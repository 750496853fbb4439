"""Readings as a table: out without loss, in from what spreadsheets write."""

import pytest

from greyfell.core.errors import FieldError
from greyfell.core.evidence.parse import parse_record
from greyfell.core.exchange.table import as_table, columns, rows_of
from greyfell.records.demo import demo_documents
from tests.conftest import every, piece

PLAIN = piece("ABCD")


def test_every_reading_of_the_demo_comes_back_as_it_went():
    """304 readings of every piece: all known again, and without them all understood alike."""
    for document in demo_documents():
        record = parse_record(document)
        text = as_table(record)
        whole = record.as_json()

        assert every(row.here for row in rows_of(text, whole))
        new = rows_of(text, {k: v for k, v in whole.items() if k != "readings"})
        again = parse_record({**whole, "readings": [row.reading for row in new]})
        assert [r.model_dump() for r in again.readings] == [r.model_dump() for r in record.readings]


@pytest.mark.parametrize(
    "text",
    [
        "kind,between,ohms\nresistance,A-B,1.3\n",
        "kind;between;ohms\nresistance;A–B;1,3\n",
        "﻿kind;between;ohms\r\nresistance;A/B;1,3 Ω\r\n",
        "Kind\tBetween\tOhms\nResistance\tA-B\t1.3\n\n",
        'kind,between,ohms\nresistance,"A-B","1,3"\n',
        "kind|between|ohms\nresistance|A - B|1300m\n",
    ],
)
def test_what_spreadsheets_write_is_one_reading(text):
    """Commas, semicolons, tabs, decimal commas, a byte order mark, units, quotes."""
    (row,) = rows_of(text, PLAIN)

    assert row.words == "A–B 1.3 Ω"
    assert row.reading["between"] == ["A", "B"]


@pytest.mark.parametrize("word", ["open", "OL", "∞", "O.L"])
def test_open_is_written_in_many_ways(word):
    """An open reading with its range."""
    (row,) = rows_of(f"kind,between,ohms,range_ohms\nresistance,A-core,{word},20M\n", PLAIN)

    assert row.reading["ohms"] == "open"
    assert row.reading["range_ohms"] == 20e6


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "empty"),
        ("between,ohms\nA-B,1.3\n", "needs a column “kind”"),
        ("kind,between,resistance\nresistance,A-B,1\n", "No reading has a column “resistance”"),
        ("kind,between,between,ohms\nresistance,A-B,A-B,1\n", "twice"),
        ("kind,between,ohms\n" + "resistance,A-B,1.3\n" * 50_000, "50000 rows"),
    ],
)
def test_what_is_no_table_is_refused_whole(text, says):
    """A sentence; a missing column is named, and how many rows there are."""
    with pytest.raises(FieldError) as refused:
        rows_of(text, PLAIN)

    assert says in refused.value.sentence


@pytest.mark.parametrize(
    ("row", "says"),
    [
        ("resistance,A-Z,1.3", "Z"),
        ("resistance,A-A,1.3", "A"),
        ("resistance,AB,1.3", "two points"),
        ("resistance,A-B,-1", "ohms"),
        ("resistance,A-B,1.3 V", "not a unit"),
        ("resistance,A-B,", "ohms"),
        ("conductance,A-B,1", "no kind of reading"),
        ("core_proof,A-B,1", "has no between"),
        ("resistance,A-B,1,7", "more cells"),
    ],
)
def test_a_row_that_is_not_understood_says_what_is_wrong_and_the_others_go_on(row, says):
    """The line's number as a spreadsheet counts."""
    rows = rows_of(f"kind,between,ohms\n{row}\nresistance,C-D,2\n", PLAIN)

    assert rows[0].number == 2
    assert rows[0].reading is None
    assert says in rows[0].problem
    assert rows[1].words == "C–D 2 Ω"


def test_a_number_on_record_with_other_figures_is_refused_and_the_same_is_known():
    """Nothing is overwritten."""
    whole = piece("ABCD", [("A", "B", 1.3)])
    text = "id,kind,between,ohms,probe_ohms\nr1,resistance,A-B,{},0\n"

    assert rows_of(text.format("1.3"), whole)[0].here
    assert "other figures" in rows_of(text.format("1.4"), whole)[0].problem


def test_a_number_that_stands_twice_is_refused():
    """The second of two."""
    rows = rows_of("id,kind,ohms\nr1,core_proof,0.1\nr1,core_proof,0.2\n", PLAIN)

    assert [bool(r.problem) for r in rows] == [False, True]


def test_no_text_becomes_a_formula_in_a_spreadsheet():
    """A note that begins with = goes out behind an apostrophe and comes back without."""
    reading = {"kind": "core_proof", "ohms": 0.1, "note": "=1+1"}
    record = parse_record(piece("AB", [reading]))
    text = as_table(record)

    assert ",'=1+1" in text
    assert rows_of(text, record.as_json())[0].here


def test_every_field_of_every_kind_has_a_column():
    """Once each."""
    assert len(set(columns())) == len(columns())
    assert {"id", "kind", "from", "glow", "turns", "shorted", "struck"} <= set(columns())


def test_a_line_end_of_another_age_in_the_head_is_refused_by_a_sentence():
    """A lone carriage return between two columns; and a head that csv itself cannot read."""
    for text in ("kind,between\r,ohms\nresistance,A-B,1.3\n", 'kind,"betw\reen,ohms\nx,y'):
        with pytest.raises(FieldError) as told:
            rows_of(text, piece("AB"))

        assert told.value.field == "table"
