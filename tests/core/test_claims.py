"""What was told, mistyped or changed between two tests: each names the reading to repeat, and both
answers where there are two.
"""

import pytest

from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import answer, identify
from greyfell.core.judgement.audit import audit
from tests.conftest import piece
from tests.core.test_hazards import BELL as COLD
from tests.core.test_hazards import MAINS

BELL = [
    *COLD,
    {
        "kind": "ratio",
        "driven": ["A", "B"],
        "driven_volts": 12.0,
        "sensed": ["C", "D"],
        "sensed_volts": 0.6,
        "percent": 1.0,
        "digits": 0.0,
    },
]


def told(readings, leads="ABCD", **more):
    """What is concluded of a record made by hand."""
    return identify(parse_record(piece(leads, readings, supply=MAINS, **more)))


def claim(driven, sensed, ratio):
    """A ratio somebody told, never measured."""
    return {
        "kind": "ratio",
        "driven": list(driven),
        "driven_volts": 1.0,
        "sensed": list(sensed),
        "sensed_volts": ratio,
        "claimed": True,
    }


@pytest.mark.parametrize(
    ("ratio", "found"),
    [(0.0576, False), (0.0596, True), (0.0434, False), (0.0415, True)],
)
def test_a_ratio_told_is_held_against_the_one_read(ratio, found):
    """0.05 was read, within some per cent: what was told may be 1.15 times off, it is
    rounded. It counts for nothing itself.
    """
    said = told([*BELL, claim("AB", "CD", ratio)])
    findings = [f for f in audit(said) if f.kind == "claimed-against-read"]

    assert bool(findings) is found
    assert said.families == told(BELL).families
    for finding in findings:
        assert "Read the ratio" in finding.sentence


@pytest.mark.parametrize(
    ("ratio", "found", "there"),
    [
        (9.1, False, False),
        (11.0 * 1.14, False, False),
        (11.0 * 1.16, True, False),
        (17.5, True, True),
        (7.8 / 1.14, False, False),
        (7.8 / 1.16, True, False),
        (15.1, True, True),
        (20.6, True, False),
    ],
)
def test_a_ratio_told_of_an_unread_oven_part_must_fit_the_region(ratio, found, there):
    """8 to 11 for 230 V, 15 to 20 for 120 V (M-T4): 17.5 on a 230 V bench is another region's."""
    said = told([claim("AB", "C" + "D", ratio)], declared_family="microwave")
    findings = [f for f in audit(said) if f.kind == "claimed-against-read"]

    assert bool(findings) is found
    assert any("other region" in f.sentence for f in findings) is there


def test_a_ratio_typed_as_turns_is_met_with_both_answers():
    """20 "turns" of a bell transformer's primary: as a ratio it fits what was read, as turns it
    would be eleven volts a turn.
    """
    typed = {"kind": "turns", "across": ["A", "B"], "turns": 20.0}
    (fault,) = (f for f in told([*BELL, typed]).faults if "turns" in f.sentence)

    assert "a ratio to C–D" in fault.sentence
    assert "V a turn" in fault.sentence
    odd = {"kind": "turns", "across": ["A", "B"], "turns": 30.0}
    assert not any("a ratio to" in f.sentence for f in told([*BELL, odd]).faults)


def lamp(watts, glow, volts=230.0, across="AB"):
    """A lamp in series."""
    return {
        "kind": "lamp",
        "across": list(across),
        "supply_volts": volts,
        "lamp_watts": watts,
        "glow": glow,
    }


@pytest.mark.parametrize(
    ("first", "second", "asked"),
    [
        (lamp(40, "dark"), lamp(100, "dim"), True),
        (lamp(40, "dim"), lamp(100, "bright"), True),
        (lamp(100, "bright"), lamp(40, "dark"), True),
        (lamp(40, "dim"), lamp(100, "dim"), False),
        (lamp(40, "bright"), lamp(100, "dark"), False),
        (lamp(40, "dark"), lamp(40, "dim"), False),
        (lamp(40, "dark"), lamp(100, "bright", volts=24.0), False),
        (lamp(40, "dark"), lamp(100, "bright", across="CD"), False),
    ],
)
def test_a_larger_lamp_that_glows_more_is_asked_about(first, second, asked):
    """Fewer ohms are left with fewer volts: on the same piece the larger lamp glows less."""
    said = told([*BELL, first, second])
    faults = [f for f in said.faults if "the larger lamp" in f.sentence]

    assert bool(faults) is asked
    assert not (asked and answer(said)["gate"]["open"])


@pytest.mark.parametrize(
    ("reading", "code"),
    [
        (("C", "core", 1e7), "capacitor-connected"),
        ({"kind": "dc_drop", "across": ["earth", "core"], "volts": 2.0, "amps": 1.0}, "earth-bond"),
    ],
)
def test_what_is_joined_to_a_piece_stops_it_and_does_not_condemn_it(reading, code):
    """A capacitor or a bad bond is taken away or mended; the piece is none the worse."""
    oven = [
        {"kind": "core_proof", "ohms": 0.1},
        ("A", "B", 1.3),
        ("A", "core", "open"),
        ("A", "C", "open"),
        ("C", "core", 96.0) if code == "earth-bond" else ("D", "E", 0.1),
        reading,
    ]
    said = told(oven, leads="ABCDE", declared_family="microwave")

    assert code in [f.code for f in said.faults if f.severity == "stop"]
    assert said.verdict == "doubtful"
    assert not answer(said)["gate"]["open"]
