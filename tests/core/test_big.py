"""Big records: as many leads and readings as a record may hold are still weighed, and what is wrong
in them is still named. `make bench` says how long it takes.
"""

import itertools

import numpy as np
import pytest

from greyfell.core.belief.weigh import MOST_WINDINGS
from greyfell.core.evidence.accuracy import ohms_of
from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.core.judgement.gates import live_gate
from greyfell.core.steps.next_step import next_steps
from greyfell.core.wiring.lines import _mended, fit_line
from greyfell.core.wiring.topology import MANY_REPEATS, find_windings
from tests.conftest import every, piece

NAMES = [a + b for a in "ABCDEFGH" for b in "ABCDEFGH"]


def tapped(leads, wrong=None):
    """One winding with so many leads, every pair read; one of them ten times off."""
    pairs = itertools.combinations(range(leads), 2)
    readings = [(NAMES[i], NAMES[j], 2.0 * (j - i)) for i, j in pairs]
    if wrong is not None:
        a, b, ohms = readings[wrong]
        readings[wrong] = (a, b, 10 * ohms)
    return parse_record(piece(NAMES[:leads], readings))


def windings(count, ratios, seed=3):
    """So many windings, and as many ratios between them, to half a per cent."""
    rng = np.random.default_rng(seed)
    volts = np.array([230.0, *rng.uniform(5, 60, count - 1)])
    ends = [(NAMES[2 * i], NAMES[2 * i + 1]) for i in range(count)]
    readings = [(*ends[i], round(float(v) ** 1.3 / 60, 2)) for i, v in enumerate(volts)]
    for _ in range(ratios):
        a, b = rng.choice(count, 2, replace=False)
        sensed = 12.0 * volts[b] / volts[a] * rng.normal(1, 0.005)
        readings.append(
            {
                "kind": "ratio",
                "driven": list(ends[a]),
                "driven_volts": 12.0,
                "sensed": list(ends[b]),
                "sensed_volts": round(float(sensed), 4),
            }
        )
    known = {"supply": {"volts": 230, "hertz": 50}, "nameplate": {"primary_volts": 230}}
    return parse_record(piece(NAMES[: 2 * count], readings, **known))


@pytest.mark.parametrize("leads", [7, 8, 9, 20, 64])
def test_a_winding_of_many_taps_is_put_in_order(leads):
    """Every pair read: the leads stand in their order, and nothing contradicts."""
    found = find_windings(tapped(leads))

    (coil,) = found.coils
    assert sorted(coil.positions, key=coil.positions.get) == NAMES[:leads]
    assert not found.contradictions


@pytest.mark.parametrize("leads", [8, 9, 20])
def test_one_slip_among_many_pairs_is_the_one_that_mends_the_line(leads):
    """Ten times too high: of all readings the one without which the rest is a line again."""
    record = tapped(leads, wrong=leads + 1)
    pairs = {frozenset(r.between): [ohms_of(r, 0.0)] for r in record.readings}
    names = NAMES[:leads]
    fit = fit_line(names, pairs)
    mended, odd = _mended(names, pairs, fit)

    assert odd.reading == f"r{leads + 2}"
    assert "ten times too high" in odd.slip
    assert mended.chi2 < mended.allowed < fit.chi2
    assert max(mended.positions.values()) == pytest.approx(2.0 * (leads - 1), rel=0.01)


@pytest.mark.parametrize("leads", [8, 20, 64])
def test_one_slip_among_many_pairs_is_never_passed_over(leads):
    """It is named, or the piece is stopped for what it looks like."""
    assert identify(tapped(leads, wrong=leads + 1)).faults


@pytest.mark.parametrize("times", [MANY_REPEATS, MANY_REPEATS + 1, 400])
def test_a_pair_read_over_and_over_is_compared_with_its_first(times):
    """Every reading that excludes the first is named, once and no more where they are many."""
    readings = [("A", "B", 1.3 if n % 3 else 13.0) for n in range(times)]
    found = find_windings(parse_record(piece("AB", readings)))

    named = {c.reading for c in found.contradictions}
    off = {f"r{n + 1}" for n in range(times) if n % 3}
    assert off <= named
    assert times <= MANY_REPEATS or named == off


@pytest.mark.parametrize("count", [4, MOST_WINDINGS])
def test_many_windings_and_many_ratios_are_weighed(count):
    """The winding made for the mains is found, and every other has its volts."""
    ident = identify(windings(count, 150))

    assert ident.belief.fed == ("AA", "AB")
    assert next_steps(ident)
    assert every(w.volts.low < w.volts.high for w in ident.windings[1:])


@pytest.mark.parametrize("count", [MOST_WINDINGS + 1, 32])
def test_more_windings_than_any_piece_has_are_not_weighed(count):
    """Nothing is said of their roles and volts, a caution says why, and the gate stays shut."""
    ident = identify(windings(count, 40))

    assert {f.code for f in ident.faults} >= {"not-weighed"}
    assert every(w.volts is None for w in ident.windings)
    assert not live_gate(ident).open
    assert next_steps(ident)


def test_many_ratios_of_two_windings_narrow_as_their_number_says():
    """A hundred like readings of one ratio: their own error falls by ten, what they share stays."""
    few, many = (identify(windings(2, n)).windings[1].volts for n in (1, 100))

    assert many.low > few.low
    assert many.high < few.high
    assert many.low < many.value < many.high
