"""Rules that a third draw of a hundred mutants found nobody to notice, worked out by hand."""

import math

import pytest
from msgspec.structs import replace

from greyfell.core.bench import limiting
from greyfell.core.chain import first_power
from greyfell.core.coil_design.conductors import Conductor, strands
from greyfell.core.coil_design.path import PathPart, _contradicts
from greyfell.core.coil_design.welding import job
from greyfell.core.coil_design.window import Window, pack
from greyfell.core.errors import FieldError
from greyfell.core.figures.quantity import Quantity, exact
from greyfell.core.planners.breaker import _in
from greyfell.core.planners.dc_supply import _behind, _stored
from greyfell.core.planners.gap import NEEDLES
from greyfell.core.planners.registry import PLANNERS
from greyfell.core.uses.all_uses import use_of
from greyfell.core.uses.core_to_wind import APART, SAME_PLACE, SHUNTED, TIGHT
from greyfell.core.uses.fit import _asked
from tests.core.test_setup import codes, sound

# ------------------------------------------------------------------ copper and windows


@pytest.mark.parametrize(("overall", "mm2"), [(4.5, 9.05), (10.5, 56.5), (0.5, 0.0), (0.4, 0.0)])
def test_a_strand_bundle_is_its_circle_less_the_tape_by_its_fill(overall, mm2):
    """REF-M-15: 0.72 of π/4·(d − 0.5)²; what is all tape has no metal."""
    assert strands(overall).mm2 == pytest.approx(mm2, rel=2e-3)


@pytest.mark.parametrize(("gap", "paper"), [(0.0, 1.0), (1.0, 0.0), (1.0, 0.4), (0.4, 1.0)])
def test_turns_stand_apart_by_paper_or_gap_whichever_is_more(gap, paper):
    """A millimetre of either leaves fewer places than neither; the less of both adds nothing."""
    window = Window(width_mm=20.0, height_mm=60.0, tongue_mm=38.0, stack_mm=66.0, paper_mm=paper)
    bare = replace(window, paper_mm=0.0)
    wire = Conductor(title="wire", made="solid", mm2=5.0, overall_mm=3.0)

    assert pack(window, wire, 1, gap).most == pack(bare, wire, 1, 1.0).most
    assert pack(window, wire, 1, gap).most < pack(bare, wire, 1, 0.0).most


def test_what_reaches_a_new_winding_is_less_the_farther_it_stands():
    """REF-T-10: beyond shunts, apart, side by side, in the same place; each holds its middle."""
    rows = (SHUNTED, APART, TIGHT, SAME_PLACE)

    assert [q.value for q in rows] == [0.962, 0.989, 0.992, 1.0]
    assert [(q.low, q.high) for q in rows] == [
        (0.937, 0.988),
        (0.983, 0.995),
        (0.985, 1.0),
        (0.997, 1.003),
    ]


# ------------------------------------------------------------------ a path's stated totals


@pytest.mark.parametrize(
    ("stated", "contradicts"), [(10.0, False), (12.0, True), (8.0, True), (10.3, False)]
)
def test_a_stated_part_is_held_against_the_part_of_its_own_title(stated, contradicts):
    """10 mΩ measured of “cable”, and 30 of another part beside it: only the first counts."""
    parts = [
        PathPart(title="cable", ohms=Quantity(10.0, 9.8, 10.2)),
        PathPart(title="joint", ohms=exact(30.0)),
    ]

    assert _contradicts(parts, exact(40.0), None, "cable", stated) is contradicts


# ------------------------------------------------------------------ welding


def test_copper_is_welded_within_a_tenth_of_a_second():
    """It carries the heat away as fast as it is made: common practice, 10 to 100 ms."""
    asked = job("copper", 0.1).seconds

    assert (asked.low, asked.high) == (0.01, 0.1)


@pytest.mark.parametrize(("mm", "fits"), [(10.0, True), (10.001, False), (0.0, False)])
def test_a_sheet_is_up_to_ten_millimetres(mm, fits):
    """Just at the bound, just above, and none at all."""
    if fits:
        assert job("steel", mm).amps.value > 0
    else:
        with pytest.raises(FieldError, match="Thickness mm"):
            job("steel", mm)


def test_one_sided_tips_meet_two_faces_and_the_sheet_between():
    """Twice the ohms of a face, and ρ·s/(t·(s + d)) across: of it 0.3 at least, all at most."""
    opposed, beside = job("nickel", 0.15), job("nickel", 0.15, "one-sided", 4.0)
    wider = job("nickel", 0.15, "one-sided", 40.0)

    assert beside.ohms.low > 2 * opposed.ohms.low
    across = (beside.ohms.low - 2 * opposed.ohms.low) / 0.3
    assert beside.ohms.high == pytest.approx(2 * opposed.ohms.high + across)
    assert wider.ohms.high > beside.ohms.high


# ------------------------------------------------------------------ planners


def test_needle_gaps_are_the_rows_of_the_handbook():
    """CRC Handbook, F. W. Peek: peak kV and mm, from memory."""
    assert dict(NEEDLES)[15.0] == 13.0
    assert [kv for kv, _ in NEEDLES] == sorted(kv for kv, _ in NEEDLES)
    slopes = [mm / kv for kv, mm in NEEDLES]
    assert slopes == sorted(slopes)


