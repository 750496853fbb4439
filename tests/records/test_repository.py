"""Keeping pieces: an append-only log, nothing overwritten, nothing half-stored, two writers at
once.
"""

import copy
import json
import threading
import warnings

import numpy as np
import pytest
import sqlalchemy as sa
from alembic.config import Config
from alembic.script import ScriptDirectory
from msgspec.structs import replace
from sqlalchemy.exc import SAWarning

from greyfell.core.errors import FieldError
from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import as_json, identify
from greyfell.core.simulated.owner import documented
from greyfell.core.telling.outputs_of_shelf import WantedOutput, answers, outputs
from greyfell.records.copying import FILE
from greyfell.records.demo import demo_documents, load_demo
from greyfell.records.fingerprint import record_hash
from greyfell.records.models import Base
from greyfell.records.repository import Repository
from greyfell.records.store import HEAD, HERE, Store, migrate
from tests.conftest import CASES, OVEN, piece


@pytest.fixture
def open_store():
    """Opens data folders and closes them all at the end."""
    opened = []

    def make(folder):
        opened.append(Store(folder))
        return opened[-1]

    yield make
    for store in opened:
        store.close()


@pytest.fixture
def kept(repository, oven):
    """The oven on the shelf."""
    repository.add(oven)
    return repository


def test_a_reading_is_appended_with_id_and_time(kept):
    """Ids go on where the last left off; a time with zone is given."""
    after = kept.append(
        "T-1", [{"kind": "resistance", "between": ["D", "core"], "ohms": "open", "range_ohms": 2e7}]
    )

    last = kept.document("T-1")["readings"][-1]
    assert last["id"] == after.record.readings[-1].id == f"r{len(OVEN) + 1}"
    assert last["at"][-6] in "+-" or last["at"].endswith("Z")


@pytest.mark.parametrize(
    "reading",
    [
        {"kind": "resistance", "between": ["A", "Z"], "ohms": 1},
        {"kind": "resistance", "between": ["A", "B"], "ohms": -1},
        {"kind": "nonsense"},
        {"id": "r1", "kind": "core_proof", "ohms": 0.1},
    ],
)
def test_a_refused_reading_stores_nothing(kept, reading):
    """All or nothing: a good reading beside a bad one is not kept either."""
    before = kept.document("T-1")

    with pytest.raises(FieldError):
        kept.append("T-1", [{"kind": "core_proof", "ohms": 0.1}, reading])

    assert kept.document("T-1") == before


def test_striking_keeps_the_reading_with_its_reason(kept):
    """Undo is striking out; nothing is lost, nothing is struck twice, a reason is needed."""
    kept.strike("T-1", "r2", "wrong range", by="me")

    struck = next(r for r in kept.document("T-1")["readings"] if r["id"] == "r2")
    assert struck["struck"]["reason"] == "wrong range"
    for args in (("r2", "again"), ("r99", "x"), ("r3", "  ")):
        with pytest.raises(FieldError):
            kept.strike("T-1", *args)


def test_corrections_are_kept_in_edits(kept):
    """What can be seen may be corrected; the old value stays on record."""
    kept.correct("T-1", {"title": "Tea kiosk"}, version=1)

    edits = kept.document("T-1")["edits"]
    assert (edits[-1]["path"], edits[-1]["from"], edits[-1]["to"]) == ("title", None, "Tea kiosk")


def test_a_correction_from_an_old_form_is_refused(kept):
    """Two tabs: the second correction says what happened and stores nothing."""
    kept.correct("T-1", {"title": "one"}, version=1)

    with pytest.raises(FieldError, match="another tab"):
        kept.correct("T-1", {"title": "two"}, version=1)

    assert kept.document("T-1")["title"] == "one"


def test_two_writers_at_once_lose_nothing(kept):
    """Readings from two tabs are both appended, with ids of their own."""

    def work(n):
        for k in range(10):
            kept.append("T-1", [{"kind": "core_proof", "ohms": 0.1, "note": f"{n}/{k}"}])

    threads = [threading.Thread(target=work, args=(n,)) for n in range(3)]
    for t in threads:
        t.start()
    for t in threads:
        t.join()

    readings = kept.document("T-1")["readings"]
    assert len(readings) == len(OVEN) + 30
    assert len({r["id"] for r in readings}) == len(readings)


def test_tags_are_unique_whatever_their_case(kept, oven):
    """A tag in use is offered a free one."""
    with pytest.raises(FieldError, match="t-1-2 is free"):
        kept.add({**oven, "tag": "t-1"})


