"""A capacitor-discharge welder and kilovolt DC by three routes, held at their edges: what the pulse
is called, when a bank rings, which route a bond allows.
"""

import pytest

from greyfell.core.figures.quantity import exact
from greyfell.core.planners.dc_routes import BONDS, END, FREE, MIDDLE, UNKNOWN
from greyfell.core.planners.pulse_weld import Given, amps_at, peak_amps, pulse_seconds, rings
from greyfell.core.planners.registry import PLANNERS

TAB = {"metal": "nickel", "thickness_mm": 0.15, "tips": "one-sided"}
"""Nickel tab: 600 to 1200 A for 3 to 20 ms, 4320 to 7200 A²s. Common practice."""


def welded(**more):
    """A bank of 0.5 F with 4 mΩ in bank and loop, on nickel tab."""
    usual = {"bank_farads": 0.5, "bank_volts": 11.0, "bank_ohms": 2e-3, "loop_ohms": 2e-3}
    return PLANNERS["pulse_weld"]({**TAB, **usual, **more})


def codes(answer):
    """Codes of what is said besides."""
    return {w["code"] for w in answer["warnings"]}


def given(farads, volts, ohms, henries):
    """A bank and its loop, with all its ohms but the spot's in one."""
    return Given(
        bank_farads=farads,
        bank_volts=volts,
        bank_ohms=exact(ohms),
        loop_ohms=exact(0.0),
        loop_henries=henries,
    )


def test_the_pulse_is_called_by_the_heat_that_the_weld_asks_for():
    """½·C·V²/R against 4320 and 7200 A²s; just below and above each."""
    ohms = 25.0 / welded(bank_volts=10.0)["heating"]["value"]
    for heating, called in (
        (4300, "too weak"),
        (4340, "does"),
        (7180, "does"),
        (7220, "may hole it"),
    ):
        volts = (heating * ohms / 0.25) ** 0.5
        answer = welded(bank_volts=volts)

        assert answer["heating"]["value"] == pytest.approx(heating, rel=1e-6)
        assert answer["verdict"] == called


def test_a_pulse_of_too_few_amps_is_too_weak_however_long():
    """A large bank through many ohms has the heat, not the amps: 590 A against 600 A and 610."""
    for peak, called in ((590, "too weak"), (610, "does")):
        spot = welded(loop_henries=0.0)
        own = 11.0 / spot["peak_amps"]["value"] - 4e-3
        volts = peak * (20e-3 + own)
        farads = 2 * 6000 * (20e-3 + own) / volts**2
        answer = welded(bank_ohms=18e-3, bank_volts=volts, bank_farads=farads, loop_henries=0.0)

        assert answer["peak_amps"]["value"] == pytest.approx(peak, rel=0.01)
        assert answer["verdict"] == called


def test_least_volts_do_and_a_little_less_does_not():
    """The volts that are named are those from which it does."""
    least = welded()["least_volts"]["value"]

    assert welded(bank_volts=1.01 * least)["verdict"] == "does"
    assert welded(bank_volts=0.99 * least)["verdict"] == "too weak"


@pytest.mark.parametrize(
    ("more", "code", "said"),
    [
        ({"bank_volts": 11.0, "bank_rated_volts": 11.0}, "over-rated", False),
        ({"bank_volts": 11.1, "bank_rated_volts": 11.0}, "over-rated", True),
        ({}, "rated-unknown", True),
        ({"bank_rated_volts": 16.0}, "rated-unknown", False),
        ({"bank_volts": 50.0}, "touch-volts", False),
        ({"bank_volts": 50.1}, "touch-volts", True),
        ({"bank_farads": 0.33}, "stored", False),
        ({"bank_farads": 0.331}, "stored", True),
        ({"metal": "copper"}, "metal-refused", True),
        ({"metal": "steel"}, "metal-refused", False),
        ({"metal": "steel"}, "cells", False),
        ({}, "cells", True),
    ],
)
def test_what_is_said_at_a_bank(more, code, said):
    """20 J of molten metal, 50 V in bare hands, volts the bank bears; 0.331 F at 11 V are 20 J."""
    assert (code in codes(welded(**more))) is said


