"""Every threshold of judgement from just below and just above, with figures written out here: who
moves a constant, moves a line of these tables too.
"""

import math
from typing import Any

import pytest
from msgspec.structs import replace

from greyfell.core.belief.observations import Row
from greyfell.core.belief.priors import VARNISHED
from greyfell.core.belief.solution import LAM, Unknowns
from greyfell.core.circuit.loss import Loss
from greyfell.core.judgement import leaks, shorts, touches
from greyfell.core.judgement import odd_readings as misfits
from greyfell.core.judgement.audit import audit
from greyfell.core.judgement.fault import Fault
from greyfell.core.judgement.gates import live_gate
from greyfell.core.judgement.high import hidden_high, high_ruled_out
from greyfell.core.judgement.metering import meter_rules, rating
from greyfell.core.judgement.screening import (
    Barrier,
    ScreeningState,
    _proof_of,
    barriers,
    settled,
    shows,
    state_of,
)
from greyfell.core.judgement.shorts import Clue
from greyfell.core.judgement.verdict import taken_live
from greyfell.core.steps import cold_steps as cold
from greyfell.core.steps import next_step
from greyfell.core.steps import step as steps
from greyfell.core.steps.information import BondWorth, Other, Worth, _narrower
from greyfell.core.wiring.coil import Joint, Tap
from tests.core.made import (
    OUTPUT,
    PRIMARY,
    belief,
    coil,
    hazards_of,
    hypothesis,
    identification,
    record,
    topology,
    winding,
)
from tests.core.told import Told, row

HV_WINDING = winding({"hv-secondary": 1.0}, 2100.0, coil("CD", 95.0), id="W2")
SALVAGED = [{"kind": "salvage-done", "text": "0.3 V"}]


def edge(look, below, above, was, then, id=None):
    """One threshold: how it is looked at, a figure either side of it, what is seen there."""
    return pytest.param(look, below, above, was, then, id=id or look.__name__.strip("_"))


def check(look, below, above, was, then):
    """Below the threshold the one thing is seen, above it the other."""
    assert look(below) == was
    assert look(above) == then


# ------------------------------------------------------------------ hazards


def codes(believed, found=()):
    """The codes of the danger strip."""
    return [h.code for h in hazards_of(record(), believed, found)]


def _hv_chance(p):
    return "hv-not-ruled-out" in codes(
        belief([winding({"lv-secondary": 1 - p, "hv-secondary": p}, 24.0)])
    )


def _hv_by_the_top_of_its_volts(volts):
    return "hv-not-ruled-out" in codes(belief([winding({"lv-secondary": 1.0}, (300, 500, volts))]))


def _hv_by_its_volts(volts):
    return "hv" in codes(belief([winding({"lv-secondary": 1.0}, (300, volts, 700))]))


def _ruled_out(p):
    return high_ruled_out(belief([winding({"lv-secondary": 1 - p, "hv-secondary": p}, 24.0)]))


def _bonded(bond):
    """Half to the case only where the iron was read to be the middle, whatever the family."""
    made = winding({"hv-secondary": 1.0}, 2100.0, coil("CD", 95.0, bond))
    return codes(belief([made], families={"sign": 0.9}))[0]


def _called_an_oven(so):
    told = record(declared_family="microwave" if so else "mains")
    return "capacitor" in [h.code for h in hazards_of(told, belief([OUTPUT]), ())]


def _hidden_high(p):
    return bool(hidden_high(record(), belief([OUTPUT], families={"sign": p})))


def _many_ohms_were_taken_out(ohms):
    """Whether the ohms of a winding that was taken out tell that it was the HV one."""
    cut = [{"what": "winding-removed", "leads": ["C"]}]
    read = [{"kind": "resistance", "between": ["C", "core"], "ohms": ohms}]
    made = belief([PRIMARY], wiring=topology([PRIMARY.coil]))
    return not hidden_high(record(read, changes=cut, declared_family="microwave"), made)


def _plated_high(volts):
    told = record(nameplate={"secondary_volts": volts})
    return "hv" in [h.code for h in hazards_of(told, belief([OUTPUT]), ())]


def _ferrite_by_kind(p):
    scored = ((hypothesis("other", "inverter"), p),)
    return "ferrite" in codes(belief([OUTPUT], scored=scored))


def _ferrite_by_mass(kilograms):
    told = record(declared_family="microwave", core={"mass_kg": kilograms})
    return "ferrite" in [h.code for h in hazards_of(told, belief([OUTPUT]), ())]


def _accessible(volts):
    """27.27 V are 30 V on mains a tenth high."""
    return "above-30" in codes(belief([winding({"lv-secondary": 1.0}, (20, 25, volts))]))


def _variable(p):
    return "no-isolation" in codes(belief([OUTPUT], families={"variable": p}))


def _put_out_by_a_likely_primary(p):
    made = winding({"primary": 1 - p, "lv-secondary": p}, (200, 230, 240))
    return "above-touch" in codes(belief([made]))


def _burns(ohms, primary_ohms=0.0):
    """24 V through 0.12 Ω are 200 A; a hundredth of the primary's ohms count: 24/240 squared."""
    first = winding({"primary": 1.0}, 240.0, coil("AB", primary_ohms))
    made = winding({"lv-secondary": 1.0}, 24.0, coil("CD", ohms), id="W2")
    return "burns" in codes(belief([first, made], best=hypothesis()))


def _burns_by_its_primary(ohms):
    return _burns(0.02, ohms)


def back_fed(given, volts):
    """Whether a reading is told as a piece fed backwards."""
    reading = {
        "kind": "ratio",
        "driven": ["C", "D"],
        "driven_volts": given,
        "sensed": ["A", "B"],
        "sensed_volts": volts,
    }
    told = record([reading])
    return "back-fed" in [h.code for h in hazards_of(told, belief([OUTPUT]), ())]


def _stepped_up(volts):
    return back_fed(5.0, volts)


def _stepped_up_ratio(given):
    return back_fed(given, 40.0)


def _driven_low(given):
    return back_fed(given, 400.0)


def _capacitor(p):
    return "capacitor" in codes(belief([OUTPUT], families={"microwave": p}))


def _kick(p):
    return "kick" in codes(belief([OUTPUT], families={"choke": p}))


def _touch(volts):
    return "above-touch" in codes(belief([winding({"lv-secondary": 1.0}, (20, 30, volts))]))


def _touch_headline(volts):
    made = winding({"lv-secondary": 1.0}, (20, volts, 60))
    return next(h for h in hazards_of(record(), belief([made]), ())).headline


def _other_mains(p):
    return "other-mains" in codes(belief([PRIMARY], other_region=p))


def _mains_on_iron(p):
    touching = Fault("shorted-to-core", "stop", ("A", "core"), ("r1",), "touches")
    made = winding({"primary": p, "lv-secondary": 1 - p}, 24.0)
    return "core-at-mains" in codes(belief([made]), [touching])


