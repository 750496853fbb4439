"""Keeping: backups that restore, an upgrade that loses nothing, one archive of the whole shelf,
conclusions that neither grow nor go stale unsaid, and what was entered stored once.
"""

import contextlib
import copy
import io
import json
import os
import sqlite3
import stat
import threading
import time
import zipfile

import pytest
import sqlalchemy as sa
from alembic import command
from alembic.config import Config
from alembic.script import ScriptDirectory
from click.testing import CliRunner

from greyfell.cli import main
from greyfell.core.errors import FieldError
from greyfell.records import archive as archives
from greyfell.records import backup as copies
from greyfell.records import shelf as shelves
from greyfell.records.archive import FORMAT, Bound, packed, unpacked
from greyfell.records.checking import check
from greyfell.records.copying import BACKUPS, DAYS, FILE, daily, todays
from greyfell.records.demo import load_demo
from greyfell.records.kinds import KINDS
from greyfell.records.models import Base, ConclusionRow, EntryRow, TallyRow
from greyfell.records.opened import opened, server_on
from greyfell.records.repository import Repository, Twice
from greyfell.records.store import HERE, OLDER, Store
from greyfell.records.trouble import Trouble, told
from tests.conftest import OVEN, every, piece

PROOF = {"kind": "core_proof", "ohms": 0.1}


@pytest.fixture
def kept(repository, oven):
    repository.add(oven)
    return repository


def wrong_row(store, words, **values):
    """Something put into the file by hand."""
    with store.writing() as session:
        session.execute(sa.text(words), values)


# ------------------------------------------------------------------ files


def test_folder_and_files_are_their_owners_alone(tmp_path):
    """0700 and 0600, also where they stood open before."""
    folder = tmp_path / "a?b%20c"
    folder.mkdir(mode=0o755)
    store = Store(folder)
    Repository(store).add(piece("AB"))

    assert stat.S_IMODE(folder.stat().st_mode) == 0o700
    found = [p for p in folder.iterdir() if p.is_file()]
    assert FILE in {p.name for p in found}
    assert {stat.S_IMODE(p.stat().st_mode) for p in found} == {0o600}
    store.close()


@pytest.mark.parametrize("name", ["a?mode=memory", "a%20b", "über µ"])
def test_any_name_of_a_folder_is_its_name(tmp_path, name):
    store = Store(tmp_path / name)
    Repository(store).add(piece("AB"))
    store.close()

    again = Store(tmp_path / name)
    assert Repository(again).tags() == ["T-1"]
    assert [p.name for p in tmp_path.iterdir()] == [name]
    again.close()


@pytest.mark.parametrize(
    ("said", "words"),
    [
        ("database is locked", "Another program holds"),
        ("database or disk is full", "disk is full"),
        ("attempt to write a readonly database", "cannot be written"),
        ("database disk image is malformed", "damaged"),
        ("something new", "could not be used"),
    ],
)
def test_trouble_is_told_with_a_way_on(said, words):
    found = told(sqlite3.OperationalError(said))

    assert words in found.sentence
    assert len(found.way) > 20


def test_one_server_holds_a_folder(tmp_path):
    """A second one is told where the first answers; when it has ended the folder is free."""
    with opened(tmp_path, "http://one") as first:
        assert first == ""
        with opened(tmp_path, "http://two") as second:
            assert second == "http://one"
        assert server_on(tmp_path) == "http://one"
    assert server_on(tmp_path) == ""


# ------------------------------------------------------------------ backups


def test_a_backup_holds_what_is_still_in_the_log(kept):
    """Taken while the file is open and its log full; restored elsewhere it is the same shelf."""
    log = kept.store.path.with_name(f"{FILE}-wal")
    for _ in range(3):
        kept.append("T-1", [PROOF])
    assert log.stat().st_size > 0
    made = copies.backup(kept.store.folder)
    other = kept.store.folder.with_name("other")

    assert copies.restore(other, made) is None
    back = Store(other)
    assert Repository(back).document("T-1") == kept.document("T-1")
    assert check(back).wrong == ()
    assert check(back).counts == check(kept.store).counts
    back.close()


