"""A rewinding from the design to the log: both designs, the way the coil comes out, the sheet and
its locks, the winding as made, the log's next change.
"""

import math

import numpy as np
import pytest
from msgspec.structs import replace

from greyfell.core.coil_design.removal import (
    JOINTS,
    METHODS,
    TOOLS,
    USUAL_TOOLS,
    amps_of_gap,
    left_whole,
    recommend,
    stop_line,
)
from greyfell.core.coil_design.window import Window, pack
from greyfell.core.errors import FieldError
from greyfell.core.evidence.parse import parse_record
from greyfell.core.evidence.stores import parse_stores
from greyfell.core.figures.quantity import Quantity, exact
from greyfell.core.identify import identify
from greyfell.core.uses import winding_notes as notes
from greyfell.core.uses.all_uses import USES, use_of
from greyfell.core.uses.build import EPOXY_HOURS, MAY_WAIT, Wanted, ready_by, sheet, works
from greyfell.core.uses.core_to_wind import exact_iron, iron_of
from greyfell.core.uses.iron_wanted import iron_to_look_for
from greyfell.core.uses.measured import Compared, as_kept, compared_with, habits, promised_by
from greyfell.core.uses.project import (
    CONTINUOUS,
    MINUTES,
    SECONDS,
    better,
    both,
    compared,
    design,
    in_hand,
    into,
    mistaken_amps,
)
from greyfell.core.uses.proofs import PROOFS, WANTED, missing
from greyfell.core.uses.weld_log import proposed, shots_of, weld_of
from greyfell.core.uses.wound_record import CHANGES, as_change, made_of, more_turns
from greyfell.web.drawings.removal import ACTS, removal_drawing
from scripts.projects import tried
from tests.conftest import OVEN, every, piece

WINDOW = Window(width_mm=19, height_mm=57, tongue_mm=38, stack_mm=60, primary_mm=25, shunts_mm=6)
IRON = exact_iron(WINDOW, 0.9, shunts_in=True, reactance_ohms=exact(30.0))
NICKEL = use_of("weld-nickel")


def chosen():
    """The better design of a tab welder."""
    return better(both(IRON, NICKEL))


# -------------------------------------------------------------------------------- designs


def test_both_designs_stand_side_by_side_and_the_shunts_make_it_stiffer():
    """Out: more room, more amps shorted, more from the wall."""
    inside, out = both(IRON, NICKEL, turns=2)

    assert inside.iron.shunts_in
    assert not out.iron.shunts_in
    assert out.short_amps.value > inside.short_amps.value
    assert out.found.shot.primary_amps > inside.found.shot.primary_amps
    assert out.iron.window.free.high == pytest.approx(inside.iron.window.free.high + 6)


def test_ohms_length_and_mass_hang_together():
    """Ohms by length and section, mass by both, hot a fifth more than cold; the fill below one."""
    d = chosen()

    assert d.ohms_cold == pytest.approx(d.metres / 58 / d.conductor.whole_mm2, rel=1e-6)
    assert d.ohms_hot / d.ohms_cold == pytest.approx(1.216, rel=0.01)
    assert d.kilograms == pytest.approx(d.metres * d.conductor.whole_mm2 * 8.89e-3, rel=1e-6)
    assert 0 < d.fill < 0.91
    assert d.one_fewer < d.open_volts.value < d.one_more


def test_the_density_s_class_is_told():
    """A heater's runs for hours, a soldering unit's for minutes, a welder's for seconds."""
    told = {key: better(both(IRON, use_of(key))).bears for key in ("heater", "solder")}

    assert told["heater"] == CONTINUOUS
    assert told["solder"] in (CONTINUOUS, MINUTES)
    assert design(IRON.without_shunts(), NICKEL, 4).bears in (MINUTES, SECONDS)


def test_the_circles_that_are_drawn_are_the_packer_s():
    """As many as turns by what is in hand, each in its place."""
    d = chosen()
    again = pack(d.iron.window, d.conductor, d.found.turns)

    assert d.packed == again
    assert len(d.packed.circles) == d.found.turns * d.conductor.in_hand


def test_turns_stand_side_by_side_and_agree_with_a_shot_by_itself():
    """Each number of turns with its own thickest conductor."""
    rows = [r for r in compared(IRON.without_shunts(), NICKEL) if r.shot]
    turns = [r.turns for r in rows]

    assert turns == sorted(set(turns))
    for r in rows:
        alone = into(IRON.without_shunts(), NICKEL, r.turns)(NICKEL.load_ohms.value)
        assert alone.amps == pytest.approx(r.shot.amps, rel=1e-6)


