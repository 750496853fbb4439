"""What a stored line changed: named with its reading, and what would undo it; told once, with and
without a script; nothing where neither gate nor verdict moved.
"""

import re
from datetime import timedelta

import pytest
from markupsafe import Markup

from greyfell import clock
from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.core.judgement.gates import live_gate
from greyfell.core.telling.moved import Side, moved
from greyfell.records.repository import Repository
from tests.conftest import MAINS, PLATE, piece

SALVAGED = {"kind": "no-capacitor", "concerns": "capacitor", "text": "looked: none here"}
SOUND = piece(
    "ABCD",
    MAINS,
    nameplate=PLATE,
    core={"bonded_by_design": False},
    statements=[{"id": "s1", **SALVAGED}],
    supply={"volts": 230, "hertz": 50},
)


def said(client, url="/pieces/T-1/?at=cold", **more):
    """The sentence on a page; empty where there is none."""
    text = client.get(url, **more).get_data(as_text=True)
    found = re.search(r'id="moved">([^<]*)<', text)
    return str(Markup(found[1]).unescape()) if found else ""


@pytest.fixture
def open_piece(client):
    """A piece whose gate is open."""
    repository = Repository(client.app.extensions["store"])
    document = {k: v for k, v in SOUND.items() if k != "core"}
    today = clock.moment()
    document["readings"] = [
        {**r, "at": (today - timedelta(minutes=30 - n)).isoformat()}
        for n, r in enumerate(SOUND["readings"])
    ]
    repository.add(document)
    assert repository.get("T-1").gate.open
    return client


def test_a_reading_that_shuts_the_gate_is_named_with_what_clears_it(open_piece):
    """A winding on the core: once, on the page that follows."""
    open_piece.post("/pieces/T-1/jot", {"line": "A-core 3"})
    told = said(open_piece)

    assert told.startswith("What changed: r7, A–core 3")
    assert "shut the gate" in told
    assert "condemned" in told
    assert "To undo it: the same pair read open on the highest range." in told
    assert said(open_piece) == ""


def test_striking_it_is_told_too(open_piece):
    """What a strike moved, and that a reading of the same points would move it back."""
    open_piece.post("/pieces/T-1/jot", {"line": "A-core 3"})
    said(open_piece)
    open_piece.post("/pieces/T-1/strike/r7", {"reason": "wrong lead"})

    assert "striking r7 out" in said(open_piece, "/pieces/T-1/?at=record")


def test_a_reading_that_moves_nothing_says_nothing(open_piece):
    """The same pair once more."""
    open_piece.post("/pieces/T-1/jot", {"line": "A-B 33"})

    assert said(open_piece) == ""


def test_with_the_script_it_stands_in_the_answer_itself(open_piece):
    """The part that the script asked for holds it."""
    answer = open_piece.post(
        "/pieces/T-1/jot", {"line": "A-core 3"}, headers={"X-Greyfell": "part"}
    )

    assert "What changed: r7" in answer.get_data(as_text=True)
    assert said(open_piece) == ""


def test_the_bench_card_tells_it(open_piece):
    """Where a figure is typed with gloves on."""
    open_piece.post("/pieces/T-1/bench", {"begins": "A-core", "figure": "3", "unit": " Ω"})

    assert "shut the gate" in said(open_piece, "/pieces/T-1/bench")


def test_what_opens_the_gate_says_so():
    """A word on the capacitor, on a piece that lacked it."""
    bare = {k: v for k, v in SOUND.items() if k not in ("core", "statements")}
    whole = {**bare, "statements": SOUND["statements"]}
    told = moved(side(bare), side(whole))

    assert "opened the gate" in told
    assert "what was said" in told
    assert "To undo it: say what is so now" in told


def side(document):
    """A piece as one side of a change."""
    record = parse_record(document)
    ident = identify(record)
    return Side(record=record, ident=ident, gate=live_gate(ident))
