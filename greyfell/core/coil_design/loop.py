"""The loop of a few turns and a job: amps, watts in the job, primary amps, for every number
of turns.
"""

import math

from msgspec import Struct

LOOP_REACTANCE = 0.00025
"""Ω of a loop of some 0.5 by 0.2 m at 50 Hz. Common practice."""


class LoopSource(Struct, frozen=True, kw_only=True):
    """A core as a source for new turns: volts per turn, its own resistance and leakage reactance on
    the primary's side, turns of the primary, magnetising amps, hertz.
    """

    volts_per_turn: float
    resistance_ohms: float
    reactance_ohms: float
    primary_turns: float
    magnetising_amps: float
    hertz: float = 50.0


class WeldLoop(Struct, frozen=True, kw_only=True):
    """What stands around the source: ohms of one turn of the new winding, of cables and joints, the
    loop's reactance, all in Ω.
    """

    turn_ohms: float
    ohms: float
    reactance_ohms: float


class Shot(Struct, frozen=True, kw_only=True):
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


def shot(source: LoopSource, loop: WeldLoop, job_ohms: float, turns: int) -> Shot:
    """I = N·v/√((R2 + R_ext + R1/n²)² + (X1/n² + X_ext)²), n = N1/N; the primary carries I/n and,
    90° behind its volts, the magnetising amps. REF-T-16, REF-T-07. V, A, Ω, W.

    >>> s = LoopSource(volts_per_turn=0.95, resistance_ohms=0, reactance_ohms=0, primary_turns=240,
    ...            magnetising_amps=0)
    >>> round(shot(s, WeldLoop(turn_ohms=0, ohms=1.3e-3, reactance_ohms=2.2e-3), 0.0, 3).amps)
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
