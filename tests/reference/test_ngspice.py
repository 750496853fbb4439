"""A general circuit simulator as referee: the ballasted loop and a saturating core, worked by
ngspice.
"""

import shutil
import subprocess

import numpy as np
import pytest

from greyfell.core.planners.registry import PLANNERS
from greyfell.core.truth.direct_current import dc_ohms
from greyfell.core.truth.piece import Iron, Piece, Wound
from greyfell.core.truth.readings import induced_volts, no_load

pytestmark = pytest.mark.skipif(
    shutil.which("ngspice") is None, reason="ngspice is not installed: apt-get install ngspice"
)


def spice(folder, netlist, seconds=60):
    """Run a netlist in batch mode and return the table it wrote to out.txt."""
    (folder / "run.cir").write_text(netlist)
    done = subprocess.run(
        ["ngspice", "-b", "run.cir"],
        cwd=folder,
        capture_output=True,
        text=True,
        timeout=seconds,
        check=False,
    )
    assert (folder / "out.txt").exists(), done.stdout + done.stderr
    return np.loadtxt(folder / "out.txt")


def magnitude(folder, hertz, elements, seen):
    """ngspice's AC analysis of a circuit at one frequency: the magnitude of what is asked for."""
    table = spice(
        folder,
        f"""one frequency
{elements}
.control
set wr_singlescale
option numdgt=10
ac lin 1 {hertz} {hertz}
let asked = abs({seen})
wrdata out.txt asked
quit 0
.endc
.end
""",
    )
    return float(np.ravel(table)[1])


@pytest.mark.parametrize(
    ("volts", "hertz", "amps", "rs", "xs", "rb"),
    [
        (230, 50, 5.0, 2.0, 12.0, 1.5),
        (120, 60, 12.0, 0.5, 3.0, 0.2),
        (230, 50, 0.8, 30.0, 40.0, 10.0),
    ],
)
def test_the_ballasted_loop_in_a_simulator(tmp_path, volts, hertz, amps, rs, xs, rb):
    """With the planner's inductance in the loop, ngspice's AC analysis finds the wanted current."""
    plan = PLANNERS["ballast"](
        {
            "supply_volts": volts,
            "supply_hertz": hertz,
            "limit_amps": amps,
            "source_resistance_ohms": rs,
            "source_reactance_ohms": xs,
            "ballast_resistance_ohms": rb,
        }
    )
    henries = plan["inductance_henries"]["value"]
    loop = f"""V1 a 0 dc 0 ac {volts}
Rs a b {rs}
Ls b c {xs / (2 * np.pi * hertz)}
Rb c d {rb}
Lb d 0 {henries}"""

    assert magnitude(tmp_path, hertz, loop, "i(V1)") == pytest.approx(amps, rel=1e-4)


@pytest.mark.parametrize(
    ("farads", "volts", "henries", "bank", "loop"),
    [(0.47, 12.0, 1e-6, 1.5e-3, 2e-3), (0.02, 40.0, 2e-6, 1e-3, 1e-3)],
)
def test_a_banks_pulse_in_a_simulator(tmp_path, farads, volts, henries, bank, loop):
    """Peak amps and I²·t of a charged bank through its loop and the spot, damped and ringing, by
    ngspice's transient analysis.
    """
    plan = PLANNERS["pulse_weld"](
        {
            "bank_farads": farads,
            "bank_volts": volts,
            "bank_ohms": bank,
            "loop_ohms": loop,
            "loop_henries": henries,
        }
    )
    spot = farads * volts**2 / 2 / plan["heating"]["value"] - bank - loop
    last = 8 * max((bank + loop + spot) * farads, 2 * henries / (bank + loop + spot))
    table = spice(
        tmp_path,
        f"""a bank discharged
C1 a 0 {farads} ic={volts}
R1 a b {bank + loop + spot}
L1 b c {henries} ic=0
V1 c 0 0
.control
set wr_singlescale
tran {last / 2e4} {last} uic
wrdata out.txt i(V1)
quit 0
.endc
.end
""",
    )
    amps = np.abs(table[:, 1])
    heating = float(np.trapezoid(amps**2, table[:, 0]))

    assert plan["peak_amps"]["value"] == pytest.approx(float(amps.max()), rel=2e-3)
    assert plan["heating"]["value"] == pytest.approx(heating, rel=5e-3)