def test_restoring_keeps_what_stood_there(tmp_path, oven):
    """The file as it was is a backup itself, and restores too."""
    folder = tmp_path / "data"
    store = Store(folder)
    Repository(store).add(oven)
    made = copies.backup(folder, tmp_path / "one.sqlite")
    Repository(store).append("T-1", [PROOF])
    store.close()
    before = copies.restore(folder, made)

    store = Store(folder)
    assert len(Repository(store).document("T-1")["readings"]) == len(OVEN)
    store.close()
    copies.restore(folder, before)
    store = Store(folder)
    assert len(Repository(store).document("T-1")["readings"]) == len(OVEN) + 1
    store.close()


@pytest.mark.parametrize("content", [b"", b"nonsense" * 600, None])
def test_what_is_no_backup_changes_nothing(kept, tmp_path, content):
    path = tmp_path / "odd.sqlite"
    if content is not None:
        path.write_bytes(content)
    before = kept.store.path.read_bytes()

    with pytest.raises(Trouble):
        copies.restore(kept.store.folder, path)
    assert kept.store.path.read_bytes() == before


def test_one_backup_a_day_and_a_fortnight_of_them(kept):
    folder = kept.store.folder
    (folder / BACKUPS).mkdir()
    for day in range(1, 20):
        (folder / BACKUPS / f"daily-2026-01-{day:02d}.sqlite").touch()

    made = daily(folder)
    assert daily(folder) is None
    left = sorted(p.name for p in (folder / BACKUPS).glob("daily-*"))
    assert len(left) == DAYS
    assert left[-1] == made.name
    assert left[0] == "daily-2026-01-07.sqlite"


def test_a_check_names_what_is_wrong(kept):
    """A record that is not the one stored, a row that points nowhere, a reading nobody can read."""
    assert check(kept.store).wrong == ()
    wrong_row(kept.store, "update reading set body = json_set(body, '$.ohms', -5) where id = 2")
    with contextlib.closing(sqlite3.connect(kept.store.path)) as db:
        db.execute("insert into reading values (99, 77, 'r1', 'turns', '{}')")
        db.commit()

    wrong = " ".join(check(kept.store).wrong)
    assert "not the one that was stored" in wrong
    assert "r2 is left out" in wrong
    assert "points nowhere" in wrong


def smashed(path, table):
    """A data file with the first page of a table overwritten."""
    with contextlib.closing(sqlite3.connect(path)) as db:
        db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        db.execute("PRAGMA journal_mode=DELETE")
        root = db.execute("SELECT rootpage FROM sqlite_master WHERE name = ?", [table]).fetchone()
        size = db.execute("PRAGMA page_size").fetchone()[0]
    with path.open("r+b") as file:
        file.seek((root[0] - 1) * size)
        file.write(b"\xa5" * size)


@pytest.fixture
def three(tmp_path):
    """A folder of three pieces with a backup of them."""
    folder = tmp_path / "data"
    store = Store(folder)
    for tag in ("P-1", "P-2", "P-3"):
        Repository(store).add(piece("ABCDE", OVEN) | {"tag": tag})
    store.close()
    copies.backup(folder)
    return folder


@pytest.mark.parametrize("table", ["conclusion", "output", "entry", "tally", "ix_conclusion_tag"])
def test_a_damaged_cache_is_thrown_away_and_made_again(three, table):
    """The shelf opens, every piece stands on it, and nothing else is lost."""
    smashed(three / FILE, table)
    store = Store(three)
    shelf = Repository(store)

    assert store.damage == ""
    assert [i.tag for i in shelf.shelf("tag").items] == ["P-1", "P-2", "P-3"]
    while shelf.conclude_some():
        pass
    assert shelf.shelf("tag").families == {"microwave": 3}
    assert check(store).wrong == ()
    store.close()


def test_a_damaged_page_of_evidence_is_named_with_what_can_be_read_and_a_way_back(three):
    """Readings lost: the check goes on, names them, tells the pieces and the backup."""
    smashed(three / FILE, "strike")
    store = Store(three)
    found = check(store)
    store.close()

    assert store.damage
    assert any("the file is damaged" in w for w in found.wrong)
    assert found.backup is not None
    assert found.backup.name.startswith("asked-")
    run = CliRunner().invoke(main, ["check", "--data", str(three)])
    assert run.exit_code == 1
    assert "greyfell restore" in run.output
    assert "Pieces that can be read" in run.output


