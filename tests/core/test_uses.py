"""Can it? Every need of every use is able to say no; every “does not” names its figure and a change
that, when made, lets it fit; what is refused is refused with its reason.
"""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from greyfell.core.coil_design.conductors import Conductor
from greyfell.core.coil_design.loop import Shot
from greyfell.core.coil_design.welding import ONE_SIDED
from greyfell.core.coil_design.window import Window
from greyfell.core.evidence.parse import parse_record
from greyfell.core.figures.quantity import exact
from greyfell.core.identify import identify
from greyfell.core.uses.all_uses import USES, use_of
from greyfell.core.uses.catalogue import BURNS, MILD, REINFORCED, SHOCKS, shorter, weld
from greyfell.core.uses.core_to_wind import barred, exact_iron, iron_of
from greyfell.core.uses.fit import AFTER, FITS, NOT, best, changes, danger_of, fit, tried
from greyfell.core.uses.fit import _breaker as breaker_check
from greyfell.core.uses.fit import _counts as counts
from greyfell.core.uses.fit import _primary as primary_check
from greyfell.core.uses.fit import _window as window_check
from greyfell.core.uses.kept_project import as_it_is
from greyfell.records.demo import demo_documents
from tests.conftest import every

DEMO = {d["tag"]: d for d in demo_documents()}
WINDOW = Window(width_mm=19, height_mm=57, tongue_mm=38, stack_mm=60, primary_mm=25, shunts_mm=6)
OVEN = exact_iron(WINDOW, 0.9, shunts_in=True, reactance_ohms=exact(14.0))
PLANNED = [u for u in USES if not u.refused]
REFUSED = [u for u in USES if u.refused]


def checked(iron, use, about, turns=None):
    """One need of a use on this iron."""
    found = best(iron, use) if turns is None else tried(iron, use, turns)
    return next(c for c in found.checks if c.about == about)


# ------------------------------------------------------------------- the usual answers


@pytest.mark.parametrize(
    ("key", "verdict"),
    [
        ("weld-nickel", FITS),
        ("weld-steel", FITS),
        ("solder", FITS),
        ("anneal", FITS),
        ("heater", FITS),
        ("stick", NOT),
        ("lamps", AFTER),
        ("charge", AFTER),
        ("one-to-one", AFTER),
    ],
)
def test_what_one_oven_core_becomes(key, verdict):
    """A tab welder and a soldering unit; no stick welder; nothing that is touched for good without
    two barriers.
    """
    assert fit(OVEN, use_of(key)).verdict == verdict


def test_a_single_oven_core_cannot_stick_weld_and_says_why():
    """Some sixty turns of cable do not go in; a larger core would."""
    found = fit(OVEN, use_of("stick"))

    assert "57 turns of any conductor do not go into" in found.words
    assert found.failing[0].about == "window"
    assert "times as large" in found.change.words


@pytest.mark.parametrize("use", REFUSED, ids=lambda u: u.key)
def test_refused_uses_have_their_reason_and_no_plan(use):
    """Wood burning, open HV, magnets out of magnetrons: nothing to build from."""
    found = fit(OVEN, use)

    assert found.verdict == NOT
    assert "Nothing is planned" in found.words
    assert found.conductor is None
    assert found.change is None
    assert found.checks == ()


# -------------------------------------------------------------- every need can say no


@pytest.mark.parametrize("use", PLANNED, ids=lambda u: u.key)
def test_open_volts_can_say_no(use):
    """Ten times the volts per turn wanted: one turn is too many, or far too few."""
    low, high = use.open_volts
    per_turn = high * 1.05

    assert not checked(exact_iron(WINDOW, per_turn), use, "open volts", turns=1).holds
    assert not checked(exact_iron(WINDOW, low * 0.95), use, "open volts", turns=1).holds
    assert checked(exact_iron(WINDOW, (low + high) / 2), use, "open volts", turns=1).holds


