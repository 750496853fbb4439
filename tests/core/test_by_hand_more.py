"""More figures and rules that only a seal knew: published rows, and sums of one's own."""

import math

import pytest
from msgspec.structs import replace

from greyfell.core.bench.demand import Bench
from greyfell.core.bench.kept_setup import needs_of
from greyfell.core.bench.limiting import SECTION_AMPS, _thin_lead
from greyfell.core.bench.open_windings import ratios_read
from greyfell.core.chain.building import build
from greyfell.core.chain.first_power import STEPS, asked_of
from greyfell.core.chain.refusing import asked_of as asked_of_list
from greyfell.core.chain.sight import _henries, charges
from greyfell.core.chain.solving import solve
from greyfell.core.coil_design.conductors import Conductor
from greyfell.core.coil_design.path import PathPart, path, typical
from greyfell.core.coil_design.removal import METHODS, recommend
from greyfell.core.coil_design.thickest import enough
from greyfell.core.coil_design.welding import job
from greyfell.core.coil_design.window import Window, pack
from greyfell.core.dangers.contacts import after_failures
from greyfell.core.dangers.listing import dangers
from greyfell.core.dangers.looked import Looked
from greyfell.core.dangers.own import hazards
from greyfell.core.dangers.scene import Scene
from greyfell.core.errors import FieldError
from greyfell.core.evidence.parse import parse_record
from greyfell.core.evidence.record import Statement
from greyfell.core.figures.quantity import exact
from greyfell.core.identify import identify
from greyfell.core.isolation.body import body_ohms
from greyfell.core.isolation.body_current import Outlet, _through
from greyfell.core.isolation.states import _why
from greyfell.core.judgement.earthing import bond_meant, bond_wanted
from greyfell.core.network.bending import Diode
from greyfell.core.network.parts import Resistor, Source
from greyfell.core.planners.kept_plan import changed
from greyfell.core.planners.registry import PLANNERS
from tests.conftest import MAINS, piece
from tests.core.scenes import base
from tests.core.test_rig import BALLAST, BRIDGE, rig
from tests.core.test_setup import element, needs, sound

# ------------------------------------------------------------------ published rows


@pytest.mark.parametrize(
    ("volts", "ohms"),
    [
        (25.0, (1750.0, 3250.0, 6100.0)),
        (50.0, (1375.0, 2500.0, 4600.0)),
        (100.0, (990.0, 1725.0, 3125.0)),
        (200.0, (800.0, 1275.0, 2050.0)),
        (225.0, (775.0, 1225.0, 1900.0)),
        (500.0, (625.0, 850.0, 1150.0)),
        (1000.0, (575.0, 775.0, 1050.0)),
    ],
)
def test_ohms_of_a_body_are_the_rows_of_the_standard(volts, ohms):
    """IEC 60479-1 table 1, dry, large contacts; all but the last row from memory."""
    assert body_ohms(volts) == ohms


@pytest.mark.parametrize(
    ("mm2", "amps"),
    [(0.5, 3.0), (0.75, 6.0), (1.0, 10.0), (1.5, 16.0), (2.5, 25.0), (4.0, 32.0)],
)
def test_a_cord_bears_the_amps_of_its_row(mm2, amps):
    """IEC 60335-1 table 11."""
    assert dict(SECTION_AMPS)[mm2] == amps


@pytest.mark.parametrize(
    ("title", "least", "most"),
    [
        ("bolted lug, clean", 10e-6, 50e-6),
        ("crimp of 35 mm²", 20e-6, 80e-6),
        ("soldered or brazed lug", 5e-6, 30e-6),
        ("electrode clamp or jaws", 50e-6, 300e-6),
        ("electrode of copper, 10 mm, 100 mm long", 20e-6, 30e-6),
        ("crocodile clip", 5e-3, 30e-3),
    ],
)
def test_a_joint_that_nobody_measured_has_its_usual_ohms(title, least, most):
    """Common practice; the middle is the geometric one."""
    found = next(p for p in typical() if p.title == title).ohms

    assert (found.low, found.high) == (least, most)
    assert found.value == pytest.approx(math.sqrt(least * most))


# ------------------------------------------------------------------ a window and what is in it

SMALL = Window(width_mm=12.0, height_mm=21.0, tongue_mm=40.0, stack_mm=50.0, former_mm=1.0)


def cable(mm, **more):
    """A cable of so many millimetres over its insulation."""
    return Conductor(title="c", made="cable", mm2=10.0, overall_mm=mm, **more)


