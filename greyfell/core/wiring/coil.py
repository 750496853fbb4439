"""What the ohmmeter settles, as data: windings with taps in order, what meets the core, joints,
leaks, contradictions.
"""

from functools import cached_property

from msgspec import Struct, field

from greyfell.core.figures.quantity import Quantity

LEAK_OHMS = 50e3
"""A finite reading above this is leakage through insulation: no mains-frequency winding has so many
ohms (the largest sign windings reach some 30 kΩ). Common practice."""


class Tap(Struct, frozen=True):
    """A lead between a winding's ends: its share of the ohms, counted from the first end."""

    lead: str
    fraction: float
    limit: float


class Coil(Struct, frozen=True, dict=True):
    """One winding: two ends, taps in order, where it meets the core, as the ohmmeter sees it.

    `broken` conducts nothing; `unread` is known by other readings across it, its ohms may be any.
    `telling` is the unread pair without which its leads may lie in another order.
    """

    leads: tuple[str, str]
    taps: tuple[Tap, ...]
    bond: str | None
    ohms: Quantity
    readings: tuple[str, ...]
    resolved: bool
    positions: dict[str, float] = field(default_factory=dict)
    broken: bool = False
    unread: bool = False
    telling: tuple[str, str] | None = None

    @cached_property
    def members(self) -> tuple[str, ...]:
        """Every lead of the winding that is not the core, ends first."""
        return tuple(x for x in (*self.leads, *(t.lead for t in self.taps)) if x != "core")

    def fraction_between(self, x: str, y: str) -> float | None:
        """The share of the winding's ohms between two of its points; None where a point is not on
        it. Ohm's law along one wire.

        >>> places = {"A": 0.0, "T": 4.0, "B": 10.0}
        >>> coil = Coil(leads=("A", "B"), taps=(), bond=None, ohms=Quantity(10.0, 9.9, 10.1),
        ...             readings=(), resolved=True, positions=places)
        >>> coil.fraction_between("A", "T"), coil.fraction_between("A", "X")
        (0.4, None)
        """
        total = abs(self.positions.get(self.leads[1], 1.0) - self.positions.get(self.leads[0], 0.0))
        if x not in self.positions or y not in self.positions:
            return None
        if {x, y} == set(self.leads) or total <= 0:
            return 1.0
        return abs(self.positions[x] - self.positions[y]) / total


class Joint(Struct, frozen=True):
    """Two things that conduct to each other and should not: the leads, through about how many ohms,
    by which readings.
    """

    leads: tuple[str, ...]
    to: str
    ohms: float
    readings: tuple[str, ...]


class Leak(Struct, frozen=True):
    """A finite but high resistance between two points."""

    points: tuple[str, str]
    ohms: float
    reading: str


class Contradiction(Struct, frozen=True):
    """A reading that the others do not bear out: what it says and what they say, in ohms."""

    reading: str
    points: tuple[str, str]
    said: float
    expected: float
    slip: str


class Topology(Struct, frozen=True, dict=True):
    """What the ohmmeter settles: windings, core leads, loose leads, joints that should not be,
    leaks, contradictions.
    """

    coils: tuple[Coil, ...]
    core_leads: tuple[str, ...]
    loose: tuple[str, ...]
    untested: tuple[str, ...]
    joints: tuple[Joint, ...]
    leaks: tuple[Leak, ...]
    contradictions: tuple[Contradiction, ...]
    core_proved: bool
    open_to_core: dict[str, float]
    core_ohms: dict[str, float]

    @cached_property
    def iron(self) -> frozenset[str]:
        """Every name of the core: itself, earth, and the leads that are it."""
        return frozenset({"core", "earth", *self.core_leads})

    def winding_spanned(self, pair: tuple[str, str]) -> int | None:
        """Index of the winding that both points of a pair lie on, or None."""
        i = self.coil_of(pair[0])
        return i if i is not None and i == self.coil_of(pair[1]) else None

    def coil_of(self, lead: str) -> int | None:
        """Index of the winding a lead belongs to, or None."""
        for i, coil in enumerate(self.coils):
            if lead in coil.positions or lead in coil.members:
                return i
        return None