def test_volt_amperes_over_volts_is_shown_as_the_mistake_it_is():
    """Hundreds of amps from the plate's volt-amperes, where the loop passes 3."""
    d = design(IRON, use_of("heater"))

    assert mistaken_amps(IRON, d.found) > 50 * d.found.shot.amps


def test_what_is_in_the_stores_is_told_with_what_is_left():
    """Enough, too short, length not told, another section: not offered."""
    d = design(IRON, use_of("solder"))
    mm2 = d.conductor.mm2
    items = parse_stores(
        {
            "format": "greyfell.stores/1",
            "items": [
                {"id": "w1", "kind": "wire", "title": "reel", "mm2": mm2, "metres": 10.0},
                {"id": "w2", "kind": "wire", "title": "rest", "mm2": mm2, "metres": 0.4},
                {"id": "w3", "kind": "wire", "title": "coil", "mm2": mm2},
                {"id": "w4", "kind": "wire", "title": "thin", "mm2": mm2 / 3, "metres": 99.0},
            ],
        }
    )
    found = {h.item.title: h for h in in_hand(items, d.conductor, d.metres)}

    assert set(found) == {"reel", "rest", "coil"}
    assert found["reel"].enough
    assert found["reel"].left == pytest.approx(10.0 - d.metres - 0.6)
    assert not found["rest"].enough
    assert found["coil"].enough is None


# -------------------------------------------------------------------------------- removal


@pytest.mark.parametrize(
    ("assembly", "tools", "method"),
    [
        ("interleaved", (), "laminations"),
        ("welded", USUAL_TOOLS, "drill"),
        ("welded", ("hacksaw or multi-tool", "hardwood drift"), "cut"),
        ("welded", ("press", "hacksaw or multi-tool"), "press"),
        ("welded", ("angle grinder", "chisels"), "split"),
        ("banded", USUAL_TOOLS, "drill"),
    ],
)
def test_one_way_out_is_recommended_by_iron_and_tools(assembly, tools, method):
    """Least risk to the primary of what suits and can be done; a joint only where it is split."""
    found = recommend(assembly, tools)

    assert found.method.key == method
    assert (found.joint is not None) == (method == "split")
    assert len(found.others) == len(METHODS) - 1
    assert every(why for _, why in found.others)


def test_without_any_tool_the_ones_that_are_wanted_are_named():
    """The best way, and what it wants."""
    assert "wants" in recommend("welded", ()).reason
    assert set(USUAL_TOOLS) <= set(TOOLS)


def test_a_tenth_of_a_millimetre_is_told_in_amps():
    """240 turns at 1.6 T: 127 ampere-turns of peak, 0.38 A. REF-M-10 by hand."""
    assert amps_of_gap(0.1, 1.6, 240) == pytest.approx(
        1.6e-4 / (4e-7 * 3.14159 * 240 * 1.41421), rel=1e-4
    )
    assert amps_of_gap(0.2, 1.6, 240) == pytest.approx(2 * amps_of_gap(0.1, 1.6, 240))
    assert every(j.gap_mm[0] < j.gap_mm[1] for j in JOINTS)


@pytest.mark.parametrize(("count", "fits"), [(4, True), (5, False)])
def test_leaving_it_whole_is_answered_with_the_figure(count, fits):
    """The gap of the shunts, 19 × 6 mm, takes four conductors of 4.7 mm."""
    found = left_whole(WINDOW, count, 4.7)

    assert found.fits == fits
    assert "takes 4 of" in found.words


# ------------------------------------------------------------------------------ the sheet


def plan(done=(), lacking=tuple(PROOFS)):
    """The sheet of a tab welder."""
    return sheet(chosen(), NICKEL, recommend("welded", USUAL_TOOLS), done, lacking)


def test_the_sheet_runs_from_the_question_to_the_short_circuit():
    """What the cut ends comes first, the proof after the cut before the winding, the model last."""
    out = design(IRON.without_shunts(), NICKEL)
    keys = [w.key for w in works(out, NICKEL, recommend("welded", USUAL_TOOLS))]

    assert keys[0] == "asked"
    assert keys.index("before") < keys.index("cut") < keys.index("proved") < keys.index("wind")
    assert keys.index("proved") < keys.index("test-turns") < keys.index("idle") < keys.index("wind")
    assert keys.index("wiring") < keys.index("first") < keys.index("short")
    assert keys[-1] == "short"
    assert "shunts" in keys