def test_what_does_not_go_in_stands_beside_in_columns_as_high_as_the_window():
    """Two rows of 10 mm in 21: the third lies in the second column."""
    packed = pack(SMALL, cable(10.0), 4)

    assert len(packed.circles) == 1
    assert packed.outside == ((17.0, 5.0), (17.0, 15.0), (27.0, 5.0))


def test_the_build_is_the_farthest_circle_s_edge():
    """Ten free millimetres, cables of 4.5: two columns, nine millimetres."""
    packed = pack(SMALL, cable(4.5), 8, pattern="square")

    assert packed.layers == 2
    assert packed.build_mm == pytest.approx(9.0)


def test_a_sheet_that_does_not_go_in_lies_beside_turn_upon_turn():
    """Half a millimetre a turn: the first outside stands a quarter beyond the window."""
    sheet = Conductor(title="s", made="sheet", mm2=9.0, overall_mm=0.5, thick_mm=0.4)
    turns = pack(SMALL, sheet, 1).most + 2

    outside = [x for x, _ in pack(SMALL, sheet, turns).outside]
    assert outside == pytest.approx([12.25, 12.75])


@pytest.mark.parametrize("made", ["cable", "litz", "strip"])
def test_the_thinnest_that_does_is_of_a_kind_that_is_allowed(made):
    """Of any kind where none is named; of none other where one is."""
    window = Window(width_mm=30.0, height_mm=60.0, tongue_mm=40.0, stack_mm=50.0)
    free = enough(window, 4, 2.0)
    kinds = {c.made for c in (enough(window, 4, 2.0, (made,)),) if c is not None}

    assert free is not None
    assert free.mm2 * free.metal.derating >= 2.0
    assert kinds <= {made}


@pytest.mark.parametrize(
    ("thickness", "times"), [(0.075, 1.0), (0.15, 1.0), (0.3, 2.0), (0.6, 4.0), (0.9, 4.0)]
)
def test_thicker_sheet_bears_a_longer_pulse_up_to_four_times(thickness, times):
    """By its thickness over that of a tab, 0.15 mm; a thinner one bears no shorter. Common
    practice.
    """
    usual = job("nickel", 0.15).seconds

    assert job("nickel", thickness).seconds.high == pytest.approx(times * usual.high)
    assert job("nickel", thickness).seconds.low == pytest.approx(usual.low)


def test_a_pulse_that_no_foot_gives_is_told_in_milliseconds():
    """Thousandths of its seconds."""
    found = job("nickel", 0.15)
    low, high = 1e3 * found.seconds.low, 1e3 * found.seconds.high

    assert f"this wants {low:.0f} to {high:.0f} ms" in found.timer


# ------------------------------------------------------------------ a bench


def test_of_several_fuses_the_smallest_ends_a_short():
    """Ten and six amperes in the line, nothing that limits: six pass."""
    setup = replace(
        sound("CQ-021"),
        chain=(
            element("f1", "fuse", "line", amps=10.0),
            element("f2", "fuse", "line", amps=6.0),
        ),
    )

    assert Bench(setup, (), needs("CQ-021")).loop_amps == 6.0


@pytest.mark.parametrize("name", ["bell", "oven"])
def test_a_bond_is_wanted_where_the_core_must_be_earthed(name):
    """A bell part's core need not be; an oven's returns through it."""
    ident = identify(parse_record(base(name)))
    wanted, meant = bond_wanted(ident.belief), bond_meant(ident.record, ident.belief)

    assert needs_of(ident).bond is (wanted or meant)
    assert wanted is (name == "oven")


def test_the_ends_of_a_winding_on_the_iron_are_those_that_are_not_the_iron():
    """An HV winding that returns through the core has one bare end."""
    ident = identify(parse_record(base("oven")))
    on_core = [w for w in ident.windings if w.coil.bond is not None]
    ends = {o.name: o.ends for o in needs_of(ident).windings}

    assert on_core
    for w in on_core:
        assert set(ends[w.name]) == set(w.coil.members) - {"core", *ident.topology.core_leads}


def test_of_two_ratios_the_one_that_allows_more_volts_counts():
    """Whatever their order: 0.1 and 0.2 of the driven."""
    fields = {"kind": "ratio", "driven": ["A", "B"], "driven_volts": 100.0, "sensed": ["C", "D"]}
    for one, two in ((10.0, 20.0), (20.0, 10.0)):
        both = [{**fields, "sensed_volts": one}, {**fields, "sensed_volts": two}]
        record = parse_record(piece("ABCD", [*MAINS, *both]))
        found = ratios_read(record)[frozenset("AB"), frozenset("CD")]

        assert 0.2 < found < 0.22