@pytest.mark.parametrize(
    ("look", "below", "above", "was", "then"),
    [
        edge(_hv_chance, 0.0099, 0.0101, False, True),
        edge(_hv_by_the_top_of_its_volts, 599.0, 601.0, False, True),
        edge(_hv_by_its_volts, 599.0, 601.0, False, True),
        edge(_ruled_out, 0.0099, 0.0101, True, False),
        edge(_bonded, "end", "middle", "core-live", "hv-to-case"),
        edge(_capacitor, 0.049, 0.051, False, True),
        edge(_capacitor, 0.0499, 0.05, False, True, "from one in twenty its capacitor is named"),
        edge(_called_an_oven, False, True, False, True),
        edge(_hidden_high, 0.049, 0.051, False, True),
        edge(_many_ohms_were_taken_out, 39.9, 40.0, False, True),
        edge(_plated_high, 599.0, 601.0, False, True),
        edge(_ferrite_by_kind, 0.019, 0.02, False, True),
        edge(_ferrite_by_mass, 1.5, 1.49, False, True),
        edge(_accessible, 27.2, 27.3, False, True),
        edge(_accessible, 45.4, 45.5, True, False, "above fifty another word stands"),
        edge(_variable, 0.049, 0.05, False, True),
        edge(_put_out_by_a_likely_primary, 0.049, 0.051, False, True),
        edge(_burns, 0.121, 0.119, False, True),
        edge(_burns_by_its_primary, 10.1, 9.9, False, True),
        edge(_stepped_up, 30.0, 30.1, False, True),
        edge(_stepped_up_ratio, 20.0, 19.9, False, True),
        edge(_driven_low, 60.0, 59.9, False, True),
        edge(_kick, 0.29, 0.31, False, True),
        edge(_touch, 45.4, 45.5, False, True),
        edge(_touch, 50 / 1.1, 50.001 / 1.1, False, True, "fifty volts are the limit"),
        edge(_touch_headline, 49.0, 51.0, "Up to 66.0 V can kill.", "51.0 V can kill."),
        edge(_other_mains, 0.24, 0.26, False, True),
        edge(_mains_on_iron, 0.049, 0.051, False, True),
    ],
)
def test_a_danger_is_named_from_its_threshold(look, below, above, was, then):
    check(look, below, above, was, then)


def test_a_lead_not_read_keeps_high_voltage_from_being_ruled_out():
    made = belief([OUTPUT], wiring=topology([OUTPUT.coil], untested=("E",)))

    assert not high_ruled_out(made)
    assert "hv-not-ruled-out" in codes(made)
    assert not high_ruled_out(belief([]))


def test_a_note_is_no_reason_to_call_the_iron_live():
    note = Fault("shorted-to-core", "note", ("A", "core"), ("r1",), "touches")

    assert "core-at-mains" not in codes(belief([PRIMARY]), [note])


@pytest.mark.parametrize(
    ("leads", "severity", "seen"),
    [
        (("A", "B", "core"), "stop", "core-at-mains"),
        (("A", "B", "C", "D"), "stop", "mains-on-output"),
        (("A", "B", "core"), "caution", None),
        (("C", "D", "core"), "stop", None),
    ],
)
def test_a_leak_of_the_mains_winding_is_told_where_it_stops(leads, severity, seen):
    """308 kΩ from the primary to the iron is a live iron to a hand, if a weak one."""
    leak = Fault("insulation-low", severity, leads, ("r1",), "leaks")
    found = codes(belief([PRIMARY, OUTPUT]), [leak])

    told = [c for c in found if c in ("core-at-mains", "mains-on-output")]
    assert told == ([seen] if seen else [])


def test_outputs_that_touch_each_other_are_not_mains_on_an_output():
    touching = Fault("windings-shorted", "stop", ("A", "C"), ("r1",), "touch")

    assert "mains-on-output" in codes(belief([PRIMARY, OUTPUT]), [touching])
    outputs = [winding({"lv-secondary": 1.0}, 12.0), OUTPUT]
    assert "mains-on-output" not in codes(belief(outputs), [touching])


# ------------------------------------------------------------------ meters


def may_touch(volts, roles=("lv-secondary",), **meter):
    """Whether a meter may touch a winding of so many volts at the most."""
    shares = {role: 1 / len(roles) for role in roles}
    made = winding(shares, (volts / 2, volts / 1.5, volts), coil("CD"))
    meters = [{"id": "M1", "max_volts_ac": 600.0, **meter}]
    (rule,) = meter_rules(identification(belief([made]), meters=meters))
    return rule.allowed


def _eight_tenths(volts):
    return may_touch(volts)


def _four_tenths_where_it_may_be_high(volts):
    return may_touch(volts, ("lv-secondary", "hv-secondary"))


def _any_hand_held(volts):
    return may_touch(volts, max_volts_ac=10e3, category="CAT II")


@pytest.mark.parametrize(
    ("look", "below", "above", "was", "then"),
    [
        edge(_eight_tenths, 479.0, 481.0, True, False),
        edge(_eight_tenths, 480.0, 480.001, True, False, "eight tenths of 600 V and no more"),
        edge(_four_tenths_where_it_may_be_high, 239.0, 241.0, True, False),
        edge(_four_tenths_where_it_may_be_high, 240.0, 240.1, True, False, "four tenths at most"),
        edge(_any_hand_held, 599.0, 601.0, True, False),
    ],
)
def test_a_meter_is_let_on_up_to_its_rating(look, below, above, was, then):
    check(look, below, above, was, then)


@pytest.mark.parametrize(
    ("category", "volts"),
    [("CAT II", 1000.0), ("CAT III", 1000.0), ("CAT IV", 1000.0), (None, 1000.0)],
)
def test_every_hand_held_meter_stops_at_a_thousand_volts(category, volts):
    """Category and volts are two limits. IEC 61010-2-033, from memory."""
    (meter,) = record(meters=[{"id": "M1", "max_volts_ac": 10e3, "category": category}]).meters
    (lesser,) = record(meters=[{"id": "M1", "max_volts_ac": 300.0, "category": category}]).meters

    assert rating(meter) == volts
    assert rating(lesser) == 300.0


# ------------------------------------------------------------------ gate, verdict, screening


def _settled_primary(p):
    made = winding({"primary": p, "lv-secondary": 1 - p}, 230.0, coil("AB", 8.0))
    believed = belief([made, OUTPUT], best=hypothesis())
    gate = live_gate(identification(believed, statements=SALVAGED))
    return any("takes the mains" in reason for reason in gate.reasons)


def _live(volts):
    reading = {"kind": "no_load", "driven": ["A", "B"], "volts": volts, "amps": 0.1}
    return taken_live(record([reading]).standing[0], record(), FED)


def _live_elsewhere(volts):
    """On another supply's hertz."""
    reading = {"kind": "no_load", "driven": ["A", "B"], "volts": volts, "amps": 0.1, "hertz": 60.0}
    return taken_live(record([reading]).standing[0], record(), FED)


def _live_by_plate(volts):
    """Beside a plate of the supply's own volts."""
    reading = {"kind": "no_load", "driven": ["A", "B"], "volts": volts, "amps": 0.1}
    told = record([reading], nameplate={"primary_volts": 230.0, "hertz": 50.0})
    return taken_live(told.standing[0], told, FED)


def _live_ratio(volts):
    reading = {
        "kind": "ratio",
        "driven": ["A", "B"],
        "driven_volts": volts,
        "sensed": ["C", "D"],
        "sensed_volts": 20.0,
    }
    return taken_live(record([reading]).standing[0], record(), FED)


