"""Networks: laws, phasors and time against closed formulas; what has no solution is refused."""

import cmath
import math

import numpy as np
import pytest

from greyfell.core.circuit.lamp import Behind, lit
from greyfell.core.errors import FieldError
from greyfell.core.network import stepping, timeline
from greyfell.core.network.bending import Arc, CoreInductor, Diode, Filament
from greyfell.core.network.curve import Curve
from greyfell.core.network.laws import ArcLaw, DiodeLaw, ShuntLaw, core_law
from greyfell.core.network.parts import Capacitor, Ideal, Inductor, Resistor, Sink, Source
from greyfell.core.network.phasors import solved
from greyfell.core.network.timeline import rms, steady, switched_on

V = Source(name="V", one="a", volts=230.0, hertz=50.0)
OVEN = Curve(volts=230.0, hertz=50.0, amps=1.5, straight=0.3, power=9.0, watts=60.0)


def test_straight_pieces_follow_their_curve():
    """Within a two-hundredth of the amps, or of the peak near nought; odd; then air."""
    law = core_law(OVEN)
    for x in np.linspace(-2.5, 2.5, 301):
        near = law.pieces.value(float(x) * law.flux)
        assert near == pytest.approx(law.amps(float(x)), rel=5e-3, abs=2e-3 * law.peak_amps)
    assert law.pieces.slope[-1] == pytest.approx(1 / law.air_henries)


def test_the_describing_function_of_a_straight_coil_is_its_reactance():
    """A shunt below its bend."""
    law = ShuntLaw(flux=5.0, henries=0.5, saturated=0.1)
    coil = CoreInductor(name="L", one="a", law=law)
    amps = abs(solved([V, coil], hertz=50.0).amps(coil))

    assert amps == pytest.approx(230 / (2 * math.pi * 50 * 0.5), rel=1e-3)


def test_a_series_loop_by_phasors_and_in_time():
    """R, L and C: the closed formula, both ways. REF-B-02."""
    parts = [
        V,
        Resistor(name="R", one="a", two="b", ohms=20.0),
        Inductor(name="L", one="b", two="c", henries=0.2),
        Capacitor(name="C", one="c", farads=2e-5),
    ]
    w = 2 * math.pi * 50
    amps = 230 / abs(20 + 1j * w * 0.2 + 1 / (1j * w * 2e-5))

    assert abs(solved(parts, hertz=50.0).amps(parts[1])) == pytest.approx(amps)
    assert rms(steady(parts, hertz=50.0).amps(parts[1])) == pytest.approx(amps, rel=2e-3)


def test_an_ideal_transformer_keeps_its_volts_and_amps():
    """Ratio 10: a tenth of the volts, ten times the amps, no watts lost."""
    turns = Ideal(name="T", one="a", three="s", two="0", four="0", ratio=10.0)
    load = Resistor(name="R", one="s", ohms=2.3)
    run = steady([V, turns, load], hertz=50.0)

    assert rms(run.over(load)) == pytest.approx(23.0, rel=1e-6)
    assert rms(run.amps(turns)) == pytest.approx(1.0, rel=1e-6)


def test_a_coil_switched_on_at_the_crossing_goes_to_twice_its_peak():
    """No resistance to speak of: κ = 2; at the crest, 1. IEC 60909."""
    coil = Inductor(name="L", one="b", henries=0.5)
    r = Resistor(name="R", one="a", two="b", ohms=0.01)
    peak = math.sqrt(2) * 230 / (2 * math.pi * 50 * 0.5)
    crest = Source(name="V", one="a", volts=230.0, hertz=50.0, angle=math.pi / 2)
    worst = np.abs(switched_on([V, r, coil], cycles=1, hertz=50.0).amps(coil)).max()
    gentle = np.abs(switched_on([crest, r, coil], cycles=1, hertz=50.0).amps(coil)).max()

    assert worst / peak == pytest.approx(2.0, rel=2e-3)
    assert gentle / peak == pytest.approx(1.0, rel=5e-3)


def test_a_charged_capacitor_empties_by_its_time_constant():
    """1 µF over 1 MΩ: e^(−t/RC). REF-R-06."""
    c = Capacitor(name="C", one="a", farads=1e-7, volts=400.0)
    r = Resistor(name="R", one="a", ohms=1e6)
    run = switched_on([c, r], cycles=10, hertz=50.0)

    assert run.volts("a")[-1] == pytest.approx(400 * math.exp(-0.2 / 0.1), rel=1e-3)


