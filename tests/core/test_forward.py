"""The forward model and the simulated bench: conservation, known limits, and readings the record
accepts.
"""

import math

import numpy as np
import pytest
from msgspec.structs import replace

from greyfell.core.belief.observations import observations
from greyfell.core.errors import FieldError
from greyfell.core.evidence.kinds.registry import by_key
from greyfell.core.evidence.parse import parse_record
from greyfell.core.identify import identify
from greyfell.core.judgement.gates import live_gate
from greyfell.core.simulated import designs as design
from greyfell.core.simulated.meters import Kit, SimulatedBench, ohms_step, volts_step
from greyfell.core.simulated.owner import documented
from greyfell.core.truth.direct_current import dc_ohms
from greyfell.core.truth.piece import Damage, Iron, Piece, Wound
from greyfell.core.truth.readings import _shorted_loading as shorted_loading
from greyfell.core.truth.readings import induced_volts, inductance, no_load, open_circuit_volts
from greyfell.core.wiring.topology import find_windings
from tests.conftest import every, piece

IRON = Iron(shape="shell", area_m2=24e-4, path_m=0.24, gap_m=5e-5, mass_kg=4.6)
PRIMARY = Wound(
    name="primary",
    role="primary",
    leads=(("A", 0.0), ("B", 1.0)),
    turns=240,
    wire_mm=1.1,
    mean_turn_m=0.26,
)
HV = Wound(
    name="hv",
    role="hv-secondary",
    leads=(("core", 0.0), ("E", 1.0)),
    turns=2250,
    wire_mm=0.35,
    mean_turn_m=0.28,
    shunted=True,
)
OVEN = Piece(
    family="microwave",
    subtype="oven",
    iron=IRON,
    windings=(PRIMARY, HV),
    rated_volts=230,
    rated_hertz=50,
    coupling=0.96,
)


def with_damage(**what):
    """The oven with one fault."""
    return replace(OVEN, damage=(Damage(**what),))


def test_ohms_follow_from_wire():
    """R = ρ·l/A with 1/58 Ω·mm²/m (REF-W-02; IEC 60028)."""
    assert PRIMARY.ohms == pytest.approx(240 * 0.26 / 58 / (math.pi / 4 * 1.1**2), rel=1e-9)
    assert dc_ohms(OVEN, "A", "B") == pytest.approx(PRIMARY.ohms)
    assert dc_ohms(OVEN, "A", "B", celsius=120.0) == pytest.approx(PRIMARY.ohms * 1.393)


@pytest.mark.parametrize(
    ("damage", "pair", "ohms"),
    [
        ({"kind": "open", "winding": "primary"}, ("A", "B"), math.inf),
        ({"kind": "leak", "winding": "primary", "place": 0.0, "ohms": 3e5}, ("A", "core"), 3e5),
        ({"kind": "to-core", "winding": "primary", "place": 1.0, "ohms": 1.5}, ("B", "core"), 1.5),
        (
            {
                "kind": "between",
                "winding": "primary",
                "other": "hv",
                "place": 0.0,
                "other_place": 0.0,
                "ohms": 2.0,
            },
            ("A", "core"),
            2.0,
        ),
    ],
)
def test_faults_show_in_the_direct_current_network(damage, pair, ohms):
    """Nodal analysis of every segment, bond and fault."""
    assert dc_ohms(with_damage(**damage), *pair) == pytest.approx(ohms, rel=1e-3)


def test_separate_windings_read_open():
    """Nothing conducts between them."""
    assert math.isinf(dc_ohms(OVEN, "A", "E"))
    assert math.isinf(dc_ohms(OVEN, "A", "core"))


def test_turns_and_coupling_make_the_output():
    """At rated flux the output is k·n·V, less the primary's own drop."""
    out = open_circuit_volts(OVEN, ("A", "B"), 230.0, ("E", "core"))

    assert out == pytest.approx(230 * 2250 / 240 * 0.96, rel=0.02)


