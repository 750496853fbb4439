"""Volts with their doubts: error models of single readings, doubt about the primary, twins, taps,
and what is left out.
"""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from greyfell.core.belief.family import hypotheses
from greyfell.core.belief.observations import log_moments, observations
from greyfell.core.belief.volts import MixturePart, shortest
from greyfell.core.dangers.own import hazards
from greyfell.core.evidence.kinds.inductance import SELF_FARADS
from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.core.judgement.audit import audit
from greyfell.core.judgement.gates import live_gate
from greyfell.core.judgement.high import high_ruled_out
from greyfell.core.telling.why import why
from greyfell.core.wiring.topology import find_windings
from tests.conftest import OVEN, every, piece
from tests.core.made import coil, record, topology

SALVAGED = [{"id": "s1", "kind": "salvage-done", "text": "0.3 V"}]


def judged(readings, leads="ABCDE", volts=230, **more):
    """A record and what follows from it."""
    record = parse_record(piece(leads, readings, supply={"volts": volts, "hertz": 50}, **more))
    return record, identify(record)


def ratio(driven, volts, sensed, out, **more):
    """Volts on one pair with another driven."""
    return {
        "kind": "ratio",
        "driven": list(driven),
        "driven_volts": volts,
        "sensed": list(sensed),
        "sensed_volts": out,
        **more,
    }


def rows_of(readings, leads="ABCDEF", **more):
    """The observations of a hand-made record."""
    record = parse_record(piece(leads, readings, **more))
    return observations(record, find_windings(record))


# ------------------------------------------------------------------ one reading, its error


@settings(max_examples=80, deadline=None)
@given(st.floats(0.01, 1e4), st.floats(0.001, 1.5))
def test_moments_of_a_figure_lie_within_its_limits(value, relative):
    """Whatever the limits: the mean of the logarithm lies between them, the spread is finite and
    grows with them.
    """
    low, high = max(0.0, value * (1 - relative)), value * (1 + relative)
    mean, sd = log_moments(low, value, high)

    assert math.log(max(low, 1e-5)) <= mean <= math.log(high)
    assert sd > 0
    assert (
        log_moments(max(0.0, value * (1 - 1.2 * relative)), value, value * (1 + 1.2 * relative))[1]
        >= sd * 0.999
    )


def test_narrow_limits_give_a_triangular_spread():
    """±1 % by the maker, triangular: u = a/√6. JCGM 100:2008 4.3.9."""
    assert log_moments(99.0, 100.0, 101.0)[1] == pytest.approx(0.01 / math.sqrt(6), rel=0.03)


def test_a_winding_of_many_turns_reads_too_large_an_inductance():
    """Its own capacitance adds ω²L²C: 45 H at 1 kHz is taken down, 0.4 H hardly, and the doubt
    grows with it.
    """
    first, second = (
        next(
            r
            for r in rows_of(
                [
                    ("A", "B", ohms),
                    {
                        "kind": "inductance",
                        "across": ["A", "B"],
                        "henries": henries,
                        "hertz": hertz,
                    },
                ]
            )
            if r.kind == "inductance"
        )
        for ohms, henries, hertz in ((9.0, 0.4037, 1000.0), (9000.0, 45.03, 1000.0))
    )
    near = (2 * math.pi * 1000.0) ** 2 * 45.03 * SELF_FARADS[0]

    assert first.value == pytest.approx(0.5 * math.log(0.4037), abs=0.01)
    assert second.value == pytest.approx(0.5 * math.log(45.03 / (1 + near)))
    assert second.value < 0.5 * math.log(45.03)
    assert second.sd > first.sd


def test_near_its_resonance_an_inductance_counts_for_nothing():
    """100 H at 1 kHz may be the winding's capacitance: no row, no fault, and the audit asks for 100
    or 120 Hz.
    """
    rows = [
        ("A", "B", 5.0),
        ("C", "core", 5000.0),
        ("D", "core", 5050.0),
        ("C", "D", 10050.0),
        ("A", "C", "open"),
        {"kind": "inductance", "across": ["C", "D"], "henries": 100.0, "hertz": 1000.0},
    ]
    _record, ident = judged(rows, "ABCD")

    assert every(r.kind != "inductance" for r in rows_of(rows, "ABCD"))
    assert "shorted-turns" not in {f.code for f in ident.faults}
    assert any(f.kind == "near-resonance" and "100 or 120 Hz" in f.sentence for f in audit(ident))


