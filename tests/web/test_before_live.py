"""What is asked before a first live step: once of every name, without a name once a session; never
ticked beforehand; nothing of what was typed is lost.
"""

import pytest

from greyfell.core.errors import FieldError
from greyfell.core.telling.before_live import ASKED, answered
from greyfell.records.hands import Hands
from tests.conftest import BEFORE_LIVE, Client, every

POWER = "/pieces/CQ-018/?at=power"
SCREEN = "Before anything is live"


def page(response):
    """The text of a page."""
    return response.get_data(as_text=True)


@pytest.fixture
def newcomer(demo):
    """A browser in which nobody answered yet."""
    return Client(demo.app)


@pytest.mark.parametrize("where", ["power", "sweep"])
def test_the_screen_stands_before_every_live_station(newcomer, where):
    """No step, no bench, no lamp is told; nothing is ticked."""
    shown = page(newcomer.get(f"/pieces/CQ-018/?at={where}"))

    assert SCREEN in shown
    assert "The gate is open" not in shown
    assert every(q.words in shown for q in ASKED)
    assert " checked" not in shown
    assert "licensed electrician" in shown


def test_cold_stations_and_a_shut_gate_ask_nothing(newcomer):
    """It stands before what is live, and nowhere else."""
    assert SCREEN not in page(newcomer.get("/pieces/CQ-018/?at=cold"))
    assert SCREEN not in page(newcomer.get("/pieces/CQ-011/?at=power"))


def test_answered_without_a_name_it_is_gone_for_this_browser_alone(newcomer):
    """Another browser is asked again."""
    sent = newcomer.post("/before-live", {**BEFORE_LIVE, "back": POWER})
    other = Client(newcomer.app)

    assert sent.headers["Location"].endswith(POWER)
    assert SCREEN not in page(newcomer.get(POWER))
    assert SCREEN in page(other.get(POWER))


def test_a_name_is_asked_once_and_in_any_browser(newcomer):
    """Another name is asked; capitals and blanks make no other person."""
    newcomer.post("/hand", {"hand": "Ada  L"})
    newcomer.post("/before-live", BEFORE_LIVE)
    other = Client(newcomer.app)
    other.post("/hand", {"hand": "ada l"})

    assert SCREEN not in page(newcomer.get(POWER))
    assert SCREEN not in page(other.get(POWER))
    other.post("/hand", {"hand": "Bo"})
    assert "Asked once of Bo" in page(other.get(POWER))


def test_a_nameless_answer_does_not_stand_for_a_name(newcomer):
    """Typed as operator afterwards, somebody is asked."""
    newcomer.post("/before-live", BEFORE_LIVE)
    newcomer.post("/hand", {"hand": "Cy"})

    assert SCREEN in page(newcomer.get(POWER))
    assert not Hands(newcomer.app.extensions["store"]).was_asked("Cy")


@pytest.mark.parametrize("key", [q.key for q in ASKED])
def test_each_question_left_out_is_said_at_its_place_and_nothing_is_lost(newcomer, key):
    """422, the sentence, what was typed; the screen stays."""
    given = {k: v for k, v in BEFORE_LIVE.items() if k != key}
    answer = newcomer.post("/before-live", given)
    shown = page(answer)

    assert answer.status_code == 422
    assert f'id="wrong-{key}"' in shown
    assert "Ada" in shown
    assert shown.count(" checked") == sum(1 for q in ASKED if not q.typed and q.key in given)
    assert SCREEN in page(newcomer.get(POWER))


@pytest.mark.parametrize("words", ["nobody", "alone", "just me", "-", "No one.", "my cat", "n/a"])
def test_alone_is_no_answer(words):
    """Somebody else is there, or it waits."""
    with pytest.raises(FieldError) as told:
        answered({**BEFORE_LIVE, "near": words})

    assert told.value.field == "near"


def test_the_bench_card_asks_before_a_live_step_alone(newcomer):
    """One that is cold is shown at once."""
    assert SCREEN not in page(newcomer.get("/pieces/CQ-017/bench"))


def test_it_leads_back_to_this_program_and_nowhere_else(newcomer):
    """An address of another site is not followed."""
    sent = newcomer.post("/before-live", {**BEFORE_LIVE, "back": "//evil.example/"})

    assert "evil" not in sent.headers["Location"]
