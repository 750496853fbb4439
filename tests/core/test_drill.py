"""The practice bench: hidden pieces come back by their number, wrong hook-ups end each in its own
sentence, advice alone names what lies under the cloth and hurts nobody.
"""

import numpy as np
import pytest
from msgspec.structs import replace

from greyfell.core.errors import FieldError
from greyfell.core.evidence.parse import parse_record
from greyfell.core.figures.notation import parse_quantity
from greyfell.core.identify import identify
from greyfell.core.lessons.advice import by_advice
from greyfell.core.lessons.courses import LESSONS, NAMED
from greyfell.core.lessons.hookup import INSTRUMENTS, RANGES, RULES, Hookup, Mishap, mishaps
from greyfell.core.lessons.irons import OfBelief, OfHidden
from greyfell.core.lessons.readings import reading_of
from greyfell.core.lessons.score import FAULT_WORDS, Named, ScoreAsked, score, truth_of
from greyfell.core.simulated.hidden import LEVELS, MOST_NUMBER, ends_of, hidden
from greyfell.records.demo import demo_documents
from greyfell.web.drawings.practice import practice_drawing
from scripts.hidden import run
from tests.conftest import every

OVEN = hidden(11, "any")
BELL = hidden(3, "first")
SHORTED = hidden(29, "hard")


def oven_of_demo():
    """The demo's oven with its HV end on the core, as it is believed."""
    document = next(d for d in demo_documents() if d["tag"] == "CQ-018")
    return OfBelief(identify(parse_record(document)))


def high_of(iron):
    """The pair of its high voltage."""
    return iron.high()[0]


def by_code(hookup, iron):
    """What would have happened, by its code."""
    return {m.code: m for m in mishaps(hookup, iron)}


# ------------------------------------------------------------------------ hidden pieces


@pytest.mark.parametrize("level", LEVELS)
def test_a_piece_comes_back_by_its_number(level):
    """The same iron, the same leads, the same meters off by as much; another number, another."""
    one, again, other = hidden(42, level), hidden(42, level), hidden(43, level)

    assert one.piece == again.piece
    assert one.document == again.document
    assert one.document != other.document
    w = one.piece.windings[0]
    assert one.bench(0).ohms(*ends_of(w)) == again.bench(0).ohms(*ends_of(w))


def test_a_beginner_gets_sound_low_voltage_and_the_hard_ones_are_half_faulty():
    """Nothing above 60 V out of it and no fault at first; a half at the end, in both regions."""
    first = [hidden(n, "first") for n in range(1, 40)]
    hard = [hidden(n, "hard") for n in range(1, 120)]

    assert every(not h.faults for h in first)
    assert every(h.rated(w) < 60 for h in first for w in h.piece.windings if w.name != "primary")
    assert 0.35 < np.mean([bool(h.faults) for h in hard]) < 0.65
    assert {h.region.hertz for h in hard} == {50.0, 60.0}


@pytest.mark.parametrize("number", [0, MOST_NUMBER + 1])
def test_a_number_that_is_none_is_refused(number):
    """By its field."""
    with pytest.raises(FieldError) as told:
        hidden(number)
    assert told.value.field == "number"


def test_what_lies_under_the_cloth_is_not_in_the_record():
    """No family, no faults, no readings; only what can be seen."""
    for n in range(1, 20):
        document = hidden(n, "any").document
        assert "declared_family" not in document
        assert document["readings"] == []
        parse_record(document)


# ----------------------------------------------------------------- wrong hook-ups

DEAD = {"source": "none"}
WRONG = [
    ("meter-on-hv", {"source": "line", "instrument": "volts", "points": "high"}),
    ("by-hand", {"source": "line", "instrument": "volts", "points": "high", "held": "hand"}),
    ("wrong-pair", {"source": "line", "driven": "low"}),
    ("core-live", {"source": "lamp", "earthed": False}),
    ("bare-ends", {"source": "lamp", "covered": False}),
    ("dead-on-dc", {"source": "line", "instrument": "volts-dc", "points": "mains"}),
    ("shorted-line", {"source": "line", "shorted": "high"}),
    ("fuse-blown", {"source": "line", "instrument": "amps", "points": "mains"}),
    ("meter-powered", {"source": "lamp", "instrument": "ohms", "points": "mains"}),
    ("no-limiter", {"source": "line"}),
    ("along-winding", {"source": "none", "instrument": "insulation", "points": "mains"}),
    ("beyond-source", {"source": "low", "volts": 100.0}),
    ("leak-on-hv", {"source": "lamp", "instrument": "microamps", "points": ("C", "earth")}),
    (
        "low-range",
        {"source": "none", "instrument": "ohms", "points": ("A", "C"), "range_key": "20k"},
    ),
]
"""Ten wrong hook-ups of one demo oven and two more: each ends in its own sentence."""