FED = belief([PRIMARY, OUTPUT], best=hypothesis(), fed=("A", "B"))
HALVES_FED = belief([PRIMARY, OUTPUT], best=hypothesis(), fed=("A", "B", "C", "D"))


@pytest.mark.parametrize(
    ("supply", "volts", "live"),
    [(230.0, 103.4, False), (230.0, 103.6, True), (120.0, 107.9, False), (120.0, 108.1, True)],
)
def test_a_half_is_at_working_flux_on_half_the_volts_of_a_high_mains(supply, volts, live):
    """Four fifths: of 115 V where halves stand in series, of all 120 V where side by side."""
    fed = {"supply": {"volts": supply, "hertz": 50.0}}
    reading = {"kind": "no_load", "driven": ["A", "B"], "volts": volts, "amps": 0.05}
    (taken,) = record([reading], **fed).standing

    assert taken_live(taken, record(**fed), HALVES_FED) is live


def _range_that_counts(ohms):
    return Barrier(0, 1, ohms).screened


def _insulation_counts(ohms):
    reading = {"kind": "insulation", "between": ["A", "C"], "test_volts": 500.0, "ohms": ohms}
    wiring = topology([PRIMARY.coil, OUTPUT.coil])
    found = {(b.i, b.j): b.range_ohms for b in barriers(record([reading]), wiring)}
    return found[(0, 1)]


def _insulation_volts(volts):
    """Below 500 V DC an insulation tester is an ohmmeter, worth the range it was read on."""
    reading = {"kind": "insulation", "between": ["A", "C"], "test_volts": volts, "ohms": 3e7}
    wiring = topology([PRIMARY.coil, OUTPUT.coil])
    found = {(b.i, b.j): b.range_ohms for b in barriers(record([reading]), wiring)}
    return found[(0, 1)]


def _leak_seen(range_ohms):
    return shows(range_ohms, to_core=False, proved=True)[2][2] > 0


@pytest.mark.parametrize(
    ("look", "below", "above", "was", "then"),
    [
        edge(_settled_primary, 0.949, 0.951, True, False),
        edge(_settled_primary, 0.9499, 0.95, True, False, "from nineteen in twenty it is settled"),
        edge(_live, 206.9, 207.1, False, True),
        edge(_live_ratio, 206.9, 207.1, False, True),
        edge(_live, 206.99, 207.0, False, True, "nine tenths are enough"),
        edge(_live_elsewhere, 275.9, 276.0, False, True, "60 Hz with no less flux"),
        edge(_live_by_plate, 253.0, 253.1, True, False, "a tenth past the plate's flux"),
        edge(_range_that_counts, 19.9e6, 20e6, False, True),
        edge(_insulation_counts, 6.9e6, 7e6, None, 20e6),
        edge(_insulation_volts, 499.0, 500.0, 3e7, 2e7),
        edge(_leak_seen, 49e3, 51e3, False, True),
    ],
)
def test_the_gate_and_the_screening_count_from_their_thresholds(look, below, above, was, then):
    check(look, below, above, was, then)


def test_what_a_range_can_show():
    """Leaks from 50 kΩ to 20 MΩ, every decade alike: a 1 MΩ range shows half of the decades, a
    20 MΩ range all but one slip in a hundred, a higher one no more.
    """
    half = math.log(1e6 / 5e4) / math.log(2e7 / 5e4)
    seen = [shows(r, to_core=False, proved=True)[2][2] for r in (1e6, 1.9e7, 2e7, 2e9)]

    assert seen[0] == pytest.approx(half, abs=0.02)
    assert seen[0] < seen[1] < seen[2] == seen[3]
    assert 0.97 < seen[3] < 1


@pytest.mark.parametrize(
    ("role", "touch"),
    [
        ("primary", 0.035),
        ("primary-half", 0.03),
        ("filament", 0.02),
        ("hv-secondary", 0.03),
        ("lv-secondary", 0.015),
    ],
)
def test_how_often_a_winding_touches_before_it_was_read(role, touch):
    """Odds of the trade, from memory: a mains winding touches oftenest, and leakage is one in
    fifty.
    """
    state = state_of(Barrier(0, -1, None), [winding({role: 1.0})], proved=True)

    assert state.touch == pytest.approx(touch)
    assert state.leak == pytest.approx(0.02)
    between = state_of(Barrier(0, 1, None), [winding({role: 1.0}), OUTPUT], proved=True)
    assert between.touch == pytest.approx(0.012)


@pytest.mark.parametrize("range_ohms", [None, 2e7])
def test_what_a_proof_of_the_core_is_worth(range_ohms):
    """Before the reading: what it would settle proved, less what it would unproved. After it: what
    is not known now, less the mean of what would not be: firm where the probe stood on iron, void
    where on varnish.
    """
    windings = [PRIMARY]
    barrier = Barrier(0, -1, range_ohms)
    loose, firm = (state_of(barrier, windings, proved=p) for p in (False, True))
    void = state_of(Barrier(0, -1, None), windings, proved=False)
    if range_ohms is None:
        known, not_known = (shows(2e7, to_core=True, proved=p) for p in (True, False))
        expected = settled(loose, known) - settled(loose, not_known)
    else:
        expected = loose.nats - (1 - VARNISHED) * firm.nats - VARNISHED * void.nats

    assert expected > 0
    assert _proof_of(barrier, windings) == pytest.approx(expected)


def test_nats_and_what_a_reading_settles():
    """Entropy by its definition, and the mean of it after every outcome, by Bayes' rule."""
    state, shown = ScreeningState(0.9, 0.06, 0.04), shows(2e6, to_core=True, proved=False)
    before = -sum(p * math.log(p) for p in (0.9, 0.06, 0.04))
    after = 0.0
    for likely in shown:
        joint = [p * x for p, x in zip((0.9, 0.06, 0.04), likely, strict=True)]
        after -= sum(j * math.log(j / sum(joint)) for j in joint if j > 0)

    assert state.nats == pytest.approx(before)
    assert settled(state, shown) == pytest.approx(before - after)


# ------------------------------------------------------------------ faults


def severity(rule, believed, told=None):
    """The severity of the one fault that a rule gives; None where it gives none."""
    found = rule(told or record(), believed)
    return found[0].severity if found else None


TWO = topology([PRIMARY.coil, OUTPUT.coil])


def _insulation(ohms):
    reading = {"kind": "insulation", "between": ["A", "core"], "test_volts": 500.0, "ohms": ohms}
    return severity(leaks.leaking, belief([PRIMARY, OUTPUT], wiring=TWO), record([reading]))


@pytest.mark.parametrize(
    ("supply", "volts", "counts"),
    [(230.0, 499.0, False), (230.0, 500.0, True), (120.0, 249.0, False), (120.0, 250.0, True)],
)
def test_an_insulation_test_counts_from_twice_the_mains(supply, volts, counts):
    """500 V where mains are high, half of it where they are low."""
    reading = {"kind": "insulation", "between": ["A", "core"], "test_volts": volts, "ohms": 1e6}
    told = record([reading], supply={"volts": supply, "hertz": 50.0})

    assert leaks.is_insulation_test(told.standing[0], told) is counts