def test_one_meter_for_both_volts_cancels_part_of_its_error():
    """Gain of one instrument is in both figures: the ratio is better than either (JCGM 100:2008 ch.
    5).
    """
    alone = rows_of(
        [("A", "B", 9.0), ("C", "D", 60.0), ratio("AB", 12.0, "CD", 40.0, percent=2.0, digits=0.0)]
    )
    row = next(r for r in alone if r.kind == "ratio")

    assert row.sd < math.hypot(0.02, 0.02) / math.sqrt(6)
    assert row.sd > 0.004


LONE = [("A", "B", 9.0), ("C", "D", 60.0), ratio("AB", 230.0, "CD", 46.0, percent=1.0, digits=0.0)]
"""A secondary's volts on the line, read once."""


def ratio_of(readings):
    """The first ratio among the observations of hand-made readings."""
    return next(r for r in rows_of(readings) if r.kind == "ratio")


def test_a_ratio_that_stands_alone_is_taken_wider():
    """What the line did between two volts shows only beside another reading of the same windings:
    the lone one carries the wander twice, in quadrature.
    """
    lone = ratio_of(LONE)
    vouched = ratio_of([*LONE, ratio("AB", 231.0, "CD", 46.2, percent=1.0, digits=0.0)])

    assert vouched.sd == pytest.approx(math.sqrt(lone.sd**2 - 0.006**2))
    assert lone.value == vouched.value


@pytest.mark.parametrize(("apart", "vouched"), [(1.99, True), (2.01, False), (-2.01, False)])
def test_two_ratios_vouch_for_each_other_within_twice_the_lines_wander(apart, vouched):
    """Just within twice what the line does between the two, and just beyond it either way; however
    coarse the meter.
    """
    lone = ratio_of(LONE)
    other = 46.0 * math.exp(apart * math.sqrt(2) * 0.006)
    for percent in (0.5, 1.0, 4.0):
        found = ratio_of([*LONE, ratio("AB", 230.0, "CD", other, percent=percent, digits=0.0)])

        assert (found.sd < lone.sd) == vouched


@pytest.mark.parametrize(("percent", "vouched"), [(5.50, True), (5.52, False)])
def test_a_coarse_ratio_vouches_for_none(percent, vouched):
    """0.6 of 5.5 % in quadrature over √6, with the line's 0.6 %, is 2 %."""
    lone = ratio_of(LONE)
    found = ratio_of([*LONE, ratio("AB", 230.0, "CD", 46.0, percent=percent, digits=0.0)])

    assert (found.sd < lone.sd) == vouched


def test_the_other_way_round_vouches_too_and_another_winding_does_not():
    """Driven from the other side it is the same ratio upside down; a third winding's is none."""
    lone = ratio_of(LONE)
    back = ratio_of([*LONE, ratio("CD", 46.0, "AB", 230.0, percent=1.0, digits=0.0)])
    third = ratio_of(
        [*LONE, ("E", "F", 60.0), ratio("AB", 230.0, "EF", 46.0, percent=1.0, digits=0.0)]
    )

    assert back.sd < lone.sd
    assert third.sd == lone.sd


def test_a_ratio_across_one_winding_is_no_ratio_of_windings():
    """Driving a winding and reading its tap tells of the tap only."""
    rows = rows_of(
        [("A", "B", 4.0), ("B", "C", 6.0), ("A", "C", 10.0), ratio("AC", 10.0, "AB", 4.1)]
    )

    assert [r.kind for r in rows] == ["ohms"]


# ------------------------------------------------------------------ ranges of mixtures


