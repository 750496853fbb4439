"""A rig as a network: what each element is made of, the joints between them, and what a failure
makes of it.
"""

import math
from collections.abc import Callable

from msgspec import Struct

from greyfell.core.chain.elements import USUAL_SUPPLY_OHMS, Element, Model, Rig
from greyfell.core.network.bending import Arc, CoreInductor, Filament
from greyfell.core.network.curve import Curve
from greyfell.core.network.laws import ArcLaw, CoreLaw, ShuntLaw, core_law
from greyfell.core.network.parts import (
    EARTH,
    Capacitor,
    CircuitPart,
    Ideal,
    Inductor,
    Resistor,
    Source,
)
from greyfell.core.network.rectifiers import diode_law, open_volts, rectifier

SHORTED, OPEN = "shorted", "open"
BOND, DIODE = "bond", "diode"
WIRE, NOTHING, INSULATION = 1e-3, 1e9, 1e8
"""Ohms of a wire, of what is not joined, and of insulation to the core."""
LEAST_OHMS = 1e-3
STRAIGHT, POWER = 0.3, 9.0
"""Shape of iron that no sweep told. From memory; `idle` has its spread."""
SATURATED = 0.2
"""Share of its inductance that a choke, or a path through shunts, keeps beyond its bend. From
memory: shunts out lower leakage three to five times."""
VARIAC_OHMS = 0.1
"""Winding and brush of a variac of ten amps. Common practice."""
USUAL_DROP = 0.9
ARC_SHARE = 0.01
"""Ohms of an arc for each volt that it holds; small beside what limits it."""
STRAY = 500.0
"""Ohms beside a coil, in times its reactance at the supply's hertz: what stray fields lose, and the
way on for its amps when a diode shuts.
"""


class Failure(Struct, frozen=True, kw_only=True):
    """One thing failed: which, and how."""

    at: str
    how: str


class ChainJoint(Struct, frozen=True, kw_only=True):
    """A place between two elements: after which one, its two nodes, the part whose amps pass."""

    after: str
    name: str
    hot: str
    cold: str
    through: CircuitPart


class Built(Struct, frozen=True, kw_only=True):
    """A rig as parts, its joints from the wall on, and parts of interest by the element's id."""

    parts: tuple[CircuitPart, ...]
    joints: tuple[ChainJoint, ...]
    of: dict[str, tuple[CircuitPart, ...]]
    source: Source
    core: CoreInductor
    leak: CoreInductor | Inductor