def _leak(ohms):
    read = record([{"kind": "resistance", "between": ["A", "C"], "ohms": ohms}])
    return severity(leaks.leaking, belief([PRIMARY, OUTPUT], wiring=TWO), read)


def bonded(roles, family, ohms=95.0, bond="end", taps=(), named="other"):
    """The severity of a winding that meets the core, in a piece named as its owner has it."""
    made = winding(roles, 2100.0, coil("CD", ohms, bond, taps))
    told = record(declared_family=named)
    return severity(touches.bonded, belief([made], best=hypothesis(family, roles=("x",))), told)


def _return_may_be_mains(p):
    return bonded({"hv-secondary": 0.7, "primary": p, "lv-secondary": 0.3 - p}, "microwave")


def _likely_hv(p):
    return bonded({"hv-secondary": p, "filament": 1 - p}, "microwave")


def _meant_so(p):
    """A low-voltage output on the core is asked about, while none of the mains'."""
    return bonded({"lv-secondary": 1 - p, "primary": p}, "mains")


def _known_output(p):
    """An output of a piece that may be of no kind known here."""
    return bonded({"lv-secondary": 1 - p, "unknown": p}, "mains")


def _vouched_output(p):
    """The same, and somebody says that it is bonded by design."""
    made = winding({"lv-secondary": 1 - p, "unknown": p}, 24.0, coil("CD", 0.4, "end"))
    meant = [{"kind": "bonded-by-design", "concerns": "C-D"}]
    return severity(touches.bonded, belief([made]), record(statements=meant))


def test_a_stopped_output_says_how_it_is_cleared():
    """By a statement, which a mains winding's does not offer."""
    said = {}
    for roles in ({"lv-secondary": 0.8, "unknown": 0.2}, {"primary": 1.0}):
        made = winding(roles, 24.0, coil("CD", 0.4, "end"))
        (found,) = touches.bonded(record(), belief([made]))
        said[max(roles, key=roles.get)] = found.sentence

    assert (
        "Unless a statement says that it is bonded by design, it must read" in said["lv-secondary"]
    )
    assert "statement" not in said["primary"]


def _few_ohms_at_the_core(ohms):
    return bonded({"unknown": 1.0}, "other", ohms)


def _named_or_not(named):
    return bonded({"unknown": 1.0}, "other", 60.0, named=named)


def _other_may_be_mains(p):
    return bonded({"unknown": 1 - p, "primary": p}, "other", 60.0)


def _middle(bond):
    return bonded({"hv-secondary": 1.0}, "microwave", bond=bond)


def _second_winding_at_the_bond(place, ohms=100.0):
    places = {"C": 5.0, "D": 5.0 + ohms, "E": 5.0 + ohms - place, "core": 5.0 + ohms}
    made = coil("CD", ohms, "end", (Tap("E", 0.0, 0.01),), positions=places)
    believed = belief([winding({"hv-secondary": 1.0}, 2100.0, made)], best=hypothesis("microwave"))
    return severity(touches.bonded, believed)


def _half_an_ohm_from_the_bond(place):
    return _second_winding_at_the_bond(place, 20.0)


def _both_at_the_core(ohms):
    wiring = topology(TWO.coils, core_ohms={"A": 0.1, "C": ohms})
    return bool(touches.crowded(record(), belief([PRIMARY, OUTPUT], wiring=wiring)))


def _one_place(ohms):
    """A reading of nought with limits of 0.35 Ω: twenty times that is 7 Ω."""
    many = coil("AB", ohms, positions=dict.fromkeys("ABCD", 0.0), taps=TAPS)
    told = record([("C", "D", 0.0)])
    return severity(touches.same_place, belief([winding({"primary": 1.0}, 230, many)]), told)


def _many_leads(members):
    """Two leads of a winding of 50 Ω at one place."""
    made = coil("AB", 50.0, taps=TAPS[: members - 2], positions=dict.fromkeys("ABCD", 0.0))
    told = record([("C", "A", 0.0)])
    return severity(touches.same_place, belief([winding({"primary": 1.0}, 230, made)]), told)


TAPS = (Tap("C", 0.3, 0.01), Tap("D", 0.3, 0.01))


def oven(members, primary=1.0):
    """An oven piece whose mains winding has so many leads."""
    taps = tuple(Tap(x, 0.5, 0.01) for x in "CDE"[: members - 2])
    made = winding({"primary": primary, "hv-secondary": 1 - primary}, 230.0, coil("AB", 1.0, None))
    made = winding(made.roles, 230.0, coil("AB", 1.0, None, taps))
    return severity(touches.tapped_oven, belief([made], best=hypothesis("microwave")))


def _oven_primary_sure(p):
    return oven(4, p)


def _loose(leads):
    wiring = topology(TWO.coils, loose=tuple("EFG"[:leads]))
    return severity(leaks.broken, belief([PRIMARY, OUTPUT], wiring=wiring))


def _slip(factor):
    return misfits._slip_words(factor)


def _legs(share):
    return three_phase(share, 10.0)


def _equal_legs(ohms):
    return three_phase(0.5, ohms)


def _legs_read(pairs):
    return three_phase(0.5, 10.0, ("CD", "EF")[:pairs])


def three_phase(share, ohms, pairs=("CD", "EF")):
    """Whether three windings are taken for legs: what the driven one gives, its ohms over the
    others' 10 Ω, and which of them were read.
    """
    coils = [coil("AB", ohms), coil("CD", 10.0), coil("EF", 10.0)]
    rows = [
        {
            "kind": "ratio",
            "driven": ["A", "B"],
            "driven_volts": 10.0,
            "sensed": list(pair),
            "sensed_volts": 10.0 * share,
        }
        for pair in pairs
    ]
    windings = [winding({"unknown": 1.0}, None, c) for c in coils]
    return severity(misfits.three_phase, belief(windings), record(rows, "ABCDEF"))


@pytest.mark.parametrize(
    ("look", "below", "above", "was", "then"),
    [
        edge(_insulation, 1.99e6, 2e6, "stop", "caution", "insulation tester: 2 MΩ"),
        edge(_insulation, 6.99e6, 7e6, "caution", None, "insulation tester: 7 MΩ"),
        edge(_leak, 4.99e6, 5e6, "stop", "caution", "ohmmeter: 5 MΩ"),
        edge(_leak, 19.9e6, 20e6, "caution", None, "ohmmeter: 20 MΩ"),
        edge(_return_may_be_mains, 0.049, 0.051, None, "stop"),
        edge(_return_may_be_mains, 0.05, 0.0501, None, "stop", "one in twenty itself is borne"),
        edge(_likely_hv, 0.49, 0.51, "stop", None),
        edge(_likely_hv, 0.5, 0.501, "stop", None, "one in two is not likelier than not"),
        edge(_meant_so, 0.0099, 0.01, "caution", "stop"),
        edge(_known_output, 0.099, 0.1, "caution", "stop"),
        edge(_vouched_output, 0.099, 0.4, "note", "note"),
        edge(_few_ohms_at_the_core, 49.9, 50.1, "stop", "caution"),
        edge(_few_ohms_at_the_core, 50.0, 50.001, "stop", "caution", "fifty ohms are few"),
        edge(_named_or_not, None, "other", "stop", "caution"),
        edge(_named_or_not, "choke", "other", "stop", "caution", "no usual part, by its owner"),
        edge(_other_may_be_mains, 0.049, 0.051, "caution", "stop"),
        edge(_other_may_be_mains, 0.0499, 0.05, "caution", "stop", "from one in twenty it stops"),
        edge(_middle, "end", "middle", None, "caution"),
        edge(_second_winding_at_the_bond, 0.95, 1.05, None, "stop"),
        edge(_half_an_ohm_from_the_bond, 0.49, 0.51, None, "stop"),
        edge(_both_at_the_core, 1.0, 1.01, True, False),
        edge(_one_place, 6.9, 7.1, None, "caution"),
        edge(_many_leads, 3, 4, None, "caution"),
        edge(oven, 3, 4, None, "stop"),
        edge(_oven_primary_sure, 0.5, 0.51, None, "stop"),
        edge(_loose, 2, 3, None, "stop"),
        edge(_legs, 0.349, 0.351, None, "caution"),
        edge(_legs, 0.649, 0.651, "caution", None, "legs: 0.65"),
        edge(_legs_read, 1, 2, None, "caution"),
        edge(_equal_legs, 8.9, 9.1, None, "caution"),
        edge(_equal_legs, 11.1, 11.3, "caution", None, "equal windings: 1.12"),
    ],
)
def test_a_fault_is_graver_from_its_threshold(look, below, above, was, then):
    check(look, below, above, was, then)


