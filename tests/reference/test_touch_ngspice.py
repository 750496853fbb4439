"""The touch map worked by ngspice's AC analysis from the same parts: ten states, every pair within
half a per cent.
"""

import itertools
import shutil

import pytest

from greyfell.core.isolation.body_current import Outlet, parts_of, points_of
from greyfell.core.network.parts import Capacitor, Resistor, Source
from greyfell.core.network.phasors import solved
from tests.reference.test_ngspice import magnitude

pytestmark = pytest.mark.skipif(
    shutil.which("ngspice") is None, reason="ngspice is not installed: apt-get install ngspice"
)
STATES = [
    {"case": "earth"},
    {"case": "float"},
    {"case": "neutral"},
    {"case": "earth", "fault": "line"},
    {"case": "earth", "fault": "neutral"},
    {"case": "float", "fault": "line"},
    {"case": "float", "fault": "neutral"},
    {"case": "neutral", "fault": "neutral"},
    {"case": "earth", "clip": "L"},
    {"case": "float", "clip": "N"},
]


def lines(parts):
    """The parts as lines of a circuit for one frequency."""
    out = []
    for p in parts:
        if isinstance(p, Source):
            out.append(f"V{p.name} {p.one} {p.two} DC 0 AC {p.volts}")
        elif isinstance(p, Resistor):
            out.append(f"R{p.name} {p.one} {p.two} {p.ohms}")
        elif isinstance(p, Capacitor):
            out.append(f"C{p.name} {p.one} {p.two} {p.farads}")
    return "\n".join(out)


@pytest.mark.parametrize("state", STATES, ids=lambda s: " ".join(s.values()))
def test_volts_and_body_amps_agree(state, tmp_path):
    """Every pair open, and with a body of 1 kΩ across it."""
    outlet = Outlet(volts=230.0, hertz=50.0, farads=1e-8, **state)
    parts = parts_of(outlet)
    found = solved(parts, hertz=50.0)
    for n, (one, two) in enumerate(itertools.combinations(points_of(outlet), 2)):
        folder = tmp_path / str(n)
        folder.mkdir()
        body = Resistor(name="BODY", one=one, two=two, ohms=1000.0)
        seen = f"v({one})" if two == "0" else f"v({two})" if one == "0" else f"v({one})-v({two})"
        across = abs(solved([*parts, body], hertz=50.0).volts(one, two))

        assert magnitude(folder, 50, lines(parts), seen) == pytest.approx(
            abs(found.volts(one, two)), rel=5e-3, abs=1e-3
        )
        assert magnitude(folder, 50, lines([*parts, body]), seen) == pytest.approx(
            across, rel=5e-3, abs=1e-3
        )