def test_export_and_import_give_the_same_conclusions_to_the_last_digit(tmp_path, open_store):
    """Into an empty copy: the same document, the same identification."""
    one, two = Repository(open_store(tmp_path / "one")), Repository(open_store(tmp_path / "two"))
    for path in sorted(CASES.glob("case-0[0-3]*.json")):
        tag, _ = one.bring_in(json.loads(path.read_text(encoding="utf-8")))
        text = json.dumps(one.document(tag))
        assert two.bring_in(json.loads(text)) == (tag, "added")
        assert two.document(tag) == one.document(tag)
        assert as_json(identify(two.get(tag).record)) == as_json(identify(one.get(tag).record))


def test_everything_is_there_after_closing(tmp_path, oven, open_store):
    """Close the program, start it again."""
    first = open_store(tmp_path)
    Repository(first).add(oven)
    Repository(first).append("T-1", [{"kind": "core_proof", "ohms": 0.2}])
    before = Repository(first).document("T-1")
    first.close()

    assert Repository(open_store(tmp_path)).document("T-1") == before


def test_import_merges_only_when_agreed_and_overwrites_nothing(kept):
    """Same id: new readings are appended after the person agrees; a changed reading becomes a new
    one.
    """
    other = copy.deepcopy(kept.document("T-1"))
    other["readings"].append({"id": "r50", "kind": "core_proof", "ohms": 0.3})
    other["readings"][1] = {**other["readings"][1], "ohms": 9.9}

    assert kept.bring_in(other) == ("T-1", "ask")
    assert kept.bring_in(other, merge=True) == ("T-1", "merged")
    assert kept.bring_in(other, merge=True) == ("T-1", "same")
    readings = {r["id"]: r for r in kept.document("T-1")["readings"]}
    assert readings["r2"]["ohms"] == 1.3
    assert "r50" in readings
    assert any(r.get("ohms") == 9.9 for r in readings.values())


def test_import_takes_a_new_tag_where_one_is_in_use(kept, oven):
    """A different id with a tag in use gets a new tag."""
    assert kept.bring_in({**oven, "id": "another"}) == ("T-1-2", "added")


def test_strikes_travel_with_an_import(kept):
    """A strike made elsewhere is news."""
    other = copy.deepcopy(kept.document("T-1"))
    other["readings"][2]["struck"] = "probe slipped"

    assert kept.bring_in(other, merge=True)[1] == "merged"
    assert kept.document("T-1")["readings"][2]["struck"]["reason"] == "probe slipped"


@pytest.mark.parametrize(
    "document",
    [
        {},
        {"format": "greyfell.transformer/9"},
        {
            "format": "greyfell.transformer/1",
            "tag": "X",
            "leads": [{"id": "A"}],
            "readings": [{"kind": "resistance", "between": ["A", "Q"], "ohms": 1}],
        },
    ],
)
def test_a_refused_import_stores_nothing(repository, document):
    """Nothing of a refused document is stored."""
    with pytest.raises(FieldError):
        repository.bring_in(document)

    assert repository.tags() == []


def test_the_shelf_narrows_sorts_and_pages(repository):
    """Counts, filters, order and pages over cached conclusions."""
    for path in sorted(CASES.glob("case-*.json")):
        repository.bring_in(json.loads(path.read_text(encoding="utf-8")))
    page = repository.shelf()

    assert page.total == sum(page.families.values()) == 26
    assert page.pages == 2
    assert len(repository.shelf(page=2).items) == 2
    signs = repository.summaries(repository.shelf(family="sign").items)
    assert {told["family"] for told in signs.values()} == {"sign"}
    assert repository.shelf(verdict="condemned").matching == page.verdicts["condemned"]
    items = repository.shelf(sort="danger").items
    told = repository.summaries(items)
    danger = [told[i.piece_id]["danger"] for i in items]
    assert danger == sorted(danger, reverse=True)
    tags = [i.tag for i in repository.shelf(sort="tag").items]
    assert tags == sorted(tags)


def test_the_cache_is_a_cache(kept):
    """Emptied, it is worked out again, the same."""
    before = kept.shelf().items
    with kept.store.writing() as session:
        session.execute(sa.text("delete from conclusion"))

    again = Repository(kept.store)
    assert again.shelf().items == []
    assert again.waiting() == 1
    assert again.conclude_some() == 1
    assert again.shelf().items == before
    assert again.conclude_some() == again.waiting() == 0