# ------------------------------------------------------------------ a row


def test_a_ballast_is_a_coil_by_its_short_circuit_less_its_ohms():
    """230 V over 5 A are 46 Ω; 2 Ω of it copper: √(46² − 2²)/(2π·50 Hz)."""
    row = rig(ahead=[BALLAST])

    assert _henries(row.ahead[0]) == pytest.approx(
        math.sqrt(46.0**2 - 2.0**2) / (2 * math.pi * 50.0)
    )
    beyond = rig(ahead=[{**BALLAST, "ohms": 50.0}])
    assert _henries(beyond.ahead[0]) == 0.0


def test_stray_loss_stands_beside_a_coil_at_five_hundred_times_its_reactance():
    """A choke of 0.1 H at 50 Hz: 500 · 2π · 50 · 0.1 Ω. House figure of the model."""
    row = rig(behind=[{"kind": "choke", "henries": 0.1, "ohms": 1.0}], load={"kind": "short"})
    stray = [p for p in build(row).parts if p.name.startswith("S")]

    by_hand = 500.0 * 2 * math.pi * 50.0 * 0.1
    assert max(p.ohms for p in stray if isinstance(p, Resistor)) == pytest.approx(by_hand)


@pytest.mark.parametrize("load", [{"kind": "open"}, {"kind": "resistor", "ohms": 3000.0}])
def test_a_rectifier_is_built_whatever_stands_behind_it(load):
    """Nothing, or ohms: diodes of some ohms, for one ampere where nobody says."""
    diodes = [p for p in build(rig(behind=[BRIDGE], load=load)).parts if isinstance(p, Diode)]

    assert len(diodes) == 4
    assert {d.law.ohms > 0 for d in diodes} == {True}


def test_the_list_of_what_is_never_planned_asks_for_peaks():
    """Of sine volts √2 times their RMS; direct volts of a bridge as many."""
    plain, direct = asked_of_list(rig()), asked_of_list(rig(behind=[BRIDGE]))

    assert plain.open_peak == pytest.approx(math.sqrt(2) * plain.open_rms)
    assert plain.open_dc == 0.0
    assert direct.open_dc == pytest.approx(plain.open_peak)


def test_a_cascade_is_asked_for_its_stages():
    """Two peaks a stage, one stage where nobody says how many. REF-R-04."""
    one = {"kind": "rectifier", "rectifier": "multiplier", "diode_volts": 8.0}
    told = [asked_of_list(rig(behind=[{**one, **more}])).open_dc for more in ({}, {"stages": 3})]

    assert told[1] == pytest.approx(3 * told[0])
    assert told[0] == pytest.approx(2 * asked_of_list(rig()).open_peak)


def test_flux_on_rated_volts_is_that_of_the_iron():
    """By phasors: a piece on its own volts, little ahead of it, stands at its rated flux."""
    solved = solve(rig())

    assert solved.flux_ratio == pytest.approx(1.0, abs=0.05)


@pytest.mark.parametrize(("ratio", "walked"), [(0.02, False), (9.0, True)])
def test_a_direct_side_is_walked_where_it_can_kill(ratio, walked):
    """Five volts need no walk, two kilovolts do."""
    row = rig(piece={**rig().piece.figures, "ratio": ratio}, behind=[BRIDGE])

    assert asked_of(solve(row)) is walked


@pytest.mark.parametrize(("ratio", "lethal"), [(0.19, False), (0.21, True)])
def test_a_joint_kills_from_fifty_volts_a_tenth_high(ratio, lethal):
    """45.5 V behind the piece are 50 on a high line: 0.198 of 230 V. IEC 61140, IEC 60038."""
    row = solve(rig(piece={**rig().piece.figures, "ratio": ratio}))
    told = [d.headline + d.sentence for d in dangers(Scene(row=row)) if d.code.endswith("lethal")]
    behind = f"{1.1 * row.load.volts:.1f}"

    assert (1.1 * row.load.volts > 50.0) is lethal
    assert any(behind in words for words in told) is lethal


# ------------------------------------------------------------------ a body between two points