@pytest.mark.parametrize(("turns", "spread"), [(3.0, 0.0), (240.0, 0.1)])
def test_turns_are_counted_as_they_can_be(turns, spread):
    """A heater's three turns exactly; two hundred to some per cent; and only on a winding."""
    wound = Wound(
        name="primary",
        role="primary",
        leads=(("A", 0.0), ("B", 1.0)),
        turns=turns,
        wire_mm=1.1,
        mean_turn_m=0.26,
    )
    bench = SimulatedBench(replace(OVEN, windings=(wound, HV)), Kit(), np.random.default_rng(2))
    counts = {bench.turns("A", "B")["turns"] for _ in range(20)}

    assert every(abs(c / turns - 1) <= spread for c in counts)
    assert (len(counts) == 1) is (spread == 0.0)
    with pytest.raises(FieldError, match="winding"):
        bench.turns("A", "E")


def test_little_is_lost_before_the_flux_at_few_volts():
    """The no-load current lags: copper takes little of the volts, leakage its share; by phasors, at
    12 V and at rated volts.
    """
    rng = np.random.default_rng(4)
    for _ in range(20):
        made = design.low_voltage(rng, design.EUROPE)
        w = made.winding("primary")
        fed, out = (w.leads[0][0], w.leads[-1][0]), made.windings[1]
        ends = (out.leads[0][0], out.leads[-1][0])
        k = [induced_volts(made, fed, v, ends, 50) / v * w.turns / out.turns for v in (12.0, 230.0)]

        assert 0.9 < k[0] < 1
        assert k[0] == pytest.approx(k[1], rel=0.012)


def test_reverse_drive_reads_high_and_more_so_at_low_flux():
    """n/k against k·n: the reverse reading over the forward one is 1/k² or more (domain rule)."""
    forward = induced_volts(OVEN, ("A", "B"), 10.0, ("E", "core"), 50) / 10.0
    reverse = 100.0 / induced_volts(OVEN, ("E", "core"), 100.0, ("A", "B"), 50)

    assert 1.0 < reverse / forward < 1.3


@pytest.mark.parametrize("volts", [60.0, 115.0, 180.0])
def test_no_load_current_grows_faster_than_volts(volts):
    """The knee: current runs away as the iron saturates; watts go about as the square."""
    one, two = (no_load(OVEN, ("A", "B"), v, 50) for v in (volts, 1.2 * volts))

    assert two[0] / one[0] > 1.0
    assert 1.3 < two[1] / one[1] < 3.5
    assert no_load(OVEN, ("A", "B"), 260.0, 50)[0] > 2 * no_load(OVEN, ("A", "B"), 215.0, 50)[0]


def test_shorted_turns_cost_watts_inductance_and_q():
    """One shorted HV turn costs tens of watts and pulls inductance down (domain section 5)."""
    short = with_damage(kind="shorted-turns", winding="hv", place=0.3, turns=10)

    assert no_load(short, ("A", "B"), 230, 50)[1] > no_load(OVEN, ("A", "B"), 230, 50)[1] + 10
    sound, hurt = inductance(OVEN, ("A", "B"), 100), inductance(short, ("A", "B"), 100)
    assert hurt[0] < sound[0]
    assert hurt[1] < sound[1]


def test_a_meter_sees_unequal_flux():
    """√(L1/L2) at 100 Hz falls short of the turns ratio, by some 5 to 40 % (domain section 4)."""
    heater = Wound(
        name="heater",
        role="filament",
        leads=(("C", 0.0), ("D", 1.0)),
        turns=4,
        wire_mm=2.2,
        mean_turn_m=0.3,
    )
    piece = replace(OVEN, windings=(*OVEN.windings, heater))

    ratio = math.sqrt(inductance(piece, ("A", "B"), 100)[0] / inductance(piece, ("C", "D"), 100)[0])

    assert 0.55 * 60 < ratio < 60