def test_the_cut_is_never_locked_behind_anything_live():
    """Nobody needs two kilovolts live to throw them away: what comes before it is read cold."""
    kinds = recommend("welded", USUAL_TOOLS)
    before = works(chosen(), NICKEL, kinds)
    at = [w.key for w in before].index("cut")

    assert {w.proof for w in before[:at] if w.proof} == {"cold"}
    assert "no-load" in {w.proof for w in before[at:]}


def test_watts_that_judge_a_rewinding_are_read_after_the_cut():
    """The same reading of a day before it proves nothing; of a part that was never cut neither."""
    watts = {"driven": ["A", "B"], "volts": 230.0, "amps": 1.9, "watts": 75.0}

    assert "no-load" not in missing(record([read("no_load", 3, **watts)], [CUT]))
    early = {"kind": "no_load", "at": "2026-05-01T06:00:00+00:00", **watts}
    assert "no-load" in missing(record([early], [CUT]))
    assert "no-load" in missing(record([early]))


def test_shunts_stay_in_where_the_job_is_done_with_them():
    """A soldering unit leaves them; where amps are missing they come out."""
    soft = exact_iron(WINDOW, 0.9, shunts_in=True, reactance_ohms=exact(80.0))

    assert better(both(IRON, use_of("solder"))).iron.shunts_in
    assert not better(both(soft, NICKEL)).iron.shunts_in


def test_two_barriers_are_a_step_of_their_own():
    """Where a use asks for them."""
    lamps = use_of("lamps")
    keys = [w.key for w in works(better(both(IRON, lamps)), lamps, recommend("", USUAL_TOOLS))]

    assert "former" in keys


def test_a_step_whose_test_is_missing_keeps_the_next_ones_locked():
    """Ticked or not: readings open it, words do not."""
    ticked = plan(done=("asked", "before"))
    shown = plan(done=("asked", "before"), lacking=tuple(set(PROOFS) - {"cold"}))

    assert ticked.steps[2].locked == "first the readings of step 2"
    assert shown.steps[2].locked == ""
    assert plan().steps[0].locked == plan().steps[1].locked == ""
    assert plan(done=("asked",)).here.work.key == "before"


def test_every_proof_of_the_sheet_has_its_rule_and_its_words():
    """And every rule is named by a step of some sheet."""
    named = set()
    for use in (u for u in USES if not u.refused):
        d = better(both(IRON, use))
        named |= {w.proof for w in works(d, use, recommend("", USUAL_TOOLS)) if w.proof}

    assert named == set(PROOFS) == set(WANTED)


def test_what_to_buy_has_its_ratings():
    """Fuse above the primary's amps, foot switch of twice, a cut-out."""
    lines = [w.words for w in plan().buy]
    amps = chosen().found.shot.primary_amps
    fuse = float(next(x for x in lines if x.startswith("fuse")).split()[1])

    assert amps <= fuse <= 2 * amps
    assert any("foot switch" in x for x in lines)
    assert any("cut-out" in x for x in lines)
    assert any(chosen().conductor.title in x for x in lines)


def test_ready_by_leaves_out_waits_but_never_a_test():
    """Three evenings hold; two without the varnish; one cannot be."""
    whole = plan()
    three, two, one = (ready_by(whole, n) for n in (3, 2, 1))

    assert three.possible
    assert not three.left_out
    assert two.possible
    assert two.left_out
    assert not one.possible
    proofs = {w.key for s in whole.steps for w in [s.work] if w.proof}
    assert not proofs & set(MAY_WAIT) - {"count"}


# ------------------------------------------------------------------- proofs by readings

CUT = {"what": "winding-removed", "leads": ["C"], "at": "2026-05-01T12:00:00+00:00"}
WOUND = {"what": "rewound", "turns": 3, "at": "2026-05-02T12:00:00+00:00"}


def record(readings=(), changes=()):
    """An oven part with these besides."""
    document = piece("ABCDEXY", OVEN)
    for n, r in enumerate(readings):
        document["readings"].append({"id": f"x{n}", **r})
    document["changes"] = list(changes)
    return identify(parse_record(document))