class _Builder:
    def __init__(self, rig: Rig, failure: Failure | None, remanence: float) -> None:
        self.rig, self.failure, self.remanence = rig, failure, remanence
        self.parts: list[CircuitPart] = []
        self.joints: list[ChainJoint] = []
        self.of: dict[str, tuple[CircuitPart, ...]] = {}
        self.count = 0

    def node(self) -> str:
        """A fresh node."""
        self.count += 1
        return f"n{self.count}"

    def failed(self, at: str, how: str) -> bool:
        """Whether this has failed so."""
        return self.failure is not None and (self.failure.at, self.failure.how) == (at, how)

    def built(self) -> Built:
        """The whole row."""
        source, here = self._supply()
        for e in self.rig.ahead:
            here = self._series(e, here, EARTH)
        core, leak, here, cold = self._piece(here)
        for e in self.rig.behind:
            here, cold = self._behind(e, here, cold)
        self._load(here, cold)
        return Built(
            parts=tuple(self.parts),
            joints=tuple(self.joints),
            of=self.of,
            source=source,
            core=core,
            leak=leak,
        )

    def _supply(self) -> tuple[Source, str]:
        s = self.rig.supply
        volts, hertz = s.told("volts"), s.told("hertz")
        source = Source(name="E", one="e", volts=volts, hertz=hertz)
        ohms = max(s.get("ohms", USUAL_SUPPLY_OHMS) or 0.0, LEAST_OHMS)
        way = Resistor(name="RE", one="e", two="wall", ohms=ohms)
        self.parts += [source, way]
        self.of["supply"] = (way,)
        self.joints.append(
            ChainJoint(after="supply", name="wall", hot="wall", cold=EARTH, through=way)
        )
        return source, "wall"

    def _series(self, e: Element, here: str, cold: str) -> str:
        """An element in the row; the node behind it."""
        there = self.node()
        if self.failed(e.id, SHORTED):
            made: list[CircuitPart] = [Resistor(name=f"K{e.id}", one=here, two=there, ohms=WIRE)]
        elif self.failed(e.id, OPEN):
            made = [Resistor(name=f"K{e.id}", one=here, two=there, ohms=NOTHING)]
        else:
            made = SERIES[e.kind.key](self, e, here, there)
        self.parts += made
        self.of[e.id] = tuple(made)
        through = _series_part(made)
        self.joints.append(
            ChainJoint(after=e.id, name=e.name, hot=there, cold=cold, through=through)
        )
        return there

    def lamp(self, e: Element, here: str, there: str) -> list[CircuitPart]:
        """A filament, for the supply's volts where it does not say."""
        volts = e.get("volts") or self.rig.supply.told("volts")
        watts = e.told("watts")
        return [Filament(name=f"L{e.id}", one=here, two=there, watts=watts, volts=volts)]

    def ballast(self, e: Element, here: str, there: str) -> list[CircuitPart]:
        """Copper and reactance by its figure. REF-T-02."""
        whole = e.told("at_volts") / e.told("short_amps")
        ohms = min(e.get("ohms") or 0.0, 0.999 * whole)
        henries = math.sqrt(whole**2 - ohms**2) / (2 * math.pi * e.told("at_hertz"))
        return self._coil(e, here, there, ohms, henries)

    def choke(self, e: Element, here: str, there: str) -> list[CircuitPart]:
        """A choke, which saturates where it says so."""
        return self._coil(e, here, there, e.get("ohms") or 0.0, e.told("henries"))

    def _coil(
        self, e: Element, here: str, there: str, ohms: float, henries: float
    ) -> list[CircuitPart]:
        middle = self.node()
        way = Resistor(name=f"R{e.id}", one=here, two=middle, ohms=max(ohms, LEAST_OHMS))
        stray = Resistor(name=f"S{e.id}", one=middle, two=there, ohms=self.stray(henries))
        bends = e.get("saturates_amps")
        if bends is None:
            return [way, Inductor(name=f"L{e.id}", one=middle, two=there, henries=henries), stray]
        law = ShuntLaw(flux=henries * bends, henries=henries, saturated=SATURATED * henries)
        return [way, CoreInductor(name=f"L{e.id}", one=middle, two=there, law=law), stray]

    def stray(self, henries: float) -> float:
        """Ohms of stray loss beside a coil. Common practice: a Q of its own."""
        return STRAY * 2 * math.pi * self.rig.supply.told("hertz") * henries

    def capacitor(self, e: Element, here: str, there: str) -> list[CircuitPart]:
        """A capacitor in series, with what leaks around it."""
        return [
            Capacitor(name=f"C{e.id}", one=here, two=there, farads=e.told("farads")),
            Resistor(name=f"G{e.id}", one=here, two=there, ohms=NOTHING),
        ]

    def resistor(self, e: Element, here: str, there: str) -> list[CircuitPart]:
        """Straight ohms."""
        return [Resistor(name=f"R{e.id}", one=here, two=there, ohms=e.told("ohms"))]

    def variac(self, e: Element, here: str, there: str) -> list[CircuitPart]:
        """Volts by its fraction; it neither isolates nor limits."""
        inner = self.node()
        ratio = 1 / e.told("fraction")
        return [
            Ideal(name=f"T{e.id}", one=here, three=inner, two=EARTH, four=EARTH, ratio=ratio),
            Resistor(name=f"R{e.id}", one=inner, two=there, ohms=VARIAC_OHMS),
        ]

    def _piece(self, here: str) -> tuple[CoreInductor, CoreInductor | Inductor, str, str]:
        """Γ: copper, iron at the terminals, all leakage behind it, the secondary's copper."""
        m = self.rig.piece
        law = core_of(m)
        copper = Resistor(name="R1", one=here, two="m", ohms=m.get("primary_ohms"))
        core = CoreInductor(name="M", one="m", law=law, flux=self.remanence * law.flux)
        self.parts += [copper, core]
        if m.get("core_watts") > 0:
            loss = m.get("volts") ** 2 / m.get("core_watts")
            self.parts.append(Resistor(name="RC", one="m", ohms=loss))
        leak = _leakage(m)
        stray = self.stray(m.get("leakage_henries"))
        self.parts += [leak, Resistor(name="SX", one="m", two="l", ohms=stray)]
        cold = self._secondary(m)
        out = Resistor(name="R2", one="s1", two="o", ohms=m.get("secondary_ohms"))
        self.parts.append(out)
        farads = m.get("winding_farads")
        if farads > 0:
            self.parts.append(Capacitor(name="CW", one="s1", two=cold, farads=farads))
        self.of["piece"] = (copper, core, leak, out)
        primary = ChainJoint(after="primary", name="into it", hot=here, cold=EARTH, through=copper)
        second = ChainJoint(after="piece", name="out of it", hot="o", cold=cold, through=out)
        self.joints += [primary, second]
        return core, leak, "o", cold

    def _secondary(self, m: Model) -> str:
        """The ideal part and the bond; the node that the output returns to."""
        turns = m.get("ratio")
        bond = INSULATION if self.failed(BOND, OPEN) else 0.01
        if m.bond == "middle":
            halves = 2 / turns
            self.parts += [
                Ideal(name="TA", one="l", three="s1", two=EARTH, four="mid", ratio=halves),
                Ideal(name="TB", one="l", three="mid", two=EARTH, four="s2", ratio=halves),
                Resistor(name="BOND", one="mid", ohms=bond),
            ]
            return "s2"
        whole = Ideal(name="TA", one="l", three="s1", two=EARTH, four="s2", ratio=1 / turns)
        if m.bond == "none":
            bond = INSULATION
        self.parts += [whole, Resistor(name="BOND", one="s2", ohms=bond)]
        return "s2"

    def _behind(self, e: Element, here: str, cold: str) -> tuple[str, str]:
        """What stands behind the piece; the nodes behind it."""
        kind = e.kind.key
        if kind == "rectifier":
            return self._rectifier(e, here, cold)
        if kind in ("reservoir", "bleeder"):
            self._shunt(e, here)
            return here, cold
        return self._series(e, here, cold), cold

    def _rectifier(self, e: Element, here: str, cold: str) -> tuple[str, str]:
        kind = str(e.figures["rectifier"])
        drop = e.get("diode_volts", USUAL_DROP) or 0.0
        law = diode_law(drop, self._direct_amps(kind, e))
        if kind in ("half-wave", "doubler", "multiplier") and self.rig.piece.bond == "none":
            self.parts.append(Resistor(name="TIE", one=cold, ohms=WIRE))
        found = rectifier(
            kind,
            one=here,
            two=cold,
            law=law,
            stages=int(e.get("stages", 1) or 1),
            stage_farads=e.get("stage_farads", 1e-6) or 1e-6,
        )
        parts = list(found.parts)
        first = next(n for n, p in enumerate(parts) if p.name.startswith("D"))
        d = parts[first]
        if self.failed(DIODE, SHORTED):
            parts[first] = Resistor(name="KD", one=d.one, two=d.two, ohms=WIRE)
        elif self.failed(DIODE, OPEN):
            parts[first] = Resistor(name="KD", one=d.one, two=d.two, ohms=NOTHING)
        there = self.node()
        way = Resistor(name=f"R{e.id}", one=found.plus, two=there, ohms=LEAST_OHMS)
        self.parts += [*parts, way]
        self.of[e.id] = tuple(parts)
        self.joints.append(ChainJoint(after=e.id, name=e.name, hot=there, cold=EARTH, through=way))
        return there, EARTH

    def _direct_amps(self, kind: str, e: Element) -> float:
        """About what the load takes, for the ohms of the diodes."""
        ohms = self.rig.load.get("ohms")
        if ohms is None or not ohms:
            return 1.0
        stages = int(e.get("stages", 1) or 1)
        volts = self.rig.supply.told("volts") * self.rig.piece.get("ratio")
        return open_volts(kind, volts, stages=stages, drop=0.0) / ohms

    def _shunt(self, e: Element, here: str) -> None:
        """A reservoir or bleeder, across."""
        if self.failed(e.id, OPEN):
            made: CircuitPart = Resistor(name=f"K{e.id}", one=here, ohms=NOTHING)
        elif self.failed(e.id, SHORTED):
            made = Resistor(name=f"K{e.id}", one=here, ohms=WIRE)
        elif e.kind.key == "reservoir":
            made = Capacitor(name=f"C{e.id}", one=here, farads=e.told("farads"))
        else:
            made = Resistor(name=f"R{e.id}", one=here, ohms=e.told("ohms"))
        self.parts.append(made)
        self.of[e.id] = (made,)

    def _load(self, here: str, cold: str) -> None:
        e = self.rig.load
        kind = e.kind.key
        ohms = {"open": NOTHING, "short": WIRE}.get(kind, e.get("ohms"))
        if self.failed(e.id, SHORTED):
            kind, ohms = "short", WIRE
        elif self.failed(e.id, OPEN):
            kind, ohms = "open", NOTHING
        made = _load_parts(e, kind, ohms, here, cold)
        self.parts += made
        self.of["load"] = self.of[e.id] = tuple(made)
        self.joints.append(
            ChainJoint(after=e.id, name=e.name, hot=here, cold=cold, through=_series_part(made))
        )


