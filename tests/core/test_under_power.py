"""Before power: lamps foretold on every winding, volts of every pair; afterwards soaks, shorts,
loads and changes, and what each of them decides.
"""

import numpy as np
import pytest

from greyfell.core.circuit.idle import idle_of
from greyfell.core.circuit.lamp import Behind, glow_of, lit, through
from greyfell.core.circuit.load import against, load_line, short_amps
from greyfell.core.circuit.sweep import earlier_sweeps
from greyfell.core.circuit.three_lamps import BENDS, LampRead, by_lamps, lamps_on_record
from greyfell.core.circuit.warmth import (
    LIMIT_KELVIN,
    SHOTS_MINUTES,
    STAYS_KELVIN,
    warmth_of,
)
from greyfell.core.circuit.waveform import as_averaged, current, rms, true_over_averaged
from greyfell.core.errors import FieldError
from greyfell.core.evidence.jotter import read_line
from greyfell.core.evidence.parse import parse_record
from greyfell.core.evidence.stores import parse_item
from greyfell.core.figures.leaking import grade_of
from greyfell.core.figures.quantity import Quantity, exact
from greyfell.core.identify import identify
from greyfell.core.judgement.audit import audit
from greyfell.core.judgement.gates import live_gate
from greyfell.core.judgement.metering import meter_rules
from greyfell.core.judgement.warm_runs import soaked_of
from greyfell.core.network.curve import Curve
from greyfell.core.simulated import designs
from greyfell.core.simulated.meters import Kit, SimulatedBench
from greyfell.core.steps.expected import Expected, expected_of, meaning_of
from greyfell.core.steps.lamps import bench_lamp, lamps_of
from greyfell.core.steps.load_test import outputs, short_plans
from greyfell.core.steps.next_step import next_steps
from greyfell.core.steps.windup_sheet import allowed_volts
from greyfell.core.truth.loaded import loaded
from greyfell.records.demo import demo_documents
from tests.conftest import PLATE, every, piece
from tests.core.test_hazards import BELL
from tests.core.test_situations import SUPPLY, demo, made, oven_at_first_power


def lamp(watts):
    """A lamp of the stores."""
    return parse_item({"id": f"L{watts:g}", "kind": "lamp", "watts": watts, "volts": 230.0})


# ------------------------------------------------------------------ lamps


def test_a_lamp_at_hand_is_taken_that_is_never_bright_on_sound_iron():
    """Of those that tell, the largest; a short is bright behind it."""
    found = lamps_of(demo("CQ-018"), [lamp(25), lamp(100), lamp(200), lamp(500)])

    assert found.taken == 500.0
    assert "bright" not in found.windings[0].sound
    assert found.windings[0].shorted == ("bright",)


@pytest.mark.parametrize("watts", [100.0, 500.0])
def test_the_lamp_of_the_step_is_the_lamp_of_the_bench_and_of_the_forecast(watts):
    """Whatever the stores hold besides."""
    told = next(d for d in demo_documents() if d["tag"] == "CQ-018")
    chain = [{**e, "watts": watts} if e["kind"] == "lamp" else e for e in told["setup"]["chain"]]
    ident = identify(parse_record({**told, "setup": {**told["setup"], "chain": chain}}))
    found = lamps_of(ident, [lamp(25), lamp(200)])

    assert found.on_bench
    assert found.windings[0].lamp_watts == bench_lamp(ident) == watts
    assert found.taken == (500.0 if watts == 500.0 else None)


def test_where_none_at_hand_tells_the_sizes_that_would_are_named():
    """A 25 W lamp glows on an oven's iron as on a short."""
    told = next(d for d in demo_documents() if d["tag"] == "CQ-018")
    bare = {k: v for k, v in told.items() if k != "setup"}
    found = lamps_of(identify(parse_record(bare)), [lamp(25)])

    assert found.taken is None
    assert set(found.telling) >= {200.0, 500.0}