def read(kind, at, **more):
    """A reading at a time."""
    return {"kind": kind, "at": f"2026-05-{at:02d}T18:00:00+00:00", **more}


OPENED = {"between": ["A", "core"], "ohms": "open", "range_ohms": 20e6}


@pytest.mark.parametrize(
    ("readings", "holds"),
    [
        (
            [read("resistance", 1, **OPENED), read("resistance", 1, between=["A", "B"], ohms=1.1)],
            True,
        ),
        ([read("resistance", 1, **OPENED)], False),
        ([read("resistance", 1, between=["A", "B"], ohms=1.1)], False),
        (
            [
                read("resistance", 1, **{**OPENED, "range_ohms": 2e6}),
                read("resistance", 1, between=["A", "B"], ohms=1.1),
            ],
            False,
        ),
    ],
    ids=["both", "no ohms", "not to the core", "low range"],
)
def test_after_the_cut_the_primary_is_proved_anew(readings, holds):
    """Open to the core on 20 MΩ, and its ohms, both after the cut."""
    assert ("after-cut" not in missing(record(readings, [CUT]))) == holds


def test_readings_of_before_a_change_prove_nothing_after_it():
    """The same day, hours earlier; and without any change there is nothing to prove."""
    early = [
        {"kind": "resistance", "at": "2026-05-01T06:00:00+00:00", **OPENED},
        {
            "kind": "resistance",
            "at": "2026-05-01T06:00:00+00:00",
            "between": ["A", "B"],
            "ohms": 1.1,
        },
    ]

    assert "after-cut" in missing(record(early, [CUT]))
    assert "after-cut" in missing(record(early))
    assert "short-circuit" in missing(record())


def test_the_new_winding_is_proved_by_its_own_readings():
    """Ratio after it was wound; a short circuit; insulation at 500 V with 7 MΩ, not with 6.9."""
    ratio = read(
        "ratio", 3, driven=["A", "B"], driven_volts=23, sensed=["X", "Y"], sensed_volts=0.27
    )
    short = read("short_circuit", 3, driven=["A", "B"], shorted=[["X", "Y"]], volts=20, amps=3)
    proved = missing(record([ratio, short], [CUT, WOUND]))

    assert not {"open-volts", "short-circuit", "test-turn-new"} & set(proved)
    for ohms, lacking in ((7e6, False), (6.9e6, True)):
        tested = read("insulation", 3, between=["A", "X"], ohms=ohms, test_volts=500)
        assert ("barrier" in missing(record([tested], [WOUND]))) == lacking
    weak = read("insulation", 3, between=["A", "X"], ohms="open", test_volts=250)
    assert "barrier" in missing(record([weak], [WOUND]))


# --------------------------------------------------------------- as made, and the log


def test_the_winding_as_made_becomes_a_change():
    """Turns, conductor, metres, insulation, line volts; units as they are typed."""
    change = as_change(
        {
            "what": "rewound",
            "turns": "3",
            "conductor": "cable 35",
            "mm2": "35",
            "metres": "1,2",
            "line_volts": "231 V",
        }
    )

    assert change["turns"] == 3.0
    assert change["metres"] == 1.2
    assert change["line_volts"] == 231.0
    assert made_of(record(changes=[{**change, "at": "2026-05-02T12:00:00+00:00"}]).record)[0].words


@pytest.mark.parametrize(
    ("form", "field"),
    [
        ({"what": "burnt"}, "what"),
        ({"what": "winding-removed"}, "leads"),
        ({"what": "rewound"}, "turns"),
        ({"what": "rewound", "turns": "0.5"}, "turns"),
        ({"what": "rewound", "turns": "many"}, None),
    ],
)
def test_a_change_that_says_nothing_is_refused(form, field):
    """By its field."""
    with pytest.raises(FieldError) as caught:
        as_change(form)
    assert field is None or caught.value.field == field
    assert set(CHANGES) >= {"winding-removed", "rewound", "shunts-removed"}


def test_wind_and_read_says_how_many_more():
    """Three turns read 2.55 V, five are wanted: three more; enough is enough."""
    assert more_turns(5.0, 2.55, 3) == (3, pytest.approx(0.85))
    assert more_turns(2.0, 2.55, 3)[0] == 0
    with pytest.raises(FieldError):
        more_turns(5.0, 0.0, 3)


def shot(result, **more):
    """One entry of the log."""
    return weld_of({"turns": "2", "seconds": "0.2", "result": result, **more})


