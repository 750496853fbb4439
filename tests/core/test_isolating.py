"""The isolation report: every grade just below and just above its ohms, unknown that stays unknown,
oven parts that never get better, a test that is past.
"""

from datetime import UTC, datetime

import pytest

from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.core.telling.isolating import (
    BASIC,
    NEVER,
    REJECTED,
    TWO,
    UNKNOWN,
    WHO,
    report,
)
from tests.conftest import OVEN, piece

TODAY = datetime(2026, 6, 1, tzinfo=UTC)
AT = "2026-05-01T12:00:00+00:00"
SOUND = [
    {"kind": "core_proof", "ohms": 0.1},
    ("A", "B", 3.3),
    ("C", "D", 3.6),
    ("A", "C", "open"),
    ("A", "core", "open"),
    ("C", "core", "open"),
    {"kind": "ratio", "driven": ["A", "B"], "driven_volts": 230.0, "sensed": ["C", "D"]}
    | {"sensed_volts": 238.0},
]


def insulation(ohms, volts=500.0, at=AT, between=("A", "C")):
    """One insulation test."""
    return {
        "kind": "insulation",
        "between": list(between),
        "ohms": ohms,
        "test_volts": volts,
        "at": at,
    }


def told(*readings, today=TODAY, base=SOUND, leads="ABCD", **more):
    """The report of a 1 : 1 with these readings besides."""
    given = {"nameplate": {"primary_volts": 230.0, "hertz": 50.0}, **more}
    document = piece(leads, [*base, *readings], **given)
    return report(identify(parse_record(document)), today)


@pytest.mark.parametrize(
    ("ohms", "grade"),
    [
        (1.9e6, REJECTED),
        (2.1e6, BASIC),
        (6.9e6, BASIC),
        (7.1e6, TWO),
        ("open", TWO),
    ],
)
def test_ohms_at_500_volts_tell_the_barriers(ohms, grade):
    """2 and 7 MΩ."""
    assert told(insulation(ohms)).barriers[0].grade == grade


@pytest.mark.parametrize(("volts", "grade"), [(499.0, UNKNOWN), (500.0, TWO)])
def test_less_than_500_volts_is_an_ohmmeter_s_reading(volts, grade):
    """Open at 250 V says nothing, and who can tell is said."""
    found = told(insulation("open", volts))

    assert found.grade == grade
    assert (WHO in found.why) == (grade == UNKNOWN)


def test_without_any_test_it_is_unknown_and_nothing_may_be():
    """No use, and why."""
    found = told()

    assert found.grade == UNKNOWN
    assert found.may == ()
    assert found.again == ""
    assert "safety isolating" in found.may_not[0]


@pytest.mark.parametrize(
    ("at", "grade"),
    [("2025-06-02T12:00:00+00:00", TWO), ("2025-05-31T12:00:00+00:00", UNKNOWN)],
)
def test_a_year_old_test_counts_for_nothing(at, grade):
    """A year to the day."""
    found = told(insulation("open", at=at))

    assert found.grade == grade
    assert found.past == (grade == UNKNOWN)


@pytest.mark.parametrize(("amps", "grade"), [(0.00074, TWO), (0.00076, REJECTED)])
def test_leakage_is_taken_to_the_supply_and_rejects(amps, grade):
    """0.75 mA, read at half of the volts."""
    leak = {
        "kind": "leakage_current",
        "from": "C",
        "to": "earth",
        "amps": amps / 2,
        "driven": ["A", "B"],
        "driven_volts": 115.0,
    }

    assert told(insulation("open"), leak).grade == grade


@pytest.mark.parametrize(
    ("volts", "amps", "holds"), [(0.9, 10.0, True), (1.1, 10.0, False), (0.09, 1.0, None)]
)
def test_the_bond_is_proved_for_use_with_ten_amps(volts, amps, holds):
    """0.09 and 0.11 Ω at 10 A; one ampere only says that it is there."""
    drop = {"kind": "dc_drop", "across": ["earth", "core"], "volts": volts, "amps": amps}
    found = told(insulation("open"), drop)
    line = next(x for x in found.lines if x.what.startswith("Core"))

    assert line.holds is holds
    assert (found.grade == REJECTED) == (holds is False)


def test_oven_parts_never_get_better_than_no_safety_isolation():
    """However good the readings."""
    found = told(insulation("open", between=("A", "E")), base=OVEN, leads="ABCDE")

    assert found.grade in (NEVER, REJECTED)
    assert found.may == ()


def test_what_was_wound_by_hand_has_one_barrier_at_best():
    """The change says so."""
    change = {"id": "c1", "what": "rewound", "turns": 3, "at": "2026-04-01T12:00:00+00:00"}
    found = told(insulation("open"), changes=[change])

    assert found.grade in (NEVER, UNKNOWN)


def test_the_worst_winding_counts():
    """One of two below 2 MΩ."""
    more = [("E", "F", 1.2), ("E", "core", "open"), ("A", "E", "open"), ("C", "E", "open")]
    found = told(
        insulation("open"),
        insulation(1e6, between=("A", "E")),
        base=[*SOUND, *more],
        leads="ABCDEF",
    )

    assert found.grade == REJECTED