def test_a_heater_behind_a_lamp_puts_more_than_the_line_on_the_others():
    """Of a valve part: bright, and hundreds of volts elsewhere, by saturation and not by turns."""
    found = lamps_of(demo("CQ-030"), [lamp(200)])
    heater = next(f for f in found.windings if f.winding == "F–G")
    high = next(m for m in heater.others if m.name == "C–E")

    assert heater.sound == ("bright",)
    assert high.live
    assert high.volts.high > 300.0


def test_an_hv_winding_on_the_line_is_dark_and_drives_the_others_down():
    """Dark does not say primary."""
    found = lamps_of(demo("CQ-018"), [lamp(500)])
    high = next(f for f in found.windings if f.winding == "C–core")

    assert high.sound == ("dark",)
    assert high.others[0].volts.high < 50.0


def test_nothing_is_foretold_of_a_piece_of_which_nothing_is_known():
    """No winding, no lamp."""
    assert lamps_of(identify(parse_record(piece("AB")))) is None


@pytest.mark.parametrize(
    ("share", "glow"), [(0.019, "dark"), (0.021, "dim"), (1 / 3, "dim"), (0.34, "bright")]
)
def test_a_lamps_look_has_its_thresholds(share, glow):
    """Just below and just above each."""
    assert glow_of(share * 60.0, 60.0) == glow


@pytest.mark.parametrize("field", ["supply_volts", "lamp_watts"])
def test_a_loop_of_nothing_is_refused(field):
    """The field is named."""
    told = {"supply_volts": 230.0, "lamp_watts": 60.0, "lamp_volts": 230.0}
    curve = Curve(volts=230.0, hertz=50.0, amps=0.1)
    with pytest.raises(FieldError) as error:
        lit([Behind(**{**told, field: 0.0}, curve=curve)])

    assert error.value.field == field


def test_a_winding_that_draws_nothing_leaves_the_lamp_dark_and_a_short_leaves_it_all():
    """The two ends of every lamp test."""
    idle = Curve(volts=230.0, hertz=50.0, amps=1e-4)
    open_loop = lit([Behind(supply_volts=230.0, lamp_watts=60.0, lamp_volts=230.0, curve=idle)])[0]

    assert open_loop.turns_volts == pytest.approx(230.0, rel=1e-3)
    assert through(230.0, 60.0, 230.0, 0.0).watts == pytest.approx(60.0, rel=1e-6)


# ------------------------------------------------------------------ three lamps


def behind_three(curve, sizes=(40.0, 100.0, 500.0)):
    """What three lamps and their winding would show of this iron."""
    loops = [Behind(supply_volts=230.0, lamp_watts=w, lamp_volts=230.0, curve=curve) for w in sizes]
    return [
        LampRead(
            watts=w,
            rated_volts=230.0,
            supply_volts=230.0,
            winding_volts=x.turns_volts,
            lamp_volts=x.lamp_volts,
        )
        for w, x in zip(sizes, lit(loops), strict=True)
    ]


@pytest.mark.parametrize("amps", [0.2, 0.6, 1.5, 3.0])
def test_three_lamps_find_the_amps_that_the_iron_draws(amps):
    """Of its own curve read without error, within its range."""
    iron = Curve(volts=230.0, hertz=50.0, amps=amps, straight=0.3, power=12.0, watts=40 * amps)
    found = by_lamps(behind_three(iron), 50.0)

    assert found.amps.value == pytest.approx(amps, rel=0.15)
    assert found.amps.low <= amps <= found.amps.high


def test_lamps_too_large_to_bend_the_iron_tell_no_knee():
    """A ring of 20 mA behind 40 W keeps all of its volts."""
    ring = Curve(volts=230.0, hertz=50.0, amps=0.02, watts=3.0)
    read = behind_three(ring)

    assert min(r.winding_volts for r in read) > BENDS * 230.0
    assert by_lamps(read, 50.0).onset is None


def test_two_lamps_are_not_three():
    """The sentence says how many."""
    with pytest.raises(FieldError, match="3 lamps"):
        by_lamps(behind_three(Curve(volts=230.0, hertz=50.0, amps=1.0))[:2], 50.0)