def logged(*entries):
    """A record's log of these."""
    document = parse_record(
        {
            "format": "greyfell.transformer/1",
            "tag": "L-1",
            "leads": [{"id": "A"}, {"id": "B"}],
            "readings": [],
            "statements": [{"id": f"s{n}", **e} for n, e in enumerate(entries)],
        }
    )
    return shots_of(document)


def test_the_log_tells_what_was_changed_and_its_effect():
    """One thing, two things, nothing; per cent of the mean volts."""
    log = logged(
        shot("peel", volts_mean="1.0"),
        shot("button", seconds="0.3", volts_mean="1.1"),
        shot("button", seconds="0.4", tip_mm="3"),
        shot("button", seconds="0.4", tip_mm="3"),
    )

    assert log[1].changed == "pulse; mean volts +10 %"
    assert "more than one at a time" in log[2].changed
    assert log[3].changed == "the same once more"


@pytest.mark.parametrize(
    ("results", "words"),
    [
        ((), "First shot"),
        (("peel",), "0.3 s"),
        (("none",), "0.4 s"),
        (("hole",), "0.1 s"),
        (("hole", "hole"), "One turn fewer"),
        (("button",), "Leave it"),
        (("none", "none", "none"), "warm joint"),
    ],
)
def test_the_next_single_change_follows_from_the_log(results, words):
    """Longer where it peels, shorter where it holes, the loop where nothing helps."""
    assert words in proposed(logged(*(shot(r) for r in results)))


@pytest.mark.parametrize(
    ("form", "field"),
    [
        ({"result": ""}, "result"),
        ({"result": "peel", "seconds": "1"}, "turns"),
        ({"result": "peel", "turns": "2"}, "seconds"),
        (
            {"result": "peel", "turns": "2", "seconds": "1", "volts_least": "2", "volts_mean": "1"},
            "volts_mean",
        ),
    ],
)
def test_a_shot_that_says_too_little_is_refused(form, field):
    """By its field; no outcome stands ready."""
    with pytest.raises(FieldError) as caught:
        weld_of(form)
    assert caught.value.field == field


def test_a_use_keeps_its_turns_when_the_sheet_is_told_with_less_duty():
    """The design does not hang on the order of its fields."""
    one = replace(NICKEL, title="other words")

    assert better(both(IRON, one)).found.turns == chosen().found.turns


def test_ranges_hold_what_rewound_pieces_then_give():
    """Sixty simulated projects, shunts in and out: volts and amps shorted, nine in ten and more."""
    rng = np.random.default_rng(907)
    found = [x for x in (tried(rng) for _ in range(60)) if x is not None]

    assert len(found) > 50
    for k, widest in ((0, 1.08), (1, 1.7)):
        assert np.mean([x[k][0] for x in found]) >= 0.9
        assert np.median([x[k][1] for x in found]) < widest


# ------------------------------------------------------------- ranges, place, habits


def test_what_is_given_into_the_load_has_a_range_that_holds_each_end_by_itself():
    """The load at either end alone, everything else in the middle: inside; nothing known better
    than the open volts is.
    """
    made = design(IRON, NICKEL, 3)
    give = into(IRON, replace(NICKEL, made=(made.conductor.made,)), 3)

    for ohms in (NICKEL.load_ohms.low, NICKEL.load_ohms.high):
        assert 0.99 * made.load.amps.low < give(ohms).amps < 1.01 * made.load.amps.high
    assert made.load.amps.value == pytest.approx(made.found.shot.amps, rel=0.02)
    assert made.load.watts.low < made.load.watts.value < made.load.watts.high
    assert made.short_amps.high / made.short_amps.low < made.load.amps.high / made.load.amps.low


def test_volts_per_turn_are_known_better_where_test_turns_were_read():
    """The same readings; with test turns on the primary the range is seven tenths as wide."""
    plate = {"nameplate": {"primary_volts": 230.0, "hertz": 50.0}, "declared_family": "microwave"}
    ratio = {"kind": "ratio", "driven": ["A", "B"], "driven_volts": 23.0, "sensed": ["E", "core"]}
    turn = {"kind": "test_turn", "driven": ["A", "B"], "driven_volts": 230.0, "turns": 5}
    readings = [*OVEN, {**ratio, "sensed_volts": 210.0}, {**turn, "turn_volts": 4.5}]
    ident = identify(parse_record(piece("ABCDE", readings, **plate, **SUPPLY)))
    believed, iron = ident.belief.volts_per_turn, iron_of(ident)

    assert np.log(iron.volts_per_turn.high / iron.volts_per_turn.low) == pytest.approx(
        0.7 * np.log(believed.high / believed.low)
    )
    assert iron.volts_per_turn.value == believed.value


