"""What the supply goes on: one primary, or two halves, in series on 230 V and side by side on
120 V; what it draws idle, by its kind or by readings of a half.
"""

import pytest

from greyfell.core.circuit.fed_winding import fed_whole, halves
from greyfell.core.circuit.idle import idle_of
from greyfell.core.circuit.loss import Losses
from greyfell.core.circuit.model import model_of
from greyfell.core.evidence.kinds.no_load import NoLoad
from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.core.judgement.put_out import short_amps
from greyfell.core.uses.core_to_wind import barred, iron_of
from greyfell.records.demo import demo_documents
from tests.conftest import MAINS, PLATE, piece

DUAL = [
    {"kind": "core_proof", "ohms": 0.1},
    ("A", "B", 4.2),
    ("C", "D", 4.7),
    ("E", "F", 0.1),
    *((x, y, "open") for x, y in ("AC", "AE", "CE")),
    *((x, "core", "open") for x in "ACE"),
]
"""A ring of 80 VA for 2 × 115 V as an ohmmeter sees it."""
RING = {"shape": "toroid", "mass_kg": 1.4}


def dual(volts=230.0, hertz=50.0, readings=()):
    """The ring on a supply, with more readings."""
    plate = {"primary_volts": 115.0, "hertz": 50.0, "va": 80.0, "text": "2 x 115 V"}
    document = piece(
        "ABCDEF",
        [*DUAL, *readings],
        supply={"volts": volts, "hertz": hertz},
        nameplate=plate,
        core=RING,
    )
    return identify(parse_record(document))


def no_load(pair, volts, amps, **more):
    """A reading at no load."""
    return {"kind": "no_load", "driven": list(pair), "volts": volts, "amps": amps, **more}


def idle(ident):
    """The no-load curve at the supply."""
    return idle_of(ident.record, ident.belief)


def test_a_single_primary_is_what_the_supply_goes_on():
    ident = identify(parse_record(piece("ABCD", MAINS, nameplate=PLATE)))

    assert halves(ident.belief) is None
    assert fed_whole(ident.record, ident.belief) is ident.belief.primary


def test_halves_in_series_have_their_ohms_and_volts_together():
    """On 230 V: 4.2 and 4.7 Ω, 115 V each; a half's leads are its ends no more."""
    ident = dual()
    fed = fed_whole(ident.record, ident.belief)

    assert fed.coil.ohms.value == pytest.approx(8.9)
    assert fed.coil.ohms.low < 8.9 < fed.coil.ohms.high
    assert fed.volts.value == pytest.approx(230.0, rel=0.01)
    assert len({*fed.coil.leads} & set("AB")) == len({*fed.coil.leads} & set("CD")) == 1


def test_halves_side_by_side_have_half_the_ohms_and_their_own_volts():
    """On 120 V, by Kirchhoff: 4.2 · 4.7 / 8.9 Ω."""
    ident = dual(120.0, 60.0)
    fed = fed_whole(ident.record, ident.belief)

    assert fed.coil.ohms.value == pytest.approx(4.2 * 4.7 / 8.9)
    assert fed.volts.value == pytest.approx(120.0, rel=0.01)


@pytest.mark.parametrize(("volts", "hertz"), [(230.0, 50.0), (120.0, 60.0)])
def test_two_halves_idle_as_one_primary_does(volts, hertz):
    """Each at the volts it was made for: a few hundredths of an ampere to a few tenths, not the
    hundreds of one half on the whole line; and its iron is not barred for it.
    """
    ident = dual(volts, hertz)
    amps = [curve.amps for curve in idle(ident).curves]

    assert 0.005 < min(amps) < max(amps) < 1.0
    assert not barred(ident)


@pytest.mark.parametrize(
    ("pair", "volts", "amps", "shown"),
    [
        ("AB", 115.0, 0.2, 0.1),
        ("CD", 115.0, 0.2, 0.1),
        ("AD", 230.0, 0.1, 0.1),
    ],
)
def test_a_half_read_at_no_load_tells_of_both_in_series(pair, volts, amps, shown):
    """Half the amps at twice the volts: the ampere turns are the same. Ampère's law."""
    found = idle(dual(readings=[no_load(pair, volts, amps)]))

    assert found.basis == "no load r11"
    assert found.middle.amps == pytest.approx(shown, rel=0.01)


