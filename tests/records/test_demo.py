"""The demo shelf in other years: what it shows of a gate does not age."""

from datetime import UTC, datetime, timedelta

import pytest

from greyfell import clock
from greyfell.records.demo import YOUNG, demo_documents, load_demo, younger
from greyfell.records.repository import Repository
from greyfell.records.store import Store

NEWEST = datetime.fromisoformat("2026-06-04T10:50:00+01:00")


def opened(folder):
    """The tags of a demo shelf whose gate is open."""
    store = Store(folder)
    repository = Repository(store)
    load_demo(repository)
    found = {d["tag"]: repository.get(d["tag"]).gate.open for d in demo_documents()}
    store.close()
    return found


def test_the_same_gates_are_open_three_years_on(tmp_path, monkeypatch):
    """Both kinds are on the shelf; nothing of it is dated still to come."""
    today = opened(tmp_path / "today")
    monkeypatch.setattr(clock, "moment", lambda: datetime(2029, 7, 1, tzinfo=UTC))

    assert set(today.values()) == {True, False}
    assert opened(tmp_path / "later") == today


@pytest.mark.parametrize(("late", "days"), [(-1, 0), (0, 1), (40, 41)])
def test_a_young_demo_keeps_its_days_and_an_old_one_moves_whole(late, days):
    """By as many days for every entry: hours and the order stay."""
    pieces = demo_documents()
    moved = younger(pieces, NEWEST + YOUNG + timedelta(days=late))
    was, now = (datetime.fromisoformat(p[0]["readings"][0]["at"]) for p in (pieces, moved))

    assert now - was == timedelta(days=days)
    assert (moved == pieces) is (days == 0)