def _load_parts(
    e: Element, kind: str, ohms: float | None, here: str, cold: str
) -> list[CircuitPart]:
    """The load between two nodes."""
    if kind == "arc":
        law = ArcLaw(volts=e.told("volts"), ohms=ARC_SHARE * e.told("volts"))
        return [Arc(name="LOAD", one=here, two=cold, law=law)]
    if kind == "lamp":
        volts = e.get("volts") or 230.0
        return [Filament(name="LOAD", one=here, two=cold, watts=e.told("watts"), volts=volts)]
    if kind == "battery":
        inner = max(ohms or 0.0, LEAST_OHMS)
        return [
            Resistor(name="LOAD", one=here, two="bat", ohms=inner),
            Source(name="BAT", one="bat", two=cold, volts=0.0, hertz=50.0, offset=e.told("volts")),
        ]
    return [Resistor(name="LOAD", one=here, two=cold, ohms=max(ohms or NOTHING, WIRE))]


def _series_part(made: list[CircuitPart]) -> CircuitPart:
    """The part whose amps are those of the element."""
    return made[-1] if isinstance(made[0], Ideal) else made[0]


def core_of(m: Model) -> CoreLaw:
    """The law of a model's iron, its magnetising amps apart from its watts. REF-T-01."""
    watts = m.get("core_watts") / m.get("volts")
    amps = math.sqrt(max(m.get("idle_amps") ** 2 - watts**2, (0.02 * m.get("idle_amps")) ** 2))
    curve = Curve(
        volts=m.get("volts"),
        hertz=m.get("hertz"),
        amps=amps,
        straight=m.get("straight", STRAIGHT),
        power=m.get("power", POWER),
    )
    return core_law(curve, m.figures.get("air_henries"))


def _leakage(m: Model) -> CoreInductor | Inductor:
    """The leakage, whose shunts saturate where that is told. REF-T-17."""
    henries = m.get("leakage_henries")
    bends = m.figures.get("shunt_volts")
    if bends is None:
        return Inductor(name="X", one="m", two="l", henries=henries)
    flux = math.sqrt(2) * bends / (2 * math.pi * m.get("hertz"))
    law = ShuntLaw(flux=flux, henries=henries, saturated=SATURATED * henries)
    return CoreInductor(name="X", one="m", two="l", law=law)


Make = Callable[[_Builder, Element, str, str], list[CircuitPart]]
SERIES: dict[str, Make] = {
    "lamp": _Builder.lamp,
    "ballast": _Builder.ballast,
    "choke": _Builder.choke,
    "reactor": _Builder.choke,
    "capacitor": _Builder.capacitor,
    "resistor": _Builder.resistor,
    "variac": _Builder.variac,
}
"""What each kind in the row is made of."""


def build(rig: Rig, failure: Failure | None = None, *, remanence: float = 0.0) -> Built:
    """A rig as a network, with one failure where it has one; `remanence` is the share of the rated
    flux that its iron holds before it is switched on.
    """
    return _Builder(rig, failure, remanence).built()