def made_of(iron, given):
    """A hook-up of names: the mains, the high winding, a pair of few volts."""
    named = {"mains": iron.mains(), "high": high_of(iron), "low": high_of(iron)}
    told = {"volts": iron.supply(), **given}
    for key in ("points", "driven", "shorted"):
        if told.get(key) in named:
            told[key] = named[told[key]]
    if told["source"] != "none":
        told.setdefault("driven", iron.mains())
    return Hookup(**told)


@pytest.mark.parametrize(("code", "given"), [w for w in WRONG if w[0] != "wrong-pair"])
def test_a_wrong_hook_up_of_the_demo_oven_ends_in_its_own_sentence(code, given):
    """Told with volts and places, with what would have shown it; right, it is not told."""
    iron = oven_of_demo()
    found = by_code(made_of(iron, given), iron)

    assert code in found
    assert found[code].words.endswith(".")
    assert found[code].shown_by.endswith(".")
    quiet = {"source": "lamp", "volts": 230.0, "earthed": True, "covered": True}
    assert code not in by_code(made_of(iron, quiet), iron)


def test_every_rule_has_its_own_words_and_its_own_way_to_have_known():
    """No two alike."""
    assert len({r.words for r in RULES}) == len(RULES)
    assert len({r.shown_by for r in RULES}) == len(RULES)


def test_the_line_on_a_winding_of_few_volts_steps_the_others_up():
    """A bell part backwards: its mains winding would stand at kilovolts."""
    low = next(w for w in BELL.piece.windings if w.name != BELL.piece.primary)
    iron = OfHidden(BELL)
    hookup = Hookup(source="line", driven=ends_of(low), volts=BELL.region.volts)

    assert by_code(hookup, iron)["wrong-pair"].grave == "stop"
    assert "made for" in by_code(hookup, iron)["wrong-pair"].words


def test_a_fault_burns_on_the_bare_line_and_glows_behind_the_lamp():
    """Shorted turns: the winding on the line, a bright lamp and nothing burnt."""
    iron = OfHidden(SHORTED)
    on_line = Hookup(source="line", driven=SHORTED.fed, volts=SHORTED.region.volts)

    assert SHORTED.faults == ("shorted-turns",)
    assert "burnt" in by_code(on_line, iron)
    assert by_code(replace(on_line, source="lamp"), iron) == {}


def test_an_unhurt_hook_up_is_told_nothing():
    """Cold ohms, a ratio at three volts, the lamp with all that belongs to it."""
    iron, driven = OfHidden(OVEN), OVEN.fed
    cold = Hookup(instrument="ohms", points=driven)
    low = Hookup(source="low", driven=driven, volts=3.0, instrument="none")
    lamp = Hookup(source="lamp", driven=driven, volts=OVEN.region.volts)

    assert [mishaps(h, iron) for h in (cold, low, lamp)] == [[], [], []]


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"source": "sun"}, "source"),
        ({"instrument": "nose"}, "instrument"),
        ({"held": "foot"}, "held"),
        ({"range_key": "9"}, "range"),
        ({"points": ("A", "A")}, "points"),
        ({"points": ("A", "ZZ")}, "points"),
        ({"instrument": "ohms", "points": None}, "points"),
        ({"source": "low", "driven": None}, "driven"),
    ],
)
def test_a_hook_up_that_is_none_is_refused_by_its_field(change, field):
    """A sentence that names it."""
    with pytest.raises(FieldError) as told:
        mishaps(replace(Hookup(points=("A", "B"), instrument="ohms"), **change), OfHidden(BELL))
    assert told.value.field == field


# ------------------------------------------------------------------------- readings