def test_the_demo_is_valid_and_varied(repository):
    """A dozen and more pieces, sound, doubtful and condemned for different reasons; loading twice
    adds nothing.
    """
    assert load_demo(repository) == len(demo_documents()) >= 12
    assert load_demo(repository) == 0
    page = repository.shelf()
    condemned = repository.summaries(repository.shelf(verdict="condemned").items)
    reasons = {told["headline"] for told in condemned.values()}
    assert {"proved", "screened", "doubtful", "condemned", "unknown"} <= set(page.verdicts)
    assert len(reasons) >= 3
    for document in demo_documents():
        parse_record(document)


def test_migrations_make_the_models_tables(tmp_path):
    """An empty file upgraded has the tables, columns, foreign keys and uniques of the models."""
    migrate(tmp_path / FILE)
    engine = sa.create_engine(f"sqlite:///{tmp_path / FILE}")
    inspector = sa.inspect(engine)

    for table in Base.metadata.sorted_tables:
        assert {c["name"] for c in inspector.get_columns(table.name)} == {
            c.name for c in table.columns
        }
        assert len(inspector.get_foreign_keys(table.name)) == len(table.foreign_keys)
    with warnings.catch_warnings():
        warnings.simplefilter("ignore", SAWarning)  # an index over an expression is not reflected
        uniques = inspector.get_unique_constraints("piece")
    assert {u["name"] for u in uniques} == {
        "uq_piece_uid",
        "uq_piece_tag_folded",
    }
    engine.dispose()


def test_the_head_written_down_is_the_newest_migration():
    """A file that stands at it is opened without the migration tool."""
    config = Config()
    config.set_main_option("script_location", str(HERE))
    config.set_main_option("path_separator", "os")

    assert ScriptDirectory.from_config(config).get_current_head() == HEAD


def test_the_file_is_set_up_as_the_house_says(store):
    """WAL, foreign keys on, and readable by its owner alone."""
    with store.engine.connect() as db:
        assert db.exec_driver_sql("pragma journal_mode").scalar() == "wal"
        assert db.exec_driver_sql("pragma foreign_keys").scalar() == 1
    assert (store.folder.stat().st_mode & 0o077) == 0


def test_missing_pieces_are_said_to_be_missing(repository):
    """A sentence, for every way of asking."""
    assert repository.get("NOPE") is None
    for call in (
        lambda: repository.document("NOPE"),
        lambda: repository.append("NOPE", []),
        lambda: repository.strike("NOPE", "r1", "x"),
        lambda: repository.correct("NOPE", {}, 1),
    ):
        with pytest.raises(FieldError, match="no piece"):
            call()


def test_piece_helper_makes_valid_records():
    """The tests' own furniture holds."""
    assert parse_record(piece("AB", [("A", "B", 1.0)])).tag == "T-1"


def test_the_hash_follows_the_contents_and_not_the_order_of_keys():
    """Conclusions are cached under it."""
    a, b = piece("AB", [("A", "B", 1.3)]), piece("AB", [("A", "B", 1.4)])

    assert record_hash(a) == record_hash(dict(reversed(a.items())))
    assert record_hash(a) != record_hash(b)


def test_the_shelf_is_asked_who_gives_so_much(repository):
    """Outputs kept with the conclusions answer as they would one by one, those that surely do
    first, a page at a time; a struck-out or changed piece answers as it stands now.
    """
    for seed in range(6):
        document = documented(np.random.default_rng(seed), "lv").document
        repository.add({**document, "tag": f"LV-{seed}"})
    first = outputs(repository.get("LV-0").ident)[0]
    wanted = WantedOutput(first.volts[0] / 1.05, 0.9 * first.amps[0])
    found, count = repository.giving(wanted)
    one_by_one = {
        (tag, out.name, answers(out, wanted))
        for tag in repository.tags()
        for out in outputs(repository.get(tag).ident)
        if answers(out, wanted)
    }

    assert {(a.item.tag, a.name, a.sure) for a in found} == one_by_one
    assert count == len(found) > 0
    assert [a.surely for a in found] == sorted((a.surely for a in found), reverse=True)
    assert repository.giving(wanted, page=2)[0] == []
    brief, _ = repository.giving(replace(wanted, brief=True))
    assert {a.item.tag for a in found} <= {a.item.tag for a in brief}
    tag = found[0].item.tag
    lead = repository.get(tag).record.leads[0].id
    repository.append(tag, [{"kind": "resistance", "between": [lead, "core"], "ohms": 0.4}])
    assert tag not in {a.item.tag for a in repository.giving(wanted)[0]}, "it is stopped now"