def test_permeability_rises_and_falls():
    """Initial, maximum, saturated."""
    assert IRON.permeability(0.001) < IRON.permeability(0.7) > IRON.permeability(1.8)


def test_points_not_on_a_winding_are_refused():
    """A pair spans a winding or it is no pair."""
    for call in (no_load, inductance):
        with pytest.raises(FieldError):
            call(OVEN, ("A", "E"), 100.0, *([50.0] if call is no_load else []))
    with pytest.raises(FieldError):
        OVEN.winding("tertiary")
    with pytest.raises(FieldError):
        Iron(shape="shell", area_m2=-1, path_m=1, gap_m=0, mass_kg=1)


@pytest.mark.parametrize("name", sorted(set(design.MAKERS) - set(design.OWN_MAINS)))
@pytest.mark.parametrize("region", [design.EUROPE, design.AMERICA], ids=["230", "120"])
def test_designed_pieces_are_plausible_and_identified(name, region):
    """Every maker, both regions: measured on the bench, the record is valid and its family
    found.
    """
    rng = np.random.default_rng(len(name) * 7 + int(region.volts))
    made = design.MAKERS[name](rng, region)
    bench = SimulatedBench(made, Kit(), rng)
    leads = sorted({lead for w in made.windings for lead, _ in w.leads if lead != "core"})
    bench.core_proof()
    for i, x in enumerate(leads):
        for y in [*leads[i + 1 :], "core"]:
            bench.ohms(x, y)
    primary = made.winding("primary")
    bench.inductance(primary.leads[0][0], primary.leads[-1][0], 100.0)
    shape = {"shape": made.iron.shape, "mass_kg": round(made.iron.mass_kg, 1)}
    record = parse_record(
        piece(leads, bench.taken, supply={"volts": region.volts, "hertz": region.hertz}, core=shape)
    )

    ident = identify(record)

    assert ident.family == made.family
    assert not ident.stopped


@pytest.mark.parametrize("kind", ["open", "to-core", "leak", "between"])
def test_damage_shows_on_the_ohmmeter(kind):
    """A damaged piece is stopped from its ohms alone."""
    rng = np.random.default_rng(5)
    made = design.damaged(design.oven(rng), rng, kind)
    bench = SimulatedBench(made, Kit(), rng)
    leads = sorted({lead for w in made.windings for lead, _ in w.leads if lead != "core"})
    for i, x in enumerate(leads):
        for y in [*leads[i + 1 :], "core"]:
            bench.ohms(x, y)

    assert identify(
        parse_record(piece(leads, bench.taken, supply={"volts": 230, "hertz": 50}))
    ).stopped


@pytest.mark.parametrize(
    ("value", "step"), [(1.3, 0.1), (150.0, 0.1), (1500.0, 1.0), (15e3, 10.0), (3e5, 1000.0)]
)
def test_a_display_has_steps(value, step):
    """3½ digits."""
    assert ohms_step(value, 0.1) == pytest.approx(step)
    assert volts_step(230.0) == 0.1


def test_lamp_and_insulation_read_as_they_should():
    """An oven primary runs a small lamp dark or dim; a short lights it; sound insulation reads
    open.
    """
    rng = np.random.default_rng(3)
    sound = SimulatedBench(OVEN, Kit(), rng)
    few = replace(PRIMARY, turns=20)
    lit = SimulatedBench(replace(OVEN, windings=(few, HV)), Kit(), rng)

    assert sound.lamp("A", "B", 230, 200, 50)["glow"] in ("dark", "dim")
    assert lit.lamp("A", "B", 230, 100, 50)["glow"] == "bright"
    assert sound.insulation("A", "core", 500)["ohms"] == "open"