@pytest.mark.parametrize("table", ["piece", "reading", "ix_piece_tag", "sqlite_master", "photo"])
def test_a_check_of_any_damaged_table_ends_in_sentences(three, table):
    """Never a fault of the program, whichever page is hit; the backup is told."""
    if table == "sqlite_master":
        (three / FILE).write_bytes(b"\xa5" * 8192)
    else:
        smashed(three / FILE, table)
    run = CliRunner().invoke(main, ["check", "--data", str(three)])

    assert run.exit_code in (1, 3)
    assert "greyfell restore" in run.output
    assert "Traceback" not in run.output
    if table == "ix_piece_tag":
        assert "P-1, P-2, P-3" in run.output


def test_a_row_that_is_no_json_is_told_as_damage(kept):
    """One letter of a reading flipped on the disk: trouble with a way on, not a fault of ours."""
    wrong_row(kept.store, "update reading set body = '{\"kind\": ' where id = 2")
    with pytest.raises(Trouble, match="damaged"):
        kept.document("T-1")
    assert any("T-1" in w for w in check(kept.store).wrong)


# ------------------------------------------------------------------ the day's backup, and back


def backed(folder):
    """Backups of a day that stand in a folder, once their threads are through."""
    for thread in threading.enumerate():
        if thread is not threading.current_thread() and not thread.daemon:
            thread.join(5)
    return list((folder / BACKUPS).glob("daily-*"))


def test_changes_that_come_quickly_make_one_backup_at_a_time(tmp_path, oven, monkeypatch, caplog):
    """The first is at work while others are stored: nobody joins it, nothing is complained of."""
    begun, may_end = [], threading.Event()

    def slow(folder):
        begun.append(folder)
        may_end.wait(5)
        return daily(folder)

    monkeypatch.setattr("greyfell.records.store.daily", slow)
    store = Store(tmp_path / "d", backed=True)
    shelf = Repository(store)
    for n in range(4):
        shelf.add({**oven, "tag": f"Q-{n}"})
    may_end.set()
    made = backed(store.folder)
    store.close()

    assert len(begun) == 1
    assert [p.suffix for p in made] == [".sqlite"]
    assert caplog.records == []


@pytest.mark.parametrize(("age", "stays"), [(10.0, True), (601.0, False)])
def test_half_a_copy_that_a_killed_program_left_goes(tmp_path, age, stays):
    """After ten minutes nobody is at work on it any more; before, it is another program's."""
    Store(tmp_path).close()
    left = todays(tmp_path).with_name(f"{todays(tmp_path).name}.1.half")
    left.parent.mkdir(exist_ok=True)
    left.touch()
    os.utime(left, (time.time() - age, time.time() - age))
    daily(tmp_path)

    assert left.exists() is stays
    assert todays(tmp_path).exists()


def test_the_days_backup_is_made_when_something_changes_and_holds_it(tmp_path, oven):
    """Opened and looked at: none. The first piece: one, with the piece in it."""
    store = Store(tmp_path / "d", backed=True)
    shelf = Repository(store)
    shelf.shelf("tag")
    assert backed(store.folder) == []
    shelf.add(oven)
    made = backed(store.folder)
    shelf.append("T-1", [PROOF])

    assert len(made) == 1
    assert copies.holds(made[0]).pieces == 1
    assert backed(store.folder) == made
    store.close()


def asked_to_restore(folder, source, *more, answer=None, monkeypatch=None):
    """The command, with somebody at a terminal where an answer is given."""
    if answer is not None:
        monkeypatch.setattr("greyfell.cli._somebody", lambda: True)
    command = ["restore", str(source), "--data", str(folder), *more]
    return CliRunner().invoke(main, command, input=answer)