def test_lamps_typed_into_the_jotter_become_the_pieces_curve():
    """Each with the volts it takes and leaves; what it draws follows from them."""
    lines = (
        "A-B lamp 40W bright takes 175V leaves 92V",
        "A-B lamp 100W bright takes 100V leaves 166V",
        "A-B lamp 500W dim takes 28V leaves 221V",
    )
    read = [read_line(line, list("ABCDE")).reading for line in lines]
    document = oven_at_first_power().record.as_json()
    readings = [*document["readings"], *({"id": f"L{n}", **r} for n, r in enumerate(read))]
    ident = identify(parse_record({**document, "readings": readings}))

    assert 0.4 < lamps_on_record(ident.record, ident.belief).amps.value < 1.5
    assert idle_of(ident.record, ident.belief).basis == "lamps"


# ------------------------------------------------------------------ averaging meters


@pytest.mark.parametrize(("straight", "power"), [(0.2, 11.0), (0.5, 9.0), (0.9, 12.0)])
def test_an_averaging_meters_amps_are_put_right_by_their_shape(straight, power):
    """Read 15 to 35 % low at the top of iron that bends, less where it does not. Form factor."""
    volts = np.linspace(0.2, 1.0, 9)
    instants = current(volts, straight, power)
    true, shown = rms(instants), as_averaged(instants)
    right = true_over_averaged(list(zip(230 * volts, shown, strict=True)))

    assert np.allclose(shown * right, true, rtol=0.02)
    assert (shown[-1] / true[-1] < 0.85) == (straight < 0.5)


# ------------------------------------------------------------------ volts pair by pair

WHOLE = Expected(pair=("C", "D"), what="whole", volts=Quantity(24.0, 23.0, 25.5), high=False)
OTHER = Expected(pair=("E", "F"), what="whole", volts=Quantity(9.0, 8.6, 9.4), high=False)


@pytest.mark.parametrize(
    ("read", "words"),
    [
        (24.1, ""),
        (25.6, ""),
        (0.0, "until the meter is proved"),
        (12.0, "half"),
        (48.0, "double"),
        (33.9, "peak"),
        (17.0, "RMS of a peak"),
        (240.0, "ten times"),
        (2.4, "a tenth"),
        (9.1, "the wrong pair"),
        (4.0, "a ghost"),
        (80.0, "outside its band"),
    ],
)
def test_what_was_read_beside_its_band_is_told_by_the_likely_slip(read, words):
    """Mode, pair, half for whole, peak for RMS, range, ghost."""
    found = meaning_of(read, 0.2, WHOLE, [OTHER])

    assert words in found
    assert bool(words) is bool(found)


def test_every_pair_is_named_before_power_and_compared_after():
    """Halves, whole and parts; a nought is not believed, the HV is read another way."""
    ident = demo("CQ-030")
    pairs = {e.pair: e for e in expected_of(ident)}
    half = next(e for e in pairs.values() if e.what == "part" and "D" in e.pair)
    zero = {"kind": "ratio", "driven": ["A", "B"], "driven_volts": 230.0, "sensed": ["F", "G"]}
    document = ident.record.as_json()
    readings = [*document["readings"], {"id": "z", **zero, "sensed_volts": 0.0}]
    after = expected_of(identify(parse_record({**document, "readings": readings})))

    assert half.volts.value == pytest.approx(pairs["C", "E"].volts.value / 2, rel=0.1)
    assert pairs["C", "E"].high
    assert next(e for e in after if e.pair == ("F", "G")).meaning.startswith("nothing")


# ------------------------------------------------------------------ warmth and soak


@pytest.mark.parametrize(
    ("kelvin", "use"), [(STAYS_KELVIN * 0.99, "stays"), (STAYS_KELVIN * 1.01, "minutes")]
)
def test_what_never_gets_too_warm_may_stay_on(kelvin, use):
    """Just below and just above fifty kelvin for good."""
    one = warmth_of(exact(10.0), 4.0).for_good.high
    found = warmth_of(exact(10.0 * kelvin / one), 4.0)

    assert found.use == use


