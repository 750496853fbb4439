"""A rectified supply from a winding: volts, ripple, what each part must bear, and how it is made to
let go of its charge.
"""

import math
from dataclasses import dataclass

import numpy as np

from greyfell.core.errors import FieldError
from greyfell.core.figures.limits import HV_WINDING_VOLTS
from greyfell.core.figures.quantity import Quantity, exact
from greyfell.core.figures.touch import stores_hazard
from greyfell.core.network.bending import Diode
from greyfell.core.network.parts import (
    EARTH,
    Capacitor,
    CircuitPart,
    Inductor,
    Resistor,
    Sink,
    Source,
)
from greyfell.core.network.rectifiers import (
    INVERSE,
    KINDS,
    PULSES,
    Rectified,
    diode_law,
    open_volts,
    rectifier,
)
from greyfell.core.network.timeline import Run, rms, steady
from greyfell.core.never import SAID, Asked
from greyfell.core.planner_kit.asking import Input, asked, at_ends
from greyfell.core.planner_kit.declare import Caution, Check, Formula, Planner
from greyfell.core.planner_kit.showing import Result, merged, shown
from greyfell.core.planners import starts

STRING = 2.0
"""A diode string bears so many times the inverse volts. Common practice."""
DERATED = 0.5
"""A bleeder's resistors take so much of their watts. REF-R-07."""
LEAST_OHMS = 1e-3
"""No winding has less: the solver needs a way for the capacitor's charge."""
SOLVED = 0.03
"""What loaded volts may err by for parts that are not quite what they say, ±. From memory."""
STEPS = 200
NO_BLEEDER = 1e8
"""Ohms said where none is needed."""
RIPPLE_FREE = 0.10
"""Ripple up to which direct volts count as free of it, RMS. IEC 61140."""


@dataclass(frozen=True, kw_only=True)
class Given(Input):
    """The winding, the rectifier, filter and load; what diodes and resistors bear; how its charge
    must fall.
    """

    winding_volts: Quantity = asked(
        "Winding (each half for a centre tap)", "V", above=0, at_most=1e5
    )
    load_amps: float = asked(
        "Load, direct", "A", at_least=0, at_most=1e4, slide=(0, 5), chosen=True
    )
    supply_hertz: float = asked(
        "Frequency", "Hz", default=50.0, at_least=1, at_most=1000, start=starts.supply_hertz
    )
    rectifier: str = asked("Rectifier", default="bridge", choices=KINDS)
    reservoir_farads: float = asked("Reservoir", "F", above=0, at_most=10)
    source_resistance_ohms: float = asked(
        "Winding's resistance, all in", "Ω", default=0.0, at_least=0, at_most=1e7
    )
    source_reactance_ohms: float = asked(
        "Winding's reactance, all in", "Ω", default=0.0, at_least=0, at_most=1e7
    )
    core_bonded: bool = asked("One end is bonded to the core", default=False)
    stages: int = asked("Stages of a multiplier", aside=True, default=1, at_least=1, at_most=6)
    stage_farads: float | None = asked(
        "Capacitors of a stage", "F", aside=True, default=None, above=0, at_most=10
    )
    filter: str = asked("Filter begins with", default="capacitor", choices=("capacitor", "choke"))
    choke_henries: float | None = asked("Choke", "H", default=None, above=0, at_most=1e4)
    diode_volts: float = asked(
        "Drop of a diode", "V", aside=True, default=0.9, at_least=0, at_most=100
    )
    diode_inverse_volts: float | None = asked(
        "A diode bears in reverse", "V", aside=True, default=None, above=0, at_most=1e6
    )
    resistor_volts: float | None = asked(
        "A bleeder's resistor bears", "V", aside=True, default=None, above=0, at_most=1e6
    )
    resistor_watts: float | None = asked(
        "and is rated", "W", aside=True, default=None, above=0, at_most=1e4
    )
    mains_tolerance: float = asked(
        "The line may be up by", aside=True, default=0.1, at_least=0, at_most=0.3
    )
    safe_volts: float = asked("Safe is below", "V", aside=True, default=50.0, above=0, at_most=120)
    safe_seconds: float = asked("within", "s", aside=True, default=60.0, above=0, at_most=3600)
    enclosed: bool = asked(SAID["enclosed"], default=False)
    proved: bool = asked(SAID["proved"], default=False)