def test_restore_shows_both_and_asks(three, tmp_path, monkeypatch):
    """Three pieces by one: shown, refused, agreed to; without anybody to ask, nothing is done."""
    lesser = tmp_path / "lesser"
    store = Store(lesser)
    Repository(store).add(piece("AB"))
    store.close()
    source = copies.backup(lesser)
    nobody = asked_to_restore(three, source)
    no = asked_to_restore(three, source, answer="n\n", monkeypatch=monkeypatch)

    assert nobody.exit_code == 2
    assert "3 pieces" in nobody.output
    assert "1 piece," in nobody.output
    assert no.exit_code == 1
    assert copies.holds(three / FILE).pieces == 3
    agreed = asked_to_restore(three, source, answer="y\n", monkeypatch=monkeypatch)
    assert agreed.exit_code == 0
    assert copies.holds(three / FILE).pieces == 1
    before = next((three / BACKUPS).glob("before-restore-*"))
    assert asked_to_restore(three, before, "--yes").exit_code == 0
    assert copies.holds(three / FILE).pieces == 3


def test_every_table_is_a_kind_that_is_kept():
    """Whatever joins the file is backed up, checked and counted."""
    known = {kind.table.__tablename__ for kind in KINDS} | {TallyRow.__tablename__}

    assert known == set(Base.metadata.tables)


# ------------------------------------------------------------------ upgrades


def at_revision(folder, revision):
    """A new folder whose file stands at a migration; what the migrations are run with."""
    folder.mkdir()
    engine = sa.create_engine(f"sqlite:///{folder / FILE}")
    config = Config()
    config.set_main_option("script_location", str(HERE))
    config.set_main_option("path_separator", "os")
    with engine.connect() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, revision)
        connection.commit()
    engine.dispose()
    return config


def first_version(folder):
    """A folder as the first version left it, with what it wrote still in the log."""
    at_revision(folder, "0001")
    db = sqlite3.connect(folder / FILE)
    db.execute("pragma journal_mode=wal")
    head = {k: v for k, v in piece("ABCD").items() if k != "readings"}
    for n in range(1, 4):
        row = (
            n,
            f"u{n}",
            f"T-{n}",
            f"t-{n}",
            "",
            json.dumps({**head, "tag": f"T-{n}"}),
            1,
            f"h{n}",
        )
        db.execute("insert into piece values (?,?,?,?,?,?,?,?,'2026-01-01T00:00:00+00:00')", row)
        body = {"id": "r1", "kind": "core_proof", "ohms": 0.1}
        db.execute(
            "insert into reading values (?, ?, 'r1', 'core_proof', ?)", (n, n, json.dumps(body))
        )
    told_of = json.dumps({"family": "mains", "sure": 0.9, "danger": 1, "headline": "as it was"})
    for version in ("old", "older"):  # conclusions were never dropped
        db.execute(
            "insert into conclusion values ('h1', ?, 'mains', 'screened', 1, ?)", (version, told_of)
        )
    db.commit()
    return db


@pytest.mark.parametrize("revision", OLDER)
def test_a_file_of_every_earlier_version_opens(tmp_path, revision):
    """Every migration there is stands among what can be opened; a piece can be kept in each."""
    folder = tmp_path / "before"
    config = at_revision(folder, revision)
    repository = Repository(Store(folder))
    repository.add(piece("AB"))

    scripts = ScriptDirectory.from_config(config).walk_revisions()
    assert sorted(OLDER) == sorted(script.revision for script in scripts)
    assert repository.tags() == ["T-1"]
    repository.store.close()


def test_an_upgrade_copies_the_file_with_its_log_and_keeps_everything(tmp_path):
    """The backup restores with every reading; the shelf answers at once with what stood there, and
    catches up.
    """
    holding = first_version(tmp_path / "data")
    store = Store(tmp_path / "data")
    repository = Repository(store)
    holding.close()

    (made,) = (tmp_path / "data" / BACKUPS).glob("before-*.sqlite")
    with contextlib.closing(sqlite3.connect(made)) as db:
        assert db.execute("select count(*) from reading").fetchone() == (3,)
    page = repository.shelf()
    assert page.total == 3
    assert every(item.earlier for item in page.items)
    assert repository.summaries(page.items)[1]["headline"] == "as it was"
    assert repository.waiting() == 3
    while repository.conclude_some(2):
        pass
    page = repository.shelf()
    assert repository.waiting() == 0
    assert [item.earlier for item in page.items] == [False] * 3
    assert {len(repository.document(tag)["readings"]) for tag in repository.tags()} == {1}
    store.close()