def test_what_is_too_warm_in_minutes_is_for_shots_only():
    """Ten minutes to its limit part the two."""
    watts = np.linspace(50, 400, 200)
    told = [warmth_of(exact(float(w)), 4.0) for w in watts]
    by = {w.use: w.minutes for w in told if w.minutes is not None}

    assert every((w.use == "shots") is (w.minutes < SHOTS_MINUTES) for w in told if w.minutes)
    assert set(by) == {"minutes", "shots"}
    assert every(w.for_good.high > LIMIT_KELVIN for w in told if w.minutes)


def soak(hot, **more):
    """A bell transformer after half an hour on the line."""
    one = {"kind": "soak", "across": ["A", "B"], "cold_ohms": 160.0, "hot_ohms": hot, "minutes": 30}
    return made([*BELL, {**one, **more}], nameplate=PLATE)


def at(celsius):
    """Ohms of 160 Ω of copper at 20 °C, warm. REF-W-03."""
    return 160.0 * (234.5 + celsius) / 254.5


@pytest.mark.parametrize(
    ("celsius", "severity"), [(89.0, None), (91.0, "caution"), (104.0, "caution"), (106.0, "stop")]
)
def test_a_soak_stops_a_winding_above_its_insulation(celsius, severity):
    """Class A has 105 °C, and its hottest place 15 more than its mean."""
    faults = {f.code: f.severity for f in soak(at(celsius)).faults}

    assert faults.get("runs-hot") == severity


def test_a_soak_warmer_than_its_watts_asks_for_shorted_turns():
    """One watt makes a kilogram of iron no forty kelvin warmer."""
    mass = {"mass_kg": 1.0}
    hot = made(
        [
            *BELL,
            {
                "kind": "soak",
                "across": ["A", "B"],
                "cold_ohms": 160.0,
                "hot_ohms": at(60.0),
                "minutes": 30,
                "watts": 1.0,
            },
        ],
        nameplate=PLATE,
        core=mass,
    )
    fault = next(f for f in hot.faults if f.code == "runs-hot")

    assert "shorted turns" in fault.sentence


# ------------------------------------------------------------------ short circuit and load


def benched(rng, *, shorted, ohms=(24.0, 12.0, 6.0)):
    """A piece of the forward model with its output known, shorted or not, and loaded."""
    output = designs.DesignedOutput("lv-secondary", 24.0, float(rng.uniform(1, 6)))
    made_ = designs.mains(rng, designs.EUROPE, float(rng.uniform(30, 300)), [output])
    bench = SimulatedBench(made_, Kit(), rng)
    bench.core_proof()
    bench.dc_drop("A", "B", 0.5)
    bench.dc_drop("C", "D", 1.0)
    bench.ohms("A", "C")
    bench.ratio(("A", "B"), 12.0, ("C", "D"), 50)
    if shorted:
        bench.short_circuit(("A", "B"), ("C", "D"), 15.0, 50)
    for r in ohms:
        bench.load(("A", "B"), 230.0, ("C", "D"), r, 50)
    told = piece("ABCD", bench.taken, supply={"volts": 230, "hertz": 50}, nameplate=PLATE_230)
    return made_, identify(parse_record(told))


PLATE_230 = {"primary_volts": 230.0, "hertz": 50.0}


@pytest.mark.parametrize("shorted", [False, True])
def test_the_load_line_foretells_what_the_forward_model_gives(shorted):
    """At a load that was not read, inside its range nine times of ten and more; each point agrees
    with those before it.
    """
    rng = np.random.default_rng(31)
    inside, agree = [], []
    for _ in range(25):
        piece_, ident = benched(rng, shorted=shorted)
        w = ident.belief.winding_of("C")
        line = load_line(ident.record, ident.belief, w)
        if line is None:
            continue
        volts, _ = loaded(piece_, ("A", "B"), 230.0, ("C", "D"), 4.0, 50)
        told = line.volts(4.0)
        inside.append(told.low <= volts <= told.high)
        agree += [a.agrees for a in against(ident.record, ident.belief, w)]

    assert len(inside) >= 15
    assert np.mean(inside) >= 0.9
    assert np.mean(agree) >= 0.95


