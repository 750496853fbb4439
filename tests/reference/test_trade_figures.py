"""Figures that a model must hit before others rest on it. Common practice of the trade (M-T4 of
docs/references.md), no published standard: oven watts at no load and amps of its shorted HV
winding.
"""

import numpy as np
import pytest

from greyfell.core.forward.loaded import short_circuit
from greyfell.core.forward.readings import no_load
from greyfell.core.practice.designs import AMERICA, EUROPE, oven


def ends(w):
    """A winding's two ends."""
    return w.leads[0][0], w.leads[-1][0]


@pytest.mark.parametrize("region", [EUROPE, AMERICA], ids=["230 V", "120 V"])
def test_ovens_take_fifty_to_a_hundred_watts_and_pass_half_to_one_amp(region):
    """Forty sound ovens with their shunts in: the middle of them within what the trade says, and
    nine in ten within a factor of two of it.
    """
    watts, amps = [], []
    for seed in range(40):
        made = oven(np.random.default_rng(seed), region)
        fed = ends(made.winding("primary"))
        high = next(w for w in made.windings if w.role == "hv-secondary")
        watts.append(no_load(made, fed, region.volts, region.hertz)[1])
        amps.append(short_circuit(made, fed, ends(high), region.volts, region.hertz)[2])

    assert 50 <= np.median(watts) <= 100
    assert 0.5 <= np.median(amps) <= 1.0
    assert np.quantile(watts, 0.05) >= 25
    assert np.quantile(watts, 0.95) <= 200
    assert np.quantile(amps, 0.05) >= 0.25
    assert np.quantile(amps, 0.95) <= 2.0
