"""The practice bench over HTTP: a lesson laid out, connected, named; wrong moves told and kept; and
a rehearsal of which nothing is kept.
"""

import html
import re

import pytest

from greyfell.core.lessons.courses import LESSONS
from greyfell.core.simulated.hidden import ends_of, hidden
from greyfell.records.repository import Repository


def page(response):
    """The text of a page."""
    return html.unescape(response.get_data(as_text=True))


def repository(client):
    """The records behind a client."""
    return Repository(client.app.extensions["store"])


def begun(client, key):
    """A lesson laid on the bench: its tag and its hidden piece."""
    lesson = next(x for x in LESSONS if x.key == key)
    answer = client.post("/practice", {"lesson": key})
    return answer.headers["Location"].split("/")[-1], hidden(lesson.number, lesson.level)


def test_a_lesson_is_laid_out_connected_and_done(client):
    """The first ohm: a pair that conducts goes on record by itself, and the lesson is done."""
    tag, made = begun(client, "first-ohm")
    pair = "-".join(ends_of(made.piece.windings[0]))
    before = page(client.get(f"/practice/{tag}"))
    after = page(client.post(f"/practice/{tag}/connect", {"instrument": "ohms", "points": pair}))

    assert "The first ohm." in before
    assert "The first ohm: done." in after
    assert "It shows:" in after
    assert [r.kind for r in repository(client).get(tag).record.readings] == ["resistance"]
    assert re.search(r"The first ohm</b> <span[^>]*>done", page(client.get("/practice")))


def test_a_wrong_move_is_told_kept_and_shows_no_figure(client):
    """A hand and a meter on what stands at kilovolts: both told, nothing on record as a reading."""
    tag, made = begun(client, "oven")
    high = next(w for w in made.piece.windings if made.rated(w) > 1000)
    form = {
        "source": "line",
        "driven": "-".join(made.fed),
        "volts_driven": "230",
        "instrument": "volts",
        "points": "-".join(ends_of(high)),
        "hand": "hand",
    }
    shown = page(client.post(f"/practice/{tag}/connect", form))
    record = repository(client).get(tag).record

    assert "the meter's 600 V were passed" in shown
    assert "You would have been between" in shown
    assert record.readings == []
    assert {s.concerns for s in record.statements} >= {"meter-on-hv", "by-hand"}
    assert "moves that would have gone wrong" in page(client.get(f"/practice/{tag}"))


def test_an_answer_is_scored_told_and_kept_in_ones_history(client):
    """Truth, parts, what a good bench would have done; the points stand at home."""
    tag, made = begun(client, "name-it")
    form = {"family": made.piece.family, "fault": "", "volts": "230"}
    shown = page(client.post(f"/practice/{tag}/name", form))

    assert " of 100</h2>" in shown
    assert "It is a mains transformer" in shown
    assert "What a good bench would have done" in shown
    assert "of 100</td>" in page(client.get("/practice"))


@pytest.mark.parametrize(
    ("form", "words"),
    [
        ({"family": "", "fault": ""}, "a family was not chosen"),
        ({"family": "mains", "fault": "rust"}, "which fault"),
        ({"family": "mains", "fault": "", "volts": "many"}, "many"),
    ],
)
def test_an_answer_that_is_none_is_refused(client, form, words):
    """By a sentence; nothing is scored."""
    tag, _ = begun(client, "name-it")
    answer = client.post(f"/practice/{tag}/name", form)

    assert answer.status_code == 422
    assert words in page(answer)


def test_a_hook_up_that_is_none_is_refused_and_keeps_what_was_chosen(client):
    """A point that is none of the piece's."""
    tag, _ = begun(client, "first-ohm")
    form = {"instrument": "ohms", "points": "A-ZZ"}
    answer = client.post(f"/practice/{tag}/connect", form)

    assert answer.status_code == 422
    assert 'value="A-ZZ"' in page(answer)
    assert "two points of this piece" in page(answer)


def test_a_piece_comes_by_level_and_number_and_stays_as_it_is(client):
    """Again by its number: the same record, its readings kept."""
    first = client.post("/practice", {"level": "any", "number": "77"})
    tag = first.headers["Location"].split("/")[-1]
    client.post(f"/practice/{tag}/connect", {"instrument": "ohms", "points": "A-B"})
    again = client.post("/practice", {"level": "any", "number": "77"})

    assert first.headers["Location"] == again.headers["Location"]
    assert len(repository(client).get(tag).record.readings) == 1
    assert "Practice piece 77" in page(client.get(f"/pieces/{tag}/"))


@pytest.mark.parametrize("number", ["0", "-3", "1000000", "seven", "９"])
def test_a_number_that_is_none_is_refused(client, number):
    """By its field."""
    answer = client.post("/practice", {"level": "any", "number": number})

    assert answer.status_code in (400, 422)
    assert "1 to 999999" in page(answer)


def test_a_piece_that_is_none_of_practice_has_no_bench(bench):
    """404, and nothing told of it."""
    assert bench.get("/practice/T-1").status_code == 404


WRONG = [
    ("instrument=volts&points=C-core&source=line", "600 V were passed"),
    ("instrument=volts&points=C-core&source=line&hand=hand", "You would have been between"),
    ("source=line&driven=C-core&volts_driven=4000", "past its knee"),
    ("source=lamp", "not bonded"),
    ("source=lamp&earthed=yes", "stood bare at"),
    ("instrument=volts-dc&points=A-B&source=line", "showed nought"),
    ("source=line&shorted=C-core", "hundreds of amps"),
    ("instrument=amps&points=A-B&source=line", "its fuse blew"),
    ("instrument=ohms&points=A-B&source=lamp", "the meter is spoilt"),
    ("source=line&earthed=yes&covered=yes", "nothing that limits"),
    ("instrument=insulation&points=A-B", "tells nothing of a barrier"),
    ("source=low&volts_driven=100", "42 V"),
]


@pytest.mark.parametrize(("query", "words"), WRONG)
def test_a_wrong_hook_up_rehearsed_ends_in_its_sentence_and_is_not_kept(demo, query, words):
    """Ten and two on the demo's oven; not one of them can become a reading."""
    before = repository(demo).document("CQ-018")
    full = query if "&driven=" in query else f"{query}&driven=A-B"
    full = full if "volts_driven" in full else f"{full}&volts_driven=230"
    shown = page(demo.get(f"/pieces/CQ-018/rehearse?{full}&connect=yes"))

    assert words in shown
    assert repository(demo).document("CQ-018") == before
    assert 'method="post"' not in shown[shown.index("<h1") : shown.index("</main>")]


def test_a_right_hook_up_rehearsed_shows_the_models_forecast(demo):
    """Three volts into the primary: the HV by the model, called a forecast."""
    query = "source=low&driven=A-B&volts_driven=3&instrument=volts&points=C-core&earthed=yes"
    shown = page(demo.get(f"/pieces/CQ-018/rehearse?{query}&covered=yes&connect=yes"))

    assert "Nothing wrong is known" in shown
    assert "a forecast, never a reading" in shown


def test_a_practice_piece_is_never_the_next_iron_of_the_shelf(client):
    """It stands where it is asked for, and nobody is sent to its capacitor."""
    begun(client, "first-ohm")
    assert "Practice piece 3" not in page(client.get("/"))
    shown = page(client.get("/?verdict=practice"))

    assert "Practice piece 3" in shown
    assert "Next across the shelf" not in shown