@settings(max_examples=80, deadline=None)
@given(
    st.lists(
        st.tuples(st.floats(0.05, 1), st.floats(-2, 2), st.floats(0.01, 0.5)),
        min_size=1,
        max_size=5,
    )
)
def test_a_range_holds_95_of_a_hundred_draws_of_its_mixture(parts):
    """Counted by drawing from it: the bounds hold 95 %, the figure lies between them."""
    low, middle, high = shortest([MixturePart(*p) for p in parts])
    rng = np.random.default_rng(5)
    weights = np.array([w for w, _, _ in parts]) / sum(w for w, _, _ in parts)
    which = rng.choice(len(parts), size=20000, p=weights)
    drawn = rng.normal(
        np.array([m for _, m, _ in parts])[which], np.array([s for _, _, s in parts])[which]
    )

    assert low < middle < high
    assert np.mean((drawn > low) & (drawn < high)) == pytest.approx(0.95, abs=0.012)


def test_a_small_doubt_to_one_side_stays_outside():
    """Three per cent of another explanation, far off: part of the five per cent that a 95 % range
    leaves out.
    """
    low, _, high = shortest([MixturePart(0.97, 0.0, 0.02), MixturePart(0.03, 3.0, 0.02)])

    assert high < 0.1
    assert low > -0.1


def test_a_large_doubt_is_inside():
    """Twenty per cent of another explanation is never left out."""
    assert shortest([MixturePart(0.8, 0.0, 0.02), MixturePart(0.2, 3.0, 0.02)])[2] > 2.9


# ------------------------------------------------------------------ which winding is the primary

TWO = [
    {"kind": "core_proof", "ohms": 0.1},
    ("A", "B", 8.0),
    ("C", "D", 9.5),
    *((x, y, "open") for x, y in ("AC", "AD")),
    ("A", "core", "open"),
    ("C", "core", "open"),
]


def test_doubt_about_the_primary_is_in_every_range():
    """Two windings nearly alike, no ratio: the fed winding itself has a range, the basis says why,
    nothing live opens.
    """
    _record, ident = judged(TWO, "ABCD", statements=SALVAGED)
    fed = next(w for w in ident.windings if w.role == "primary")

    assert fed.roles["primary"] < 0.95
    assert fed.volts.low < 230 < fed.volts.high * 1.0001
    assert fed.volts.high > fed.volts.low * 1.02
    assert fed.volts.basis == ("supply", "roles")
    gate = live_gate(ident)
    assert not gate.open
    assert any("takes the mains is only" in r for r in gate.reasons)


def test_a_doubtful_primary_is_explained_as_one():
    """Why its volts are a range: how likely it is fed, and what it would put out if another winding
    is.
    """
    _record, ident = judged(TWO, "ABCD")
    fed = next(w for w in ident.windings if w.role == "primary")
    told = why(ident, ["winding", fed.id, "volts"])

    assert "where it is the primary" in told.formula
    assert "% primary: 230 V" in told.with_figures


def test_a_written_overruling_vouches_for_no_primary():
    """A statement lifts a caution; which winding takes the mains only evidence tells."""
    _record, ident = judged(
        TWO,
        "ABCD",
        statements=[*SALVAGED, {"id": "s2", "kind": "overrule", "text": "fed it for years"}],
    )
    gate = live_gate(ident)

    assert any("takes the mains" in r for r in gate.reasons)
    assert gate.rests_on == "record"


def test_a_sure_primary_is_the_supply_exactly():
    """A tapped-less oven primary: nothing to doubt, and no range is invented."""
    _, ident = judged([*OVEN, ratio("AB", 10.0, "Ecore", 91.0) | {"sensed": ["E", "core"]}])
    fed = next(w for w in ident.windings if w.role == "primary")

    assert (fed.volts.low, fed.volts.value, fed.volts.high) == (230, 230, 230)
    assert fed.volts.basis == ("supply",)


# ------------------------------------------------------------------ twins


TWINS = [
    {"kind": "core_proof", "ohms": 0.1},
    ("A", "B", 30.0),
    ("C", "D", 0.80),
    ("E", "F", 0.83),
    ("A", "C", "open"),
    ("A", "E", "open"),
    ("C", "E", "open"),
]