def test_side_by_side_a_half_shows_the_amps_of_both():
    """The same ampere turns from the same turns."""
    found = idle(dual(120.0, 60.0, [no_load("AB", 120.0, 0.2)]))

    assert found.middle.amps == pytest.approx(0.2)


@pytest.mark.parametrize(
    ("pair", "volts", "taken"),
    [("AB", 97.0, False), ("AB", 98.0, True), ("EF", 115.0, False)],
)
def test_a_half_far_below_its_volts_or_an_output_tells_nothing_of_the_idle_amps(pair, volts, taken):
    """From 0.85 of 115 V on, as of any primary; an output is neither half."""
    found = idle(dual(readings=[no_load(pair, volts, 0.2)]))

    assert (found.basis == "no load r11") == taken


def test_idle_watts_have_the_wattmeters_range_or_the_kinds():
    """Read: its phase error at so low a power factor. Not read: over and under by 1.7."""
    read = idle(dual(readings=[no_load("AD", 230.0, 0.1, watts=5.0)]))
    unread = idle(dual(readings=[no_load("AD", 230.0, 0.1)]))

    watts, low, high = (curve.watts for curve in read.curves)
    assert 0.8 * watts < low < 0.97 * watts
    assert 1.03 * watts < high < 1.2 * watts
    watts, low, high = (curve.watts for curve in unread.curves)
    assert low == pytest.approx(watts / 1.7)
    assert high == pytest.approx(min(1.7 * watts, 23.0))


def test_model_and_rewinding_stand_on_both_halves():
    """Copper of both, turns of both, and what a short of its output draws through both."""
    ident = dual()
    output = next(w for w in ident.windings if set(w.coil.leads) == {"E", "F"})
    model = model_of(ident.record, ident.belief, output)
    iron = iron_of(ident)
    figures = {f.key: f.figure.value for f in model.figures}
    ratio = output.volts.value / 230.0

    assert figures["primary_ohms"] == pytest.approx(8.9)
    assert figures["idle_amps"] < 1.0
    assert iron.resistance_ohms.value == pytest.approx(8.9)
    assert iron.primary_turns == pytest.approx(230.0 / ident.belief.volts_per_turn.value, rel=0.01)
    fed = fed_whole(ident.record, ident.belief)
    expected = output.volts.value / (0.1 + 8.9 * ratio**2)
    assert short_amps(output, fed) == pytest.approx(expected, rel=0.05)


@pytest.mark.parametrize(("watts", "named"), [(5.0, False), (60.0, True)])
def test_watts_of_both_halves_in_series_are_judged_as_of_one_primary(watts, named):
    """5 W are a ring of 1.4 kg; 60 W are shorted turns."""
    ident = dual(readings=[no_load("AD", 230.0, 2.0 * watts / 230.0, watts=watts)])
    codes = {f.code for f in ident.faults}

    assert bool(codes & {"shorted-turns", "excess-no-load-current"}) == named


def test_an_output_and_a_half_are_no_series():
    """From a half to the output nothing conducts: nothing is expected of such a pair."""
    ident = dual()
    losses = Losses(ident.record, ident.belief)
    pairs = {pair: losses.of(NoLoad.model_construct(driven=pair, volts=230.0)) for pair in PAIRS}

    assert pairs["A", "E"] is None
    assert pairs["A", "D"].flux == pytest.approx(1.0, abs=0.15)
    assert pairs["A", "B"].flux == pytest.approx(2.0, abs=0.3)


PAIRS = (("A", "E"), ("A", "D"), ("A", "B"))


def test_iron_driven_far_too_hard_takes_no_more_than_its_copper_lets_through():
    """A primary of 4.2 Ω for 120 V, on 230 V: at most 230 V over its ohms. On 120 V its iron is
    what holds the amps back.
    """
    (document,) = (d for d in demo_documents() if d["tag"] == "CQ-053")
    hard = idle(identify(parse_record(document)))
    usual = idle(identify(parse_record({**document, "supply": {"volts": 120.0, "hertz": 60.0}})))

    assert [round(curve.amps, 1) for curve in hard.curves] == [54.8, 50.2, 60.3]
    assert usual.middle.amps < 1.0