def test_instruments_read_as_an_owners_do():
    """Each kind by its own instrument, as the record has it; what does not meet reads nothing."""
    fed = BELL.fed
    other = next(ends_of(w) for w in BELL.piece.windings if w.name != BELL.piece.primary)

    def kind(**given):
        found = reading_of(BELL, Hookup(**given), 0)
        return None if found is None else found["kind"]

    assert kind(instrument="ohms", points=fed) == "resistance"
    assert kind(instrument="ohms", points=("core", "earth")) == "core_proof"
    assert kind(instrument="milliohm", points=other) == "dc_drop"
    assert kind(instrument="henries", points=fed) == "inductance"
    assert kind(instrument="insulation", points=(fed[0], "core")) == "insulation"
    low = {"source": "low", "driven": fed, "volts": 12.0}
    assert kind(**low, instrument="volts", points=other) == "ratio"
    assert kind(**low, instrument="wattmeter") == "no_load"
    assert kind(**low, instrument="wattmeter", shorted=other) == "short_circuit"
    assert kind(source="lamp", driven=fed, volts=230.0) == "lamp"
    line = {"source": "lamp", "driven": fed, "volts": 230.0, "points": (other[0], "earth")}
    assert kind(**line, instrument="microamps") == "leakage_current"
    assert kind(**line, instrument="low-z") == "earth_voltage"
    assert kind(**{**line, "points": (fed[0], "earth")}, instrument="low-z") is None
    assert kind(instrument="henries", points=(fed[0], other[0])) is None
    assert kind(instrument="volts", points=fed) is None
    assert set(INSTRUMENTS) >= {"volts-dc", "amps", "clamp"}


def test_its_readings_name_the_piece_as_any_record_does():
    """The good bench's record is an ordinary one."""
    answer = by_advice(BELL)

    assert answer.ident.family == "mains"
    assert answer.ident.record.tag == "PR-F3"
    assert answer.taken == len(answer.ident.record.readings) == len(answer.moves)


# ------------------------------------------------------------------ advice, and chance


def test_advice_alone_names_what_is_hidden_and_hurts_nobody():
    """Two dozen of the middle level; `make hidden` does a thousand. At random, with as many moves,
    few are named and most would have been hurt.
    """
    advised, wild = run(24, "any", seed=5)

    assert advised["hurt"] == 0
    assert advised["right of sound"] >= 0.95
    assert advised["faults seen"] >= 0.75
    assert advised["readings"] <= 20
    assert wild["right"] < advised["right"] - 0.2
    assert wild["hurt"] > 12


# ----------------------------------------------------------------------------- score


class Plain:
    """An iron of plain figures: A–B for the mains at 230 V, C–core high, so many volts for each on
    the driven pair.
    """

    def __init__(self, times):
        self.times = times

    def points(self):
        return ("A", "B", "C", "core")

    def made_for(self, pair):
        return 230.0 if set(pair) == {"A", "B"} else None

    def across(self, driven, volts, pair):
        return volts * self.times

    def mains(self):
        return ("A", "B")

    def supply(self):
        return 230.0

    def high(self):
        return (("C", "core"),)

    def faulty(self):
        return ""


@pytest.mark.parametrize(
    ("code", "volts", "times", "more", "told"),
    [
        ("meter-on-hv", 10.0, 59.9, {"instrument": "volts", "points": ("C", "core")}, False),
        ("meter-on-hv", 10.0, 60.1, {"instrument": "volts", "points": ("C", "core")}, True),
        ("leak-on-hv", 10.0, 59.9, {"instrument": "microamps", "points": ("C", "earth")}, False),
        ("leak-on-hv", 10.0, 60.1, {"instrument": "microamps", "points": ("C", "earth")}, True),
        ("by-hand", 10.0, 4.9, {"instrument": "volts", "points": ("C", "core"), "held": "hand"}, 0),
        ("by-hand", 10.0, 5.1, {"instrument": "volts", "points": ("C", "core"), "held": "hand"}, 1),
        ("bare-ends", 10.0, 4.9, {"covered": False}, False),
        ("bare-ends", 10.0, 5.1, {"covered": False}, True),
        ("dead-on-dc", 10.0, 4.9, {"instrument": "volts-dc", "points": ("C", "core")}, False),
        ("dead-on-dc", 10.0, 5.1, {"instrument": "volts-dc", "points": ("C", "core")}, True),
        ("core-live", 10.0, 4.9, {"source": "lamp", "earthed": False}, False),
        ("core-live", 10.0, 5.1, {"source": "lamp", "earthed": False}, True),
        ("steps-up", 20.0, 4.15, {}, False),
        ("steps-up", 20.0, 4.25, {}, True),
        ("beyond-source", 41.9, 1.0, {}, False),
        ("beyond-source", 42.1, 1.0, {}, True),
        ("wrong-pair", 298.0, 1.0, {"source": "lamp"}, False),
        ("wrong-pair", 300.0, 1.0, {"source": "lamp"}, True),
    ],
)
def test_a_mishap_begins_at_its_figure(code, volts, times, more, told):
    """600 V at a pocket meter, 50 V at a hand, 42 V of a low source, 1.3 times what a winding is
    made for: just below and just above.
    """
    usual = {"source": "low", "driven": ("A", "B"), "volts": volts}
    found = by_code(Hookup(**{**usual, **more}), Plain(times))

    assert (code in found) is bool(told)


