"""A rig solved: by phasors while a figure is moved, in time for waves, peaks and what happens at
switching on; volts, amps and watts at every joint, and what meters show there.
"""

import math

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from greyfell.core.chain.building import Built, ChainJoint, Failure, build
from greyfell.core.chain.elements import Rig
from greyfell.core.circuit.waveform import MARKED
from greyfell.core.errors import FieldError
from greyfell.core.network import phasors, timeline
from greyfell.core.network.bending import COLD_SHARE, CoreInductor, Filament
from greyfell.core.network.netlist import netlist
from greyfell.core.network.parts import CircuitPart, Figures
from greyfell.core.network.phasors import Phasors
from greyfell.core.network.timeline import Run, rms

CYCLES, WORST_REMANENCE = 10, 0.7
"""Cycles after switching on, and what iron holds at worst of its rated flux. From memory."""


class At(Struct, frozen=True, kw_only=True):
    """What stands at a joint: RMS volts and amps, watts that pass, peak volts, mean volts, and what
    a meter that averages shows of its volts and amps.
    """

    joint: ChainJoint
    volts: float
    amps: float
    watts: float
    peak_volts: float
    mean_volts: float
    averaging_volts: float
    averaging_amps: float

    def as_json(self) -> dict[str, float | str]:
        """The public form: V, A and W."""
        return {
            "after": self.joint.after,
            "name": self.joint.name,
            "volts": self.volts,
            "amps": self.amps,
            "watts": self.watts,
            "peak_volts": self.peak_volts,
            "mean_volts": self.mean_volts,
            "averaging_volts": self.averaging_volts,
            "averaging_amps": self.averaging_amps,
        }


class Solved(Struct, frozen=True, kw_only=True):
    """A rig in its steady state: every joint from the wall on, how it was solved, flux of the core
    over its rated, and the run in time where it was solved so.
    """

    rig: Rig
    built: Built
    by: str
    joints: tuple[At, ...]
    flux_ratio: float
    leak_ratio: float
    run: Run | None = None
    by_hertz: Phasors | None = None

    def after(self, uid: str) -> At:
        """What stands behind an element."""
        return next(a for a in self.joints if a.joint.after == uid)

    @property
    def line(self) -> At:
        """At the wall."""
        return self.joints[0]

    @property
    def load(self) -> At:
        """At the load."""
        return self.joints[-1]


def _in_phasors(found: Phasors, joint: ChainJoint) -> At:
    volts = found.volts(joint.hot, joint.cold)
    amps = found.amps(joint.through)
    size = abs(volts)
    return At(
        joint=joint,
        volts=size,
        amps=abs(amps),
        watts=(volts * amps.conjugate()).real,
        peak_volts=math.sqrt(2) * size,
        mean_volts=0.0,
        averaging_volts=size,
        averaging_amps=abs(amps),
    )


def by_phasors(rig: Rig, failure: Failure | None = None) -> Solved:
    """Phasors, iron by its fundamental. Raises FieldError where a diode stands in it, or where it
    does not settle.
    """
    built = build(rig, failure)
    hertz = rig.supply.told("hertz")
    found = phasors.solved(built.parts, hertz=hertz)
    omega = 2 * math.pi * hertz

    def flux(part: CircuitPart) -> float:
        peak = math.sqrt(2) * abs(found.volts(part.one, part.two)) / omega
        return peak / part.law.flux if isinstance(part, CoreInductor) else 0.0

    return Solved(
        rig=rig,
        built=built,
        by="phasors",
        joints=tuple(_in_phasors(found, j) for j in built.joints),
        flux_ratio=flux(built.core),
        leak_ratio=flux(built.leak),
        by_hertz=found,
    )


def in_time(rig: Rig, failure: Failure | None = None, *, steps: int = timeline.STEPS) -> Solved:
    """One cycle of the steady state, in time. Raises FieldError where none is found."""
    built = build(rig, failure)
    run = timeline.steady(built.parts, hertz=rig.supply.told("hertz"), steps=steps)
    return _read(rig, built, run)


def solve(rig: Rig, failure: Failure | None = None, *, steps: int = timeline.STEPS) -> Solved:
    """By phasors where they do, else in time, in so many steps a cycle."""
    if rig.rectified is None:
        try:
            return by_phasors(rig, failure)
        except FieldError:
            return in_time(rig, failure, steps=steps)
    return in_time(rig, failure, steps=steps)