@pytest.mark.parametrize("ten", [10.0, 0.1, 100.0, 0.01, 1000.0, 1e-3])
def test_a_slip_is_told_near_a_power_of_ten_only(ten):
    """From 0.6 to 1.65 times the power of ten."""
    said = f" That is about {ten:g} times off: range or decimal point?"

    assert [_slip(ten * x) for x in (0.59, 0.61, 1.64, 1.66)] == ["", said, said, ""]


def test_a_winding_that_conducts_to_the_core_always_stops():
    """Whatever its ohms, and whatever they come to below nought."""
    for ohms in (-0.2, 0.0, 3e5):
        joint = Joint(("A", "B"), "core", ohms, ("r1",))
        wiring = topology(TWO.coils, joints=(joint,))
        (fault,) = touches.joined(record(), belief([PRIMARY, OUTPUT], wiring=wiring))
        assert (fault.code, fault.severity) == ("shorted-to-core", "stop")
        assert "-" not in fault.sentence.split("about ")[1][:3]


# ------------------------------------------------------------------ what does not fit


def misfit(kind, factor, z=9.0):
    """What is said of an observation so many times what the rest says."""
    told = Told([row(kind, math.log(factor))], means=[0.0])
    found = misfits._misfit(belief([PRIMARY, OUTPUT]), told, 0, z)
    return found and (found.code, found.severity)


def _inductance_falls(factor):
    return misfit("inductance", factor)


def _odd_look(z):
    return misfit("mass", 3.0, z)


@pytest.mark.parametrize(
    ("look", "below", "above", "was", "then"),
    [
        edge(
            _inductance_falls,
            0.59,
            0.61,
            ("shorted-turns", "caution"),
            ("ratio-conflict", "caution"),
        ),
        edge(_odd_look, 4.9, 5.1, None, ("inconsistent-readings", "note")),
        edge(_odd_look, -4.9, -5.1, None, ("inconsistent-readings", "note"), "odd the other way"),
    ],
)
def test_what_does_not_fit_is_told_from_its_threshold(look, below, above, was, then):
    check(look, below, above, was, then)


# ------------------------------------------------------------------ shorted turns


def named(monkeypatch, chance, *weights):
    """The severity of shorted turns at a chance, with clues of these weights."""
    kinds = ("inductance", "Q", "ratio")
    pairs = zip(kinds, weights, strict=False)
    clues = [Clue(kind, f"{kind} speaks", ("r1",), w, ("A", "B")) for kind, w in pairs]
    monkeypatch.setattr(shorts, "odds_of_shorted_turns", lambda *_: (chance, clues))
    found = shorts.shorted_turns(record(), belief([PRIMARY]))
    return found[0].severity if found else None


@pytest.mark.parametrize(
    ("chance", "weights", "seen"),
    [
        (0.149, (3.0,), None),
        (0.15, (3.0,), "caution"),
        (0.989, (5.0, 5.0), "caution"),
        (0.99, (5.0, 5.0), "caution"),
        (0.991, (5.0, 5.0), "stop"),
        (0.999, (9.0,), "caution"),
        (0.999, (9.0, 0.99), "caution"),
        (0.999, (9.0, 1.01), "stop"),
        (0.999, (1.0, 1.0), None),
    ],
)
def test_shorted_turns_are_named_and_stop_from_their_thresholds(monkeypatch, chance, weights, seen):
    """Named from 15 %; a stop above 99 % where two kinds speak, each by more than a factor of
    e.
    """
    assert named(monkeypatch, chance, *weights) == seen


def test_what_is_usual_is_told_as_a_95_per_cent_range():
    """100 W with a tenth of spread: a factor of e^0.196 = 1.217 either way, told outward."""
    assert shorts._usual(100.0, 0.1, "W") == "82 to 130 W"


def test_shorted_turns_are_told_of_the_leads_whose_ratio_is_low(monkeypatch):
    """Where a ratio speaks; else of the leads of what speaks loudest."""
    clues = [
        Clue("inductance", "henries", ("r1",), 5.0, ("A", "B")),
        Clue("ratio", "volts", ("r2",), 2.0, ("C", "D")),
    ]
    for told, leads in ((clues, ("C", "D")), (clues[:1], ("A", "B"))):
        monkeypatch.setattr(shorts, "odds_of_shorted_turns", lambda *_, told=told: (0.9, told))
        (found,) = shorts.shorted_turns(record(), belief([PRIMARY]))
        assert found.leads == leads


def test_a_low_ratio_alone_is_no_shorted_turn(monkeypatch):
    assert named(monkeypatch, 0.9, 0.0, 0.0, 4.0) is None


@pytest.mark.parametrize(("weight", "kept"), [(7.9, 7.9), (8.1, 8.0), (-2.9, -2.9), (-3.1, -3.0)])
def test_no_kind_of_reading_counts_without_end(weight, kept):
    assert shorts._kept_within(weight) == kept


@pytest.mark.parametrize("x", [-2.0, -0.1, 0.4])
@pytest.mark.parametrize("shift", [(-5.0, 0.0), (0.2, 3.2), (-0.3, -0.005)])
def test_a_weight_is_the_mean_over_every_shift_against_none(x, shift):
    """Summed here over a thousand shifts, instead of by the error function."""
    sd, n = 0.5, 4000

    def density(at):
        return math.exp(-0.5 * ((x - at) / sd) ** 2)

    low, high = shift
    moved = sum(density(low + (k + 0.5) / n * (high - low)) for k in range(n)) / n
    expected = math.log(moved / density(0.0))
    assert shorts._weight(x, shift, sd) == pytest.approx(max(-3.0, min(8.0, expected)), abs=1e-3)


