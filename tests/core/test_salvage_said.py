"""What is said of a capacitor: the volts read last, as measured, by whom they are read and by what
else they are not; and when a piece counts as salvaged.
"""

from datetime import UTC, datetime, timedelta

import pytest

from greyfell.core.evidence.record import Statement
from greyfell.core.evidence.volts_said import says_none, unsure, volts_said
from greyfell.core.figures.limits import TOUCH_VOLTS
from greyfell.core.judgement.salvage import cold_tests_elsewhere, salvage_of
from greyfell.core.simulated.histories import DENIALS
from greyfell.core.steps.salvage import STEPS, take, walk
from tests.core.made import record

DONE = (
    "0.2 V twice, short left on",
    "rated 2100 V, now 3 V",
    "not charged any more: 0.0 V twice, short on",
    "unplugged, discharged, shorted, 0.3 V",
    "unplugged, discharged through the stick, 0.2 V twice, short left on",
    "capacitor discharged through 100 kohm on a stick, shorted, 0.2 V after ten minutes, taken out",
    "unplugged, taken out of a dead set, every capacitor near it read 0 V",
    "both electrolytics discharged through 10 kohm and read 0 V, then taken out of the chassis",
    "read 12 V, then 0.4 V, clip on",
    "did not trust it: stick, then 0.1 V",
    "discharged, measured 20 mV",
    "1200 V before, 0.2 V after",
    "0.2 V (was 1200 V)",
    "went from 900 V to 2 V",
    "no resistor at hand, pliers with insulated handles, 0.4 V twice",
    "measured again five minutes later: 0.3 V",
    "came back to 12 V, discharged again, 0.1 V, shorted",
    "0,3 V, short on",
    "meter proved on a 9 V battery, then 0.0 V across the terminals",
    "0.9 µF 2100 V capacitor read 0.2 V",
    "zero volts on the meter, twice",
    "less than 1 V after ten minutes",
    "below 1 V, clip left on",
    "the workshop measured 0.2 V before they sent it",
    "held the chain for ten seconds, 0.05 V",
    "0.3V",
    "it was 0.3 V",
    "shorted with a screwdriver, one snap, then 0 V",
    "2.1 kV before the stick, 0.4 V after it, shorted",
    "no charge left, 0.1 V",
    "no spark, 0.0 V, wire left across",
    "label says 0.95 µF 2100 V AC; read 0.1 V DC",
    "500 V range: 0.2 V",
    "mains 230 V unplugged; capacitor 0.2 V",
    "never above 0.5 V in ten minutes",
    "discharged and measured, 0.4 V, shorting wire still on it",
    "I discharged it with a 10k resistor; 0.6 V; after five minutes 1.1 V; wire on",
    "nothing left: 0 V",
    "two capacitors, 0.2 V and 0.4 V, both shorted",
)
"""Sentences of who did it, and says the volts read last."""
NOT_DONE = (
    *DENIALS,
    "should be 0 V by now",
    "probably 0 V",
    "0 V?",
    "0.2 V at first, 1200 V an hour later",
    "1,800 V",
    "1 800 V still there",
    "2.1 kV",
    "more than 50 V",
    "over 50 V",
    "discharged",
    "shorted with a screwdriver",
    "meter proved on a 9 V battery",
    "did not measure, must be 0 V",
    "didn't discharge; 0.2 V on the heater",
    "never discharged, meter showed 0 V",
    "not measured; the meter has a 2 V range",
    "0.2 V, charged again",
    "couldn't get at it, meter said 0 V on the case",
    "skipped, 0 V",
    "forgot, but 0 V I guess",
    "seller says 0 V",
    "hope it is 0 V",
    "if it reads 0 V it is safe",
    "51 V",
    "0.2 V yesterday, today it is still charged",
    "isn't discharged, 0 V on the fuse",
    "unmeasured",
    "without measuring",
    "cannot measure 2 kV",
    "I'll measure 0 V tomorrow",
    "done",
    "ok",
    "apparently 0 V",
    "0 V expected",
    "limit is 50 V",
    "safe below 50 V?",
    "has not been discharged. 3 V heater.",
    "nobody discharged it; 12 V lamp dark",
)
"""Sentences of who did not, does not know, or tells another thing's volts."""


def said(text="0.3 V, short on", kind="salvage-done", concerns="capacitor", **more):
    """One statement of the capacitor."""
    made = {"id": "s1", "kind": kind, "concerns": concerns, "text": text, **more}
    return Statement.model_validate(made)


def salvaged(*statements, none_allowed=False):
    """Whether these statements are a salvage."""
    return salvage_of(list(statements), none_allowed=none_allowed).done


@pytest.mark.parametrize("text", DONE)
def test_a_sentence_with_the_volts_read_last_is_a_salvage(text):
    assert salvaged(said(text))


@pytest.mark.parametrize("text", NOT_DONE)
def test_a_sentence_that_denies_itself_or_has_no_measured_volts_is_none(text):
    """It is answered with what is missing."""
    found = salvage_of([said(text)], none_allowed=False)

    assert not found.done
    assert any(x in found.missing for x in ("give the volts", "give them", "discharge it again"))


def test_there_are_thirty_sentences_each_way():
    assert min(len(set(DONE)), len(set(NOT_DONE))) >= 30


