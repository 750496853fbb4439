"""Keeping what stands in the stores: added, counted, put aside, found, out and in."""

import json

import pytest
import sqlalchemy as sa
from click.testing import CliRunner

from greyfell.cli import main
from greyfell.core.errors import FieldError, Missing
from greyfell.core.evidence.stores import FORMAT, stores_document
from greyfell.records.archive import packed, unpacked
from greyfell.records.demo import demo_stores, load_demo
from greyfell.records.repository import Repository
from greyfell.records.store import Store
from greyfell.records.stores import Stores
from tests.conftest import piece

LAMP = {"kind": "lamp", "title": "clear", "watts": 40.0, "volts": 240.0, "count": 3}
METER = {"kind": "meter", "title": "pocket meter", "category": "CAT III", "max_volts_ac": 600.0}


@pytest.fixture
def stores(repository):
    """Empty stores."""
    return Stores(repository.store)


def test_what_is_put_in_is_found_by_typing(stores):
    """By title, kind, group, figure and donor, in any case; every word must be held."""
    lamp = stores.add({**LAMP, "donor": "ghost train"})
    stores.add(METER)

    for typed in ("lamp", "CLEAR", "40.0 w", "ghost", "limiting lamp", "lamp 240"):
        assert [i.id for i in stores.items(typed)] == [lamp.id]
    assert stores.items("lamp 600") == []
    assert stores.items("%") == []
    assert len(stores.items()) == 2


def test_counting_and_putting_aside_erase_nothing(stores):
    lamp = stores.add(LAMP)
    assert stores.change(lamp.id, {"count": 1}).count == 1
    stores.change(lamp.id, {"gone": "dropped"})

    assert stores.items() == []
    (kept,) = stores.items(gone=True)
    assert (kept.gone, kept.count) == ("dropped", 1)
    with pytest.raises(FieldError):
        stores.change(lamp.id, {"count": -1})
    with pytest.raises(Missing):
        stores.change("s0", {"count": 1})
    assert stores.get(lamp.id).count == 1


def test_nothing_of_a_refused_entry_is_kept(stores):
    for bad in ({}, {"kind": "lamp"}, {**LAMP, "watts": -40.0}):
        with pytest.raises(FieldError):
            stores.add(bad)

    assert stores.items(gone=True) == []


def test_bringing_in_adds_what_is_new_and_overwrites_nothing(stores):
    """The same entry is here already; another under an id in use gets its own."""
    lamp = stores.add(LAMP)
    document = stores_document(stores.items())
    other = {**LAMP, "id": lamp.id, "watts": 60.0}

    assert stores.bring_in(document) == {"same": 1}
    assert stores.bring_in({"format": FORMAT, "items": [other]}) == {"added": 1}
    assert sorted(i.figures["watts"] for i in stores.items()) == [40.0, 60.0]
    assert len({i.id for i in stores.items()}) == 2
    with pytest.raises(FieldError):
        stores.bring_in({"format": FORMAT, "items": [LAMP, {"kind": "lamp"}]})
    assert len(stores.items()) == 2


def test_the_archive_carries_them(stores, repository, tmp_path):
    """Out of one folder and into another, with the pieces; brought in twice they are the same."""
    repository.add(piece("AB"))
    stores.add(LAMP)
    aside = stores.add(METER)
    stores.change(aside.id, {"gone": "lent"})
    other = Repository(Store(tmp_path / "other"))
    data = packed(repository)

    assert [b.outcome for b in unpacked(other, data)] == ["added", "added"]
    assert [b.outcome for b in unpacked(other, data)] == ["same", "same"]
    assert {i.gone for i in Stores(other.store).items(gone=True)} == {"", "lent"}


def test_the_command_line_brings_them_in(repository, tmp_path):
    path = tmp_path / "stores.json"
    path.write_text(json.dumps(demo_stores()), encoding="utf-8")
    folder = str(repository.store.folder)
    first, again = (
        CliRunner().invoke(main, ["import", str(path), "--data", folder]) for _ in range(2)
    )

    assert "added (28 new, 0 here already)" in first.output
    assert "(0 new, 28 here already)" in again.output


def test_a_reading_brings_its_meter_into_the_record_once(stores, repository):
    """The record carries the ratings of what it was read with, wherever it goes."""
    meter = stores.add(METER)
    repository.add(piece("AB"))
    (known,) = stores.meters()
    reading = {"kind": "resistance", "between": ["A", "B"], "ohms": 1.3, "meter": meter.id}
    for _ in range(2):
        repository.append("T-1", [reading], meter=known.model_dump(exclude_unset=True))

    (kept,) = repository.document("T-1")["meters"]
    assert kept["id"] == meter.id
    assert kept["max_volts_ac"] == 600.0
    stores.change(meter.id, {"count": 0})
    assert stores.meters() == []


def test_the_demo_has_stocked_stores(repository):
    load_demo(repository)
    load_demo(repository)

    assert len(Stores(repository.store).items()) == 28


def test_an_entry_spoilt_in_the_file_keeps_no_piece_from_opening(stores):
    """A meter that cannot be read is left out of those at hand."""
    stores.add(METER)
    with stores.store.writing() as session:
        session.execute(sa.text("update item set body = json_set(body, '$.id', 'a b')"))

    assert stores.meters() == []
