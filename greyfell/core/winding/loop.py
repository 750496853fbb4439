"""The loop of a few turns and a job: amps, watts in the job, primary amps; what a cable's loop adds
of reactance; every number of turns side by side.
"""

import math
from dataclasses import dataclass

from greyfell.core.figures.constants import MU0

LOOP_REACTANCE = 0.00025
"""Ω of a loop of some 0.5 by 0.2 m at 50 Hz. Common practice."""


@dataclass(frozen=True, kw_only=True)
class Source:
    """A core as a source for new turns: volts per turn, its own resistance and leakage reactance on
    the primary's side, turns of the primary, magnetising amps, hertz.
    """

    volts_per_turn: float
    resistance_ohms: float
    reactance_ohms: float
    primary_turns: float
    magnetising_amps: float
    hertz: float = 50.0


@dataclass(frozen=True, kw_only=True)
class Loop:
    """What stands around the source: ohms of one turn of the new winding, of cables and joints, the
    loop's reactance, all in Ω.
    """

    turn_ohms: float
    ohms: float
    reactance_ohms: float


@dataclass(frozen=True, kw_only=True)
class Shot:
    """One number of turns into a job: open volts, amps shorted and in the job, its volts and watts,
    primary amps, the job that would take most.
    """

    turns: int
    open_volts: float
    short_amps: float
    amps: float
    job_volts: float
    job_watts: float
    match_ohms: float
    primary_amps: float


def shot(source: Source, loop: Loop, job_ohms: float, turns: int) -> Shot:
    """I = N·v/√((R2 + R_ext + R1/n²)² + (X1/n² + X_ext)²), n = N1/N; the primary carries I/n and,
    90° behind its volts, the magnetising amps. REF-T-16, REF-T-07. V, A, Ω, W.

    >>> s = Source(volts_per_turn=0.95, resistance_ohms=0, reactance_ohms=0, primary_turns=240,
    ...            magnetising_amps=0)
    >>> round(shot(s, Loop(turn_ohms=0, ohms=1.3e-3, reactance_ohms=2.2e-3), 0.0, 3).amps)
    1115
    """
    share = turns / source.primary_turns
    volts = turns * source.volts_per_turn
    r = source.resistance_ohms * share**2 + turns * loop.turn_ohms + loop.ohms
    x = source.reactance_ohms * share**2 + loop.reactance_ohms
    whole = math.hypot(r + job_ohms, x)
    amps = volts / whole
    angle = math.atan2(x, r + job_ohms)
    real = amps * share * math.cos(angle)
    lag = amps * share * math.sin(angle) + source.magnetising_amps
    return Shot(
        turns=turns,
        open_volts=volts,
        short_amps=volts / math.hypot(r, x),
        amps=amps,
        job_volts=amps * job_ohms,
        job_watts=amps**2 * job_ohms,
        match_ohms=math.hypot(r, x),
        primary_amps=math.hypot(real, lag),
    )


def loop_reactance(long_mm: float, wide_mm: float, conductor_mm: float, hertz: float) -> float:
    """Reactance of a rectangle of round conductor: ω·L, L = μ0/π·(l·ln(2·l·w/(r·(l + d))) + … ).
    Ω; mm, Hz. Grover, Inductance Calculations, from memory; common practice says 0.25 mΩ of this
    loop of 70 mm².

    >>> round(1e3 * loop_reactance(500, 200, 9.4, 50), 2)
    0.32
    """
    a, b, r = long_mm * 1e-3, wide_mm * 1e-3, conductor_mm * 0.5e-3
    d = math.hypot(a, b)
    henries = (MU0 / math.pi) * (
        a * math.log(2 * a * b / (r * (a + d)))
        + b * math.log(2 * a * b / (r * (b + d)))
        + 2 * d
        - 1.75 * (a + b)
    )
    return 2 * math.pi * hertz * henries