@pytest.mark.parametrize(("now", "spread"), [(-6.0, 0.1), (-7.5, 0.02), (-6.1, 5.0)])
def test_what_the_readings_alone_say_of_the_permeance(now, spread):
    """The family's expectation, ln 5 µ ± 0.7, taken out of what is known: put in again, it gives
    that back. Where nothing was learnt, next to nothing is told.
    """
    solved = Told([], known={LAM: (now, spread)})
    short, wide = shorts._permeance(belief([PRIMARY], best=hypothesis()), solved)
    mean, before = math.log(5e-6), 0.7**2
    told = wide**2 - before
    after = 1 / (1 / before + 1 / told)

    assert after == pytest.approx(min((2 * spread) ** 2, 0.999 * before))
    assert after * (mean / before + (short + mean) / told) == pytest.approx(2 * now)


def test_an_inductance_set_aside_is_asked_all_the_same():
    """ln of its henries over what the rest says: twice that of their roots."""
    told = Told([row("ohms", 1.0), row("inductance", -0.5)], means=[1.0, -0.4], sd=0.05)
    believed = replace(belief([PRIMARY], best=hypothesis()), outliers=((1, -12.0),))
    clue = shorts._inductance(believed, told)

    assert clue.weight == pytest.approx(shorts._weight(-0.2, (-5.0, 0.0), 0.1))
    assert clue.leads == ("A", "B")


def tangent(q=7.0, henries=1.6, hertz=100.0, ohms=8.0, **more):
    """The iron's loss tangent by one inductance reading; None where it tells nothing."""
    reading = {"kind": "inductance", "across": ["A", "B"], "henries": henries, "hertz": hertz}
    told = record([{**reading, "q": q, **more}]).standing[0]
    return shorts._iron_tangent(told, topology([coil("AB", ohms)]))


def test_the_irons_tangent_is_what_the_copper_leaves():
    """1/Q less R/(2πfL), by hand."""
    assert tangent() == pytest.approx(1 / 7.0 - 8.0 / (2 * math.pi * 100.0 * 1.6))


def _hertz(hertz):
    return tangent(hertz=hertz) is not None


def _henries_to_resonance(henries):
    """ω²LC of 0.03 with 150 pF at 100 Hz: 506.6 H."""
    return tangent(henries=henries, ohms=1.0) is not None


def _copper(ohms):
    """Reactance 1005.3 Ω, Q 2, ohms 2 % up: the copper takes seven tenths at 345.0 Ω."""
    return tangent(q=2.0, ohms=ohms) is not None


@pytest.mark.parametrize(
    ("look", "below", "above", "was", "then"),
    [
        edge(_hertz, 129.0, 131.0, True, False),
        edge(_hertz, 130.0, 130.1, True, False, "130 Hz still counts"),
        edge(_henries_to_resonance, 500.0, 512.0, True, False),
        edge(_copper, 344.0, 346.0, True, False),
    ],
)
def test_the_q_tells_of_the_iron_within_its_limits(look, below, above, was, then):
    check(look, below, above, was, then)


@pytest.mark.parametrize(("q", "loss"), [(8.0, 0.125), (2.0, 0.5), (1.0, 1.0)])
def test_what_a_q_weighs(q, loss):
    """Sound iron 0.12 within a factor of two (ln 0.7), a loop 1.0 (0.9); less loss is no less
    sound.
    """
    copper = 0.001 * 2 * math.pi * 100.0 * 1.6
    told = record(
        [{"kind": "inductance", "across": ["A", "B"], "henries": 1.6, "hertz": 100.0, "q": q}]
    )
    clue = shorts._tangent(told, topology([coil("AB", copper)]))
    away = max(0.0, math.log((loss - 0.001) / 0.12) / 0.7)
    apart = math.log((loss - 0.001) / 1.0) / 0.9
    expected = -0.5 * apart**2 - math.log(0.9) + 0.5 * away**2 + math.log(0.7)

    assert clue.weight == pytest.approx(max(expected, -3.0), abs=1e-6)


def fed(amps=0.08, watts=None, volts=230.0):
    """A record of one no-load reading."""
    reading = {"kind": "no_load", "driven": ["A", "B"], "volts": volts, "amps": amps}
    return record([{**reading, **({"watts": watts} if watts is not None else {})}])


def usual(monkeypatch, flux=1.0, watts=10.0):
    """Let sound iron take 10 W, within a factor of e^0.5."""
    monkeypatch.setattr(shorts.Losses, "of", lambda *_: Loss(watts, 0.5, flux))


@pytest.mark.parametrize(
    ("watts", "amps", "flux", "named"),
    [
        (37.0, 0.05, 1.0, False),  # 10 W · e^(2.6 · 0.5) = 36.7 W, and the meter's 2 % + 3 digits
        (38.5, 0.05, 1.0, True),
        (None, 0.87, 1.0, False),  # 5 · 10 W / 230 V · e^(2.8 · 0.5) = 0.882 A
        (None, 0.89, 1.0, True),
        (None, 9.00, 1.149, True),
        (None, 9.00, 1.151, False),
    ],
)
def test_watts_or_amps_far_above_the_usual_are_a_fault(monkeypatch, watts, amps, flux, named):
    usual(monkeypatch, flux)

    assert bool(shorts.excess(fed(amps, watts), belief([PRIMARY]))) is named


@pytest.mark.parametrize(
    ("flux", "watts", "weighed"),
    [
        (0.199, 20.0, False),
        (0.201, 20.0, True),
        (1.499, 20.0, True),  # overdriven iron still takes its watts
        (1.5, 20.0, False),
        (0.201, None, True),
        (1.149, None, True),
        (1.15, None, False),  # its amps are the knee's
    ],
)
def test_no_load_is_weighed_between_two_shares_of_rated_flux(monkeypatch, flux, watts, weighed):
    usual(monkeypatch, flux)

    assert (shorts._watts(fed(0.5, watts), belief([PRIMARY])) is not None) is weighed


def test_watts_past_the_knee_weigh_less(monkeypatch):
    """Half more spread of their logarithm."""
    told = []
    for flux in (1.149, 1.15):
        usual(monkeypatch, flux)
        told.append(shorts._watts(fed(0.5, 60.0), belief([PRIMARY])).weight)

    assert told[0] > told[1] > 0


def test_amps_weigh_less_than_watts(monkeypatch):
    """Their own spread of ln 0.6 comes on top of the watts' 0.5."""
    usual(monkeypatch)
    by_amps = shorts._watts(fed(0.7), belief([PRIMARY]))
    should = 5 * 10.0 / 230.0

    expected = shorts._weight(math.log(0.7 / should), (0.2, 2.5), math.hypot(0.5, 0.6))
    assert by_amps.weight == pytest.approx(expected)
    by_watts = shorts._watts(fed(0.7, 30.0), belief([PRIMARY]))
    assert by_watts.weight == pytest.approx(shorts._weight(math.log(3.0), (0.2, 3.2), 0.5))


@pytest.mark.parametrize(("z", "speaks"), [(-1.49, False), (-1.51, True), (3.0, False)])
def test_a_ratio_speaks_from_a_deviation_and_a_half(z, speaks):
    told = Told([row("ratio", -0.05, (0, 1))], means=[0.0], left=[z], sd=0.02)
    clue = shorts._ratio(belief([PRIMARY, OUTPUT]), told)

    assert (clue is not None) is speaks
    if clue is not None:
        assert clue.weight == pytest.approx(shorts._weight(-0.05, (-0.3, -0.005), 0.02))