@pytest.mark.parametrize("use", PLANNED, ids=lambda u: u.key)
def test_amps_can_say_no(use):
    """Behind a reactance that lets nothing through; and behind none."""
    choked = exact_iron(BIG, 0.9, reactance_ohms=exact(1e5))
    stiff = exact_iron(WINDOW, 0.9, reactance_ohms=exact(0.0), resistance_ohms=exact(0.0))
    wide = replace(stiff, window=Window(width_mm=300, height_mm=900, tongue_mm=38, stack_mm=60))

    assert not checked(choked, use, "amps").holds
    assert checked(wide, use, "amps").holds


@pytest.mark.parametrize("use", [u for u in PLANNED if u.loaded_volts], ids=lambda u: u.key)
def test_loaded_volts_can_say_no(use):
    """Behind much resistance they break down."""
    wide = Window(width_mm=200, height_mm=600, tongue_mm=38, stack_mm=60)
    weak = exact_iron(wide, 0.9, resistance_ohms=exact(4000.0))

    assert not checked(weak, use, "loaded volts").holds


@pytest.mark.parametrize("use", PLANNED, ids=lambda u: u.key)
def test_the_window_can_say_no(use):
    """A window of a millimetre's wire, or of no wire at all."""
    small = exact_iron(Window(width_mm=1.7, height_mm=3.3, tongue_mm=30, stack_mm=30), 0.9)

    assert not checked(small, use, "window").holds


@pytest.mark.parametrize("use", PLANNED, ids=lambda u: u.key)
def test_duty_can_say_no(use):
    """A primary of hair."""
    found = checked(replace(OVEN, primary_minute=0.05, window=BIG), use, "duty")

    assert not found.holds


BIG = Window(width_mm=150, height_mm=450, tongue_mm=38, stack_mm=60)


@pytest.mark.parametrize("use", PLANNED, ids=lambda u: u.key)
def test_danger_can_say_no(use):
    """What the output does to a person may be no more than the use says: above 50 V it shocks,
    above 200 A shorted it burns, unless a fuse stands behind it.
    """
    stiff = exact_iron(BIG, 60.0, reactance_ohms=exact(0.01), resistance_ohms=exact(0.01))
    found = checked(stiff, use, "danger", turns=1)

    assert found.holds == (use.danger == SHOCKS)
    assert f"shorted{' through its loop' if use.loop_ohms else ''}, 59.5 V open" in found.words


@pytest.mark.parametrize(
    ("volts", "amps", "fused", "said"),
    [
        (49.0, 199.0, False, MILD),
        (49.0, 201.0, False, BURNS),
        (49.0, 201.0, True, MILD),
        (51.0, 1.0, False, SHOCKS),
        (51.0, 1.0, True, SHOCKS),
    ],
)
def test_danger_just_below_and_just_above(volts, amps, fused, said):
    """50 V of IEC 61140; 200 A by the house's rule."""
    assert danger_of(volts, amps, fused=fused) == said


def test_lamps_on_a_stiff_core_want_a_fuse_and_fit_with_it():
    """Hundreds of amps stand behind the 12 V of 240 W."""
    stiff = {"reactance_ohms": exact(0.3), "resistance_ohms": exact(0.2)}
    iron = replace(OVEN.without_shunts(), barrier=REINFORCED, **stiff)
    use = replace(use_of("lamps"), amps=20.0, load_ohms=exact(0.6))
    found = fit(iron, use)

    assert [c.about for c in found.failing] == ["danger"]
    assert found.change.key == "fuse"
    assert fit(*found.change.apply(iron, use)).verdict == FITS


@pytest.mark.parametrize("use", PLANNED, ids=lambda u: u.key)
def test_the_breaker_can_say_no(use):
    """A fuse far below what flows, and one far above."""
    little = replace(OVEN, breaker_amps=0.05, window=BIG)
    much = replace(OVEN, breaker_amps=63.0, curve="D", window=BIG)

    assert not checked(little, use, "breaker").holds
    assert checked(much, use, "breaker").holds