def test_a_load_point_off_its_line_is_named_in_the_audit():
    """Nineteen volts where twenty-three are foretold."""
    _, ident = benched(np.random.default_rng(8), shorted=True)
    document = ident.record.as_json()
    odd = {"kind": "load", "driven": ["A", "B"], "driven_volts": 230.0, "loaded": ["C", "D"]}
    more = [*document["readings"], {"id": "odd", **odd, "load_volts": 19.0, "load_ohms": 24.0}]
    found = audit(identify(parse_record({**document, "readings": more})))

    assert ("load-against-line", ("odd",)) in {(f.kind, f.concerns) for f in found}


def test_more_power_out_than_in_is_named_claimed_or_read():
    """Claimed amps against the power balance."""
    odd = {
        "id": "x",
        "kind": "load",
        "driven": ["A", "B"],
        "driven_volts": 230.0,
        "driven_amps": 0.2,
        "loaded": ["C", "D"],
        "load_volts": 12.0,
        "load_amps": 60.0,
        "claimed": True,
    }
    found = {f.kind: f.sentence for f in audit(made([*BELL, odd], nameplate=PLATE))}

    assert "told, not measured" in found["power-against-power"]


@pytest.mark.parametrize(("amps", "named"), [(10.0, False), (900.0, True)])
def test_more_power_out_of_a_short_than_in_is_named_by_the_turns(amps, named):
    """23 V at 1 A in are 23 VA; 230 V to 12 make 1.2 V of them, times the shorted amps."""
    short = {
        "id": "x",
        "kind": "short_circuit",
        "driven": ["A", "B"],
        "volts": 23.0,
        "amps": 1.0,
        "shorted": [["C", "D"]],
        "shorted_amps": amps,
    }
    found = {f.kind for f in audit(made([*BELL, short], nameplate=PLATE))}

    assert ("power-against-power" in found) is named


def test_a_short_is_wound_up_no_farther_than_the_weaker_winding_bears():
    """And nothing is shorted behind a closed gate."""
    plans = {p.winding: p for p in short_plans(demo("CQ-018"))}
    high = plans["C–core"]

    assert high.step.cautions
    assert "covered" in high.step.do
    assert high.volts.low < 230.0
    assert short_plans(demo("CQ-017")) == []


def test_shunts_at_full_volts_pass_more_than_reduced_volts_let_expect():
    """Said as a range that reaches up; without shunts it does not."""
    ident = demo("CQ-018")
    found = outputs(ident)[0]
    bare = identify(
        parse_record({**ident.record.as_json(), "core": {"shunts": "removed", "mass_kg": 4.8}})
    )
    line = load_line(bare.record, bare.belief, bare.belief.winding_of("C"))

    assert found.short.high > 1.5 * found.line.amps(0.0).high
    assert short_amps(bare.record, bare.belief, line).high == line.amps(0.0).high


def test_a_short_and_a_load_tell_turns_where_no_ratio_was_read():
    """Amps of both sides, or the loaded volts: the output's volts are then known."""
    bare = made(BELL, nameplate={"primary_volts": 230.0, "hertz": 50.0})
    short = {"kind": "short_circuit", "driven": ["A", "B"], "shorted": [["C", "D"]], "volts": 30.0}
    told = made([*BELL, {**short, "amps": 0.05, "shorted_amps": 0.92}], nameplate=bare_plate())
    output = told.belief.winding_of("C").volts
    before = bare.belief.winding_of("C").volts

    assert output.value == pytest.approx(230 * 0.05 / 0.92, rel=0.1)
    assert before.value > 1.3 * output.value


def bare_plate():
    """A plate that names the primary alone."""
    return {"primary_volts": 230.0, "hertz": 50.0}


