"""A shelf written by an older version of the rules: what they judge otherwise is told once, a stop
that goes is never silent, and a piece for practice is no iron.

`shelf-d2044dc.sql` is the dump of a file that the commit d2044dc wrote (core 13, tables 0008): a
site transformer whose declared centre tap it condemned, a sound oven part, a piece for practice.
"""

import contextlib
import sqlite3
import subprocess
import sys
import zipfile
from io import BytesIO
from pathlib import Path

import pytest

from greyfell.core import CORE_VERSION
from greyfell.records import backup as copies
from greyfell.records.archive import packed
from greyfell.records.copying import FILE
from greyfell.records.plain import iron_tags
from greyfell.records.repository import Repository
from greyfell.records.shelf import ASIDE
from greyfell.records.store import Store
from tests.conftest import Client, piece

DUMP = Path(__file__).with_name("shelf-d2044dc.sql").read_text(encoding="utf-8")


@pytest.fixture
def folder(tmp_path):
    """A data folder as d2044dc left it."""
    made = tmp_path / "old"
    made.mkdir()
    with contextlib.closing(sqlite3.connect(made / FILE)) as db:
        db.executescript(DUMP)
    return made


@pytest.fixture
def old(folder):
    """The shelf, opened by this version; nothing was looked at again yet."""
    store = Store(folder)
    yield Repository(store)
    store.close()


def test_until_it_is_looked_at_a_piece_stands_as_the_old_rules_left_it(old):
    """Neither verdict nor figure changes by opening the file."""
    page = old.shelf("tag")

    assert [(i.tag, i.earlier) for i in page.items] == [("O-1", True), ("S-1", True)]
    assert page.verdicts["condemned"] == 1
    assert old.news() == []


def test_a_verdict_that_newer_rules_change_is_told_with_its_reason_until_it_is_read(old):
    """Condemned by d2044dc, screened now: from what to what, why; told once."""
    while old.conclude_some():
        pass
    told = old.news()

    assert [(n.tag, n.before, n.after) for n in told] == [("S-1", "condemned", "screened")]
    assert told[0].was.startswith("stop: ")
    assert "by design" in told[0].why
    assert old.news("S-1") == told
    assert old.news("O-1") == []
    old.read_news(["S-1"])
    assert old.news() == []


def test_a_piece_that_is_opened_is_looked_at_and_told_at_once(old):
    """Before the background has come to it."""
    old.look_again(old.get("S-1"))

    assert [n.tag for n in old.news()] == ["S-1"]
    assert {i.tag: i.earlier for i in old.shelf("tag").items} == {"O-1": True, "S-1": False}


def test_what_somebody_adds_is_no_news(old):
    """Another reading, another verdict: the rules did not change, the record did."""
    while old.conclude_some():
        pass
    old.read_news(["S-1"])
    old.append("O-1", [{"kind": "resistance", "between": ["A", "core"], "ohms": 3.0}])
    while old.conclude_some():
        pass

    assert old.get("O-1").ident.verdict == "condemned"
    assert old.news() == []


def test_news_wait_over_a_second_upgrade_and_tell_the_first_verdict(old, monkeypatch):
    """From what the person saw last, not from what nobody saw."""
    while old.conclude_some():
        pass
    monkeypatch.setattr("greyfell.records.shelf.CORE_VERSION", f"{CORE_VERSION}-next")
    monkeypatch.setattr("greyfell.core.judgement.identification.Identification.verdict", "doubtful")
    while old.conclude_some():
        pass
    told = {n.tag: (n.before, n.after) for n in old.news()}

    assert told == {"S-1": ("condemned", "doubtful"), "O-1": ("screened", "doubtful")}


def test_shelf_and_piece_tell_it_and_a_press_ends_it(folder, houses):
    """On both pages, with the reason; gone from both when it was read."""
    with houses.over(folder) as app:
        client = Client(app)
        shown = client.get("/pieces/S-1/").get_data(as_text=True)
        shelf = client.get("/").get_data(as_text=True)
        for page in (shown, shelf):
            assert "judges this piece otherwise than before" in page
            assert "it was condemned" in page
            assert "now it is screened" in page
        sent = client.post("/news", {"tag": "S-1", "back": "/pieces/S-1/"})

        assert sent.headers["Location"] == "/pieces/S-1/"
        assert "otherwise than before" not in client.get("/").get_data(as_text=True)


# ------------------------------------------------------------------ pieces for practice


def names(repository):
    """Pieces of the shelf's archive."""
    with zipfile.ZipFile(BytesIO(packed(repository))) as archive:
        return [n for n in archive.namelist() if n.startswith("pieces/")]


def test_an_old_practice_piece_is_known_by_its_title(old):
    """Not on the shelf, not counted, not in the archive; found where it is asked for."""
    for _ in range(2):
        page = old.shelf("tag")
        assert page.total == 2
        assert page.verdicts["practice"] == 1
        assert [i.tag for i in old.shelf("tag", verdict="practice").items] == ["PR-F7"]
        while old.conclude_some():
            pass
    assert names(old) == ["pieces/O-1.json", "pieces/S-1.json"]
    assert copies.holds(old.store.path).words.startswith("2 pieces and 1 to practise on, ")


def test_a_practice_piece_is_known_by_its_statement_whatever_its_title(repository):
    """The flag is what is said of it."""
    said = [{"kind": "practice", "concerns": "first", "text": "3"}]
    repository.add(piece("AB", statements=said))
    repository.add(piece("AB") | {"tag": "T-2", "title": "Practical part"})

    assert [i.tag for i in repository.shelf("tag").items] == ["T-2"]
    assert names(repository) == ["pieces/T-2.json"]
    assert repository.shelf("tag").total == 1
    assert "practice" in ASIDE


def test_the_plain_list_names_the_same_iron_without_the_tools_that_write(old, repository):
    """Of an old file as of a new one; where there is no file, nobody knows."""
    repository.add(piece("AB"))
    for shelf in (old, repository):
        assert iron_tags(shelf.store.path) == shelf.tags(practice=False) != []
    assert iron_tags(old.store.folder / "none.sqlite") is None
    script = (
        "import sys; from greyfell.cli import main; "
        f"main(['list', '--data', r'{old.store.folder}'], standalone_mode=False); "
        "print('sqlalchemy' in sys.modules, 'pydantic' in sys.modules)"
    )
    done = subprocess.run(
        [sys.executable, "-c", script], capture_output=True, text=True, check=True
    )

    assert done.stdout.split() == ["O-1", "S-1", "False", "False"]