SUPPLY = {"supply": {"volts": 230, "hertz": 50}}


def measured(off, meter=""):
    """One figure measured so many times its plan."""
    return Compared(
        words="Open volts",
        unit="V",
        planned=exact(2.0),
        measured=exact(2.0 * off),
        reading="r1",
        meter=meter,
    )


def test_one_plan_tells_no_habit_and_two_do():
    """Two alike: a bias; two to both sides: none; a meter by itself where it was named."""
    assert habits([measured(1.04)]) == []
    (alike,) = habits([measured(1.04), measured(1.041)])
    (apart,) = habits([measured(1.04), measured(0.96)])
    named = habits([measured(1.04, "bench"), measured(1.04), measured(1.041, "bench")])

    assert "above plan" in alike.words
    assert alike.factor.low > 1
    assert "no bias" in apart.words
    assert [h.count for h in named] == [3, 2]
    assert "bench" in named[1].about


def test_a_plan_that_was_kept_says_what_it_said_that_day():
    """Written with the plan, read back; one that told nothing, or nonsense, is none."""
    promised = promised_by(design(IRON, NICKEL, 3))
    record = piece("AB", [("A", "B", 1.3)])
    kept = {"kind": "rewind-plan", "planned": promised.written()}

    def back(statement):
        return as_kept(parse_record({**record, "statements": [statement]}), "rewind-plan")

    assert back(kept).open_volts.value == promised.open_volts.value
    assert back(kept).short_amps.high == promised.short_amps.high
    assert back({"kind": "rewind-plan"}) is None
    assert back({"kind": "rewind-plan", "planned": {"open_volts": [1.0]}}) is None


# ---------------------------------------------------------------------- stop lines


def test_the_blade_stops_on_the_card_above_what_stands_under_the_coil():
    """57 mm of window, 25 of primary, 6 of shunts, 1 of card: 25 mm from the top."""
    assert "stop 25 mm" in stop_line("cut", WINDOW)
    assert "stop 31 mm" in stop_line("cut", WINDOW.without_shunts())
    assert "stop 60 mm deep" in stop_line("drill", WINDOW)
    assert "5 mm deep" in stop_line("grind", WINDOW)
    assert stop_line("pull", WINDOW) == ""


@pytest.mark.parametrize("method", METHODS, ids=lambda m: m.key)
def test_every_step_of_every_method_is_drawn(method):
    """By its own act; the primary is on every picture and named as what stays."""
    for work in method.steps:
        shown = removal_drawing(WINDOW, work.key)
        assert work.key in ACTS
        assert "primary stays" in shown.texts()


def test_a_cut_is_drawn_to_the_foot_of_the_coil_and_no_further():
    """The blade's line ends where primary and shunts end."""
    shown = removal_drawing(WINDOW, "cut")
    blades = [s for s in shown.shapes if s.attrs.get("class") == "bond" and s.element == "line"]
    upright = [s for s in blades if s.attrs["x1"] == s.attrs["x2"]]
    shunt = next(s for s in shown.shapes if s.attrs.get("class") == "shunt")

    assert len(upright) == 2
    assert every(s.attrs["y2"] <= shunt.attrs["y"] + 0.11 for s in upright)


def test_the_stores_meet_what_is_wanted_with_least_to_spare():
    """A switch of 8 A is met by 10 A before 16 A, by none of 6.3 A, by none of which none is
    left.
    """
    entries = [
        {
            "id": f"s0000000{n}",
            "kind": "switch",
            "title": f"{amps:g} A",
            "count": count,
            "amps": amps,
        }
        for n, (amps, count) in enumerate([(16.0, 3), (10.0, 1), (6.3, 9), (8.0, 0)])
    ]
    items = parse_stores({"format": "greyfell.stores/1", "items": entries})
    wanted = Wanted(words="switch 8 A", kind="switch", figure="amps", least=8.0)

    assert wanted.met_by(items).title == "10 A"
    assert replace(wanted, least=20.0).met_by(items) is None
    assert replace(wanted, kind="fuse").met_by(items) is None


