"""What the shelf is reminded of: an isolation test that is a year old, shorts left on, discharges
not ended.
"""

from datetime import UTC, datetime

import pytest
import sqlalchemy as sa

from greyfell.core.errors import FieldError
from greyfell.core.steps.salvage import DONE, STEP
from greyfell.records.models import PieceRow, ReadingRow
from greyfell.records.reminders import reminders
from greyfell.records.stores import Stores
from tests.conftest import MAINS, piece

NOW = datetime(2026, 11, 27, tzinfo=UTC)


def insulated(at, **more):
    """A piece with an insulation test of that day."""
    test = {"kind": "insulation", "between": ["A", "C"], "ohms": 1e9, "test_volts": 500.0}
    return piece("ABCD", [*MAINS, {**test, "at": at, **more}])


@pytest.mark.parametrize(
    ("at", "told", "past"),
    [
        ("2025-11-26T12:00:00+00:00", True, True),
        ("2025-11-28T12:00:00+00:00", True, False),
        ("2025-12-26T00:00:00+00:00", True, False),
        ("2025-12-28T00:00:00+00:00", False, False),
    ],
)
def test_an_isolation_is_tested_again_after_a_year(repository, at, told, past):
    """Told a month before, in red once it is past."""
    repository.add(insulated(at))
    found = reminders(repository.store, NOW)

    assert [(r.kind, r.past) for r in found] == ([("test again", past)] if told else [])


def test_the_latest_test_counts_and_a_struck_one_does_not(repository):
    """A fresh one ends the reminder; struck, the old one stands again."""
    repository.add(insulated("2024-01-01T00:00:00+00:00"))
    test = {"kind": "insulation", "between": ["A", "C"], "ohms": 1e9, "test_volts": 500.0}
    repository.append("T-1", [{**test, "at": "2026-11-01T00:00:00+00:00"}])
    assert reminders(repository.store, NOW) == []

    last = repository.document("T-1")["readings"][-1]["id"]
    repository.strike("T-1", last, "wrong range")
    assert [r.past for r in reminders(repository.store, NOW)] == [True]


def test_a_short_left_on_and_a_discharge_not_ended(repository):
    """The one is a note; the other is past due at once, and stands first."""
    said = {"at": "2026-11-26T10:00:00+00:00", "text": "x"}
    done = {**said, "kind": DONE, "concerns": "capacitor"}
    begun = {**said, "kind": STEP, "concerns": "plug"}
    repository.add({**piece("AB"), "statements": [done]})
    repository.add({**piece("AB"), "tag": "T-2", "statements": [begun]})
    found = reminders(repository.store, NOW)

    assert [(r.tag, r.kind, r.past) for r in found] == [
        ("T-2", "begun", True),
        ("T-1", "shorted", False),
    ]


def proved(day):
    """Stores with one meter, proved on that day."""
    kept = {"kind": "meter", "title": "bench meter", "max_volts_ac": 600.0}
    return {**kept, "proved": day} if day else kept


@pytest.mark.parametrize(
    ("day", "told", "past"),
    [
        ("2025-11-26", "since 2026-11-26", True),
        ("2025-11-27", "by 2026-11-27", False),
        ("2025-12-27", "by 2026-12-27", False),
        ("2025-12-28", "", False),
        ("", "not noted: bench meter", False),
    ],
)
def test_a_meter_is_to_be_proved_after_a_year(repository, day, told, past):
    """Told a month before, in red once it is past; and where nobody noted a day."""
    Stores(repository.store).add(proved(day))
    found = reminders(repository.store, NOW)

    assert [(r.kind, r.past) for r in found] == ([("prove", past)] if told else [])
    assert [r for r in found if told not in r.words] == []


def test_a_day_that_is_none_is_refused_by_its_field(repository):
    """By its label, with what a day looks like."""
    with pytest.raises(FieldError) as refused:
        Stores(repository.store).add(proved("last spring"))

    assert refused.value.field == "proved"
    assert "2026-05-01" in refused.value.sentence


def test_an_empty_shelf_is_reminded_of_nothing(repository):
    """No piece, no reminder."""
    assert reminders(repository.store, NOW) == []


def test_what_cannot_be_read_keeps_no_shelf_from_opening(repository):
    """A time that is none, a statement that is none: left out, the rest is told."""
    repository.add(insulated("2024-01-01T00:00:00+00:00"))
    repository.add({**piece("AB"), "tag": "T-2", "statements": [{"kind": DONE, "concerns": "x"}]})
    with repository.store.writing() as session:
        reading = session.scalar(sa.select(ReadingRow).where(ReadingRow.kind == "insulation"))
        reading.body = {**reading.body, "at": "the day before"}
        row = session.scalar(sa.select(PieceRow).where(PieceRow.tag == "T-2"))
        row.head = {**row.head, "statements": ["?", {"kind": DONE, "at": 7}, {"kind": DONE}]}

    assert [(r.tag, r.kind) for r in reminders(repository.store, NOW)] == [("T-2", "shorted")]