def test_the_ratio_of_one_twin_narrows_the_other():
    """Two secondaries of like ohms are mostly wound alike: reading one tells much of the other,
    never all.
    """
    read = ratio("AB", 24.0, "CD", 2.401)
    before, after = (
        judged(rows, "ABCDEF")[1].windings[2].volts for rows in (TWINS, [*TWINS, read])
    )
    apart = [*TWINS[:3], ("E", "F", 3.3), *TWINS[4:]]
    unlike = [judged(rows, "ABCDEF")[1].windings[2].volts for rows in (apart, [*apart, read])]

    assert after.relative < 0.8 * before.relative
    assert after.relative > 0.03
    assert after.relative / before.relative < unlike[1].relative / unlike[0].relative


def test_what_was_read_of_both_twins_overrides_the_habit():
    """20 V and 24 V of like ohms: each as read."""
    rows = [*TWINS, ratio("AB", 24.0, "CD", 2.112), ratio("AB", 24.0, "EF", 2.521)]
    _, ident = judged(rows, "ABCDEF")

    assert ident.windings[1].volts.high < ident.windings[2].volts.low
    assert ident.windings[1].volts.low < 230 * 2.112 / 24 < ident.windings[1].volts.high


# ------------------------------------------------------------------ pieces unlike their kind


def test_a_good_ratio_is_believed_before_the_habit_of_the_ohms():
    """A thin auxiliary winding: its ohms say 40 V, a precise ratio says 12.5 V; the ratio stands,
    and the ohms are asked again.
    """
    rows = [
        {"kind": "core_proof", "ohms": 0.1},
        ("A", "B", 30.0),
        ("C", "D", 0.35),
        ("E", "F", 3.0),
        ("A", "C", "open"),
        ("A", "E", "open"),
        ("C", "E", "open"),
        ratio("AB", 24.03, "CD", 1.881),
        ratio("AB", 24.03, "EF", 1.304),
    ]
    _, ident = judged(rows, "ABCDEF")
    aux = ident.windings[2]

    assert ident.family == "mains"
    assert aux.volts.low < 230 * 1.304 / 24.03 < aux.volts.high
    assert aux.volts.relative < 0.05


def test_a_tiny_transformer_is_not_refused_for_its_ohms():
    """Two to three VA: nearly two kilohms of primary. The doubt against a sign piece is said, and
    mains leads once screened.
    """
    rows = [
        {"kind": "core_proof", "ohms": 0.1},
        ("A", "B", 1900.0),
        ("C", "D", 9.6),
        ("A", "C", "open"),
        ("A", "core", "open"),
        ("C", "core", "open"),
        ratio("AB", 231.0, "CD", 16.93),
    ]
    _record, ident = judged(rows, "ABCD", statements=SALVAGED)

    assert ident.family == "mains"
    assert ident.families["sign"] > 0.02
    assert not live_gate(ident).open
    assert hazards(ident)[0].code in ("hv-to-case", "hv-not-ruled-out")
    assert not high_ruled_out(ident.belief)


def test_many_slips_do_not_hide_each_other():
    """Two windings' ohms written ten times too high: ohms are named as not fitting, and the ratios
    give the volts.
    """
    rows = [
        {"kind": "core_proof", "ohms": 0.1},
        ("A", "B", 9.0),
        ("C", "D", 3.0),
        ("E", "F", 32.0),
        ("G", "H", 0.30),
        *((x, y, "open") for x, y in ("AC", "AE", "AG")),
        ratio("AB", 24.03, "CD", 1.253),
        ratio("AB", 24.03, "EF", 4.004),
        ratio("AB", 24.03, "GH", 1.261),
    ]
    _, ident = judged(rows, "ABCDEFGH", declared_family="mains")

    assert {r for f in ident.faults if f.code == "ohms-out-of-band" for r in f.readings}
    for w, out in zip(ident.windings[1:], (1.253, 4.004, 1.261), strict=True):
        assert w.volts.low < 230 * out / 24.03 < w.volts.high


# ------------------------------------------------------------------ taps

TAPPED = [("A", "B", 6.0), ("B", "C", 4.0), ("A", "C", 10.0)]


def taps(readings, leads="ABC"):
    """The taps of the only winding."""
    (w,) = judged(readings, leads)[1].windings
    return w.taps