def test_every_kind_of_reading_can_be_taken_on_the_bench():
    """What each reading kind of the format would show: all of them, and the record accepts them."""
    rng = np.random.default_rng(6)
    made = design.mains(
        rng, design.EUROPE, 100.0, [design.DesignedOutput("lv-secondary", 24.0, 1.25)]
    )
    bench = SimulatedBench(made, Kit(), rng)
    fed, out = ("A", "B"), ("C", "D")
    bench.core_proof()
    bench.ohms("A", "B")
    bench.dc_drop("C", "D", 1.0)
    bench.insulation("A", "core", 500)
    bench.inductance("A", "B", 100)
    bench.lamp("A", "B", 230, 60, 50)
    bench.ratio(fed, 12.0, out, 50)
    bench.polarity(fed, 12.0, out, 50, alike=True)
    bench.no_load(fed, 230, 50)
    bench.short_circuit(fed, out, 15.0, 50)
    bench.load(fed, 230.0, out, 10.0, 50)
    bench.test_turn(fed, 12.0, 5, 50)
    bench.earth_voltage("C", fed, 230.0, 1e7, 50)
    bench.leakage_current("C", fed, 230.0, 50)
    bench.turns("C", "D")
    bench.soak(fed, 230.0, 50, 20.0)
    bench.direct(fed, 230.0, out, "bridge", 50)
    bench.loop(fed, 230.0, out, 20.0, 50)
    bench.path("lug", 1e-3, 1.2)
    record = parse_record(piece("ABCD", bench.taken, supply={"volts": 230, "hertz": 50}))

    assert {r.kind for r in record.readings} == set(by_key())
    ident = identify(record)
    assert ident.belief.polarity[0].sense == "adding"
    assert not ident.stopped


def test_a_capacitor_left_on_shows_its_bleeder_and_hides_the_iron():
    """10 MΩ from the HV lead to the core is the capacitor, and the meter sees farads, not henries.
    Common practice.
    """
    made = design.oven(np.random.default_rng(3), bonded=False)
    whole = design.with_capacitor(made, np.random.default_rng(4))
    lead = next(x for x, _ in made.winding("hv").leads)

    assert dc_ohms(made, lead, "core") == math.inf
    assert 9e6 < dc_ohms(whole, lead, "core") < 12.1e6
    bonded = design.with_capacitor(design.oven(np.random.default_rng(3)), np.random.default_rng(4))
    henries, _ = inductance(bonded, (bonded.winding("hv").leads[1][0], "core"), 1000.0)
    assert henries < 0, "beyond resonance the meter shows its capacitance"


def test_a_filter_left_on_shows_on_a_broken_primary_and_takes_amps():
    """Its bleeder is all that conducts behind a blown link; its capacitor takes the amps back that
    magnetise the iron.
    """
    made = design.low_voltage(np.random.default_rng(8))
    fed = (made.winding("primary").leads[0][0], made.winding("primary").leads[-1][0])
    left = design.with_filter(made, np.random.default_rng(1))
    broken = design.damaged(left, np.random.default_rng(1), "link")

    assert dc_ohms(design.damaged(made, np.random.default_rng(1), "link"), *fed) == math.inf
    assert 1e5 <= dc_ohms(broken, *fed) <= 1e6
    assert no_load(left, fed, 230.0, 50.0)[0] != no_load(made, fed, 230.0, 50.0)[0]
    assert no_load(left, fed, 230.0, 50.0)[1] == pytest.approx(
        no_load(made, fed, 230.0, 50.0)[1], rel=0.05
    )


def test_a_half_open_winding_reads_on_one_side_of_its_tap():
    """A broken half: one end of the tapped winding conducts to its tap, the other to nothing."""
    made = next(
        m
        for m in (design.valve(np.random.default_rng(s)) for s in range(40))
        if len(m.winding("s1").leads) == 3
    )
    broken = design.damaged(made, np.random.default_rng(0), "half-open")
    first, tap, last = (x for x, _ in made.winding("s1").leads)

    assert dc_ohms(broken, first, tap) == math.inf
    assert dc_ohms(broken, tap, last) == pytest.approx(dc_ohms(made, tap, last))
    without = replace(made, windings=tuple(w for w in made.windings if len(w.leads) == 2))
    assert design.damaged(without, np.random.default_rng(0), "half-open").damage[0].kind == "open"


