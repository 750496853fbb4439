"""What is kept opens, whatever stands in it: parts that cannot be read or weighed are named, left
out, and keep the gate shut; at the door the same is refused with a sentence.
"""

import copy
import json

import pytest

from greyfell.core import identify as engine
from greyfell.core.errors import FieldError
from greyfell.core.evidence.kinds.registry import by_key
from greyfell.core.evidence.lenient import parse_kept
from greyfell.core.evidence.loading import MOST_DEPTH, load_json
from greyfell.core.evidence.parse import parse_record
from greyfell.core.evidence.record import MOST_RATIOS, MOST_READINGS, Transformer
from greyfell.core.identify import answer, identify
from greyfell.core.judgement.gates import live_gate
from greyfell.core.steps.next_step import next_steps
from tests.conftest import KNOWN_OVEN, MAINS, OVEN, every, piece

EXTREMES = (1e300, -1.0, 1e-300, "1.3", True, [], None)


def figures(schema, path=()):
    """Every field of a schema that is a number, with its bounds."""
    for key, field in schema.get("properties", {}).items():
        options = [field, *field.get("anyOf", [])]
        for option in options:
            if option.get("type") == "number":
                yield key, option.get("minimum", option.get("exclusiveMinimum")), option["maximum"]


def test_every_figure_of_the_format_has_bounds():
    """A lower and an upper one, in the schema that is published."""
    schema = Transformer.model_json_schema(by_alias=True)
    found = [f for part in (schema, *schema["$defs"].values()) for f in figures(part)]

    assert len(found) > 60
    assert every(low is not None and high is not None and low < high for _, low, high in found)


def test_every_list_of_the_format_has_a_limit():
    schema = Transformer.model_json_schema(by_alias=True)
    for part in (schema, *schema["$defs"].values()):
        for name, field in part.get("properties", {}).items():
            for option in (field, *field.get("anyOf", [])):
                if option.get("type") == "array":
                    assert option.get("maxItems"), f"{part.get('title')}: {name}"
                if option.get("type") == "object" and "properties" not in option:
                    assert option.get("maxProperties"), f"{part.get('title')}: {name}"


@pytest.mark.parametrize(
    ("reading", "words"),
    [
        ({"ohms": 1.1e15}, "ohms must be at most 1e+15; 1100000000000000.0 was given"),
        ({"ohms": 9e-16}, "nearer to nought than any meter tells; write 0"),
        ({"range_ohms": 9e-10}, "range ohms must be at least 1e-09"),
        ({"range_ohms": 0}, "range ohms must be above 0"),
        ({"percent": 10001.0}, "percent must be at most 10000"),
        ({"id": []}, "id must be text"),
        ({"links": [["A", "B"]] * 65}, "links may have 64 entries; it has more"),
    ],
)
def test_beyond_its_bounds_a_figure_is_refused_by_name(reading, words):
    """The sentence names the reading and the field."""
    document = piece("AB", [("A", "B", 1.3)])
    document["readings"][0] |= reading
    with pytest.raises(FieldError) as refused:
        parse_record(document)
    assert words in str(refused.value)


@pytest.mark.parametrize("ohms", [0, 1e-15, 1e15])
def test_within_its_bounds_it_is_taken(ohms):
    assert parse_record(piece("AB", [("A", "B", ohms)])).readings[0].ohms == ohms


@pytest.mark.parametrize("more", [0, 1])
def test_so_many_readings_and_no_more(more):
    """And so many of those that tell turns."""
    ohms = [("A", "B", 1.3)] * (MOST_READINGS + more)
    turns = [{"kind": "turns", "across": ["A", "B"], "turns": 100.0}] * (MOST_RATIOS + more)
    for readings, limit in ((ohms, MOST_READINGS), (turns, MOST_RATIOS)):
        if more:
            with pytest.raises(FieldError, match=str(limit)):
                parse_record(piece("AB", readings))
        else:
            parse_record(piece("AB", readings))


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("[" * (MOST_DEPTH + 1) + "]" * (MOST_DEPTH + 1), "nested too deeply"),
        ("[" * 100_000, "nested too deeply"),
        ('{"a": 1, "b": {"c": 1, "c": 2}}', "says c twice"),
        ('{"a": "\\ud800"}', "half a letter"),
        ('{"a": 1e999}', "finite"),
        ('{"a": ' + "9" * 5000 + "}", "too long to read"),
        ("", "is empty"),
    ],
)
def test_what_is_no_plain_document_is_refused_at_the_door(text, words):
    with pytest.raises(FieldError, match=words):
        load_json(text)