@dataclass(frozen=True, kw_only=True)
class Found(Result):
    """Volts open and loaded, ripple, what parts bear, the bleeder."""

    loaded_volts: Quantity = shown("Loaded", "V", lead=True)
    open_volts: Quantity = shown("Open", "V", lead=True)
    ripple_volts: Quantity = shown("Ripple, peak to peak", "V")
    peak_inverse_volts: Quantity = shown("A diode place sees in reverse", "V")
    diodes_in_string: int | None = shown("Diodes in a string")
    capacitor_volts: Quantity = shown("The reservoir bears at least", "V")
    stored_joules: Quantity = shown("It stores", "J")
    bleeder_ohms: Quantity = shown("Bleeder, at most", "Ω")
    bleeder_watts: Quantity = shown("which takes", "W")
    bleeder_resistors: int | None = shown("Resistors in its string, at least")
    secondary_amps: Quantity = shown("Winding carries", "A")
    peak_diode_amps: Quantity = shown("A diode's peak", "A")
    least_choke_amps: Quantity | None = shown("The choke needs at least", "A")


def work(given: Given) -> Found:
    """Open volts √2·V with the diodes' drops (REF-R-02, R-03); loaded mean and ripple peak to peak
    in time, as the winding and every diode do it; inverse volts, capacitor, bleeder and charge at
    the highest line. REF-R-05, R-07, R-T1. V, A, F, Ω.

    Raises FieldError where a choke is asked for and not given, or the supply cannot give the amps.

    >>> told = Given(winding_volts=exact(13.2), load_amps=0.6, reservoir_farads=4700e-6,
    ...              source_resistance_ohms=0.95)
    >>> round(work(told).loaded_volts.value, 1)
    14.0
    """
    return merged(worked(given), map(worked, at_ends(given)))


def worked(given: Given) -> Found:
    """With what the winding's volts may be, as far as a formula carries it."""
    if given.filter == "choke" and given.choke_henries is None:
        raise FieldError("choke_henries", "A choke filter needs its henries.")
    v, up = given.winding_volts, 1 + given.mains_tolerance
    opened = _opened(given, v.value)
    most = _opened(given, v.high * up)
    run, parts = loaded(given)
    volts = run.volts("out")
    mean = float(volts.mean())
    if mean <= 0:
        raise FieldError(
            "load_amps", f"This winding cannot give {given.load_amps:g} A: its volts break down."
        )
    bleed = _bleeder(given, most)
    inverse = INVERSE[given.rectifier] * math.sqrt(2) * v.high * up

    def solved(value: float) -> Quantity:
        return _near(value, v, "solved in time")

    return Found(
        loaded_volts=solved(mean),
        open_volts=Quantity(opened, _opened(given, v.low), most, ("REF-R-02", "line + tolerance")),
        ripple_volts=solved(float(volts.max() - volts.min())),
        peak_inverse_volts=Quantity(inverse / up, 0.0, inverse, ("R-T1",)),
        diodes_in_string=_string(given, inverse),
        capacitor_volts=Quantity(opened, opened, most, ("√2·V at the highest line",)),
        stored_joules=_stored(given, v.value, most),
        bleeder_ohms=exact(bleed.ohms, bleed.basis),
        bleeder_watts=exact(bleed.watts, "V²/R"),
        bleeder_resistors=bleed.resistors,
        secondary_amps=solved(rms(run.amps(parts["source"]))),
        peak_diode_amps=solved(_peak(run)),
        least_choke_amps=_least(given, opened),
    )


def _opened(given: Given, volts: float) -> float:
    """Open volts; behind a choke too, since nothing flows. REF-R-02."""
    drop = given.diode_volts
    found = open_volts(given.rectifier, volts, stages=given.stages, drop=drop)
    return max(found, 0.0)