def test_a_right_answer_of_a_good_bench_has_all_its_points():
    """Truth, safety, readings; a hundred."""
    family, fault, volts = truth_of(OVEN)
    good = by_advice(OVEN)
    named = Named(family=family, fault=fault, volts=volts)

    assert score(OVEN, named, ScoreAsked(taken=good.taken, borne=True), []).points == 100


@pytest.mark.parametrize(
    ("change", "less"),
    [
        ({"family": "mains"}, 25),
        ({"fault": "open"}, 25),
        ({"volts": None}, 10),
        ({"volts": 1.09}, 0),
        ({"volts": 1.11}, 10),
    ],
)
def test_what_is_wrong_costs_its_own_points(change, less):
    """Family and what tells it, sound or not, which fault, volts beyond a tenth."""
    family, fault, volts = truth_of(OVEN)
    given = {"family": family, "fault": fault, "volts": volts, **change}
    if isinstance(change.get("volts"), float):
        given["volts"] = volts * change["volts"]
    asked = ScoreAsked(taken=by_advice(OVEN).taken, borne=True)

    assert score(OVEN, Named(**given), asked, []).points == 100 - less


@pytest.mark.parametrize(("grave", "less"), [("stop", 40), ("wrong", 15), ("waste", 5)])
def test_a_move_costs_by_what_it_could_have_done(grave, less):
    """Killed or burnt; an instrument broken or a wrong figure; nothing told; thirty for all that is
    safe at most. House rule.
    """
    family, fault, volts = truth_of(OVEN)
    named = Named(family=family, fault=fault, volts=volts)
    asked = ScoreAsked(taken=by_advice(OVEN).taken, borne=True)
    move = Mishap(code="any", grave=grave, words="It happened.", shown_by="A look.")
    found = score(OVEN, named, asked, [move])

    assert move.cost == less
    assert found.points == 100 - min(less, 30)


@pytest.mark.parametrize(("volts", "told"), [(599.0, False), (601.0, True)])
def test_a_wrong_pair_says_where_more_stands_than_a_meter_bears(volts, told):
    """A–B made for 230 V driven at 400: the HV pair is named above 600 V."""
    hookup = Hookup(source="lamp", driven=("A", "B"), volts=400.0)
    words = by_code(hookup, Plain(volts / 400.0))["wrong-pair"].words

    assert ("C–core stands at" in words) == told


def test_a_guess_has_no_points_of_its_readings_and_a_grave_move_none_of_safety():
    """Right by luck; once between 2 kV and the core."""
    family, fault, volts = truth_of(OVEN)
    named = Named(family=family, fault=fault, volts=volts)
    iron = OfHidden(OVEN)
    lethal = mishaps(
        Hookup(source="line", driven=OVEN.fed, volts=230.0, earthed=False, covered=False), iron
    )
    guess = score(OVEN, named, ScoreAsked(taken=1, borne=False), lethal)
    parts = {words.split(":")[0]: got for words, got, _ in guess.parts}

    assert parts["told by what was read"] == parts["readings"] == parts["safety"] == 0
    with pytest.raises(FieldError):
        score(OVEN, replace(named, fault="rust"), ScoreAsked(taken=1, borne=False), [])
    assert "" in FAULT_WORDS


# --------------------------------------------------------------------------- lessons


def with_record(lesson, readings=(), statements=()):
    """The lesson's piece with these on record."""
    document = hidden(lesson.number, lesson.level).document
    rows = [{**r, "id": f"r{n}"} for n, r in enumerate(readings, 1)]
    return identify(parse_record({**document, "readings": rows, "statements": list(statements)}))