@pytest.mark.parametrize(
    "use", [u for u in PLANNED if u.barrier == REINFORCED], ids=lambda u: u.key
)
def test_isolation_can_say_no(use):
    """One barrier, and two."""
    assert not checked(OVEN, use, "isolation").holds
    assert checked(replace(OVEN, barrier=REINFORCED), use, "isolation").holds


# ------------------------------------------------------------------------- changes


@st.composite
def irons(draw):
    """Cores of any size, source and socket."""
    tongue = draw(st.floats(20.0, 60.0))
    window = Window(
        width_mm=tongue * draw(st.floats(0.35, 0.7)),
        height_mm=tongue * draw(st.floats(1.0, 2.0)),
        tongue_mm=tongue,
        stack_mm=tongue * draw(st.floats(0.8, 2.0)),
        primary_mm=tongue * draw(st.floats(0.2, 0.5)),
        shunts_mm=draw(st.sampled_from((0.0, 6.0))),
    )
    volts = draw(st.floats(0.15, 1.3))
    return exact_iron(
        window,
        volts,
        shunts_in=window.shunts_mm > 0,
        resistance_ohms=exact(draw(st.floats(0.5, 30.0))),
        reactance_ohms=exact(draw(st.floats(0.5, 60.0))),
        primary_minute=draw(st.floats(1.0, 20.0)),
        magnetising_amps=draw(st.floats(0.02, 2.0)),
        breaker_amps=draw(st.sampled_from((6.0, 10.0, 16.0, 20.0))),
    )


@given(irons(), st.sampled_from(PLANNED))
@settings(max_examples=60, deadline=None)
def test_every_no_names_its_figure_and_the_change_that_makes_it_a_yes(iron, use):
    """Applied, it fits; and what fits names turns, conductor, volts and amps."""
    found = fit(iron, use)
    if found.verdict == FITS:
        assert found.conductor.name in found.words
        assert found.shot.amps >= use.amps * 0.999
        return
    assert found.failing
    assert found.failing[0].words in found.words
    if found.change is not None:
        changed = best(*found.change.apply(iron, use))
        assert changed.verdict == FITS
        assert found.change.words in found.words


@given(irons(), st.sampled_from(PLANNED))
@settings(max_examples=40, deadline=None)
def test_more_breaker_or_less_reactance_never_turns_a_yes_into_a_no(iron, use):
    """A bigger socket for the same turns."""
    found = best(iron, use)
    larger = replace(iron, breaker_amps=63.0, curve="D")

    assert found.verdict != FITS or best(larger, use).verdict == FITS


def test_nearly_always_a_change_is_found():
    """Of the planned uses of an oven core every one has a way."""
    for use in PLANNED:
        found = fit(OVEN, use)
        assert found.verdict == FITS or found.change is not None


def test_shots_are_made_no_shorter_than_is_of_use():
    """A stick of 2 mm burns for three quarters of a minute."""
    use = use_of("stick")

    assert use.least_seconds == 45
    assert shorter(use, 45.0).on_seconds == 45


# --------------------------------------------------------------------------- the shelf


def test_stopped_potted_and_wrongly_fed_pieces_are_barred():
    """Nothing is wound on them, each for its reason; a sound oven part is let through."""
    said = {tag: barred(identify(parse_record(DEMO[tag]))) for tag in DEMO}

    assert "stop fault" in said["CQ-026"]
    assert "potted" in said["CQ-009"]
    assert "autotransformer" in said["CQ-033"]
    assert "knee" in said["CQ-053"]
    assert said["CQ-017"] == ""


def test_what_nobody_measured_is_named():
    """Window, height of the primary, reactance."""
    found = iron_of(identify(parse_record(DEMO["CQ-017"])))

    assert any("window" in a or "width" in a for a in found.assumed)
    assert any("reactance" in a for a in found.assumed)