def test_brackets_in_words_are_no_nesting():
    text = json.dumps({"note": "[" * 500 + '"\\' + "{" * 500})

    assert load_json(text)["note"].startswith("[[")
    assert load_json("[" * MOST_DEPTH + "]" * MOST_DEPTH) is not None


# ------------------------------------------------------------------ kept before there were bounds


def stored():
    """A sound mains piece as it was kept."""
    return piece("ABCD", MAINS, supply={"volts": 230, "hertz": 50})


@pytest.mark.parametrize("ohms", EXTREMES)
def test_a_reading_that_cannot_be_read_is_named_and_left_out(ohms):
    """The piece opens, says so, and its gate stays shut until the reading is struck out."""
    document = stored()
    bad = {"id": "r99", "kind": "resistance", "between": ["A", "B"], "ohms": ohms}
    document["readings"].append(bad)
    record, unread = parse_kept(document)
    ident = identify(record, unread)

    assert [x.what for x in unread] == ["r99"]
    assert len(record.readings) == len(MAINS)
    (fault,) = [f for f in ident.faults if f.code == "not-weighed"]
    assert fault.readings == ("r99",)
    assert "Strike it out" in fault.sentence
    assert ident.verdict == "doubtful"
    assert any("not weighed" in reason for reason in live_gate(ident).reasons)


@pytest.mark.parametrize("part", ["nameplate", "core", "supply", "leads", "statements", "edits"])
def test_a_part_that_cannot_be_read_is_named_and_left_out(part):
    """Everything else of the record is there."""
    document = stored()
    document |= {
        "nameplate": {"primary_volts": 230},
        "core": {"mass_kg": 1.0},
        "statements": [{"kind": "salvage-done"}],
        "edits": [],
    }
    whole, _ = parse_kept(document)
    odd = {
        "nameplate": {"primary_volts": 1e300},
        "core": {"mass_kg": -1},
        "supply": {"volts": "230"},
        "leads": [{"id": x, "wire_mm": 1e300} for x in "ABCD"],
        "statements": [{"kind": "salvage-done"}, {"kind": 3}],
        "edits": [{}] * 1001,
    }[part]
    record, unread = parse_kept({**document, part: odd})

    assert [x.what for x in unread] == [part]
    assert record.readings == whole.readings
    assert [x.id for x in record.leads] == list("ABCD")
    assert record.statements == whole.statements
    assert "Correct it" in identify(record, unread).faults[0].sentence


def test_two_readings_of_one_name_are_told_apart():
    """The first stands; the piece opens."""
    document = piece("AB", [("A", "B", 1.3)])
    document["readings"].append({**document["readings"][0], "ohms": 1.4})
    record, unread = parse_kept(document)

    assert [r.ohms for r in record.readings] == [1.3]
    assert "called r1 too" in unread[0].why


@pytest.mark.parametrize("at", [0, 700, 1499])
def test_one_odd_reading_among_many_is_found_and_the_order_kept(at):
    document = piece("AB", [("A", "B", 1 + n / 1000) for n in range(1500)])
    document["readings"][at]["ohms"] = -1
    record, unread = parse_kept(document)

    assert [left.what for left in unread] == [f"r{at + 1}"]
    assert [r.id for r in record.readings] == [f"r{n + 1}" for n in range(1500) if n != at]


def test_readings_beyond_what_a_record_may_hold_are_left_out():
    document = piece("AB", [("A", "B", 1.3)] * (MOST_READINGS + 2))
    record, unread = parse_kept(document)

    assert len(record.readings) == MOST_READINGS
    assert [x.what for x in unread] == [f"r{MOST_READINGS + 1}", f"r{MOST_READINGS + 2}"]


