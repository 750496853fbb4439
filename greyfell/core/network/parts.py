"""The parts a network is made of. Nodes are names; "0" is earth."""

from msgspec import Struct

from greyfell.core.network.laws import ArcLaw, CoreLaw, DiodeLaw, ShuntLaw

EARTH = "0"
NO_SOLUTION = "This network has no solution: a part of it stands alone, or is a short circuit."
COLD_SHARE = 1 / 14
"""Ohms of a cold filament over its hot ones. REF-B-06."""


class CircuitPart(Struct, frozen=True, kw_only=True):
    """A part between two nodes; its amps count from `one` to `two`."""

    name: str
    one: str
    two: str = EARTH


class Source(CircuitPart, frozen=True, kw_only=True):
    """Sine volts RMS at `hertz`, begun at `angle` (radians), on `offset` volts."""

    volts: float
    hertz: float
    angle: float = 0.0
    offset: float = 0.0


class Sink(CircuitPart, frozen=True, kw_only=True):
    """A load that takes the same direct amps whatever stands over it."""

    amps: float


class Resistor(CircuitPart, frozen=True, kw_only=True):
    """Ohms."""

    ohms: float


class Filament(CircuitPart, frozen=True, kw_only=True):
    """A lamp: rated watts and volts; its ohms follow its amps over many cycles. REF-B-05."""

    watts: float
    volts: float

    @property
    def amps(self) -> float:
        """Its rated amps."""
        return self.watts / self.volts


class Inductor(CircuitPart, frozen=True, kw_only=True):
    """Henries."""

    henries: float


class Capacitor(CircuitPart, frozen=True, kw_only=True):
    """Farads, and the volts that it begins with."""

    farads: float
    volts: float = 0.0


class Ideal(CircuitPart, frozen=True, kw_only=True):
    """An ideal transformer: volts from `one` to `two` are `ratio` times those from `three` to
    `four`.
    """

    three: str
    four: str
    ratio: float


class CoreInductor(CircuitPart, frozen=True, kw_only=True):
    """A winding on iron, without its ohms: amps by flux linkage; `flux` is what it begins with."""

    law: CoreLaw | ShuntLaw
    flux: float = 0.0


class Diode(CircuitPart, frozen=True, kw_only=True):
    """Diodes in a row, from anode `one` to cathode `two`."""

    law: DiodeLaw


class Arc(CircuitPart, frozen=True, kw_only=True):
    """An arc, or a tube: it holds its volts."""

    law: ArcLaw


Bends = (CoreInductor, Diode, Arc)
"""Parts whose law bends."""