@pytest.mark.parametrize(
    ("text", "volts"),
    [
        ("1,800 V", 1800.0),  # thousands, the worse reading
        ("0,3 V", 0.3),
        ("1 800 V", 1800.0),
        ("20 mV", 0.02),
        ("2.1 kV", 2100.0),
        ("0.300 V", 0.3),
        ("12V", 12.0),
        ("zero volts", 0.0),
        ("rated 2100 V, now 3 V", 3.0),
        ("0.2 V, then 80 V", 80.0),
        ("100 kohm on a stick", None),
    ],
)
def test_figures_of_volts_are_read_as_they_are_written(text, volts):
    assert volts_said(text).volts == (pytest.approx(volts) if volts is not None else None)


@pytest.mark.parametrize(("volts", "done"), [(50.0, True), (50.1, False), (0.0, True)])
def test_the_volts_of_their_own_key_count_before_the_words(volts, done):
    """At most 50 V are left; the words are not asked for a figure then."""
    assert salvaged(said("stick, shorted", volts=volts)) is done
    assert salvaged(said("rated 2100 V", volts=volts)) is done
    assert TOUCH_VOLTS == 50.0


def test_volts_of_their_own_key_do_not_outvote_a_denial():
    assert not salvaged(said("did not discharge it", volts=0.3))


@pytest.mark.parametrize(
    ("text", "done"),
    [
        ("still shows 1800 V", False),
        ("shorted twice, now 900 V", False),
        ("reads over 600 V", False),
        ("still shows 50 V", True),
        ("still shows 50.1 V", False),
        ("was 1800 V, shorted", True),
        ("1800 V, then shorted with the stick", True),
        ("now shorted, rated 2100 V", True),
    ],
)
def test_volts_of_their_own_key_and_words_that_say_otherwise_are_asked_about(text, done):
    """Which of the two was read last is not guessed."""
    assert salvaged(said(text, volts=0.2)) is done


@pytest.mark.parametrize("text", DONE)
def test_what_is_done_by_its_words_is_done_with_its_volts_too(text):
    assert salvaged(said(text, volts=0.2))


@pytest.mark.parametrize(
    ("kind", "concerns", "text", "done"),
    [
        ("salvage-done", "HV fuse", "0.3 V", False),
        ("salvage-done", "fan", "0.3 V", False),
        ("salvage-done", "HV capacitor and diode", "0.3 V", True),
        ("salvage-done", "", "0.3 V", True),
        ("done-elsewhere", "insulation", "0.3 V", False),
        ("done-elsewhere", "capacitor", "the workshop measured 0.2 V", True),
        ("done-elsewhere", "capacitor", "the workshop tested everything", False),
        ("done-elsewhere", "", "capacitor discharged there, 0.2 V", True),
        ("isolation-checked", "capacitor", "0.3 V", False),
        ("overrule", "capacitor", "0.3 V", False),
    ],
)
def test_a_statement_about_one_thing_never_settles_another(kind, concerns, text, done):
    assert salvaged(said(text, kind, concerns)) is done


@pytest.mark.parametrize(
    ("concerns", "text", "tested"),
    [
        ("insulation", "by the club", True),
        ("cold tests", "", True),
        ("capacitor", "discharged, 0.2 V, all tests done", False),
        ("", "all cold tests at the club", True),
        ("", "the fan was cleaned", False),
    ],
)
def test_what_was_cold_tests_elsewhere_is_what_it_says(concerns, text, tested):
    """A capacitor emptied elsewhere opens no barrier."""
    assert cold_tests_elsewhere([said(text, "done-elsewhere", concerns)]) is tested


@pytest.mark.parametrize(
    ("text", "sure"),
    [
        ("nothing to discharge", True),
        ("looked all over it: none", True),
        ("did not find any", True),
        ("I think there is none", False),
        ("did not look", False),
        ("no idea", False),
        ("none, probably", False),
        ("it is still in", False),
    ],
)
def test_none_here_counts_only_where_the_family_allows_none_and_somebody_looked(text, sure):
    none = said(text, "no-capacitor")

    assert salvaged(none, none_allowed=True) is sure
    assert not salvaged(none, none_allowed=False)
    assert unsure(text) is not sure


def test_none_in_a_salvage_is_none_here():
    text = "there is no capacitor in this one"

    assert says_none(text)
    assert salvaged(said(text), none_allowed=True)
    assert not salvaged(said(text), none_allowed=False)


def at(hour):
    return f"2026-05-02T{hour:02d}:00:00+01:00"


@pytest.mark.parametrize(
    ("good", "bad", "done"),
    [(10, 9, True), (10, 10, False), (10, 11, False), (10, None, False), (None, 9, False)],
)
def test_what_was_said_later_takes_back_what_was_said_before(good, bad, done):
    """In either order of entry; a time that is missing or the same is the worse of the two."""
    one = said("0.2 V twice, short on", **({"at": at(good)} if good else {}))
    two = said("shows 900 V again", **({"at": at(bad)} if bad else {}))

    assert salvaged(one, two) is done
    assert salvaged(two, one) is done


def test_the_walked_station_says_the_volts_in_their_own_key():
    """The last step stores what was read after five minutes."""

    now, statements = datetime(2026, 5, 2, 10, tzinfo=UTC), []
    typed = {"found": "0.95µF", "chain": "100k", "measured": "0.4", "again": "12V"}
    for step in STEPS:
        given = {"step": step.key, "value": typed.get(step.key, "")}
        statements += take(walk(record(statements=statements).statements), given, now)
        now += timedelta(minutes=6)

    assert statements[-1]["volts"] == 12.0
    assert salvaged(*record(statements=statements).statements)
    assert salvaged(*record(statements=statements[::-1]).statements)
    assert walk(record(statements=statements[::-1]).statements).here is None