def test_without_tag_or_leads_there_is_no_piece():
    with pytest.raises(FieldError):
        parse_kept({**stored(), "leads": [{"id": "core"}]})


# ------------------------------------------------------------------ what a rule chokes on


@pytest.mark.parametrize("odd", [("r3",), ("r1", "r5"), ("r2", "r3", "r4")])
@pytest.mark.parametrize("where", ["believe", "judge"])
def test_what_a_rule_chokes_on_is_left_out_and_named(odd, where, monkeypatch):
    """A rule that cannot take certain readings: the rest is concluded, as if they were not there,
    but the gate stays shut.
    """
    record = parse_record(stored())
    rule = getattr(engine, where)

    def choking(now, *rest):
        if any(r.id in odd for r in now.readings):
            raise ZeroDivisionError
        return rule(now, *rest)

    monkeypatch.setattr(engine, where, choking)
    ident = identify(record)

    named = [f.readings[0] for f in ident.faults if f.code == "not-weighed"]
    assert sorted(named) == sorted(odd)
    assert len(ident.record.readings) == len(record.readings) - len(odd)
    assert not live_gate(ident).open


@pytest.mark.parametrize("part", ["nameplate", "core"])
def test_a_look_that_chokes_is_left_out_before_any_reading(part, monkeypatch):
    document = {**stored(), "nameplate": {"va": 20}, "core": {"mass_kg": 0.9}}
    believe = engine.believe

    def choking(now):
        if getattr(now, part) is not None:
            raise OverflowError
        return believe(now)

    monkeypatch.setattr(engine, "believe", choking)
    ident = identify(parse_record(document))

    assert len(ident.record.readings) == len(MAINS)
    assert any(part in f.sentence.lower() for f in ident.faults if f.code == "not-weighed")


def test_no_statement_lifts_it():
    """An overrule names the caution, and the gate stays shut all the same."""
    document = stored()
    document["readings"].append({"id": "r99", "kind": "turns", "across": ["A", "B"], "turns": 0})
    said = {"kind": "overrule", "concerns": "not-weighed", "at": "2030-01-01T00:00:00+00:00"}
    record, unread = parse_kept({**document, "statements": [said]})

    assert any("not weighed" in r for r in live_gate(identify(record, unread)).reasons)


# ------------------------------------------------------------------ any figure at all


@pytest.mark.parametrize("edge", ["least", "most"])
@pytest.mark.parametrize("kind", by_key())
def test_the_bounds_themselves_are_weighed(kind, edge):
    """Every figure of a kind, one by one, at its bound, on an oven piece with everything read."""
    base = piece("ABCDE", OVEN, supply={"volts": 230, "hertz": 50}, **KNOWN_OVEN)
    pair, other = ["A", "B"], ["C", "D"]
    schema = by_key()[kind].model_json_schema(by_alias=True)
    filled = {"id": "rx", "kind": kind}
    for name in schema["required"]:
        filled[name] = {
            "between": pair,
            "across": pair,
            "driven": pair,
            "sensed": other,
            "loaded": other,
            "rectified": other,
            "rectifier": "bridge",
            "part": "lug",
            "joined": [pair[1], other[0]],
            "shorted": [other],
            "glow": "dim",
            "from": pair[0],
            "to": "core",
        }.get(name, 5.0)
    if kind == "no_load":
        filled |= {"amps": 1.0, "watts": 20.0}
    for name, low, high in dict.fromkeys(figures(schema)):
        figure = low if edge == "least" else high
        document = copy.deepcopy(base)
        document["readings"].append({**filled, name: figure})
        ident = identify(parse_record(document))

        assert answer(ident)["families"], name
        assert next_steps(ident), name
        assert not [f for f in ident.faults if f.code == "not-weighed"], name


def test_an_oven_is_weighed_as_before():
    """Nothing of a sound record is left out."""
    record, unread = parse_kept(piece("ABCDE", OVEN))

    assert not unread
    assert not [f for f in identify(record, unread).faults if f.code == "not-weighed"]