def _near(value: float, volts: Quantity, basis: str) -> Quantity:
    """A solved figure with what the winding's range and the parts do to it."""
    low = value * volts.low / volts.value * (1 - SOLVED)
    high = value * volts.high / volts.value * (1 + SOLVED)
    return Quantity(value, min(low, value), max(high, value), (basis,))


def network(given: Given, *, volts: float, amps: float) -> list[CircuitPart]:
    """The supply as parts: winding with its ohms, rectifier, filter, load."""
    law = diode_law(given.diode_volts, amps)
    inductance = given.source_reactance_ohms / (2 * math.pi * given.supply_hertz)
    halves = given.rectifier == "centre-tap"
    earthed = given.rectifier in ("half-wave", "doubler", "multiplier")
    parts: list[CircuitPart] = _winding(
        given, "", volts, inductance, "a", EARTH if earthed else "b"
    )
    if halves:
        parts = _winding(given, "", volts, inductance, "a", EARTH)
        parts += _winding(given, "2", -volts, inductance, "b", EARTH)
    found = rectifier(
        given.rectifier,
        one="a",
        two="b",
        law=law,
        stages=given.stages,
        stage_farads=given.stage_farads or given.reservoir_farads,
    )
    return [*parts, *found.parts, *_filtered(given, found, amps)]


def _winding(
    given: Given, name: str, volts: float, inductance: float, one: str, two: str
) -> list[CircuitPart]:
    """A winding behind its own ohms."""
    inner, hertz = f"e{name}", given.supply_hertz
    ohms = max(given.source_resistance_ohms, LEAST_OHMS)
    turn = 0.0 if volts >= 0 else math.pi
    source = Source(name=f"E{name}", one=inner, two=two, volts=abs(volts), hertz=hertz, angle=turn)
    if inductance <= 0:
        return [source, Resistor(name=f"R{name}", one=inner, two=one, ohms=ohms)]
    return [
        source,
        Resistor(name=f"R{name}", one=inner, two=f"x{name}", ohms=ohms),
        Inductor(name=f"X{name}", one=f"x{name}", two=one, henries=inductance),
    ]


def _filtered(given: Given, found: Rectified, amps: float) -> list[CircuitPart]:
    """What stands behind the rectifier."""
    out: list[CircuitPart] = []
    if given.filter == "choke" and given.choke_henries is not None:
        out.append(Inductor(name="CH", one=found.plus, two="out", henries=given.choke_henries))
        out.append(Resistor(name="RCH", one=found.plus, two="out", ohms=1e7))
    else:
        out.append(Resistor(name="RW", one=found.plus, two="out", ohms=LEAST_OHMS))
    out.append(Capacitor(name="C", one="out", farads=given.reservoir_farads))
    out.append(Resistor(name="RB", one="out", ohms=1e8))
    out.append(Sink(name="L", one="out", amps=amps))
    if given.rectifier == "bridge":
        out.append(Resistor(name="RG", one="b", ohms=1e7))
    return out


def loaded(given: Given) -> tuple[Run, dict[str, CircuitPart]]:
    """One cycle under load, and the parts worth asking. Raises FieldError."""
    parts = network(given, volts=given.winding_volts.value, amps=given.load_amps)
    try:
        run = steady(parts, hertz=given.supply_hertz, steps=STEPS)
    except FieldError as error:
        raise FieldError("load_amps", error.sentence) from None
    source = next(p for p in parts if p.name == "R")
    return run, {"source": source}


def _peak(run: Run) -> float:
    """The most amps through any diode."""
    diodes = [p for p in run.stepping.parts if isinstance(p, Diode)]
    return max(float(np.abs(run.amps(d)).max()) for d in diodes)


def holds(found: Found) -> bool:
    """Whether what it stores is a hazard once it is switched off."""
    return stores_hazard(found.open_volts.high, found.stored_joules.high)


def _string(given: Given, inverse: float) -> int | None:
    """Diodes in a string of twice the inverse volts; None where a diode's is not known."""
    if given.diode_inverse_volts is None:
        return None
    return math.ceil(STRING * inverse / given.diode_inverse_volts - 1e-9)