# ------------------------------------------------------------------ changes, and the order of steps


def test_a_sweep_from_before_a_change_is_kept_beside_the_one_after():
    """Turns added, shunts out: each has its own curve."""
    document = demo("CQ-018").record.as_json()
    change = {"id": "c1", "what": "primary-turns-added", "at": "2026-07-01T10:00:00+02:00"}
    late = [
        {
            "id": f"n{n}",
            "kind": "no_load",
            "driven": ["A", "B"],
            "volts": v,
            "amps": 0.0006 * v,
            "at": "2026-07-02T10:00:00+02:00",
        }
        for n, v in enumerate((60.0, 120.0, 180.0, 230.0))
    ]
    raw = parse_record(
        {**document, "changes": [change], "readings": [*document["readings"], *late]}
    )
    found = earlier_sweeps(raw, ("A", "B"))

    assert [e.change for e in found] == ["primary-turns-added"]
    assert found[0].sweep.onset is not None


def test_steps_with_the_line_come_in_the_order_of_their_energy():
    """Bench, lamp, no load; an oven's from its primary's side; a choke's never."""
    steps = next_steps(oven_at_first_power(setup=None))
    kinds = [s.kind for s in steps]
    live = [s for s in steps if s.energy == "live"]

    assert kinds.index("setup") < kinds.index("lamp") < kinds.index("no_load")
    assert every("no probe on HV" in s.do for s in live)
    assert not any(s.energy == "live" for s in next_steps(demo("CQ-011")))


def test_a_piece_that_may_have_high_voltage_is_driven_low_before_it_is_fed():
    """Without its ratio nothing live is proposed, though the gate is open."""
    document = oven_at_first_power().record.as_json()
    cold = [r for r in document["readings"] if r["kind"] != "ratio"]
    steps = next_steps(identify(parse_record({**document, "readings": cold})))

    assert any(s.act == "reverse ratio" for s in steps)
    assert not any(s.energy == "live" for s in steps)


def test_a_reading_that_does_not_fit_is_asked_for_once_more_and_not_for_ever():
    """A declared variac whose first ohms look like an oven's: read again, then the rest."""
    readings = [{"kind": "core_proof", "ohms": 0.1}, ("A", "B", 2.2)]
    told = {"declared_family": "variable", "nameplate": PLATE_230}
    once = made(readings, **told)
    twice = made([*readings, ("A", "B", 2.1)], **told)
    asked = ["repeat" in [s.act for s in next_steps(x)] for x in (once, twice)]

    assert asked == [True, False]


@pytest.mark.parametrize(("made_for", "asked"), [(600.0, True), (240.0, False)])
def test_a_pair_above_the_meters_volts_is_read_in_no_guided_step(made_for, asked):
    """An isolating part's 230 V with a meter of 600 V, and with one of 240 V alone."""
    document = demo("CQ-005").record.as_json()
    meter = {"id": "M1", "title": "one", "max_volts_ac": made_for, "category": "CAT III"}
    lamp_read = {"id": "l", "kind": "lamp", "across": ["A", "B"], "supply_volts": 230.0}
    idle = {"id": "i", "kind": "no_load", "driven": ["A", "B"], "volts": 230.0, "amps": 0.2}
    readings = [*document["readings"], {**lamp_read, "lamp_watts": 500.0, "glow": "dark"}, idle]
    ident = identify(parse_record({**document, "meters": [meter], "readings": readings}))

    assert any(s.act == "live volts" for s in next_steps(ident)) is asked


@pytest.mark.parametrize(
    ("amps", "grade"),
    [(0.25e-3, "good"), (0.26e-3, "look"), (0.75e-3, "look"), (0.76e-3, "reject")],
)
def test_leakage_is_graded_by_what_may_be_touched(amps, grade):
    """IEC 60990 and IEC 60335-1 cl. 13.2, from memory; either side of each."""
    assert grade_of(amps) == grade