def test_a_winding_that_is_there_already_is_offered_before_any_cut():
    """A marked isolating part is its own 1 : 1; a stopped piece is nothing."""
    plate = {"primary_volts": 230.0, "hertz": 50.0, "text": "isolating, IEC 61558-2-4"}
    sound = identify(parse_record({**DEMO["CQ-005"], "nameplate": plate}))
    stopped = identify(parse_record(DEMO["CQ-026"]))

    assert as_it_is(sound, use_of("one-to-one")).does
    assert as_it_is(sound, use_of("stick")) is None
    assert every(as_it_is(stopped, u) is None for u in USES)


def test_a_weld_of_copper_is_refused_before_any_turn_is_counted():
    """By metal, and by thickness."""
    assert "solder" in fit(OVEN, weld("copper", 0.1)).words.lower()
    assert fit(OVEN, weld("steel", 1.0)).verdict == NOT
    assert fit(OVEN, weld("nickel", 0.1, ONE_SIDED)).verdict in (FITS, AFTER)


# ------------------------------------------------------------- thresholds, just either side


def cable(mm2):
    """A cable of so many mm²."""
    return Conductor(title="cable", made="cable", mm2=mm2, overall_mm=5.0)


def flowing(amps, primary=1.0):
    """A shot of so many amps in the load and in the primary."""
    return Shot(
        turns=10,
        open_volts=12.0,
        short_amps=2 * amps,
        amps=amps,
        job_volts=11.0,
        job_watts=11.0 * amps,
        match_ohms=0.1,
        primary_amps=primary,
    )


@pytest.mark.parametrize(("density", "holds"), [(3.49, True), (3.51, False)])
def test_for_hours_a_winding_bears_three_and_a_half(density, holds):
    """A/mm² of buried copper."""
    use = replace(use_of("lamps"), amps=100.0)

    assert window_check(use, cable(10.0), flowing(10 * density)).holds == holds


@pytest.mark.parametrize(("density", "holds"), [(7.9, True), (8.1, False)])
def test_in_shots_the_mean_of_shots_and_rests_is_eight(density, holds):
    """A tenth of a second of every tenth: the root of the duty counts."""
    use = replace(use_of("solder"), amps=1000.0, on_seconds=0.1, off_seconds=0.3)

    assert window_check(use, cable(10.0), flowing(20 * density)).holds == holds


@pytest.mark.parametrize(("amps", "holds"), [(12.0 / 2.6 - 0.01, True), (12.0 / 2.6 + 0.01, False)])
def test_for_hours_a_primary_bears_what_it_bears_for_a_minute_over_2_6(amps, holds):
    """Twelve amps for a minute."""
    assert primary_check(OVEN, use_of("lamps"), flowing(4.0, amps)).holds == holds


@pytest.mark.parametrize(("seconds", "holds"), [(59.0, True), (61.0, False)])
def test_at_its_minute_s_amps_a_primary_has_a_minute(seconds, holds):
    """Once, with long rests."""
    use = replace(use_of("stick"), on_seconds=seconds, off_seconds=100 * seconds)

    assert primary_check(OVEN, use, flowing(60.0, 12.0)).holds == holds


@pytest.mark.parametrize(("amps", "holds"), [(79.0, True), (81.0, False)])
def test_above_its_magnet_s_band_no_pulse_is_short_enough_for_a_breaker(amps, holds):
    """B16: five times its amps, however short the shot."""
    use = replace(use_of("weld-nickel"), on_seconds=0.02)

    assert breaker_check(OVEN, use, flowing(800.0, amps)).holds == holds


def test_an_oven_part_gives_nothing_as_it_is_while_its_high_voltage_stands():
    """Its heater's volts and amps would do; its HV winding is beside it, fed by the same plug."""
    whole = identify(parse_record(DEMO["CQ-017"]))
    rewound = identify(parse_record(DEMO["CQ-052"]))

    assert every(as_it_is(whole, u) is None for u in USES)
    assert as_it_is(rewound, use_of("charge")).does