def test_amps_through_a_body_follow_the_ohms_at_its_volts():
    """A stiff source of 230 V: Ohm's law at IEC 60479-1's ohms for 230 V."""
    parts = [
        Source(name="V", one="a", volts=230.0, hertz=50.0),
        Resistor(name="R", one="a", two="b", ohms=1e-3),
    ]
    amps = _through(
        parts, Outlet(volts=230.0, hertz=50.0, case="core", farads=0.0), ("b", "0"), 1000.0, None
    )

    assert amps == pytest.approx(230.0 / body_ohms(230.0)[0], rel=2e-3)


def test_a_barrier_that_breaks_is_told_of_what_floats_only():
    """An output that is bonded to the iron has no barrier to the mains of its own."""
    bonded = parse_record(base("oven"))
    told = {c.after for c in after_failures(identify(bonded)) if c.after}
    names = {w.name for w in identify(bonded).windings if w.coil.bond is not None}

    assert names
    assert not [t for t in told for name in names if t.endswith(f"mains and {name} breaks")]
    floating = identify(parse_record(base("bell")))
    assert any("barrier between the mains and" in c.after for c in after_failures(floating))


# ------------------------------------------------------------------ what was said, and plans


@pytest.mark.parametrize(("volts", "unmetered"), [(2.0, False), (None, True)])
def test_a_capacitor_emptied_without_a_reading_is_unmetered(volts, unmetered):
    """Emptied and read at two volts is metered; emptied and not read is not."""
    said = {
        "id": "s1",
        "kind": "salvage-done",
        "concerns": "capacitor",
        "text": "capacitor discharged through 2.2 kΩ",
        "at": "2026-05-02T10:00:00+01:00",
    }
    told = {**base("bare-oven"), "statements": [{k: v for k, v in said.items() if v is not None}]}
    if volts is not None:
        told["statements"][0]["volts"] = volts
    ident = identify(parse_record(told))

    assert isinstance(ident.record.statements[0], Statement)
    assert Looked(ident=ident).unmetered is unmetered


def test_a_lamp_is_planned_by_amps_or_by_points_and_by_nothing_else():
    """Neither: a sentence that names the field. Either: a glow."""
    planner = PLANNERS["lamp"]
    plain = {k: v for k, v in planner.example.items() if k not in ("magnetising_amps", "points")}

    with pytest.raises(FieldError, match="what the winding draws"):
        planner(plain)
    assert planner({**plain, "magnetising_amps": 0.1})["glow"]


@pytest.mark.parametrize(("before", "told"), [({}, False), ({"amps": 2.0}, True)])
def test_a_kept_plan_says_what_moved_where_it_kept_what_it_began_with(before, told):
    """Of a plan that kept nothing, nothing is known to have moved."""
    document = {"planner": "rig", "core_version": None, "starts": before}
    found = changed(document, None, {"amps": 3.0})

    assert any(c.key == "amps" for c in found) is told


def test_the_part_to_read_again_is_the_largest_within_one_that_is_less():
    """Two lugs of 30 and 10 µΩ cannot lie within a cable of 20."""
    outer = PathPart(title="cable", ohms=exact(20e-6))
    lugs = [PathPart(title=t, ohms=exact(o), within="cable") for t, o in (("a", 1e-5), ("b", 3e-5))]
    told = path([outer, *lugs], exact(100.0), None)

    assert not told.consistent
    assert told.repeat == "b"
    assert path([outer, lugs[0]], exact(100.0), None).consistent


@pytest.mark.parametrize(("ohms", "way"), [(5.0, 5.0), (0.0, 1e-3)])
def test_a_coil_s_own_ohms_stand_before_it(ohms, way):
    """As they are; a milliohm where it has none, so that nothing is short of nothing."""
    choke = {"kind": "choke", "henries": 0.1, "ohms": ohms}
    row = rig(behind=[choke], load={"kind": "short"})
    own = [p for p in build(row).of[row.behind[0].id] if p.name.startswith("R")]

    assert [p.ohms for p in own if isinstance(p, Resistor)] == [way]


@pytest.mark.parametrize(
    ("work", "told"),
    [
        (("primary-turns-added",), True),
        (("primary-turns-added", "core-rejoined"), True),
        (("core-rejoined",), False),
        ((), False),
    ],
)
def test_added_turns_are_told_whatever_else_was_done(work, told):
    """Mains wiring stays mains wiring after the core is welded again."""
    changes = [{"what": w, "at": f"2026-05-0{n + 1}T10:00:00+01:00"} for n, w in enumerate(work)]
    document = piece("ABCD", MAINS, changes=changes, supply={"volts": 230, "hertz": 50})
    codes = {d.code for d in dangers(Scene(ident=identify(parse_record(document))))}

    assert ("added-turns" in codes) is told