@pytest.mark.parametrize(("category", "may"), [("CAT I", False), ("CAT II", True), (None, True)])
def test_a_meters_category_is_a_limit_beside_its_volts(category, may):
    """On the primary; an output of 12 V takes any."""
    meter = {"id": "M1", "title": "one", "max_volts_ac": 600.0, "category": category}
    ident = made(BELL, nameplate=PLATE, meters=[{k: v for k, v in meter.items() if v}])
    allowed = {r.points: r.allowed for r in meter_rules(ident)}

    assert allowed["A", "B"] is may
    assert allowed["C", "D"] is True


@pytest.mark.parametrize(
    ("plate", "most"),
    [
        ({"primary_volts": 120.0, "hertz": 60.0}, [(50.0, 100.0), (60.0, 120.0)]),
        ({"primary_volts": 230.0, "hertz": 50.0}, [(50.0, 230.0), (60.0, 276.0)]),
        ({"primary_volts": 277.0, "hertz": 60.0}, [(50.0, 277 * 5 / 6), (60.0, 277.0)]),
    ],
)
def test_a_plate_allows_volts_by_its_hertz(plate, most):
    """REF-M-02: flux goes as volts over hertz."""
    found = allowed_volts(made(BELL, nameplate=plate))

    assert [(hertz, pytest.approx(volts)) for hertz, volts in most] == found


def test_a_low_output_beside_high_voltage_is_read_with_hands_off_it():
    """A valve part's heater on the line: clipped on before, and the HV covered, apart, fixed."""
    document = demo("CQ-030").record.as_json()
    sides = [
        {
            "id": f"k{n}",
            "kind": "ratio",
            "driven": ["A", "B"],
            "driven_volts": 3.0,
            "sensed": pair,
            "sensed_volts": volts,
        }
        for n, (pair, volts) in enumerate(
            ((["F", "G"], 0.085), (["H", "I"], 0.085), (["J", "K"], 0.6), (["C", "E"], 8.4))
        )
    ]
    said = [
        *document.get("statements", []),
        {"id": "s8", "kind": "no-capacitor", "concerns": "capacitor", "text": "none"},
        {"id": "s9", "kind": "have-none", "concerns": "inductance", "text": "none"},
    ]
    readings = [*document["readings"], *sides]
    steps = next_steps(
        identify(parse_record({**document, "readings": readings, "statements": said}))
    )
    live = [s for s in steps if s.act == "live volts"]

    assert live
    assert every("no probe on HV" in s.do for s in live)


@pytest.mark.parametrize(
    ("colour", "stripe", "asked"), [("green", "yellow", True), ("black", None, False)]
)
def test_a_core_that_is_meant_to_be_earthed_asks_for_its_bond(colour, stripe, asked):
    """An earth's colours on a lead of the core, and nothing high returns there; 1 A proves it."""
    earth = {"id": "E", "colour": colour, **({"stripe": stripe} if stripe else {})}
    leads = [{"id": x} for x in "ABCD"]
    readings = [*BELL, ("E", "core", 0.1)]
    told = piece("ABCDE", readings, supply=SUPPLY, nameplate=PLATE)
    bare = identify(parse_record({**told, "leads": [*leads, earth]}))
    bond = {"kind": "dc_drop", "across": ["earth", "core"], "volts": 0.05, "amps": 1.0}
    more = piece("ABCDE", [*readings, bond], supply=SUPPLY, nameplate=PLATE)
    proved = identify(parse_record({**more, "leads": [*leads, earth]}))
    words = "made to be earthed"

    assert any(words in r for r in live_gate(bare).reasons) is asked
    assert any(s.act == "bond" for s in next_steps(bare)) is asked
    assert not any(words in r for r in live_gate(proved).reasons)


@pytest.mark.parametrize(("minutes", "enough"), [(19.9, False), (20.0, True)])
def test_a_short_soak_does_not_say_what_it_comes_to(minutes, enough):
    """Twenty minutes at least. The reference of the bench."""
    r = next(x for x in soak(161.0, minutes=minutes).record.standing if x.kind == "soak")

    assert soaked_of(r, soak(161.0).record).enough is enough