def _in_time(run: Run, joint: ChainJoint) -> At:
    volts = run.volts(joint.hot, joint.cold)
    amps = run.amps(joint.through)
    return At(
        joint=joint,
        volts=rms(volts),
        amps=rms(amps),
        watts=float(np.mean(volts * amps)),
        peak_volts=float(np.abs(volts).max()),
        mean_volts=float(volts.mean()),
        averaging_volts=MARKED * float(np.mean(np.abs(volts))),
        averaging_amps=MARKED * float(np.mean(np.abs(amps))),
    )


def _read(rig: Rig, built: Built, run: Run) -> Solved:
    def flux(part: CircuitPart) -> float:
        if not isinstance(part, CoreInductor):
            return 0.0
        return float(np.abs(run.flux(part)).max()) / part.law.flux

    return Solved(
        rig=rig,
        built=built,
        by="time",
        joints=tuple(_in_time(run, j) for j in built.joints),
        flux_ratio=flux(built.core),
        leak_ratio=flux(built.leak),
        run=run,
    )


class SwitchedOn(Struct, frozen=True, kw_only=True):
    """The first cycles after switching on: times, amps from the wall, their peak, peak volts at the
    load.
    """

    times: Figures
    amps: Figures
    load_volts: Figures

    @property
    def peak_amps(self) -> float:
        """The highest amps from the wall, A. By definition."""
        return float(np.abs(self.amps).max())

    @property
    def peak_volts(self) -> float:
        """The highest volts at the load, V. By definition."""
        return float(np.abs(self.load_volts).max())


def switched_on(
    rig: Rig,
    *,
    angle: float = 0.0,
    remanence: float = WORST_REMANENCE,
    cycles: float = CYCLES,
) -> SwitchedOn:
    """Switched on at an angle of the supply (radians; nought is the zero crossing, the worst), the
    iron holding some of its flux, lamps cold. Raises FieldError.
    """
    built = build(rig, remanence=remanence)
    parts = [replace(p, angle=angle) if p is built.source else p for p in built.parts]
    hertz = rig.supply.told("hertz")
    cold = {p.name: p.hot_ohms * COLD_SHARE for p in built.parts if isinstance(p, Filament)}
    run = timeline.switched_on(parts, cycles=cycles, hertz=hertz, ohms=cold)
    load = built.joints[-1]
    return SwitchedOn(
        times=run.times,
        amps=run.amps(built.joints[0].through),
        load_volts=run.volts(load.hot, load.cold),
    )


EXPORTED_CYCLES, SHOWN_CYCLES = 60, 2
"""So many cycles a netlist is run for, and so many at its end are printed."""


def exported(rig: Rig, *, run: bool = True) -> str:
    """The rig as a netlist, begun at the crest of the supply, where iron takes no offset; with
    `run` it carries its analysis and what to print, and a simulator runs it as it is.
    """
    built = build(rig)
    crest = replace(built.source, angle=math.pi / 2)
    parts = [crest if p is built.source else p for p in built.parts]
    return netlist(rig.title or "a rig", parts, _analysis(rig, built) if run else ())


def _analysis(rig: Rig, built: Built) -> list[str]:
    """Lines that have it run in time and print volts at every joint and the wall's amps, with
    their RMS over whole cycles.
    """
    cycle = 1 / rig.supply.told("hertz")
    end, begin = EXPORTED_CYCLES * cycle, (EXPORTED_CYCLES - SHOWN_CYCLES) * cycle
    step = cycle / timeline.STEPS
    printed = [f"v({j.hot})" if j.cold == "0" else f"v({j.hot},{j.cold})" for j in built.joints]
    weighed = [f"par('v({j.hot})-v({j.cold})')" for j in built.joints]
    wall = f"i(V{built.source.name})"
    window = f"from={begin:.9g} to={end:.9g}"
    return [
        ".options method=gear reltol=2e-4 gmin=1e-9",
        f".tran {step:.9g} {end:.9g} {begin:.9g} {step:.9g} uic",
        f".print tran {' '.join(dict.fromkeys([*printed, wall]))}",
        *(f".meas tran volts{k} rms {one} {window}" for k, one in enumerate(weighed)),
        f".meas tran amps rms {wall} {window}",
    ]