def _stored(given: Given, volts: float, most: float) -> Quantity:
    """½CV² of all capacitors at the highest line. REF-R-05."""

    def joules(v: float) -> float:
        whole = given.reservoir_farads * v * v / 2
        if given.rectifier in ("doubler", "multiplier"):
            stages = given.stages if given.rectifier == "multiplier" else 1
            stage = given.stage_farads or given.reservoir_farads
            each = v / stages
            whole += stage * (each / 2) ** 2 / 2 + (2 * stages - 2) * stage * each**2 / 2
        return whole

    opened = _opened(given, volts)
    return Quantity(joules(opened), joules(opened), joules(most), ("½CV², REF-R-05",))


@dataclass(frozen=True)
class _Bleeder:
    ohms: float
    watts: float
    resistors: int | None
    basis: str


def _bleeder(given: Given, most: float) -> _Bleeder:
    """A bleeder that meets the rule from the highest volts. REF-R-07."""
    if most <= given.safe_volts:
        return _Bleeder(NO_BLEEDER, 0.0, 0, "below safe volts: none is needed")
    ohms = given.safe_seconds / (_behind(given) * math.log(most / given.safe_volts))
    watts = most**2 / ohms
    by_volts = None if given.resistor_volts is None else most / given.resistor_volts
    by_watts = None if given.resistor_watts is None else watts / (DERATED * given.resistor_watts)
    counts = [math.ceil(x - 1e-9) for x in (by_volts, by_watts) if x is not None]
    return _Bleeder(ohms, watts, max(counts) if counts else None, "REF-R-07")


def _behind(given: Given) -> float:
    """Farads that the bleeder empties: the reservoir, and at worst the ladder's beside it."""
    if given.rectifier not in ("doubler", "multiplier"):
        return given.reservoir_farads
    stage = given.stage_farads or given.reservoir_farads
    stages = given.stages if given.rectifier == "multiplier" else 1
    return given.reservoir_farads + stage * stages


def _least(given: Given, opened: float) -> Quantity | None:
    """Least amps at which a choke carries current all the time: V/(3ωL) for two pulses a cycle,
    V/(ωL) for one.
    """
    if given.filter != "choke" or given.choke_henries is None:
        return None
    omega = 2 * math.pi * given.supply_hertz
    mean = opened * 2 / math.pi
    share = 3.0 if PULSES[given.rectifier] == 2 else 1.0
    amps = mean / (share * omega * given.choke_henries)
    return Quantity(amps, amps * 0.8, amps * 1.2, ("V/(3ωL)",))


def _asked(given: Given, found: Found) -> Asked:
    """What it is to the list of what is never planned: its own bleeder stands across it."""
    peak = math.sqrt(2) * given.winding_volts.value
    return Asked(
        open_dc=found.open_volts.value,
        times=found.open_volts.value / peak,
        held_volts=found.open_volts.high,
        held_joules=found.stored_joules.high,
        bled=True,
        enclosed=given.enclosed,
        proved=given.proved,
    )


