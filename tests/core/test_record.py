"""The record: what is accepted, what is refused and how it is said, and that nothing is lost."""

import copy
import json

import pytest

from greyfell.core.errors import FieldError
from greyfell.core.evidence.kinds.registry import by_key
from greyfell.core.evidence.loading import load_json
from greyfell.core.evidence.parse import parse_reading, parse_record
from tests.conftest import CASES, piece

READINGS = [
    {"kind": "resistance", "between": ["A", "B"], "ohms": 1.3},
    {"kind": "resistance", "between": ["A", "core"], "ohms": "open", "range_ohms": 2e7},
    {"kind": "core_proof", "ohms": 0.1},
    {"kind": "dc_drop", "across": ["A", "B"], "volts": 0.01, "amps": 1.0},
    {"kind": "insulation", "between": ["A", "core"], "ohms": "open", "test_volts": 500},
    {
        "kind": "inductance",
        "across": ["A", "B"],
        "henries": 1.0,
        "hertz": 100,
        "shorted": [["C", "D"]],
    },
    {"kind": "lamp", "across": ["A", "B"], "supply_volts": 230, "lamp_watts": 40, "glow": "dark"},
    {
        "kind": "ratio",
        "driven": ["A", "B"],
        "driven_volts": 12,
        "sensed": ["C", "D"],
        "sensed_volts": 0.2,
    },
    {
        "kind": "polarity",
        "driven": ["A", "B"],
        "driven_volts": 12,
        "joined": ["B", "C"],
        "across": ["A", "D"],
        "across_volts": 13,
    },
    {"kind": "no_load", "driven": ["A", "B"], "volts": 230, "amps": 0.5},
    {
        "kind": "short_circuit",
        "driven": ["A", "B"],
        "shorted": [["C", "D"]],
        "volts": 12,
        "amps": 1.0,
    },
    {
        "kind": "load",
        "driven": ["A", "B"],
        "driven_volts": 230,
        "loaded": ["C", "D"],
        "load_volts": 3.0,
        "load_amps": 10,
    },
    {"kind": "test_turn", "driven": ["A", "B"], "driven_volts": 12, "turns": 5, "turn_volts": 0.2},
    {"kind": "turns", "across": ["C", "D"], "turns": 3},
    {
        "kind": "leakage_current",
        "from": "A",
        "to": "earth",
        "amps": 1e-4,
        "driven": ["C", "D"],
        "driven_volts": 230,
    },
    {
        "kind": "earth_voltage",
        "from": "A",
        "to": "core",
        "volts": 60,
        "meter_ohms": 1e7,
        "driven": ["C", "D"],
        "driven_volts": 230,
    },
    {"kind": "soak", "across": ["A", "B"], "cold_ohms": 3.1, "hot_ohms": 3.4, "minutes": 20},
    {
        "kind": "direct",
        "driven": ["A", "B"],
        "driven_volts": 230,
        "rectified": ["C", "D"],
        "rectifier": "bridge",
        "direct_volts": 16.2,
    },
    {
        "kind": "loop",
        "driven": ["A", "B"],
        "driven_volts": 230,
        "loaded": ["C", "D"],
        "loop_amps": 420,
    },
    {"kind": "path", "part": "lug", "volts": 0.012, "amps": 300},
]


@pytest.mark.parametrize("reading", READINGS, ids=lambda r: r["kind"])
def test_every_kind_of_reading_is_accepted(reading):
    """Each kind of the format, as the format writes it."""
    found = parse_reading(reading, ["A", "B", "C", "D"])

    assert found.kind == reading["kind"]
    assert found.id == "r1"


def test_no_kind_is_left_untested():
    """The table above covers the format."""
    assert {r["kind"] for r in READINGS} == set(by_key())