@pytest.mark.parametrize("tesla", [1.2, 1.5, 1.65])
def test_magnetising_current_in_a_simulator(tmp_path, tesla):
    """A core of H = 110 B + 12 B^12 driven with a sine: RMS of the current over a cycle (REF-M-11,
    REF-M-12).

    Flux linkage is the voltage of a 1 F capacitor fed with the winding's volts; ngspice's pwr()
    keeps the sign right.
    """
    turns, area, path = 240, 26e-4, 0.30
    face = turns * area
    volts = 4.4429 * 50 * face * tesla
    peak = volts * np.sqrt(2)
    table = spice(
        tmp_path,
        f"""saturating core
V1 a 0 sin(0 {peak} 50 0 0 90)
B1 0 f i=v(a)
C1 f 0 1 ic=0
R1 f 0 1e9
B2 m 0 v=(110*abs(v(f)/{face}) + 12*pwr(abs(v(f)/{face}),12))*sgn(v(f))*{path / turns}
R2 m 0 1e6
.control
set wr_singlescale
option numdgt=10
tran 10u 60m 0 10u uic
linearize v(m)
wrdata out.txt v(m)
quit 0
.endc
.end
""",
    )
    cycle = table[table[:, 0] > 0.04]
    rms = float(np.sqrt(np.mean(cycle[:, 1] ** 2)))
    iron = Iron(
        shape="shell", area_m2=area, path_m=path, gap_m=0.0, mass_kg=1e-9, loss_w_per_kg=1e-9
    )
    wound = Wound(
        name="primary",
        role="primary",
        leads=(("A", 0.0), ("B", 1.0)),
        turns=turns,
        wire_mm=1000.0,
        mean_turn_m=0.25,
    )
    made = Piece(
        family="choke",
        subtype="choke",
        iron=iron,
        windings=(wound,),
        rated_volts=230,
        rated_hertz=50,
    )

    assert no_load(made, ("A", "B"), volts, 50)[0] == pytest.approx(rms, rel=0.03)


@pytest.mark.parametrize(("volts", "hertz"), [(230.0, 50.0), (40.0, 50.0)])
def test_volts_behind_copper_and_leakage_in_a_simulator(tmp_path, volts, hertz):
    """A no-load current that lags, through the primary's copper and leakage: ngspice's AC analysis
    has the volts behind them.
    """
    wound = Wound(
        name="primary",
        role="primary",
        leads=(("A", 0.0), ("B", 1.0)),
        turns=2300,
        wire_mm=0.12,
        mean_turn_m=0.12,
    )
    second = Wound(
        name="s1",
        role="lv-secondary",
        leads=(("C", 0.0), ("D", 1.0)),
        turns=150,
        wire_mm=0.5,
        mean_turn_m=0.14,
    )
    iron = Iron(
        shape="shell", area_m2=2.6e-4, path_m=0.09, gap_m=2e-5, mass_kg=0.18, loss_w_per_kg=5.0
    )
    made = Piece(
        family="mains",
        subtype="lv",
        iron=iron,
        windings=(wound, second),
        rated_volts=230,
        rated_hertz=50,
        leakage_ohms=90.0,
    )
    amps, watts = no_load(made, ("A", "B"), volts, hertz)
    active = watts / volts
    lag = -np.degrees(np.arccos(active / amps))
    circuit = f"""V1 a 0 dc 0 ac {volts}
R1 a b {dc_ohms(made, "A", "B")}
L1 b c {90.0 / (2 * np.pi * hertz)}
I1 c 0 dc 0 ac {amps} {lag}"""
    sensed = induced_volts(made, ("A", "B"), volts, ("C", "D"), hertz)

    assert sensed * 2300 / 150 / 0.9985 == pytest.approx(
        magnitude(tmp_path, hertz, circuit, "v(c)"), rel=1e-4
    )