# ------------------------------------------------------------------ conclusions and the tally


def tallied(repository):
    """The shelf's counts, and the same counted anew."""
    page = repository.shelf()
    with repository.store.looking() as connection:
        query = sa.select(ConclusionRow.family, sa.func.count()).group_by(ConclusionRow.family)
        return page.families, dict(connection.execute(query).all())


def test_the_tally_follows_every_change(repository):
    """Added, changed, taken away by hand: the counts are those of the conclusions."""
    load_demo(repository)
    for line in range(3):
        repository.append("CQ-014", [{"kind": "resistance", "between": ["A", "B"], "ohms": 1.0}])
        assert tallied(repository)[0] == tallied(repository)[1], line
    wrong_row(repository.store, "delete from conclusion where piece_id = 1")

    assert tallied(repository)[0] == tallied(repository)[1]


def test_conclusions_do_not_grow_with_writes(kept):
    for _ in range(5):
        kept.append("T-1", [PROOF])
    with kept.store.looking() as connection:
        assert (
            connection.execute(sa.select(sa.func.count()).select_from(ConclusionRow)).scalar() == 1
        )


def test_pages_of_the_shelf_hold_every_piece_once(repository):
    load_demo(repository)
    for n in range(60):
        repository.add({**piece("AB"), "tag": f"Z-{n}"})
    for sort in shelves.ORDERS:
        first = repository.shelf(sort=sort)
        found = [
            i.tag for p in range(first.pages) for i in repository.shelf(sort=sort, page=p + 1).items
        ]
        assert sorted(found) == sorted(repository.tags()), sort


def test_a_piece_that_cannot_be_read_is_on_the_shelf_and_can_be_exported(kept):
    """Its tag says so; its document comes out as it stands."""
    wrong_row(kept.store, "update piece set head = json_set(head, '$.leads', 3)")
    wrong_row(kept.store, "update conclusion set core_version = 'old'")
    assert kept.conclude_some() == 1
    (item,) = kept.shelf().items

    assert "cannot be read" in kept.summaries([item])[item.piece_id]["headline"]
    assert kept.document("T-1")["leads"] == 3


def test_one_piece_that_fails_keeps_no_other_from_being_concluded(kept, monkeypatch):
    """Whatever goes wrong with it: the shelf says so of it, and is done."""
    kept.add({**piece("AB"), "tag": "T-2"})
    wrong_row(kept.store, "update conclusion set core_version = 'old'")
    concluded = shelves.concluded

    def failing(of):
        if of.tag == "T-1":
            raise ZeroDivisionError
        return concluded(of)

    monkeypatch.setattr(shelves, "concluded", failing)
    assert kept.conclude_some() == 2
    assert kept.waiting() == kept.conclude_some() == 0


def test_a_stored_extreme_opens_is_named_and_can_be_struck(kept):
    """A reading from before there were bounds: the rest goes on, and it can be struck out."""
    wrong_row(kept.store, "update reading set body = json_set(body, '$.ohms', 1e300) where id = 2")
    wrong_row(kept.store, "update piece set record_hash = 'x'")
    found = Repository(kept.store).get("T-1")
    assert [left.what for left in found.unread] == ["r2"]

    kept.append("T-1", [PROOF])
    with pytest.raises(FieldError, match="at most"):
        kept.append("T-1", [{"kind": "resistance", "between": ["A", "B"], "ohms": 1e300}])
    after = kept.strike("T-1", "r2", "a slip of the pen")
    assert [left.what for left in after.unread] == ["r2"]
    assert kept.document("T-1")["readings"][1]["struck"]["reason"] == "a slip of the pen"


# ------------------------------------------------------------------ entered once