DC_SUPPLY = Planner(
    name="dc_supply",
    title="A direct supply",
    purpose="Volts, ripple, what every part must bear, and how it lets go of its charge.",
    given=Given,
    found=Found,
    work=work,
    heavy=True,
    why=Formula(
        text="open √2·V − n·V_f; loaded and ripple solved in time; R ≤ t/(C·ln(V/V_safe))",
        source="REF-R-01 to R-07, R-T1; O. H. Schade, Proc. IRE 1943, from memory",
        put="{winding_volts}: {open_volts} open, {loaded_volts} at {load_amps}",
    ),
    cautions=(
        Caution(
            code="bridge-on-bonded",
            severity="stop",
            sentence=(
                "A bridge on a winding whose end is bonded to the core shorts half of it through "
                "the earth. Half-wave, a doubler, or a centre tap to the core work."
            ),
            when=lambda given, found: given.core_bonded and given.rectifier == "bridge",
        ),
        Caution(
            code="lethal-stored",
            severity="caution",
            sentence=(
                "{stored_joules} at {open_volts}: it kills after it is switched off. Bleeder, a "
                "meter that shows it fall, then the stick, then a short that stays."
            ),
            when=lambda given, found: holds(found),
        ),
        Caution(
            code="bleeder-fails",
            severity="caution",
            sentence="A bleeder fails open: it is never a proof of discharge.",
            when=lambda given, found: found.open_volts.high > given.safe_volts,
        ),
        Caution(
            code="ac-rating",
            severity="note",
            sentence=(
                "An oven capacitor's AC volts are no DC rating; an oven diode drops 6 to 12 V and "
                "reads open on a meter."
            ),
            when=lambda given, found: found.open_volts.high > HV_WINDING_VOLTS,
        ),
        Caution(
            code="equalise",
            severity="note",
            sentence=(
                "Diodes in a string each want a resistor and a capacitor across them, or the "
                "first takes all the volts."
            ),
            when=lambda given, found: (found.diodes_in_string or 0) > 1,
        ),
        Caution(
            code="half-wave-core",
            severity="note",
            sentence="Half-wave current magnetises the core one way: it hums and draws more.",
            when=lambda given, found: given.rectifier == "half-wave",
        ),
        Caution(
            code="below-choke",
            severity="caution",
            sentence=(
                "Below {least_choke_amps} the choke lets go and the volts climb to {open_volts}: "
                "the bleeder must take that much."
            ),
            when=lambda given, found: (
                found.least_choke_amps is not None
                and given.load_amps < found.least_choke_amps.value
            ),
        ),
        Caution(
            code="type-a",
            severity="note",
            sentence="A residual-current device ahead of a rectifier is of type A at least.",
        ),
    ),
    of_piece=(starts.CONDEMNED, starts.DOUBTFUL),
    never=_asked,
    draws={
        "capacitor": {"reservoir_farads": "farads"},
        "diode": {"diode_inverse_volts": "inverse_volts", "diode_volts": "drop_volts"},
        "resistor": {"resistor_volts": "working_volts", "resistor_watts": "watts"},
    },
    example={
        "winding_volts": 13.2,
        "load_amps": 0.6,
        "supply_hertz": 50.0,
        "rectifier": "bridge",
        "reservoir_farads": 4.7e-3,
        "source_resistance_ohms": 0.95,
        "diode_inverse_volts": 100.0,
    },
    checks=(
        Check(
            given={
                "winding_volts": 13.2,
                "load_amps": 0.6,
                "reservoir_farads": 4.7e-3,
                "source_resistance_ohms": 0.95,
            },
            expected={"loaded_volts": 14.1},
            source="REF-R-02: 13.2 V behind 0.95 Ω, bridge, 4700 µF: 14.1 V at 0.6 A (simulated)",
            rel=0.015,
        ),
        Check(
            given={
                "winding_volts": 13.2,
                "load_amps": 1.0,
                "reservoir_farads": 4.7e-3,
                "source_resistance_ohms": 0.95,
            },
            expected={"loaded_volts": 12.9},
            source="REF-R-02: the same at 1.0 A: 12.9 V (simulated)",
            rel=0.015,
        ),
        Check(
            given={
                "winding_volts": 2100.0,
                "load_amps": 1e-5,
                "rectifier": "doubler",
                "reservoir_farads": 1e-6,
                "source_resistance_ohms": 100.0,
                "diode_volts": 0.0,
            },
            expected={"open_volts": 5940.0},
            source="REF-R-03a",
        ),
        Check(
            given={
                "winding_volts": 3270 / 2**0.5 / 1.1,
                "load_amps": 0.0,
                "rectifier": "half-wave",
                "reservoir_farads": 1.2e-6,
                "source_resistance_ohms": 100.0,
                "diode_volts": 0.0,
            },
            expected={"bleeder_ohms": 11.96e6, "bleeder_watts": 0.8940},
            source="REF-R-07a: 1.2 µF from 3270 to 50 V in 60 s",
        ),
    ),
)