LEAST_SPOT = 2e-4 + 0.3 * 3e-7 * 8 / (0.15e-3 * 10)
"""The least ohms of nickel tab: twice a tip's, and a third of the top sheet's own."""


@pytest.mark.parametrize(("share", "does"), [(0.99, True), (1.01, False)])
def test_a_bank_that_rings_is_told_at_its_edge(share, does):
    """R below 2·√(L/C), with the least that the spot may have: 0.01 F and 1 µH, 20 mΩ."""
    own = 0.02 * share - LEAST_SPOT
    answer = welded(bank_farads=0.01, bank_ohms=own, loop_ohms=0.0, loop_henries=1e-6)

    assert rings(given(0.01, 11.0, own, 1e-6)) is does
    assert ("rings" in codes(answer)) is does


@pytest.mark.parametrize(
    ("henries", "ohms"),
    [(0.0, 5e-3), (1e-6, 5e-3), (1e-6, 2e-3), (4e-6, 4e-3), (2e-6, 1e-3)],
)
def test_the_peak_is_the_most_of_the_pulse_and_the_pulse_ends(henries, ohms):
    """Along the pulse no amps above the peak; after three time constants a twentieth is left, the
    envelope where it rings.
    """
    bank = given(1.0, 10.0, ohms, henries)
    peak, last = peak_amps(bank, ohms), pulse_seconds(bank, ohms)
    along = [amps_at(bank, ohms, last * k / 4000) for k in range(4001)]

    assert max(along) == pytest.approx(peak, rel=1e-4)
    assert abs(along[-1]) <= 0.1 * peak


@pytest.mark.parametrize("bond", BONDS)
def test_a_bond_allows_its_routes_and_no_other(bond):
    """An end: the doubler. The middle: two halves. Clear of the core: doubler or bridge. Not known:
    none, and a stop.
    """
    answer = PLANNERS["dc_routes"](
        {"winding_volts": 1000.0, "bond": bond, "reservoir_farads": 1e-7}
    )
    allowed = {row["route"].split()[0] for row in answer["routes"] if row["allowed"]}

    assert (
        allowed
        == {
            END: {"doubler"},
            MIDDLE: {"two"},
            FREE: {"doubler", "bridge"},
            UNKNOWN: set(),
        }[bond]
    )
    assert ("bond-unknown" in codes(answer)) is (bond == UNKNOWN)
    assert ("core-is-the-return" in codes(answer)) is (bond in (END, MIDDLE))
    assert ("both-poles-live" in codes(answer)) is (bond == FREE)
    assert answer["route"].startswith(("none yet", *allowed))


def test_each_route_is_the_direct_supply_of_its_own():
    """The same figures as the planner of one supply, the halves with half the volts and ohms."""
    shared = {"load_amps": 0.01, "reservoir_farads": 1e-6, "diode_volts": 8.0}
    ohms = {"source_resistance_ohms": 400.0, "source_reactance_ohms": 900.0}
    halved = {k: v / 2 for k, v in ohms.items()}
    answer = PLANNERS["dc_routes"]({"winding_volts": 2000.0, "bond": MIDDLE, **shared, **ohms})
    for row, rectifier, volts, own in zip(
        answer["routes"],
        ("doubler", "bridge", "centre-tap"),
        (2000.0, 2000.0, 1000.0),
        (ohms, ohms, halved),
        strict=True,
    ):
        one = PLANNERS["dc_supply"](
            {"winding_volts": volts, "rectifier": rectifier, **shared, **own}
        )

        assert row["loaded_volts"]["value"] == pytest.approx(one["loaded_volts"]["value"])
        assert row["stored_joules"] == one["stored_joules"]


@pytest.mark.parametrize(("share", "said"), [(0.99, False), (1.01, True)])
def test_a_lethal_reservoir_is_told_from_a_quarter_of_a_joule(share, said):
    """By whichever route, at the highest line; joules go with the farads."""
    asked = {"winding_volts": 1000.0, "bond": END, "load_amps": 0.0}
    small = PLANNERS["dc_routes"]({**asked, "reservoir_farads": 1e-8})
    most = max(row["stored_joules"]["high"] for row in small["routes"])
    answer = PLANNERS["dc_routes"]({**asked, "reservoir_farads": 1e-8 * share * 0.25 / most})

    assert ("lethal-stored" in codes(answer)) is said
