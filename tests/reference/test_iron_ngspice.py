"""Iron that saturates, worked by ngspice: a lamp in series with it, on six pieces, and wound up in
steps, on four.

The simulator gets the same iron and the same filament law, and steps it in time by its own means;
the filament's ohms follow the mean square of the amps with the lag of a filament.
"""

import shutil

import numpy as np
import pytest

from greyfell.core.circuit.lamp import Behind, lit, through
from greyfell.core.circuit.sweep import SweepPoint, sweep_of
from greyfell.core.circuit.three_lamps import onset_of
from greyfell.core.network.curve import Curve
from tests.reference.test_ngspice import spice

pytestmark = pytest.mark.skipif(
    shutil.which("ngspice") is None, reason="ngspice is not installed: apt-get install ngspice"
)
HERTZ, SUPPLY, LAST = 50, 230.0, 0.2
OVEN = Curve(volts=230.0, hertz=50.0, amps=1.5, straight=0.3, power=9.0, watts=60.0)
VALVE = Curve(volts=230.0, hertz=50.0, amps=0.15, straight=0.4, power=11.0, watts=9.0)
CONTROL = Curve(volts=230.0, hertz=50.0, amps=0.06, straight=0.4, power=11.0, watts=4.0)
RING = Curve(volts=230.0, hertz=50.0, amps=0.02, straight=0.3, power=13.0, watts=3.0)


def simulated(folder, loop, *, shorted=None):
    """RMS of loop amps, lamp volts and the turns' volts, over the last cycles of a simulation."""
    curve = loop.curve
    flux = np.sqrt(2) * curve.volts / (2 * np.pi * HERTZ)
    rated = loop.lamp_watts / loop.lamp_volts
    core = curve.watts / curve.volts**2
    x = f"(v(f)/{flux})"
    iron = f"{curve.peak_amps}*({curve.straight}*{x}+{1 - curve.straight}*"
    iron += f"pwr(abs({x}),{curve.power})*sgn(v(f)))"
    ohms = f"({loop.lamp_volts / rated}*pwr((abs(v(q))+1e-9)/{rated**2},{0.5 * (1 / 0.55 - 1)}))"
    branch = ""
    if shorted:
        branch = f"Rs m s {shorted[0]}\nLs s 0 {shorted[1] / (2 * np.pi * HERTZ)}"
    table = spice(
        folder,
        f"""a lamp ahead of iron
V1 a 0 sin(0 {SUPPLY * np.sqrt(2)} {HERTZ} 0 0 90)
Blamp a b v=i(Vi)*{ohms}
Vi b c 0
Rw c m {max(loop.ohms, 1e-3)}
Biron m 0 i={iron}
Rcore m 0 {1 / max(core, 1e-9)}
{branch}
Bflux 0 f i=v(m)
Cflux f 0 1 ic=0
Rflux f 0 1e3
Bq 0 q i=i(Vi)*i(Vi)*10
Cq q 0 1 ic={rated**2}
Rq q 0 0.1
.options reltol=1e-4 method=gear
.control
set wr_singlescale
option numdgt=10
tran 20u 1.6 1.4 20u uic
let lamp = v(a)-v(b)
let amps = i(Vi)
linearize amps lamp v(m)
wrdata out.txt amps lamp v(m)
quit 0
.endc
.end
""",
    )
    cycles = table[table[:, 0] > table[-1, 0] - LAST + 1e-9]
    return np.sqrt(np.mean(cycles[:, 1:] ** 2, axis=0))


def behind(watts, curve, ohms):
    """A winding behind a lamp of so many watts, made for the supply."""
    return Behind(supply_volts=SUPPLY, lamp_watts=watts, lamp_volts=SUPPLY, curve=curve, ohms=ohms)