@pytest.mark.parametrize(
    ("rectifier", "stages", "factor"),
    [("bridge", None, 0.5), ("doubler", None, 0.5 + 0.125), ("multiplier", 2, 0.5 + 1 / 32 + 0.25)],
)
def test_energy_stored_counts_every_capacitor_of_the_ladder(rectifier, stages, factor):
    """½CV² of the reservoir; a doubler's stage at half the volts; a multiplier's at V/n, the first
    at half of that: in units of C·V² where all are alike. REF-R-05.
    """
    plan = PLANNERS["dc_supply"]
    told = {**plan.example, "rectifier": rectifier, "reservoir_farads": 1e-6, "stage_farads": 1e-6}
    given = plan.read(told | {"stages": stages or 1})

    assert _stored(given, 10.0, 100.0).high == pytest.approx(factor * 1e-6 * 100.0**2)
    held = 1e-6 * (1 if rectifier == "bridge" else 1 + (stages or 1))
    assert _behind(given) == pytest.approx(held)


@pytest.mark.parametrize(
    ("sense", "turns", "refused"), [("aiding", 300, False), ("bucking", 300, True)]
)
def test_bucking_turns_must_be_fewer_than_the_primary_has(sense, turns, refused):
    """230 V at 1 V a turn: 230 turns; aiding ones may be as many as they like."""
    plan = PLANNERS["primary_turns"]
    given = {**plan.example, "supply_volts": 230.0, "volts_per_turn": 1.0}
    given |= {"added_turns": turns, "sense": sense}
    if refused:
        with pytest.raises(FieldError, match="must be fewer"):
            plan(given)
    else:
        assert plan(given)["flux_ratio"]["value"] == pytest.approx(230 / 530)


def test_a_sliding_chokes_range_is_what_its_points_were_read_with():
    """46 Ω down to 11.5 Ω on 230 V: 5 to 20 A, each ± what a reading errs by; a wanted figure at
    the edge of the points takes the end of the slide into its range.
    """
    plan = PLANNERS["sliding_choke"]
    points = [
        {"millimetres": 0.0, "volts": 46.0, "amps": 1.0},
        {"millimetres": 50.0, "volts": 46.0, "amps": 4.0},
    ]
    given = {"supply_volts": 230.0, "supply_hertz": 50.0, "points": points}
    middle = plan({**given, "wanted_amps": 10.0})
    edge = plan({**given, "wanted_amps": 5.01})

    for key, value in (("least_amps", 5.0), ("most_amps", 20.0)):
        assert middle[key]["value"] == pytest.approx(value)
        assert middle[key]["low"] < value < middle[key]["high"]
        assert value - middle[key]["low"] == pytest.approx(middle[key]["high"] - value)
    assert middle["millimetres_found"]["low"] > 25.0
    assert edge["millimetres_found"]["low"] == 0.0


def test_a_breaker_that_may_never_trip_is_told_up_to_a_hundred_hours():
    """Between what it holds and what surely trips it: the latest is nowhere; the band ends."""
    assert _in(3600.0, math.inf).high == 360_000.0
    assert _in(math.inf, math.inf) is None
    assert _in(1.0, 4.0).value == pytest.approx(2.0)


def test_seconds_that_a_job_asks_for_are_told_with_its_rests():
    """A weld by its second of every so many; a heater for hours."""
    weld, heater = use_of("weld-steel"), use_of("heater")
    if weld.off_seconds:
        assert _asked(weld).startswith(f"{weld.on_seconds:.3g} s of every ")
    rested = replace(weld, on_seconds=2.0, off_seconds=8.0)

    assert _asked(rested) == "2 s of every 10 s"
    assert _asked(replace(rested, off_seconds=0.0)) == "hours"
    assert heater is None or _asked(replace(heater, off_seconds=0.0)) == "hours"


# ------------------------------------------------------------------ bench and row


@pytest.mark.parametrize(("share", "under"), [(0.851, False), (0.849, True)])
def test_a_part_may_be_rated_for_mains_of_the_same_region(share, under):
    """IEC 60038: 200 to 250 V by name, so 0.85 of the supply; just above, just below."""
    assert limiting.NAMED == 0.85
    bench = sound("CQ-014")
    volts = share * 230.0
    chain = tuple(
        replace(p, figures={**p.figures, "volts": volts}) if p.kind == "switch" else p
        for p in bench.chain
    )

    assert ("under-volts" in codes(replace(bench, chain=chain), "CQ-014")) is under


def test_the_fall_is_waited_for_by_the_slowest_charge(monkeypatch):
    """Two capacitors that empty in 10 and in 40 s, and one that nobody knows of: 1.5 times 40."""
    told = [("a", 1.0, 1.0, 10.0), ("b", 1.0, 1.0, 40.0), ("c", 1.0, 1.0, None)]
    monkeypatch.setattr(first_power, "charges", lambda _: told)

    assert first_power._fall(None, None) == (0.0, 60.0)
    monkeypatch.setattr(first_power, "charges", lambda _: told[2:])
    assert first_power._fall(None, None) is None