@pytest.mark.parametrize(
    ("change", "does"),
    [
        ({}, True),
        ({"amps": 30.0, "volts": 32.0}, False),
        ({"volts": 32.0}, False),
        ({"volts": 229.0}, False),
        ({"volts": 230.0}, True),
        ({"volts": None}, False),
        ({"speed": "fast"}, False),
        ({"speed": None}, False),
        ({"amps": 1.25}, False),
        ({"amps": 0.8}, False),
    ],
)
def test_a_fuse_of_the_stores_does_only_where_amps_volts_and_speed_fit(change, does):
    """A car's fuse of 30 A 32 V is no mains fuse; what is not said of it does not fit."""
    wanted = next(w for w in plan().buy if w.kind == "fuse")
    told = {"amps": wanted.least, "volts": 250.0, "speed": "slow"}
    given = told | change
    if change.get("amps") in (1.25, 0.8):
        given["amps"] = change["amps"] * wanted.least
    entry = {"id": "s00000001", "kind": "fuse", "title": "it", "count": 3}
    entry |= {k: v for k, v in given.items() if v is not None}
    items = parse_stores({"format": "greyfell.stores/1", "items": [entry]})

    assert (wanted.met_by(items) is not None) == does


@pytest.mark.parametrize(
    ("kind", "told", "spoilt"),
    [
        ("switch", {"amps": 1e3, "volts": 250.0, "poles": 2.0}, {"poles": 1.0}),
        ("switch", {"amps": 1e3, "volts": 250.0, "poles": 2.0}, {"volts": 24.0}),
        ("cut-out", {"celsius": 90.0, "volts": 250.0, "amps": 30.0}, {"celsius": 160.0}),
        ("cut-out", {"celsius": 90.0, "volts": 250.0, "amps": 30.0}, {"celsius": 69.0}),
        ("cut-out", {"celsius": 90.0, "volts": 250.0, "amps": 30.0}, {"amps": 0.1}),
        ("cut-out", {"celsius": 90.0, "volts": 250.0, "amps": 30.0}, {"volts": 12.0}),
    ],
)
def test_a_switch_or_cut_out_of_the_stores_fits_in_all_its_ratings(kind, told, spoilt):
    """Poles, volts, amps, degrees."""
    wanted = next(w for w in plan().buy if w.kind == kind)
    entry = {"id": "s00000001", "kind": kind, "title": "it", "count": 1}

    for figures, does in ((told, True), (told | spoilt, False)):
        shelf = {"format": "greyfell.stores/1", "items": [entry | figures]}
        assert (wanted.met_by(parse_stores(shelf)) is not None) == does


# ---------------------------------------------------------- measured beside the plan

WOUND_AT = "2026-05-02T12:00:00+01:00"


def rewound(*readings):
    """A rewound oven of which these were read afterwards."""
    later = [
        {"at": "2026-05-03T12:00:00+01:00", "id": f"n{k}", **r} for k, r in enumerate(readings)
    ]
    document = piece(
        "ABXY",
        [("A", "B", 2.3), ("X", "Y", 0.01), *later],
        supply={"volts": 230, "hertz": 50},
        declared_family="microwave",
        changes=[{"what": "rewound", "at": WOUND_AT, "note": "X Y"}],
    )
    return identify(parse_record(document))


def test_readings_after_the_winding_stand_beside_the_plan():
    """A ratio and a short of the fed winding, carried on to 230 V; from the other side, of before,
    and without the new winding's amps they are none.
    """
    ratio = {"kind": "ratio", "driven": ["A", "B"], "driven_volts": 23.0, "sensed": ["X", "Y"]}
    short = {"kind": "short_circuit", "driven": ["A", "B"], "volts": 11.5, "amps": 0.4}
    other_way = {**ratio, "driven": ["X", "Y"], "driven_volts": 0.3, "sensed": ["A", "B"]}
    ident = rewound(
        {**ratio, "sensed_volts": 0.25},
        {**short, "shorted": [["X", "Y"]], "shorted_amps": 30.0},
        {**short, "shorted": [["X", "Y"]]},
        {**other_way, "sensed_volts": 27.0},
        {**ratio, "sensed_volts": 9.0, "at": "2026-05-01T12:00:00+01:00"},
    )
    told = compared_with(ident, promised_by(design(IRON, NICKEL, 3)))

    assert set(ident.belief.primary.coil.leads) == {"A", "B"}
    assert [(c.words, c.reading) for c in told] == [("Open volts", "n0"), ("Amps shorted", "n1")]
    assert told[0].measured.value == pytest.approx(2.5)
    assert told[1].measured.value == pytest.approx(600.0)