def test_what_is_sent_twice_is_stored_once(kept):
    """Under one key; also at the same moment from two tabs."""
    kept.append("T-1", [PROOF], key="k1", said="proof")
    assert (kept.entered("k1").tag, kept.entered("k1").said) == ("T-1", "proof")
    with pytest.raises(Twice):
        kept.append("T-1", [PROOF], key="k1")
    outcomes = []

    def send():
        try:
            kept.append("T-1", [PROOF], key="k2")
            outcomes.append("stored")
        except Twice:
            outcomes.append("twice")

    tabs = [threading.Thread(target=send) for _ in range(4)]
    for t in tabs:
        t.start()
    for t in tabs:
        t.join()

    assert sorted(outcomes) == ["stored", "twice", "twice", "twice"]
    assert len(kept.document("T-1")["readings"]) == len(OVEN) + 2
    assert kept.entered("") is kept.entered("never") is None


def test_keys_long_past_are_forgotten(kept):
    kept.append("T-1", [PROOF], key="old")
    wrong_row(kept.store, "update entry set at = '2020-01-01T00:00:00+00:00'")
    kept.append("T-1", [PROOF], key="new")

    with kept.store.looking() as connection:
        assert connection.execute(sa.select(EntryRow.key)).scalars().all() == ["new"]


def test_thinking_does_not_hold_the_lock(kept, monkeypatch):
    """While one change is worked out, another piece is written."""
    kept.add({**piece("AB"), "tag": "T-2"})
    thinking, written = threading.Event(), threading.Event()
    concluded = shelves.concluded

    def slow(piece_kept):
        if piece_kept.tag == "T-1":
            thinking.set()
            assert written.wait(10)
        return concluded(piece_kept)

    monkeypatch.setattr(shelves, "concluded", slow)
    one = threading.Thread(target=kept.append, args=("T-1", [PROOF]))
    one.start()
    assert thinking.wait(10)
    kept.append("T-2", [PROOF])
    written.set()
    one.join()

    assert len(kept.document("T-2")["readings"]) == 1
    assert len(kept.document("T-1")["readings"]) == len(OVEN) + 1


def test_a_change_from_another_program_is_not_overwritten(kept):
    """Two repositories on one file: the second works its change out anew on what the first did."""
    other = Repository(kept.store)
    assert other.get("T-1").tag == "T-1"  # in mind, and soon out of date
    kept.append("T-1", [PROOF])
    other.append("T-1", [PROOF])

    assert len(kept.document("T-1")["readings"]) == len(OVEN) + 2


# ------------------------------------------------------------------ the whole shelf


def test_the_whole_shelf_goes_out_and_in(repository, tmp_path):
    """As one archive: the same documents, to the last key."""
    load_demo(repository)
    archive = packed(repository)
    other = Store(tmp_path / "other")
    back = Repository(other)
    brought = list(unpacked(back, archive))

    assert {b.outcome for b in brought} == {"added"}
    assert {t: back.document(t) for t in back.tags()} == {
        t: repository.document(t) for t in repository.tags()
    }
    assert {b.outcome for b in unpacked(back, archive)} == {"same"}
    other.close()


def zipped(**files):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, text in files.items():
            archive.writestr(name, text)
    return out.getvalue()


def test_one_bad_record_in_an_archive_answers_for_itself(repository):
    """The others come in; nothing is written outside, whatever names it holds."""
    head = json.dumps({"format": FORMAT})
    good = json.dumps({**piece("AB"), "tag": "G-1"})
    archive = zipped(
        **{
            "shelf.json": head,
            "pieces/good.json": good,
            "pieces/bad.json": "{",
            "pieces/big.json": " " * (5 * 2**20),
            "pieces/../../evil.json": good,
            "/etc/passwd": "x",
        }
    )
    outcomes = {b.name: b.outcome for b in unpacked(repository, archive)}

    assert outcomes == {"G-1": "added", "pieces/bad.json": "refused", "pieces/big.json": "refused"}
    assert repository.tags() == ["G-1"]


@pytest.mark.parametrize(
    "data", [b"PK\x03\x04nonsense", zipped(x="y"), zipped(**{"shelf.json": "{}"}), b""]
)
def test_what_is_no_archive_is_refused(repository, data):
    with pytest.raises(FieldError):
        list(unpacked(repository, data))


