"""Primaries of the forward model behind three lamps, read with a cheap meter at the winding and at
the lamp: how near the knee and the amps on the line come. Run: python scripts/lamps.py [N=300]
"""

import math

import click
import numpy as np

from greyfell.core.circuit.three_lamps import LampRead, by_lamps
from greyfell.core.figures.constants import MU0
from greyfell.core.truth.direct_current import dc_ohms
from greyfell.core.truth.readings import flux_density, no_load
from scripts.sweeps import ONSET, pieces, true_knee

SIZES = (40.0, 100.0, 500.0)
HERTZ, SUPPLY, STEPS, HALVES = 50.0, 230.0, 150, 16
NEAR_KNEE, NEAR_AMPS = 0.08, 0.15


def behind(piece, pair, watts, supply, exponent, gain):
    """Volts of winding and lamp in the steady state, stepped in time with the piece's own sheet: a
    reckoning apart from the program's.
    """
    d = piece.locate(*pair)
    turns = d[0].turns * abs(d[1] - d[2])
    face = turns * piece.iron.area_m2
    b = np.linspace(0.0, 2.6, 4000)
    amps = (piece.iron.field_strength(b) * piece.iron.path_m + b * piece.iron.gap_m / MU0) / turns
    peak = flux_density(piece, turns, supply, HERTZ)
    _, loss = no_load(piece, pair, supply, HERTZ)
    core = loss / supply**2
    rated = gain * watts / SUPPLY
    lamp, flux = 0.5 * SUPPLY / rated, -0.5 * peak
    h = 0.5 / HERTZ / STEPS
    for _ in range(HALVES):
        start, squares = flux, np.zeros(3)
        for n in range(STEPS):
            volts = supply * math.sqrt(2) * math.sin(math.pi * (n + 1) / STEPS)
            share = 1 / (1 + lamp * core)
            low, high = flux - 0.5, flux + 0.5
            for _ in range(26):
                middle = (low + high) / 2
                i = math.copysign(np.interp(abs(middle), b, amps), middle)
                high, low = (
                    (middle, low)
                    if middle - flux - h * share * (volts - lamp * i) / face > 0
                    else (high, middle)
                )
            flux = (low + high) / 2
            i = math.copysign(np.interp(abs(flux), b, amps), flux)
            e = share * (volts - lamp * i)
            whole = i + e * core
            squares += (whole**2, e**2, (lamp * whole) ** 2)
        i, e, across = np.sqrt(squares / STEPS)
        lamp = math.sqrt(lamp * SUPPLY * (i / rated) ** (1 / exponent) / i)
        flux = (start - flux) / 2
    return e, across


def read(value, rng):
    """A cheap meter: its gain to 1 % at most, and tenths of a volt."""
    return round(value * (1 + float(rng.uniform(-0.01, 0.01))), 1)


def score(count, seed):
    """Every share, by what is scored."""
    told = {}
    for piece, pair, rng in pieces(count, seed):
        exponent = float(rng.uniform(0.53, 0.57))
        seen = []
        for watts in SIZES:
            line = SUPPLY * (1 + float(rng.uniform(-0.01, 0.01)))
            gain = 1 + float(rng.uniform(-0.03, 0.03))
            volts, lamp = behind(piece, pair, watts, line, exponent, gain)
            seen.append(
                LampRead(
                    watts=watts,
                    rated_volts=SUPPLY,
                    supply_volts=read(line, rng),
                    winding_volts=read(volts, rng),
                    lamp_volts=read(lamp, rng),
                )
            )
        found = by_lamps(seen, HERTZ, dc_ohms(piece, *pair))
        amps, _ = no_load(piece, pair, SUPPLY, HERTZ)
        knee = true_knee(piece, pair, ONSET)
        kind = "lamps" if found.onset is not None else "not bent"
        told.setdefault(f"{kind}: amps within 15 %", []).append(
            abs(found.amps.value / amps - 1) <= NEAR_AMPS
        )
        told.setdefault(f"{kind}: amps inside the range", []).append(
            found.amps.low <= amps <= found.amps.high
        )
        if knee is not None and found.onset is not None:
            told.setdefault(f"{kind}: knee within 8 %", []).append(
                abs(found.onset.value / knee - 1) <= NEAR_KNEE
            )
            told.setdefault(f"{kind}: knee inside the range", []).append(
                found.onset.low <= knee <= found.onset.high
            )
    return {what: (round(100 * np.mean(so), 1), len(so)) for what, so in sorted(told.items())}


@click.command()
@click.argument("count", default=300)
@click.option("--seed", default=5)
def main(count, seed):
    """Score lamps."""
    for what, (share, n) in score(count, seed).items():
        print(f"{share:6.1f} % of {n:5}  {what}")


if __name__ == "__main__":
    main()