def test_of_two_ratios_the_lowest_speaks_and_pays_for_the_choice():
    """Two were looked at: ln 2 less."""
    rows = [row("ratio", -0.05, (0, 1)), row("ratio", -0.02, (0, 1))]
    one = shorts._ratio(belief([PRIMARY, OUTPUT]), Told(rows[:1], [0.0], [-4.0], 0.02))
    two = shorts._ratio(belief([PRIMARY, OUTPUT]), Told(rows, [0.0, 0.0], [-4.0, -1.0], 0.02))

    assert two.weight == pytest.approx(one.weight - math.log(2))


def lamp(volts=230.0, watts=60.0, glow="bright"):
    """Whether a lamp speaks, on a mains winding of 100 VA: R/V² = 0.0305/100^1.05."""
    reading = {
        "kind": "lamp",
        "across": ["A", "B"],
        "supply_volts": volts,
        "lamp_watts": watts,
        "glow": glow,
    }
    told = Told([], size=math.log(0.0305 / 100**1.05))
    clue = shorts._lamp(record([reading]), belief([PRIMARY, OUTPUT]), told)
    return clue and clue.weight


def _lamp_volts(volts):
    return lamp(volts)


def _lamp_watts(watts):
    return lamp(watts=watts)


@pytest.mark.parametrize(
    ("look", "below", "above", "was", "then"),
    [
        edge(_lamp_volts, 264.0, 265.0, 2.8, None),
        edge(_lamp_watts, 11.9, 12.1, None, 2.8),
    ],
)
def test_a_lamp_speaks_where_it_is_a_fair_test(look, below, above, was, then):
    check(look, below, above, was, then)


def test_the_odds_before_anything_was_read_are_one_in_fifty():
    told = belief([PRIMARY], best=hypothesis(), solution=Told([]))

    assert shorts.odds_of_shorted_turns(record(), told)[0] == pytest.approx(0.02)


# ------------------------------------------------------------------ advice


def _capacitor_first(p):
    believed = belief([PRIMARY, OUTPUT], families={"microwave": p})
    return bool(next_step._salvage(identification(believed)))


def _says_return(p):
    return "return" in cold.meant_by(HV_WINDING, BondWorth(p, 0.1), True, 0.03)


def worth_of_nats(nats):
    """A test worth so many nats that should show 100 to 200 of its unit."""
    return Worth(nats=nats, value=140.0, low=100.0, high=200.0, otherwise=())


def _worth_proposing(monkeypatch):
    def look(nats):
        worth = worth_of_nats(nats)
        monkeypatch.setattr(next_step, "worth_of", lambda *_: worth)
        ident = identification(belief([PRIMARY, OUTPUT], best=hypothesis()))
        return bool(next_step._low(ident))

    return look


@pytest.mark.parametrize(
    ("look", "below", "above", "was", "then"),
    [
        edge(_capacitor_first, 0.049, 0.05, False, True),
        edge(_says_return, 0.02, 0.021, False, True),
    ],
)
def test_advice_changes_at_its_threshold(look, below, above, was, then):
    check(look, below, above, was, then)


@pytest.mark.parametrize(
    ("code", "leads", "readings", "asked"),
    [
        ("inconsistent-readings", ("A", "B"), ("r1",), True),
        ("inconsistent-readings", ("A", "B", "C"), ("r1",), False),
        ("inconsistent-readings", ("A", "B"), (), False),
        ("ratio-conflict", ("A", "B"), ("r1",), False),
    ],
)
def test_a_pair_that_does_not_add_up_is_repeated_first(code, leads, readings, asked):
    """One pair, and a reading of it: that one, before anything is built on it."""
    odd = Fault(code, "caution", leads, readings, "does not add up")
    found = next_step._repeat(identification(belief([PRIMARY, OUTPUT]), [odd]))

    assert [s.leads["between"] for s in found] == ([("A", "B")] if asked else [])


def test_a_test_of_little_worth_is_not_proposed(monkeypatch):
    look = _worth_proposing(monkeypatch)

    assert not look(0.1)
    assert look(0.101)


@pytest.mark.parametrize(
    ("other", "step", "volts", "spread"),
    [
        (OUTPUT, steps.RATIO, 12.0, 0.01),
        (HV_WINDING, steps.REVERSE_RATIO, 42.0, 0.01),
        (
            winding({"lv-secondary": 0.9, "hv-secondary": 0.1}, 24.0, OUTPUT.coil),
            steps.CAUTIOUS_RATIO,
            3.0,
            0.02,
        ),
    ],
)
def test_a_ratio_is_driven_with_volts_that_hurt_nobody(other, step, volts, spread):
    """12 V where HV is ruled out, 3 V where it is not, 42 V into an HV side; read to a percent, at
    3 V to two.
    """
    ident = identification(belief([PRIMARY, other], best=hypothesis()))
    (test,) = next_step._ratios(ident)

    assert test.step.title == step.of(("A", "B"), ("C", "D"), a="A", b="B", c="C", d="D").title
    assert (test.row.volts, test.row.sd) == ((volts, 1.0), spread)


def test_what_the_other_low_energy_tests_would_tell():
    """A test turn to 1.5 %, milliohms to 3 %, an inductance to 2 %."""
    coarse = winding({"lv-secondary": 1.0}, 24.0, coil("CD", 0.1, resolved=False), id="W2")
    ident = identification(belief([PRIMARY, coarse], best=hypothesis()))
    (turn,), (ohms,) = next_step._turns(ident), next_step._milliohms(ident)
    henries = list(next_step._inductances(ident))

    assert (turn.row.sd, ohms.row.sd) == (0.015, 0.03)
    assert [t.row.sd for t in henries] == [0.02, 0.02]
    assert ohms.row.coils == (1,)


@pytest.mark.parametrize(
    ("kind", "drive", "expected"),
    [
        ("ratio", 12.0, "1.2 to 2.4 V."),
        ("inductance", 0.0, "10 to 40 mH."),
        ("ohms", 0.0, "100 to 200 mΩ."),
        ("test turn", 6.0, "150 to 300 V."),
    ],
)
def test_a_step_expects_the_figure_in_its_own_unit(kind, drive, expected):
    """0.1 to 0.2 of what the row holds: a ratio times the drive, the root of henries, ohms, and
    volts for five turns over turns.
    """
    other = Other("something else", 0.1, 0.2)
    worth = Worth(nats=1.0, value=0.14, low=0.1, high=0.2, otherwise=(other,))
    observed = Row(kind, (), (0,), 0.0, 0.01, (drive, 1.0))
    test = next_step.Test(observed, steps.MILLIOHMS.of(("A", "B"), a="A", b="B"))
    told = next_step._expecting(test, worth)

    assert (told.expect, told.worth) == (expected, 1.0)
    said = f"{expected.rstrip('.')} would mean something else."
    assert told.otherwise.startswith(said) is (kind in ("ratio", "ohms"))