def test_two_lamps_in_a_row_stand_for_one_of_half_the_watts():
    """Ohms of filaments in a row add: two of 60 W are noted, and glow, as one of 30 W."""
    one, two = (
        SimulatedBench(OVEN, Kit(), np.random.default_rng(1)).lamp("A", "B", 230.0, watts, 50.0)
        for watts in (30.0, (60.0, 60.0))
    )

    assert two == one
    assert two["lamp_watts"] == 30.0


@pytest.mark.parametrize("name", design.OWN_MAINS)
def test_parts_of_other_mains_are_let_through_on_their_own(name):
    """208 to 480 V control parts and 24 V parts with plate and everything read: nine of ten gates
    open on the mains that the plate names, and what they put out is inside its range.
    """
    opened, inside = [], []
    for seed in range(20):
        told = documented(np.random.default_rng(seed), name)
        ident = identify(parse_record(told.document))
        out = next(w for w in told.piece.windings if w.name != "primary")
        ends = {out.leads[0][0], out.leads[-1][0]}
        volts = next(w.volts for w in ident.windings if set(w.coil.leads) == ends)
        opened.append(live_gate(ident).open)
        inside.append(volts.low * 0.99 <= told.volts(out) <= volts.high * 1.01)

    assert sum(opened) >= 18
    assert sum(inside) >= 18


@pytest.mark.parametrize("wound", [PRIMARY, HV], ids=["primary", "hv"])
def test_shorted_turns_pull_a_ratio_by_the_leakage_to_them(wound):
    """Ten turns shorted of the HV winding: their loop seen by the driven winding against its
    leakage, both by the square of turns; worked by hand.
    """
    fault = Damage(kind="shorted-turns", winding="hv", place=0.3, turns=10)
    hurt = replace(OVEN, leakage_ohms=30.0, damage=(fault,))
    loop = HV.ohms * 10 / HV.turns * (wound.turns / 10) ** 2
    leak = 30.0 * (wound.turns / PRIMARY.turns) ** 2
    apart = 0.12 * (wound.ohms + leak) + 0.3 * wound.ohms

    found = shorted_loading(hurt, wound, wound.turns, 50)
    assert found == pytest.approx(loop / (loop + apart))
    assert shorted_loading(OVEN, wound, wound.turns, 50) == 1.0


def test_direct_volts_and_a_loop_tell_what_the_bench_showed():
    """Twenty pieces: volts by a bridge within 5 %, turns by two clamps within 25 % in nine of
    ten.
    """
    rng = np.random.default_rng(31)
    near = {"direct": 0, "loop": 0}
    for _ in range(20):
        made = design.mains(
            rng, design.EUROPE, 100.0, [design.DesignedOutput("lv-secondary", 24.0, 3.0)]
        )
        bench = SimulatedBench(made, Kit(), rng)
        bench.ohms("A", "B")
        bench.ohms("C", "D")
        bench.direct(("A", "B"), 230.0, ("C", "D"), "bridge", 50)
        bench.loop(("A", "B"), 230.0, ("C", "D"), 8.0, 50)
        record = parse_record(piece("ABCD", bench.taken, supply={"volts": 230, "hertz": 50}))
        rows = {r.readings[0]: r for r in observations(record, find_windings(record))}
        real = open_circuit_volts(made, ("A", "B"), 230.0, ("C", "D"))
        for r in record.readings:
            if r.kind in near:
                told = 230.0 * math.exp(rows[r.id].value)
                near[r.kind] += abs(told / real - 1) < (0.05 if r.kind == "direct" else 0.25)

    assert near["direct"] >= 18
    assert near["loop"] >= 18