def test_a_tap_by_ohms_is_a_range_of_turns():
    """Outer turns are longer: ohms alone give the turns share to some per cent, either way."""
    (tap,) = taps(TAPPED)

    assert tap.fraction == pytest.approx(0.6, abs=0.02)


def test_volts_along_the_winding_settle_a_tap():
    """The winding driven, the tap read, from either end, or both parts under one drive: all give
    the same share.
    """
    for read in (ratio("AC", 10.0, "AB", 6.31), ratio("AC", 10.0, "BC", 3.69)):
        (tap,) = taps([*TAPPED, read])
        assert tap.fraction == pytest.approx(0.631, abs=0.001)


def test_volts_of_two_drives_are_not_mixed():
    """A tap's share is taken from figures of one drive only: line volts move between two."""
    rows = [
        ("A", "B", 30.0),
        ("C", "D", 1.2),
        ("D", "E", 0.8),
        ("C", "E", 2.0),
        ("A", "C", "open"),
        ratio("AB", 230.0, "CE", 20.0),
    ]
    alone = judged([*rows, ratio("CE", 10.0, "CD", 6.0)], "ABCDE")[1].windings[1].taps[0]
    same = judged([*rows, ratio("AB", 230.0, "CD", 12.9)], "ABCDE")[1].windings[1].taps[0]

    assert alone.fraction == pytest.approx(0.6, abs=0.001)
    assert same.fraction == pytest.approx(0.645, abs=0.001)


@pytest.mark.parametrize(
    ("share", "volts", "ends"),
    [(0.956, 230, (230.0, 240.6)), (0.92, 230, (230.0, 250.0)), (0.956, 220, (220.0, 230.1))],
)
def test_where_a_tap_may_be_meant_both_stay_open(share, volts, ends):
    """230 V on a winding of 230 and 240, or of 220 and 230: the fed winding's range holds its ends'
    volts either way.
    """
    rows = [
        ("A", "B", 40.0 * share),
        ("B", "C", 40.0 * (1 - share)),
        ("A", "C", 40.0),
        ("D", "E", 0.3),
        ("A", "D", "open"),
    ]
    _, ident = judged(rows, "ABCDE", volts=volts)
    fed = next(w for w in ident.windings if w.role == "primary")

    assert (fed.volts.low, fed.volts.high) == pytest.approx(ends, rel=2e-3)


# ------------------------------------------------------------------ a piece read in part


def valve_set_in_part(volts, **ohms):
    """A valve set's transformer by ratios alone, two of its leads not read: heater, HV, and D–I
    with so many volts.
    """
    driven = [("AB", 6.6), ("EL", 581.0), ("DI", volts)]
    readings = [ratio("CK", 120.0, pair, out) for pair, out in driven]
    readings += [(*pair, value) for pair, value in ohms.items()]
    supply = {"volts": 120.0, "hertz": 60.0}
    leads = [{"id": x, "colour": "green"} if x in "AB" else x for x in "ABCDEIKLGJ"]
    record = parse_record(piece(leads, readings, supply=supply, declared_family="mains"))
    return next(w for w in identify(record).windings if set(w.coil.leads) == {"D", "I"})


def test_a_bias_winding_is_one_while_leads_are_still_unread():
    """Fifty volts of it are no slip of a heater's; read to the last lead it was told before."""
    told = valve_set_in_part(49.4)

    assert told.roles.get("filament", 0.0) < 0.01
    assert told.volts.low < 49.4 < told.volts.high


@pytest.mark.parametrize("untested", [(), ("I", "J")])
@pytest.mark.parametrize(("ohms", "may_be"), [(0.399, False), (0.401, True)])
def test_a_bias_winding_has_four_tenths_of_an_ohm(ohms, may_be, untested):
    """Just below and above, by the upper end of its range; every lead read, or two not yet."""
    pairs = (("AB", 30.0), ("CD", 60.0), ("EF", 0.05), ("GH", ohms / 1.02))
    wiring = topology([coil(leads, value) for leads, value in pairs], untested=untested)
    roles = {
        h.roles[3] for h in hypotheses(record(leads="ABCDEFGHIJ"), wiring) if h.subtype == "valve"
    }

    assert "filament" in roles
    assert ("bias" in roles) == may_be