def test_a_stray_lead_is_tried_on_another_stray_first():
    """Two strays are most often two ends; without one, on the first other lead."""
    strays = topology([PRIMARY.coil], untested=("E", "F"))
    one = topology([PRIMARY.coil], untested=("E",))
    mates = []
    for wiring, leads in ((strays, "ABEF"), (one, "EAB")):
        ident = identification(belief([PRIMARY], wiring=wiring), leads=leads)
        mates.append(cold.mate_of("E", ident))

    assert mates == ["F", "A"]


def test_the_low_energy_test_that_tells_most_comes_first(monkeypatch):
    """By what each would settle, and one that cannot be predicted last."""
    nats = {"ratio": 0.4, "test turn": None, "inductance": 0.9}

    def worth_of(_ident, told):
        return worth_of_nats(nats[told.kind]) if nats[told.kind] else None

    monkeypatch.setattr(next_step, "worth_of", worth_of)
    found = next_step._low(identification(belief([PRIMARY, OUTPUT], best=hypothesis())))

    assert [s.kind for s in found] == ["inductance", "inductance", "ratio", "test_turn"]


def test_one_open_question_is_enough_for_the_gate():
    """The first caution is asked about; a note is none."""
    asked = Fault("ratio-conflict", "caution", ("A", "B"), ("r1",), "conflict")
    note = Fault("inconsistent-readings", "note", ("A", "B"), ("r1",), "odd")
    believed = belief([PRIMARY, OUTPUT], best=hypothesis())
    for found, said in (([asked], True), ([note], False), ([], False)):
        gate = live_gate(identification(believed, found, statements=SALVAGED))
        assert any("open question" in reason for reason in gate.reasons) is said


def test_what_placing_a_lead_is_worth():
    """One of the windings found, a partner, or nothing: ln of so many, and eight times what its
    reading to the core settles.
    """
    wiring = topology([PRIMARY.coil, OUTPUT.coil], untested=("E",))
    ident = identification(belief([PRIMARY, OUTPUT], wiring=wiring), leads="ABCDE")
    unknown = ScreeningState(1 - 0.015 - 0.02, 0.015, 0.02)
    safety = 8.0 * settled(unknown, shows(2e7, to_core=True, proved=True))

    assert cold.placing("E", "A", ident).worth == pytest.approx(math.log(4) + safety)


def test_a_test_turn_is_driven_with_six_volts_through_five_turns(monkeypatch):
    monkeypatch.setattr(next_step, "worth_of", lambda *_: worth_of_nats(1.0))
    ident = identification(belief([PRIMARY, OUTPUT], best=hypothesis()))
    (test,) = next_step._turns(ident)
    told = next_step._expecting(test, worth_of_nats(1.0))

    assert test.row.volts == (6.0, 1.0)
    assert told.expect == "150 to 300 mV."


# ------------------------------------------------------------------ audit


def contradictions(readings=(), volts=24.0, **more) -> set[Any]:
    """Kinds of contradiction on a record with one output of so many volts."""
    out = winding({"lv-secondary": 1.0}, volts, OUTPUT.coil, id="W2")
    return {f.kind for f in audit(identification(belief([PRIMARY, out]), (), readings, **more))}


def _wire(amps):
    """2 mm wire carries 37.70 A at 12 A/mm²."""
    plate = {"secondary_volts": 24.0, "secondary_amps": amps}
    leads = ["A", "B", {"id": "C", "wire_mm": 2.0}, "D"]
    return "gauge-against-current" in contradictions(leads=leads, nameplate=plate)


def _plate(volts):
    return "plate-against-measured" in contradictions(nameplate={"secondary_volts": volts})


def _coupling(back):
    """Meters without error."""
    return coupling(back, 0.0)


def _coupling_by_common_meters(back):
    """Both volts of both readings to 1 %: four hundredths of k²."""
    return coupling(back, 1.0)


def coupling(back, percent):
    """12 V gives 1.2 V; the reverse drive gives k² of the whole back."""
    there = {"driven": ["A", "B"], "driven_volts": 12.0, "sensed": ["C", "D"], "sensed_volts": 1.2}
    home = {"driven": ["C", "D"], "driven_volts": 1.0, "sensed": ["A", "B"], "sensed_volts": back}
    rows = [{"kind": "ratio", "percent": percent, "digits": 0.0, **x} for x in (there, home)]
    return "direction-against-direction" in contradictions(rows)


def _near_resonance(henries):
    """ω²LC of 0.3 with 150 pF at 1 kHz: 50.66 H."""
    reading = {"kind": "inductance", "across": ["A", "B"], "henries": henries, "hertz": 1000.0}
    return "near-resonance" in contradictions([reading])


def _parts(whole):
    rows = [
        {
            "kind": "ratio",
            "percent": 1.0,
            "digits": 0.0,
            "driven": ["A", "B"],
            "driven_volts": 10.0,
            "sensed": list(pair),
            "sensed_volts": volts,
        }
        for pair, volts in (("CD", 1.0), ("DE", 1.0), ("CE", whole))
    ]
    return "parts-against-whole" in contradictions(rows, leads="ABCDE")


@pytest.mark.parametrize(
    ("look", "below", "above", "was", "then"),
    [
        edge(_wire, 37.6, 37.8, False, True),
        edge(_plate, 24 / 1.31, 24 / 1.29, True, False, "a plate's loaded volts, 1.30 below open"),
        edge(_plate, 24 / 0.93, 24 / 0.91, False, True, "a plate's loaded volts, 0.92"),
        edge(_coupling, 6.99, 7.01, True, False, "k² of 0.7"),
        edge(_coupling, 9.99, 10.01, False, True, "k² of 1"),
        edge(_coupling_by_common_meters, 6.71, 6.73, True, False, "k² of 0.7, less the limits"),
        edge(_coupling_by_common_meters, 10.39, 10.41, False, True, "k² of 1, and the limits"),
        edge(_near_resonance, 50.0, 51.5, False, True),
        edge(_parts, 2.08, 2.09, False, True, "parts and whole differ by more than their limits"),
    ],
)
def test_the_audit_speaks_from_its_threshold(look, below, above, was, then):
    check(look, below, above, was, then)


# ------------------------------------------------------------------ what a test is worth


class Narrowing:
    """Stands for a reading that is foreseen: by how many nats each winding's volts would narrow."""

    def __init__(self, *nats):
        self.nats = nats

    def narrows(self, _k, contrast):
        unknowns = Unknowns(3)
        return self.nats[next(i for i in range(3) if contrast[unknowns.w(i)] > 0)]


def test_the_volts_best_served_count_whole_and_the_others_half():
    """From 0.4 to 0.1 is ln 4, from 0.3 to 0.2 ln 1.5; those of an HV winding count two and a
    half times; what widens counts nothing.
    """
    told = Narrowing(0.0, math.log(4), math.log(1.5))
    low = hypothesis(roles=("primary", "lv-secondary", "filament"))
    high = hypothesis(roles=("primary", "hv-secondary", "filament"))
    unknowns = Unknowns(3)

    served = _narrower(told, unknowns, 0, low)
    assert served == pytest.approx(math.log(4) + 0.5 * math.log(1.5))
    served = 2.5 * math.log(4) + 0.5 * math.log(1.5)
    assert _narrower(told, unknowns, 0, high) == pytest.approx(served)
    wider = Narrowing(0.0, -math.log(4), -math.log(1.5))
    assert _narrower(wider, unknowns, 0, low) == 0.0
