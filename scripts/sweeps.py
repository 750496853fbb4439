"""Sweeps of pieces of the forward model, wound up in steps of 20 V with a cheap meter: how near the
knees and the watts of the core come, and how often their ranges hold the truth. Run: python
scripts/sweeps.py [N=2000] [--seed S]
"""

import math

import click
import numpy as np
from msgspec.structs import replace

from greyfell.core.circuit.sweep import ONSET, STEEP, STEP, SweepPoint, sweep_of
from greyfell.core.figures.constants import MU0
from greyfell.core.simulated import designs
from greyfell.core.simulated.meters import Kit, SimulatedBench
from greyfell.core.truth.direct_current import dc_ohms
from greyfell.core.truth.readings import flux_density, no_load

MAKERS = (designs.oven, designs.sign, designs.low_voltage, designs.valve, designs.isolating)
STEPS = np.arange(20.0, 261.0, 20.0)
HERTZ = 50.0
AT = 230.0
NEAR, NEAR_WATTS = 0.04, 0.10
LEAST_FACTOR = 0.25
SLACK = 0.97
"""What a meter's own limit leaves of a bound that it was read by."""


def true_knee(piece, pair, ratio):
    """Where a tenth more volts gives so many times the amps; None below a third over the sweep."""
    at = np.linspace(25.0, 320.0, 300)
    amps = np.array([no_load(piece, pair, v, HERTZ)[0] for v in at])
    more = np.array([no_load(piece, pair, STEP * v, HERTZ)[0] for v in at])
    rises = more / amps
    passed = np.nonzero((rises[:-1] < ratio) & (rises[1:] >= ratio))[0]
    if len(passed) == 0:
        return None
    k = passed[-1]
    return float(np.interp(ratio, rises[k : k + 2], at[k : k + 2]))


def mean_share(piece, pair, volts):
    """The rectified mean times 1.11 over the RMS, of the magnetising amps on these volts."""
    d = piece.locate(*pair)
    turns = d[0].turns * abs(d[1] - d[2])
    b = flux_density(piece, turns, volts, HERTZ) * np.sin((np.arange(64) + 0.5) * math.pi / 128)
    at = piece.iron.field_strength(b) * piece.iron.path_m + b * piece.iron.gap_m / MU0
    return float(1.1107 * np.mean(at) / np.sqrt(np.mean(at**2)))


def watts_of(r, phase):
    """Watts as a wattmeter shows them that errs so far in phase."""
    factor = min(1.0, r["watts"] / (r["volts"] * r["amps"]))
    return r["volts"] * r["amps"] * math.cos(math.acos(factor) + phase)


def averaged(piece, pair, point):
    """Amps as a meter shows them that reads the mean and is marked in RMS of a sine: a current of
    narrow peaks is told too low.
    """
    return point.amps * mean_share(piece, pair, point.volts)


def swept(piece, pair, rng, spoilt=None, *, averaging=False):
    """The sweep as a bench reads it; one of its points struck or ten times off."""
    bench = SimulatedBench(piece, Kit(), rng)
    phase = math.radians(float(rng.uniform(-1, 1)))
    read = [bench.no_load(pair, float(v), HERTZ) for v in STEPS]
    points = [
        SweepPoint(volts=r["volts"], amps=r["amps"], watts=watts_of(r, phase), reading=str(n))
        for n, r in enumerate(read)
    ]
    if averaging:
        points = [replace(p, amps=averaged(piece, pair, p)) for p in points]
    n = int(rng.integers(1, len(points) - 1))
    if spoilt == "struck":
        points.pop(n)
    if spoilt == "ten times":
        p = points[n]
        points[n] = SweepPoint(volts=p.volts, amps=10 * p.amps, watts=p.watts, reading=p.reading)
    return sweep_of(points, dc_ohms(piece, *pair), averaging=averaging), str(n)


def pieces(count, seed):
    """Sound pieces with one primary, and its ends."""
    rng = np.random.default_rng(seed)
    for n in range(count):
        piece = MAKERS[n % len(MAKERS)](rng)
        primary = next((w for w in piece.windings if w.role == "primary"), None)
        if primary is not None:
            yield piece, (primary.leads[0][0], primary.leads[-1][0]), rng


def score(count, seed):
    """Every share, by what is scored."""
    told = {}

    def tell(what, so):
        told.setdefault(what, []).append(bool(so))

    for piece, pair, rng in pieces(count, seed):
        found, _ = swept(piece, pair, rng)
        knees = {"onset": true_knee(piece, pair, ONSET), "steep": true_knee(piece, pair, STEEP)}
        for name, knee in (("onset", found.onset), ("steep", found.steep)):
            true = knees[name]
            if knee is None:
                tell(
                    f"{name}: it lies above what is said", true is None or true > 0.97 * found.above
                )
            elif true is not None:
                tell(f"{name}: within 4 %", abs(knee.value / true - 1) <= NEAR)
                tell(f"{name}: inside its range", knee.low <= true <= knee.high)
        amps, watts = no_load(piece, pair, AT, HERTZ)
        core = watts - amps**2 * dc_ohms(piece, *pair)
        said = found.core_watts_at(AT)
        if said is not None:
            tell("core watts: inside the range", said.low <= core <= said.high)
            if watts / (AT * amps) >= LEAST_FACTOR:
                tell("core watts: within 10 %", abs(said.value / core - 1) <= NEAR_WATTS)
        low, _ = swept(piece, pair, rng, averaging=True)
        for name, knee in (("onset", low.onset), ("steep", low.steep)):
            true = knees[name]
            if knee is not None and true is not None:
                tell(f"{name}, averaging: within 4 %", abs(knee.value / true - 1) <= NEAR)
        for spoilt in ("struck", "ten times"):
            other, n = swept(piece, pair, rng, spoilt)
            if found.onset is not None and other.onset is not None:
                near = abs(other.onset.value / found.onset.value - 1) <= NEAR
                named = n in {p.reading for p in other.odd}
                tell(f"one point {spoilt}: the same knee, or named", near or named)
    return {what: (round(100 * np.mean(so), 1), len(so)) for what, so in sorted(told.items())}


@click.command()
@click.argument("count", default=2000)
@click.option("--seed", default=31)
def main(count, seed):
    """Score sweeps."""
    for what, (share, n) in score(count, seed).items():
        print(f"{share:6.1f} % of {n:5}  {what}")


if __name__ == "__main__":
    main()