@pytest.mark.parametrize(("case", "cautioned"), [("earth", False), ("neutral", True)])
def test_an_outlet_that_does_not_isolate_is_cautioned(case, cautioned):
    """The pin on the floating output's own earth isolates; on the neutral it does not."""
    planner = PLANNERS["touch_map"]
    given = {"output_volts": 230.0, "case": case}
    told = {c["code"] for c in planner(given)["warnings"]}

    assert planner(given)["isolates"] is not cautioned
    assert ("not-isolating" in told) is cautioned


def test_only_where_nothing_is_known_it_is_said_that_nothing_is_known():
    """A piece with a danger of its own says that; one without says that it is unknown."""
    nothing = identify(parse_record(piece("AB", [], supply={"volts": 230, "hertz": 50})))
    oven = identify(parse_record(base("oven")))

    assert "unknown" in {d.code for d in hazards(nothing)}
    assert "unknown" not in {d.code for d in hazards(oven)}
    assert len(hazards(oven)) > 1


def test_a_reservoir_read_dry_stands_below_half_of_what_it_will():
    """First power's step without its electrolytic: half the foretold volts at the most."""
    row = rig(behind=[BRIDGE], load={"kind": "resistor", "ohms": 3000.0})
    solved = solve(row)
    dry = next(step for step in STEPS if step.key == "dry")
    foretold = abs(solved.after(row.rectified.id).mean_volts)

    assert dry.bounds(row, solved) == (0.0, pytest.approx(foretold / 2))


@pytest.mark.parametrize(
    ("ratio", "slip"),
    [
        (0.049, "nought"),
        (0.051, "none of the usual"),
        (0.399, "none of the usual"),
        (0.401, "half"),
        (0.599, "half"),
        (0.601, "none of the usual"),
        (1.799, "none of the usual"),
        (1.801, "twice"),
        (2.199, "twice"),
        (2.201, "none of the usual"),
    ],
)
def test_a_wrong_figure_is_named_by_its_ratio(ratio, slip):
    """Nought, a half and twice, each just within and just beyond. House rule."""
    assert _why(ratio).startswith(slip)


def test_joules_of_a_pulse_are_those_of_its_ends():
    """I²·R·t: least of all three; the most amps and the longest pulse into the fewest ohms."""
    found = job("steel", 0.8)
    low = found.amps.low**2 * found.ohms.low * found.seconds.low
    high = found.amps.high**2 * found.ohms.low * found.seconds.high

    assert (found.joules.low, found.joules.high) == pytest.approx((low, high))


def test_a_way_that_opens_the_core_is_left_for_one_that_does_not():
    """Of welded iron, every tool at hand: splitting opens it, sawing risks more."""
    every_tool = sorted({tool for method in METHODS for tool in method.tools})
    told = recommend("welded", every_tool)
    why = {method.key: said.partition(":")[0] for method, said in told.others}

    assert not told.method.opens_core
    assert why["split"] == "opens the core"
    assert why["cut"] == why["press"] == "more risk to the primary"


def test_of_two_guards_the_smaller_decides_what_a_lead_must_bear():
    """A cord of 0.75 mm² bears 6 A: enough behind 3 and 10, too thin behind 10 alone."""
    lead = element("cord", "lead", "both", mm2=0.75)
    ten, three = (element(f"f{a:g}", "fuse", "line", amps=a) for a in (10.0, 3.0))
    for guards, thin in (((ten, three), False), ((ten,), True)):
        setup = replace(sound("CQ-021"), chain=(*guards, lead))
        found = list(_thin_lead(Bench(setup, (), needs("CQ-021"))))

        assert bool(found) is thin


@pytest.mark.parametrize("ohms", [(1e5,), (1e5, 1e5)])
def test_bleeders_side_by_side_empty_it_the_sooner(ohms):
    """τ·ln(V/50 V) through 1/Σ(1/R); IEC 61140's fifty volts."""
    bleeders = [{"kind": "bleeder", "ohms": r} for r in ohms]
    reservoir = {"kind": "reservoir", "farads": 1e-6}
    row = rig(behind=[BRIDGE, reservoir, *bleeders])
    (_, volts, _, seconds), *_ = charges(solve(row))
    whole = 1 / sum(1 / r for r in ohms)

    assert seconds == pytest.approx(whole * 1e-6 * math.log(volts / 50.0))