def test_a_half_wave_without_a_capacitor_has_its_mean():
    """0.4502 of the RMS. REF-R-01."""
    d = Diode(name="D", one="a", two="b", law=DiodeLaw(volts=0.0, ohms=1e-3))
    r = Resistor(name="R", one="b", ohms=100.0)

    assert steady([V, d, r], hertz=50.0).volts("b").mean() == pytest.approx(103.5, rel=1e-3)


def test_a_sink_takes_its_amps_whatever_stands_over_it():
    """Behind a source of direct volts."""
    battery = Source(name="B", one="a", volts=0.0, hertz=50.0, offset=12.0)
    r = Resistor(name="R", one="a", two="b", ohms=2.0)
    run = steady([battery, r, Sink(name="I", one="b", amps=1.5)], hertz=50.0)

    assert run.volts("b").mean() == pytest.approx(9.0)


@pytest.mark.parametrize("stride", [1, 3, 50])
def test_a_stride_of_any_length_comes_to_the_same(monkeypatch, stride):
    """A diode, a coil and iron that saturates: where parts leave their pieces a stride is cut."""
    parts = [
        V,
        Resistor(name="R", one="a", two="b", ohms=2.0),
        CoreInductor(name="T", one="b", law=core_law(OVEN, 0.05)),
        Diode(name="D", one="b", two="c", law=DiodeLaw(volts=0.7, ohms=0.01)),
        Capacitor(name="C", one="c", farads=1e-4),
        Resistor(name="L", one="c", ohms=900.0),
    ]
    usual = switched_on(parts, cycles=2.52, hertz=50.0)
    monkeypatch.setattr(stepping, "STRIDE", stride)
    monkeypatch.setattr(timeline, "STRIDE", stride)
    other = switched_on(parts, cycles=2.52, hertz=50.0)

    assert len(other.times) == 1008
    assert np.allclose(other.unknowns, usual.unknowns, rtol=1e-9, atol=1e-9)
    assert np.allclose(other.held, usual.held, rtol=1e-9, atol=1e-9)


def test_an_arc_holds_its_volts():
    """Either sign: RMS of a square wave in time, its fundamental as phasor."""
    r = Resistor(name="R", one="a", two="b", ohms=50.0)
    arc = Arc(name="X", one="b", law=ArcLaw(volts=100.0, ohms=0.1))
    in_time = rms(steady([V, r, arc], hertz=50.0).over(arc))
    by_phasor = abs(solved([V, r, arc], hertz=50.0).volts("b"))

    assert 80 < in_time <= 101
    assert by_phasor == pytest.approx(90.0, rel=0.02)


def test_a_lamp_ahead_of_iron_is_as_the_lamp_s_own_solver_has_it():
    """Two ways of the same loop: half a cycle by Newton, and the network."""
    lamp = Filament(name="L", one="a", two="b", watts=200.0, volts=230.0)
    iron = CoreInductor(name="M", one="b", law=core_law(OVEN))
    core = Resistor(name="R", one="b", ohms=230**2 / 60)
    run = steady([V, lamp, iron, core], hertz=50.0)
    other = lit([Behind(supply_volts=230.0, lamp_watts=200.0, lamp_volts=230.0, curve=OVEN)])[0]

    assert rms(run.amps(lamp)) == pytest.approx(other.amps, rel=5e-3)
    assert rms(run.volts("b")) == pytest.approx(other.turns_volts, rel=5e-3)


def test_rms_adds_up_around_a_loop_of_phasors():
    """Kirchhoff: the drops are the supply, as phasors."""
    r = Resistor(name="R", one="a", two="b", ohms=30.0)
    coil = Inductor(name="L", one="b", henries=0.1)
    found = solved([V, r, coil], hertz=50.0)
    drops = found.volts("a", "b") + found.volts("b")

    assert cmath.isclose(drops, found.volts("a"))


@pytest.mark.parametrize(
    "parts",
    [
        [V, Source(name="W", one="a", volts=100.0, hertz=50.0)],
        [V, Ideal(name="T", one="a", three="a", two="0", four="0", ratio=2.0)],
    ],
)
def test_a_network_without_a_solution_is_refused(parts):
    """Two sources side by side; a transformer upon itself."""
    for solve in (lambda: solved(parts, hertz=50.0), lambda: steady(parts, hertz=50.0)):
        with pytest.raises(FieldError, match="no solution") as told:
            solve()
        assert told.value.field == "parts"


def test_a_rectifier_has_no_phasors():
    """Said, not guessed."""
    d = Diode(name="D", one="a", law=DiodeLaw(volts=0.7, ohms=0.01))
    with pytest.raises(FieldError, match="no phasors"):
        solved([V, d], hertz=50.0)