def test_a_merge_needs_agreement_in_an_archive_too(kept):
    archive = packed(kept)
    document = copy.deepcopy(kept.document("T-1"))
    document["readings"].append({"id": "r77", **PROOF})
    changed = zipped(
        **{"shelf.json": json.dumps({"format": FORMAT}), "pieces/T-1.json": json.dumps(document)}
    )

    assert [b.outcome for b in unpacked(kept, archive)] == ["same"]
    assert [b.outcome for b in unpacked(kept, changed)] == ["ask"]
    assert [b.outcome for b in unpacked(kept, changed, merge=True)] == ["merged"]
    assert os.path.exists(kept.store.path)


# ------------------------------------------------------------------ archives, bounded and whole


def shelf_of(count):
    """An archive of so many small pieces."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("shelf.json", json.dumps({"format": FORMAT, "pieces": []}))
        for n in range(count):
            archive.writestr(f"pieces/A-{n}.json", json.dumps(piece("AB") | {"tag": f"A-{n}"}))
    return out.getvalue()


@pytest.mark.parametrize(("pieces", "comes_in"), [(3, True), (2, False)])
def test_an_archive_may_hold_so_many_pieces(repository, pieces, comes_in):
    """Three, by a bound of three and of two; refused, nothing is stored."""
    bound = Bound(unfolded=10**6, pieces=pieces, way="Elsewhere.")
    if comes_in:
        assert len(unpacked(repository, shelf_of(3), bound=bound)) == 3
        return
    with pytest.raises(FieldError, match=r"may hold 2 pieces; 3 stand\. Elsewhere"):
        unpacked(repository, shelf_of(3), bound=bound)
    assert repository.tags() == []


@pytest.mark.parametrize("short_by", [0, 1])
def test_an_archive_may_unfold_to_so_many_bytes(repository, short_by):
    """By what its list says, before anything of it is unfolded."""
    data = shelf_of(2)
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        size = sum(entry.file_size for entry in archive.infolist())
    bound = Bound(unfolded=size - short_by, pieces=9, way="Elsewhere.")
    if short_by:
        with pytest.raises(FieldError, match="may unfold to"):
            unpacked(repository, data, bound=bound)
    else:
        assert len(unpacked(repository, data, bound=bound)) == 2


def test_an_import_that_is_broken_off_stores_nothing(repository, monkeypatch):
    """Ended at the third of four pieces, by the person or the machine."""
    bring_in, seen = Repository.bring_in, []

    def broken_off(self, document, **more):
        seen.append(document["tag"])
        if len(seen) == 3:
            raise KeyboardInterrupt
        return bring_in(self, document, **more)

    monkeypatch.setattr(Repository, "bring_in", broken_off)
    with pytest.raises(KeyboardInterrupt):
        unpacked(repository, shelf_of(4))
    assert repository.tags() == []
    monkeypatch.undo()
    assert len(unpacked(repository, shelf_of(4))) == 4


def test_what_follows_is_worked_out_before_the_file_is_locked(repository, monkeypatch):
    """Another writer is not kept waiting while an archive is thought about."""
    thought, within = shelves.concluded, []

    def watched(kept):
        within.append(repository.store._within() is not None)
        return thought(kept)

    documents = [piece("AB") | {"tag": f"A-{n}", "id": f"id-{n}"} for n in range(3)]
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("shelf.json", json.dumps({"format": FORMAT}))
        for document in documents:
            archive.writestr(f"pieces/{document['tag']}.json", json.dumps(document))
    monkeypatch.setattr(shelves, "concluded", watched)
    told = []
    unpacked(repository, out.getvalue(), at=lambda done, of: told.append((done, of)))

    assert within == [False] * 3
    assert told == [(1, 3), (2, 3), (3, 3)]
    unpacked(repository, out.getvalue())
    assert within == [False] * 3  # here already: nothing is thought about again
    assert repository.foreseen == {}


def test_what_would_not_come_in_again_is_not_written(kept, monkeypatch, tmp_path):
    """The bound of an archive holds for its writer as for its reader; no half file stays."""
    monkeypatch.setattr(archives, "BY_COMMAND", Bound(unfolded=10**6, pieces=0, way="One by one."))
    target = tmp_path / "shelf.zip"
    command = ["export", "--all", "--to", str(target), "--data", str(kept.store.folder)]
    run = CliRunner().invoke(main, command)

    assert run.exit_code == 2
    assert "One by one" in run.output
    assert list(tmp_path.glob("shelf*")) == []
