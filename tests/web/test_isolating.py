"""The isolated bench over HTTP: asked what it is for, three drawings, the sheet typed back."""

import html

import pytest

from greyfell.core.telling.answers import PLACES, SHORTS, shorts_at
from greyfell.records.repository import Repository
from tests.conftest import every


def page(response):
    """The text of a page."""
    return html.unescape(response.get_data(as_text=True))


def test_it_asks_what_it_is_for_and_draws_earth_float_and_neutral(demo):
    """CQ-005, a one to one: an answer, three drawings, the sheet."""
    shown = page(demo.get("/pieces/CQ-005/isolated?purpose=scope-live"))

    assert "differential probe" in shown
    assert [f"<b>{tie}</b>: pin to" in shown for tie in ("Earth", "Float", "Neutral")] == [True] * 3
    assert "Its wiring" in shown
    assert "State sheet" in shown


@pytest.mark.parametrize(
    ("tag", "words"), [("CQ-018", "no wiring is offered"), ("CQ-033", "isolates")]
)
def test_what_never_isolates_is_told_and_has_no_sheet(demo, tag, words):
    """Oven parts, a variac."""
    shown = page(demo.get(f"/pieces/{tag}/isolated"))

    assert words in shown
    assert "State sheet" not in shown


def test_a_sheet_typed_back_is_compared_and_kept(demo):
    """Right at on; live where nothing should be at off: in red, and kept as wrong."""
    form = {"v.on.L-N": "240", "v.off.L-N": "12", "v.on.case-earth": "0.2"}
    shown = page(demo.post("/pieces/CQ-005/isolated", form))
    said = Repository(demo.app.extensions["store"]).get("CQ-005").record.statements[-1]

    assert "as expected" in shown
    assert "live where nothing should be" in shown
    assert (said.kind, said.concerns) == ("state-sheet", "wrong")


@pytest.mark.parametrize("form", [{}, {"v.on.L-N": "many"}, {"v.on.L-N": "5000"}])
def test_a_sheet_that_tells_nothing_is_refused(demo, form):
    """By a sentence; what was typed stays."""
    answer = demo.post("/pieces/CQ-005/isolated", form)

    assert answer.status_code == 422
    for value in form.values():
        assert f'value="{value}"' in page(answer)


ANSWERED = {
    "power": "/pieces/CQ-018/?at=power",
    "isolated": "/pieces/CQ-005/isolated",
    "rig": "/rigs/edit?piece=CQ-018",
    "trips": "/trips",
    "dangers": "/pieces/CQ-018/dangers",
}
"""Where the short answers of each place are looked for."""


@pytest.mark.parametrize("place", PLACES)
def test_short_answers_stand_beside_the_act(demo, place):
    """Every question of a place on its page with its answer; none that belongs elsewhere."""
    shown = page(demo.get(ANSWERED[place]))

    for short in SHORTS:
        assert (short.question in shown) is (place in short.places)
        assert (short.answer in shown) is (place in short.places)


def test_what_is_asked_most_is_answered():
    """One pole earthed, what a trip sees, what isolation does not stop, half to the case."""
    keys = {s.key for s in SHORTS}

    assert {"one-pole", "trip-sees", "isolation-stops", "half-to-case"} <= keys
    assert every(s.source and s.answer.endswith(".") and s.question.endswith("?") for s in SHORTS)
    with pytest.raises(KeyError):
        shorts_at("elsewhere")