@pytest.mark.parametrize("lesson", LESSONS, ids=lambda x: x.key)
def test_a_lesson_is_not_done_before_it_is_begun_and_can_be_done(lesson):
    """By a good bench's readings, an answer, a lamp, a plan."""
    piece = hidden(lesson.number, lesson.level)
    good = by_advice(piece)
    said = [{"kind": NAMED, "concerns": "right"}, {"kind": "rewind-plan", "concerns": "x"}]
    lamp = {"kind": "lamp", "across": list(piece.fed), "supply_volts": 230.0, "lamp_watts": 60.0}
    apart = {"kind": "insulation", "ohms": 1e9, "test_volts": 500.0}
    leads = [x["id"] for x in piece.document["leads"]]
    other = next(x for x in leads if not piece.piece.locate(piece.fed[0], x) and x != piece.fed[0])
    rows = [r.model_dump(exclude_none=True, by_alias=True) for r in good.ident.record.readings]
    rows += [
        {**lamp, "glow": "dark"},
        {**apart, "between": [piece.fed[0], other]},
        {**apart, "between": [piece.fed[0], "core"]},
    ]
    if not any(r["kind"] == "ratio" for r in rows):
        ratio = {"kind": "ratio", "driven": list(piece.fed), "driven_volts": 12.0}
        low = next(ends_of(w) for w in piece.piece.windings if w.name != piece.piece.primary)
        rows.append({**ratio, "sensed": list(low), "sensed_volts": 1.0})

    assert not lesson.done(with_record(lesson), [])
    assert lesson.done(with_record(lesson, rows, said), [])


def test_the_lessons_are_ten_and_begin_without_power():
    """The first five sound low-voltage parts; the lamp before the oven."""
    keys = [x.key for x in LESSONS]

    assert len(keys) == len(set(keys)) == 10
    assert [x.level for x in LESSONS[:5]] == ["first"] * 5
    assert keys.index("lamp") < keys.index("oven")
    assert every(x.task.endswith(".") and x.why.endswith(".") for x in LESSONS)


def test_a_grave_move_keeps_the_lessons_that_ask_for_none():
    """An oven named with a hand between 2 kV and the core is not that lesson done."""
    lesson = next(x for x in LESSONS if x.key == "oven")
    ident = with_record(lesson, statements=[{"kind": NAMED, "concerns": "right"}])
    piece = hidden(lesson.number, lesson.level)
    grave = mishaps(
        Hookup(source="lamp", driven=piece.fed, volts=230.0, covered=False), OfHidden(piece)
    )

    assert lesson.done(ident, [])
    assert not lesson.done(ident, grave)


def test_an_ohmmeter_on_a_low_range_shows_open_and_says_its_range():
    """A primary of hundreds of ohms on 200 Ω; the range goes on record."""
    piece = next(h for h in (hidden(n, "first") for n in range(1, 60)) if _primary(h) > 250)
    found = reading_of(piece, Hookup(instrument="ohms", points=piece.fed, range_key="200"), 0)
    wide = reading_of(piece, Hookup(instrument="ohms", points=piece.fed, range_key="20k"), 0)

    assert found["ohms"] == "open"
    assert found["range_ohms"] == 200.0
    assert wide["ohms"] == pytest.approx(_primary(piece), rel=0.02)


def _primary(piece):
    """Ohms of its primary."""
    return piece.piece.winding(piece.piece.primary).ohms


@pytest.mark.parametrize("key", [key for key in RANGES if key])
def test_a_range_is_the_figure_on_its_key(key):
    """“20k” on the dial is 20 kΩ."""
    assert RANGES[key] == parse_quantity(f"{key}Ω", "ohm", field="range")


def test_what_would_be_gone_is_crossed_out_where_it_stands():
    """The meter, the piece, and the line between two points where a body would have been."""
    iron = oven_of_demo()
    given = {"source": "line", "instrument": "volts", "points": "high", "held": "hand"}
    hookup = made_of(iron, given)
    drawn = practice_drawing(iron.points(), hookup, mishaps(hookup, iron), covered=False)
    looks = [s.attrs["class"] for s in drawn.shapes]
    calm = practice_drawing(iron.points(), hookup, [], covered=False)

    assert looks.count("fault-cross") == 2
    assert "touch-4" in looks
    assert "fault-cross" not in [s.attrs["class"] for s in calm.shapes]


@pytest.mark.parametrize("lesson", LESSONS, ids=lambda x: x.key)
def test_no_lesson_teaches_what_the_catalogue_denies(lesson):
    """A lamp that stays dark clears nothing, 500 V prove no safety isolation, nothing is called
    safe; what limits amps leaves volts as they were.
    """
    told = f"{lesson.task} {lesson.why}".lower()

    assert "sound, bright" not in told
    assert "dark" not in told or "clears nothing" in told
    assert "lamp" not in told or "limits amps, not volts" in told or lesson.key != "lamp"
    assert " safe" not in told.replace("safety isolation", "")
    assert "isolation is what a reading says" not in told
    if "12 v" in told:
        assert "above 30 v they count as live" in told