@pytest.mark.parametrize(
    ("name", "loop"),
    [
        ("sound oven primary", behind(500.0, OVEN, 1.8)),
        ("valve primary", behind(60.0, VALVE, 12.0)),
        ("24 V winding through 500 W", behind(500.0, CONTROL.seen_from(24 / 230), 0.3)),
        ("heater winding", behind(100.0, OVEN.seen_from(3.4 / 230), 0.01)),
        ("toroid", behind(40.0, RING, 4.0)),
    ],
)
def test_lamp_and_iron_in_a_simulator(tmp_path, name, loop):
    """Amps, lamp volts and the turns' volts within 5 % of ngspice's; an open winding's volts are
    the turns' times the ratio.
    """
    amps, lamp, turns = simulated(tmp_path, loop)
    found = lit([loop])[0]

    assert found.amps == pytest.approx(amps, rel=0.05), name
    assert found.lamp_volts == pytest.approx(lamp, rel=0.05), name
    assert found.turns_volts == pytest.approx(turns, rel=0.05), name


def test_lamp_and_shorted_secondary_in_a_simulator(tmp_path):
    """An oven primary with its HV winding shorted: 3 Ω and 20 Ω of leakage behind the lamp."""
    loop = behind(500.0, OVEN, 1.8)
    amps, lamp, _ = simulated(tmp_path, loop, shorted=(1.2, 20.0))
    found = through(SUPPLY, 500.0, SUPPLY, 3.0, 20.0)

    assert found.amps == pytest.approx(amps, rel=0.05)
    assert found.lamp_volts == pytest.approx(lamp, rel=0.05)


def test_a_low_winding_behind_a_large_lamp_puts_line_volts_and_more_on_the_primary():
    """The handbook of the trade: a 24 V winding through 500 W can put 540 V RMS on the primary; a
    heater through 100 W holds some hundredths of a volt. Common practice.
    """
    ring = lit([behind(500.0, RING.seen_from(24 / 230), 0.05)])[0]
    heater = lit([behind(100.0, OVEN.seen_from(3.4 / 230), 0.01)])[0]

    assert 400 < ring.turns_volts * 230 / 24 < 650
    assert 0.01 < heater.turns_volts < 0.1


SWEPT = {
    "oven": OVEN,
    "valve": VALVE,
    "control": CONTROL,
    "ring": RING,
}
OHMS = 2.0
STEPS_OF_SWEEP = range(40, 281, 20)


def wound_up(folder, curve, volts):
    """RMS amps and mean watts of iron fed through its ohms, by ngspice."""
    flux = np.sqrt(2) * curve.volts / (2 * np.pi * HERTZ)
    x = f"(v(f)/{flux})"
    iron = f"{curve.peak_amps}*({curve.straight}*{x}+{1 - curve.straight}*"
    iron += f"pwr(abs({x}),{curve.power})*sgn(v(f)))"
    table = spice(
        folder,
        f"""iron on a variac
V1 a 0 sin(0 {volts * np.sqrt(2)} {HERTZ} 0 0 90)
Vi a b 0
Rw b m {OHMS}
Biron m 0 i={iron}
Rcore m 0 {curve.volts**2 / curve.watts}
Bflux 0 f i=v(m)
Cflux f 0 1 ic=0
.options reltol=1e-5 method=gear
.control
set wr_singlescale
option numdgt=10
tran 20u 0.12 0.04 20u uic
let amps = i(Vi)
let watts = v(a)*i(Vi)
linearize amps watts
wrdata out.txt amps watts
quit 0
.endc
.end
""",
    )
    cycles = table[table[:, 0] >= table[-1, 0] - 0.06 + 1e-9]
    return float(np.sqrt(np.mean(cycles[:, 1] ** 2))), float(np.mean(cycles[:, 2]))


@pytest.mark.parametrize("name", SWEPT)
def test_a_sweep_that_a_simulator_wound_up(tmp_path, name):
    """In steps of 20 V: the onset where the curve has it, within 4 %, and the core's watts without
    the copper's within 10 %.
    """
    curve = SWEPT[name]
    points = []
    for volts in STEPS_OF_SWEEP:
        amps, watts = wound_up(tmp_path, curve, volts)
        points.append(SweepPoint(volts=float(volts), amps=amps, watts=watts))
    found = sweep_of(points, OHMS)
    core = curve.watts * (230.0 / curve.volts) ** 2

    assert found.onset.value == pytest.approx(onset_of(curve), rel=0.04)
    assert found.onset.low <= onset_of(curve) * 1.01
    assert found.core_watts_at(230.0).value == pytest.approx(core, rel=0.1)
    assert not found.odd