@pytest.mark.parametrize(
    ("change", "field", "words"),
    [
        ({"between": ["A", "Z"]}, "between", "lead Z"),
        ({"between": ["A", "A"]}, "between", "twice"),
        ({"ohms": -3}, "ohms", "not be negative"),
        ({"ohms": "1.3 furlongs"}, "ohms", "number"),
        ({"ohms": None}, "ohms", "number"),
        ({"ohms": True}, "ohms", "number"),
        ({"between": ["A"]}, "between", "missing"),
        ({"kind": "guess"}, "kind", "does not know"),
        ({"at": "yesterday"}, "at", "datetime"),
        ({"at": "2026-01-01T10:00:00"}, "at", "zone"),
        ({"range_ohms": 0}, "range", "above 0"),
        ({"percent": -1}, "percent", "negative"),
        ({"celsius": 2000}, "celsius", "300"),
        ({"id": "a b"}, "id", "letters"),
    ],
)
def test_a_bad_reading_is_refused_by_name(change, field, words):
    """The sentence names the reading and the field, and says what is wrong."""
    document = piece("ABCDE", [("A", "B", 1.3), ("C", "D", 0.1)])
    document["readings"][1].update(change)

    with pytest.raises(FieldError) as refused:
        parse_record(document)

    assert ("r2" in refused.value.sentence) or "a b" in refused.value.sentence
    assert words in refused.value.sentence
    assert field in refused.value.sentence or field in refused.value.field


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"format": "greyfell.transformer/2"}, "greyfell.transformer/1"),
        ({"format": None}, "none was given"),
        ({"tag": "has space"}, "letters, digits"),
        ({"tag": ""}, "tag"),
        ({"tag": "x" * 25}, "too long"),
        ({"leads": None}, "leads"),
        ({"leads": [{"id": "core"}]}, "reserved"),
        ({"leads": [{"id": "A"}, {"id": "A"}]}, "twice"),
        ({"leads": [{"id": "A", "twisted_with": "Q"}]}, "twisted"),
        ({"leads": [{"id": "A", "wire_mm": -1}]}, "above 0"),
        ({"leads": [{"id": "waytoolong"}]}, "long"),
        ({"supply": {"volts": -230}}, "above 0"),
        ({"declared_family": "toaster"}, "microwave"),
        ({"core": {"shape": "blob"}}, "shell"),
        ({"title": "x" * 500}, "long"),
        ({"title": 3}, "must be text"),
        ({"core": 3}, "must be an object"),
        ({"changes": [{"what": "winding-removed", "leads": "A"}]}, "must be a list"),
        ({"changes": [{"what": "winding-removed", "leads": ["Q"]}]}, "names lead Q"),
        ({"statements": [{"kind": "salvage-done", "volts": "0.2 V"}]}, "must be a number"),
        ({"statements": [{"kind": "salvage-done", "volts": -0.2}]}, "not be negative"),
    ],
)
def test_a_bad_head_is_refused(change, words):
    """Everything outside the readings is checked too."""
    document = {**piece("AB"), **change}

    with pytest.raises(FieldError, match=words):
        parse_record(document)


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "empty"),
        (b"   ", "empty"),
        (b"{", "not JSON"),
        (b'{"a": NaN}', "NaN"),
        (b'{"a": Infinity}', "Infinity"),
        (b'{"a": 1e400}', "1e400"),
        (b"\xff\xfe\x00", "UTF-8"),
        (b"[" * 100000, "nested"),
        (b"9" * 6000, "too long"),
        (b" " * (40 * 1024 * 1024), "40 MB"),
    ],
)
def test_a_bad_file_is_refused(data, words):
    """Empty, broken, not finite, too deep, too large: a sentence each."""
    with pytest.raises(FieldError, match=words):
        load_json(data)


@pytest.mark.parametrize("document", [[], "text", 3, None])
def test_a_record_is_an_object(document):
    """Anything else is not a record."""
    with pytest.raises(FieldError, match="one JSON object"):
        parse_record(document)


@pytest.mark.parametrize("path", sorted(CASES.glob("case-*.json")), ids=lambda p: p.stem)
def test_public_cases_survive_reading_and_writing(path):
    """What goes in comes out, unknown keys and nulls included."""
    document = json.loads(path.read_text(encoding="utf-8"))
    before = copy.deepcopy(document)

    out = parse_record(document).as_json()

    for mine, theirs in zip(out["readings"], before["readings"], strict=True):
        if isinstance(theirs.get("struck"), str):
            theirs["struck"] = {"reason": theirs["struck"]}
        assert mine == theirs
    assert {k: v for k, v in out.items() if k != "readings"} == {
        k: v for k, v in before.items() if k != "readings"
    }


def test_unknown_keys_are_kept():
    """Keys this program does not know are written back, at every level."""
    document = piece(
        "AB",
        [{"kind": "resistance", "between": ["A", "B"], "ohms": 1.3, "x_mood": "calm"}],
        x_shelf="B3",
    )
    document["leads"][0]["x_knot"] = 2

    out = parse_record(document).as_json()

    assert out["x_shelf"] == "B3"
    assert out["leads"][0]["x_knot"] == 2
    assert out["readings"][0]["x_mood"] == "calm"


def test_missing_ids_are_given_and_do_not_collide():
    """Readings without an id get the next free one."""
    document = piece("ABC", [("A", "B", 1.0), ("B", "C", 1.0)])
    document["readings"] = [
        {**document["readings"][0], "id": "r2"},
        {k: v for k, v in document["readings"][1].items() if k != "id"},
    ]

    assert [r.id for r in parse_record(document).readings] == ["r2", "r1"]


def test_struck_readings_stay_but_do_not_stand():
    """A struck reading is evidence of nothing, and is kept."""
    document = piece("AB", [("A", "B", 1.3), ("A", "B", 13.0)])
    document["readings"][1]["struck"] = "wrong range"
    record = parse_record(document)

    assert [r.id for r in record.standing] == ["r1"]
    assert record.readings[1].struck.reason == "wrong range"