OBVIOUS = [
    ("a kilowatt of oven core must weld rods", "CQ-017", "stick", NOT, "window"),
    ("twelve volts at an oven core are harmless", "CQ-017", "lamps", AFTER, "isolation"),
    ("an oven's heater glows a staple as it is", "CQ-017", "staple", FITS, ""),
    ("only an oven part welds nickel", "CQ-005", "weld-nickel", FITS, ""),
]
"""What looks obvious and is not: the belief, piece, use, verdict, and the need that fails."""


@pytest.mark.parametrize(("belief", "tag", "key", "verdict", "failing"), OBVIOUS)
def test_the_obvious_answer_is_wrong(belief, tag, key, verdict, failing):
    """Each is answered by the loop, the window and the barriers, not by the plate."""
    ident = identify(parse_record(DEMO[tag]))
    found = fit(iron_of(ident), use_of(key))

    assert belief
    assert found.verdict == verdict
    assert failing in [c.about for c in found.failing] or failing == ""
    assert as_it_is(ident, use_of(key)) is None


@pytest.mark.parametrize("use", PLANNED, ids=lambda u: u.key)
def test_what_shocks_and_must_be_isolated_is_never_wound_on_oven_iron(use):
    """Refused with the reason; on other iron it is not, and what cannot shock is let through."""
    found = fit(replace(OVEN, oven=True), use)
    kills = use.danger == SHOCKS and use.barrier == REINFORCED

    assert ("never a safety isolation" in found.words) == kills
    assert "never a safety isolation" not in fit(OVEN, use).words


def test_a_piece_that_may_be_an_ovens_counts_as_one():
    """The demo's ovens; the one to one beside them does not."""
    told = {tag: iron_of(identify(parse_record(DEMO[tag]))) for tag in ("CQ-017", "CQ-005")}

    assert told["CQ-017"].oven
    assert not told["CQ-005"].oven


@pytest.mark.parametrize(
    ("low", "high", "first", "last"),
    [(10.0, 12.0, 20, 24), (10.1, 11.9, 21, 23), (0.1, 0.4, 1, 1), (300.0, 300.4, 600, 600)],
)
def test_turns_on_trial_are_those_whose_volts_lie_in_the_bounds(low, high, first, last):
    """Half a volt a turn: both ends count, one turn at least; out of reach the least alone."""
    iron = replace(exact_iron(WINDOW, 0.5), coupling=exact(1.0))
    found = list(counts(iron, replace(use_of("lamps"), open_volts=(low, high))))

    assert (found[0], found[-1]) == (first, last)
    assert len(found) <= 23


@pytest.mark.parametrize(
    ("seconds", "least", "pulses"),
    [
        (20.0, 5.0, [10.0, 5.0]),
        (20.0, 5.1, [10.0]),
        (20.0, 0.6, [10.0, 5.0, 2.0, 0.6]),
        (20.0, 10.1, []),
    ],
)
def test_shorter_pulses_are_tried_down_to_the_least_of_use(seconds, least, pulses):
    """A half, a quarter, a tenth, three hundredths; rests nine times as long."""
    use = replace(use_of("lamps"), on_seconds=seconds, least_seconds=least, off_seconds=0.0)
    found = [c.apply(OVEN, use)[1] for c in changes(OVEN, use) if c.key == "pulse"]

    assert [u.on_seconds for u in found] == pytest.approx(pulses)
    assert [u.off_seconds for u in found] == pytest.approx([9 * p for p in pulses])


@pytest.mark.parametrize(
    ("amps", "fuse"),
    [(0.3, 0.5), (4.4, 6.3), (4.6, 8.0), (7.1, 10.0), (7.2, 16.0), (11.4, 16.0), (11.5, 25.0)],
)
def test_an_outputs_fuse_is_the_next_above_its_amps(amps, fuse):
    """1.4 times the amps, of those that are sold (IEC 60127-2); just below and above a step."""
    use = replace(use_of("lamps"), amps=amps)
    change = next(c for c in changes(OVEN, use) if c.key == "fuse")

    assert change.words == f"a fuse of {fuse:g} A in its output"