def test_a_core_glued_again_waits_over_night():
    """Hours of epoxy in minutes, on its own step."""
    way = recommend("interleaved", USUAL_TOOLS)
    glued = replace(way, joint=next(j for j in JOINTS if j.key == "epoxy"))
    rejoined = [w for w in works(chosen(), NICKEL, glued) if w.key == "rejoin"]

    assert [w.waits for w in rejoined] == [60 * EPOXY_HOURS]
    assert EPOXY_HOURS >= 12


# ------------------------------------------------------------------ what is said while it is wound


@pytest.mark.parametrize(("share", "honest"), [(0.86, True), (0.84, False)])
def test_a_cable_is_proved_by_its_ohms(share, honest):
    """1.7241 µΩ·cm at 20 °C: 17.241 mΩ a metre of one square millimetre. IEC 60028."""
    design = chosen()
    section = design.conductor.mm2
    milliohms = 17.241 / section * 3.0 / share

    said = notes.cable_proved(design, milliohms=milliohms, metres=3.0)
    assert said.startswith(f"It is {100 * share:.0f} % of")
    assert ("honest copper" in said) is honest


@pytest.mark.parametrize(("milliohms", "metres"), [(0.0, 3.0), (1.0, 0.0)])
def test_a_cable_of_which_nothing_was_read_is_not_judged(milliohms, metres):
    """No figure, no sentence."""
    assert notes.cable_proved(chosen(), milliohms=milliohms, metres=metres) == ""


def test_a_winding_read_back_says_how_many_turns_are_missing():
    """Two turns that read what the plan says agree; half of it is a turn counted twice."""
    design = chosen()
    each = design.iron.new_volts_per_turn.value

    assert "they agree" in notes.read_back(design, volts=2 * each, turns=2)
    assert "by it these would be 1.0 turns" in notes.read_back(design, volts=each, turns=2)
    assert notes.read_back(design, volts=0.0, turns=2) == ""
    assert notes.read_back(design, volts=1.0, turns=0) == ""


def test_a_shot_clock_runs_below_a_minute_only():
    """Shots, rest and kelvin of a nickel weld; none of what runs on."""
    clock = notes.shot_clock(chosen(), NICKEL)
    heater = use_of("heater")

    assert clock["rest"] == NICKEL.off_seconds
    assert clock["shots"] > 1
    assert 0 < clock["kelvin"] < 50
    assert heater.on_seconds >= 60
    assert notes.shot_clock(better(both(IRON, heater)), heater) is None


def test_a_joint_takes_amps_by_its_gap_there_and_back():
    """I = B·g/(μ0·N·√2), twice the gap: REF-M-10, by hand."""
    (joint, (least, widest)), *_ = notes.joint_amps(IRON)
    by_hand = 2 * 1.6 * joint.gap_mm[1] * 1e-3 / (4e-7 * math.pi * IRON.primary_turns * 2**0.5)

    assert widest == pytest.approx(by_hand, rel=1e-6)
    assert least < widest
    assert notes.amps_of_a_tenth(IRON) == pytest.approx(widest / 2 / joint.gap_mm[1] * 0.1)


def test_a_conductor_is_told_every_way_and_a_loop_begins_with_it():
    """mm², millimetres and gauge agree; the winding's micro-ohms stand first."""
    design = chosen()
    mm = math.sqrt(4 * design.conductor.mm2 / math.pi)

    assert f"{mm:.2f} mm solid" in notes.gauge(design)
    assert notes.path_rows(design).startswith(f"winding - {1e6 * design.ohms_cold:.0f}u; ")
    assert notes.path_rows(design).count(";") == 4


@pytest.mark.parametrize(("watts", "large"), [(401.0, True), (399.0, False)])
def test_iron_is_looked_for_by_what_the_job_asks(watts, large):
    """Volts, amps, what parts the windings; from four hundred watts on a core of an oven's size."""
    ohms = Quantity(0.1, 0.01, 0.2)
    job = replace(use_of("solder"), amps=40.0, loaded_volts=watts / 40.0, load_ohms=ohms)

    said = iron_to_look_for(job)
    assert ("a core of 1 kVA and more" in said) is large
    assert "40 A and more" in said
